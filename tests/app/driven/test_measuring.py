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
    driver.window.scene_views[0].choose("Front")
    driver.settle()
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_S)
    for name in ("corners", "edges", "middles", "faces", "ports"):
        driver.catch(name)
    driver.click(0, (-0.3, 0.0, 0.5))
    driver.click(0, (0.3, 0.0, 0.5), double=True)
    driver.type("20")
    driver.enter()
    driver.settle()
    driver.menu("run.clearance")
    said = driver.window.help_label.text()
    gap, path = (float(said.split(word)[1].split(" mm")[0]) for word in ("keeps ", "its path "))
    assert 190.0 <= gap < 191.5 and path == pytest.approx(200.0, abs=1e-6), "the path keeps half a width more"
    plain = driver.window.workspace.remark
    assert plain is not None and plain.words.startswith(f"{gap:g}") and plain.end[2] == pytest.approx(0.3)
    shown = driver.pane(0).grab().toImage()
    driver.unfold("Move and turn")
    driver.enter_value("move.z", "-300")
    assert driver.window.workspace.remark is None, "what was measured goes with the change"
    driver.settle()
    assert shown != driver.pane(0).grab().toImage()
    driver.menu("run.clearance")
    assert "deep in Box" in driver.window.help_label.text()


def test_the_crossing_of_two_runs_in_the_view_catches_and_can_be_turned_off(driver: Driver) -> None:
    driver.window.scene_views[0].choose("Top")
    driver.settle()
    for a, b in (((-0.4, 0.013, 0.0), (0.4, 0.013, 0.0)), ((0.107, -0.3, 0.0), (0.107, 0.3, 0.0))):
        driver.key(Qt.Key.Key_S)
        driver.click(0, a, CTRL)
        driver.click(0, b, CTRL)
        driver.enter()
        driver.settle()
    places = [np.array([k.place for k in p.knots]) for p in driver.window.workspace.project.paths]
    cross = (places[1][0, 0], places[0][0, 1], places[0][0, 2])
    driver.key(Qt.Key.Key_Escape)
    driver.catch("faces")
    driver.key(Qt.Key.Key_S)
    driver.move(0, cross)
    assert driver.window.toolbox.sketch.next.caught == "crossing"
    assert driver.window.toolbox.sketch.next.place == pytest.approx(cross, abs=1e-9)
    driver.catch("crossings")
    driver.move(0, (0.0, 0.2, 0.0))
    driver.move(0, cross)
    assert driver.window.toolbox.sketch.next.caught != "crossing"


def test_two_places_of_a_run_are_measured_along_its_path_too(drawn: Driver) -> None:
    knots = [np.array(k.place) for k in drawn.path.knots]
    at = drawn.window.workspace.chosen.body.knot_at
    drawn.key(Qt.Key.Key_D)
    drawn.click(0, knots[0])
    drawn.click(0, knots[2])
    text = drawn.window.help_label.text()
    assert f"along {drawn.run.show.name}" in text
    said = float(text.split(" · ")[-1].split(" mm")[0].replace("\u202f", ""))
    assert said == pytest.approx(1000.0 * float(at[2] - at[0]), abs=0.06)
    assert said > 1000.0 * np.linalg.norm(knots[2] - knots[0]) + 1.0


def test_round_a_loop_the_shorter_way_counts_and_far_places_have_none(drawn: Driver) -> None:
    drawn.key(Qt.Key.Key_O)
    drawn.settle()
    knots, whole = [np.array(k.place) for k in drawn.path.knots], drawn.body.length
    at = drawn.window.workspace.chosen.body.knot_at
    drawn.key(Qt.Key.Key_D)
    drawn.click(0, knots[0])
    drawn.click(0, knots[-1])
    text = drawn.window.help_label.text()
    said = float(text.split(" · ")[-1].split(" mm")[0].replace("\u202f", ""))
    assert said == pytest.approx(1000.0 * (whole - float(at[len(knots) - 1])), abs=0.06)
    drawn.click(0, knots[0])
    drawn.click(0, knots[0] + (0.0, 0.0, 0.9))
    assert " along " not in drawn.window.help_label.text()
