"""Far stretches of a run that touch: where it comes back to itself, and how wide it could be without."""

from collections.abc import Sequence
from math import ceil, cos, pi

import numpy as np

from morphax.core.body.carried import CarriedRows, carried_rows, extents, taken_rows
from morphax.core.body.profile import Profile, StepSide
from morphax.core.findings import Finding, Severity, in_mm, spot
from morphax.core.frame.frames import FrameField, Frames, frames_on
from morphax.core.path.arclength import places_at
from morphax.core.path.paths import points_at
from morphax.core.types import Flags, Floats, Ints, Points3
from morphax.core.vectors import turn_between

_STEP, FAR, _CORNER, _BEND = 0.5, 4.5, 1.1, 16.0
"""Samples of the path in reaches; so many reaches along the path is far; what a corner's own reach is multiplied by;
and so many reaches long a stretch round a bend is at most."""
_MOST, _MOST_PAIRS, _MOST_LOOKED = 40_000, 400_000, 2000
_ROUNDS, _GRID, _FINER = 4, 9, 0.35
"""A place is looked at more closely so many times, by so many places on both stretches, each time so much nearer."""
_CLEAR, _SLIGHT = 1.0 - 1e-6, 1e-9
_PLACES, _BESIDE, _LOOSE = 8, 6, 1.5
"""So many places are looked at more closely, so many samples from each other, which are not freer than that."""


def touches(
    field: FrameField, profile: Profile, width: float, pinched: Sequence[float] = (), *, closed: bool
) -> tuple[Finding, ...]:
    """The place where two stretches of the body, far from each other along the path, come nearest to running through
    each other, with the largest free width; nothing where they don't.

    Rings are free of each other where they are apart along any of some directions: from one to the other, their own
    right and up, and across both stretches. What lies round a bend that is too tight, at distances ``pinched``, m, is
    said already.
    """
    total, reach = float(field.table.total), profile.true_reach
    if not closed and _turning(field) < pi:
        return ()  # it never comes back
    count = min(ceil(total / (_STEP * reach)) + 1, _MOST)
    if field.fixed is not None or total < FAR * reach or count < 4:
        return ()
    s = float(field.legs[0].s[0]) + np.linspace(0.0, total, count, endpoint=not closed)
    one, two = _near(_places(field, s % total if closed else s), 2.0 * reach)
    apart = s[two] - s[one]
    apart = np.minimum(apart, total - apart) if closed else apart
    least = reach if profile.is_even else np.maximum(*_Rings(field, profile, s).local[np.stack([one, two])])
    far = np.flatnonzero(apart > FAR * least)[:_MOST_PAIRS]
    one, two, apart = one[far], two[far], apart[far]
    if not len(one):
        return ()
    used, index = np.unique(np.concatenate([one, two]), return_inverse=True)
    rings, s = _Rings(field, profile, s[used]), s[used]
    one, two = index[: len(one)].astype(np.int32), index[len(one) :].astype(np.int32)
    local = np.maximum(rings.local[one], rings.local[two])
    keep = (apart > FAR * local) & ~_round_a_corner(field, s, (one, two), local, closed=closed)
    for at in (p + lap for p in pinched for lap in (0.0, total)):
        keep &= ~((s[one] <= at) & (at <= s[two]) & (s[two] - s[one] <= _BEND * local))
    one, two = one[keep], two[keep]
    if not len(one):
        return ()
    free = rings.free(one, two)
    asked = [(float(s[one[k]]), float(s[two[k]])) for k in _apart(one, two, free)]
    places = [_nearest(field, profile, at, total / count, closed=closed) for at in asked]
    a, share = min(places, key=lambda found: found[1], default=(0.0, np.inf))
    if share >= _CLEAR:
        return ()
    at = frames_on(field, _legs(field, np.array([a])), np.array([a])).origin[0]
    wide, where = in_mm(width * share), a % total if closed else a
    message = f"The body runs into another stretch of itself at {in_mm(where)}: it would be free up to {wide} wide."
    return (Finding("touch", Severity.WARNING, message, where, width * share, spot(at)),)


def _apart(one: Ints, two: Ints, free: Floats) -> list[int]:
    """The least free pairs, none of them beside a less free one."""
    out = list[int]()
    for k in np.argsort(free, kind="stable")[:_MOST_LOOKED].tolist():
        if free[k] >= _LOOSE or len(out) == _PLACES:
            break
        if all(max(abs(int(one[k]) - int(one[n])), abs(int(two[k]) - int(two[n]))) > _BESIDE for n in out):
            out.append(k)
    return out


def _turning(field: FrameField) -> float:
    """How far the path turns in all, rad."""
    inner = sum(float(field.turned_by(i)[..., -1]) for i, f in enumerate(field.legs) if not f.leg.straight)
    return inner + sum(float(turn[0]) for turn, _ in _corners(field))


def _corners(field: FrameField) -> list[tuple[Floats, float]]:
    """The turn (1,), rad, and distance, m, of each corner between legs."""
    pairs = zip(field.legs[:-1], field.legs[1:], strict=True)
    return [(turn_between(a.samples[None, -1, 9:12], b.samples[None, 0, 9:12]), float(b.s[0])) for a, b in pairs]


def _places(field: FrameField, s: Floats) -> Points3:
    """Points of the path at distances."""
    places = places_at(field.table, s)
    return points_at(field.table.spans[places.span], places.t)


