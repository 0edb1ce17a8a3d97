"""Arc length of chains, and the way back from distances to places."""

from dataclasses import dataclass

import numpy as np

from morphax.core.paths import Chain
from morphax.core.types import Floats, Spans, frozen

_X, _W = np.polynomial.legendre.leggauss(8)
_NODES, _WEIGHTS = 0.5 * (_X + 1.0), 0.5 * _W
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


def _speed(coefficients: Floats, t: Floats) -> Floats:
    """Speeds at parameters; ``coefficients`` (..., 5) broadcast against ``t``."""
    c = coefficients
    value = c[..., 4] * t
    for i in (3, 2, 1):
        value += c[..., i]
        value *= t
    value += c[..., 0]
    out: Floats = np.sqrt(np.maximum(value, 0.0, out=value), out=value)
    return out


def _piece_lengths(speed2: Floats, pieces: int) -> Floats:
    """Lengths (..., m, k) of k equal parameter pieces of each span, by 8-point Gauss-Legendre."""
    t = (np.arange(pieces)[:, None] + _NODES) / pieces
    out: Floats = (_speed(speed2[..., None, None, :], t) @ _WEIGHTS) / pieces
    return out


def length_table(chain: Chain, *, relative: float = 1e-12) -> LengthTable:
    """Measures a chain with as many pieces as it takes for ``relative`` accuracy of each span.

    Spans with a cusp converge slowly; at 512 pieces the result is taken as it stands (error below 1e-6).
    """
    speed2 = _squared_speed(chain.spans)
    pieces, lengths = 1, _piece_lengths(speed2, 1)
    if not chain.straight.all():
        while pieces < _MOST_PIECES:
            finer = _piece_lengths(speed2, 2 * pieces)
            change = np.abs(finer.sum(-1) - lengths.sum(-1)).max()
            pieces, lengths = 2 * pieces, finer
            if change <= relative * max(float(finer.sum(-1).max()), 1e-300):
                break
        pieces, lengths = 2 * pieces, _piece_lengths(speed2, 2 * pieces)  # so that first guesses are near
    flat = lengths.reshape(*lengths.shape[:-2], -1)
    at = np.concatenate([np.zeros((*flat.shape[:-1], 1)), np.cumsum(flat, axis=-1)], axis=-1)
    return LengthTable(chain.spans, pieces, frozen(at), frozen(speed2), frozen(_POWERS @ chain.spans))


def _piece_index(at: Floats, s: Floats) -> np.ndarray:
    """Index of the table piece that holds each distance, row by row over the batch in one search."""
    last = at.shape[-1] - 2
    if at.ndim == 1:
        return np.clip(np.searchsorted(at, s, side="right") - 1, 0, last)
    rows = at.reshape(-1, at.shape[-1])
    step = 2.0 * float(rows[:, -1].max()) + 1.0
    lift = step * np.arange(len(rows))[:, None]
    wanted = np.broadcast_to(s, (*at.shape[:-1], s.shape[-1])).reshape(len(rows), -1)
    found: np.ndarray = np.searchsorted((rows + lift).ravel(), (wanted + lift).ravel(), side="right") - 1
    found = found.reshape(wanted.shape) - at.shape[-1] * np.arange(len(rows))[:, None]
    out: np.ndarray = np.clip(found, 0, last).reshape(*at.shape[:-1], -1)
    return out


def sub_lengths(table: LengthTable, index: np.ndarray, steps: int) -> Floats:
    """Lengths (..., k, steps) of equal parameter steps of spans ``index`` (k,), adding up to the spans' own, m."""
    if steps == 1:
        parts = np.ones((*table.total.shape, len(index), 1))
    else:
        parts = _piece_lengths(table.speed2[..., index, :], steps)
    whole = np.diff(table.at_knots, axis=-1)[..., index, None]
    total = parts.sum(-1, keepdims=True)
    out: Floats = parts * (whole / np.where(total > 0.0, total, 1.0))
    return out


