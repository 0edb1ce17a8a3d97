"""Places and frames along cubics: the loops of ``arclength`` and ``frames``."""

from math import sqrt
from typing import Any

import numpy as np

from morphax.core.kernels.compiling import helper, kernel, packed, spread
from morphax.core.types import Floats

_X, _W = np.polynomial.legendre.leggauss(8)
NODES, WEIGHTS = 0.5 * (_X + 1.0), 0.5 * _W
"""Gauss-Legendre on (0, 1)."""
_ROUNDS = 12
NUMBERS = 15
"""Numbers of a frame: point, right, up, tangent and curvature vector."""


Five = tuple[float, float, float, float, float]
"""Coefficients of a squared speed."""


@helper
def _five(speed2: Floats, b: int, k: int) -> Five:
    return speed2[b, k, 0], speed2[b, k, 1], speed2[b, k, 2], speed2[b, k, 3], speed2[b, k, 4]


@helper
def _speed(c: Five, t: float) -> float:
    """Speed from the coefficients of its square."""
    return sqrt(max((((c[4] * t + c[3]) * t + c[2]) * t + c[1]) * t + c[0], 0.0))


@helper
def _covered(c: Five, start: float, width: float) -> float:
    """Length from a parameter on, over ``width``."""
    total = 0.0
    for k in range(4):  # pairs of nodes are independent of each other, so that the processor does both at once
        a, b = _speed(c, start + width * NODES[k]), _speed(c, start + width * NODES[7 - k])
        total += WEIGHTS[k] * (a + b)
    return total * width


@helper
def _holding(at: Floats, b: int, bounds: tuple[int, int], near: int, s: float) -> int:
    """Index of the last of ``at[b]`` from ``bounds[0]`` on, before ``bounds[1]``, that is not beyond a distance.

    ``near`` is where to look first: distances mostly come in order, and then it is there or just after.
    """
    low, high = bounds
    if low <= near < high and at[b, near] <= s:
        low = near
        for _ in range(4):
            if low + 1 >= high or at[b, low + 1] > s:
                return low
            low += 1
    while high - low > 1:
        middle = (low + high) // 2
        if at[b, middle] <= s:
            low = middle
        else:
            high = middle
    return low


@helper
def _parameter(c: Five, span_t: float, pieces: int, length: float, far: float) -> float:
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
        total, index = at[b, at.shape[1] - 1], 0
        for i in range(s.shape[1]):
            d = min(max(s[b, i], 0.0), total)
            index = _holding(at, b, (0, at.shape[1] - 1), index, d)
            k = index // pieces
            begin = (index - k * pieces) / pieces
            x = _parameter(_five(speed2, b, k), begin, pieces, at[b, index + 1] - at[b, index], d - at[b, index])
            span[b, i], t[b, i] = k, begin + x / pieces


def find_places(at: Floats, speed2: Floats, pieces: int, s: Floats) -> tuple[np.ndarray, Floats]:
    """Span and parameter (..., r) at distances ``s``, from a table ``at`` (..., n) and ``speed2`` (..., m, 5)."""
    shape = (*at.shape[:-1], s.shape[-1])
    span, t = np.empty(shape, dtype=np.int64), np.empty(shape)
    table = packed(at).reshape(-1, at.shape[-1])
    rows = (len(table), s.shape[-1])
    _find_places(
        table,
        packed(speed2).reshape(-1, *speed2.shape[-2:]),
        pieces,
        spread(s, shape).reshape(rows),
        span.reshape(rows),
        t.reshape(rows),
    )
    return span, t


@kernel("f3 f i >i1")
def _count_pieces(speed2: Floats, relative: float, most: int, pieces: np.ndarray) -> None:
    spans = speed2.shape[1]
    known = np.empty(spans)
    for b in range(speed2.shape[0]):
        for m in range(spans):
            known[m] = _covered(_five(speed2, b, m), 0.0, 1.0)
        count = 1
        while count < most:
            count *= 2
            change = longest = 0.0
            for m in range(spans):
                whole = 0.0
                for k in range(count):
                    whole += _covered(_five(speed2, b, m), k * (1.0 / count), 1.0 / count)
                change, longest = max(change, abs(whole - known[m])), max(longest, whole)
                known[m] = whole
            if change <= relative * max(longest, 1e-300):
                break
        pieces[b] = count


