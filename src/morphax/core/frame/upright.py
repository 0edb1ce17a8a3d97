"""Upright frames: the world's up made perpendicular; carried through steep stretches; eased at corners."""

from dataclasses import replace
from math import cos, pi, radians

import numpy as np

from morphax.core.frame.frames import FrameField, LegFrames, carried_legs, closing_angle
from morphax.core.path.arclength import LengthTable
from morphax.core.path.legs import Leg
from morphax.core.types import Flags, Floats
from morphax.core.vectors import angle_about, perpendicular, smallest_turn, turn_between

_CONE = radians(15.0)
_Z = np.array([0.0, 0.0, 1.0])


def wrapped(angle: float) -> float:
    """Into (-180, 180] degrees; exactly half a turn goes counter-clockwise."""
    return float(angle - 2.0 * pi * np.ceil(angle / (2.0 * pi) - 0.5 - 1e-12))


def _steep(legs: tuple[LegFrames, ...], width: float) -> Flags:
    """Samples of the whole path that are inside the cone or within two widths of such a one on their leg."""
    out = []
    for f in legs:
        inside = np.abs(f.curve.tangent[:, 2]) > cos(_CONE)
        if inside.any() and not inside.all():
            gap = np.abs(f.s[:, None] - f.s[None, inside]).min(1)
            inside = inside | (gap <= 2.0 * width)
        out.append(inside)
    return np.concatenate(out)


def upright_field(
    table: LengthTable, legs: tuple[Leg, ...], *, closed: bool = False, width: float = 0.0, reach: float = 0.0
) -> FrameField:
    """Frames whose up is the world's.

    Parameters: ``width`` and ``reach`` of the section, m. Within 15 degrees of vertical, lengthened by two
    widths, the up is carried through and the difference shared out by length; a path that is wholly inside
    is carried. Frames that differ at a corner are turned half way by each leg within 3 reaches or half a leg.
    Does not handle batches (the steep stretches differ from path to path).
    """
    carried = carried_legs(table, legs, least=16)
    steep = _steep(carried, width)
    none = np.zeros(len(legs))
    if steep.all():
        return FrameField(table, carried, none)
    tangent = np.concatenate([f.curve.tangent for f in carried])
    up = np.concatenate([f.up for f in carried])
    world = perpendicular(tangent, np.where(steep[:, None], up, _Z))
    roll = np.where(steep, 0.0, -angle_about(tangent, up, world))
    s = np.concatenate([f.s for f in carried])
    turn_round = -float(closing_angle(carried)) if closed else None
    roll, slope, exact = filled_rolls(s, roll, steep, float(table.total), turn_round)
    cuts = np.cumsum([len(f.s) for f in carried])[:-1]
    split = [np.split(v, cuts) for v in (roll, slope, exact)]
    rolled = tuple(replace(f, roll=r, slope=m[:-1], exact=e[:-1]) for f, r, m, e in zip(carried, *split, strict=True))
    return eased_corners(table, rolled, closed=closed, reach=reach)


def filled_rolls(
    s: Floats, roll: Floats, steep: Flags, total: float, turn_round: float | None
) -> tuple[Floats, Floats, Flags]:
    """Rolls over the whole path with steep stretches filled in linearly, their slopes, and exact intervals.

    ``turn_round``: on a closed path, the roll that the carried up gains by one lap.
    """
    n = len(s)
    roll, slope = roll.copy(), np.zeros(n)
    exact = np.zeros(n, dtype=bool)
    exact[:-1] = ~steep[:-1] & ~steep[1:]
    index = np.arange(n)
    good = np.flatnonzero(~steep)
    gaps = [(a, b) for a, b in zip(good[:-1], good[1:], strict=True) if b > a + 1]
    for a, b in gaps:
        rise = wrapped(roll[b] - roll[a]) / (s[b] - s[a])
        inner = index[a:b]
        slope[inner], roll[inner] = rise, roll[a] + rise * (s[inner] - s[a])
    first, last = good[0], good[-1]
    if turn_round is None:
        roll[:first], roll[last + 1 :] = roll[first], roll[last]
    elif first > 0 or last < n - 1:
        target = roll[first] + turn_round
        rise = wrapped(target - roll[last]) / (s[first] + total - s[last])
        slope[last:], slope[:first] = rise, rise
        roll[last:] = roll[last] + rise * (s[last:] - s[last])
        roll[:first] = roll[last] + rise * (s[:first] + total - s[last]) - turn_round
    return roll, slope, exact


def eased_corners(table: LengthTable, legs: tuple[LegFrames, ...], *, closed: bool, reach: float) -> FrameField:
    """Gives each leg half of the angle by which the frames on both sides of a corner differ."""
    ups = [(_final_up(f, 0), _final_up(f, -1)) for f in legs]
    count = len(legs)
    turns = np.zeros(count)
    ease, level = np.zeros((count, 2)), np.zeros((count, 2))
    for i in range(count if closed else count - 1):
        j = (i + 1) % count
        t1, t0 = legs[i].curve.tangent[-1], legs[j].curve.tangent[0]
        turns[i] = -float(angle_about(t0, smallest_turn(ups[i][1], t1, t0), ups[j][0]))
        if abs(turns[i]) > 1e-9:
            ease[i, 1], ease[j, 0] = 0.5 * turns[i], -0.5 * turns[i]
            level[i, 1] = level[j, 0] = reach * np.tan(min(0.5 * float(turn_between(t1, t0)), 1.4))
    half = np.array([0.5 * float(f.s[-1] - f.s[0]) for f in legs])[:, None]
    level = np.minimum(level, 0.5 * half)
    zone = np.minimum(3.0 * reach, half - level)
    eased = tuple(
        replace(f, ease=ease[i], zone=np.where(zone[i] > 0.0, zone[i], 1.0), level=level[i]) if ease[i].any() else f
        for i, f in enumerate(legs)
    )
    return FrameField(table, eased, turns)


def _final_up(f: LegFrames, end: int) -> Floats:
    tangent, up, roll = f.curve.tangent[end], f.up[end], f.roll[end]
    c, s = np.cos(-roll), np.sin(-roll)
    out: Floats = up * c + np.cross(tangent, up) * s
    return out
