"""Jobs within their budgets of actions, from an open project with nothing chosen, counted from the real events."""

from pathlib import Path

import numpy as np
import pytest
import trimesh
from PySide6.QtCore import Qt

from morphax.app.session.camera import Camera
from morphax.app.views.stock.groups import DRAW
from morphax.demo import lantern_wagon
from morphax.project.edits.ports import plug_of
from morphax.project.model.document import Project
from tests.app.driver import Driver
from tests.app.job_projects import (
    exported_before,
    flat_roof,
    hooked_and_doubled,
    hose_on_a_stub,
    post_alone,
    stage_of_three_edges,
    twelve_cornices,
    without,
)

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def test_j20_to_print(opened, tmp_path: Path) -> None:
    driver, recorder = opened(lantern_wagon())
    driver.key(Qt.Key.Key_E, CTRL | SHIFT)
    page = driver.window.export_page
    assert page.findings.text().endswith("all watertight")
    driver.choose_in(page.ready, "to print")
    driver.press_button(page.go)
    driver.bot.waitUntil((tmp_path / "job.stl").exists, timeout=60_000)
    assert recorder.count <= 3, recorder.actions
    driver.bot.waitUntil(lambda: "Wrote job.stl" in page.result.text(), timeout=60_000)
    data = (tmp_path / "job.stl").read_bytes()
    assert int.from_bytes(data[80:84], "little") * 50 + 84 == len(data)
    assert trimesh.load(tmp_path / "job.stl").is_watertight
    said = {f.code for f in page.print.check.findings}
    assert said == {"print-thin", "print-joined", "print-loose"}


def test_j22_twelve_runs_take_another_section(opened) -> None:
    driver, recorder = opened(twelve_cornices())
    driver.key(Qt.Key.Key_A, CTRL)
    driver.press_button(driver.window.list_panel.stock.buttons["crown"])
    now = driver.window.workspace.project
    assert {s.source.name for s in now.sections} == {"crown"} and len(now.runs) == 12
    assert recorder.count <= 2, recorder.actions


def test_j27_out_again(opened, tmp_path: Path) -> None:
    driver, recorder = opened(exported_before(str(tmp_path)))
    driver.key(Qt.Key.Key_E, CTRL)
    assert "f " in (tmp_path / "job.obj").read_text() and recorder.count <= 1


def test_j29_mend(opened) -> None:
    driver, recorder = opened(hooked_and_doubled())
    checks = driver.window.inspector.checks
    while checks.mend_buttons:
        driver.press_button(checks.mend_buttons[0])
        driver.settle()
    assert all(not b.body.findings for b in driver.window.workspace.bodies.values())
    assert recorder.count <= 2, recorder.actions


def look_at(driver: Driver, target: tuple[float, float, float], height: float, yaw: float, pitch: float) -> None:
    """Where the user's view is when the job begins; turning a view is counted by the wheel and drags of the job."""
    driver.view(0).set_camera(Camera(target=target, height=height, yaw=yaw, pitch=pitch))
    driver.settle()


def test_j1_fog_hose(opened) -> None:
    driver, recorder = opened(without(lantern_wagon(), "Fog hose"))
    look_at(driver, (1.6, -1.0, 0.7), 2.6, -2.5, 0.8)  # both outlets are seen
    driver.press_button(driver.window.list_panel.stock.buttons["pipe"])
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_T)
    driver.click(0, (2.46, -1.25, 0.18))
    driver.click(0, (1.9, -1.4, 0.0))
    driver.click(0, (1.01, -0.43, 0.87), double=True)
    driver.settle()
    path, body = driver.path, driver.body
    assert plug_of(path, "start") is not None and plug_of(path, "end") is not None
    assert body.width == pytest.approx(0.11) and not body.has_errors
    line = driver.window.workspace.chosen.body.path.polyline
    assert line[:, 2].min() < 0.15, "it sags"
    assert recorder.count <= 6, recorder.actions


