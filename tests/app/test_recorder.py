"""The recorder counts as the budgets say."""

import pytest
from PySide6.QtCore import Qt

from tests.app.driver import Driver
from tests.app.recorder import Recorder


@pytest.fixture
def recorded(driver: Driver):
    recorder = Recorder(driver.window)
    yield driver, recorder
    recorder.close()


def test_clicks_values_and_commands_count_once_and_the_rest_is_free(recorded: tuple[Driver, Recorder]) -> None:
    driver, recorder = recorded
    driver.window.panes[0].setFocus()
    driver.key(Qt.Key.Key_T)
    driver.click(1, (100, 200))
    driver.click(1, (150, 220), double=True)
    assert recorder.actions == ["command path.through", "press on Pane", "press on Pane"]
    driver.type("24")
    driver.enter()
    assert recorder.count == 4 and recorder.actions[-1] == "typed value"
    driver.unfold("Density")
    assert recorder.count == 4, "unfolding a heading is free"
    driver.drag(1, (150, 220), (180, 240))
    assert recorder.count == 5
    driver.choose("ends", "open · open")
    assert recorder.count == 6


def test_a_wasted_action_is_seen(recorded: tuple[Driver, Recorder]) -> None:
    driver, recorder = recorded
    driver.window.panes[0].setFocus()
    for _ in range(3):
        driver.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    before = recorder.count
    driver.click(0, (50, 300))
    assert recorder.count == before + 1
