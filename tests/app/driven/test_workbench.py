"""One path in many ways: straight and curved spans, drawn on, trimmed, tightened; typed directions; seen through."""

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from morphax.app.tools.shared.handle_set import Part, outline
from morphax.core.path.resolved import points_along
from tests.app.driven.test_first_body import look_from_front
from tests.app.driver import Driver
from tests.app.job_projects import two_in_a_row

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def straight(driver: Driver) -> list[bool]:
    return driver.window.workspace.chosen.body.path.resolved.chain.straight.tolist()


def turn_at(driver: Driver, k: int) -> float:
    """Angle between the spans that meet at a knot, degrees."""
    spans = driver.window.workspace.chosen.body.path.resolved.chain.spans
    a, b = spans[k - 1, 3] - spans[k - 1, 2], spans[k, 1] - spans[k, 0]
    return float(np.degrees(np.arccos(np.clip(a @ b / np.linalg.norm(a) / np.linalg.norm(b), -1, 1))))


# -- straight and curved spans ---------------------------------------------------------------------


def test_s_and_t_change_the_kind_of_the_spans_that_follow(driver: Driver) -> None:
    look_from_front(driver)
    driver.key(Qt.Key.Key_T)
    driver.click(0, (-0.6, 0.0, 0.3))
    driver.click(0, (-0.3, 0.0, 0.7))
    driver.click(0, (0.0, 0.0, 0.4))
    driver.key(Qt.Key.Key_S)
    assert driver.window.toolbox.is_drawing and driver.window.tool_row.tools["straight"].isChecked()
    driver.click(0, (0.3, 0.0, 0.4))
    driver.key(Qt.Key.Key_T)
    driver.click(0, (0.6, 0.0, 0.8))
    driver.enter()
    driver.settle()
    assert driver.path.kind == "through" and straight(driver) == [False, False, True, False]
    assert turn_at(driver, 2) < 0.01 and turn_at(driver, 3) < 0.01, "curves leave along the straight span"
    driver.key(Qt.Key.Key_Z, CTRL)
    assert not driver.window.workspace.project.runs, "one path, one step"


def test_a_straight_path_goes_on_as_a_curve(driver: Driver) -> None:
    look_from_front(driver)
    driver.key(Qt.Key.Key_S)
    for place in ((-0.6, 0.0, 0.3), (-0.2, 0.0, 0.3)):
        driver.click(0, place)
    driver.key(Qt.Key.Key_T)
    driver.click(0, (0.2, 0.0, 0.7))
    driver.enter()
    driver.settle()
    assert straight(driver) == [True, False] and turn_at(driver, 1) < 0.01 and not driver.body.has_errors


def test_b_makes_a_corner_of_the_knot_that_was_placed_last(driver: Driver) -> None:
    look_from_front(driver)
    driver.key(Qt.Key.Key_T)
    for place in ((-0.6, 0.0, 0.3), (-0.2, 0.0, 0.3)):
        driver.click(0, place)
    driver.key(Qt.Key.Key_B)
    driver.click(0, (0.0, 0.0, 0.8))
    driver.click(0, (0.4, 0.0, 0.8))
    driver.enter()
    driver.settle()
    assert [k.kind for k in driver.path.knots] == ["smooth", "corner", "smooth", "smooth"]
    assert turn_at(driver, 1) > 30.0


def test_a_rectangle_is_armed_as_such_and_another_kind_ends_it(driver: Driver) -> None:
    look_from_front(driver)
    driver.menu("path.rectangle")
    assert driver.window.toolbox.shown_kind == "rectangle" and not driver.window.tool_row.tools["straight"].isChecked()
    driver.click(0, (-0.3, 0.0, 0.2))
    driver.move(0, (0.3, 0.0, 0.6))
    driver.key(Qt.Key.Key_T)
    assert driver.window.toolbox.shown_kind == "through" and not driver.window.toolbox.is_drawing
    driver.menu("guide.line")
    driver.click(0, (-0.3, 0.0, 0.2))
    driver.click(0, (0.3, 0.0, 0.2))
    driver.key(Qt.Key.Key_T)
    assert len(driver.window.workspace.project.hosts) == 1 and driver.window.toolbox.kind == "through"


