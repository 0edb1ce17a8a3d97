"""Words at the right of a heading: what has no room is left out at their end, with dots."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel, QSizePolicy


class SummaryLabel(QLabel):
    """A soft line that takes the room it is given; all of it is its tip where it has to be cut."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("soft")
        self.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)

    @property
    def seen(self) -> str:
        """What there is room for."""
        return self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.contentsRect().width())

    def paintEvent(self, event: QPaintEvent) -> None:
        seen = self.seen
        self.setToolTip("" if seen == self.text() else self.text())
        painter = QPainter(self)
        painter.setPen(self.palette().color(self.foregroundRole()))
        painter.drawText(self.contentsRect(), self.alignment(), seen)
        painter.end()
