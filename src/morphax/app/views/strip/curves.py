"""Laws on the strip: what each of them is called, how its values are said and read, and its curve."""

from collections.abc import Callable
from dataclasses import dataclass
from math import degrees, floor, log10, radians

import numpy as np

from morphax.app.views.inspector.numbers import NUMBERS
from morphax.app.views.strip.along import along_on, run_on
from morphax.app.views.strip.lanes import OnStrip
from morphax.core.loft.laws import Piece
from morphax.core.loft.varying_laws import VaryingLaws
from morphax.core.types import Floats
from morphax.project.lookup import run_width
from morphax.project.model.along import LEAST_FACTOR
from morphax.project.model.document import KnotValue, LawPoint, Varying
from morphax.project.units import METRES, UnitError, format_number, parse_length, parse_share

EDGE = 7.0
"""Pixels above and below a curve."""
_PLACES = 240
"""Places at which a curve is drawn."""


@dataclass(frozen=True)
class LawKind:
    """A law: its field in the document, its value where nothing is changed, its lane's height in pixels, the kind of
    number that its values are, how they are said in short and rounded in the strip's unit, and how much the lane shows
    at least."""

    law: str
    plain: float
    tall: int
    number: str
    short: Callable[[OnStrip, float], str]
    rounded: Callable[[OnStrip, float, float], float]
    room: Callable[[OnStrip, Floats], tuple[float, float]]

    @property
    def of_knots(self) -> bool:
        """Whether knots have values of their own."""
        return self.law in KnotValue.model_fields

    def is_used(self, varying: Varying) -> bool:
        turned = self.law == "roll" and (varying.twist or varying.lay)
        formed = varying.form is not None and varying.form.of == self.law
        own = self.of_knots and any(getattr(k, self.law) != self.plain for k in varying.knots)
        return bool(getattr(varying, self.law) or turned or formed or own)


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
        return self.tall - EDGE - share * (self.tall - 2.0 * EDGE)

    def value_at(self, y: float) -> float:
        return self.low + (self.tall - EDGE - y) / (self.tall - 2.0 * EDGE) * (self.high - self.low)

    @property
    def step(self) -> float:
        """What a pixel is worth."""
        return (self.high - self.low) / (self.tall - 2.0 * EDGE)


def laws_on(on: OnStrip) -> VaryingLaws | None:
    """All laws of the run on the strip, without its own size and roll."""
    resolved, along = on.built.path.resolved, along_on(on)
    if resolved is None or along is None:
        return None
    return VaryingLaws(1.0, 0.0, along.laws, along.twist / resolved.length if resolved.length else 0.0)


def curve_of(on: OnStrip, kind: LawKind) -> Curve | None:
    """A law's curve: all that is multiplied, or added, in it."""
    laws = laws_on(on)
    if laws is None:
        return None
    steps = laws.steps / on.ruler.length
    places = np.union1d(np.linspace(*on.ruler.seen, _PLACES + 1), np.linspace(0.0, 1.0, _PLACES + 1))
    twice = np.sort(np.concatenate([np.setdiff1d(places, steps), steps, steps]))
    side = np.ones(len(twice))
    side[:-1][np.diff(twice) == 0.0] = -1.0
    side[-1] = -1.0
    values = _values(laws, kind.law, twice * on.ruler.length, side)
    varying = run_on(on).recipe.varying or Varying()
    points: tuple[LawPoint, ...] = getattr(varying, kind.law)
    own = [getattr(k, kind.law) for k in varying.knots] if kind.of_knots else []
    low, high = kind.room(on, np.concatenate([values, [p.value for p in points], own]))
    return Curve(twice, values, points, low, high, kind.tall)


def _values(laws: VaryingLaws, law: str, s: Floats, side: Floats) -> Floats:
    row = laws.at(s, side)
    if law in ("size", "roll"):
        return row.size if law == "size" else row.roll
    pair = row.stretch if law in ("width", "height") else row.offset
    if pair is None:
        return np.full(len(s), 1.0 if law in ("width", "height") else 0.0)
    out: Floats = pair[:, 0 if law in ("width", "shift") else 1]
    return out


