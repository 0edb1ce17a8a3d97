"""Jobs with pieces, each within its budget of actions: ribs, a gutter with its brackets, bunting, balusters."""

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from morphax.core.pieces.spreads import Way
from morphax.demo import lantern_wagon
from morphax.project.edits.paths import move_knots
from tests.app.driven.test_jobs import look_at, with_gutter_taken
from tests.app.driven.test_pieces_in_window import take, typed
from tests.app.job_projects import rail_and_string, two_posts, without


def test_j2_ribs_on_the_hose(opened) -> None:
    """Beads that fill the hose, and go on filling it when its path is pulled about."""
    driver, recorder = opened(without(lantern_wagon(), "Lamp cable"))
    look_at(driver, (1.6, -1.0, 0.7), 2.6, -2.5, 0.8)
    driver.click(0, (1.25, -1.29, 0.9))
    take(driver, "bead")
    assert recorder.count <= 4, recorder.actions
    ws = driver.window.workspace
    assert ws.chosen.run.show.name == "Fog hose"
    (beads,) = ws.chosen.body.body.copies
    gap = np.diff(beads.at)
    long = dict(beads.sizes)["length"]
    assert gap == pytest.approx(np.full(len(gap), gap[0])) and gap[0] == pytest.approx(long, rel=0.02)
    knot = ws.chosen.path.knots[3]
    ws.unfinished.show(move_knots(ws.project, ws.chosen.path.id, {knot.id: (1.48, -2.4, 0.5)}))
    driver.settle()
    (after,) = ws.chosen.body.body.copies
    assert len(after.at) > len(beads.at) and np.diff(after.at)[0] == pytest.approx(long, rel=0.02), "the count follows"


def test_j6_a_gutter_round_the_roof_with_brackets_each_600_mm(opened) -> None:
    driver, recorder = with_gutter_taken(opened)
    QTest.keyPress(driver.pane(0), Qt.Key.Key_O)
    driver.click(0, (0.3, -1.0, 2.2))
    QTest.keyRelease(driver.pane(0), Qt.Key.Key_O)
    driver.enter()
    driver.settle()
    take(driver, "bracket")
    typed(driver, "600 mm")
    assert recorder.count <= 8, recorder.actions
    ws = driver.window.workspace
    (brackets,) = ws.chosen.body.body.copies
    gap = np.diff(brackets.at)
    assert driver.path.closed and len(brackets.at) == round(driver.body.length / 0.6)
    assert gap == pytest.approx(np.full(len(gap), driver.body.length / len(brackets.at))) and abs(gap[0] - 0.6) < 0.03
    out = brackets.transforms[:, :, 2] / np.linalg.norm(brackets.transforms[:, :, 2], axis=1)[:, None]
    assert (out[:, 2] < -0.5).all(), "they stand below it"


def test_j17_bunting_of_links_on_a_hanging_line(opened) -> None:
    driver, recorder = opened(two_posts())
    look_at(driver, (0.0, 0.0, 1.2), 3.5, -1.5, 0.4)
    driver.key(Qt.Key.Key_C)
    driver.click(0, (-1.0, 0.0, 2.0))
    driver.click(0, (1.0, 0.0, 2.0), double=True)
    driver.settle()
    take(driver, "link")
    driver.unfold("Pieces")
    driver.field("pieces.only").click()
    driver.settle()
    assert recorder.count <= 7, recorder.actions
    ws = driver.window.workspace
    (links,) = ws.chosen.body.body.copies
    assert not driver.body.mesh.face_count and len(links.at) > 10
    ups = links.transforms[:, :, 2] / np.linalg.norm(links.transforms[:, :, 2], axis=1)[:, None]
    turned = np.abs((ups[1:] * ups[:-1]).sum(1))
    assert turned.max() < 0.2, "each is turned a quarter against the one before"


def test_j23_twelve_balusters_between_the_handrail_and_the_stair(opened) -> None:
    driver, recorder = opened(rail_and_string())
    driver.menu("view.all")
    driver.settle()
    recorder.actions.clear()
    pane = driver.pane(0)
    driver.drag(0, (6, pane.height() - 40), (pane.width() - 6, 60))
    driver.settle()
    take(driver, "rod")
    typed(driver, "12")
    assert recorder.count <= 4, recorder.actions
    ws = driver.window.workspace
    own = ws.project.runs[0].recipe.sets[0]
    assert own.to == ws.project.runs[1].recipe.path and own.rule.spread.way is Way.COUNT
    (rods,) = ws.bodies[ws.project.runs[0].id].body.copies
    along = rods.transforms[:, :, 0] / np.linalg.norm(rods.transforms[:, :, 0], axis=1)[:, None]
    assert len(rods.at) == 12 and np.abs(along[:, 2]) == pytest.approx(1.0), "each stands plumb"
