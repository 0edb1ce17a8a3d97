"""The lanes of laws: size and roll along the length as filled curves with points to be dragged."""

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from morphax.app.tools.shared.steps import shown_step
from morphax.app.views.strip.along import knots_on, own_share, run_on, x_of_share
from morphax.app.views.strip.lanes import Grip, OnStrip
from morphax.app.views.strip.ruler import LEFT, paint_name
from morphax.app.widgets.theme import colour
from morphax.core.loft.along import Along, VaryingLaws
from morphax.core.types import Floats
from morphax.project.derive.along import along_of
from morphax.project.edits.along import put_point, set_knot_value, set_points
from morphax.project.lookup import section_by_id, section_shape
from morphax.project.model.document import LawPoint, Varying
from morphax.project.units import format_number

_EDGE, _CATCH, _MOVES = 7.0, 7.0, 2.0
_PLACES = 240
"""Places at which a curve is drawn."""


@dataclass(frozen=True, eq=False)
class Curve:
    """A law on the strip: ``shares`` and ``values`` of all of it, its own ``points``, and the values at the foot and
    the top of a lane so many pixels ``tall``."""

    shares: Floats
    values: Floats
    points: tuple[LawPoint, ...]
    low: float
    high: float
    tall: int

    def y_of(self, value: float) -> float:
        """Pixels below the lane's top."""
        share = (value - self.low) / max(self.high - self.low, 1e-12)
        return self.tall - _EDGE - share * (self.tall - 2.0 * _EDGE)

    def value_at(self, y: float) -> float:
        return self.low + (self.tall - _EDGE - y) / (self.tall - 2.0 * _EDGE) * (self.high - self.low)


def laws_on(on: OnStrip) -> VaryingLaws | None:
    """Size and roll of the run on the strip, without its own size and roll."""
    resolved, run, project = on.built.path.resolved, run_on(on), on.workspace.project
    if resolved is None:
        return None
    along: Along = along_of(run.recipe, on.path, resolved, lambda i: section_shape(section_by_id(project, i)))
    return VaryingLaws(1.0, 0.0, along.sizes, along.rolls, along.twist / resolved.length if resolved.length else 0.0)


