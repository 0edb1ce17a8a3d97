"""The overlay: what is painted over a pane's picture at once - paths, knots, labels, findings. A table of marks."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from PySide6.QtGui import QPainter

from morphax.app.session.workspace import Workspace
from morphax.app.tools.shared.state import Sketch
from morphax.app.tools.toolbox import Toolbox
from morphax.app.views.panes.deviation_marks import paint_deviations
from morphax.app.views.panes.drawing import View, paint_labels
from morphax.app.views.panes.ground_words import paint_ground_words
from morphax.app.views.panes.knot_value_marks import paint_knot_marks
from morphax.app.views.panes.marks import (
    paint_box,
    paint_distance,
    paint_handle_set,
    paint_helpers,
    paint_notes,
    paint_port_names,
    paint_ports,
    paint_seam,
    paint_sizes,
    paint_target,
    paint_up,
    paint_work_plane,
)
from morphax.app.views.panes.path_marks import (
    paint_chosen,
    paint_dots,
    paint_finding,
    paint_line,
    paint_remark,
    paint_sketch,
)
from morphax.app.views.panes.range_mark import paint_range
from morphax.app.views.panes.station_marks import paint_stations
from morphax.app.views.panes.way_back import paint_way_back
from morphax.build.built import Built
from morphax.project.things import ThingKind


@dataclass(frozen=True)
class Over:
    """What marks read: where to paint, the document with what is chosen, the tools, whether the seam is wanted, and
    whether the view is being turned or moved. ``chosen``, ``hovered``: how far it is to be seen that something else is
    chosen, or pointed at, 0 to 1."""

    view: View
    workspace: Workspace
    toolbox: Toolbox
    seam: bool = False
    is_moving: bool = False
    chosen: float = 1.0
    hovered: float = 1.0

    @property
    def sketch(self) -> Sketch:
        return self.toolbox.sketch

    @property
    def body(self) -> Built | None:
        """The chosen run's body, where it has a path."""
        return self.workspace.chosen.body if self.workspace.chosen.path is not None else None


Mark = Callable[[Over], None]


_MOST_LIT = 400
"""Paths of more runs are not drawn because something that they belong to is pointed at."""


def _lines_in_sight(workspace: Workspace, toolbox: Toolbox, chosen: set[str]) -> Iterable[str]:
    """Runs whose paths are drawn: chosen ones, the one that is pointed at; all where paths are seen through bodies."""
    if toolbox.sees_through:
        return workspace.bodies.in_sight.visible
    hover = toolbox.sketch.hovers(ThingKind.RUN)
    lit = (
        [i for i in workspace.bench.lit if i not in chosen and i != hover]
        if len(workspace.bench.lit) < _MOST_LIT
        else []
    )
    return [*workspace.selection.runs, *([hover] if hover is not None and hover not in chosen else []), *lit]


def _paths(over: Over) -> None:
    """Paths of runs that are not the one in hand: chosen ones, the one that is pointed at."""
    ws, view, chosen = over.workspace, over.view, set(over.workspace.selection.runs)
    pointed = over.sketch.hovers(ThingKind.RUN)
    for run_id in _lines_in_sight(ws, over.toolbox, chosen):
        built = ws.bodies.in_sight.visible.get(run_id)
        if built is None or run_id == ws.chosen.run_id:
            continue
        if run_id in chosen or run_id == pointed or run_id in ws.bench.lit:
            faded = over.hovered if run_id == pointed else 1.0
            view.painter.setOpacity(over.chosen if run_id in chosen else faded)
            paint_line(view, built.path.polyline, view.tokens.teal, 2.0 if run_id in chosen else 1.4)
        else:
            paint_line(view, built.path.polyline, view.tokens.blue, 1.2)
            paint_dots(view, built)
        view.painter.setOpacity(1.0)


def _on_body(paint: Callable[[View, Built], None]) -> Mark:
    """A mark on the chosen run's body."""
    return lambda over: None if over.body is None else paint(over.view, over.body)