# -- how values are said and read ------------------------------------------------------------------------


def _factor_room(on: OnStrip, values: Floats) -> tuple[float, float]:
    return 0.0, max(1.2, 1.1 * float(values.max()))


def _both_ways(least: float, values: Floats) -> tuple[float, float]:
    low, high = min(float(values.min()), 0.0), max(float(values.max()), 0.0)
    most = max(high - low, least)
    return low - 0.08 * most, high + 0.08 * most if high > low else low + most


def _length_room(on: OnStrip, values: Floats) -> tuple[float, float]:
    low, high = _both_ways(0.5 * run_width(on.workspace.project, run_on(on).id), values)
    return (min(low, -0.5 * high), high) if low > -0.1 * high else (low, high)


def _length_rounded(on: OnStrip, value: float, step: float) -> float:
    """By a nice step of the display unit that a pixel is worth."""
    unit = METRES[on.ruler.unit]
    nice: float = 10.0 ** floor(log10(max(step / unit, 1e-9))) * unit
    return round(value / nice) * nice


def _bounded(least: float) -> Callable[[OnStrip, float, float], float]:
    return lambda on, value, step: max(round(value, 3), least)


def _factor_kind(law: str, tall: int, least: float) -> LawKind:
    return LawKind(law, 1.0, tall, "factor", _short_factor, _bounded(least), _factor_room)


def _length_kind(law: str) -> LawKind:
    return LawKind(law, 0.0, 40, "length", _short_length, _length_rounded, _length_room)


def _short_factor(on: OnStrip, value: float) -> str:
    return format_number(value, decimals=3 if value < 0.1 else 2)


def _short_length(on: OnStrip, value: float) -> str:
    return format_number(value / METRES[on.ruler.unit], decimals=1)


def _short_angle(on: OnStrip, value: float) -> str:
    return f"{format_number(degrees(value), decimals=0)}°"


def _whole_degrees(on: OnStrip, value: float, step: float) -> float:
    return radians(round(degrees(value)))


KINDS = (
    _factor_kind("size", 56, 0.0),
    _factor_kind("width", 44, LEAST_FACTOR),
    _factor_kind("height", 44, LEAST_FACTOR),
    LawKind("roll", 0.0, 40, "angle", _short_angle, _whole_degrees, lambda on, values: _both_ways(0.2, values)),
    _length_kind("shift"),
    _length_kind("lift"),
)
"""From the ruler downwards."""


# -- a point in words --------------------------------------------------------------------------------------


def point_words(on: OnStrip, kind: LawKind, point: LawPoint, seen: float) -> str:
    """A point as it is typed: its value, at which share of the length that is seen, and how it goes on."""
    return f"{_value_words(on, kind, point)} at {_place_words(seen)} {point.piece}"


def _value_words(on: OnStrip, kind: LawKind, point: LawPoint) -> str:
    return NUMBERS[kind.number].show(point.value, on.ruler.unit)


def _place_words(seen: float) -> str:
    return f"{format_number(100.0 * seen, decimals=2)} %"


def read_point(on: OnStrip, kind: LawKind, text: str, point: LawPoint, seen: float) -> tuple[float, float, Piece]:
    """What was typed for a point: its value, its share as it is seen, and how it goes on; what isn't said, or stands as
    it stood, stays exactly what it is. Raises UnitError."""
    rest, _, last = text.strip().rpartition(" ")
    piece, rest = (Piece(last), rest) if last in list(Piece) else (point.piece, text.strip())
    value, at, place = rest.partition(" at ")
    if at and place.strip() != _place_words(seen):
        place = place.strip()
        seen = parse_share(place) if "%" in place else parse_length(place, unit=on.ruler.unit) / on.ruler.length
    if not 0.0 <= seen <= 1.0:
        raise UnitError("a point lies within the path: from 0 to 100 %")
    is_new = bool(value.strip()) and value.strip() != _value_words(on, kind, point)
    return float(NUMBERS[kind.number].read(value, on.ruler.unit)) if is_new else point.value, seen, piece
