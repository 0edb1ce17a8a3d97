"""Files, clipboard, drops, presets, export settings, commands found and keys changed, hiding and grouping."""

import json
from collections.abc import Callable
from pathlib import Path
from time import sleep

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QKeySequence
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu

from morphax.app.session.settings import Settings, load_settings
from morphax.app.tools.shared.handle_set import Part, outline
from morphax.app.views.stock.section_library import preset_file
from morphax.app.views.stock.tile import MIME
from morphax.app.window import Window
from morphax.build.built import Built
from morphax.core.path.paths import PathKind
from morphax.demo import lantern_wagon
from morphax.project.lookup import section_of
from morphax.project.model.document import Project, Run
from tests.app.conftest import drive
from tests.app.driven.test_first_body import file_dialog
from tests.app.driver import Driver

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
NONE = Qt.KeyboardModifier.NoModifier
SECTION = '<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0 H30 V10 H10 V30 H0 Z"/><text>x</text></svg>'


def drop(driver: Driver, target, data: QMimeData, at: QPoint) -> None:
    """What a desktop sends when something is dropped."""
    buttons = Qt.MouseButton.LeftButton
    QApplication.sendEvent(target, QDragEnterEvent(at, Qt.DropAction.CopyAction, data, buttons, NONE))
    event = QDropEvent(QPointF(at), Qt.DropAction.CopyAction, data, buttons, NONE)
    QApplication.sendEvent(target, event)
    driver.settle()


def test_a_table_is_pasted_copied_and_edited(drawn: Driver) -> None:
    QApplication.clipboard().setText("x\ty\tz\n0\t0\t0\n500\t0\t0\n500\t400\t0\n")
    drawn.window.panes[0].setFocus()
    drawn.key(Qt.Key.Key_V, CTRL)
    assert drawn.places.tolist() == [[0, 0, 0], [500, 0, 0], [500, 400, 0]]
    drawn.key(Qt.Key.Key_C, CTRL)
    assert QApplication.clipboard().text().splitlines()[2] == "500\t0\t0\t0"
    drawn.key(Qt.Key.Key_T, CTRL)
    table = drawn.window.knot_table
    assert table.isVisible() and table.cells.rowCount() == 3
    table.cells.setCurrentCell(1, 2)
    table.cells.setFocus()
    drawn.type("1/4 in")
    drawn.enter()
    assert drawn.places[1].tolist() == [500, 0, 6.35]
    QApplication.clipboard().setText("0;0;0;0\n0;0;900;50\n700;0;900;0")
    QTest.keyClick(table.cells, Qt.Key.Key_V, CTRL)
    assert drawn.places[2].tolist() == [700, 0, 900] and drawn.path.knots[1].radius == pytest.approx(0.05)
    QApplication.clipboard().setText("0;0\n1;b")
    QTest.keyClick(table.cells, Qt.Key.Key_V, CTRL)
    assert "Row 2" in drawn.window.help_label.text() and len(drawn.path.knots) == 3


def test_paths_go_out_and_come_in(drawn: Driver, tmp_path: Path) -> None:
    file, length = tmp_path / "p.dxf", drawn.body.length
    drawn.answer(file_dialog(file.name))
    drawn.menu("project.paths-out")
    drawn.answer(file_dialog(file.name))
    assert file.exists(), drawn.window.help_label.text()
    drawn.menu("project.paths-in")
    assert drawn.path.kind is PathKind.HANDLES and drawn.body.length == pytest.approx(length, rel=1e-6)
    (tmp_path / "bad.svg").write_text("no svg")
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(tmp_path / "bad.svg"))])
    runs = len(drawn.window.workspace.project.runs)
    drop(drawn, drawn.window, data, QPoint(400, 300))
    assert "not an SVG" in drawn.window.help_label.text() and len(drawn.window.workspace.project.runs) == runs


def test_a_section_file_is_dropped_on_the_stock_and_a_section_on_a_run(drawn: Driver, tmp_path: Path) -> None:
    file = tmp_path / "angle.svg"
    file.write_text(SECTION)
    width = drawn.body.width
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(file))])
    drop(drawn, drawn.window.list_panel.stock, data, QPoint(20, 20))
    assert drawn.window.workspace.project.sections[0].name == "angle" and drawn.body.width == pytest.approx(width)
    said = drawn.window.help_label.text()
    assert "Left out: 1 text" in said and "The section of Round is angle now" in said
    carried = QMimeData()
    carried.setData(MIME, b"crown")
    middle = drawn.window.workspace.chosen.body.path.polyline[30]
    drop(drawn, drawn.pane(0), carried, drawn.spot(0, middle))
    project = drawn.window.workspace.project
    assert section_of(project, drawn.run.id).source.name == "crown" and drawn.body.width == pytest.approx(width)
    assert {s.name for s in project.sections} >= {"angle"}, "an own section stays in the stock"


