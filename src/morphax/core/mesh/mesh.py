"""The mesh value: points, faces, and the vertex tables that split them for normals and texture."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from morphax.core.kernels.meshing import split_quads
from morphax.core.types import Floats, Ints, Points3, Single, frozen
from morphax.core.vectors import cross


@dataclass(frozen=True)
class FacePart:
    """A named stretch of the faces: skin, wedge, start cap or end cap; half-open index ranges."""

    name: str
    quads: tuple[int, int]
    tris: tuple[int, int]


@dataclass(frozen=True, eq=False)
class FaceLooks:
    """What faces look like: ``names``, the first of which is empty, the run's own, and which one each of the quads (m,)
    and triangles (k,) has."""

    names: tuple[str, ...]
    quads: Ints
    tris: Ints


@dataclass(frozen=True, eq=False)
class Mesh:
    """A read-only mesh.

    ``points`` (n, 3) f8, m; ``quads`` (m, 4) and ``tris`` (k, 3) i4 into points; ``vertex_point`` (v,) i4,
    ``normals`` (v, 3) f4, ``uvs`` (v, 2) f4 (m), with ``quad_vertices`` and ``tri_vertices`` into those;
    ``parts`` name stretches of the faces. Skin quads run ring by ring: ring = index // sides, side = index % sides.
    ``is_sheet``: it is of ribbons only, which have a side less than points, and is seen from both sides.
    ``looks``: what its faces look like, where that is not all one.
    """

    points: Points3
    quads: Ints
    tris: Ints
    vertex_point: Ints
    normals: Single
    uvs: Single
    quad_vertices: Ints
    tri_vertices: Ints
    parts: tuple[FacePart, ...]
    rings: int
    sides: int
    is_sheet: bool = False
    looks: FaceLooks | None = None

    @property
    def face_count(self) -> int:
        return len(self.quads) + len(self.tris)

    @cached_property
    def bounds(self) -> Points3:
        """The lowest and the highest corner (2, 3) of the box round all points; (0, 3) where there is none."""
        return self.points if not len(self.points) else frozen(np.array([self.points.min(0), self.points.max(0)]))


def end_rings(mesh: Mesh) -> tuple[Points3, Points3] | None:
    """The first and the last ring (s, 3) of a swept mesh's skin, point by point in the same order; None where it has
    none. Bevelled rings share points, so that they are found by the faces."""
    skin, n = next((p.quads for p in mesh.parts if p.name == "skin"), (0, 0)), mesh.sides
    if mesh.is_sheet:
        return (mesh.points[:n], mesh.points[-n:]) if len(mesh.points) == mesh.rings * n else None
    if mesh.sides < 3 or skin[1] - skin[0] < mesh.sides:
        return None
    quads = mesh.quads[skin[0] : skin[1]]
    first, last = _along_a_side(quads)
    return mesh.points[quads[: mesh.sides, first]], mesh.points[quads[-mesh.sides :, last]]


_WALKS = ((0, 1, 3), (0, 3, 1), (3, 2, 0), (1, 2, 0))
"""Corners of a quad of a skin where its side begins, on its own ring and on the next, and where it ends on its own: as
made, of a mirror image, turned inside out, and both."""


def _along_a_side(quads: Ints) -> tuple[int, int]:
    own, beside = quads[:2].tolist()
    return next(((a, b) for a, b, end in _WALKS if own[end] == beside[a]), _WALKS[0][:2])


def seam_points(mesh: Mesh) -> Points3:
    """The points (n, 3) at which a swept mesh's rings begin, from ring to ring along its skin."""
    skin = next((p.quads for p in mesh.parts if p.name == "skin"), (0, 0))
    quads = mesh.quads[skin[0] : skin[1]]
    if len(quads) < 2:
        return mesh.points[quads[:, :2].ravel()]
    return mesh.points[quads[:: max(mesh.sides, 1), _along_a_side(quads)].ravel()]


def mesh_bytes(mesh: Mesh) -> int:
    """Memory that a mesh's arrays take, bytes."""
    arrays = (mesh.points, mesh.quads, mesh.tris, mesh.vertex_point, mesh.normals, mesh.uvs)
    return sum(a.nbytes for a in (*arrays, mesh.quad_vertices, mesh.tri_vertices))


def by_look(mesh: Mesh) -> tuple[tuple[str, Mesh], ...]:
    """A mesh in pieces of one look each, with its name, over the same points and vertices; whole where it has one."""
    if mesh.looks is None:
        return (("", mesh),)
    out: list[tuple[str, Mesh]] = []
    for k, name in enumerate(mesh.looks.names):
        quads, tris = mesh.looks.quads == k, mesh.looks.tris == k
        if not (quads.any() or tris.any()):
            continue
        faces = {n: frozen(getattr(mesh, n)[quads]) for n in ("quads", "quad_vertices")}
        faces |= {n: frozen(getattr(mesh, n)[tris]) for n in ("tris", "tri_vertices")}
        parts = (FacePart("look", (0, int(quads.sum())), (0, int(tris.sum()))),)
        out.append((name, replace(mesh, parts=parts, rings=0, sides=0, looks=None, **faces)))
    return tuple(out)


