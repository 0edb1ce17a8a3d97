"""Choosing and changing: click selects, a drag moves knots, handles and spans, a double click inserts a knot."""

from dataclasses import replace
from typing import Literal

import numpy as np

from morphax.app.session.camera import on_plane
from morphax.app.session.pointer import Pointer
from morphax.app.session.workspace import Workspace
from morphax.app.tools.path.drags import Drag, handle_drag, knot_drag, span_drag, target_drag
from morphax.app.tools.path.draw_landing import depth_words, lies_on_surfaces
from morphax.app.tools.path.set_tool import BoxTool, SetTool
from morphax.app.tools.path.value_drags import mark_drag, station_drag, station_words
from morphax.app.tools.shared import typing
from morphax.app.tools.shared.direction_lock import locked
from morphax.app.tools.shared.hit_test import HitTest
from morphax.app.tools.shared.landing import Aim, Caught, Ground, Landing, Snapping, Surface, Target, landing
from morphax.app.tools.shared.landing_planes import rounded_in_plane
from morphax.app.tools.shared.plugging import plugged_at
from morphax.app.tools.shared.snap_targets import SnapTargets
from morphax.app.tools.shared.state import Sketch
from morphax.app.tools.shared.steps import shown_step
from morphax.app.tools.shared.typing import Typed
from morphax.core.path.arclength import Places, distances_of
from morphax.core.path.paths import points_at
from morphax.core.path.resolved import ResolvedPath, drawn_place
from morphax.project.edits.holding import holder, leads_of, plug_length
from morphax.project.edits.paths import insert_knot
from morphax.project.edits.things import shows, thing_of
from morphax.project.lookup import path_by_id, run_width
from morphax.project.model.document import Project, RestHold
from morphax.project.things import Selection, Thing, ThingKind
from morphax.project.units import format_length

DRAG_PIXELS = 3.0


