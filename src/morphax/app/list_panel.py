"""The list: runs with thumbnail, finding badge and eye, and hosts; the stock of sections below."""

from PySide6.QtCore import QModelIndex, QPoint, QRect, QSize, Qt, Signal
from PySide6.QtGui import QFont, QMouseEvent, QPainter
from PySide6.QtWidgets import (
    QAbstractItemView,
    QGridLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from morphax.app.icons import pixmap, section_pixmap
from morphax.app.look import Look
from morphax.app.theme import app_font, colour
from morphax.app.workspace import Workspace
from morphax.core.findings import Severity
from morphax.core.ready_made import READY_MADE
from morphax.project.edits import NewRun, rename_run, set_hidden, set_section
from morphax.project.history import Selection
from morphax.project.lookup import section_of
from morphax.project.model import ReadyMadeSource

ROW_HEIGHT = 30
_THUMB_VALUES = {"pipe": {"wall": 0.2}, "ellipse": {"height": 0.6}, "rounded-rectangle": {"height": 0.7}}
_ID, _HIDDEN, _BADGE, _BAD, _THUMB = (Qt.ItemDataRole.UserRole + i for i in range(5))


class _RowDelegate(QStyledItemDelegate):
    """Paints a row: thumbnail, name, badge with the number of findings, eye."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self.look = look

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(120, ROW_HEIGHT)

    def eye_box(self, rect: QRect) -> QRect:
        return QRect(rect.right() - 28, rect.top() + (rect.height() - 20) // 2, 20, 20)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        t, rect = self.look.tokens, option.rect.adjusted(2, 1, -2, -1)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        if chosen or option.state & QStyle.StateFlag.State_MouseOver:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(t.teal_ground, 255 if chosen else 90))
            painter.drawRoundedRect(rect, 5, 5)
        thumb = index.data(_THUMB)
        painter.drawPixmap(QRect(rect.left() + 6, rect.top() + (rect.height() - 20) // 2, 20, 20), thumb)
        hidden = bool(index.data(_HIDDEN))
        painter.setFont(app_font(9.0, weight=QFont.Weight.Medium if chosen else QFont.Weight.Normal))
        painter.setPen(colour(t.soft if hidden else t.teal if chosen else t.ink))
        right = 34 + (28 if index.data(_BADGE) else 0)
        text = rect.adjusted(32, 0, -right, 0)
        name = painter.fontMetrics().elidedText(
            str(index.data(Qt.ItemDataRole.DisplayRole)), Qt.TextElideMode.ElideRight, text.width()
        )
        painter.drawText(text, Qt.AlignmentFlag.AlignVCenter, name)
        if index.data(_BADGE):
            box = QRect(rect.right() - 58, rect.top() + (rect.height() - 20) // 2, 22, 20)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(t.red if index.data(_BAD) else t.amber))
            painter.drawRoundedRect(box, 5, 5)
            painter.setPen(colour(t.paper if t.dark else t.raised))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(index.data(_BADGE)))
        if hidden or option.state & QStyle.StateFlag.State_MouseOver or chosen:
            painter.drawPixmap(self.eye_box(rect), pixmap("eye-off" if hidden else "eye", t.soft))
        painter.restore()


class _Rows(QListWidget):
    """One group of the list."""

    eye_clicked = Signal(str)

    def __init__(self, look: Look, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.delegate = _RowDelegate(look)
        self.setItemDelegate(self.delegate)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMouseTracking(True)
        self.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        item = self.itemAt(event.position().toPoint())
        if item is not None and self._in_eye(item, event.position().toPoint()):
            self.eye_clicked.emit(item.data(_ID))
            return
        super().mousePressEvent(event)

    def _in_eye(self, item: QListWidgetItem, p: QPoint) -> bool:
        rect = self.visualItemRect(item).adjusted(2, 1, -2, -1)
        return self.delegate.eye_box(rect).adjusted(-4, -4, 4, 4).contains(p)

    def fit(self) -> None:
        """As high as its rows, so that groups stand directly below each other."""
        self.setFixedHeight(min(max(self.count(), 1), 9) * ROW_HEIGHT + 4)


class ListPanel(QWidget):
    """Runs, hosts and stock."""

    def __init__(self, workspace: Workspace, look: Look) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.workspace, self.look = workspace, look
        self.runs, self.hosts = _Rows(look, "Runs"), _Rows(look, "Hosts")
        self._filling = False
        self.runs_caption, self.hosts_caption = _caption("RUNS"), _caption("HOSTS")
        self.empty = QLabel("No runs yet. Press T and click in a view.")
        self.empty.setObjectName("soft")
        self.empty.setWordWrap(True)
        box = QVBoxLayout(self)
        box.setContentsMargins(8, 8, 8, 8)
        box.setSpacing(4)
        for w in (self.runs_caption, self.empty, self.runs, self.hosts_caption, self.hosts):
            box.addWidget(w)
        box.addStretch(1)
        box.addWidget(_caption("STOCK"))
        self.stock = Stock(workspace, look)
        box.addWidget(self.stock)
        self.runs.itemSelectionChanged.connect(self._on_chosen)
        self.hosts.itemSelectionChanged.connect(self._on_chosen)
        self.runs.itemChanged.connect(self._on_renamed)
        for rows in (self.runs, self.hosts):
            rows.eye_clicked.connect(self._toggle)
        workspace.project_changed.connect(lambda *_: self.fill())
        workspace.built.connect(self.fill)
        workspace.selection_changed.connect(self._show_chosen)
        look.changed.connect(self.fill)
        self.fill()

    def fill(self) -> None:
        """Shows what the project holds."""
        project, t = self.workspace.project, self.look.tokens
        self._filling = True
        self._resize(self.runs, len(project.runs))
        for row, run in enumerate(project.runs):
            item = self.runs.item(row)
            built = self.workspace.bodies.get(run.id)
            shown = [f for f in built.body.findings if f.severity is not Severity.NOTE] if built else []
            thumb = section_pixmap(section_of(project, run.id).source, t, 20)
            self._set(item, run.id, run.show.name, run.show.hidden, thumb)
            item.setData(_BADGE, len(shown) or None)
            item.setData(_BAD, any(f.severity is Severity.ERROR for f in shown))
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
        self._resize(self.hosts, len(project.hosts))
        for row, host in enumerate(project.hosts):
            self._set(self.hosts.item(row), host.id, host.show.name, host.show.hidden, pixmap("host", t.soft))
        for rows, caption in ((self.runs, self.runs_caption), (self.hosts, self.hosts_caption)):
            rows.fit()
            rows.setVisible(rows.count() > 0)
            caption.setVisible(rows.count() > 0 or rows is self.runs)
        self.empty.setVisible(not project.runs)
        self._filling = False
        self._show_chosen()

    @staticmethod
    def _resize(rows: QListWidget, count: int) -> None:
        while rows.count() < count:
            rows.addItem(QListWidgetItem())
        while rows.count() > count:
            rows.takeItem(rows.count() - 1)

    @staticmethod
    def _set(item: QListWidgetItem, entity_id: str, name: str, hidden: bool, thumb: object) -> None:
        item.setText(name)
        item.setData(_ID, entity_id)
        item.setData(_HIDDEN, hidden)
        item.setData(_THUMB, thumb)

    def _show_chosen(self) -> None:
        self._filling = True
        chosen = {*self.workspace.selection.runs, *self.workspace.selection.hosts}
        for rows in (self.runs, self.hosts):
            for i in range(rows.count()):
                rows.item(i).setSelected(rows.item(i).data(_ID) in chosen)
        self._filling = False

    def _on_chosen(self) -> None:
        if self._filling:
            return
        sender_is_runs = self.runs.hasFocus() or not self.hosts.hasFocus()
        runs = tuple(i.data(_ID) for i in self.runs.selectedItems()) if sender_is_runs else ()
        hosts = () if sender_is_runs else tuple(i.data(_ID) for i in self.hosts.selectedItems())
        self.workspace.select(Selection(runs, (), hosts))

    def _on_renamed(self, item: QListWidgetItem) -> None:
        if self._filling:
            return
        self.workspace.attempt("Rename", lambda p: rename_run(p, item.data(_ID), item.text()))
        self.fill()

    def _toggle(self, entity_id: str) -> None:
        project = self.workspace.project
        thing = next(e for e in (*project.runs, *project.hosts) if e.id == entity_id)
        label = "Show" if thing.show.hidden else "Hide"
        self.workspace.attempt(label, lambda p: set_hidden(p, [entity_id], not thing.show.hidden))

    def rename(self) -> None:
        """Opens the name of the chosen run for typing."""
        chosen = self.runs.selectedItems()
        if chosen:
            self.runs.setFocus()
            self.runs.editItem(chosen[0])


def _caption(text: str) -> QLabel:
    label = QLabel(text)
    label.setObjectName("caption")
    label.setFont(app_font(8.0, weight=QFont.Weight.DemiBold))
    return label


class Stock(QWidget):
    """Ready-made sections: a click sets the next run's, and the section of the runs that are chosen."""

    def __init__(self, workspace: Workspace, look: Look) -> None:
        super().__init__()
        self.workspace, self.look = workspace, look
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(6)
        self.buttons: dict[str, QToolButton] = {}
        for i, (name, made) in enumerate(READY_MADE.items()):
            button = QToolButton()
            button.setIconSize(QSize(32, 32))
            button.setFixedHeight(42)
            button.setSizePolicy(button.sizePolicy().Policy.Expanding, button.sizePolicy().Policy.Fixed)
            button.setToolTip(f"{made.title}: {made.about}")
            button.setAccessibleName(made.title)
            button.clicked.connect(lambda _=False, n=name: self.take(n))
            self.buttons[name] = button
            grid.addWidget(button, i // 3, i % 3)
        look.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        for name, button in self.buttons.items():
            values = {"width": 1.0} | _THUMB_VALUES.get(name, {})
            button.setIcon(section_pixmap(ReadyMadeSource(name=name, values=tuple(values.items())), self.look.tokens))

    def take(self, name: str) -> None:
        """Sets the section of the next run and of the chosen runs, at the width that they have."""
        ws = self.workspace
        source = ReadyMadeSource(name=name, values=(("width", READY_MADE[name].laying.width),))
        if ws.selection.runs:
            ws.attempt("Change the section", lambda p: set_section(p, ws.selection.runs, source))
        ws.set_next_run(NewRun(source, ws.next_run.width))
