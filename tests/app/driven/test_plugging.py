"""Paths land on hosts, are caught by their corners, edges and rims, and plug into ports."""

from pathlib import Path

import numpy as np
import pytest
import trimesh
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from morphax.project.edits.ports import plug_of
from tests.app.driven.test_hosts import arrive, choose_host, drop
from tests.app.driver import LEFT, Driver

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def pipes(driver: Driver, tmp_path: Path) -> Driver:
    """Two upright stubs of 200 mm, and a slab, seen from above at an angle."""
    scene = trimesh.Scene()
    for name, x in (("left stub", -0.8), ("right stub", 0.8)):
        stub = trimesh.creation.cylinder(radius=0.1, height=0.4, sections=32)
        shift = trimesh.transformations.translation_matrix([x, 0, 0.2])
        scene.add_geometry(stub, node_name=name, geom_name=name, transform=shift)
    slab = trimesh.creation.box(extents=(0.4, 0.8, 0.2))
    shift = trimesh.transformations.translation_matrix([0, 0.8, 0.1])
    scene.add_geometry(slab, node_name="slab", geom_name="slab", transform=shift)
    scene.export(tmp_path / "pipes.obj")
    drop(driver, tmp_path / "pipes.obj")
    driver.key(Qt.Key.Key_Escape)
    return driver


def landing(driver: Driver):
    return driver.window.toolbox.sketch.next


def test_a_click_lands_on_the_face_of_a_host_and_rests_on_it(pipes: Driver) -> None:
    pipes.key(Qt.Key.Key_T)
    spot = (0.03, 0.7, 0.2)
    pipes.move(0, spot)
    assert landing(pipes).caught == "face" and landing(pipes).place[2] == pytest.approx(0.2, abs=1e-6)
    pipes.click(0, spot)
    pipes.move(0, (0.06, 0.95, 0.2))
    reach = landing(pipes).place[2] - 0.2
    pipes.click(0, (0.06, 0.95, 0.2))
    pipes.enter()
    pipes.settle()
    assert pipes.body.mesh.points[:, 2].min() == pytest.approx(0.2, abs=2e-3)
    assert reach == pytest.approx(0.5 * pipes.body.width, rel=1e-6)
    assert pipes.places[0, 2] == pipes.places[1, 2], "the first rests too, once the second lies on the same surface"


def test_corners_edges_and_middles_catch_and_each_kind_can_be_off(pipes: Driver) -> None:
    pipes.key(Qt.Key.Key_T)
    corner, middle, along = (-0.2, 0.4, 0.2), (0.0, 0.4, 0.2), (0.1, 0.4, 0.2)
    for spot, kind in ((corner, "corner"), (middle, "edge middle"), (along, "edge")):
        pipes.move(0, spot)
        assert landing(pipes).caught == kind
        ways = np.abs(np.array(landing(pipes).target.ways))
        assert np.allclose(ways.max(1), 1.0), "along the edges of the block, for the mark"
        assert (len(ways) in (2, 3) if kind == "corner" else len(ways) == 1) and (
            kind == "corner" or np.allclose(ways, [[1, 0, 0]])
        )
        assert np.allclose(landing(pipes).place, spot, atol=1e-6 if kind != "edge" else 5e-3)
    for name, spot in (("middles", middle), ("corners", corner)):
        pipes.catch(name)
        pipes.move(0, spot)
        assert landing(pipes).caught == "edge"
    pipes.catch("edges")
    pipes.move(0, along)
    assert landing(pipes).caught not in ("edge", "corner", "edge middle")
    pipes.move(0, along, CTRL)
    assert landing(pipes).caught == "edge middle" or landing(pipes).caught == "edge", "held Ctrl turns all kinds round"


def test_corners_behind_a_surface_do_not_catch(pipes: Driver) -> None:
    pipes.key(Qt.Key.Key_T)
    view = pipes.view(0)
    hidden = np.array([[-0.2, 1.2, 0.0]])
    x, y, _ = view.sight.seen(hidden)[0]
    pipes.move(0, (x, y))
    assert landing(pipes).caught == "face" and np.linalg.norm(landing(pipes).place - hidden[0]) > 0.1


