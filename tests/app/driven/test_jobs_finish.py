"""Jobs of density, ends and range within their budgets of actions, counted from the real events."""

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit

from morphax.app.views.strip.ruler import RULER_HEIGHT
from morphax.core.body.recipe import End
from morphax.core.mesh.measures import edge_check, volume
from morphax.demo import lantern_wagon
from morphax.project.edits.along import end_size
from morphax.project.model.document import Project
from tests.app.driven.test_ends_in_column import choose, opened_on_all
from tests.app.driven.test_freehand import stroke
from tests.app.driven.test_jobs import look_at
from tests.app.driven.test_jobs_along import solid
from tests.app.driver import Driver
from tests.app.job_projects import column, room, three_bars
from tests.app.strip_hand import Strip

CTRL = Qt.KeyboardModifier.ControlModifier


def row_of(driver: Driver, name: str) -> str:
    field = driver.field(name)
    assert isinstance(field, QLineEdit)
    return field.text()


def test_j19_the_same_hose_at_three_densities(opened) -> None:
    driver, recorder = opened(lantern_wagon())
    ws = driver.window.workspace
    cable = next(r.id for r in ws.project.runs if r.show.name == "Lamp cable")
    rows = driver.window.list_panel.runs
    item = next(rows.item(k) for k in range(rows.count()) if "Lamp cable" in rows.item(k).text())
    QTest.mouseClick(rows.viewport(), Qt.MouseButton.LeftButton, pos=rows.visualItemRect(item).center())
    driver.settle()
    assert driver.run.id == cable
    made = {}
    for most in (300, 1000, 5000):
        driver.enter_value("faces", str(most))
        driver.settle()
        made[most] = driver.body.mesh.face_count
        assert most - driver.body.sides < made[most] <= most and not driver.body.has_errors
        assert row_of(driver, "faces").replace("\u202f", "").replace(" ", "") == str(made[most])
    assert recorder.count <= 4, recorder.actions
    assert driver.run.recipe.density.budget == 5000


def test_three_budgets_are_kept_looked_at_and_changed_by_the_card(opened) -> None:
    driver = opened_on_all(opened, three_bars(), "Density")
    ws, before = driver.window.workspace, driver.window.workspace.project
    driver.enter_value("rings", "9")
    plain = ws.project
    for level, most in (("near", 500), ("far", 60)):
        driver.enter_value(level, str(most))
    driver.settle()
    assert {b.body.mesh.rings for b in ws.bodies.in_sight.visible.values()} == {9}, "kept, and not yet in force"
    choose(driver, "level", "far")
    for run in ws.project.runs:
        assert run.recipe.density.rings == 9 and ws.bodies.in_sight.visible[run.id].body.mesh.face_count <= 60
    assert [driver.field(n).text() for n in ("budget", "rings", "far", "near")] == [
        "60",
        str(driver.body.mesh.rings),
        "60",
        "500",
    ], "what is in force, and what is kept"
    driver.enter_value("faces", "150")
    driver.settle()
    assert {r.recipe.density.far for r in ws.project.runs} == {50}, "the number of what is looked at"
    assert {r.recipe.density.near for r in ws.project.runs} == {500} and driver.run.recipe.density.rings == 9
    choose(driver, "level", "")
    assert {b.body.mesh.rings for b in ws.bodies.in_sight.visible.values()} == {9}
    choose(driver, "level", "near")
    driver.enter_value("sides_within", "5")
    own = driver.run.recipe.density
    assert (own.level, own.near, own.sides_within) == (None, 500, 0.005), "what is typed is in force"
    for _ in range(7):
        driver.menu("edit.undo")
    assert ws.project == plain != before


def test_corners_and_ends_are_held_at_a_typed_distance_and_let_go(opened) -> None:
    driver = opened_on_all(opened, three_bars(), "Density")
    ws = driver.window.workspace
    driver.enter_value("hold", "5")
    driver.settle()
    for built in ws.bodies.in_sight.visible.values():
        at = built.body.ring_at
        assert at[1] == pytest.approx(0.005) and at[-1] - at[-2] == pytest.approx(0.005)
        assert edge_check(built.body.mesh).closed and built.body.mesh.rings == 4
    driver.enter_value("hold", "-5")
    driver.settle()
    assert driver.run.recipe.density.hold == 0.005, "what is impossible is refused, and what was there stays"
    driver.key(Qt.Key.Key_Escape)
    driver.menu("edit.undo")
    assert driver.body.mesh.rings == 2


def test_a_number_of_faces_is_for_all_chosen_runs_together_and_taken_back(opened) -> None:
    driver = opened_on_all(opened, three_bars(), "Density")
    ws, before = driver.window.workspace, driver.window.workspace.project
    driver.enter_value("faces", "900")
    driver.settle()
    faces = [ws.bodies.in_sight.visible[r.id].body.mesh.face_count for r in ws.project.runs]
    assert sum(faces) <= 900 and min(faces) > 200
    driver.enter_value("faces", "5")
    driver.settle()
    assert [r.recipe.density.budget for r in ws.project.runs] == [300] * 3, "five are too few for three bodies"
    driver.key(Qt.Key.Key_Escape)
    driver.menu("edit.undo")
    assert ws.project is before


def test_rings_that_are_typed_end_the_budget_and_typed_sides_stay_in_it(opened) -> None:
    driver, _ = opened(column(1.0))
    Strip(driver)
    driver.enter_value("sides", "12")
    driver.enter_value("faces", "500")
    driver.settle()
    assert driver.body.sides == 12 and 488 < driver.body.mesh.face_count <= 500
    driver.unfold("Density")
    driver.enter_value("rings", "9")
    driver.settle()
    own = driver.run.recipe.density
    assert (own.budget, own.rings, own.sides) == (None, 9, 12) and driver.body.mesh.rings == 9
    driver.enter_value("sides_within", "5")
    driver.settle()
    assert driver.run.recipe.density.sides is None and driver.body.sides == 4


