"""The stock: ready-made sections, those of this project's files, and the user's own presets of whole runs."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path

from platformdirs import user_data_path
from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QApplication, QLineEdit, QMenu, QToolButton, QVBoxLayout, QWidget

from morphax.app.session.workspace import Workspace
from morphax.app.views.stock.along import put_profile, put_section
from morphax.app.views.stock.giving import put_look, put_pieces
from morphax.app.views.stock.groups import (
    DRAW,
    LOOK,
    PIECE,
    PRESETS,
    RACKS,
    SECTIONS,
    Entry,
    entries,
    own_sections,
    values_of,
)
from morphax.app.views.stock.preview import Preview, picture_of
from morphax.app.views.stock.shelf import RackRow, Shelf
from morphax.app.views.stock.tile import Tile
from morphax.app.widgets.appearance import Look
from morphax.app.widgets.text_field import FindField
from morphax.core.section.ready_made import READY_MADE
from morphax.core.section.sampling import section_width
from morphax.io.errors import FileError
from morphax.io.kept_sections import forget_section, keep_section, kept_sections
from morphax.io.preset_file import load_presets, save_presets
from morphax.project.edits.along import set_station_section
from morphax.project.edits.looks import without_looks
from morphax.project.edits.presets import Preset, next_run_of, preset_of
from morphax.project.edits.runs import NewRun, Source, drop_section, set_section
from morphax.project.edits.settings import with_preset
from morphax.project.lookup import section_shape, source_shape
from morphax.project.model.document import Project, ReadyMadeSource, evolve

_REST = 150
"""Milliseconds after the last step of a drag until pictures of sections are drawn anew."""
_REMOVE = "Remove from the stock"
_EMPTY = {PRESETS: "Nothing yet: Run, Keep as a preset keeps a whole run but its path."}


def section_folder() -> Path:
    """Where the user's own sections are kept."""
    return user_data_path("morphax") / "sections"


def preset_file() -> Path:
    """Where the user's own presets are kept."""
    return user_data_path("morphax") / "presets.json"


