"""Plane cuts and flat faces of meshes, as regions in a plane: what a host fills behind a section, or gives one."""

import numpy as np
import shapely

from morphax.core.types import Floats, Ints, Points3
from morphax.core.vectors import unit

_ON = 1e-9
"""Points nearer to the plane than this share of the mesh's size are moved off it, to the front."""
_FLAT = 1e-4
"""Triangles of a flat face turn away from it by less, rad."""


def plane_cut(points: Points3, triangles: Ints, origin: Points3, axes: Floats) -> list[Floats]:
    """What a plane cuts of a closed mesh: rings (n, 2), m, in the plane's own coordinates, holes among them.

    ``origin`` (3,) and ``axes`` (3, 3) right, up and normal of the plane. An open mesh gives what of it is closed.
    """
    local = (points - origin) @ axes.T
    size = float(np.ptp(local, axis=0).max()) if len(local) else 0.0
    z = np.where(np.abs(local[:, 2]) < _ON * size, _ON * size, local[:, 2])
    side = (z > 0.0)[triangles]
    met = triangles[side.any(1) & ~side.all(1)]
    if not len(met):
        return []
    edges = met[:, [[0, 1], [1, 2], [2, 0]]]
    crosses = (z > 0.0)[edges[..., 0]] != (z > 0.0)[edges[..., 1]]
    ends = local[edges[crosses].reshape(-1, 2, 2)]
    height = z[edges[crosses].reshape(-1, 2, 2)]
    front = (height[..., 1] > height[..., 0])[..., None]
    a, b = np.where(front, ends[..., 0, :2], ends[..., 1, :2]), np.where(front, ends[..., 1, :2], ends[..., 0, :2])
    low, high = height.min(-1)[..., None], height.max(-1)[..., None]
    cut = a + (b - a) * (-low / (high - low))  # from behind to front, so that both triangles of an edge agree
    return _rings(cut)


def _rings(lines: Floats) -> list[Floats]:
    """The rings that lines (m, 2, 2) enclose, by the even-odd rule."""
    steps = np.round(lines, 12)
    steps = steps[np.abs(steps[:, 0] - steps[:, 1]).max(1) > 0.0]
    region = shapely.build_area(shapely.MultiLineString(list(steps)))
    out: list[Floats] = []
    for polygon in shapely.get_parts(region):
        if polygon.geom_type == "Polygon" and not polygon.is_empty:
            out += [np.array(r.coords)[:-1] for r in (polygon.exterior, *polygon.interiors)]
    return out


def face_axes(points: Points3, triangles: Ints, triangle: int) -> Floats:
    """Right, up and normal (3, 3) of a triangle's plane: up as near to the world's z as it can be, else to y."""
    p = points[triangles[triangle]]
    normal = unit(np.cross(p[1] - p[0], p[2] - p[0])[None])[0]
    guide = np.array([0.0, 0.0, 1.0]) if abs(normal[2]) < 0.99 else np.array([0.0, 1.0, 0.0])
    up = unit((guide - (guide @ normal) * normal)[None])[0]
    return np.stack([np.cross(up, normal), up, normal])


def flat_face(points: Points3, triangles: Ints, triangle: int) -> tuple[list[Floats], Points3, Floats]:
    """The flat face that a triangle lies in: its rings (n, 2), m, in its plane, where that begins, and its axes.

    All triangles in one plane that hang together by it, holes left out.
    """
    axes = face_axes(points, triangles, triangle)
    origin = points[triangles[triangle]].mean(0)
    p = points[triangles]
    size = float(np.ptp(points, axis=0).max())
    normals = unit(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]))
    in_plane = (normals @ axes[2] > 1.0 - _FLAT) & (np.abs((p - origin) @ axes[2]).max(1) < 1e-6 * size)
    flat = ((p[in_plane] - origin) @ axes.T)[..., :2]
    polygons = shapely.polygons(np.round(flat, 12))
    whole = shapely.union_all(polygons[shapely.area(polygons) > 0.0])
    mine = next((g for g in shapely.get_parts(whole) if g.distance(shapely.Point(0.0, 0.0)) < 1e-9 * size), None)
    if mine is None:
        return [], origin, axes
    mine = shapely.simplify(mine, 1e-9 * size)
    return [np.array(r.coords)[:-1] for r in (mine.exterior, *mine.interiors)], origin, axes
