"""The list: runs with thumbnail, finding badge and eye, and hosts; the stock of sections below."""

from collections import Counter
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import QPoint, Qt, QTimer, Signal
from PySide6.QtGui import QFont
from PySide6.QtWidgets import (
    QAbstractItemView,
    QLabel,
    QVBoxLayout,
    QWidget,
)

from morphax.app.session.throttle import Throttle
from morphax.app.session.workspace import Workspace
from morphax.app.views.list.group_rows import FILE, HEADING_FLAGS, Row, Rows
from morphax.app.views.list.rows import BAD, BADGE, GROUP, HIDDEN, ID, LOCKED, NOTE, THUMB, TIED
from morphax.app.views.stock.groups import LOOK
from morphax.app.views.stock.section_library import SectionLibrary
from morphax.app.widgets.appearance import Look
from morphax.app.widgets.icons import pixmap, section_pixmap
from morphax.app.widgets.text_field import FindField
from morphax.app.widgets.theme import app_font
from morphax.core.findings import Severity
from morphax.project.edits.outlines import rename_section, users_of
from morphax.project.edits.show import reordered, with_shows
from morphax.project.edits.things import renamed, shows, thing_of
from morphax.project.feeds import related, tie_of
from morphax.project.lookup import section_of
from morphax.project.model.document import Group, Host, Project, Run, Section
from morphax.project.things import Selection

_SHARE, _FEW = 100, 5
"""What room is left goes to lists first."""
_SECTIONS = (2, 4)
"""So many sections are seen at least, and at most."""


