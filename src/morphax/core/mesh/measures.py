"""Measures of a mesh: volume, area, closedness, Euler characteristic."""

from dataclasses import dataclass

import numpy as np

from morphax.core.mesh.mesh import Mesh, point_triangles, triangle_normals
from morphax.core.types import Ints, Points3
from morphax.core.vectors import cross, dot


@dataclass(frozen=True)
class EdgeCheck:
    """How often the edges of a mesh are used: ``open`` by one face, ``bad`` twice the same way or more often."""

    open: int
    bad: int

    @property
    def closed(self) -> bool:
        return self.open == 0 and self.bad == 0


def volume(mesh: Mesh) -> float:
    """Signed volume, m3, by the divergence theorem about the first point; quads split along the shorter diagonal."""
    if not len(mesh.points):
        return 0.0
    p = (mesh.points - mesh.points[0])[point_triangles(mesh)]
    return float(dot(p[:, 0], cross(p[:, 1], p[:, 2])).sum() / 6.0)


def area(mesh: Mesh) -> float:
    """Surface area, m2, as triangulated."""
    n = triangle_normals(mesh.points, point_triangles(mesh))
    return float(0.5 * np.sqrt(dot(n, n)).sum())


def _half_edges(mesh: Mesh) -> Ints:
    parts = [np.stack([f, np.roll(f, -1, axis=1)], axis=-1).reshape(-1, 2) for f in (mesh.quads, mesh.tris)]
    return np.concatenate(parts)


def edge_check(mesh: Mesh) -> EdgeCheck:
    """Counts edges that are not shared by exactly two faces in opposite directions."""
    half = _half_edges(mesh).astype(np.int64)
    n = len(mesh.points)
    forward, backward = half[:, 0] * n + half[:, 1], half[:, 1] * n + half[:, 0]
    keys, uses = np.unique(forward, return_counts=True)
    partner = np.isin(keys, backward)
    doubled = int((uses > 1).sum() + (half[:, 0] == half[:, 1]).sum())
    return EdgeCheck(int((~partner).sum()), doubled)


def open_edge(mesh: Mesh) -> Points3 | None:
    """The middle (3,) of an edge that only one face has, or that two have the same way; None where there is none."""
    half = _half_edges(mesh).astype(np.int64)
    n = len(mesh.points)
    forward, backward = half[:, 0] * n + half[:, 1], half[:, 1] * n + half[:, 0]
    _, first, uses = np.unique(forward, return_index=True, return_counts=True)
    wrong = (uses > 1) | ~np.isin(forward[first], backward)
    return mesh.points[half[first[wrong][0]]].mean(0) if wrong.any() else None


def is_closed(mesh: Mesh) -> bool:
    """Whether the mesh has faces and every edge belongs to two of them in opposite directions."""
    return mesh.face_count > 0 and edge_check(mesh).closed


def euler_characteristic(mesh: Mesh) -> int:
    """Points that faces use, less edges, plus faces."""
    half = np.sort(_half_edges(mesh), axis=1)
    edges = len(np.unique(half[:, 0].astype(np.int64) * len(mesh.points) + half[:, 1]))
    used = len(np.unique(np.concatenate([mesh.quads.ravel(), mesh.tris.ravel()])))
    return used - edges + mesh.face_count
