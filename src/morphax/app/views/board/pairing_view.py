"""The pairing of two sections as a view in a pane: both outlines, and which place of one becomes which of the other."""

import numpy as np
from PySide6.QtCore import QLineF, QMimeData, QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPen, QPolygonF, QWheelEvent
from PySide6.QtWidgets import QMenu

from morphax.app.session.workspace import Workspace
from morphax.app.tools.station.pairing import Loops, PairingTool, Side
from morphax.app.views.board.in_place import BACK, InPlace
from morphax.app.views.panes.pane import Pane
from morphax.app.widgets.theme import app_font, colour
from morphax.project.units import METRES, format_number

_FOOT = "drag an end along its outline · a double-click pairs a place, or lets the pair go"


class PairingView(InPlace):
    """Stands in the second pane while a station is chosen."""

    name_at = (8, 8)

    def __init__(self, pane: Pane, workspace: Workspace) -> None:
        self.pane, self.workspace = pane, workspace
        self.tool = PairingTool(workspace)
        self.input = _Input(self)
        self.dismissed: tuple[str, ...] = ()
        """The stations for which the scene was asked back."""
        self._framed: object = None
        pane.look.changed.connect(self.refresh)
        workspace.project_changed.connect(lambda *_: self.refresh())

    @property
    def title(self) -> str:
        pair = self.tool.pair
        return "Pairing" if pair is None else f"Pairing · {self._words(pair.first)} to {self._words(pair.second)}"

    def _words(self, side: Side) -> str:
        return f"{side.name.lower()} {format_number(side.width / METRES[self.workspace.project.unit], decimals=1)}"

    @property
    def is_wanted(self) -> bool:
        """Whether a station is chosen that has a neighbour, and the scene was not asked back."""
        return self.tool.pair is not None and self.workspace.selection.stations != self.dismissed

    def choose(self, choice: str) -> None:
        if choice == BACK:
            self.dismissed = self.workspace.selection.stations
            self.workspace.selection_changed.emit()

    def refresh(self) -> None:
        if self.pane.view is not self:
            return
        size = (self.pane.width(), self.pane.height())
        wanted = (self.workspace.selection.stations, size)
        if wanted != self._framed:  # a drag changes nothing of what is seen
            self._framed = wanted
            self.tool.frame(size)
        self.pane.rename()
        self.pane.update()

    def menu_at(self, at: QPoint) -> QMenu | None:
        return None

    # -- painting --------------------------------------------------------------------------------

    def paint(self, painter: QPainter) -> None:
        t, pair = self.pane.look.tokens, self.tool.pair
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(QRectF(0, 0, self.pane.width(), self.pane.height()), colour(t.raised))
        if pair is None:
            return
        for k in (0, 1):
            self._paint_section(painter, [loop for loop in pair.loops if loop.track.numbers[k] >= 0], k)
        for loop in pair.loops:
            self._paint_lines(painter, loop)
        for loop in pair.loops:
            if loop.is_whole:
                self._paint_ends(painter, loop)
        painter.setPen(QPen(colour(t.blue), 1.2))
        x, y = self.tool.sight.pixels(np.zeros(2)).tolist()
        painter.drawLines([QLineF(x - 9, y, x + 9, y), QLineF(x, y - 9, x, y + 9)])
        painter.setFont(app_font(8.0))
        painter.setPen(colour(t.soft))
        foot = QRectF(8, self.pane.height() - 40, self.pane.width() - 16, 36)
        painter.drawText(foot, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, _FOOT)

    def _paint_section(self, painter: QPainter, loops: list[Loops], k: int) -> None:
        """One of the two: its outlines filled, but for its holes."""
        t = self.pane.look.tokens
        painter.setPen(QPen(colour(t.plum), 1.8))
        painter.setBrush(colour(t.plum_ground, 90))
        whole = QPainterPath()
        for loop in loops:
            line = self._polygon(loop.outline(k))
            if loop.ruler(k).is_open:
                painter.drawPolyline(line)
            else:
                whole.addPolygon(line)
                whole.closeSubpath()
        painter.drawPath(whole)

    def _polygon(self, places: np.ndarray) -> QPolygonF:
        return QPolygonF([QPointF(x, y) for x, y in self.tool.sight.pixels(places).tolist()])

    def _paint_lines(self, painter: QPainter, loop: Loops) -> None:
        a, b = (self.tool.sight.pixels(p) for p in loop.lines())
        painter.setPen(QPen(colour(self.pane.look.tokens.soft, 150), 0.8))
        painter.drawLines([QLineF(*p, *q) for p, q in zip(a.tolist(), b.tolist(), strict=True)])

    def _paint_ends(self, painter: QPainter, loop: Loops) -> None:
        """Pairs of corners are small and hollow, those made by hand full and teal."""
        t = self.pane.look.tokens
        a, b = (self.tool.sight.pixels(p).tolist() for p in loop.ends())
        for p, q, held in zip(a, b, loop.pairing.fixed.tolist(), strict=True):
            painter.setPen(QPen(colour(t.teal if held else t.plum), 2.2 if held else 1.2))
            painter.drawLine(QLineF(*p, *q))
            painter.setBrush(colour(t.teal if held else t.raised))
            r = 5.0 if held else 3.4
            for x, y in (p, q):
                painter.drawEllipse(QPointF(x, y), r, r)


class _Input:
    """The pointer over the pairing."""

    def __init__(self, view: PairingView) -> None:
        self.view = view

    def press(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.view.tool.press(event.position().x(), event.position().y())

    def move(self, event: QMouseEvent) -> None:
        at = event.position()
        self.view.tool.drag(at.x(), at.y())
        over = self.view.tool.hit(at.x(), at.y()) is not None
        self.view.pane.setCursor(Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor)

    def release(self, event: QMouseEvent) -> None:
        self.view.tool.release()

    def double_press(self, event: QMouseEvent) -> None:
        self.view.tool.turn(event.position().x(), event.position().y())

    def wheel(self, event: QWheelEvent) -> None:
        at, tool = event.position(), self.view.tool
        tool.sight = tool.sight.zoomed(1.0015 ** event.angleDelta().y(), at.x(), at.y())
        self.view.pane.update()

    def leave(self) -> None:
        self.view.pane.unsetCursor()

    def key(self, event: QKeyEvent) -> bool:
        return False

    def takes(self, data: QMimeData) -> bool:
        return False

    def drag_over(self, at: QPointF) -> None:
        """Nothing is dropped here."""

    def drop(self, data: QMimeData, at: QPointF) -> None:
        """Nothing is dropped here."""
