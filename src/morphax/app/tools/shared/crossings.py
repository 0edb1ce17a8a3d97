"""Where lines cross in a view. Pure functions."""

from dataclasses import dataclass

import numpy as np

from morphax.app.session.pointer import Pointer
from morphax.core.types import Points3

_APART = 1.0
"""Lines that share an end (to so many pixels) meet there, they don't cross."""


@dataclass(frozen=True, eq=False)
class Crossing:
    """Where two lines cross in a view: a ``place`` (3,) on the nearer one, and ``lines`` (2, 3), how they run."""

    place: Points3
    lines: np.ndarray


def crossing_near(at: Pointer, segments: Points3, pixels: float) -> Crossing | None:
    """The place (3,) where two segments of (n, 2, 3) cross in the view, nearest to the pointer, within some pixels.

    It lies on the one of the two that is nearer to the eye; None where none cross.
    """
    n = len(segments)
    if n < 2:
        return None
    seen = at.sight.seen(segments.reshape(-1, 3)).reshape(n, 2, 3)
    i, j = np.triu_indices(n, 1)
    a, b = seen[i, 0, :2], seen[i, 1, :2] - seen[i, 0, :2]
    c, d = seen[j, 0, :2], seen[j, 1, :2] - seen[j, 0, :2]
    area = b[:, 0] * d[:, 1] - b[:, 1] * d[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        t = ((c - a)[:, 0] * d[:, 1] - (c - a)[:, 1] * d[:, 0]) / area
        u = ((c - a)[:, 0] * b[:, 1] - (c - a)[:, 1] * b[:, 0]) / area
        spot = a + t[:, None] * b
        gap = np.linalg.norm(spot - np.array(at.pixel), axis=1)
        good = (np.abs(area) > 1e-6) & (t >= 0.0) & (t <= 1.0) & (u >= 0.0) & (u <= 1.0) & (gap <= pixels)
    good &= ~_share_an_end(seen[i, :, :2], seen[j, :, :2])
    if not good.any():
        return None
    k = int(np.argmin(np.where(good, gap, np.inf)))
    first = _along(segments[i[k]], seen[i[k], :, 2], t[k], at)
    second = _along(segments[j[k]], seen[j[k], :, 2], u[k], at)
    depth = at.sight.seen(np.stack([first, second]))[:, 2]
    lines = segments[[i[k], j[k]], 1] - segments[[i[k], j[k]], 0]
    return Crossing(first if depth[0] <= depth[1] else second, lines)


def _share_an_end(first: Points3, second: Points3) -> np.ndarray:
    """Pairs (k, 2, 2) of segments whose ends lie on one spot of the view."""
    gap = np.linalg.norm(first[:, :, None] - second[:, None], axis=-1)
    out: np.ndarray = gap.min(axis=(1, 2)) < _APART
    return out


def _along(segment: Points3, depth: np.ndarray, share: float, at: Pointer) -> Points3:
    """The place of a segment that is seen at a share of its length in the view."""
    if not at.sight.is_flat:
        share = share * depth[0] / ((1.0 - share) * depth[1] + share * depth[0])
    out: Points3 = segment[0] + share * (segment[1] - segment[0])
    return out