def test_spans_between_chosen_knots_become_straight_and_curved_again(drawn: Driver) -> None:
    places = [k.place for k in drawn.path.knots]
    drawn.click(0, places[1])
    drawn.click(0, places[2], SHIFT)
    drawn.key(Qt.Key.Key_B, SHIFT)
    drawn.settle()
    assert straight(drawn) == [False, True, False] and "straight now" in drawn.window.help_label.text()
    drawn.key(Qt.Key.Key_B, SHIFT)
    drawn.settle()
    assert straight(drawn) == [False, False, False] and turn_at(drawn, 1) < 0.01


# -- drawn on, trimmed, tightened ------------------------------------------------------------------


@pytest.mark.parametrize("end", ["start", "end"])
def test_a_path_is_drawn_on_from_the_chosen_end_and_undone_in_one_step(drawn: Driver, end: str) -> None:
    before = drawn.places
    k = 0 if end == "start" else -1
    drawn.click(0, drawn.path.knots[k].place)
    drawn.key(Qt.Key.Key_G)
    assert drawn.window.toolbox.is_drawing
    for x, z in ((0.8, 0.2), (0.9, 0.6)):
        drawn.click(0, ((x if end == "end" else -x), 0.0, z))
    drawn.enter()
    drawn.settle()
    after = drawn.places if end == "end" else drawn.places[::-1]
    old = before if end == "end" else before[::-1]
    np.testing.assert_allclose(after[:4], old)
    np.testing.assert_allclose(np.abs(after[4:, 0]), [800, 900], atol=1e-6)
    assert len(drawn.window.workspace.project.runs) == 1 and drawn.window.toolbox.draw is None
    assert drawn.window.workspace.history.undo_label == "Draw on"
    drawn.key(Qt.Key.Key_Z, CTRL)
    np.testing.assert_array_equal(drawn.places, before)


def test_drawing_on_can_be_dropped_closed_and_mixed(drawn: Driver) -> None:
    before = drawn.places
    drawn.key(Qt.Key.Key_G)
    drawn.click(0, (0.7, 0.0, 0.3))
    drawn.key(Qt.Key.Key_Escape)
    np.testing.assert_array_equal(drawn.places, before)
    assert drawn.window.toolbox.draw is None
    drawn.key(Qt.Key.Key_G)
    drawn.key(Qt.Key.Key_S)
    drawn.click(0, (0.7, 0.0, 0.2))
    drawn.click(0, tuple(before[0] / 1000.0))
    drawn.settle()
    assert drawn.path.closed and len(drawn.path.knots) == 5 and straight(drawn)[3] and not drawn.body.has_errors


def test_a_path_is_trimmed_to_the_chosen_knot_and_to_the_pointer(drawn: Driver) -> None:
    before, ids = drawn.body.length, [k.id for k in drawn.path.knots]
    resolved = drawn.window.workspace.chosen.body.path.resolved
    at, half = float(resolved.knot_at[2]), 0.5 * (resolved.knot_at[0] + resolved.knot_at[1])
    drawn.click(0, drawn.path.knots[2].place)
    drawn.menu("refine.trim-end")
    drawn.settle()
    assert [k.id for k in drawn.path.knots] == ids[:3] and at < before
    assert drawn.body.length == pytest.approx(at, rel=1e-6)
    assert "it is a handles path now" in drawn.window.help_label.text()
    place = points_along(resolved, np.array([half]))[0]
    spot = drawn.spot(0, place)
    menu = drawn.window.menus.context(drawn.view(0), spot)
    drawn.menu("refine.trim-start")
    menu.close()
    drawn.settle()
    assert drawn.body.length == pytest.approx(at - half, abs=4e-3)
    assert np.linalg.norm(drawn.places[0] - 1000.0 * place) < 4.0


def test_nothing_under_the_pointer_trims_nothing(drawn: Driver) -> None:
    before = drawn.places
    drawn.click(0, drawn.path.knots[1].place)
    drawn.click(0, drawn.path.knots[2].place, SHIFT)
    drawn.menu("refine.trim-end")
    np.testing.assert_array_equal(drawn.places, before)
    assert "Choose the knot, or point at" in drawn.window.help_label.text()


