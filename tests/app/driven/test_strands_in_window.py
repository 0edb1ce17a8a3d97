"""Strands between runs in the window: made by one command, counted by typing, shaped in the column, undone."""

import pytest
from PySide6.QtCore import Qt

from morphax.core.body.in_between import InBetween
from morphax.core.mesh.measures import edge_check, volume
from tests.app.driven.test_beside_in_window import pick
from tests.app.driven.test_ends_in_column import choose
from tests.app.driven.test_pieces_in_window import typed, value
from tests.app.job_projects import side_by_side

CTRL = Qt.KeyboardModifier.ControlModifier


def with_all(driver) -> None:
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_A, CTRL)
    driver.settle()


@pytest.mark.parametrize("long", [0.005, 1.0, 500.0])
def test_strands_are_one_command_and_a_number_says_how_many(opened, long: float) -> None:
    driver, _ = opened(side_by_side(long))
    with_all(driver)
    ws = driver.window.workspace
    guides = ws.selection.runs
    driver.menu("between.strands")
    driver.settle()
    headings = driver.window.inspector.headings
    assert headings["Strands"].isVisible() and not headings["Section"].isVisible()
    assert driver.window.inspector.sentence.text().startswith("10 strands between")
    driver.unfold("Density")
    driver.unfold("Corners and ends")
    rows = {w.row.id for name in ("Density", "Corners and ends") for w in headings[name].shown_rows}
    assert "end.end" in rows and not rows & {"corner", "limit", "hold"}, "what has no effect is not there"
    typed(driver, "5")
    assert ws.chosen.run.recipe.strands.rule == InBetween(count=5)
    assert edge_check(driver.body.mesh).closed and not driver.body.findings
    value(driver, "strands.size_to", "0.25")
    choose(driver, "strands.spread", "thick first")
    assert headings["Strands"].shown_rows[-1].row.id == "strands.jitter", "nothing is drawn yet"
    value(driver, "strands.jitter", "40 %")
    value(driver, "strands.seed", "7")
    value(driver, "strands.taper", "0")
    rule = InBetween(5, "thick first", 0.4, 0.0, 1.0, 0.25, 7)
    assert ws.chosen.run.recipe.strands.rule == rule and edge_check(driver.body.mesh).closed
    value(driver, "strands.count", "9999")  # refused in a sentence
    assert ws.chosen.run.recipe.strands.rule == rule
    own = ws.selection.runs
    for _ in range(7):
        driver.menu("edit.undo")
    driver.settle()
    assert ws.project.find("runs", own[0]) is None and len(ws.project.runs) == len(guides)


def test_strands_follow_a_dragged_guide_and_go_with_the_last_but_one(opened) -> None:
    driver, _ = opened(side_by_side(1.0))
    with_all(driver)
    ws, said = driver.window.workspace, []
    ws.said.connect(said.append)
    guides = ws.selection.runs
    driver.menu("between.strands")
    driver.settle()
    own, low = ws.selection.runs[0], driver.body.mesh.bounds[0, 2]
    assert not ws.chosen.path.has_own_knots, "they have no knots of their own"
    pick(driver, guides[1:])
    value(driver, "width", "80 mm")
    pick(driver, (own,))
    assert driver.body.mesh.bounds[0, 2] < low - 0.005
    assert "runs between others" in driver.window.menus.by_id["beside.parallel"].statusTip()
    pick(driver, guides[1:])
    driver.menu("edit.delete")
    driver.settle()
    assert ws.project.find("runs", own) is None
    assert any("ran between what is gone" in s for s in said)
    driver.menu("edit.undo")
    driver.settle()
    assert ws.project.find("runs", own) is not None


def test_strands_are_offered_for_two_runs_and_none_that_is_strands(opened) -> None:
    driver, _ = opened(side_by_side(1.0))
    pick(driver, (driver.window.workspace.project.runs[0].id,))
    assert "two or more" in driver.window.menus.by_id["between.strands"].statusTip()
    with_all(driver)
    driver.menu("between.strands")
    driver.settle()
    with_all(driver)
    assert "is strands itself" in driver.window.menus.by_id["between.strands"].statusTip()


def test_strands_are_opened_into_runs_of_their_own_and_undone(opened) -> None:
    driver, _ = opened(side_by_side(1.0))
    with_all(driver)
    driver.menu("between.strands")
    driver.settle()
    typed(driver, "4")
    ws = driver.window.workspace
    whole = volume(driver.body.mesh)
    driver.menu("between.open")
    driver.settle()
    assert len(ws.selection.runs) == 4 and len(ws.project.groups) == 1
    own = [ws.bodies[i].body for i in ws.selection.runs]
    assert sum(volume(b.mesh) for b in own) == pytest.approx(whole, rel=0.01)
    assert not driver.window.menus.by_id["between.open"].isEnabled()
    driver.menu("edit.undo")
    driver.settle()
    assert len(ws.project.runs) == 3 and not ws.project.groups
