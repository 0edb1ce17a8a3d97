"""The marks round the chosen knot: a square to drag its size, a ring to turn its roll, on a circle about the path."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPen

from morphax.app.session.workspace import Workspace
from morphax.app.tools.shared.knot_marks import circle_of, knot_marks
from morphax.app.views.panes.drawing import View, polygon
from morphax.app.widgets.theme import colour

_HALF = 4.0


def paint_knot_marks(view: View, workspace: Workspace) -> None:
    """Nothing unless one knot of one run is chosen."""
    marks = knot_marks(workspace, view.sight)
    if not marks:
        return
    painter, t = view.painter, view.tokens
    circle = view.at(circle_of(marks[0]))
    if not np.isfinite(circle).all():
        return
    painter.setPen(QPen(colour(t.blue, 120), 1.2, Qt.PenStyle.DotLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolyline(polygon(circle))
    painter.setBrush(colour(t.raised))
    painter.setPen(QPen(colour(t.blue), 1.8))
    for mark in marks:
        x, y = map(float, view.at(mark.place[None])[0])
        if mark.what == "size":
            painter.drawRect(QRectF(x - _HALF, y - _HALF, 2.0 * _HALF, 2.0 * _HALF))
        else:
            painter.drawEllipse(QPointF(x, y), _HALF + 0.5, _HALF + 0.5)
