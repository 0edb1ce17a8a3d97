"""The export page: stands in the inspector's column, with everything proposed, so that Export is one action."""

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFont, QKeyEvent, QShowEvent
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

from morphax.app.files.play_writer import PlayWriter
from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.fields import LABEL_WIDTH
from morphax.app.widgets.choice import CalmBox
from morphax.app.widgets.scrolled import scrolled
from morphax.app.widgets.theme import app_font
from morphax.build.exporting import PICTURES, READY, all_files_of, runs_of
from morphax.core.body.recipe import End
from morphax.core.findings import Severity
from morphax.io.errors import FileError
from morphax.io.export import FORMATS
from morphax.io.moving_pictures import MOVING
from morphax.project.edits.exports import with_export
from morphax.project.model.document import ExportWish, Run
from morphax.project.units import METRES, UnitError, format_number, parse_number

_TIMES = (("end", "as it ends"), ("now", "as it is shown"), ("every", "every picture"))
_OBJECTS = (
    ("each", "one object per run"),
    ("look", "one object per look"),
    ("joined", "all joined"),
    ("files", "one file per run"),
)
_LEVELS = (("one", "as they are"), ("levels", "near, mid and far"))
_ORIGINS = (("project", "the project's"), ("middle", "in the middle"), ("foot", "below the middle"))
_CURVES = (("none", "none"), ("curves", "beside, as lines"))


def _objects_of(wish: ExportWish) -> str:
    found = (("files", wish.per_run), ("joined", wish.joined), ("look", wish.by_material))
    return next((name for name, is_so in found if is_so), "each")


