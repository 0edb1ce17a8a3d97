"""What the column shows while nothing is chosen: the project, and what to do next."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QFont
from PySide6.QtWidgets import QGridLayout, QLabel, QVBoxLayout, QWidget

from morphax.app.session.workspace import Workspace
from morphax.app.widgets.theme import app_font

_FACTS = ("Runs", "Hosts", "Lengths in", "Faces", "To look at")
NEXT_WORDS = "Click a body in a view, or a run in the list, to change it. S, T or P draws the next one."
FIRST_WORDS = "T and clicks in a view draw the first run; Ctrl+K finds every command."


class ProjectCard(QWidget):
    """Name, sums and the next step."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.setObjectName("card")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        box = QVBoxLayout(self)
        box.setContentsMargins(10, 8, 10, 10)
        box.setSpacing(4)
        self.title = QLabel()
        self.title.setFont(app_font(11.0, weight=QFont.Weight.DemiBold))
        grid = QGridLayout()
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(1, 1)
        self.facts: dict[str, QLabel] = {}
        for row, name in enumerate(_FACTS):
            words, fact = QLabel(name), QLabel()
            words.setObjectName("soft")
            fact.setAlignment(Qt.AlignmentFlag.AlignRight)
            grid.addWidget(words, row, 0)
            grid.addWidget(fact, row, 1)
            self.facts[name] = fact
        self.next = QLabel()
        self.next.setObjectName("soft")
        self.next.setWordWrap(True)
        box.addWidget(self.title)
        box.addLayout(grid)
        box.addWidget(self.next)

    def refresh(self) -> None:
        ws = self.workspace
        tally = ws.bodies.tally
        self.title.setText(ws.file.stem if ws.file else "untitled")
        count = len(tally.serious)
        values = (len(ws.project.runs), len(ws.project.hosts), ws.project.unit, tally.face_count, count or "nothing")
        for name, value in zip(_FACTS, values, strict=True):
            self.facts[name].setText(f"{value:,}".replace(",", "\u202f") if isinstance(value, int) else str(value))
        self.next.setText(NEXT_WORDS if ws.project.runs else FIRST_WORDS)
