"""Runs of the demo along edges of its hosts: their knots lie on the edges and hold on to them."""

from math import pi

from morphax.core.body.recipe import End, Ends
from morphax.core.path.paths import PathKind
from morphax.demo.drawn import gutter_section
from morphax.project.edits.ports import held
from morphax.project.edits.runs import NewRun, add_run, with_recipe
from morphax.project.model.document import Place, Placing, Project, ReadyMadeSource


def traced(project: Project) -> Project:
    """The demo with the frame of the stage opening and the gutter along two of the roof's edges."""
    return _with_gutter(_with_opening(project))


def _with_opening(project: Project) -> Project:
    """A mitred moulding round three sides of the stage opening, inside its front edges."""
    x, y, low, high = 1.532, -0.754, 1.16, 2.02
    places = [(-x, y, low), (-x, y, high), (x, y, high), (x, y, low)]
    source = ReadyMadeSource(name="ogee", values=(("height", 0.05), ("width", 0.06)))
    added = add_run(project, PathKind.STRAIGHT, places, NewRun(source, name="Opening frame", material="m10"))
    project = with_recipe(added.project, [added.ids[0]], placing=Placing(anchor="top-left", roll=pi))
    return _held_to(project, added.ids[1], "h3")


def _with_gutter(project: Project) -> Project:
    """An ogee gutter below the front eave and round the roof's right side, its back on the edges: mitred, with a plate
    at each end."""
    x, y, z = 1.95, 0.9, 2.47
    added = add_run(
        project,
        PathKind.STRAIGHT,
        [(-x, -y, z), (x, -y, z), (x, y, z)],
        NewRun(gutter_section(), name="Gutter", material="m5"),
    )
    plates = Ends(End.PIECE, End.PIECE, start_piece="plate", end_piece="plate")
    return _held_to(with_recipe(added.project, added.ids[:1], ends=plates), added.ids[1], "h2")


def _held_to(project: Project, path_id: str, host: str) -> Project:
    """All knots of a path hold on to a host where they lie."""
    path = next(p for p in project.paths if p.id == path_id)
    holds: dict[str, tuple[str, Place]] = {k.id: (host, k.place) for k in path.knots}
    return held(project, path_id, holds)
