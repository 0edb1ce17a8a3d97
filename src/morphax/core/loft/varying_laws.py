"""All laws of a run together: size, width and height as factors, roll, shift and lift as sums."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from math import hypot, prod

import numpy as np

from morphax.core.body.profile import LEAST_STRETCH, LawRows
from morphax.core.loft.laws import Law
from morphax.core.types import Floats

_POINT = 1e-6
"""A size so many times smaller than the largest is a point."""


@dataclass(frozen=True)
class Laws:
    """Laws of a run by what they change: ``sizes``, ``widths`` and ``heights`` are factors, ``rolls`` rad, ``shifts``
    and ``lifts`` m along the unrolled right and up."""

    sizes: tuple[Law, ...] = ()
    rolls: tuple[Law, ...] = ()
    widths: tuple[Law, ...] = ()
    heights: tuple[Law, ...] = ()
    shifts: tuple[Law, ...] = ()
    lifts: tuple[Law, ...] = ()

    @property
    def all(self) -> tuple[Law, ...]:
        return (*self.sizes, *self.rolls, *self.widths, *self.heights, *self.shifts, *self.lifts)

    @property
    def symmetry(self) -> int:
        """The most turns about the path that leave them as they are; 0 where any does."""
        return 1 if self.shifts or self.lifts else 2 if self.widths or self.heights else 0


NO_LAWS = Laws()


def _product(laws: Sequence[Law], s: Floats, side: Floats) -> tuple[Floats, Floats]:
    """The product (r,) of factors, and its rate per m."""
    value, rate = np.ones(len(s)), np.zeros(len(s))
    for law in laws:
        own, slope = law.at_rows(s, side)
        value, rate = value * own, rate * own + value * slope
    return value, rate


def _sum(laws: Sequence[Law], s: Floats, side: Floats) -> tuple[Floats, Floats]:
    value, rate = np.zeros(len(s)), np.zeros(len(s))
    for law in laws:
        own, slope = law.at_rows(s, side)
        value, rate = value + own, rate + slope
    return value, rate


def _stretched(laws: Sequence[Law], s: Floats, side: Floats) -> tuple[Floats, Floats]:
    value, rate = _product(laws, s, side)
    thin = value < LEAST_STRETCH
    return np.where(thin, LEAST_STRETCH, value), np.where(thin, 0.0, rate)


@dataclass(frozen=True, eq=False)
class VaryingLaws:
    """Laws on rows: the run's ``size`` times all sizes, its ``roll`` and all rolls and the twist, the others as they
    are."""

    size: float
    roll: float
    laws: Laws
    twist_rate: float

    @property
    def is_even(self) -> bool:
        return not (self.laws.all or self.twist_rate)

    @cached_property
    def most(self) -> float:
        sizes, widths, heights = (
            prod(law.most for law in own) for own in (self.laws.sizes, self.laws.widths, self.laws.heights)
        )
        return float(self.size * sizes * max(widths, heights))

    @property
    def symmetry(self) -> int:
        return self.laws.symmetry

    @cached_property
    def farthest(self) -> float:
        shift, lift = (sum(law.farthest for law in own) for own in (self.laws.shifts, self.laws.lifts))
        return hypot(shift, lift)

    def at(self, s: Floats, side: Floats | None = None) -> LawRows:
        side, own = np.ones(len(s)) if side is None else side, self.laws
        size, size_rate = _product(own.sizes, s, side)
        roll, roll_rate = _sum(own.rolls, s, side)
        rows = LawRows(
            self.size * size,
            self.roll + self.twist_rate * s + roll,
            self.size * size_rate,
            self.twist_rate + roll_rate,
        )
        pairs: list[Floats | None] = [None, None, None, None]
        if own.widths or own.heights:
            wide, tall = _stretched(own.widths, s, side), _stretched(own.heights, s, side)
            pairs[:2] = (np.stack(v, axis=1) for v in zip(wide, tall, strict=True))
        if own.shifts or own.lifts:
            shift, lift = _sum(own.shifts, s, side), _sum(own.lifts, s, side)
            pairs[2:] = (np.stack(v, axis=1) for v in zip(shift, lift, strict=True))
        return LawRows(rows.size, rows.roll, rows.size_rate, rows.roll_rate, *pairs)

    @cached_property
    def breaks(self) -> Floats:
        return np.unique(np.concatenate([np.empty(0), *(law.breaks for law in self.laws.all)]))

    @cached_property
    def steps(self) -> Floats:
        """Distances, m, at which a value jumps, or the size is nothing: two rings stand there."""
        jumps = np.unique(np.concatenate([np.empty(0), *(law.steps for law in self.laws.all)]))
        at = self.breaks
        if not len(at) or not self.laws.sizes:
            return jumps
        least = np.minimum(*(self.at(at, np.full(len(at), way)).size for way in (-1.0, 1.0)))
        return np.unique(np.concatenate([jumps, at[least <= _POINT * self.most]]))

    def jumps(self, length: float) -> bool:
        """Whether a closed path's end has other values than its start."""
        before, after = self.at(np.array([length]), np.array([-1.0])), self.at(np.zeros(1), np.ones(1))
        rolled = float(before.roll[0] - after.roll[0]) - self.twist_rate * length
        near = 1e-9 * self.most
        moved = [(before.size, after.size), (before.scales, after.scales), (before.offset, after.offset)]
        return abs(rolled) > 1e-9 or any(
            float(np.abs(a - b).max()) > near for a, b in moved if a is not None and b is not None
        )
