"""Menus of lists, tiles and headings; keys of what can't be done now."""

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit, QMenu, QWidget

from tests.app.driver import Driver


def test_the_key_of_a_greyed_command_says_what_it_needs(drawn: Driver) -> None:
    w = drawn.window
    drawn.key(Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert w.help_label.text() == "Choose one knot between the ends of an open path: it is cut there."
    before = w.workspace.project
    drawn.click(0, drawn.path.knots[1].place)
    drawn.key(Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert len(w.workspace.project.runs) == len(before.runs) + 1


def test_a_greyed_entry_says_what_it_needs_while_the_pointer_is_on_it(drawn: Driver) -> None:
    w = drawn.window
    w.hush()
    help_before = w.help_label.text()
    entry = w.menus.by_id["refine.split"]
    assert not entry.isEnabled()
    entry.showStatusText(w)
    assert w.help_label.text() == "Choose one knot between the ends of an open path: it is cut there."
    w.menus.by_id["edit.duplicate"].showStatusText(w)
    assert w.help_label.text() == help_before
    drawn.menu("path.reverse")
    drawn.window.say("Joined.")
    w.menus.by_id["edit.duplicate"].showStatusText(w)
    assert w.help_label.text() == "Joined.", "what was said stays"


def _menu_of(widget: QWidget, at: QPoint) -> QMenu:
    """The menu that a right click opens."""
    widget.customContextMenuRequested.emit(at)
    return next(m for m in widget.window().findChildren(QMenu) if m.isVisible())


def _take(menu: QMenu, words: str) -> None:
    action = next(a for a in menu.actions() if a.text() == words)
    assert action.isEnabled(), words
    menu.close()
    action.trigger()


def test_hosts_are_duplicated_locked_and_ghosted_from_the_list(demo: Driver) -> None:
    w = demo.window
    rows, before = w.list_panel.hosts, w.workspace.project
    at = rows.visualItemRect(rows.item(0)).center()
    _take(_menu_of(rows, at), "Duplicate")
    project = w.workspace.project
    assert len(project.hosts) == len(before.hosts) + 1
    new, old = project.hosts[-1], before.hosts[0]
    assert w.workspace.selection.hosts == (new.id,) and not w.workspace.selection.runs
    assert (new.forms, new.source) == (old.forms, old.source) and new.place != old.place
    assert not {p.id for p in new.ports} & {p.id for h in before.hosts for p in h.ports}
    for words, field in (("Lock or unlock", "locked"), ("Ghost or solid", "ghost")):
        _take(_menu_of(rows, rows.visualItemRect(rows.item(len(before.hosts))).center()), words)
        assert getattr(w.workspace.project.hosts[-1].show, field)
    demo.key(Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert w.workspace.project.hosts[-1].place == w.workspace.project.hosts[-2].place


def test_what_has_no_depth_is_duplicated_beside_itself_too(driver: Driver) -> None:
    """A level helper line along x, and a plane: their copies would lie on them."""
    w = driver.window
    driver.menu("host.add-plane")
    driver.enter_value("host.turn.x", "90")
    old = w.workspace.project.hosts[0].place.at
    driver.menu("edit.duplicate")
    assert w.workspace.project.hosts[1].place.at[1] < old[1] - 0.01
    driver.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert len(w.workspace.project.hosts) == 1


def test_a_path_beside_a_locked_run_is_drawn_with_corners(drawn: Driver) -> None:
    drawn.key(Qt.Key.Key_L, Qt.KeyboardModifier.ControlModifier)
    assert drawn.run.show.locked and not drawn.window.menus.by_id["run.flip"].isEnabled()
    drawn.key(Qt.Key.Key_T)
    for at in ((60, 420), (120, 440)):
        drawn.click(1, at)
    drawn.key(Qt.Key.Key_B)
    drawn.click(1, (180, 400))
    drawn.enter()
    assert [k.kind for k in drawn.path.knots][1] == "corner"


def test_the_heading_of_a_group_has_the_menu_of_its_runs(demo: Driver) -> None:
    w = demo.window
    ids = tuple(r.id for r in w.workspace.project.runs[:2])
    QTest.mouseClick(w.list_panel.runs.viewport(), Qt.MouseButton.LeftButton, pos=_row(demo, 0))
    QTest.mouseClick(
        w.list_panel.runs.viewport(), Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, _row(demo, 1)
    )
    demo.menu("run.group")
    QTest.mouseClick(w.list_panel.runs.viewport(), Qt.MouseButton.LeftButton, pos=_row(demo, 4))
    assert not set(w.workspace.selection.runs) & set(ids)
    menu = _menu_of(w.list_panel.runs, _row(demo, 0))
    assert set(w.workspace.selection.runs) == set(ids)
    _take(menu, "Rename")
    editor = w.list_panel.runs.findChild(QLineEdit)
    QTest.keyClicks(editor, "Left side")
    QTest.keyClick(editor, Qt.Key.Key_Return)
    demo.bot.waitUntil(lambda: [g.name for g in w.workspace.project.groups] == ["Left side"])
    assert [r.show.name for r in w.workspace.project.runs[:2]] != ["Left side", "Left side"]


def _row(driver: Driver, k: int) -> QPoint:
    rows = driver.window.list_panel.runs
    return rows.visualItemRect(rows.item(k)).center() - QPoint(30, 0)


def test_tiles_of_the_stock_say_for_what_they_are_taken(drawn: Driver) -> None:
    w = drawn.window
    run, tile = drawn.run, w.list_panel.stock.buttons["pipe"]
    _take(_menu_of(tile, QPoint(3, 3)), "For the next run")
    assert w.workspace.bench.next_run.source.name == "pipe" and drawn.run is run
    _take(_menu_of(tile, QPoint(3, 3)), "For the chosen runs")
    assert drawn.run.recipe.stations != run.recipe.stations


def test_headings_fold_together_and_take_their_values_back(drawn: Driver) -> None:
    w = drawn.window
    heading = w.inspector.headings["Density"]
    usual = drawn.run.recipe.density
    _take(_menu_of(heading, QPoint(3, 3)), "Unfold all")
    assert all(h.button.isChecked() for h in w.inspector.headings.values())
    assert not next(a for a in heading.menu().actions() if a.text() == "Usual values").isEnabled()
    drawn.enter_value("deviation", "3 mm")
    assert drawn.run.recipe.density != usual
    changed = w.workspace.project
    _take(_menu_of(heading, QPoint(3, 3)), "Usual values")
    assert drawn.run.recipe.density == usual
    drawn.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert w.workspace.project.runs == changed.runs
    _take(_menu_of(heading, QPoint(3, 3)), "Fold all")
    assert not any(h.button.isChecked() for h in w.inspector.headings.values())
