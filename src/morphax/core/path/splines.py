"""C2 cubic interpolation on uneven parameters, solved for whole batches at once."""

import numpy as np

from morphax.core.kernels.measuring import solve_tridiagonal
from morphax.core.types import Floats, Points3, Spans, Vectors3
from morphax.core.vectors import lengths

_PARALLEL = 1.0 - 1e-12
"""Cosine between normals from which on they are one direction."""
_DENSE = 48
"""Up to so many knots a full system is solved as quickly as a sparse one."""


def centripetal_steps(points: Points3) -> Floats:
    """Parameter steps (..., n-1): chord length to the power 1/2 (Lee 1989); 1 between knots on one spot."""
    steps = np.sqrt(lengths(points))
    return np.where(steps > 0.0, steps, 1.0)


def open_slopes(
    points: Points3,
    steps: Floats,
    start: Vectors3 | None = None,
    end: Vectors3 | None = None,
    lying: Vectors3 | None = None,
) -> Vectors3:
    """Derivatives at the knots (..., n, 3) of the C2 cubic through ``points`` (..., n, 3).

    ``steps`` (..., n-1) are the parameter steps; ``start`` and ``end`` (..., 3) clamp the end derivatives,
    else the second derivative there is zero (natural). Source: de Boor, A Practical Guide to Splines, IV.
    ``lying`` (n, 3): unit normals of the planes that the derivatives of some knots lie in, nan for the others; across
    such a plane the curve is clamped at the knot, along it and elsewhere it is C2 (not in batches).
    """
    n = points.shape[-2]
    chords = np.diff(points, axis=-2) / steps[..., None]
    low, mid, high = (np.zeros((*points.shape[:-2], n)) for _ in range(3))
    right = np.zeros(points.shape)
    low[..., 1:-1], high[..., 1:-1] = steps[..., 1:], steps[..., :-1]
    mid[..., 1:-1] = 2.0 * (steps[..., 1:] + steps[..., :-1])
    right[..., 1:-1, :] = 3.0 * (
        steps[..., 1:, None] * chords[..., :-1, :] + steps[..., :-1, None] * chords[..., 1:, :]
    )
    if start is None:
        mid[..., 0], high[..., 0], right[..., 0, :] = 2.0, 1.0, 3.0 * chords[..., 0, :]
    else:
        mid[..., 0], right[..., 0, :] = 1.0, start
    if end is None:
        mid[..., -1], low[..., -1], right[..., -1, :] = 2.0, 1.0, 3.0 * chords[..., -1, :]
    else:
        mid[..., -1], right[..., -1, :] = 1.0, end
    if lying is not None:
        return _lying_slopes((low, mid, high), right, lying)
    return solve_tridiagonal(low, mid, high, right)


def _lying_slopes(rows: tuple[Floats, Floats, Floats], right: Vectors3, normals: Vectors3) -> Vectors3:
    """Solves the rows ``low m(i-1) + mid m(i) + high m(i+1) = right`` (cyclic), where normals (n, 3) are given across
    their planes ``m(i) . normal = 0`` instead."""
    low, mid, high = rows
    lies = ~np.isnan(normals).any(-1)
    first = normals[np.argmax(lies)]
    is_open = low[0] == 0.0 and high[-1] == 0.0
    if is_open and not lies.any():
        return solve_tridiagonal(low, mid, high, right)
    if is_open and (np.abs(normals[lies] @ first) > _PARALLEL).all():  # across one direction only: it stands alone
        free = solve_tridiagonal(low, mid, high, right)
        across = np.where(lies, 0.0, right @ first)[:, None]
        own = solve_tridiagonal(np.where(lies, 0.0, low), mid, np.where(lies, 0.0, high), across)
        out: Vectors3 = free + (own - (free @ first)[:, None]) * first
        return out
    return _coupled_slopes(rows, right, np.nan_to_num(normals, nan=0.0))


