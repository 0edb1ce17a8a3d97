"""The Refine menu and heading, driven."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from scipy.spatial import cKDTree

from morphax.core.path.resolved import points_along
from tests.app.driver import LEFT, Driver

CTRL = Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier


def choose_knots(driver: Driver, *index: int) -> None:
    places = [k.place for k in driver.path.knots]
    driver.click(0, places[index[0]])
    for k in index[1:]:
        driver.click(0, places[k], SHIFT)


def test_knots_are_lined_up_straightened_and_spaced(drawn: Driver) -> None:
    choose_knots(drawn, 0, 2)
    drawn.menu("refine.line-x")
    assert drawn.places[0, 0] == drawn.places[2, 0] and "moved by" in drawn.window.help_label.text()
    choose_knots(drawn, 0, 3)
    drawn.menu("refine.straighten")
    p = drawn.places
    assert np.allclose(np.cross(p[1:3] - p[0], p[3] - p[0]), 0.0, atol=0.5)
    drawn.menu("refine.space")
    steps = np.linalg.norm(np.diff(drawn.places, axis=0), axis=1)
    assert np.ptp(steps) < 0.01


def test_a_keeps_the_curve_and_adds_knots_between(drawn: Driver) -> None:
    before = drawn.body.length
    choose_knots(drawn, 1, 2)
    drawn.key(Qt.Key.Key_A)
    assert len(drawn.path.knots) == 5 and drawn.body.length == pytest.approx(before, rel=1e-9)


def line_of(driver: Driver) -> np.ndarray:
    """Many places (n, 3) along the chosen run's path."""
    driver.settle()
    resolved = driver.window.workspace.chosen.body.path.resolved
    return points_along(resolved, np.linspace(0.0, resolved.length, 4001))


def farthest(line: np.ndarray, from_other: np.ndarray) -> float:
    """The largest distance, m, of one line's places from another line's."""
    return float(cKDTree(from_other).query(line)[0].max())


def test_paths_are_evened_out_extended_and_trimmed_by_value(drawn: Driver) -> None:
    drawn.unfold("Refine")
    before = line_of(drawn)
    drawn.enter_value("refine.even", "7")
    assert len(drawn.path.knots) == 7
    off, index = cKDTree(before).query(drawn.places / 1000.0)
    assert off.max() < 1e-3 and np.allclose(index, np.linspace(0, 4000, 7), atol=4), "at equal distances along it"
    length = drawn.body.length
    drawn.enter_value("refine.extend.end", "200 mm")
    assert drawn.body.length == pytest.approx(length + 0.2, rel=2e-3)
    drawn.enter_value("refine.trim.start", "100 mm")
    assert drawn.body.length == pytest.approx(length + 0.1, rel=4e-3)
    for _ in range(3):
        drawn.key(Qt.Key.Key_Z, CTRL)
    assert len(drawn.path.knots) == 4


def test_a_run_is_split_and_joined_again(drawn: Driver) -> None:
    choose_knots(drawn, 1)
    drawn.menu("refine.split")
    ws = drawn.window.workspace
    assert len(ws.project.runs) == 2 and len(ws.selection.runs) == 2
    drawn.menu("refine.join")
    assert len(ws.project.runs) == 1 and drawn.window.help_label.text() == "Joined."


def test_runs_are_flattened_dropped_and_mirrored(drawn: Driver) -> None:
    drawn.click(0, drawn.path.knots[1].place)
    drawn.enter_value("knot.z", "300")
    drawn.key(Qt.Key.Key_Escape)
    drawn.menu("refine.drop")
    half = 0.5 * drawn.body.width * 1000
    assert drawn.places[1, 2] == pytest.approx(half, abs=0.01)
    x = drawn.places[:, 0]
    drawn.menu("refine.mirror-x")
    assert np.allclose(drawn.places[:, 0], x.min() + x.max() - x, atol=0.01)


def test_a_copy_across_and_one_in_place(drawn: Driver) -> None:
    ws, before = drawn.window.workspace, drawn.places
    drawn.key(Qt.Key.Key_M, CTRL | Qt.KeyboardModifier.ShiftModifier)
    assert len(ws.project.runs) == 2 and ws.selection.runs == (ws.project.runs[1].id,)
    assert np.allclose(drawn.places, before * [-1.0, 1.0, 1.0])
    drawn.menu("edit.duplicate-here")
    assert len(ws.project.runs) == 3 and np.allclose(drawn.places, before * [-1.0, 1.0, 1.0])
    drawn.menu("edit.undo")
    drawn.menu("edit.undo")
    assert len(ws.project.runs) == 1 and np.allclose(drawn.places, before)


@pytest.mark.parametrize(("choice", "follow"), [("rest", (0, 0, 1, 1)), ("soft", None), ("alone", (0, 0, 0, 0))])
def test_a_drag_takes_others_along_by_its_falloff(drawn: Driver, choice: str, follow) -> None:
    drawn.unfold("Refine")
    combo = drawn.field("refine.falloff")
    drawn.choose_in(combo, {"alone": "the knot alone", "rest": "the rest along", "soft": "softly around"}[choice])
    combo.activated.emit(combo.currentIndex())
    QTest.mouseClick(drawn.window.strip, LEFT, pos=QPoint(2, 2))
    before = drawn.places
    spot = drawn.spot(0, drawn.path.knots[1].place)
    drawn.drag(0, (spot.x(), spot.y()), (spot.x(), spot.y() + 40), CTRL)
    drawn.settle()
    moved = np.linalg.norm(drawn.places - before, axis=1)
    assert moved[1] > 50.0
    others = moved / moved[1]
    if follow is not None:
        assert np.allclose(np.delete(others, 1), np.delete(np.array(follow, float), 1), atol=1e-3)
    else:
        assert ((np.delete(others, 1) >= 0) & (np.delete(others, 1) < 1)).all() and (np.delete(others, 1) > 0).any()


def test_several_knots_are_put_between_two_by_their_number(drawn: Driver) -> None:
    places = [np.array(k.place) for k in drawn.path.knots]
    drawn.click(0, places[0])
    drawn.click(0, places[1], SHIFT)
    drawn.unfold("Refine")
    drawn.enter_value("refine.between", "3")
    drawn.settle()
    assert len(drawn.path.knots) == len(places) + 3
    assert "keeps its shape" in drawn.window.help_label.text()


def test_a_path_is_refitted_within_a_distance(drawn: Driver) -> None:
    drawn.unfold("Refine")
    drawn.enter_value("refine.even", "40")
    drawn.settle()
    before = line_of(drawn)
    drawn.enter_value("refine.refit", "2 mm")
    drawn.settle()
    assert len(drawn.path.knots) < 15 and drawn.path.kind == "handles" and not drawn.body.has_errors
    assert 1e-6 < farthest(line_of(drawn), before) < 0.0021 and farthest(before, line_of(drawn)) < 0.0021