def test_tension_tightens_a_through_path_and_is_reset(drawn: Driver) -> None:
    drawn.unfold("Path")
    loose = drawn.body.length
    drawn.enter_value("tension", "0.6")
    drawn.settle()
    tight = drawn.body.length
    assert tight < loose and drawn.path.tension == 0.6
    mid = drawn.window.workspace.chosen.body.path.polyline[12]
    drawn.click(0, mid, double=True)
    drawn.settle()
    assert drawn.path.kind == "handles" and drawn.body.length == pytest.approx(tight, rel=1e-6)
    assert "handles path now" in drawn.window.help_label.text()
    drawn.key(Qt.Key.Key_Z, CTRL)
    drawn.enter_value("tension", "")
    drawn.settle()
    assert drawn.body.length == pytest.approx(loose, rel=1e-12)
    drawn.enter_value("tension", "2")
    assert "between -1 and 0.95" in drawn.window.help_label.text()


def test_knots_come_at_a_typed_distance_and_the_largest_deviation_is_told(drawn: Driver) -> None:
    drawn.unfold("Refine")
    length = drawn.body.length
    drawn.enter_value("refine.every", "100 mm")
    assert len(drawn.path.knots) == round(length / 0.1) + 1 and "moved by" in drawn.window.help_label.text()


def test_a_removed_knot_of_a_handles_path_leaves_the_curve_near(drawn: Driver) -> None:
    drawn.unfold("Path")
    drawn.choose("kind", "handles")
    before = drawn.body.length
    drawn.click(0, drawn.window.workspace.chosen.body.path.polyline[12], double=True)
    drawn.key(Qt.Key.Key_Delete)
    drawn.settle()
    assert len(drawn.path.knots) == 4 and drawn.body.length == pytest.approx(before, rel=1e-5)


def test_knots_are_flattened_onto_the_work_plane_and_lined_up_between_the_ends(drawn: Driver) -> None:
    drawn.menu("refine.line-between")
    p = drawn.places
    assert np.allclose(np.cross(p[1:3] - p[0], p[3] - p[0]), 0.0, atol=1.0)
    drawn.menu("refine.flatten-work")
    assert (drawn.places[:, 2] == 0.0).all() and "moved by" in drawn.window.help_label.text()


# -- the handle set --------------------------------------------------------------------------------


def part(driver: Driver, wanted: Part) -> tuple[np.ndarray, np.ndarray]:
    centre = driver.window.toolbox.edit.set.centre()
    line = outline(driver.view(0).sight, centre, wanted)
    return line[0], line[-1]


def test_a_whole_run_is_scaled_by_drag_and_by_a_typed_percentage(drawn: Driver) -> None:
    before, width = drawn.places, drawn.body.width
    middle = 0.5 * (before.min(0) + before.max(0))
    drawn.key(Qt.Key.Key_M)
    a, b = part(drawn, Part("size"))
    spot = tuple(float(v) for v in 0.5 * (a + b))
    drawn.move(0, spot)
    assert drawn.window.toolbox.sketch.label == f"scale {drawn.run.show.name}"
    drawn.drag(0, spot, (spot[0] - 30.0, spot[1] - 30.0), CTRL)
    drawn.settle()
    grown = drawn.places
    factor = float(np.linalg.norm(grown[3] - grown[0]) / np.linalg.norm(before[3] - before[0]))
    assert 1.2 < factor < 2.0 and np.allclose(grown, middle + factor * (before - middle), atol=2e-3)
    assert drawn.body.width == width and drawn.window.workspace.history.undo_label == "Scale"
    drawn.key(Qt.Key.Key_Z, CTRL)
    drawn.press(0, spot)
    drawn.drag_to(0, (spot[0] - 20.0, spot[1] - 20.0), start=spot)
    drawn.type("250")
    assert "percent 250" in drawn.window.toolbox.sketch.label
    drawn.enter()
    drawn.release(0, spot)
    np.testing.assert_allclose(drawn.places, middle + 2.5 * (before - middle), atol=2e-3)


