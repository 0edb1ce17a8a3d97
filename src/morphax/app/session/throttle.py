"""Throttle: views beside the panes follow a drag a few times a second, and everything else at once."""

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer

from morphax.app.session.workspace import Workspace

DRAG_MILLISECONDS = 100
"""How often lists and fields follow while something is drawn or dragged: the panes need the time."""


class Throttle(QObject):
    """Calls a refresh at once; while an edit is unfinished or a play runs, at most once each ``DRAG_MILLISECONDS``."""

    def __init__(self, parent: QObject, workspace: Workspace, refresh: Callable[[], None]) -> None:
        super().__init__(parent)
        self._workspace, self._refresh = workspace, refresh
        self._timer = QTimer(self, singleShot=True, interval=DRAG_MILLISECONDS)
        self._timer.timeout.connect(refresh)

    def ask(self, *_: object) -> None:
        """Something changed."""
        if not (self._workspace.unfinished.is_on or self._workspace.playing.is_on):
            self._timer.stop()
            self._refresh()
        elif not self._timer.isActive():
            self._timer.start()
