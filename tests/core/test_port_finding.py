"""Creases, rims and flat faces of meshes, and the ports in them."""

import numpy as np
import pytest
import trimesh

from morphax.core.mesh.measures import volume
from morphax.core.mesh.port_finding import circle_through, face_port, rim_loop, rim_port
from morphax.core.mesh.triangles import Triangles, creases_of, edges_of, mesh_of, welded_points


def shape(mesh: trimesh.Trimesh) -> Triangles:
    return welded_points(np.asarray(mesh.vertices), np.asarray(mesh.faces, dtype=np.int32))


BOX = shape(trimesh.creation.box(extents=(1, 2, 3)))
DRUM = shape(trimesh.creation.cylinder(radius=0.3, height=2.0, sections=48))
TUBE = shape(trimesh.creation.annulus(r_min=0.2, r_max=0.3, height=1.0, sections=48))


def test_every_edge_of_a_closed_shape_has_two_faces() -> None:
    edges = edges_of(BOX.tris)
    assert len(edges.points) == 18 and (edges.faces >= 0).all()
    opened = edges_of(BOX.tris[1:])
    assert (opened.faces[:, 1] < 0).sum() == 3


def test_smooth_sides_share_their_normals_and_creases_split_them() -> None:
    mesh = mesh_of(DRUM)
    assert len(mesh.normals) == 2 * 48 + 2 * 49, "the sides' vertices, and those of both caps with their middles"
    side = np.abs(mesh.normals[:, 2]) < 0.5
    points = mesh.points[mesh.vertex_point[side]]
    outward = points[:, :2] / np.linalg.norm(points[:, :2], axis=1, keepdims=True)
    assert np.allclose(mesh.normals[side][:, :2], outward, atol=0.01)
    assert volume(mesh) == pytest.approx(trimesh.creation.cylinder(radius=0.3, height=2.0, sections=48).volume)


def test_creases_are_what_is_seen() -> None:
    assert len(creases_of(mesh_of(BOX)).edges) == 12, "diagonals of faces are no edges"
    assert len(creases_of(mesh_of(DRUM)).edges) == 96
    assert len(creases_of(mesh_of(shape(trimesh.creation.icosphere(subdivisions=3)))).edges) == 0


def edge_near(creases, place) -> int:
    middles = creases.points[creases.edges].mean(1)
    return int(np.argmin(np.linalg.norm(middles - np.array(place), axis=1)))


@pytest.mark.parametrize("top", [True, False])
def test_a_rim_gives_its_circle_facing_out(top: bool) -> None:
    z = 1.0 if top else -1.0
    creases = creases_of(mesh_of(DRUM))
    spot = rim_port(creases, edge_near(creases, (0.3, 0.0, z)), np.array([0.0, 0.0, 1.0]))
    assert spot is not None and np.allclose(spot.centre, (0, 0, z), atol=1e-9)
    assert np.allclose(spot.direction, (0, 0, z)) and spot.diameter == pytest.approx(0.6, rel=1e-9)


def test_the_rim_of_a_hole_is_found_beside_the_outer_one() -> None:
    creases = creases_of(mesh_of(TUBE))
    for radius in (0.2, 0.3):
        spot = rim_port(creases, edge_near(creases, (radius, 0.0, 0.5)), np.array([0.0, 0.0, 1.0]))
        assert spot is not None and spot.diameter == pytest.approx(2 * radius, rel=1e-6)
        assert np.allclose(spot.direction, (0, 0, 1))


def test_straight_edges_belong_to_no_round_rim() -> None:
    creases = creases_of(mesh_of(BOX))
    assert rim_port(creases, 0, np.array([0.0, 0.0, 1.0])) is None
    loop = rim_loop(creases, 0, np.array([0.0, 0.0, 1.0]))
    assert loop is not None and len(loop) == 4


def test_the_loop_round_the_face_that_is_looked_at() -> None:
    creases = creases_of(mesh_of(BOX))
    edge = edge_near(creases, (0.5, 0.0, 1.5))
    for eye, axis, value in (((0.1, 0.0, 1.0), 2, 1.5), ((1.0, 0.0, 0.1), 0, 0.5)):
        loop = rim_loop(creases, edge, np.array(eye))
        assert loop is not None and np.allclose(creases.points[loop][:, axis], value)


def test_an_open_chain_has_no_loop() -> None:
    sheet = Triangles(np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0.0]]), np.array([[0, 1, 2]], dtype=np.int32))
    creases = creases_of(mesh_of(sheet))
    assert rim_loop(creases, 0, np.array([0.0, 0.0, 1.0])) is not None
    cut = type(creases)(creases.points, creases.edges[:2], creases.normals[:2])
    assert rim_loop(cut, 0, np.array([0.0, 0.0, 1.0])) is None


def test_a_flat_face_gives_its_area_centroid_normal_and_size() -> None:
    face = int(np.argmax(BOX.points[BOX.tris][:, :, 0].min(1)))
    spot = face_port(BOX.points, BOX.tris, face)
    assert np.allclose(spot.centre, (0.5, 0, 0)) and np.allclose(spot.direction, (1, 0, 0)) and not spot.is_round
    assert spot.diameter == pytest.approx(2 * np.sqrt(6 / np.pi))


def test_a_round_face_gives_its_own_circle_and_a_ring_its_middle() -> None:
    cap = int(np.argmax(DRUM.points[DRUM.tris][:, :, 2].min(1)))
    spot = face_port(DRUM.points, DRUM.tris, cap)
    assert spot.is_round and np.allclose(spot.centre, (0, 0, 1)) and spot.diameter == pytest.approx(0.6)
    ring = int(np.argmax(TUBE.points[TUBE.tris][:, :, 2].min(1)))
    assert np.allclose(face_port(TUBE.points, TUBE.tris, ring).centre, (0, 0, 0.5), atol=1e-9)


def test_a_face_stops_where_the_plane_comes_back_elsewhere() -> None:
    two = trimesh.util.concatenate(
        [trimesh.creation.box(extents=(1, 1, 1)), trimesh.creation.box(extents=(1, 1, 1)).apply_translation((5, 0, 0))]
    )
    both = shape(two)
    top = int(np.flatnonzero((both.points[both.tris][:, :, 2] > 0.49).all(1))[0])
    assert abs(face_port(both.points, both.tris, top).centre[0] - round(both.points[both.tris[top], 0].mean())) < 0.51


@pytest.mark.parametrize("seed", range(4))
def test_circles_through_points_anywhere(seed: int) -> None:
    rng = np.random.default_rng(seed)
    a, b = np.linalg.qr(rng.normal(size=(3, 2)))[0].T
    centre, radius = rng.normal(size=3) * 5, 0.3
    t = np.sort(rng.random(9)) * 2 * np.pi
    spot, off = circle_through(centre + radius * (np.cos(t)[:, None] * a + np.sin(t)[:, None] * b))
    assert np.allclose(spot.centre, centre, atol=1e-9) and spot.diameter == pytest.approx(0.6) and off < 1e-9
    assert abs(abs(spot.direction @ np.cross(a, b)) - 1) < 1e-9
