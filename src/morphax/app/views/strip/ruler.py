"""The strip's ruler: where distances stand, its ticks and numbers, and the place that is pointed at."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from morphax.app.widgets.theme import Tokens, colour
from morphax.core.types import Flags, Floats
from morphax.project.units import METRES, format_length, format_number

LEFT, RIGHT = 76, 26
RULER_HEIGHT, FOLDED_HEIGHT = 38, 28
_MIDDLE = 18.0
_NEAREST = 1e-4
"""The least share of a run that fills the strip."""


@dataclass(frozen=True)
class Ruler:
    """A run of ``length`` m on a strip of ``size`` pixels, of which the shares ``seen`` are in view."""

    length: float
    size: tuple[int, int]
    unit: str
    tokens: Tokens
    seen: tuple[float, float] = (0.0, 1.0)

    @property
    def is_folded(self) -> bool:
        return self.size[1] <= FOLDED_HEIGHT

    @property
    def room(self) -> int:
        """Pixels from the run's start to its end."""
        return max(1, self.size[0] - LEFT - RIGHT)

    @property
    def is_whole(self) -> bool:
        return self.seen == (0.0, 1.0)

    def x_of(self, distance: np.ndarray | float) -> np.ndarray:
        """Pixels of distances along the run."""
        low, high = self.seen
        pixels: np.ndarray = LEFT + (np.asarray(distance) / max(self.length, 1e-12) - low) / (high - low) * self.room
        return pixels

    def share_at(self, x: float) -> float:
        """The share of the length at a pixel; less than 0 or more than 1 beside the run."""
        low, high = self.seen
        return low + (x - LEFT) / self.room * (high - low)

    def distance_at(self, x: float) -> float | None:
        """The distance along the run at a pixel, m; None beside the ruler."""
        is_on = LEFT <= x <= LEFT + self.room and self.length > 0.0
        return min(max(self.share_at(x), 0.0), 1.0) * self.length if is_on else None

    def is_in_view(self, x: Floats | float, beside: float = 0.0) -> Flags:
        """Whether pixels lie on the ruler, or so many pixels beside it."""
        seen: Flags = (np.asarray(x) >= LEFT - beside) & (np.asarray(x) <= LEFT + self.room + beside)
        return seen

    def zoomed(self, factor: float, x: float) -> tuple[float, float]:
        """What is seen after zooming about a pixel; never more than the whole run."""
        about, (low, high) = min(max(self.share_at(x), 0.0), 1.0), self.seen
        wide = min(max((high - low) / factor, _NEAREST), 1.0)
        start = about - (about - low) / (high - low) * wide
        return self._within(start, wide)

    def panned(self, pixels: float) -> tuple[float, float]:
        """What is seen after moving it by so many pixels."""
        low, high = self.seen
        return self._within(low - pixels / self.room * (high - low), high - low)

    def _within(self, start: float, wide: float) -> tuple[float, float]:
        if wide >= 1.0 - 1e-9:
            return 0.0, 1.0
        start = min(max(start, 0.0), 1.0 - wide)
        return start, start + wide

    @contextmanager
    def within(self, painter: QPainter) -> Iterator[None]:
        """Paints on the ruler's own stretch, and a little beside its ends, only."""
        painter.save()
        if not self.is_whole:
            painter.setClipRect(QRectF(LEFT - 8.0, 0.0, self.room + 16.0, self.size[1]))
        yield
        painter.restore()


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
    """Its line, fine ticks, and numbers; where it is zoomed, which part of the run is in view."""
    t, (low, high) = ruler.tokens, (v * ruler.length for v in ruler.seen)
    paint_name(painter, t, _MIDDLE, f"length {ruler.unit}")
    step = tick_step(high - low, ruler.room, ruler.unit)
    fine = np.arange(np.ceil(low / step * 5.0 - 1e-9), high / step * 5.0 + 1e-6) * (step / 5.0)
    base = FOLDED_HEIGHT - 2.0 if ruler.is_folded else float(RULER_HEIGHT)
    painter.setPen(QPen(colour(t.line), 1.0))
    painter.drawLine(QPointF(LEFT, base), QPointF(ruler.size[0] - RIGHT, base))
    painter.setPen(QPen(colour(t.soft), 1.0))
    painter.drawLines([QPointF(float(x), y) for x in ruler.x_of(fine) for y in (base - 4.0, base)])
    painter.setPen(colour(t.ink))
    for d in np.arange(np.ceil(low / step - 1e-9), high / step + 1e-6) * step:
        x, top = float(ruler.x_of(d)), 2.0 if ruler.is_folded else _MIDDLE - 10
        text = format_number(d / METRES[ruler.unit], decimals=3 if ruler.is_whole else 5)
        painter.drawText(QRectF(x - 40, top, 80, 20), Qt.AlignmentFlag.AlignCenter, text)
    if not ruler.is_whole:
        painter.setPen(QPen(colour(t.line), 3.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.drawLine(QPointF(LEFT, 3.0), QPointF(LEFT + ruler.room, 3.0))
        painter.setPen(QPen(colour(t.teal), 3.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        a, b = (LEFT + v * ruler.room for v in ruler.seen)
        painter.drawLine(QPointF(a, 3.0), QPointF(max(b, a + 2.0), 3.0))


def paint_hover(painter: QPainter, ruler: Ruler, hover: float, more: str = "") -> None:
    """The place that is pointed at, here or in a pane, with its distance and what else is to be said of it."""
    t, x, (width, height) = ruler.tokens, float(ruler.x_of(hover)), ruler.size
    if not ruler.is_in_view(x, 1.0):
        return
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
