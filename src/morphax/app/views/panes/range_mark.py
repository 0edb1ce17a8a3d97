"""The marks of the range: a short bar across the path beyond each end of what is shown, and a thin line to it."""

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPen

from morphax.app.session.workspace import Workspace
from morphax.app.tools.shared.range_marks import range_marks
from morphax.app.views.panes.drawing import View
from morphax.app.widgets.theme import colour

_HALF = 7.0


def paint_range(view: View, workspace: Workspace) -> None:
    """Nothing unless one run is chosen; where the path runs into the view its ends are dragged on the strip."""
    painter, t = view.painter, view.tokens
    for mark in range_marks(workspace, view.sight):
        foot, place = view.at(np.stack([mark.foot, mark.place]))
        way = place - foot
        long = float(np.hypot(*way))
        if not np.isfinite(long) or long < 4.0:
            continue
        across = _HALF * np.array([-way[1], way[0]]) / long
        pen = QPen(colour(t.moss, 150), 1.0, Qt.PenStyle.DotLine)
        painter.setPen(pen)
        painter.drawLine(QPointF(*map(float, foot)), QPointF(*map(float, place)))
        ends = QPointF(*map(float, place - across)), QPointF(*map(float, place + across))
        for width, tint in ((6.5, t.raised), (4.0, t.moss)):
            painter.setPen(QPen(colour(tint), width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            painter.drawLine(*ends)
