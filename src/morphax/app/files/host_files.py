"""Host files in the window: read in a thread of their own, shown as progress, taken over as one step."""

import os
from collections.abc import Callable
from functools import partial
from pathlib import Path
from threading import Thread, get_native_id

from PySide6.QtCore import QObject, Signal

from morphax.app.actions.desk import Desk
from morphax.build.refind import Change, refound
from morphax.io.errors import FileError
from morphax.io.host_files import ENDINGS, HostFile, guessed, read_host
from morphax.project.edits.hosts import add_hosts, host_by_id, renewed
from morphax.project.edits.runs import Added
from morphax.project.model.document import HostSource, Project
from morphax.project.things import Selection

_NICENESS = 12
"""Looking for edges in a host that has just come in gives way to its picture (nice(2): 0 is usual, 19 least)."""


class HostFiles(QObject):
    """Brings models in and reads them again; ``waiting`` counts the files that are being read."""

    _read = Signal(object)

    def __init__(self, window: Desk) -> None:
        super().__init__()
        self.window, self.workspace = window, window.workspace
        self.waiting = 0
        self._ready: tuple[Project, Added] | None = None
        self._read.connect(self._on_read)
        self.workspace.project_changed.connect(self._warm)

    def ask(self) -> None:
        """Asks for a file, and brings it in."""
        name = self.window.exchange.ask("Bring in a model", f"Models (*{' *'.join(ENDINGS)})")
        if name:
            self.bring_in(Path(name))

    def bring_in(self, file: Path) -> None:
        """A host for each object of a file."""
        self._begin(file, lambda found: self._take(file, found), warms=True)

    def read_chosen_again(self) -> None:
        """The files of the chosen hosts, or of all where none is chosen."""
        ws = self.workspace
        self.read_again(ws.selection.hosts or tuple(h.id for h in ws.project.hosts))

    def read_again(self, host_ids: tuple[str, ...]) -> None:
        """The files of some hosts, as they are now on the disk."""
        hosts = [h for h in self.workspace.project.hosts if h.id in host_ids and h.source is not None]
        files = {(h.source.asset, h.source.path) for h in hosts if h.source is not None and h.source.path}
        for asset, path in sorted(files):
            self._begin(Path(path), partial(self._renew, asset, Path(path)))

    def _begin(self, file: Path, then: Callable[[HostFile], None], *, warms: bool = False) -> None:
        """Reads in a thread; the result comes back on the interface thread. ``warms``: meshes are made there too."""
        self.waiting += 1
        self.window.say(f"Reading {file.name} …")
        project = self.workspace.project

        def work() -> None:
            try:
                read = read_host(file)
                if warms:
                    self._ready = (project, self._added(project, file, read))
                found: HostFile | FileError = read
            except FileError as error:
                found = error
            self._read.emit((found, then))

        Thread(target=work, name="morphax-host-file", daemon=True).start()

    def _warm(self, before: Project, project: Project) -> None:
        """Makes hosts that come new from files ready for the pointer, so that its first move need not wait."""
        if project.hosts is before.hosts:
            return
        known = {(h.id, h.source) for h in before.hosts}
        new = [h for h in project.hosts if h.source is not None and (h.id, h.source) not in known]
        if not new:
            return
        around, builder = self.window.toolbox.edit.around, self.workspace.bodies.builder

        def work() -> None:
            if hasattr(os, "setpriority"):  # their picture comes first
                os.setpriority(os.PRIO_PROCESS, get_native_id(), _NICENESS)
            for host in new:
                mesh = builder.host(project, host)
                around.edges.creases(mesh)
                around.picker.locator(mesh).prepare()

        Thread(target=work, name="morphax-host-edges", daemon=True).start()

    def _on_read(self, result: tuple[HostFile | FileError, Callable[[HostFile], None]]) -> None:
        found, then = result
        self.waiting -= 1
        if isinstance(found, FileError):
            self.window.say(f"{found}.")  # it begins with the file's name
        else:
            then(found)

    def _added(self, project: Project, file: Path, found: HostFile) -> Added:
        """The project with the file's hosts, and their meshes made, so that showing them needs no time."""
        unit, up = guessed(found.suffix, found.extent)
        source = HostSource(asset="a1", node="x", path=str(file.resolve()), unit=unit, up=up)
        added = add_hosts(project, found.data, [n.name for n in found.nodes], source, found.suffix)
        asset = next(a for a in added.project.assets if a.data == found.data)
        builder = self.workspace.bodies.builder
        builder.know_nodes(asset, {n.name: n.shape for n in found.nodes})
        for host in added.project.hosts:
            if host.id in added.ids:
                builder.host(added.project, host)
        return added

    def _take(self, file: Path, found: HostFile) -> None:
        ws = self.workspace
        self.window.toolbox.finish()
        base, added = self._ready if self._ready is not None else (None, None)
        self._ready = None
        if added is None or base is not ws.project:  # something was changed while the file was read
            added = self._added(ws.project, file, found)
        source = next(h.source for h in added.project.hosts if h.id == added.ids[0])
        unit, up = (source.unit, source.up) if source is not None else ("m", "z")
        ws.edit(f"Bring in {file.name}", added.project, Selection.of(hosts=added.ids))
        self.window.frame()
        self.window.say(_said(file, found, f"read in {unit} with {up} up; both can be changed"))

    def _renew(self, asset: str, file: Path, found: HostFile) -> None:
        """Takes a file over again: one step of history, with what is lost or new named."""
        ws = self.workspace
        names = [n.name for n in found.nodes]
        old = [h for h in ws.project.hosts if h.source is not None and h.source.asset == asset]
        if any(a.id == asset and a.data == found.data for a in ws.project.assets):
            self.window.say(f"{file.name} has not changed.")
            return
        more: list[str] = []
        lost: list[str] = []

        def change(project: Project) -> Project:
            done, added = renewed(project, asset, found.data, found.suffix, names)
            more.extend(added.ids)
            for host in old:
                before, after = (ws.bodies.builder.own_host(p, host_by_id(p, host.id)) for p in (project, done))
                if after is not before and before.face_count and after.face_count:
                    again = refound(done, host.id, Change(before, after))
                    done = again.project
                    lost.extend(again.lost)
            return done

        if ws.attempt(f"Read {file.name} again", change):
            gone = [h.show.name for h in old if h.source is not None and h.source.node not in names]
            parts = [f"{len(more)} new" if more else "", f"no longer in it: {', '.join(gone)}" if gone else ""]
            parts.append(f"not found again: {', '.join(lost)}" if lost else "")
            self.window.say(_said(file, found, "; ".join(p for p in parts if p) or "everything was found again"))


def _said(file: Path, found: HostFile, more: str) -> str:
    """What came in, and what was left out."""
    count = len(found.nodes)
    out = f"{file.name}: {count} object{'s' if count != 1 else ''}, {more}."
    return f"{out} Left out: {', '.join(found.left_out[:5])}." if found.left_out else out


def is_host_file(file: Path) -> bool:
    """Whether a file may hold a model."""
    return file.suffix.lower() in ENDINGS