def needed_pieces(speed2: Floats, relative: float, most: int) -> np.ndarray:
    """How many pieces (b,) each span of chains (b, m, 5) takes so that its length is right to ``relative`` of the
    longest one: doubled until halving them again changes no more, or there are ``most``."""
    flat = packed(speed2).reshape(-1, *speed2.shape[-2:])
    pieces = np.empty(len(flat), dtype=np.int64)
    _count_pieces(flat, relative, most, pieces)
    return pieces


@kernel("f3 >f3")
def _measure_pieces(speed2: Floats, lengths: Floats) -> None:
    width = 1.0 / lengths.shape[2]
    for b in range(lengths.shape[0]):
        for m in range(lengths.shape[1]):
            for k in range(lengths.shape[2]):
                lengths[b, m, k] = _covered(_five(speed2, b, m), k * width, width)


def piece_lengths(speed2: Floats, pieces: int) -> Floats:
    """Lengths (..., m, k) of k equal parameter pieces of spans, by 8-point Gauss-Legendre."""
    out = np.empty((*speed2.shape[:-1], pieces))
    _measure_pieces(packed(speed2).reshape(1, -1, 5), out.reshape(1, -1, pieces))
    return out


@kernel("f3 i2 f2 f2 >f2")
def _cover(speed2: Floats, span: np.ndarray, start: Floats, width: Floats, out: Floats) -> None:
    for b in range(span.shape[0]):
        for i in range(span.shape[1]):
            out[b, i] = _covered(_five(speed2, b, span[b, i]), start[b, i], width[b, i])


def covered_lengths(speed2: Floats, span: np.ndarray, start: Floats, width: Floats) -> Floats:
    """Lengths (..., r) from parameters ``start`` of spans on, over ``width``."""
    out = np.empty(span.shape)
    coefficients = packed(speed2).reshape(-1, *speed2.shape[-2:])
    rows = (len(coefficients), span.shape[-1])
    begin, over = (packed(v).reshape(rows) for v in (start, width))
    _cover(coefficients, packed(span, np.int64).reshape(rows), begin, over, out.reshape(rows))
    return out


@helper
def _write_curve(powers, b, k, t, least, out, i) -> None:  # type: ignore[no-untyped-def]
    """Point, unit tangent and curvature vector of span ``k`` at ``t`` into ``out[b, i]`` (see ``NUMBERS``).

    Where an inner control point lies on the end there is no speed, and the second derivative gives the direction.
    """
    speed2 = size2 = along = 0.0
    for c in range(3):
        c0, c1, c2, c3 = powers[b, k, 0, c], powers[b, k, 1, c], powers[b, k, 2, c], powers[b, k, 3, c]
        first, second = (3.0 * c3 * t + 2.0 * c2) * t + c1, 6.0 * c3 * t + 2.0 * c2
        out[b, i, c] = ((c3 * t + c2) * t + c1) * t + c0
        out[b, i, 9 + c], out[b, i, 12 + c] = first, second
        speed2 += first * first
        size2 += second * second
        along += first * second
    if speed2 <= least:
        way = (1.0 if t < 0.5 else -1.0) / (sqrt(size2) if size2 > 0.0 else 1.0)
        for c in range(3):
            out[b, i, 9 + c] = way * out[b, i, 12 + c]
            out[b, i, 12 + c] = 0.0
        return
    speed = sqrt(speed2)
    for c in range(3):
        out[b, i, 12 + c] = (out[b, i, 12 + c] - along / speed2 * out[b, i, 9 + c]) / speed2
        out[b, i, 9 + c] /= speed


@helper
def _edge(at: Floats, b: int, pieces: int, spans: int, place: int) -> Any:
    """Distance of a place between spans; past the whole length where a closed path wraps."""
    if place <= spans:
        return at[b, place * pieces]
    return at[b, (place - spans) * pieces] + at[b, spans * pieces]


@kernel("f2 f3 f4 i i2 >f2 >f3")
def _sample_legs(at, speed2, powers, pieces, legs, s, out) -> None:  # type: ignore[no-untyped-def]
    spans = powers.shape[1]
    for b in range(s.shape[0]):
        total = at[b, spans * pieces]
        least = 1e-24 * total * total
        for leg in range(legs.shape[0]):
            i = legs[leg, 2]
            steps = (legs[leg, 3] - i) // (legs[leg, 1] - legs[leg, 0])
            for place in range(legs[leg, 0], legs[leg, 1]):
                k, width = place % spans, 1.0 / steps
                begin = at[b, k * pieces] + (total if place >= spans else 0.0)
                whole, sum_ = at[b, (k + 1) * pieces] - at[b, k * pieces], 0.0
                for n in range(steps):  # lengths of the steps first, so that they can add up to the span's own
                    s[b, i + n] = sum_
                    sum_ += 1.0 if steps == 1 else _covered(_five(speed2, b, k), n * width, width)
                for n in range(steps):
                    s[b, i + n] = begin + s[b, i + n] * (whole / sum_ if sum_ > 0.0 else 1.0)
                    _write_curve(powers, b, k, n * width, least, out, i + n)
                i += steps
            s[b, i] = _edge(at, b, pieces, spans, legs[leg, 1])
            _write_curve(powers, b, (legs[leg, 1] - 1) % spans, 1.0, least, out, i)


