"""Counts a user's actions from the real events, by the rules of the job budgets.

One action: a menu choice (the whole way through a menu) or shortcut, a click, a drag, a drop from outside, a typed
value, a choice in a list, a key with a meaning (Esc too, wherever it is pressed), a turn of the wheel. Free: moving the
pointer, Tab, held keys, the Enter that commits a typed value, unfolding a heading, the second half of a double click.
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
        self._held: tuple[int, int] | None = None
        self._combo: QComboBox | None = None
        for name, action in (*window.menus.by_id.items(), *window.tool_row.made_actions.items()):
            action.triggered.connect(lambda _=False, n=name: self._count(f"command {n}"))
        window.tool_row.coil.triggered.connect(lambda _=False: self._count("command coil"))
        QApplication.instance().installEventFilter(self)

    def close(self) -> None:
        QApplication.instance().removeEventFilter(self)

    @property
    def count(self) -> int:
        return len(self.actions)

    def _count(self, what: str) -> None:
        self._typing, self._combo = False, None
        self.actions.append(what)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        kind = event.type()
        if kind == QEvent.Type.MouseButtonPress and watched.isWidgetType():
            self._forget_held()
            self._on_press(watched)
        elif kind == QEvent.Type.KeyRelease and self._held is not None and event.key() == self._held[0]:
            self._held = None
        elif kind == QEvent.Type.KeyPress and watched is QApplication.focusWidget():  # parents get it again
            self._on_key(watched, event)
        elif kind == QEvent.Type.Wheel and watched.isWidgetType():
            self._count("wheel")
        elif kind == QEvent.Type.Drop and watched.isWidgetType() and event.source() is None:
            self._count("drop")  # one that began in the window was counted when it was pressed
        return False

    def _forget_held(self) -> None:
        """A key that is down while something is pressed was held: it is free."""
        if self._held is not None and self._held[1] == len(self.actions) - 1:
            del self.actions[-1]
        self._held = None

    def _on_press(self, target: QObject) -> None:
        is_tool = isinstance(target, QToolButton)
        if isinstance(target, QMenu | QMenuBar) or (is_tool and (target.objectName() == "heading" or target.menu())):
            return  # what is chosen in a menu counts
        if isinstance(target, QLineEdit):  # going into a field is part of the value that is typed
            self._typing, self._combo = False, None
            return
        if isinstance(target, QComboBox):  # what is taken from its list counts
            return
        self._count("choice in a list" if _is_popup_of_combo(target) else f"press on {type(target).__name__}")

    def _on_key(self, target: QObject, event: QEvent) -> None:
        key = event.key()
        if key == Qt.Key.Key_Escape:
            self._count("key Esc")
            return
        if isinstance(target, QComboBox):
            if key not in _FREE_KEYS and self._combo is not target:
                self._count("choice in a list")
                self._combo = target
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
        self._held = None if is_value else (key, len(self.actions) - 1)
        self._typing = bool(is_value)


def _is_popup_of_combo(target: QObject) -> bool:
    """Whether a widget is in the list that a list field opens."""
    while target is not None and not isinstance(target, QComboBox):
        target = target.parent()
    return target is not None
