"""Caps of four-sided faces: rungs across a convex outline, else triangles joined two by two where they can be."""

from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from morphax.core.mesh.mesh import FaceLooks, FacePart, Mesh
from morphax.core.types import Points3, frozen

Index = NDArray[np.integer[Any]]

_FLAT = 1e-9
"""Corners that turn by less, for their size, are straight on: a face may have them."""


def with_quad_caps(mesh: Mesh) -> Mesh:
    """A mesh whose flat caps have four-sided faces of the same points, and triangles where one is left over.

    Every other face stays as it is; each part keeps its own.
    """
    quads, tris, parts = list[Index](), list[Index](), list[FacePart]()
    of_quads, of_tris = list[Index](), list[Index]()
    for part in mesh.parts:
        own_quads, own_tris = np.arange(*part.quads), np.arange(*part.tris)
        q, t = mesh.quad_vertices[own_quads], mesh.tri_vertices[own_tris]
        from_tris = np.empty(0, dtype=np.int64)
        if part.name.endswith("cap") and len(t) > 1:
            made, left, first = _as_quads(mesh, t)
            q, from_tris = np.concatenate([q, made]).astype(np.int32), own_tris[first]
            t, own_tris = t[left], own_tris[left]
        at = sum(map(len, quads)), sum(map(len, tris))
        parts.append(FacePart(part.name, (at[0], at[0] + len(q)), (at[1], at[1] + len(t))))
        quads.append(q)
        tris.append(t)
        of_quads.append(np.concatenate([own_quads, -1 - from_tris]))
        of_tris.append(own_tris)
    quad_vertices, tri_vertices = (np.concatenate(v).astype(np.int32) for v in (quads, tris))
    return replace(
        mesh,
        quads=frozen(mesh.vertex_point[quad_vertices]),
        tris=frozen(mesh.vertex_point[tri_vertices]),
        quad_vertices=frozen(quad_vertices),
        tri_vertices=frozen(tri_vertices),
        parts=tuple(parts),
        looks=_looks(mesh.looks, np.concatenate(of_quads), np.concatenate(of_tris)),
    )


def _looks(looks: FaceLooks | None, of_quads: Index, of_tris: Index) -> FaceLooks | None:
    """``of_quads``: the old number of each quad, or -1 - that of the triangle that it was."""
    if looks is None:
        return None
    old_tris = looks.tris[np.where(of_quads < 0, -1 - of_quads, 0)] if len(looks.tris) else of_quads
    old_quads = looks.quads[np.maximum(of_quads, 0)] if len(looks.quads) else of_quads
    quads = np.where(of_quads < 0, old_tris, old_quads).astype(np.int32)
    return FaceLooks(looks.names, frozen(quads), frozen(looks.tris[of_tris].astype(np.int32)))


def _as_quads(mesh: Mesh, tris: Index) -> tuple[Index, Index, Index]:
    """Quads (m, 4) of vertices in the place of a cap's triangles, which of those are left, and one that each quad was
    of."""
    places = mesh.points[mesh.vertex_point]
    rungs = _rungs(places, tris)
    if rungs is not None:
        quads, lone = rungs
        left = np.zeros(0, dtype=np.int64)
        if lone is not None:  # an outline of an odd number of points: any triangle stands for the one that is left
            tris[0] = lone
            left = np.zeros(1, dtype=np.int64)
        return quads, left, np.zeros(len(quads), dtype=np.int64)
    return _paired(places, tris)


def _rungs(places: Points3, tris: Index) -> tuple[Index, Index | None] | None:
    """Faces between opposite points of one convex outline, and the triangle left over where their number is odd."""
    loop = _outline(tris)
    if loop is None or len(loop) < 4:
        return None
    p = places[loop]
    ways = np.roll(p, -1, axis=0) - p
    turns = np.cross(np.roll(ways, 1, axis=0), ways)
    normal = turns.sum(0)
    size = float(np.linalg.norm(normal))
    if size == 0.0 or ((turns @ normal) < -_FLAT * size * np.abs(turns).max()).any():
        return None
    n = len(loop)
    count = (n - 2) // 2
    best, lone = -np.inf, None
    quads: Index = np.empty((0, 4), dtype=np.int64)
    for start in range(min(n, 64)):  # the turn that leaves the fullest faces
        k = np.arange(count)
        at = np.stack([(start + k) % n, (start + k + 1) % n, (start - 2 - k) % n, (start - 1 - k) % n], axis=1)
        least = float(_fullness(p[at]).min())
        if least > best * (1.0 + 1e-9) + 1e-300:
            best, quads = least, loop[at]
            lone = None if n % 2 == 0 else loop[[(start + count) % n, (start + count + 1) % n, (start - 1 - count) % n]]
    return (quads, lone) if best > _FLAT else None


def _outline(tris: Index) -> Index | None:
    """The vertices round some triangles, in their order; None where there is more than one outline."""
    edges = np.concatenate([tris[:, [0, 1]], tris[:, [1, 2]], tris[:, [2, 0]]]).tolist()
    inner = {(b, a) for a, b in edges}
    after = {a: b for a, b in edges if (a, b) not in inner}
    if len(after) != sum((a, b) not in inner for a, b in edges) or not after:
        return None
    first = min(after)
    loop, now = [first], after[first]
    while now != first and len(loop) <= len(after):
        loop.append(now)
        if now not in after:
            return None
        now = after[now]
    return np.array(loop) if len(loop) == len(after) else None


def _fullness(corners: Points3) -> Points3:
    """How far quads (m, 4, 3) are from losing a corner: their least corner triangle, of their longest diagonal squared;
    less than 0 where one turns back."""
    ways = np.roll(corners, -1, axis=1) - corners
    turns = np.cross(np.roll(ways, 1, axis=1), ways)
    normal = turns.sum(1)
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-300)
    across = ((corners[:, :2] - corners[:, 2:]) ** 2).sum(2).max(1)
    out: Points3 = (turns * normal[:, None]).sum(2).min(1) / np.maximum(across, 1e-300)
    return out


def _paired(places: Points3, tris: Index) -> tuple[Index, Index, Index]:
    """Triangles joined two by two over their common edges, the fullest faces first; what turns back is left alone."""
    sides: dict[tuple[int, int], tuple[int, int]] = {}
    found = list[tuple[int, int, tuple[int, int, int, int]]]()
    for i, corners in enumerate(tris.tolist()):
        for k in range(3):
            a, b, c = corners[k], corners[(k + 1) % 3], corners[(k + 2) % 3]
            other = sides.pop((b, a), None)
            if other is None:
                sides[a, b] = (i, c)
            else:
                found.append((other[0], i, (c, a, other[1], b)))
    if not found:
        return np.empty((0, 4), dtype=np.int32), np.arange(len(tris)), np.empty(0, dtype=np.int64)
    fullness = _fullness(places[np.array([q for _, _, q in found])])
    gone, quads, first = set[int](), list[tuple[int, int, int, int]](), list[int]()
    for k in np.argsort(-fullness, kind="stable").tolist():
        one, two, quad = found[k]
        if fullness[k] > _FLAT and not gone & {one, two}:
            gone |= {one, two}
            quads.append(quad)
            first.append(one)
    left = np.array([i for i in range(len(tris)) if i not in gone], dtype=np.int64)
    return np.array(quads, dtype=np.int32).reshape(-1, 4), left, np.array(first, dtype=np.int64)