def spans_of(spans: Spans, index: np.ndarray) -> Spans:
    """Gathers spans (..., r, 4, 3) by index (..., r) from (..., m, 4, 3); number by number in memory, as vectors."""
    if spans.ndim == 3:
        return spans.transpose(1, 2, 0).take(index, axis=2).transpose(2, 0, 1)
    out: Spans = np.take_along_axis(spans, index[..., None, None], axis=-3)
    return out


def _gathered(coefficients: Floats, index: np.ndarray) -> Floats:
    """Rows (..., r, 5) of (..., m, 5) by index (..., r)."""
    if coefficients.ndim == 2:
        return coefficients.T.take(index, axis=1).T
    out: Floats = np.take_along_axis(coefficients, index[..., None], axis=-2)
    return out


def places_at(table: LengthTable, s: Floats) -> Places:
    """Places at distances ``s`` (..., r), m, by Halley's method inside the table's pieces, to 1e-13 of them.

    Distances outside the path are taken at its ends.
    """
    s = np.clip(s, 0.0, table.total[..., None])
    index = _piece_index(table.at, s)
    start = np.take_along_axis(table.at, index, -1) if table.at.ndim > 1 else table.at[index]
    end = np.take_along_axis(table.at, index + 1, -1) if table.at.ndim > 1 else table.at[index + 1]
    length = np.maximum(end - start, 1e-300)
    span, piece = index // table.pieces, index % table.pieces
    own = _gathered(table.speed2, span)
    x = _first_guess(own, piece, table.pieces, length, np.clip((s - start) / length, 0.0, 1.0))
    wanted = (s - start) * table.pieces
    for _ in range(12):
        t = (piece + x) / table.pieces
        speed = np.maximum(_speed(own, t), 1e-9 * length * table.pieces)
        step = (_covered(own, piece, x, table.pieces) - wanted) / speed
        bend = _half_slope(own, t) / (2.0 * table.pieces * speed * speed)
        x = np.clip(x - step / np.maximum(1.0 - step * bend, 0.5), 0.0, 1.0)
        if np.abs(step).max(initial=0.0) < 2e-5:  # the method cubes the error: what is left is below 1e-14
            break
    return Places(span, (piece + x) / table.pieces)


def _half_slope(coefficients: Floats, t: Floats) -> Floats:
    """Half the derivative of the squared speed, which is speed times its own derivative."""
    c = coefficients
    value = (2.0 * c[..., 4]) * t
    value += 1.5 * c[..., 3]
    value *= t
    value += c[..., 2]
    value *= t
    value += 0.5 * c[..., 1]
    return value


def _covered(own: Floats, piece: np.ndarray, x: Floats, pieces: int) -> Floats:
    """Lengths (..., r) from the start of table pieces to their share ``x``, times the number of pieces, m."""
    nodes = _NODES.reshape(-1, *(1 for _ in x.shape))
    speeds = _speed(own, (piece + x * nodes) / pieces)
    out: Floats = np.tensordot(_WEIGHTS, speeds, 1) * x
    return out


def _first_guess(own: Floats, piece: np.ndarray, pieces: int, length: Floats, share: Floats) -> Floats:
    """Parameters at shares of the pieces' lengths by the cubic that has the right slopes at both ends."""
    mean = length * pieces
    a, b = (np.minimum(mean / np.maximum(_speed(own, (piece + k) / pieces), 1e-300), 3.0) for k in (0, 1))
    x: Floats = share * (a + share * (3.0 - 2.0 * a - b + share * (a + b - 2.0)))
    return x


def distances_of(table: LengthTable, places: Places) -> Floats:
    """Distances (..., r), m, of places: the way back from ``places_at``."""
    piece = np.minimum((places.t * table.pieces).astype(int), table.pieces - 1)
    x = places.t * table.pieces - piece
    index = places.span * table.pieces + piece
    start = np.take_along_axis(table.at, index, -1) if table.at.ndim > 1 else table.at[index]
    own = _gathered(table.speed2, places.span)
    out: Floats = start + _covered(own, piece, x, table.pieces) / table.pieces
    return out