class ListPanel(QWidget):
    """Runs, hosts and stock."""

    menu_wanted = Signal(QPoint)

    def __init__(self, workspace: Workspace, look: Look) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.workspace, self.look = workspace, look
        self.runs = Rows(look, "Runs", self._run_shows)
        self.sections = Rows(look, "Sections", self._section_shows)
        self.sections.least_rows, self.sections.most_rows = _SECTIONS
        self.hosts = Rows(look, "Hosts", self._host_shows)
        self._filling = False
        self._heading = ""
        self._used = Counter[str]()
        self._counted: tuple[Run, ...] | None = None
        self._sections: tuple[Section, ...] | None = None
        self._listed: tuple[tuple[Run, ...], tuple[Group, ...], str] = ((), (), "")
        self.runs_caption, self.hosts_caption = _caption("RUNS"), _caption("HOSTS")
        self.sections_caption = _caption("SECTIONS")
        self.empty = QLabel("No runs yet. Press T and click in a view.")
        self.empty.setObjectName("soft")
        self.empty.setWordWrap(True)
        self._lay_out()
        self._join()
        throttle = Throttle(self, workspace, self.fill)
        workspace.project_changed.connect(throttle.ask)
        workspace.built.connect(throttle.ask)
        workspace.selection_changed.connect(self._on_selection)
        look.changed.connect(self.fill)
        self.fill()

    def _lay_out(self) -> None:
        """Lists below each other, the stock below them."""
        box = QVBoxLayout(self)
        box.setContentsMargins(8, 8, 8, 8)
        box.setSpacing(4)
        self.finder = FindField("find a run", "Find a run")
        self.finder.textChanged.connect(lambda _: self.fill())
        self.runs.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.runs.model().rowsMoved.connect(lambda *_: QTimer.singleShot(0, self, self._on_moved))
        lists = (self.runs, self.sections, self.hosts)
        captions = (self.runs_caption, self.finder, self.empty)
        for w in (*captions, self.runs, self.sections_caption, self.sections, self.hosts_caption, self.hosts):
            box.addWidget(w, 0 if w not in lists else _FEW if w is self.sections else _SHARE)
        box.addWidget(_caption("STOCK"))
        self.stock = SectionLibrary(self.workspace, self.look)
        box.addWidget(self.stock, 1)

    def _join(self) -> None:
        """What the lists say is heard."""
        self.runs.itemSelectionChanged.connect(self._on_chosen)
        self.hosts.itemSelectionChanged.connect(self._on_chosen)
        bench = self.workspace.bench
        bench.lit_changed.connect(self._on_lit)
        for rows in (self.runs, self.sections, self.hosts):
            rows.pointed.connect(lambda key: bench.light(related(self.workspace.project, key)))
            rows.delegate.lit = lambda: bench.lit
            rows.given.connect(self._give)
        self.sections.itemClicked.connect(lambda item: self._choose_users(item.data(ID)))
        self.sections.renamed.connect(self._rename_section)
        self.sections.picture_opened.connect(self.workspace.board.open_section)
        self.runs.picture_opened.connect(self._open_section_of)
        for rows in (self.runs, self.hosts):
            rows.renamed.connect(self._on_renamed)
            rows.eye_clicked.connect(self._toggle)
            rows.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
            rows.customContextMenuRequested.connect(partial(self._menu, rows))

    def fill(self) -> None:
        """Shows what the project holds."""
        project = self.workspace.project
        self._filling = True
        if self._lists_others():
            self.runs.show_keys(self._run_keys())
        self.runs.viewport().update()
        self.hosts.show_keys(_host_keys(project))
        if self._sections is not project.sections:
            self._sections = project.sections
            self.sections.show_keys([(s.id, False) for s in project.sections])
        self.sections.viewport().update()
        for rows, caption in (
            (self.runs, self.runs_caption),
            (self.sections, self.sections_caption),
            (self.hosts, self.hosts_caption),
        ):
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
        if role == TIED:
            return tie_of(project, run)
        group_word = "member" if run.show.group else None
        values = {HIDDEN: run.show.hidden, LOCKED: run.show.locked, GROUP: group_word, **_named(run.show.name)}
        return values.get(role)

    def _section_shows(self, key: str, role: int) -> Any:
        """What the row of a section shows: its name, and how many runs have it."""
        section: Section | None = self.workspace.project.find("sections", key)
        if section is None:
            return None
        if role == THUMB:
            return section_pixmap(section.source, self.look.tokens, 20)
        if role == NOTE:
            count = self._users.get(key, 0)
            return f"{count} run{'s' if count != 1 else ''}" if count else "unused"
        return {ID: key, **_named(section.name)}.get(role)

    @property
    def _users(self) -> Counter[str]:
        """How many runs have each section; counted when it is looked at."""
        runs = self.workspace.project.runs
        if self._counted is not runs:
            self._counted, self._used = runs, Counter(s.section for r in runs for s in r.recipe.stations)
        return self._used

    def _choose_users(self, section_id: str) -> None:
        """The runs that have a section are chosen together."""
        users = users_of(self.workspace.project, section_id)
        if users:
            self.workspace.select(Selection.of(r.id for r in users))
        self.sections.mark({section_id})

    def _give(self, key: str, to: str) -> None:
        """Something of the stock for what it was dropped on; on a section for all runs that have it."""
        project = self.workspace.project
        users = tuple(r.id for r in users_of(project, to))
        if not users and project.find("runs", to) is None and not key.startswith(LOOK):
            self.workspace.said.emit("That has no section; drop it on a run, or on a section that runs have.")
        else:
            self.stock.give(key, users or (to,))

    def _on_lit(self) -> None:
        for rows in (self.runs, self.sections, self.hosts):
            rows.viewport().update()

    def _rename_section(self, key: str, name: str) -> None:
        self.workspace.attempt("Rename", lambda p: rename_section(p, key, name))
        self.fill()

    def _open_section_of(self, run_id: str) -> None:
        run: Run | None = self.workspace.project.find("runs", run_id)
        if run is not None:
            self.workspace.board.open_run(run)

    def _host_shows(self, key: str, role: int) -> Any:
        """What the row of a host, or of the heading of a file with several objects, shows."""
        project = self.workspace.project
        host: Host | None = project.find("hosts", key)
        if host is None:
            return {ID: "", GROUP: "heading", **_named(key.removeprefix(FILE))}.get(role)
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
        runs = (self.workspace.project.find("runs", i) for i in self.workspace.chosen.run_ids)
        self.sections.mark({s.section for r in runs if r is not None for s in r.recipe.stations})
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

    def _menu(self, rows: Rows, at: QPoint) -> None:
        """The menu of the run or host under the pointer, or of all that stand under a heading."""
        item = rows.itemAt(at)
        if isinstance(item, Row) and not item.isSelected():
            ids = rows.under(item.key)
            self.workspace.select(Selection.of(ids) if rows is self.runs else Selection.of(hosts=ids))
            self._heading = item.key if item.flags() == HEADING_FLAGS else ""
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
            out += [(FILE + name, True), *((h.id, False) for h in own)]
    return out


def _kind_of(host: Host) -> str:
    """The icon of a host or guide."""
    return "host" if host.is_solid else "picture" if host.picture is not None else "helper"


def _caption(text: str) -> QLabel:
    label = QLabel(text)
    label.setObjectName("caption")
    label.setFont(app_font(8.0, weight=QFont.Weight.DemiBold))
    return label
