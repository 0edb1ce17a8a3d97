"""Subdivision: how a mesh looks when it is smoothed downstream, by the rule of Catmull and Clark.

E. Catmull, J. Clark, Recursively generated B-spline surfaces on arbitrary topological meshes, Computer-Aided Design 10
(6), 1978; open edges go to the cubic B-spline of their own points.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from morphax.core.mesh.mesh import Mesh
from morphax.core.types import Floats, Ints, Points3, Vectors3, frozen

MOST_LEVELS = 3
Index = NDArray[np.integer[Any]]


@dataclass(frozen=True, eq=False)
class Smoothed:
    """``points`` (n, 3) m, their ``normals`` (n, 3), and ``quads`` (m, 4)."""

    points: Points3
    normals: Vectors3
    quads: Ints


@dataclass(frozen=True, eq=False)
class _Edges:
    """Unique edges ``ends`` (e, 2), which of them each corner of each face begins, ``of`` (c,), and in how many faces
    each is, ``count`` (e,)."""

    ends: Index
    of: Index
    count: Index


def subdivided(mesh: Mesh, levels: int) -> Smoothed:
    """A mesh after so many steps, 1 to 3; each makes a face for each corner of the faces before."""
    points, quads = _step(mesh.points, [mesh.quads, mesh.tris])
    for _ in range(levels - 1):
        points, quads = _step(points, [quads])
    used = np.unique(quads)
    number = np.zeros(len(points), dtype=np.int32)
    number[used] = np.arange(len(used), dtype=np.int32)
    points, quads = points[used], number[quads]
    return Smoothed(frozen(points), frozen(_normals(points, quads)), frozen(quads))


def _step(points: Points3, faces: list[Ints]) -> tuple[Points3, Ints]:
    """New points: those of faces, of edges, and the old ones where they go; and the faces between them."""
    faces = [f for f in faces if len(f)]
    sizes = np.concatenate([np.full(len(f), f.shape[1]) for f in faces])
    corner = np.concatenate([f.ravel() for f in faces])
    following = np.concatenate([np.roll(f, -1, axis=1).ravel() for f in faces])
    face = np.repeat(np.arange(len(sizes)), sizes)
    centre = _summed(face, points[corner], len(sizes)) / sizes[:, None]
    edges = _edges(corner, following)
    middle = 0.5 * (points[edges.ends[:, 0]] + points[edges.ends[:, 1]])
    inner = edges.count == 2
    beside = _summed(edges.of, centre[face], len(edges.ends))
    edge_point = np.where(inner[:, None], 0.5 * middle + 0.25 * beside, middle)
    moved = _moved(points, (corner, centre[face]), edges, middle)
    first, second = len(points), len(points) + len(edges.ends)
    starts = np.cumsum(sizes) - sizes
    before = np.arange(len(corner)) - 1
    before[starts] += sizes
    quads = np.stack([corner, first + edges.of, second + face, first + edges.of[before]], axis=1)
    return np.concatenate([moved, edge_point, centre]), quads.astype(np.int32)


def _edges(a: Index, b: Index) -> _Edges:
    low, high = np.minimum(a, b).astype(np.int64), np.maximum(a, b).astype(np.int64)
    size = int(high.max()) + 1
    key, of, count = np.unique(low * size + high, return_inverse=True, return_counts=True)
    return _Edges(np.stack([key // size, key % size], axis=1), of.ravel(), count)


def _summed(to: Index, values: Floats, count: int) -> Floats:
    out: Floats = np.stack([np.bincount(to, weights=values[:, k], minlength=count) for k in range(3)], axis=1)
    return out


def _moved(points: Points3, corners: tuple[Index, Points3], edges: _Edges, middle: Points3) -> Points3:
    """Where the old points go: (Q + 2 R + (n - 3) S) / n within, (a + 6 S + b) / 8 on an open edge; a point of more
    than two open edges, or of edges with more than two faces, stays."""
    n = len(points)
    corner, centre = corners
    faces = np.bincount(corner, minlength=n)
    ends, twice = edges.ends.ravel(), np.repeat(middle, 2, axis=0)
    valence = np.bincount(ends, minlength=n)
    around = np.maximum(valence, 1)[:, None]
    mean_face = _summed(corner, centre, n) / np.maximum(faces, 1)[:, None]
    mean_edge = _summed(ends, twice, n) / around
    within = (mean_face + 2.0 * mean_edge + (around - 3) * points) / around
    odd = np.repeat(edges.count != 2, 2)
    open_ends = np.bincount(ends[odd], minlength=n)
    rim = 0.5 * points + 0.25 * _summed(ends[odd], twice[odd], n)
    many = np.bincount(ends[np.repeat(edges.count > 2, 2)], minlength=n) > 0
    out = np.where((open_ends == 2)[:, None], rim, np.where((open_ends == 0)[:, None], within, points))
    return np.where((many | (valence == 0))[:, None], points, out)


def _normals(points: Points3, quads: Ints) -> Vectors3:
    p = points[quads]
    across = np.cross(p[:, 2] - p[:, 0], p[:, 3] - p[:, 1])
    out = _summed(quads.ravel(), np.repeat(across, 4, axis=0), len(points))
    normals: Vectors3 = out / np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-300)
    return normals
