"""Laws on the strip: what each of them is called, how its values are said and read, and its curve."""

from collections.abc import Callable
from dataclasses import dataclass
from math import degrees, floor, log10, radians

import numpy as np

from morphax.app.views.strip.along import along_on, run_on
from morphax.app.views.strip.lanes import OnStrip
from morphax.core.loft.laws import Piece
from morphax.core.loft.varying_laws import VaryingLaws
from morphax.core.types import Floats
from morphax.project.lookup import run_width
from morphax.project.model.along import LEAST_FACTOR
from morphax.project.model.document import KnotValue, LawPoint, Varying
from morphax.project.units import (
    METRES,
    UnitError,
    format_length,
    format_number,
    parse_length,
    parse_number,
    parse_share,
)

EDGE = 7.0
"""Pixels above and below a curve."""
_PLACES = 240
"""Places at which a curve is drawn."""


@dataclass(frozen=True)
class LawKind:
    """A law: its field in the document, its value where nothing is changed, its lane's height in pixels, how its
    values are said, read and rounded in the strip's unit, and how much the lane shows at least."""

    law: str
    plain: float
    tall: int
    words: Callable[[OnStrip, float], str]
    read: Callable[[OnStrip, str], float]
    rounded: Callable[[OnStrip, float, float], float]
    room: Callable[[OnStrip, Floats], tuple[float, float]]

    def short(self, on: OnStrip, value: float) -> str:
        """A value beside the lane, in the ruler's unit."""
        return self.words(on, value).removesuffix(f" {on.ruler.unit}")

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


def _factor_words(on: OnStrip, value: float) -> str:
    return format_number(value, decimals=3 if value < 0.1 else 2)


def _factor(on: OnStrip, text: str) -> float:
    return parse_share(text) if text.strip().endswith("%") else parse_number(text)


def _factor_room(on: OnStrip, values: Floats) -> tuple[float, float]:
    return 0.0, max(1.2, 1.1 * float(values.max()))


def _angle(on: OnStrip, text: str) -> float:
    return radians(parse_number(text.strip().removesuffix("°").removesuffix("deg")))


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
    return LawKind(law, 1.0, tall, _factor_words, _factor, _bounded(least), _factor_room)


def _length_kind(law: str) -> LawKind:
    def words(on: OnStrip, value: float) -> str:
        return format_length(value, unit=on.ruler.unit, decimals=1)

    def read(on: OnStrip, text: str) -> float:
        return parse_length(text, unit=on.ruler.unit)

    return LawKind(law, 0.0, 40, words, read, _length_rounded, _length_room)


KINDS = (
    _factor_kind("size", 56, 0.0),
    _factor_kind("width", 44, LEAST_FACTOR),
    _factor_kind("height", 44, LEAST_FACTOR),
    LawKind(
        "roll",
        0.0,
        40,
        lambda on, value: f"{format_number(degrees(value), decimals=0)}°",
        _angle,
        lambda on, value, step: radians(round(degrees(value))),
        lambda on, values: _both_ways(0.2, values),
    ),
    _length_kind("shift"),
    _length_kind("lift"),
)
"""From the ruler downwards."""


# -- a point in words --------------------------------------------------------------------------------------


def point_words(on: OnStrip, kind: LawKind, point: LawPoint, seen: float) -> str:
    """A point as it is typed: its value, at which share of the length that is seen, and how it goes on."""
    return f"{kind.words(on, point.value)} at {format_number(100.0 * seen, decimals=2)} % {point.piece}"


def read_point(on: OnStrip, kind: LawKind, text: str, point: LawPoint, seen: float) -> tuple[float, float, Piece]:
    """What was typed for a point: its value, its share as it is seen, and how it goes on; what isn't said stays as it
    is. Raises UnitError."""
    words = text.strip().split()
    piece = point.piece
    if words and words[-1] in list(Piece):
        piece, words = Piece(words[-1]), words[:-1]
    value, at, place = " ".join(words).partition(" at ")
    if at:
        seen = parse_share(place) if "%" in place else parse_length(place, unit=on.ruler.unit) / on.ruler.length
    if not 0.0 <= seen <= 1.0:
        raise UnitError("a point lies within the path: from 0 to 100 %")
    return (kind.read(on, value) if value else point.value), seen, piece
