"""The inspector's column: card, folding headings, findings."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from morphax.app.session.throttle import Throttle
from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector import rows
from morphax.app.views.inspector.card import Card, NameField, SectionPicture, soft_label
from morphax.app.views.inspector.checks import Checks, Foot, Found
from morphax.app.views.inspector.fields import NumberField, RowWidget
from morphax.app.views.inspector.headings import HEADINGS, Heading
from morphax.app.views.inspector.host_card import HostCard
from morphax.app.views.inspector.project_card import ProjectCard
from morphax.app.views.inspector.summaries import sentence_of, title_of
from morphax.app.widgets.appearance import Look
from morphax.build.built import Built
from morphax.core.findings import Severity
from morphax.project.edits.things import renamed
from morphax.project.model.document import Run
from morphax.project.things import Thing, ThingKind


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
        self.project_card = ProjectCard(workspace)
        self.box.addWidget(self.project_card)
        self.host_card = HostCard(workspace)
        self.box.addWidget(self.host_card)
        self.headings: dict[str, Heading] = {}
        self.checks = Checks(workspace)
        self._make_headings()
        self.box.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidget(inner)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(0)
        outer.addWidget(scroll, 1)
        self.foot = Foot(self.checks)
        outer.addWidget(self.foot)
        throttle = Throttle(self, workspace, self.refresh)
        workspace.project_changed.connect(throttle.ask)
        workspace.built.connect(throttle.ask)
        workspace.selection_changed.connect(self.refresh)
        workspace.board.picked.connect(throttle.ask)
        self.refresh()

    def _make_headings(self) -> None:
        """What is chosen of the run, and then in the order of work."""
        self.headings = {kind.name: Heading(kind, self.workspace, self.look) for kind in HEADINGS}
        for heading in self.headings.values():
            self.box.addWidget(heading)
            heading.folded.connect(self._fold_all)

    def _fold_all(self, folded: bool) -> None:
        for heading in self.headings.values():
            heading.button.setChecked(not folded)

    def _make_card(self) -> None:
        self.card = Card()
        box = self.card.box
        self.name = NameField("Name")
        self.name.editingFinished.connect(self._rename)
        self.badge = QLabel()
        self.badge.setObjectName("finding")
        self.picture = SectionPicture()
        self.picture.opened.connect(self._open_section)
        top = QHBoxLayout()
        top.setSpacing(2)
        top.addWidget(self.picture)
        top.addWidget(self.name, 1)
        top.addWidget(self.badge)
        self.sentence = soft_label(wraps=True)
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

    def begin_number(self, text: str) -> bool:
        """Starts to type how the chosen pieces are spread, or what a command that was just done asks for."""
        ws = self.workspace
        row = ws.bench.typed_row(ws.selection)
        name = {"beside": "Beside", "rope": "Rope", "strands": "Strands"}.get(row.split(".")[0], "Chosen pieces")
        wanted = row or "piece.each"
        below = self.headings[name]
        if row and not below.button.isChecked():
            below.button.setChecked(True)
        below.refresh()
        field = next((w.editor for w in below.shown_rows if w.row.id == wanted), None)
        if not (row or ws.selection.pieces) or not isinstance(field, NumberField):
            return False
        field.begin_typing(text)
        return True

    def begin(self, heading: str, row: str) -> None:
        """Goes to a row's number below a heading, with its text chosen: what is typed replaces it."""
        below = self.headings[heading]
        below.refresh()
        field = next((w.editor for w in below.shown_rows if w.row.id == row), None)
        if isinstance(field, NumberField):
            field.setFocus(Qt.FocusReason.OtherFocusReason)

    def _open_section(self) -> None:
        run = self.workspace.chosen.run
        if run is not None:
            self.workspace.board.open_run(run)

    def _rename(self) -> None:
        run = self.workspace.chosen.run
        if run is not None and self.name.isModified() and self.name.text() != run.show.name:
            self.name.setModified(False)
            self.workspace.attempt("Rename", lambda p: renamed(p, Thing(ThingKind.RUN, run.id), self.name.text()))
        self.refresh()

    def refresh(self) -> None:
        """Shows what is chosen."""
        run = self.workspace.chosen.run
        self.card.setVisible(run is not None)
        self.card.setEnabled(not self.workspace.unfinished.is_drawing)  # a path is finished before its run is changed
        is_empty = run is None and not self.workspace.selection.hosts
        self.project_card.setVisible(is_empty)
        if is_empty:
            self.project_card.refresh()
        self.host_card.refresh()
        for heading in self.headings.values():
            heading.setVisible(heading.kind.shown(self.workspace))
            heading.refresh()
            heading.setEnabled(not self.workspace.unfinished.is_drawing)
        if run is None:
            self._show_findings(self.workspace.bodies.tally.serious)
            return
        built = self.workspace.chosen.body
        if not self.name.hasFocus():
            self.name.setText(title_of(self.workspace))
        section = self.workspace.project.find("sections", run.recipe.stations[0].section)
        self.picture.setVisible(section is not None)
        if section is not None:
            self.picture.show_source(section.source, self.look.tokens)
        self.name.setReadOnly(len(self.workspace.selection.runs) > 1)
        self.sentence.setText(sentence_of(self.workspace))
        found = self._findings(run, built)
        serious = sum(f.severity is not Severity.NOTE for _, _, f in found)
        self.badge.setText(f"{serious} to look at" if serious else "")
        for w in self.essentials:
            w.setVisible(w.row.shown(self.workspace))
            w.refresh()
        self._show_findings(found)

    def _show_findings(self, found: Found) -> None:
        """At the foot of the column, where there are any."""
        self.checks.show_findings(found)
        self.foot.setVisible(bool(found))

    def _findings(self, run: Run, built: Built | None) -> Found:
        """All that is found in the chosen run; of several, what is to be looked at, with their names."""
        chosen = self.workspace.chosen.run_ids
        if len(chosen) == 1:
            return tuple((run.id, "", f) for f in (built.body.findings if built is not None else ()))
        wanted = set(chosen)
        return tuple(found for found in self.workspace.bodies.tally.serious if found[0] in wanted)
