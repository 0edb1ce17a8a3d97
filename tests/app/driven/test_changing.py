"""Changing what is there: choosing, moving, inserting, corners, closing, reversing, sides, runs, card, looks, files."""

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QProcess, Qt
from PySide6.QtGui import QColor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMessageBox, QWidget

from morphax.app.views.strip.lanes import knot_marks
from morphax.app.views.strip.length_strip import finding_marks
from morphax.core.mesh.measures import is_closed
from morphax.demo import many_runs
from morphax.io.project_file import load_project, save_project
from tests.app.driven.test_first_body import file_dialog, look_from_front
from tests.app.driver import MIDDLE, Driver

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def draw_pinched(driver: Driver) -> None:
    """A bend that is too tight for its body."""
    look_from_front(driver)
    driver.key(Qt.Key.Key_T)
    for x, z in ((-0.3, 0.4), (0.0, 0.7), (0.3, 0.4)):
        driver.click(0, (x, 0.0, z))
    driver.enter()
    driver.type("900")
    driver.enter()


def history(driver: Driver) -> int:
    return driver.window.workspace.history.at


def test_a_drag_is_one_step_of_history_and_esc_takes_it_back(drawn: Driver) -> None:
    before, knot = drawn.places, drawn.path.knots[1].place
    drawn.press(0, knot)
    drawn.drag_to(0, (knot[0], 0.0, knot[2] - 0.2), start=knot)
    assert not np.array_equal(drawn.places, before) and history(drawn) == 1
    drawn.key(Qt.Key.Key_Escape)
    np.testing.assert_array_equal(drawn.places, before)
    drawn.release(0, (knot[0], 0.0, knot[2] - 0.2))
    assert history(drawn) == 1
    drawn.drag(0, knot, (knot[0], 0.0, knot[2] - 0.2))
    assert history(drawn) == 2 and drawn.path.knots[1].place[1] == knot[1]
    drawn.key(Qt.Key.Key_Z, CTRL)
    np.testing.assert_array_equal(drawn.places, before)


def test_undo_in_mid_drag_takes_back_the_drag_only(drawn: Driver) -> None:
    before, knot = drawn.places, drawn.path.knots[1].place
    drawn.press(0, knot)
    drawn.drag_to(0, (knot[0], 0.0, knot[2] - 0.2), start=knot)
    drawn.key(Qt.Key.Key_Z, CTRL)
    drawn.drag_to(0, (knot[0], 0.0, knot[2] - 0.3), start=knot)
    drawn.release(0, (knot[0], 0.0, knot[2] - 0.3))
    np.testing.assert_array_equal(drawn.places, before)
    assert history(drawn) == 1


def test_the_body_follows_a_drag_before_the_button_is_let_go(drawn: Driver) -> None:
    length, knot = drawn.body.length, drawn.path.knots[1].place
    drawn.press(0, knot)
    drawn.drag_to(0, (knot[0], 0.0, knot[2] + 0.3), start=knot)
    assert drawn.body.length > length + 0.1
    drawn.release(0, (knot[0], 0.0, knot[2] + 0.3))


def test_several_knots_move_together(drawn: Driver) -> None:
    knots = [k.place for k in drawn.path.knots]
    drawn.click(0, knots[1])
    drawn.click(0, knots[2], keys=SHIFT)
    assert len(drawn.window.workspace.selection.knots) == 2
    before = drawn.places
    drawn.drag(0, knots[2], (knots[2][0] + 0.1, 0.0, knots[2][2] + 0.1))
    shift = drawn.places - before
    assert (shift[[0, 3]] == 0).all() and np.abs(shift[1] - shift[2]).max() < 1e-6 and np.abs(shift[1]).max() > 50


