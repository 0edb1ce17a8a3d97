"""Plane cuts and flat faces of meshes: exact areas, by trimesh too."""

from math import pi
from time import perf_counter

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial import ConvexHull

from morphax.core.mesh.cuts import face_axes, flat_face, plane_cut

BOX = trimesh.creation.box(extents=(2.0, 1.0, 0.5))
AXES = np.eye(3)


def area(rings: list[np.ndarray]) -> float:
    region = shapely.Polygon()
    for ring in rings:
        region = region.symmetric_difference(shapely.Polygon(ring))
    return float(region.area)


def test_a_box_is_cut_to_its_own_rectangles() -> None:
    points, tris = np.array(BOX.vertices), np.array(BOX.faces)
    assert area(plane_cut(points, tris, np.zeros(3), AXES)) == pytest.approx(2.0)
    assert area(plane_cut(points, tris, np.zeros(3), AXES[[1, 2, 0]])) == pytest.approx(0.5)
    assert plane_cut(points, tris, np.array([0.0, 0.0, 5.0]), AXES) == []
    assert area(plane_cut(points, tris, np.array([0.0, 0.0, 0.25]), AXES)) in (0.0, pytest.approx(2.0)), "on a face"


def test_a_tube_is_cut_to_a_ring_with_a_hole() -> None:
    tube = trimesh.creation.annulus(r_min=0.1, r_max=0.3, height=1.0, sections=256)
    rings = plane_cut(np.array(tube.vertices), np.array(tube.faces), np.zeros(3), AXES)
    assert len(rings) == 2 and area(rings) == pytest.approx(pi * (0.09 - 0.01), rel=1e-3)


@given(seed=st.integers(0, 10_000), shift=st.floats(-0.2, 0.2))
def test_random_cuts_are_those_of_trimesh(seed: int, shift: float) -> None:
    rng = np.random.default_rng(seed)
    axes = np.linalg.qr(rng.normal(size=(3, 3)))[0]
    axes[2] *= np.sign(np.linalg.det(axes))
    mesh = trimesh.creation.icosphere(subdivisions=2, radius=0.4)
    origin = shift * axes[2]
    own = plane_cut(np.array(mesh.vertices), np.array(mesh.faces), origin, axes)
    lines = trimesh.intersections.mesh_plane(mesh, plane_normal=axes[2], plane_origin=origin)
    hull = ConvexHull((lines.reshape(-1, 3) - origin) @ axes[:2].T)
    assert area(own) == pytest.approx(hull.volume, rel=1e-6), "a ball is convex, and so are its cuts"


def test_a_flat_face_is_its_outline_with_its_holes() -> None:
    tube = trimesh.creation.annulus(r_min=0.1, r_max=0.3, height=1.0, sections=64)
    points, tris = np.array(tube.vertices), np.array(tube.faces)
    top = int(np.argmax(tube.triangles_center[:, 2] + 10.0 * (tube.face_normals[:, 2] > 0.9)))
    found = flat_face(points, tris, top)
    rings, origin, axes = found.rings, found.origin, found.axes
    assert len(rings) == 2 and area(rings) == pytest.approx(pi * 0.08, rel=4e-3)
    assert axes[2] == pytest.approx((0.0, 0.0, 1.0)) and origin[2] == pytest.approx(0.5)
    side = int(np.argmax(BOX.face_normals[:, 1]))
    found = flat_face(np.array(BOX.vertices), np.array(BOX.faces), side)
    rings, origin, axes = found.rings, found.origin, found.axes
    assert area(rings) == pytest.approx(1.0) and len(rings[0]) == 4, "both triangles, and no point between them"
    assert axes[1] == pytest.approx((0.0, 0.0, 1.0)), "up is up"
    assert np.linalg.det(face_axes(np.array(BOX.vertices), np.array(BOX.faces), side)) == pytest.approx(1.0)


def plate(n: int, bend: float = 0.0) -> tuple[np.ndarray, np.ndarray]:
    """A square metre of n x n cells, flat or bent."""
    x, y = np.meshgrid(np.linspace(0, 1, n + 1), np.linspace(0, 1, n + 1), indexing="ij")
    points = np.stack([x, y, bend * np.sin(5.0 * x)], axis=-1).reshape(-1, 3)
    i = np.arange(n * (n + 1)).reshape(n, n + 1)[:, :-1].ravel()
    return points, np.concatenate([np.stack([i, i + n + 1, i + n + 2], 1), np.stack([i, i + n + 2, i + 1], 1)])


def test_a_face_of_many_thousand_triangles_is_found_at_once() -> None:
    points, tris = plate(200)
    begin = perf_counter()
    found = flat_face(points, tris, 1234)
    assert perf_counter() - begin < 2.0, "it took a minute"
    assert len(found.rings) == 1 and len(found.rings[0]) == 4 and len(found.triangles) == 80_000
    bent, tris = plate(60, 0.05)
    assert len(flat_face(bent, tris, 777).triangles) < 200


def test_faces_in_one_plane_that_touch_are_one_and_others_are_not() -> None:
    points, tris = plate(4)
    beside = points + [1.0, 0.25, 0.0]
    away = points + [3.0, 0.0, 0.0]
    all_of = np.concatenate([points, beside, away])
    faces = np.concatenate([tris, tris + len(points), tris + 2 * len(points)])
    found = flat_face(all_of, faces, 0)
    assert len(found.triangles) == 64 and len(found.rings) == 1 and len(found.rings[0]) == 8
    assert shapely.Polygon(found.rings[0]).area == pytest.approx(2.0)
