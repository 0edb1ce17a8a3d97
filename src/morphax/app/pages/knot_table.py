"""The knot table: places and radii of the chosen path as numbers, with copy and paste to and from a spreadsheet."""

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QFont, QKeyEvent, QKeySequence, QShowEvent
from PySide6.QtWidgets import (
    QApplication,
    QHeaderView,
    QLabel,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from morphax.app.actions.commands import knots_as_text
from morphax.app.session.workspace import Workspace
from morphax.app.widgets.theme import app_font
from morphax.io.errors import FileError
from morphax.io.table import read_table
from morphax.project.edits.holding import stay_held
from morphax.project.edits.knots import set_radius
from morphax.project.edits.path_import import replaced_path
from morphax.project.edits.paths import move_knots
from morphax.project.units import METRES, UnitError, format_number, parse_length

COLUMNS = ("x", "y", "z", "radius")


class _Cells(QTableWidget):
    """The cells; copy and paste take the whole table."""

    copied, pasted = Signal(), Signal()

    def event(self, event: QEvent) -> bool:
        """Copy and paste mean the table here, not the window's own."""
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.ShortcutOverride
            and (event.matches(QKeySequence.StandardKey.Copy) or event.matches(QKeySequence.StandardKey.Paste))
        ):
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.matches(QKeySequence.StandardKey.Copy):
            self.copied.emit()
        elif event.matches(QKeySequence.StandardKey.Paste):
            self.pasted.emit()
        else:
            super().keyPressEvent(event)


class KnotTable(QWidget):
    """Stands in the inspector's column."""

    closed = Signal()

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.setObjectName("column")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.workspace = workspace
        box = QVBoxLayout(self)
        box.setContentsMargins(10, 10, 10, 10)
        self.title = QLabel()
        self.title.setFont(app_font(11.0, weight=QFont.Weight.DemiBold))
        words = QLabel("Units and sums are read too. Ctrl+C copies all rows, Ctrl+V takes a table of them.")
        words.setObjectName("soft")
        words.setWordWrap(True)
        self.cells = _Cells(0, len(COLUMNS))
        self.cells.setAccessibleName("Knots")
        self.cells.setHorizontalHeaderLabels(COLUMNS)
        self.cells.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.cells.verticalHeader().setDefaultSectionSize(26)
        self.cells.verticalHeader().setMinimumWidth(24)
        self.cells.cellChanged.connect(self._on_changed)
        self.cells.copied.connect(lambda: QApplication.clipboard().setText(knots_as_text(workspace)))
        self.cells.pasted.connect(self.paste)
        back = QPushButton("Back")
        back.clicked.connect(self.closed)
        for w in (self.title, words, self.cells, back):
            box.addWidget(w)
        workspace.project_changed.connect(lambda *_: self.fill())
        workspace.selection_changed.connect(self.fill)

    def fill(self) -> None:
        """Shows the chosen path's knots."""
        path, unit = self.workspace.chosen.path, self.workspace.project.unit
        if not self.isVisible():
            return
        self.cells.blockSignals(True)
        knots = () if path is None else path.knots
        self.title.setText(f"{len(knots)} knots, {unit}" if path is not None else "No run is chosen")
        self.cells.setRowCount(len(knots))
        for row, knot in enumerate(knots):
            for column, value in enumerate((*knot.place, knot.radius)):
                self.cells.setItem(row, column, QTableWidgetItem(format_number(value / METRES[unit], decimals=4)))
        self.cells.blockSignals(False)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.fill()

    def _on_changed(self, row: int, column: int) -> None:
        """A typed value moves its knot, or rounds it."""
        path, unit = self.workspace.chosen.path, self.workspace.project.unit
        if path is None or row >= len(path.knots):
            return
        knot, cell = path.knots[row], self.cells.item(row, column)
        if cell is None:
            return
        try:
            value = parse_length(cell.text(), unit=unit)
        except UnitError as error:
            self.workspace.said.emit(f"{str(error)[:1].upper()}{str(error)[1:]}.")
            self.fill()
            return
        if column == 3:
            self.workspace.attempt("Round the corner", lambda p: set_radius(p, path.id, [knot.id], value))
        else:
            x, y, z = (value if i == column else v for i, v in enumerate(knot.place))
            place = (float(x), float(y), float(z))
            stay = stay_held(self.workspace.project, path, (knot.id,))
            move = lambda p: move_knots(p, path.id, {knot.id: place}, lifting=True)  # noqa: E731
            if self.workspace.attempt("Move a knot", move) and stay:
                self.workspace.said.emit(stay)
        self.fill()

    def paste(self) -> None:
        """Takes a table from the clipboard in place of all knots."""
        run, unit = self.workspace.chosen.run, self.workspace.project.unit
        if run is None:
            return
        try:
            rows = read_table(QApplication.clipboard().text(), unit=unit)
        except FileError as error:
            self.workspace.said.emit(f"{str(error)[:1].upper()}{str(error)[1:]}.")
            return
        self.workspace.attempt("Paste the knots", lambda p: replaced_path(p, run.id, rows.places, rows.radii))
        self.fill()
