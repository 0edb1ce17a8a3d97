"""Chamfered and pointed ends, chosen and typed in the column for one run and for several, and taken back."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QComboBox

from morphax.build.exporting import write_wish
from morphax.core.body.recipe import End
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.section.sections import CornerStyle
from morphax.project.model.document import ExportWish
from tests.app.driver import Driver
from tests.app.job_projects import column, square_frame, three_bars
from tests.app.strip_hand import Strip

CTRL = Qt.KeyboardModifier.ControlModifier


def choose(driver: Driver, name: str, word: str) -> None:
    """A word of a drop-down, by the keyboard."""
    box = driver.field(name)
    assert isinstance(box, QComboBox)
    box.setFocus()
    box.setCurrentIndex(box.findData(word))
    box.activated.emit(box.currentIndex())
    driver.settle()


def opened_on_all(opened, project, heading: str = "Corners and ends") -> Driver:
    """A window with all runs chosen and a heading of the column open."""
    driver, _ = opened(project)
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_A, CTRL)
    driver.settle()
    driver.unfold(heading)
    return driver


def test_a_point_is_chosen_its_length_and_curve_typed_and_taken_back(opened) -> None:
    driver = opened_on_all(opened, column(1.0))
    whole = volume(driver.body.mesh)
    choose(driver, "end.end", End.POINTED)
    assert volume(driver.body.mesh) == pytest.approx(whole * (0.9 + 0.1 / 3.0), rel=1e-9), "as long as it is wide"
    driver.enter_value("end.end.length", "400 mm")
    driver.settle()
    assert volume(driver.body.mesh) == pytest.approx(whole * (0.6 + 0.4 / 3.0), rel=1e-9)
    driver.enter_value("end.end.curve", "100 %")
    driver.settle()
    assert volume(driver.body.mesh) == pytest.approx(whole * (0.6 + 0.4 / 2.0), rel=0.01)
    assert edge_check(driver.body.mesh).closed
    driver.enter_value("end.end.curve", "200 %")
    driver.settle()
    assert driver.window.workspace.chosen.run.recipe.ends.end_curve == 1.0, "it goes from -100 to 100 %"
    driver.key(Qt.Key.Key_Escape)
    for _ in range(3):
        driver.menu("edit.undo")
    driver.settle()
    assert volume(driver.body.mesh) == pytest.approx(whole, rel=1e-12)


def test_pieces_are_chosen_for_each_end_sized_and_taken_back(opened) -> None:
    driver = opened_on_all(opened, three_bars())
    ws, plain = driver.window.workspace, driver.window.workspace.project
    choose(driver, "end.end", End.PIECE)
    choose(driver, "end.end.piece", "finial")
    driver.enter_value("end.end.size", "1.5")
    driver.settle()
    for run in ws.project.runs:
        body = ws.bodies.in_sight.visible[run.id].body
        assert run.recipe.ends.end_piece == "finial" and run.recipe.ends.start is End.FLAT
        assert edge_check(body.mesh).closed and [p.name for p in body.mesh.parts][-1] == "end piece"
        assert body.mesh.bounds[:, 0] == pytest.approx([0.0, 1.0], abs=1e-9), "the run stays as long as it was"
    driver.enter_value("end.end.size", "0")
    driver.settle()
    assert driver.run.recipe.ends.end_size == 1.5, "a piece has a size"
    driver.key(Qt.Key.Key_Escape)
    for _ in range(3):
        driver.menu("edit.undo")
    assert ws.project == plain


def test_chamfers_of_three_runs_at_once(opened) -> None:
    driver = opened_on_all(opened, three_bars())
    ws = driver.window.workspace
    choose(driver, "end.start", End.CHAMFERED)
    driver.enter_value("end.start.radius", "20")
    driver.settle()
    for run in ws.project.runs:
        body = ws.bodies.in_sight.visible[run.id].body
        assert (run.recipe.ends.start, run.recipe.ends.start_radius) == (End.CHAMFERED, 0.02)
        assert edge_check(body.mesh).closed and any(p.name == "start chamfer" for p in body.mesh.parts)
    driver.key(Qt.Key.Key_Escape)
    driver.menu("edit.undo")
    assert {r.recipe.ends.start_radius for r in ws.project.runs} == {None}


def test_a_corner_of_its_own_is_chosen_at_its_knot_and_taken_back(opened) -> None:
    driver, _ = opened(square_frame())
    strip = Strip(driver)
    whole = volume(driver.body.mesh)
    strip.click(QPoint(strip.x(0.25), round(strip.top("KnotLane")) + 10))
    assert len(strip.ws.selection.knots) == 1
    choose(driver, "knot.corner", CornerStyle.BEVEL)
    one = volume(driver.body.mesh)
    assert edge_check(driver.body.mesh).closed and one < whole
    choose(driver, "knot.corner", CornerStyle.ROUND)
    assert one < volume(driver.body.mesh) < whole
    driver.unfold("Corners and ends")
    choose(driver, "corner", CornerStyle.BEVEL)
    assert volume(driver.body.mesh) == pytest.approx(whole - 3.0 * (whole - one), rel=0.02)
    for _ in range(3):
        driver.key(Qt.Key.Key_Escape)
        driver.menu("edit.undo")
    driver.settle()
    assert volume(driver.body.mesh) == pytest.approx(whole, rel=1e-12)


def test_the_sharpest_mitre_is_typed_and_taken_back(opened) -> None:
    driver = opened_on_all(opened, square_frame())
    mitred = driver.body.mesh
    driver.enter_value("limit", "80")
    driver.settle()
    assert any(p.name == "wedge" for p in driver.body.mesh.parts) and edge_check(driver.body.mesh).closed
    assert {f.code for f in driver.body.findings} == {"mitre-limit"}
    driver.enter_value("limit", "100")
    driver.settle()
    assert driver.body.mesh.rings == mitred.rings and not driver.body.findings
    for _ in range(2):
        driver.menu("edit.undo")
    driver.settle()
    assert driver.run.recipe.limit is None and driver.body.mesh.face_count == mitred.face_count


def test_an_end_is_angled_and_returns_to_a_wall(opened) -> None:
    """Both take the length that there was; angle and side are typed, in degrees, and taken back."""
    driver = opened_on_all(opened, column(1.0))
    whole = volume(driver.body.mesh)
    choose(driver, "end.end", End.ANGLED)
    assert volume(driver.body.mesh) == pytest.approx(whole * 0.95, rel=1e-9)
    driver.enter_value("end.end.angle", "60")
    driver.settle()
    assert volume(driver.body.mesh) == pytest.approx(whole * (1.0 - 0.05 * 3.0**0.5), rel=1e-9)
    driver.enter_value("end.end.turn", "30")
    driver.settle()
    assert driver.run.recipe.ends.end_turn == pytest.approx(0.5235987756) and edge_check(driver.body.mesh).closed
    assert driver.body.mesh.bounds[:, 2] == pytest.approx([0.0, 1.0])
    choose(driver, "end.start", End.RETURNED)
    assert edge_check(driver.body.mesh).closed and not driver.body.has_errors
    driver.enter_value("end.end.angle", "85")
    driver.settle()
    assert "80 degrees" in driver.window.help_label.text()
    for _ in range(4):
        driver.menu("edit.undo")
    driver.settle()
    assert volume(driver.body.mesh) == pytest.approx(whole, rel=1e-12)


def test_caps_have_four_sided_faces_on_request_and_are_exported_so(opened, tmp_path) -> None:
    driver = opened_on_all(opened, three_bars())
    ws = driver.window.workspace
    faces = {r.id: ws.bodies[r.id].body.mesh.face_count for r in ws.project.runs}
    driver.field("end.quad_caps").click()
    driver.settle()
    for run in ws.project.runs:
        mesh = ws.bodies[run.id].body.mesh
        assert run.recipe.ends.quad_caps and edge_check(mesh).closed and mesh.face_count < faces[run.id]
        assert not len(mesh.tris)
    (file,) = write_wish(ws.project, ws.bodies.builder, ExportWish(name="a", folder=str(tmp_path)), (), "a")
    assert {len(line.split()) for line in file.read_text().splitlines() if line.startswith("f ")} == {5}
    driver.field("end.quad_caps").click()
    driver.settle()
    assert {r.id: ws.bodies[r.id].body.mesh.face_count for r in ws.project.runs} == faces
