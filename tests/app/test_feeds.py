"""What feeds what is seen: pointing at a section lights its runs, at a run its section and hosts, everywhere."""

from PySide6.QtTest import QTest

from morphax.app.views.list.group_rows import Rows
from morphax.project.feeds import related
from tests.app.driver import Driver


def point_at(rows: Rows, key: str) -> None:
    row = rows.item(rows.row_of[key])
    rows.scrollToItem(row)
    rows.itemEntered.emit(row)


def test_a_run_belongs_with_its_section_and_what_it_holds_on_to(demo: Driver) -> None:
    project = demo.window.workspace.project
    hose = next(r for r in project.runs if r.show.name == "Fog hose")
    box, stage = (next(h.id for h in project.hosts if h.show.name == n) for n in ("Fog box", "Stage"))
    section = hose.recipe.stations[0].section
    assert related(project, hose.id) == {hose.id, section, box, stage}
    assert related(project, section) == {section, hose.id}
    assert hose.id in related(project, box) and related(project, "x9") == frozenset()


def test_pointing_in_the_list_lights_rows_and_paths(demo: Driver) -> None:
    w = demo.window
    ws, panel = w.workspace, w.list_panel
    demo.settle()
    hose = next(r for r in ws.project.runs if r.show.name == "Fog hose")
    before = w.panes[0].grab().toImage()
    point_at(panel.sections, hose.recipe.stations[0].section)
    assert hose.id in ws.bench.lit
    assert w.panes[0].grab().toImage() != before, "its path is drawn"
    lit = panel.runs.grab().toImage()
    panel.sections.pointed.emit("")
    assert ws.bench.lit == frozenset() and panel.runs.grab().toImage() != lit, "its row was marked"
    assert w.panes[0].grab().toImage() == before


def test_pointing_at_a_body_lights_its_row_and_its_section(demo: Driver) -> None:
    ws = demo.window.workspace
    demo.move(0, (2.75, -1.25, 0.36))
    demo.move(0, (1.25, -1.29, 0.9))
    QTest.qWait(20)
    hovered = demo.window.toolbox.sketch.hover
    assert hovered is not None and hovered.id in ws.bench.lit
    run = ws.project.find("runs", hovered.id)
    assert run.recipe.stations[0].section in ws.bench.lit
    demo.move(0, (5, 5))
    assert ws.bench.lit == frozenset()
