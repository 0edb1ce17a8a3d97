"""Plane cuts and flat faces of meshes, as regions in a plane: what a host fills behind a section, or gives one."""

from dataclasses import dataclass

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


def face_planes(points: Points3, triangles: Ints) -> Floats:
    """Unit normals (t, 3) of triangles: what ``flat_region`` asks of a mesh each time."""
    p = points[triangles]
    return unit(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]))


def flat_region(points: Points3, triangles: Ints, triangle: int, normals: Floats | None = None) -> tuple[Ints, Ints]:
    """Numbers (k,) of the triangles in the plane of one, and (k,) which of them hang together edge by edge."""
    normals = face_planes(points, triangles) if normals is None else normals
    axes, origin = face_axes(points, triangles, triangle), points[triangles[triangle]].mean(0)
    size = float(np.ptp(points, axis=0).max())
    alike = np.flatnonzero(normals @ axes[2] > 1.0 - _FLAT)
    off = np.abs((points[triangles[alike]] - origin) @ axes[2]).max(1)
    alike = alike[off < 1e-6 * size]
    edges = np.sort(triangles[alike][:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2), axis=1)
    _, edge = np.unique(edges[:, 0].astype(np.int64) * len(points) + edges[:, 1], return_inverse=True)
    from scipy.sparse import coo_matrix  # start-up time: few sessions ask for a face
    from scipy.sparse.csgraph import connected_components

    n, face = len(alike), np.repeat(np.arange(len(alike)), 3)
    graph = coo_matrix((np.ones(len(face), dtype=np.int8), (face, n + edge)), shape=(n + int(edge.max()) + 1,) * 2)
    _, part = connected_components(graph, directed=False)
    return alike.astype(np.int32), np.unique(part[:n], return_inverse=True)[1].astype(np.int32)


@dataclass(frozen=True, eq=False)
class Flat:
    """A flat face: its ``rings`` (n, 2), m, in its plane, where that begins, its axes, its ``triangles`` by number."""

    rings: list[Floats]
    origin: Points3
    axes: Floats
    triangles: Ints


def flat_face(points: Points3, triangles: Ints, triangle: int, normals: Floats | None = None) -> Flat:
    """The flat face that a triangle lies in: all in its plane that hangs together, holes left out."""
    axes = face_axes(points, triangles, triangle)
    origin = points[triangles[triangle]].mean(0)
    alike, part = flat_region(points, triangles, triangle, normals)
    size, order = float(np.ptp(points, axis=0).max()), np.argsort(part, kind="stable")
    groups = np.split(alike[order], np.flatnonzero(np.diff(part[order])) + 1)
    pieces = [_piece(points, triangles[g], origin, axes, size) for g in groups]
    whole = shapely.union_all([p for piece in pieces for p in piece])
    here, near = shapely.Point(0.0, 0.0), 1e-9 * size
    mine = next((g for g in shapely.get_parts(whole) if g.distance(here) < near), None)
    if mine is None or mine.geom_type != "Polygon":
        return Flat([], origin, axes, np.array([triangle], dtype=np.int32))
    shown = shapely.simplify(mine, near)
    within = [g for g, piece in zip(groups, pieces, strict=True) if any(p.distance(mine) < near for p in piece)]
    rings = [np.array(r.coords)[:-1] for r in (shown.exterior, *shown.interiors)]
    return Flat(rings, origin, axes, np.concatenate(within))


def _piece(points: Points3, own: Ints, origin: Points3, axes: Floats, size: float) -> list[shapely.Polygon]:
    """The regions that triangles (t, 3) which hang together fill in a plane: within the edges that one of them has."""
    used, corner = np.unique(own, return_inverse=True)
    flat = np.round(((points[used] - origin) @ axes.T)[:, :2], 12)
    corner = corner.reshape(-1, 3)
    ways = corner[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2).astype(np.int64)
    there, back = ways[:, 0] * len(used) + ways[:, 1], ways[:, 1] * len(used) + ways[:, 0]
    whole = _simple(_rings(flat[ways[~np.isin(there, back)]]), size)
    a, b, c = flat[corner].transpose(1, 0, 2)
    area = 0.5 * float(np.abs((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]).sum())
    if abs(sum(g.area for g in whole) - area) <= 1e-6 * area:
        return whole
    return _simple(_united(flat[corner]), size)  # faces that lie on each other


def _simple(rings: list[Floats], size: float) -> list[shapely.Polygon]:
    """Regions of rings, by the even-odd rule, without points on straight lines."""
    if not rings:
        return []
    region = shapely.build_area(shapely.MultiLineString([np.vstack([r, r[:1]]) for r in rings]))
    return [g for g in shapely.get_parts(shapely.simplify(region, 1e-9 * size)) if g.geom_type == "Polygon"]


def _united(corners: Floats) -> list[Floats]:
    """Rings of the union of triangles (t, 3, 2)."""
    polygons = shapely.polygons(np.round(corners, 12))
    whole = shapely.union_all(polygons[shapely.area(polygons) > 0.0])
    parts = [g for g in shapely.get_parts(whole) if g.geom_type == "Polygon"]
    return [np.array(r.coords)[:-1] for g in parts for r in (g.exterior, *g.interiors)]
