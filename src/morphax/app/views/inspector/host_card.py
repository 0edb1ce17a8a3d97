"""The card of chosen hosts: name, size to compare with, how the file is meant, where it stands."""

from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.card import Card, NameField, soft_label
from morphax.app.views.inspector.fields import RowWidget
from morphax.app.views.inspector.host_rows import HOST, hosts_of, size_words
from morphax.app.views.inspector.look_rows import HOST_LOOK
from morphax.app.views.pictures import pixels_of
from morphax.project.edits.things import deleted, renamed
from morphax.project.model.document import Host
from morphax.project.things import Thing, ThingKind
from morphax.project.units import format_length


class HostCard(Card):
    """Shown instead of the run's card while hosts are chosen."""

    read_again = Signal()
    scale_wanted = Signal()

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.name = NameField("Name of the host")
        self.name.editingFinished.connect(self._rename)
        self.sentence = soft_label(wraps=True)
        self.box.addWidget(self.name)
        self.box.addWidget(self.sentence)
        self.rows = [RowWidget(row, workspace) for row in (*HOST, *HOST_LOOK)]
        for row in self.rows:
            self.box.addWidget(row)
        self.again = QPushButton("Read the file again")
        self.again.setToolTip("Takes over what was changed in the file; places, ports and paths on it stay")
        self.again.clicked.connect(self.read_again)
        self.box.addWidget(self.again)
        self.by_two = QPushButton("Scale by two places")
        self.by_two.setToolTip("Click two places of the picture, then type how far they are apart in truth")
        self.by_two.clicked.connect(self.scale_wanted)
        self.box.addWidget(self.by_two)
        self.ports = QVBoxLayout()
        self.ports.setSpacing(2)
        self.box.addLayout(self.ports)
        self._shown: tuple[object, ...] = ()

    def refresh(self) -> None:
        """Shows the chosen hosts; hides itself where there is none."""
        hosts = hosts_of(self.workspace)
        shown = bool(hosts) and self.workspace.chosen.run is None
        self.setVisible(shown)
        if not shown:
            return
        if not self.name.hasFocus():
            self.name.setText(hosts[0].show.name if len(hosts) == 1 else f"{len(hosts)} hosts")
        self.name.setReadOnly(len(hosts) > 1)
        self.sentence.setText(f"{_sentence(self.workspace, hosts)}\n{size_words(self.workspace)}")
        self.again.setVisible(any(h.source is not None and h.source.path for h in hosts))
        self.by_two.setVisible(len(hosts) == 1 and hosts[0].picture is not None)
        for row in self.rows:
            row.setVisible(row.row.shown(self.workspace))
            row.refresh()

        self._show_ports(hosts)

    def _show_ports(self, hosts: list[Host]) -> None:
        """A line for each port: its name, its size, and a button that takes it away."""
        unit = self.workspace.project.unit
        ports = tuple((h, p) for h in hosts for p in h.ports)
        if self._shown == (*ports, unit):
            return
        self._shown = (*ports, unit)
        while self.ports.count():
            taken = self.ports.takeAt(0)
            old = None if taken is None else taken.widget()
            if old is not None:
                old.hide()
                old.deleteLater()
        for host, port in ports:
            line = QWidget()
            line.setObjectName("bare")
            row = QHBoxLayout(line)
            row.setContentsMargins(0, 0, 0, 0)
            across = (
                f" · {format_length(port.diameter * host.place.scale, unit=unit, decimals=1)}" if port.diameter else ""
            )
            row.addWidget(QLabel(f"{port.name} · {port.found}{across}{' · lost' if port.lost else ''}"), 1)
            gone = QPushButton("Remove")
            gone.setAccessibleName(f"Remove {port.name} of {host.show.name}")
            gone.clicked.connect(
                lambda _=False, h=host.id, p=port.id: self.workspace.attempt(
                    "Remove a port", lambda project: deleted(project, [Thing(ThingKind.PORT, p, h)]).project
                )
            )
            row.addWidget(gone)
            self.ports.addWidget(line)

    def _rename(self) -> None:
        hosts = hosts_of(self.workspace)
        if len(hosts) == 1 and self.name.isModified() and self.name.text() != hosts[0].show.name:
            self.name.setModified(False)
            self.workspace.attempt("Rename", lambda p: renamed(p, Thing(ThingKind.HOST, hosts[0].id), self.name.text()))


def _sentence(workspace: Workspace, hosts: list[Host]) -> str:
    """Where the hosts come from."""
    files = sorted({Path(h.source.path).name for h in hosts if h.source is not None})
    if all(h.picture is not None for h in hosts):
        wanted = {h.picture.asset for h in hosts if h.picture is not None}
        bad = [a for a in workspace.project.assets if a.id in wanted and pixels_of(a) is None]
        return "the project's copy of this picture cannot be read" if bad else "a picture behind a flat view"
    if all(h.helper is not None for h in hosts):
        return "a helper line; its edges catch, and E makes paths of them"
    return f"from {', '.join(files)}" if files else "made of simple forms"
