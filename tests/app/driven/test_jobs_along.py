"""Jobs of what varies along a run within their budgets of actions, counted from the real events."""

from dataclasses import replace

import numpy as np
import pytest
import trimesh
from PySide6.QtCore import QMimeData, QPoint, Qt

from morphax.app.views.stock.tile import MIME
from morphax.core.mesh.mesh import point_triangles
from morphax.demo import lantern_wagon
from morphax.demo.puppet import HEAD
from morphax.project.edits.along import station_width
from morphax.project.lookup import section_by_id
from morphax.project.model.document import Project
from tests.app.driven.test_exchange import drop
from tests.app.driven.test_freehand import stroke
from tests.app.driven.test_jobs import look_at
from tests.app.driver import Driver
from tests.app.job_projects import puppet_head_alone, without
from tests.app.strip_hand import Strip

CTRL = Qt.KeyboardModifier.ControlModifier


def solid(body) -> trimesh.Trimesh:
    return trimesh.Trimesh(body.mesh.points, point_triangles(body.mesh), process=False)


def upright_square(driver: Driver) -> None:
    """1 400 mm upwards from the middle of the floor: three actions, and a fourth for the size that is typed."""
    driver.press_button(driver.window.list_panel.stock.buttons["rectangle"])
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_S)
    driver.click(1, (0.0, 0.0, 0.0))
    driver.move(1, (0.0, 0.0, 0.5))
    driver.type("1400")
    driver.enter()
    driver.key(Qt.Key.Key_Return)
    driver.settle()


def put(driver: Driver, key: str, place: str) -> None:
    """A section dropped on the strip and its place typed."""
    data, strip = QMimeData(), driver.window.strip
    data.setData(MIME, key.encode())
    x = round(float(strip.ruler.x_of(0.9 * strip.ruler.length)))
    drop(driver, strip, data, QPoint(x, 60))
    driver.type(place)
    driver.enter()
    driver.settle()


def names(driver: Driver, k: int = 0) -> list[str]:
    ws = driver.window.workspace
    return [section_by_id(ws.project, s.section).source.name for s in ws.project.runs[k].recipe.stations]


def test_j7_a_column_and_j8_another_one_beside_it(opened) -> None:
    driver, recorder = opened(Project())
    upright_square(driver)
    assert np.allclose(driver.places, [(0, 0, 0), (0, 0, 1400.0)])
    for key, place in (("round", "20 %"), ("flute", "35 %"), ("round", "80 %"), ("rectangle", "100 %")):
        put(driver, key, place)
        if key == "flute":
            driver.enter_value("station.flutes", "12")
    recipe = driver.run.recipe
    assert names(driver) == ["rectangle", "round", "flute", "round", "rectangle"]
    assert [s.share for s in recipe.stations] == pytest.approx([0.0, 0.2, 0.35, 0.8, 1.0])
    assert not driver.body.findings and solid(driver.body).is_watertight
    assert recorder.count <= 14, recorder.actions
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_Escape)
    driver.key(Qt.Key.Key_Escape)
    before = recorder.count
    strip = Strip(driver)  # chooses it
    driver.key(Qt.Key.Key_D, CTRL)
    driver.settle()
    first, second = driver.window.workspace.project.runs
    assert driver.run.id == second.id
    strip.drag(strip.picture(1), strip.picture(2))
    assert names(driver, 1) == ["rectangle", "flute", "round", "round", "rectangle"]
    assert names(driver, 0) == ["rectangle", "round", "flute", "round", "rectangle"]
    a, b = (driver.window.workspace.bodies[r.id].body for r in (first, second))
    assert b.mesh.points[:, 1].max() < a.mesh.points[:, 1].min(), "it stands beside it"
    assert not b.findings and solid(b).is_watertight
    assert recorder.count - before <= 4, recorder.actions
    widths = [station_width(driver.window.workspace.project, second.id, s.id) for s in driver.run.recipe.stations]
    assert widths == pytest.approx([widths[0]] * 5)


