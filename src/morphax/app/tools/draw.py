"""Drawing a path click by click: knots are placed, the body follows the pointer, finishing leaves no stray knot."""

import numpy as np

from morphax.app.tools.landing import Caught, Landing, Snapping, Target, landing
from morphax.app.tools.state import Pointer, Sketch
from morphax.app.workspace import Workspace
from morphax.core.paths import PathKind
from morphax.project.edits import Added, NewRun, add_run
from morphax.project.history import Selection
from morphax.project.model import Place, Project
from morphax.project.units import format_length


def nice_width(view_height: float) -> float:
    """A round starting width near 1/40 of the view, m."""
    wanted = view_height / 40.0
    power = 10.0 ** np.floor(np.log10(wanted))
    return float(power * min((1.0, 2.0, 5.0, 10.0), key=lambda f: abs(np.log(f * power / wanted))))


class DrawTool:
    """Places knots of one kind. ``knots`` are those that are placed; an empty list means: not begun."""

    def __init__(self, workspace: Workspace, kind: PathKind) -> None:
        self.workspace, self.kind = workspace, kind
        self.knots: list[Place] = []
        self.width = 0.02
        self.sketch = Sketch()

    @property
    def base(self) -> Project:
        """What is finished: the path is drawn on top of it."""
        return self.workspace.history.now.project

    @property
    def is_drawing(self) -> bool:
        return bool(self.knots)

    def targets(self, project: Project) -> tuple[Target, ...]:
        """Knots that catch the pointer: of all runs, and the first one of this path once it can be closed."""
        found = [Target("knot", k.place) for p in project.paths for k in p.knots]
        if len(self.knots) >= 3:
            found.append(Target("first knot: closes", self.knots[0]))
        return tuple(found)

    def landing(self, at: Pointer, snapping: Snapping) -> Landing | None:
        """Where a click would land now."""
        if at.other_snap:
            snapping = Snapping(not snapping.grid, not snapping.knots)
        previous = np.array(self.knots[-1]) if self.knots else None
        return landing(
            at.camera,
            at.pixel,
            at.size,
            previous=previous,
            targets=self.targets(self.base),
            snapping=snapping,
            step=at.step,
            upright=at.upright,
        )

    def hover(self, at: Pointer, snapping: Snapping) -> None:
        """Shows the path, with its body, as it would be with a click here."""
        found = self.landing(at, snapping)
        self._show(found)

    def press(self, at: Pointer, snapping: Snapping) -> None:
        """Places a knot; on the first knot of a path with three or more, closes it and finishes."""
        found = self.landing(at, snapping)
        if found is None:
            self.workspace.said.emit("The line of sight meets no plane here; click lower, or in a flat view.")
            return
        place = _place(found.place)
        if len(self.knots) >= 3 and place == self.knots[0]:
            self.finish(closed=True)
            return
        if not self.knots:
            self.width = self.workspace.next_run.width or nice_width(at.camera.height)
        if not self.knots or place != self.knots[-1]:
            self.knots.append(place)
        self._show(found)

    def hover_left(self) -> None:
        """The pointer left the panes: only placed knots are shown."""
        self._show(None)

    def finish(self, *, closed: bool = False) -> str | None:
        """Ends the path with the knots that are placed; returns the new run's id. One knot leaves nothing."""
        knots = self.knots
        self._forget()
        if len(knots) < 2:
            self.workspace.show_unfinished(None)
            return None
        added = self._added(knots, closed=closed)
        new = self.workspace.next_run
        self.workspace.edit("Draw a run", added.project, Selection(runs=(added.ids[0],)))
        if new.width is None:
            self.workspace.set_next_run(NewRun(new.source, self.width, new.name, new.material))
        return added.ids[0]

    def take_back(self) -> bool:
        """Takes back the last knot; False when there is none."""
        if not self.knots:
            return False
        self.knots.pop()
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
            self.workspace.show_unfinished(None)
        return was

    def _forget(self) -> None:
        self.knots, self.sketch = [], Sketch()

    def _added(self, knots: list[Place], *, closed: bool) -> Added:
        new = self.workspace.next_run
        return add_run(
            self.base, self.kind, knots, NewRun(new.source, self.width, new.name, new.material), closed=closed
        )

    def _show(self, next_: Landing | None) -> None:
        shown = list(self.knots)
        closes = next_ is not None and len(shown) >= 3 and _place(next_.place) == shown[0]
        if next_ is not None and shown and not closes and _place(next_.place) != shown[-1]:
            shown.append(_place(next_.place))
        self.sketch = Sketch(tuple(self.knots), next_, self._label(next_), None if next_ is None else next_.place)
        if not self.knots:
            return
        if len(shown) >= 2:
            added = self._added(shown, closed=closes)
            self.workspace.show_unfinished(added.project, added.ids[0])
        else:
            self.workspace.show_unfinished(None)

    def _label(self, next_: Landing | None) -> str:
        if next_ is None:
            return ""
        unit = self.workspace.project.unit
        height = f"{format_length(float(next_.place[2]), unit=unit, decimals=1)} above the floor"
        if not self.knots:
            return f"{next_.plane} · {height}" if next_.caught is not Caught.KNOT else next_.plane
        span = float(np.linalg.norm(next_.place - np.array(self.knots[-1])))
        caught = f" · {next_.plane}" if next_.caught is Caught.KNOT else ""
        return f"{format_length(span, unit=unit, decimals=1)} · {height}{caught}"


def _place(p: np.ndarray) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
