"""Small sums and searches over knots, spans and tracks: the loops of ``splines``, ``places`` and ``path_checks``."""

from math import acos, atan2, cos, radians, sin, sqrt

import numpy as np

from morphax.core.kernels.compiling import helper, kernel, packed, spread
from morphax.core.types import Floats, Points3, Vectors3


@kernel("f2 f2 f2 >f2 >f3")
def _solve(low: Floats, mid: Floats, high: Floats, c: Floats, x: Floats) -> None:
    for b in range(x.shape[0]):
        n = x.shape[1]
        for k in range(x.shape[2]):
            x[b, 0, k] /= mid[b, 0]
        c[b, 0] = high[b, 0] / mid[b, 0]
        for i in range(1, n):
            m = mid[b, i] - low[b, i] * c[b, i - 1]
            c[b, i] = high[b, i] / m
            for k in range(x.shape[2]):
                x[b, i, k] = (x[b, i, k] - low[b, i] * x[b, i - 1, k]) / m
        for i in range(n - 2, -1, -1):
            for k in range(x.shape[2]):
                x[b, i, k] -= c[b, i] * x[b, i + 1, k]


def solve_tridiagonal(low: Floats, mid: Floats, high: Floats, right: Floats) -> Floats:
    """Solutions (..., n, k) of tridiagonal systems: diagonals (..., n), right sides (..., n, k).

    By the Thomas algorithm.
    """
    n, k = right.shape[-2:]
    x = np.array(right, dtype=np.float64, order="C")
    rows = x.reshape(-1, n, k)
    diagonals = [spread(d, x.shape[:-1]).reshape(-1, n) for d in (low, mid, high)]
    _solve(diagonals[0], diagonals[1], diagonals[2], np.empty((len(rows), n)), rows)
    return x


@kernel("f3 f2 f >f4")
def _put_through(knots: Points3, steps: Floats, factor: float, spans: Floats) -> None:
    n = knots.shape[1]
    slope, c = np.empty((n, 3)), np.empty(n)
    for b in range(knots.shape[0]):
        c[0] = 0.5
        for k in range(3):
            slope[0, k] = 3.0 * ((knots[b, 1, k] - knots[b, 0, k]) / steps[b, 0]) / 2.0
        for i in range(1, n - 1):
            h, g = steps[b, i - 1], steps[b, i]
            m = 2.0 * (g + h) - g * c[i - 1]
            c[i] = h / m
            for k in range(3):
                before, after = (knots[b, i, k] - knots[b, i - 1, k]) / h, (knots[b, i + 1, k] - knots[b, i, k]) / g
                slope[i, k] = (3.0 * (g * before + h * after) - g * slope[i - 1, k]) / m
        for k in range(3):
            last = 3.0 * ((knots[b, n - 1, k] - knots[b, n - 2, k]) / steps[b, n - 2])
            slope[n - 1, k] = (last - slope[n - 2, k]) / (2.0 - c[n - 2])
        for i in range(n - 2, -1, -1):
            for k in range(3):
                slope[i, k] -= c[i] * slope[i + 1, k]
        for i in range(n - 1):
            h = steps[b, i] / 3.0
            for k in range(3):
                spans[b, i, 0, k], spans[b, i, 3, k] = knots[b, i, k], knots[b, i + 1, k]
                spans[b, i, 1, k] = knots[b, i, k] + h * (factor * slope[i, k])
                spans[b, i, 2, k] = knots[b, i + 1, k] - h * (factor * slope[i + 1, k])


def through_spans(knots: Points3, steps: Floats, factor: float = 1.0) -> Floats:
    """Bezier spans (..., n-1, 4, 3) of the natural C2 cubic through knots (..., n, 3) with parameter ``steps``
    (..., n-1); its slopes times ``factor``. The system is that of ``splines.open_slopes``."""
    spans = np.empty((*knots.shape[:-2], knots.shape[-2] - 1, 4, 3))
    flat = spans.reshape(-1, *spans.shape[-3:])
    _put_through(packed(knots).reshape(-1, *knots.shape[-2:]), packed(steps).reshape(len(flat), -1), factor, flat)
    return spans


