"""The recorder counts as the budgets say."""

from pathlib import Path

import pytest
import trimesh
from PySide6.QtCore import Qt, QTimer
from PySide6.QtTest import QTest

from tests.app.driven.test_hosts import drop
from tests.app.driver import LEFT, Driver
from tests.app.recorder import Recorder


@pytest.fixture
def recorded(driver: Driver):
    recorder = Recorder(driver.window)
    yield driver, recorder
    recorder.close()


def draw_two(driver: Driver) -> None:
    """A path of two knots."""
    driver.window.panes[0].setFocus()
    driver.key(Qt.Key.Key_T)
    driver.click(1, (100, 200))
    driver.click(1, (150, 220), double=True)


def test_clicks_values_and_commands_count_once_and_the_rest_is_free(recorded: tuple[Driver, Recorder]) -> None:
    driver, recorder = recorded
    draw_two(driver)
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


def test_esc_counts_after_a_typed_value_too(recorded: tuple[Driver, Recorder]) -> None:
    driver, recorder = recorded
    draw_two(driver)
    driver.type("24")
    driver.key(Qt.Key.Key_Escape)
    assert recorder.actions[-2:] == ["typed value", "key Esc"]


def test_each_choice_in_a_list_counts_once_and_the_value_after_it(recorded: tuple[Driver, Recorder]) -> None:
    driver, recorder = recorded
    draw_two(driver)
    driver.settle()
    before = recorder.count
    driver.pick("ends", "open · open")
    assert recorder.actions[before:] == ["choice in a list"]
    driver.enter_value("width", "30 mm")
    assert recorder.actions[before:] == ["choice in a list", "typed value"]
    driver.choose("ends", "flat · flat")
    driver.enter_value("width", "40 mm")
    driver.choose("ends", "open · open")
    assert recorder.actions[before + 2 :] == ["choice in a list", "typed value", "choice in a list"]


def test_a_key_that_is_held_during_a_press_is_free_and_one_that_is_let_go_counts(
    recorded: tuple[Driver, Recorder],
) -> None:
    driver, recorder = recorded
    draw_two(driver)
    pane = driver.pane(1)
    pane.setFocus()
    QTest.keyPress(pane, Qt.Key.Key_O)
    driver.click(1, (200, 300))
    QTest.keyRelease(pane, Qt.Key.Key_O)
    assert recorder.count == 4 and recorder.actions[-1] == "press on Pane"
    QTest.keyClick(pane, Qt.Key.Key_O)
    driver.click(1, (220, 300))
    assert recorder.actions[-2:] == ["key o", "press on Pane"], recorder.actions


def test_the_list_of_ready_made_paths_counts_once(recorded: tuple[Driver, Recorder]) -> None:
    driver, recorder = recorded
    row = driver.window.tool_row

    def take() -> None:
        menu = row.made.menu()
        if menu.isVisible():
            QTest.mouseClick(menu, LEFT, pos=menu.actionGeometry(row.made_actions["circle"]).center())

    QTimer.singleShot(50, take)
    QTest.mouseClick(row.made, LEFT)
    driver.bot.waitUntil(lambda: driver.window.toolbox.kind == "circle")
    assert recorder.actions == ["command circle"]


def test_a_dropped_file_counts(recorded: tuple[Driver, Recorder], tmp_path: Path) -> None:
    driver, recorder = recorded
    trimesh.creation.box().export(tmp_path / "box.glb")
    drop(driver, tmp_path / "box.glb")
    assert recorder.actions == ["drop"]
