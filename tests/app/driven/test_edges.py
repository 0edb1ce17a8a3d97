"""Paths along edges of hosts, collected click by click."""

from pathlib import Path

import numpy as np
import pytest
import trimesh
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from morphax.core.mesh.measures import volume
from tests.app.driven.test_hosts import drop
from tests.app.driver import Driver

SHIFT = Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def stage(driver: Driver, tmp_path: Path) -> Driver:
    """A box of 2 x 1 x 1 m and a drum beside it."""
    scene = trimesh.Scene()
    box = trimesh.creation.box(extents=(2, 1, 1)).apply_translation((0, 0, 0.5))
    scene.add_geometry(box, node_name="stage", geom_name="stage")
    drum = trimesh.creation.cylinder(radius=0.3, height=0.6, sections=32).apply_translation((1.6, -0.6, 0.3))
    scene.add_geometry(drum, node_name="drum", geom_name="drum")
    scene.export(tmp_path / "stage.glb")
    drop(driver, tmp_path / "stage.glb")
    for host in driver.window.workspace.project.hosts:
        assert host.source is not None
    driver.choose("host.up", "z")
    driver.field("host.up").activated.emit(driver.field("host.up").currentIndex())
    driver.key(Qt.Key.Key_Escape)
    driver.settle()
    return driver


def test_a_cornice_runs_along_three_edges_mitred_with_its_back_top_on_them(stage: Driver) -> None:
    stage.press_button(stage.window.list_panel.stock.buttons["crown"])
    stage.pane(0).setFocus()
    stage.key(Qt.Key.Key_E)
    for spot in ((-0.3, -0.5, 1.0), (1.0, 0.1, 1.0), (0.2, 0.5, 1.0)):
        stage.move(0, spot)
        assert stage.window.toolbox.sketch.lines, spot
        stage.click(0, spot)
    stage.enter()
    stage.settle()
    assert np.allclose(stage.places, [(-1000, -500, 1000), (1000, -500, 1000), (1000, 500, 1000), (-1000, 500, 1000)])
    points = stage.body.mesh.points
    assert points[:, 2].max() == pytest.approx(1.0) and points[:, 1].min() < -0.51, "it hangs below, outside"
    inside = (np.abs(points[:, 0]) < 0.999) & (np.abs(points[:, 1]) < 0.499)
    assert not inside.any() and volume(stage.body.mesh) > 0.0 and stage.body.findings == ()


def test_a_second_click_drops_an_edge_backspace_takes_back_and_esc_leaves_nothing(stage: Driver) -> None:
    ws = stage.window.workspace
    stage.key(Qt.Key.Key_E)
    stage.click(0, (-0.3, -0.5, 1.0))
    stage.click(0, (1.0, 0.1, 1.0))
    assert len(stage.path.knots) == 3
    stage.click(0, (1.0, 0.1, 1.0))
    assert len(stage.window.toolbox.draw.chain.points) == 2
    stage.key(Qt.Key.Key_Backspace)
    assert len(stage.window.toolbox.draw.chain.points) == 3
    stage.key(Qt.Key.Key_Escape)
    assert ws.project.runs == () and not stage.window.toolbox.is_drawing


def test_shift_takes_all_edges_that_go_on_and_o_the_whole_loop(stage: Driver) -> None:
    stage.key(Qt.Key.Key_E)
    stage.click(0, (1.6, -0.9, 0.6), SHIFT)
    stage.settle()
    assert stage.path.closed and len(stage.path.knots) == 32 and stage.path.kind == "through"
    radius = np.linalg.norm(stage.places[:, :2] - (1600, -600), axis=1)
    assert np.allclose(radius, 300, atol=0.01)
    QTest.keyPress(stage.pane(0), Qt.Key.Key_O)
    stage.click(0, (-0.3, -0.5, 1.0))
    QTest.keyRelease(stage.pane(0), Qt.Key.Key_O)
    stage.settle()
    assert stage.path.closed and len(stage.path.knots) == 4 and len(stage.window.workspace.project.runs) == 2


def test_a_gap_is_bridged_and_said(stage: Driver) -> None:
    stage.key(Qt.Key.Key_E)
    stage.click(0, (-0.3, -0.5, 1.0))
    stage.click(0, (1.0, -0.5, 0.3))
    stage.click(0, (0.2, 0.5, 1.0))
    assert "does not meet the chain" in stage.window.help_label.text()


