"""Held keys keep a direction."""

import numpy as np
import pytest

from morphax.app.session.camera import Camera, projected
from morphax.app.session.pointer import Pointer
from morphax.app.session.sight import CameraSight
from morphax.app.tools.shared.direction_lock import directions, locked
from morphax.app.tools.shared.landing import Caught, Landing, Target

UP = np.array([0.0, 0.0, 1.0])


def pointer(place=(0.0, 0.0, 0.0), **keys) -> Pointer:
    camera, size = Camera(target=(0, 0, 0.5)), (640, 480)
    x, y, _ = projected(camera, np.array([place], float), size)[0]
    return Pointer(CameraSight(camera, size), (x, y), 0.05, **keys)


def landing(place, caught: Caught = Caught.NOTHING, target: Target | None = None) -> Landing:
    return Landing(np.array(place, float), caught, UP, "on the ground", target)


@pytest.mark.parametrize(
    ("place", "wanted", "name"),
    [
        ((1.0, 0.1, 0.0), (1.0, 0.0, 0.0), "along x"),
        ((0.1, -2.0, 0.0), (0.0, -2.0, 0.0), "along y"),
        ((1.0, 0.9, 0.0), (0.95, 0.95, 0.0), "at 45°"),
        ((0.9, -1.0, 0.0), (0.95, -0.95, 0.0), "at 45°"),
    ],
)
def test_shift_takes_the_nearest_straight_direction(place, wanted, name: str) -> None:
    found = locked(landing(place), np.zeros(3), None, pointer(add=True))
    assert np.allclose(found.place, wanted) and found.plane == name


def test_shift_knows_the_last_span_and_its_right_angle() -> None:
    before = np.array([2.0, 1.0, 0.0])
    along = locked(landing((4.0, 2.1, 0.0)), np.zeros(3), before, pointer(add=True))
    assert along.plane == "along the last span" and np.allclose(np.cross(along.place, before), 0.0)
    across = locked(landing((-1.0, 2.05, 0.0)), np.zeros(3), before, pointer(add=True))
    assert across.plane == "at right angles" and abs(across.place @ before) < 1e-12
    assert len(directions(UP, before)) == len(directions(UP, None)) + 2


@pytest.mark.parametrize("axis", [0, 1, 2])
def test_an_axis_is_followed_where_the_line_of_sight_passes_it(axis: int) -> None:
    foot, d = np.array([0.2, 0.1, 0.3]), np.eye(3)[axis]
    at = pointer(foot + 0.7 * d, axis=axis)
    found = locked(landing((5.0, 5.0, 0.0)), foot, None, at)
    assert np.allclose(found.place, foot + 0.7 * d, atol=1e-9)


def test_what_catches_gives_how_far_along_the_axis() -> None:
    target = Target("knot", (0.4, 3.0, 2.0))
    found = locked(landing((0.4, 3.0, 2.0), Caught.KNOT, target), np.zeros(3), None, pointer(axis=0))
    assert np.allclose(found.place, (0.4, 0, 0)) and found.target is None


def test_on_the_grid_the_length_is_rounded_and_without_keys_nothing_changes() -> None:
    free = landing((1.03, 0.4, 0.0), Caught.GRID)
    assert locked(free, np.zeros(3), None, pointer()) is free
    assert np.allclose(locked(free, np.zeros(3), None, pointer(add=True)).place, (1.05, 0, 0))
