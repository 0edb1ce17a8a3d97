"""Fields and keys: the wheel changes nothing, a click replaces, Delete leaves the keys where they were."""

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit, QWidget

from morphax.app.session.camera import Camera, framed
from morphax.app.views.inspector.fields import NumberField
from morphax.app.views.inspector.summaries import density_words
from morphax.app.widgets.text_field import FindField
from morphax.io.svg import drawing_from
from morphax.project.units import UnitError, parse_length, parse_number
from tests.app.driver import LEFT, Driver

CTRL = Qt.KeyboardModifier.ControlModifier


def draw(driver: Driver) -> None:
    driver.key(Qt.Key.Key_T)
    for place in ((-0.4, 0.0, 0.0), (0.0, 0.2, 0.0), (0.4, 0.0, 0.0)):
        driver.click(1, place)
    driver.enter()
    driver.settle()


def wheel(widget: QWidget) -> None:
    middle = QPointF(widget.rect().center())
    event = QWheelEvent(
        middle, widget.mapToGlobal(middle), QPoint(), QPoint(0, -240), Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(widget, event)


def test_the_wheel_never_changes_a_choice(driver: Driver) -> None:
    draw(driver)
    driver.key(Qt.Key.Key_E, CTRL)
    driver.key(Qt.Key.Key_Escape)
    window = driver.window
    before = window.workspace.project
    combos = window.findChildren(QComboBox)
    assert len(combos) > 6
    for combo in combos:
        shown = combo.currentIndex()
        wheel(combo)
        assert combo.currentIndex() == shown, combo.accessibleName()
    assert window.workspace.project is before


def test_a_click_into_a_field_selects_it_and_typing_replaces(driver: Driver) -> None:
    draw(driver)
    field = driver.window.inspector.width_field
    driver.enter_value("width", "24")
    driver.window.panes[0].setFocus()
    QTest.mouseClick(field, LEFT, pos=QPoint(field.width() - 12, field.height() // 2))
    assert field.hasSelectedText() and field.selectedText() == field.text()
    QTest.keyClicks(field, "30")
    assert field.text() == "30"
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert driver.body.width == pytest.approx(0.03)


@pytest.mark.parametrize("text", ["24 mm30", "24 mm 30", "1 m 20 cm", "3 in 1/2"])
def test_a_number_after_a_unit_is_refused(text: str) -> None:
    with pytest.raises(UnitError, match="has a number after"):
        parse_length(text)


def test_feet_go_on_with_inches() -> None:
    assert parse_length("2' 6 1/2\"") == pytest.approx(30.5 * 0.0254)
    assert parse_length("2 ft 6 in") == pytest.approx(30.0 * 0.0254) == parse_length("2' 6")
    assert parse_length("24 mm + 30") == pytest.approx(0.054)


def test_a_number_that_is_no_length_is_called_a_number() -> None:
    with pytest.raises(UnitError, match="is not a plain number"):
        parse_number("12 mm")
    with pytest.raises(UnitError, match="is not a plain number: 'x' is neither"):
        parse_number("x")


def test_after_delete_the_keys_stay_with_the_view(driver: Driver) -> None:
    draw(driver)
    field = driver.window.inspector.width_field
    field.setFocus()
    driver.window.panes[0].setFocus()
    driver.key(Qt.Key.Key_Delete)
    assert not driver.window.workspace.project.runs
    assert not isinstance(QApplication.focusWidget(), FindField | NumberField)
    driver.key(Qt.Key.Key_S)
    assert driver.window.toolbox.kind is not None, "the next key is a command, not a word to search for"


def test_a_double_click_on_a_row_renames_it(driver: Driver) -> None:
    draw(driver)
    rows = driver.window.list_panel.runs
    at = rows.visualItemRect(rows.item(0)).center()
    QTest.mouseClick(rows.viewport(), LEFT, pos=at)
    QTest.mouseDClick(rows.viewport(), LEFT, pos=at)
    editor = rows.findChild(QLineEdit)
    assert editor is not None and editor.hasFocus(), "the name is open for typing"
    editor.selectAll()
    QTest.keyClicks(editor, "Fog hose")
    QTest.keyClick(editor, Qt.Key.Key_Return)
    driver.bot.waitUntil(lambda: driver.window.workspace.project.runs[0].show.name == "Fog hose")


@pytest.mark.parametrize("size", [0.001, 0.02, 3.0, 1000.0])
@pytest.mark.parametrize("view", ["Top", "Perspective"])
def test_what_is_framed_fills_the_view_from_a_millimetre_to_a_kilometre(size: float, view: str) -> None:
    points = np.array([[0, 0, 0], [size, 0.3 * size, 0.2 * size]])
    camera = framed(Camera(view=view), points, (800, 600))
    assert 0.5 * size < camera.height < 4.0 * size


def test_enter_exports_and_esc_goes_back(driver: Driver, tmp_path: Path) -> None:
    draw(driver)
    driver.key(Qt.Key.Key_E, CTRL)
    page = driver.window.pages.export_page
    folder = tmp_path / "out"
    folder.mkdir()
    page.folder.setText(str(folder))
    page.name.setText("hose")
    page.go.setFocus()
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)
    assert [f.suffix for f in sorted(folder.iterdir())] == [".mtl", ".obj"]
    assert driver.window.pages.currentWidget() is page
    QTest.keyClick(page.go, Qt.Key.Key_Escape)
    assert driver.window.pages.currentWidget() is driver.window.inspector


def test_one_text_is_no_texts() -> None:
    svg = '<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0L3 4L5 0Z"/><text>a</text>{}</svg>'
    assert drawing_from(svg.format("").encode(), "a.svg").left_out == ("1 text",)
    assert drawing_from(svg.format("<text>b</text>").encode(), "a.svg").left_out == ("2 texts",)


def test_the_density_heading_says_what_was_asked_for(driver: Driver) -> None:
    draw(driver)
    ws = driver.window.workspace
    driver.unfold("Density")
    assert density_words(ws).startswith("within ")
    driver.enter_value("per_span", "4")
    assert density_words(ws) == "4 a span"
    driver.enter_value("rings", "12")
    assert density_words(ws) == "12 rings"


def test_the_width_of_the_next_run_is_typed_before_it_is_drawn(driver: Driver) -> None:
    w = driver.window
    driver.key(Qt.Key.Key_T)
    driver.type("0")
    driver.enter()
    assert w.help_label.text() == "A width is more than 0." and w.tool_row.next_width.isVisible()
    driver.key(Qt.Key.Key_Escape)
    assert not w.tool_row.next_width.isVisible() and w.workspace.bench.next_run.width is None
    driver.type("1")
    driver.type(" 1/2in")
    driver.enter()
    assert w.workspace.bench.next_run.width == pytest.approx(0.0381) and "38.1 mm" in w.tool_row.next.toolTip()
    driver.click(1, (100, 200))
    driver.click(1, (200, 220))
    driver.enter()
    assert driver.body.width == pytest.approx(0.0381)
    driver.type("12")  # a run is chosen now: this is its width
    driver.enter()
    assert driver.body.width == pytest.approx(0.012)


def test_the_list_and_the_status_line_speak_of_the_run_that_is_drawn(driver: Driver) -> None:
    w = driver.window
    driver.key(Qt.Key.Key_T)
    for at in ((60, 200), (120, 220)):
        driver.click(1, at)
    driver.enter()
    driver.settle()
    assert "watertight" in w.facts_label.text()
    for at in ((60, 400), (240, 420), (100, 500)):
        driver.click(1, at)
    driver.settle()
    rows = w.list_panel.runs
    assert [rows.item(i).isSelected() for i in range(rows.count())] == [False, True]
    drawn = w.workspace.chosen.body.body
    said = "".join(c for c in w.facts_label.text() if not c.isspace())
    assert f"{drawn.length * 1000:.0f}mm" in said
    driver.key(Qt.Key.Key_Escape)
    driver.settle()
    assert [rows.item(i).isSelected() for i in range(rows.count())] == [True]
