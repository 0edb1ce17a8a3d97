"""Fixed orientation: every ring is the first one moved; edge-on stretches are found."""

import numpy as np
import pytest

from morphax.core.body.sweep import sweep
from morphax.core.frame.frames import Orientation
from morphax.core.mesh.measures import is_closed, volume
from morphax.core.path.paths import path_from_points
from morphax.core.section.ready_made import ready_made
from tests.helpers import FRAME, STRAIGHT, THROUGH, recipe_of, zoo

FIXED = recipe_of(orientation=Orientation.FIXED)


@pytest.mark.parametrize("name", sorted(zoo()))
@pytest.mark.parametrize("section", ["round", "crown", "pipe"])
def test_every_ring_is_the_first_one_moved(name: str, section: str) -> None:
    body = sweep(zoo()[name], ready_made(section, {"width": 0.01}), FIXED)
    rings = body.mesh.points[: body.mesh.rings * body.sides].reshape(body.mesh.rings, body.sides, 3)
    moved = rings - rings[:, :1] - (rings[0] - rings[0, :1])
    assert np.abs(moved).max() < 1e-9 * max(1.0, np.abs(rings).max())
    assert is_closed(body.mesh)


def test_the_volume_is_area_times_advance_across_the_section() -> None:
    climb = path_from_points(np.array([[0, 0, 0], [0, 1.0, 0], [0.3, 2.0, 0.4], [0.2, 3.0, 0.1]]), kind=STRAIGHT)
    body = sweep(climb, ready_made("rectangle", {"width": 0.1, "height": 0.05}), FIXED)
    np.testing.assert_allclose(volume(body.mesh), 0.005 * 3.0, rtol=1e-12)


def test_carried_gives_another_volume() -> None:
    """Negative control: the same path, carried, is longer than its advance."""
    climb = path_from_points(np.array([[0, 0, 0], [0, 1.0, 0], [0.3, 2.0, 0.4]]), kind=STRAIGHT)
    body = sweep(climb, ready_made("rectangle", {"width": 0.1, "height": 0.05}))
    assert volume(body.mesh) > 0.005 * 2.0 * 1.01


def test_normals_are_across_the_skin() -> None:
    bend = path_from_points(np.array([[0, 0, 0], [0, 1.0, 0.3], [0.2, 2.0, 0.1]]), kind=THROUGH)
    mesh = sweep(bend, ready_made("round", {"width": 0.1}), FIXED).mesh
    a, b, c, d = (mesh.points[mesh.quads[:, i]] for i in range(4))
    flat = np.cross(c - a, d - b)
    flat /= np.linalg.norm(flat, axis=1, keepdims=True)
    near = (mesh.normals[mesh.quad_vertices].mean(1) * flat).sum(1)
    assert near.min() > 0.98


def test_edge_on_stretches_are_found_and_straight_ones_are_not() -> None:
    turned = sweep(path_from_points(FRAME[:3], kind=STRAIGHT), ready_made("round", {"width": 0.02}), FIXED)
    assert [f.code for f in turned.findings] == ["edge-on"]
    ahead = sweep(path_from_points(FRAME[:2], kind=STRAIGHT), ready_made("round", {"width": 0.02}), FIXED)
    assert ahead.findings == ()


def test_a_path_that_runs_back_more_than_on_is_still_right_side_out() -> None:
    back = path_from_points(np.array([[0, 0, 0], [0.1, 0.2, 0], [1.0, -0.5, 0], [2.0, -2.0, 0]]), kind=THROUGH)
    body = sweep(back, ready_made("rectangle", {"width": 0.02}), FIXED)
    assert is_closed(body.mesh) and volume(body.mesh) > 0.0
    assert "edge-on" in {f.code for f in body.findings}


def test_a_corner_that_folds_the_body_over_itself_is_found() -> None:
    zigzag = path_from_points(np.array([[0, 0, 0], [0, 1.0, 0], [1.0, 0.3, 0]]), kind=STRAIGHT)
    body = sweep(zigzag, ready_made("round", {"width": 0.02}), FIXED)
    assert [f.code for f in body.findings] == ["edge-on"] and "folds over itself" in body.findings[0].message
    on = path_from_points(np.array([[0, 0, 0], [0, 1.0, 0], [1.0, 1.7, 0]]), kind=STRAIGHT)
    assert sweep(on, ready_made("round", {"width": 0.02}), FIXED).findings == ()


@pytest.mark.parametrize("seed", range(12))
def test_a_closed_run_that_holds_nothing_is_never_turned_inside_out_by_rounding(seed: int) -> None:
    rng = np.random.default_rng(seed)
    turn = np.linalg.qr(rng.normal(size=(3, 3)))[0]
    loop = np.array([[0, 0, 0], [1.0, 0.2, 0], [1.2, 1.0, 0.3], [0.1, 0.8, 0.1]])
    points = loop @ turn.T * 10.0 ** rng.integers(-2, 3)
    path = path_from_points(points, kind=THROUGH, closed=True)
    width = 0.05 * float(np.ptp(points))
    mesh = sweep(path, ready_made("round", {"width": width}), recipe_of(orientation=Orientation.FIXED)).mesh
    first = slice(0, mesh.sides)
    outward = mesh.points[first] - mesh.points[first].mean(0)
    faces = mesh.points[mesh.quads[first]]
    normal = np.cross(faces[:, 2] - faces[:, 0], faces[:, 3] - faces[:, 1])
    assert (np.einsum("ij,ij->i", normal, outward) > 0.0).all()
    assert (np.einsum("ij,ij->i", mesh.normals[first].astype(float), outward) > 0.0).all()
