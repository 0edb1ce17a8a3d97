"""Python's collector of cycles, run by the interface thread alone and when nothing moves.

It would otherwise start in whatever thread happens to make objects: a build could then destroy parts of the window,
which only the interface thread may, and a drag would stutter.
"""

import gc

from PySide6.QtCore import QObject, Qt, QTimer
from PySide6.QtWidgets import QApplication

EVERY_MILLISECONDS = 2000
ENOUGH = 20_000
"""New objects for which a round is worth its while."""
_WHOLE = 20
"""After so many rounds one looks at everything."""


class Collector(QObject):
    """Collects now and then, from its making on; what is loaded by then is left out for good."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        gc.collect()
        gc.freeze()
        gc.disable()
        self.rounds = 0
        timer = QTimer(self, interval=EVERY_MILLISECONDS)
        timer.timeout.connect(self.look)
        timer.start()

    def look(self) -> bool:
        """Collects where there is enough, unless a button of the mouse is held; tells whether it did."""
        if gc.get_count()[0] < ENOUGH or QApplication.mouseButtons() != Qt.MouseButton.NoButton:
            return False
        self.rounds += 1
        gc.collect(2 if self.rounds % _WHOLE == 0 else 1)
        return True
