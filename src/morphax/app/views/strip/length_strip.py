"""The length strip: the chosen run unrolled on a ruler, with lanes below it."""

from collections.abc import Callable, Iterator

import numpy as np
from PySide6.QtCore import QEvent, QPointF, Qt, Signal
from PySide6.QtGui import (
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QWheelEvent,
)
from PySide6.QtWidgets import QMenu, QWidget

from morphax.app.session.throttle import Throttle
from morphax.app.session.workspace import Workspace
from morphax.app.tools.toolbox import Toolbox
from morphax.app.views.stock.tile import dropped_key
from morphax.app.views.strip.adding import AddLane
from morphax.app.views.strip.all_lanes import LANES, STATIONS
from morphax.app.views.strip.all_runs import paint_rulers, ruler_at, run_rulers
from morphax.app.views.strip.along import here_words, own_share
from morphax.app.views.strip.lanes import (
    Grip,
    KnotLane,
    Lane,
    OnStrip,
    RingLane,
    insert_knot_at,
    knot_marks,
)
from morphax.app.views.strip.law_lane import LawLane
from morphax.app.views.strip.point_field import PointTyping
from morphax.app.views.strip.range_lane import RangeLane
from morphax.app.views.strip.ruler import FOLDED_HEIGHT, RULER_HEIGHT, Ruler, paint_hover, paint_ruler
from morphax.app.views.strip.strip_sight import StripSight
from morphax.app.widgets.appearance import Look
from morphax.app.widgets.motion import Moment
from morphax.app.widgets.theme import app_font, colour
from morphax.build.built import Built
from morphax.core.findings import Finding, Severity
from morphax.project.model.along import FACTORS
from morphax.project.things import Selection
from morphax.project.units import sentence_in

EMPTY_WORDS = "The chosen run lies here unrolled: its length, its knots and its rings."
_PLAIN_HEIGHT = RangeLane.height + KnotLane.height + RingLane.height + AddLane.height
"""The lanes that every run has."""
_FINDING = 9.0
"""Pixels beside a finding's mark at which its words are shown."""


def finding_marks(built: Built, x_of: Callable[[np.ndarray], np.ndarray]) -> list[tuple[float, Finding]]:
    """Pixels of the findings that lie somewhere on the run; notes have no mark."""
    found = [f for f in built.body.findings if f.at is not None and f.severity is not Severity.NOTE]
    return [(float(x_of(np.array(f.at))), f) for f in found]


def paint_findings(painter: QPainter, on: OnStrip) -> None:
    """A ring on the first lane, as round the place in the panes, and a line down through the others."""
    t, ruler, y = on.ruler.tokens, on.ruler, RULER_HEIGHT + 10.0
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for x, finding in finding_marks(on.built, ruler.x_of):
        if not ruler.is_in_view(x, 1.0):
            continue
        painter.setPen(QPen(colour(t.red if finding.severity is Severity.ERROR else t.amber), 2.0))
        if ruler.is_folded:
            painter.drawLine(QPointF(x, 3.0), QPointF(x, FOLDED_HEIGHT - 3.0))
            continue
        painter.drawEllipse(QPointF(x, y), 8.5, 8.5)
        painter.drawLine(QPointF(x, y + 8.5), QPointF(x, ruler.size[1] - 18.0))


