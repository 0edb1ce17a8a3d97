"""What varies along its path: the columns of the stage, a scroll, the hose, the rope and the locks. Millimetres."""

from math import radians

import numpy as np

from morphax.core.body.recipe import End
from morphax.core.loft.blends import Blend
from morphax.core.loft.laws import Form
from morphax.core.path.made_paths import MadeCurve, MadeShape, checked_values
from morphax.core.path.paths import PathKind
from morphax.core.path.resolved import resolve_path
from morphax.project.edits.along import (
    add_station,
    set_blends,
    set_form,
    set_knot_value,
    swap_stations,
)
from morphax.project.edits.ready_made import add_made
from morphax.project.edits.runs import NewRun, add_run, with_recipe
from morphax.project.lookup import path_of, path_shape
from morphax.project.model.document import Density, Ends, Project, ReadyMadeSource, SizeForm

MM = 1e-3
_FOOT, _HEAD, _SIDE, _DEEP = 1160.0, 2020.0, 1250.0, -720.0
_ALONG: tuple[tuple[float, str, float], ...] = (
    (0.0, "rectangle", 118.0), (0.07, "rectangle", 118.0), (0.09, "round", 96.0), (0.2, "flute", 86.0),
    (0.86, "flute", 76.0), (0.93, "round", 80.0), (1.0, "rectangle", 112.0),
)  # fmt: skip
"""Shares of a column's height, sections and their widths."""


def _source(name: str) -> ReadyMadeSource:
    if name == "rectangle":
        return ReadyMadeSource(name=name, values=(("width", 0.1), ("height", 0.1)))
    return ReadyMadeSource(name=name, values=(("width", 0.1),))


def with_columns(project: Project) -> Project:
    """Two columns of square, round and fluted sections; the second one has two of them swapped."""
    for name, side in (("Column left", -1.0), ("Column right", 1.0)):
        places = [(side * _SIDE * MM, _DEEP * MM, z * MM) for z in (_FOOT, _HEAD)]
        first, width = _source(_ALONG[0][1]), _ALONG[0][2] * MM
        added = add_run(project, PathKind.STRAIGHT, places, NewRun(first, width, name=name, material="m3"))
        project, run, made = added.project, added.ids[0], list[str]()
        for share, section, wide in _ALONG[1:]:
            project, station = add_station(project, run, share, _source(section), width=wide * MM)
            made.append(station)
        project = set_blends(project, [run], Blend.SMOOTH)
        if side > 0.0:
            project = swap_stations(project, run, made[1], made[4])
    return project


def with_scroll(project: Project) -> Project:
    """A scroll at the roof's end: a spiral whose section grows to four times from its eye outwards."""
    values = checked_values(MadeShape.SPIRAL, {"inner": 15 * MM, "radius": 140 * MM, "turns": 2.25})
    frame = np.array([(1.0, 0.0, 0.0), (0.0, 0.0, 1.0), (0.0, -1.0, 0.0)])
    curve = MadeCurve(MadeShape.SPIRAL, values, np.array([1840.0, -752.0, 2600.0]) * MM, frame)
    source = ReadyMadeSource(name="rounded-rectangle", values=(("width", 0.01), ("height", 0.02), ("radius", 0.003)))
    added = add_made(project, curve, NewRun(source, 9.5 * MM, name="Roof scroll", material="m8"))
    run = added.ids[0]
    length = resolve_path(path_shape(path_of(added.project, run))).length
    growth = SizeForm(form=Form.GROWTH, strength=3.0, pitch=length)
    grown = set_form(added.project, [run], growth)
    return with_recipe(grown, [run], ends=Ends(start=End.DOMED, end=End.FLAT))


def varied(project: Project) -> Project:
    """The hose is ribbed, the rope has fewer faces, and the locks grow thin towards their tips and curl."""
    named = {r.show.name: r.id for r in project.runs}
    ribs = SizeForm(form=Form.RIBS, strength=0.1, pitch=70 * MM, fade=260 * MM)
    project = set_form(project, [named["Fog hose"]], ribs)
    project = with_recipe(project, [named["Curtain rope"]], density=Density(deviation=0.5 * MM))
    for name, run in named.items():
        if name.startswith("Lock"):
            knots = [k.id for k in path_of(project, run).knots]
            project = set_knot_value(project, run, knots[-1:], size=0.12, roll=radians(35.0))
            project = set_knot_value(project, run, knots[:1], size=0.7)
    return project
