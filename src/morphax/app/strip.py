"""The length strip: the chosen run unrolled on a ruler, with its knots, corners and rings."""

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from morphax.app.look import Look
from morphax.app.theme import app_font, colour
from morphax.app.workspace import Workspace
from morphax.build.bodies import Built
from morphax.project.history import Selection
from morphax.project.model import Path
from morphax.project.units import METRES, format_length, format_number

LEFT, RIGHT = 76, 26
_RULER, _KNOTS, _RINGS = 18.0, 38.0, 68.0


def tick_step(length: float, pixels: float, unit: str) -> float:
    """Distance between numbered ticks, m: 1, 2 or 5 times a power of ten in the display unit, 64 pixels or more."""
    least = 64.0 / max(pixels, 1.0) * length / METRES[unit]
    power = 10.0 ** np.floor(np.log10(max(least, 1e-12)))
    factor = next((f for f in (1.0, 2.0, 5.0) if f * power >= least), 10.0)
    return float(factor * power * METRES[unit])


class LengthStrip(QWidget):
    """The ruler of the chosen run."""

    def __init__(self, workspace: Workspace, look: Look) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.workspace, self.look = workspace, look
        self.hover: float | None = None
        self.setMouseTracking(True)
        self.setFixedHeight(108)
        self.setAccessibleName("Length strip")
        for signal in (workspace.project_changed, workspace.built, workspace.selection_changed, look.changed):
            signal.connect(lambda *_: self.update())

    # -- places ----------------------------------------------------------------------------------

    @property
    def _length(self) -> float:
        built = self.workspace.chosen_body
        return built.body.length if built is not None else 0.0

    def x_of(self, distance: np.ndarray) -> np.ndarray:
        """Pixels of distances along the run."""
        room = self.width() - LEFT - RIGHT
        return LEFT + np.asarray(distance) / max(self._length, 1e-12) * room

    def knot_marks(self, path: Path, built: Built) -> list[tuple[str, float, bool]]:
        """Id, distance and whether it is a corner, of each knot that the measured path has."""
        at, n = built.knot_at, len(path.knots)
        if built.path.resolved is None or len(built.path.resolved.shape.knots) != n:
            return []
        return [(k.id, float(d), k.kind == "corner") for k, d in zip(path.knots, at[:n], strict=True)]

    # -- painting --------------------------------------------------------------------------------

    def paintEvent(self, event: QEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(app_font(8.5))
        built, path = self.workspace.chosen_body, self.workspace.chosen_path
        if built is None or path is None or self._length <= 0.0:
            painter.setPen(colour(self.look.tokens.soft))
            words = "The chosen run lies here unrolled: its length, its knots and its rings."
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
        else:
            self._paint_ruler(painter)
            self._paint_rings(painter, built)
            self._paint_knots(painter, path, built)
            self._paint_hover(painter)
        painter.end()

    def _name(self, painter: QPainter, y: float, text: str) -> None:
        painter.setPen(colour(self.look.tokens.soft))
        painter.drawText(QRectF(12, y - 10, LEFT - 16, 20), Qt.AlignmentFlag.AlignVCenter, text)

    def _paint_ruler(self, painter: QPainter) -> None:
        t, unit = self.look.tokens, self.workspace.project.unit
        self._name(painter, _RULER, f"length {unit}")
        step = tick_step(self._length, self.width() - LEFT - RIGHT, unit)
        fine = np.arange(0.0, self._length + 1e-9, step / 5.0)
        base = _KNOTS
        painter.setPen(QPen(colour(t.line), 1.0))
        painter.drawLine(QPointF(LEFT, base), QPointF(self.width() - RIGHT, base))
        painter.setPen(QPen(colour(t.soft), 1.0))
        lines = [QPointF(float(x), y) for x in self.x_of(fine) for y in (base - 4.0, base)]
        painter.drawLines(lines)
        painter.setPen(colour(t.ink))
        for d in np.arange(0.0, self._length + 1e-9, step):
            x = float(self.x_of(d))
            text = format_number(d / METRES[unit], decimals=3)
            painter.drawText(QRectF(x - 40, _RULER - 10, 80, 20), Qt.AlignmentFlag.AlignCenter, text)

    def _paint_rings(self, painter: QPainter, built: Built) -> None:
        t = self.look.tokens
        self._name(painter, _RINGS + 9, "rings")
        x = np.unique(np.round(self.x_of(built.body.ring_at) * 2.0) / 2.0)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setPen(QPen(colour(t.blue, 170), 1.0))
        painter.drawLines([QPointF(float(v), y) for v in x for y in (_RINGS, _RINGS + 18.0)])
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)

    def _paint_knots(self, painter: QPainter, path: Path, built: Built) -> None:
        t, chosen = self.look.tokens, self.workspace.selection.knots
        for knot_id, at, corner in self.knot_marks(path, built):
            x, on = float(self.x_of(at)), knot_id in chosen
            r = 5.5 if on else 4.0
            painter.setPen(QPen(colour(t.panel), 1.5))
            painter.setBrush(colour(t.teal if on else t.blue))
            box = QRectF(x - r, _KNOTS + 10 - r, 2 * r, 2 * r)
            painter.drawRect(box) if corner else painter.drawEllipse(box)
        x = LEFT - 2.0
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(t.moss))
        y = _KNOTS + 10
        painter.drawPolygon(QPolygonF([QPointF(x - 12, y - 5), QPointF(x - 12, y + 5), QPointF(x - 4, y)]))
        self._name(painter, y, "knots")

    def _paint_hover(self, painter: QPainter) -> None:
        if self.hover is None:
            return
        t, x = self.look.tokens, float(self.x_of(self.hover))
        painter.setPen(QPen(colour(t.teal), 1.2))
        painter.drawLine(QPointF(x, 8.0), QPointF(x, self.height() - 8.0))
        text = format_length(self.hover, unit=self.workspace.project.unit, decimals=1)
        side = QRectF(x + 6, self.height() - 24, 90, 18)
        if side.right() > self.width() - 4:
            side.moveRight(x - 6)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(t.panel, 235))
        painter.drawRoundedRect(side.adjusted(-3, 0, 3, 0), 3, 3)
        painter.setPen(colour(t.teal))
        flag = Qt.AlignmentFlag.AlignLeft if side.left() > x else Qt.AlignmentFlag.AlignRight
        painter.drawText(side, Qt.AlignmentFlag.AlignVCenter | flag, text)

    # -- mouse -----------------------------------------------------------------------------------

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        room = max(1, self.width() - LEFT - RIGHT)
        share = (event.position().x() - LEFT) / room
        self.hover = share * self._length if 0.0 <= share <= 1.0 and self._length > 0.0 else None
        self.update()

    def leaveEvent(self, event: QEvent) -> None:
        self.hover = None
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A click on a knot chooses it."""
        built, path = self.workspace.chosen_body, self.workspace.chosen_path
        if built is None or path is None or event.button() != Qt.MouseButton.LeftButton:
            return
        marks = self.knot_marks(path, built)
        near = [(abs(float(self.x_of(d)) - event.position().x()), k) for k, d, _ in marks]
        if near and min(near)[0] <= 7.0 and abs(event.position().y() - _KNOTS - 10) <= 12.0:
            runs = self.workspace.selection.runs
            self.workspace.select(Selection(runs, (min(near)[1],)))
