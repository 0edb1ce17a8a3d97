"""Distances between picked points, and the clearance of runs."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from tests.app.driver import Driver

CTRL = Qt.KeyboardModifier.ControlModifier


def test_two_clicks_on_corners_give_their_distance_and_its_parts(driver: Driver) -> None:
    driver.menu("host.add-box")
    driver.settle()
    driver.key(Qt.Key.Key_Escape)
    driver.window.frame()
    driver.settle()
    driver.key(Qt.Key.Key_D)
    driver.click(0, (-0.2, -0.15, 0.3))
    driver.move(0, (0.2, -0.15, 0.3))
    assert "400 mm (x 400 · y 0 · z 0)" in driver.window.toolbox.sketch.label
    driver.click(0, (0.2, -0.15, 0.3))
    assert driver.window.help_label.text() == "400 mm (x 400 · y 0 · z 0)."
    assert driver.window.workspace.project.runs == () and driver.window.workspace.history.undo_label == "Add a box"
    driver.key(Qt.Key.Key_Escape)
    driver.key(Qt.Key.Key_Escape)
    assert driver.window.toolbox.kind is None


def test_the_clearance_of_a_run_is_said(driver: Driver) -> None:
    driver.menu("host.add-box")
    driver.settle()
    driver.key(Qt.Key.Key_Escape)
    driver.window.panes[0].set_view("Front")
    driver.settle()
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_S)
    for name in ("vertices", "edges", "middles", "faces", "ports"):
        driver.press_button(driver.window.tool_row.snaps[name])
    driver.click(0, (-0.3, 0.0, 0.5))
    driver.click(0, (0.3, 0.0, 0.5), double=True)
    driver.type("20")
    driver.enter()
    driver.settle()
    driver.menu("run.clearance")
    gap = float(driver.window.help_label.text().split("keeps ")[1].split(" mm")[0])
    assert 190.0 <= gap < 191.5
    driver.unfold("Move and turn")
    driver.enter_value("move.z", "-300")
    driver.settle()
    driver.menu("run.clearance")
    assert "deep in Box" in driver.window.help_label.text()


def test_the_crossing_of_two_runs_in_the_view_catches_and_can_be_turned_off(driver: Driver) -> None:
    driver.window.panes[0].set_view("Top")
    driver.settle()
    for a, b in (((-0.4, 0.013, 0.0), (0.4, 0.013, 0.0)), ((0.107, -0.3, 0.0), (0.107, 0.3, 0.0))):
        driver.key(Qt.Key.Key_S)
        driver.click(0, a, CTRL)
        driver.click(0, b, CTRL)
        driver.enter()
        driver.settle()
    places = [np.array([k.place for k in p.knots]) for p in driver.window.workspace.project.paths]
    cross = (places[1][0, 0], places[0][0, 1], 0.0)
    driver.key(Qt.Key.Key_Escape)
    driver.press_button(driver.window.tool_row.snaps["faces"])
    driver.key(Qt.Key.Key_S)
    driver.move(0, cross)
    assert driver.window.toolbox.sketch.next.caught == "crossing"
    assert driver.window.toolbox.sketch.next.place == pytest.approx(cross, abs=1e-9)
    driver.press_button(driver.window.tool_row.snaps["crossings"])
    driver.move(0, (0.0, 0.2, 0.0))
    driver.move(0, cross)
    assert driver.window.toolbox.sketch.next.caught != "crossing"
