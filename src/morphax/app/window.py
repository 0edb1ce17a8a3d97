"""The main window: menu, tool row, list, two panes, strip, inspector, status line."""

from pathlib import Path

from PySide6.QtCore import QEvent, QPoint, QSize, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QApplication, QLineEdit, QMainWindow, QStackedWidget, QWidget

from morphax import __version__
from morphax.app.actions.commands import nudge_across
from morphax.app.files.autosave import Keeper
from morphax.app.files.exchange import Exchange
from morphax.app.files.exporting import write_wish
from morphax.app.files.files import Files
from morphax.app.files.host_files import HostFiles
from morphax.app.pages.export_page import ExportPage, words_of
from morphax.app.pages.keys_page import KeysPage
from morphax.app.pages.knot_table import KnotTable
from morphax.app.session.appearance import Look
from morphax.app.session.settings import Settings, load_settings, save_settings
from morphax.app.session.throttle import Calm
from morphax.app.session.workspace import Workspace
from morphax.app.tools.toolbox import Toolbox
from morphax.app.views.inspector.inspector import Inspector
from morphax.app.views.inspector.summaries import status_facts
from morphax.app.views.layout import lay_out
from morphax.app.views.list.list_panel import ListPanel
from morphax.app.views.menus import Menus
from morphax.app.views.panes.camera import Camera, right_angle_view, tipped
from morphax.app.views.panes.pane import Pane
from morphax.app.views.panes.scene_items import Scene, scene_points
from morphax.app.views.render_hub import RenderHub
from morphax.app.views.search import Search
from morphax.app.views.strip.length_strip import LengthStrip
from morphax.app.views.tool_row import ToolRow
from morphax.core.path.paths import PathKind
from morphax.io.errors import FileError
from morphax.project.model.document import Project, evolve

SAID_MILLISECONDS = 6000
PATIENCE_MILLISECONDS = 300
"""Work that takes longer shows how far it is, and can be cancelled."""


_ARROWS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, 1),
    Qt.Key.Key_Down: (0, -1),
}
"""Right and up of the arrow keys."""


