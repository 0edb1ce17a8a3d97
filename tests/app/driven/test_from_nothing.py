"""Whole jobs from an empty scene, with mouse and keyboard only."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import trimesh
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from morphax.core.path.paths import PathKind
from morphax.core.vectors import unit
from morphax.project.edits.ports import plug_of
from tests.app.driven.test_hosts import drop
from tests.app.driver import LEFT, Driver

SHIFT = Qt.KeyboardModifier.ShiftModifier


def box(driver: Driver, **places: str) -> str:
    """A box added by the menu and moved by its card; its id."""
    driver.menu("host.add-box")
    for axis, text in places.items():
        driver.enter_value(f"host.at.{axis}", text)
    driver.settle()
    return driver.window.workspace.selection.hosts[0]


def test_a_sensor_lead_along_a_bench_and_into_a_bulkhead(driver: Driver) -> None:
    bench = box(driver)
    box(driver, x="600", y="0", z="300")
    driver.window.frame()
    driver.settle()
    driver.key(Qt.Key.Key_U)
    driver.window.scene_views[0].choose("Front")
    driver.window.scene_views[0].choose("Left")
    driver.settle()
    driver.click(0, (0.4, 0.05, 0.38))
    assert len(driver.window.workspace.project.hosts[1].ports) == 1
    driver.key(Qt.Key.Key_Escape)
    driver.window.scene_views[0].choose("Perspective")
    view = driver.view(0)
    view.set_camera(replace(view.camera, yaw=np.radians(-120.0)))  # the port looks to the left
    driver.window.frame()
    driver.key(Qt.Key.Key_T)
    port = driver.window.workspace.project.hosts[1].ports[0]
    for at in ((-0.13, 0.06, 0.3), (0.0, 0.05, 0.3), (0.12, 0.0, 0.3)):
        driver.click(0, at)
    end = np.array(port.centre) + (0.6, 0.0, 0.3)
    driver.move(0, end)
    driver.click(0, end)
    driver.enter()
    driver.enter_value("width", "12")
    driver.settle()
    path, body = driver.path, driver.body
    plug = plug_of(path, "end")
    assert plug is not None and plug.port == port.id
    assert np.allclose(path.knots[-1].place, end, atol=1e-9)
    lead = unit(np.subtract(path.knots[-1].place, path.knots[-2].place))
    assert np.allclose(lead, (1.0, 0.0, 0.0), atol=1e-9)
    resting = [k.place[2] for k in path.knots[:3]]
    assert all(z > 0.3 for z in resting) and not body.has_errors and driver.run.recipe.host is None
    assert bench in {h.id for h in driver.window.workspace.project.hosts}


def test_a_line_that_hangs_between_two_posts(driver: Driver) -> None:
    for x in ("-400", "400"):
        driver.menu("host.add-cylinder")
        driver.enter_value("host.at.x", x)
    driver.window.frame()
    driver.window.scene_views[0].choose("Front")
    driver.window.frame()
    driver.settle()
    driver.key(Qt.Key.Key_C)
    driver.click(0, (-0.4, 0.0, 0.4))
    driver.click(0, (0.4, 0.0, 0.4))
    driver.enter()
    driver.settle()
    driver.enter_value("width", "8")
    driver.unfold("Path")
    driver.enter_value("sag", "120")
    driver.settle()
    assert driver.path.kind is PathKind.HANGING and len(driver.path.knots) == 2 and not driver.body.has_errors
    assert np.allclose(np.abs(driver.places), ((400, 0, 400), (400, 0, 400)), atol=1e-6)
    lowest = driver.window.workspace.chosen.body.path.polyline[:, 2].min()
    tops = [k.place[2] for k in driver.path.knots]
    assert min(tops) - lowest == pytest.approx(0.12, abs=2e-3)


def two_connectors(file: Path) -> None:
    """An OBJ file, in m, z up: two boxes that face each other, each with a short pipe of 80 mm to plug into."""
    parts = []
    for side, z in ((-1.0, 0.3), (1.0, 0.5)):
        body = trimesh.creation.box((0.3, 0.3, 0.3))
        pipe = trimesh.creation.annulus(0.03, 0.04, 0.1, sections=48)
        pipe.apply_transform(trimesh.transformations.rotation_matrix(np.pi / 2, (0.0, 1.0, 0.0)))
        pipe.apply_translation((-0.2 * side, 0.0, 0.0))
        for part in (body, pipe):
            part.apply_translation((0.8 * side, 0.0, z))
            parts.append(part)
    trimesh.util.concatenate(parts).export(file)


def test_a_hose_between_two_connectors_of_an_imported_host_enters_both_straight(driver: Driver, tmp_path: Path) -> None:
    two_connectors(tmp_path / "rig.obj")
    drop(driver, tmp_path / "rig.obj")
    driver.choose("host.up", "z")
    driver.choose("host.unit", "m")
    driver.settle()
    driver.window.scene_views[0].choose("Front")
    driver.window.frame()
    driver.settle()
    host = driver.window.workspace.project.hosts[0]
    mesh = driver.window.workspace.bodies.builder.host(driver.window.workspace.project, host)
    assert np.allclose(mesh.points.max(0) - mesh.points.min(0), (1.9, 0.3, 0.5), atol=1e-6)
    driver.key(Qt.Key.Key_T)
    for x, z in ((-0.55, 0.34), (0.55, 0.54)):  # on the rims, as they are seen from the side
        driver.move(0, (x, 0.0, z))
        assert "outlet of" in driver.window.toolbox.sketch.label
        driver.click(0, (x, 0.0, z))
    driver.enter()
    driver.settle()
    path, body = driver.path, driver.body
    assert not body.has_errors and body.width == pytest.approx(0.08, abs=1e-4), "as wide as the rim"
    for end, k, way in (("start", 0, 1), ("end", -1, -2)):
        assert plug_of(path, end) is not None
        lead = unit(np.subtract(path.knots[way].place, path.knots[k].place))
        np.testing.assert_allclose(np.abs(lead), (1.0, 0.0, 0.0), atol=1e-6)
    np.testing.assert_allclose(driver.places[[0, -1]], ((-550, 0, 300), (550, 0, 500)), atol=0.2)


def test_a_moulding_round_three_sides_of_the_wagons_counter(driver: Driver) -> None:
    driver.press_button(driver.window.sheet.choices["Open the Lantern Wagon"])
    driver.settle()
    rows = driver.window.list_panel.hosts
    item = next(rows.item(i) for i in range(rows.count()) if rows.item(i).text() == "Stage")
    QTest.mouseClick(rows.viewport(), LEFT, pos=rows.visualItemRect(item).center() - QPoint(30, 0))
    driver.menu("run.only")
    driver.window.frame()
    driver.settle()
    ws = driver.window.workspace
    stage = next(h for h in ws.project.hosts if h.show.name == "Stage")
    points = ws.bodies.builder.host(ws.project, stage).points
    counter = points[np.isclose(points[:, 2], 0.81) & (np.abs(points[:, 0]) > 1.7) & (np.abs(points[:, 1]) < 0.7)]
    (x0, y0, z), (x1, y1, _) = counter.min(0), counter.max(0)
    driver.press_button(driver.window.list_panel.stock.buttons["crown"])
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_E)
    for at in ((x0, 0.2 * y1, z), (0.6 * x0 + 0.4 * x1, y0, z), (x1, 0.2 * y1, z)):
        driver.click(0, at)
    driver.enter()
    driver.settle()
    corners = 1000.0 * np.array(((x0, y1, z), (x0, y0, z), (x1, y0, z), (x1, y1, z)))
    assert len(driver.path.knots) == 4 and not driver.body.findings
    assert min(np.abs(driver.places - c).max() for c in (corners, corners[::-1])) < 1e-3
    assert driver.body.mesh.points[:, 2].max() == pytest.approx(z, abs=1e-9), "its back top corner lies on the edges"
