"""Jobs with runs beside others, each within its budget of actions: the other side of the hair, a ramp."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from morphax.app.views.stock.section_library import SectionLibrary
from morphax.project.lookup import path_of, section_of
from morphax.project.model.document import Project
from tests.app.driven.test_beside_in_window import pick
from tests.app.driven.test_ends_in_column import choose
from tests.app.driven.test_pieces_in_window import take, typed, value
from tests.app.job_projects import three_locks

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def test_j12_the_other_side_of_the_hair_mirrored_and_still_linked(opened) -> None:
    driver, recorder = opened(three_locks())
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_A, CTRL)
    driver.key(Qt.Key.Key_M, CTRL | SHIFT)
    driver.settle()
    value(driver, "beside.plane", "620 mm")
    assert recorder.count <= 3, recorder.actions
    ws = driver.window.workspace
    pairs = [(r.like, r.id) for r in ws.project.runs if r.like is not None]
    assert len(pairs) == 3
    for old, new in pairs:
        own, image = (ws.bodies[i].body.mesh.points for i in (old, new))
        assert np.allclose(image, own * [-1.0, 1.0, 1.0] + [1.24, 0.0, 0.0], atol=1e-12)
    pick(driver, (pairs[0][0],))
    value(driver, "width", "90 mm")
    own, image = (ws.bodies[i].body.mesh.points for i in pairs[0])
    assert np.allclose(image, own * [-1.0, 1.0, 1.0] + [1.24, 0.0, 0.0], atol=1e-12), "it follows"


def test_j16_a_ramp_of_rails_planks_and_a_carpet(opened) -> None:
    driver, recorder = opened(Project())
    stock = driver.window.findChild(SectionLibrary)
    driver.press_button(stock.buttons["strip"])
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_T)
    pane = driver.pane(0)
    spots = [(0.15, 0.75), (0.4, 0.6), (0.6, 0.75), (0.85, 0.6)]
    for k, (x, y) in enumerate(spots):
        driver.click(0, (round(pane.width() * x), round(pane.height() * y)), double=k == len(spots) - 1)
    driver.settle()
    driver.menu("beside.pair")
    driver.settle()
    typed(driver, "1000 mm")
    choose(driver, "section", "rail")
    take(driver, "plank")
    typed(driver, "150 mm")
    assert recorder.count <= 12, recorder.actions
    ws = driver.window.workspace
    carpet, right, left = ws.project.runs
    assert section_of(ws.project, carpet.id).source.name == "strip"
    assert {section_of(ws.project, r.id).source.name for r in (right, left)} == {"rail"}
    assert [path_of(ws.project, r.id).follows.gauge for r in (right, left)] == [1.0, 1.0]
    (planks,) = ws.bodies[right.id].body.copies
    gap = np.diff(planks.at)
    assert len(planks.at) > 5 and gap == pytest.approx(np.full(len(gap), gap[0])) and abs(gap[0] - 0.15) < 0.01
    assert not [f for r in ws.project.runs for f in ws.bodies[r.id].body.findings if f.severity == "error"]


def test_a_garden_railway_follows_its_path_when_that_is_pulled_about(opened) -> None:
    """Two rails at a gauge, sleepers across below them, a ballast bed, on one curved path."""
    driver, _ = opened(Project())
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_T)
    pane = driver.pane(0)
    for k, (x, y) in enumerate([(0.15, 0.75), (0.5, 0.5), (0.85, 0.7)]):
        driver.click(0, (round(pane.width() * x), round(pane.height() * y)), double=k == 2)
    driver.settle()
    ws = driver.window.workspace
    bed = ws.chosen.run.id
    driver.menu("beside.pair")
    driver.settle()
    typed(driver, "45 mm")
    value(driver, "width", "4 mm")
    choose(driver, "section", "rail")
    take(driver, "plank")
    typed(driver, "30 mm")
    rails = ws.selection.runs
    sleepers = ws.bodies[rails[0]].body.copies[0]
    pick(driver, (bed,))
    choose(driver, "section", "strip")
    knot = np.array(ws.chosen.path.knots[1].place)
    before = len(sleepers.transforms)
    moved = knot + np.array([0.0, 0.4, 0.0])
    driver.drag(0, tuple(knot), tuple(moved))
    driver.settle()
    assert not np.allclose(ws.chosen.path.knots[1].place, knot, atol=1e-3)
    after = ws.bodies[rails[0]].body.copies[0]
    assert len(after.transforms) != before or not np.allclose(after.transforms, sleepers.transforms)
    right, left = (ws.bodies[i].path.polyline[:, :2] for i in rails)
    gaps = np.linalg.norm(right[:, None] - left[None], axis=2).min(1)
    assert np.median(gaps) == pytest.approx(0.045 + 0.004, abs=2e-3)


def test_j28_near_mid_and_far_files_at_once(opened, tmp_path) -> None:
    driver, recorder = opened(three_locks())
    page = driver.window.export_page
    page.folder.setText(str(tmp_path))
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_E, CTRL | SHIFT)
    driver.choose_in(page.levels, "near, mid and far")
    page.folder.setText(str(tmp_path))
    driver.press_button(page.go)
    assert recorder.count <= 3, recorder.actions
    sizes = {f.stem.split()[-1]: f.stat().st_size for f in tmp_path.glob("*.obj")}
    assert sizes["near"] > sizes["mid"] > sizes["far"]
    last = driver.window.workspace.project.last_export
    assert last is not None and last.levels


def test_the_page_writes_what_it_says_of_objects_paths_and_origin(opened, tmp_path) -> None:
    driver, _ = opened(three_locks())
    page = driver.window.export_page
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_E, CTRL | SHIFT)
    for combo, words in (
        (page.objects, "one object per look"),
        (page.curves, "beside, as lines"),
        (page.origin, "below the middle"),
    ):
        driver.choose_in(combo, words)
    page.folder.setText(str(tmp_path))
    driver.press_button(page.go)
    text = next(f for f in tmp_path.glob("*.obj") if "paths" not in f.name).read_text()
    heights = [float(line.split()[3]) for line in text.splitlines() if line.startswith("v ")]
    assert min(heights) == pytest.approx(0.0, abs=1e-5)
    assert sum(line.startswith("usemtl ") for line in text.splitlines()) == 1
    (paths,) = tmp_path.glob("* paths.obj")
    assert sum(line.startswith("l ") for line in paths.read_text().splitlines()) == 3
    assert "2 files" in page.result.text()
    own = driver.window.workspace.project.last_export
    assert (own.by_material, own.curves, own.origin) == (True, True, "foot")


def test_edges_are_written_hard_or_smooth_as_the_page_says(opened, tmp_path) -> None:
    driver, _ = opened(three_locks())
    page = driver.window.export_page
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_E, CTRL | SHIFT)
    counts = {}
    for words in ("as they are", "all hard", "all smooth"):
        driver.choose_in(page.edges, words)
        page.folder.setText(str(tmp_path))
        page.name.setText(words.replace(" ", "-"))
        driver.press_button(page.go)
        text = next(tmp_path.glob(f"{words.replace(' ', '-')}.obj")).read_text()
        counts[words] = sum(line.startswith("vn ") for line in text.splitlines())
        faces = sum(line.startswith("f ") for line in text.splitlines())
    assert counts["all hard"] > 3 * faces >= counts["as they are"] and counts["all smooth"] <= counts["all hard"]
    assert driver.window.workspace.project.last_export.edges == "smooth"
    driver.choose_in(page.format, "STL (binary)")
    assert not page.edges.isVisible(), "it has no normals but its faces'"
