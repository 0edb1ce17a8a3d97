"""Fields of one line that give the keys back to the window."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QLineEdit

_KEYS = QKeySequence.StandardKey


class TextField(QLineEdit):
    """One line that gives the keys back: after Enter and Esc, and undo where nothing was typed in it."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.isModified() and any(event.matches(k) for k in (_KEYS.Undo, _KEYS.Redo)):
            event.ignore()  # the window's
            return
        if event.key() == Qt.Key.Key_Escape:
            self.take_back()
            self.clearFocus()
            return
        super().keyPressEvent(event)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not self.property("wrong"):
            self.clearFocus()

    def take_back(self) -> None:
        """Esc: what was typed does not count."""
        self.setModified(False)


class FindField(TextField):
    """What a list is searched for; Esc shows all of the list again."""

    def __init__(self, words: str, name: str) -> None:
        super().__init__()
        self.setPlaceholderText(words)
        self.setAccessibleName(name)

    def take_back(self) -> None:
        self.clear()
        super().take_back()
