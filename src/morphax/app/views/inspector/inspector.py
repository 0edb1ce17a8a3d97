"""The inspector's column: card, folding headings, findings."""

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFont
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QScrollArea,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from morphax.app.session.throttle import Calm
from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector import body_rows, path_rows, rows
from morphax.app.views.inspector.anchor_pad import AnchorPad
from morphax.app.views.inspector.checks import Checks
from morphax.app.views.inspector.fields import NumberField, RowWidget
from morphax.app.views.inspector.host_card import HostCard
from morphax.app.views.inspector.summaries import summaries, title_of
from morphax.app.widgets.appearance import Look
from morphax.app.widgets.text_field import TextField
from morphax.app.widgets.theme import app_font
from morphax.build.builder import Built
from morphax.core.findings import Finding, Severity
from morphax.project.edits.runs import rename_run
from morphax.project.model.document import Run


class Heading(QWidget):
    """A folding heading with a summary on its right and rows below."""

    def __init__(
        self,
        name: str,
        workspace: Workspace,
        read_rows: Callable[[], tuple[rows.Row, ...]],
        top_widget: QWidget | None = None,
    ) -> None:
        super().__init__()
        self.setObjectName("bare")
        self.top_widget = top_widget
        self.workspace, self.read_rows = workspace, read_rows
        self.name = name
        self.button = QToolButton()
        self.button.setObjectName("heading")
        self.button.setCheckable(True)
        self.button.toggled.connect(lambda _: self.refresh())
        self.summary = QLabel()
        self.summary.setObjectName("soft")
        self.summary.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.summary.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        top = QHBoxLayout()
        top.addWidget(self.button)
        top.addWidget(self.summary, 1)
        self.body = QVBoxLayout()
        self.body.setSpacing(2)
        self.body.setContentsMargins(8, 0, 0, 4)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addLayout(top)
        if top_widget is not None:
            box.addWidget(top_widget)
        box.addLayout(self.body)
        self._shown: list[RowWidget] = []
        self._ids: tuple[str, ...] = ()

    @property
    def shown_rows(self) -> list[RowWidget]:
        """The rows that are shown now."""
        return self._shown

    def refresh(self, summary: str | None = None) -> None:
        """Shows the rows when unfolded; keeps the editors that are still wanted."""
        if summary is not None:
            self.summary.setText(summary)
        is_open = self.button.isChecked()
        arrow = "\u25be" if is_open else "\u25b8"
        self.button.setText(f"{arrow}  {self.name}")
        wanted = tuple(r for r in self.read_rows() if r.shown(self.workspace)) if is_open else ()
        ids = tuple(r.id for r in wanted)
        if ids != self._ids:
            for old in self._shown:
                self.body.removeWidget(old)
                old.hide()
                old.deleteLater()
            self._shown = [RowWidget(r, self.workspace) for r in wanted]
            for w in self._shown:
                self.body.addWidget(w)
            self._ids = ids
        for w in self._shown:
            w.refresh()
        if self.top_widget is not None:
            self.top_widget.setVisible(is_open)
            self.top_widget.update()


