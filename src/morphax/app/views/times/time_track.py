"""The track of the time bar: seconds, when runs move, and the second that is shown."""

from collections.abc import Iterator

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from morphax.app.session.workspace import Workspace
from morphax.app.tools.shared.steps import shown_step
from morphax.app.views.strip.ruler import tick_step
from morphax.app.widgets.appearance import Look
from morphax.app.widgets.theme import app_font, colour
from morphax.project.derive.at_time import moving, play_length
from morphax.project.edits.timing import with_appears
from morphax.project.model.document import Project, Run
from morphax.project.model.times import LONGEST
from morphax.project.units import format_number

HEIGHT = 40
_SIDE, _BASE, _OWN, _CATCH = 10.0, 21.0, 31.0, 7.0
"""Pixels beside the track, of its line, of the chosen run's bar, and from which on a grip of it is taken."""
_MOVES = 3.0


class TimeTrack(QWidget):
    """A press shows another second; the ends of the chosen run's bar are dragged to when it appears."""

    def __init__(self, workspace: Workspace, look: Look) -> None:
        super().__init__()
        self.workspace, self.look = workspace, look
        self._held: tuple[str, str, Project, float] | None = None
        self._moved = self._scrubs = False
        self.setFixedHeight(HEIGHT)
        self.setMinimumWidth(120)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Time")

    # -- places ----------------------------------------------------------------------------------

    @property
    def _length(self) -> float:
        base = (
            self.workspace.project if self._held is None else self._held[2]
        )  # a drag is seen on the scale it began on
        return max(play_length(base), 1e-9)

    def x_of(self, time: float) -> float:
        """The pixel of a second."""
        return _SIDE + min(max(time / self._length, 0.0), 1.0) * (self.width() - 2.0 * _SIDE)

    def time_at(self, x: float, *, beyond: bool = False) -> float:
        """The second at a pixel, of a whole picture; also behind the end, where something is dragged there."""
        share = max((x - _SIDE) / max(self.width() - 2.0 * _SIDE, 1.0), 0.0)
        rate = self.workspace.project.clock.rate
        time = round(share * self._length * rate) / rate
        return min(time, LONGEST if beyond else self._length)

    def _own(self) -> Run | None:
        """The only chosen run, if anything of it moves."""
        run = self.workspace.chosen.run
        alone = run is not None and len(self.workspace.chosen.run_ids) == 1
        return run if alone and run is not None and run.times is not None else None

    def _grips(self) -> Iterator[tuple[float, str]]:
        """Pixels of the grips of the chosen run's bar."""
        own = self._own()
        if own is not None and own.times is not None and own.times.appears is not None:
            yield self.x_of(own.times.appears.begin), "begin"
            yield self.x_of(own.times.appears.end), "end"

    # -- painting --------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        t, right = self.look.tokens, self.width() - _SIDE
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(app_font(8.5))
        self._paint_seconds(painter)
        painter.setPen(QPen(colour(t.field_line), 1.2))
        painter.drawLine(QPointF(_SIDE, _BASE), QPointF(right, _BASE))
        self._paint_others(painter)
        self._paint_own(painter)
        x = self.x_of(self.workspace.playing.time)
        painter.setPen(QPen(colour(t.teal), 1.6))
        painter.drawLine(QPointF(x, _BASE - 6.0), QPointF(x, HEIGHT - 3.0))
        painter.setBrush(colour(t.teal))
        painter.drawEllipse(QPointF(x, _BASE), 4.0, 4.0)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(colour(t.teal), 1.0, Qt.PenStyle.DotLine))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1.0, 1.0, -1.0, -1.0), 4.0, 4.0)
        painter.end()

    def _paint_seconds(self, painter: QPainter) -> None:
        t, length = self.look.tokens, self._length
        step = tick_step(length, self.width() - 2.0 * _SIDE, "m")  # seconds are told apart as metres are
        painter.setPen(colour(t.soft))
        count = int(length / step + 1e-9)
        for k in range(count + 1):
            x = self.x_of(k * step)
            painter.drawLine(QPointF(x, _BASE - 4.0), QPointF(x, _BASE))
            place = QRectF(x - 30.0, 1.0, 60.0, 15.0)
            place.moveLeft(min(max(place.left(), 0.0), self.width() - place.width()))
            flag = Qt.AlignmentFlag.AlignLeft if k == 0 else Qt.AlignmentFlag.AlignHCenter
            painter.drawText(place, flag | Qt.AlignmentFlag.AlignVCenter, f"{format_number(k * step)} s")

    def _paint_others(self, painter: QPainter) -> None:
        """When any run moves, as one line: where many do at once it is darker."""
        own, t = self._own(), self.look.tokens
        painter.setPen(QPen(colour(t.moss, 90), 4.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
        seen = set[tuple[int, int]]()
        for run in moving(self.workspace.project):
            if run.times is None or run is own:
                continue
            begins = [m.moments[0].at for m in run.times.moves]
            begins += [run.times.appears.begin] if run.times.appears is not None else []
            pair = (round(self.x_of(min(begins))), round(self.x_of(run.times.end)))
            if pair not in seen:
                seen.add(pair)
                painter.drawLine(QPointF(pair[0], _BASE), QPointF(max(pair[1], pair[0] + 2), _BASE))

    def _paint_own(self, painter: QPainter) -> None:
        """The chosen run: its bar with grips, and a dot at each moment that a value is held at."""
        own, t = self._own(), self.look.tokens
        if own is None or own.times is None:
            return
        grips = list(self._grips())
        if grips:
            painter.setPen(QPen(colour(t.moss), 4.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
            painter.drawLine(QPointF(grips[0][0], _OWN), QPointF(grips[1][0], _OWN))
        painter.setPen(QPen(colour(t.panel), 1.0))
        painter.setBrush(colour(t.moss))
        for x, _ in grips:
            painter.drawRoundedRect(QRectF(x - 3.0, _OWN - 6.0, 6.0, 12.0), 2.0, 2.0)
        painter.setBrush(colour(t.plum))
        for move in own.times.moves:
            for at in (*(m.at for m in move.moments), move.end):
                painter.drawEllipse(QPointF(self.x_of(at), _OWN), 3.6, 3.6)

    # -- pointer and keys ------------------------------------------------------------------------

    def _grip_at(self, x: float, y: float) -> str | None:
        near = [(abs(at - x), name) for at, name in self._grips()]
        found = min(near, default=None)
        return found[1] if found is not None and found[0] <= _CATCH and y > _BASE + 2.0 else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        x, own = event.position().x(), self._own()
        grip = self._grip_at(x, event.position().y())
        self._moved = False
        if grip is not None and own is not None:
            self._held = (own.id, grip, self.workspace.project, x)
            self.workspace.unfinished.held = self._let_go
            return
        self._scrubs = True
        self._show(x)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        p = event.position()
        if self._held is not None:
            self._drag(p.x())
        elif self._scrubs:
            self._show(p.x())
        else:
            on_grip = self._grip_at(p.x(), p.y()) is not None
            self.setCursor(Qt.CursorShape.SizeHorCursor if on_grip else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._scrubs = False
        self.workspace.unfinished.held = None
        made = self.workspace.unfinished.project
        held = self._held
        self._let_go()
        if held is not None and self._moved and made is not None and made is not held[2]:
            self.workspace.edit("Drag when it appears", made)

    def _let_go(self) -> None:
        """Nothing is made of what is held."""
        held, self._held = self._held, None
        if held is not None:
            self.workspace.unfinished.show(None)

    def _show(self, x: float) -> None:
        self.workspace.playing.pause()
        self.workspace.playing.go_to(self.time_at(x))

    def _drag(self, x: float) -> None:
        if self._held is None:
            return
        run, which, base, begun = self._held
        if not self._moved and abs(x - begun) < _MOVES:
            return
        self._moved = True
        own = base.find("runs", run).times.appears
        time = self.time_at(x, beyond=True)
        time = min(time, own.end) if which == "begin" else max(time, own.begin)
        shown_step(self.workspace, lambda: with_appears(base, [run], **{which: time}))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """The arrow keys go a picture on or back, Home and End to the first and the last."""
        playing = self.workspace.playing
        key = event.key()
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            playing.step(1 if key == Qt.Key.Key_Right else -1)
        elif key in (Qt.Key.Key_Home, Qt.Key.Key_End):
            playing.pause()
            playing.go_to(0.0 if key == Qt.Key.Key_Home else playing.length)
        else:
            super().keyPressEvent(event)