@helper
def _carry(b, given, j, out, i, least) -> None:  # type: ignore[no-untyped-def]
    """Carries the up ``given[b, j]`` to the place ``out[b, i]`` by one double reflection, made perpendicular there.

    A step of a squared length up to ``least`` is only rounding and has no direction to reflect in. Source: Wang,
    Juettler, Zheng, Liu, "Computation of Rotation Minimizing Frames", ACM TOG 2008.
    """
    a, d, e = (
        out[b, i, 0] - given[b, j, 0],
        out[b, i, 1] - given[b, j, 1],
        out[b, i, 2] - given[b, j, 2],
    )
    tx, ty, tz = out[b, i, 9], out[b, i, 10], out[b, i, 11]
    x, y, z = given[b, j, 6], given[b, j, 7], given[b, j, 8]
    size = a * a + d * d + e * e
    if size > least:
        k = 2.0 / size
        ku, kt = k * (a * x + d * y + e * z), k * (a * given[b, j, 9] + d * given[b, j, 10] + e * given[b, j, 11])
        x, y, z = x - ku * a, y - ku * d, z - ku * e
        a, d, e = (
            tx - (given[b, j, 9] - kt * a),
            ty - (given[b, j, 10] - kt * d),
            tz - (given[b, j, 11] - kt * e),
        )
        size = a * a + d * d + e * e
        if size > 0.0:
            k = 2.0 / size * (a * x + d * y + e * z)
            x, y, z = x - k * a, y - k * d, z - k * e
    along = x * tx + y * ty + z * tz
    x, y, z = x - along * tx, y - along * ty, z - along * tz
    size = sqrt(x * x + y * y + z * z)
    size = size if size > 0.0 else 1.0
    x, y, z = x / size, y / size, z / size
    out[b, i, 6], out[b, i, 7], out[b, i, 8] = x, y, z
    out[b, i, 3], out[b, i, 4], out[b, i, 5] = ty * z - tz * y, tz * x - tx * z, tx * y - ty * x


@helper
def _least_step(values, b) -> float:  # type: ignore[no-untyped-def]
    """The squared length up to which a step is rounding: 1e-12 of the largest coordinate."""
    largest = 0.0
    for i in range(values.shape[1]):
        for c in range(3):
            largest = max(largest, abs(values[b, i, c]))
    return (1e-12 * largest) ** 2


@helper
def _turn_over(b, samples, j, i) -> None:  # type: ignore[no-untyped-def]
    """The up of sample ``i`` from that of ``j`` by the smallest rotation between their tangents.

    Exactly opposite tangents: half a turn about the up, which stays.
    """
    ax, ay, az = samples[b, j, 9], samples[b, j, 10], samples[b, j, 11]
    bx, by, bz = samples[b, i, 9], samples[b, i, 10], samples[b, i, 11]
    x, y, z = samples[b, j, 6], samples[b, j, 7], samples[b, j, 8]
    cos = ax * bx + ay * by + az * bz
    if cos > -1.0 + 1e-12:
        nx, ny, nz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
        k = (nx * x + ny * y + nz * z) / (1.0 + cos)
        samples[b, i, 6] = x * cos + ny * z - nz * y + nx * k
        samples[b, i, 7] = y * cos + nz * x - nx * z + ny * k
        samples[b, i, 8] = z * cos + nx * y - ny * x + nz * k
        return
    along = ax * x + ay * y + az * z
    px, py, pz = x - along * ax, y - along * ay, z - along * az
    size = px * px + py * py + pz * pz
    k = 2.0 * (px * x + py * y + pz * z) / (size if size > 0.0 else 1.0)
    samples[b, i, 6], samples[b, i, 7], samples[b, i, 8] = k * px - x, k * py - y, k * pz - z


