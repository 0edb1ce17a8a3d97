"""Weights of stations along the path: each place is a blend of the sections beside it, their weights' sum 1."""

from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

import numpy as np

from morphax.core.body.profile import Weights
from morphax.core.kernels.carrying import FLOWING, HOLD, SMOOTH, STRAIGHT, station_weights
from morphax.core.types import Floats, Ints


class Blend(StrEnum):
    """How a station's section becomes that of the next one."""

    HOLD = "hold"
    STRAIGHT = "straight"
    SMOOTH = "smooth"
    FLOWING = "flowing"


_KINDS = {Blend.HOLD: HOLD, Blend.STRAIGHT: STRAIGHT, Blend.SMOOTH: SMOOTH, Blend.FLOWING: FLOWING}


@dataclass(frozen=True, eq=False)
class StationWeights:
    """Weights of sections at ``at`` (j,), m, rising; ``blends`` (j,) to the next one, the last one's to the first on a
    closed path of a ``period``, m.

    *flowing* goes through the stations without standing still: cubics (Hermite) whose slopes at a station are those of
    the parabola through it and its neighbours, shortened by ``ease`` (j,) from 0 to 1, so that no outline goes beyond
    those beside it: after Fritsch and Carlson (1980), for outlines in place of numbers.
    """

    at: Floats
    blends: tuple[Blend, ...]
    ease: Floats
    period: float | None = None

    def __call__(self, s: Floats, side: Floats) -> Weights:
        slopes = self._slopes if Blend.FLOWING in self.blends else np.zeros((len(self.at), len(self.at)))
        return Weights(*station_weights(s, side, self.at, self._long, self._kinds, slopes, self.period))

    @cached_property
    def _kinds(self) -> Ints:
        return np.array([_KINDS[b] for b in self.blends], dtype=np.int32)

    @cached_property
    def _long(self) -> Floats:
        ends = np.append(self.at, self.at[0] + self.period) if self.period is not None else self.at
        out: Floats = np.diff(ends) if len(ends) > 1 else np.ones(1)
        return out

    @cached_property
    def _slopes(self) -> Floats:
        """(j, j) how fast each weight grows at each station, 1/m: three-point differences, eased."""
        return self.ease[:, None] * three_point(self.at, self.period)

    @cached_property
    def steps(self) -> Floats:
        """Distances, m, at which a section stops and the next one begins."""
        j = len(self.at)
        ends = [float(self.at[(k + 1) % j]) for k in range(len(self._long)) if self.blends[k] is Blend.HOLD and j > 1]
        return np.unique(np.array(ends, dtype=np.float64))


def three_point(at: Floats, period: float | None) -> Floats:
    """(j, j) derivatives at places of the parabola through each and its neighbours, by the values there; at the ends of
    an open row none."""
    j = len(at)
    out = np.zeros((j, j))
    for k in range(j):
        if j < 3 or (period is None and k in (0, j - 1)):
            continue
        back = at[k] - at[k - 1] if k else at[0] + (period or 0.0) - at[-1]
        ahead = at[k + 1] - at[k] if k + 1 < j else at[0] + (period or 0.0) - at[-1]
        out[k, k - 1] -= ahead / (back * (back + ahead))
        out[k, (k + 1) % j] += back / (ahead * (back + ahead))
        out[k, k] += (ahead - back) / (ahead * back)
    return out


def eases(points: Floats, at: Floats, period: float | None) -> Floats:
    """How much of its three-point slope an outline has at each station, 0 to 1, so that it never goes beyond those
    beside it. ``points`` (j, n, 2) of the outlines; ``at`` (j,) m.

    No more than three times the lesser step goes by per its length (Fritsch and Carlson), none where the steps
    before and after lead back, and none where one of them is nothing.
    """
    j = len(points)
    flat = points.reshape(j, -1)
    raw = three_point(at, period) @ flat
    out = np.zeros(j)
    for k in range(j):
        if j < 3 or (period is None and k in (0, j - 1)):
            continue
        before, after = flat[k] - flat[k - 1], flat[(k + 1) % j] - flat[k]
        back = at[k] - at[k - 1] if k else at[0] + (period or 0.0) - at[-1]
        ahead = at[k + 1] - at[k] if k + 1 < j else at[0] + (period or 0.0) - at[-1]
        size = float(np.linalg.norm(raw[k]))
        one, two = float(np.linalg.norm(before)), float(np.linalg.norm(after))
        if size <= 0.0 or one <= 1e-12 * (one + two) or two <= 1e-12 * (one + two):
            continue
        along = max(float(before @ after) / (one * two), 0.0)
        most = 3.0 * min(one / back, two / ahead)
        out[k] = along * min(1.0, most / size)
    return out
