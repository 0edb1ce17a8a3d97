"""Circular arcs found again in outlines of cubics: what files draw as arcs and circles stays that."""

from math import ceil, pi

import numpy as np

from morphax.core.types import Flags, Floats, Ints

_SAME = 1e-7
"""How near a cubic's handles come to those of an arc, and neighbours' centres and radii to each other, as a share."""
_LEAST, _MOST, _ROUND = 1e-6, pi * (1.0 + 1e-6), 4


def found_arcs(spans: Floats, straight: Flags, first: Ints) -> tuple[Ints, Floats]:
    """Closed chains of cubics ``spans`` (m, 4, 2), one after the other from ``first`` (l,), with their arcs as one
    stretch each: the spans (k,) at which stretches begin, and the bulges (k,) of those that are arcs, 0 for others.

    A stretch goes to where the next one of its chain begins, the last one to the first. An arc takes in its neighbours
    of the same circle, up to half a turn; a whole circle becomes four.
    """
    half, centre, radius = _circles(spans, straight)
    count = np.diff(np.append(first, len(spans)))
    last = first + count - 1
    onward = np.arange(1, len(spans) + 1)
    onward[last] = first
    same = (half * half[onward] > 0.0) & (np.abs(radius - radius[onward]) <= _SAME * radius)
    same &= np.hypot(*(centre - centre[onward]).T) <= _SAME * radius
    whole = np.logical_and.reduceat(same, first) & (count >= _ROUND)
    begins = np.ones(len(spans), dtype=np.bool_)
    begins[np.repeat(whole, count)] = False
    begins[(first[whole, None] + np.arange(_ROUND) * count[whole, None] // _ROUND).ravel()] = True
    for loop in np.flatnonzero(~whole & np.logical_or.reduceat(same, first)):
        own = slice(first[loop], last[loop] + 1)
        begins[own] = _begins(half[own], same[own])
    begin: Ints = np.flatnonzero(begins).astype(np.int32)
    return begin, _bulges(half, begins, first, last)


def _circles(spans: Floats, straight: Flags) -> tuple[Floats, Floats, Floats]:
    """Half the signed turn (m,) of cubics that are arcs of circles, 0 for others; their centres (m, 2) and radii."""
    a, d = spans[:, 0], spans[:, 3]
    chord, out, into = d - a, spans[:, 1] - a, d - spans[:, 2]
    long, reach, arrives = (np.hypot(*v.T) for v in (chord, out, into))
    half = -np.arctan2(chord[:, 0] * out[:, 1] - chord[:, 1] * out[:, 0], (chord * out).sum(1))
    then = -np.arctan2(into[:, 0] * chord[:, 1] - into[:, 1] * chord[:, 0], (into * chord).sum(1))
    turns = ~straight & (long > 0.0) & (np.abs(half) > _LEAST) & (np.abs(half) < 0.5 * pi)
    sine = np.where(turns, np.sin(half), 1.0)
    radius = 0.5 * long / np.abs(sine)
    wanted = 4.0 / 3.0 * np.tan(0.5 * np.abs(half)) * radius
    turns &= (np.abs(half - then) <= _SAME) & (
        np.maximum(np.abs(reach - wanted), np.abs(arrives - wanted)) <= _SAME * wanted
    )
    offset = 0.5 / np.tan(np.where(turns, half, 1.0))
    centre = 0.5 * (a + d) + offset[:, None] * np.stack([-chord[:, 1], chord[:, 0]], axis=1)
    return np.where(turns, half, 0.0), centre, radius


def _begins(half: Floats, same: Flags) -> Flags:
    """At which spans of one chain, that is no whole circle, stretches begin."""
    out: Flags = ~np.roll(same, 1)
    n = len(half)
    for start in np.flatnonzero(out & same):
        run = [start]
        while same[run[-1] % n]:
            run.append(run[-1] + 1)
        turn = 2.0 * np.abs(half[np.array(run) % n])
        pieces = ceil(float(turn.sum()) / _MOST)
        for k in range(1, pieces):
            cut = int(np.argmin(np.abs(np.cumsum(turn) - turn.sum() * k / pieces))) + 1
            out[(start + cut) % n] = True
    return out


def _bulges(half: Floats, begins: Flags, first: Ints, last: Ints) -> Floats:
    """The tangent of a quarter of each stretch's turn."""
    grown = np.concatenate([[0.0], np.cumsum(half)])
    begin = np.flatnonzero(begins)
    loop = np.searchsorted(first, begin, side="right") - 1
    after = np.append(begin[1:], 0)
    ends = np.append(loop[1:] != loop[:-1], True)
    own = np.append(0, np.flatnonzero(ends)[:-1] + 1)  # the first stretch of each chain
    turn = grown[after] - grown[begin]
    at = np.flatnonzero(ends)
    turn[at] = grown[last[loop[at]] + 1] - grown[begin[at]] + grown[begin[own]] - grown[first[loop[own]]]
    bulges: Floats = np.tan(0.5 * turn)
    return bulges
