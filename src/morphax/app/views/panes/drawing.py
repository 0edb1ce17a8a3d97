"""Painting over a picture: where to paint, polygons, labels."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Generic, TypeVar, cast

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen, QPolygonF
from shiboken6 import VoidPtr

from morphax.app.session.sight import Sight
from morphax.app.widgets.theme import Tokens, app_font, colour

V = TypeVar("V")
M = TypeVar("M")
FAR = 1e5
"""Pixels; what is farther out is not drawn."""


@dataclass(frozen=True, eq=False)
class View:
    """Where to paint: the painter, the sight, the look and the display unit."""

    painter: QPainter
    sight: Sight
    tokens: Tokens
    unit: str = "mm"

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


def label(view: View, spot: np.ndarray, text: str, tint: str) -> None:
    """A small card with text, kept inside the pane."""
    if not text or not np.isfinite(spot).all():
        return
    font = app_font(9.0)
    metrics = QFontMetricsF(font)
    width, height = metrics.horizontalAdvance(text) + 12.0, metrics.height() + 5.0
    x = float(np.clip(spot[0], 4.0, max(4.0, view.sight.size[0] - width - 4.0)))
    y = float(np.clip(spot[1] - height, 30.0, max(30.0, view.sight.size[1] - height - 4.0)))
    box = QRectF(x, y, width, height)
    view.painter.setPen(QPen(colour(view.tokens.line), 1.0))
    view.painter.setBrush(colour(view.tokens.panel, 240))
    view.painter.drawRoundedRect(box, 4.0, 4.0)
    view.painter.setFont(font)
    view.painter.setPen(colour(tint))
    view.painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