def test_double_click_on_the_path_inserts_a_knot_that_keeps_the_shape(drawn: Driver) -> None:
    line = drawn.window.workspace.chosen.body.path.polyline
    length = drawn.body.length
    drawn.click(0, line[36], double=True)
    assert len(drawn.path.knots) == 5 and drawn.window.workspace.selection.knots == (drawn.path.knots[2].id,)
    assert drawn.body.length == pytest.approx(length, rel=1e-12)
    drawn.key(Qt.Key.Key_Delete)
    assert len(drawn.path.knots) == 4
    assert "the path moved by" in drawn.window.help_label.text()


def test_keys_make_corners_close_reverse_and_flip(drawn: Driver) -> None:
    ids = [k.id for k in drawn.path.knots]
    drawn.click(0, drawn.path.knots[1].place)
    drawn.key(Qt.Key.Key_B)
    assert drawn.path.knots[1].kind == "corner"
    drawn.key(Qt.Key.Key_B)
    assert drawn.path.knots[1].kind == "smooth"
    places = drawn.places
    drawn.key(Qt.Key.Key_O)
    assert drawn.path.closed and drawn.body.path_closed
    np.testing.assert_array_equal(drawn.places, places)
    drawn.key(Qt.Key.Key_O)
    drawn.key(Qt.Key.Key_N)
    assert [k.id for k in drawn.path.knots] == ids[::-1]
    drawn.key(Qt.Key.Key_L)
    assert drawn.run.recipe.placing.flip and is_closed(drawn.body.mesh)
    labels = [m.label for m in drawn.window.workspace.history.moments]
    assert labels[-5:] == ["Corner or smooth", "Close the path", "Open the path", "Reverse", "Flip the side"]


def test_runs_are_chosen_duplicated_hidden_and_deleted(drawn: Driver) -> None:
    w = drawn.window
    drawn.key(Qt.Key.Key_D, CTRL)
    assert [r.show.name for r in w.workspace.project.runs] == ["Round", "Round 2"]
    assert drawn.run.show.name == "Round 2"
    drawn.settle()
    drawn.click(0, (-0.9, 0.0, 0.1))
    assert w.workspace.chosen.run is None
    twin = w.workspace.project.paths[1].knots[1].place
    drawn.click(1, twin)
    assert drawn.run.show.name == "Round 2", "a click on a body chooses it"
    drawn.key(Qt.Key.Key_H, CTRL)
    assert drawn.run.show.hidden
    drawn.key(Qt.Key.Key_H, CTRL)
    drawn.key(Qt.Key.Key_A, CTRL)
    assert len(w.workspace.selection.runs) == 2 and w.inspector.name.text() == "2 runs"
    drawn.key(Qt.Key.Key_Delete)
    assert not w.workspace.project.runs
    drawn.key(Qt.Key.Key_Z, CTRL)
    assert len(w.workspace.project.runs) == 2 and len(w.workspace.selection.runs) == 2


def test_the_card_edits_all_chosen_runs_together(drawn: Driver) -> None:
    drawn.key(Qt.Key.Key_D, CTRL)
    drawn.enter_value("width", "30")
    drawn.key(Qt.Key.Key_A, CTRL)
    assert drawn.field("width").placeholderText() == "varies"
    drawn.enter_value("width", "40")
    runs = drawn.window.workspace.project.runs
    assert len({r.recipe.size for r in runs}) == 1
    drawn.choose("section", "Pipe")
    assert {s.source.name for s in drawn.window.workspace.project.sections} == {"pipe"}
    assert drawn.body.width == pytest.approx(0.04)


def test_sides_ends_and_density_and_their_resets(drawn: Driver) -> None:
    drawn.enter_value("sides", "8")
    assert drawn.body.sides == 8
    row = drawn.window.inspector.essentials[3]
    assert row.label.text().startswith("•") and row.back.isVisible()
    drawn.press_button(row.back)
    assert drawn.body.sides == 28 and not row.back.isVisible()
    drawn.choose("ends", "open · flat")
    assert not is_closed(drawn.body.mesh) and "open ends" in drawn.window.facts_label.text()
    drawn.unfold("Density")
    drawn.enter_value("rings", "12")
    assert drawn.body.mesh.rings == 12
    drawn.enter_value("deviation", "0.05")
    assert drawn.body.mesh.rings > 60 and drawn.run.recipe.density.rings is None
    drawn.enter_value("sides", "2")
    assert drawn.run.recipe.density.sides is None and drawn.window.help_label.text().endswith(".")


