"""Strokes drawn by dragging become paths of few knots."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QInputDevice, QPointingDevice, QTabletEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from scipy.spatial import cKDTree

from morphax.project.edits.along import knot_value
from morphax.project.lookup import path_of
from tests.app.driver import Driver
from tests.app.job_projects import tape_over_a_ball

NONE = Qt.KeyboardModifier.NoModifier


def stroke(driver: Driver, pane: int, spots: list[tuple[float, float]]) -> None:
    driver.press(pane, spots[0])
    for a, b in zip(spots[:-1], spots[1:], strict=True):
        driver.drag_to(pane, b, start=a)
    driver.release(pane, spots[-1])
    driver.settle()


def wave(x0: float = 60.0, y0: float = 300.0) -> list[tuple[float, float]]:
    return [(x0 + 3.0 * i, y0 + 60.0 * np.sin(i / 14.0)) for i in range(90)]


def test_a_stroke_becomes_a_run_of_few_knots_near_it(driver: Driver) -> None:
    driver.window.scene_views[1].choose("Top")
    driver.settle()
    driver.key(Qt.Key.Key_F)
    stroke(driver, 1, wave(20.0, 250.0))
    assert driver.path.kind == "handles" and 3 <= len(driver.path.knots) <= 12
    assert "of the stroke" in driver.window.help_label.text()
    on_floor = 0.5e3 * driver.body.width
    assert np.allclose(driver.places[:, 2], on_floor) and not driver.body.has_errors
    driver.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert driver.window.workspace.project.runs == ()


def test_the_fit_is_a_length_that_can_be_typed(driver: Driver) -> None:
    driver.window.scene_views[1].choose("Top")
    driver.settle()
    driver.key(Qt.Key.Key_F)
    stroke(driver, 1, wave(20.0, 250.0))
    coarse = len(driver.path.knots)
    driver.unfold("Refine")
    driver.enter_value("refine.stroke", "1 mm")
    driver.pane(1).setFocus()
    drawn = wave(20.0, 350.0)
    stroke(driver, 1, drawn)
    assert len(driver.path.knots) > coarse
    sight, line = driver.view(1).sight, driver.window.workspace.chosen.body.path.polyline
    seen = sight.seen(line)[:, :2]
    dense = np.concatenate([seen[:-1] + t * np.diff(seen, axis=0) for t in np.linspace(0.0, 1.0, 20)])
    off = cKDTree(dense).query(np.array(drawn))[0].max() * sight.scale_at(line[0])
    assert off < 0.001 + 1.5 * sight.scale_at(line[0]), "within the millimetre, and how a hand trembles is smoothed by"


def test_a_click_leaves_nothing_and_esc_drops_a_stroke(driver: Driver) -> None:
    driver.key(Qt.Key.Key_F)
    driver.click(0, (200, 400))
    assert driver.window.workspace.project.runs == ()
    driver.press(0, (100, 400))
    driver.drag_to(0, (200, 350), start=(100, 400))
    driver.key(Qt.Key.Key_Escape)
    driver.release(0, (200, 350))
    assert driver.window.workspace.project.runs == () and driver.window.toolbox.kind == "freehand"


def test_a_stroke_lies_on_the_host_below_it(demo: Driver) -> None:
    ws = demo.window.workspace
    demo.key(Qt.Key.Key_F)
    demo.window.scene_views[1].choose("Top")
    demo.settle()
    roof = next(h for h in ws.project.hosts if h.show.name == "Roof")
    low, high = (f(ws.bodies.builder.host(ws.project, roof).points, axis=0) for f in (np.min, np.max))
    middle = 0.5 * (low + high)
    a, b = (demo.spot(1, (middle[0] + s, middle[1] - 0.15, high[2])) for s in (-0.6, 0.6))
    spots = [(a.x() + (b.x() - a.x()) * k / 30, a.y() + (b.y() - a.y()) * k / 30) for k in range(31)]
    stroke(demo, 1, spots)
    z = demo.places[:, 2] / 1000
    assert (z > low[2]).all() and z == pytest.approx(np.full(len(z), z[0]), abs=0.02)


def test_a_strand_lies_on_its_host_holds_on_and_follows(opened) -> None:
    driver, _ = opened(tape_over_a_ball())
    next(a for a in driver.pane(1).name_button.menu().actions() if a.text() == "Top").trigger()
    driver.settle()
    driver.key(Qt.Key.Key_K)
    a, b = (driver.spot(1, (s, -0.05, 0.3)) for s in (-0.09, 0.09))
    stroke(driver, 1, [(a.x() + (b.x() - a.x()) * k / 40, a.y()) for k in range(41)])
    knots = driver.path.knots
    far = np.linalg.norm(np.array([k.place for k in knots]) - (0.0, 0.0, 0.15), axis=1)
    assert all(k.hold is not None for k in knots)
    assert (far > 0.1495).all() and (far < 0.16).all()  # on the ball, not in it
    assert driver.run.recipe.host == "h1" and driver.run.recipe.placing.orientation == "on the host"
    assert "on the host" in driver.window.help_label.text()
    strand = driver.run.id
    driver.key(Qt.Key.Key_Escape)
    driver.click(0, (0.0, -0.12, 0.22))
    assert driver.window.workspace.selection.hosts == ("h1",)
    driver.enter_value("host.at.x", "2 m")
    driver.settle()
    ws = driver.window.workspace
    after = np.array([k.place for k in path_of(ws.project, strand).knots])
    assert np.allclose(after, np.array([k.place for k in knots]) + (2.0, 0.0, 0.0), atol=1e-9)
    assert ws.bodies[strand].body.mesh.points[:, 0].min() > 1.5 and not ws.bodies[strand].body.has_errors


def test_a_strand_begins_on_a_host_and_ignores_its_neighbours(opened) -> None:
    driver, _ = opened(tape_over_a_ball())
    next(a for a in driver.pane(1).name_button.menu().actions() if a.text() == "Top").trigger()
    driver.settle()
    driver.key(Qt.Key.Key_K)
    off = driver.spot(1, (0.14, 0.14, 0.0))
    stroke(driver, 1, [(off.x(), off.y() - k) for k in range(20)])
    assert "begins on a host" in driver.window.help_label.text() and len(driver.window.workspace.project.runs) == 1
    a, b = (driver.spot(1, (s, 0.05, 0.3)) for s in (-0.09, 0.09))  # right under the tape
    stroke(driver, 1, [(a.x() + (b.x() - a.x()) * k / 40, a.y()) for k in range(41)])
    far = np.linalg.norm(np.array([k.place for k in driver.path.knots]) - (0.0, 0.0, 0.15), axis=1)
    assert (far < 0.16).all() and all(k.hold is not None for k in driver.path.knots)


def test_the_same_stroke_at_three_zooms_gives_the_same_fit(driver: Driver) -> None:
    """Judged by how far the paths are from the true curve and from each other, not by counting knots."""
    driver.window.scene_views[1].choose("Top")
    driver.settle()
    driver.key(Qt.Key.Key_F)
    x = np.linspace(-0.6, 0.6, 121)
    curve = np.stack([x, 0.25 * np.sin(4.0 * x), np.zeros(121)], axis=1)
    heights = []
    for height in (2.6, 4.0, 5.2):
        view = driver.view(1)
        view.set_camera(replace(view.camera, height=height, target=(0.0, 0.0, 0.0)))
        driver.settle()
        stroke(driver, 1, [(float(p[0]), float(p[1])) for p in view.sight.seen(curve)[:, :2]])
        line = driver.window.workspace.chosen.body.path.polyline
        heights.append(np.interp(x, line[:, 0], line[:, 1]))
        driver.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    within = 1.2 / 150.0
    for height in heights:
        assert np.abs(height - curve[:, 1]).max() < 2.0 * within
        assert np.abs(height - heights[0]).max() < 2.0 * within


def test_no_knot_lies_beside_the_ends_of_a_stroke(driver: Driver) -> None:
    """A hand trembles where it sets down and where it lifts."""
    driver.window.scene_views[1].choose("Top")
    driver.settle()
    driver.key(Qt.Key.Key_F)
    spots = wave(40.0, 300.0)
    hook = [(spots[0][0] + 2.0, spots[0][1] - 2.0), (spots[0][0] + 1.0, spots[0][1] + 2.0)]
    stroke(driver, 1, [spots[0], *hook, *spots[1:], (spots[-1][0] - 2.0, spots[-1][1] + 2.0)])
    seen = driver.view(1).sight.seen(driver.places / 1000)[:, :2]
    for tip, others in ((seen[0], seen[1:]), (seen[-1], seen[:-1])):
        assert np.linalg.norm(others - tip, axis=1).min() > 3.0


def pen_stroke(driver: Driver, pane: int, spots: list[tuple[float, float]], pressures: np.ndarray) -> None:
    """A stroke of a pen: each mouse event follows one of the tablet, as the toolkit sends them."""

    def pen(kind: QEvent.Type, at: tuple[float, float], pressure: float) -> None:
        p, none = QPointF(*at), Qt.MouseButton.NoButton
        own = QPointingDevice(
            "pen", 7, QInputDevice.DeviceType.Stylus, QPointingDevice.PointerType.Pen,
            QInputDevice.Capability.Pressure, 1, 1,
        )  # fmt: skip
        target = driver.pane(pane)
        event = QTabletEvent(
            kind, own, p, QPointF(target.mapToGlobal(p)), pressure, 0.0, 0.0, 0.0, 0.0, 0.0, NONE, none, none
        )
        QApplication.sendEvent(target, event)

    pen(QEvent.Type.TabletPress, spots[0], pressures[0])
    driver.press(pane, spots[0])
    for a, b, pressure in zip(spots[:-1], spots[1:], pressures[1:], strict=True):
        pen(QEvent.Type.TabletMove, b, float(pressure))
        driver.drag_to(pane, b, start=a)
    pen(QEvent.Type.TabletRelease, spots[-1], 0.0)
    driver.release(pane, spots[-1])
    driver.settle()


@pytest.mark.parametrize("wanted", [True, False])
def test_how_hard_a_pen_is_pressed_is_the_size_at_the_knots_where_that_is_wanted(driver: Driver, wanted: bool) -> None:
    driver.window.scene_views[1].choose("Top")
    driver.settle()
    driver.key(Qt.Key.Key_F)
    stroke(driver, 1, wave(20.0, 150.0))
    driver.unfold("Refine")
    if wanted:
        QTest.keyClick(driver.field("refine.pen"), Qt.Key.Key_Space)
    driver.pane(1).setFocus()
    spots = wave(20.0, 300.0)
    pen_stroke(driver, 1, spots, np.linspace(0.2, 1.0, len(spots)))
    run = driver.window.workspace.chosen.run
    assert len(driver.window.workspace.project.runs) == 2
    if not wanted:
        assert run.recipe.varying is None
        return
    sizes = [knot_value(run, k.id).size for k in driver.path.knots]
    assert (
        sizes == sorted(sizes)
        and sizes[0] == pytest.approx(0.2, abs=0.03)
        and sizes[-1] == pytest.approx(1.0, abs=0.03)
    )
    rings = driver.window.workspace.chosen.body.body.mesh
    first, last = rings.points[: rings.sides], rings.points[-rings.sides :]
    assert np.ptp(last, axis=0).max() > 3.0 * np.ptp(first, axis=0).max()
    stroke(driver, 1, wave(20.0, 380.0))
    assert driver.window.workspace.chosen.run.recipe.varying is None, "a mouse has no pressure"
