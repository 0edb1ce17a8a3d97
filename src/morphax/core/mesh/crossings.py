"""Faces of a mesh that run through each other."""

import numpy as np
import shapely

from morphax.core.mesh.mesh import Mesh, point_triangles
from morphax.core.types import Flags, Floats, Points3
from morphax.core.vectors import cross, dot

_WITHIN = 1e-7
"""An edge crosses a face where it goes through the inside of it by more than this share of their sizes."""
_MOST = 4_000_000


def crossing_places(mesh: Mesh) -> Points3:
    """Where edges of a mesh run through its faces (n, 3), m; those that share a corner are left alone.

    Pairs are found by boxes in a plane (sort-tile-recursive tree), then by segments against triangles (Moeller and
    Trumbore, 1997).
    """
    tris = point_triangles(mesh)
    if not len(tris):
        return np.zeros((0, 3))
    corners = mesh.points[tris]
    low, high = corners.min(1), corners.max(1)
    flat = np.argsort(np.ptp(mesh.points, axis=0))[1:]  # across the axis along which it is thinnest
    boxes = shapely.box(*low[:, flat].T, *high[:, flat].T)
    one, two = shapely.STRtree(boxes).query(boxes)
    other = 3 - int(flat.sum())
    keep = (one < two) & (low[one, other] <= high[two, other]) & (low[two, other] <= high[one, other])
    one, two = one[keep][:_MOST], two[keep][:_MOST]
    shares = (tris[one][:, :, None] == tris[two][:, None, :]).any((1, 2))
    one, two = one[~shares], two[~shares]
    places = [_met(corners[a][:, [k, (k + 1) % 3]], corners[b]) for a, b in ((one, two), (two, one)) for k in range(3)]
    return np.concatenate(places)


def _met(edges: Points3, faces: Points3) -> Points3:
    """Where edges (n, 2, 3) run through the insides of faces (n, 3, 3)."""
    start, way = edges[:, 0], edges[:, 1] - edges[:, 0]
    u, v = faces[:, 1] - faces[:, 0], faces[:, 2] - faces[:, 0]
    normal = cross(u, v)
    steep = dot(normal, way)
    is_steep: Flags = np.abs(steep) > 1e-9 * np.sqrt(dot(normal, normal) * dot(way, way))
    over = np.where(is_steep, steep, 1.0)
    off = start - faces[:, 0]
    t = -dot(normal, off) / over
    q = cross(off, way)
    a, b = -dot(v, q) / over, dot(u, q) / over
    inside = is_steep & _is_between(t) & _is_between(a) & _is_between(b) & _is_between(1.0 - a - b)
    out: Points3 = (start + t[:, None] * way)[inside]
    return out


def _is_between(share: Floats) -> Flags:
    out: Flags = (share > _WITHIN) & (share < 1.0 - _WITHIN)
    return out
