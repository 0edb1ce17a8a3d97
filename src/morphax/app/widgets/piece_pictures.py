"""Pictures of ready-made pieces, drawn from their own meshes."""

from functools import lru_cache

import numpy as np
from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap, QPolygonF

from morphax.app.widgets.theme import Tokens, colour
from morphax.core.mesh.mesh import Mesh
from morphax.core.pieces.forms import piece_mesh, piece_values

_SIDES = 28
_EYE = np.array([0.55, -0.75, 0.5])
_LIGHT = np.array([0.1, -0.75, 0.85])
_DARK, _BRIGHT = 62, 138
"""Shade of faces that look away from the light and into it, per cent of the colour."""
_MARGIN = 4.0


@lru_cache(maxsize=128)
def piece_pixmap(form: str, t: Tokens, size: int = 36, ratio: float = 2.0) -> QPixmap:
    """A piece as it is on a run of its usual reach, seen from above and aside; the path runs to the right."""
    out = QPixmap(QSize(int(size * ratio), int(size * ratio)))
    out.fill(Qt.GlobalColor.transparent)
    out.setDevicePixelRatio(ratio)
    painter = QPainter(out)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    mesh = piece_mesh(form, tuple(piece_values(form, {}, 1.0).items()), _SIDES)
    _paint(painter, mesh, colour(t.moss), size)
    painter.end()
    return out


def _paint(painter: QPainter, mesh: Mesh, own: QColor, size: int) -> None:
    """The faces from the farthest on, each in its shade."""
    eye = _EYE / np.linalg.norm(_EYE)
    right = np.cross([0.0, 0.0, 1.0], eye)
    right /= np.linalg.norm(right)
    up = np.cross(eye, right)
    flat = np.stack([mesh.points @ right, -(mesh.points @ up)], axis=1)
    low, high = flat.min(0), flat.max(0)
    scale = (size - 2.0 * _MARGIN) / max(float((high - low).max()), 1e-12)
    flat = (flat - 0.5 * (low + high)) * scale + 0.5 * size
    faces = [*mesh.quads.tolist(), *mesh.tris.tolist()]
    corners = [mesh.points[f] for f in faces]
    normals = np.array([np.cross(c[-2] - c[0], c[-1] - c[-3 if len(c) == 4 else 0]) for c in corners])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    depth = np.array([c.mean(0) @ eye for c in corners])
    lit = np.clip(normals @ (_LIGHT / np.linalg.norm(_LIGHT)), 0.0, 1.0)
    for k in np.argsort(depth):
        if normals[k] @ eye <= 0.0:
            continue
        shade = own.lighter(round(_DARK + (_BRIGHT - _DARK) * float(lit[k])))
        painter.setBrush(shade)
        painter.setPen(QPen(shade, 0.6))
        painter.drawPolygon(QPolygonF([QPointF(*flat[i]) for i in faces[k]]))
