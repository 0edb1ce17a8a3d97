"""Keys and mouse: every command with its key, changeable, and the map of the mouse."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFont, QKeySequence
from PySide6.QtWidgets import (
    QGridLayout,
    QKeySequenceEdit,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from morphax.app.actions.action import Action
from morphax.app.actions.desk import Desk
from morphax.app.actions.table import ACTIONS
from morphax.app.views.menus import Menus
from morphax.app.views.panes.navigation import MAPS
from morphax.app.widgets.choice import CalmBox
from morphax.app.widgets.theme import app_font

HELD = (
    ("Snapping the other way", "Ctrl"),
    ("Straight direction, more knots", "Shift"),
    ("Stay on that axis", "X, Y, Z"),
    ("Straight up and down", "V"),
    ("See all paths through everything", "Space"),
    ("Whole loop of edges", "O"),
)
"""What keys do while they are held."""


class KeysPage(QWidget):
    """Stands in the inspector's column."""

    closed = Signal()

    def __init__(self, window: Desk, menus: Menus) -> None:
        super().__init__()
        self.desk, self.menus = window, menus
        self.setObjectName("column")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        box = QVBoxLayout(self)
        box.setContentsMargins(10, 10, 10, 10)
        title = QLabel("Keys and mouse")
        title.setFont(app_font(11.0, weight=QFont.Weight.DemiBold))
        self.mouse = CalmBox()
        self.mouse.setAccessibleName("Map of the mouse")
        self.mouse.addItems(list(MAPS))
        self.mouse.activated.connect(lambda i: window.prefs.choose_mouse(self.mouse.itemText(i)))
        self.said = QLabel()
        self.said.setObjectName("soft")
        self.said.setWordWrap(True)
        self._scroll = scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.fields: dict[str, QKeySequenceEdit] = {}
        usual = QPushButton("All keys as they were")
        usual.clicked.connect(lambda: self._keep({}))
        back = QPushButton("Back")
        back.clicked.connect(self.closed)
        for w in (title, self.mouse, self.said, scroll, usual, back):
            box.addWidget(w)

    def open(self) -> None:
        """Shows the keys that hold; their fields are made now: they are a quarter of all that a window is made of."""
        if not self.fields:
            self._scroll.setWidget(self._rows())
        self.refresh()

    def _rows(self) -> QWidget:
        """A name and a key field for each command."""
        inner = QWidget()
        grid = QGridLayout(inner)
        grid.setContentsMargins(0, 0, 10, 0)
        grid.setColumnStretch(0, 1)
        for row, action in enumerate(ACTIONS):
            field = QKeySequenceEdit()
            field.setMaximumSequenceLength(1)
            field.setAccessibleName(f"Key of {action.whole_title}")
            field.setFixedWidth(92)
            field.editingFinished.connect(lambda a=action.id: self._on_key(a))
            self.fields[action.id] = field
            name = QLabel(action.whole_title)
            name.setWordWrap(True)
            grid.addWidget(name, row, 0)
            grid.addWidget(field, row, 1)
        first = len(ACTIONS)
        heading = QLabel("While they are held")
        heading.setFont(app_font(9.0, weight=QFont.Weight.DemiBold))
        grid.addWidget(heading, first, 0, 1, 2)
        for row, (does, key) in enumerate(HELD, first + 1):
            words = QLabel(does)
            words.setWordWrap(True)
            grid.addWidget(words, row, 0)
            grid.addWidget(QLabel(key), row, 1)
        return inner

    def refresh(self) -> None:
        """The keys that hold, where they are shown."""
        self.mouse.setCurrentText(self.desk.settings.mouse)
        self.said.setText(MAPS[self.desk.settings.mouse].words)
        for action in ACTIONS if self.fields else ():
            keys = self.desk.settings.keys.get(action.id, action.keys)
            field = self.fields[action.id]
            field.setKeySequence(QKeySequence(keys[0] if keys else ""))
            line = field.findChild(QLineEdit)
            if line is not None:
                line.setPlaceholderText("none")

    def _on_key(self, action_id: str) -> None:
        """Gives a command another key; one that is taken stays where it is."""
        text = self.fields[action_id].keySequence().toString()
        settings, action = self.desk.settings, next(a for a in ACTIONS if a.id == action_id)
        now = settings.keys.get(action_id, action.keys)
        if text == (QKeySequence(now[0]).toString() if now else ""):
            return
        taken = next(
            (a for a in ACTIONS if a.id != action_id and text in [QKeySequence(k).toString() for k in self._of(a)]),
            None,
        )
        if text and taken is not None:
            self.refresh()
            self.said.setText(f"{text} belongs to “{taken.title}”; give that another key first.")
            return
        self._keep({**settings.keys, action_id: (text, *now[1:]) if text else ()})

    def _of(self, action: Action) -> tuple[str, ...]:
        return self.menus.keys_of(action)

    def _keep(self, keys: dict[str, tuple[str, ...]]) -> None:
        self.desk.prefs.choose_keys(keys)
        self.refresh()
