"""What the column shows while nothing is chosen: the project, and what to do next."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QLabel

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.card import Card, soft_label, title_font
from morphax.project.units import format_number

_FACTS = ("Runs", "Hosts", "Lengths in", "Faces", "To look at")
NEXT_WORDS = "Click a body in a view, or a run in the list, to change it. S, T or P draws the next one."
FIRST_WORDS = "T and clicks in a view draw the first run; Ctrl+K finds every command."


class ProjectCard(Card):
    """Name, sums and the next step."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.title = QLabel()
        self.title.setFont(title_font())
        grid = QGridLayout()
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(1, 1)
        self.facts: dict[str, QLabel] = {}
        for row, name in enumerate(_FACTS):
            words, fact = soft_label(), QLabel()
            words.setText(name)
            fact.setAlignment(Qt.AlignmentFlag.AlignRight)
            grid.addWidget(words, row, 0)
            grid.addWidget(fact, row, 1)
            self.facts[name] = fact
        self.next = soft_label(wraps=True)
        self.box.addWidget(self.title)
        self.box.addLayout(grid)
        self.box.addWidget(self.next)

    def refresh(self) -> None:
        ws = self.workspace
        tally = ws.bodies.tally
        self.title.setText(ws.file.stem if ws.file else "untitled")
        count = len(tally.serious)
        values = (len(ws.project.runs), len(ws.project.hosts), ws.project.unit, tally.face_count, count or "nothing")
        for name, value in zip(_FACTS, values, strict=True):
            self.facts[name].setText(value if isinstance(value, str) else format_number(value, decimals=0))
        self.next.setText(NEXT_WORDS if ws.project.runs else FIRST_WORDS)