def test_a_hose_is_drawn_from_rim_to_rim_in_two_clicks_straight_out_of_both(pipes: Driver) -> None:
    ws = pipes.window.workspace
    pipes.key(Qt.Key.Key_T)
    rim = lambda x: (x + 0.1 * np.cos(-1.0), 0.1 * np.sin(-1.0), 0.4)  # noqa: E731
    pipes.move(0, rim(-0.8))
    assert landing(pipes).caught == "port" and np.allclose(landing(pipes).place, (-0.8, 0.0, 0.4), atol=1e-4)
    pipes.click(0, rim(-0.8))
    pipes.click(0, rim(0.8), double=True)
    pipes.settle()
    path, body = pipes.path, pipes.body
    assert [len(h.ports) for h in ws.project.hosts] == [1, 1, 0]
    assert body.width == pytest.approx(0.2, rel=5e-3), "it takes the port's diameter"
    places = np.array([k.place for k in path.knots])
    assert np.allclose(places[[0, -1]], [(-0.8, 0.0, 0.4), (0.8, 0.0, 0.4)], atol=1e-4)
    assert len(places) == 4 and np.allclose(places[1] - places[0], (0, 0, 1.5 * body.width), atol=1e-6)
    assert np.allclose(body.start_axes[2], (0, 0, 1), atol=1e-9)
    assert plug_of(path, "start") and plug_of(path, "end")
    assert not [f for f in body.findings if f.severity == "error"]


def test_what_is_plugged_in_follows_its_host_and_lets_go_when_it_is_moved(pipes: Driver) -> None:
    test_a_hose_is_drawn_from_rim_to_rim_in_two_clicks_straight_out_of_both(pipes)
    ws = pipes.window.workspace
    run = ws.selection.runs
    pipes.key(Qt.Key.Key_Escape)
    choose_host(pipes, "right stub")
    pipes.enter_value("host.at.x", "300")
    pipes.settle()
    path = next(p for p in ws.project.paths)
    assert np.allclose(path.knots[-1].place, (1.1, 0.0, 0.4), atol=1e-4)
    assert np.allclose(path.knots[-2].place, (1.1, 0.0, 0.7), atol=2e-3)
    pipes.key(Qt.Key.Key_Z, CTRL)
    assert np.allclose(ws.project.paths[0].knots[-1].place, (0.8, 0.0, 0.4), atol=1e-4)
    rows = pipes.window.list_panel.runs
    QTest.mouseClick(rows.viewport(), LEFT, pos=rows.visualItemRect(rows.item(0)).center())
    assert ws.selection.runs == run
    pipes.drag(0, ws.project.paths[0].knots[-1].place, (0.9, 0.4, 0.0))
    assert plug_of(ws.project.paths[0], "end") is None and plug_of(ws.project.paths[0], "start") is not None
    assert all(k.hold is None for k in ws.project.paths[0].knots[2:])


def test_a_path_end_dropped_on_a_rim_plugs_in(pipes: Driver) -> None:
    pipes.key(Qt.Key.Key_T)
    pipes.click(0, (-0.3, -0.6, 0.0))
    pipes.click(0, (0.4, -0.6, 0.0), double=True)
    pipes.key(Qt.Key.Key_Escape)
    pipes.settle()
    pipes.enter_value("width", "20 mm")
    pipes.drag(0, pipes.path.knots[-1].place, (0.9, 0.0, 0.4))
    pipes.settle()
    plug = plug_of(pipes.path, "end")
    assert plug is not None and plug.lead == pytest.approx(0.03)
    assert np.allclose(pipes.path.knots[-1].place, (0.8, 0.0, 0.4), atol=1e-4)
    assert pipes.window.workspace.history.undo_label == "Plug in"


def test_lead_and_tuck_are_values_and_the_ports_are_let_go(pipes: Driver) -> None:
    test_a_hose_is_drawn_from_rim_to_rim_in_two_clicks_straight_out_of_both(pipes)
    pipes.key(Qt.Key.Key_Escape)
    pipes.unfold("Path")
    pipes.enter_value("plug.start.lead", "300 mm")
    assert np.allclose(pipes.places[1], (-800, 0, 700), atol=0.01)
    pipes.enter_value("plug.end.tuck", "50 mm")
    assert np.allclose(pipes.places[-1], (800, 0, 350), atol=0.01)
    pipes.menu("path.unplug")
    assert all(k.hold is None for k in pipes.path.knots)


