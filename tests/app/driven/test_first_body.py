"""From the empty scene: draw, type a width, change knots, export, undo everything, redo everything, save, reopen."""

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QLineEdit, QPushButton, QWidget

from morphax.core.mesh.measures import is_closed
from tests.app.driver import Driver
from tests.helpers import DEMO_RUNS
from tests.io.gltf_check import assert_gltf

CTRL = Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier


def look_from_front(driver: Driver) -> None:
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_Down, CTRL)
    assert driver.view(0).camera.view == "Front" and driver.view(1).camera.view == "Top"


def draw_four(driver: Driver) -> None:
    look_from_front(driver)
    driver.key(Qt.Key.Key_T)
    for place in ((-0.4, 0.0, 0.3), (-0.1, 0.0, 0.8), (0.2, 0.0, 0.4)):
        driver.click(0, place)
    driver.click(0, (0.5, 0.0, 0.7), double=True)


def file_dialog(name: str):
    """Types a file's name in the folder that the dialog proposes, and presses Enter."""

    def act(dialog: QWidget) -> None:
        assert isinstance(dialog, QFileDialog)
        line = dialog.findChild(QLineEdit, "fileNameEdit")
        line.selectAll()
        QTest.keyClicks(line, name)
        line.completer().popup().hide()
        QTest.keyClick(line, Qt.Key.Key_Return)

    return act


def test_the_whole_first_job(driver: Driver, tmp_path: Path) -> None:
    w = driver.window
    draw_four(driver)
    assert len(driver.path.knots) == 4 and not w.toolbox.is_drawing
    np.testing.assert_array_equal(driver.places[:, 1], 0.0)
    driver.type("24")
    assert isinstance(w.focusWidget(), QLineEdit)
    driver.enter()
    assert driver.body.width == pytest.approx(0.024, rel=1e-12)

    w.panes[0].setFocus()
    driver.key(Qt.Key.Key_Escape)
    knot = driver.path.knots[1].place
    driver.drag(1, knot, (knot[0], 0.3, 0.0))
    moved = driver.path.knots[1].place
    step = driver.view(1).grid
    assert moved[1] > 0.2 and abs(moved[0] - knot[0]) <= 0.5 * step + 1e-9 and moved[2] == knot[2]

    w.panes[0].setFocus()
    driver.key(Qt.Key.Key_B)
    assert [k.kind for k in driver.path.knots] == ["smooth", "corner", "smooth", "smooth"]
    driver.settle()
    final = driver.body.mesh
    assert is_closed(final)

    export_twice(driver, tmp_path)
    undo_and_redo_all(driver)
    assert driver.body.mesh is final, "redoing finds the same body again"
    save_and_reopen(driver, tmp_path)
    again = driver.body.mesh
    for name in ("points", "quads", "tris", "normals", "uvs", "vertex_point"):
        np.testing.assert_array_equal(getattr(again, name), getattr(final, name))


def export_twice(driver: Driver, folder: Path) -> None:
    """OBJ, then GLB, by the export page."""
    w, final = driver.window, driver.body.mesh
    driver.key(Qt.Key.Key_E, CTRL)
    page = w.export_page
    assert page.isVisible()
    page.folder.selectAll()
    QTest.keyClicks(page.folder, str(folder))
    driver.press_button(page.go)
    assert (folder / "untitled.obj").exists() and (folder / "untitled.mtl").exists(), page.result.text()
    page.format.setFocus()
    QTest.keyClick(page.format, Qt.Key.Key_Down)
    driver.press_button(page.go)
    document, arrays = assert_gltf((folder / "untitled.glb").read_bytes())
    assert len(arrays["Round"][0]) == len(final.vertex_point)


def undo_and_redo_all(driver: Driver) -> None:
    """Back to the empty scene and forward again."""
    w = driver.window
    w.panes[0].setFocus()
    steps = 0
    while w.menus.by_id["edit.undo"].isEnabled():
        driver.key(Qt.Key.Key_Z, CTRL)
        steps += 1
    assert steps == 4 and not w.workspace.project.runs
    for _ in range(steps):
        driver.key(Qt.Key.Key_Z, CTRL | SHIFT)
    driver.settle()


