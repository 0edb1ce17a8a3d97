"""The search over all commands: type a few letters, Enter does it, Esc closes. Not a dialog: it asks nothing."""

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from morphax.app.actions.action import Action
from morphax.app.actions.desk import Desk
from morphax.app.actions.table import ACTIONS
from morphax.app.views.menus import Menus

_WIDTH, _MOST = 420, 9


def found_actions(text: str) -> list[Action]:
    """Actions whose words hold all words of the text; those that begin with it come first."""
    words = text.lower().split()
    hits = [a for a in ACTIONS if all(w in f"{a.whole_title} {a.menu}".lower() for w in words)]
    return sorted(hits, key=lambda a: not a.title.lower().startswith(text.lower().strip()))


class Search(QFrame):
    """A field with a list of what can be done."""

    def __init__(self, desk: Desk, menus: Menus, parent: QWidget) -> None:
        super().__init__(parent)
        self.desk, self.menus, self.over = desk, menus, parent
        self.setObjectName("card")
        self.setAccessibleName("Search the commands")
        box = QVBoxLayout(self)
        box.setContentsMargins(10, 10, 10, 10)
        self.field = QLineEdit()
        self.field.setPlaceholderText("what do you want to do?")
        self.field.setAccessibleName("Words of a command")
        self.list = QListWidget()
        self.list.setAccessibleName("Commands")
        self.list.setObjectName("commands")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        box.addWidget(self.field)
        box.addWidget(self.list)
        self.field.textChanged.connect(self.fill)
        self.field.installEventFilter(self)
        self.list.itemClicked.connect(lambda _: self.take())
        self.hide()

    def open(self) -> None:
        """Shows itself in the middle of the window's upper half, with an empty field."""
        self.field.clear()
        self.fill("")
        self.resize(_WIDTH, 40 + 28 * _MOST)
        self.move((self.over.width() - _WIDTH) // 2, 90)
        self.show()
        self.raise_()
        self.field.setFocus()

    def fill(self, text: str) -> None:
        """Lists what the words find; what cannot be done now is greyed."""
        self.list.clear()
        self.menus.refresh()
        for action in found_actions(text):
            keys = ", ".join(self.menus.keys_of(action))
            item = QListWidgetItem(f"{action.whole_title}    {keys}" if keys else action.whole_title)
            item.setData(Qt.ItemDataRole.UserRole, action.id)
            if not self.menus.by_id[action.id].isEnabled():
                item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEnabled)
            self.list.addItem(item)
        self.list.setCurrentRow(0)

    def take(self) -> None:
        """Does the chosen command."""
        item = self.list.currentItem()
        self.close_()
        if item is not None and item.flags() & Qt.ItemFlag.ItemIsEnabled:
            self.menus.by_id[item.data(Qt.ItemDataRole.UserRole)].trigger()

    def close_(self) -> None:
        self.hide()
        self.desk.active_view().take_focus()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Arrows walk the list, Enter takes, Esc and leaving the field close."""
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            if step is not None:
                row = self.list.currentRow() + step
                self.list.setCurrentRow(min(max(row, 0), self.list.count() - 1))
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.take()
                return True
            if event.key() == Qt.Key.Key_Escape:
                self.close_()
                return True
        if event.type() == QEvent.Type.FocusOut:
            self.hide()
        return super().eventFilter(watched, event)