def test_a_port_is_picked_on_a_face_on_a_rim_and_at_a_point(pipes: Driver) -> None:
    ws = pipes.window.workspace
    pipes.key(Qt.Key.Key_U)
    pipes.click(0, (0.0, 0.8, 0.2))
    pipes.click(0, (-0.8 + 0.1 * np.cos(-1.0), 0.1 * np.sin(-1.0), 0.4))
    pipes.click(0, (0.08, 0.6, 0.2), Qt.KeyboardModifier.ShiftModifier)
    slab = next(h for h in ws.project.hosts if h.show.name == "slab")
    face, point = slab.ports
    assert face.found == "face" and np.allclose(face.centre, (0.0, 0.8, 0.2), atol=1e-6)
    assert face.diameter == pytest.approx(2 * np.sqrt(0.32 / np.pi)) and np.allclose(face.direction, (0, 0, 1))
    assert point.found == "point" and np.allclose(point.centre, (0.08, 0.6, 0.2), atol=6e-3) and point.diameter == 0.0
    assert ws.project.hosts[0].ports[0].found == "rim"
    pipes.key(Qt.Key.Key_Escape)
    choose_host(pipes, "slab")
    card = pipes.window.inspector.host_card
    pipes.press_button(card.ports.itemAt(0).widget().layout().itemAt(1).widget())
    assert [p.found for p in next(h for h in ws.project.hosts if h.show.name == "slab").ports] == ["point"]


def test_a_knot_holds_on_to_a_host_and_follows_it(pipes: Driver) -> None:
    ws = pipes.window.workspace
    pipes.key(Qt.Key.Key_S)
    pipes.click(0, (0.0, 0.8, 0.2))
    pipes.click(0, (0.6, 1.0, 0.0), double=True)
    pipes.key(Qt.Key.Key_Escape)
    pipes.settle()
    first = pipes.path.knots[0].place
    pipes.click(0, first)
    pipes.key(Qt.Key.Key_U, SHIFT)
    assert pipes.path.knots[0].hold is not None
    run = ws.selection.runs
    choose_host(pipes, "slab")
    pipes.enter_value("host.at.z", "100")
    assert np.allclose(ws.project.paths[0].knots[0].place, np.array(first) + (0, 0, 0.1))
    assert run and ws.project.paths[0].knots[1].hold.host is None, "the other end rests on the floor"


def test_a_file_saved_anew_takes_ports_and_edges_along_and_says_what_is_lost(pipes: Driver, tmp_path: Path) -> None:
    test_a_hose_is_drawn_from_rim_to_rim_in_two_clicks_straight_out_of_both(pipes)
    scene = trimesh.Scene()
    stub = trimesh.creation.cylinder(radius=0.1, height=0.4, sections=32)
    scene.add_geometry(stub.copy().apply_translation((-0.8, 0.3, 0.2)), node_name="left stub", geom_name="left stub")
    block = trimesh.creation.box(extents=(0.2, 0.2, 0.4)).apply_translation((0.8, 0, 0.2))
    scene.add_geometry(block, node_name="right stub", geom_name="right stub")
    slab = trimesh.creation.box(extents=(0.4, 0.8, 0.2)).apply_translation((0, 0.8, 0.1))
    scene.add_geometry(slab, node_name="slab", geom_name="slab")
    scene.export(tmp_path / "pipes.obj")
    pipes.key(Qt.Key.Key_Escape)
    pipes.key(Qt.Key.Key_F5)
    arrive(pipes)
    ws = pipes.window.workspace
    knots = ws.project.paths[0].knots
    assert np.allclose(knots[0].place, (-0.8, 0.3, 0.4), atol=1e-3)
    assert "not found again: port 1 of right stub" in pipes.window.help_label.text()
    assert np.allclose(knots[-1].place, (0.8, 0.0, 0.4), atol=1e-3)
    pipes.key(Qt.Key.Key_Z, CTRL)
    assert np.allclose(ws.project.paths[0].knots[0].place, (-0.8, 0.0, 0.4), atol=1e-3)


