"""The board's paper: fine and coarse grid, rulers along its edges, the anchor's lines."""

from functools import lru_cache

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPixmap

from morphax.app.session.board_sight import BoardSight
from morphax.app.tools.section.catch import grid_of
from morphax.app.widgets.theme import Tokens, app_font, colour
from morphax.core.types import Floats
from morphax.project.units import METRES, format_number

RULER_LEFT, RULER_TOP = 36, 20
_COARSE_PIXELS = 44.0


def _steps(low: float, high: float, step: float) -> Floats:
    out: Floats = np.arange(np.ceil(low / step - 1e-9), np.floor(high / step + 1e-9) + 1.0) * step
    return out


def coarse_of(sight: BoardSight, unit: float) -> float:
    """The step of the numbered lines, m on the body."""
    fine = grid_of(sight, unit)
    return next(f * fine for f in (5.0, 10.0, 20.0, 50.0) if f * fine * sight.scale >= _COARSE_PIXELS)


@lru_cache(maxsize=2)
def grid_picture(sight: BoardSight, tokens: Tokens, unit: str, ratio: float) -> QPixmap:
    """The grid as a picture on nothing: it stays the same while an outline is dragged over it."""
    picture = QPixmap(round(sight.size[0] * ratio), round(sight.size[1] * ratio))
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    paint_grid(painter, sight, tokens, unit)
    painter.end()
    return picture


def paint_grid(painter: QPainter, sight: BoardSight, tokens: Tokens, unit: str) -> None:
    """Fine and coarse lines over the whole board; the lines through the anchor are strongest."""
    wide, high = sight.size
    fine, coarse = grid_of(sight, METRES[unit]), coarse_of(sight, METRES[unit])
    x0, x1, y0, y1 = _edges(sight)
    for step, alpha in ((fine, 60), (coarse, 150)):
        painter.setPen(QPen(colour(tokens.line, alpha), 1.0))
        xs = 0.5 * wide + (_steps(x0, x1, step) - sight.middle[0]) * sight.scale
        ys = 0.5 * high - (_steps(y0, y1, step) - sight.middle[1]) * sight.scale
        painter.drawLines([QLineF(x, 0.0, x, high) for x in np.round(xs) + 0.5])
        painter.drawLines([QLineF(0.0, y, wide, y) for y in np.round(ys) + 0.5])
    painter.setPen(QPen(colour(tokens.grid), 1.0))
    x, y = sight.pixels(np.array(sight.origin)).tolist()
    painter.drawLines([QLineF(x, 0.0, x, high), QLineF(0.0, y, wide, y)])


def _edges(sight: BoardSight) -> tuple[float, float, float, float]:
    half_x, half_y = 0.5 * sight.size[0] / sight.scale, 0.5 * sight.size[1] / sight.scale
    (x, y) = sight.middle
    return x - half_x, x + half_x, y - half_y, y + half_y


def paint_rulers(painter: QPainter, sight: BoardSight, tokens: Tokens, unit: str) -> None:
    """Numbers along the top and the left edge, from the anchor, in the display unit."""
    wide, high = sight.size
    painter.fillRect(QRectF(0, 0, wide, RULER_TOP), colour(tokens.panel))
    painter.fillRect(QRectF(0, 0, RULER_LEFT, high), colour(tokens.panel))
    painter.setPen(QPen(colour(tokens.line), 1.0))
    painter.drawLine(QPointF(0, RULER_TOP + 0.5), QPointF(wide, RULER_TOP + 0.5))
    painter.drawLine(QPointF(RULER_LEFT + 0.5, 0), QPointF(RULER_LEFT + 0.5, high))
    painter.setFont(app_font(7.5))
    painter.setPen(colour(tokens.soft))
    step, size = coarse_of(sight, METRES[unit]), METRES[unit]
    x0, x1, y0, y1 = _edges(sight)
    for v in _steps(x0, x1, step):
        x = 0.5 * wide + (v - sight.middle[0]) * sight.scale
        if RULER_LEFT + 8 < x < wide - 8:
            painter.drawLine(QPointF(x, RULER_TOP - 4), QPointF(x, RULER_TOP))
            box = QRectF(x - 30, 1, 60, RULER_TOP - 5)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, format_number(v / size + 0.0))
    for v in _steps(y0, y1, step):
        y = 0.5 * high - (v - sight.middle[1]) * sight.scale
        if RULER_TOP + 8 < y < high - 8:
            painter.drawLine(QPointF(RULER_LEFT - 4, y), QPointF(RULER_LEFT, y))
            box = QRectF(0, y - 8, RULER_LEFT - 5, 16)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, _short(v / size))


def _short(value: float) -> str:
    text = format_number(value + 0.0)
    return text if len(text) < 6 else f"{value:.3g}"
