"""How many sides each piece of an outline is sampled with: within a deviation, or so many in all."""

import numpy as np

from morphax.core.errors import DensityError
from morphax.core.section.outlines import Loop, Segment, loop_area
from morphax.core.section.segment_table import Index, SegmentTable
from morphax.core.types import Floats

MOST_SIDES = 100_000
_FEWEST_ROUND = 3
_FEW, _HALVINGS, _LEAST_HELD = 6, 40, 0.1
"""Loops of curves that have no more points are looked at: whether they hold so much of their true area."""
_X, _W = np.polynomial.legendre.leggauss(24)
NODES, WEIGHTS = 0.5 * (_X + 1.0), 0.5 * _W


def pieces_of(
    loops: tuple[Loop, ...], table: SegmentTable, deviation: float | None, sides: int | None
) -> tuple[Index, bool]:
    """Number of equal parameter pieces for each segment (m,), and whether corners took more than was asked."""
    if deviation is None:
        found = [_pieces_by_count(loop, sides or 0) for loop in loops]
        return np.concatenate([np.array(n, dtype=np.int64) for n, _ in found]), any(short for _, short in found)
    pieces = table.pieces_within(deviation)
    pieces[table.gaps] = 1
    most = int(np.add.reduceat(pieces, table.first[:-1]).max())
    if most > MOST_SIDES:
        raise DensityError(f"this density asks for {most} sides; {MOST_SIDES} is the limit")
    whole = table.is_round[table.of]
    pieces[whole] = np.maximum(pieces[whole], _FEWEST_ROUND)
    few = np.add.reduceat(pieces, table.first[:-1]) <= _FEW
    curved = (table.is_arc | table.is_cubic).astype(np.int64)
    for k in np.flatnonzero(few & (np.add.reduceat(curved, table.first[:-1]) > 0)).tolist():
        if not loops[k].is_open and not loops[k].is_round:
            _make_hold(loops[k], table, pieces, slice(table.first[k], table.first[k + 1]), deviation)
    return pieces, False


def _make_hold(loop: Loop, table: SegmentTable, pieces: Index, own: slice, deviation: float) -> None:
    """As many pieces of a coarse loop as it takes to hold something: chords of arcs may lie on each other."""
    whole = abs(loop_area(loop))
    for _ in range(_HALVINGS):
        index = np.repeat(np.arange(own.start, own.stop), pieces[own])
        n = pieces[index]
        step = np.concatenate([np.arange(k) for k in pieces[own]]) / n
        x, y = table.at(index, step).T
        if 0.5 * abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) >= _LEAST_HELD * whole:
            return
        deviation *= 0.5
        pieces[own] = np.maximum(pieces[own], table.pieces_within(deviation)[own])


def _pieces_by_count(loop: Loop, sides: int) -> tuple[list[int], bool]:
    """Number of equal parameter pieces for each segment of a loop of so many sides, and whether corners took more."""
    if loop.is_open:
        own, more = _pieces_by_count(Loop(loop.drawn), sides)
        return [*own, 1], more
    segments = loop.segments
    pieces = np.ones(len(segments), dtype=int)
    if sides < len(segments):
        return [1] * len(segments), True
    if loop.is_round:
        return [sides], False
    length = np.array([float(_piece_lengths(s, 1)[0]) for s in segments])
    curved = np.array([s.is_curved for s in segments])
    for _ in range(sides - len(segments)):
        if curved.any():
            error = [float(s.deviation(np.array(float(n)))) for s, n in zip(segments, pieces, strict=True)]
            pieces[int(np.argmax(error))] += 1
        else:
            pieces[int(np.argmax(length / pieces))] += 1
    return [int(n) for n in pieces], False


def _piece_lengths(segment: Segment, n: int) -> Floats:
    """Lengths (n,) of equal parameter pieces, m."""
    t = (np.arange(n)[:, None] + NODES) / n
    slope = segment.slope(t.ravel())
    out: Floats = (np.hypot(slope[:, 0], slope[:, 1]).reshape(n, -1) @ WEIGHTS) / n
    return out
