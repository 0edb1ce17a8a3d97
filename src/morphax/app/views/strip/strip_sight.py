"""Which part of the chosen run the strip shows."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QWheelEvent

from morphax.app.session.workspace import Workspace
from morphax.app.views.strip.ruler import Ruler

_ALL = (0.0, 1.0)


class StripSight:
    """The shares of the chosen run that are in view: all of it where another run is chosen."""

    def __init__(self, workspace: Workspace) -> None:
        self._workspace = workspace
        self._seen: tuple[str | None, tuple[float, float]] = (None, _ALL)
        self._held: float | None = None

    @property
    def seen(self) -> tuple[float, float]:
        return self._seen[1] if self._seen[0] == self._workspace.chosen.run_id else _ALL

    def see(self, seen: tuple[float, float]) -> None:
        self._seen = (self._workspace.chosen.run_id, seen)

    def wheel(self, event: QWheelEvent, ruler: Ruler) -> None:
        """The wheel zooms about the pointer; sideways, or with Shift, it moves what is in view."""
        turn, x = event.angleDelta(), event.position().x()
        aside = turn.x() or (turn.y() if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0)
        self.see(ruler.panned(0.5 * aside) if aside else ruler.zoomed(1.0015 ** turn.y(), x))
        event.accept()

    def hold(self, x: float | None) -> None:
        """The middle button goes down at a pixel, or (None) is let go."""
        self._held = x

    def pull(self, x: float, ruler: Ruler) -> bool:
        """Moves what is in view with what is held; False where nothing is."""
        if self._held is None:
            return False
        self.see(ruler.panned(x - self._held))
        self._held = x
        return True
