"""The fields of an export: settings, format, what, unit, axis, folder and name."""

from pathlib import Path

from PySide6.QtWidgets import QComboBox, QFileDialog, QLineEdit, QPushButton, QVBoxLayout, QWidget

from morphax.app.pages.print_part import PrintPart
from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.fields import LABEL_WIDTH
from morphax.app.widgets.choice import CalmBox
from morphax.app.widgets.labelled import labelled
from morphax.build.exporting import PICTURES, runs_of
from morphax.io.export import FORMATS
from morphax.io.moving_pictures import MOVING
from morphax.project.model.document import ExportWish, Run
from morphax.project.units import METRES, UnitError, format_number, parse_number

_TIMES = (("end", "as it ends"), ("now", "as it is shown"), ("every", "every picture"))
_OBJECTS = (
    ("each", "one object per run"),
    ("look", "one object per look"),
    ("joined", "all joined"),
    ("solid", "one solid"),
    ("files", "one file per run"),
)
_LEVELS = (("one", "as they are"), ("levels", "near, mid and far"))
_EDGES = (("kept", "as they are"), ("smooth", "all smooth"), ("hard", "all hard"))
_ORIGINS = (("project", "the project's"), ("middle", "in the middle"), ("foot", "below the middle"))
_CURVES = (("none", "none"), ("curves", "beside, as lines"))


_SHADED = (".obj", ".glb")
"""Formats that have normals."""


def _objects_of(wish: ExportWish) -> str:
    found = (("files", wish.per_run), ("joined", wish.joined), ("solid", wish.solid), ("look", wish.by_material))
    return next((name for name, is_so in found if is_so), "each")


class ExportFields(QWidget):
    """What is asked of an export, as it is typed and chosen."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self._rows: dict[QWidget, QWidget] = {}
        self._fields = QVBoxLayout()
        self._make_fields()

    def _make_fields(self) -> None:
        self.ready = self._combo("Settings", ())
        self.format = self._combo("Format", tuple({**FORMATS, **PICTURES}.items()))
        self.format.activated.connect(self._choose_faces)
        self.time = self._combo("Time", _TIMES)
        self.pixels = QLineEdit("1280")
        self._row("Pixels wide", self.pixels)
        self.what = self._combo("What", (("shown", "all shown runs"), ("chosen", "the chosen runs")))
        self.objects = self._combo("Objects", _OBJECTS)
        self.print = PrintPart(self.workspace)
        self._fields.addWidget(self.print)
        self.levels = self._combo("Face counts", _LEVELS)
        self.curves = self._combo("Paths", _CURVES)
        self.edges = self._combo("Edges", _EDGES)
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

    def _row(self, label: str, *widgets: QWidget) -> None:
        holder = labelled(label, LABEL_WIDTH - 16, *widgets)
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

    def _pick_folder(self) -> None:
        dialog = QFileDialog(self, "Choose the folder", self.folder.text())
        dialog.setOption(QFileDialog.Option.DontUseNativeDialog, True)
        dialog.setFileMode(QFileDialog.FileMode.Directory)
        if dialog.exec():
            self.folder.setText(dialog.selectedFiles()[0])

    def take(self, wish: ExportWish) -> None:
        """Fills the page from settings; folder and name stay where the settings have none of their own."""
        for combo, value in (
            (self.format, wish.suffix),
            (self.time, wish.time),
            (self.what, wish.what),
            (self.objects, _objects_of(wish)),
            (self.levels, "levels" if wish.levels else "one"),
            (self.curves, "curves" if wish.curves else "none"),
            (self.edges, wish.edges),
            (self.origin, wish.origin),
            (self.unit, wish.unit),
            (self.up, wish.up),
            (self.faces, "quads" if (wish.quads if wish.suffix == ".ply" else not wish.triangles) else "triangles"),
        ):
            combo.setCurrentIndex(combo.findData(value))
        self.pixels.setText(str(wish.pixels))
        self.print.take(wish)
        self.scale.setText(format_number(wish.scale, decimals=6))
        if wish.pattern != "{project}":
            self.name.setText(wish.pattern)
        if wish.folder:
            self.folder.setText(wish.folder)

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
            solid=objects == "solid",
            **(self.print.values() if objects == "solid" else {}),
            per_run=objects == "files",
            by_material=objects == "look",
            levels=self.levels.currentData() == "levels",
            curves=self.curves.currentData() == "curves",
            edges=self.edges.currentData(),
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

    def _show_rows(self, suffix: str) -> None:
        """The fields that count: pictures have other ones than meshes, and a time is asked where something moves."""
        is_picture, moves = suffix in PICTURES, self.workspace.playing.has_any
        for field in (self.what, self.objects, self.unit, self.scale, self.up, self.faces):
            self._rows[field].setVisible(not is_picture)
        self._rows[self.edges].setVisible(suffix in _SHADED and self._time() != "every")
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
