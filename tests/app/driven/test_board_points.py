"""Points, handles and sides on the section board, by hand and by numbers, with the body following."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from morphax.core.mesh.mesh import seam_points
from morphax.core.section.loop_edits import handles_of, kind_of
from tests.app.board_hand import Hand, volume_of
from tests.app.driver import Driver
from tests.app.job_projects import bar_of

SHIFT, CTRL, ALT = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)


def test_dragging_a_point_moves_the_body_and_is_one_step(on_run: Hand) -> None:
    driver, board = on_run.driver, on_run.board
    ws = driver.window.workspace
    assert board.is_open and board.on.run == driver.run.id and len(board.loops[0].segments) == 4
    before, was = volume_of(driver), ws.finished
    steps = ws.history.at
    right = on_run.points[np.argmax(on_run.points[:, 0])]
    driver.press(1, on_run.at(*right))
    driver.drag_to(1, on_run.at(right[0] + 12.0, right[1]), start=on_run.at(*right))
    assert ws.unfinished.is_on and ws.finished is was, "it is shown before it is done"
    driver.release(1, on_run.at(right[0] + 12.0, right[1]))
    driver.settle()
    assert "Round is an outline of its own now" in driver.window.help_label.text()
    assert ws.history.at == steps + 1 and volume_of(driver) > 1.05 * before
    assert on_run.points[:, 0].max() == pytest.approx(60.0), "the grid's line next to 62"
    driver.key(Qt.Key.Key_Z, CTRL)
    driver.settle()
    assert ws.finished is was and volume_of(driver) == pytest.approx(before, rel=1e-9)


def test_a_typed_distance_ends_a_drag_exactly(on_run: Hand) -> None:
    driver = on_run.driver
    right = on_run.points[np.argmax(on_run.points[:, 0])]
    driver.press(1, on_run.at(*right))
    driver.drag_to(1, on_run.at(right[0] + 6.0, right[1]), start=on_run.at(*right))
    driver.type("7.25")
    driver.enter()
    assert on_run.points[:, 0].max() == pytest.approx(right[0] + 7.25, abs=1e-6)


def test_points_are_added_made_smooth_and_deleted(hand: Hand) -> None:
    driver, board = hand.driver, hand.board
    driver.wheel(1, (200, 300), -6)
    hand.arm("rectangle")
    driver.drag(1, hand.at(-20, -10), hand.at(20, 10))
    driver.key(Qt.Key.Key_Escape)
    hand.click(0, -10, double=True)
    assert len(board.loops[0].segments) == 5 and board.chosen == ((0, 1),)
    driver.enter_value("point.y", "-16")
    assert hand.points[1].tolist() == [0.0, -16.0]
    driver.pane(1).setFocus()
    driver.key(Qt.Key.Key_B)
    assert not board.loops[0].segments[1].corner and kind_of(board.loops[0].segments[0]) == "curve"
    hand.click(0, -16, double=True)
    assert board.loops[0].segments[1].corner
    driver.key(Qt.Key.Key_Delete)
    assert len(board.loops[0].segments) == 4
    hand.drag((-26, -15), (26, 15))
    assert len(board.chosen) == 4, "a box chooses what lies in it"
    driver.key(Qt.Key.Key_Delete)
    assert len(board.loops[0].segments) == 4, "a section keeps one outline"
    assert "keeps at least one outline" in driver.window.help_label.text()


def test_handles_turn_together_and_alt_breaks_them(hand: Hand) -> None:
    driver, board = hand.driver, hand.board
    driver.wheel(1, (200, 300), -6)
    hand.arm("curve")
    for x, y in ((-20, 0), (0, -10), (20, 0), (0, 14)):
        hand.click(x, y)
    driver.enter()
    driver.key(Qt.Key.Key_Escape)
    hand.click(0, -10)
    ((i, k),) = board.chosen

    def handles() -> dict[str, tuple[float, float]]:
        return {w: tuple(1000.0 * v for v in board.sight.shown(p)) for w, p in handles_of(board.loops[i], k).items()}

    was = handles()
    hand.drag(was["leaving"], (was["leaving"][0], was["leaving"][1] - 5.0))
    now = handles()
    way = np.array(now["leaving"]) - (0, -10)
    back = np.array(now["coming"]) - (0, -10)
    assert abs(way[0] * back[1] - way[1] * back[0]) < 1e-6 * np.hypot(*way) * np.hypot(*back) and way @ back < 0.0
    hand.drag(now["leaving"], (now["leaving"][0], now["leaving"][1] + 9.0), ALT)
    assert handles()["coming"] == pytest.approx(now["coming"]) and board.loops[i].segments[k].corner


def test_values_of_points_and_sides(hand: Hand) -> None:
    driver, board = hand.driver, hand.board
    driver.wheel(1, (200, 300), -6)
    hand.arm("rectangle")
    driver.drag(1, hand.at(-20, -10), hand.at(20, 10))
    driver.key(Qt.Key.Key_Escape)
    hand.click(-20, -10)
    driver.enter_value("point.length", "50")
    assert hand.points[1].tolist() == [30.0, -10.0]
    driver.enter_value("point.fillet", "4")
    assert [kind_of(s) for s in board.loops[0].segments].count("arc") == 1
    hand.click(30, -10)
    driver.enter_value("point.chamfer", "3")
    assert len(board.loops[0].segments) == 6
    hand.click(20, 10)
    driver.choose("point.side", "arc")
    assert board.loops[0].segments[board.chosen[0][1]].is_arc
    driver.enter_value("point.fillet", "900")
    assert "does not fit" in driver.window.help_label.text()


def test_a_line_touches_a_round_and_meets_it_squarely(hand: Hand) -> None:
    """By the circle's own formula: the place is caught within 8 pixels, exactly."""
    driver = hand.driver
    hand.arm("circle")
    hand.click(10, 0)
    hand.click(15, 0)
    hand.arm("line")
    hand.click(-4, 9)
    middle, start, radius = np.array([10.0, 0.0]), np.array([-4.0, 9.0]), 5.0
    far = float(np.hypot(*(start - middle)))
    way = (start - middle) / far
    side, turn = np.array([-way[1], way[0]]), np.arccos(radius / far)
    touching = [middle + radius * (np.cos(turn) * way + s * np.sin(turn) * side) for s in (1.0, -1.0)]
    for at, word in (*((t, "tangent") for t in touching), (middle + radius * way, "square to the outline")):
        driver.move(1, hand.at(at[0] + 0.3, at[1] + 0.4))
        landing = hand.view.tool.landing
        assert landing.word == word and len(landing.guides) == 1
        assert np.array(hand.board.sight.shown(landing.place)) * 1000.0 == pytest.approx(at, abs=1e-7)


