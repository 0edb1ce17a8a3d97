"""The part of the export page that is there for solids: what is asked of a print, and what its check has found."""

import re

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.fields import LABEL_WIDTH
from morphax.app.widgets.labelled import labelled
from morphax.build.printing import bodies_of, is_joined, printer_of
from morphax.core.findings import Finding, Severity
from morphax.core.mesh.print_check import Size3
from morphax.io.bodies import NamedMesh
from morphax.project.model.document import ExportWish, Run
from morphax.project.units import METRES, UnitError, format_length, format_number, parse_length, sentence_in

_MOST_SHOWN, _AROUND = 5, 0.12
_BETWEEN, _UNIT = re.compile(r"\s*[x×*;]\s*|\s+by\s+"), re.compile(rf"(?<=[\d)\s])({'|'.join(METRES)})\s*$")


def read_bed(text: str, *, unit: str) -> Size3 | None:
    """Width, depth and height of a bed, m; nothing typed is none. Raises UnitError."""
    if not text.strip():
        return None
    parts, own = _BETWEEN.split(text.strip()), _UNIT.search(text)
    if len(parts) != 3:
        raise UnitError("a bed is typed by its width, depth and height, such as 220 x 220 x 250")
    x, y, z = (parse_length(p, unit=unit if own is None else own.group(1)) for p in parts)
    if min(x, y, z) <= 0.0:
        raise UnitError("a bed's sides are more than 0")
    return x, y, z


class _Found(QWidget):
    """A finding: its sentence in a box, with a button that shows its place; a note is the sentence alone."""

    def __init__(self, part: "PrintPart", finding: Finding) -> None:
        super().__init__()
        is_note = finding.severity is Severity.NOTE
        self.setObjectName("bare" if is_note else "findingBox")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(self)
        row.setContentsMargins(*((0, 0, 0, 0) if is_note else (8, 6, 8, 6)))
        words = QLabel(sentence_in(finding.message, unit=part.workspace.project.unit))
        words.setWordWrap(True)
        words.setObjectName("soft" if is_note else "")
        row.addWidget(words, 1)
        if finding.place is not None and not is_note:
            show = QPushButton("Show")
            show.clicked.connect(lambda: part.show_place(finding))
            row.addWidget(show, 0, Qt.AlignmentFlag.AlignTop)


class PrintPart(QWidget):
    """Bed, least wall and least detail, and the findings. ``wanted``: a place that is to be seen, with so much around
    it, m; ``typed``:
    something else is asked for; ``ended``: a check has come to its end, or why there is none."""

    wanted = Signal(object, float)
    typed = Signal()
    ended = Signal(str)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.setObjectName("bare")
        self.workspace, self.check = workspace, workspace.print_check
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        self.bed, self.wall, self.detail = QLineEdit(), QLineEdit(), QLineEdit()
        self.bed.setPlaceholderText("220 x 220 x 250")
        for label, field in (("Bed", self.bed), ("Least wall", self.wall), ("Least detail", self.detail)):
            box.addWidget(labelled(label, LABEL_WIDTH - 16, field))
            field.editingFinished.connect(self.typed)
        self.said = QLabel()
        self.said.setObjectName("soft")
        self.said.setWordWrap(True)
        box.addWidget(self.said)
        self._list = QVBoxLayout()
        self._list.setSpacing(4)
        box.addLayout(self._list)
        self._bodies: list[NamedMesh] = []
        self._wish: ExportWish | None = None
        self.check.told.connect(self._on_told)
        self.check.done.connect(self._on_done)
        self.check.failed.connect(self._on_failed)
        self.take(ExportWish(name="print"))

    # -- what is asked --------------------------------------------------------------------------

    def take(self, wish: ExportWish) -> None:
        """Fills the fields; a bed that is typed stays where the settings have none."""
        unit = self.workspace.project.unit
        if wish.bed is not None:
            self.bed.setText(" x ".join(format_length(v, unit=unit).removesuffix(f" {unit}") for v in wish.bed))
        self.wall.setText(format_length(wish.wall, unit=unit))
        self.detail.setText(format_length(wish.detail, unit=unit))

    def values(self) -> dict[str, object]:
        """What is typed. Raises UnitError."""
        unit = self.workspace.project.unit
        wall, detail = (parse_length(f.text() or "0", unit=unit) for f in (self.wall, self.detail))
        if min(wall, detail) < 0.0:
            raise UnitError("a least wall and a least detail are 0 or more")
        return {"bed": read_bed(self.bed.text(), unit=unit), "wall": wall, "detail": detail}

    # -- checking -------------------------------------------------------------------------------

    def look_at(self, runs: tuple[Run, ...], wish: ExportWish) -> None:
        """Checks what would be written, when all of it is built."""
        ws = self.workspace
        if ws.bodies.is_waiting or any(r.id not in ws.bodies for r in runs):
            self.said.setText("Waiting for the bodies …")
            return
        self._bodies, self._wish = bodies_of(ws.project, ws.bodies.builder, runs), wish
        self.check.ask(self._bodies, printer_of(wish))
        if self.check.solid is not None:
            self._show_found()

    def show_place(self, finding: Finding) -> None:
        """Marks the place of a finding, and asks for it to be seen."""
        self.check.show(finding)
        solid = self.check.solid
        size = 1.0 if solid is None or not len(solid.mesh.points) else float(np.ptp(solid.mesh.bounds, axis=0).max())
        self.wanted.emit(finding.place, _AROUND * size)

    def leave(self) -> None:
        """Nothing is to be checked."""
        self.check.forget()
        self._clear()

    @property
    def is_ready(self) -> bool:
        """Whether the solid of what was looked at last is there."""
        return is_joined(self._bodies)

    def _on_told(self, done: int, of: int) -> None:
        self.said.setText(f"Joining {done} of {of} …" if done < of else "Checking …")

    def _on_done(self) -> None:
        self._show_found()
        self.ended.emit("")

    def _show_found(self) -> None:
        solid, unit = self.check.solid, self.workspace.project.unit
        if solid is None or self._wish is None:
            return
        self._clear()
        litres = format_number(solid.volume * self._wish.scale**3 * 1e6, decimals=2)
        size = solid.mesh.bounds
        words = f"One solid of {format_number(len(solid.mesh.tris), decimals=0)} triangles, {litres} cm³"
        if len(size):
            sides = (format_length(float(v) * self._wish.scale, unit=unit) for v in size[1] - size[0])
            words += f", {' by '.join(sides)}"
        serious = [f for f in self.check.findings if f.severity is not Severity.NOTE]
        self.said.setText(f"{words}. {'Ready to print.' if not serious else ''}".strip())
        for finding in self.check.findings[:_MOST_SHOWN]:
            self._list.addWidget(_Found(self, finding))
        self._place_anew()

    def _place_anew(self) -> None:
        """What stands around it makes room at once."""
        self.updateGeometry()
        around = self.parentWidget()
        layout = None if around is None else around.layout()
        if layout is not None:
            layout.activate()

    def _on_failed(self, words: str) -> None:
        self._clear()
        self.ended.emit(words)

    def _clear(self) -> None:
        self.said.setText("")
        while (item := self._list.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.hide()
                old.deleteLater()
