"""Arc length of chains, and the way back from distances to places."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from morphax.core.kernels.along import covered_lengths, find_places, needed_pieces, piece_lengths
from morphax.core.kernels.measuring import span_powers
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


def length_table(chain: Chain, *, relative: float = 1e-12) -> LengthTable:
    """Measures a chain with as many pieces as it takes for ``relative`` accuracy of each span.

    Spans with a cusp converge slowly; at 512 pieces the result is taken as it stands (error below 1e-6).
    """
    powers, speed2 = span_powers(chain.spans)
    pieces = 1
    if not chain.straight.all():  # twice as many as it takes, so that first guesses are near
        pieces = 2 * int(needed_pieces(speed2, relative, _MOST_PIECES).max())
    flat = piece_lengths(speed2, pieces).reshape(*speed2.shape[:-2], -1)
    return LengthTable(chain.spans, pieces, frozen(_added_up(flat)), frozen(speed2), frozen(powers))


def _added_up(lengths: Floats) -> Floats:
    """Distances (..., n+1) of the ends of pieces with ``lengths`` (..., n)."""
    at = np.zeros((*lengths.shape[:-1], lengths.shape[-1] + 1))
    np.cumsum(lengths, axis=-1, out=at[..., 1:])
    return at


def measured(chain: Chain, *, relative: float = 1e-12) -> Iterator[tuple[np.ndarray, LengthTable]]:
    """Tables of a batch of chains (b, m, 4, 3), each as ``length_table`` measures it alone, by its own pieces.

    Gives indices of chains that need equally many, and their table.
    """
    powers, speed2 = span_powers(chain.spans)
    needed = needed_pieces(speed2, relative, _MOST_PIECES)
    for pieces in np.unique(needed):
        which = np.flatnonzero(needed == pieces)
        flat = piece_lengths(speed2[which], 2 * int(pieces)).reshape(len(which), -1)
        spans = frozen(chain.spans[which])
        yield (
            which,
            LengthTable(spans, 2 * int(pieces), frozen(_added_up(flat)), frozen(speed2[which]), frozen(powers[which])),
        )


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