def test_a_drawing_of_real_size_comes_in_as_it_is_whatever_the_view_shows(driver: Driver, tmp_path: Path) -> None:
    file = tmp_path / "slot.svg"
    page = 'xmlns="http://www.w3.org/2000/svg" width="2in" height="3in" viewBox="0 0 2 3"'
    file.write_text(f'<svg {page}><rect width="2" height="3"/></svg>')
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(file))])
    drop(driver, driver.window.list_panel.stock, data, QPoint(20, 20))
    assert "50.8 mm wide as it was drawn" in driver.window.help_label.text()
    (section,) = driver.window.workspace.project.sections
    assert f"section:{section.id}" in driver.window.list_panel.stock.buttons
    driver.wheel(0, (200.0, 300.0), -4)
    driver.settle()
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_T)
    driver.click(0, (-0.5, 0.0, 0.0))
    driver.click(0, (0.6, 0.2, 0.0))
    driver.enter()
    driver.settle()
    assert driver.body.width == pytest.approx(0.0508)
    height = float(np.ptp(driver.body.mesh.points[:, 2]))
    assert height == pytest.approx(0.0762, rel=1e-6)


def test_a_star_of_200_mm_keeps_its_width_while_its_points_and_rounding_change(driver: Driver) -> None:
    driver.press_button(driver.window.list_panel.stock.buttons["star"])
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_S)
    driver.click(0, (-0.5, 0.0, 0.0))
    driver.click(0, (0.6, 0.2, 0.0))
    driver.enter()
    driver.enter_value("width", "200")
    driver.unfold("Section")
    for row, text in (("points", "7"), ("rounding", "3"), ("depth", "0.3"), ("valleys", "2"), ("points", "8")):
        driver.enter_value(f"section.{row}", text)
        driver.settle()
        assert driver.field("width").text() == "200 mm" and not driver.body.has_errors, row
    driver.key(Qt.Key.Key_Z, CTRL)
    assert driver.field("width").text() == "200 mm"


def test_a_preset_is_kept_on_the_disk_and_used_again(drawn: Driver) -> None:
    width = drawn.body.width
    drawn.choose("ends", "domed · open")
    drawn.menu("run.preset")
    name = drawn.run.show.name
    assert json.loads(preset_file().read_text())["presets"][0]["name"] == name
    drawn.menu("edit.delete")
    stock = drawn.window.list_panel.stock
    drawn.press_button(stock.buttons[f"preset:{name}"])
    drawn.window.panes[0].setFocus()
    drawn.key(Qt.Key.Key_S)
    drawn.click(0, (-0.3, 0.0, 0.3))
    drawn.click(0, (0.3, 0.0, 0.3), double=True)
    assert drawn.run.recipe.ends.start == "domed" and drawn.body.width == pytest.approx(width)
    stock.finder.setFocus()
    drawn.type("star")
    assert set(stock.buttons) == {"star"}


def test_export_keeps_settings_asks_before_it_replaces_and_repeats(drawn: Driver, tmp_path: Path) -> None:
    drawn.key(Qt.Key.Key_D, CTRL)
    page = drawn.window.export_page
    drawn.key(Qt.Key.Key_E, CTRL)
    assert page.isVisible(), "the first time the page asks where"
    drawn.choose_in(page.objects, "one file per run")
    page.folder.setText(str(tmp_path))
    page.keep_name.setText("mine")
    drawn.press_button(page.go)
    files = sorted(p.name for p in tmp_path.glob("*.obj"))
    assert files == ["untitled Round 2.obj", "untitled Round.obj"]
    assert [e.name for e in drawn.window.workspace.project.exports] == ["mine"]
    files_before = {p: p.stat().st_mtime_ns for p in tmp_path.glob("*.obj")}
    drawn.press_button(page.go)
    assert page.result.text().startswith("Wrote 2 files"), "its own files are simply written again"
    assert all(p.stat().st_mtime_ns > t for p, t in files_before.items())
    (tmp_path / "other.stl").write_text("somebody else's")
    drawn.choose_in(page.format, "STL (binary)")
    drawn.choose_in(page.objects, "all joined")
    page.name.setText("other")
    drawn.press_button(page.go)
    assert page.go.text() == "Replace it" and (tmp_path / "other.stl").read_text() == "somebody else's"
    drawn.press_button(page.go)
    size = (tmp_path / "other.stl").stat().st_size
    assert size > 10_000
    (tmp_path / "other.stl").unlink()
    drawn.window.panes[0].setFocus()
    drawn.key(Qt.Key.Key_E, CTRL)
    assert (tmp_path / "other.stl").stat().st_size == size
    page.scale.setText("x")
    drawn.press_button(page.go)
    assert page.result.text() and not page.result.text().startswith("Wrote")


