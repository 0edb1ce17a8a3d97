"""The section board under the hand: opened, outlines drawn and edited with the body following, and nothing lost."""

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

from morphax.app.tools.section.parts import seam_here
from morphax.app.views.stock.groups import DRAW
from morphax.core.section.loop_edits import kind_of
from morphax.project.model.document import OutlineSource
from tests.app.board_hand import Hand, double_click_row
from tests.app.driven.test_first_body import draw_four
from tests.app.driver import LEFT, Driver

SHIFT, CTRL, ALT = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)


def test_draw_one_opens_a_blank_board_and_esc_brings_the_scene_back(hand: Hand) -> None:
    driver = hand.driver
    assert hand.board.is_open and hand.board.loops == () and driver.pane(1).view is hand.view
    assert driver.pane(1).hasFocus() and "new section" in driver.pane(1).name_button.text()
    assert driver.pane(1).width() >= 0.48 * (driver.pane(0).width() + driver.pane(1).width())
    wide = driver.pane(1).width()
    driver.key(Qt.Key.Key_Escape)
    assert not hand.board.is_open and driver.pane(1).view is driver.view(1) and not hand.view.foot.isVisible()
    assert driver.pane(1).width() < wide and driver.pane(0).hasFocus()


def test_lines_by_clicks_and_numbers_make_the_next_runs_section(hand: Hand) -> None:
    """A plate of 40 by 12 mm, its last sides typed; the run that is drawn then has it at that size."""
    driver = hand.driver
    hand.arm("line")
    hand.click(0, 0)
    driver.move(1, hand.at(8, 0))
    driver.type("40")
    driver.enter()
    driver.move(1, hand.at(10, 10))
    driver.type("12")
    driver.key(Qt.Key.Key_Tab)
    driver.type("90")
    driver.enter()
    driver.type("-40x0")
    driver.enter()
    assert "first point or Enter closes" in driver.window.help_label.text()
    driver.enter()
    assert hand.points.tolist() == [[0, 0], [40, 0], [40, 12], [0, 12]]
    (section,) = driver.window.workspace.project.sections
    assert isinstance(section.source, OutlineSource) and driver.window.workspace.bench.next_run.source is section.source
    driver.key(Qt.Key.Key_Escape)
    driver.key(Qt.Key.Key_Escape)
    draw_four(driver)
    driver.settle()
    assert driver.run.recipe.stations[0].section == section.id
    assert driver.body.width == pytest.approx(0.04) and driver.body.height == pytest.approx(0.012)


def test_a_half_round_edge_of_18_by_7(hand: Hand) -> None:
    hand.arm("line")
    hand.click(-9, 0)
    hand.click(9, 0)
    hand.arm("arc")
    hand.click(-9, 0)
    assert [kind_of(s) for s in hand.board.loops[0].segments] == ["line", "arc"], "it closes on its first point"
    hand.driver.key(Qt.Key.Key_Escape)
    hand.click(9, 0)
    hand.driver.enter_value("point.radius", "9.285714")
    assert hand.board.shape is not None and hand.board.shape.bounds == pytest.approx(
        (-0.009, 0.0, 0.009, 0.007), abs=1e-8
    )


def test_rectangles_circles_and_polygons_and_what_lies_in_another_is_a_hole(hand: Hand) -> None:
    driver = hand.driver
    hand.arm("rectangle")
    driver.wheel(1, (200, 300), -8)
    hand.click(-40, -20)
    driver.move(1, hand.at(0, 0))
    driver.type("80x40")
    driver.enter()
    assert hand.points.tolist() == [[-40, -20], [40, -20], [40, 20], [-40, 20]]
    hand.arm("circle")
    hand.click(-20, 0)
    driver.move(1, hand.at(-10, 0))
    driver.type("10")
    driver.enter()
    hand.arm("polygon")
    driver.key(Qt.Key.Key_Down)
    driver.key(Qt.Key.Key_Down)
    driver.drag(1, hand.at(20, 0), hand.at(30, 0))
    (part,) = hand.board.shape.parts
    assert [len(h.segments) for h in part.holes] == [4, 4] and all(s.is_arc for s in part.holes[0].segments)
    assert part.holes[0].segments[0].radii[0] == pytest.approx(0.01)
    hand.arm("circle")
    driver.drag(1, hand.at(-20, 0), hand.at(-16, 0))
    assert len(hand.board.shape.parts) == 2, "a part in a hole"


