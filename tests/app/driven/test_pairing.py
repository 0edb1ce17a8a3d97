"""The pairing of two sections in the second pane: seen, dragged, made and let go by hand."""

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor

from morphax.app.views.board.pairing_view import BACK
from morphax.app.widgets.theme import LIGHT
from tests.app.driven.test_along import Strip
from tests.app.job_projects import column

CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def strip(opened) -> Strip:
    driver, _ = opened(column(1.0, (1.0, "round")))
    made = Strip(driver)
    made.click(made.picture(0))
    return made


def view_of(strip: Strip):
    return strip.driver.window.pair.pairing_view


def spots(strip: Strip, side: int) -> np.ndarray:
    tool = view_of(strip).tool
    return tool.sight.pixels(tool.pair.ends()[side])


def test_a_chosen_station_shows_its_pairing_and_the_scene_comes_back(strip: Strip) -> None:
    view, pair = view_of(strip), strip.driver.window.pair
    assert view.is_shown and view.title == "Pairing · rectangle 100 to round 100"
    picture = strip.driver.pane(1).grab().toImage()
    tints = {picture.pixelColor(x, y).name() for x in range(picture.width()) for y in range(picture.height())}
    assert QColor(LIGHT.plum).name() in tints and QColor(LIGHT.teal).name() not in tints, "no pair is made by hand"
    view.choose(BACK)
    assert not view.is_shown and pair.views[1].is_shown
    strip.click(strip.picture(1))
    assert view.is_shown, "another station, the pairing again"
    strip.driver.pane(0).setFocus()
    strip.driver.key(Qt.Key.Key_Escape)
    strip.driver.settle()
    assert not strip.ws.selection.stations and not view.is_shown


def test_a_pair_is_made_dragged_and_let_go(strip: Strip) -> None:
    view, tool = view_of(strip), view_of(strip).tool
    pair = tool.pair
    corner = tool.sight.pixels(pair.first.places(pair.first.ruler.corners[0][:1]))[0]
    strip.driver.click(1, tuple(corner), double=True)
    strip.driver.settle()
    (mark,) = strip.run.recipe.stations[0].marks
    assert mark[0] == pytest.approx(0.125) and mark[1] == pytest.approx(0.125, abs=1e-3)
    k = int(np.flatnonzero(tool.pair.pairing.fixed)[0])
    before = strip.driver.body.mesh.points.copy()
    a = tuple(spots(strip, 1)[k])
    goal = tool.sight.pixels(tool.pair.second.places(np.array([0.2])))[0]
    strip.driver.drag(1, a, tuple(goal))
    strip.driver.settle()
    (mark,) = strip.run.recipe.stations[0].marks
    assert mark[0] == pytest.approx(0.125) and mark[1] == pytest.approx(0.2, abs=0.01)
    assert strip.ws.history.undo_label == "Pair two places"
    assert not np.array_equal(strip.driver.body.mesh.points, before), "the body follows"
    picture = strip.driver.pane(1).grab().toImage()
    tints = {picture.pixelColor(x, y).name() for x in range(picture.width()) for y in range(picture.height())}
    assert QColor(LIGHT.teal).name() in tints, "a pair made by hand is seen"
    k = int(np.flatnonzero(tool.pair.pairing.fixed)[0])
    strip.driver.click(1, tuple(spots(strip, 1)[k]), double=True)
    strip.driver.settle()
    assert strip.run.recipe.stations[0].marks == ()
    strip.driver.key(Qt.Key.Key_Z, CTRL)
    assert len(strip.run.recipe.stations[0].marks) == 1 and view.is_shown


def test_the_pairing_shows_what_the_body_does(strip: Strip) -> None:
    """Places that the view pairs are points of the body's first and last ring."""
    tool = view_of(strip).tool
    first, second = (tool.pair.first.places(tool.pair.first.ruler.corners[0]), None)
    second = tool.pair.second.places(tool.pair.pairing.onward(tool.pair.first.ruler.corners[0]))
    points, axes = strip.driver.body.mesh.points, strip.driver.body.start_axes
    for z, flat in ((0.0, first), (1.0, second)):
        ring = points[np.abs(points[:, 2] - z) < 1e-9]
        at = flat @ axes[:2] + [0.0, 0.0, z]
        assert np.linalg.norm(ring[:, None] - at[None], axis=-1).min(0).max() < 1e-6