def _joined_looks(meshes: Sequence[Mesh]) -> FaceLooks | None:
    if all(m.looks is None for m in meshes):
        return None
    names = tuple(dict.fromkeys(["", *(n for m in meshes if m.looks is not None for n in m.looks.names)]))

    def own(m: Mesh, kind: str) -> Ints:
        if m.looks is None:
            return np.zeros(len(getattr(m, kind)), dtype=np.int32)
        table = np.array([names.index(n) for n in m.looks.names], dtype=np.int32)
        found: Ints = table[getattr(m.looks, kind)]
        return found

    quads, tris = (frozen(np.concatenate([own(m, kind) for m in meshes])) for kind in ("quads", "tris"))
    return FaceLooks(names, quads, tris)


def empty_mesh() -> Mesh:
    """A mesh of nothing: the body of a run that cannot be built."""

    def none(width: int) -> Ints:
        return frozen(np.empty((0, width), dtype=np.int32))

    return Mesh(
        frozen(np.empty((0, 3))),
        none(4),
        none(3),
        frozen(np.empty(0, dtype=np.int32)),
        frozen(np.empty((0, 3), dtype=np.float32)),
        frozen(np.empty((0, 2), dtype=np.float32)),
        none(4),
        none(3),
        (),
        0,
        0,
    )


def joined(meshes: Sequence[Mesh]) -> Mesh:
    """All meshes as one; nothing is cut or welded. Their parts are named as before, one after the other."""
    if len(meshes) == 1:
        return meshes[0]
    points = np.cumsum([0, *(len(m.points) for m in meshes)])
    vertices = np.cumsum([0, *(len(m.vertex_point) for m in meshes)])
    quads = np.cumsum([0, *(len(m.quads) for m in meshes)])
    tris = np.cumsum([0, *(len(m.tris) for m in meshes)])

    def lifted(name: str, by: np.ndarray) -> Ints:
        return frozen(
            np.concatenate([getattr(m, name) + b for m, b in zip(meshes, by[:-1], strict=True)]).astype(np.int32)
        )

    parts = tuple(
        FacePart(p.name, (p.quads[0] + q, p.quads[1] + q), (p.tris[0] + t, p.tris[1] + t))
        for m, q, t in zip(meshes, quads.tolist(), tris.tolist(), strict=False)
        for p in m.parts
    )
    return Mesh(
        frozen(np.concatenate([m.points for m in meshes])),
        lifted("quads", points),
        lifted("tris", points),
        lifted("vertex_point", points),
        frozen(np.concatenate([m.normals for m in meshes])),
        frozen(np.concatenate([m.uvs for m in meshes])),
        lifted("quad_vertices", vertices),
        lifted("tri_vertices", vertices),
        parts,
        sum(m.rings for m in meshes),
        0,
        looks=_joined_looks(meshes),
    )


def used_only(mesh: Mesh) -> Mesh:
    """The mesh without points and vertices that no face has."""
    vertices = np.unique(np.concatenate([mesh.quad_vertices.ravel(), mesh.tri_vertices.ravel()]))
    points = np.unique(np.concatenate([mesh.quads.ravel(), mesh.tris.ravel()]))
    if len(points) == len(mesh.points) and len(vertices) == len(mesh.vertex_point):
        return mesh
    new_point = np.full(len(mesh.points), -1, dtype=np.int32)
    new_point[points] = np.arange(len(points))
    new_vertex = np.full(len(mesh.vertex_point), -1, dtype=np.int32)
    new_vertex[vertices] = np.arange(len(vertices))
    return replace(
        mesh,
        points=frozen(mesh.points[points]),
        quads=frozen(new_point[mesh.quads]),
        tris=frozen(new_point[mesh.tris]),
        vertex_point=frozen(new_point[mesh.vertex_point[vertices]]),
        normals=frozen(mesh.normals[vertices]),
        uvs=frozen(mesh.uvs[vertices]),
        quad_vertices=frozen(new_vertex[mesh.quad_vertices]),
        tri_vertices=frozen(new_vertex[mesh.tri_vertices]),
        rings=0,
        sides=0,
    )


def turned_inside_out(mesh: Mesh) -> Mesh:
    """The same faces seen from their other side: walked the other way, with opposite normals."""
    return replace(
        mesh,
        quads=frozen(mesh.quads[:, ::-1].copy()),
        tris=frozen(mesh.tris[:, ::-1].copy()),
        normals=frozen(-mesh.normals),
        quad_vertices=frozen(mesh.quad_vertices[:, ::-1].copy()),
        tri_vertices=frozen(mesh.tri_vertices[:, ::-1].copy()),
    )


def point_triangles(mesh: Mesh) -> Ints:
    """All faces as triangles (t, 3) of point indices, quads split along their shorter diagonals."""
    return np.concatenate([split_quads(mesh.points, mesh.quads, mesh.quads), mesh.tris])


def vertex_triangles(mesh: Mesh) -> Ints:
    """All faces as triangles (t, 3) of vertex indices, split as ``point_triangles`` does."""
    return np.concatenate([split_quads(mesh.points, mesh.quads, mesh.quad_vertices), mesh.tri_vertices])


def triangle_normals(points: Points3, tris: Ints) -> Floats:
    """Normals (t, 3) scaled to twice the area."""
    p = points[tris]
    return cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
