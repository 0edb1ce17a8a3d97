"""Tubes: meshes of rings of points one after the other, capped or open, with smooth sides."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from morphax.core.mesh.mesh import FacePart, Mesh
from morphax.core.types import Floats, Points3, Vectors3, frozen


@dataclass(frozen=True, eq=False)
class TubeRings:
    """``points`` (m, k, 3), m, and outward ``normals`` (m, k, 3) of rings that run counter-clockwise seen against the
    way; ``along`` (m,) and ``round`` (k+1,) their lengths for texture, m."""

    points: Points3
    normals: Vectors3
    along: Floats
    round: Floats


def tube_mesh(rings: TubeRings, *, closed: bool, capped: tuple[bool, bool] = (True, True)) -> Mesh:
    """The mesh of a tube: a skin of quads, flat caps of triangles where it is ``capped`` at start and end."""
    m, k = rings.points.shape[:2]
    starts, ends = np.arange(m if closed else m - 1), (np.arange(m if closed else m - 1) + 1) % m
    quads = _quads(starts, ends, k, k)
    last = m if closed else m - 1
    seam = np.arange(m + 1 if closed else m) % m
    index = np.arange(k + 1) % k
    vertex_point = (seam[:, None] * k + index).ravel()
    normals = rings.normals[seam][:, index].reshape(-1, 3)
    along = np.append(rings.along, rings.along[-1] + _step(rings)) if closed else rings.along
    uvs = np.stack(np.broadcast_arrays(rings.round[None, :], along[:, None]), axis=-1).reshape(-1, 2)
    quad_vertices = _quads(np.arange(last), np.arange(last) + 1, k + 1, k, wraps=False)
    tris, tri_vertices, parts = np.empty((0, 3), dtype=np.int32), np.empty((0, 3), dtype=np.int32), list[FacePart]()
    caps = () if closed else ((0, capped[0], "start cap"), (m - 1, capped[1], "end cap"))
    for ring, is_there, name in caps:
        if not is_there:
            continue
        fan = np.stack([np.zeros(k - 2, dtype=int), np.arange(1, k - 1), np.arange(2, k)], axis=1)
        fan = fan[:, ::-1] if ring == 0 else fan
        way = np.cross(rings.points[ring, 1] - rings.points[ring, 0], rings.points[ring, 2] - rings.points[ring, 0])
        way = way / max(float(np.linalg.norm(way)), 1e-300) * (-1.0 if ring == 0 else 1.0)
        first = len(vertex_point)
        vertex_point = np.append(vertex_point, ring * k + np.arange(k))
        normals = np.concatenate([normals, np.tile(way, (k, 1))])
        uvs = np.concatenate([uvs, _flat(rings.points[ring], way)])
        parts.append(FacePart(name, (len(quads), len(quads)), (len(tris), len(tris) + k - 2)))
        tris, tri_vertices = np.concatenate([tris, ring * k + fan]), np.concatenate([tri_vertices, first + fan])
    return Mesh(
        frozen(rings.points.reshape(-1, 3)),
        frozen(quads.astype(np.int32)),
        frozen(tris.astype(np.int32)),
        frozen(vertex_point.astype(np.int32)),
        frozen(normals.astype(np.float32)),
        frozen(uvs.astype(np.float32)),
        frozen(quad_vertices.astype(np.int32)),
        frozen(tri_vertices.astype(np.int32)),
        (FacePart("skin", (0, len(quads)), (0, 0)), *parts),
        m,
        k,
    )


def _step(rings: TubeRings) -> float:
    return float(np.linalg.norm(rings.points[0].mean(0) - rings.points[-1].mean(0)))


def _quads(starts: Any, ends: Any, wide: int, sides: int, *, wraps: bool = True) -> Any:
    """Quads between rings of ``wide`` indices each."""
    i = np.arange(sides)
    j = (i + 1) % wide if wraps else i + 1
    a, b = starts[:, None] * wide, ends[:, None] * wide
    return np.stack([a + i, a + j, b + j, b + i], axis=-1).reshape(-1, 4)


def _flat(points: Points3, way: Vectors3) -> Floats:
    """Places of a cap's points in its plane, m."""
    side = np.cross(way, (0.0, 0.0, 1.0))
    if np.linalg.norm(side) < 1e-6:
        side = np.array([1.0, 0.0, 0.0])
    side = side / np.linalg.norm(side)
    up = np.cross(way, side)
    own = points - points.mean(0)
    return np.stack([own @ side, own @ up], axis=1)
