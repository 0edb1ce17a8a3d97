"""Strands between others: how many, how they are spread across, how they stray, and how large each is."""

from dataclasses import dataclass

import numpy as np

from morphax.core.errors import PathError
from morphax.core.types import Floats, Ints

MOST_STRANDS, MOST_GUIDES = 2000, 64
SPREADS = ("even", "thick first", "seeded")
_LARGEST, _DRAWN = 100.0, 8
"""The largest factor of a size; numbers that are drawn for each strand."""


@dataclass(frozen=True)
class InBetween:
    """So many strands between others (the guides), a share of them in each gap by its width.

    ``spread``: *even*, at even distances, sizes from ``size_from`` at the first guide to ``size_to`` at the last;
    *thick first*, at even distances, those that halve the gaps first of the size ``size_from``, those that halve what
    is left ever nearer to ``size_to``; *seeded*, at places and of sizes between both that a ``seed`` draws. Sizes are
    factors of what the guides' blend. ``jitter``: how far they stray, as a share of the distance to the next one.
    ``taper``: how much larger each is at its end than at its start.
    """

    count: int = 10
    spread: str = "even"
    jitter: float = 0.0
    taper: float = 1.0
    size_from: float = 1.0
    size_to: float = 1.0
    seed: int = 1

    __pydantic_config__ = {"extra": "forbid", "allow_inf_nan": False}

    def __post_init__(self) -> None:
        if not 1 <= self.count <= MOST_STRANDS:
            raise PathError(f"there are 1 to {MOST_STRANDS} strands between others, not {self.count}")
        if self.spread not in SPREADS:
            raise PathError(f"there is no spread {self.spread!r}; there are: {', '.join(SPREADS)}")
        if not 0.0 <= self.jitter <= 1.0:
            raise PathError("strands stray by 0 to 1 of the distance to the next one")
        if not 0.0 <= self.taper <= _LARGEST:
            raise PathError(f"strands are 0 to {_LARGEST:g} times as large at their end")
        for size in (self.size_from, self.size_to):
            if not 0.0 < size <= _LARGEST:
                raise PathError(f"strands' sizes are factors of more than 0, up to {_LARGEST:g}")
        if not 0 <= self.seed < 2**32:
            raise PathError("a seed is a whole number from 0")


@dataclass(frozen=True, eq=False)
class Across:
    """Where strands run between guides: each in a ``gap`` (n,), at a ``share`` (n,) of it; ``apart`` (n,) that of the
    gap to the next one; ``size`` (n,) factors; ``drawn`` (n, 8) numbers from -1 to 1 that are their own."""

    gap: Ints
    share: Floats
    apart: Floats
    size: Floats
    drawn: Floats


def across(rule: InBetween, widths: Floats) -> Across:
    """The strands' places by the widths (g,) of the gaps, m. Whatever the count, what is drawn for the first of them is
    the same."""
    drawn = 2.0 * np.random.default_rng(rule.seed).random((rule.count, _DRAWN)) - 1.0
    each = _shared_out(rule.count, widths)
    gap = np.repeat(np.arange(len(each), dtype=np.int32), each)
    number = np.arange(rule.count) - np.repeat(np.cumsum(each) - each, each)
    own: Floats = each[gap].astype(np.float64)
    apart = 1.0 / (own + 1.0)
    share = (number + 1.0) * apart
    way: Floats = np.arange(rule.count) / max(rule.count - 1.0, 1.0)
    if rule.spread == "seeded":
        share, way = (number + 0.5 + 0.5 * drawn[:, 0]) / own, 0.5 + 0.5 * drawn[:, 1]
    elif rule.spread == "thick first":
        way = np.concatenate([_halved(n) for n in each.tolist()])
    size = rule.size_from + (rule.size_to - rule.size_from) * way
    return Across(gap, share, apart, size, drawn)


def _shared_out(count: int, widths: Floats) -> Ints:
    """A count as whole numbers (g,) by widths, their sum the count: the largest remainders are rounded up."""
    total = float(widths.sum())
    wanted = count * (widths / total if total > 0.0 else np.full(len(widths), 1.0 / len(widths)))
    out: Ints = np.floor(wanted + 1e-9).astype(np.int32)
    rest = np.argsort(-(wanted - out), kind="stable")[: count - int(out.sum())]
    out[rest] += 1
    return out


def _halved(count: int) -> Floats:
    """In which halving of a gap each of so many strands (n,) comes: 0 for the first one, 1 for those of the last."""
    out, level, spans = np.zeros(count), 0, [(0, count)]
    while spans:
        left = list[tuple[int, int]]()
        for a, b in spans:
            if a < b:
                middle = (a + b) // 2
                out[middle] = level
                left += [(a, middle), (middle + 1, b)]
        spans, level = left, level + 1
    return out / max(float(out.max(initial=0.0)), 1.0)


def weights_across(at: Floats, gap: Ints, share: Floats) -> tuple[Floats, Floats]:
    """Weights (n, ..., g) of guides that lie at distances ``at`` (g,), rising, for places in gaps (n,) at shares (n,
    ...) of them, and their rates by the share: of the smooth curve through the guides, cubic Hermite with the slopes of
    the parabola through each and its neighbours. Each row's sum is 1; what is linear across guides stays so."""
    slopes, eye = _slopes(at), np.eye(len(at))
    long = np.diff(at)[gap].reshape(-1, *[1] * (share.ndim - 1))
    t, d = share[..., None], long[..., None]

    def taken(rows: Floats, more: int) -> Floats:
        return rows[gap + more].reshape(len(gap), *[1] * (share.ndim - 1), len(at))

    a, b, u, v = taken(eye, 0), taken(eye, 1), taken(slopes, 0), taken(slopes, 1)
    value = (
        (2.0 * t**3 - 3.0 * t**2 + 1.0) * a
        + (3.0 * t**2 - 2.0 * t**3) * b
        + (t**3 - 2.0 * t**2 + t) * d * u
        + (t**3 - t**2) * d * v
    )
    rate = (6.0 * t**2 - 6.0 * t) * (a - b) + (3.0 * t**2 - 4.0 * t + 1.0) * d * u + (3.0 * t**2 - 2.0 * t) * d * v
    return value, rate


def linear_weights(count: int, gap: Ints, share: Floats) -> Floats:
    """Weights (n, ..., g) of the two guides beside each place, by its share of the gap: never less than 0."""
    eye = np.eye(count)
    shape = (len(gap), *[1] * (share.ndim - 1), count)
    out: Floats = (1.0 - share[..., None]) * eye[gap].reshape(shape) + share[..., None] * eye[gap + 1].reshape(shape)
    return out


def _slopes(at: Floats) -> Floats:
    """(g, g) rates of each guide's weight at each guide, 1/m: of the parabola through it and its neighbours, at the
    first and the last that of the parabola through the three there."""
    count = len(at)
    out = np.zeros((count, count))
    if count == 2:
        out[:] = np.array([-1.0, 1.0]) / (at[1] - at[0])
        return out
    for k in range(count):
        i = min(max(k - 1, 0), count - 3)
        three = np.array([i, i + 1, i + 2])
        for m in three:
            p, q = (n for n in three if n != m)
            out[k, m] = (2.0 * at[k] - at[p] - at[q]) / ((at[m] - at[p]) * (at[m] - at[q]))
    return out
