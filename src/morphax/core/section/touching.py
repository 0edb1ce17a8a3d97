"""Places of an outline at which a line from elsewhere touches it, or meets it squarely."""

from collections.abc import Sequence

import numpy as np

from morphax.core.section.outlines import Loop
from morphax.core.section.segment_table import SegmentTable, table_of
from morphax.core.types import Floats, Ints

_LOOKED, _ROUNDS = 33, 50
"""Places on a segment between which a change of sign is looked for; halvings that find where it is."""


def tangents_from(loop: Loop, place: tuple[float, float], segments: Sequence[int] | None = None) -> Floats:
    """The places (n, 2) at which lines from a ``place``, m, touch an outline's arcs and curves, or some ``segments``
    of it by their numbers."""
    which = _drawn(loop, segments)
    bent = [k for k in which if loop.segments[k].is_arc or loop.segments[k].inner is not None]
    return _found(table_of(loop), np.array(bent, dtype=np.int64), np.array(place), across=True)


def feet_from(loop: Loop, place: tuple[float, float], segments: Sequence[int] | None = None) -> Floats:
    """The places (n, 2) at which lines from a ``place``, m, meet an outline's lines, arcs and curves squarely."""
    which = _drawn(loop, segments)
    return _found(table_of(loop), np.array(which, dtype=np.int64), np.array(place), across=False)


def _drawn(loop: Loop, segments: Sequence[int] | None) -> list[int]:
    """Segments by their numbers, all where none are named; a ribbon's gap is none."""
    return [k for k in range(len(loop.drawn)) if segments is None or k in segments]


def _found(table: SegmentTable, which: Ints, place: Floats, *, across: bool) -> Floats:
    """Where the slope and the way from a place have no cross product, or no scalar one, on segments ``which``."""
    if not len(which):
        return np.empty((0, 2))

    def off(k: Ints, t: Floats) -> Floats:
        way, slope = table.at(k, t) - place, table.slope(k, t)
        if across:
            return way[:, 0] * slope[:, 1] - way[:, 1] * slope[:, 0]
        along: Floats = (way * slope).sum(1)
        return along

    t = np.linspace(0.0, 1.0, _LOOKED)
    values = off(np.repeat(which, _LOOKED), np.tile(t, len(which))).reshape(len(which), _LOOKED)
    i, j = np.nonzero(values[:, :-1] * values[:, 1:] <= 0.0)
    k, low, high = which[i], t[j], t[j + 1]
    sign = np.sign(values[i, j])
    for _ in range(_ROUNDS):
        middle = 0.5 * (low + high)
        same = np.sign(off(k, middle)) == sign
        low, high = np.where(same, middle, low), np.where(same, high, middle)
    at = table.at(k, 0.5 * (low + high))
    far = np.hypot(*(at - place).T)
    keep = far > 1e-9 * max(float(far.max(initial=0.0)), 1e-300)
    out: Floats = at[keep]
    return out
