"""Cameras, landing and picking without a window."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.app.session.camera import (
    FLAT_VIEWS,
    Camera,
    basis,
    framed,
    metres_per_pixel,
    on_plane,
    orbited,
    panned,
    projected,
    ray,
    right_angle_view,
    tipped,
    zoomed,
)
from morphax.app.session.in_sight import Meshes
from morphax.app.session.sight import CameraSight
from morphax.app.tools.shared.landing import Aim, Caught, Snapping, Target, grid_step, landing, rounded_in_plane
from morphax.app.tools.shared.picking import Picker, nearest_knot, nearest_on_path
from morphax.core.body.sweep import sweep
from morphax.core.path.paths import points_at
from morphax.core.path.resolved import resolve_path
from morphax.core.section.ready_made import ready_made
from tests.helpers import zoo

SIZE = (640, 480)


def of(camera: Camera) -> CameraSight:
    return CameraSight(camera, SIZE)


CAMERAS = [Camera(), *(Camera(v) for v in FLAT_VIEWS), Camera(yaw=2.0, pitch=-0.4, height=0.01)]
IDS = [c.view + str(i) for i, c in enumerate(CAMERAS)]


@pytest.mark.parametrize("camera", CAMERAS, ids=IDS)
def test_directions_are_right_handed_and_the_target_is_in_the_middle(camera: Camera) -> None:
    b = basis(camera)
    np.testing.assert_allclose(np.cross(b.right, b.up), -b.forward, atol=1e-12)
    np.testing.assert_allclose(projected(camera, np.array(camera.target), SIZE)[0, :2], [320, 240], atol=1e-9)


@pytest.mark.parametrize("camera", CAMERAS, ids=IDS)
@given(x=st.floats(1, 639), y=st.floats(1, 479), d=st.floats(0.1, 3))
def test_a_line_of_sight_projects_to_its_pixel(camera: Camera, x: float, y: float, d: float) -> None:
    line = ray(camera, (x, y), SIZE)
    place = line.origin + d * camera.distance * line.direction
    np.testing.assert_allclose(projected(camera, place, SIZE)[0, :2], [x, y], atol=1e-6)


@pytest.mark.parametrize("camera", CAMERAS, ids=IDS)
def test_zoom_keeps_the_point_under_the_pointer(camera: Camera) -> None:
    pixel = (500.0, 100.0)
    place = on_plane(ray(camera, pixel, SIZE), np.array(camera.target), -basis(camera).forward)
    for factor in (1.4, 0.6):
        np.testing.assert_allclose(projected(zoomed(camera, factor, pixel, SIZE), place, SIZE)[0, :2], pixel, atol=1e-6)


@given(st.floats(-200, 200), st.floats(-200, 200))
def test_orbit_keeps_the_pivot_and_the_horizon(dx: float, dy: float) -> None:
    camera, pivot = Camera(), np.array([0.4, -0.3, 0.9])
    turned = orbited(camera, dx, dy, pivot)
    np.testing.assert_allclose(projected(turned, pivot, SIZE), projected(camera, pivot, SIZE), atol=1e-6)
    assert basis(turned).right[2] == 0.0


def test_pan_follows_the_pointer() -> None:
    camera, at = Camera(), np.array([0.4, -0.3, 0.9])
    before = projected(camera, at, SIZE)[0, :2]
    after = projected(panned(camera, 30, -12, SIZE, at), at, SIZE)[0, :2]
    np.testing.assert_allclose(after - before, [30, -12], atol=1e-6)


@pytest.mark.parametrize("camera", CAMERAS, ids=IDS)
def test_framing_brings_all_points_into_sight(camera: Camera) -> None:
    points = np.random.default_rng(0).normal(size=(50, 3)) * [3.0, 0.2, 1.0] + [5, 5, 5]
    seen = projected(framed(camera, points, SIZE), points, SIZE)
    assert seen[:, 0].min() > 0 and seen[:, 0].max() < 640 and seen[:, 1].min() > 0 and seen[:, 1].max() < 480
    fill = max(np.ptp(seen[:, 0]) / 640, np.ptp(seen[:, 1]) / 480)
    assert fill > 0.45


def test_tipping_and_right_angles() -> None:
    assert tipped(Camera("Front"), "up").view == "Top" and tipped(Camera(), "down").view == "Front"
    for view in FLAT_VIEWS:
        other = right_angle_view(Camera(view), np.zeros((0, 3)))
        assert abs(basis(Camera(view)).forward @ basis(Camera(other)).forward) < 1e-12
    long_y = np.array([[0, 0, 0], [0.1, 5, 1.0]])
    assert right_angle_view(Camera(), long_y) == "Right"


def test_grid_step_is_a_round_number_in_the_unit() -> None:
    camera = Camera("Front", height=1.0)
    assert grid_step(of(camera)) == pytest.approx(0.05)
    assert grid_step(of(camera), "in") / 0.0254 == pytest.approx(1.0)


def front(height: float = 1.0) -> Camera:
    return Camera("Front", (0.0, 0.7, 0.5), height)


def test_line_1_snap_targets_win_and_keep_their_depth() -> None:
    target = Target("knot", (0.1, 3.0, 0.6))
    pixel = tuple(projected(front(), np.array(target.place), SIZE)[0, :2] + [3, -2])
    found = landing(of(front()), pixel, Aim(targets=(target,), step=0.05))
    assert found.caught is Caught.KNOT and tuple(found.place) == target.place
    free = landing(of(front()), pixel, Aim(targets=(target,), snapping=Snapping(grid=False, knots=False)))
    assert free.caught is Caught.NOTHING and free.place[1] == 0.0


def test_line_3_flat_views_keep_the_previous_depth_or_begin_at_the_work_plane() -> None:
    first = landing(of(front()), (320, 240), Aim(step=0.05))
    np.testing.assert_allclose(first.place, [0.0, 0.0, 0.5], atol=1e-12)
    assert first.caught is Caught.GRID
    later = landing(of(front()), (400, 240), Aim(previous=np.array([0.0, 2.2, 0.4]), step=0.05))
    np.testing.assert_allclose(later.place, [0.15, 2.2, 0.5], atol=1e-12)
    top = landing(of(Camera("Top", (0, 0, 3.0), 2.0)), (320, 240))
    assert top.place[2] == 0.0


def test_rounding_stays_in_the_plane() -> None:
    normal = np.array([0.0, 1.0, 0.0])
    place = rounded_in_plane(np.array([0.123, 0.777, 0.456]), np.array([0.0, 0.777, 0.0]), normal, 0.05)
    np.testing.assert_allclose(place, [0.1, 0.777, 0.45])


def test_picking_knots_paths_and_bodies() -> None:
    path = resolve_path(zoo()["s curve"])
    camera = framed(Camera("Top"), path.shape.knots, SIZE)
    seen = projected(camera, path.shape.knots, SIZE)
    assert nearest_knot(of(camera), path.shape.knots, (seen[2, 0] + 5, seen[2, 1])) == 2
    assert nearest_knot(of(camera), path.shape.knots, (seen[2, 0] + 40, seen[2, 1] + 40)) is None
    spot = points_at(path.table.spans[1], np.array(0.4))
    pixel = projected(camera, spot, SIZE)[0, :2]
    found = nearest_on_path(of(camera), path.table, (pixel[0] + 2, pixel[1]))
    assert found.span == 1 and found.t == pytest.approx(0.4, abs=0.03)
    near = sweep(zoo()["s curve"], ready_made("round", {"width": 0.1})).mesh
    picker = Picker()
    lower = replace(near, points=near.points - [0.0, 0.0, 1.0])
    assert picker.body(of(camera), Meshes({"low": lower, "a": near}), (pixel[0], pixel[1])) == "a", "the nearest wins"
    assert picker.body(of(camera), Meshes({"a": near}), (2.0, 2.0)) is None
    depth = picker.depth(near, ray(camera, (pixel[0], pixel[1]), SIZE))
    place = ray(camera, (pixel[0], pixel[1]), SIZE)
    assert abs((place.origin + depth * place.direction)[2] - spot[2]) < 0.06
    assert metres_per_pixel(camera, spot, SIZE) == pytest.approx(camera.height / 480)