def _coupled_slopes(rows: tuple[Floats, Floats, Floats], right: Vectors3, normals: Vectors3) -> Vectors3:
    """The same where the planes differ: all directions at once; normals are zero where there is no plane."""
    n = len(right)
    across: Floats = normals[:, :, None] * normals[:, None, :]
    along = np.eye(3) - across  # blocks (n, 3, 3)
    low, mid, high = (along * r[:, None, None] for r in rows)
    mid += across * rows[1][:, None, None]
    ring = np.arange(n)
    wanted = (along @ right[:, :, None]).ravel()
    if n <= _DENSE:
        system = np.zeros((n, 3, n, 3))
        for block, k in ((low, -1), (mid, 0), (high, 1)):
            system[ring, :, (ring + k) % n, :] += block
        dense = np.linalg.solve(system.reshape(3 * n, 3 * n), wanted)
        return np.asarray(dense, dtype=np.float64).reshape(n, 3)
    from scipy.sparse import csc_array  # long to load, and seldom needed
    from scipy.sparse.linalg import spsolve

    at = np.broadcast_to(3 * ring[:, None, None] + np.arange(3)[:, None], (n, 3, 3))
    index = [np.broadcast_to(3 * ((ring + k) % n)[:, None, None] + np.arange(3), (n, 3, 3)) for k in (-1, 0, 1)]
    values = np.concatenate([b.ravel() for b in (low, mid, high)])
    row, columns = np.tile(at.ravel(), 3), np.concatenate([i.ravel() for i in index])
    found = spsolve(csc_array((values, (row, columns)), shape=(3 * n, 3 * n)), wanted)
    return np.asarray(found, dtype=np.float64).reshape(n, 3)


def closed_slopes(points: Points3, steps: Floats, lying: Vectors3 | None = None) -> Vectors3:
    """Derivatives (..., n, 3) of the periodic C2 cubic; ``steps`` (..., n), the last one back to the start.

    The cyclic system is solved by Sherman and Morrison's formula on two right sides. ``lying`` as on open ones.
    """
    chords = (np.roll(points, -1, axis=-2) - points) / steps[..., None]
    before, chords_before = np.roll(steps, 1, axis=-1), np.roll(chords, 1, axis=-2)
    low, high, mid = steps.copy(), before.copy(), 2.0 * (steps + before)
    right = 3.0 * (steps[..., None] * chords_before + before[..., None] * chords)
    if lying is not None:
        return _lying_slopes((low, mid, high), right, lying)
    if points.shape[-2] == 2:  # both neighbours are the same knot
        mid2 = mid.copy()
        det = mid2[..., 0] * mid2[..., 1] - (low + high)[..., 0] * (low + high)[..., 1]
        a, b = right[..., 0, :], right[..., 1, :]
        both = low + high
        x0 = (mid2[..., 1, None] * a - both[..., 0, None] * b) / det[..., None]
        x1 = (mid2[..., 0, None] * b - both[..., 1, None] * a) / det[..., None]
        return np.stack([x0, x1], axis=-2)
    corner_low, corner_high = low[..., 0].copy(), high[..., -1].copy()
    gamma = -mid[..., 0]
    mid = mid.copy()
    mid[..., 0] -= gamma
    mid[..., -1] -= corner_low * corner_high / gamma
    u = np.zeros((*mid.shape, 1))
    u[..., 0, 0], u[..., -1, 0] = gamma, corner_high
    both_sides = solve_tridiagonal(low, mid, high, np.concatenate([right, u], axis=-1))
    y, z = both_sides[..., :3], both_sides[..., 3:]
    v_last = (corner_low / gamma)[..., None]
    factor = (y[..., 0, :] + v_last * y[..., -1, :]) / (1.0 + z[..., 0, :] + v_last * z[..., -1, :])
    return y - z * factor[..., None, :]


def hermite_spans(points: Points3, slopes: Vectors3, steps: Floats) -> Spans:
    """Bezier spans (..., n-1, 4, 3) from knots, their derivatives and the steps between them."""
    h = steps[..., None] / 3.0
    a, b = points[..., :-1, :], points[..., 1:, :]
    return np.stack([a, a + h * slopes[..., :-1, :], b - h * slopes[..., 1:, :], b], axis=-2)
