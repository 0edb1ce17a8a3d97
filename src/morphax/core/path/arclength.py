"""Arc length of chains, and the way back from distances to places."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from morphax.core.kernels.along import covered_lengths, find_places, piece_lengths
from morphax.core.path.paths import Chain
from morphax.core.types import Floats, Spans, frozen

_MOST_PIECES = 512


@dataclass(frozen=True, eq=False)
class LengthTable:
    """Distances at equal parameter steps of a chain.

    ``at`` (..., m*k+1) distances from the start, m; ``pieces`` k per span; ``speed2`` (..., m, 5) coefficients
    of the squared speed in powers of t: a quartic, much quicker to integrate than the curve itself. ``powers``
    (..., m, 4, 3) the spans in powers of t.
    """

    spans: Spans
    pieces: int
    at: Floats
    speed2: Floats
    powers: Floats

    @property
    def total(self) -> Floats:
        """Length of the path, (...), m."""
        total: Floats = self.at[..., -1]
        return total

    @property
    def at_knots(self) -> Floats:
        """Distances of the chain's knots, (..., m+1), m."""
        return self.at[..., :: self.pieces]


@dataclass(frozen=True, eq=False)
class Places:
    """Places on a chain: ``span`` index and parameter ``t`` in it, both (..., r)."""

    span: np.ndarray
    t: Floats


_DERIVATIVE = np.array([[-3.0, 3.0, 0.0, 0.0], [6.0, -12.0, 6.0, 0.0], [-3.0, 9.0, -9.0, 3.0]])
"""Control points to the derivative's coefficients of 1, t and t^2."""
_POWERS = np.array([[1.0, 0.0, 0.0, 0.0], [-3.0, 3.0, 0.0, 0.0], [3.0, -6.0, 3.0, 0.0], [-1.0, 3.0, -3.0, 1.0]])
"""Control points to the curve's coefficients of 1, t, t^2 and t^3."""


def _squared_speed(spans: Spans) -> Floats:
    """Coefficients (..., m, 5) of |B'(t)|^2 in powers of t."""
    c = _DERIVATIVE @ spans  # (..., m, 3 powers, 3)
    pair = c @ np.swapaxes(c, -1, -2)
    out = np.zeros((*spans.shape[:-2], 5))
    for i in range(3):
        for j in range(3):
            out[..., i + j] += pair[..., i, j]
    return out


def length_table(chain: Chain, *, relative: float = 1e-12) -> LengthTable:
    """Measures a chain with as many pieces as it takes for ``relative`` accuracy of each span.

    Spans with a cusp converge slowly; at 512 pieces the result is taken as it stands (error below 1e-6).
    """
    speed2 = _squared_speed(chain.spans)
    pieces, lengths = 1, piece_lengths(speed2, 1)
    if not chain.straight.all():
        while pieces < _MOST_PIECES:
            finer = piece_lengths(speed2, 2 * pieces)
            change = np.abs(finer.sum(-1) - lengths.sum(-1)).max()
            pieces, lengths = 2 * pieces, finer
            if change <= relative * max(float(finer.sum(-1).max()), 1e-300):
                break
        pieces, lengths = 2 * pieces, piece_lengths(speed2, 2 * pieces)  # so that first guesses are near
    flat = lengths.reshape(*lengths.shape[:-2], -1)
    at = np.concatenate([np.zeros((*flat.shape[:-1], 1)), np.cumsum(flat, axis=-1)], axis=-1)
    return LengthTable(chain.spans, pieces, frozen(at), frozen(speed2), frozen(_POWERS @ chain.spans))


def measured(chain: Chain, *, relative: float = 1e-12) -> Iterator[tuple[np.ndarray, LengthTable]]:
    """Tables of a batch of chains (b, m, 4, 3), each as ``length_table`` measures it alone, by its own pieces.

    Gives indices of chains that need equally many, and their table.
    """
    speed2 = _squared_speed(chain.spans)
    powers, waiting, pieces = _POWERS @ chain.spans, np.arange(len(chain.spans)), 1
    lengths = piece_lengths(speed2, 1)
    while len(waiting):
        finer = piece_lengths(speed2[waiting], 2 * pieces)
        whole = finer.sum(-1)
        change = np.abs(whole - lengths.sum(-1)).max(-1)
        pieces = 2 * pieces
        done = (change <= relative * np.maximum(whole.max(-1), 1e-300)) | (pieces >= _MOST_PIECES)
        if done.any():
            which = waiting[done]
            flat = piece_lengths(speed2[which], 2 * pieces).reshape(len(which), -1)
            at = np.concatenate([np.zeros((len(which), 1)), np.cumsum(flat, axis=-1)], axis=-1)
            spans = frozen(chain.spans[which])
            yield which, LengthTable(spans, 2 * pieces, frozen(at), frozen(speed2[which]), frozen(powers[which]))
        waiting, lengths = waiting[~done], finer[~done]


def places_at(table: LengthTable, s: Floats) -> Places:
    """Places at distances ``s`` (..., r), m, by Halley's method inside the table's pieces, to 1e-13 of them.

    Distances outside the path are taken at its ends.
    """
    return Places(*find_places(table.at, table.speed2, table.pieces, s))


def distances_of(table: LengthTable, places: Places) -> Floats:
    """Distances (..., r), m, of places: the way back from ``places_at``."""
    piece = np.minimum((places.t * table.pieces).astype(int), table.pieces - 1)
    x = places.t * table.pieces - piece
    index = places.span * table.pieces + piece
    start = np.take_along_axis(table.at, index, -1) if table.at.ndim > 1 else table.at[index]
    out: Floats = start + covered_lengths(table.speed2, places.span, piece / table.pieces, x / table.pieces)
    return out