@kernel("f3 >f3 >f2")
def _raise_spans(spans: Floats, powers: Floats, speed2: Floats) -> None:
    for m in range(spans.shape[0]):
        for k in range(5):
            speed2[m, k] = 0.0
        for c in range(3):
            a, b, d, e = spans[m, 0, c], spans[m, 1, c], spans[m, 2, c], spans[m, 3, c]
            first, second, third = 3.0 * (b - a), 3.0 * ((a - b) + (d - b)), (e - a) + 3.0 * (b - d)
            powers[m, 0, c], powers[m, 1, c], powers[m, 2, c], powers[m, 3, c] = a, first, second, third
            second, third = 2.0 * second, 3.0 * third
            speed2[m, 0] += first * first
            speed2[m, 1] += 2.0 * first * second
            speed2[m, 2] += 2.0 * first * third + second * second
            speed2[m, 3] += 2.0 * second * third
            speed2[m, 4] += third * third


def span_powers(spans: Floats) -> tuple[Floats, Floats]:
    """Spans (..., m, 4, 3) in powers of t, and their squared speeds (..., m, 5) in powers of t."""
    powers, speed2 = np.empty(spans.shape), np.empty((*spans.shape[:-2], 5))
    _raise_spans(packed(spans).reshape(-1, 4, 3), powers.reshape(-1, 4, 3), speed2.reshape(-1, 5))
    return powers, speed2


@helper
def _meet(low: Points3, high: Points3, i: int, j: int) -> bool:
    apart = False
    for c in range(3):
        apart |= low[i, c] > high[j, c] or low[j, c] > high[i, c]
    return not apart


@kernel("f2 f2 b >i1 >i2")
def _pair_boxes(low: Points3, high: Points3, closed: bool, count: np.ndarray, out: np.ndarray) -> None:
    found, m = 0, low.shape[0]
    for i in range(m):
        for j in range(i + 2, m):
            if closed and i == 0 and j == m - 1:
                continue
            if _meet(low, high, i, j):
                if found < out.shape[0]:
                    out[found, 0], out[found, 1] = i, j
                found += 1
    count[0] = found


def pair_boxes(low: Points3, high: Points3, *, closed: bool) -> np.ndarray:
    """Pairs (k, 2) of boxes ``low`` to ``high`` (m, 3) that meet and are not neighbours in the row (or the ring)."""
    count, out = np.zeros(1, dtype=np.int64), np.empty((len(low), 2), dtype=np.int64)
    for _ in range(2):  # again with room for all, where there are more than boxes
        _pair_boxes(packed(low), packed(high), closed, count, out)
        if count[0] <= len(out):
            break
        out = np.empty((int(count[0]), 2), dtype=np.int64)
    return out[: int(count[0])]


@kernel("f3 >f2 >f2")
def _box_spans(spans: Floats, low: Points3, high: Points3) -> None:
    for i in range(spans.shape[0]):
        for c in range(3):
            least = most = spans[i, 0, c]
            for k in range(1, 4):
                least, most = min(least, spans[i, k, c]), max(most, spans[i, k, c])
            low[i, c], high[i, c] = least, most


def pair_spans(spans: Floats, *, closed: bool) -> np.ndarray:
    """Pairs (k, 2) of spans (m, 4, 3) whose control points' boxes meet and that are not neighbours."""
    low, high = np.empty((len(spans), 3)), np.empty((len(spans), 3))
    _box_spans(packed(spans), low, high)
    return pair_boxes(low, high, closed=closed)


@kernel("f2 i >f1")
def _largest_square(rows: Floats, first: int, out: Floats) -> None:
    for i in range(rows.shape[0]):
        x, y, z = rows[i, first], rows[i, first + 1], rows[i, first + 2]
        out[0] = max(out[0], x * x + y * y + z * z)


def largest_square(rows: Floats, first: int) -> float:
    """Largest squared size of vectors that stand in rows (n, k), k > first + 2, from a column ``first`` on."""
    out = np.zeros(1)
    _largest_square(packed(rows), first, out)
    return float(out[0])


