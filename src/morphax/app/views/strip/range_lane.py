"""The lane of the range: which part of the run is shown, with grips at its ends and at what is left out."""

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from morphax.app.views.strip.along import run_on
from morphax.app.views.strip.grips import Drag
from morphax.app.views.strip.lanes import Grip, OnStrip, knot_marks
from morphax.app.views.strip.ruler import LEFT, paint_name
from morphax.app.widgets.theme import colour
from morphax.core.body.range import END, START, Stop
from morphax.project.edits.ranges import LEAST, seen_range, slid_stop, stop_at, with_gap, with_gap_at, with_range
from morphax.project.model.document import Project, Run
from morphax.project.things import Thing

_MIDDLE, _GRIP, _CATCH, _SNAP = 8.0, 6.0, 7.0, 5.0
"""Where the bar is, half a grip's height, and pixels from which on a grip is taken and a place caught, pixels."""
_NEW_GAP = 0.05
"""Half the share of the length that a double-click leaves out."""
Hit = tuple[str, int]
"""What is held: a range's ``start`` or ``end``, a gap's ``from`` or ``to``, or the ``gap`` itself; and which gap."""


def _grips(on: OnStrip) -> list[tuple[float, Hit]]:
    """Pixels of all grips; the range's ends come first."""
    own, length = seen_range(run_on(on)), on.ruler.length
    out: list[tuple[float, Hit]] = [(own.start.at(length), ("start", 0)), (own.end.at(length), ("end", 0))]
    for k, (a, b) in enumerate(own.out):
        out += [(a.at(length), ("from", k)), (b.at(length), ("to", k))]
    return [(float(on.ruler.x_of(at)), hit) for at, hit in out]