class SectionLibrary(QWidget):
    """A click sets the next run's section, and that of the runs that are chosen; presets set all but the path."""

    files_dropped = Signal(list)

    def __init__(self, workspace: Workspace, look: Look) -> None:
        super().__init__()
        self.workspace, self.look = workspace, look
        self.setAcceptDrops(True)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        self.finder = FindField("find in the stock", "Find in the stock")
        self.finder.textChanged.connect(lambda _: self.refresh())
        self.rack = SECTIONS
        self.racks = {name: self._rack_button(name) for name in RACKS}
        self.shelf = Shelf()
        box.addWidget(RackRow(tuple(self.racks.values())))
        box.addWidget(self.finder)
        box.addWidget(self.shelf, 1)
        self.preview = Preview()
        self._entry_of: dict[str, Entry] = {}
        self.buttons: dict[str, Tile] = {}
        self.presets: tuple[Preset, ...] = ()
        self.trouble = ""
        try:
            self.presets = load_presets(preset_file())
        except FileError as error:
            self.trouble = f"{error}. It stays as it is; move it away to keep presets again."
            self.finder.setToolTip(self.trouble)
        self._anew = QTimer(self, singleShot=True)
        self._anew.timeout.connect(self.refresh)
        look.changed.connect(self.refresh)
        workspace.project_changed.connect(self._on_project)
        self.refresh()

    def _on_project(self, before: Project, after: Project) -> None:
        """Sections are compared one by one: a drag makes a new tuple of the same ones."""
        same = len(before.sections) == len(after.sections)
        if not same or any(a is not b for a, b in zip(before.sections, after.sections, strict=True)):
            self._anew.start(_REST if self.workspace.unfinished.is_on else 0) if same else self.refresh()

    # -- what there is -----------------------------------------------------------------------------

    def refresh(self) -> None:
        """Shows the rack that is open, group by group; a search looks through all of them."""
        found, words = (
            entries(self.workspace.project, self.presets, kept_sections(section_folder())),
            self.finder.text().lower().split(),
        )
        if words:
            found = [e for e in found if all(w in f"{e.title} {e.about} {e.group}".lower() for w in words)]
        else:
            found = [e for e in found if e.rack == self.rack]
        for key in set(self.buttons) - {e.key for e in found}:
            gone = self.buttons.pop(key)
            gone.hide()
            gone.deleteLater()
        for e in found:
            button = self.buttons.get(e.key) or self._new_button(e.key, e.title)
            button.setIcon(picture_of(e, self.look.tokens))
        self._entry_of = {e.key: e for e in found}
        groups: dict[str, list[Tile]] = {}
        for e in found:
            groups.setdefault(e.group, []).append(self.buttons[e.key])
        empty = "Nothing is found." if words else _EMPTY.get(self.rack, "")
        self.shelf.show_groups(groups, "" if found else empty)
        for name, opens in self.racks.items():
            opens.setChecked(name == self.rack and not words)

    def show_rack(self, name: str) -> None:
        """Opens a rack."""
        self.rack = name
        if self.finder.text():
            self.finder.clear()  # which refreshes
        self.refresh()

    def _rack_button(self, name: str) -> QToolButton:
        button = QToolButton()
        button.setText(RACKS[name])
        button.setCheckable(True)
        button.setObjectName("rack")
        button.clicked.connect(lambda: self.show_rack(name))
        return button

    def _new_button(self, key: str, title: str) -> Tile:
        button = Tile(key, title, self.look)
        button.clicked.connect(lambda: self.take(key))
        button.pointed.connect(self._on_pointed)
        button.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        button.customContextMenuRequested.connect(lambda at: self._menu(button.key).popup(button.mapToGlobal(at)))
        self.buttons[key] = button
        return button

    def _on_pointed(self, key: str) -> None:
        entry, ws = self._entry_of.get(key), self.workspace
        if entry is None:
            self.preview.leave()
        else:
            values = values_of(entry, ws.project.unit, ws.bench.next_run.width)
            self.preview.point_at(self.buttons[key], self, (entry, values), self.look.tokens)

    # -- taking ------------------------------------------------------------------------------------

    def next_run(self, key: str) -> NewRun | None:
        """What the next run is made of when ``key`` is taken; None where it is gone. The look stays as it is."""
        made = self._made_of(key)
        return None if made is None else replace(made, look=self.workspace.bench.next_run.look)

    def _made_of(self, key: str) -> NewRun | None:
        kind, _, name = key.partition(":")
        if key in READY_MADE:
            source = ReadyMadeSource(name=key, values=(("width", READY_MADE[key].laying.width),))
            return NewRun(source, self.workspace.bench.next_run.width)
        if kind == "section":
            found = next((s for s in own_sections(self.workspace.project) if s.id == name), None)
            return None if found is None else NewRun(found.source, section_width(section_shape(found)))
        if kind == "kept":
            own = kept_sections(section_folder()).get(name)
            return None if own is None else NewRun(own, section_width(source_shape(own)))
        preset = next((p for p in self.presets if key == f"preset:{p.name}"), None)
        return None if preset is None else next_run_of(preset)

    def take(self, key: str) -> None:
        """Sets the next run, and gives the chosen runs the section at their width, or all that a preset holds."""
        if key == DRAW:
            self.workspace.board.open_blank()
            return
        if key.startswith(PIECE):
            keys = QApplication.keyboardModifiers()
            on_each = bool(keys & Qt.KeyboardModifier.ShiftModifier)
            put_pieces(self.workspace, key.removeprefix(PIECE), self.workspace.selection.runs, on_each=on_each)
            return
        if key.startswith(LOOK):
            self.give_look(key, (*self.workspace.selection.runs, *self.workspace.selection.hosts))
            return
        ws, new = self.workspace, self.next_run(key)
        if new is None:
            return
        run = ws.chosen.run
        if ws.selection.stations and run is not None and not key.startswith("preset:"):
            wanted = ws.selection.stations[0]
            ws.attempt("Section of the station", lambda p: set_station_section(p, run.id, wanted, new.source))
        elif run is not None and len(run.recipe.stations) > 1 and not key.startswith("preset:"):
            ws.said.emit(f"{run.show.name} has {len(run.recipe.stations)} sections: choose one on the strip first.")
            return
        elif ws.selection.runs:
            self.give(key, ws.selection.runs)
        ws.bench.set_next_run(new)

    def put(self, key: str, run_id: str, station: str | None, share: float) -> None:
        """A section dropped on the strip: a station's, at the width that is there, or a new station's at a share."""
        ws, new = self.workspace, self.next_run(key)
        if new is None or key.startswith((LOOK, PIECE, "preset:")):
            if key != DRAW:
                self.give(key, (run_id,))
            return
        put_section(ws, new.source, run_id, station, share)

    def give(self, key: str, run_ids: tuple[str, ...]) -> None:
        """Gives runs a section, at the width that they have, pieces, a look, or a preset."""
        if key.startswith(PIECE):
            put_pieces(self.workspace, key.removeprefix(PIECE), run_ids, on_each=True)
            return
        if key.startswith(LOOK):
            self.give_look(key, run_ids)
            return
        new = self.next_run(key)
        if new is None:
            return
        preset = next((p for p in self.presets if f"preset:{p.name}" == key), None)
        if preset is not None:
            self.workspace.attempt("Use a preset", lambda p: with_preset(p, run_ids, preset))
        else:
            self.workspace.attempt("Change the section", lambda p: set_section(p, run_ids, new.source))

    def edit(self, key: str) -> None:
        """Opens a section on the board: one of the project's own as it is, of a ready-made one a copy for the next
        run."""
        kind, _, name = key.partition(":")
        new = self.next_run(key)
        if kind == "section":
            self.workspace.board.open_section(name)
        elif new is not None:
            self.workspace.bench.set_next_run(new)
            self.workspace.board.open_source(new.source)

    def _keep(self, section_id: str) -> None:
        """A section of the project is kept on the disk, for other projects."""
        section = next((s for s in own_sections(self.workspace.project) if s.id == section_id), None)
        if section is not None:
            self._on_disk(
                lambda: keep_section(section_folder(), section),
                f"{section.name} is kept on the disk{_but_looks(section.source)}.",
            )

    def _forget(self, name: str) -> None:
        self._on_disk(lambda: forget_section(section_folder(), name), f"{name} is no longer on the disk.")

    def _on_disk(self, act: Callable[[], object], said: str) -> None:
        try:
            act()
        except FileError as error:
            self.workspace.said.emit(f"The stock could not be kept: {error}.")
            return
        self.refresh()
        self.workspace.said.emit(said)

    def give_look(self, key: str, ids: tuple[str, ...]) -> None:
        """Gives runs and hosts a look."""
        put_look(self.workspace, key.removeprefix(LOOK), ids)

    # -- presets -----------------------------------------------------------------------------------

    def keep_preset(self) -> None:
        """Keeps the chosen run, but for its path, as a preset on the disk; one of the same name is replaced."""
        run = self.workspace.chosen.run
        if run is None:
            return
        whole = preset_of(self.workspace.project, run.id)
        stations = tuple(evolve(s, source=without_looks(s.source)) for s in whole.stations)
        preset = evolve(whole, source=without_looks(whole.source), stations=stations)
        others = tuple(p for p in self.presets if p.name != preset.name)
        self._write((*others, preset), f"{preset.name} is kept in the stock{_but_looks(whole.source)}.")

    def _menu(self, key: str) -> QMenu:
        """What can be done with a section, a look or a preset of the stock."""
        menu, (kind, _, name), ws = QMenu(self), key.partition(":"), self.workspace
        new, chosen = self.next_run(key), ws.selection.runs
        if key == DRAW:
            menu.addAction("Open the section board", ws.board.open_blank)
            menu.aboutToHide.connect(menu.deleteLater)
            return menu
        if kind == "piece":
            menu.addAction("Along the chosen runs", lambda: self.give(key, chosen)).setEnabled(bool(chosen))
            menu.aboutToHide.connect(menu.deleteLater)
            return menu
        if kind == "look":
            chosen = (*chosen, *ws.selection.hosts)
            menu.addAction("For what is chosen", lambda: self.give_look(key, chosen)).setEnabled(bool(chosen))
            menu.aboutToHide.connect(menu.deleteLater)
            return menu
        if new is not None:
            menu.addAction("For the next run", lambda: ws.bench.set_next_run(new))
        menu.addAction("For the chosen runs", lambda: self.give(key, chosen)).setEnabled(bool(chosen))
        if new is not None and kind != "preset":
            along = menu.addAction("As the size along the chosen runs", lambda: put_profile(ws, new, chosen, "size"))
            along.setEnabled(bool(chosen))
            menu.addAction("Edit", lambda: self.edit(key))
        if kind == "kept":
            menu.addSeparator()
            menu.addAction("Remove from the disk", lambda: self._forget(name))
        if kind == "section":
            menu.addAction("Keep on the disk", lambda: self._keep(name))
            menu.addSeparator()
            menu.addAction(_REMOVE, lambda: ws.attempt("Remove a section", lambda p: drop_section(p, name)))
        elif kind == "preset":
            menu.addSeparator()
            self._preset_actions(menu, name)
        menu.aboutToHide.connect(menu.deleteLater)
        return menu

    def _preset_actions(self, menu: QMenu, name: str) -> None:
        left = tuple(p for p in self.presets if p.name != name)
        menu.addAction("Rename", lambda: self._begin_rename(self.buttons[f"preset:{name}"]))
        for words, step in (("Move up", -1), ("Move down", 1)):
            order = _moved(self.presets, name, step)
            action = menu.addAction(words, partial(self._write, order, f"{name} was moved."))
            action.setEnabled(order != self.presets)
        menu.addAction(_REMOVE, lambda: self._write(left, f"{name} is no longer in the stock."))

    def _begin_rename(self, button: Tile) -> None:
        """A field in the button's place; Enter takes the new name, Esc or leaving keeps the old one."""
        old = button.key.partition(":")[2]
        field = QLineEdit(old, button.parentWidget())
        field.setObjectName("rename")
        field.setAccessibleName(f"New name of {old}")
        field.setGeometry(button.geometry())
        field.returnPressed.connect(lambda: self._rename(old, field.text().strip()))
        field.editingFinished.connect(field.deleteLater)
        field.show()
        field.setFocus()
        field.selectAll()

    def _rename(self, old: str, new: str) -> None:
        if not new or new == old:
            return
        if any(p.name == new for p in self.presets):
            self.workspace.said.emit(f"There is a preset {new} already.")
            return
        renamed = tuple(evolve(p, name=new) if p.name == old else p for p in self.presets)
        self._write(renamed, f"{old} is called {new} now.")

    def _write(self, presets: tuple[Preset, ...], said: str) -> None:
        if self.trouble:
            self.workspace.said.emit(self.trouble)
            return
        try:
            save_presets(preset_file(), presets)
        except FileError as error:
            self.workspace.said.emit(f"The stock could not be kept: {error}.")
            return
        self.presets = presets
        self.show_rack(PRESETS)
        self.workspace.said.emit(said)

    # -- drops -------------------------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Section files dropped on the stock."""
        self.files_dropped.emit([Path(u.toLocalFile()) for u in event.mimeData().urls() if u.isLocalFile()])
        event.acceptProposedAction()


def _but_looks(source: Source) -> str:
    """Says that looks of sides are not kept with a section, where it has any."""
    return "" if without_looks(source) is source else "; the looks of its sides stay in this project"


def _moved(presets: tuple[Preset, ...], name: str, step: int) -> tuple[Preset, ...]:
    """The presets with one of them a place further up (-1) or down (1)."""
    order = list(presets)
    i = next(k for k, p in enumerate(order) if p.name == name)
    j = min(max(i + step, 0), len(order) - 1)
    order.insert(j, order.pop(i))
    return tuple(order)
