"""Runs out of flat faces: they lie exactly on the face, whatever way it looks, with its holes."""

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from morphax.build.builder import Builder
from morphax.core.mesh.cuts import Flat, flat_face
from morphax.core.mesh.mesh import point_triangles
from morphax.project.edits.drawn_out import FlatFace, draw_out
from morphax.project.edits.runs import NewRun
from morphax.project.model.document import DocumentError, Project, ReadyMadeSource

NEW = NewRun(ReadyMadeSource(name="round"), 0.02)


def outline_of(face: Flat) -> tuple:
    return face.rings, face.origin, face.axes


def body_of(project: Project, run: str) -> trimesh.Trimesh:
    mesh = Builder().run(project, project.find("runs", run)).body.mesh
    return trimesh.Trimesh(mesh.points, point_triangles(mesh))


@given(seed=st.integers(0, 10_000), side=st.integers(0, 11), far=st.sampled_from([0.001, 0.3, 40.0]))
def test_a_run_out_of_any_face_of_a_turned_box_stands_on_that_face(seed: int, side: int, far: float) -> None:
    turn = trimesh.transformations.random_rotation_matrix(np.random.default_rng(seed).random(3))
    box = trimesh.creation.box(extents=(0.4, 0.3, 0.2), transform=turn)
    points, tris = np.array(box.vertices), np.array(box.faces)
    rings, origin, axes = outline_of(flat_face(points, tris, side))
    added = draw_out(Project(), [FlatFace(rings, origin, axes, "Box")], far, NEW)
    made = body_of(added.project, added.ids[0])
    corners = points[np.unique(tris[np.abs((points[tris] - origin) @ axes[2]).max(1) < 1e-9])]
    assert made.is_watertight and len(made.vertices) == 8
    for corner in corners:
        for place in (corner, corner + far * axes[2]):
            assert np.linalg.norm(made.vertices - place, axis=1).min() < 1e-7 * max(1.0, far)
    area = {0: 0.06, 1: 0.08, 2: 0.12}[int(np.argmax(np.abs(np.linalg.inv(turn[:3, :3]) @ axes[2])))]
    assert made.volume == pytest.approx(area * far, rel=1e-6)


@pytest.mark.parametrize("up", [1.0, -1.0])
def test_a_face_with_a_hole_gives_a_tube_also_straight_up_and_down(up: float) -> None:
    tube = trimesh.creation.annulus(r_min=0.1, r_max=0.3, height=1.0, sections=64)
    tris = np.array(tube.faces)
    top = int(np.argmax(up * tube.triangles_center[:, 2] + 10.0 * (up * tube.face_normals[:, 2] > 0.9)))
    rings, origin, axes = outline_of(flat_face(np.array(tube.vertices), tris, top))
    added = draw_out(Project(), [FlatFace(rings, origin, axes, "Tube")], 0.5, NEW)
    made = body_of(added.project, added.ids[0])
    assert made.is_watertight and made.volume == pytest.approx(0.5 * tube.volume, rel=1e-6)
    assert sorted(np.round(made.bounds[:, 2], 9)) == pytest.approx(sorted((up * 0.5, up * 1.0)))


def test_nothing_is_drawn_out_by_nothing() -> None:
    box = trimesh.creation.box(extents=(1.0, 1.0, 1.0))
    face = FlatFace(*outline_of(flat_face(np.array(box.vertices), np.array(box.faces), 0)), "Box")
    for far in (0.0, -0.1):
        with pytest.raises(DocumentError, match="more than 0"):
            draw_out(Project(), [face], far, NEW)
