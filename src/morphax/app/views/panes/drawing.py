"""Painting over a picture: where to paint, polygons, labels."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Generic, TypeVar, cast

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen, QPolygonF
from shiboken6 import VoidPtr

from morphax.app.session.sight import Sight
from morphax.app.views.panes.labels import LEADS_FROM, Label, Labels, boxes_of
from morphax.app.widgets.theme import Tokens, app_font, colour

V = TypeVar("V")
M = TypeVar("M")
FAR = 1e5
"""Pixels; what is farther out is not drawn."""

_CLEAR = 14.0
"""A leader begins so many pixels from what its label speaks of, which has marks of its own."""
_FADED = 0.25
"""How much of labels is left while the view turns."""


@dataclass(frozen=True, eq=False)
class View:
    """Where to paint: the painter, the sight, the look and the display unit; and the labels asked for by then."""

    painter: QPainter
    sight: Sight
    tokens: Tokens
    unit: str = "mm"
    labels: Labels = field(default_factory=Labels)

    def at(self, points: np.ndarray) -> np.ndarray:
        return self.sight.seen(points)[:, :2]


def polygon(points: np.ndarray) -> QPolygonF:
    """Pixels (n, 2) for the painter, without those that are far outside or nowhere; written into its memory at once."""
    near = (np.abs(points) < FAR).all(axis=1)
    kept = points if near.all() else points[near]
    out = QPolygonF()
    out.resize(len(kept))
    if len(kept):
        memory: Any = VoidPtr(cast(Any, out.data()), 16 * len(kept), True)  # type: ignore[call-arg]
        np.frombuffer(memory, dtype=np.float64).reshape(-1, 2)[:] = kept
    return out


class LastOf(Generic[V, M]):
    """Keeps what was made of the last value that it was asked for, by identity: values never change."""

    def __init__(self, make: Callable[[V], M]) -> None:
        self._make = make
        self._kept: tuple[V, M] | None = None

    def __call__(self, value: V) -> M:
        if self._kept is None or self._kept[0] is not value:
            self._kept = (value, self._make(value))
        return self._kept[1]


def thinned(points: np.ndarray, *, step: float = 3.0) -> np.ndarray:
    """The points (n, 2) of a line, pixels, that it takes to draw it: one each ``step`` pixels, and where it turns."""
    if len(points) < 3 or not np.isfinite(points).all():
        return points
    d = np.diff(points, axis=0)
    length = np.hypot(d[:, 0], d[:, 1])
    bucket = np.floor(np.cumsum(length) / step)
    turn = np.abs(d[:-1, 0] * d[1:, 1] - d[:-1, 1] * d[1:, 0]) > 0.1 * length[:-1] * length[1:]
    keep = np.ones(len(points), dtype=bool)
    keep[1:-1] = (np.diff(bucket) > 0.0) | turn
    out: np.ndarray = points[keep]
    return out


def label(view: View, spot: np.ndarray, text: str, tint: str, *, of: np.ndarray | None = None) -> None:
    """A small card with text, best with its lower left corner at a pixel; ``of``: what it speaks of, another pixel.

    It is painted when all are known: no two lie on each other, and all stay inside the pane. What is out of sight has
    none.
    """
    about = spot if of is None else of
    inside = np.isfinite(spot).all() and ((about >= 0.0) & (about <= view.sight.size)).all()
    if text and inside:
        view.labels.wanted.append(Label(text, tint, spot, about))


def paint_labels(view: View, *, faded: bool = False) -> None:
    """Paints all labels that were asked for; those that had to move have a thin line to what they speak of."""
    wanted, font = view.labels.wanted, app_font(9.0)
    metrics = QFontMetricsF(font)
    sizes = np.array([(metrics.horizontalAdvance(lb.text) + 12.0, metrics.height() + 5.0) for lb in wanted])
    width, height = view.sight.size
    boxes = boxes_of(view.labels, sizes.reshape(-1, 2), (float(width), float(height)))
    view.painter.setOpacity(_FADED if faded else 1.0)
    view.painter.setFont(font)
    for lb, (left, top, right, bottom) in zip(wanted, boxes.tolist(), strict=True):
        away = float(np.hypot(left - lb.corner[0], bottom - lb.corner[1]))
        if away > LEADS_FROM and np.isfinite(lb.of).all():
            end = np.clip(lb.of, (left, top), (right, bottom))
            far = float(np.hypot(*(end - lb.of)))
            if far > _CLEAR:
                begin = lb.of + _CLEAR / far * (end - lb.of)
                view.painter.setPen(QPen(colour(view.tokens.soft, 150), 1.0))
                view.painter.drawLine(QPointF(*map(float, begin)), QPointF(*map(float, end)))
        box = QRectF(left, top, right - left, bottom - top)
        view.painter.setPen(QPen(colour(view.tokens.line), 1.0))
        view.painter.setBrush(colour(view.tokens.panel, 240))
        view.painter.drawRoundedRect(box, 4.0, 4.0)
        view.painter.setPen(colour(lb.tint))
        view.painter.drawText(box, Qt.AlignmentFlag.AlignCenter, lb.text)
    view.painter.setOpacity(1.0)
