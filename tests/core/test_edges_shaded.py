"""Edges of exported bodies: as they are, all smooth, or each face flat by itself; the faces stay the same."""

import numpy as np
import pytest

from morphax.core.body.sweep import sweep
from morphax.core.mesh.edges_shaded import shaded_as
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.mesh.mesh import vertex_triangles
from morphax.core.section.ready_made import ready_made
from tests.helpers import zoo


def zoo_meshes():
    for path in ("straight", "frame", "s curve", "corners out of plane"):
        for section in ("rectangle", "ogee", "pipe"):
            yield f"{path} {section}", sweep(zoo()[path], ready_made(section, {"width": 0.05})).mesh


@pytest.mark.parametrize("edges", ["smooth", "hard"])
def test_faces_stay_and_normals_are_as_asked_for(edges: str) -> None:
    for name, mesh in zoo_meshes():
        made = shaded_as(mesh, edges)
        assert np.array_equal(made.points, mesh.points) and np.array_equal(made.quads, mesh.quads), name
        assert volume(made) == volume(mesh) and edge_check(made) == edge_check(mesh)
        assert np.array_equal(made.vertex_point[made.quad_vertices], made.quads)
        assert np.array_equal(made.vertex_point[made.tri_vertices], made.tris)
        np.testing.assert_array_equal(made.uvs[made.tri_vertices], mesh.uvs[mesh.tri_vertices])
        np.testing.assert_array_equal(made.uvs[made.quad_vertices], mesh.uvs[mesh.quad_vertices])
        assert shaded_as(mesh, "kept") is mesh


def test_hard_normals_are_those_of_the_faces_and_smooth_ones_one_at_each_point() -> None:
    for name, mesh in zoo_meshes():
        hard, smooth = shaded_as(mesh, "hard"), shaded_as(mesh, "smooth")
        tris = hard.points[hard.tris]
        own = np.cross(tris[:, 1] - tris[:, 0], tris[:, 2] - tris[:, 0])
        long = np.linalg.norm(own, axis=1)
        fair = long > 1e-9 * long.max(initial=0.0)
        for k in range(3):
            cosine = (hard.normals[hard.tri_vertices[:, k]] * own).sum(1)[fair] / long[fair]
            assert cosine.min(initial=1.0) > 1.0 - 1e-5, name
        ends = hard.normals[hard.quad_vertices]
        assert np.ptp(ends, axis=1).max(initial=0.0) == 0.0, "one normal for each quad"
        order = np.argsort(smooth.vertex_point, kind="stable")
        at, normals = smooth.vertex_point[order], smooth.normals[order]
        same = at[1:] == at[:-1]
        assert np.abs(np.diff(normals, axis=0)[same]).max(initial=0.0) < 1e-5, name
        assert len(vertex_triangles(hard)) == len(vertex_triangles(mesh))