def test_j24_a_skirting_round_a_room_left_out_at_the_door_with_its_ends_returned(opened, tmp_path: Path) -> None:
    """Along the foot of four walls; what it ends with goes back to the wall."""
    driver, recorder = opened(room(tmp_path / "room.stl"))
    look_at(driver, (0.0, 0.0, 0.3), 6.0, 0.5, 1.0)
    driver.press_button(driver.window.list_panel.stock.buttons["skirting"])
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_E)
    QTest.keyPress(driver.pane(0), Qt.Key.Key_O)
    driver.click(0, (-1.48, 0.2, 0.0))
    QTest.keyRelease(driver.pane(0), Qt.Key.Key_O)
    driver.settle()
    assert driver.path.closed and len(driver.path.knots) == 4
    whole = driver.body
    strip = driver.window.strip
    at = QPoint(round(float(strip.ruler.x_of(0.15 * strip.ruler.length))), RULER_HEIGHT + 8)
    QTest.mouseDClick(strip, Qt.MouseButton.LeftButton, pos=at)
    driver.settle()
    driver.unfold("Range")
    driver.enter_value("range.gap0.b", "1900")
    driver.enter_value("range.gap0.a", "1000")
    driver.pick("ends", "returned · returned")
    driver.settle()
    assert recorder.count <= 7, recorder.actions
    assert edge_check(driver.body.mesh).closed and not driver.body.findings
    ends, depth = driver.run.recipe.ends, 0.5 * driver.body.width
    assert (ends.start, ends.end) == (End.RETURNED, End.RETURNED)
    x, y = np.abs(driver.body.mesh.points[:, :2]).T
    assert (x <= 1.5 + 1e-6).all() and (y <= 1.0 + 1e-6).all(), "nothing goes into a wall"
    assert volume(driver.body.mesh) < (1.0 - 0.9 / whole.length) * volume(whole.mesh) and depth > 0.0


def test_j13_a_scroll_that_grows_to_four_times_from_a_point(opened) -> None:
    driver, recorder = opened(Project())
    driver.window.scene_views[1].choose("Top")
    driver.settle()
    driver.press_button(driver.window.list_panel.stock.buttons["rounded-rectangle"])
    driver.window.tool_row.made_actions["spiral"].trigger()
    driver.click(1, (0.0, 0.0, 0.0))
    driver.click(1, (0.2, 0.0, 0.0))
    driver.settle()
    driver.unfold("Along")
    driver.enter_value("along.end", "4")
    driver.unfold("Corners and ends")
    driver.pick("end.start", "pointed")
    driver.settle()
    assert driver.path.made is not None and driver.path.made.shape == "spiral"
    (tip,) = (p for p in driver.body.mesh.points if np.linalg.norm(p - np.array(driver.path.knots[0].place)) < 1e-6)
    assert solid(driver.body).is_watertight and not driver.body.has_errors and tip[2] >= 0.0
    assert end_size(driver.run) == 4.0
    assert recorder.count <= 6, recorder.actions


def test_j15_a_flourish_that_grows(opened) -> None:
    """A freehand stroke, a drop to a point, that appears over three seconds: played at once."""
    driver, recorder = opened(Project())
    driver.window.scene_views[1].choose("Front")
    driver.settle()
    driver.press_button(driver.window.list_panel.stock.buttons["drop"])
    driver.key(Qt.Key.Key_F)
    stroke(driver, 1, [(40.0 + 2.0 * i, 300.0 + 50.0 * np.sin(i / 12.0)) for i in range(100)])
    driver.unfold("Corners and ends")
    driver.pick("end.end", "pointed")
    driver.unfold("Time")
    driver.pick("time.appears", "start")
    driver.settle()
    whole = driver.body.length
    assert driver.run.times is not None and driver.run.times.end == 3.0 and driver.run.recipe.ends.end is End.POINTED
    assert recorder.count <= 6, recorder.actions
    ws = driver.window.workspace
    ws.playing.go_to(1.5)
    driver.settle()
    assert solid(driver.body).is_watertight and driver.body.mesh.face_count
    path = ws.chosen.body.path.polyline
    far = np.linalg.norm(np.diff(path, axis=0), axis=1).sum()
    assert far == pytest.approx(whole, rel=1e-3)
    middle = path[np.searchsorted(np.linalg.norm(np.diff(path, axis=0), axis=1).cumsum(), 0.5 * whole)]
    assert np.linalg.norm(driver.body.mesh.points - middle, axis=1).min() < 0.5 * driver.body.width, "to the half of it"
    assert np.linalg.norm(driver.body.mesh.points - path[-1], axis=1).min() > 2.0 * driver.body.width


def test_few_faces_look_round_by_a_crease_angle(opened) -> None:
    """Typed in degrees for the chosen run: the faces stay, the shading goes over their edges; undone in one step."""
    driver, _ = opened(column(1.0))
    Strip(driver)
    driver.unfold("Density")
    flat = driver.body.mesh
    driver.enter_value("crease", "95")
    driver.settle()
    smooth = driver.body.mesh
    assert np.array_equal(smooth.points, flat.points) and smooth.face_count == flat.face_count
    assert np.abs(smooth.normals - flat.normals).max() > 0.5
    driver.enter_value("crease", "190")
    driver.settle()
    assert "180 degrees" in driver.window.help_label.text() and driver.run.recipe.density.crease == pytest.approx(
        1.658, abs=1e-3
    )
    driver.menu("edit.undo")
    driver.settle()
    assert driver.run.recipe.density.crease is None and np.array_equal(driver.body.mesh.normals, flat.normals)
