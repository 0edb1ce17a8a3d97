"""Runs of the demo along edges of its hosts: their knots lie on the edges and hold on to them."""

from math import pi

from morphax.core.frame.frames import Orientation
from morphax.core.path.paths import PathKind
from morphax.project.edits.ports import held
from morphax.project.edits.runs import NewRun, add_run, with_recipe
from morphax.project.model.document import OutlineSource, PartData, Place, Placing, Project, ReadyMadeSource, SpanData

_KAPPA = 4.0 / 3.0 * (2.0**0.5 - 1.0)
"""Handle of a cubic quarter circle by its radius."""


def traced(project: Project) -> Project:
    """The demo with the frame of the stage opening and the gutter along the roof's eaves."""
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
    """A half-round gutter below the front eave, its back on the edge."""
    y, z = -0.9, 2.47
    radius, wall = 0.06, 0.005
    added = add_run(
        project,
        PathKind.STRAIGHT,
        [(-1.95, y, z), (1.95, y, z)],
        NewRun(trough(radius, wall), name="Gutter", material="m5"),
    )
    placing = Placing(anchor=(-radius, 0.01), orientation=Orientation.UPRIGHT)
    return _held_to(with_recipe(added.project, [added.ids[0]], placing=placing), added.ids[1], "h2")


def trough(radius: float, wall: float) -> OutlineSource:
    """A half-round gutter's outline, open above: its outer radius and its wall, m."""
    inner = radius - wall
    spans = (*_half(radius, 1.0), SpanData(start=(radius, 0.0)), *_half(inner, -1.0), SpanData(start=(-inner, 0.0)))
    return OutlineSource(name="Half-round trough", parts=(PartData(outer=spans),))


def _half(radius: float, way: float) -> tuple[SpanData, SpanData]:
    """Two quarter circles below: from left to right (``way`` 1) or back (-1)."""
    a, b, k = -way * radius, way * radius, _KAPPA * radius
    first = SpanData(start=(a, 0.0), corner=True, inner=((a, -k), (a + way * (radius - k), -radius)))
    second = SpanData(start=(0.0, -radius), corner=False, inner=((way * k, -radius), (b, -k)))
    return first, second


def _held_to(project: Project, path_id: str, host: str) -> Project:
    """All knots of a path hold on to a host where they lie."""
    path = next(p for p in project.paths if p.id == path_id)
    holds: dict[str, tuple[str, Place]] = {k.id: (host, k.place) for k in path.knots}
    return held(project, path_id, holds)
