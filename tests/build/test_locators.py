"""Lines of sight and nearest points against the plainest way to find them."""

import numpy as np
import pytest
import trimesh

from morphax.build.locators import Locator
from morphax.core.mesh.triangles import Triangles, mesh_of


def locator(shape: trimesh.Trimesh) -> Locator:
    return Locator(mesh_of(Triangles(np.asarray(shape.vertices), np.asarray(shape.faces, dtype=np.int32))))


SHAPES = {
    "box": trimesh.creation.box(extents=(0.4, 0.8, 0.2)),
    "ball": trimesh.creation.icosphere(subdivisions=3),
    "flat": trimesh.Trimesh([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]], [[0, 1, 2], [0, 2, 3]], process=False),
}


@pytest.mark.parametrize("name", SHAPES)
def test_rays_hit_where_a_search_over_all_triangles_does(name: str) -> None:
    shape, rng = SHAPES[name], np.random.default_rng(7)
    found = locator(shape)
    corners = np.asarray(shape.triangles)
    hits = 0
    for _ in range(200):
        origin = rng.normal(size=3) * 3.0
        towards = shape.triangles_center[rng.integers(len(corners))] + rng.normal(size=3) * 0.2
        d = (towards - origin) / np.linalg.norm(towards - origin)
        a, b, c = corners[:, 0], corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
        p = np.cross(d, c)
        det = (b * p).sum(1)
        with np.errstate(divide="ignore", invalid="ignore"):
            u = ((origin - a) * p).sum(1) / det
            q = np.cross(origin - a, b)
            v, t = (q @ d) / det, (q * c).sum(1) / det
        ok = (u >= 0) & (v >= 0) & (u + v <= 1) & (t > 0)
        hit = found.ray(origin, d)
        assert (hit is not None) == bool(ok.any())
        if hit is not None:
            hits += 1
            assert hit.far == pytest.approx(t[ok].min(), abs=1e-9)
            assert abs(hit.normal @ (hit.place - corners[hit.face][0])) < 1e-9
    assert hits > 40


@pytest.mark.parametrize("name", SHAPES)
def test_nearest_points_are_the_nearest(name: str) -> None:
    shape, rng = SHAPES[name], np.random.default_rng(8)
    found = locator(shape)
    for point in rng.normal(size=(60, 3)) * 1.5:
        near, far, _ = trimesh.proximity.closest_point_naive(shape, point[None])
        hit = found.nearest(point, 10.0)
        assert hit is not None and hit.far == pytest.approx(float(far[0]), abs=1e-9)
        assert np.allclose(hit.place, near[0], atol=1e-6)
        assert found.nearest(point, 0.5 * float(far[0])) is None


def test_a_mesh_without_faces_has_nothing_to_find() -> None:
    empty = Locator(mesh_of(Triangles(np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int32))))
    assert empty.ray(np.zeros(3), np.array([0.0, 0.0, 1.0])) is None and empty.nearest(np.zeros(3), 1.0) is None


def test_what_passes_far_from_a_mesh_does_not_make_it_ready() -> None:
    found = locator(SHAPES["ball"])
    up = np.array([0.0, 0.0, 1.0])
    assert found.ray(np.array([5.0, 0.0, -9.0]), up) is None and found.ray(np.array([0.0, 0.0, 9.0]), up) is None
    assert found.nearest(np.array([5.0, 0.0, 0.0]), 3.9) is None
    assert "_cells" not in vars(found) and "tris" not in vars(found)
    assert found.ray(np.array([0.0, 0.0, -9.0]), up) is not None and "_cells" in vars(found)


@pytest.mark.parametrize("axis", [0, 1, 2])
def test_a_line_in_the_plane_of_a_side_meets_it(axis: int) -> None:
    found, half = locator(SHAPES["box"]), np.array([0.2, 0.4, 0.1])
    direction = np.eye(3)[axis]
    for other in (k for k in range(3) if k != axis):
        origin = -3.0 * direction
        origin[other] = half[other]
        hit = found.ray(origin, direction)
        assert hit is not None and hit.far == pytest.approx(3.0 - half[axis], abs=1e-9)
