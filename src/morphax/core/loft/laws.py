"""Laws over the length: a number at each distance of the path, by points or by a ready-made form."""

from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property
from math import log, pi

import numpy as np

from morphax.core.errors import PathError
from morphax.core.types import Floats

_HALVINGS = 60


class Piece(StrEnum):
    """How a law goes from one of its points to the next."""

    HOLD = "hold"
    STRAIGHT = "straight"
    SMOOTH = "smooth"


class Form(StrEnum):
    """The ready-made forms of a size along the length."""

    CONE = "cone"
    BARREL = "barrel"
    WAIST = "waist"
    BELL = "bell"
    RIBS = "ribs"
    STEPS = "steps"
    GROWTH = "growth"

    @property
    def has_pitch(self) -> bool:
        """Whether it repeats, or grows, by a length."""
        return self in (Form.RIBS, Form.STEPS, Form.GROWTH)


@dataclass(frozen=True, eq=False)
class PointLaw:
    """A law by its points: ``at`` (p,) m, rising, ``value`` (p,) and ``piece`` (p,) to the next one; even before the
    first and after the last, or, on a closed path, on to the first again after a ``period``, m.

    *smooth* pieces are cubics that never leave the values beside them (Fritsch and Carlson 1980; slopes: harmonic
    means of the steps beside a point, after Fritsch and Butland 1984).
    """

    at: Floats
    value: Floats
    piece: tuple[Piece, ...]
    period: float | None = None

    def __post_init__(self) -> None:
        if not len(self.at) or not len(self.at) == len(self.value) == len(self.piece):
            raise PathError("a law has as many places, values and pieces, and one point at least")
        if (np.diff(self.at) <= 0.0).any():
            raise PathError("the points of a law lie one after the other")

    @cached_property
    def _ends(self) -> tuple[Floats, Floats]:
        """Places and values with the first one again where it is closed."""
        if self.period is None:
            return self.at, self.value
        return np.append(self.at, self.at[0] + self.period), np.append(self.value, self.value[0])

    @cached_property
    def _slopes(self) -> tuple[Floats, Floats]:
        """Slopes (k,) at the beginnings and ends of the pieces, per m: what is held ends the curve before it."""
        at, value = self._ends
        h, d = np.diff(at), np.diff(value) / np.diff(at)
        n, closed = len(d), self.period is not None
        if not n:
            return d, d
        k = np.arange(n + 1)
        before, after = (k - 1) % n, k % n
        runs = np.array([p is not Piece.HOLD for p in self.piece[:n]])
        left, right = runs[before] & (closed | (k > 0)), runs[after] & (closed | (k < n))
        w1, w2 = 2.0 * h[after] + h[before], h[after] + 2.0 * h[before]
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            mean = (w1 + w2) / (w1 / d[before] + w2 / d[after])
        slope = np.where(left & right & (d[before] * d[after] > 0.0), mean, 0.0)
        for i in np.flatnonzero(left ^ right).tolist():
            own, step = (int(after[i]), 1) if right[i] else (int(before[i]), -1)
            next_ = own + step
            is_alone = not (closed or 0 <= next_ < n) or not runs[next_ % n] or next_ % n == own
            slope[i] = d[own] if is_alone else _end_slope(h[own], h[next_ % n], d[own], d[next_ % n])
        return slope[:-1], slope[1:]

    def at_rows(self, s: Floats, side: Floats) -> tuple[Floats, Floats]:
        """Values (r,) and their rates per m at distances (r,), m, on a ``side`` of steps."""
        at, value = self._ends
        if self.period is not None:
            off = (s - at[0]) % self.period
            s = at[0] + np.where((off == 0.0) & (side < 0.0), self.period, off)
        k = np.searchsorted(at, s, side="right") - 1
        k = np.where((side < 0.0) & (k >= 0) & (s == at[np.clip(k, 0, None)]), k - 1, k)
        inside = (k >= 0) & (k < len(at) - 1)
        out, rate = np.where(k < 0, value[0], value[-1]), np.zeros(len(s))
        rows = np.flatnonzero(inside)
        if not len(rows):
            return out, rate
        i = k[rows]
        h = at[i + 1] - at[i]
        x, a, b = (s[rows] - at[i]) / h, value[i], value[i + 1]
        kind = np.array([list(Piece).index(p) for p in self.piece])[i]
        m0, m1 = self._slopes
        c0, c1 = m0[i] * h, m1[i] * h
        cubic = a + x * (c0 + x * (3.0 * (b - a) - 2.0 * c0 - c1 + x * (c0 + c1 - 2.0 * (b - a))))
        slope = c0 + x * (2.0 * (3.0 * (b - a) - 2.0 * c0 - c1) + 3.0 * x * (c0 + c1 - 2.0 * (b - a)))
        out[rows] = np.choose(kind, [a, a + x * (b - a), cubic])
        rate[rows] = np.choose(kind, [np.zeros(len(i)), (b - a) / h, slope / h])
        return out, rate

    @property
    def most(self) -> float:
        return float(self.value.max())

    @property
    def farthest(self) -> float:
        """The largest value, whatever its sign."""
        return float(np.abs(self.value).max())

    @property
    def breaks(self) -> Floats:
        return self.at

    @property
    def steps(self) -> Floats:
        """Distances, m, at which the value jumps."""
        at, value = self._ends
        jumps = [k + 1 for k in range(len(at) - 1) if self.piece[k] is Piece.HOLD and value[k] != value[k + 1]]
        found = at[jumps]
        return found if self.period is None else np.unique((found - at[0]) % self.period + at[0])


