"""The quiet sheet of an empty project: what to do first, and what was open before."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QFont, QShowEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from morphax.app.widgets.choice import CalmBox
from morphax.app.widgets.theme import app_font


@dataclass(frozen=True)
class LineChoice:
    """A choice on the sheet's last line: its name, its options (value, words), what holds, and what choosing does."""

    name: str
    options: tuple[tuple[str, str], ...]
    now: str
    act: Callable[[str], object]


class FirstSheet(QWidget):
    """Lies over the first pane until something is drawn or opened."""

    def __init__(
        self, parent: QWidget, choices: tuple[tuple[str, Callable[[], object]], ...], line: tuple["LineChoice", ...]
    ) -> None:
        super().__init__(parent)
        parent.installEventFilter(self)
        self.setObjectName("card")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.box = QVBoxLayout(self)
        self.box.setContentsMargins(20, 16, 20, 16)
        self.box.setSpacing(6)
        title = QLabel("A path, a section, a body.")
        title.setFont(app_font(12.0, weight=QFont.Weight.DemiBold))
        words = QLabel("Press T and click in a view; double-click ends the path.\nThen type its width.")
        words.setObjectName("soft")
        self.box.addWidget(title)
        self.box.addWidget(words)
        self.choices: dict[str, QPushButton] = {}
        for text, act in choices:
            button = QPushButton(text)
            button.clicked.connect(lambda _=False, a=act: a())
            self.choices[text] = button
            self.box.addWidget(button)
        self._recent: list[QPushButton] = []
        self.combos: dict[str, QComboBox] = {}
        row = QHBoxLayout()
        row.setSpacing(4)
        for choice in line:
            combo = CalmBox()
            combo.setAccessibleName(choice.name)
            combo.setToolTip(choice.name)
            for value, text in choice.options:
                combo.addItem(text, value)
            combo.setCurrentIndex(combo.findData(choice.now))
            combo.activated.connect(lambda i, c=combo, a=choice.act: a(c.itemData(i)))
            self.combos[choice.name] = combo
            row.addWidget(combo)
        self.line = QWidget()
        self.line.setObjectName("bare")
        self.line.setLayout(row)
        row.setContentsMargins(0, 6, 0, 0)
        self.box.addWidget(self.line)

    def show_choices(self, now: dict[str, str]) -> None:
        """Shows what holds, by the name of the choice: it may have been changed elsewhere."""
        for name, value in now.items():
            self.combos[name].setCurrentIndex(self.combos[name].findData(value))

    def show_recent(self, names: tuple[str, ...], act: Callable[[str], object]) -> None:
        """Lists projects that were open before."""
        for old in self._recent:
            self.box.removeWidget(old)
            old.deleteLater()
        self._recent = []
        for name in names[:4]:
            button = QPushButton(Path(name).name)
            button.setToolTip(name)
            button.clicked.connect(lambda _=False, n=name: act(n))
            self._recent.append(button)
            self.box.insertWidget(self.box.indexOf(self.line), button)
        self.adjustSize()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.centre()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Stays in the middle when the pane below changes its size."""
        if event.type() == QEvent.Type.Resize:
            self.centre()
        return super().eventFilter(watched, event)

    def centre(self) -> None:
        parent = self.parentWidget()
        if parent is None:
            return
        self.adjustSize()
        self.move((parent.width() - self.width()) // 2, (parent.height() - self.height()) // 2)
