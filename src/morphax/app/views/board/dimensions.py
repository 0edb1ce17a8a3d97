"""Dimensions on the board: the width and height of the outline, and lengths, radii and places of what is touched."""

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen

from morphax.app.session.board_sight import BoardSight
from morphax.app.widgets.theme import Tokens, app_font, colour
from morphax.core.section.outlines import Loop, Segment, loop_bounds
from morphax.core.section.pieces import Corner
from morphax.project.units import format_length

_OUT, _HEAD, _PAD, _LEFT = 32.0, 5.0, 4.0, 62.0
_NEAR = 30.0
"""Words so far beyond the edge, pixels, are brought in; what is farther away is out of sight."""
_SMALLEST = 34.0
"""A side of fewer pixels has its length only while it is touched."""


class Dimensions:
    """Paints dimension lines with their numbers; a number that would lie on another one moves aside, or is left out."""

    def __init__(self, painter: QPainter, sight: BoardSight, tokens: Tokens, unit: str) -> None:
        self.painter, self.sight, self.tokens, self.unit = painter, sight, tokens, unit
        self.taken: list[QRectF] = []
        self._cards: list[tuple[QRectF, str, str]] = []
        self.font = app_font(8.5)

    def words(self, length: float) -> str:
        """A length of the section, m, as it is on the body."""
        return format_length(length * self.sight.grow, unit=self.unit, decimals=2)

    def card(self, at: np.ndarray, text: str, tint: str) -> None:
        """Words on a small card about a pixel (2,), or beside it where others lie."""
        x, y = map(float, at)
        if not (-_NEAR < x < self.sight.size[0] + _NEAR and -_NEAR < y < self.sight.size[1] + _NEAR):
            return  # what it speaks of is out of sight
        metrics = QFontMetricsF(self.font)
        wide, high = metrics.horizontalAdvance(text) + 2.0 * _PAD, metrics.height() + 2.0
        x = min(max(x, 0.5 * wide + 40.0), self.sight.size[0] - 0.5 * wide - 4.0)
        y = min(max(y, 0.5 * high + 24.0), self.sight.size[1] - 0.5 * high - 46.0)
        steps = [(0.0, 0.0), *(((0.0, v * high)) for v in (-1.2, 1.2, -3.4, 2.4)), (wide, 0.0), (-wide, 0.0)]
        boxes = (QRectF(x - 0.5 * wide + dx, y - 0.5 * high + dy, wide, high) for dx, dy in steps)
        room = QRectF(38.0, 22.0, self.sight.size[0] - 40.0, self.sight.size[1] - 66.0)
        free = (b for b in boxes if room.contains(b) and not any(b.intersects(other) for other in self.taken))
        box = next(free, None)
        if box is None:
            return
        self.taken.append(box)
        self._cards.append((box, text, tint))

    def paint_cards(self) -> None:
        """Paints the numbers over all else."""
        self.painter.setFont(self.font)
        for box, text, tint in self._cards:
            self.painter.setPen(Qt.PenStyle.NoPen)
            self.painter.setBrush(colour(self.tokens.raised, 235))
            self.painter.drawRoundedRect(box, 3.0, 3.0)
            self.painter.setPen(colour(tint))
            self.painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def span(self, a: np.ndarray, b: np.ndarray, text: str, off: tuple[float, float]) -> None:
        """A dimension line between two pixels, moved by pixels, with its number in the middle."""
        shift = np.array(off)
        p, q = a + shift, b + shift
        d = q - p
        size = float(np.hypot(*d))
        if size < 12.0:
            return
        d = d / size
        self.painter.setPen(QPen(colour(self.tokens.soft), 1.0))
        for at, inward in ((p, d), (q, -d)):
            side = np.array([-d[1], d[0]]) * 0.5 * _HEAD
            self.painter.drawLine(QPointF(*at), QPointF(*(at + inward * _HEAD + side)))
            self.painter.drawLine(QPointF(*at), QPointF(*(at + inward * _HEAD - side)))
        self.painter.drawLine(QPointF(*p), QPointF(*q))
        pen = QPen(colour(self.tokens.soft, 120), 1.0)
        self.painter.setPen(pen)
        for own, end in ((a, p), (b, q)):
            self.painter.drawLine(QPointF(*own), QPointF(*end))
        self.card(0.5 * (p + q), text, self.tokens.ink)

    def whole(self, loops: Sequence[Loop]) -> None:
        """Width above and height left of the outline."""
        x0, y0, x1, y1 = loop_bounds(*loops)
        at = self.sight.pixels(np.array([(x0, y1), (x1, y1), (x0, y0)]))
        self.span(at[0], at[1], self.words(x1 - x0), (0.0, -_OUT))
        if at[0][0] - _OUT > _LEFT:
            self.span(at[2], at[0], self.words(y1 - y0), (-_OUT, 0.0))
        else:
            right = at[1][0] - at[0][0] + _OUT
            self.span(at[2], at[0], self.words(y1 - y0), (right, 0.0))

    def side(self, piece: Segment, *, touched: bool) -> None:
        """The length of a line, or the radius of an arc, beside its middle."""
        a, b = self.sight.pixels(np.array([piece.start, piece.end]))
        if np.hypot(*(b - a)) < (12.0 if touched else _SMALLEST):
            return
        middle = self.sight.pixels(piece.at(np.array([0.5])))[0]
        slope = piece.slope(np.array([0.5]))[0]
        out = np.array([slope[1], slope[0]]) / max(float(np.hypot(*slope)), 1e-300) * 14.0
        text = f"R {self.words(piece.radii[0])}" if piece.is_arc else self.words(_length(piece))
        self.card(middle + out, text, self.tokens.teal if touched else self.tokens.soft)

    def place(self, place: Corner, word: str) -> None:
        """A point's place beside the anchor, and what it is."""
        x, y = self.sight.shown(place)
        numbers = (format_length(v + 0.0, unit=self.unit, decimals=2).removesuffix(f" {self.unit}") for v in (x, y))
        at = self.sight.pixels(np.array(place)) + np.array([0.0, 24.0])
        self.card(at, f"{' · '.join(numbers)}  {word}".strip(), self.tokens.teal)


def _length(piece: Segment) -> float:
    t = np.linspace(0.0, 1.0, 33)
    return float(np.hypot(*np.diff(piece.at(t), axis=0).T).sum())
