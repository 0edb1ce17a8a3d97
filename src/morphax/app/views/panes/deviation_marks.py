"""Where bodies are farthest off their true surfaces: a scale of the colours, and the place of the largest."""

from math import floor, log10

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QLinearGradient, QPen

from morphax.app.session.deviations import MOST_RUNS, Deviations
from morphax.app.views.panes.drawing import View, label
from morphax.app.widgets.theme import Tokens, app_font, colour, mixed, rgb
from morphax.build.deviation import Deviation
from morphax.project.units import METRES, format_length

_LEFT, _UP, _WIDE, _HIGH = 84.0, 22.0, 120.0, 8.0
"""Where the scale is, from the lower left corner, and how large, pixels."""
_NARROW = 420
"""Narrower views have no scale: it would stand in the words of the grid."""


def tints_of(found: Deviation, largest: float, tokens: Tokens) -> np.ndarray:
    """Colours (f, 3) uint8 of faces: from the plain one to that of the largest deviation of all that are shown."""
    low, high = (np.array(rgb(c)) for c in (tokens.raised, tokens.plum))
    share = found.of_face[:, None] / largest if largest > 0.0 else np.zeros((len(found.of_face), 1))
    out: np.ndarray = (255.0 * (low + share * (high - low))).round().astype(np.uint8)
    return out


def said(metres: float, unit: str) -> str:
    """A deviation in three digits, however small it is in the display unit."""
    size = metres / METRES[unit]
    decimals = min(9, max(0, 2 - floor(log10(size)))) if size > 0.0 else 0
    return format_length(metres, unit=unit, decimals=decimals)


def paint_deviations(view: View, deviations: Deviations) -> None:
    """The scale, and how far off the worst place is."""
    found = deviations.found
    if not found:
        words = "measuring …" if not deviations.is_settled else "nothing to measure"
        _paint_words(view, f"choose up to {MOST_RUNS} runs to be measured" if deviations.has_too_many else words)
        return
    worst = max(found.values(), key=lambda d: d.largest)
    words = said(worst.largest, view.unit)
    if view.sight.size[0] > _NARROW:
        _paint_scale(view, words)
    (spot,) = view.at(worst.place[None])
    painter = view.painter
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour(view.tokens.plum), 1.6))
    painter.drawEllipse(QPointF(*spot), 6.0, 6.0)
    label(view, spot + np.array([14.0, -12.0]), f"{words} off", view.tokens.plum, of=spot)


def _paint_scale(view: View, words: str) -> None:
    painter, low = view.painter, float(view.sight.size[1]) - _UP
    bar = QRectF(_LEFT, low, _WIDE, _HIGH)
    ramp = QLinearGradient(bar.topLeft(), bar.topRight())
    for k in range(5):
        ramp.setColorAt(k / 4.0, mixed(view.tokens.raised, view.tokens.plum, k / 4.0))
    painter.setPen(QPen(colour(view.tokens.line), 1.0))
    painter.setBrush(ramp)
    painter.drawRoundedRect(bar, 2.0, 2.0)
    _paint_words(view, f"off the true surface by 0 to {words}", up=_UP + 8.0)


def _paint_words(view: View, words: str, up: float = _UP) -> None:
    painter = view.painter
    painter.setFont(app_font(8.0))
    base = float(view.sight.size[1]) - up
    wide = QFontMetricsF(painter.font()).horizontalAdvance(words)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(view.tokens.floor, 190))
    painter.drawRoundedRect(QRectF(_LEFT - 4.0, base - 12.0, wide + 8.0, 16.0), 3.0, 3.0)
    painter.setPen(colour(view.tokens.soft))
    painter.drawText(QPointF(_LEFT, base), words)
    along = np.arange(_LEFT, _LEFT + max(wide, _WIDE), 12.0)
    view.labels.keep_free(np.column_stack([along, np.full(len(along), base - 4.0)]), 10.0)
