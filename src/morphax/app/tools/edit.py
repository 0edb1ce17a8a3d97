"""Choosing and changing: click selects, a drag moves knots, a double click on the path inserts one."""

from dataclasses import dataclass

import numpy as np

from morphax.app.panes.camera import on_plane, ray
from morphax.app.tools.landing import Snapping, Target, landing, rounded_in_plane, work_plane
from morphax.app.tools.picking import PathPlace, Picker, nearest_knot, nearest_on_path
from morphax.app.tools.state import Pointer, Sketch
from morphax.app.workspace import Workspace
from morphax.core.arclength import LengthTable
from morphax.core.paths import points_at
from morphax.project.history import Selection
from morphax.project.model import Place, Project
from morphax.project.path_edits import insert_knot, move_knots
from morphax.project.units import format_length

DRAG_PIXELS = 3.0


@dataclass(frozen=True, eq=False)
class _Drag:
    """A press on a knot: where it began, in which plane it moves, and the places of all knots that move along."""

    pixel: tuple[float, float]
    path_id: str
    knot_id: str
    origin: np.ndarray
    normal: np.ndarray
    places: dict[str, Place]
    base: Project


class EditTool:
    """The state machine of *Edit*."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace
        self.sketch = Sketch()
        self.picker = Picker()
        self._drag: _Drag | None = None
        self._moved = False

    @property
    def is_dragging(self) -> bool:
        return self._drag is not None and self._moved

    # -- what is under the pointer ---------------------------------------------------------------

    def knot_at(self, at: Pointer) -> str | None:
        path = self.workspace.chosen_path
        if path is None or not path.knots:
            return None
        k = nearest_knot(at.camera, np.array([k.place for k in path.knots]), at.pixel, at.size)
        return None if k is None else path.knots[k].id

    def place_at(self, at: Pointer) -> tuple[PathPlace, LengthTable] | None:
        """The place of the chosen run's path under the pointer, and that path's measure."""
        built = self.workspace.chosen_body
        if built is None or built.path.resolved is None:
            return None
        table = built.path.resolved.table
        found = nearest_on_path(at.camera, table, at.pixel, at.size)
        return None if found is None else (found, table)

    def run_at(self, at: Pointer) -> str | None:
        shown = {r.id for r in self.workspace.project.runs if not r.show.hidden}
        bodies = {i: b.body.mesh for i, b in self.workspace.bodies.items() if i in shown}
        return self.picker.body(at.camera, bodies, at.pixel, at.size)

    def hover(self, at: Pointer) -> None:
        """Shows what a press would take."""
        knot = self.knot_at(at)
        if knot is not None:
            self.sketch = Sketch(hover_knot=knot)
            return
        place = self.place_at(at)
        if place is not None:
            found, table = place
            spot = points_at(table.spans[found.span], np.array(found.t))
            self.sketch = Sketch(hover_place=spot, hover_run=self.workspace.selection.run)
            return
        self.sketch = Sketch(hover_run=self.run_at(at))

    # -- press, drag, release --------------------------------------------------------------------

    def press(self, at: Pointer) -> None:
        """Chooses what is under the pointer; a press on a knot may become a drag."""
        ws = self.workspace
        knot, path = self.knot_at(at), ws.chosen_path
        if knot is not None and path is not None:
            chosen = ws.selection.knots
            if at.add:
                knots = tuple(k for k in chosen if k != knot) if knot in chosen else (*chosen, knot)
                ws.select(Selection(ws.selection.runs, knots))
                return
            if knot not in chosen:
                ws.select(Selection(ws.selection.runs[:1], (knot,)))
            self._begin(at, knot)
            return
        if self.place_at(at) is not None:
            ws.select(Selection(ws.selection.runs, ()))
            return
        run = self.run_at(at)
        if run is None:
            if not at.add:
                ws.select(Selection())
        elif at.add:
            runs = ws.selection.runs
            ws.select(Selection(tuple(r for r in runs if r != run) if run in runs else (*runs, run)))
        else:
            ws.select(Selection((run,)))

    def _begin(self, at: Pointer, knot_id: str) -> None:
        path = self.workspace.chosen_path
        if path is None:
            return
        moving = set(self.workspace.selection.knots) | {knot_id}
        places = {k.id: k.place for k in path.knots if k.id in moving}
        _, normal, _ = work_plane(at.camera, np.array(places[knot_id]))
        self._drag = _Drag(
            at.pixel, path.id, knot_id, np.array(places[knot_id]), normal, places, self.workspace.project
        )
        self._moved = False

    def drag(self, at: Pointer, snapping: Snapping) -> None:
        """Moves the pressed knot, and all that are chosen with it, in the plane of the view."""
        d = self._drag
        if d is None:
            return
        far = np.hypot(at.pixel[0] - d.pixel[0], at.pixel[1] - d.pixel[1])
        if not self._moved and far < DRAG_PIXELS:
            return
        self._moved = True
        target = self._target(at, d, snapping)
        if target is None:
            return
        shift = target - d.origin
        places = {k: _shifted(p, shift) for k, p in d.places.items()}
        self.workspace.show_unfinished(move_knots(d.base, d.path_id, places))
        unit = d.base.unit
        label = f"{format_length(float(np.linalg.norm(shift)), unit=unit, decimals=1)} · "
        label += f"{format_length(float(target[2]), unit=unit, decimals=1)} above the floor"
        self.sketch = Sketch(hover_knot=d.knot_id, label=label, label_at=target)

    def _target(self, at: Pointer, d: _Drag, snapping: Snapping) -> np.ndarray | None:
        """The dragged knot's new place: on a knot that catches it, else in the drag's plane, on the grid."""
        if at.other_snap:
            snapping = Snapping(not snapping.grid, not snapping.knots)
        begin, now = (on_plane(ray(at.camera, p, at.size), d.origin, d.normal) for p in (d.pixel, at.pixel))
        others = tuple(Target("knot", k.place) for p in d.base.paths for k in p.knots if k.id not in d.places)
        found = landing(at.camera, at.pixel, at.size, previous=d.origin, targets=others, snapping=snapping)
        if found is not None and found.caught:
            return found.place
        if begin is None or now is None:
            return None
        place = d.origin + (now - begin)
        return rounded_in_plane(place, d.origin, d.normal, at.step) if snapping.grid else place

    def release(self) -> None:
        """Ends a drag as one step of history."""
        moved, self._drag = self.is_dragging, None
        self.sketch = Sketch()
        if moved:
            self.workspace.edit("Move knots", self.workspace.project)

    def cancel(self) -> bool:
        """Takes back a drag that is going on."""
        was, self._drag = self.is_dragging, None
        self.sketch = Sketch()
        if was:
            self.workspace.show_unfinished(None)
        return was

    def double_press(self, at: Pointer) -> bool:
        """Inserts a knot at the place under the pointer; the curve keeps its shape."""
        ws, place, path = self.workspace, self.place_at(at), self.workspace.chosen_path
        self._drag = None
        if place is None or path is None or self.knot_at(at) is not None:
            return False
        resolved = ws.chosen_body.path.resolved if ws.chosen_body else None
        if resolved is None or len(resolved.shape.knots) != len(path.knots):
            ws.said.emit("This path has doubled knots; remove one before adding others.")
            return False
        done = insert_knot(ws.project, path.id, place[0].span, place[0].t)
        ws.edit("Insert a knot", done.project, Selection(ws.selection.runs, done.knots))
        return True


def _shifted(place: Place, shift: np.ndarray) -> Place:
    return (place[0] + float(shift[0]), place[1] + float(shift[1]), place[2] + float(shift[2]))
