"""Drawing out: flat faces are picked, and one stroke pulls a run out of each. No Qt here."""

import numpy as np

from morphax.app.session.pointer import Pointer
from morphax.app.session.workspace import Workspace
from morphax.app.tools.shared.flat_faces import face_of
from morphax.app.tools.shared.landing import Snapping
from morphax.app.tools.shared.snap_targets import SnapTargets
from morphax.app.tools.shared.state import Sketch
from morphax.app.tools.shared.steps import shown_step
from morphax.app.tools.shared.typing import Typed
from morphax.project.edits.drawn_out import FlatFace, draw_out
from morphax.project.things import Selection
from morphax.project.units import UnitError, format_length, parse_length

_HELP = "Click a flat face, Shift adds others; pull, or click, how far · type the distance · Enter ends · Esc drops it"


class DrawOutTool:
    """Faces that are picked, and how ``far`` they are drawn out, m."""

    kind = "draw-out"

    def __init__(self, workspace: Workspace, around: SnapTargets) -> None:
        self.workspace, self.around = workspace, around
        self.sketch, self.typed = Sketch(), Typed()
        self.faces: list[FlatFace] = []
        self.far = 0.0
        self._pulled = False

    @property
    def is_drawing(self) -> bool:
        return bool(self.faces)

    @property
    def help(self) -> str:
        return _HELP

    # -- faces -------------------------------------------------------------------------------------

    def _face(self, at: Pointer, snapping: Snapping) -> FlatFace | None:
        """The flat face under the pointer."""
        found = self.around.surface(at, snapping)
        return None if found is None else face_of(self.workspace, found)

    def _outlines(self, faces: list[FlatFace]) -> tuple[np.ndarray, ...]:
        lifted = []
        for face in faces:
            for ring in face.rings:
                flat = np.concatenate([ring, ring[:1]])
                lifted.append(face.origin + flat @ face.axes[:2])
        return tuple(lifted)

    # -- pointer -----------------------------------------------------------------------------------

    def hover(self, at: Pointer, snapping: Snapping) -> None:
        """Shows the face that a click would take, or how far the faces are drawn out."""
        if self.faces and not at.add:
            self._draw_to(at, snapping)
            return
        face = self._face(at, snapping)
        shown = [*self.faces, *([face] if face is not None else [])]
        label = "" if face is None else f"face of {face.name}"
        self.sketch = Sketch(label=label, label_at=None if face is None else face.origin, lines=self._outlines(shown))

    def press(self, at: Pointer, snapping: Snapping) -> None:
        """Takes a face; once some are taken, a click without Shift ends at this distance."""
        self._pulled = False
        if self.faces and not at.add:
            self._draw_to(at, snapping)
            if self.far > 0.0:
                self.finish()
            return
        face = self._face(at, snapping)
        if face is None:
            self.workspace.said.emit("There is no flat face under the pointer.")
            return
        if not any(np.allclose(face.axes[2], f.axes[2]) and np.allclose(face.origin, f.origin) for f in self.faces):
            self.faces.append(face)
        self.sketch = Sketch(lines=self._outlines(self.faces))

    def pull(self, at: Pointer, snapping: Snapping) -> None:
        """The button is held: the faces follow the pointer."""
        if self.faces:
            self._pulled = True
            self._draw_to(at, snapping)

    def release(self) -> None:
        """One stroke: it ends where the button is let go."""
        if self._pulled and self.far > 0.0:
            self.finish()
        self._pulled = False

    def _draw_to(self, at: Pointer, snapping: Snapping) -> None:
        """The distance along the last face's normal that the pointer is at."""
        face, line = self.faces[-1], at.sight.line(at.pixel)
        n, d, w = face.axes[2], line.direction, face.origin - line.origin
        across = 1.0 - float(n @ d) ** 2
        if across > 1e-6:
            far = (float(n @ d) * float(d @ w) - float(n @ w)) / across
            self.far = round(far / at.step) * at.step if snapping.grid and not at.other_snap else far
        self._show()

    def _show(self) -> None:
        """The runs as they would be."""
        far, unit = self._distance(), self.workspace.project.unit
        ws, face = self.workspace, self.faces[-1]
        if far > 0.0:
            shown_step(ws, lambda: draw_out(ws.finished, self.faces, far, ws.bench.next_run).project)
        else:
            ws.unfinished.show(None)
        typed = f"{self.typed.text}│ · " if self.typed.text else ""
        words = f"{typed}{format_length(max(far, 0.0), unit=unit, decimals=1)}"
        tip = face.origin + max(far, 0.0) * face.axes[2]
        self.sketch = Sketch(label=words, label_at=tip, drag_from=face.origin, lines=self._outlines(self.faces))

    def _distance(self) -> float:
        """What was typed, else where the pointer is."""
        if self.typed.text.strip():
            try:
                return parse_length(self.typed.text, unit=self.workspace.project.unit)
            except UnitError:
                return self.far  # not a number yet
        return self.far

    # -- ending ------------------------------------------------------------------------------------

    def finish(self, *, closed: bool = False) -> str | None:
        """The runs are there; they are chosen together, so that they share what is set next."""
        faces, far, ws = self.faces, self._distance(), self.workspace
        self._drop()
        if not faces or not far > 0.0:
            ws.unfinished.show(None)
            return None
        ws.unfinished.show(None)
        added = draw_out(ws.finished, faces, far, ws.bench.next_run)
        ws.edit(
            "Draw out of a face" if len(faces) == 1 else "Draw out of faces", added.project, Selection.of(added.ids)
        )
        return added.ids[0]

    def _drop(self) -> None:
        self.faces, self.far, self.typed, self.sketch, self._pulled = [], 0.0, Typed(), Sketch(), False

    def take_back(self) -> bool:
        """The face taken last; False where there is none."""
        if not self.faces:
            return False
        self.faces.pop()
        if self.faces:
            self._show()
        else:
            self.cancel()
        return True

    def cancel(self) -> bool:
        was = bool(self.faces)
        self._drop()
        if was:
            self.workspace.unfinished.show(None)
        return was

    def type(self, typed: Typed) -> None:
        self.typed = Typed(typed.text)
        if self.faces:
            self._show()

    def enter_typed(self) -> bool:
        """A typed distance ends it."""
        if not self.typed.text.strip() or not self.faces:
            return False
        self.finish()
        return True

    def hover_left(self) -> None:
        """The pointer left the views."""
        if not self.faces:
            self.sketch = Sketch()
