"""The chip that says what the next run is made of: its section's name gives way where the row is narrow."""

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QToolButton, QWidget

_EDGES, _WIDEST, _LEAST = 44, 182, 96
"""What its picture and edges take of its width, pixels; how wide it is at most, and at least."""


class NextChip(QToolButton):
    """*next: round 110*: the words stay, the name between them is as long as there is room."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._title, self._width = "", ""
        self.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)

    def set_words(self, title: str, width: str) -> None:
        """The section's name, and the run's width, which may be nothing."""
        self._title, self._width = title, width and f" {width}"
        self.updateGeometry()
        self._fit()

    def _whole(self) -> str:
        return f"next: {self._title}{self._width}"

    def sizeHint(self) -> QSize:
        """As wide as its whole words are, up to a limit, whatever of them is shown now."""
        wide = self.fontMetrics().horizontalAdvance(self._whole()) + _EDGES
        return QSize(min(wide, _WIDEST), super().sizeHint().height())

    def minimumSizeHint(self) -> QSize:
        return QSize(_LEAST, super().minimumSizeHint().height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        metrics, words = self.fontMetrics(), self._whole()
        room = min(self.width(), _WIDEST) - _EDGES
        if metrics.horizontalAdvance(words) > room:
            left = room - metrics.horizontalAdvance(f"next: {self._width}")
            title = metrics.elidedText(self._title, Qt.TextElideMode.ElideRight, max(left, 0))
            words = f"next: {title}{self._width}"
        if words != self.text():
            self.setText(words)