def _legs(field: FrameField, s: Floats) -> Ints:
    starts = np.array([float(f.s[0]) for f in field.legs])
    out: Ints = np.clip(np.searchsorted(starts, s, side="right") - 1, 0, len(starts) - 1)
    return out


class _Rings:
    """Rings at distances of the path, to be measured."""

    def __init__(self, field: FrameField, profile: Profile, s: Floats) -> None:
        self.frames: Frames = frames_on(field, _legs(field, s), s)
        side = np.full(len(s), float(StepSide.AFTER))
        self.carried: CarriedRows = carried_rows(profile, self.frames.right, self.frames.up, s, side)
        self.points, self.reach = profile.outermost, profile.reach
        far = [np.abs(extents(self.carried, v, self.points)).max(1) for v in (self.carried.x, self.carried.y)]
        self.local = np.hypot(*far)
        """How far each ring reaches from the path, m, or a little more."""

    def free(self, one: Ints, two: Ints) -> Floats:
        """How many times larger pairs of rings could be before they met."""
        between = self.frames.origin[two] - self.frames.origin[one]
        first, second = taken_rows(self.carried, one), taken_rows(self.carried, two)
        across = np.cross(self.frames.forward[one], self.frames.forward[two])
        out = np.zeros(len(one))
        for axis in (between, first.x, first.y, second.x, second.y, across):
            size = np.linalg.norm(axis, axis=1, keepdims=True)
            way = np.where(size > _SLIGHT * self.reach, axis / np.maximum(size, 1e-300), 0.0)
            far = (between * way).sum(1)
            way = np.where(far[:, None] < 0.0, -way, way)
            taken = extents(first, way, self.points).max(1) + extents(second, -way, self.points).max(1)
            out = np.maximum(out, np.abs(far) / np.maximum(taken, _SLIGHT * self.reach))
        return out


def _near(points: Points3, within: float) -> tuple[Ints, Ints]:
    """Pairs of points, the earlier one first, in cells beside each other: all that are no farther apart than that."""
    cell = np.floor((points - points.min(0)) / within).astype(np.int64) + 1
    size = cell.max(0) + 2
    key = (cell[:, 0] * size[1] + cell[:, 1]) * size[2] + cell[:, 2]
    order = np.argsort(key, kind="stable")
    known = key[order]
    ones, twos = list[Ints](), list[Ints]()
    for step in _beside(size):
        low, high = (np.searchsorted(known, key + step, side=side) for side in ("left", "right"))
        counts = high - low
        one = np.repeat(np.arange(len(points)), counts)
        if not len(one):
            continue
        two = order[np.arange(len(one)) - np.repeat(np.cumsum(counts) - counts, counts) + np.repeat(low, counts)]
        keep = two > one if step == 0 else np.ones(len(one), dtype=np.bool_)
        ones.append(np.minimum(one, two)[keep])
        twos.append(np.maximum(one, two)[keep])
    one, two = np.concatenate(ones), np.concatenate(twos)
    close = ((points[one] - points[two]) ** 2).sum(1) <= within**2
    return one[close], two[close]


def _beside(size: Ints) -> list[int]:
    """The steps from a cell to itself and to half of those beside it: each pair of cells once."""
    steps = [(x * int(size[1]) + y) * int(size[2]) + z for x in (-1, 0, 1) for y in (-1, 0, 1) for z in (-1, 0, 1)]
    return sorted(step for step in steps if step >= 0)


def _round_a_corner(field: FrameField, s: Floats, pair: tuple[Ints, Ints], reach: Floats, *, closed: bool) -> Flags:
    """Pairs on both sides of one corner, no farther from it than the body's sides meet there: that is its mitre."""
    a, b, total = s[pair[0]], s[pair[1]], float(field.table.total)
    out = np.zeros(len(a), dtype=np.bool_)
    for turn, at in _corners(field):
        far = _CORNER * reach / max(cos(0.5 * float(turn[0])), 1e-3) + reach
        out |= (a <= at) & (at <= b) & (at - a <= far) & (b - at <= far)
    if closed:
        first, last = field.legs[0], field.legs[-1]
        turn = turn_between(last.samples[None, -1, 9:12], first.samples[None, 0, 9:12])
        far = _CORNER * reach / max(cos(0.5 * float(turn[0])), 1e-3) + reach
        low = float(first.s[0])
        out |= (a - low <= far) & (low + total - b <= far)
    return out


def _nearest(
    field: FrameField, profile: Profile, at: tuple[float, float], step: float, *, closed: bool
) -> tuple[float, float]:
    """The place on the first of two stretches, m, where they are nearest to each other, and the share of the width at
    which they would only touch."""
    total, (a, b), best, low = float(field.table.total), at, np.inf, float(field.legs[0].s[0])
    for _ in range(_ROUNDS):
        offsets = step * np.linspace(-1.0, 1.0, _GRID)
        s = np.concatenate([a + offsets, b + offsets])
        s = low + ((s - low) % total if closed else np.clip(s - low, 0.0, total))
        one, two = np.divmod(np.arange(_GRID**2, dtype=np.int32), np.int32(_GRID))
        two = two + np.int32(_GRID)
        free = _Rings(field, profile, s).free(one, two)
        k = int(np.argmin(free))
        a, b, best = float(s[one[k]]), float(s[two[k]]), min(best, float(free[k]))
        step *= _FINER
    return a, best
