"""A knot that is placed already is moved, in any pane, while its path is still being drawn."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from tests.app.driver import Driver


@pytest.fixture
def front(driver: Driver) -> Driver:
    """A path of two knots begun in the second pane, which looks from the top; the first one from the front."""
    driver.key(Qt.Key.Key_T)
    for pane, view in ((0, "Front"), (1, "Top")):
        menu = driver.pane(pane).name_button.menu()
        next(a for a in menu.actions() if a.text() == view).trigger()
    driver.settle()
    driver.click(1, (0.0, 0.0, 0.0))
    driver.click(1, (0.4, 0.2, 0.0))
    driver.settle()
    return driver


def test_the_other_pane_gives_a_placed_knot_its_depth_and_drawing_goes_on(front: Driver) -> None:
    np.testing.assert_allclose(front.places, [[0, 0, 0], [400, 200, 0]], atol=1e-6)
    front.drag(0, (0.4, 0.2, 0.0), (0.4, 0.2, 0.3))
    np.testing.assert_allclose(front.places[1], [400, 200, 300], atol=1e-6)
    assert front.window.toolbox.is_drawing and front.window.workspace.history.undo_label is None
    front.click(1, (0.8, 0.0, 0.0))
    front.enter()
    front.settle()
    assert len(front.path.knots) == 3 and not front.body.has_errors
    np.testing.assert_allclose(front.places[:2], [[0, 0, 0], [400, 200, 300]], atol=1e-6)
    assert front.window.workspace.history.undo_label == "Draw a run"


def test_the_first_of_two_knots_moves_too_and_catches(front: Driver) -> None:
    front.drag(1, (0.0, 0.0, 0.0), (-0.2, 0.2, 0.0))
    np.testing.assert_allclose(front.places, [[-200, 200, 0], [400, 200, 0]], atol=1e-6)


def test_a_click_on_a_placed_knot_is_a_click_and_the_first_one_closes(front: Driver) -> None:
    front.click(1, (0.4, 0.2, 0.0))
    assert len(front.path.knots) == 2, "a knot on itself is none"
    front.click(1, (0.2, 0.5, 0.0))
    front.click(1, (0.0, 0.0, 0.0))
    front.settle()
    assert front.path.closed and len(front.path.knots) == 3


def test_a_place_near_a_knot_can_still_be_clicked(front: Driver) -> None:
    spot = front.spot(1, (0.4, 0.2, 0.0))
    front.window.tool_row.snaps["grid"].click()
    front.click(1, (spot.x() + 6, spot.y()))
    assert len(front.path.knots) == 3 and 0.0 < front.places[2, 0] - 400.0 < 60.0


def test_over_a_placed_knot_the_pointer_says_that_it_can_be_moved(front: Driver) -> None:
    front.click(1, (0.7, 0.0, 0.0))
    front.move(1, (0.4, 0.2, 0.0))
    assert front.window.toolbox.sketch.label == "drag moves this knot" and len(front.path.knots) == 3


def test_a_held_axis_keeps_the_direction_of_the_drag(front: Driver) -> None:
    front.window.toolbox.held.add(Qt.Key.Key_Z)
    front.drag(0, (0.4, 0.2, 0.0), (0.52, 0.2, 0.3))
    front.window.toolbox.held.discard(Qt.Key.Key_Z)
    np.testing.assert_allclose(front.places[1], [400, 200, 300], atol=1e-6)