def test_placing_and_corners_from_their_headings(drawn: Driver) -> None:
    drawn.unfold("Placing")
    drawn.choose("anchor", "bottom")
    drawn.choose("orientation", "upright")
    assert drawn.run.recipe.placing.anchor == "bottom" and drawn.run.recipe.placing.orientation == "upright"
    drawn.unfold("Corners and ends")
    drawn.choose("corner", "bevel")
    assert drawn.run.recipe.corner == "bevel"
    drawn.unfold("Section")
    drawn.choose("section", "Pipe")
    drawn.enter_value("section.wall", "3")
    assert drawn.run.recipe.size * dict(drawn.window.workspace.project.sections[0].source.values)["wall"] == (
        pytest.approx(0.003)
    )


def test_a_knot_is_placed_by_value(drawn: Driver) -> None:
    drawn.click(0, drawn.path.knots[2].place)
    drawn.enter_value("knot.y", "2' 6 1/2\"")
    assert drawn.path.knots[2].place[1] == pytest.approx(0.7747)
    drawn.choose("knot.kind", "corner")
    assert drawn.path.knots[2].kind == "corner"


def test_the_strip_chooses_knots_and_reads_out_distances(drawn: Driver) -> None:
    strip = drawn.window.strip
    marks = knot_marks(drawn.path, drawn.window.workspace.chosen.body)
    QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(round(float(strip.ruler.x_of(marks[2][1]))), 65))
    assert drawn.window.workspace.selection.knots == (marks[2][0],)
    assert marks[0][1] == 0.0 and marks[-1][1] == pytest.approx(drawn.body.length)


def test_stock_changes_the_chosen_run_and_the_next_one(drawn: Driver) -> None:
    w = drawn.window
    width = drawn.body.width
    drawn.press_button(w.list_panel.stock.buttons["rectangle"])
    assert drawn.body.width == pytest.approx(width) and w.workspace.project.sections[0].source.name == "rectangle"
    assert w.tool_row.next.text().startswith("next: rect")  # the name gives way where the row is narrow
    assert w.tool_row.next.toolTip().startswith("next: rectangle ")
    w.panes[0].setFocus()
    drawn.key(Qt.Key.Key_S)
    drawn.click(0, (-0.4, 0.0, 1.0))
    drawn.click(0, (0.4, 0.0, 1.0), double=True)
    assert w.inspector.sentence.text() == "rectangle along an open straight path"


def test_rename_in_the_card_and_in_the_list(drawn: Driver) -> None:
    name = drawn.window.inspector.name
    QTest.mouseClick(name, Qt.MouseButton.LeftButton)
    name.selectAll()
    QTest.keyClicks(name, "Cable")
    QTest.keyClick(name, Qt.Key.Key_Return)
    assert drawn.run.show.name == "Cable"
    drawn.window.panes[0].setFocus()
    drawn.key(Qt.Key.Key_F2)
    drawn.type("Rope")
    drawn.enter()
    assert drawn.run.show.name == "Rope"


