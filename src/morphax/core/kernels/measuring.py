"""Small sums and searches over knots, spans and tracks: the loops of ``splines``, ``places`` and ``path_checks``."""

import numpy as np

from morphax.core.kernels.compiling import helper, kernel, packed
from morphax.core.types import Floats, Points2, Points3


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
    diagonals = [packed(np.broadcast_to(d, x.shape[:-1])).reshape(-1, n) for d in (low, mid, high)]
    _solve(diagonals[0], diagonals[1], diagonals[2], np.empty((len(rows), n)), rows)
    return x


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


@kernel("f3 f2 >f1")
def _measure_gaps(rings: Floats, tracks: Points2, gap2: Floats) -> None:
    steps = rings.shape[1]
    p = np.empty((steps, 3))
    for i in range(rings.shape[0]):
        most = 0.0
        for k in range(tracks.shape[0]):
            size = 0.0
            for n in range(steps):
                for c in range(3):
                    p[n, c] = rings[i, n, c] + tracks[k, 0] * rings[i, n, 3 + c] + tracks[k, 1] * rings[i, n, 6 + c]
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


def track_gaps(rings: Floats, tracks: Points2) -> Floats:
    """Largest squared distance (n,), m2, of tracks from their chords over each of n intervals.

    ``rings`` (n, steps, 9): origin, x vector and y vector at even steps of the interval; ``tracks`` (t, 2).
    """
    out = np.empty(len(rings))
    _measure_gaps(packed(rings), packed(tracks), out)
    return out


@kernel("f2 f2 >f1")
def _measure_loads(bend: Floats, tracks: Points2, speed: Floats) -> None:
    for i in range(bend.shape[0]):
        most = 0.0
        for k in range(tracks.shape[0]):
            most = max(most, abs(1.0 - bend[i, 0] * tracks[k, 0] - bend[i, 1] * tracks[k, 1]))
        speed[i] = most


def track_speeds(bend: Floats, tracks: Points2) -> Floats:
    """Largest speed (n,) of tracks (t, 2) beside that of the path, by its bend (n, 2) to the right and up, 1/m."""
    out = np.empty(len(bend))
    _measure_loads(packed(bend), packed(tracks), out)
    return out