class RangeLane:
    """A drag of a grip moves it, a double-click leaves a stretch out there or shows it again."""

    height = 17

    def is_used(self, on: OnStrip) -> bool:
        return True

    def paint(self, painter: QPainter, on: OnStrip, top: float) -> None:
        t, y = on.ruler.tokens, top + _MIDDLE
        paint_name(painter, t, y, "shown")
        right = LEFT + on.ruler.room
        painter.setPen(QPen(colour(t.line), 1.2, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(LEFT, y), QPointF(right, y))
        run, now = run_on(on), on.workspace.bodies.project.find("runs", run_on(on).id)
        for of, alpha in ((run, 255),) if now is run or now is None else ((run, 90), (now, 255)):
            painter.setPen(QPen(colour(t.moss, alpha), 4.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
            for a, b in self._bars(on, of):
                low, high = max(a, float(LEFT)), min(b, float(right))
                if high > low:
                    painter.drawLine(QPointF(low, y), QPointF(high, y))
        painter.setPen(QPen(colour(t.panel), 1.0))
        painter.setBrush(colour(t.moss))
        for x, _ in _grips(on):
            if on.ruler.is_in_view(x, 1.0):
                painter.drawRoundedRect(QRectF(x - 3.0, y - _GRIP, 6.0, 2.0 * _GRIP), 2.0, 2.0)

    def _bars(self, on: OnStrip, run: Run) -> list[tuple[float, float]]:
        """The pixels of what is shown of a run, as much as has appeared; nothing where the range leaves nothing."""
        recipe, length, closed = run.recipe, on.ruler.length, on.path.closed
        if on.built.body.has_errors or run.show.hidden:
            return []
        found = recipe.range.stretches(length, closed=closed) or ((0.0, length),)
        if recipe.reference.from_end:
            found = tuple(
                (length - b, length - a) if b <= length else (2 * length - b, 2 * length - a) for a, b in found
            )
        parts = [(a, min(b, length)) for a, b in found] + [(0.0, b - length) for _, b in found if b > length]
        return [(float(on.ruler.x_of(a)), float(on.ruler.x_of(b))) for a, b in parts]

    def thing_at(self, on: OnStrip, x: float, y: float) -> Thing | None:
        return None

    def _hit(self, on: OnStrip, x: float) -> Hit | None:
        near = [(abs(at - x), -k, hit) for k, (at, hit) in enumerate(_grips(on))]
        far, _, hit = min(near)
        return hit if far <= _CATCH else self._gap_at(on, x)

    def _gap_at(self, on: OnStrip, x: float) -> Hit | None:
        own, at = seen_range(run_on(on)), on.ruler.distance_at(x)
        if at is None:
            return None
        for k, (a, b) in enumerate(own.out):
            low, high = a.at(on.ruler.length), b.at(on.ruler.length)
            if low <= at <= high or (high < low and (at >= low or at <= high)):
                return "gap", k
        return None

    def press(self, on: OnStrip, x: float, y: float) -> None:
        """Grips are taken hold of."""

    def double_press(self, on: OnStrip, x: float, y: float) -> None:
        run, hit, at = run_on(on), self._hit(on, x), on.ruler.distance_at(x)
        if hit is not None and hit[0] in ("gap", "from", "to"):
            on.workspace.attempt("Show a stretch again", lambda p: with_gap_at(p, run.id, hit[1], None))
        elif hit is not None:
            usual = START if hit[0] == "start" else END
            on.workspace.attempt(f"Usual {hit[0]} of the range", lambda p: with_range(p, [run.id], **{hit[0]: usual}))
        elif at is not None:
            share = min(max(at / on.ruler.length, _NEW_GAP), 1.0 - _NEW_GAP)
            gap = Stop(share - _NEW_GAP), Stop(share + _NEW_GAP)
            on.workspace.attempt("Leave a stretch out", lambda p: with_gap(p, run.id, *gap))

    def grab(self, on: OnStrip, x: float, y: float, *, copies: bool) -> Grip | None:
        hit = self._hit(on, x)
        return None if hit is None else _HeldStop(on, hit, (x, y))


class _HeldStop(Drag):
    """A stop, or a gap, that is dragged; it catches on knots and on the path's ends."""

    def __init__(self, on: OnStrip, hit: Hit, at: tuple[float, float]) -> None:
        super().__init__(on, *at)
        self.hit, self.own = hit, seen_range(run_on(on))
        self.label = "Drag the range" if hit[0] in ("start", "end") else "Move what is left out"

    def step(self, on: OnStrip, x: float, y: float) -> Callable[[], Project]:
        which, k = self.hit
        length, closed = on.ruler.length, on.path.closed
        if which in ("start", "end"):
            own = slid_stop(self.own, which, self._at(on, x), length, closed=closed)
            return lambda: with_range(self.base, [self.run], start=own.start, end=own.end)
        a, b = (stop.at(length) for stop in self.own.out[k])
        least = LEAST * length
        if which == "gap":
            moved = (x - self.begun[0]) / on.ruler.room * (on.ruler.seen[1] - on.ruler.seen[0]) * length
            moved = min(max(moved, -min(a, b)), length - max(a, b))
            a, b = a + moved, b + moved
        elif which == "from":
            a = self._at(on, x) if closed else min(self._at(on, x), b - least)
        else:
            b = self._at(on, x) if closed else max(self._at(on, x), a + least)
        gap = tuple(stop_at(like, v, length) for like, v in zip(self.own.out[k], (a, b), strict=True))
        return lambda: with_gap_at(self.base, self.run, k, (gap[0], gap[1]))

    def _at(self, on: OnStrip, x: float) -> float:
        """The place at a pixel, or one near it that catches."""
        places = [0.0, on.ruler.length, *(d for _, d, _ in knot_marks(on.path, on.built))]
        near = min(places, key=lambda d: abs(float(on.ruler.x_of(d)) - x))
        if abs(float(on.ruler.x_of(near)) - x) <= _SNAP:
            return near
        return min(max(on.ruler.share_at(x), 0.0), 1.0) * on.ruler.length
