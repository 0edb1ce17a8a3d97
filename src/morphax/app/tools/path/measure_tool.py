"""Measuring: two clicks, each caught by whatever catches, give a distance and its parts. No Qt here."""

import numpy as np

from morphax.app.session.pointer import Pointer
from morphax.app.session.workspace import Workspace
from morphax.app.tools.shared.landing import Aim, Landing, Snapping, Target, landing
from morphax.app.tools.shared.snap_targets import SnapTargets
from morphax.app.tools.shared.state import Sketch
from morphax.app.tools.shared.typing import Typed
from morphax.core.path.resolved import nearest_along
from morphax.project.units import format_length


class MeasureTool:
    """Armed like a kind of path; it changes nothing. The last measure stays until the next click."""

    kind = "measure"
    is_drawing = False

    def __init__(self, workspace: Workspace, around: SnapTargets) -> None:
        self.workspace, self.around = workspace, around
        self.sketch, self.typed = Sketch(), Typed()
        self.start: np.ndarray | None = None
        self.end: np.ndarray | None = None

    def _landing(self, at: Pointer, snapping: Snapping) -> Landing | None:
        if at.other_snap:
            snapping = snapping.turned_round()
        knots = tuple(Target("knot", k.place) for p in self.workspace.project.paths for k in p.knots)
        caught = self.around.caught(at, snapping, knots)
        surface = self.around.surface(at, snapping) if caught is None else None
        return landing(
            at.sight,
            at.pixel,
            Aim(previous=self.start, caught=caught, snapping=snapping, step=at.step, surface=surface),
        )

    def hover(self, at: Pointer, snapping: Snapping) -> None:
        """Shows the distance from the first point, or what a click would take."""
        found = self._landing(at, snapping)
        if self.end is not None and self.start is not None:
            self.sketch = self._shown(self.start, self.end, found)
        elif self.start is not None and found is not None:
            self.sketch = self._shown(self.start, found.place, found)
        else:
            words = "" if found is None else found.plane
            self.sketch = Sketch(next=found, label=words, label_at=None if found is None else found.place)

    def _shown(self, start: np.ndarray, end: np.ndarray, found: Landing | None) -> Sketch:
        return Sketch(next=found, label=self.words(start, end), label_at=end, drag_from=start)

    def words(self, start: np.ndarray, end: np.ndarray) -> str:
        """The distance, its parts along the axes, and the way along a path that both places lie on."""
        unit, d = self.workspace.project.unit, end - start
        parts = " · ".join(
            f"{axis} {format_length(float(v), unit=unit, decimals=1).removesuffix(f' {unit}')}"
            for axis, v in zip("xyz", d, strict=True)
        )
        along = self._along(start, end)
        more = "" if along is None else f" · {format_length(along[0], unit=unit, decimals=1)} along {along[1]}"
        return f"{format_length(float(np.linalg.norm(d)), unit=unit, decimals=1)} ({parts}){more}"

    def _along(self, start: np.ndarray, end: np.ndarray) -> tuple[float, str] | None:
        """The way between two places along the path that both lie on, or on its body; round a loop the shorter one."""
        best: tuple[float, float, str] | None = None
        for run in self.workspace.project.runs:
            built = self.workspace.bodies.get(run.id)
            if built is None or built.path.resolved is None or run.show.hidden:
                continue
            reach = 0.75 * built.body.width
            low, high = built.path.polyline.min(0) - reach, built.path.polyline.max(0) + reach
            if not all(((p >= low) & (p <= high)).all() for p in (start, end)):
                continue  # most runs are far from both
            spots = [nearest_along(built.path.resolved, p) for p in (start, end)]
            far = max(gap for _, gap in spots)
            if far <= reach and (best is None or far < best[0]):
                way, whole = abs(spots[1][0] - spots[0][0]), built.path.resolved.length
                best = (far, min(way, whole - way) if built.path.shape.closed else way, run.show.name)
        return None if best is None else best[1:]

    def press(self, at: Pointer, snapping: Snapping) -> None:
        """Takes the first point, then the second; a third click begins anew."""
        found = self._landing(at, snapping)
        if found is None:
            return
        if self.start is None or self.end is not None:
            self.start, self.end = found.place, None
        else:
            self.end = found.place
            self.workspace.said.emit(f"{self.words(self.start, self.end)}.")
        self.hover(at, snapping)

    def finish(self, *, closed: bool = False) -> None:
        """Nothing is ever half done."""

    def enter_typed(self) -> bool:
        return False

    def take_back(self) -> bool:
        """Forgets the points; False when there are none."""
        was = self.start is not None
        self.start = self.end = None
        self.sketch = Sketch()
        return was

    def cancel(self) -> bool:
        return self.take_back()

    def type(self, typed: Typed) -> None:
        """Nothing is typed here."""

    def hover_left(self) -> None:
        """The pointer left the views."""
        self.sketch = Sketch()

    def pull(self, at: Pointer, snapping: Snapping) -> None:
        """A drag does nothing here."""
