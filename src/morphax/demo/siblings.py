"""What follows other runs in the demo: strands between the locks of the puppet's hair, their mirrored side, and a
boarding ramp. Millimetres."""

import numpy as np

from morphax.core.body.in_between import InBetween
from morphax.core.body.recipe import End
from morphax.core.frame.frames import Orientation
from morphax.core.path.paths import PathKind
from morphax.core.pieces.spreads import Way
from morphax.demo.puppet import HEAD
from morphax.project.derive.walk import derived
from morphax.project.edits.beside import add_pair
from morphax.project.edits.images import add_mirrors
from morphax.project.edits.pieces import add_between, set_material, set_piece_value, with_lying, with_spread
from morphax.project.edits.runs import (
    NewRun,
    add_run,
    rename_run,
    set_section,
    set_width,
    with_part,
    with_placing,
    with_runs,
)
from morphax.project.edits.strands import add_strands
from morphax.project.model.document import OutlineSource, PartData, Place, Project, ReadyMadeSource, SpanData, evolve

MM = 1e-3
_GAUGE, _CARPET = 1000.0, 620.0


def with_siblings(project: Project) -> Project:
    """Strands between the locks, the other side of the head, and a ramp: a carpet, rails beside it, planks between."""
    return _with_ramp(_with_other_side(_with_strands(project)))


def _place(x: float, y: float, z: float) -> Place:
    return (x * MM, y * MM, z * MM)


def _with_strands(project: Project) -> Project:
    """Thinner strands between the thick locks, ever thinner ones between those."""
    ids = [r.id for r in project.runs if r.show.name in ("Lock", "Lock 2", "Lock 3")]
    rule = InBetween(count=22, spread="thick first", size_from=0.6, size_to=0.2, taper=0.4, jitter=0.5, seed=4)
    added = add_strands(derived(project), ids, rule)
    return rename_run(with_part(added.project, added.ids, "ends", end=End.POINTED), added.ids[0], "Strands of hair")


def _with_other_side(project: Project) -> Project:
    """The first two locks once more, and the strands, mirrored across the head's middle; they follow."""
    ids = [r.id for r in project.runs if r.show.name in ("Lock", "Lock 2", "Strands of hair")]
    return add_mirrors(project, ids, np.array([HEAD[0] * MM, 0.0, 0.0]), np.array([1.0, 0.0, 0.0])).project


def _carpet() -> OutlineSource:
    """A ribbon with a thickness."""
    ends = [(-0.5 * _CARPET * MM, 0.0), (0.5 * _CARPET * MM, 0.0)]
    part = PartData(outer=tuple(SpanData(start=p) for p in ends), is_open=True)
    return OutlineSource(
        name="Carpet", parts=(part,), anchor="drawn", orientation=Orientation.UPRIGHT, thickness=8 * MM, thick_to="left"
    )


def _with_ramp(project: Project) -> Project:
    """From the ground in a bend up to the wagon's floor."""
    way = [(-4500, 1500, 95), (-3560, 1150, 290), (-2780, 340, 580), (-1840, 60, 790)]
    carpet = add_run(
        project, PathKind.THROUGH, [_place(*p) for p in way], NewRun(_carpet(), name="Carpet", material="m13")
    )
    run = carpet.ids[0]
    pair = add_pair(carpet.project, [run], _GAUGE * MM, "inner faces")
    rail = ReadyMadeSource(name="rectangle", values=(("height", 120 * MM), ("width", 45 * MM)))
    project = set_width(set_section(pair.project, pair.ids, rail), pair.ids, 45 * MM)
    project = with_placing(project, pair.ids, orientation=Orientation.UPRIGHT)
    for old, name in zip(pair.ids, ("Ramp rail right", "Ramp rail left"), strict=True):
        project = rename_run(project, old, name)
    project = with_runs(project, pair.ids, lambda r: evolve(r, show=evolve(r.show, material="m9")))
    return _with_planks(derived(project), pair.ids[0], pair.ids[1])


def _with_planks(project: Project, right: str, left: str) -> Project:
    made = add_between(project, right, left, "plank")
    project, own = made.project, made.ids[0]
    for key, value in (("length", 128), ("height", 22)):
        project = set_piece_value(project, right, own, key, value * MM)
    project = set_material(project, right, own, "m1")
    project = with_lying(project, right, own, lift=-24 * MM)
    return with_spread(project, right, own, way=Way.SPACING, spacing=150 * MM)