class ExportPage(QWidget):
    """Settings, format, what, unit, axis, folder and name of an export."""

    closed = Signal()
    exported = Signal(str)

    def __init__(self, workspace: Workspace, writer: PlayWriter) -> None:
        super().__init__()
        self.setObjectName("column")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.workspace, self.writer = workspace, writer
        self._wish: ExportWish | None = None
        self._asked: list[Path] = []
        self.box = QVBoxLayout(self)
        self.box.setContentsMargins(12, 10, 12, 12)
        self.box.setSpacing(6)
        title = QLabel("Export")
        title.setFont(app_font(11.0, weight=QFont.Weight.DemiBold))
        self.findings = QLabel()
        self.findings.setWordWrap(True)
        self.box.addWidget(title)
        self.box.addWidget(self.findings)
        self._rows: dict[QWidget, QWidget] = {}
        self._fields = QVBoxLayout()
        self._make_fields()
        self.box.addWidget(scrolled(self._fields), 1)
        self.fixed, self.result = QLabel(), QLabel()
        self.fixed.setObjectName("soft")
        for words in (self.fixed, self.result):
            words.setWordWrap(True)
        self.box.addWidget(self.fixed)
        self._buttons()
        self.box.addWidget(self.result)
        writer.done.connect(self._on_done)
        writer.failed.connect(self._on_failed)
        writer.progressed.connect(self._on_progress)
        for combo in (self.format, self.time, self.what, self.objects):
            combo.currentIndexChanged.connect(self.refresh)
        workspace.built.connect(self.refresh)
        workspace.project_changed.connect(lambda *_: self.refresh())
        workspace.selection_changed.connect(self.refresh)

    def _make_fields(self) -> None:
        self.ready = self._combo("Settings", ())
        self.ready.activated.connect(lambda i: self._take(self.ready.itemData(i)))
        self.format = self._combo("Format", tuple({**FORMATS, **PICTURES}.items()))
        self.format.activated.connect(self._choose_faces)
        self.time = self._combo("Time", _TIMES)
        self.pixels = QLineEdit("1280")
        self._row("Pixels wide", self.pixels)
        self.what = self._combo("What", (("shown", "all shown runs"), ("chosen", "the chosen runs")))
        self.objects = self._combo("Objects", _OBJECTS)
        self.levels = self._combo("Face counts", _LEVELS)
        self.curves = self._combo("Paths", _CURVES)
        self.origin = self._combo("Origin", _ORIGINS)
        self.unit = self._combo("Unit", tuple((u, u) for u in METRES))
        self.scale = QLineEdit("1")
        self._row("Scale", self.scale)
        self.up = self._combo("Up axis", (("z", "z up"), ("y", "y up")))
        self.faces = self._combo("Faces", (("quads", "four-sided"), ("triangles", "triangles")))
        self.folder, self.name = QLineEdit(str(Path.home())), QLineEdit()
        pick = QPushButton("…")
        pick.setFixedWidth(34)
        pick.setAccessibleName("Choose the folder")
        pick.clicked.connect(self._pick_folder)
        self._row("Folder", self.folder, pick)
        self._row("Name", self.name)
        self.name.setToolTip("{project} and {run} stand for their names, {count} for the number of the file")
        self.keep_name = QLineEdit()
        self.keep_name.setPlaceholderText("a name")
        self._row("Keep as", self.keep_name)

    def _choose_faces(self) -> None:
        """The usual faces of the format that was chosen: not every reader takes PLY with faces of four corners."""
        usual = "triangles" if self.format.currentData() == ".ply" else "quads"
        self.faces.setCurrentIndex(self.faces.findData(usual))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter exports, or presses the button that has the keys; Esc goes back."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            focused = self.focusWidget()
            pressed = focused if isinstance(focused, QPushButton) else self.go
            pressed.click()
        elif event.key() == Qt.Key.Key_Escape:
            self.closed.emit()
        else:
            super().keyPressEvent(event)

    def _row(self, label: str, *widgets: QWidget) -> None:
        holder = QWidget()
        holder.setObjectName("bare")
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        text = QLabel(label)
        text.setFixedWidth(LABEL_WIDTH - 16)
        row.addWidget(text)
        for w in widgets:
            row.addWidget(w)
        widgets[0].setAccessibleName(label)
        self._fields.addWidget(holder)
        self._rows[widgets[0]] = holder

    def _combo(self, label: str, choices: tuple[tuple[str, str], ...]) -> QComboBox:
        combo = CalmBox()
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

    # -- settings --------------------------------------------------------------------------------

    @property
    def project_name(self) -> str:
        file = self.workspace.file
        return file.stem if file else "untitled"

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def open(self, folder: str) -> None:
        """Proposes what the last export had, else folder and name."""
        file, last = self.workspace.file, self.workspace.project.last_export
        self.ready.clear()
        for wish in (*READY, *self.workspace.project.exports):
            self.ready.addItem(wish.name, wish)
        self.ready.setCurrentIndex(-1)
        self.ready.setPlaceholderText("ready settings")
        self.folder.setText(folder or str(file.parent if file else Path.home()))
        self.name.setText(self.project_name)
        if last is not None:
            self._take(last)
        self.result.setText("")
        self.refresh()
        self.go.setFocus()

    def _take(self, wish: ExportWish) -> None:
        """Fills the page from settings; folder and name stay where the settings have none of their own."""
        for combo, value in (
            (self.format, wish.suffix),
            (self.time, wish.time),
            (self.what, wish.what),
            (self.objects, _objects_of(wish)),
            (self.levels, "levels" if wish.levels else "one"),
            (self.curves, "curves" if wish.curves else "none"),
            (self.origin, wish.origin),
            (self.unit, wish.unit),
            (self.up, wish.up),
            (self.faces, "quads" if (wish.quads if wish.suffix == ".ply" else not wish.triangles) else "triangles"),
        ):
            combo.setCurrentIndex(combo.findData(value))
        self.pixels.setText(str(wish.pixels))
        self.scale.setText(format_number(wish.scale, decimals=6))
        if wish.pattern != "{project}":
            self.name.setText(wish.pattern)
        if wish.folder:
            self.folder.setText(wish.folder)
        self.refresh()

    def wish(self) -> ExportWish:
        """What the page says. Raises UnitError on a scale that is no number above 0, or pixels that are none."""
        pixels = parse_number(self.pixels.text())
        if not 16 <= pixels <= 8192 or pixels != round(pixels):
            raise UnitError("a picture is 16 to 8 192 pixels wide")
        scale = parse_number(self.scale.text())
        if not 0.0 < scale < 1e7:
            raise UnitError("the scale must be more than 0")
        objects = self.objects.currentData()
        return ExportWish(
            name=self.keep_name.text().strip() or "last",
            suffix=self.format.currentData(),
            what="shown" if self.format.currentData() in PICTURES else self.what.currentData(),
            time=self._time(),
            pixels=round(pixels),
            unit=self.unit.currentData(),
            scale=scale,
            up=self.up.currentData(),
            triangles=self.format.currentData() != ".ply" and self.faces.currentData() == "triangles",
            quads=self.format.currentData() == ".ply" and self.faces.currentData() == "quads",
            joined=objects == "joined",
            per_run=objects == "files",
            by_material=objects == "look",
            levels=self.levels.currentData() == "levels",
            curves=self.curves.currentData() == "curves",
            origin=self.origin.currentData(),
            pattern=self.name.text().strip() or "untitled",
            folder=self.folder.text(),
        )

    def _time(self) -> str:
        """Which time is written: moving pictures have all of them."""
        if not self.workspace.playing.has_any:
            return "end"
        return "every" if self.format.currentData() in MOVING else str(self.time.currentData())

    def runs(self) -> tuple[Run, ...]:
        """The runs that would be written."""
        of = "shown" if self.format.currentData() in PICTURES else self.what.currentData()
        what = ExportWish(name="what", what=of)
        return runs_of(self.workspace.project, what, self.workspace.selection.runs)

    def refresh(self) -> None:
        """Shows what would be written and what is to be said of it; a page out of sight is shown anew when it comes."""
        if not self.isVisible():
            return
        suffix = self.format.currentData()
        self._ask_nothing()
        self._show_rows(suffix)
        self.unit.setEnabled(suffix != ".glb")
        self.scale.setEnabled(suffix != ".glb")
        self.up.setEnabled(suffix != ".glb")
        self.faces.setEnabled(suffix in (".obj", ".ply"))
        self.fixed.setText(self._fixed_words(suffix))
        ready = [self.workspace.bodies[r.id] for r in self.runs() if r.id in self.workspace.bodies]
        faces = sum(b.body.face_count for b in ready)
        serious = sum(f.severity is not Severity.NOTE for b in ready for f in b.body.findings)
        words = f"{len(ready)} run{'s' if len(ready) != 1 else ''}, {format_number(faces, decimals=0)} faces"
        words += f" · {serious} to look at" if serious else " · nothing to look at"
        open_ends = sum(not is_closed_run(self.workspace, r) for r in self.runs())
        words += f" · {open_ends} not closed" if open_ends else " · all watertight"
        self.findings.setText(words if faces else "There is nothing to export yet.")
        self.findings.setObjectName("finding" if serious or open_ends else "soft")
        self.findings.style().unpolish(self.findings)
        self.findings.style().polish(self.findings)
        self.go.setEnabled(bool(faces))

    def _show_rows(self, suffix: str) -> None:
        """The fields that count: pictures have other ones than meshes, and a time is asked where something moves."""
        is_picture, moves = suffix in PICTURES, self.workspace.playing.has_any
        for field in (self.what, self.objects, self.unit, self.scale, self.up, self.faces):
            self._rows[field].setVisible(not is_picture)
        for field in (self.levels, self.curves, self.origin):  # what is written of one moment
            self._rows[field].setVisible(not is_picture and self._time() != "every")
        self._rows[self.pixels].setVisible(is_picture)
        self._rows[self.time].setVisible(moves and suffix not in MOVING)

    def _fixed_words(self, suffix: str) -> str:
        playing = self.workspace.playing
        if suffix in MOVING and not playing.has_any:
            return "Nothing moves yet: this is a picture that stands still."
        if suffix == ".glb":
            more = " What keeps its faces moves by morph targets, else there is a mesh for each picture."
            said = "GLB is always in metres, y up and in triangles: its standard says so."
            return f"{said}{more if self._time() == 'every' else ''}"
        if suffix in PICTURES:
            return "What the active view shows, without grid and marks."
        return ""

    def _ask_nothing(self) -> None:
        self._asked = []
        if not self.writer.is_on:
            self.go.setText("Export")

    def export(self) -> None:
        """Writes the files; asks once, on its own button, before it replaces files of another export."""
        ws = self.workspace
        if self.writer.is_on:
            self.writer.stop()
            return
        try:
            wish = self.wish()
            files = all_files_of(ws.project, wish, ws.selection.runs, self.project_name)
            last = ws.project.last_export
            own = all_files_of(ws.project, last, ws.selection.runs, self.project_name) if last is not None else []
            there = [f for f in files if f.exists() and f not in own]
            if there and there != self._asked:
                self._asked = there
                self.go.setText("Replace it" if len(there) == 1 else f"Replace {len(there)} files")
                self.result.setText(f"{there[0].name} is there already. Press the button once more to replace it.")
                return
        except (FileError, UnitError) as error:
            self._say(str(error))
            return
        self._wish = wish
        self.writer.write(wish, self.project_name)

    def _on_progress(self, done: int, of: int) -> None:
        if self._wish is not None:
            self.go.setText(f"Stop · {done} of {of}")

    def _on_done(self, files: list[Path], words: str) -> None:
        """What this page has asked for is written."""
        wish, self._wish = self._wish, None
        if wish is None:
            return
        self._remember(wish)
        self._ask_nothing()
        self.result.setText(f"{words_of(files)} {words}".strip())
        self.exported.emit(str(files[0].parent))

    def _on_failed(self, words: str) -> None:
        if self._wish is not None:
            self._wish = None
            self._ask_nothing()
            self._say(words)

    def _say(self, words: str) -> None:
        self.result.setText(f"{words[:1].upper()}{words[1:]}.")

    def _remember(self, wish: ExportWish) -> None:
        """The last export is kept in the project; with a name, its settings too."""
        keep = bool(self.keep_name.text().strip())
        self.workspace.amend(with_export(self.workspace.project, wish, keep=keep))
        if keep:
            self.keep_name.clear()


def is_closed_run(ws: Workspace, run: Run) -> bool:
    """Whether a run's body has no open end, and is no sheet."""
    built = ws.bodies.get(run.id)
    ends = run.recipe.ends
    if built is not None and built.body.mesh.is_sheet:
        return False
    return built is None or built.body.path_closed or End.OPEN not in (ends.start, ends.end)


def words_of(files: list[Path]) -> str:
    """What was written, for a person."""
    size = format_number(sum(f.stat().st_size for f in files) / 1024, decimals=0)
    return f"Wrote {files[0].name} ({size} kB)." if len(files) == 1 else f"Wrote {len(files)} files ({size} kB)."