def test_j3_lamp_cable(opened) -> None:
    driver, recorder = opened(without(lantern_wagon(), "Lamp cable"))
    look_at(driver, (-2.2, -0.85, 2.5), 1.4, -2.5, 0.2)
    driver.key(Qt.Key.Key_C)
    driver.click(0, (-1.9, -0.78, 2.44))
    driver.click(0, (-2.56, -0.9, 2.66), double=True)
    driver.type("12")
    driver.enter()
    driver.enter_value("sides", "8")
    driver.settle()
    lead, chord, tail = np.linalg.norm(np.diff([k.place for k in driver.path.knots], axis=0), axis=1)
    assert driver.path.slack == pytest.approx(0.05, abs=0.04), "it hangs by about 5 percent of itself"
    assert driver.body.length == pytest.approx(lead + (1.0 + driver.path.slack) * chord + tail, rel=1e-6)
    assert (driver.body.width, driver.body.sides) == (pytest.approx(0.012), 8)
    assert recorder.count <= 6, recorder.actions


def test_j4_cornice(opened) -> None:
    driver, recorder = opened(stage_of_three_edges())
    driver.press_button(driver.window.list_panel.stock.buttons["crown"])
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_E)
    for spot in ((-0.3, -0.5, 1.0), (1.0, 0.1, 1.0), (0.2, 0.5, 1.0)):
        driver.click(0, spot)
    driver.enter()
    driver.settle()
    points = driver.body.mesh.points
    assert np.allclose(driver.places, [(-1000, -500, 1000), (1000, -500, 1000), (1000, 500, 1000), (-1000, 500, 1000)])
    assert points[:, 2].max() == pytest.approx(1.0) and driver.run.recipe.placing.anchor is None
    inside = (np.abs(points[:, 0]) < 0.999) & (np.abs(points[:, 1]) < 0.499)
    assert not inside.any() and not driver.body.findings, "it faces out, mitred"
    assert recorder.count <= 6, recorder.actions


def with_gutter_taken(opened):
    """A flat roof, the ogee gutter from the stock, and the tool that follows edges."""
    driver, recorder = opened(flat_roof())
    driver.press_button(driver.window.list_panel.stock.buttons["ogee-gutter"])
    driver.pane(0).setFocus()
    look_at(driver, (0.0, 0.0, 2.0), 6.0, -0.9, 0.6)
    driver.key(Qt.Key.Key_E)
    return driver, recorder


def test_j6_gutter_without_its_brackets(opened) -> None:
    """An ogee gutter along four eaves: right way up, its back on the edges, mitred, open above."""
    driver, recorder = with_gutter_taken(opened)
    for spot in ((0.3, -1.0, 2.2), (1.5, 0.1, 2.2), (0.2, 1.0, 2.2), (-1.5, 0.2, 2.2)):
        driver.click(0, spot)
    driver.enter()
    driver.settle()
    points = driver.body.mesh.points
    assert driver.path.closed and len(driver.path.knots) == 4 and not driver.body.findings
    assert points[:, 2].max() == pytest.approx(2.2, abs=1e-9), "it hangs from the edge"
    inside = (np.abs(points[:, 0]) < 1.499) & (np.abs(points[:, 1]) < 0.999)
    assert not inside.any(), "it hangs outside of the roof"
    assert driver.body.height == pytest.approx(0.75 * driver.body.width, rel=0.3)
    assert recorder.count <= 8, recorder.actions


def test_an_edge_of_18_by_7_is_drawn_and_swept_in_a_few_actions(opened) -> None:
    """Half round, 18 mm wide and 7 high, drawn on the board with nothing chosen, then along two clicks."""
    driver, recorder = opened(Project())
    driver.press_button(driver.window.list_panel.stock.buttons[DRAW])
    board = driver.window.workspace.board

    def at(x: float, y: float) -> tuple[float, float]:
        spot = board.sight.pixels(np.array(board.sight.own((x, y))))
        return float(spot[0]), float(spot[1])

    driver.key(Qt.Key.Key_S)
    driver.click(1, at(0.0, 0.0))
    driver.move(1, at(0.005, 0.0))
    driver.type("18")
    driver.enter()
    driver.key(Qt.Key.Key_A)
    driver.click(1, at(0.0, 0.0))
    driver.key(Qt.Key.Key_Escape)
    driver.click(1, at(0.018, 0.0))
    driver.enter_value("point.radius", "9.285714285714")
    board.close()
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_S)
    driver.click(0, (0.1, 0.1, 0.0))
    driver.click(0, (0.5, 0.1, 0.0), double=True)
    driver.settle()
    assert (driver.body.width, driver.body.height) == (pytest.approx(0.018), pytest.approx(0.007, abs=1e-8))
    assert recorder.count <= 12, recorder.actions