def save_and_reopen(driver: Driver, folder: Path) -> None:
    """Through both file dialogs, with an empty project between; chooses the run again."""
    w = driver.window
    driver.answer(file_dialog("first"))
    driver.key(Qt.Key.Key_S, CTRL)
    file = folder / "first.morphax"
    assert file.exists() and "•" not in w.windowTitle()
    driver.menu("project.new")
    assert not w.workspace.project.runs
    w.panes[0].setFocus()
    driver.answer(file_dialog("first.morphax"))
    driver.key(Qt.Key.Key_O, CTRL)
    driver.settle()
    QTest.mouseClick(w.list_panel.runs.viewport(), Qt.MouseButton.LeftButton, pos=first_row(driver))


def first_row(driver: Driver):
    rows = driver.window.list_panel.runs
    return rows.visualItemRect(rows.item(0)).center()


def test_body_is_there_from_the_second_click_and_follows_the_pointer(driver: Driver) -> None:
    look_from_front(driver)
    driver.key(Qt.Key.Key_T)
    driver.click(0, (-0.4, 0.0, 0.3))
    driver.move(0, (0.0, 0.0, 0.6))
    assert len(driver.path.knots) == 2, "the next knot is shown before it is placed"
    driver.click(0, (0.0, 0.0, 0.6))
    driver.settle()
    assert driver.body.mesh.face_count > 0 and is_closed(driver.body.mesh)
    before = driver.body.length
    driver.move(0, (0.4, 0.0, 0.2))
    driver.settle()
    assert driver.body.length > before
    assert driver.window.workspace.history.at == 0, "nothing is committed yet"
    driver.enter()
    assert len(driver.path.knots) == 2 and driver.window.workspace.history.at == 1


def test_a_cancelled_path_leaves_nothing_and_one_knot_is_no_path(driver: Driver) -> None:
    look_from_front(driver)
    driver.key(Qt.Key.Key_S)
    driver.click(0, (-0.4, 0.0, 0.3))
    driver.click(0, (0.0, 0.0, 0.6))
    driver.key(Qt.Key.Key_Escape)
    ws = driver.window.workspace
    assert not ws.project.runs and ws.history.at == 0 and driver.window.toolbox.kind is not None
    driver.click(0, (-0.4, 0.0, 0.3))
    driver.enter()
    assert not ws.project.runs and ws.history.at == 0
    driver.key(Qt.Key.Key_Escape)
    assert driver.window.toolbox.kind is None


def test_backspace_and_undo_take_back_single_knots(driver: Driver) -> None:
    look_from_front(driver)
    driver.key(Qt.Key.Key_S)
    for x in (-0.4, -0.2, 0.0, 0.2):
        driver.click(0, (x, 0.0, 0.5 + x))
    driver.key(Qt.Key.Key_Backspace)
    driver.key(Qt.Key.Key_Z, CTRL)
    driver.enter()
    assert len(driver.path.knots) == 2 and driver.path.kind == "straight"
    assert all(k.kind == "corner" for k in driver.path.knots)


def test_a_click_on_the_first_knot_closes(driver: Driver) -> None:
    look_from_front(driver)
    driver.key(Qt.Key.Key_S)
    corners = ((-0.3, 0.0, 0.2), (0.3, 0.0, 0.2), (0.3, 0.0, 0.6), (-0.3, 0.0, 0.6))
    for place in corners:
        driver.click(0, place)
    driver.click(0, corners[0])
    driver.settle()
    assert driver.path.closed and len(driver.path.knots) == 4 and driver.body.path_closed
    assert is_closed(driver.body.mesh) and driver.body.mesh.rings == 4