def _end_slope(h0: float, h1: float, d0: float, d1: float) -> float:
    """The slope at an end by three points, so that the cubic there keeps between its values."""
    slope = ((2.0 * h0 + h1) * d0 - h0 * d1) / (h0 + h1)
    if slope * d0 <= 0.0:
        return 0.0
    if d0 * d1 <= 0.0 and abs(slope) > 3.0 * abs(d0):
        return 3.0 * d0
    return float(slope)


@dataclass(frozen=True, eq=False)
class FormLaw:
    """A size by a ready-made form over a ``length``, m: 1 where nothing is changed; ``strength`` as a share of that.

    ``upside_down``: grows where it shrinks; ``end_for_end``: begins at the end. ``pitch`` m of ribs and steps, and for
    which a growth counts; from both ends the form fades in over ``fade`` m.
    """

    form: Form
    strength: float
    length: float
    pitch: float = 0.1
    fade: float = 0.0
    upside_down: bool = False
    end_for_end: bool = False

    def __post_init__(self) -> None:
        if not -10.0 <= self.strength <= 10.0 or not self.pitch > 0.0 or not self.fade >= 0.0:
            raise PathError("a form has a strength within 1 000 %, a pitch above 0 and a fade of 0 or more")

    def at_rows(self, s: Floats, side: Floats) -> tuple[Floats, Floats]:
        """Factors (r,) and their rates per m at distances (r,), m."""
        value, rate = self._below_too(s, side)
        return np.maximum(value, 0.0), np.where(value > 0.0, rate, 0.0)

    def _below_too(self, s: Floats, side: Floats) -> tuple[Floats, Floats]:
        """The same without its limit at 0."""
        way = -1.0 if self.end_for_end else 1.0
        own = self.length - s if self.end_for_end else s
        value, rate = self._plain(own, side * way)
        rate = rate * way
        if self.fade > 0.0 and self.form is not Form.GROWTH:
            shade, slope = self._fading(s)
            value, rate = 1.0 + (value - 1.0) * shade, rate * shade + (value - 1.0) * slope
        if self.upside_down and self.form is not Form.GROWTH:
            value, rate = 2.0 - value, -rate
        return value, rate

    def _plain(self, s: Floats, side: Floats) -> tuple[Floats, Floats]:
        k, long, x = self.strength, self.length, s / self.length
        if self.form is Form.CONE:
            return 1.0 - k * x, np.full(len(s), -k / long)
        if self.form in (Form.BARREL, Form.WAIST):
            own = k if self.form is Form.BARREL else -k
            return 1.0 + own * np.sin(pi * x), own * pi / long * np.cos(pi * x)
        if self.form is Form.BELL:
            return 1.0 + k * x**3, 3.0 * k * x**2 / long
        if self.form is Form.RIBS:
            w = 2.0 * pi / self._even_pitch
            return 1.0 + 0.5 * k * (1.0 - np.cos(w * s)), 0.5 * k * w * np.sin(w * s)
        if self.form is Form.STEPS:
            return 1.0 - k * self._step_of(s, side), np.zeros(len(s))
        power = log(max(1.0 + k, 1e-6)) / self.pitch * (-1.0 if self.upside_down else 1.0)
        grown = np.exp(s * power)
        return grown, grown * power

    @cached_property
    def _count(self) -> int:
        """Whole ribs, or steps, along the length."""
        return max(1, round(self.length / self.pitch))

    @property
    def _even_pitch(self) -> float:
        return self.length / self._count

    def _step_of(self, s: Floats, side: Floats) -> Floats:
        """How far down the stairs (r,) distances are, 0 to 1."""
        k = np.floor(s / self._even_pitch + 1e-9)
        on_edge = np.abs(s / self._even_pitch - np.round(s / self._even_pitch)) < 1e-9
        k = np.where(on_edge & (side < 0.0), k - 1.0, k)
        out: Floats = np.clip(k, 0.0, self._count - 1.0) / max(self._count - 1, 1)
        return out

    def _fading(self, s: Floats) -> tuple[Floats, Floats]:
        near = np.minimum(s, self.length - s)
        fade = min(self.fade, 0.5 * self.length)
        x = np.clip(near / fade, 0.0, 1.0)
        way = np.where(s < self.length - s, 1.0, -1.0) / fade
        return x * x * (3.0 - 2.0 * x), 6.0 * x * (1.0 - x) * way

    @property
    def _seen(self) -> Floats:
        """Distances near enough to each other to see all of it."""
        return np.linspace(0.0, self.length, 33 + 16 * self._count if self.form.has_pitch else 65)

    @cached_property
    def most(self) -> float:
        return float(self.at_rows(self._seen, np.ones(len(self._seen)))[0].max())

    def _ends_of_nothing(self) -> Floats:
        """Distances at which it comes down to 0, or up from there."""
        a, b = self._seen[:-1], self._seen[1:]
        low, high = (self._below_too(v, np.full(len(a), way))[0] for v, way in ((a, 1.0), (b, -1.0)))
        over = np.flatnonzero((low > 0.0) != (high > 0.0))
        a, b, up = a[over], b[over], high[over] > low[over]
        for _ in range(_HALVINGS if len(over) else 0):
            middle = 0.5 * (a + b)
            beyond = (self._below_too(middle, np.ones(len(a)))[0] > 0.0) == up
            a, b = np.where(beyond, a, middle), np.where(beyond, middle, b)
        return b

    @property
    def farthest(self) -> float:
        return self.most

    @cached_property
    def breaks(self) -> Floats:
        """Distances between which it is smooth, near enough to each other to see every rib."""
        if self.form is Form.RIBS:
            places = np.linspace(0.0, self.length, 2 * self._count + 1)[1:-1]
        elif self.form in (Form.BARREL, Form.WAIST):
            places = np.array([0.5 * self.length])
        else:
            places = self.steps
        ends = np.array([self.fade, self.length - self.fade]) if 0.0 < self.fade < 0.5 * self.length else np.empty(0)
        return np.unique(np.concatenate([places, ends, self._ends_of_nothing()]))

    @property
    def steps(self) -> Floats:
        if self.form is not Form.STEPS:
            return np.empty(0)
        places: Floats = np.linspace(0.0, self.length, self._count + 1)[1:-1]
        return places


Law = PointLaw | FormLaw


def tapered(start: float, end: float, length: float) -> PointLaw:
    """A straight law from a value at the start to another at the end."""
    return PointLaw(np.array([0.0, length]), np.array([start, end]), (Piece.STRAIGHT, Piece.STRAIGHT))
