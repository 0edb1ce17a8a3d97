"""What feeds what is seen: pointing at a section lights its runs, at a run its section and hosts, everywhere."""

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from morphax.app.views.list.group_rows import Rows
from morphax.app.views.stock.tile import MIME
from morphax.core.path.paths import PathKind
from morphax.project.derive.walk import derived
from morphax.project.edits.beside import add_beside, add_on_path, set_row
from morphax.project.edits.images import add_mirrors
from morphax.project.edits.runs import NewRun, add_run
from morphax.project.feeds import related, tie_of
from morphax.project.lookup import run_width, section_of
from morphax.project.model.document import Project, ReadyMadeSource
from morphax.project.things import Selection
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


def drop_on(rows: Rows, key: str, stock_key: str) -> None:
    """A tile of the stock carried onto a row."""
    data = QMimeData()
    data.setData(MIME, stock_key.encode())
    row = rows.item(rows.row_of[key])
    rows.scrollToItem(row)
    at = QPointF(rows.visualItemRect(row).center())
    keys, buttons = Qt.KeyboardModifier.NoModifier, Qt.MouseButton.LeftButton
    for kind in (QDragEnterEvent, QDragMoveEvent):
        event = kind(at.toPoint(), Qt.DropAction.CopyAction, data, buttons, keys)
        QApplication.sendEvent(rows.viewport(), event)
        assert event.isAccepted()
    QApplication.sendEvent(rows.viewport(), QDropEvent(at, Qt.DropAction.CopyAction, data, buttons, keys))


def test_a_tile_dropped_on_a_row_is_given_to_it(demo: Driver) -> None:
    ws, panel = demo.window.workspace, demo.window.list_panel
    hose = next(r for r in ws.project.runs if r.show.name == "Fog hose")
    wide = run_width(ws.project, hose.id)
    drop_on(panel.runs, hose.id, "star")
    now = section_of(ws.project, hose.id)
    assert now.source.name == "star" and run_width(ws.project, hose.id) == pytest.approx(wide)
    drop_on(panel.sections, now.id, "gear")
    assert section_of(ws.project, hose.id).source.name == "gear", "all runs that have the section"
    roof = next(h for h in ws.project.hosts if h.show.name == "Roof")
    drop_on(panel.hosts, roof.id, "look:Copper")
    look = ws.project.find("materials", ws.project.find("hosts", roof.id).show.material)
    assert look.name == "Copper"
    before = ws.project
    drop_on(panel.hosts, roof.id, "star")
    assert ws.project is before and "has no section" in demo.window.help_label.text()


def test_a_click_on_a_sections_words_chooses_its_runs(demo: Driver) -> None:
    """The right end of the row took the press for an eye that isn't there."""
    ws, rows = demo.window.workspace, demo.window.list_panel.sections
    hose = next(r for r in ws.project.runs if r.show.name == "Fog hose")
    ws.select(Selection())
    row = rows.item(rows.row_of[hose.recipe.stations[0].section])
    rows.scrollToItem(row)
    box = rows.visualItemRect(row)
    QTest.mouseClick(rows.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(box.right() - 14, box.center().y()))
    assert ws.selection.runs == (hose.id,)


def test_what_follows_a_run_or_shares_its_path_is_marked_and_lit_with_it() -> None:
    new = NewRun(ReadyMadeSource(name="round"), 0.02)
    first = add_run(Project(), PathKind.STRAIGHT, [(0.0, 1.0, 0.0), (1.0, 1.0, 0.0)], new)
    run = first.ids[0]
    image = add_mirrors(first.project, [run], np.zeros(3), np.array([0.0, 1.0, 0.0]))
    rail = add_beside(image.project, [run], 0.2)
    row = set_row(rail.project, [run], 3, (0.0, 0.0, 1.0))
    more = add_on_path(row.project, [run])
    project = derived(more.project)
    ties = {r.id: tie_of(project, r) for r in project.runs}
    assert ties == {
        run: "shared",
        more.ids[0]: "shared",
        image.ids[0]: "mirror",
        rail.ids[0]: "beside",
    } | dict.fromkeys(row.ids, "repeat")
    assert tie_of(first.project, first.project.runs[0]) is None
    lit = related(project, run)
    assert {image.ids[0], *row.ids} <= lit and run in related(project, image.ids[0])
    assert run in related(project, rail.ids[0])
