"""Icons drawn by us as SVG, tinted with the look's colours; section thumbnails from the sections themselves."""

from functools import lru_cache

import numpy as np
from PySide6.QtCore import QByteArray, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPainterPath, QPen, QPixmap, QRadialGradient
from PySide6.QtSvg import QSvgRenderer

from morphax.app.widgets.theme import RESOURCES, Tokens, colour
from morphax.core.section.sampling import sample_section
from morphax.core.section.sections import SectionShape
from morphax.project.lookup import source_shape
from morphax.project.model.document import OutlineSource, ReadyMadeSource


@lru_cache(maxsize=256)
def pixmap(name: str, tint: str, size: int = 20, ratio: float = 2.0) -> QPixmap:
    """An icon as a picture of ``size`` logical pixels in one colour."""
    svg = (RESOURCES / "icons" / f"{name}.svg").read_text().replace("currentColor", tint)
    out = QPixmap(QSize(int(size * ratio), int(size * ratio)))
    out.fill(Qt.GlobalColor.transparent)
    painter = QPainter(out)
    QSvgRenderer(QByteArray(svg.encode())).render(painter)
    painter.end()
    out.setDevicePixelRatio(ratio)
    return out


def icon(name: str, t: Tokens) -> QIcon:
    """An icon for buttons: ink, and teal where it is on."""
    out = QIcon(pixmap(name, t.ink))
    out.addPixmap(pixmap(name, t.teal), QIcon.Mode.Normal, QIcon.State.On)
    return out


def outline_path(section: SectionShape, box: QRectF) -> QPainterPath:
    """A section's outline fitted into a box, y up, holes left out by the odd-even rule."""
    sampled = sample_section(section, sides=48)
    low, high = sampled.points.min(0), sampled.points.max(0)
    extent = np.maximum(high - low, 1e-9 * (high - low).max())
    scale = min(box.width() / extent[0], box.height() / extent[1])
    middle = 0.5 * (low + high)
    path = QPainterPath()
    for sl, ends in zip(sampled.loop_slices, sampled.opens, strict=True):
        p = (sampled.points[sl] - middle) * scale * np.array([1.0, -1.0])
        c = box.center()
        path.moveTo(QPointF(c.x() + p[0, 0], c.y() + p[0, 1]))
        for x, y in (*p[1:], *(p[-2::-1] if ends else ())):  # a ribbon there and back: nothing is filled
            path.lineTo(QPointF(c.x() + x, c.y() + y))
        if not ends:
            path.closeSubpath()
    return path


def _parts(of: QColor) -> tuple[float, float, float]:
    return of.redF(), of.greenF(), of.blueF()


@lru_cache(maxsize=256)
def look_pixmap(tint: str, roughness: float, metal: float, size: int = 36, ratio: float = 2.0) -> QPixmap:
    """A ball of a look: its highlight is small where it is smooth, and of its own colour where it is a metal."""
    out = QPixmap(QSize(int(size * ratio), int(size * ratio)))
    out.fill(Qt.GlobalColor.transparent)
    out.setDevicePixelRatio(ratio)
    own = QColor(tint)
    light = own.lighter(150) if metal > 0.5 else QColor("#ffffff")
    middle, radius = QPointF(0.5 * size, 0.5 * size), 0.5 * size - 4.0
    shade = QRadialGradient(middle, radius, middle - QPointF(0.35 * radius, 0.4 * radius))
    share = 0.55 - 0.5 * roughness
    bright = QColor.fromRgbF(*(c + (d - c) * max(share, 0.05) for c, d in zip(_parts(own), _parts(light), strict=True)))
    shade.setColorAt(0.0, bright)
    shade.setColorAt(0.15 + 0.35 * roughness, own)
    shade.setColorAt(1.0, own.darker(190 if metal > 0.5 else 150))
    painter = QPainter(out)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(shade)
    painter.drawEllipse(middle, radius, radius)
    painter.end()
    return out


@lru_cache(maxsize=256)
def section_pixmap(source: ReadyMadeSource | OutlineSource, t: Tokens, size: int = 36, ratio: float = 2.0) -> QPixmap:
    """A thumbnail of a section."""
    out = QPixmap(QSize(int(size * ratio), int(size * ratio)))
    out.fill(Qt.GlobalColor.transparent)
    out.setDevicePixelRatio(ratio)
    painter = QPainter(out)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(colour(t.plum), 1.4))
    painter.setBrush(colour(t.plum_ground))
    painter.drawPath(outline_path(source_shape(source), QRectF(4, 4, size - 8, size - 8)))
    painter.end()
    return out