class EditTool:
    """The state machine of *Edit*."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace
        self.sketch = Sketch()
        self.under = HitTest(workspace)
        self.typed = Typed()
        self._drag: Drag | None = None
        self._last: np.ndarray | None = None
        self.around = SnapTargets(workspace, self.under.picker)
        self._target_now: Target | None = None
        self._ground: Ground | None = None
        self.set = SetTool(workspace)
        self.box = BoxTool(workspace, self.under)

    @property
    def is_dragging(self) -> bool:
        return self.set.has_moved or (self._drag is not None and self._last is not None)

    def hover(self, at: Pointer) -> None:
        """Shows what a press would take."""
        part = self.set.hover(at)
        if part is not None:
            self.sketch = part
            return
        knot = self.under.knot_at(at)
        handle = None if knot is not None else self.under.handle_at(at)
        if knot is not None:
            self.sketch = Sketch(hover=Thing(ThingKind.KNOT, knot, self.workspace.chosen.run_id or ""))
            return
        if handle is not None:
            self.sketch = Sketch(hover_handle=handle[2])
            return
        target = self.under.target_at(at)
        if target is not None:
            self.sketch = Sketch(hover_place=target, label="what it looks towards", label_at=target)
            return
        mark = self.under.mark_at(at)
        if mark is not None:
            self.sketch = Sketch(hover_place=mark.place, label=mark.words, label_at=mark.place)
            return
        station = self.under.station_at(at)
        if station is not None:
            words = station_words(self.workspace, station[0])
            thing = Thing(ThingKind.STATION, station[0], self.workspace.chosen.run_id or "")
            self.sketch = Sketch(hover=thing, hover_place=station[1], label=words, label_at=station[1])
            return
        place = self.under.place_at(at)
        if place is not None:
            found, resolved = place
            spot = points_at(resolved.table.spans[found.span], np.array(found.t))
            at_m = float(distances_of(resolved.table, Places(np.array([found.span]), np.array([found.t])))[0])
            run = self.workspace.selection.run
            own = None if run is None else Thing(ThingKind.RUN, run)
            self.sketch = Sketch(hover_place=spot, hover=own, hover_distance=at_m)
            return
        run = self.under.run_at(at)
        self.sketch = Sketch(hover=None if run is None else Thing(ThingKind.RUN, run))

    # -- press, drag, release --------------------------------------------------------------------

    def press(self, at: Pointer) -> None:
        """Chooses what is under the pointer; a press on a knot, a handle or the path may become a drag."""
        ws = self.workspace
        knot, path = self.under.knot_at(at), ws.chosen.path
        if self.set.press(at):
            return
        if path is not None and self._press_on_path(at, knot):
            return
        if at.other_snap and _stepped_through(ws, self.under, at):
            return
        run = self.under.run_at(at)
        if run is None:
            self.box.press(at, self.under.host_at(at))
        elif at.add:
            runs = ws.selection.runs
            ws.select(Selection.of(tuple(r for r in runs if r != run) if run in runs else (*runs, run)))
        else:
            ws.select(Selection.of((run,)))

    def _press_on_path(self, at: Pointer, knot: str | None) -> bool:
        """A press on the chosen run's knots, handles or path; False where it meets none of them."""
        ws, path, chosen = self.workspace, self.workspace.chosen.path, self.workspace.selection.knots
        if path is None:
            return False
        if knot is not None and at.add:
            knots = tuple(k for k in chosen if k != knot) if knot in chosen else (*chosen, knot)
            ws.select(Selection.of(ws.selection.runs, knots))
            return True
        tip = self.under.handle_at(at) if knot is None else None
        target = self.under.target_at(at) if knot is None and tip is None else None
        mark = self.under.mark_at(at) if knot is None and tip is None and target is None else None
        is_free = knot is None and tip is None and target is None and mark is None
        station = self.under.station_at(at) if is_free and not at.add and not at.other_snap else None
        place = self.under.place_on_body(at) if is_free else None
        if knot is not None:
            if knot not in chosen:
                ws.select(Selection.of(ws.selection.runs[:1], (knot,)))
            self._begin(
                knot_drag(at.sight, at.pixel, ws.project, path, (knot, set(ws.selection.knots), ws.bench.falloff))
            )
        elif tip is not None:
            self._begin(handle_drag(at.sight, at.pixel, ws.project, path, tip))
        elif target is not None:
            self._begin(target_drag(at.sight, at.pixel, ws.project, ws.selection.runs[0], target))
        elif mark is not None:
            self._begin(mark_drag(at, ws, mark))
        elif station is not None:
            ws.select(Selection.of(ws.selection.runs, stations=station[:1]))
            self._begin(station_drag(at, ws.project, ws.selection.runs[0], station[0], ws.chosen.body))
        elif place is not None:
            ws.select(Selection.of(ws.selection.runs, ()))
            found, resolved = place
            if len(resolved.shape.knots) == len(path.knots):
                span, t = drawn_place(resolved, found.span, found.t)
                spot = points_at(resolved.table.spans[found.span], np.array(found.t))
                self._begin(span_drag(at.sight, at.pixel, ws.project, path, (span, t, spot)))
        else:
            return False
        return True

    def _begin(self, drag: Drag | None) -> None:
        run = self.workspace.chosen.run
        if drag is None:
            return
        if run is not None and self.workspace.chosen.is_locked((run.id,)):
            return
        self._drag, self._last, self.typed = drag, None, Typed()

    def drag(self, at: Pointer, snapping: Snapping) -> None:
        """Moves what was pressed in the plane of the view, or draws a box from where nothing was."""
        if self.set.is_pressed:
            self.sketch = self.set.drag(at, snapping) or self.sketch
            return
        if self.box.is_open:
            self.sketch = self.box.drag(at)
            return
        d = self._drag
        if d is None:
            return
        far = np.hypot(at.pixel[0] - d.pixel[0], at.pixel[1] - d.pixel[1])
        if self._last is None and far < DRAG_PIXELS:
            return
        target = self._target(at, d, snapping)
        if target is not None:
            self._last = target
            self._show(d)

    def _show(self, d: Drag) -> None:
        """Shows the project as it is with the pointer's place, or the place that was typed."""
        if self._last is None:
            return
        unit = d.base.unit
        place = typing.typed_place(self.typed, d.origin, self._last, d.normal, unit)
        place = self._last if place is None else place
        if not shown_step(self.workspace, lambda: self._moved(d, place)):
            return
        knot = None if d.knot is None else Thing(ThingKind.KNOT, d.knot, self.workspace.chosen.run_id or "")
        text = f"{format_length(float(np.linalg.norm(place - d.origin)), unit=unit, decimals=1)} · "
        text += depth_words(d.sight, place, unit)
        text = _of_hold(d, self.workspace.project) or text
        text = text if d.words is None else d.words(self.workspace.project)
        if not self.typed.is_empty:
            text = f"{typing.label(self.typed)} · {text}"
        self.sketch = Sketch(hover=knot, label=text, label_at=place, drag_from=d.origin)

    def _moved(self, d: Drag, place: np.ndarray) -> Project:
        """The project with what is dragged at a place; a knot that rests is laid on what is under the pointer."""
        if self.typed.is_empty and d.rest is not None and self._ground is not None:
            return d.rest(self._ground)
        if self.typed.is_empty and d.go is not None and self._target_now is not None:
            return d.go(place)
        return d.move(place)

    def type(self, typed: Typed) -> None:
        """Numbers typed during a drag."""
        self.typed = typed
        if self.set.has_moved:
            self.sketch = self.set.type(typed) or self.sketch
        elif self._drag is not None:
            self._show(self._drag)

    def _target(self, at: Pointer, d: Drag, snapping: Snapping) -> np.ndarray | None:
        """The new place: on a knot that catches it, else in the drag's plane, on the grid."""
        if at.other_snap:
            snapping = snapping.turned_round()
        begin, now = (on_plane(at.sight.line(p), d.origin, d.normal) for p in (d.pixel, at.pixel))
        if d.free:
            return None if begin is None or now is None else d.origin + (now - begin)
        if not _is_end(d):  # ports are for ends
            snapping = replace(snapping, ports=False)
        others = tuple(Target("knot", k.place) for p in d.base.paths for k in p.knots if k.id not in d.moving)
        caught = self.around.caught(at, snapping, others)
        self._target_now, self._ground = caught, None
        if caught is None and d.rest is not None and at.axis is None and not at.add:
            surface = self._surface_below(at, snapping)
            if surface is not None:
                self._ground = Ground(surface.place, surface.normal, surface.of)
                return surface.place
        found = landing(at.sight, at.pixel, Aim(previous=d.origin, caught=caught, snapping=snapping))
        if found is not None and found.caught and at.axis is None and not at.add:
            return found.place
        if begin is None or now is None:
            return None
        place = d.origin + (now - begin)
        if d.stays_up and not at.sight.is_flat:
            place[2] = max(float(place[2]), min(0.0, float(d.origin[2])))
        if at.axis is not None or at.add:
            free = Landing(place, Caught.GRID if snapping.grid else Caught.NOTHING, d.normal, "", caught)
            free = free if caught is None else replace(free, place=np.array(caught.place))
            return locked(free, d.origin, None, at).place
        return rounded_in_plane(place, d.origin, d.normal, at.step) if snapping.grid else place

    def _surface_below(self, at: Pointer, snapping: Snapping) -> Surface | None:
        """The face of a host, or of a body that doesn't follow from this path, under the pointer: a knot that rests is
        laid on it."""
        if not lies_on_surfaces(at.sight, snapping, first=False):
            return None
        path, bodies = self.workspace.chosen.path, self.workspace.bodies
        behind = () if path is None else tuple(bodies.what_follows((path.id,)))
        return self.around.surface(at, snapping, without=behind)

    def release(self) -> None:
        """Ends a drag as one step of history; a box chooses what lies in it."""
        if self.set.is_pressed or self.box.is_open:
            self.set.release()
            self.box.release()
            self.typed, self.sketch = Typed(), Sketch()
            return
        moved, drag = self.is_dragging, self._drag
        self._drag = self._last = None
        self.typed, self.sketch = Typed(), Sketch()
        if moved and drag is not None:
            self.workspace.edit(*self._plugged_in(drag))

    def _plugged_in(self, drag: Drag) -> tuple[str, Project]:
        """What a drag ends as: a path end dropped on a port plugs in."""
        project, target, path = self.workspace.project, self._target_now, self.workspace.chosen.path
        self._target_now = None
        if (
            target is None
            or target.kind is not Caught.PORT
            or path is None
            or path.closed
            or len(drag.moving) != 1
            or path.made is not None
        ):
            return drag.label, project
        ends: dict[str, Literal["start", "end"]] = {path.knots[0].id: "start", path.knots[-1].id: "end"}
        end = next((ends[k] for k in drag.moving if k in ends), None)
        if end is None:
            return drag.label, project
        width = run_width(project, self.workspace.chosen.run_id or "")
        return "Plug in", plugged_at(project, path.id, end, target, width)

    def cancel(self) -> bool:
        """Takes back a drag that is going on."""
        was = self.is_dragging
        self._drag = self._last = None
        self.set.cancel()
        self.box.cancel()
        self.typed, self.sketch = Typed(), Sketch()
        if was:
            self.workspace.unfinished.show(None)
        return was

    def double_press(self, at: Pointer) -> bool:
        """Inserts a knot at the place under the pointer; the curve keeps its shape."""
        place = self.under.place_at(at)
        self._drag = self._last = None
        if place is None or self.under.knot_at(at) is not None:
            return False
        found, resolved = place
        return self.insert(found.span, found.t, resolved)

    def insert(self, chain_span: int, chain_t: float, resolved: ResolvedPath) -> bool:
        """Inserts a knot into the chosen path, at a place of its chain."""
        ws, path = self.workspace, self.workspace.chosen.path
        if path is None:
            return False
        if len(resolved.shape.knots) != len(path.knots):
            ws.said.emit("This path has doubled knots; remove one before adding others.")
            return False
        span, t = drawn_place(resolved, chain_span, chain_t)
        new: list[str] = []
        far: list[float] = []

        def insert(project: Project) -> Project:
            done = insert_knot(project, path.id, span, t)
            new.extend(done.knots)
            far.append(done.deviation)
            return done.project

        if ws.attempt("Insert a knot", insert):
            ws.select(Selection.of(ws.selection.runs, tuple(new)))
            now = ws.chosen.path
            if now is not None and now.kind is not path.kind:
                ws.said.emit(f"It is a {now.kind} path now, of the same curve.")
            elif far[0] > 0.0:
                moved = format_length(far[0], unit=ws.project.unit)
                ws.said.emit(f"The path goes through the new knot now, no longer its own way: {moved} off at most.")
        return bool(new)