class LengthStrip(QWidget):
    """The ruler of the chosen run, as tall as the lanes in use, or folded to the ruler alone.

    ``given``: a section of the stock was dropped on it: its key, the run, the station under it or none, and the share.
    """

    given = Signal(str, str, object, float)
    corner_wanted = Signal(str)
    """A knot whose corner is to be looked at."""
    profiled = Signal(str, str, str)
    """A section was dropped on the lane of a size, width or height: its key, the run and the law."""

    def __init__(self, workspace: Workspace, look: Look, toolbox: Toolbox, lanes: tuple[Lane, ...] = LANES) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.workspace, self.look, self.toolbox, self.lanes = workspace, look, toolbox, lanes
        self.is_folded = False
        self._was_high = 0
        self._fold = Moment(self, self._grow, self.refresh)
        self._pointed: str | None = None
        self._grip: tuple[Grip, Lane] | None = None
        self._chose = False
        self.sight, self.points = StripSight(workspace), PointTyping(self, self._on)
        toolbox.sketched.connect(self.update)
        workspace.bench.lit_changed.connect(self.update)
        self.setMouseTracking(True)
        self.setAcceptDrops(True)
        self.setFixedHeight(RULER_HEIGHT + _PLAIN_HEIGHT)
        self.setAccessibleName("Length strip")
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        throttle = Throttle(self, workspace, self.refresh)
        for signal in (workspace.project_changed, workspace.built, workspace.selection_changed, look.changed):
            signal.connect(throttle.ask)

    def fold(self) -> None:
        """Folds to the ruler alone, or back."""
        self.is_folded = not self.is_folded
        self._was_high = self.height()
        self._fold.begin()

    def refresh(self) -> None:
        """Takes the height of the lanes that are in use; with no run chosen it stays as it was."""
        if not self._fold.is_on:
            self.setFixedHeight(self._wanted_height())
        self.update()

    def _wanted_height(self) -> int:
        on = self._on()
        if self.is_folded:
            return FOLDED_HEIGHT
        if on is not None:
            return RULER_HEIGHT + sum(lane.height for lane, _ in self._lanes_of(on))
        is_low = self._fold.is_on or self.height() == FOLDED_HEIGHT
        return RULER_HEIGHT + _PLAIN_HEIGHT if is_low else self.height()

    def _grow(self, share: float) -> None:
        """On the way from folded to unfolded, or back."""
        self.setFixedHeight(round(self._was_high + share * (self._wanted_height() - self._was_high)))
        self.update()

    # -- what is shown ---------------------------------------------------------------------------

    @property
    def ruler(self) -> Ruler:
        built = self.workspace.chosen.body
        length = built.body.length if built is not None else 0.0
        size, unit = (self.width(), self.height()), self.workspace.project.unit
        return Ruler(length, size, unit, self.look.tokens, self.sight.seen)

    def _on(self) -> OnStrip | None:
        """What lanes read; None where there is nothing to unroll."""
        built, path, ruler = self.workspace.chosen.body, self.workspace.chosen.path, self.ruler
        if built is None or path is None or ruler.length <= 0.0:
            return None
        return OnStrip(ruler, path, built, self.workspace, self.toolbox)

    def _lanes_of(self, on: OnStrip) -> Iterator[tuple[Lane, float]]:
        """The lanes in use, and where each begins."""
        top = float(RULER_HEIGHT)
        for lane in self.lanes:
            if lane.is_used(on):
                yield lane, top
                top += lane.height

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(app_font(8.5))
        on = self._on()
        if on is None and self.workspace.project.runs and not self.workspace.selection.runs:
            size = (self.width(), self.height())
            paint_rulers(painter, self.workspace, size, self.look.tokens, self._pointed)
        elif on is None:
            painter.setPen(colour(self.look.tokens.soft))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, EMPTY_WORDS)
        else:
            self._paint(painter, on)
        painter.end()

    def _paint(self, painter: QPainter, on: OnStrip) -> None:
        paint_ruler(painter, on.ruler)
        for lane, top in self._lanes_of(on) if not self.is_folded else ():
            lane.paint(painter, on, top)
        paint_findings(painter, on)
        hover = self.toolbox.hover.distance
        if hover is not None:
            paint_hover(painter, on.ruler, hover, here_words(on, hover))

    # -- mouse -----------------------------------------------------------------------------------

    def _lane_at(self, on: OnStrip, y: float) -> tuple[Lane, float] | None:
        """The lane at a pixel, and how far below its top that is; the ruler's last pixels belong to the first one."""
        found = [(lane, y - top) for lane, top in self._lanes_of(on) if y >= top - 2.0]
        return found[-1] if found and not self.is_folded else None

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self._on() is not None:
            self.sight.wheel(event, self.ruler)
            self.toolbox.hover.over_strip(self.ruler.distance_at(event.position().x()))
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.sight.pull(event.position().x(), self.ruler):
            self.update()
            return
        if self._grip is not None:
            on = self._on()
            if on is not None:
                self._grip[0].move(on, event.position().x(), event.position().y() - self._top_of(self._grip[1], on))
            return
        self._point_at(self._run_at(event.position().y()))
        built, x = self.workspace.chosen.body, event.position().x()
        near = [] if built is None else finding_marks(built, self.ruler.x_of)
        said = [f.message for at, f in near if abs(at - x) <= _FINDING]
        self.setToolTip(sentence_in(said[0], unit=self.workspace.project.unit) if said else "")
        on = self._on()
        found = None if on is None else self._lane_at(on, event.position().y())
        thing = None if on is None or found is None else found[0].thing_at(on, x, found[1])
        self.toolbox.hover.over_strip(self.ruler.distance_at(x), thing)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """What a press in a lane does is the lane's; a run that is being drawn is finished by it."""
        if self.workspace.unfinished.is_drawing:
            self.toolbox.finish()
        on, p = self._on(), event.position()
        self.points.field.close_up()
        run = self._run_at(p.y())
        self._chose = run is not None and event.button() == Qt.MouseButton.LeftButton
        if run is not None and self._chose:
            self.workspace.select(Selection.of((run,)))
            return
        if on is not None and event.button() == Qt.MouseButton.MiddleButton:
            self.sight.hold(p.x())
            return
        found = None if on is None else self._lane_at(on, p.y())
        if on is not None and found is not None and event.button() == Qt.MouseButton.LeftButton:
            copies = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            found[0].press(on, p.x(), found[1])
            grip = found[0].grab(on, p.x(), found[1], copies=copies)
            self._grip = None if grip is None else (grip, found[0])
            self.workspace.unfinished.held = None if grip is None else self._let_go

    def _let_go(self) -> None:
        """Esc in mid-drag: it is as it was."""
        grip, self._grip = self._grip, None
        if grip is not None:
            grip[0].let_go()

    def _top_of(self, wanted: Lane, on: OnStrip) -> float:
        return next((top for lane, top in self._lanes_of(on) if lane is wanted), float(RULER_HEIGHT))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.sight.hold(None)
        self.workspace.unfinished.held = None
        grip, self._grip = self._grip, None
        if grip is None:
            return
        grip[0].drop()
        on, at = self._on(), event.position()
        if on is not None and not grip[0].moved:
            self.points.open_at(at.toPoint(), self._lane_at(on, at.y()))

    def lane_menu(self, at: QPointF) -> QMenu | None:
        """What the lane of a law offers at a pixel; None elsewhere."""
        on = self._on()
        return None if on is None else self.points.menu(at, self._lane_at(on, at.y()))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        on, p = self._on(), event.position()
        self.points.field.close_up()
        found = None if on is None else self._lane_at(on, p.y())
        if on is None or self._chose or event.button() != Qt.MouseButton.LeftButton:
            return  # the first of the two clicks was on a run's ruler
        corner = None if found is None else found[0].thing_at(on, p.x(), found[1])
        if found is None:
            insert_knot_at(on, p.x())
        elif corner is not None and any(k == corner.id and is_one for k, _, is_one in knot_marks(on.path, on.built)):
            self.corner_wanted.emit(corner.id)
        else:
            found[0].double_press(on, p.x(), found[1])

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if dropped_key(event.mimeData()) is not None and self._on() is not None:
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        self.toolbox.hover.over_strip(self.ruler.distance_at(event.position().x()))
        event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        key, on, run = dropped_key(event.mimeData()), self._on(), self.workspace.chosen.run
        if key is None or on is None or run is None:
            return
        at = event.position()
        found = self._lane_at(on, at.y())
        if found is not None and isinstance(found[0], LawLane) and found[0].kind.law in FACTORS:
            self.profiled.emit(key, run.id, found[0].kind.law)
            event.acceptProposedAction()
            return
        top = self._top_of(STATIONS, on)
        several = len(run.recipe.stations) > 1
        station = STATIONS.station_at(on, at.x(), at.y() - top) if several else None
        self.given.emit(key, run.id, station, own_share(on, at.x()))
        event.acceptProposedAction()

    def _run_at(self, y: float) -> str | None:
        """The run whose ruler is at a pixel's height, while nothing is chosen."""
        if self.workspace.selection.runs or self.toolbox.is_drawing:
            return None
        found = ruler_at(run_rulers(self.workspace, self.height())[0], y)
        return None if found is None else found.id

    def _point_at(self, run: str | None) -> None:
        if run != self._pointed:
            self._pointed = run
            self.setCursor(Qt.CursorShape.ArrowCursor if run is None else Qt.CursorShape.PointingHandCursor)
            self.update()

    def leaveEvent(self, event: QEvent) -> None:
        self._point_at(None)
        self.toolbox.hover.over_strip(None)
