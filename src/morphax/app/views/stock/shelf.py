"""What stands in an open rack: tiles in groups below their names, as many across as there is room for."""

from collections.abc import Mapping, Sequence

from PySide6.QtCore import QSize, Qt, QTimer
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QGridLayout, QLabel, QScrollArea, QWidget

from morphax.app.views.inspector.card import soft_label

_GAP = 4
_LEAST = 96
_TILE = 68
"""A tile is so many pixels wide at least."""


class RackRow(QWidget):
    """The racks' names beside each other, on two lines where there is no room for all of them."""

    def __init__(self, buttons: Sequence[QWidget]) -> None:
        super().__init__()
        self.setObjectName("bare")
        self._buttons, self._across = buttons, 0
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(_GAP)
        self._grid.setVerticalSpacing(0)
        self._lay(len(buttons))

    def _lay(self, across: int) -> None:
        self._across = across
        for k, button in enumerate(self._buttons):
            self._grid.addWidget(button, k // across, k % across, Qt.AlignmentFlag.AlignLeft)
        for k in range(len(self._buttons) + 1):
            self._grid.setColumnStretch(k, 1 if k == across else 0)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        count = len(self._buttons)
        wide = sum(b.sizeHint().width() for b in self._buttons) + _GAP * (count - 1)
        across = count if wide <= self.width() else (count + 1) // 2
        if across != self._across:
            self._lay(across)

    def minimumSizeHint(self) -> QSize:
        """As narrow as two lines are."""
        half = (len(self._buttons) + 1) // 2
        wide = max(sum(b.sizeHint().width() for b in row) for row in (self._buttons[:half], self._buttons[half:]))
        return QSize(wide + _GAP, super().minimumSizeHint().height())


class Shelf(QScrollArea):
    """Shows groups of tiles; the wheel goes through them where there are many."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("bare")
        self.inner = QWidget()
        self.inner.setObjectName("bare")
        self.grid = QGridLayout(self.inner)
        self.grid.setContentsMargins(0, 0, 0, 0)
        self.grid.setSpacing(_GAP)
        self.empty = soft_label(wraps=True)
        self.captions: dict[str, QLabel] = {}
        self._groups: Mapping[str, Sequence[QWidget]] = {}
        self._across = 0
        self._anew = QTimer(self, singleShot=True, interval=0)
        self._anew.timeout.connect(lambda: self.show_groups(self._groups, self.empty.text()))
        self.setWidget(self.inner)
        self.setWidgetResizable(True)
        self.setMinimumHeight(_LEAST)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)

    def show_groups(self, groups: Mapping[str, Sequence[QWidget]], words: str) -> None:
        """Shows tiles by the name of their group, or words where there are none."""
        self._groups, self._across = groups, self._room()
        across = self._across
        while self.grid.count():
            self.grid.takeAt(0)
        for caption in self.captions.values():
            caption.hide()
        row = 0
        for name, tiles in groups.items():
            if name:
                caption = self._caption(name)
                self.grid.addWidget(caption, row, 0, 1, across)
                caption.show()  # not before it stands in here: it would be a window of its own
                row += 1
            for k, tile in enumerate(tiles):
                self.grid.addWidget(tile, row + k // across, k % across)
                tile.show()
            row += (len(tiles) + across - 1) // across
        self.empty.setText(words)
        self.grid.addWidget(self.empty, row, 0, 1, across)
        self.empty.setVisible(bool(words))
        for k in range(max(across, self.grid.columnCount())):
            self.grid.setColumnStretch(k, 1 if k < across else 0)
        for k in range(self.grid.rowCount()):
            self.grid.setRowStretch(k, 0)
        self.grid.setRowStretch(row + 1, 1)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self._room() != self._across:
            self._anew.start()  # not amid the layout that resizes it

    def sizeHint(self) -> QSize:
        """It takes what the lists above leave."""
        return QSize(super().sizeHint().width(), _LEAST)

    def _room(self) -> int:
        """How many tiles stand beside each other."""
        return max(2, (self.viewport().width() + _GAP) // (_TILE + _GAP))

    def _caption(self, name: str) -> QLabel:
        if name not in self.captions:
            self.captions[name] = soft_label()
            self.captions[name].setText(name)
        return self.captions[name]