def test_the_path_follows_its_host(stage: Driver) -> None:
    stage.key(Qt.Key.Key_E)
    stage.click(0, (-0.3, -0.5, 1.0))
    stage.enter()
    stage.key(Qt.Key.Key_Escape)
    before = stage.places
    from tests.app.driven.test_hosts import choose_host

    choose_host(stage, "stage")
    stage.enter_value("host.at.z", "250")
    after = np.array([k.place for k in stage.window.workspace.project.paths[0].knots]) * 1000
    assert np.allclose(after, before + (0, 0, 250))


def _beside(driver: Driver, place: tuple[float, float, float], way: tuple[float, float, float]) -> tuple[float, float]:
    """A pixel on a face, some pixels beside a place of its edge, ``way`` into the face."""
    edge, inside = driver.spot(0, place), driver.spot(0, np.array(place) + way)
    d = np.array([inside.x() - edge.x(), inside.y() - edge.y()], dtype=float)
    x, y = np.array([edge.x(), edge.y()]) + 5.0 * d / np.linalg.norm(d)
    return float(x), float(y)


FRONT, TOP = (0.0, 0.0, -0.2), (0.0, 0.2, 0.0)


@pytest.mark.parametrize("way, axis, value", [(FRONT, 1, -500.0), (TOP, 2, 1000.0)])
def test_o_takes_the_loop_on_the_side_of_the_pointer(stage: Driver, way: tuple, axis: int, value: float) -> None:
    stage.key(Qt.Key.Key_E)
    QTest.keyPress(stage.pane(0), Qt.Key.Key_O)
    stage.click(0, _beside(stage, (-0.3, -0.5, 1.0), way))
    QTest.keyRelease(stage.pane(0), Qt.Key.Key_O)
    stage.settle()
    assert stage.path.closed and len(stage.path.knots) == 4
    assert np.allclose(stage.places[:, axis], value)


@pytest.mark.parametrize("way", [FRONT, TOP])
def test_a_half_round_lies_with_its_flat_on_the_face_at_the_pointer(stage: Driver, way: tuple) -> None:
    stage.press_button(stage.window.list_panel.stock.buttons["half-round"])
    stage.pane(0).setFocus()
    stage.key(Qt.Key.Key_E)
    stage.click(0, _beside(stage, (-0.3, -0.5, 1.0), way))
    stage.enter()
    stage.enter_value("width", "40 mm")
    stage.settle()
    low, high = np.array([f(stage.body.mesh.points, axis=0) for f in (np.min, np.max)]) * 1000.0
    if way == FRONT:
        assert np.allclose((low[2], high[2]), (960.0, 1000.0), atol=0.01) and np.isclose(high[1], -500.0)
        assert low[1] == pytest.approx(-520.0, abs=0.3)
    else:
        assert np.allclose((low[1], high[1]), (-500.0, -460.0), atol=0.01) and np.isclose(low[2], 1000.0)
        assert high[2] == pytest.approx(1020.0, abs=0.3)


def test_a_preset_of_a_half_round_keeps_its_own_placing_on_edges(stage: Driver) -> None:
    stock = stage.window.list_panel.stock
    stage.press_button(stock.buttons["half-round"])
    stage.pane(0).setFocus()
    stage.key(Qt.Key.Key_E)
    stage.click(0, _beside(stage, (-0.3, -0.5, 1.0), TOP))
    stage.enter()
    stage.unfold("Placing")
    stage.enter_value("roll", "20")
    wanted = stage.run.recipe.placing
    assert wanted.roll == pytest.approx(np.radians(20.0))
    stage.menu("run.preset")
    stage.key(Qt.Key.Key_Escape)
    stage.click(0, (30, 300))
    stage.press_button(stock.buttons[next(k for k in stock.buttons if k.startswith("preset:"))])
    stage.pane(0).setFocus()
    stage.key(Qt.Key.Key_E)
    stage.click(0, _beside(stage, (1.0, 0.1, 1.0), (0.0, 0.0, -0.2)))
    stage.enter()
    assert len(stage.window.workspace.project.runs) == 2 and stage.run.recipe.placing == wanted
