"""The list: runs with thumbnail, finding badge and eye, and hosts; the stock of sections below."""

from collections import Counter
from collections.abc import Callable
from functools import partial
from itertools import takewhile
from pathlib import Path
from typing import Any

from PySide6.QtCore import QPoint, Qt, QTimer, Signal
from PySide6.QtGui import QFont, QMouseEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from morphax.app.session.throttle import Throttle
from morphax.app.session.workspace import Workspace
from morphax.app.views.list.rows import BAD, BADGE, GROUP, HIDDEN, ID, LOCKED, ROW_HEIGHT, THUMB, RowDelegate
from morphax.app.views.stock.section_library import SectionLibrary
from morphax.app.widgets.appearance import Look
from morphax.app.widgets.icons import pixmap, section_pixmap
from morphax.app.widgets.motion import Fade
from morphax.app.widgets.text_field import FindField
from morphax.app.widgets.theme import app_font
from morphax.core.findings import Severity
from morphax.project.edits.show import reordered, with_shows
from morphax.project.edits.things import renamed, shows, thing_of
from morphax.project.lookup import section_of
from morphax.project.model.document import Group, Host, Project, Run
from morphax.project.things import Selection

LEAST_ROWS, MOST_ROWS, _SHARE = 6, 100, 100
"""A list has room for so many rows at least and at most; what room is left goes to lists first."""
_RUN_FLAGS = (
    Qt.ItemFlag.ItemIsEnabled
    | Qt.ItemFlag.ItemIsSelectable
    | Qt.ItemFlag.ItemIsEditable
    | Qt.ItemFlag.ItemIsDragEnabled
)
_HEADING_FLAGS = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsEditable
_FILE_FLAGS = Qt.ItemFlag.ItemIsEnabled
_FILE = "file:"
"""Begins the key of a file's heading."""


Show = Callable[[str, int], Any]
"""``show(key, role)``: what a row shows; the key is a run's, host's or group's id, or a heading's words."""


class _Row(QListWidgetItem):
    """A row that knows its key only: what it shows is asked for when it is painted, so that only rows in sight cost."""

    def __init__(self, key: str, show: Show, renamed: Callable[[str, str], None]) -> None:
        super().__init__(type=QListWidgetItem.ItemType.UserType)
        self.key, self._show, self._renamed = key, show, renamed

    def data(self, role: int) -> Any:
        return self._show(self.key, role)

    def setData(self, role: int, value: Any) -> None:
        if role == Qt.ItemDataRole.EditRole:
            self._renamed(self.key, str(value))


