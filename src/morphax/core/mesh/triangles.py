"""Triangles as they come from files: points and faces, made into a mesh with normals split at creases."""

from dataclasses import dataclass
from functools import cached_property
from math import cos, radians

import numpy as np

from morphax.core.kernels.meshing import face_normals, sorted_half_edges, summed_normals
from morphax.core.mesh.mesh import FacePart, Mesh, point_triangles
from morphax.core.types import Floats, Ints, Points3, frozen
from morphax.core.vectors import dot

CREASE = radians(40.0)
"""Neighbouring faces that meet at a sharper angle have an edge between them."""


@dataclass(frozen=True, eq=False)
class Triangles:
    """Points (n, 3), m or the file's unit, and triangles (k, 3) of them, outside out."""

    points: Points3
    tris: Ints


@dataclass(frozen=True, eq=False)
class Edges:
    """Edges of triangles: ``points`` (e, 2), smaller index first; ``faces`` (e, 2) that meet there, -1 for none.

    An edge at which more than two faces meet appears once for each pair of neighbours in file order.
    """

    points: Ints
    faces: Ints


def welded_points(points: Points3, tris: Ints) -> Triangles:
    """Points that lie on the very same place become one; faces without area of their own corners go."""
    key = np.ascontiguousarray(points + 0.0).view(np.dtype((np.void, points.dtype.itemsize * 3))).ravel()
    _, first, back = np.unique(key, return_index=True, return_inverse=True)
    new = back.astype(np.int32)[tris]
    real = (new[:, 0] != new[:, 1]) & (new[:, 1] != new[:, 2]) & (new[:, 2] != new[:, 0])
    return Triangles(points[first], new[real])


def edges_of(tris: Ints) -> Edges:
    """All edges with the faces on both sides."""
    here, there = tris.ravel(), np.roll(tris, -1, axis=1).ravel()
    size = int(tris.max(initial=0)) + 1
    key = np.minimum(here, there).astype(np.int64) * size + np.maximum(here, there)
    order = sorted_half_edges(tris)
    key, face = key[order], (order // 3).astype(np.int32)
    same = key[1:] == key[:-1]
    first = np.concatenate([[True], ~same]) if len(key) else np.zeros(0, dtype=bool)
    pair = np.flatnonzero(same)
    lone = np.flatnonzero(first & ~np.concatenate([same, [False]])) if len(key) else pair
    edge = key[np.concatenate([pair, lone])]
    points = np.stack([edge // size, edge % size], axis=1)
    faces = np.concatenate(
        [np.stack([face[pair], face[pair + 1]], axis=1), np.stack([face[lone], np.full(len(lone), -1)], axis=1)]
    )
    return Edges(points.astype(np.int32), faces.astype(np.int32))


def creased_normals(points: Points3, tris: Ints, *, crease: float = CREASE) -> tuple[Ints, Floats]:
    """A vertex for each smooth patch at each point: its point (v,), and normals (v, 3); with ``corner`` (k, 3) ids.

    Corners of neighbouring faces are one vertex where the faces meet at less than the crease angle; its normal is
    the sum of their normals, weighed by the angles at the corners, so that how faces are cut into triangles does not
    count (Thuermer and Wuethrich 1998). Returns (corner (k, 3), normals (v, 3)).
    """
    from scipy.sparse import coo_matrix  # start-up time: most projects have no host files
    from scipy.sparse.csgraph import connected_components

    faces_of = face_normals(points, tris)
    edges, n = edges_of(tris), faces_of[:, :3]
    inner = edges.faces[:, 1] >= 0
    soft = inner & (dot(n[edges.faces[:, 0]], n[edges.faces[:, 1]]) >= cos(crease))
    split = np.zeros(len(points), dtype=bool)  # elsewhere all corners at a point are one vertex
    split[edges.points[~soft]] = True
    own = np.flatnonzero(split[tris.ravel()])  # corners at points that may be split
    place = np.full(tris.size, -1, dtype=np.int64)
    place[own] = np.arange(len(own))
    pairs = []
    for k in range(2):
        wanted = soft & split[edges.points[:, k]]
        faces, end = edges.faces[wanted], edges.points[wanted, k]
        corners = [faces[:, s] * 3 + np.argmax(tris[faces[:, s]] == end[:, None], axis=1) for s in range(2)]
        pairs.append(place[np.stack(corners)])
    joined = np.concatenate(pairs, axis=1)
    graph = coo_matrix((np.ones(joined.shape[1], dtype=np.int8), joined), shape=(len(own), len(own)))
    more, patch = connected_components(graph, directed=False) if len(own) else (0, np.empty(0, dtype=np.int64))
    label = tris.ravel().astype(np.int64)
    label[own] = len(points) + patch
    used = np.zeros(len(points) + more, dtype=np.bool_)
    used[label] = True
    number = np.cumsum(used) - 1 if more else np.arange(len(points))
    corner = number[label].reshape(-1, 3).astype(np.int32)
    return corner, summed_normals(points, tris, faces_of, corner, int(number[-1]) + 1 if len(number) else 0)


def mesh_of(shape: Triangles) -> Mesh:
    """A mesh to be shown and picked: smooth but for its creases, without texture coordinates."""
    corner, normals = creased_normals(shape.points, shape.tris)
    vertex_point = np.zeros(len(normals), dtype=np.int32)
    vertex_point[corner] = shape.tris
    none = np.empty((0, 4), dtype=np.int32)
    return Mesh(
        frozen(np.ascontiguousarray(shape.points)),
        frozen(none),
        frozen(shape.tris.astype(np.int32)),
        frozen(vertex_point),
        frozen(normals.astype(np.float32)),
        frozen(np.zeros((len(normals), 2), dtype=np.float32)),
        frozen(none.copy()),
        frozen(corner),
        (FacePart("host", (0, 0), (0, len(shape.tris))),),
        0,
        0,
    )


@dataclass(frozen=True, eq=False)
class Creases:
    """The edges of a body that are seen: ``points`` (n, 3) m, ``edges`` (e, 2) of them, and the outward normals
    (e, 2, 3) of the faces on both sides (twice the same at a rim)."""

    points: Points3
    edges: Ints
    normals: Floats

    @cached_property
    def _touching(self) -> tuple[Ints, Ints]:
        """Edges in the order of the points that they touch, and where each point's begin."""
        flat = self.edges.ravel()
        order = np.argsort(flat, kind="stable").astype(np.int32)
        starts = np.searchsorted(flat[order], np.arange(len(self.points) + 1)).astype(np.int32)
        return order // 2, starts

    def touching(self, point: int) -> Ints:
        """Indices of the edges that end at a point."""
        edges, starts = self._touching
        return edges[starts[point] : starts[point + 1]]


def creases_of(mesh: Mesh, *, crease: float = CREASE) -> Creases:
    """The seen edges of a mesh; points that lie on one place count as one."""
    shape = welded_points(np.asarray(mesh.points), point_triangles(mesh))
    edges = edges_of(shape.tris)
    normals = face_normals(shape.points, shape.tris)[:, :3]
    rim = edges.faces[:, 1] < 0
    a = normals[edges.faces[:, 0]]
    b = np.where(rim[:, None], a, normals[edges.faces[:, 1]])
    seen = rim | ((a * b).sum(1) < cos(crease))
    used, ends = np.unique(edges.points[seen], return_inverse=True)
    return Creases(shape.points[used], ends.reshape(-1, 2).astype(np.int32), np.stack([a[seen], b[seen]], axis=1))
