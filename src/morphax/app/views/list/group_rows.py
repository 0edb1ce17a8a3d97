"""One group of the list: rows that know their key only, marked as what is chosen is."""

from collections.abc import Callable
from itertools import takewhile
from typing import Any

from PySide6.QtCore import QEvent, QPoint, Qt, Signal
from PySide6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent, QMouseEvent
from PySide6.QtWidgets import QAbstractItemView, QListWidget, QListWidgetItem

from morphax.app.views.list.rows import GROUP, ID, NOTE, ROW_HEIGHT, RowDelegate
from morphax.app.views.stock.tile import dropped_key
from morphax.app.widgets.appearance import Look
from morphax.app.widgets.motion import Fade

LEAST_ROWS, MOST_ROWS = 4, 100
"""A list has room for so many rows at least and at most."""
PICTURE_RIGHT = 32
"""A row's picture ends so many pixels from its left."""
FILE = "file:"
"""Begins the key of a file's heading."""
_RUN_FLAGS = (
    Qt.ItemFlag.ItemIsEnabled
    | Qt.ItemFlag.ItemIsSelectable
    | Qt.ItemFlag.ItemIsEditable
    | Qt.ItemFlag.ItemIsDragEnabled
)
HEADING_FLAGS = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsEditable
_FILE_FLAGS = Qt.ItemFlag.ItemIsEnabled


Show = Callable[[str, int], Any]
"""``show(key, role)``: what a row shows; the key is a run's, host's or group's id, or a heading's words."""


class Row(QListWidgetItem):
    """A row that knows its key only: what it shows is asked for when it is painted, so that only rows in sight cost."""

    def __init__(self, key: str, show: Show, renamed: Callable[[str, str], None]) -> None:
        super().__init__(type=QListWidgetItem.ItemType.UserType)
        self.key, self._show, self._renamed = key, show, renamed

    def data(self, role: int) -> Any:
        return self._show(self.key, role)

    def setData(self, role: int, value: Any) -> None:
        if role == Qt.ItemDataRole.EditRole:
            self._renamed(self.key, str(value))


class Rows(QListWidget):
    """One group of the list."""

    eye_clicked = Signal(str)
    renamed = Signal(str, str)
    picture_opened = Signal(str)
    given = Signal(str, str)
    """Something of the stock was dropped on a row: both keys."""
    pointed = Signal(str)
    """The key of the row under the pointer; empty when it leaves."""

    def __init__(self, look: Look, name: str, show: Show) -> None:
        super().__init__()
        self._show, self._keys, self._marked = show, list[tuple[str, bool]](), set[str]()
        self.row_of: dict[str, int] = {}
        self.least_rows, self.most_rows = LEAST_ROWS, MOST_ROWS
        self.setUniformItemSizes(True)
        self.setAccessibleName(name)
        self.delegate = RowDelegate(look)
        self.setItemDelegate(self.delegate)
        self.hover_fade, self.chosen_fade = (Fade(self, self.viewport().update) for _ in range(2))
        self.delegate.hovered = lambda: self.hover_fade.share
        self.itemEntered.connect(lambda _: self.hover_fade.begin())
        self.itemEntered.connect(lambda item: self.pointed.emit(item.data(ID) or ""))
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMouseTracking(True)
        self.setAcceptDrops(True)
        self.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed | QAbstractItemView.EditTrigger.DoubleClicked)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        item = self.itemAt(event.position().toPoint())
        if item is not None and self._in_eye(item, event.position().toPoint()):
            self.eye_clicked.emit(item.data(ID))
            return
        super().mousePressEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if dropped_key(event.mimeData()) is not None:
            event.acceptProposedAction()
        else:
            super().dragEnterEvent(event)

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        """The row that would take it is marked as the one that is pointed at."""
        if dropped_key(event.mimeData()) is None:
            super().dragMoveEvent(event)
            return
        item = self.itemAt(event.position().toPoint())
        self.pointed.emit("" if item is None else item.data(ID) or "")
        event.acceptProposedAction() if item is not None else event.ignore()

    def dropEvent(self, event: QDropEvent) -> None:
        key, item = dropped_key(event.mimeData()), self.itemAt(event.position().toPoint())
        if key is None:
            super().dropEvent(event)
        elif item is not None:
            self.given.emit(key, item.data(ID) or "")
            event.acceptProposedAction()

    def leaveEvent(self, event: QEvent) -> None:
        self.pointed.emit("")
        super().leaveEvent(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """On a picture it opens what that shows; on a name it renames."""
        at = event.position().toPoint()
        item = self.itemAt(at)
        if item is not None and at.x() < self.visualItemRect(item).left() + PICTURE_RIGHT:
            self.picture_opened.emit(item.data(ID))
            return
        super().mouseDoubleClickEvent(event)

    def _in_eye(self, item: QListWidgetItem, p: QPoint) -> bool:
        if item.data(NOTE):
            return False  # words stand there
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
                row = Row(key, self._show, self.renamed.emit)
                is_file = key.startswith(FILE)
                row.setFlags(_FILE_FLAGS if is_file else HEADING_FLAGS if is_heading else _RUN_FLAGS)
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
        new = wanted - self._marked
        if new and self.count() > self.most_rows:  # of a list that shows few the marked one comes into sight
            self.scrollToItem(self.item(min(self.row_of[key] for key in new)))
        self._come(new)
        self._marked = wanted

    def _come(self, keys: set[str]) -> None:
        """Rows that have just been chosen grow out of their ground."""
        if keys:
            self.delegate.coming = (lambda: self.chosen_fade.share, keys)
            self.chosen_fade.begin()

    def fit(self) -> None:
        """At most as high as its rows, so that groups stand directly below each other."""
        rows = max(self.count(), 1)
        self.setMinimumHeight(min(rows, self.least_rows) * ROW_HEIGHT + 4)
        self.setMaximumHeight(min(rows, self.most_rows) * ROW_HEIGHT + 4)
