"""Faces drawn out of hosts: by one stroke, by clicks, by a typed distance; several together."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from tests.app.driven.test_jobs import look_at
from tests.app.driver import Driver
from tests.app.job_projects import stage_of_three_edges

SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def stage(opened) -> Driver:
    driver, _ = opened(stage_of_three_edges())
    look_at(driver, (0.0, 0.0, 0.8), 4.5, -0.9, 0.5)
    driver.menu("path.draw-out")
    return driver


def test_one_stroke_pulls_a_run_out_of_the_top(stage: Driver) -> None:
    ws = stage.window.workspace
    assert "Click a flat face" in stage.window.help_label.text()
    stage.move(0, (0.0, 0.0, 1.0))
    assert stage.window.toolbox.sketch.label == "face of Stage"
    stage.press(0, (0.0, 0.0, 1.0))
    stage.drag_to(0, (0.0, 0.0, 1.6), start=(0.0, 0.0, 1.0))
    assert ws.unfinished.is_on and not ws.finished.runs, "it is seen before it is there"
    stage.release(0, (0.0, 0.0, 1.6))
    stage.settle()
    points = stage.body.mesh.points
    assert points.min(0) == pytest.approx((-1.0, -0.5, 1.0), abs=1e-9)
    assert points[:, :2].max(0) == pytest.approx((1.0, 0.5), abs=1e-9)
    assert points[:, 2].max() == pytest.approx(1.6, abs=0.06)
    stage.key(Qt.Key.Key_Z, CTRL)
    assert not ws.finished.runs and not ws.finished.sections, "one step"


def test_two_faces_by_a_typed_distance_are_chosen_together(stage: Driver) -> None:
    ws = stage.window.workspace
    stage.click(0, (0.0, 0.0, 1.0))
    stage.click(0, (0.2, -0.5, 0.5), SHIFT)
    stage.move(0, (0.0, -0.6, 0.5))
    stage.type("250")
    assert "250" in stage.window.toolbox.sketch.label
    stage.enter()
    stage.settle()
    assert len(ws.project.runs) == 2 == len(ws.selection.runs)
    boxes = [ws.bodies.get(r).body.mesh.bounds for r in ws.selection.runs]
    assert boxes[0][1][2] == pytest.approx(1.25) and boxes[1][0][1] == pytest.approx(-0.75)
    assert np.ptp(boxes[1], axis=0) == pytest.approx((2.0, 0.25, 1.0), abs=1e-9)


def test_esc_and_backspace_leave_nothing(stage: Driver) -> None:
    ws = stage.window.workspace
    was = ws.finished
    stage.click(0, (0.0, 0.0, 1.0))
    stage.click(0, (0.2, -0.5, 0.5), SHIFT)
    stage.key(Qt.Key.Key_Backspace)
    stage.move(0, (0.0, 0.0, 1.5))
    assert ws.unfinished.is_on and len(ws.project.runs) == 1
    stage.key(Qt.Key.Key_Escape)
    assert ws.project is was and stage.window.toolbox.kind == "draw-out"
    stage.click(0, (5, stage.pane(0).height() - 5))
    assert "no flat face" in stage.window.help_label.text() and ws.project is was
