"""Helper lines and rectangles, and the scale of a picture by two of its places. No Qt here."""

from dataclasses import replace
from functools import partial

import numpy as np

from morphax.app.session.pointer import Pointer
from morphax.app.session.workspace import Workspace
from morphax.app.tools.path.draw import DrawTool
from morphax.app.tools.path.rectangle_tool import corners
from morphax.app.tools.shared.landing import Aim, Landing, Snapping, landing
from morphax.app.tools.shared.snap_targets import SnapTargets
from morphax.app.tools.shared.state import Sketch
from morphax.app.tools.shared.typing import Typed, label
from morphax.core.path.paths import PathKind
from morphax.project.edits.guides import add_helper, scaled_between
from morphax.project.model.document import Place, Project
from morphax.project.things import Selection
from morphax.project.units import UnitError, format_length, parse_length


class HelperTool(DrawTool):
    """Drawn like a straight path, or corner to corner; gives a helper line instead of a run."""

    mixes = False
    rests = False

    def __init__(self, workspace: Workspace, around: SnapTargets, kind: str) -> None:
        super().__init__(workspace, PathKind.STRAIGHT, around)
        self.kind, self.is_box = kind, kind == "helper-rectangle"
        self.normal = np.array([0.0, 0.0, 1.0])

    def press(self, at: Pointer, snapping: Snapping) -> None:
        """Places a corner; the second one ends a rectangle."""
        super().press(at, snapping)
        if self.is_box and len(self.knots) >= 2:
            self.finish(closed=True)

    def finish(self, *, closed: bool = False) -> str | None:
        """Ends the line with the corners that are placed; one leaves nothing."""
        places = self._corners(self.knots)
        self._forget()
        if len(places) < 2:
            return None
        added = add_helper(self.workspace.finished, places, closed=closed)
        self.workspace.edit("Draw a helper line", added.project, Selection.of(hosts=added.ids))
        return None

    def _wanted(self, at: Pointer, snapping: Snapping) -> Landing | None:
        found = super()._wanted(at, snapping)
        if found is not None:
            self.normal = found.normal
        return found

    def _corners(self, knots: list[Place]) -> list[Place]:
        if not self.is_box or len(knots) < 2:
            return list(knots)
        return corners(knots[0], knots[1], self.normal)

    def _show(self, next_: Landing | None) -> None:
        """The line as it would be; nothing of the project changes."""
        more: list[Place] = []
        if next_ is not None and self.knots:
            x, y, z = (float(v) for v in next_.place)
            more = [(x, y, z)]
        line = self._corners([*self.knots, *more])
        unit, words = self.workspace.project.unit, "" if next_ is None else next_.plane
        if more:
            far = float(np.linalg.norm(np.subtract(more[0], self.knots[-1])))
            words = label(self.typed) if not self.typed.is_empty else format_length(far, unit=unit, decimals=1)
        shown = (np.array([*line, line[0]] if self.is_box and len(line) > 2 else line),) if len(line) > 1 else ()
        place = None if next_ is None else next_.place
        self.sketch = Sketch(tuple(self.knots), next_, words, place, lines=shown)


def _scaled(host_id: str, places: tuple[Place, Place], length: float, project: Project) -> Project:
    return scaled_between(project, host_id, *places, length)


class PictureScaleTool:
    """Two clicks on the chosen picture, then the distance that they have in truth, typed."""

    kind = "picture-scale"

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace
        self.sketch, self.typed = Sketch(), Typed()
        self.places: list[Place] = []

    @property
    def is_drawing(self) -> bool:
        return bool(self.places)

    @property
    def help(self) -> str:
        """What comes next."""
        if len(self.places) == 2:
            return "Type the distance that the two places have in truth, then Enter · Backspace takes back"
        which = "second" if self.places else "first"
        return f"Click the {which} of two places of the picture whose distance is known · Esc puts it down"

    def _landing(self, at: Pointer) -> Landing | None:
        previous = np.array(self.places[0]) if self.places else None
        return landing(at.sight, at.pixel, Aim(previous=previous, snapping=Snapping(grid=False)))

    def hover(self, at: Pointer, snapping: Snapping) -> None:
        """Shows the distance as it is drawn now."""
        found = self._landing(at)
        if len(self.places) == 2 or found is None:
            return
        self._show(found.place, found)

    def _show(self, end: np.ndarray, found: Landing | None = None) -> None:
        if not self.places:
            self.sketch = Sketch(next=found, label="first place", label_at=end)
            return
        start = np.array(self.places[0])
        far = format_length(float(np.linalg.norm(end - start)), unit=self.workspace.project.unit, decimals=1)
        words = f"{label(self.typed)} in truth" if self.typed.text else f"{far} now"
        self.sketch = Sketch(next=found, label=words, label_at=end, drag_from=start, lines=(np.stack([start, end]),))

    def press(self, at: Pointer, snapping: Snapping) -> None:
        """Takes the first place, then the second."""
        found = self._landing(at)
        if found is None or len(self.places) == 2:
            return
        x, y, z = (float(v) for v in found.place)
        if not self.places or np.linalg.norm(np.subtract((x, y, z), self.places[0])) > 1e-9:
            self.places.append((x, y, z))
        self._show(np.array(self.places[-1]))

    def type(self, typed: Typed) -> None:
        """The true distance."""
        self.typed = replace(typed, field="distance")
        if len(self.places) == 2:
            self._show(np.array(self.places[1]))

    def enter_typed(self) -> bool:
        """Enter after a number scales the picture."""
        ws = self.workspace
        if len(self.places) < 2 or not self.typed.text:
            return False
        try:
            length = parse_length(self.typed.text, unit=ws.project.unit)
        except UnitError as error:
            ws.said.emit(f"{str(error)[:1].upper()}{str(error)[1:]}.")
            return True
        a, b = self.places
        done = [ws.attempt("Scale the picture", partial(_scaled, h, (a, b), length)) for h in pictures(ws)]
        if all(done) and done:
            self.cancel()
            ws.said.emit(f"Those places are {format_length(length, unit=ws.project.unit)} apart now.")
        return True

    def finish(self, *, closed: bool = False) -> None:
        """Nothing is done without a number."""

    def take_back(self) -> bool:
        """Takes back the last place; False when there is none."""
        was, self.typed, self.sketch = self.is_drawing, Typed(), Sketch()
        self.places = self.places[:-1]
        return was

    def cancel(self) -> bool:
        was = self.is_drawing
        self.places, self.typed, self.sketch = [], Typed(), Sketch()
        return was

    def hover_left(self) -> None:
        """The pointer left the panes: what was clicked stays."""

    def pull(self, at: Pointer, snapping: Snapping) -> None:
        """A drag does nothing here."""


def pictures(workspace: Workspace) -> tuple[str, ...]:
    """The chosen picture, else the only one there is."""
    everyone = [h.id for h in workspace.project.hosts if h.picture is not None]
    chosen = [i for i in everyone if i in workspace.selection.hosts]
    return tuple(chosen[:1] or (everyone if len(everyone) == 1 else ()))