class _Rows(QListWidget):
    """One group of the list."""

    eye_clicked = Signal(str)
    renamed = Signal(str, str)

    def __init__(self, look: Look, name: str, show: Show) -> None:
        super().__init__()
        self._show, self._keys, self._marked = show, list[tuple[str, bool]](), set[str]()
        self.row_of: dict[str, int] = {}
        self.setUniformItemSizes(True)
        self.setAccessibleName(name)
        self.delegate = RowDelegate(look)
        self.setItemDelegate(self.delegate)
        self.hover_fade, self.chosen_fade = (Fade(self, self.viewport().update) for _ in range(2))
        self.delegate.hovered = lambda: self.hover_fade.share
        self.itemEntered.connect(lambda _: self.hover_fade.begin())
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMouseTracking(True)
        self.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed | QAbstractItemView.EditTrigger.DoubleClicked)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        item = self.itemAt(event.position().toPoint())
        if item is not None and self._in_eye(item, event.position().toPoint()):
            self.eye_clicked.emit(item.data(ID))
            return
        super().mousePressEvent(event)

    def _in_eye(self, item: QListWidgetItem, p: QPoint) -> bool:
        rect = self.visualItemRect(item).adjusted(2, 1, -2, -1)
        return self.delegate.eye_box(rect).adjusted(-4, -4, 4, 4).contains(p)

    def show_keys(self, keys: list[tuple[str, bool]]) -> None:
        """Rows by key, and whether each is a heading; only what differs from the last time is touched."""
        if keys != self._keys:
            same = next((k for k, (a, b) in enumerate(zip(keys, self._keys, strict=False)) if a != b), None)
            same = min(len(keys), len(self._keys)) if same is None else same
            while self.count() > same:
                self.takeItem(self.count() - 1)
            for key, is_heading in keys[same:]:
                row = _Row(key, self._show, self.renamed.emit)
                is_file = key.startswith(_FILE)
                row.setFlags(_FILE_FLAGS if is_file else _HEADING_FLAGS if is_heading else _RUN_FLAGS)
                self.addItem(row)
            self._keys = keys
            self.row_of = {key: k for k, (key, _) in enumerate(keys)}
            self._marked = set()
        self.viewport().update()

    def under(self, key: str) -> tuple[str, ...]:
        """The keys that stand under a heading; that of any other row alone."""
        at = self.row_of[key]
        if not self._keys[at][1]:
            return (key,)
        below = takewhile(lambda k: not k[1] and bool(self._show(k[0], GROUP)), self._keys[at + 1 :])
        return tuple(k for k, _ in below)

    def mark(self, chosen: set[str]) -> None:
        """Marks the rows of what is chosen."""
        wanted = {key for key in chosen if key in self.row_of}
        known = self._marked if len(self.selectedItems()) == len(self._marked) else {*self.row_of}
        for key in known ^ wanted if known is self._marked else known | wanted:
            row = self.item(self.row_of[key])
            if row is not None:
                row.setSelected(key in wanted)
        self._come(wanted - self._marked)
        self._marked = wanted

    def _come(self, keys: set[str]) -> None:
        """Rows that have just been chosen grow out of their ground."""
        if keys:
            self.delegate.coming = (lambda: self.chosen_fade.share, keys)
            self.chosen_fade.begin()

    def fit(self) -> None:
        """At most as high as its rows, so that groups stand directly below each other."""
        rows = max(self.count(), 1)
        self.setMinimumHeight(min(rows, LEAST_ROWS) * ROW_HEIGHT + 4)
        self.setMaximumHeight(min(rows, MOST_ROWS) * ROW_HEIGHT + 4)