def _sizes(over: Over) -> None:
    """Where the size of the only chosen run is dragged, while nothing is drawn."""
    if over.body is not None and over.toolbox.draw is None and len(over.workspace.selection.runs) == 1:
        paint_sizes(over.view, over.body)


def _knot_values(over: Over) -> None:
    if over.body is not None and over.toolbox.draw is None:
        over.view.painter.setOpacity(over.chosen)
        paint_knot_marks(over.view, over.workspace)
        over.view.painter.setOpacity(1.0)


def _range(over: Over) -> None:
    if over.body is not None and over.toolbox.draw is None:
        over.view.painter.setOpacity(over.chosen)
        paint_range(over.view, over.workspace)
        over.view.painter.setOpacity(1.0)


def _stations(over: Over) -> None:
    over.view.painter.setOpacity(over.chosen)
    paint_stations(over.view, over.workspace, over.toolbox.hover.over(ThingKind.STATION))
    over.view.painter.setOpacity(1.0)


def _seam(over: Over) -> None:
    if over.seam and over.body is not None:
        paint_seam(over.view, over.body)


def _chosen(over: Over) -> None:
    path, built, ws = over.workspace.chosen.path, over.body, over.workspace
    if path is not None and built is not None:
        over.view.painter.setOpacity(over.chosen)
        paint_chosen(over.view, path, built, ws.selection.knots, over.sketch, over.toolbox.hover.over(ThingKind.KNOT))
        over.view.painter.setOpacity(1.0)


def _target(over: Over) -> None:
    if over.body is not None:
        paint_target(over.view, over.workspace)


def _distance(over: Over) -> None:
    at = over.toolbox.hover.distance
    if over.body is not None and at is not None:
        paint_distance(over.view, over.body, at, over.view.unit)


def _in_scene(paint: Callable[[View, Workspace], None]) -> Mark:
    return lambda over: paint(over.view, over.workspace)


def _work_plane(over: Over) -> None:
    if over.toolbox.draw is not None:
        paint_work_plane(over.view, over.workspace.bench.work_plane)


def _handle_set(over: Over) -> None:
    centre = over.toolbox.edit.set.centre()
    if centre is not None and over.toolbox.draw is None:
        over.view.painter.setOpacity(over.chosen)
        paint_handle_set(over.view, centre, over.sketch.hover_part)
        over.view.painter.setOpacity(1.0)


def _box(over: Over) -> None:
    if over.sketch.box is not None:
        paint_box(over.view, over.sketch.box)


def _sketch(over: Over) -> None:
    paint_sketch(over.view, over.sketch)


def _deviations(over: Over) -> None:
    if over.workspace.deviations.is_on:
        paint_deviations(over.view, over.workspace.deviations)


def _remark(over: Over) -> None:
    if over.workspace.remark is not None:
        paint_remark(over.view, over.workspace.remark)


def _print_check(over: Over) -> None:
    shown = over.workspace.print_check.shown
    if shown is not None:
        paint_finding(over.view, shown)


MARKS: dict[str, Mark] = {
    "words of the ground": lambda over: paint_ground_words(over.view),
    "paths": _paths,
    "seam": _seam,
    "chosen path": _chosen,
    "up": _on_body(paint_up),
    "stations": _stations,
    "sizes": _sizes,
    "values of the knot": _knot_values,
    "range": _range,
    "target": _target,
    "pointed place": _distance,
    "ports": _in_scene(paint_ports),
    "names of ports": _in_scene(paint_port_names),
    "helper lines": _in_scene(paint_helpers),
    "notes": _in_scene(paint_notes),
    "work plane": _work_plane,
    "handle set": _handle_set,
    "box": _box,
    "sketch": _sketch,
    "remark": _remark,
    "deviations": _deviations,
    "print check": _print_check,
    "where the scene is": _in_scene(paint_way_back),
}
"""What is painted over the picture, from below upwards: a new mark is a new row."""


def paint_overlay(over: Over) -> None:
    """Paints everything over the picture."""
    over.view.painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for mark in MARKS.values():
        mark(over)
    paint_labels(over.view, faded=over.is_moving)
