"""Which way a section faces on a closed path, and the first up that this wants."""

import numpy as np

from morphax.core.frame.frames import first_up
from morphax.core.path.resolved import ResolvedPath, path_polyline
from morphax.core.section.sections import Side
from morphax.core.types import Points3, Vectors3
from morphax.core.vectors import unit


def _area_vector(points: Points3) -> Vectors3:
    p = points - points.mean(0)
    out: Vectors3 = 0.5 * np.cross(p[:-1], p[1:]).sum(0)
    return out


def closed_start_up(path: ResolvedPath, side: Side) -> Vectors3 | None:
    """The wish for the first up: the plane's normal on a closed planar path whose section faces in.

    It points towards +z, else -y, else +x. None where the usual rule holds.
    """
    if not path.chain.closed or side is not Side.IN:
        return None
    points = path_polyline(path)
    p = points - points.mean(0)
    spread = np.linalg.svd(p, full_matrices=False)[1]
    if spread[2] > 1e-6 * spread[0] or spread[1] <= 1e-9 * spread[0]:
        return None
    normal = unit(_area_vector(points))
    lead = next((v for v in (normal[2], -normal[1], normal[0]) if abs(v) > 1e-6), 1.0)
    return normal if lead > 0.0 else -normal


def faces_wrong_way(path: ResolvedPath, side: Side, start_up: Vectors3 | None) -> bool:
    """Whether the section must be mirrored so that its x faces ``side`` of a closed path."""
    if not path.chain.closed:
        return False
    tangent = path.chain.spans[0, 1] - path.chain.spans[0, 0]
    up = start_up if start_up is not None else first_up(unit(tangent))
    right_is_out = float(_area_vector(path_polyline(path)) @ up) > 0.0
    return right_is_out is not (side is Side.OUT)
