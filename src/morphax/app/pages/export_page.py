"""The export page: stands in the inspector's column, with everything proposed, so that Export is one action."""

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFont, QHideEvent, QKeyEvent, QShowEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
)

from morphax.app.files.play_writer import PlayWriter
from morphax.app.pages.export_fields import ExportFields
from morphax.app.session.workspace import Workspace
from morphax.app.widgets.scrolled import scrolled
from morphax.app.widgets.theme import app_font
from morphax.build.exporting import PICTURES, READY, all_files_of
from morphax.core.body.recipe import End
from morphax.core.findings import Severity
from morphax.io.errors import FileError
from morphax.project.edits.exports import with_export
from morphax.project.model.document import ExportWish, Run
from morphax.project.units import UnitError, format_number


class ExportPage(ExportFields):
    """The fields of an export, what is found in what it would write, and what it has written."""

    closed = Signal()
    exported = Signal(str)
    place_wanted = Signal(object, float)

    def __init__(self, workspace: Workspace, writer: PlayWriter) -> None:
        super().__init__(workspace)
        self.setObjectName("column")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.writer = writer
        self._wish: ExportWish | None = None
        self._asked: list[Path] = []
        self._waits = False
        self.box = QVBoxLayout(self)
        self.box.setContentsMargins(12, 10, 12, 12)
        self.box.setSpacing(6)
        title = QLabel("Export")
        title.setFont(app_font(11.0, weight=QFont.Weight.DemiBold))
        self.findings = QLabel()
        self.findings.setWordWrap(True)
        self.box.addWidget(title)
        self.box.addWidget(self.findings)
        self.print.wanted.connect(self.place_wanted)
        self.print.typed.connect(self.refresh)
        self.scale.editingFinished.connect(self.refresh)
        self.print.ended.connect(self._on_checked)
        self.ready.activated.connect(lambda i: self._take(self.ready.itemData(i)))
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

    def _take(self, wish: ExportWish) -> None:
        """Fills the page from settings."""
        self.take(wish)
        self.refresh()

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
        self._look_at_print()

    def _look_at_print(self) -> None:
        """One solid is joined and checked while the page is there."""
        is_wanted = self.objects.currentData() == "solid" and self.format.currentData() not in PICTURES
        self.print.setVisible(is_wanted)
        try:
            if is_wanted and self._time() == "end":
                self.print.look_at(self.runs(), self.wish())
            else:
                self.print.leave()
        except UnitError as error:
            self._say(str(error))

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._waits = False
        self.print.leave()

    def _on_checked(self, why: str) -> None:
        """What was waited for is joined, or is not."""
        waits, self._waits = self._waits, False
        if why:
            self._say(why)
        elif waits:
            self._ask_nothing()
            self.export()

    def _ask_nothing(self) -> None:
        self._asked = []
        if not self.writer.is_on and not self._waits:
            self.go.setText("Export")

    def export(self) -> None:
        """Writes the files; asks once, on its own button, before it replaces files of another export."""
        ws = self.workspace
        if self.writer.is_on:
            self.writer.stop()
            return
        if self._waits:
            self._waits = False
            self._ask_nothing()
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
        if wish.solid and wish.time == "end" and not self.print.is_ready:
            self._waits = True  # until all is joined
            self.go.setText("Joining …")
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
