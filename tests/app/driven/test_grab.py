"""A knot that is placed already is moved, in any pane, while its path is still being drawn."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from morphax.project.edits.ports import plug_of
from tests.app.driver import Driver


@pytest.fixture
def front(driver: Driver) -> Driver:
    """A path of two knots begun in the second pane, which looks from the top; the first one from the front."""
    driver.catch("resting")
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


def test_the_first_of_two_knots_moves_too(front: Driver) -> None:
    front.drag(1, (0.0, 0.0, 0.0), (-0.2, 0.2, 0.0))
    np.testing.assert_allclose(front.places, [[-200, 200, 0], [400, 200, 0]], atol=1e-6)


def test_a_click_on_the_first_knot_closes_and_one_on_the_last_ends(front: Driver) -> None:
    front.click(1, (0.2, 0.5, 0.0))
    front.click(1, (0.0, 0.0, 0.0))
    front.settle()
    assert front.path.closed and len(front.path.knots) == 3
    for at in ((0.6, -0.4, 0.0), (0.8, -0.2, 0.0), (0.7, 0.1, 0.0)):
        front.click(1, at)
    assert front.window.toolbox.is_drawing
    front.click(1, (0.7, 0.1, 0.0))
    front.settle()
    assert not front.window.toolbox.is_drawing and len(front.path.knots) == 3 and not front.path.closed
    assert len(front.window.workspace.project.runs) == 2 and "Type a width" in front.window.help_label.text()


def test_a_place_near_a_knot_can_still_be_clicked(front: Driver) -> None:
    spot = front.spot(1, (0.4, 0.2, 0.0))
    front.catch("grid")
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


def test_a_dragged_knot_catches_on_the_knots_of_other_paths(drawn: Driver) -> None:
    aim = np.array(drawn.path.knots[2].place)
    drawn.key(Qt.Key.Key_T)
    drawn.click(0, aim + (-0.2, 0.0, -0.25))
    drawn.click(0, aim + (0.2, 0.0, -0.25))
    start = np.array(drawn.window.toolbox.draw.knots[1])
    spot = drawn.spot(0, aim)
    drawn.drag(0, start, (spot.x() + 4, spot.y() - 3))
    np.testing.assert_allclose(drawn.places[1], 1000.0 * aim, atol=1e-6)


def test_an_end_that_is_dragged_onto_a_rim_plugs_in_and_away_lets_go(driver: Driver) -> None:
    driver.menu("host.add-cylinder")
    next(a for a in driver.pane(0).name_button.menu().actions() if a.text() == "Front").trigger()
    driver.window.frame()
    driver.wheel(0, (200, 200), -6)
    driver.settle()
    ws = driver.window.workspace
    rim = np.array((0.0, 0.0, ws.bodies.builder.host(ws.project, ws.project.hosts[0]).points[:, 2].max()))
    driver.key(Qt.Key.Key_T)
    driver.click(0, rim + (0.3, 0.0, 0.1))
    driver.click(0, rim + (0.2, 0.0, 0.2))
    driver.drag(0, rim + (0.2, 0.0, 0.2), rim)
    assert plug_of(driver.path, "end") is not None
    driver.drag(0, rim, rim + (0.1, 0.0, 0.2))
    assert plug_of(driver.path, "end") is None


@pytest.mark.parametrize("key", [Qt.Key.Key_Escape, Qt.Key.Key_Backspace])
def test_a_knot_that_is_taken_away_in_mid_drag_stays_away(front: Driver, key: Qt.Key) -> None:
    a = np.array((0.4, 0.2, 0.0))
    front.press(1, a)
    front.drag_to(1, a + (0.1, 0.1, 0.0), start=a)
    front.key(key)
    front.drag_to(1, a + (0.2, 0.1, 0.0), start=a + (0.1, 0.1, 0.0))
    front.release(1, a + (0.2, 0.1, 0.0))
    assert front.window.toolbox.is_drawing is (key is Qt.Key.Key_Backspace)
    assert len(front.window.toolbox.draw.knots) == (1 if key is Qt.Key.Key_Backspace else 0)


def test_the_menu_at_the_pointer_ends_a_path_that_is_drawn(front: Driver) -> None:
    menu = front.window.menus.of_chosen()
    titles = [a.text() for a in menu.actions() if a.text()]
    assert titles[0] == "Finish the path" and "Delete" not in titles
    menu.actions()[0].trigger()
    front.settle()
    assert not front.window.toolbox.is_drawing and len(front.path.knots) == 2
    assert not front.window.menus.by_id["path.finish"].isEnabled()
