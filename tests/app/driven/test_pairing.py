"""The pairing of two sections in the second pane: seen, dragged, made and let go by hand."""

import numpy as np
import pytest
import trimesh
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor

from morphax.app.views.board.pairing_view import BACK
from morphax.app.widgets.theme import LIGHT
from morphax.core.mesh.mesh import point_triangles as by_triangles
from tests.app.driven.test_along import Strip
from tests.app.job_projects import column, column_of

CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def strip(opened) -> Strip:
    driver, _ = opened(column(1.0, (1.0, "round")))
    made = Strip(driver)
    made.click(made.picture(0))
    return made


def view_of(strip: Strip):
    return strip.driver.window.pair.pairing_view


def spots(strip: Strip, side: int, loop: int = 0) -> np.ndarray:
    tool = view_of(strip).tool
    return tool.sight.pixels(tool.pair.loops[loop].ends()[side])


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
    loop = tool.pair.loops[0]
    corner = tool.sight.pixels(loop.places(0, loop.ruler(0).corners[0][:1]))[0]
    strip.driver.click(1, tuple(corner), double=True)
    strip.driver.settle()
    (mark,) = strip.run.recipe.stations[0].marks
    assert mark[0] == pytest.approx(0.125) and mark[1] == pytest.approx(0.125, abs=1e-3)
    k = int(np.flatnonzero(tool.pair.loops[0].pairing.fixed)[0])
    before = strip.driver.body.mesh.points.copy()
    a = tuple(spots(strip, 1)[k])
    goal = tool.sight.pixels(tool.pair.loops[0].places(1, np.array([0.2])))[0]
    strip.driver.drag(1, a, tuple(goal))
    strip.driver.settle()
    (mark,) = strip.run.recipe.stations[0].marks
    assert mark[0] == pytest.approx(0.125) and mark[1] == pytest.approx(0.2, abs=0.01)
    assert strip.ws.history.undo_label == "Pair two places"
    assert not np.array_equal(strip.driver.body.mesh.points, before), "the body follows"
    picture = strip.driver.pane(1).grab().toImage()
    tints = {picture.pixelColor(x, y).name() for x in range(picture.width()) for y in range(picture.height())}
    assert QColor(LIGHT.teal).name() in tints, "a pair made by hand is seen"
    k = int(np.flatnonzero(tool.pair.loops[0].pairing.fixed)[0])
    strip.driver.click(1, tuple(spots(strip, 1)[k]), double=True)
    strip.driver.settle()
    assert strip.run.recipe.stations[0].marks == ()
    strip.driver.key(Qt.Key.Key_Z, CTRL)
    assert len(strip.run.recipe.stations[0].marks) == 1 and view.is_shown


def test_the_pairing_shows_what_the_body_does(strip: Strip) -> None:
    """Places that the view pairs are points of the body's first and last ring."""
    loop = view_of(strip).tool.pair.loops[0]
    corners = loop.ruler(0).corners[0]
    first, second = loop.places(0, corners), loop.places(1, loop.pairing.onward(corners))
    points, axes = strip.driver.body.mesh.points, strip.driver.body.start_axes
    for z, flat in ((0.0, first), (1.0, second)):
        ring = points[np.abs(points[:, 2] - z) < 1e-9]
        at = flat @ axes[:2] + [0.0, 0.0, z]
        assert np.linalg.norm(ring[:, None] - at[None], axis=-1).min(0).max() < 1e-6


def test_holes_are_paired_by_hand_too(opened) -> None:
    """Of a pipe and a narrower one: the marks of the hole move points of the hole alone."""
    driver, _ = opened(column_of(("pipe", {"width": 0.1, "wall": 0.02}), ("pipe", {"width": 0.08, "wall": 0.02})))
    strip = Strip(driver)
    strip.click(strip.picture(0))
    loops = view_of(strip).tool.pair.loops
    assert [loop.number for loop in loops] == [0, 1] and all(loop.is_whole for loop in loops)
    tool, before = view_of(strip).tool, driver.body.mesh.points.copy()
    driver.click(1, tuple(tool.sight.pixels(loops[1].places(0, np.array([0.3])))[0]), double=True)
    driver.settle()
    (mark,) = strip.run.recipe.stations[0].marks
    assert mark[2] == 1 and mark[0] == pytest.approx(0.3, abs=2e-3) and mark[1] == pytest.approx(0.3, abs=2e-3)
    goal = tool.sight.pixels(loops[1].places(1, np.array([0.4])))[0]
    driver.drag(1, tuple(spots(strip, 1, 1)[0]), tuple(goal))
    driver.settle()
    (mark,) = strip.run.recipe.stations[0].marks
    assert mark[1] == pytest.approx(0.4, abs=5e-3) and mark[2] == 1
    points = driver.body.mesh.points
    assert trimesh.Trimesh(points, by_triangles(driver.body.mesh), process=False).is_watertight
    ring = points[np.abs(points[:, 2] - 1.0) < 1e-9]
    outer = np.hypot(*ring[:, :2].T) > 0.03
    was = before[np.abs(before[:, 2] - 1.0) < 1e-9]
    assert np.allclose(ring[outer], was[np.hypot(*was[:, :2].T) > 0.03], atol=1e-12), "the outline is as it was"
    assert len(driver.body.mesh.points) != len(before) or not np.allclose(points, before)
    driver.click(1, tuple(spots(strip, 1, 1)[0]), double=True)
    driver.settle()
    assert strip.run.recipe.stations[0].marks == ()


def test_what_has_no_partner_is_shown_going_to_its_point(opened) -> None:
    driver, _ = opened(column_of(("twin", {}), ("round", {})))
    strip = Strip(driver)
    strip.click(strip.picture(0))
    loops, size = view_of(strip).tool.pair.loops, driver.body.width
    assert len(loops) == 2 and [loop.is_whole for loop in loops].count(False) == 1
    gone = next(loop for loop in loops if not loop.is_whole)
    from_, to = gone.lines()
    assert np.ptp(to, axis=0).max() < 1e-12 and np.ptp(from_, axis=0).min() > 0.1 * size
    points = driver.body.mesh.points
    at = to[0] @ driver.body.start_axes[:2] + [0.0, 0.0, 1.0]
    assert np.linalg.norm(points - at, axis=1).min() < 1e-9, "it is a point of the body"
    place = tuple(view_of(strip).tool.sight.pixels(from_)[0])
    driver.click(1, place, double=True)
    driver.settle()
    assert strip.run.recipe.stations[0].marks == (), "there is nothing to pair it with"
