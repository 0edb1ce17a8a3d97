"""The main window: makes the parts, lays them out and joins them; each of them listens to the workspace by itself."""

from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import cast

from PySide6.QtCore import QEvent, QPoint, QPointF, QSize
from PySide6.QtGui import QCloseEvent, QStatusTipEvent
from PySide6.QtWidgets import QMainWindow

from morphax.app.files.autosave import Autosave
from morphax.app.files.exchange import Exchange
from morphax.app.files.files import Files
from morphax.app.files.host_files import HostFiles
from morphax.app.files.play_writer import PlayWriter
from morphax.app.keyboard import Drops, Keyboard
from morphax.app.layout import Parts, Proportions, first_sheet, lay_out
from morphax.app.pages.keys_page import KeysPage
from morphax.app.pages.page_column import PageColumn
from morphax.app.session.camera import Camera
from morphax.app.session.preferences import Preferences
from morphax.app.session.settings import Settings, load_settings
from morphax.app.session.throttle import Throttle
from morphax.app.session.workspace import Workspace
from morphax.app.tools.toolbox import Toolbox
from morphax.app.views.inspector.inspector import Inspector
from morphax.app.views.list.list_panel import ListPanel
from morphax.app.views.menus import Menus
from morphax.app.views.panes.camera_view import CameraView
from morphax.app.views.panes.pane_pair import PanePair
from morphax.app.views.panes.still import still
from morphax.app.views.render_hub import RenderHub
from morphax.app.views.search import Search
from morphax.app.views.status_line import StatusLine
from morphax.app.views.stock.along import put_along
from morphax.app.views.strip.length_strip import LengthStrip
from morphax.app.views.times.time_bar import TimeBar
from morphax.app.views.tool_row import ToolRow
from morphax.app.widgets.appearance import Look
from morphax.app.widgets.motion import Folding
from morphax.core.path.paths import PathKind
from morphax.project.model.document import Project


