"""A law from an outline: how wide it is at each height says how large the section is along the run."""

from math import ceil, pi

import numpy as np

from morphax.core.errors import SectionError
from morphax.core.section.outlines import Segment
from morphax.core.section.sections import SectionShape, section_bounds
from morphax.core.types import Floats

_PIECES, _HALVINGS, _STEP, _SAME = 24, 50, 2e-6, 1e-7
"""Straight sides of a quarter of a circle, or of a curve; how far before a step its last value stands; what is one
value, or one height."""


def profile_rows(section: SectionShape) -> tuple[Floats, Floats]:
    """Shares (n,) of the outline's height, rising from 0 to 1, and its widths there as shares of the largest one.

    Closed outlines count from their left to their right, open lines from the upright axis through the drawn origin.
    Where the width steps, two shares stand close by. Raises SectionError where it has no height or no width.
    """
    low, high = section_bounds(section)[1::2]
    if not high - low > 0.0:
        raise SectionError("an outline without a height says nothing about sizes along a run")
    a, b = _sides(section)
    at = (np.unique(np.round(np.concatenate([a[:, 1], b[:, 1]]) / (high - low), 9)) - low / (high - low)).clip(0.0, 1.0)
    at = at[np.append(True, np.diff(at) > _SAME)]
    at[0], at[-1] = 0.0, 1.0
    is_line = all(p.is_ribbon for p in section.parts)
    heights = low + at * (high - low)
    begins, ends = (_widths((a, b), y, heights, is_line=is_line) for y in (heights[:-1], heights[1:]))
    most = float(max(begins.max(), ends.max()))
    if not most > 0.0:
        raise SectionError("an outline without a width says nothing about sizes along a run")
    begins, ends = (np.where(v > _SAME * most, v / most, 0.0) for v in (begins, ends))
    steps = np.flatnonzero(np.abs(begins[1:] - ends[:-1]) > _SAME) + 1
    share = np.insert(at, steps, at[steps] - _STEP)
    value = np.insert(np.append(begins, ends[-1]), steps, ends[steps - 1])
    keep = _bends(share, value)
    return share[keep], value[keep]


def _sides(section: SectionShape) -> tuple[Floats, Floats]:
    """Ends (n, 2) of straight sides along all outer loops: curves have a place wherever they turn back in height."""
    ways = [_places(segment) for part in section.parts for segment in part.outer.drawn]
    return np.concatenate([w[:-1] for w in ways]), np.concatenate([w[1:] for w in ways])


def _places(segment: Segment) -> Floats:
    if not segment.is_curved:
        return np.array([segment.start, segment.end])
    quarters = ceil(abs(segment.a1 - segment.a0) / (0.5 * pi) - 1e-9) if segment.is_arc else 1
    t = np.linspace(0.0, 1.0, _PIECES * quarters + 1)
    rises = segment.slope(t)[:, 1] > 0.0
    turns = np.flatnonzero(rises[1:] != rises[:-1])
    low, high = t[turns], t[turns + 1]
    for _ in range(_HALVINGS if len(turns) else 0):
        middle = 0.5 * (low + high)
        same = (segment.slope(middle)[:, 1] > 0.0) == rises[turns]
        low, high = np.where(same, middle, low), np.where(same, high, middle)
    places: Floats = segment.at(np.union1d(t, low))
    places[0], places[-1] = segment.start, segment.end
    return places


def _widths(sides: tuple[Floats, Floats], y: Floats, at: Floats, *, is_line: bool) -> Floats:
    """How wide sides are at heights y (m,), one in each interval of heights ``at`` (m + 1,), seen from within that."""
    (a, b), middle = sides, 0.5 * (at[:-1] + at[1:])
    inside = (np.minimum(a[:, 1], b[:, 1]) <= middle[:, None]) & (np.maximum(a[:, 1], b[:, 1]) >= middle[:, None])
    rise = np.where(b[:, 1] == a[:, 1], 1.0, b[:, 1] - a[:, 1])
    x = a[:, 0] + (y[:, None] - a[:, 1]) / rise * (b[:, 0] - a[:, 0])
    if is_line:
        return np.asarray(np.where(inside, np.abs(x), 0.0).max(1))
    right, left = np.where(inside, x, -np.inf).max(1), np.where(inside, x, np.inf).min(1)
    return np.asarray(np.where(inside.any(1), right - left, 0.0))


def _bends(share: Floats, value: Floats) -> Floats:
    """Which places are ends, or where the law bends."""
    keep = np.ones(len(share), dtype=bool)
    on = value[:-2] + (share[1:-1] - share[:-2]) / (share[2:] - share[:-2]) * (value[2:] - value[:-2])
    keep[1:-1] = np.abs(value[1:-1] - on) > _SAME
    return keep
