"""Two outlines paired: which place of the later one belongs to each place of the earlier one.

Both are moved to their middles and scaled to equal areas; the later one is turned to the least squared travel; corners
and marks are paired in cyclic order by dynamic programming, and between pairs by length.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from morphax.core.loft.loop_ruler import LoopRuler
from morphax.core.types import Flags, Floats, Points2

_PLACES = 256
_EQUAL, _REACH = 1e-9, 1.0 / 16.0
"""Costs that count as equal; how far apart, as a share of the way, two corners may be that are paired."""


@dataclass(frozen=True, eq=False)
class Pairing:
    """``first`` and ``second`` (p,): shares of the earlier and the later outline that belong together, rising by at
    most 1 in all; between them by length. ``fixed`` (p,): which of them are marks."""

    first: Floats
    second: Floats
    fixed: Flags
    is_open: bool = False

    def onward(self, share: Floats) -> Floats:
        """Shares (n,) of the later outline for those of the earlier one."""
        return _mapped(share, self.first, self.second, is_open=self.is_open)

    def back(self, share: Floats) -> Floats:
        """Shares (n,) of the earlier outline for those of the later one."""
        return _mapped(share, self.second, self.first, is_open=self.is_open)


def _mapped(share: Floats, a: Floats, b: Floats, *, is_open: bool) -> Floats:
    if is_open:
        return np.interp(share, a, b)
    turns = np.floor(share - a[0])
    out: Floats = np.interp(share - turns, np.append(a, a[0] + 1.0), np.append(b, b[0] + 1.0)) + turns
    return out


def paired(first: LoopRuler, second: LoopRuler, marks: Sequence[tuple[float, float]] = ()) -> Pairing:
    """How a later outline follows an earlier one. ``marks``: shares of both that are fixed pairs, and win.

    Shares count from the places below the middles, counter-clockwise; those of ribbons from their starts.
    """
    if first.is_open or second.is_open:
        ends = [(0.0, 0.0), (1.0, 1.0)]
        found = _features(first, second, 0.0, ends, marks, is_open=True)
        return _pairing(found, marks, is_open=True)
    if marks:
        shift = marks[0][1] - marks[0][0]
    else:
        shift = _shift(_level(first), _level(second))
    return _pairing(_features(first, second, shift, (), marks, is_open=False), marks, is_open=False)


def _level(ruler: LoopRuler) -> Points2:
    """256 points by length, about the middle, for an area of 1."""
    centre, area = ruler.middle
    out: Points2 = (ruler.at(np.arange(_PLACES) / _PLACES) - centre) / np.sqrt(max(area, 1e-300))
    return out


def _shift(a: Points2, b: Points2) -> float:
    """By what share the later outline runs ahead for the least squared travel; of equal ones the smallest turn, then
    counter-clockwise."""
    spectrum = np.fft.fft(b[:, 0] + 1j * b[:, 1]) * np.conj(np.fft.fft(a[:, 0] + 1j * a[:, 1]))
    likeness = np.real(np.fft.ifft(spectrum))
    whole = float((a**2).sum() + (b**2).sum())
    cost = whole - 2.0 * likeness
    best = np.flatnonzero(cost <= cost.min() + _EQUAL * max(whole, 1e-300))
    turn = (best + _PLACES // 2) % _PLACES - _PLACES // 2
    k = min(turn.tolist(), key=lambda v: (abs(v), -v))
    return _finer(cost, k) / _PLACES


def _finer(cost: Floats, k: int) -> float:
    """The turn between the sampled ones at which a parabola through the costs is least."""
    a, b, c = (float(cost[(k + d) % len(cost)]) for d in (-1, 0, 1))
    bend = a - 2.0 * b + c
    if bend <= _EQUAL * max(abs(b), 1.0) or abs(a - c) <= 1e-6 * bend:
        return float(k)
    return k + 0.5 * (a - c) / bend


Pairs = list[tuple[float, float]]


def _features(
    first: LoopRuler,
    second: LoopRuler,
    shift: float,
    ends: Sequence[tuple[float, float]],
    marks: Sequence[tuple[float, float]],
    *,
    is_open: bool,
) -> Pairs:
    """Pairs of corners, in order; and ``ends`` and ``marks``, between which they are found one stretch at a time."""
    (a, turn_a), (b, turn_b) = first.corners, second.corners
    fixed = sorted([*ends, *marks])
    if fixed:
        out: Pairs = []
        for k, (p, q) in enumerate(fixed):
            out.append((p, q))
            if is_open and k == len(fixed) - 1:
                break
            p1, q1 = fixed[(k + 1) % len(fixed)]
            p1, q1 = p1 + (p1 <= p), q1 + (q1 <= q)
            ia, ib = _between(a, p, p1), _between(b, q, q1)
            cost = _costs(first, second, (a[ia], turn_a[ia]), (b[ib], turn_b[ib]))
            xa, xb = p + (a[ia] - p) % 1.0, q + (b[ib] - q) % 1.0
            near = np.abs((xa - p)[:, None] / (p1 - p) - (xb - q)[None] / (q1 - q)) * min(p1 - p, q1 - q) <= _REACH
            out += [(float(xa[i]), float(xb[j])) for i, j in _least(cost, near)]
        return out
    if not len(a) or not len(b):
        return [(0.0, shift)]
    cost = _costs(first, second, (a, turn_a), (b, turn_b))
    gap = (b[None] - a[:, None] - shift + 0.5) % 1.0 - 0.5
    near = np.abs(gap) <= _REACH + 1e-12
    found = _cyclic(cost, near)
    if not found:
        return [(0.0, shift)]
    return [(float(a[i]), float(a[i] + shift + gap[i, j])) for i, j in found]


def _between(x: Floats, a: float, b: float) -> np.ndarray:
    """Which shares lie strictly between two, in their order from the first one on."""
    off = (x - a) % 1.0
    inside = np.flatnonzero((off > 1e-9) & (off < b - a - 1e-9))
    return inside[np.argsort(off[inside], kind="stable")]


def _costs(first: LoopRuler, second: LoopRuler, a: tuple[Floats, Floats], b: tuple[Floats, Floats]) -> Floats:
    """(n, m) squared travel of corners, sizes alike, and squared difference of turning."""
    (ca, area_a), (cb, area_b) = first.middle, second.middle
    p = (first.at(a[0]) - ca) / np.sqrt(max(area_a, 1e-300))
    q = (second.at(b[0]) - cb) / np.sqrt(max(area_b, 1e-300))
    travel = ((p[:, None] - q[None]) ** 2).sum(-1)
    out: Floats = travel + (a[1][:, None] - b[1][None]) ** 2
    return out


def _least(cost: Floats, near: Flags) -> list[tuple[int, int]]:
    """Pairs in order for the least cost; leaving one single costs the mean of what may be paired."""
    return _least_of(cost, near)[1]


def _least_of(cost: Floats, near: Flags) -> tuple[float, list[tuple[int, int]]]:
    n, m = cost.shape
    if not n or not m or not near.any():
        return 0.0, []
    single = max(float(cost[near].mean()), 1e-12)
    allowed = np.where(near, cost, np.inf)
    best = np.empty((n + 1, m + 1))
    best[0], best[:, 0] = single * np.arange(m + 1), single * np.arange(n + 1)
    for i in range(1, n + 1):
        row = np.minimum(best[i - 1, :-1] + allowed[i - 1], best[i - 1, 1:] + single)
        own = np.concatenate([best[i, :1], row])
        step = single * np.arange(m + 1)
        best[i] = np.minimum.accumulate(own - step) + step
    out, i, j = list[tuple[int, int]](), n, m
    while i and j:
        if near[i - 1, j - 1] and best[i, j] >= best[i - 1, j - 1] + cost[i - 1, j - 1] - 1e-12 * single:
            out.append((i - 1, j - 1))
            i, j = i - 1, j - 1
        elif best[i, j] >= best[i - 1, j] + single - 1e-12 * single:
            i -= 1
        else:
            j -= 1
    return float(best[n, m]), out[::-1]


def _cyclic(cost: Floats, near: Flags) -> list[tuple[int, int]]:
    """Pairs in cyclic order: the best of those with the first corner paired to each that it may have, or single."""
    n, m = cost.shape
    best, found = np.inf, list[tuple[int, int]]()
    singles = float(cost[near].mean()) if near.any() else 0.0
    for j in np.flatnonzero(near[0]).tolist():
        order = (np.arange(1, m) + j) % m
        more, pairs = _least_of(cost[1:][:, order], near[1:][:, order])
        more += 0.0 if pairs or more else singles * (n - 1 + m - 1)
        if float(cost[0, j]) + more < best - 1e-12:
            best, found = float(cost[0, j]) + more, [(0, j), *((i + 1, int(order[k])) for i, k in pairs)]
    cut = int(np.argmax(near[1:].any(0))) if n > 1 and near[1:].any() else 0
    order = (np.arange(m) + cut) % m
    more, pairs = _least_of(cost[1:][:, order], near[1:][:, order])
    if pairs and singles + more < best - 1e-12:
        found = [(i + 1, int(order[k])) for i, k in pairs]
    return found


def _pairing(found: Pairs, marks: Sequence[tuple[float, float]], *, is_open: bool) -> Pairing:
    """Rising shares of both; pairs that would turn back are left out."""
    fixed = {(float(p) % 1.0, float(q) % 1.0) for p, q in marks}
    first, second, held = list[float](), list[float](), list[bool]()
    for p, q in sorted(found):
        if second and not is_open:
            q = second[0] + (q - second[0]) % 1.0
        if first and (p - first[-1] <= 1e-12 or q - second[-1] <= 1e-12):
            continue
        first.append(p)
        second.append(q)
        held.append((p % 1.0, q % 1.0) in fixed)
    return Pairing(np.array(first), np.array(second), np.array(held, dtype=np.bool_), is_open)
