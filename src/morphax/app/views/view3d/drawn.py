"""Meshes as they are drawn: vertices, normals and faces of one, or of many together; coarser ones for moving views."""

from dataclasses import dataclass

import numpy as np

from morphax.app.views.view3d.scene import Bundle, Item, Repeated
from morphax.core.mesh.mesh import Mesh
from morphax.core.mesh.subdivided import subdivided
from morphax.core.pieces.copies import realised
from morphax.core.types import Ints, Single

Coarse = tuple[int, int]
"""About how many rings and sides a coarse tube has, never more than the mesh has."""
_COARSE: Coarse = (5, 4)
_COARSEST: Coarse = (4, 3)
_MOST_REPEATED = 400_000
"""Copies that have more points together are drawn plainer."""
_CROWD = 1500
"""So many tubes together are as coarse as can be: they are thin on the screen."""


def coarse_for(count: int) -> Coarse:
    """How coarse each of ``count`` tubes is drawn while something moves."""
    return _COARSE if count < _CROWD else _COARSEST


@dataclass(frozen=True, eq=False)
class Drawn:
    """``places`` and ``normals`` (v, 3) float32; ``quads`` (q, 4) and ``tris`` (t, 3) of vertices."""

    places: Single
    normals: Single
    quads: Ints
    tris: Ints


@dataclass(frozen=True)
class Smoothing:
    """Which meshes of an ``item`` are subdivided, and how often."""

    item: Item
    levels: int
    meshes: tuple[Mesh, ...]

    def __contains__(self, mesh: Mesh) -> bool:
        return any(m is mesh for m in self.meshes)


def drawn(mesh: Mesh | Bundle | Repeated, *, coarse: Coarse | None = None, smoothing: Smoothing | None = None) -> Drawn:
    """A mesh, or all meshes of a bundle, or all copies of one, ready to be drawn; those of several may be coarse, some
    may be subdivided."""
    if isinstance(mesh, Repeated):
        return _whole(realised(mesh.copies.within(_MOST_REPEATED if coarse is None else 0)))
    if not isinstance(mesh, Bundle):
        whole = mesh if smoothing is None else smoothing.item.whole or mesh
        return _whole(mesh) if smoothing is None or whole not in smoothing else _smoothed(whole, smoothing)
    parts = [
        _smoothed(m, smoothing)
        if smoothing is not None and m in smoothing
        else _whole(m)
        if coarse is None
        else _coarse(m, *coarse)
        for m in mesh.meshes
    ]
    first = np.cumsum([0, *(len(p.places) for p in parts[:-1])])
    return Drawn(
        np.concatenate([p.places for p in parts]),
        np.concatenate([p.normals for p in parts]),
        np.concatenate([p.quads + k for p, k in zip(parts, first, strict=True)]),
        np.concatenate([p.tris + k for p, k in zip(parts, first, strict=True)]),
    )


def _whole(mesh: Mesh) -> Drawn:
    places = np.ascontiguousarray(mesh.points[mesh.vertex_point], dtype=np.float32)
    return Drawn(places, np.ascontiguousarray(mesh.normals), mesh.quad_vertices, mesh.tri_vertices)


def _smoothed(mesh: Mesh, smoothing: Smoothing) -> Drawn:
    """A mesh subdivided; of an item that shows the faces of one look only those that come of them."""
    made, item = subdivided(mesh, smoothing.levels), smoothing.item
    quads = made.quads
    if item.whole is not None and mesh.looks is not None:
        own = [np.repeat(looks == item.of_look, n) for looks, n in ((mesh.looks.quads, 4), (mesh.looks.tris, 3))]
        quads = quads[np.repeat(np.concatenate(own), 4 ** (smoothing.levels - 1))]
    places, normals = (np.ascontiguousarray(v, dtype=np.float32) for v in (made.points, made.normals))
    return Drawn(places, normals, quads, np.empty((0, 3), dtype=np.int32))


def _coarse(mesh: Mesh, most_rings: int, most_sides: int) -> Drawn:
    """Some rings and some points of each, of a body of one loop whose points lie ring by ring; others stay whole.

    A body without caps or corners of its own loses the faces of its ends: it is seen for a moment only.
    """
    rings, sides = mesh.rings, mesh.sides
    skin = next((p for p in mesh.parts if p.name == "skin"), None)
    is_tube = skin is not None and skin.quads[1] == (rings - 1) * sides and len(mesh.points) == rings * sides
    if not is_tube or rings * sides <= most_rings * most_sides:
        return _whole(mesh)
    ring = np.unique(np.linspace(0, rings - 1, min(rings, most_rings)).round().astype(int))
    side = np.unique(np.linspace(0, sides, min(sides, most_sides), endpoint=False).astype(int))
    index = (ring[:, None] * sides + side).ravel()
    vertex = np.empty(len(mesh.points), dtype=np.int64)
    vertex[mesh.vertex_point] = np.arange(len(mesh.vertex_point))
    r, s, n = np.arange(len(ring) - 1)[:, None], np.arange(len(side)), len(side)
    quads = np.stack([r * n + s, (r + 1) * n + s, (r + 1) * n + (s + 1) % n, r * n + (s + 1) % n], axis=-1)
    return Drawn(
        np.ascontiguousarray(mesh.points[index], dtype=np.float32),
        np.ascontiguousarray(mesh.normals[vertex[index]]),
        quads.reshape(-1, 4).astype(np.int32),
        np.empty((0, 3), dtype=np.int32),
    )
