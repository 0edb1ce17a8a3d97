"""Ropes in the window: made by one command, laid by typing, changed in the column, undone."""

import pytest
from PySide6.QtCore import Qt

from morphax.core.body.rope_lay import Rope
from morphax.core.mesh.measures import edge_check
from morphax.project.model.document import Project
from tests.app.driven.test_ends_in_column import choose, opened_on_all
from tests.app.driven.test_pieces_in_window import typed, value
from tests.app.job_projects import column


@pytest.mark.parametrize("long", [0.005, 1.0, 500.0])
def test_a_rope_is_one_command_and_a_number_lays_it(opened, long: float) -> None:
    driver = opened_on_all(opened, column(long), "Rope")
    ws = driver.window.workspace
    assert not driver.window.inspector.headings["Rope"].isVisible()
    driver.menu("together.rope")
    driver.settle()
    assert driver.window.inspector.headings["Rope"].isVisible()
    assert "rope of 3 strands" in driver.window.inspector.sentence.text()
    typed(driver, "12.5")
    assert ws.chosen.run.recipe.rope == Rope(turns=12.5)
    typed(driver, f"{long / 10.0} m")
    assert ws.chosen.run.recipe.rope.lay == pytest.approx(long / 10.0)
    value(driver, "rope.strands", "6")
    choose(driver, "rope.hand", "left")
    value(driver, "rope.yarns", "3")
    value(driver, "rope.fray_end", "1.5")
    driver.field("rope.whipped").click()
    driver.settle()
    own = ws.chosen.run.recipe.rope
    assert (own.strands, own.left, own.yarns, own.fray_end, own.whipped) == (6, True, 3, 1.5, True)
    assert own.has_core and driver.field("rope.core").isVisible()
    assert edge_check(driver.body.mesh).closed and not [f for f in driver.body.findings if f.severity != "note"]
    value(driver, "rope.strands", "99")  # refused in a sentence
    assert ws.chosen.run.recipe.rope.strands == 6
    driver.menu("together.no-rope")
    driver.settle()
    assert ws.chosen.run.recipe.rope is None
    for _ in range(9):
        driver.menu("edit.undo")
    driver.settle()
    assert ws.chosen.run.recipe.rope is None and len(ws.project.sections) == 1


def test_j9_a_three_strand_rope_of_forty_turns_on_a_bent_path(opened) -> None:
    driver, recorder = opened(Project())
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_T)
    pane = driver.pane(0)
    w, h = pane.width(), pane.height()
    spots = [(0.2, 0.7), (0.35, 0.55), (0.5, 0.7), (0.65, 0.55), (0.8, 0.7)]
    for k, (x, y) in enumerate(spots):
        driver.click(0, (round(w * x), round(h * y)), double=k == len(spots) - 1)
    driver.settle()
    driver.menu("together.rope")
    driver.settle()
    typed(driver, "40")
    assert recorder.count <= 9, recorder.actions
    ws = driver.window.workspace
    assert ws.chosen.run.recipe.rope == Rope(turns=40.0) and len(ws.chosen.path.knots) == 5
    assert edge_check(driver.body.mesh).closed


def test_a_rope_is_braided_with_as_many_strands_as_that_takes(opened) -> None:
    driver = opened_on_all(opened, column(1.0), "Rope")
    ws = driver.window.workspace
    driver.menu("together.rope")
    driver.settle()
    choose(driver, "rope.weave", "round")
    assert (ws.chosen.run.recipe.rope.weave, ws.chosen.run.recipe.rope.strands) == ("round", 4)
    assert "round braid of 4 strands" in driver.window.inspector.sentence.text()
    assert driver.window.inspector.headings["Density"].summary.text() == "as its strands ask"
    value(driver, "rope.strands", "5")  # refused in a sentence
    assert ws.chosen.run.recipe.rope.strands == 4
    value(driver, "rope.strands", "6")
    choose(driver, "rope.weave", "flat")
    typed(driver, "0.2 m")
    assert ws.chosen.run.recipe.rope == Rope(strands=6, weave="flat", lay=0.2)
    assert edge_check(driver.body.mesh).closed
    driver.menu("edit.undo")
    driver.menu("edit.undo")
    driver.settle()
    assert ws.chosen.run.recipe.rope == Rope(strands=6, weave="round")


def test_what_was_no_round_run_is_said_to_become_one(opened) -> None:
    driver = opened_on_all(opened, column(1.0), "Rope")
    ws, said = driver.window.workspace, []
    ws.said.connect(said.append)
    driver.menu("together.rope")
    driver.settle()
    name = ws.chosen.run.show.name
    assert said[-1].startswith(f"{name}: a round section of the same width instead")
    driver.menu("together.no-rope")
    driver.settle()
    assert said[-1].startswith("A round body")
    driver.menu("together.rope")
    driver.settle()
    assert said[-1].startswith("Type a lay length"), "it was round"
    value(driver, "rope.strands", "6")
    driver.menu("together.rope")
    driver.settle()
    assert ws.chosen.run.recipe.rope.strands == 6
    typed(driver, "20")
    assert ws.chosen.run.recipe.rope == Rope(strands=6, turns=20.0)
