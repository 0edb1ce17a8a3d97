"""Settings copied and pasted by menu and key."""

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from morphax.io.looks import look_of
from morphax.project.lookup import run_width, section_of
from tests.app.driver import LEFT, Driver

BOTH = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier


def choose(driver: Driver, *rows: int) -> None:
    runs = driver.window.list_panel.runs
    for k, row in enumerate(rows):
        keys = Qt.KeyboardModifier.ControlModifier if k else Qt.KeyboardModifier.NoModifier
        QTest.mouseClick(runs.viewport(), LEFT, keys, runs.visualItemRect(runs.item(row)).center())
    driver.settle()


def test_all_settings_of_one_run_for_two_others_in_one_step(demo: Driver) -> None:
    ws = demo.window.workspace
    before, ids = ws.project, [r.id for r in ws.project.runs]
    choose(demo, 1)
    demo.key(Qt.Key.Key_C, BOTH)
    assert "settings of Fog hose are copied" in demo.window.help_label.text()
    choose(demo, 0, 3)
    demo.key(Qt.Key.Key_V, BOTH)
    demo.settle()
    for run in (ids[0], ids[3]):
        assert section_of(ws.project, run).source == section_of(before, ids[1]).source
        assert abs(run_width(ws.project, run) - 0.11) < 1e-12
        assert look_of(ws.project, ws.project.find("runs", run).show).name == "Terracotta rubber"
        assert not [f for f in ws.bodies[run].body.findings if f.severity.value == "error"]
    assert section_of(ws.project, ids[2]) == section_of(before, ids[2])
    demo.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert ws.project == before


def test_some_of_them_by_the_menu(demo: Driver) -> None:
    ws = demo.window.workspace
    before, ids = ws.project, [r.id for r in ws.project.runs]
    choose(demo, 1)
    demo.menu("edit.copy-settings")
    choose(demo, 3)
    demo.menu("edit.paste-look")
    found = look_of(ws.project, ws.project.find("runs", ids[3]).show)
    assert found.name == "Terracotta rubber" and section_of(ws.project, ids[3]) == section_of(before, ids[3])
    assert ws.history.undo_label == "Paste the look"
    demo.menu("edit.paste-density")
    assert ws.project.find("runs", ids[3]).recipe.density == before.find("runs", ids[1]).recipe.density


def test_pasting_says_what_it_needs(demo: Driver) -> None:
    menus = demo.window.menus
    choose(demo, 1)
    assert not menus.by_id["edit.paste-settings"].isEnabled() and menus.by_id["edit.copy-settings"].isEnabled()
    demo.key(Qt.Key.Key_V, BOTH)
    assert "Copy the settings of a run first." in demo.window.help_label.text()
    demo.menu("edit.copy-settings")
    assert menus.by_id["edit.paste-settings"].isEnabled() and menus.by_id["edit.paste-ends"].isEnabled()
