"""What is painted on the section board, from below upwards."""

import numpy as np
from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from morphax.app.session.board import Board
from morphax.app.tools.section.board_tool import BoardTool
from morphax.app.tools.section.parts import preview
from morphax.app.views.board.dimensions import Dimensions
from morphax.app.views.board.outline_path import add_pieces, path_of
from morphax.app.views.board.paper import grid_picture, paint_rulers
from morphax.app.widgets.theme import Tokens, app_font, colour
from morphax.core.errors import MorphaxError
from morphax.core.section.loop_edits import handles_of
from morphax.core.section.pieces import nearest
from morphax.core.section.seams import seam_place
from morphax.core.section.segment_table import table_of
from morphax.core.section.walls import as_strips

_POINT, _CHOSEN, _SIDE = 3.2, 5.5, 6
_MANY = 150
"""So many points have no rim: they are drawn in no time."""
_FEW = 2
"""Of more chosen points the sides have no dimensions."""


class BoardPainter:
    """Paints one picture of the board."""

    def __init__(self, painter: QPainter, tool: BoardTool, tokens: Tokens, walls: tuple[np.ndarray, ...] = ()) -> None:
        self.painter, self.tool, self.tokens = painter, tool, tokens
        self.board: Board = tool.board
        self.sight = self.board.sight
        self.unit = tool.workspace.project.unit
        self.loops = self.board.loops
        self.dimensions = Dimensions(painter, self.sight, tokens, self.unit)
        self.walls = walls

    def paint(self) -> None:
        p = self.painter
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(QRectF(0, 0, *self.sight.size), colour(self.tokens.raised))
        self._hosts()
        p.drawPixmap(0, 0, grid_picture(self.sight, self.tokens, self.unit, p.device().devicePixelRatioF()))
        self._outline()
        self._repeat()
        self._dimensions()
        self._handles()
        self._points()
        self._drawn()
        self._anchor()
        self._up()
        self.dimensions.paint_cards()
        paint_rulers(p, self.sight, self.tokens, self.unit)

    def _hosts(self) -> None:
        """What the hosts' cut fills behind the outline."""
        self.painter.setPen(QPen(colour(self.tokens.crease, 130), 1.0))
        self.painter.setBrush(colour(self.tokens.sky_low, 150))
        for ring in self.walls:
            self.painter.drawPolygon(QPolygonF([QPointF(*q) for q in self.sight.pixels(ring).tolist()]))

    def _strips(self) -> None:
        """How thick the ribbons are."""
        shape = self.board.shape
        if shape is None or not any(shape.thickness) or not any(p.is_ribbon for p in shape.parts):
            return
        try:
            solid = as_strips(shape)
        except MorphaxError:
            return  # a drag that goes too far; what it ends as is said
        strips = [s.outer for p, s in zip(shape.parts, solid.parts, strict=True) if p.is_ribbon]
        self.painter.setPen(QPen(colour(self.tokens.plum, 150), 1.0))
        self.painter.setBrush(colour(self.tokens.plum_ground, 120))
        self.painter.drawPath(path_of(strips, self.sight))

    def _outline(self) -> None:
        self._strips()
        path = path_of(self.loops, self.sight)
        self.painter.setPen(QPen(colour(self.tokens.plum), 1.8))
        self.painter.setBrush(colour(self.tokens.plum_ground, 120))
        self.painter.drawPath(path)
        self._looks()
        side = self.tool.under.side
        if side is not None and self.tool.kind == "edit" and side[0] < len(self.loops):
            over = QPainterPath()
            pieces = self.loops[side[0]].segments
            add_pieces(over, pieces[side[1] : side[1] + 1], self.sight)
            self.painter.setBrush(Qt.BrushStyle.NoBrush)
            self.painter.setPen(QPen(colour(self.tokens.teal), 2.4))
            self.painter.drawPath(over)

    def _looks(self) -> None:
        """A band inside the line of each stretch that does not look as the run, in its colour."""
        project = self.board.desk.project
        for loop in self.loops:
            for s in loop.drawn:
                material = project.find("materials", s.look) if s.look else None
                if material is not None:
                    band = QPainterPath()
                    add_pieces(band, (s,), self.sight)
                    self.painter.setBrush(Qt.BrushStyle.NoBrush)
                    for tint, width in ((self.tokens.plum, 6.4), (material.colour, 4.6)):
                        pen = QPen(colour(tint), width)
                        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
                        self.painter.setPen(pen)
                        self.painter.drawPath(band)

    def _repeat(self) -> None:
        """Copies that are not made yet."""
        try:
            parts = preview(self.board)
        except MorphaxError:
            return  # why it can't be done is said when it is asked for
        pen = QPen(colour(self.tokens.teal), 1.3)
        pen.setDashPattern([4.0, 3.0])
        self.painter.setPen(pen)
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        self.painter.drawPath(path_of([loop for p in parts for loop in (p.outer, *p.holes)], self.sight))

    def _dimensions(self) -> None:
        if not self.loops:
            return
        for i, k in self.board.chosen[:40]:
            x, y = self.sight.pixels(np.array(self.loops[i].segments[k].start)).tolist()
            self.dimensions.taken.append(QRectF(x - 8, y - 8, 16, 16))
        self.dimensions.whole(self.loops)
        touched: set[tuple[int, int]] = set()
        for i, k in self.board.chosen:
            n = len(self.loops[i].segments)
            touched |= {(i, s) for s in (k, (k - 1) % n) if s < len(self.loops[i].drawn)}
        for i, k in sorted(touched) if len(self.board.chosen) <= _FEW else ():
            self.dimensions.side(self.loops[i].segments[k], touched=True)
        if len(self.board.chosen) == 1:
            ((i, k),) = self.board.chosen
            point = self.loops[i].segments[k]
            self.dimensions.place(point.start, "corner" if point.corner else "smooth")

    def _handles(self) -> None:
        teal = colour(self.tokens.teal)
        self.painter.setBrush(colour(self.tokens.raised))
        for i, k in self.board.chosen:
            at = QPointF(*self.sight.pixels(np.array(self.loops[i].segments[k].start)).tolist())
            for place in handles_of(self.loops[i], k).values():
                tip = QPointF(*self.sight.pixels(np.array(place)).tolist())
                self.painter.setPen(QPen(teal, 1.2))
                self.painter.drawLine(at, tip)
                self.painter.drawRect(QRectF(tip.x() - 3, tip.y() - 3, 6, 6))

    def _points(self) -> None:
        chosen, under = set(self.board.chosen), self.tool.under.spot
        many = sum(len(loop.segments) for loop in self.loops) > _MANY
        self.painter.setPen(Qt.PenStyle.NoPen if many else QPen(colour(self.tokens.raised), 1.2))
        self.painter.setBrush(colour(self.tokens.plum))
        apart: list[tuple[QRectF, bool]] = []
        for i, loop in enumerate(self.loops):
            table = table_of(loop)
            at = self.sight.pixels(table.at(np.arange(len(loop.segments)), np.zeros(len(loop.segments)))).tolist()
            squares: list[QRect] = []
            for k, (is_corner, (x, y)) in enumerate(zip(table.corner.tolist(), at, strict=True)):
                is_apart = (i, k) in chosen or (i, k) == under
                r = _CHOSEN if (i, k) in chosen else _POINT + (1.3 if is_apart else 0.0)
                box = QRectF(x - r, y - r, 2 * r, 2 * r)
                if is_apart:
                    apart.append((box, is_corner))
                elif is_corner:
                    squares.append(QRect(round(x - r), round(y - r), _SIDE, _SIDE))
                else:
                    self.painter.drawEllipse(box)
            self.painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)  # crisp, and many at once
            self.painter.drawRects(squares)
            self.painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.painter.setPen(QPen(colour(self.tokens.raised), 1.2))
        self.painter.setBrush(colour(self.tokens.teal))
        for box, is_corner in apart:
            self.painter.drawRect(box) if is_corner else self.painter.drawEllipse(box)
        self._seam()

    def _seam(self) -> None:
        """A short tick across the outline where the skin's points begin."""
        shape, run = self.board.shape, self.board.on.through
        if shape is None or not shape.parts:
            return
        try:
            place = seam_place(shape, 0.0 if run is None else run.recipe.placing.seam)
        except MorphaxError:
            return  # an outline that is still being dragged
        k, t, _ = nearest(shape.parts[0].outer, place)
        way = shape.parts[0].outer.segments[k].slope(np.array([t]))[0] * np.array([1.0, -1.0])
        across = np.array([-way[1], way[0]]) / max(float(np.hypot(*way)), 1e-300) * 9.0
        spot = self.sight.pixels(np.array(place))
        self.painter.setPen(QPen(colour(self.tokens.moss), 2.0))
        self.painter.drawLine(QPointF(*(spot - across)), QPointF(*(spot + across)))

    def _drawn(self) -> None:
        """What is being drawn, where it lands, and lines that show why."""
        tool, p = self.tool, self.painter
        pieces = tool.drawn()
        if pieces:
            path = QPainterPath()
            add_pieces(path, pieces, self.sight)
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(colour(self.tokens.teal), 1.8))
            p.drawPath(path)
            self.dimensions.side(pieces[-1], touched=True)
        p.setPen(QPen(colour(self.tokens.raised), 1.2))
        p.setBrush(colour(self.tokens.teal))
        for x, y in self.sight.pixels(np.array(tool.sketch.places).reshape(-1, 2)).tolist():
            p.drawRect(QRectF(x - 3.5, y - 3.5, 7, 7))
        self._landing()
        if tool.box is not None:
            p.setPen(QPen(colour(self.tokens.teal), 1.2, Qt.PenStyle.DashLine))
            p.setBrush(colour(self.tokens.teal, 26))
            p.drawRect(QRectF(QPointF(*tool.box[0]), QPointF(*tool.box[1])).normalized())

    def _landing(self) -> None:
        landing, p = self.tool.landing, self.painter
        if landing is None:
            return
        pen = QPen(colour(self.tokens.blue, 170), 1.0)
        pen.setDashPattern([4.0, 3.0])
        p.setPen(pen)
        for a, b in landing.guides:
            q = self.sight.pixels(np.array([a, b])).tolist()
            p.drawLine(QPointF(*q[0]), QPointF(*q[1]))
        x, y = self.sight.pixels(np.array(landing.place)).tolist()
        p.setPen(QPen(colour(self.tokens.teal), 1.4))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawEllipse(QPointF(x, y), 6.0, 6.0)
        word = f"{self.tool.typed.field} {self.tool.typed.text}│" if self.tool.typed.text else landing.word
        if self.tool.kind != "edit" or self.tool.is_dragging:
            self.dimensions.place(landing.place, word)

    def _anchor(self) -> None:
        x, y = self.sight.pixels(np.array(self.sight.origin)).tolist()
        p = self.painter
        p.setBrush(colour(self.tokens.raised, 200))
        p.setPen(QPen(colour(self.tokens.blue), 1.6))
        p.drawEllipse(QPointF(x, y), 6.0, 6.0)
        for dx, dy in ((11, 0), (0, 11)):
            p.drawLine(QPointF(x - dx, y - dy), QPointF(x + dx, y + dy))

    def _up(self) -> None:
        """Which way is up on the path, as the section is rolled there."""
        wide, high = self.sight.size
        x, y = wide - 26.0, high - 66.0
        p, run = self.painter, self.board.on.through
        placing = None if run is None else run.recipe.placing
        roll = 0.0 if placing is None else -placing.roll if placing.flip else placing.roll
        ahead = np.array([np.sin(roll), -np.cos(roll)])
        side, foot = np.array([-ahead[1], ahead[0]]), np.array([x, y - 15.0]) - 15.0 * ahead
        tip = foot + 30.0 * ahead
        p.setPen(QPen(colour(self.tokens.moss), 1.8))
        for start in (foot, tip - 7.0 * ahead + 4.0 * side, tip - 7.0 * ahead - 4.0 * side):
            p.drawLine(QPointF(*start), QPointF(*tip))
        p.setFont(app_font(8.0))
        p.setPen(colour(self.tokens.moss_text))
        p.drawText(QRectF(x - 20, y + 1, 40, 14), Qt.AlignmentFlag.AlignCenter, "up")