class ListPanel(QWidget):
    """Runs, hosts and stock."""

    menu_wanted = Signal(QPoint)

    def __init__(self, workspace: Workspace, look: Look) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.workspace, self.look = workspace, look
        self.runs = _Rows(look, "Runs", self._run_shows)
        self.hosts = _Rows(look, "Hosts", self._host_shows)
        self._filling = False
        self._heading = ""
        self._listed: tuple[tuple[Run, ...], tuple[Group, ...], str] = ((), (), "")
        self.runs_caption, self.hosts_caption = _caption("RUNS"), _caption("HOSTS")
        self.empty = QLabel("No runs yet. Press T and click in a view.")
        self.empty.setObjectName("soft")
        self.empty.setWordWrap(True)
        box = QVBoxLayout(self)
        box.setContentsMargins(8, 8, 8, 8)
        box.setSpacing(4)
        self.finder = FindField("find a run", "Find a run")
        self.finder.textChanged.connect(lambda _: self.fill())
        self.runs.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.runs.model().rowsMoved.connect(lambda *_: QTimer.singleShot(0, self, self._on_moved))
        for w in (self.runs_caption, self.finder, self.empty, self.runs, self.hosts_caption, self.hosts):
            box.addWidget(w, _SHARE if w in (self.runs, self.hosts) else 0)
        box.addWidget(_caption("STOCK"))
        self.stock = SectionLibrary(workspace, look)
        box.addWidget(self.stock, 1)
        self.runs.itemSelectionChanged.connect(self._on_chosen)
        self.hosts.itemSelectionChanged.connect(self._on_chosen)
        for rows in (self.runs, self.hosts):
            rows.renamed.connect(self._on_renamed)
            rows.eye_clicked.connect(self._toggle)
            rows.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
            rows.customContextMenuRequested.connect(partial(self._menu, rows))
        throttle = Throttle(self, workspace, self.fill)
        workspace.project_changed.connect(throttle.ask)
        workspace.built.connect(throttle.ask)
        workspace.selection_changed.connect(self._on_selection)
        look.changed.connect(self.fill)
        self.fill()

    def fill(self) -> None:
        """Shows what the project holds."""
        project = self.workspace.project
        self._filling = True
        if self._lists_others():
            self.runs.show_keys(self._run_keys())
        self.runs.viewport().update()
        self.hosts.show_keys(_host_keys(project))
        for rows, caption in ((self.runs, self.runs_caption), (self.hosts, self.hosts_caption)):
            rows.fit()
            rows.setVisible(rows.count() > 0)
            caption.setVisible(rows.count() > 0 or rows is self.runs)
        self.empty.setVisible(not project.runs)
        self.finder.setVisible(len(project.runs) > 6 or bool(self.finder.text()))
        self._filling = False
        self._show_chosen()

    def show_stock(self) -> None:
        """Goes to the stock's search, unfolding the list."""
        self.setVisible(True)
        self.stock.finder.setFocus()

    def _run_shows(self, key: str, role: int) -> Any:
        """What the row of a run, or of a group's heading, shows."""
        project = self.workspace.project
        if role == ID:
            return key
        run: Run | None = project.find("runs", key)
        if run is None:
            group = project.find("groups", key)
            return {GROUP: "heading", **_named(group.name if group is not None else key)}.get(role)
        if role == THUMB:
            return section_pixmap(section_of(project, key).source, self.look.tokens, 20)
        if role in (BADGE, BAD):
            built = self.workspace.bodies.get(key)
            shown = [f for f in built.body.findings if f.severity is not Severity.NOTE] if built else []
            return (len(shown) or None) if role == BADGE else any(f.severity is Severity.ERROR for f in shown)
        group_word = "member" if run.show.group else None
        values = {HIDDEN: run.show.hidden, LOCKED: run.show.locked, GROUP: group_word, **_named(run.show.name)}
        return values.get(role)

    def _host_shows(self, key: str, role: int) -> Any:
        """What the row of a host, or of the heading of a file with several objects, shows."""
        project = self.workspace.project
        host: Host | None = project.find("hosts", key)
        if host is None:
            return {ID: "", GROUP: "heading", **_named(key.removeprefix(_FILE))}.get(role)
        if role == THUMB:
            return pixmap(_kind_of(host), self.look.tokens.soft)
        if role == GROUP:
            return "member" if host.source is not None and _is_one_of_several(project, host) else None
        return {ID: key, HIDDEN: host.show.hidden, LOCKED: host.show.locked, **_named(host.show.name)}.get(role)

    def _lists_others(self) -> bool:
        """Whether other rows of runs are to be listed than the last time; what they show may have changed all the same.

        An edit of one run among thousands costs a look at which of them it was.
        """
        project, words = self.workspace.project, self.finder.text()
        (runs, groups, before), self._listed = self._listed, (project.runs, project.groups, words)
        if words or before or groups is not project.groups or len(runs) != len(project.runs):
            return True
        changed = [(a, b) for a, b in zip(runs, project.runs, strict=True) if a is not b]
        return any(a.id != b.id or a.show.group != b.show.group for a, b in changed)

    def _run_keys(self) -> list[tuple[str, bool]]:
        """Runs in their order, each group's heading before its first run; those that the search finds."""
        words = self.finder.text().lower().split()
        if not words and not self.workspace.project.groups:
            return [(run.id, False) for run in self.workspace.project.runs]
        out: list[tuple[str, bool]] = []
        last: str | None = None
        for run in self.workspace.project.runs:
            show = run.show
            if words and not all(w in show.name.lower() for w in words):
                continue
            if show.group is not None and show.group != last:
                out.append((show.group, True))
            last = show.group
            out.append((run.id, False))
        return out

    def _on_moved(self) -> None:
        """Runs dragged to another place in the list."""
        order = [self.runs.item(i).data(ID) for i in range(self.runs.count())]
        own = {r.id for r in self.workspace.project.runs}
        self.workspace.attempt("Order the runs", lambda p: reordered(p, [i for i in order if i in own]))
        self.fill()

    def _on_selection(self) -> None:
        self._heading = ""
        self._show_chosen()

    def _show_chosen(self) -> None:
        self._filling = True
        chosen = {*self.workspace.chosen.run_ids, *self.workspace.selection.hosts}
        for rows in (self.runs, self.hosts):
            rows.mark(chosen)
        self._filling = False

    def _on_chosen(self) -> None:
        if self._filling:
            return
        sender_is_runs = self.runs.hasFocus() or not self.hosts.hasFocus()
        runs = tuple(i.data(ID) for i in self.runs.selectedItems()) if sender_is_runs else ()
        hosts = () if sender_is_runs else tuple(i.data(ID) for i in self.hosts.selectedItems())
        self.workspace.select(Selection.of(runs, (), hosts))

    def _on_renamed(self, key: str, name: str) -> None:
        thing = thing_of(self.workspace.project, key)
        if thing is not None:
            self.workspace.attempt("Rename", lambda p: renamed(p, thing, name))
        self.fill()

    def _toggle(self, entity_id: str) -> None:
        thing = thing_of(self.workspace.project, entity_id)
        for show in shows(self.workspace.project, [] if thing is None else [thing]):
            hidden = not show.hidden
            self.workspace.attempt("Hide" if hidden else "Show", partial(with_shows, ids=[entity_id], hidden=hidden))

    @property
    def has_keys(self) -> bool:
        """Whether a list of things has the keys."""
        return self.runs.hasFocus() or self.hosts.hasFocus()

    def rename(self) -> None:
        """Opens a name for typing: of the heading whose menu was opened, else of what is chosen."""
        key, self._heading = self._heading, ""
        for rows in (self.runs, self.hosts):
            chosen = [rows.item(rows.row_of[key])] if key in rows.row_of else [] if key else rows.selectedItems()
            if chosen:
                rows.setFocus()
                rows.editItem(chosen[0])
                return

    def _menu(self, rows: _Rows, at: QPoint) -> None:
        """The menu of the run or host under the pointer, or of all that stand under a heading."""
        item = rows.itemAt(at)
        if isinstance(item, _Row) and not item.isSelected():
            ids = rows.under(item.key)
            self.workspace.select(Selection.of(ids) if rows is self.runs else Selection.of(hosts=ids))
            self._heading = item.key if item.flags() == _HEADING_FLAGS else ""
        self.menu_wanted.emit(rows.viewport().mapToGlobal(at))