def test_two_clicks_in_the_opening_view_lie_on_the_floor_and_v_goes_up(driver: Driver) -> None:
    assert driver.view(0).camera.view == "Perspective"
    driver.key(Qt.Key.Key_T)
    driver.click(0, (0.0, 0.0, 0.0))
    assert driver.window.toolbox.draw.knots[0][2] == 0.0
    driver.click(0, (0.9, -0.6, 0.0))
    driver.enter()
    driver.settle()
    low = driver.body.mesh.points[:, 2].min()
    assert 0.0 <= low < 1e-3 and is_closed(driver.body.mesh), "it rests on the floor, not in it"
    driver.click(0, (-0.5, 0.5, 0.0))
    foot = np.array(driver.window.toolbox.draw.knots[0])
    driver.window.toolbox.held.add(Qt.Key.Key_V)
    driver.click(0, foot + (0.0, 0.0, 0.5))
    driver.window.toolbox.held.discard(Qt.Key.Key_V)
    driver.enter()
    driver.settle()
    np.testing.assert_allclose(driver.places[1] - driver.places[0], [0, 0, 500], atol=1e-6)
    assert driver.places[0, 2] == 0.0, "what stands on the floor begins on it"


def test_drawing_goes_on_in_the_second_view_at_the_same_depth(driver: Driver) -> None:
    look_from_front(driver)
    driver.key(Qt.Key.Key_T)
    driver.click(0, (-0.4, 0.0, 0.3))
    driver.click(0, (-0.2, 0.0, 0.7))
    driver.click(1, (0.1, 0.4, 0.0))
    driver.click(1, (0.3, 0.2, 0.0), double=True)
    places = driver.places
    assert len(places) == 4 and (places[2:, 2] == places[1, 2]).all() and places[2, 1] > 300


def test_ctrl_turns_snapping_round_and_knots_catch(driver: Driver) -> None:
    look_from_front(driver)
    driver.key(Qt.Key.Key_S)
    step = driver.view(0).grid
    driver.click(0, (-0.413, 0.0, 0.287))
    driver.click(0, (0.013, 0.0, 0.587), keys=CTRL)
    driver.enter()
    on_grid, free = driver.places[0, [0, 2]] / 1000 / step, driver.places[1, [0, 2]] / 1000 / step
    np.testing.assert_allclose(on_grid, np.round(on_grid), atol=1e-6)
    assert np.abs(free - np.round(free)).max() > 0.01
    end = driver.path.knots[1].place
    spot = driver.spot(0, end)
    driver.click(0, (0.4, 0.0, 0.9))
    driver.click(0, (spot.x() + 4, spot.y() - 3))
    driver.enter()
    assert driver.path.knots[1].place == end and len(driver.window.workspace.project.runs) == 2


@pytest.mark.parametrize("text,width", [("1/2 in", 0.0127), ("3*4", 0.012), ("2 cm", 0.02)])
def test_the_width_reads_units_fractions_and_arithmetic(driver: Driver, text: str, width: float) -> None:
    draw_four(driver)
    driver.type(text)
    driver.enter()
    assert driver.body.width == pytest.approx(width, rel=1e-9)


def test_what_cannot_be_read_is_marked_and_nothing_is_lost(driver: Driver) -> None:
    draw_four(driver)
    before = driver.run
    driver.type("12")
    driver.type("kg")
    driver.enter()
    assert driver.run is before
    assert "not a length" in driver.window.help_label.text()
    assert driver.window.inspector.width_field.property("wrong") is True
    driver.key(Qt.Key.Key_Escape)
    assert driver.window.inspector.width_field.property("wrong") is False and driver.run is before


def test_first_sheet_offers_and_goes(driver: Driver) -> None:
    sheet = driver.window.sheet
    assert sheet.isVisible()
    middle = sheet.parentWidget().rect().center() - sheet.geometry().center()
    assert max(abs(middle.x()), abs(middle.y())) <= 2, "the sheet lies in the middle of the pane"
    draw, wagon = (b for b in sheet.findChildren(QPushButton) if b.text() in ("Draw a run", "Open the Lantern Wagon"))
    driver.press_button(draw)
    assert not sheet.isVisible() and driver.window.toolbox.kind == "through"
    driver.key(Qt.Key.Key_Escape)
    driver.press_button(wagon)
    assert [r.show.name for r in driver.window.workspace.project.runs] == list(DEMO_RUNS)