@kernel("f1 f1 f1 >f1")
def _turn_most(at: Floats, s: Floats, turned: Floats, out: Floats) -> None:
    k, before = 0, 0.0
    for i in range(at.shape[0]):
        while k < s.shape[0] - 2 and s[k + 1] <= at[i]:
            k += 1
        width = s[k + 1] - s[k]
        share = min(max((at[i] - s[k]) / width, 0.0), 1.0) if width > 0.0 else 0.0
        here = turned[k] + share * (turned[k + 1] - turned[k])
        if i > 0 and here - before > out[0]:
            out[0], out[1] = here - before, i - 1
        before = here


def most_turned(at: Floats, s: Floats, turned: Floats) -> tuple[float, int]:
    """The largest growth of ``turned`` (q,), known at rising ``s`` (q,), from one of rising places ``at`` (r,) to the
    next, and the index of the one before it; 0 where there is one place only."""
    out = np.zeros(2)
    _turn_most(packed(at), packed(s), packed(turned), out)
    return float(out[0]), int(out[1])


@kernel("f2 b >f1")
def _judge_knots(knots: Points3, closed: bool, out: Floats) -> None:
    size, nearest = 0.0, np.inf
    n = knots.shape[0]
    for c in range(3):
        least = most = knots[0, c]
        for i in range(n):
            if not abs(knots[i, c]) < np.inf:
                out[0], out[1] = np.nan, 0.0
                return
            least, most = min(least, knots[i, c]), max(most, knots[i, c])
        size = max(size, most - least)
    for i in range(n if closed else n - 1):
        j = (i + 1) % n
        gap = 0.0
        for c in range(3):
            gap += (knots[j, c] - knots[i, c]) ** 2
        nearest = min(nearest, gap)
    out[0], out[1] = size, sqrt(nearest)


def judged_knots(knots: Points3, *, closed: bool) -> tuple[float, float]:
    """Largest extent of knots (n, 3), n >= 1, and the least distance from one to the next, m; nan where one is not
    finite."""
    out = np.empty(2)
    _judge_knots(packed(knots), closed, out)
    return float(out[0]), float(out[1])


@kernel("f3 f2 >f1")
def _measure_gaps(rings: Floats, tracks: Floats, gap2: Floats) -> None:
    steps = rings.shape[1]
    p = np.empty((steps, 3))
    for i in range(rings.shape[0]):
        most = 0.0
        for k in range(tracks.shape[0]):
            size = 0.0
            for n in range(steps):
                for c in range(3):
                    place = rings[i, n, c]
                    for b in range(tracks.shape[1]):
                        place += tracks[k, b] * rings[i, n, 3 + 3 * b + c]
                    p[n, c] = place
            for c in range(3):
                size += (p[steps - 1, c] - p[0, c]) ** 2
            for n in range(1, steps - 1):
                along = far = 0.0
                for c in range(3):
                    along += (p[n, c] - p[0, c]) * (p[steps - 1, c] - p[0, c])
                share = min(max(along / max(size, 1e-300), 0.0), 1.0)
                for c in range(3):
                    far += (p[n, c] - p[0, c] - share * (p[steps - 1, c] - p[0, c])) ** 2
                most = max(most, far)
        gap2[i] = most


def track_gaps(rings: Floats, tracks: Floats) -> Floats:
    """Largest squared distance (n,), m2, of tracks from their chords over each of n intervals.

    ``rings`` (n, steps, 3 + 6 j): origin and the vectors of each block's x and y at even steps of the interval;
    ``tracks`` (t, 2 j).
    """
    out = np.empty(len(rings))
    _measure_gaps(packed(rings), packed(tracks), out)
    return out


@kernel("f2 f2 >f1")
def _measure_loads(bend: Floats, tracks: Floats, speed: Floats) -> None:
    for i in range(bend.shape[0]):
        most = 0.0
        for k in range(tracks.shape[0]):
            left = 1.0
            for b in range(tracks.shape[1]):
                left -= bend[i, b] * tracks[k, b]
            most = max(most, abs(left))
        speed[i] = most


def track_speeds(bend: Floats, tracks: Floats) -> Floats:
    """Largest speed (n,) of tracks (t, 2 j) beside the path's, by its bend (n, 2 j) along each block's x and y, 1/m."""
    out = np.empty(len(bend))
    _measure_loads(packed(bend), packed(tracks), out)
    return out