def test_esc_drops_a_drag_then_chooses_nothing_then_goes_back(on_run: Hand) -> None:
    driver, ws = on_run.driver, on_run.driver.window.workspace
    was = ws.finished
    right = on_run.points[np.argmax(on_run.points[:, 0])]
    driver.press(1, on_run.at(*right))
    driver.drag_to(1, on_run.at(right[0] + 6.0, right[1] + 5.0), start=on_run.at(*right))
    driver.key(Qt.Key.Key_Escape)
    assert ws.project is was and on_run.board.chosen
    driver.release(1, on_run.at(right[0] + 6.0, right[1] + 5.0))
    assert ws.finished is was
    driver.key(Qt.Key.Key_Escape)
    assert not on_run.board.chosen and on_run.board.is_open
    driver.key(Qt.Key.Key_Escape)
    assert not on_run.board.is_open and ws.finished is was


def test_a_shared_section_changes_for_all_and_an_own_copy_for_one(on_run: Hand) -> None:
    driver, ws = on_run.driver, on_run.driver.window.workspace
    first = driver.run.id
    driver.menu("edit.duplicate")
    driver.settle()
    second = driver.run.id
    assert second != first and on_run.board.on.run == second, "the board follows what is chosen"
    hand = on_run
    right = hand.points[np.argmax(hand.points[:, 0])]
    hand.drag(tuple(right), (right[0] + 10.0, right[1]))
    driver.settle()
    widths = {i: ws.bodies.get(i).body.width for i in (first, second)}
    assert widths[first] == pytest.approx(widths[second]) and widths[first] > 0.02
    driver.menu("section.copy")
    right = hand.points[np.argmax(hand.points[:, 0])]
    hand.drag(tuple(right), (right[0] + 10.0, right[1]))
    driver.settle()
    assert ws.bodies.get(second).body.width > widths[second] + 0.005
    assert ws.bodies.get(first).body.width == pytest.approx(widths[first])


def test_the_wheel_and_the_middle_button_move_what_is_seen_and_w_brings_it_back(on_run: Hand) -> None:
    driver, board = on_run.driver, on_run.board
    sight = board.sight
    driver.wheel(1, (100, 200), 3)
    assert board.sight.scale > 1.3 * sight.scale
    assert board.sight.place(100, 200) == pytest.approx(sight.place(100, 200), abs=1e-9), "it stays under the pointer"
    driver.press(1, (150, 200), button=Qt.MouseButton.MiddleButton)
    driver.drag_to(1, (190, 230), button=Qt.MouseButton.MiddleButton, start=(150, 200))
    driver.release(1, (190, 230), button=Qt.MouseButton.MiddleButton)
    driver.key(Qt.Key.Key_W)
    assert board.sight == sight


def test_pictures_in_the_list_open_the_board_and_names_are_renamed(drawn: Driver) -> None:
    w = drawn.window
    board = w.workspace.board
    double_click_row(w.list_panel.runs, 0, 12)
    assert board.is_open and board.on.run == drawn.run.id
    drawn.key(Qt.Key.Key_Escape)
    assert not board.is_open
    double_click_row(w.list_panel.sections, 0, 12)
    assert board.is_open
    rows = w.list_panel.sections
    assert rows.count() == 1 and rows.item(0).data(Qt.ItemDataRole.DisplayRole) == "Round"


