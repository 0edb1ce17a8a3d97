"""Casting in the window: bodies that stay, edits that are refused in words, and live again."""

import numpy as np
from PySide6.QtCore import Qt

from morphax.core.mesh.measures import volume
from morphax.project.feeds import tie_of
from tests.app.driven.test_beside_in_window import pick
from tests.app.driven.test_ends_in_column import opened_on_all
from tests.app.driven.test_pieces_in_window import value
from tests.app.job_projects import column, side_by_side

CTRL = Qt.KeyboardModifier.ControlModifier


def test_a_cast_run_refuses_in_words_and_is_live_again(opened) -> None:
    driver = opened_on_all(opened, column(1.0))
    ws, said = driver.window.workspace, []
    ws.said.connect(said.append)
    assert not driver.window.menus.by_id["run.live"].isEnabled()
    before = volume(driver.body.mesh)
    driver.menu("run.cast")
    driver.settle()
    assert ws.chosen.run.cast is not None and "Make live" in said[-1]
    assert driver.window.inspector.sentence.text().startswith("cast:")
    assert tie_of(ws.project, ws.chosen.run) == "cast"
    then = ws.project
    value(driver, "width", "300 mm")
    assert "is cast: Run, Make live" in said[-1] and volume(driver.body.mesh) == before
    knot = ws.chosen.path.knots[1]
    driver.drag(0, knot.place, tuple(np.array(knot.place) + (0.3, 0.0, 0.0)))
    driver.settle()
    assert ws.chosen.path.knots[1].place == knot.place and "is cast" in said[-1]
    assert ws.project is then, "no step of history"
    driver.menu("run.live")
    driver.settle()
    value(driver, "width", "300 mm")
    assert volume(driver.body.mesh) > 2.0 * before
    for _ in range(3):
        driver.menu("edit.undo")
    driver.settle()
    assert ws.chosen.run.cast is None and volume(driver.body.mesh) == before


def test_cast_strands_stay_when_their_guides_move(opened) -> None:
    driver, _ = opened(side_by_side(1.0))
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_A, CTRL)
    guides = driver.window.workspace.selection.runs
    driver.menu("between.strands")
    driver.settle()
    ws = driver.window.workspace
    own, points = ws.selection.runs, driver.body.mesh.points
    driver.menu("run.cast")
    driver.settle()
    pick(driver, guides[1:])
    value(driver, "width", "200 mm")
    pick(driver, own)
    assert np.array_equal(driver.body.mesh.points, points)
    driver.menu("run.live")
    driver.settle()
    assert not np.array_equal(driver.body.mesh.points[: len(points)], points)