def test_numbers_are_typed_while_an_arrow_or_a_ring_is_dragged(drawn: Driver) -> None:
    before = drawn.places
    drawn.key(Qt.Key.Key_M)
    _, tip = part(drawn, Part("arrow", 2))
    tip = tuple(map(float, tip))
    drawn.press(0, tip)
    drawn.drag_to(0, (tip[0], tip[1] + 25.0), start=tip)
    drawn.type("120")
    drawn.enter()
    drawn.release(0, tip)
    np.testing.assert_allclose(drawn.places - before, np.tile([0, 0, -120.0], (4, 1)), atol=1e-6)
    centre = drawn.window.toolbox.edit.set.centre()
    ring = outline(drawn.view(0).sight, centre, Part("ring", 1))
    a, b = (tuple(map(float, ring[k])) for k in (3, 9))
    drawn.press(0, a)
    drawn.drag_to(0, b, start=a)
    drawn.type("90")
    drawn.enter()
    drawn.release(0, b)
    moved = drawn.places
    d = before[3] - before[0]
    assert np.allclose(np.abs(moved[3] - moved[0]), np.abs([d[2], 0.0, d[0]]), atol=1e-3)
    drawn.drag(0, part(drawn, Part("square"))[0] + 12.0, (60.0, 60.0))
    assert drawn.window.toolbox.edit.typed.is_empty, "the next drag begins without numbers"


def test_a_distance_and_a_direction_place_the_next_knot(driver: Driver) -> None:
    look_from_front(driver)
    driver.key(Qt.Key.Key_S)
    driver.click(0, (-0.3, 0.0, 0.2))
    driver.move(0, (0.2, 0.0, 0.3))
    driver.type("500")
    driver.key(Qt.Key.Key_Tab)
    driver.type("30")
    assert driver.window.toolbox.sketch.label.startswith("distance 500 · direction 30")
    assert "Tab: direction" in driver.window.help_label.text()
    driver.enter()
    driver.enter()
    end = driver.places[1] - driver.places[0]
    np.testing.assert_allclose(end, [500 * np.cos(np.pi / 6), 0.0, 250.0], atol=1e-3)


# -- seen through ----------------------------------------------------------------------------------


def hold_space(driver: Driver, *, down: bool) -> None:
    kind = QEvent.Type.KeyPress if down else QEvent.Type.KeyRelease
    target = QApplication.focusWidget() or driver.window
    QApplication.sendEvent(target, QKeyEvent(kind, Qt.Key.Key_Space, Qt.KeyboardModifier.NoModifier, " "))
    QApplication.processEvents()


def test_with_space_held_a_path_is_seen_and_picked_through_the_body_before_it(opened) -> None:
    driver, _ = opened(two_in_a_row())
    look_from_front(driver)
    driver.settle()
    place = (0.1, 0.0, 0.5)
    driver.click(0, place)
    assert driver.run.show.name == "thick", "the body in front"
    driver.click(0, (5, 5))
    plain = driver.pane(0).grab().toImage()
    driver.pane(0).setFocus()
    hold_space(driver, down=True)
    driver.move(0, (5, 5))
    seen = driver.pane(0).grab().toImage()
    spot = driver.spot(0, (-0.2, 0.5, 0.55))
    assert plain.pixelColor(spot) != seen.pixelColor(spot), "the thin path shows through"
    driver.click(0, (-0.2, 0.5, 0.55))
    assert driver.run.show.name == "thin"
    hold_space(driver, down=False)
    driver.click(0, place)
    assert driver.run.show.name == "thick"


# -- the length strip ------------------------------------------------------------------------------


def test_the_strip_takes_a_knot_and_trims_at_the_place_of_its_menu(drawn: Driver) -> None:
    strip, length = drawn.window.strip, drawn.body.length
    spot = QPoint(round(float(strip.ruler.x_of(0.3 * length))), 60)
    QTest.mouseDClick(strip, Qt.MouseButton.LeftButton, pos=spot)
    drawn.settle()
    assert len(drawn.path.knots) == 5 and drawn.body.length == pytest.approx(length, rel=1e-9)
    at = float(drawn.window.workspace.chosen.body.knot_at[1])
    assert at == pytest.approx(0.3 * length, abs=2e-3)
    menu = drawn.window.menus.strip_context(0.5 * length)
    drawn.menu("refine.trim-end")
    menu.close()
    drawn.settle()
    assert drawn.body.length == pytest.approx(0.5 * length, rel=1e-6)