def test_navigation_by_mouse(driver: Driver) -> None:
    camera = driver.view(0).camera
    driver.drag(0, (200, 300), (260, 280), button=MIDDLE)
    assert driver.view(0).camera.yaw != camera.yaw
    turned = driver.view(0).camera
    driver.drag(0, (200, 300), (260, 280), keys=SHIFT, button=MIDDLE)
    assert driver.view(0).camera.target != turned.target and driver.view(0).camera.yaw == turned.yaw
    height = driver.view(0).camera.height
    driver.wheel(0, (100, 100), 2)
    assert driver.view(0).camera.height < height
    driver.key(Qt.Key.Key_W)
    driver.key(Qt.Key.Key_Right, CTRL)
    assert driver.view(0).camera.view == "Right"
    driver.drag(0, (200, 300), (260, 280), button=MIDDLE)
    assert driver.view(0).camera.view == "Right", "flat views are panned, not tipped, by the mouse"
    driver.key(Qt.Key.Key_Home, CTRL)
    assert driver.view(0).camera.view == "Perspective"


def test_folding_and_looks(driver: Driver) -> None:
    w = driver.window
    for key, part in ((Qt.Key.Key_F6, w.panes[1]), (Qt.Key.Key_F9, w.column), (Qt.Key.Key_F8, w.list_panel)):
        driver.key(key)
        assert not part.isVisible()
        driver.key(key)
        assert part.isVisible()
    light = w.look.tokens
    driver.menu("view.dark")
    assert w.look.tokens.dark and not light.dark and w.settings.look == "dark"
    w.tool_row.modes["wire"].trigger()
    assert w.look.mode == "wire"
    driver.settle()


def test_unsaved_changes_are_asked_about(drawn: Driver, tmp_path: Path) -> None:
    w = drawn.window

    def press(text: str):
        def act(box: QWidget) -> None:
            assert isinstance(box, QMessageBox)
            next(b for b in box.buttons() if b.text() == text).click()

        return act

    drawn.answer(press("Stay"))
    drawn.menu("project.new")
    assert w.workspace.project.runs
    drawn.answer(press("Save"))
    drawn.window.workspace.file = tmp_path / "kept.morphax"
    drawn.menu("project.new")
    assert not w.workspace.project.runs and (tmp_path / "kept.morphax").exists()
    assert w.settings.recent == (str(tmp_path / "kept.morphax"),)
    w.menus.recent.aboutToShow.emit()
    w.menus.recent.actions()[0].trigger()
    assert len(w.workspace.project.runs) == 1
    w.panes[0].setFocus()
    drawn.key(Qt.Key.Key_A, CTRL)
    drawn.key(Qt.Key.Key_Delete)
    assert not w.workspace.project.runs and "•" in w.windowTitle()
    drawn.answer(press("Go on without saving"))
    drawn.menu("project.new")
    assert w.workspace.history.is_saved


def test_a_file_that_somebody_else_has_written_is_asked_about(drawn: Driver, tmp_path: Path, monkeypatch) -> None:
    """Two windows and one file: nothing is lost whichever answer is given, and saving alone asks nothing."""
    w, file = drawn.window, tmp_path / "shared.morphax"
    asked: list[list[str]] = []

    def press(text: str):
        def act(box: QWidget) -> None:
            assert isinstance(box, QMessageBox)
            asked.append([b.text() for b in box.buttons()])
            next(b for b in box.buttons() if b.text() == text).click()

        return act

    w.workspace.file = file
    drawn.key(Qt.Key.Key_S, CTRL)
    drawn.enter_value("width", "33")
    drawn.key(Qt.Key.Key_S, CTRL)
    assert not asked and "Saved" in w.help_label.text(), "its own saves are no strangers'"
    theirs = many_runs(3)
    save_project(theirs, file)
    drawn.enter_value("width", "44")
    mine = w.workspace.project
    drawn.answer(press("Stay"))
    drawn.key(Qt.Key.Key_S, CTRL)
    assert load_project(file) == theirs and not w.workspace.history.is_saved
    opened: list[list[str]] = []
    monkeypatch.setattr(QProcess, "startDetached", lambda program, words: opened.append(words))
    drawn.answer(press("Look"))
    drawn.key(Qt.Key.Key_S, CTRL)
    assert opened == [["-m", "morphax", str(file)]] and load_project(file) == theirs
    drawn.answer(press("Keep both"))
    drawn.key(Qt.Key.Key_S, CTRL)
    assert load_project(file) == theirs and load_project(tmp_path / "shared 2.morphax") == mine
    assert w.workspace.file == tmp_path / "shared 2.morphax" and w.workspace.history.is_saved
    save_project(theirs, w.workspace.file)
    drawn.enter_value("width", "55")
    drawn.answer(press("Take over"))
    drawn.key(Qt.Key.Key_S, CTRL)
    assert load_project(w.workspace.file) == w.workspace.project
    assert load_project(tmp_path / "shared 2.morphax.bak") == theirs, "the other version is kept beside it"
    assert {*map(frozenset, asked)} == {frozenset(["Keep both", "Take over", "Look", "Stay"])}


