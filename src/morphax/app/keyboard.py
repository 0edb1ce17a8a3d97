"""Keys that no field took, and files that are dropped: what the window does with them."""

from collections.abc import Callable
from pathlib import Path
from typing import cast

from PySide6.QtCore import QEvent, QKeyCombination, QObject, Qt
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QApplication, QLineEdit, QWidget

from morphax.app.actions.commands import nudge_across
from morphax.app.actions.desk import Desk
from morphax.app.files.exchange import Exchange
from morphax.app.pages.page_column import PageColumn
from morphax.app.tools.routing import KeyRoute
from morphax.app.views.next_width import NextWidth

_ARROWS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, 1),
    Qt.Key.Key_Down: (0, -1),
}
"""Right and up of the arrow keys."""


class Keyboard(QObject):
    """Watches a window for keys that come up to it: Enter, Backspace and Esc for tools, digits for a width."""

    def __init__(
        self,
        desk: Desk,
        window: QWidget,
        column: PageColumn,
        next_width: NextWidth,
        missing_for: Callable[[QKeyCombination], str],
    ) -> None:
        """``missing_for``: what the command of a key needs before it can be done."""
        super().__init__(window)
        self.desk, self.window, self.column, self.missing_for = desk, window, column, missing_for
        self.next_width = next_width
        next_width.done.connect(lambda: desk.active_view().take_focus())
        self.keys = KeyRoute(desk.toolbox)
        window.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        kind = event.type()
        if kind == QEvent.Type.KeyPress:
            return self._press(cast(QKeyEvent, event))
        if kind == QEvent.Type.KeyRelease:
            key = cast(QKeyEvent, event)
            if not key.isAutoRepeat():
                self.keys.hold(key.key(), down=False)
        elif kind == QEvent.Type.ActivationChange and not self.window.isActiveWindow():
            self.keys.let_go()  # a key that is let go while another window is in front is let go here too
        return False

    def _press(self, event: QKeyEvent) -> bool:
        """Whether a key was for a tool or a command."""
        key, text, tools = event.key(), event.text(), self.desk.toolbox
        self.keys.hold(key, down=True)
        if event.matches(QKeySequence.StandardKey.Undo):  # from a field in which nothing was typed
            self.desk.undo()
        elif event.matches(QKeySequence.StandardKey.Redo):
            self.desk.workspace.redo()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            tools.finish()
        elif key == Qt.Key.Key_Backspace:
            _ = self.keys.erase() or tools.take_back()
        elif key == Qt.Key.Key_Escape:
            tools.escape()
        elif key in _ARROWS and not _is_in_field():
            nudge_across(self.desk, *_ARROWS[Qt.Key(key)])
        elif self.keys.type(text):
            return True
        elif self._begins_number(text) and self.desk.workspace.chosen.run is not None:
            self.column.begin_width(text)
        elif self._begins_number(text):
            self.next_width.begin(text)
        else:
            return self._say_what_is_missing(event)
        return True

    def _say_what_is_missing(self, event: QKeyEvent) -> bool:
        """A key whose command can't be done now says why; whether it was one."""
        missing = "" if _is_in_field() else self.missing_for(event.keyCombination())
        if missing:
            self.desk.say(missing)
        return bool(missing)

    def _begins_number(self, text: str) -> bool:
        if len(text) != 1 or not (text.isdigit() or text in ".,+-"):
            return False
        return not _is_in_field() and not self.desk.toolbox.is_drawing


def _is_in_field() -> bool:
    return isinstance(QApplication.focusWidget(), QLineEdit)


class Drops(QObject):
    """Watches a window for files that are dropped on it."""

    def __init__(self, window: QWidget, exchange: Exchange) -> None:
        super().__init__(window)
        self.exchange = exchange
        window.setAcceptDrops(True)
        window.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.DragEnter:
            enter = cast(QDragEnterEvent, event)
            if enter.mimeData().hasUrls():
                enter.acceptProposedAction()
            return True
        if event.type() == QEvent.Type.Drop:
            drop = cast(QDropEvent, event)
            self.exchange.take_files([Path(u.toLocalFile()) for u in drop.mimeData().urls() if u.isLocalFile()])
            drop.acceptProposedAction()
            return True
        return False
