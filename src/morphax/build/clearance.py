"""Clearance of a body to a host: the least gap, or how deep the one lies in the other."""

from dataclasses import dataclass

import numpy as np

from morphax.build.locators import Locator
from morphax.core.mesh.mesh import Mesh
from morphax.core.types import Points3

_MOST_POINTS = 4000


@dataclass(frozen=True, eq=False)
class Clearance:
    """``gap`` m, negative where the points lie inside the host; ``place`` (3,) of them and ``on`` (3,) of the host
    there."""

    gap: float
    place: Points3
    on: Points3


def surface_points(body: Mesh, *, most: int) -> Points3:
    """Places (n, 3) on a mesh: its points, and more along the long sides of its quads; about ``most`` of them."""
    p = body.points
    if len(body.quads):
        a, b = p[body.quads[:, 0]], p[body.quads[:, 1]]
        size = np.sqrt(((b - a) ** 2).sum(1))
        step = max(float(size.sum()) / most, 1e-9)
        count = np.minimum(np.ceil(size / step).astype(int), most)
        quad = np.repeat(np.arange(len(size)), count)
        first = np.repeat(np.cumsum(count) - count, count)
        share = (np.arange(len(quad)) - first + 0.5) / count[quad]
        p = np.concatenate([p, a[quad] + share[:, None] * (b - a)[quad]])
    return p[:: max(1, len(p) // (2 * most))]


def clearance(body: Mesh, host: Locator, within: float) -> Clearance | None:
    """The clearance of a body's surface to a host, or None where they are farther than ``within`` m apart.

    The surface is asked at its points and between them along its long faces: at most about 4 000 places, evenly
    chosen, so a gap is found to their spacing. A place is inside where the nearest face looks away from it.
    """
    return least_gap(surface_points(body, most=_MOST_POINTS), host, within)


def least_gap(points: Points3, host: Locator, within: float) -> Clearance | None:
    """The clearance of places (n, 3) to a host, or None where all are farther than ``within`` m from it.

    Places nearest to the host's box are asked first, and no farther than the best one so far.
    """
    best: Clearance | None = None
    if not len(host.points):
        return None
    low, high = host.bounds
    off = np.linalg.norm(np.maximum(np.maximum(low - points, points - high), 0.0), axis=1)
    for k in np.argsort(off, kind="stable"):
        p, far = points[k], within if best is None or off[k] == 0.0 else min(within, best.gap)
        if off[k] > far:
            break  # so are all others
        hit = host.nearest(p, far)
        if hit is None:
            continue
        inside = float((p - hit.place) @ hit.normal) < 0.0
        gap = -hit.far if inside else hit.far
        if best is None or gap < best.gap:
            best = Clearance(gap, np.array(p), np.array(hit.place))
    return best