def test_a_file_that_cannot_be_read_changes_nothing(drawn: Driver, tmp_path: Path) -> None:
    bad = tmp_path / "bad.morphax"
    bad.write_bytes(b"rubbish")
    drawn.window.workspace.file = tmp_path / "a.morphax"
    drawn.key(Qt.Key.Key_S, CTRL)
    drawn.window.panes[0].setFocus()
    drawn.answer(file_dialog("bad.morphax"))
    drawn.key(Qt.Key.Key_O, CTRL)
    assert "not a Morphax project" in drawn.window.help_label.text() and drawn.run


def test_export_says_why_it_failed_and_keeps_the_page(drawn: Driver, tmp_path: Path) -> None:
    drawn.key(Qt.Key.Key_E, CTRL)
    page = drawn.window.export_page
    page.folder.setText(str(tmp_path / "none"))
    drawn.press_button(page.go)
    assert page.result.text().startswith("There is no folder") and page.isVisible()
    assert "1 run" in page.findings.text()


def test_findings_are_shown_where_they_are_and_go_when_cured(driver: Driver) -> None:
    draw_pinched(driver)
    assert [f.code for f in driver.body.findings] == ["pinch"]
    assert driver.window.inspector.badge.text() == "1 to look at"
    assert "1 to look at" in driver.window.facts_label.text()
    free = driver.body.findings[0].free_width
    driver.enter_value("width", f"{free * 1000 * 0.98:.3f}")
    assert driver.body.findings == () and driver.window.inspector.badge.text() == ""