class Window(QMainWindow):
    """Puts the views together; each of them listens to the workspace by itself."""

    def __init__(self, project: Project | None = None, settings: Settings | None = None) -> None:
        super().__init__()
        self.settings = load_settings() if settings is None else settings
        self.workspace = Workspace(project or Project(unit=self.settings.unit))
        self.look = Look(self.settings.look)
        self.toolbox = Toolbox(self.workspace)
        self.hub = RenderHub()
        self.files = Files(self)
        self.keeper = Keeper(self, self.settings.autosave_seconds)
        scene = Scene(self.workspace)
        self.panes = tuple(Pane(i, scene, self.toolbox, self.hub, self.look) for i in range(2))
        self.list_panel = ListPanel(self.workspace, self.look)
        self.strip = LengthStrip(self.workspace, self.look, self.toolbox)
        self.inspector = Inspector(self.workspace, self.look)
        self.export_page = ExportPage(self.workspace)
        self.exchange = Exchange(self)
        self.host_files = HostFiles(self)
        self.knot_table = KnotTable(self.workspace)
        self.tool_row = ToolRow(self.workspace, self.toolbox, self.look)
        self.column = QStackedWidget()
        self._second_by_hand = False
        self._patience = QTimer(self, singleShot=True, interval=PATIENCE_MILLISECONDS)
        self._filled: list[tuple[QWidget, bool]] | None = None
        self._said = QTimer(self, singleShot=True, interval=SAID_MILLISECONDS)
        lay_out(self)
        self.menus = Menus(self)
        self.search_box = Search(self)
        self.keys_page = KeysPage(self)
        self.column.addWidget(self.knot_table)
        self.column.addWidget(self.keys_page)
        self.setAcceptDrops(True)
        self._connect()
        self.choose_mouse(self.settings.mouse)
        self.resize(1280, 800)
        self._on_changed()

    # -- making --------------------------------------------------------------------------------

    def _connect(self) -> None:
        ws = self.workspace
        calm = Calm(self, ws, self._on_changed)
        for signal in (ws.project_changed, ws.selection_changed, ws.built):
            signal.connect(calm.ask)
        ws.said.connect(self.say)
        self.toolbox.changed.connect(self._on_changed)
        self.toolbox.finished_run.connect(self._on_finished_run)
        self.panes[0].camera_changed.connect(self._on_changed)
        self.panes[1].name_button.menu().triggered.connect(lambda *_: setattr(self, "_second_by_hand", True))
        for page in (self.export_page, self.knot_table, self.keys_page):
            page.closed.connect(lambda: self.column.setCurrentWidget(self.inspector))
        for pane in self.panes:
            pane.menu_wanted.connect(self._show_context)
            pane.section_dropped.connect(lambda key, run: self.list_panel.stock.give(key, (run,)))
        self.list_panel.stock.files_dropped.connect(lambda files: [self.exchange.take_section(f) for f in files])
        self.tool_row.stock_wanted.connect(self.list_panel.show_stock)
        self.list_panel.menu_wanted.connect(lambda at: self.menus.of_chosen().popup(at))
        self.strip.customContextMenuRequested.connect(self._show_strip_context)
        self.export_page.exported.connect(self._remember_folder)
        self._said.timeout.connect(self._show_help)
        self._patience.timeout.connect(lambda: self.progress.setVisible(self.workspace.is_building))
        self.inspector.host_card.read_again.connect(self.host_files.read_chosen_again)
        self.inspector.host_card.scale_wanted.connect(lambda: self.arm("picture-scale"))
        self.workspace.progressed.connect(self._on_progress)
        self.cancel_button.clicked.connect(self.workspace.stop_building)

    # -- reacting ------------------------------------------------------------------------------

    def _on_changed(self) -> None:
        ws = self.workspace
        self.menus.refresh()
        name = ws.file.stem if ws.file else "untitled"
        self.setWindowTitle(f"{name}{'' if ws.history.is_saved else ' •'} · Morphax")
        self.facts_label.setText(status_facts(ws))
        wanted = not ws.project.runs and not ws.project.hosts and self.toolbox.kind is None
        if wanted and not self.sheet.isVisible():
            self._fill_sheet()
        self.sheet.setVisible(wanted)
        self._turn_second()
        if not ws.is_building:
            self._patience.stop()
            self.progress.hide()
        elif not self._patience.isActive() and not self.progress.isVisible():
            self._patience.start()
        if not self._said.isActive():
            self._show_help()

    def _fill_sheet(self) -> None:
        """The first sheet lists recent projects, and unsaved work where a crash left some."""
        self.sheet.choices["Bring back unsaved work"].setVisible(self.keeper.has_orphans())
        s = self.settings
        self.sheet.show_choices({"Unit": s.unit, "Size of the work": s.scale, "Mouse": s.mouse})
        recent = tuple(r for r in self.settings.recent if Path(r).exists())
        self.sheet.show_recent(recent, self.files.open_recent)

    def _turn_second(self) -> None:
        """Keeps the second pane at right angles to the first, unless its view was chosen by hand."""
        first, second = self.panes
        if self._second_by_hand or self.toolbox.is_drawing or self.toolbox.edit.is_dragging:
            return
        chosen = bool(self.workspace.selection.runs)
        view = right_angle_view(first.camera, scene_points(self.workspace, chosen=chosen))
        second.note = " · at right angles"
        if view != second.camera.view:
            second.set_view(view)
            second.frame()

    def _on_progress(self, done: int, of: int) -> None:
        self.progress_words.setText(f"building {done} of {of}")

    def _show_help(self) -> None:
        self.help_label.setText(self.toolbox.help())

    def say(self, sentence: str) -> None:
        """A sentence in the status line for a while."""
        self.help_label.setText(sentence)
        self._said.start()

    def _on_finished_run(self) -> None:
        self.say("Type a width, or draw the next path.")

    def _remember_folder(self, folder: str) -> None:
        self._keep(self.settings.model_copy(update={"export_folder": folder}))

    def _keep(self, settings: Settings) -> None:
        self.settings = settings
        failed = save_settings(settings)
        if failed:
            self.say(failed)

    # -- what actions do -----------------------------------------------------------------------

    def active_pane(self) -> Pane:
        """The pane with the focus, else the first."""
        return next((p for p in self.panes if p.hasFocus()), self.panes[0])

    def hush(self) -> None:
        """What was said gives way to what a click does now."""
        self._said.stop()
        self._show_help()

    def arm(self, kind: PathKind | str) -> None:
        self._said.stop()
        self.toolbox.arm(kind)
        self.active_pane().setFocus()

    def undo(self) -> None:
        if not self.toolbox.take_back():
            self.workspace.undo()

    def frame(self, *, chosen: bool = False) -> None:
        for pane in self.panes:
            pane.frame(chosen=chosen)

    def look_from(self, view: str) -> None:
        self.active_pane().set_view(view)

    def tip(self, way: str) -> None:
        pane = self.active_pane()
        pane.set_camera(tipped(pane.camera, way))

    def fold(self, part: str) -> None:
        if part == "strip":
            self.strip.fold()
            return
        widget = {"second": self.panes[1], "list": self.list_panel, "inspector": self.column}[part]
        widget.setVisible(not widget.isVisible())

    def choose_look(self, choice: str) -> None:
        self.look.choose(choice)
        self._keep(self.settings.model_copy(update={"look": choice}))

    def show_export(self) -> None:
        self.toolbox.finish()
        self.column.setVisible(True)
        self.column.setCurrentWidget(self.export_page)
        self.export_page.open(self.settings.export_folder)

    def export_again(self) -> None:
        """Repeats the last export; the first time, the page asks where."""
        self.toolbox.finish()
        ws = self.workspace
        last = ws.project.last_export
        if last is None:
            self.show_export()
            return
        name = ws.file.stem if ws.file else "untitled"
        try:
            self.say(words_of(write_wish(ws.project, ws.builder, last, ws.selection.runs, name)))
        except FileError as error:
            self.say(f"{str(error)[:1].upper()}{str(error)[1:]}.")

    def show_page(self, page: QWidget) -> None:
        """Shows a page in the inspector's column."""
        self.column.setVisible(True)
        self.column.setCurrentWidget(page)
        page.setFocus()

    def show_knot_table(self) -> None:
        self.toolbox.finish()
        self.show_page(self.knot_table)

    def show_keys(self) -> None:
        self.keys_page.refresh()
        self.show_page(self.keys_page)

    def search(self) -> None:
        self.search_box.open()

    def fill_with_pane(self) -> None:
        """The pane under the pointer fills the window, or everything comes back."""
        parts = (self.tool_row, self.list_panel, self.strip, self.column)
        if self._filled is not None:
            for part, was in self._filled:
                part.setVisible(was)
            self._filled = None
            return
        wanted = next((p for p in self.panes if p.underMouse()), self.active_pane())
        others = (*parts, *(p for p in self.panes if p is not wanted))
        self._filled = [(p, p.isVisible()) for p in others]
        for part in others:
            part.setVisible(False)
        wanted.setFocus()

    def choose_keys(self, keys: dict[str, tuple[str, ...]]) -> None:
        """Takes over the user's own keys."""
        self._keep(self.settings.model_copy(update={"keys": keys}))
        self.menus.renew_keys()

    def choose_mouse(self, name: str) -> None:
        """Takes over a map of the mouse."""
        if name != self.settings.mouse:
            self._keep(self.settings.model_copy(update={"mouse": name}))
        for pane in self.panes:
            pane.mouse_map = name
        self.keys_page.refresh()
        self._fill_sheet()

    def choose_unit(self, unit: str) -> None:
        """The display unit of this project, and of new ones."""
        self._keep(self.settings.model_copy(update={"unit": unit}))
        project, history = self.workspace.project, self.workspace.history
        if project.runs or project.hosts or len(history.moments) > 1 or self.workspace.file is not None:
            self.workspace.attempt("Change the unit", lambda p: evolve(p, unit=unit))
        else:
            self.workspace.restart(evolve(project, unit=unit))
        self._fill_sheet()

    def choose_scale(self, scale: str) -> None:
        """How large the view of an empty project is: something in the hand, a room, a site."""
        if scale != self.settings.scale:
            self._keep(self.settings.model_copy(update={"scale": scale}))
        for pane in self.panes:
            pane.empty_size = scale
        self.frame()

    def _show_context(self, pane: Pane, at: QPoint) -> None:
        """What can be done with what is under the pointer; a click there chooses it first."""
        self.menus.context(pane, at).popup(pane.mapToGlobal(at))

    def _show_strip_context(self, at: QPoint) -> None:
        self.menus.strip_context(float(at.x())).popup(self.strip.mapToGlobal(at))

    def about(self) -> None:
        self.say(f"Morphax {__version__}: a path, a section, a body.")

    # -- events --------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Keys that no field took: Enter, Backspace and Esc for tools, digits for the width of a finished run."""
        key, text = event.key(), event.text()
        self.toolbox.hold(key, down=True)
        if event.matches(QKeySequence.StandardKey.Undo):  # from a field in which nothing was typed
            self.undo()
        elif event.matches(QKeySequence.StandardKey.Redo):
            self.workspace.redo()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.toolbox.finish()
        elif key == Qt.Key.Key_Backspace:
            self.toolbox.erase() or self.toolbox.take_back()
        elif key == Qt.Key.Key_Escape:
            self.toolbox.escape()
        elif key in _ARROWS and not isinstance(QApplication.focusWidget(), QLineEdit):
            nudge_across(self, *_ARROWS[key])
        elif self.toolbox.type(text):
            pass
        elif self._begins_number(text):
            self.column.setCurrentWidget(self.inspector)
            self.inspector.width_field.begin_typing(text)
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if not event.isAutoRepeat():
            self.toolbox.hold(event.key(), down=False)
        super().keyReleaseEvent(event)

    def changeEvent(self, event: QEvent) -> None:
        """A key that is let go while another window is in front is let go here too."""
        if event.type() == QEvent.Type.ActivationChange and not self.isActiveWindow():
            self.toolbox.let_go()
        super().changeEvent(event)

    def _begins_number(self, text: str) -> bool:
        typing = isinstance(QApplication.focusWidget(), QLineEdit)
        wanted = len(text) == 1 and (text.isdigit() or text in ".,+-")
        return wanted and not typing and not self.toolbox.is_drawing and self.workspace.chosen_run is not None

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Files dropped on the window."""
        self.exchange.take_files([Path(u.toLocalFile()) for u in event.mimeData().urls() if u.isLocalFile()])
        event.acceptProposedAction()

    def sizeHint(self) -> QSize:
        return QSize(1280, 800)

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.files.may_leave():
            event.ignore()
            return
        self.keeper.forget()
        self.shut_down()
        event.accept()

    def shut_down(self) -> None:
        """Ends the threads."""
        self.hub.close()
        self.workspace.close()

    def start(self, camera: Camera | None = None) -> None:
        """Shows the window with everything in sight."""
        self.show()
        for pane in self.panes:
            pane.empty_size = self.settings.scale
        if camera is not None:
            self.panes[0].set_camera(camera)
        self.frame()
        self.panes[0].setFocus()

    def open_at_start(self, file: Path) -> None:
        """Opens the project named on the command line, and says why where that fails."""
        self.files.open_file(file)
