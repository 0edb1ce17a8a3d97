"""Projects with something chosen: what menus are asked about."""

from collections.abc import Iterator

import numpy as np

from morphax.core.path.made_paths import MadeCurve, MadeShape, checked_values
from morphax.core.path.paths import PathKind
from morphax.project.edits.hosts import add_form
from morphax.project.edits.ready_made import add_coil, add_made
from morphax.project.edits.runs import NewRun, add_run
from morphax.project.edits.show import grouped, with_shows
from morphax.project.model.document import Form, Project, ReadyMadeSource
from morphax.project.things import Selection

State = tuple[str, Project, Selection]
ROUND = NewRun(ReadyMadeSource(name="round"), 0.03)
WAVY = [(0.0, 0.0, 0.1), (0.5, 0.2, 0.1), (1.0, 0.0, 0.15), (1.5, 0.3, 0.2)]
LINE = [(0.0, 1.0, 0.1), (1.0, 1.2, 0.1)]


def states() -> Iterator[State]:
    """Name, project and selection."""
    yield "empty", Project(), Selection()
    added = add_run(Project(), PathKind.THROUGH, WAVY, ROUND)
    run, knots = added.ids[0], [k.id for k in added.project.paths[0].knots]
    yield "nothing chosen", added.project, Selection()
    yield "open path", added.project, Selection.of((run,))
    yield "first knot", added.project, Selection.of((run,), tuple(knots[:1]))
    yield "knot between", added.project, Selection.of((run,), (knots[1],))
    yield "two neighbours", added.project, Selection.of((run,), tuple(knots[1:3]))
    yield "three knots", added.project, Selection.of((run,), tuple(knots[:3]))
    yield "ends only", added.project, Selection.of((run,), (knots[0], knots[-1]))
    yield "locked", with_shows(added.project, [run], locked=True), Selection.of((run,), (knots[1],))
    yield "group", grouped(added.project, [run]).project, Selection.of((run,))
    line = add_run(added.project, PathKind.THROUGH, LINE, ROUND)
    yield "two of a kind", line.project, Selection.of((run, line.ids[0]))
    few = line.project.paths[1].knots
    yield "line", line.project, Selection.of((line.ids[0],))
    yield "knot of a line", line.project, Selection.of((line.ids[0],), (few[0].id,))
    for kind in (PathKind.STRAIGHT, PathKind.PULLED, PathKind.HANGING, PathKind.HANDLES):
        other = add_run(added.project, kind, WAVY, ROUND)
        yield f"{kind}, two knots", other.project, Selection.of((other.ids[0],), _ids(other.project, 1, 3))
    yield "two of two kinds", other.project, Selection.of((run, other.ids[0]))
    ring = add_run(added.project, PathKind.STRAIGHT, WAVY, ROUND, closed=True)
    yield "closed", ring.project, Selection.of((ring.ids[0],))
    yield "closed, a knot", ring.project, Selection.of((ring.ids[0],), _ids(ring.project, 2, 3))
    yield "closed beside another", ring.project, Selection.of((run, ring.ids[0]))
    for shape, values in ((MadeShape.CIRCLE, {"radius": 0.3}), (MadeShape.HELIX, {"radius": 0.2, "pitch": 0.1})):
        curve = MadeCurve(shape, checked_values(shape, values), np.zeros(3), np.eye(3))
        made = add_made(added.project, curve, ROUND)
        yield str(shape), made.project, Selection.of((made.ids[0],))
        yield f"{shape}, a knot", made.project, Selection.of((made.ids[0],), _ids(made.project, 0, 1))
    uneven = MadeCurve(MadeShape.WAVE, checked_values(MadeShape.WAVE, {"waves": 3.2}), np.zeros(3), np.eye(3))
    wave = add_made(added.project, uneven, ROUND)
    yield "a wave that ends anywhere", wave.project, Selection.of((wave.ids[0],))
    coil = add_coil(added.project, added.project.paths[0].id, 0.05, 6.0, ROUND)
    yield "coil", coil.project, Selection.of((coil.ids[0],))
    yield "coil, a knot", coil.project, Selection.of((coil.ids[0],), _ids(coil.project, 1, 2))
    yield "coil with its path", coil.project, Selection.of((run, coil.ids[0]))
    yield "path with a coil", coil.project, Selection.of((run,))
    box = add_form(added.project, Form(kind="box", size=(0.4, 0.3, 0.3)), "Box")
    yield "host", box.project, Selection.of(hosts=box.ids)
    yield "locked host", with_shows(box.project, box.ids, locked=True), Selection.of(hosts=box.ids)
    yield "run beside a host", box.project, Selection.of((run,))


def _ids(project: Project, first: int, last: int) -> tuple[str, ...]:
    """Knots of the newest path."""
    return tuple(k.id for k in project.paths[-1].knots[first:last])