def test_the_demo_is_shown_and_its_parts_can_be_chosen(demo: Driver) -> None:
    demo.pane(0).setFocus()
    demo.key(Qt.Key.Key_Down, CTRL)
    demo.key(Qt.Key.Key_W)
    demo.settle()
    hose = demo.window.workspace.bodies[demo.window.workspace.project.runs[1].id].path.polyline
    demo.click(0, hose[len(hose) // 2])
    assert demo.run.show.name == "Fog hose" and demo.window.inspector.sentence.text().startswith("pipe along")
    row = demo.window.list_panel.hosts
    eye = row.delegate.eye_box(row.visualItemRect(row.item(0)).adjusted(2, 1, -2, -1)).center()
    QTest.mouseClick(row.viewport(), Qt.MouseButton.LeftButton, pos=eye)
    assert demo.window.workspace.project.hosts[0].show.hidden
    demo.key(Qt.Key.Key_Z, CTRL)
    assert not demo.window.workspace.project.hosts[0].show.hidden


def test_a_finding_is_mended_with_one_click_and_the_mend_undone(driver: Driver) -> None:
    draw_pinched(driver)
    assert driver.body.findings
    mend, ease = driver.window.inspector.checks.mend_buttons
    assert mend.text().startswith("Width to") and ease.text() == "Ease the bend"
    driver.press_button(mend)
    assert driver.body.findings == () and driver.window.inspector.checks.mend_buttons == []
    driver.window.panes[0].setFocus()
    driver.key(Qt.Key.Key_Z, CTRL)
    assert driver.body.width == pytest.approx(0.9) and driver.body.findings


def test_quarter_turns_roll_and_spacing(drawn: Driver) -> None:
    drawn.press_button(drawn.window.list_panel.stock.buttons["half-round"])
    drawn.window.panes[0].setFocus()
    for expected in (90.0, 180.0, -90.0, 0.0):
        drawn.key(Qt.Key.Key_Q)
        assert np.degrees(drawn.run.recipe.placing.roll) == pytest.approx(expected, abs=1e-12)
    drawn.unfold("Placing")
    drawn.enter_value("roll", "22.5°")
    assert drawn.run.recipe.placing.roll == pytest.approx(np.radians(22.5))
    drawn.unfold("Density")
    drawn.enter_value("spacing", "100")
    assert drawn.body.mesh.rings == round(drawn.body.length / 0.1) + 1
    assert drawn.window.inspector.headings["Density"].summary.text() == "a ring each 100 mm"
    drawn.press_button(drawn.window.list_panel.stock.buttons["star"])
    drawn.unfold("Section")
    drawn.enter_value("section.points", "7")
    drawn.enter_value("sides", "14")
    assert drawn.body.sides == 14 and is_closed(drawn.body.mesh)


def test_an_edit_in_mid_drawing_is_kept_and_the_drawing_goes_on(drawn: Driver) -> None:
    w = drawn.window
    drawn.key(Qt.Key.Key_S)
    drawn.click(0, (-0.4, 0.0, 1.0))
    drawn.click(0, (0.0, 0.0, 1.1))
    rows = w.list_panel.runs
    eye = rows.delegate.eye_box(rows.visualItemRect(rows.item(0)).adjusted(2, 1, -2, -1)).center()
    QTest.mouseClick(rows.viewport(), Qt.MouseButton.LeftButton, pos=eye)
    assert w.workspace.history.now.project.runs[0].show.hidden and w.toolbox.is_drawing
    drawn.click(0, (0.4, 0.0, 1.0), double=True)
    assert [r.show.hidden for r in w.workspace.project.runs] == [True, False]
    assert len(drawn.path.knots) == 3


def test_a_key_in_mid_drag_keeps_the_drag(drawn: Driver) -> None:
    knot = drawn.path.knots[0].place
    drawn.press(0, knot)
    drawn.drag_to(0, (knot[0], 0.0, knot[2] + 0.2), start=knot)
    moved = drawn.places
    drawn.key(Qt.Key.Key_N)
    drawn.release(0, (knot[0], 0.0, knot[2] + 0.2))
    np.testing.assert_array_equal(drawn.places, moved[::-1])
    assert [m.label for m in drawn.window.workspace.history.moments][-2:] == ["Move knots", "Reverse"]


def test_findings_are_marked_on_the_length_strip_and_told_there(drawn: Driver) -> None:
    drawn.type("900")
    drawn.enter()
    drawn.settle()
    strip, built = drawn.window.strip, drawn.window.workspace.chosen.body
    marks = finding_marks(built, strip.ruler.x_of)
    assert marks and {f.code for _, f in marks} <= {f.code for f in built.body.findings}
    x, finding = marks[0]
    assert x == pytest.approx(float(strip.ruler.x_of(np.array(finding.at))))
    amber = QColor(drawn.window.look.tokens.amber)
    picture = strip.grab().toImage()
    ratio = picture.width() / strip.width()
    column = [picture.pixelColor(round(x * ratio), y) for y in range(picture.height())]
    assert any(abs(c.red() - amber.red()) + abs(c.blue() - amber.blue()) < 40 for c in column)
    QTest.mouseMove(strip, QPoint(round(x), 60))
    assert strip.toolTip() and strip.toolTip().split()[0] == finding.message.split()[0]
    drawn.key(Qt.Key.Key_Z, CTRL)
    drawn.settle()
    assert not finding_marks(drawn.window.workspace.chosen.body, strip.ruler.x_of)