@kernel("i2 >f3")
def _carry_legs(legs: np.ndarray, samples: Floats) -> None:
    for b in range(samples.shape[0]):
        least = _least_step(samples, b)
        for leg in range(legs.shape[0]):
            first = legs[leg, 2]
            if leg > 0:
                _turn_over(b, samples, first - 1, first)
            for c in range(3):  # right = tangent x up
                n, m = (c + 1) % 3, (c + 2) % 3
                samples[b, first, 3 + c] = samples[b, first, 9 + n] * samples[b, first, 6 + m]
                samples[b, first, 3 + c] -= samples[b, first, 9 + m] * samples[b, first, 6 + n]
            for i in range(first + 1, legs[leg, 3] + 1):
                _carry(b, samples, i - 1, samples, i, least)


def carry_legs(legs: np.ndarray, samples: Floats) -> None:
    """Carries the first up of ``samples`` (b, q, NUMBERS) along all ``legs`` (first, last span; first, last sample)."""
    _carry_legs(packed(legs, np.int64), samples)


def sampled_legs(at: Floats, speed2: Floats, powers: Floats, pieces: int, legs: np.ndarray) -> tuple[Floats, Floats]:
    """Samples of all legs one after the other: distances (b, q), and (b, q, NUMBERS).

    ``legs`` (n, 4): first span, last span (not included), index of the first and of the last sample.
    """
    count = int(legs[-1, 3]) + 1
    spans = powers.reshape(-1, *powers.shape[-3:])
    s, out = np.empty((len(spans), count)), np.empty((len(spans), count, NUMBERS))
    table = (packed(at).reshape(len(spans), -1), packed(speed2).reshape(len(spans), -1, 5), packed(spans))
    _sample_legs(*table, pieces, packed(legs, np.int64), s, out)
    return s, out


@kernel("f2 f3 f4 i i2 f2 f3 i1 f2 >i2 >f3")
def _frame_places(at, speed2, powers, pieces, legs, known, samples, leg, s, index, out) -> None:  # type: ignore[no-untyped-def]
    spans = powers.shape[1]
    for b in range(s.shape[0]):
        total = at[b, spans * pieces]
        slack, piece, sample = 1e-13 * total, 0, 0
        least = 1e-24 * total * total
        for i in range(s.shape[1]):
            own, d = leg[i], s[b, i]
            if d <= _edge(at, b, pieces, spans, legs[own, 0]) + slack:
                k, t = legs[own, 0] % spans, 0.0
            elif d >= _edge(at, b, pieces, spans, legs[own, 1]) - slack:
                k, t = (legs[own, 1] - 1) % spans, 1.0
            else:
                far = d - total if d > total else d
                piece = _holding(at, b, (0, at.shape[1] - 1), piece, far)
                k = piece // pieces
                begin = (piece - k * pieces) / pieces
                length = at[b, piece + 1] - at[b, piece]
                t = begin + _parameter(_five(speed2, b, k), begin, pieces, length, far - at[b, piece]) / pieces
            _write_curve(powers, b, k, t, least, out, i)
            sample = _holding(known, b, (legs[own, 2], legs[own, 3]), sample, d)
            index[b, i] = sample
        least = _least_step(out, b)
        for i in range(s.shape[1]):
            _carry(b, samples, index[b, i], out, i, least)


def frame_places(
    table: tuple[Floats, Floats, Floats, int],
    legs: np.ndarray,
    known: tuple[Floats, Floats],
    leg: np.ndarray,
    s: Floats,
) -> tuple[np.ndarray, Floats]:
    """The path and its carried up at distances ``s`` (b, r) of legs ``leg`` (r,), one-sided at the legs' own ends.

    ``table`` distances, squared speeds, powers and pieces; ``legs`` (n, 4): first span, last span (not included),
    index of the first and of the last sample; ``known`` distances (b, q) and samples (b, q, NUMBERS). Returns the
    interval of each place, (b, r), and (b, r, NUMBERS).
    """
    at, speed2, powers, pieces = table
    count = len(powers.reshape(-1, *powers.shape[-3:]))
    index, out = np.empty(s.shape, dtype=np.int64), np.empty((*s.shape, NUMBERS))
    flat = (
        packed(at).reshape(count, -1),
        packed(speed2).reshape(count, -1, 5),
        packed(powers).reshape(count, -1, 4, 3),
    )
    asked = (packed(leg, np.int64), packed(s))
    _frame_places(*flat, pieces, packed(legs, np.int64), packed(known[0]), packed(known[1]), *asked, index, out)
    return index, out
