"""Painting over a picture: where to paint, polygons, labels."""

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen, QPolygonF

from morphax.app.panes.camera import Camera, projected
from morphax.app.theme import Tokens, app_font, colour


@dataclass(frozen=True, eq=False)
class View:
    """Where to paint: the painter, the camera, the pane's size, the look and the display unit."""

    painter: QPainter
    camera: Camera
    size: tuple[int, int]
    tokens: Tokens
    unit: str = "mm"

    def at(self, points: np.ndarray) -> np.ndarray:
        return projected(self.camera, points, self.size)[:, :2]


def polygon(points: np.ndarray) -> QPolygonF:
    return QPolygonF([QPointF(float(x), float(y)) for x, y in points if abs(x) < 1e5 and abs(y) < 1e5])


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
    x = float(np.clip(spot[0], 4.0, max(4.0, view.size[0] - width - 4.0)))
    y = float(np.clip(spot[1] - height, 30.0, max(30.0, view.size[1] - height - 4.0)))
    box = QRectF(x, y, width, height)
    view.painter.setPen(QPen(colour(view.tokens.line), 1.0))
    view.painter.setBrush(colour(view.tokens.panel, 240))
    view.painter.drawRoundedRect(box, 4.0, 4.0)
    view.painter.setFont(font)
    view.painter.setPen(colour(tint))
    view.painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
