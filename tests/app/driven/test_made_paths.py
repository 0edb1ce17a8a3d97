"""Pulled and hanging paths drawn, changed by value and by dragging."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from tests.app.driver import Driver

CTRL = Qt.KeyboardModifier.ControlModifier


def cable(driver: Driver) -> None:
    """A cable between two places two metres up, 1.2 m apart, drawn in the second pane's front view."""
    driver.window.scene_views[1].choose("Front")
    driver.settle()
    driver.pane(1).setFocus()
    driver.key(Qt.Key.Key_C)
    driver.click(1, (-0.6, 0.0, 1.0))
    driver.click(1, (0.6, 0.0, 1.0), double=True)
    driver.settle()
    driver.key(Qt.Key.Key_Escape)


def test_a_cable_hangs_between_two_clicks_and_its_slack_sag_and_length_are_values(driver: Driver) -> None:
    cable(driver)
    assert driver.path.kind == "hanging" and len(driver.path.knots) == 2
    chord = np.linalg.norm(np.subtract(*(k.place for k in driver.path.knots)))
    assert driver.body.length == pytest.approx(1.05 * chord, rel=1e-6)
    driver.unfold("Path")
    driver.enter_value("sag", "300 mm")
    driver.settle()
    lowest = driver.body.mesh.points[:, 2].min() + 0.5 * driver.body.width
    assert lowest == pytest.approx(driver.path.knots[0].place[2] - 0.3, abs=2e-3)
    driver.enter_value("slack", "0.2")
    assert driver.body.length == pytest.approx(1.2 * chord, rel=1e-6)
    driver.enter_value("cable", "100 mm")
    assert "must be" in driver.window.help_label.text() and driver.body.length == pytest.approx(1.2 * chord, rel=1e-6)
    driver.enter_value("cable", f"{chord * 1500} mm")
    assert driver.body.length == pytest.approx(1.5 * chord, rel=1e-6)


def test_dragging_the_cable_changes_its_sag(driver: Driver) -> None:
    cable(driver)
    line = driver.window.workspace.chosen.body.path.polyline
    lowest = line[np.argmin(line[:, 2])]
    driver.drag(1, tuple(lowest), (lowest[0], lowest[1], lowest[2] - 0.3), CTRL)
    driver.settle()
    line = driver.window.workspace.chosen.body.path.polyline
    assert line[:, 2].min() == pytest.approx(lowest[2] - 0.3, abs=0.02)
    assert driver.window.workspace.history.undo_label == "Change the sag"


def test_a_pulled_path_lies_inside_its_hull_and_a_double_click_makes_it_handles(driver: Driver) -> None:
    driver.key(Qt.Key.Key_P)
    for x, y in ((80, 400), (160, 250), (300, 420)):
        driver.click(0, (x, y))
    driver.click(0, (400, 300), double=True)
    driver.settle()
    driver.key(Qt.Key.Key_Escape)
    assert driver.path.kind == "pulled" and len(driver.path.knots) == 4
    line = driver.window.workspace.chosen.body.path.polyline
    hull = np.array([k.place for k in driver.path.knots])
    assert np.linalg.norm(line - hull[1], axis=1).min() > 0.05
    middle, before = tuple(line[len(line) // 2]), driver.body.length
    driver.click(0, middle, double=True)
    driver.settle()
    assert driver.path.kind == "handles"
    assert driver.body.length == pytest.approx(before, rel=1e-9), "the curve keeps its shape"


def test_what_has_no_effect_on_made_paths_says_so(driver: Driver) -> None:
    cable(driver)
    driver.click(1, driver.path.knots[0].place)
    assert driver.window.inspector.findChild(type(driver.field("knot.x")), "row.knot.radius") is None
    driver.key(Qt.Key.Key_B)
    assert "have no kinds" in driver.window.help_label.text()
