"""Drawing a path click by click: knots are placed, the body follows the pointer, finishing leaves no stray knot."""

from collections.abc import Callable
from dataclasses import replace
from typing import Literal

import numpy as np

from morphax.app.session.camera import on_plane
from morphax.app.session.pointer import Pointer
from morphax.app.session.workspace import Workspace
from morphax.app.tools.path.draw_landing import (
    closing_place,
    first_place,
    nice_width,
    where,
    with_cut_ends,
    with_rests,
    words_of,
)
from morphax.app.tools.path.mix import Mix
from morphax.app.tools.shared import typing
from morphax.app.tools.shared.landing import Caught, Ground, Landing, Snapping, Target
from morphax.app.tools.shared.landing_planes import drag_normal, rounded_in_plane
from morphax.app.tools.shared.plugging import plugged_at, port_diameter
from morphax.app.tools.shared.snap_targets import SnapTargets
from morphax.app.tools.shared.state import Sketch
from morphax.app.tools.shared.typing import Typed
from morphax.core.path.paths import PathKind
from morphax.project.edits.runs import Added, add_run
from morphax.project.lookup import path_of
from morphax.project.model.document import Place, Project
from morphax.project.things import Selection


class DrawTool:
    """Places knots of one kind. ``knots`` are those that are placed; an empty list means: not begun.

    ``came`` is the direction in which the path came to its first knot, ``far`` what closes it instead of that one.
    """

    label = "Draw a run"
    mixes = True
    """Whether straight and curved spans can follow each other in what it draws."""
    rests, rests_first = True, False

    def __init__(self, workspace: Workspace, kind: PathKind, around: SnapTargets) -> None:
        self.workspace, self.around = workspace, around
        self.kind: str = kind
        self.path_kind = kind
        self.ports: dict[int, Target] = {}
        self.grounds: dict[int, Ground] = {}
        self.knots: list[Place] = []
        self.mix = Mix(kind, free=self.mixes)
        self.came: np.ndarray | None = None
        self.far: Place | None = None
        self.handles: dict[int, Place] = {}
        self.typed = Typed()
        self._pointer: tuple[Pointer, Snapping] | None = None
        self.width = 0.02
        self.sketch = Sketch()
        self.land: Callable[[DrawTool, Pointer, Snapping], Landing | None] = where

    @property
    def is_drawing(self) -> bool:
        return bool(self.knots)

    @property
    def wished_width(self) -> float | None:
        """Width that the run has or will have, m; None: one that suits the view."""
        return self.width if self.knots else self.workspace.bench.next_run.width

    def hover(self, at: Pointer, snapping: Snapping) -> None:
        """Shows the path, with its body, as it would be with a click here."""
        self._pointer = (at, snapping)
        self._show(self._wanted(at, snapping))

    def _wanted(self, at: Pointer, snapping: Snapping) -> Landing | None:
        """Where the next knot goes: where the pointer is, or at the place that was typed."""
        found = self.land(self, at, snapping)
        if found is None or not self.knots or self.typed.is_empty:
            return found
        unit = self.workspace.project.unit
        place = typing.typed_place(self.typed, np.array(self.knots[-1]), found.place, found.normal, unit)
        return found if place is None else replace(found, place=place, caught=Caught.NOTHING)

    def type(self, typed: Typed) -> None:
        """Numbers typed between clicks set the next knot."""
        self.typed = typed
        if self._pointer is not None:
            self.hover(*self._pointer)

    def enter_typed(self) -> bool:
        """Enter after a number places the knot there; False when none was typed."""
        if self.typed.is_empty or self._pointer is None or not self.knots:
            return False
        self.press(*self._pointer)
        return True

    def pull(self, at: Pointer, snapping: Snapping) -> None:
        """A drag from the knot that was just placed pulls out its handle (handles paths only)."""
        if self.path_kind is not PathKind.HANDLES or not self.knots:
            return
        last = len(self.knots) - 1
        foot = np.array(self.knots[last])
        on = self.grounds.get(last)
        normal = drag_normal(at.sight, foot, lies=on is not None and abs(float(on.normal[2])) > 0.7)
        tip = on_plane(at.sight.line(at.pixel), foot, normal)
        if tip is None:
            return
        tip = rounded_in_plane(tip, foot, normal, at.step) if snapping.grid and at.step > 0.0 else tip
        offset = tip - foot
        pixels = float(np.linalg.norm(offset)) / at.sight.scale_at(foot)
        if pixels >= 6.0:
            self.handles[last] = _place(offset)
        self._show(None)

    def press(self, at: Pointer, snapping: Snapping) -> None:
        """Places a knot; on the first knot of a path with three or more, closes it and finishes."""
        self._pointer = (at, snapping)
        found = self._wanted(at, snapping)
        self.typed = Typed()
        if found is None:
            self.workspace.said.emit("The line of sight meets no plane here; click lower, or in a flat view.")
            return
        place = _place(found.place)
        if place == closing_place(self):
            self.finish(closed=True)
            return
        is_port = plugs(self, found)
        if not self.knots:
            own = port_diameter(self.workspace.project, found.target) if is_port else 0.0
            self.width = (
                own
                or self.workspace.bench.next_run.width
                or nice_width(at.sight.height, self.workspace.bench.next_run.source)
            )
        if not self.knots or place != self.knots[-1]:
            first = first_place(self, found, snapping, self.width)
            self.knots = self.knots if first is None else [first]
            if found.ground is not None:
                self.grounds[len(self.knots)] = found.ground
            if is_port and found.target is not None:
                self.ports[len(self.knots)] = found.target
            self.mix.placed(len(self.knots))
            self.knots.append(place)
        self._show(found)

    def hover_left(self) -> None:
        """The pointer left the panes: only placed knots are shown."""
        self._show(None)

    def finish(self, *, closed: bool = False) -> str | None:
        """Ends the path with the knots that are placed; returns the new run's id. One knot leaves nothing."""
        if len(self.knots) < 2:
            self._forget()
            self.workspace.unfinished.show(None)
            return None
        added = self._added(self.knots, closed=closed)
        self._forget()
        new = self.workspace.bench.next_run
        self.workspace.edit(self.label, added.project, Selection.of(runs=(added.ids[0],)))
        if new.width is None:
            self.workspace.bench.set_next_run(replace(new, width=self.width))
        return added.ids[0]

    def take_back(self) -> bool:
        """Takes back the last knot; False when there is none."""
        if not self.knots:
            return False
        self.handles.pop(len(self.knots) - 1, None)
        self.ports.pop(len(self.knots) - 1, None)
        self.grounds.pop(len(self.knots) - 1, None)
        self.mix.taken_back(len(self.knots) - 1)
        self.knots.pop()
        if len(self.knots) == 1 and 0 in self.grounds and not self.rests_first:
            self.knots = [_place(self.grounds[0].place)]
        if not self.knots:
            self.cancel()
        else:
            self._show(None)
        return True

    def cancel(self) -> bool:
        """Drops the unfinished path whole; False when there is none."""
        was = self.is_drawing
        self._forget()
        if was:
            self.workspace.unfinished.show(None)
        return was

    def _forget(self) -> None:
        self.knots, self.handles, self.sketch, self.typed = [], {}, Sketch(), Typed()
        self.ports, self.grounds, self.mix = {}, {}, Mix(self.path_kind, free=self.mixes)

    def _added(self, knots: list[Place], *, closed: bool, next_: Landing | None = None) -> Added:
        """The project with the run; path ends that were placed on ports are plugged in."""
        new = self.workspace.bench.next_run
        made = replace(new, width=self.width)
        added = add_run(_base(self), self.path_kind, knots, made, closed=closed, handles=self.handles)
        added = replace(added, project=with_cut_ends(self, added.project, added.ids[0], closed=closed, next_=next_))
        path = path_of(added.project, added.ids[0])
        ids = [k.id for k in path.knots]
        project = self.mix.applied(added.project, path.id, ids, len(self.knots) - 1)
        project = with_rests(self, project, path.id, ids, next_)
        if closed:
            return replace(added, project=project)
        ends: tuple[tuple[int, Literal["start", "end"]], ...] = ((len(knots) - 1, "end"), (0, "start"))
        for k, end in ends:
            target = self.ports.get(k)
            if target is None and end == "end" and next_ is not None and plugs(self, next_):
                target = next_.target
            if target is not None:
                project = plugged_at(project, path.id, end, target, self.width)
        return replace(added, project=project)

    def _show(self, next_: Landing | None) -> None:
        pointer, snapping = self._pointer or (None, None)
        first = first_place(self, next_, snapping, self.width)
        shown = list(self.knots) if first is None else [first]
        closes = next_ is not None and _place(next_.place) == closing_place(self)
        if next_ is not None and shown and not closes and _place(next_.place) != shown[-1]:
            shown.append(_place(next_.place))
        label = words_of(self, None if pointer is None else pointer.sight, next_)
        begun = tuple(self.knots) if first is None else (first,)
        self.sketch = Sketch(begun, next_, label, None if next_ is None else next_.place)
        if not self.knots:
            return
        if len(shown) >= 2:
            is_new = next_ is not None and len(shown) > len(self.knots)
            added = self._added(shown, closed=closes, next_=next_ if is_new else None)
            self.workspace.unfinished.show(added.project, added.ids[0])
        else:
            self.workspace.unfinished.show(None)


_UPWARD = 0.7


def plugs(tool: DrawTool, found: Landing) -> bool:
    """Whether an end that lands there plugs in: a port, a round rim or face.

    A cable that hangs from the middle of a post's solid top lies on it; from its rim it plugs in.
    """
    target = found.target
    if target is None or target.kind is not Caught.PORT:
        return False
    if tool.path_kind is not PathKind.HANGING or target.spot is None or float(target.spot.direction[2]) <= _UPWARD:
        return True
    at = None if tool._pointer is None else tool._pointer[0]
    centre = np.array(target.place)
    on_face = None if at is None else on_plane(at.sight.line(at.pixel), centre, target.spot.direction)
    in_middle = on_face is None or float(np.linalg.norm(on_face - centre)) < 0.25 * target.spot.diameter
    return not (in_middle and tool.around.is_filled(target))


def _place(p: np.ndarray) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))


def _base(tool: DrawTool) -> Project:
    """What is finished: the path is drawn on top of it."""
    return tool.workspace.history.now.project