def test_j9_a_rope_of_three_strands_with_forty_turns(opened) -> None:
    driver, recorder = opened(Project())
    driver.press_button(driver.window.list_panel.stock.buttons["bundle"])
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_T)
    spots = [(-0.4, -0.2, 0.0), (-0.2, 0.1, 0.0), (0.0, -0.05, 0.0), (0.2, 0.15, 0.0), (0.4, -0.1, 0.0)]
    for spot in spots[:-1]:
        driver.click(0, spot)
    driver.click(0, spots[-1], double=True)
    driver.type("40")
    driver.enter()
    driver.settle()
    driver.unfold("Along")
    driver.enter_value("along.twist", "40 turns")
    driver.settle()
    assert driver.run.recipe.varying.twist == pytest.approx(80.0 * np.pi) and len(driver.path.knots) == 5
    assert section_by_id(driver.window.workspace.project, driver.run.recipe.stations[0].section).source.name == "bundle"
    assert not driver.body.findings and solid(driver.body).is_watertight and len(driver.body.mesh.points) > 40 * 3 * 8
    assert solid(driver.body).volume > 0.0
    assert recorder.count <= 9, recorder.actions


def test_j10_a_handrail_above_a_landing_and_a_slope(opened) -> None:
    driver, recorder = opened(without(lantern_wagon(), "Handrail"))
    look_at(driver, (2.2, 0.2, 0.6), 2.4, -1.0, 0.35)
    driver.key(Qt.Key.Key_S)
    for spot in ((1.76, 0.3, 0.68), (1.93, 0.3, 0.68)):
        driver.click(0, spot)
    driver.click(0, (2.95, 0.3, 0.0), double=True)
    driver.type("50")
    driver.enter()
    driver.settle()
    on_it = driver.places
    driver.unfold("Move and turn")
    driver.enter_value("move.z", "900")
    driver.key(Qt.Key.Key_R)
    driver.type("160")
    driver.enter()
    driver.unfold("Placing")
    driver.choose("orientation", "upright")
    driver.settle()
    assert driver.places == pytest.approx(on_it + [0.0, 0.0, 900.0], abs=1e-6)
    assert driver.body.width == pytest.approx(0.05) and driver.path.knots[1].radius == pytest.approx(0.16)
    assert driver.run.recipe.placing.orientation == "upright" and not driver.body.findings
    assert solid(driver.body).is_volume and driver.body.mesh.points[:, 2].max() == pytest.approx(1.63, abs=0.02)
    assert recorder.count <= 9, recorder.actions


def test_j11_three_locks_of_hair_each_one_stroke(opened) -> None:
    driver, recorder = opened(puppet_head_alone())
    driver.window.scene_views[0].choose("Right")
    driver.settle()
    driver.press_button(driver.window.list_panel.stock.buttons["leaf"])
    driver.key(Qt.Key.Key_K)
    x, y, z = (v * 1e-3 for v in HEAD)
    view = driver.view(0)
    view.set_camera(replace(view.camera, target=(x, y, z + 0.25), height=0.7))
    driver.settle()
    for k in range(3):  # down the side of the head, one behind the other
        a, b = (driver.spot(0, (x + 0.12, y + 0.06 * (k - 1), z + high)) for high in (0.36, 0.2))
        stroke(driver, 0, [(a.x(), a.y() + (b.y() - a.y()) * i / 30) for i in range(31)])
        if k == 0:
            driver.type("40")
            driver.enter()
            driver.settle()
            driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_A, CTRL)
    driver.unfold("Along")
    driver.enter_value("along.end", "0")
    driver.settle()
    ws = driver.window.workspace
    assert len(ws.project.runs) == 3
    for run in ws.project.runs:
        built = ws.bodies[run.id].body
        assert run.recipe.host == "h6" and all(
            k.hold is not None for k in ws.project.find("paths", run.recipe.path).knots
        )
        assert solid(built).is_watertight and not built.has_errors
        tip = built.mesh.points[np.argmin(built.mesh.points[:, 2])]
        assert (np.linalg.norm(built.mesh.points - tip, axis=1) < 1e-9).sum() == 1, "a point"
    assert recorder.count <= 8, recorder.actions
