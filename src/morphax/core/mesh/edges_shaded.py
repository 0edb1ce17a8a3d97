"""How edges are shaded: as they are, all smooth, or each face flat by itself."""

from dataclasses import replace
from math import pi

import numpy as np

from morphax.core.mesh.mesh import Mesh
from morphax.core.mesh.shading import shaded_over
from morphax.core.types import Floats, Ints, frozen

SHADINGS = ("kept", "smooth", "hard")


def shaded_as(mesh: Mesh, edges: str) -> Mesh:
    """A mesh with its edges as they are (*kept*), all *smooth*, or all *hard*: then each face has vertices of its own,
    with its own normal; texture stays."""
    if edges == "kept" or not mesh.face_count:
        return mesh
    return shaded_over(mesh, pi) if edges == "smooth" else _hard(mesh)


def _hard(mesh: Mesh) -> Mesh:
    quads, tris = mesh.points[mesh.quads], mesh.points[mesh.tris]
    of_quads = np.cross(quads[:, 2] - quads[:, 0], quads[:, 3] - quads[:, 1])
    of_tris = np.cross(tris[:, 1] - tris[:, 0], tris[:, 2] - tris[:, 0])
    normals = np.concatenate([np.repeat(_unit(of_quads), 4, axis=0), np.repeat(_unit(of_tris), 3, axis=0)])
    old: Ints = np.concatenate([mesh.quad_vertices.ravel(), mesh.tri_vertices.ravel()])
    count = mesh.quads.size
    return replace(
        mesh,
        vertex_point=frozen(mesh.vertex_point[old]),
        normals=frozen(normals.astype(np.float32)),
        uvs=frozen(mesh.uvs[old]),
        quad_vertices=frozen(np.arange(count, dtype=np.int32).reshape(-1, 4)),
        tri_vertices=frozen(np.arange(count, len(old), dtype=np.int32).reshape(-1, 3)),
    )


def _unit(ways: Floats) -> Floats:
    long = np.linalg.norm(ways, axis=1, keepdims=True)
    out: Floats = ways / np.where(long > 0.0, long, 1.0)
    return out
