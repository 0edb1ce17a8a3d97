"""The anchor pad: the chosen run's section, where a click says which of its points rides on the path."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.rows import VARIES, common, nested
from morphax.app.widgets.appearance import Look
from morphax.app.widgets.icons import outline_path
from morphax.app.widgets.theme import colour
from morphax.core.section.sections import SPOTS, Anchor, SectionShape, anchor_place, section_bounds
from morphax.project.lookup import run_by_id, section_of, section_shape

HEIGHT, MARGIN, CATCH = 132, 22.0, 9.0
_ROWS = (
    ("top left", "top", "top right"),
    ("left", "centre", "right"),
    ("bottom left", "bottom", "bottom right"),
)


def _named(words: str) -> str:
    """The spot's own spelling."""
    return next(s for s in SPOTS if s.replace("-", " ") == words)


class AnchorPad(QWidget):
    """Nine spots, the centroid, or any point: a click sets the anchor of all chosen runs; arrows step between spots."""

    def __init__(self, workspace: Workspace, look: Look) -> None:
        super().__init__()
        self.workspace, self.look = workspace, look
        self.setFixedHeight(HEIGHT)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setAccessibleName("Anchor on the section")
        self.setToolTip("Click the point of the section that rides on the path; arrow keys step between its spots")
        self._hover: QPointF | None = None

    # -- where things are ------------------------------------------------------------------------

    @property
    def shape(self) -> SectionShape | None:
        """The section of the first chosen run."""
        run = self.workspace.chosen.run
        return None if run is None else section_shape(section_of(self.workspace.project, run.id))

    def _box(self) -> QRectF:
        return QRectF(self.rect()).adjusted(MARGIN, MARGIN, -MARGIN, -MARGIN)

    def _scale(self, shape: SectionShape) -> tuple[float, np.ndarray]:
        x0, y0, x1, y1 = section_bounds(shape)
        box = self._box()
        return min(box.width() / (x1 - x0), box.height() / (y1 - y0)), np.array([0.5 * (x0 + x1), 0.5 * (y0 + y1)])

    def spot_of(self, place: tuple[float, float]) -> QPointF:
        """Pixels of a place of the section."""
        shape = self.shape
        if shape is None:
            return QPointF()
        scale, middle = self._scale(shape)
        c = self._box().center()
        return QPointF(c.x() + (place[0] - middle[0]) * scale, c.y() - (place[1] - middle[1]) * scale)

    def place_of(self, spot: QPointF) -> tuple[float, float]:
        """The place of the section at a pixel."""
        shape = self.shape
        if shape is None:
            return (0.0, 0.0)
        scale, middle = self._scale(shape)
        d = spot - self._box().center()
        return (float(middle[0] + d.x() / scale), float(middle[1] - d.y() / scale))

    def spots(self) -> dict[str, QPointF]:
        """Pixels of all named spots and the centroid."""
        shape = self.shape
        if shape is None:
            return {}
        return {name: self.spot_of(anchor_place(shape, name)) for name in (*SPOTS, "centroid")}

    def anchor_at(self, spot: QPointF) -> str | tuple[float, float]:
        """The named spot within reach of a pixel, else the place there."""
        found = {n: (p - spot).manhattanLength() for n, p in self.spots().items()}
        near = min(found, key=lambda n: found[n], default=None)
        return near if near is not None and found[near] <= CATCH else self.place_of(spot)

    # -- painting --------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        shape, t = self.shape, self.look.tokens
        if shape is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(colour(t.plum), 1.4))
        painter.setBrush(colour(t.plum_ground))
        painter.drawPath(outline_path(shape, self._box()))
        painter.setBrush(colour(t.raised))
        for name, p in self.spots().items():
            painter.setPen(QPen(colour(t.soft), 1.2))
            size = 2.5 if name == "centroid" else 3.5
            painter.drawEllipse(p, size, size)
        self._paint_anchor(painter, shape)
        if self._hover is not None:
            wanted = self.anchor_at(self._hover)
            p = self.spots()[wanted] if isinstance(wanted, str) else self._hover
            painter.setPen(QPen(colour(t.teal), 1.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(p, 6.5, 6.5)
        if self.hasFocus():
            painter.setPen(QPen(colour(t.teal), 1.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 5, 5)
        painter.end()

    def _paint_anchor(self, painter: QPainter, shape: SectionShape) -> None:
        """A cross through the anchor; none where several runs differ."""
        own = self._own()
        if own is None and self._varies:
            return
        t = self.look.tokens
        p = self.spot_of(anchor_place(shape, own or shape.laying.anchor))
        painter.setPen(QPen(colour(t.blue), 1.4))
        painter.drawLine(QPointF(p.x() - 14, p.y()), QPointF(p.x() + 14, p.y()))
        painter.drawLine(QPointF(p.x(), p.y() - 14), QPointF(p.x(), p.y() + 14))
        painter.setBrush(colour(t.blue))
        painter.drawEllipse(p, 4.5, 4.5)

    # -- changing --------------------------------------------------------------------------------

    @property
    def _varies(self) -> bool:
        return common(self.workspace, lambda p, r: run_by_id(p, r).recipe.placing.anchor) is VARIES

    def _own(self) -> Anchor | None:
        """The runs' own anchor; None where they have none, or several."""
        found = common(self.workspace, lambda p, r: run_by_id(p, r).recipe.placing.anchor)
        own: Anchor | None = None if found is VARIES else found
        return own

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._hover = event.position()
        self.update()

    def leaveEvent(self, event: object) -> None:
        self._hover = None
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self.shape is not None:
            nested(self.workspace, "Move the anchor", "placing", anchor=self.anchor_at(event.position()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Steps to the next of the nine spots."""
        step = {Qt.Key.Key_Left: (0, -1), Qt.Key.Key_Right: (0, 1), Qt.Key.Key_Up: (-1, 0), Qt.Key.Key_Down: (1, 0)}
        shape = self.shape
        if event.key() not in step or shape is None:
            super().keyPressEvent(event)
            return
        own = self._own()
        now = self.spot_of(anchor_place(shape, own or shape.laying.anchor))
        spots = {n: p for n, p in self.spots().items() if n != "centroid"}
        near = min(spots, key=lambda n: (spots[n] - now).manhattanLength())
        row, column = next((i, j) for i in range(3) for j in range(3) if _named(_ROWS[i][j]) == near)
        di, dj = step[Qt.Key(event.key())]
        wanted = _ROWS[min(max(row + di, 0), 2)][min(max(column + dj, 0), 2)]
        nested(self.workspace, "Move the anchor", "placing", anchor=_named(wanted))