def test_only_this_lock_ghost_and_groups(drawn: Driver) -> None:
    ws = drawn.window.workspace
    drawn.key(Qt.Key.Key_D, CTRL)
    drawn.key(Qt.Key.Key_I, CTRL)
    assert [r.show.hidden for r in ws.project.runs] == [True, False]
    drawn.key(Qt.Key.Key_I, CTRL)
    assert not any(r.show.hidden for r in ws.project.runs)
    drawn.key(Qt.Key.Key_L, CTRL)
    width = drawn.body.width
    drawn.enter_value("width", "77")
    assert drawn.body.width == width and "is locked" in drawn.window.help_label.text()
    before = drawn.places
    drawn.drag(0, drawn.path.knots[1].place, (0.0, 0.0, 1.0))
    assert np.array_equal(drawn.places, before)
    drawn.window.panes[0].setFocus()
    drawn.key(Qt.Key.Key_L, CTRL)
    drawn.key(Qt.Key.Key_H, CTRL | SHIFT)
    assert ws.chosen.run.show.ghost
    drawn.click(0, (3, 300))
    drawn.key(Qt.Key.Key_A, CTRL)
    drawn.key(Qt.Key.Key_G, CTRL)
    rows = drawn.window.list_panel.runs
    assert [rows.item(i).text() for i in range(rows.count())] == ["Group", "Round", "Round 2"]
    drawn.key(Qt.Key.Key_G, CTRL | SHIFT)
    assert ws.project.groups == () and rows.count() == 2


def test_commands_are_found_and_done(drawn: Driver) -> None:
    drawn.key(Qt.Key.Key_K, CTRL)
    search = drawn.window.search_box
    assert search.isVisible()
    drawn.type("flip si")
    assert search.list.count() == 1
    drawn.enter()
    assert drawn.run.recipe.placing.flip and not search.isVisible()
    drawn.key(Qt.Key.Key_K, CTRL)
    drawn.key(Qt.Key.Key_Escape)
    assert not search.isVisible() and drawn.window.panes[0].hasFocus()


def test_the_menu_at_the_pointer_fits_what_lies_there(drawn: Driver) -> None:
    def titles() -> list[str]:
        menu = QApplication.activePopupWidget()
        assert isinstance(menu, QMenu)
        found = [a.text() for a in menu.actions() if a.text()]
        menu.close()
        return found

    right = Qt.MouseButton.RightButton
    knot = drawn.path.knots[1].place
    drawn.press(0, knot, button=right)
    drawn.release(0, knot, button=right)
    assert titles()[:2] == ["Corner or smooth", "Corner radius"]
    assert drawn.window.workspace.selection.knots == (drawn.path.knots[1].id,)
    drawn.click(0, (3, 300))
    drawn.press(0, (3, 300), button=right)
    drawn.release(0, (3, 300), button=right)
    assert "Draw through" in titles()


def test_keys_and_the_mouse_map_are_changed_and_kept(drawn: Driver) -> None:
    drawn.key(Qt.Key.Key_F1)
    page = drawn.window.keys_page
    assert page.isVisible()
    field = page.fields["run.flip"]
    field.setFocus()
    field.setKeySequence(QKeySequence("T"))
    field.editingFinished.emit()
    assert "belongs to" in page.said.text() and load_settings().keys == {}
    field.setKeySequence(QKeySequence("J"))
    field.editingFinished.emit()
    assert load_settings().keys == {"run.flip": ("J",)}
    drawn.window.panes[0].setFocus()
    drawn.key(Qt.Key.Key_L)
    assert not drawn.run.recipe.placing.flip
    drawn.key(Qt.Key.Key_J)
    assert drawn.run.recipe.placing.flip
    drawn.choose_in(page.mouse, "right orbits")
    page.mouse.activated.emit(page.mouse.currentIndex())
    drawn.menu("view.perspective")
    yaw = drawn.view(0).camera.yaw
    drawn.drag(0, (200, 300), (260, 300), button=Qt.MouseButton.RightButton)
    assert drawn.view(0).camera.yaw != yaw and load_settings().mouse == "right orbits"
    assert QApplication.activePopupWidget() is None