def _named(name: str) -> dict[int, str]:
    return {Qt.ItemDataRole.DisplayRole: name, Qt.ItemDataRole.EditRole: name}


def _is_one_of_several(project: Project, host: Host) -> bool:
    """Whether other objects of a host's file stand in the list too."""
    own = None if host.source is None else host.source.asset
    return any(h.source is not None and h.source.asset == own and h is not host for h in project.hosts)


def _host_keys(project: Project) -> list[tuple[str, bool]]:
    """Hosts in their order; the objects of one file together below the file's name, if there are several."""
    files = Counter(h.source.asset for h in project.hosts if h.source is not None)
    out: list[tuple[str, bool]] = []
    done: set[str] = set()
    for host in project.hosts:
        asset = "" if host.source is None or files[host.source.asset] < 2 else host.source.asset
        if not asset:
            out.append((host.id, False))
        elif asset not in done:
            done.add(asset)
            own = [h for h in project.hosts if h.source is not None and h.source.asset == asset]
            name = next((Path(h.source.path).name for h in own if h.source is not None and h.source.path), "one file")
            out += [(_FILE + name, True), *((h.id, False) for h in own)]
    return out


def _kind_of(host: Host) -> str:
    """The icon of a host or guide."""
    return "host" if host.is_solid else "picture" if host.picture is not None else "helper"


def _caption(text: str) -> QLabel:
    label = QLabel(text)
    label.setObjectName("caption")
    label.setFont(app_font(8.0, weight=QFont.Weight.DemiBold))
    return label