class _LawLane:
    """A law: points are dragged; a double-click puts one in, or takes the one under it away."""

    height = 56
    law = "size"
    name = "size"

    def is_used(self, on: OnStrip) -> bool:
        varying = run_on(on).recipe.varying
        return varying is not None and self._has(varying)

    def _has(self, varying: Varying) -> bool:
        raise NotImplementedError

    def _values(self, laws: VaryingLaws, s: Floats) -> Floats:
        raise NotImplementedError

    def _room(self, values: Floats) -> tuple[float, float]:
        raise NotImplementedError

    def _words(self, value: float) -> str:
        raise NotImplementedError

    def _label(self, varying: Varying) -> str:
        return ""

    def curve(self, on: OnStrip) -> Curve | None:
        laws = laws_on(on)
        if laws is None:
            return None
        shares = np.linspace(0.0, 1.0, _PLACES + 1)
        steps = laws.steps / on.ruler.length
        twice = np.sort(np.concatenate([shares, steps, steps]))
        side = np.ones(len(twice))
        side[:-1][np.diff(twice) == 0.0] = -1.0
        side[-1] = -1.0
        row = laws.at(twice * on.ruler.length, side)
        values = row.size if self.law == "size" else row.roll
        varying = run_on(on).recipe.varying or Varying()
        points: tuple[LawPoint, ...] = getattr(varying, self.law)
        own = [getattr(k, self.law) for k in varying.knots]
        low, high = self._room(np.concatenate([values, [p.value for p in points], own]))
        return Curve(twice, values, points, low, high, self.height)

    def paint(self, painter: QPainter, on: OnStrip, top: float) -> None:
        t, curve, varying = on.ruler.tokens, self.curve(on), run_on(on).recipe.varying or Varying()
        paint_name(painter, t, top + 0.5 * self.height - (8.0 if self._label(varying) else 0.0), self.name)
        if self._label(varying):
            painter.setPen(colour(t.teal))
            painter.drawText(QRectF(12, top + 0.5 * self.height - 1.0, LEFT - 16, 20), self._label(varying))
        if curve is None:
            return
        line = [
            QPointF(x_of_share(on, float(s)), top + curve.y_of(float(v)))
            for s, v in zip(curve.shares, curve.values, strict=True)
        ]
        foot = top + curve.y_of(max(curve.low, min(self._rest, curve.high)))
        area = QPolygonF([QPointF(line[0].x(), foot), *line, QPointF(line[-1].x(), foot)])
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(t.teal_ground))
        painter.drawPolygon(area)
        painter.setPen(QPen(colour(t.line), 1.0, Qt.PenStyle.DotLine))
        rest = top + curve.y_of(self._plain)
        painter.drawLine(QPointF(line[0].x(), rest), QPointF(line[-1].x(), rest))
        painter.setPen(QPen(colour(t.teal), 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(line)
        painter.setBrush(colour(t.raised))
        for p in curve.points:
            painter.setPen(QPen(colour(t.teal), 1.8))
            painter.drawEllipse(self._spot(on, curve, p, top), 4.5, 4.5)
        for _, at, value in self._knots(on):
            painter.setPen(QPen(colour(t.blue), 1.6))
            spot = QPointF(at, top + curve.y_of(value))
            painter.drawRect(QRectF(spot.x() - 3.5, spot.y() - 3.5, 7.0, 7.0))
        self._paint_ends(painter, on, curve, top)

    def _knots(self, on: OnStrip) -> list[tuple[str, float, float]]:
        """Knots with a value of their own: id, pixel along, and the value."""
        own, at = (run_on(on).recipe.varying or Varying()).knots, knots_on(on)
        found = [(k.knot, getattr(k, self.law)) for k in own if k.knot in at]
        return [(k, x_of_share(on, at[k] / on.ruler.length), v) for k, v in found if v != self._plain]

    _rest, _plain = 0.0, 1.0

    def _paint_ends(self, painter: QPainter, on: OnStrip, curve: Curve, top: float) -> None:
        """The values at both ends."""
        painter.setPen(colour(on.ruler.tokens.soft))
        for value, x, flag in (
            (curve.values[0], LEFT - 36.0, Qt.AlignmentFlag.AlignRight),
            (curve.values[-1], on.ruler.size[0] - 60.0, Qt.AlignmentFlag.AlignRight),
        ):
            y = top + min(max(curve.y_of(float(value)), 12.0), self.height - 10.0)
            shift = 0.0 if x < LEFT else -11.0 if y > top + 0.5 * self.height else 12.0
            painter.drawText(
                QRectF(x, y - 9.0 + shift, 30.0, 18.0), flag | Qt.AlignmentFlag.AlignVCenter, self._words(float(value))
            )

    def _spot(self, on: OnStrip, curve: Curve, point: LawPoint, top: float) -> QPointF:
        """A point of the law stands on the curve of it alone, which is that of all where nothing else varies."""
        return QPointF(x_of_share(on, point.share), top + curve.y_of(point.value))

    def _hit(self, on: OnStrip, x: float, y: float) -> int | None:
        curve = self.curve(on)
        if curve is None:
            return None
        spots = [self._spot(on, curve, p, 0.0) for p in curve.points]
        near = [(np.hypot(p.x() - x, p.y() - y), k) for k, p in enumerate(spots)]
        return min(near)[1] if near and min(near)[0] <= _CATCH else None

    def press(self, on: OnStrip, x: float, y: float) -> None:
        """Points are taken hold of."""

    def double_press(self, on: OnStrip, x: float, y: float) -> None:
        curve, run, hit = self.curve(on), run_on(on).id, self._hit(on, x, y)
        if curve is None:
            return
        if hit is not None:
            kept = [p for k, p in enumerate(curve.points) if k != hit]
            on.workspace.attempt(f"Remove a point of the {self.name}", lambda p: set_points(p, [run], self.law, kept))
            return
        share, value = own_share(on, x), self._clean(curve.value_at(y))
        if not curve.points:
            on.workspace.attempt(
                f"Set the {self.name}", lambda p: set_points(p, [run], self.law, self._begun(share, value))
            )
        else:
            on.workspace.attempt(
                f"Add a point to the {self.name}",
                lambda p: set_points(p, [run], self.law, put_point(curve.points, share, value)),
            )

    def _begun(self, share: float, value: float) -> tuple[LawPoint, ...]:
        """A first point, between two that change nothing."""
        ends = tuple(LawPoint(share=s, value=self._plain) for s in (0.0, 1.0) if abs(s - share) > 1e-3)
        return tuple(sorted((*ends, LawPoint(share=share, value=value)), key=lambda p: p.share))

    def _clean(self, value: float) -> float:
        return value

    def grab(self, on: OnStrip, x: float, y: float, *, copies: bool) -> Grip | None:
        hit, curve = self._hit(on, x, y), self.curve(on)
        if curve is None:
            return None
        for knot, at, value in self._knots(on) if hit is None else ():
            if np.hypot(at - x, curve.y_of(value) - y) <= _CATCH:
                return _HeldKnot(self, on, curve, knot, y)
        return None if hit is None else _Held(self, on, curve, hit, (x, y))

    def catches(self, on: OnStrip, share: float) -> float:
        """A share at a knot or end that is near, else itself."""
        at = [0.0, 1.0, *(d / on.ruler.length for d in knots_on(on).values())]
        near = min(at, key=lambda s: abs(x_of_share(on, s) - x_of_share(on, share)))
        return near if abs(x_of_share(on, near) - x_of_share(on, share)) <= 5.0 else share

    def cleaned(self, value: float) -> float:
        return self._clean(value)


class _Held:
    """A point of a law that is dragged."""

    def __init__(self, lane: _LawLane, on: OnStrip, curve: Curve, k: int, at: tuple[float, float]) -> None:
        self._lane, self._curve, self._k, self._from, self._moved = lane, curve, k, at, False
        self._ws, self._run, self._base = on.workspace, run_on(on).id, on.workspace.project

    def move(self, on: OnStrip, x: float, y: float) -> None:
        if not self._moved and abs(x - self._from[0]) + abs(y - self._from[1]) < _MOVES:
            return
        self._moved = True
        share, value = self._lane.catches(on, own_share(on, x)), self._lane.cleaned(self._curve.value_at(y))
        points = put_point(self._curve.points, share, value, old=self._k)
        shown_step(self._ws, lambda: set_points(self._base, [self._run], self._lane.law, points))

    def drop(self) -> None:
        made = self._ws.unfinished.project
        self._ws.unfinished.show(None)
        if self._moved and made is not None and made is not self._base:
            self._ws.edit(f"Drag the {self._lane.name}", made)


class _HeldKnot:
    """A knot's own size or roll that is dragged up or down."""

    def __init__(self, lane: _LawLane, on: OnStrip, curve: Curve, knot: str, y: float) -> None:
        self._lane, self._curve, self._knot, self._from, self._moved = lane, curve, knot, y, False
        self._ws, self._run, self._base = on.workspace, run_on(on).id, on.workspace.project

    def move(self, on: OnStrip, x: float, y: float) -> None:
        if not self._moved and abs(y - self._from) < _MOVES:
            return
        self._moved = True
        value = {self._lane.law: self._lane.cleaned(self._curve.value_at(y))}
        shown_step(self._ws, lambda: set_knot_value(self._base, self._run, [self._knot], **value))

    def drop(self) -> None:
        made = self._ws.unfinished.project
        self._ws.unfinished.show(None)
        if self._moved and made is not None and made is not self._base:
            self._ws.edit(f"Drag a knot's {self._lane.name}", made)


class SizeLane(_LawLane):
    """How many times as large the section is along the run: form, points and knots together."""

    def _has(self, varying: Varying) -> bool:
        return bool(varying.size or varying.form or any(k.size != 1.0 for k in varying.knots))

    def _room(self, values: Floats) -> tuple[float, float]:
        return 0.0, max(1.2, 1.1 * float(values.max()))

    def _words(self, value: float) -> str:
        return format_number(value, decimals=2)

    def _label(self, varying: Varying) -> str:
        form = varying.form
        return "" if form is None else f"{form.form} {format_number(100.0 * form.strength, decimals=0)} %"

    def _clean(self, value: float) -> float:
        return max(round(value, 3), 0.0)


class RollLane(_LawLane):
    """How far the section is turned along the run: twist, points and knots together."""

    height = 40
    law = "roll"
    name = "roll"
    _plain = 0.0

    def _has(self, varying: Varying) -> bool:
        turned = varying.roll or varying.twist or varying.lay
        return bool(turned or any(k.roll != 0.0 for k in varying.knots))

    def _room(self, values: Floats) -> tuple[float, float]:
        low, high = min(float(values.min()), 0.0), max(float(values.max()), 0.0)
        most = max(high - low, 0.2)
        return low - 0.08 * most, high + 0.08 * most

    def _words(self, value: float) -> str:
        return f"{format_number(float(np.degrees(value)), decimals=0)}°"
