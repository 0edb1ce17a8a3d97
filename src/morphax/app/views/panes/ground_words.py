"""Words about the ground of a view: how far apart its lines are, and which one is the floor."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF

from morphax.app.tools.shared.landing import grid_step
from morphax.app.views.panes.drawing import View
from morphax.app.views.view3d.ground import MAJOR
from morphax.app.widgets.theme import app_font, colour
from morphax.project.units import format_length

FLOOR = "floor"
_EDGE = 10.0
"""Pixels between words and the edge of the view."""
_HALF = 7.0
"""Half the height of a line of words, pixels."""


def paint_ground_words(view: View) -> None:
    """The grid's step at the lower right; in a view from the side also the name of the floor's line."""
    width, height = view.sight.size
    view.painter.setFont(app_font(8.0))
    _write(view, grid_words(view), float(height) - _EDGE)
    floor = floor_line(view)
    if floor is not None and 5.0 * _HALF < floor < height - 6.0 * _HALF:
        _write(view, FLOOR, floor + 2.0 * _HALF)  # below the line, where nothing stands


def grid_words(view: View) -> str:
    """How far apart the lines of the grid are; in perspective only every fifth one is drawn."""
    step = grid_step(view.sight, view.unit)
    words = f"grid {format_length(step, unit=view.unit)}"
    return words if view.sight.is_flat else f"{words}, lines {format_length(MAJOR * step, unit=view.unit)}"


def floor_line(view: View) -> float | None:
    """How far below the upper edge the floor is seen from its edge, pixels; None where it isn't."""
    if not view.sight.is_flat or abs(float(view.sight.basis.forward[2])) > 0.5:
        return None
    return float(view.at(np.array([[*view.sight.target[:2], 0.0]]))[0, 1])


def _write(view: View, words: str, base: float) -> None:
    """Words that end at the right edge, with their base line so many pixels down; labels keep off them."""
    right = float(view.sight.size[0]) - _EDGE
    left = right - QFontMetricsF(view.painter.font()).horizontalAdvance(words)
    behind = QRectF(left - 4.0, base - 1.8 * _HALF, right - left + 8.0, 2.4 * _HALF)
    view.painter.setPen(Qt.PenStyle.NoPen)
    view.painter.setBrush(colour(view.tokens.floor, 190))  # seen only where something stands behind the words
    view.painter.drawRoundedRect(behind, 3.0, 3.0)
    view.painter.setPen(colour(view.tokens.soft))
    view.painter.drawText(QPointF(left, base), words)
    along = np.arange(left, right + 2.0 * _HALF, 2.0 * _HALF)
    view.labels.keep_free(np.column_stack([along, np.full(len(along), base - 0.6 * _HALF)]), _HALF)