def test_j18_a_wire_of_four_points_with_depth(opened) -> None:
    driver, recorder = opened(without(lantern_wagon(), "Handrail"))
    look_at(driver, (2.2, 0.2, 0.6), 2.4, -1.0, 0.35)
    driver.key(Qt.Key.Key_T)
    for spot in ((1.8, 0.0, 0.78), (2.1, 0.1, 0.51), (2.4, 0.2, 0.34)):
        driver.click(0, spot)
    driver.click(0, (2.9, 0.4, 0.0), double=True)
    driver.type("5")
    driver.enter()
    driver.settle()
    wanted = [(1.8, 0.0, 0.78), (2.1, 0.1, 0.51), (2.4, 0.2, 0.34), (2.9, 0.4, 0.0)]
    assert np.allclose([k.place for k in driver.path.knots], wanted, atol=0.012), (
        "each lies on the step that was clicked"
    )
    assert driver.body.width == pytest.approx(0.005)
    assert recorder.count <= 8 - 1, recorder.actions


def test_j21_the_host_file_saved_anew(opened, tmp_path: Path) -> None:
    file = tmp_path / "pipe.ply"
    project, stub = hose_on_a_stub(file)
    driver, recorder = opened(project)
    stub.apply_translation((0.5, 0.25, 0.1)).export(file)
    driver.key(Qt.Key.Key_F5)
    driver.bot.waitUntil(lambda: driver.window.host_files.waiting == 0, timeout=20_000)
    driver.settle()
    knots = driver.window.workspace.project.paths[0].knots
    assert np.allclose(knots[0].place, (0.5, 0.25, 0.3), atol=1e-6)
    assert recorder.count <= 1, recorder.actions


def test_j5_a_closed_mitred_frame_by_its_size(opened) -> None:
    driver, recorder = opened(Project())
    driver.press_button(driver.window.list_panel.stock.buttons["ogee"])
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_R, SHIFT)
    driver.click(0, (-0.3, -0.2, 0.0))
    driver.move(0, (0.1, 0.1, 0.0))
    driver.type("600 x 400")
    driver.enter()
    driver.settle()
    path, body = driver.path, driver.body
    sides = np.linalg.norm(np.diff(np.array([k.place for k in (*path.knots, path.knots[0])]), axis=0), axis=1)
    assert path.closed and np.allclose(sorted(sides), (0.4, 0.4, 0.6, 0.6))
    assert all(k.kind == "corner" for k in path.knots)
    assert body.path_closed and not body.has_errors and driver.run.recipe.corner is None
    assert recorder.count <= 5, recorder.actions


def test_j14_an_arm_out_of_a_post(opened) -> None:
    driver, recorder = opened(post_alone())
    driver.key(Qt.Key.Key_S)
    driver.click(1, (0.08, 0.0, 1.2))  # beside it: the end finds its way to the post
    driver.click(1, (0.5, 0.0, 1.4))
    driver.enter()
    driver.choose("ends", "cut · flat")
    driver.unfold("Along")
    driver.enter_value("along.end", "0.55")
    driver.settle()
    body = driver.body
    first, last = body.mesh.points[: body.sides], body.mesh.points[-body.sides :]
    assert np.ptp(last, axis=0).max() / body.width == pytest.approx(0.55, abs=0.02)
    assert np.abs(np.hypot(first[:, 0], first[:, 1]) - 0.06).max() < 1e-3  # flush with the post all round
    assert not body.findings and driver.run.recipe.host is not None
    assert recorder.count <= 7, recorder.actions
    driver.unfold("Corners and ends")
    assert driver.field("end.host").currentText() == "Post"
    driver.choose("end.way", "along its normal")
    driver.settle()
    assert driver.run.recipe.ends.cut_along == "normal" and driver.body is not body
