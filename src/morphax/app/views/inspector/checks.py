"""The findings of the chosen run in full sentences, each with its mends."""

from collections import Counter

from PySide6.QtCore import QEvent, QSize, Qt
from PySide6.QtWidgets import (
    QApplication,
    QBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from morphax.app.session.surfaces import mends_by_surface
from morphax.app.session.workspace import Workspace
from morphax.core.findings import Finding, Severity
from morphax.project.edits.mends import Mend, mends_of
from morphax.project.units import sentence_in

MOST_SHOWN = 6
"""Findings of many runs that stand in the column one below the other; the rest is counted."""
_FEW, _HIGHEST = 3, 0.42
_MOST_BESIDE = 200
"""Buttons that are wider together stand below each other: the column is narrow."""


class FindingRow(QWidget):
    """One finding: a sentence in a box with its mends, or, for a note, the sentence alone. It is used again for the
    next one: making and placing widgets takes longest."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._inner = QVBoxLayout(self)
        self._inner.setSpacing(4)
        self._words = QLabel()
        self._words.setWordWrap(True)
        self._inner.addWidget(self._words)
        self._beside = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        self._beside.addStretch(1)  # buttons stand together at the left
        self._inner.addLayout(self._beside)
        self._mends: tuple[Mend, ...] = ()
        self._buttons: list[QPushButton] = []

    @property
    def mend_buttons(self) -> list[QPushButton]:
        """The buttons of the finding that is shown."""
        return self._buttons[: len(self._mends)]

    def show_words(self, text: str) -> None:
        """A sentence without a box."""
        self._show(text, "soft", ())

    def show_finding(self, run_id: str, name: str, finding: Finding) -> None:
        """``name``: words of the run before the sentence, or empty."""
        lead = f"{name}: " if name else ""
        said = sentence_in(finding.message, unit=self.workspace.project.unit)
        if finding.severity is Severity.NOTE:
            self.show_words(f"{lead}{said}")
            return
        what = "No body: " if finding.severity is Severity.ERROR else ""
        self._show(f"{lead}{what}{said}", "", self._mends_of(run_id, finding))

    def _mends_of(self, run_id: str, finding: Finding) -> tuple[Mend, ...]:
        built = self.workspace.bodies.get(run_id)
        own = mends_of(run_id, finding, 0.0 if built is None else built.body.width, self.workspace.project)
        return own + mends_by_surface(self.workspace, run_id, finding)

    def _show(self, text: str, words: str, mends: tuple[Mend, ...]) -> None:
        is_box = not words
        _name(self, "findingBox" if is_box else "bare")
        _name(self._words, words)
        margins = (8, 6, 8, 6) if is_box else (0, 0, 0, 0)
        self._inner.setContentsMargins(*margins)
        if self._words.text() != text:
            self._words.setText(text)
        labels, self._mends = [m.label for m in self._mends], mends
        if labels != [m.label for m in mends]:
            self._show_mends()
        self.setVisible(True)

    def _show_mends(self) -> None:
        while len(self._buttons) < len(self._mends):
            self._buttons.append(self._button(len(self._buttons)))
        for k, button in enumerate(self._buttons):
            button.setVisible(k < len(self._mends))
            button.setText(self._mends[k].label if k < len(self._mends) else "")
        narrow = sum(b.sizeHint().width() for b in self.mend_buttons) > _MOST_BESIDE
        way = QBoxLayout.Direction.TopToBottom if narrow else QBoxLayout.Direction.LeftToRight
        if self._beside.direction() is not way:
            self._beside.setDirection(way)

    def _button(self, k: int) -> QPushButton:
        button = QPushButton(self)
        button.clicked.connect(lambda: self._mend(self._mends[k]))
        self._beside.insertWidget(k, button, 0, Qt.AlignmentFlag.AlignLeft)
        return button

    def _mend(self, mend: Mend) -> None:
        self.workspace.attempt(mend.label, mend.apply)

    def clear(self) -> None:
        """Shows nothing, until it is used again; its look stays, since a new one costs most."""
        if not self.isHidden():
            self._words.setText("")
            self._mends = ()
            self._show_mends()
            self.setVisible(False)


def _name(widget: QWidget, name: str) -> None:
    """Gives a widget the look of a name."""
    if widget.objectName() != name:
        widget.setObjectName(name)
        widget.style().unpolish(widget)
        widget.style().polish(widget)


Found = tuple[tuple[str, str, Finding], ...]
"""Findings as (run id, name to say or "", finding)."""


class Foot(QScrollArea):
    """Stands at the foot of the column: as tall as what is found, up to a share of the column."""

    def __init__(self, checks: "Checks") -> None:
        super().__init__()
        self.setObjectName("foot")
        self.setWidget(checks)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        self.setVisible(False)

    def sizeHint(self) -> QSize:
        inner, column = self.widget(), self.parentWidget()
        if inner is None or column is None:
            return super().sizeHint()
        tall = inner.heightForWidth(self.viewport().width()) if inner.hasHeightForWidth() else inner.sizeHint().height()
        return QSize(inner.sizeHint().width(), min(tall + 2, int(_HIGHEST * column.height())))

    def minimumSizeHint(self) -> QSize:
        return QSize(0, min(self.sizeHint().height(), 60))

    def viewportEvent(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.LayoutRequest:
            self.updateGeometry()
        return super().viewportEvent(event)


class Newest:
    """Puts findings in order: what must be looked at before notes, and of these the newest first."""

    def __init__(self) -> None:
        self._since: dict[tuple[str, str, int], int] = {}
        self._turn = 0

    def first(self, found: Found, looked_at: frozenset[str]) -> Found:
        """``found`` in order. ``looked_at``: runs of which all findings are here, none: all runs; what is not found
        any more in them counts as new when it comes back."""
        self._turn += 1
        counts: Counter[tuple[str, str]] = Counter()
        since: dict[tuple[str, str, int], int] = {}
        order = []
        for run_id, _, finding in found:
            of = (run_id, finding.code)
            key = (*of, counts[of])
            counts[of] += 1
            since[key] = self._since.get(key, self._turn)
            order.append((finding.severity is Severity.NOTE, -since[key]))
        elsewhere = {k: t for k, t in self._since.items() if looked_at and k[0] not in looked_at}
        self._since = elsewhere | since
        return tuple(found[k] for k in sorted(range(len(found)), key=order.__getitem__))


class Checks(QWidget):
    """A box a finding; notes stand without a box."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.setObjectName("bare")
        self.workspace = workspace
        self.box = QVBoxLayout(self)
        self.box.setContentsMargins(10, 6, 10, 8)
        self.box.setSpacing(4)
        title = QLabel("Checks")
        title.setObjectName("title")
        self.box.addWidget(title)
        self._shown: tuple[Found, str] | None = None
        self._newest = Newest()
        self._rows: list[FindingRow] = []

    @property
    def mend_buttons(self) -> list[QPushButton]:
        """The buttons of all findings that are shown."""
        return [button for row in self._rows for button in row.mend_buttons]

    def show_findings(self, found: Found) -> None:
        """Shows findings as (run id, name to say or "", finding), the newest first; nothing is done when they are shown
        already."""
        found = self._newest.first(found, frozenset(self.workspace.selection.runs))
        unit = self.workspace.project.unit
        if (found, unit) == self._shown:
            return
        self._shown = (found, unit)
        comes_anew = len(found) > _FEW and not self.isAncestorOf(QApplication.focusWidget() or self)
        if comes_anew:
            self.setVisible(False)  # rows that come one by one into what is shown place the whole column each time
        self._fill(found)
        if comes_anew:
            self.setVisible(True)

    def _fill(self, found: Found) -> None:
        for k, (run_id, name, finding) in enumerate(found[:MOST_SHOWN]):
            self._row(k).show_finding(run_id, name, finding)
        count = min(len(found), MOST_SHOWN)
        rest = ""
        if len(found) > MOST_SHOWN:
            rest = f"{len(found) - MOST_SHOWN} more to look at: choose a run to see its own. The list marks them."
        if rest:
            self._row(count).show_words(rest)
            count += 1
        for row in self._rows[count:]:
            row.clear()

    def _row(self, k: int) -> FindingRow:
        while len(self._rows) <= k:
            self._rows.append(FindingRow(self.workspace))
            self.box.addWidget(self._rows[-1])
        return self._rows[k]
