"""The findings of the chosen run in full sentences, each with its mends."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from morphax.app.session.workspace import Workspace
from morphax.core.findings import Finding, Severity
from morphax.project.edits.mends import Mend, mends_of
from morphax.project.units import sentence_in

MOST_SHOWN = 12
"""Findings of many runs that stand in the column one below the other; the rest is counted."""
_MOST_BESIDE = 200
"""Buttons that are wider together stand below each other: the column is narrow."""


class Checks(QWidget):
    """A box a finding; notes stand without a box."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.setObjectName("bare")
        self.workspace = workspace
        self.box = QVBoxLayout(self)
        self.box.setContentsMargins(0, 4, 0, 0)
        self.box.setSpacing(4)
        title = QLabel("Checks")
        title.setObjectName("title")
        self.box.addWidget(title)
        self._shown: tuple[tuple[tuple[str, str, Finding], ...], str] | None = None
        self._boxes: list[QWidget] = []
        self.mend_buttons: list[QPushButton] = []

    def show_findings(self, found: tuple[tuple[str, str, Finding], ...]) -> None:
        """Shows findings as (run id, name to say or "", finding); does nothing when they are shown already."""
        unit = self.workspace.project.unit
        if (found, unit) == self._shown:
            return
        self._shown = (found, unit)
        for old in self._boxes:
            self.box.removeWidget(old)
            old.hide()
            old.deleteLater()
        self._boxes, self.mend_buttons = [], []
        for run_id, name, finding in found[:MOST_SHOWN]:
            self._add(self._finding_box(run_id, name, finding))
        if len(found) > MOST_SHOWN:
            more = f"{len(found) - MOST_SHOWN} more to look at: choose a run to see its own. The list marks them."
            self._add(_words(more, "soft"))
        if not found:
            self._add(_words("Nothing to look at.", "soft"))

    def _said(self, finding: Finding) -> str:
        """The finding's sentence, with its lengths in the project's unit."""
        return sentence_in(finding.message, unit=self.workspace.project.unit)

    def _add(self, widget: QWidget) -> None:
        self._boxes.append(widget)
        self.box.addWidget(widget)

    def _finding_box(self, run_id: str, name: str, finding: Finding) -> QWidget:
        lead = f"{name}: " if name else ""
        if finding.severity is Severity.NOTE:
            return _words(f"{lead}{self._said(finding)}", "soft")
        holder = QWidget()
        holder.setObjectName("findingBox")
        holder.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        inner = QVBoxLayout(holder)
        inner.setContentsMargins(8, 6, 8, 6)
        inner.setSpacing(4)
        error = finding.severity is Severity.ERROR
        inner.addWidget(_words(f"{lead}{'No body: ' if error else ''}{self._said(finding)}", ""))
        mends = mends_of(run_id, finding)
        if mends:
            buttons = [self._button(mend) for mend in mends]
            narrow = sum(b.sizeHint().width() for b in buttons) > _MOST_BESIDE
            box = QVBoxLayout() if narrow else QHBoxLayout()
            for button in buttons:
                box.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
            if not narrow:
                box.addStretch(1)
            inner.addLayout(box)
        return holder

    def _button(self, mend: Mend) -> QPushButton:
        button = QPushButton(mend.label)
        button.clicked.connect(lambda: self.workspace.attempt(mend.label, mend.apply))
        self.mend_buttons.append(button)
        return button


def _words(text: str, name: str) -> QLabel:
    label = QLabel(text)
    label.setWordWrap(True)
    label.setObjectName(name)
    return label
