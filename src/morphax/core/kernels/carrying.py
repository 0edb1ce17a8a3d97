"""Ups carried along paths by double reflection: the loops of ``frames``.

Source: Wang, Juettler, Zheng, Liu, "Computation of Rotation Minimizing Frames", ACM TOG 2008.
"""

from math import sqrt

import numpy as np

from morphax.core.kernels.compiling import helper, kernel, packed
from morphax.core.types import Floats, Points3, Vectors3


@helper
def _carry(x0, t0, u0, x1, t1, least, out) -> None:  # type: ignore[no-untyped-def]
    """One step of an up from (x0, t0) to (x1, t1), made perpendicular to t1.

    A step of a squared length up to ``least`` is only rounding and has no direction to reflect in.
    """
    a, b, c = x1[0] - x0[0], x1[1] - x0[1], x1[2] - x0[2]
    size = a * a + b * b + c * c
    if size <= least:
        ux, uy, uz = u0[0], u0[1], u0[2]
    else:
        k = 2.0 / size
        ku, kt = k * (a * u0[0] + b * u0[1] + c * u0[2]), k * (a * t0[0] + b * t0[1] + c * t0[2])
        ux, uy, uz = u0[0] - ku * a, u0[1] - ku * b, u0[2] - ku * c
        d, e, f = t1[0] - (t0[0] - kt * a), t1[1] - (t0[1] - kt * b), t1[2] - (t0[2] - kt * c)
        size = d * d + e * e + f * f
        if size > 0.0:
            k = 2.0 / size * (d * ux + e * uy + f * uz)
            ux, uy, uz = ux - k * d, uy - k * e, uz - k * f
    along = ux * t1[0] + uy * t1[1] + uz * t1[2]
    ux, uy, uz = ux - along * t1[0], uy - along * t1[1], uz - along * t1[2]
    size = sqrt(ux * ux + uy * uy + uz * uz)
    size = size if size > 0.0 else 1.0
    out[0], out[1], out[2] = ux / size, uy / size, uz / size


@helper
def _least(points: Points3) -> float:
    """The squared length up to which a step is rounding: 1e-12 of the largest coordinate."""
    largest = 0.0
    for i in range(points.shape[0]):
        for c in range(3):
            largest = max(largest, abs(points[i, c]))
    return (1e-12 * largest) ** 2


@kernel("f3 f3 f2 >f3")
def _carry_all(point: Points3, tangent: Vectors3, start: Vectors3, up: Vectors3) -> None:
    for b in range(point.shape[0]):
        least = _least(point[b])
        for c in range(3):
            up[b, 0, c] = start[b, c]
        for i in range(1, point.shape[1]):
            k = i - 1
            _carry(point[b, k], tangent[b, k], up[b, k], point[b, i], tangent[b, i], least, up[b, i])


def ups_along(point: Points3, tangent: Vectors3, start: Vectors3) -> Vectors3:
    """Ups (..., q, 3) at all samples, from ``start`` (..., 3) at the first."""
    up = np.empty(point.shape)
    rows = (-1, *point.shape[-2:])
    begin = packed(np.broadcast_to(start, (*point.shape[:-2], 3))).reshape(-1, 3)
    _carry_all(packed(point).reshape(rows), packed(tangent).reshape(rows), begin, up.reshape(rows))
    return up


@kernel("f2 f3 f3 f3 f2 f3 f3 >i2 >f3")
def _carry_on(at, x0, t0, u0, s, x1, t1, index, up) -> None:  # type: ignore[no-untyped-def]
    for b in range(s.shape[0]):
        least = _least(x1[b])
        for i in range(s.shape[1]):
            low, high = 0, at.shape[1] - 1
            while high - low > 1:
                middle = (low + high) // 2
                if at[b, middle] <= s[b, i]:
                    low = middle
                else:
                    high = middle
            k = low
            index[b, i] = k
            _carry(x0[b, k], t0[b, k], u0[b, k], x1[b, i], t1[b, i], least, up[b, i])


def ups_at(
    at: Floats, samples: tuple[Points3, Vectors3, Vectors3], s: Floats, point: Points3, tangent: Vectors3
) -> tuple[np.ndarray, Vectors3]:
    """From samples (points, tangents, ups) at distances ``at`` (..., q) on to places at ``s`` (..., r).

    Returns the interval of each place, (..., r), and its up, (..., r, 3).
    """
    q, r = at.shape[-1], s.shape[-1]
    index, up = np.empty(point.shape[:-1], dtype=np.int64), np.empty(point.shape)
    x0, t0, u0 = (packed(v).reshape(-1, q, 3) for v in samples)
    _carry_on(
        packed(at).reshape(-1, q),
        x0,
        t0,
        u0,
        packed(np.broadcast_to(s, point.shape[:-1])).reshape(-1, r),
        packed(point).reshape(-1, r, 3),
        packed(tangent).reshape(-1, r, 3),
        index.reshape(-1, r),
        up.reshape(-1, r, 3),
    )
    return index, up


@kernel("f2 f2 >f2")
def _cross(a: Vectors3, b: Vectors3, out: Vectors3) -> None:
    for i in range(a.shape[0]):
        out[i, 0] = a[i, 1] * b[i, 2] - a[i, 2] * b[i, 1]
        out[i, 1] = a[i, 2] * b[i, 0] - a[i, 0] * b[i, 2]
        out[i, 2] = a[i, 0] * b[i, 1] - a[i, 1] * b[i, 0]


def crossed(a: Vectors3, b: Vectors3) -> Vectors3:
    """Row-wise cross product of arrays of one shape (..., 3)."""
    out = np.empty(a.shape)
    _cross(packed(a).reshape(-1, 3), packed(b).reshape(-1, 3), out.reshape(-1, 3))
    return out
