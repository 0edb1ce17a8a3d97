"""Small vector helpers on stacked (..., 3) arrays.

Results lie in memory component by component (x of all rows, then y, then z), so that arithmetic on long arrays runs
along the rows instead of three numbers at a time: measured two to four times as fast at 16 000 rows.
"""

from math import cos, pi, sin

import numpy as np

from morphax.core.types import Floats, Points3, Vectors3


def dot(a: Vectors3, b: Vectors3) -> Floats:
    """Row-wise dot product, (...)."""
    out: Floats = a[..., 0] * b[..., 0]
    out += a[..., 1] * b[..., 1]
    out += a[..., 2] * b[..., 2]
    return out


def by_component(parts: Floats) -> Vectors3:
    """Rows (..., 3) seen of components (3, ...): a view."""
    return parts.transpose((*range(1, parts.ndim), 0))


def unit(a: Vectors3) -> Vectors3:
    """Rows scaled to length one; a zero row stays zero."""
    n = np.sqrt(dot(a, a))[..., None]
    return a / np.where(n > 0.0, n, 1.0)


def cross(a: Vectors3, b: Vectors3) -> Vectors3:
    """Row-wise cross product."""
    ax, ay, az = a[..., 0], a[..., 1], a[..., 2]
    bx, by, bz = b[..., 0], b[..., 1], b[..., 2]
    return by_component(np.array([ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx]))


def perpendicular(direction: Vectors3, wish: Vectors3) -> Vectors3:
    """``wish`` without its part along the unit ``direction``, scaled to length one."""
    return unit(wish - dot(wish, direction)[..., None] * direction)


def any_perpendicular(t: Vectors3) -> Vectors3:
    """A unit vector perpendicular to each unit row of ``t``.

    Source: Duff et al., "Building an Orthonormal Basis, Revisited", JCGT 2017, first basis vector.
    """
    x, y, z = t[..., 0], t[..., 1], t[..., 2]
    sign = np.where(z < 0.0, -1.0, 1.0)
    signed = sign * x
    a = -signed / (sign + z)
    return by_component(np.array([1.0 + x * a, y * a, -signed]))


def turned(v: Vectors3, axis: Vectors3, angle: Floats) -> Vectors3:
    """``v`` turned about the unit ``axis`` by ``angle`` (rad, right-handed)."""
    c, s = np.cos(angle)[..., None], np.sin(angle)[..., None]
    return v * c + cross(axis, v) * s + axis * (dot(axis, v)[..., None] * (1.0 - c))


def angle_about(axis: Vectors3, start: Vectors3, end: Vectors3) -> Floats:
    """Signed angle (rad, right-handed about the unit ``axis``) from ``start`` to ``end``."""
    return np.arctan2(dot(cross(start, end), axis), dot(start, end))


def turn_between(a: Vectors3, b: Vectors3) -> Floats:
    """Unsigned angle between unit rows, exact near 0 and 180 degrees (Kahan's formula)."""
    d, s = a - b, a + b
    return 2.0 * np.arctan2(np.sqrt(dot(d, d)), np.sqrt(dot(s, s)))


def smallest_turn(v: Vectors3, a: Vectors3, b: Vectors3) -> Vectors3:
    """``v`` carried by the smallest rotation that takes unit ``a`` to unit ``b``.

    Exactly opposite directions: half a turn about ``v`` made perpendicular to ``a`` (an up stays up).
    """
    axis = cross(a, b)
    c = dot(a, b)
    k = np.where(c > -1.0 + 1e-12, 1.0 / np.maximum(1.0 + c, 1e-12), 0.0)
    out = v * c[..., None] + cross(axis, v) + axis * (dot(axis, v) * k)[..., None]
    keep = perpendicular(a, v)
    half = 2.0 * keep * dot(keep, v)[..., None] - v
    return np.where((c > -1.0 + 1e-12)[..., None], out, half)


def lengths(points: Points3) -> Floats:
    """Distances between neighbouring points, (..., n-1)."""
    d = np.diff(points, axis=-2)
    return np.sqrt(dot(d, d))


def exact_turn(angle: float) -> tuple[float, float]:
    """Cosine and sine of an angle, rad; those of quarter turns are exact."""
    quarters = angle / (0.5 * pi)
    whole = round(quarters)
    if abs(quarters - whole) < 1e-12:
        return float((1, 0, -1, 0)[whole % 4]), float((0, 1, 0, -1)[whole % 4])
    return cos(angle), sin(angle)
