"""The strip's ruler: where distances stand, its ticks and numbers, and the place that is pointed at."""

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from morphax.app.widgets.theme import Tokens, colour
from morphax.project.units import METRES, format_length, format_number

LEFT, RIGHT = 76, 26
RULER_HEIGHT, FOLDED_HEIGHT = 38, 28
_MIDDLE = 18.0


@dataclass(frozen=True)
class Ruler:
    """A run of ``length`` m on a strip of ``size`` pixels."""

    length: float
    size: tuple[int, int]
    unit: str
    tokens: Tokens

    @property
    def is_folded(self) -> bool:
        return self.size[1] <= FOLDED_HEIGHT

    @property
    def room(self) -> int:
        """Pixels from the run's start to its end."""
        return max(1, self.size[0] - LEFT - RIGHT)

    def x_of(self, distance: np.ndarray | float) -> np.ndarray:
        """Pixels of distances along the run."""
        pixels: np.ndarray = LEFT + np.asarray(distance) / max(self.length, 1e-12) * self.room
        return pixels

    def distance_at(self, x: float) -> float | None:
        """The distance along the run at a pixel, m; None beside the ruler."""
        share = (x - LEFT) / self.room
        return share * self.length if 0.0 <= share <= 1.0 and self.length > 0.0 else None


def tick_step(length: float, pixels: float, unit: str) -> float:
    """Distance between numbered ticks, m: 1, 2 or 5 times a power of ten in the display unit, 64 pixels or more."""
    least = 64.0 / max(pixels, 1.0) * length / METRES[unit]
    power = 10.0 ** np.floor(np.log10(max(least, 1e-12)))
    factor = next((f for f in (1.0, 2.0, 5.0) if f * power >= least), 10.0)
    return float(factor * power * METRES[unit])


def paint_name(painter: QPainter, tokens: Tokens, y: float, text: str) -> None:
    """A row's name at its left."""
    painter.setPen(colour(tokens.soft))
    painter.drawText(QRectF(12, y - 10, LEFT - 16, 20), Qt.AlignmentFlag.AlignVCenter, text)


def paint_ruler(painter: QPainter, ruler: Ruler) -> None:
    """Its line, fine ticks, and numbers."""
    t, length = ruler.tokens, ruler.length
    paint_name(painter, t, _MIDDLE, f"length {ruler.unit}")
    step = tick_step(length, ruler.room, ruler.unit)
    fine = np.arange(0.0, length + 1e-9, step / 5.0)
    base = FOLDED_HEIGHT - 2.0 if ruler.is_folded else float(RULER_HEIGHT)
    painter.setPen(QPen(colour(t.line), 1.0))
    painter.drawLine(QPointF(LEFT, base), QPointF(ruler.size[0] - RIGHT, base))
    painter.setPen(QPen(colour(t.soft), 1.0))
    painter.drawLines([QPointF(float(x), y) for x in ruler.x_of(fine) for y in (base - 4.0, base)])
    painter.setPen(colour(t.ink))
    for d in np.arange(0.0, length + 1e-9, step):
        x, top = float(ruler.x_of(d)), 2.0 if ruler.is_folded else _MIDDLE - 10
        text = format_number(d / METRES[ruler.unit], decimals=3)
        painter.drawText(QRectF(x - 40, top, 80, 20), Qt.AlignmentFlag.AlignCenter, text)


def paint_hover(painter: QPainter, ruler: Ruler, hover: float, more: str = "") -> None:
    """The place that is pointed at, here or in a pane, with its distance and what else is to be said of it."""
    t, x, (width, height) = ruler.tokens, float(ruler.x_of(hover)), ruler.size
    painter.setPen(QPen(colour(t.teal), 1.2))
    painter.drawLine(QPointF(x, 8.0), QPointF(x, height - 8.0))
    text = format_length(hover, unit=ruler.unit, decimals=1) + more
    side = QRectF(x + 6, height - 24, max(90.0, painter.fontMetrics().horizontalAdvance(text) + 4.0), 18)
    if side.right() > width - 4:
        side.moveRight(x - 6)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(t.panel, 235))
    painter.drawRoundedRect(side.adjusted(-3, 0, 3, 0), 3, 3)
    painter.setPen(colour(t.teal))
    flag = Qt.AlignmentFlag.AlignLeft if side.left() > x else Qt.AlignmentFlag.AlignRight
    painter.drawText(side, Qt.AlignmentFlag.AlignVCenter | flag, text)