def _is_end(drag: Drag) -> bool:
    """Whether what is dragged is an end of an open path."""
    path = next((p for p in drag.base.paths if any(k.id == drag.knot for k in p.knots)), None)
    return path is not None and not path.closed and drag.knot in (path.knots[0].id, path.knots[-1].id)


def _of_hold(drag: Drag, now: Project) -> str:
    """What the drag of a knot that holds does to its hold."""
    was, path = next(((k, p) for p in drag.base.paths for k in p.knots if k.id == drag.knot), (None, None))
    if drag.knot is None or was is None or path is None or was.hold is None:
        return ""
    name = holder(drag.base, was)
    if was.id in leads_of(path):
        length = plug_length(now, path.id, was.id)
        return f"lead {format_length(length, unit=now.unit, decimals=1)}"
    is_held = any(k.hold is not None for k in path_by_id(now, path.id).knots if k.id == was.id)
    words = "rests on" if isinstance(was.hold, RestHold) else "holds on to"
    return f"{words} {name}; farther away it lets go" if is_held else f"lets go of {name}"


def _stepped_through(ws: Workspace, under: HitTest, at: Pointer) -> bool:
    """Ctrl and click: what lies behind what is chosen, from the eye on, and then the first again."""
    stack = under.all_at(at)
    if not stack:
        return False
    now = next((i for i in (*ws.selection.runs, *ws.selection.hosts) if i in stack), None)
    chosen = stack[0] if now is None else stack[(stack.index(now) + 1) % len(stack)]
    thing = thing_of(ws.project, chosen)
    if thing is None:
        return False
    ws.select(Selection((thing,)))
    name = shows(ws.project, [thing])[0].name
    ws.said.emit(f"{name}: {stack.index(chosen) + 1} of {len(stack)} under the pointer.")
    return True