class Inspector(QWidget):
    """Card and headings of what is chosen."""

    folded = Signal()

    def __init__(self, workspace: Workspace, look: Look) -> None:
        super().__init__()
        self.setObjectName("column")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.workspace, self.look = workspace, look
        inner = QWidget()
        inner.setObjectName("bare")
        self.box = QVBoxLayout(inner)
        self.box.setContentsMargins(10, 10, 10, 10)
        self.box.setSpacing(2)
        self._make_card()
        self.empty = QLabel("Nothing is chosen.\nClick a body in a view, or a run in the list.")
        self.empty.setObjectName("soft")
        self.empty.setWordWrap(True)
        self.box.addWidget(self.empty)
        self.host_card = HostCard(workspace)
        self.box.addWidget(self.host_card)
        self.headings: dict[str, Heading] = {}
        self.checks = Checks(workspace)
        self.anchor_pad = AnchorPad(workspace, look)
        self._make_headings()
        self.box.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidget(inner)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(scroll)
        calm = Calm(self, workspace, self.refresh)
        workspace.project_changed.connect(calm.ask)
        workspace.built.connect(calm.ask)
        workspace.selection_changed.connect(self.refresh)
        self.refresh()

    def _make_headings(self) -> None:
        """In the order of work, with the chosen knot after the checks."""
        ws = self.workspace
        for name, read in (
            ("Path", lambda: path_rows.PATH),
            ("Refine", lambda: path_rows.REFINE),
            ("Section", lambda: body_rows.section_rows(ws)),
            ("Placing", lambda: body_rows.PLACING),
            ("Corners and ends", lambda: body_rows.CORNERS),
            ("Density", lambda: body_rows.DENSITY),
            ("Move and turn", lambda: path_rows.MOVE),
            ("Knot", lambda: path_rows.knot_rows(ws)),
        ):
            self.headings[name] = Heading(name, ws, read, self.anchor_pad if name == "Placing" else None)
            if name == "Knot":
                self.box.addWidget(self.checks)
            self.box.addWidget(self.headings[name])
        self.headings["Knot"].button.setChecked(True)

    def _make_card(self) -> None:
        self.card = QWidget()
        self.card.setObjectName("card")
        self.card.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        box = QVBoxLayout(self.card)
        box.setContentsMargins(10, 8, 10, 8)
        box.setSpacing(3)
        self.name = TextField()
        self.name.setObjectName("name")
        self.name.setFont(app_font(11.0, weight=QFont.Weight.DemiBold))
        self.name.setAccessibleName("Name")
        self.name.editingFinished.connect(self._rename)
        self.badge = QLabel()
        self.badge.setObjectName("finding")
        top = QHBoxLayout()
        top.addWidget(self.name, 1)
        top.addWidget(self.badge)
        self.sentence = QLabel()
        self.sentence.setObjectName("soft")
        self.sentence.setWordWrap(True)
        box.addLayout(top)
        box.addWidget(self.sentence)
        self.essentials = [RowWidget(row, self.workspace) for row in rows.CARD]
        for w in self.essentials:
            box.addWidget(w)
        self.box.addWidget(self.card)

    @property
    def width_field(self) -> NumberField:
        """The field that typing goes to after a run is finished."""
        editor = self.essentials[0].editor
        assert isinstance(editor, NumberField)
        return editor

    def begin_radius(self) -> None:
        """Goes to the corner radius: of the chosen knot, else of all corners of the path."""
        knot = self.headings["Knot"]
        knot.refresh()
        wanted = [*knot.shown_rows, *self.essentials]
        field = next((w.editor for w in wanted if w.row.id in ("knot.radius", "card.radius") and w.isVisible()), None)
        if isinstance(field, NumberField):
            field.setFocus()
        else:
            self.workspace.said.emit("There is no corner here to round; B makes the chosen knot a corner.")

    def _rename(self) -> None:
        run = self.workspace.chosen.run
        if run is not None and self.name.isModified() and self.name.text() != run.show.name:
            self.name.setModified(False)
            self.workspace.attempt("Rename", lambda p: rename_run(p, run.id, self.name.text()))
        self.refresh()

    def refresh(self) -> None:
        """Shows what is chosen."""
        run = self.workspace.chosen.run
        self.card.setVisible(run is not None)
        self.card.setEnabled(not self.workspace.unfinished.is_drawing)  # a path is finished before its run is changed
        self.empty.setVisible(run is None and not self.workspace.selection.hosts)
        self.host_card.refresh()
        words = summaries(self.workspace)
        for name, heading in self.headings.items():
            heading.setVisible(run is not None and (name != "Knot" or bool(path_rows.knot_rows(self.workspace))))
            heading.refresh(words.get(name, ""))
            heading.setEnabled(not self.workspace.unfinished.is_drawing)
        self.checks.setVisible(run is not None or bool(self.workspace.project.runs))
        if run is None:
            self.checks.show_findings(self.workspace.bodies.tally.serious)
            return
        built = self.workspace.chosen.body
        if not self.name.hasFocus():
            self.name.setText(title_of(self.workspace))
        self.name.setReadOnly(len(self.workspace.selection.runs) > 1)
        self.sentence.setText(words["sentence"])
        found = self._findings(run, built)
        serious = sum(f.severity is not Severity.NOTE for _, _, f in found)
        self.badge.setText(f"{serious} to look at" if serious else "")
        for w in self.essentials:
            w.setVisible(w.row.shown(self.workspace))
            w.refresh()
        self.headings["Knot"].name = words["knot"]
        self.headings["Knot"].refresh()
        self.checks.show_findings(found)

    def _findings(self, run: Run, built: Built | None) -> tuple[tuple[str, str, Finding], ...]:
        """All that is found in the chosen run; of several, what is to be looked at, with their names."""
        chosen = self.workspace.chosen.run_ids
        if len(chosen) == 1:
            return tuple((run.id, "", f) for f in (built.body.findings if built is not None else ()))
        wanted = set(chosen)
        return tuple(found for found in self.workspace.bodies.tally.serious if found[0] in wanted)
