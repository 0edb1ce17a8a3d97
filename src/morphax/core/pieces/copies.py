"""Copies of one mesh, and all of them as real faces."""

from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from morphax.core.mesh.mesh import FacePart, Mesh, mesh_bytes
from morphax.core.pieces.plates import plate_mesh
from morphax.core.types import Floats, Ints, Points3, frozen


@dataclass(frozen=True, eq=False)
class Copies:
    """``mesh``, and where its copies are: ``transforms`` (n, 3, 4), the last column their places, m; ``at`` (n,) their
    distances along the path, m. ``plain``: the mesh with few faces, where it has such a one; ``sizes`` of the mesh by
    their names, m; ``out`` (k,) distances of places where one is left out; ``far`` (n,) how far each is drawn out to
    its host, m, nan where it meets none, empty where there is no host."""

    mesh: Mesh
    transforms: Floats
    at: Floats
    plain: Mesh | None = None
    sizes: tuple[tuple[str, float], ...] = ()
    out: Floats = field(default_factory=lambda: frozen(np.empty(0)))
    far: Floats = field(default_factory=lambda: frozen(np.empty(0)))

    @property
    def face_count(self) -> int:
        """Faces of all."""
        return self.mesh.face_count * len(self.transforms)

    @property
    def bytes(self) -> int:
        """About how much memory they may take, as real faces."""
        return self.transforms.nbytes + len(self.transforms) * mesh_bytes(self.mesh)

    @cached_property
    def box(self) -> Points3:
        """(2, 3) round all of them; (0, 3) where there are none."""
        if not len(self.transforms):
            return frozen(np.empty((0, 3)))
        low, high = self.mesh.bounds
        middle, half = 0.5 * (low + high), 0.5 * (high - low)
        places = self.transforms[:, :, :3] @ middle + self.transforms[:, :, 3]
        reach = np.abs(self.transforms[:, :, :3]) @ half
        return frozen(np.array([(places - reach).min(0), (places + reach).max(0)]))

    @cached_property
    def whole(self) -> Mesh:
        """All of them as real faces; kept."""
        return realised(self)

    @cached_property
    def light(self) -> Mesh:
        """All of them with fewer faces where there are many, to be found under the pointer, or drawn quickly: of the
        plain mesh, or as boxes; kept."""
        return realised(self.within(_LIGHT))

    def within(self, points: int) -> "Copies":
        """The same with so many points in all, where that is possible: of the plain mesh, else boxes."""
        shapes = [self.mesh, *([] if self.plain is None else [self.plain])]
        n = len(self.transforms)
        fits = next((m for m in shapes if len(m.points) * n <= points), None)
        return replace(self, mesh=box_mesh(self.mesh) if fits is None else fits)


_LIGHT = 100_000
"""So many points the light mesh of a set has, where more than boxes fit into that."""


def box_mesh(mesh: Mesh) -> Mesh:
    """The box round a mesh."""
    (x, y, z), (far_x, far_y, far_z) = mesh.bounds
    made = plate_mesh([np.array([[y, z], [far_y, z], [far_y, far_z], [y, far_z]])], far_x - x)
    return replace(made, points=frozen(made.points + np.array([x, 0.0, 0.0])))


def realised(copies: Copies) -> Mesh:
    """All copies as one mesh, real faces each; those that are mirrored keep their outside outside."""
    mesh, t = copies.mesh, copies.transforms
    n, turned = len(t), np.linalg.det(t[:, :, :3]) < 0.0
    points = np.einsum("nij,pj->npi", t[:, :, :3], mesh.points) + t[:, None, :, 3]
    inverse = np.linalg.inv(t[:, :, :3])
    normals = np.einsum("nji,vj->nvi", inverse, mesh.normals.astype(np.float64))
    normals /= np.maximum(np.linalg.norm(normals, axis=2, keepdims=True), 1e-300)

    def faces(name: str, step: int) -> Ints:
        own = getattr(mesh, name)
        out = own[None] + (np.arange(n) * step)[:, None, None]
        out[turned] = out[turned][:, :, ::-1]
        return frozen(out.reshape(-1, own.shape[1]).astype(np.int32))

    p, v = len(mesh.points), len(mesh.vertex_point)
    at = (mesh.vertex_point[None] + (np.arange(n) * p)[:, None]).ravel().astype(np.int32)
    return Mesh(
        frozen(points.reshape(-1, 3)),
        faces("quads", p),
        faces("tris", p),
        frozen(at),
        frozen(normals.reshape(-1, 3).astype(np.float32)),
        frozen(np.tile(mesh.uvs, (n, 1))),
        faces("quad_vertices", v),
        faces("tri_vertices", v),
        (FacePart("pieces", (0, n * len(mesh.quads)), (0, n * len(mesh.tris))),),
        0,
        0,
    )