def test_c_between_two_rims_droops_straight_out_of_both_with_its_own_stiffness(pipes: Driver) -> None:
    pipes.key(Qt.Key.Key_C)
    rim = lambda x: (x + 0.1 * np.cos(-1.0), 0.1 * np.sin(-1.0), 0.4)  # noqa: E731
    pipes.click(0, rim(-0.8))
    pipes.click(0, rim(0.8), double=True)
    pipes.settle()
    path, ws = pipes.path, pipes.window.workspace
    assert path.kind == "hanging" and plug_of(path, "start") is not None and plug_of(path, "end") is not None
    width, line = pipes.body.width, ws.chosen.body.path.polyline
    assert np.allclose(line[0], (-0.8, 0.0, 0.4), atol=1e-4) and np.allclose(line[-1], (0.8, 0.0, 0.4), atol=1e-4)
    assert path.knots[1].place[2] == pytest.approx(0.4 + 1.5 * width, abs=1e-6), "straight up out of the rim"
    assert len(ws.chosen.body.path.resolved.legs) == 1, "no corner where the lead ends"
    assert line[:, 2].max() > 0.4 + 1.5 * width + 0.02, "it goes on upward before it bends"
    pipes.unfold("Path")
    before = pipes.body.length
    pipes.enter_value("stiffness", "0")
    pipes.settle()
    assert len(ws.chosen.body.path.resolved.legs) == 3 and line[:, 2].max() > ws.chosen.body.path.polyline[:, 2].max()
    pipes.menu("edit.undo")
    pipes.enter_value("sag", "250 mm")
    assert "snaps" in pipes.window.help_label.text(), "so stiff a hose stands upright, or hangs far lower"
    pipes.enter_value("sag", "450 mm")
    pipes.settle()
    line = ws.chosen.body.path.polyline
    lowest = line[np.abs(line[:, 0]) < 0.5, 2].min()
    assert lowest == pytest.approx(0.4 + 1.5 * width - 0.45, abs=1e-4)
    assert pipes.body.length != pytest.approx(before)


def test_a_knot_holds_on_to_another_run_and_follows_its_drag(driver: Driver) -> None:
    driver.window.scene_views[0].choose("Top")
    driver.settle()
    for a, b in (((-0.4, 0.0, 0.0), (0.4, 0.0, 0.0)), ((0.0, 0.003, 0.0), (0.1, 0.3, 0.0))):
        driver.key(Qt.Key.Key_S)
        driver.click(0, a)
        driver.click(0, b)
        driver.enter()
        driver.settle()
    driver.key(Qt.Key.Key_Escape)
    rail, branch = driver.window.workspace.project.runs
    driver.click(0, np.array(driver.path.knots[0].place))
    driver.key(Qt.Key.Key_U, SHIFT)
    assert "will follow" in driver.window.help_label.text()
    assert driver.path.knots[0].hold is not None and driver.path.knots[0].hold.path == rail.recipe.path
    driver.click(0, (-0.3, 0.0, 0.0))
    assert driver.run.id == rail.id
    driver.drag(0, (-0.2, 0.0, 0.0), (-0.2, -0.15, 0.0))
    driver.settle()
    path = next(p for p in driver.window.workspace.project.paths if p.id == branch.recipe.path)
    now = {k.place[1] for k in driver.path.knots}
    assert max(now) < -0.05 and path.knots[0].place[1] == pytest.approx(max(now), abs=1e-6)


def test_a_hose_between_two_ports_takes_the_way_that_bends_least_until_a_knot_says_otherwise(pipes: Driver) -> None:
    test_a_hose_is_drawn_from_rim_to_rim_in_two_clicks_straight_out_of_both(pipes)
    pipes.key(Qt.Key.Key_Escape)
    ws = pipes.window.workspace

    def top() -> float:
        return float(pipes.body.mesh.points[:, 2].max())

    assert pipes.path.bend is not None and pipes.path.bend.radius == pytest.approx(1.5 * 0.1, rel=5e-3)
    assert not [f for f in pipes.body.findings if f.code == "pinch"]
    before = top()
    pipes.unfold("Path")
    pipes.enter_value("least-bend", "400 mm")
    pipes.settle()
    assert pipes.path.bend.radius == pytest.approx(0.4) and top() > before + 0.1, "wider bends, a higher bow"
    pipes.key(Qt.Key.Key_Z, CTRL)
    pipes.settle()
    assert top() == pytest.approx(before, abs=1e-9)
    said: list[str] = []
    ws.said.connect(said.append)
    pipes.click(0, (0.0, 0.0, before - 0.1), double=True)
    assert len(pipes.path.knots) == 5 and any("no longer its own way" in s for s in said)
