"""Sections that lie on a host or look at something, and ends cut to a host, by the interface."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from morphax.project.lookup import run_by_id
from tests.app.driver import Driver
from tests.app.job_projects import tape_over_a_ball

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def over_a_ball(opened) -> Driver:
    """A tape over a ball, chosen."""
    driver, _ = opened(tape_over_a_ball())
    driver.click(0, (0.0, 0.05, 0.32))
    assert driver.run.show.name == "Tape"
    return driver


def test_on_the_host_takes_the_nearest_host_and_follows_it(over_a_ball: Driver) -> None:
    driver = over_a_ball
    driver.unfold("Placing")
    driver.choose("orientation", "on the host")
    driver.settle()
    host = driver.window.workspace.project.hosts[0]
    assert driver.run.recipe.host == host.id and driver.field("host").currentText() == "Ball"
    assert not driver.body.findings
    outward = np.array(driver.path.knots[0].place) - (0.0, 0.0, 0.15)
    up, along = driver.body.start_axes[1], driver.body.start_axes[2]
    across = outward - (outward @ along) * along
    assert up @ across / np.linalg.norm(across) > 0.99 and abs(up[1]) > 0.2
    driver.choose("host", "none")
    driver.settle()
    assert [f.code for f in driver.body.findings] == ["no-host"]
    driver.key(Qt.Key.Key_Z, CTRL)
    driver.settle()
    assert not driver.body.findings


def test_towards_shows_its_place_at_once_and_takes_another_path(over_a_ball: Driver) -> None:
    driver = over_a_ball
    driver.unfold("Placing")
    driver.choose("orientation", "towards")
    driver.enter_value("towards.y", "3 m")
    driver.enter_value("towards.z", "0")
    driver.settle()
    place = driver.run.recipe.placing.towards
    assert place is not None and place[1:] == (3.0, 0.0)
    assert driver.body.start_axes[1][1] > 0.7
    first = driver.run.id
    driver.key(Qt.Key.Key_D, CTRL)
    driver.settle()
    assert driver.run.id != first
    other = run_by_id(driver.window.workspace.project, first)
    driver.choose("towards", f"path of {other.show.name}")
    driver.settle()
    assert driver.run.recipe.placing.towards_path == other.recipe.path
    assert driver.run.recipe.placing.towards is None
    steps = len(driver.window.workspace.history.moments)
    driver.choose("towards", "a place")
    driver.settle()
    assert driver.run.recipe.placing.towards_path is None and driver.run.recipe.placing.towards is not None
    assert len(driver.window.workspace.history.moments) == steps + 1


def test_the_place_that_a_run_looks_towards_is_dragged_as_one_step(over_a_ball: Driver) -> None:
    driver = over_a_ball
    driver.unfold("Placing")
    driver.choose("orientation", "towards")
    driver.settle()
    before = driver.run.recipe.placing.towards
    assert before is not None
    driver.window.frame()
    menu = driver.pane(1).name_button.menu()
    next(a for a in menu.actions() if a.text() == "Right").trigger()
    driver.settle()
    knots, up = driver.places, driver.body.start_axes[1]
    aim = np.array([before[0], before[1], before[2]])
    driver.move(1, aim)
    assert driver.window.toolbox.sketch.label == "what it looks towards"
    driver.drag(1, aim, aim + (0.0, 0.1, -0.05))
    driver.settle()
    after = driver.run.recipe.placing.towards
    assert after is not None and after[0] == before[0] and after[1] > before[1] + 0.05 and after[2] < before[2]
    np.testing.assert_array_equal(driver.places, knots)
    assert np.abs(driver.body.start_axes[1] - up).max() > 1e-3
    driver.key(Qt.Key.Key_Z, CTRL)
    assert driver.run.recipe.placing.towards == before
