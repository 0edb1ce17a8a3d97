"""Places, points and lengths along cubics: the loops of ``arclength`` and ``legs``."""

from math import sqrt

import numpy as np

from morphax.core.kernels.compiling import helper, kernel, packed
from morphax.core.types import Floats, Points3, Vectors3

_X, _W = np.polynomial.legendre.leggauss(8)
NODES, WEIGHTS = 0.5 * (_X + 1.0), 0.5 * _W
"""Gauss-Legendre on (0, 1)."""
_ROUNDS = 12


@helper
def _speed(c: Floats, t: float) -> float:
    """Speed from the coefficients (5,) of its square."""
    return sqrt(max((((c[4] * t + c[3]) * t + c[2]) * t + c[1]) * t + c[0], 0.0))


@helper
def _covered(c: Floats, start: float, width: float) -> float:
    """Length from a parameter on, over ``width``."""
    total = 0.0
    for k in range(8):
        total += WEIGHTS[k] * _speed(c, start + width * NODES[k])
    return total * width


@helper
def _holding(at: Floats, s: float) -> int:
    """Index of the piece that holds a distance."""
    low, high = 0, at.shape[0] - 1
    while high - low > 1:
        middle = (low + high) // 2
        if at[middle] <= s:
            low = middle
        else:
            high = middle
    return low


@helper
def _parameter(c: Floats, span_t: float, pieces: int, length: float, far: float) -> float:
    """Share of a piece that begins at ``span_t`` at which ``far`` of its ``length`` is covered: Halley's method."""
    width = 1.0 / pieces
    length = max(length, 1e-300)
    share = min(max(far / length, 0.0), 1.0)
    mean = length * pieces
    a = min(mean / max(_speed(c, span_t), 1e-300), 3.0)
    b = min(mean / max(_speed(c, span_t + width), 1e-300), 3.0)
    x = share * (a + share * (3.0 - 2.0 * a - b + share * (a + b - 2.0)))
    for _ in range(_ROUNDS):
        t = span_t + x * width
        speed = max(_speed(c, t), 1e-9 * mean)
        step = (_covered(c, span_t, x * width) - far) * pieces / speed
        half_slope = ((2.0 * c[4] * t + 1.5 * c[3]) * t + c[2]) * t + 0.5 * c[1]
        bend = half_slope * 0.5 * width / (speed * speed)
        x = min(max(x - step / max(1.0 - step * bend, 0.5), 0.0), 1.0)
        if abs(step) < 2e-5:  # the method cubes the error: what is left is below 1e-14
            break
    return x


@kernel("f2 f3 i f2 >i2 >f2")
def _find_places(at: Floats, speed2: Floats, pieces: int, s: Floats, span: np.ndarray, t: Floats) -> None:
    for b in range(s.shape[0]):
        total = at[b, at.shape[1] - 1]
        for i in range(s.shape[1]):
            d = min(max(s[b, i], 0.0), total)
            index = _holding(at[b], d)
            k = index // pieces
            begin = (index - k * pieces) / pieces
            x = _parameter(speed2[b, k], begin, pieces, at[b, index + 1] - at[b, index], d - at[b, index])
            span[b, i], t[b, i] = k, begin + x / pieces


def find_places(at: Floats, speed2: Floats, pieces: int, s: Floats) -> tuple[np.ndarray, Floats]:
    """Span and parameter (..., r) at distances ``s``, from a table ``at`` (..., n) and ``speed2`` (..., m, 5)."""
    shape = (*at.shape[:-1], s.shape[-1])
    span, t = np.empty(shape, dtype=np.int64), np.empty(shape)
    count = s.shape[-1]
    rows = packed(np.broadcast_to(s, shape)).reshape(-1, count)
    _find_places(
        packed(at).reshape(-1, at.shape[-1]),
        packed(speed2).reshape(-1, *speed2.shape[-2:]),
        pieces,
        rows,
        span.reshape(-1, count),
        t.reshape(-1, count),
    )
    return span, t


@kernel("f2 >f2")
def _measure_pieces(speed2: Floats, lengths: Floats) -> None:
    width = 1.0 / lengths.shape[1]
    for m in range(lengths.shape[0]):
        for k in range(lengths.shape[1]):
            lengths[m, k] = _covered(speed2[m], k * width, width)


