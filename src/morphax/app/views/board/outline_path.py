"""An outline as Qt's own lines and curves, in pixels of the board; arcs are exact arcs."""

from collections.abc import Iterable, Sequence
from math import degrees

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainterPath, QPolygonF

from morphax.app.session.board_sight import BoardSight
from morphax.core.section.outlines import Loop, Segment
from morphax.core.section.pieces import part_of


def path_of(loops: Sequence[Loop], sight: BoardSight) -> QPainterPath:
    """Closed loops; holes are left out by the odd-even rule. Ribbons are there and back, so that nothing is filled."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.OddEvenFill)
    for loop in loops:
        add_pieces(path, loop.drawn, sight)
        if loop.is_open:
            add_pieces(path, [part_of(s, 1.0, 0.0) for s in reversed(loop.drawn)], sight)
        else:
            path.closeSubpath()
    return path


def add_pieces(path: QPainterPath, pieces: Iterable[Segment], sight: BoardSight) -> None:
    """Pieces one after the other."""
    pieces = list(pieces)
    if not pieces:
        return
    if not any(s.is_curved for s in pieces):
        places = sight.pixels(np.array([*(s.start for s in pieces), pieces[-1].end]))
        path.addPolygon(QPolygonF([QPointF(x, y) for x, y in places.tolist()]))
        return
    ends = np.array([(s.start, *(s.inner or (s.start, s.end)), s.end) for s in pieces])
    p = sight.pixels(ends)
    path.moveTo(QPointF(*p[0, 0]))
    for s, (_, b, c, d) in zip(pieces, p.tolist(), strict=True):
        if s.inner is not None:
            path.cubicTo(QPointF(*b), QPointF(*c), QPointF(*d))
        elif s.centre is not None:
            x, y = sight.pixels(np.array(s.centre)).tolist()
            r = s.radii[0] / sight.pixel
            if r < 1e5:
                box = QRectF(x - r, y - r, 2.0 * r, 2.0 * r)
                path.arcTo(box, degrees(s.a0), degrees(s.a1 - s.a0))
            path.lineTo(QPointF(*d))
        else:
            path.lineTo(QPointF(*d))
