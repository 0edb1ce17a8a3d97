"""The lanes of laws: filled curves with points to be dragged and typed, and curves drawn by hand."""

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from morphax.app.views.strip.along import knots_on, own_share, run_on, x_of_share
from morphax.app.views.strip.curves import KINDS, Curve, LawKind, curve_of, point_words, read_point
from morphax.app.views.strip.grips import Drag
from morphax.app.views.strip.lanes import Grip, OnStrip
from morphax.app.views.strip.ruler import LEFT, paint_name
from morphax.app.widgets.theme import app_font, colour
from morphax.core.loft.laws import Piece
from morphax.project.edits import laws as edits
from morphax.project.edits.along import set_knot_value
from morphax.project.model.document import LawPoint, Project, Varying
from morphax.project.things import Thing, ThingKind
from morphax.project.units import format_number

_CATCH, _DRAWN, _MANY = 7.0, 1.5, 40
"""Pixels at which a point is caught, within which a curve drawn by hand is kept; from so many points they are small."""


_FORM_HIGH = 12.0
_ONE_LINE = Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextSingleLine


class LawLane:
    """A law: points are dragged, typed after a click; a double-click puts one in, or takes the one under it away; a
    drag beside them draws the curve."""

    def __init__(self, kind: LawKind) -> None:
        self.kind = kind

    @property
    def height(self) -> int:
        return self.kind.tall

    def is_used(self, on: OnStrip) -> bool:
        varying = run_on(on).recipe.varying
        return varying is not None and self.kind.is_used(varying)

    # -- what is shown ---------------------------------------------------------------------------

    def paint(self, painter: QPainter, on: OnStrip, top: float) -> None:
        t, curve, label = on.ruler.tokens, curve_of(on, self.kind), self._label(on)
        paint_name(painter, t, top + 0.5 * self.height - (8.0 if label else 0.0), self.kind.law)
        if label:
            own = painter.font()
            painter.setFont(app_font(7.0))
            painter.setPen(colour(t.teal))
            words = painter.fontMetrics().elidedText(label, Qt.TextElideMode.ElideRight, LEFT - 14)
            painter.drawText(QRectF(12, top + 0.5 * self.height - 1.0, LEFT - 12, 20), _ONE_LINE, words)
            painter.setFont(own)
        if curve is None:
            return
        with on.ruler.within(painter):
            self._paint_curve(painter, on, curve, top)
            self._paint_points(painter, on, curve, top)
        self._paint_ends(painter, on, curve, top)

    def _label(self, on: OnStrip) -> str:
        form = (run_on(on).recipe.varying or Varying()).form
        if form is None or form.of != self.kind.law:
            return ""
        return f"{form.form} {format_number(100.0 * form.strength, decimals=0)}\u2009%"

    def _paint_curve(self, painter: QPainter, on: OnStrip, curve: Curve, top: float) -> None:
        t = on.ruler.tokens
        x = x_of_share(on, curve.shares)
        line = [QPointF(a, top + curve.y_of(b)) for a, b in zip(x.tolist(), curve.values.tolist(), strict=True)]
        foot = top + curve.y_of(max(curve.low, min(0.0, curve.high)))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(t.teal_ground))
        painter.drawPolygon(QPolygonF([QPointF(line[0].x(), foot), *line, QPointF(line[-1].x(), foot)]))
        painter.setPen(QPen(colour(t.line), 1.0, Qt.PenStyle.DotLine))
        plain = top + curve.y_of(self.kind.plain)
        painter.drawLine(QPointF(line[0].x(), plain), QPointF(line[-1].x(), plain))
        painter.setPen(QPen(colour(t.teal), 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(line)

    def _paint_points(self, painter: QPainter, on: OnStrip, curve: Curve, top: float) -> None:
        t, r = on.ruler.tokens, 4.5 if len(curve.points) < _MANY else 2.0
        painter.setBrush(colour(t.raised))
        painter.setPen(QPen(colour(t.teal), 1.8 if len(curve.points) < _MANY else 1.0))
        for p in curve.points:
            painter.drawEllipse(self.spot(on, curve, p, top), r, r)
        painter.setPen(QPen(colour(t.blue), 1.6))
        for _, at, value in self._knots(on):
            spot = QPointF(at, top + curve.y_of(value))
            painter.drawRect(QRectF(spot.x() - 3.5, spot.y() - 3.5, 7.0, 7.0))

    def _paint_ends(self, painter: QPainter, on: OnStrip, curve: Curve, top: float) -> None:
        """The values at both ends of what is seen."""
        painter.setPen(colour(on.ruler.tokens.soft))
        order = np.argsort(x_of_share(on, curve.shares), kind="stable")
        x, values = x_of_share(on, curve.shares)[order], curve.values[order]
        low, high = float(LEFT), float(LEFT + on.ruler.room)
        for value, at in ((np.interp(low, x, values), low - 49.0), (np.interp(high, x, values), high - 48.0)):
            y = top + min(max(curve.y_of(float(value)), 12.0), self.height - 10.0)
            form = top + 0.5 * self.height + 5.0
            if at < LEFT and abs(y - form) < _FORM_HIGH and self._label(on):
                y = form - 13.0  # beside the law's name, not in the words of its form
            shift = 0.0 if at < LEFT else -11.0 if y > top + 0.5 * self.height else 12.0
            flag = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(QRectF(at, y - 9.0 + shift, 40.0, 18.0), flag, self.kind.short(on, float(value)))

    def spot(self, on: OnStrip, curve: Curve, point: LawPoint, top: float) -> QPointF:
        """A point of the law stands on the curve of it alone, which is that of all where nothing else varies."""
        return QPointF(float(x_of_share(on, point.share)), top + curve.y_of(point.value))

    def _knots(self, on: OnStrip) -> list[tuple[str, float, float]]:
        """Knots with a value of their own: id, pixel along, and the value."""
        if not self.kind.of_knots:
            return []
        own, at = (run_on(on).recipe.varying or Varying()).knots, knots_on(on)
        found = [(k.knot, getattr(k, self.kind.law)) for k in own if k.knot in at]
        return [(k, float(x_of_share(on, at[k] / on.ruler.length)), v) for k, v in found if v != self.kind.plain]

    # -- what is done ----------------------------------------------------------------------------

    def hit(self, on: OnStrip, x: float, y: float) -> int | None:
        """The number of the point at a pixel."""
        curve = curve_of(on, self.kind)
        if curve is None:
            return None
        spots = [self.spot(on, curve, p, 0.0) for p in curve.points]
        near = [(np.hypot(p.x() - x, p.y() - y), k) for k, p in enumerate(spots)]
        return min(near)[1] if near and min(near)[0] <= _CATCH else None

    def thing_at(self, on: OnStrip, x: float, y: float) -> Thing | None:
        curve = curve_of(on, self.kind)
        knot = None if curve is None else self._knot_at(on, curve, x, y)
        return None if knot is None else Thing(ThingKind.KNOT, knot, on.workspace.chosen.run_id or "")

    def _knot_at(self, on: OnStrip, curve: Curve, x: float, y: float) -> str | None:
        """The knot whose value's square is at a pixel."""
        found = (k for k, at, value in self._knots(on) if np.hypot(at - x, curve.y_of(value) - y) <= _CATCH)
        return next(found, None)

    def press(self, on: OnStrip, x: float, y: float) -> None:
        """Points are taken hold of."""

    def double_press(self, on: OnStrip, x: float, y: float) -> None:
        curve, run, hit, law = curve_of(on, self.kind), run_on(on).id, self.hit(on, x, y), self.kind.law
        if curve is None:
            return
        if hit is not None:
            self.remove(on, hit)
            return
        share = own_share(on, x)
        value = self.kind.rounded(on, curve.value_at(y), curve.step)
        points = curve.points or edits.begun(self.kind.plain, share)
        label = f"Add a point to the {law}" if curve.points else f"Set the {law}"
        on.workspace.attempt(label, lambda p: edits.set_points(p, [run], law, edits.put_point(points, share, value)))

    def remove(self, on: OnStrip, k: int) -> None:
        """Takes a point away."""
        run, law = run_on(on), self.kind.law
        kept = [p for i, p in enumerate(getattr(run.recipe.varying or Varying(), law)) if i != k]
        on.workspace.attempt(f"Remove a point of the {law}", lambda p: edits.set_points(p, [run.id], law, kept))

    def grab(self, on: OnStrip, x: float, y: float, *, copies: bool) -> Grip | None:
        hit, curve = self.hit(on, x, y), curve_of(on, self.kind)
        if curve is None:
            return None
        if hit is not None:
            return _HeldPoint(self, on, curve, hit, (x, y))
        knot = self._knot_at(on, curve, x, y)
        if knot is not None:
            return _HeldKnot(self, on, curve, knot, (x, y))
        return _Drawn(self, on, curve, (x, y)) if LEFT <= x <= LEFT + on.ruler.room else None

    def catches(self, on: OnStrip, share: float) -> float:
        """A share at a knot or end that is near, else itself."""
        at = np.array([0.0, 1.0, *(d / on.ruler.length for d in knots_on(on).values())])
        far = np.abs(x_of_share(on, at) - x_of_share(on, share))
        return float(at[np.argmin(far)]) if far.min() <= 5.0 else share

    def words_of(self, on: OnStrip, k: int) -> str:
        """A point as it can be typed."""
        point = getattr(run_on(on).recipe.varying or Varying(), self.kind.law)[k]
        return point_words(on, self.kind, point, self._seen(on, point.share))

    def type(self, on: OnStrip, k: int, text: str) -> bool:
        """Takes a typed point. Raises UnitError."""
        run, law = run_on(on), self.kind.law
        points: tuple[LawPoint, ...] = getattr(run.recipe.varying or Varying(), law)
        if k >= len(points):
            return True  # it is gone since the field was opened
        point = points[k]
        value, seen, piece = read_point(on, self.kind, text, point, self._seen(on, point.share))

        def change(project: Project) -> Project:
            new = LawPoint(share=self._seen(on, seen), value=value, piece=piece)
            return edits.set_points(project, [run.id], law, edits.typed_point(points, k, new))

        return on.workspace.attempt(f"Set a point of the {law}", change)

    def _seen(self, on: OnStrip, share: float) -> float:
        """A share of the run as the strip shows it, or back."""
        return 1.0 - share if run_on(on).recipe.reference.from_end else share

    # -- what the menu has -----------------------------------------------------------------------

    def choices(self, on: OnStrip, x: float, y: float) -> list[tuple[str, bool, Callable[[], object]]]:
        """What a menu at a pixel offers: words, whether it is so now, and what it does."""
        run, law, hit = run_on(on), self.kind.law, self.hit(on, x, y)
        points: tuple[LawPoint, ...] = getattr(run.recipe.varying or Varying(), law)
        if not points:
            return []

        def becomes(label: str, made: tuple[LawPoint, ...]) -> Callable[[], object]:
            return lambda: on.workspace.attempt(label, lambda p: edits.set_points(p, [run.id], law, made))

        k = max((i for i, p in enumerate(points) if p.share <= own_share(on, x)), default=0)
        ways = [
            (f"{piece} from here on".capitalize(), points[k].piece is piece, edits.with_piece(points, k, piece))
            for piece in Piece
        ]
        out = [(word, is_so, becomes(word, made)) for word, is_so, made in ways]
        if hit is not None:
            out.append(("Remove the point", False, lambda: self.remove(on, hit)))
        turned = edits.upside_down(points, law)
        out.append(("Upside down", False, becomes(f"Turn the {law} upside down", turned)))
        out.append(("End for end", False, becomes(f"Turn the {law} end for end", edits.end_for_end(points))))
        out.append(("Even", False, becomes(f"Even {law}", ())))
        return out


class _HeldPoint(Drag):
    """A point of a law that is dragged."""

    def __init__(self, lane: LawLane, on: OnStrip, curve: Curve, k: int, at: tuple[float, float]) -> None:
        super().__init__(on, *at)
        self.lane, self.curve, self.k, self.label = lane, curve, k, f"Drag the {lane.kind.law}"

    def step(self, on: OnStrip, x: float, y: float) -> Callable[[], Project]:
        value = self.lane.kind.rounded(on, self.curve.value_at(y), self.curve.step)
        share, law = self.lane.catches(on, own_share(on, x)), self.lane.kind.law
        points = edits.put_point(self.curve.points, share, value, old=self.k)
        return lambda: edits.set_points(self.base, [self.run], law, points)


class _HeldKnot(Drag):
    """A knot's own size or roll that is dragged up or down."""

    def __init__(self, lane: LawLane, on: OnStrip, curve: Curve, knot: str, at: tuple[float, float]) -> None:
        super().__init__(on, *at)
        self.lane, self.curve, self.knot, self.label = lane, curve, knot, f"Drag a knot's {lane.kind.law}"

    def step(self, on: OnStrip, x: float, y: float) -> Callable[[], Project]:
        value = {self.lane.kind.law: self.lane.kind.rounded(on, self.curve.value_at(y), self.curve.step)}
        return lambda: set_knot_value(self.base, self.run, [self.knot], **value)


class _Drawn(Drag):
    """A stretch of a law that is drawn by hand: it takes the place of the points that were there."""

    def __init__(self, lane: LawLane, on: OnStrip, curve: Curve, at: tuple[float, float]) -> None:
        super().__init__(on, *at)
        self.lane, self.curve, self.label = lane, curve, f"Draw the {lane.kind.law}"
        self.way = [at]

    def step(self, on: OnStrip, x: float, y: float) -> Callable[[], Project]:
        self.way.append((x, y))
        kind, curve = self.lane.kind, self.curve

        def point(a: float, b: float) -> LawPoint:
            share = self.lane.catches(on, own_share(on, a))
            return LawPoint(share=share, value=kind.rounded(on, curve.value_at(b), curve.step))

        drawn = [point(a, b) for a, b in edits.simplified(np.array(self.way), _DRAWN).tolist()]
        points = edits.drawn_over(curve.points or edits.begun(kind.plain, -1.0), drawn)
        return lambda: edits.set_points(self.base, [self.run], kind.law, points)


LAW_LANES = tuple(LawLane(kind) for kind in KINDS)