def piece_lengths(speed2: Floats, pieces: int) -> Floats:
    """Lengths (..., m, k) of k equal parameter pieces of spans, by 8-point Gauss-Legendre."""
    out = np.empty((*speed2.shape[:-1], pieces))
    _measure_pieces(packed(speed2).reshape(-1, 5), out.reshape(-1, pieces))
    return out


@kernel("f3 i2 f2 f2 >f2")
def _cover(speed2: Floats, span: np.ndarray, start: Floats, width: Floats, out: Floats) -> None:
    for b in range(span.shape[0]):
        for i in range(span.shape[1]):
            out[b, i] = _covered(speed2[b, span[b, i]], start[b, i], width[b, i])


def covered_lengths(speed2: Floats, span: np.ndarray, start: Floats, width: Floats) -> Floats:
    """Lengths (..., r) from parameters ``start`` of spans on, over ``width``."""
    out = np.empty(span.shape)
    r = span.shape[-1]
    rows = packed(speed2).reshape(-1, *speed2.shape[-2:])
    begin, over = (packed(v).reshape(-1, r) for v in (start, width))
    _cover(rows, packed(span, np.int64).reshape(-1, r), begin, over, out.reshape(-1, r))
    return out


@helper
def _direct(point: Floats, tangent: Floats, curvature: Floats, t: float, least: float) -> None:
    """From first and second derivative in ``tangent`` and ``curvature`` to a unit tangent and a curvature vector.

    Where an inner control point lies on the end there is no speed, and the second derivative gives the direction.
    """
    speed2 = tangent[0] * tangent[0] + tangent[1] * tangent[1] + tangent[2] * tangent[2]
    if speed2 <= least:
        size = sqrt(curvature[0] ** 2 + curvature[1] ** 2 + curvature[2] ** 2)
        way = (1.0 if t < 0.5 else -1.0) / (size if size > 0.0 else 1.0)
        for c in range(3):
            tangent[c] = way * curvature[c]
            curvature[c] = 0.0
        return
    speed = sqrt(speed2)
    along = 0.0
    for c in range(3):
        tangent[c] /= speed
        along += curvature[c] * tangent[c]
    for c in range(3):
        curvature[c] = (curvature[c] - along * tangent[c]) / speed2


@kernel("f4 i2 f2 f1 >f3 >f3 >f3")
def _follow(powers, span, t, total, point, tangent, curvature) -> None:  # type: ignore[no-untyped-def]
    for b in range(span.shape[0]):
        least = 1e-24 * total[b] * total[b]
        for i in range(span.shape[1]):
            k, x = span[b, i], t[b, i]
            for c in range(3):
                c0, c1, c2, c3 = powers[b, k, 0, c], powers[b, k, 1, c], powers[b, k, 2, c], powers[b, k, 3, c]
                point[b, i, c] = ((c3 * x + c2) * x + c1) * x + c0
                tangent[b, i, c] = (3.0 * c3 * x + 2.0 * c2) * x + c1
                curvature[b, i, c] = 6.0 * c3 * x + 2.0 * c2
            _direct(point[b, i], tangent[b, i], curvature[b, i], x, least)


def followed(powers: Floats, span: np.ndarray, t: Floats, total: Floats) -> tuple[Points3, Vectors3, Vectors3]:
    """Points, unit tangents and curvature vectors (..., r, 3) at parameters ``t`` of ``span`` (..., r).

    ``powers`` (..., m, 4, 3) the spans in powers of t; ``total`` (...) lengths, m: what counts as no speed.
    """
    shape = (*powers.shape[:-3], t.shape[-1])
    out = tuple(np.empty((*shape, 3)) for _ in range(3))
    count = shape[-1]
    _follow(
        packed(powers).reshape(-1, *powers.shape[-3:]),
        packed(np.broadcast_to(span, shape), np.int64).reshape(-1, count),
        packed(np.broadcast_to(t, shape)).reshape(-1, count),
        packed(total).reshape(-1),
        *(a.reshape(-1, count, 3) for a in out),
    )
    return out[0], out[1], out[2]
