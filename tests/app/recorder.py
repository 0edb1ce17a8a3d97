"""Counts a user's actions from the real events, by the rules of the job budgets.

One action: a menu choice or shortcut, a click, a drag, a typed value, a choice in a list, a key with a meaning, a
turn of the wheel. Free: moving the pointer, Tab, held keys, the Enter that commits a typed value, unfolding a
heading, the second half of a double click.
"""

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit, QMenu, QMenuBar, QToolButton

from morphax.app.window import Window

_FREE_KEYS = {
    Qt.Key.Key_Tab, Qt.Key.Key_Backtab, Qt.Key.Key_Shift, Qt.Key.Key_Control, Qt.Key.Key_Alt, Qt.Key.Key_Meta,
    Qt.Key.Key_V, Qt.Key.Key_Space,
}  # fmt: skip
_ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


class Recorder(QObject):
    """Watches all events of the application; ``actions`` lists what was counted, in words."""

    def __init__(self, window: Window) -> None:
        super().__init__()
        self.actions: list[str] = []
        self._typing = False
        self._combo: tuple[QComboBox, int] | None = None
        self._serial = 0
        for name, action in window.menus.by_id.items():
            action.triggered.connect(lambda _=False, n=name: self._count(f"command {n}"))
        QApplication.instance().installEventFilter(self)

    def close(self) -> None:
        QApplication.instance().removeEventFilter(self)

    @property
    def count(self) -> int:
        return len(self.actions)

    def _count(self, what: str) -> None:
        self._typing = False
        self.actions.append(what)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        kind = event.type()
        if kind == QEvent.Type.MouseButtonPress and watched.isWidgetType():
            self._on_press(watched)
        elif kind == QEvent.Type.KeyPress and watched is QApplication.focusWidget():  # parents get it again
            self._on_key(watched, event)
        elif kind == QEvent.Type.Wheel and watched.isWidgetType():
            self._count("wheel")
        return False

    def _on_press(self, target: QObject) -> None:
        heading = isinstance(target, QToolButton) and target.objectName() == "heading"
        if isinstance(target, QMenu | QMenuBar) or heading:
            return
        if isinstance(target, QLineEdit):  # going into a field is part of the value that is typed
            self._typing = False
            return
        self._count(f"press on {type(target).__name__}")

    def _on_key(self, target: QObject, event: QEvent) -> None:
        key = event.key()
        if isinstance(target, QComboBox):
            if self._combo is None or self._combo[0] is not target:
                self._combo = (target, 0)
                self._count("choice in a list")
            return
        if key in _FREE_KEYS and not isinstance(target, QLineEdit):
            return
        if key in _ENTER and (self._typing or isinstance(target, QLineEdit)):
            self._typing = False
            return
        is_value = isinstance(target, QLineEdit) or (event.text() and event.text() in "0123456789.,+-*/ x")
        if is_value and self._typing:
            return
        self._count("typed value" if is_value else f"key {event.text() or key}")
        self._typing = bool(is_value)