def test_seam_and_up_are_set_at_a_point_by_hand(drawn: Driver) -> None:
    driver, ws = drawn, drawn.window.workspace
    driver.press_button(driver.window.list_panel.stock.buttons["rectangle"])
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_Return)
    hand = Hand(driver)
    assert not driver.window.menus.by_id["section.seam"].isEnabled(), "no point is chosen"
    for corner in ((1, 1), (-1, -1)):
        x, y = (v * s for v, s in zip(corner, np.abs(hand.points).max(0), strict=True))
        hand.click(x, y)
        driver.menu("section.seam")
        driver.settle()
        axes = driver.body.start_axes
        own = seam_points(driver.body.mesh)[0] - np.array(driver.path.knots[0].place)
        assert (own @ axes[0] * 1e3, own @ axes[1] * 1e3) == pytest.approx((x, y), abs=1e-3), "the skin begins there"
    driver.menu("section.up")
    driver.settle()
    roll, there = driver.run.recipe.placing.roll, np.array([x, y])
    turned = np.array([[np.cos(roll), -np.sin(roll)], [np.sin(roll), np.cos(roll)]]) @ there
    assert turned == pytest.approx((0.0, np.hypot(x, y)), abs=1e-9), "the corner lies above the path"
    driver.key(Qt.Key.Key_Z, CTRL)
    assert driver.run.recipe.placing.roll == 0.0 and driver.run.recipe.placing.seam > 0.0
    assert ws.board.is_open


def test_a_side_of_no_length_is_refused_in_words(hand: Hand) -> None:
    hand.arm("rectangle")
    hand.driver.drag(1, hand.at(-5, -5), hand.at(5, 5))
    hand.driver.key(Qt.Key.Key_Escape)
    hand.click(-5, -5)
    before = hand.points.tolist()
    hand.driver.enter_value("point.length", "0")
    assert hand.points.tolist() == before and "longer than 0" in hand.driver.window.help_label.text()


def test_arrow_keys_step_by_the_same_length_both_ways_on_a_body_that_is_larger(on_run: Hand) -> None:
    driver, hand = on_run.driver, on_run
    driver.enter_value("width", "200")
    driver.settle()
    hand.board.frame()
    hand.click(*hand.points[1])
    before, grow = hand.points[1].copy(), hand.board.sight.grow
    driver.pane(1).setFocus()
    driver.key(Qt.Key.Key_Up)
    up = hand.points[1] - before
    driver.key(Qt.Key.Key_Right)
    right = hand.points[1] - before - up
    assert up[1] > 0.0 and right[0] == pytest.approx(up[1]) and abs(up[0]) + abs(right[1]) < 1e-9, (grow, up, right)


@pytest.mark.parametrize(("width", "unit"), [(500.0, "m"), (0.001, "mm"), (0.0762, "in")])
def test_any_size_is_framed_and_dragged_by_typed_numbers_in_its_unit(opened, width: float, unit: str) -> None:
    driver, _ = opened(bar_of(width, unit))
    ws = driver.window.workspace
    driver.key(Qt.Key.Key_A, CTRL)
    driver.menu("section.board")
    hand = Hand(driver)
    wide, high = driver.pane(1).width(), driver.pane(1).height()
    seen = hand.board.sight.pixels(np.array([s.start for s in hand.board.loops[0].segments]))
    assert (seen > 0).all() and (seen < (wide, high)).all() and np.ptp(seen, axis=0).max() > 0.4 * min(wide, high)
    k = int(np.argmax(seen @ [1.0, -1.0]))
    at = (float(seen[k, 0]), float(seen[k, 1]))
    driver.press(1, at)
    driver.drag_to(1, (at[0] + 20.0, at[1]), start=at)
    driver.type("1")
    driver.enter()
    driver.settle()
    one = {"m": 1.0, "mm": 1e-3, "in": 0.0254}[unit]
    assert ws.chosen.body.body.width == pytest.approx(width + one, rel=1e-9)
    driver.key(Qt.Key.Key_Z, CTRL)
    driver.settle()
    assert ws.chosen.body.body.width == pytest.approx(width, rel=1e-9)