def test_undo_of_the_first_outline_leaves_a_blank_board_and_another_run_drops_what_is_drawn(hand: Hand) -> None:
    driver = hand.driver
    hand.arm("circle")
    driver.drag(1, hand.at(0, 0), hand.at(8, 0))
    assert len(hand.board.loops) == 1
    driver.key(Qt.Key.Key_Z, CTRL)
    assert hand.board.is_open and hand.board.loops == () and not driver.window.workspace.project.sections
    assert driver.window.workspace.bench.next_run.source.kind == "ready-made", "the next run has not what was undone"
    hand.arm("line")
    hand.click(0, 0)
    hand.click(5, 0)
    driver.press_button(driver.window.list_panel.stock.buttons[DRAW])
    assert not hand.view.tool.sketch.is_on and hand.view.tool.kind == "edit", "a new board has nothing of the old one"


def test_the_first_sheet_makes_room_for_a_blank_board(hand: Hand) -> None:
    window = hand.driver.window
    assert not window.sheet.isVisible()
    assert window.inspector.findChild(QWidget, "row.outline.strip") is not None
    assert window.inspector.findChild(QWidget, "row.outline.width") is None, "there is nothing to be sized yet"
    hand.driver.key(Qt.Key.Key_Escape)
    assert window.sheet.isVisible()


def test_a_double_click_on_the_cards_picture_opens_its_section(drawn: Driver) -> None:
    card = drawn.window.inspector
    was = card.picture.pixmap().toImage()
    drawn.press_button(drawn.window.list_panel.stock.buttons["crown"])
    assert card.picture.isVisible() and card.picture.pixmap().toImage() != was, "it is the section's own picture"
    QTest.mouseDClick(card.picture, LEFT)
    board = drawn.window.workspace.board
    assert board.is_open and board.on.run == drawn.run.id and len(board.loops) == 1


def test_the_zoom_stays_when_the_pane_is_resized_and_the_whole_stays_whole(on_run: Hand) -> None:
    window, board = on_run.driver.window, on_run.board
    whole = board.sight.scale
    window.resize(1440, 900)
    on_run.driver.settle()
    assert board.sight.scale > whole, "the whole outline fills the larger board"
    on_run.driver.wheel(1, (200, 300), 4)
    near, middle = board.sight.scale, board.sight.middle
    window.resize(1280, 800)
    on_run.driver.settle()
    assert (board.sight.scale, board.sight.middle) == (near, middle)


def test_an_anchor_on_a_ready_made_section_of_the_next_run_is_one_step(driver: Driver) -> None:
    ws = driver.window.workspace
    driver.press_button(driver.window.list_panel.stock.buttons["rectangle"])
    driver.menu("section.board")
    hand = Hand(driver)
    steps = ws.history.at
    low = hand.points.min(0)
    hand.click(*low)
    corner = tuple(hand.board.loops[0].segments[hand.board.chosen[0][1]].start)
    driver.menu("section.anchor")
    assert ws.history.at == steps + 1 and len(ws.project.sections) == 1
    assert ws.project.sections[0].source.anchor == pytest.approx(corner)
    assert hand.board.sight.origin == pytest.approx(corner) and hand.points.min(0) == pytest.approx((0.0, 0.0))
    driver.key(Qt.Key.Key_Z, CTRL)
    assert len(ws.project.sections) == 0


def test_steps_of_history_say_what_was_made(on_run: Hand) -> None:
    ws, hand = on_run.driver.window.workspace, on_run
    hand.click(*hand.points[1])
    for kind, label in (("corner", "Make a corner"), ("smooth", "Make smooth")):
        hand.driver.choose("point.kind", kind)
        assert ws.history.undo_label == label


def test_the_seam_of_a_section_alone_is_refused_and_says_so(hand: Hand) -> None:
    hand.arm("rectangle")
    hand.driver.drag(1, hand.at(-5, -5), hand.at(5, 5))
    hand.driver.key(Qt.Key.Key_Escape)
    hand.click(-5, -5)
    before = hand.board.desk.finished
    assert seam_here(hand.board, (0.0, 0.0)) is False
    assert hand.board.desk.finished is before and "choose a run first" in hand.driver.window.help_label.text()