def test_a_view_fills_the_window_and_everything_comes_back(drawn: Driver) -> None:
    w = drawn.window
    parts = (w.list_panel, w.strip, w.column, w.panes[1], w.tool_row)
    w.panes[0].setFocus()
    drawn.key(Qt.Key.Key_F11)
    assert not any(p.isVisible() for p in parts) and w.panes[0].isVisible()
    drawn.key(Qt.Key.Key_F11)
    assert all(p.isVisible() for p in parts)


def test_the_first_sheet_sets_unit_size_and_mouse(driver: Driver) -> None:
    sheet = driver.window.sheet
    for name, text in (("Unit", "in"), ("Size of the work", "hand"), ("Mouse", "trackpad and pen")):
        combo = sheet.combos[name]
        driver.choose_in(combo, text)
        combo.activated.emit(combo.currentIndex())
    assert driver.window.workspace.project.unit == "in" and driver.view(0).camera.height < 1.0
    assert (load_settings().unit, load_settings().scale, load_settings().mouse) == ("in", "hand", "trackpad and pen")
    height = driver.view(0).camera.height
    driver.wheel(0, (200, 200), 3)
    assert driver.view(0).camera.height == height, "two fingers turn the view in this map"


def test_long_work_can_be_cancelled_and_the_change_is_taken_back(
    drawn: Driver, monkeypatch: pytest.MonkeyPatch
) -> None:
    w, before = drawn.window, drawn.run.recipe
    build = w.workspace.bodies.builder.run

    def long_build(project: Project, run: Run, is_stopped: Callable[[], bool] = lambda: False) -> Built:
        """Takes as long as it is wanted, on a machine of any speed."""
        while run.recipe != before and not is_stopped():
            sleep(0.002)
        return build(project, run, is_stopped)

    monkeypatch.setattr(w.workspace.bodies.builder, "run", long_build)
    drawn.unfold("Density")
    drawn.enter_value("deviation", "0.00015")
    drawn.bot.waitUntil(w.progress.isVisible, timeout=20_000)
    assert drawn.run.recipe != before
    drawn.press_button(w.cancel_button)
    drawn.settle()
    assert drawn.run.recipe == before and not w.progress.isVisible()


def test_the_unit_is_a_choice_at_any_time(drawn: Driver) -> None:
    width = drawn.body.width
    drawn.menu("view.unit-in")
    assert drawn.field("width").text().endswith(" in") and drawn.body.width == width
    drawn.key(Qt.Key.Key_Z, CTRL)
    assert drawn.field("width").text().endswith(" mm")


def test_the_unit_of_an_emptied_project_is_undone_like_all_else(drawn: Driver) -> None:
    drawn.key(Qt.Key.Key_Delete)
    assert not drawn.window.workspace.project.runs
    drawn.menu("view.unit-in")
    assert drawn.window.workspace.project.unit == "in"
    for _ in range(2):
        drawn.key(Qt.Key.Key_Z, CTRL)
    assert drawn.window.workspace.project.unit == "mm" and len(drawn.window.workspace.project.runs) == 1


def test_the_handle_set_leaves_locked_runs_where_they_are(drawn: Driver) -> None:
    drawn.key(Qt.Key.Key_L, CTRL)
    drawn.key(Qt.Key.Key_M)
    before, view = drawn.places, drawn.view(0)
    centre = drawn.window.toolbox.edit.set.centre()
    square = tuple(outline(view.sight, centre, Part("square")).mean(0))
    drawn.drag(0, square, (square[0] + 40.0, square[1]))
    assert np.array_equal(drawn.places, before) and "is locked" in drawn.window.help_label.text()


def test_a_damaged_shelf_of_presets_is_left_alone(qtbot, tmp_path: Path) -> None:
    preset_file().parent.mkdir(parents=True)
    preset_file().write_text("{ damaged")
    window = drive(qtbot, Window(lantern_wagon(), Settings(look="light")))
    driver = next(window)
    driver.key(Qt.Key.Key_A, CTRL)
    driver.menu("run.preset")
    assert "is damaged" in driver.window.help_label.text() and preset_file().read_text() == "{ damaged"
    next(window, None)