@kernel("f2 f3 >f1")
def _measure_turns(slopes: Floats, spans: Floats, most: Floats) -> None:
    for m in range(spans.shape[0]):
        turn = x0 = y0 = z0 = 0.0
        for k in range(slopes.shape[0]):
            x = y = z = 0.0
            for n in range(4):
                x += slopes[k, n] * spans[m, n, 0]
                y += slopes[k, n] * spans[m, n, 1]
                z += slopes[k, n] * spans[m, n, 2]
            size = sqrt(x * x + y * y + z * z)
            if size > 0.0:
                x, y, z = x / size, y / size, z / size
            if k > 0:
                turn += acos(min(max(x * x0 + y * y0 + z * z0, -1.0), 1.0))
            x0, y0, z0 = x, y, z
        most[0] = max(most[0], turn)


def largest_turn(slopes: Floats, spans: Floats) -> float:
    """Sum of the turns between a span's directions, rad, of the span (..., m, 4, 3) that turns most.

    ``slopes`` (k, 4): weights of the control points in the directions.
    """
    most = np.zeros(1)
    _measure_turns(packed(slopes), packed(spans).reshape(-1, 4, 3), most)
    return float(most[0])


@kernel("f2 f4 >f1")
def _measure_turn_of_each(slopes: Floats, spans: Floats, most: Floats) -> None:
    for b in range(spans.shape[0]):
        for m in range(spans.shape[1]):
            turn = x0 = y0 = z0 = 0.0
            for k in range(slopes.shape[0]):
                x = y = z = 0.0
                for n in range(4):
                    x += slopes[k, n] * spans[b, m, n, 0]
                    y += slopes[k, n] * spans[b, m, n, 1]
                    z += slopes[k, n] * spans[b, m, n, 2]
                size = sqrt(x * x + y * y + z * z)
                if size > 0.0:
                    x, y, z = x / size, y / size, z / size
                if k > 0:
                    turn += acos(min(max(x * x0 + y * y0 + z * z0, -1.0), 1.0))
                x0, y0, z0 = x, y, z
            most[b] = max(most[b], turn)


def largest_turns(slopes: Floats, spans: Floats) -> Floats:
    """What ``largest_turn`` says of each path (b,) of a batch (b, m, 4, 3), rad."""
    most = np.zeros(len(spans))
    _measure_turn_of_each(packed(slopes), packed(spans), most)
    return most


@kernel("f2 >f2")
def _choose_ups(tangents: Vectors3, ups: Vectors3) -> None:
    for i in range(tangents.shape[0]):
        x, y, z = tangents[i, 0], tangents[i, 1], tangents[i, 2]
        lean = atan2(sqrt(x * x + y * y), abs(z))
        share = min(max(lean / radians(10.0) - 1.0, 0.0), 1.0)
        wx, wy = (1.0, 0.0) if abs(y) > 0.99 else (0.0, 1.0)
        along = wx * x + wy * y
        ax, ay, az = wx - along * x, wy - along * y, -along * z
        size = sqrt(ax * ax + ay * ay + az * az)
        ax, ay, az = ax / size, ay / size, az / size
        if lean > 1e-9:
            bx, by, bz = -z * x, -z * y, 1.0 - z * z
            size = sqrt(bx * bx + by * by + bz * bz)
            bx, by, bz = bx / size, by / size, bz / size
            cx, cy, cz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
            angle = share * atan2(cx * x + cy * y + cz * z, ax * bx + ay * by + az * bz)
            c, s = cos(angle), sin(angle)
            dx, dy, dz = y * az - z * ay, z * ax - x * az, x * ay - y * ax
            ax, ay, az = c * ax + s * dx, c * ay + s * dy, c * az + s * dz
        ups[i, 0], ups[i, 1], ups[i, 2] = ax, ay, az


def chosen_ups(tangents: Vectors3) -> Vectors3:
    """What ``frames.first_up`` says, (..., 3)."""
    out = np.empty(np.shape(tangents))
    _choose_ups(packed(tangents).reshape(-1, 3), out.reshape(-1, 3))
    return out