class Window(QMainWindow):
    """The desk at which everything happens: the session, with its views around it."""

    files: Files
    autosave: Autosave
    exchange: Exchange
    host_files: HostFiles

    def __init__(self, project: Project | None = None, settings: Settings | None = None) -> None:
        super().__init__()
        settings = load_settings() if settings is None else settings
        self._tip = ""
        self.workspace = Workspace(project or Project(unit=settings.unit))
        self.prefs = Preferences(settings, self.workspace)
        self.look = Look(settings.look)
        self.toolbox = Toolbox(self.workspace)
        self.hub = RenderHub()
        self.pair = PanePair(self.workspace, self.toolbox, self.hub, self.look)
        self.panes = self.pair.panes
        self._make_files(settings)
        self._make_views()
        parts = Parts(self.tool_row, self.list_panel, self.panes, self.strip, self.times, self.column, self.status)
        laid = lay_out(parts, settings.widths)
        self.setCentralWidget(laid.central)
        self.views = laid.views
        folds = {"list": self.list_panel, "second": self.panes[1], "inspector": self.column}
        self.foldings = {name: Folding(part) for name, part in folds.items()}
        self.proportions = Proportions(self, laid, self.prefs)
        self.sheet = first_sheet(self, self.panes[0])
        self.menus = Menus(self, self)
        self.pointed = self.menus.pointed
        for view in self.pair.views:
            view.menu = self.menus.context
        self.search_box = Search(self, self.menus, self)
        self.keys_page = KeysPage(self, self.menus)
        self.column.take(self.keys_page)
        self.keyboard = Keyboard(self, self, self.column, self.tool_row.next_width, self.menus.missing_for)
        self.drops = Drops(self, self.exchange)
        self._connect()
        self._take_preferences()
        self.resize(1280, 800)
        self._on_changed()

    # -- making --------------------------------------------------------------------------------

    def _make_files(self, settings: Settings) -> None:
        self.files = Files(self, self)
        self.autosave = Autosave(self, settings.autosave_seconds)
        self.exchange = Exchange(self, self)
        self.host_files = HostFiles(self)

    def _make_views(self) -> None:
        self.list_panel = ListPanel(self.workspace, self.look)
        self.strip = LengthStrip(self.workspace, self.look, self.toolbox)
        self.times = TimeBar(self.workspace, self.look)
        self.writer = PlayWriter(self.workspace, self.hub, lambda width: still(self.pair.active(), self.hub, width))
        self.inspector = Inspector(self.workspace, self.look)
        self.column = self.pages = PageColumn(self.writer, self.toolbox, self.inspector, self.prefs)
        self.export_page, self.knot_table = self.column.export_page, self.column.knot_table
        self.tool_row = ToolRow(self.workspace, self.toolbox, self.look)
        self.status = StatusLine(self.workspace, self.toolbox)
        self.status.elsewhere = self._words_of_board
        self.help_label, self.facts_label = self.status.help_label, self.status.facts_label
        self.progress, self.cancel_button = self.status.progress, self.status.cancel_button
        self.pair.others = (self.tool_row, self.list_panel, self.strip, self.column)

    def _connect(self) -> None:
        ws = self.workspace
        throttle = Throttle(self, ws, self._on_changed)
        for signal in (ws.project_changed, ws.selection_changed, ws.built):
            signal.connect(throttle.ask)
        ws.board.changed.connect(self.status.refresh)
        self.panes[1].focused.connect(self.status.refresh)
        ws.board.picked.connect(throttle.ask)
        self.pair.keep_up()
        self.toolbox.changed.connect(self._on_changed)
        self.toolbox.pressed.connect(self.status.hush)
        self.toolbox.finished_run.connect(lambda: self.say("Type a width, or draw the next path."))
        self.pair.turned.connect(self._on_changed)
        for view in self.pair.views:
            view.section_dropped.connect(lambda key, run: self.list_panel.stock.give(key, (run,)))
        self.list_panel.stock.files_dropped.connect(self.exchange.take_sections)
        self.tool_row.stock_wanted.connect(self.list_panel.show_stock)
        self.list_panel.menu_wanted.connect(lambda at: self.menus.of_chosen().popup(at))
        self.strip.customContextMenuRequested.connect(self._show_strip_context)
        self.strip.given.connect(self._put_on_strip)
        self.strip.corner_wanted.connect(self.pair.show_corner)
        self.export_page.place_wanted.connect(self.pair.show_place)
        self.look.changed.connect(lambda: ws.deviations.set_on(self.look.measured))
        self.strip.profiled.connect(partial(put_along, self.workspace, self.list_panel.stock.next_run))
        self.inspector.host_card.read_again.connect(self.host_files.read_chosen_again)
        self.inspector.host_card.scale_wanted.connect(lambda: self.arm("picture-scale"))
        self.prefs.changed.connect(self._take_preferences)
        self.prefs.keys_changed.connect(self.menus.renew_keys)
        self.column.keys_wanted.connect(self._show_keys)

    # -- reacting ------------------------------------------------------------------------------

    def _on_changed(self) -> None:
        ws = self.workspace
        self.menus.refresh()
        name = ws.file.stem if ws.file else "untitled"
        self.setWindowTitle(f"{name}{'' if ws.history.is_saved else ' •'} · Morphax")
        is_empty = not ws.project.runs and not ws.project.hosts
        wanted = is_empty and self.toolbox.kind is None and not ws.board.is_open
        if wanted and not self.sheet.isVisible():
            self._fill_sheet()
        self.sheet.setVisible(wanted)
        self.pair.beside.keep_up()
        self.status.refresh()

    def _words_of_board(self) -> str:
        """What a click does on the section board, while it has the keys."""
        view = self.pair.board_view
        return view.words if view.is_shown and view.pane.hasFocus() else ""

    def _fill_sheet(self) -> None:
        """The first sheet lists recent projects, and unsaved work where a crash left some."""
        self.sheet.choices["Bring back unsaved work"].setVisible(self.autosave.has_orphans())
        s = self.settings
        self.sheet.show_choices({"Unit": s.unit, "Size of the work": s.scale, "Mouse": s.mouse})
        self.sheet.show_recent(tuple(r for r in s.recent if Path(r).exists()), self.files.open_recent)

    def _take_preferences(self) -> None:
        self.pair.use(self.settings.mouse, self.settings.scale)
        self.keys_page.refresh()
        self._fill_sheet()

    def _put_on_strip(self, key: str, run_id: str, station: str | None, share: float) -> None:
        """A section of the stock dropped on the strip; where a station is new its place can be typed at once."""
        before = self.workspace.selection.stations
        self.list_panel.stock.put(key, run_id, station, share)
        if station is None and self.workspace.selection.stations not in ((), before):
            self.inspector.begin("Station", "station.at")

    def _show_strip_context(self, at: QPoint) -> None:
        own = self.strip.lane_menu(QPointF(at))
        if own is not None:
            own.popup(self.strip.mapToGlobal(at))
            return
        self.menus.strip_context(self.strip.ruler.distance_at(float(at.x()))).popup(self.strip.mapToGlobal(at))

    def _show_keys(self) -> None:
        self.keys_page.open()
        self.column.show_page(self.keys_page)

    # -- what actions ask of the desk ----------------------------------------------------------

    @property
    def settings(self) -> Settings:
        return self.prefs.settings

    @property
    def scene_views(self) -> Sequence[CameraView]:
        return self.pair.views

    def active_view(self) -> CameraView:
        """The view in the pane with the focus, else the first."""
        return self.pair.active()

    def say(self, sentence: str) -> None:
        """A sentence in the status line for a while."""
        self.status.say(sentence)

    def hush(self) -> None:
        self.status.hush()

    def frame(self, *, chosen: bool = False) -> None:
        self.pair.frame(chosen=chosen)

    def arm(self, kind: PathKind | str) -> None:
        self.status.hush()
        self.toolbox.arm(kind)
        self.active_view().take_focus()

    def undo(self) -> None:
        if not self.toolbox.take_back():
            self.workspace.undo()

    def fold(self, part: str) -> None:
        """Folds a part of the window away, or unfolds it."""
        if part == "strip":
            self.strip.fold()
            return
        self.foldings[part].turn()

    # -- beginning and end ---------------------------------------------------------------------

    def sizeHint(self) -> QSize:
        return QSize(1280, 800)

    def event(self, event: QEvent) -> bool:
        """What a greyed menu entry needs is said while the pointer is on it."""
        if event.type() == QEvent.Type.StatusTip:
            before, self._tip = self._tip, cast(QStatusTipEvent, event).tip()
            if self._tip:
                self.say(self._tip)
            elif before and self.help_label.text() == before:
                self.hush()
            return True
        return super().event(event)

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.files.may_leave():
            event.ignore()
            return
        self.autosave.forget()
        self.shut_down()
        event.accept()

    def shut_down(self) -> None:
        """Ends the threads; from here on nothing of Python is asked what a dying window says."""
        for watcher in (self.keyboard, self.drops):
            self.removeEventFilter(watcher)
        self.autosave.stop()
        self.writer.close()
        self.hub.close()
        self.workspace.close()

    def start(self, camera: Camera | None = None) -> None:
        """Shows the window with everything in sight."""
        self.show()
        if camera is not None:
            self.scene_views[0].set_camera(camera)
        self.frame()
        self.panes[0].setFocus()
