"""Legs: the stretches of a path between sharp corners, and places on them seen from inside the leg."""

from bisect import bisect_left, bisect_right
from dataclasses import dataclass

import numpy as np

from morphax.core.path.arclength import LengthTable
from morphax.core.path.paths import Chain
from morphax.core.tolerances import Tolerances
from morphax.core.types import Flags, Floats, Points3, Vectors3
from morphax.core.vectors import turn_between, unit


@dataclass(frozen=True)
class Stretch:
    """Spans ``first`` to ``last`` (not included) of a leg that are all straight in one line, or all curved.

    ``arc``: they are one rounded corner, or the half of one at which a closed path starts.
    """

    first: int
    last: int
    straight: bool
    arc: bool = False


@dataclass(frozen=True)
class Leg:
    """Spans ``first`` to ``last`` (not included; past the span count where a closed path wraps).

    ``stretches`` cut it where straight and curved spans meet; ``knots`` are the path's own knots strictly inside.
    """

    first: int
    last: int
    straight: bool
    stretches: tuple[Stretch, ...] = ()
    knots: tuple[int, ...] = ()


@dataclass(frozen=True, eq=False)
class Curve:
    """Points, unit tangents and curvature vectors (1/m) along a path, each (..., r, 3)."""

    point: Points3
    tangent: Vectors3
    curvature: Vectors3


def end_tangents(chain: Chain) -> tuple[Vectors3, Vectors3]:
    """Unit tangents at the start and the end of each span, (..., m, 3) each.

    Where an inner control point lies on the end, the next one gives the direction.
    """
    p = chain.spans
    starts, ends = p[..., 1, :] - p[..., 0, :], p[..., 3, :] - p[..., 2, :]
    whole = np.abs(p[..., 3, :] - p[..., 0, :]).max(axis=-1, keepdims=True)
    starts = np.where(np.abs(starts).max(-1, keepdims=True) > 1e-12 * whole, starts, p[..., 2, :] - p[..., 0, :])
    ends = np.where(np.abs(ends).max(-1, keepdims=True) > 1e-12 * whole, ends, p[..., 3, :] - p[..., 1, :])
    return unit(starts), unit(ends)


def turns_at_knots(chain: Chain) -> Floats:
    """Turn of the tangent at the start of each span and at the end, (..., m+1) rad; 0 at open ends."""
    starts, ends = end_tangents(chain)
    turn = np.zeros((*starts.shape[:-2], starts.shape[-2] + 1))
    turn[..., 1:-1] = turn_between(ends[..., :-1, :], starts[..., 1:, :])
    if chain.closed:
        turn[..., 0] = turn[..., -1] = turn_between(ends[..., -1, :], starts[..., 0, :])
    return turn


def sharp_corners(chain: Chain, tolerances: Tolerances) -> Flags:
    """(m+1,) corners whose tangent turns enough to count, in any path of the batch."""
    if not chain.corner.any():
        return np.zeros(len(chain.corner), dtype=np.bool_)
    turn = turns_at_knots(chain)
    sharp: Flags = chain.corner & (turn.reshape(-1, turn.shape[-1]).max(0) > tolerances.sharp_turn)
    return sharp


def legs_of(chain: Chain, sharp: Flags) -> tuple[Leg, ...]:
    """The legs in order; on a closed path with corners the first starts at the first sharp corner."""
    m = chain.spans.shape[-3]
    if not (chain.closed or sharp[1:-1].any() or chain.straight.any()):  # the commonest path: one curve
        return (Leg(0, m, False, (Stretch(0, m, False),), tuple(k for k in chain.knots.tolist() if 0 < k < m)),)
    inner = np.flatnonzero(sharp[:-1] if chain.closed else sharp[1:-1] & True)
    if chain.closed:
        cuts = [int(i) for i in inner]
        pairs = list(zip(cuts, [*cuts[1:], cuts[0] + m], strict=True)) if cuts else [(0, m)]
    else:
        cuts = [0, *(int(i) + 1 for i in inner), m]
        pairs = list(zip(cuts[:-1], cuts[1:], strict=True))
    if chain.straight.any():
        collinear = turns_at_knots(chain).reshape(-1, m + 1).max(0) < 1e-12
    else:
        collinear = np.zeros(m + 1, dtype=np.bool_)
    own = [int(k) for k in chain.knots]
    own = sorted({*own, *(k + m for k in own)})
    straight, goes_on = chain.straight.tolist(), collinear.tolist()
    arc = chain.arc.tolist() or [0] * m
    return tuple(
        Leg(
            a,
            b,
            all(straight[i % m] and (i == a or goes_on[i % m]) for i in range(a, b)),
            _stretches(straight, goes_on, arc, a, b),
            tuple(own[bisect_right(own, a) : bisect_left(own, b)]),
        )
        for a, b in pairs
    )


def _stretches(straight: list[bool], goes_on: list[bool], arc: list[int], first: int, last: int) -> tuple[Stretch, ...]:
    m = len(straight)
    cuts = [first]
    for i in range(first + 1, last):
        same = straight[i % m] == straight[(i - 1) % m] and arc[i % m] == arc[(i - 1) % m]
        if not same or (straight[i % m] and not goes_on[i % m]):
            cuts.append(i)
    ends = zip(cuts, [*cuts[1:], last], strict=True)
    return tuple(Stretch(a, b, straight[a % m], arc[a % m] > 0) for a, b in ends)


def place_distance(table: LengthTable, place: int) -> Floats:
    """Distance (...) of a place between spans; past the total length where a closed path wraps, m."""
    at, m = table.at_knots, table.spans.shape[-3]
    out: Floats = at[..., place] if place <= m else at[..., place - m] + table.total
    return out


def leg_distances(table: LengthTable, leg: Leg) -> tuple[Floats, Floats]:
    """Distances (...) of a leg's start and end; the end is past the total length where the leg wraps."""
    return place_distance(table, leg.first), place_distance(table, leg.last)
