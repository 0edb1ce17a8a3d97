"""The anchor pad, values of several runs, presets' names and order, own pivots, keys that reach everything."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QComboBox, QLineEdit, QListWidget, QMenu, QWidget

from morphax.app.views.panes.pane import Pane
from morphax.project.lookup import section_of
from tests.app.driver import LEFT, Driver

CTRL = Qt.KeyboardModifier.ControlModifier


def choose_named(driver: Driver, *names: str) -> None:
    """Clicks runs in the list."""
    rows = driver.window.list_panel.runs
    for i, name in enumerate(names):
        item = next(rows.item(k) for k in range(rows.count()) if rows.item(k).text() == name)
        keys = CTRL if i else Qt.KeyboardModifier.NoModifier
        QTest.mouseClick(rows.viewport(), LEFT, keys, rows.visualItemRect(item).center() - QPoint(30, 0))
    driver.settle()


def test_a_click_on_the_section_sets_the_anchor(demo: Driver) -> None:
    choose_named(demo, "Cornice")
    demo.unfold("Placing")
    pad = demo.window.inspector.headings["Placing"].top_widget
    QTest.mouseClick(pad, LEFT, pos=pad.spots()["bottom-right"].toPoint())
    assert demo.run.recipe.placing.anchor == "bottom-right"
    spot = pad.spot_of((0.051, 0.02)).toPoint()
    QTest.mouseClick(pad, LEFT, pos=spot)
    x, y = demo.run.recipe.placing.anchor
    assert np.allclose((x, y), pad.place_of(spot.toPointF()), atol=1e-12)
    demo.bot.waitUntil(lambda: demo.field("anchor.x").isVisible(), timeout=20_000)
    demo.key(Qt.Key.Key_Z, CTRL)
    assert demo.run.recipe.placing.anchor == "bottom-right"


def test_arrow_keys_step_between_the_spots_of_the_anchor(demo: Driver) -> None:
    choose_named(demo, "Cornice")
    demo.unfold("Placing")
    pad = demo.window.inspector.headings["Placing"].top_widget
    pad.setFocus()
    for key, wanted in ((Qt.Key.Key_Right, "top"), (Qt.Key.Key_Down, "centre"), (Qt.Key.Key_Left, "left")):
        demo.key(key)
        assert demo.run.recipe.placing.anchor == wanted


def test_section_values_of_several_runs_are_set_together(driver: Driver) -> None:
    for y in (150, 350):
        driver.press_button(driver.window.list_panel.stock.buttons["pipe"])
        driver.key(Qt.Key.Key_T)
        driver.click(0, (100, y))
        driver.click(0, (300, y), double=True)
        driver.settle()
        driver.key(Qt.Key.Key_Escape)
    ws = driver.window.workspace
    driver.enter_value("width", "80 mm")
    driver.key(Qt.Key.Key_A, CTRL)
    driver.unfold("Section")
    driver.enter_value("section.wall", "5 mm")
    driver.settle()
    for run in ws.project.runs:
        wall = dict(section_of(ws.project, run.id).source.values)["wall"]
        assert wall * run.recipe.size == pytest.approx(0.005)
    assert len({s.section for r in ws.project.runs for s in r.recipe.stations}) == 2


def test_presets_are_renamed_and_moved(demo: Driver) -> None:
    stock = demo.window.list_panel.stock
    for name in ("Cornice", "Fog hose"):
        choose_named(demo, name)
        demo.menu("run.preset")
    assert [p.name for p in stock.presets] == ["Cornice", "Fog hose"]

    def menu(name: str, words: str) -> None:
        button = stock.buttons[f"preset:{name}"]
        button.customContextMenuRequested.emit(QPoint(3, 3))
        shown = next(m for m in stock.findChildren(QMenu) if m.isVisible())
        next(a for a in shown.actions() if a.text() == words).trigger()
        shown.close()

    menu("Fog hose", "Move up")
    assert [p.name for p in stock.presets] == ["Fog hose", "Cornice"]
    menu("Cornice", "Rename")
    field = stock.findChild(QLineEdit, "rename")
    QTest.keyClicks(field, "Top moulding")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert [p.name for p in stock.presets] == ["Fog hose", "Top moulding"]
    assert "preset:Top moulding" in stock.buttons


def test_turns_go_about_the_point_where_the_menu_was_opened(drawn: Driver) -> None:
    w = drawn.window
    menu = w.menus.context(drawn.view(0), drawn.spot(0, drawn.path.knots[0].place))
    next(a for a in menu.actions() if a.text() == "Turn about this point").trigger()
    menu.close()
    assert w.workspace.bench.pivot == "own place"
    assert np.allclose(w.workspace.bench.pivot_spot, drawn.path.knots[0].place, atol=0.055)  # on the body there
    spot = w.workspace.bench.pivot_spot
    drawn.key(Qt.Key.Key_Escape)
    before = np.array([k.place for k in drawn.path.knots])
    drawn.unfold("Move and turn")
    drawn.enter_value("turn.z", "180")
    after = np.array([k.place for k in drawn.path.knots])
    moved = np.arange(len(before)) if not w.workspace.selection.knots else [0]
    assert np.allclose(after[moved][:, :2], 2.0 * np.array(spot)[:2] - before[moved][:, :2], atol=1e-9)


def test_findings_speak_the_projects_unit(drawn: Driver) -> None:
    drawn.enter_value("width", "2 m")
    drawn.settle()
    boxes = drawn.window.inspector.checks
    words = " ".join(label.text() for label in boxes.findChildren(QWidget) if hasattr(label, "wordWrap"))
    assert " mm" in words
    drawn.menu("view.unit-in")
    drawn.settle()
    words = " ".join(
        label.text() for label in boxes.findChildren(QWidget) if hasattr(label, "wordWrap") and label.isVisible()
    )
    assert " in" in words and " mm" not in words


def test_the_first_sheet_follows_choices_made_elsewhere(driver: Driver) -> None:
    driver.menu("view.unit-ft")
    assert driver.window.sheet.combos["Unit"].currentText() == "ft"


def test_page_keys_step_from_knot_to_knot(drawn: Driver) -> None:
    ids = [k.id for k in drawn.path.knots]
    drawn.pane(0).setFocus()
    for key, wanted in ((Qt.Key.Key_PageDown, 0), (Qt.Key.Key_PageDown, 1), (Qt.Key.Key_PageUp, 0)):
        drawn.key(key)
        assert drawn.window.workspace.selection.knots == (ids[wanted],)
    drawn.key(Qt.Key.Key_PageUp)
    assert drawn.window.workspace.selection.knots == (ids[-1],)


def test_tab_reaches_every_control_that_a_mouse_can_change(demo: Driver) -> None:
    choose_named(demo, "Fog hose")
    w = demo.window
    for heading in w.inspector.headings.values():
        if heading.isVisible() and not heading.button.isChecked():
            demo.press_button(heading.button)
    kinds = (QAbstractButton, QLineEdit, QComboBox, QListWidget, Pane)
    wanted = {
        c
        for kind in kinds
        for c in w.findChildren(kind)
        if c.isVisible() and c.isEnabled() and not (isinstance(c, QLineEdit) and c.isReadOnly())
    }
    wanted = {c for c in wanted if not isinstance(c.parentWidget(), QComboBox)}
    reached, at = set(), w.panes[0]
    for _ in range(1000):
        at = at.nextInFocusChain()
        if at.focusPolicy() & Qt.FocusPolicy.TabFocus and at.isVisible() and at.isEnabled():
            reached.add(at)
        if at is w.panes[0]:
            break
    missed = {c.accessibleName() or c.objectName() or f"{c} in {c.parentWidget()}" for c in wanted - reached}
    assert not missed


def test_the_window_fits_into_1280_pixels(demo: Driver) -> None:
    choose_named(demo, "Lamp cable")
    demo.press_button(demo.window.list_panel.stock.buttons["rounded-rectangle"])
    assert demo.window.minimumSizeHint().width() <= 1280 and demo.window.width() == 1280


def test_a_name_gives_the_keys_back_and_undo_goes_to_the_project(drawn: Driver) -> None:
    name = drawn.window.inspector.name
    QTest.mouseClick(name, Qt.MouseButton.LeftButton)
    name.selectAll()
    drawn.type("Hose")
    drawn.enter()
    assert drawn.run.show.name == "Hose" and not name.hasFocus()
    QTest.mouseClick(name, Qt.MouseButton.LeftButton)
    drawn.type("X")
    drawn.key(Qt.Key.Key_Escape)
    assert drawn.run.show.name == "Hose" == name.text() and not name.hasFocus()
    QTest.mouseClick(name, Qt.MouseButton.LeftButton)
    drawn.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert drawn.run.show.name == "Round", "nothing was typed, so it is the project's"
    field = drawn.field("width")
    QTest.mouseClick(field, Qt.MouseButton.LeftButton)
    drawn.type("77")
    drawn.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert drawn.run.show.name == "Round" and field.hasFocus() and "77" not in field.text(), "typed: the field's own"


def test_a_list_field_that_is_too_narrow_ends_in_an_ellipsis_and_tells_all_in_its_tooltip(drawn: Driver) -> None:
    field = drawn.field("section")
    assert field.shown_text() == "Round"
    drawn.choose("section", "Rounded rectangle")
    shown = field.shown_text()
    assert shown == "Rounded rectangle" or (shown.endswith("…") and field.toolTip() == "Rounded rectangle")
    field.setFixedWidth(70)
    assert field.shown_text().endswith("…")


def test_a_search_gives_the_keys_back_and_shows_all_again(drawn: Driver) -> None:
    find = drawn.window.list_panel.stock.finder
    QTest.mouseClick(find, Qt.MouseButton.LeftButton)
    drawn.type("star")
    drawn.key(Qt.Key.Key_Escape)
    assert not find.text() and not find.hasFocus()
    drawn.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert not drawn.window.workspace.project.runs, "undo is the project's"
