"""The export page: stands in the inspector's column, with folder and name proposed, so that Export is one action."""

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFont
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from morphax.app.inspector.fields import LABEL_WIDTH
from morphax.app.theme import app_font
from morphax.app.workspace import Workspace
from morphax.core.findings import Severity
from morphax.io.bodies import ExportOptions, NamedMesh
from morphax.io.errors import FileError
from morphax.io.export import FORMATS, export
from morphax.io.looks import look_of
from morphax.project.model import Run
from morphax.project.units import METRES, format_number


class ExportPage(QWidget):
    """Format, what, unit, axis, folder and name of an export."""

    closed = Signal()
    exported = Signal(str)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.setObjectName("column")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.workspace = workspace
        self.box = QVBoxLayout(self)
        self.box.setContentsMargins(12, 10, 12, 12)
        self.box.setSpacing(6)
        title = QLabel("Export")
        title.setFont(app_font(11.0, weight=QFont.Weight.DemiBold))
        self.box.addWidget(title)
        self.findings = QLabel()
        self.findings.setWordWrap(True)
        self.box.addWidget(self.findings)
        self.format = self._combo("Format", tuple(FORMATS.items()))
        self.what = self._combo("What", (("shown", "all runs that are shown"), ("chosen", "the chosen runs")))
        self.unit = self._combo("Unit", tuple((u, u) for u in METRES))
        self.up = self._combo("Up axis", (("z", "z up"), ("y", "y up")))
        self.faces = self._combo("Faces", (("quads", "four-sided"), ("triangles", "triangles")))
        self.folder = QLineEdit(str(Path.home()))
        self.name = QLineEdit()
        pick = QPushButton("…")
        pick.setFixedWidth(34)
        pick.setAccessibleName("Choose the folder")
        pick.clicked.connect(self._pick_folder)
        self._row("Folder", self.folder, pick)
        self._row("Name", self.name)
        self.fixed = QLabel()
        self.fixed.setObjectName("soft")
        self.fixed.setWordWrap(True)
        self.box.addWidget(self.fixed)
        self.result = QLabel()
        self.result.setWordWrap(True)
        self._buttons()
        self.box.addWidget(self.result)
        self.box.addStretch(1)
        self.format.currentIndexChanged.connect(self.refresh)
        self.what.currentIndexChanged.connect(self.refresh)
        workspace.built.connect(self.refresh)
        workspace.project_changed.connect(lambda *_: self.refresh())
        workspace.selection_changed.connect(self.refresh)

    def _row(self, label: str, *widgets: QWidget) -> None:
        row = QHBoxLayout()
        row.setSpacing(4)
        text = QLabel(label)
        text.setFixedWidth(LABEL_WIDTH - 16)
        row.addWidget(text)
        for w in widgets:
            row.addWidget(w)
        widgets[0].setAccessibleName(label)
        self.box.addLayout(row)

    def _combo(self, label: str, choices: tuple[tuple[str, str], ...]) -> QComboBox:
        combo = QComboBox()
        combo.setMinimumContentsLength(10)
        combo.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        for data, text in choices:
            combo.addItem(text, data)
        self._row(label, combo)
        return combo

    def _buttons(self) -> None:
        self.go = QPushButton("Export")
        self.go.setObjectName("main")
        self.go.clicked.connect(self.export)
        back = QPushButton("Back")
        back.clicked.connect(self.closed)
        row = QHBoxLayout()
        row.addWidget(self.go, 1)
        row.addWidget(back)
        self.box.addLayout(row)

    def _pick_folder(self) -> None:
        dialog = QFileDialog(self, "Choose the folder", self.folder.text())
        dialog.setOption(QFileDialog.Option.DontUseNativeDialog, True)
        dialog.setFileMode(QFileDialog.FileMode.Directory)
        if dialog.exec():
            self.folder.setText(dialog.selectedFiles()[0])

    def open(self, folder: str) -> None:
        """Proposes folder and name."""
        file = self.workspace.file
        self.folder.setText(folder or str(file.parent if file else Path.home()))
        self.name.setText(file.stem if file else "untitled")
        self.result.setText("")
        self.refresh()
        self.go.setFocus()

    def runs(self) -> tuple[Run, ...]:
        """The runs that would be written."""
        chosen = self.workspace.selection.runs
        if self.what.currentData() == "chosen":
            return tuple(r for r in self.workspace.project.runs if r.id in chosen)
        return tuple(r for r in self.workspace.project.runs if not r.show.hidden)

    def refresh(self) -> None:
        """Shows what would be written and what is to be said of it."""
        suffix = self.format.currentData()
        self.unit.setEnabled(suffix != ".glb")
        self.up.setEnabled(suffix != ".glb")
        self.faces.setEnabled(suffix in (".obj", ".ply"))
        self.fixed.setText("GLB is always in metres, y up and in triangles: its standard says so." * (suffix == ".glb"))
        ready = [self.workspace.bodies[r.id] for r in self.runs() if r.id in self.workspace.bodies]
        faces = sum(b.body.mesh.face_count for b in ready)
        serious = sum(f.severity is not Severity.NOTE for b in ready for f in b.body.findings)
        words = f"{len(ready)} run{'s' if len(ready) != 1 else ''}, {format_number(faces, decimals=0)} faces"
        words += f" · {serious} to look at" if serious else " · nothing to look at"
        self.findings.setText(words)
        self.findings.setObjectName("finding" if serious else "soft")
        self.findings.style().unpolish(self.findings)
        self.findings.style().polish(self.findings)
        self.go.setEnabled(bool(faces))

    def export(self) -> None:
        """Writes the file; a failure says why and leaves what was there."""
        ws = self.workspace
        builder, project = ws.builder, ws.project
        bodies = [
            NamedMesh(r.show.name, builder.run(project, r).body.mesh, look_of(project, r.show)) for r in self.runs()
        ]
        name = self.name.text().strip() or "untitled"
        file = Path(self.folder.text()).expanduser() / f"{name}{self.format.currentData()}"
        options = ExportOptions(
            1.0 / METRES[self.unit.currentData()], self.up.currentData(), self.faces.currentData() == "triangles"
        )
        try:
            export(file, bodies, options)
        except FileError as error:
            self.result.setText(f"{str(error)[:1].upper()}{str(error)[1:]}.")
            return
        self.result.setText(f"Wrote {file.name} ({format_number(file.stat().st_size / 1024, decimals=0)} kB).")
        self.exported.emit(str(file.parent))
