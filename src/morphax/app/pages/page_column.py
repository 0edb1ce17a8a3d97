"""The inspector's column: the inspector, or a page that stands in for it until it is closed."""

from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QStackedWidget, QWidget

from morphax.app.files.play_writer import PlayWriter
from morphax.app.pages.export_page import ExportPage, words_of
from morphax.app.pages.knot_table import KnotTable
from morphax.app.session.preferences import Preferences
from morphax.app.tools.toolbox import Toolbox
from morphax.app.views.inspector.inspector import Inspector


class PageColumn(QStackedWidget):
    """Shows one page at a time."""

    keys_wanted = Signal()

    def __init__(self, writer: PlayWriter, toolbox: Toolbox, inspector: Inspector, prefs: Preferences) -> None:
        super().__init__()
        self.workspace = workspace = writer.workspace
        self.writer, self.toolbox, self.inspector, self.prefs = writer, toolbox, inspector, prefs
        self._repeats = False
        writer.done.connect(self._on_done)
        writer.failed.connect(self._on_failed)
        self.export_page = ExportPage(workspace, writer)
        self.knot_table = KnotTable(workspace)
        self.addWidget(inspector)
        for page in (self.export_page, self.knot_table):
            self.take(page)
        self.export_page.exported.connect(lambda folder: prefs.keep(export_folder=folder))

    def take(self, page: ExportPage | KnotTable | QWidget) -> None:
        """A page more; when it is closed the inspector comes back."""
        self.addWidget(page)
        page.closed.connect(lambda: self.setCurrentWidget(self.inspector))  # type: ignore[union-attr]

    def show_page(self, page: QWidget) -> None:
        """Shows a page, unfolding the column."""
        self.setVisible(True)
        self.setCurrentWidget(page)
        page.setFocus()

    def show_export(self) -> None:
        self.toolbox.finish()
        self.setVisible(True)
        self.setCurrentWidget(self.export_page)
        self.export_page.open(self.prefs.settings.export_folder)

    def export_again(self) -> None:
        """Repeats the last export; the first time, the page asks where."""
        self.toolbox.finish()
        ws = self.workspace
        last = ws.project.last_export
        if last is None:
            self.show_export()
            return
        name = ws.file.stem if ws.file else "untitled"
        if self.writer.is_on:
            ws.said.emit("The last export is still being written.")
            return
        self._repeats = True
        self.writer.write(last, name)

    def _on_done(self, files: list[Path], words: str) -> None:
        """What was written once more."""
        if self._repeats:
            self.workspace.said.emit(f"{words_of(files)} {words}".strip())
        self._repeats = False

    def _on_failed(self, words: str) -> None:
        if self._repeats:
            self.workspace.said.emit(f"{words[:1].upper()}{words[1:]}.")
        self._repeats = False

    def show_knot_table(self) -> None:
        self.toolbox.finish()
        self.show_page(self.knot_table)

    def show_keys(self) -> None:
        self.keys_wanted.emit()

    def begin_width(self, text: str) -> None:
        """A digit after a finished run begins its width; where pieces are chosen, how they are spread; right
        after a command, what that asks for."""
        self.setCurrentWidget(self.inspector)
        if not self.inspector.begin_number(text):
            self.inspector.width_field.begin_typing(text)

    def begin_radius(self) -> None:
        self.inspector.begin_radius()
