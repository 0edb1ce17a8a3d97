"""Pulled paths: the knots are a hull that pulls a uniform cubic B-spline."""

import numpy as np

from morphax.core.types import Ints, Points3, Spans


def pulled_spans(hull: Points3, *, closed: bool) -> Spans:
    """Cubics (m, 4, 3) of the clamped uniform cubic B-spline over a hull (n, 3); periodic where closed.

    Two knots give a line and three a parabola. Source: de Boor, A Practical Guide to Splines, chapter XI; the
    Bezier points by knot insertion (Boehm 1980).
    """
    n = len(hull)
    if closed:
        before, here, after = np.roll(hull, 1, axis=0), hull, np.roll(hull, -1, axis=0)
        ahead = np.roll(hull, -2, axis=0)
        start = (before + 4.0 * here + after) / 6.0
        end = (here + 4.0 * after + ahead) / 6.0
        return np.stack([start, (2.0 * here + after) / 3.0, (here + 2.0 * after) / 3.0, end], axis=1)
    if n == 2:
        a, b = hull
        return np.stack([a, (2.0 * a + b) / 3.0, (a + 2.0 * b) / 3.0, b])[None]
    if n == 3:
        a, m, b = hull
        return np.stack([a, (a + 2.0 * m) / 3.0, (2.0 * m + b) / 3.0, b])[None]
    u = np.concatenate([np.zeros(3), np.arange(n - 2), np.full(3, n - 3)]).astype(float)
    spans = np.empty((n - 3, 4, 3))
    for k in range(n - 3):  # a handful of spans; each needs its own four weights
        p = [_blossom(hull, u, k, values) for values in _corners(u[k + 3], u[k + 4])]
        spans[k] = p
    return spans


def _corners(a: float, b: float) -> tuple[tuple[float, float, float], ...]:
    return ((a, a, a), (a, a, b), (a, b, b), (b, b, b))


def _blossom(hull: Points3, u: np.ndarray, span: int, at: tuple[float, float, float]) -> Points3:
    """The blossom of a span's cubic at three parameters (de Boor's recurrence with a parameter of its own a round)."""
    p = hull[span : span + 4].copy()
    for r, value in enumerate(at):
        for j in range(3 - r):
            low, high = u[span + 1 + r + j], u[span + 4 + j]
            share = (value - low) / (high - low)
            p[j] = (1.0 - share) * p[j] + share * p[j + 1]
    out: Points3 = p[0]
    return out


def hull_places(count: int, *, closed: bool) -> Ints:
    """Which of the places between spans lies nearest to each hull knot (a closed path ends with its first again)."""
    if closed:
        return np.arange(count + 1, dtype=np.int32)
    last = max(count - 3, 1)
    return np.clip(np.arange(count) - 1, 0, last).astype(np.int32) if count > 3 else _few(count)


def _few(count: int) -> Ints:
    return np.array([0, 1] if count == 2 else [0, 0, 1], dtype=np.int32)
