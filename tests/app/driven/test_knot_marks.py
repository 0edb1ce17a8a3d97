"""A knot's own size and roll dragged in the panes."""

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor

from morphax.app.tools.shared.knot_marks import KnotMark, knot_marks
from morphax.app.views.panes.overlay import MARKS
from morphax.app.widgets.theme import LIGHT
from morphax.project.edits.along import knot_value
from morphax.project.edits.paths import reverse_path
from morphax.project.edits.refine import mirrored_runs
from tests.app.driver import Driver
from tests.app.job_projects import column

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def marks(driver: Driver, pane: int = 0) -> dict[str, KnotMark]:
    return {m.what: m for m in knot_marks(driver.window.workspace, driver.view(pane).sight)}


def with_knot(opened, project, k: int = 1) -> Driver:
    """The run and one of its knots chosen by clicks, seen near."""
    driver, _ = opened(project)
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_A, CTRL)
    driver.key(Qt.Key.Key_W, SHIFT)
    driver.settle()
    driver.click(0, np.array(driver.window.workspace.chosen.path.knots[k].place))
    driver.settle()
    assert len(driver.window.workspace.selection.knots) == 1
    return driver


def pulled(driver: Driver, what: str, to: np.ndarray, pane: int = 0) -> None:
    """A mark dragged to a place, m."""
    mark = marks(driver, pane)[what]
    driver.press(pane, mark.place)
    driver.drag_to(pane, to, start=mark.place)
    assert driver.window.toolbox.sketch.label.startswith(what), "it says what it has come to"
    driver.release(pane, to)
    driver.settle()


def value(driver: Driver):
    ws = driver.window.workspace
    return knot_value(ws.chosen.run, ws.selection.knots[0])


@pytest.mark.parametrize("long", [0.005, 1.0, 500.0])
def test_a_knots_size_is_dragged_in_the_view(opened, long: float) -> None:
    driver = with_knot(opened, column(long, knots=3))
    mark = marks(driver)["size"]
    driver.move(0, mark.place)
    assert driver.window.toolbox.sketch.label == "drag: size at the knot"
    steps = driver.window.workspace.history.at
    pulled(driver, "size", mark.centre + 2.0 * (mark.place - mark.centre))
    assert value(driver).size == pytest.approx(2.0, abs=0.15) and driver.window.workspace.history.at == steps + 1
    ring = driver.body.mesh.points[np.abs(driver.body.mesh.points[:, 2] - 0.5 * long) < 1e-9 * long]
    assert np.ptp(ring[:, 0]) == pytest.approx(0.1 * long * value(driver).size, rel=1e-6)
    ends = driver.body.mesh.points[np.abs(driver.body.mesh.points[:, 2]) < 1e-9 * long]
    assert np.ptp(ends[:, 0]) == pytest.approx(0.1 * long), "only there"
    mark = marks(driver)["size"]
    pulled(driver, "size", mark.centre - 0.2 * (mark.place - mark.centre))
    assert value(driver).size == 0.0, "never less than nothing"
    assert "no-size" in {f.code for f in driver.window.workspace.chosen.body.body.findings}
    driver.key(Qt.Key.Key_Z, CTRL)
    driver.key(Qt.Key.Key_Z, CTRL)
    assert driver.window.workspace.chosen.run.recipe.varying is None


@pytest.mark.parametrize("kind", ["plain", "reversed", "mirrored"])
def test_a_knots_roll_follows_the_pointer_round_the_path(opened, kind: str) -> None:
    project = column(1.0, knots=3)
    if kind == "reversed":
        project = reverse_path(project, project.runs[0].recipe.path)
    elif kind == "mirrored":
        project = mirrored_runs(project, [project.runs[0].id], np.zeros(3), 0)
    driver = with_knot(opened, project)
    before = corner_at(driver, 0.5)
    driver.view(0).choose("Top")
    driver.settle()
    mark = marks(driver)["roll"]
    assert mark.faces(driver.view(0).sight)
    way, angle = mark.place - mark.centre, np.radians(30.0)
    spin = np.array([[np.cos(angle), -np.sin(angle), 0], [np.sin(angle), np.cos(angle), 0], [0, 0, 1.0]])
    pulled(driver, "roll", mark.centre + spin @ way)
    assert abs(np.degrees(value(driver).roll)) == pytest.approx(30.0, abs=1.01)
    turned = corner_at(driver, 0.5)
    assert turned - before == pytest.approx(np.degrees(abs(value(driver).roll)), abs=0.1), "as the pointer went"


def corner_at(driver: Driver, z: float) -> float:
    """Direction, degrees, of the ring's point that is farthest to the right and back."""
    points = driver.body.mesh.points
    ring = points[np.abs(points[:, 2] - z) < 1e-9]
    ring = ring if len(ring) else points[points[:, 2] == 0.0]
    angles = np.degrees(np.arctan2(ring[:, 1], ring[:, 0]))
    far = np.hypot(ring[:, 0], ring[:, 1])
    own = angles[far > 0.999 * far.max()]
    return float(min(own[own > 40.0]))


def test_seen_from_the_side_it_turns_like_a_wheel(opened) -> None:
    driver = with_knot(opened, column(1.0, knots=3))
    driver.view(0).choose("Front")
    driver.settle()
    mark = marks(driver)["roll"]
    assert not mark.faces(driver.view(0).sight)
    right = driver.view(0).sight.basis.right
    pulled(driver, "roll", mark.place + 0.5 * mark.reach * right)
    rolled = value(driver).roll
    assert 20.0 < abs(np.degrees(rolled)) < 50.0
    mark = marks(driver)["roll"]
    pulled(driver, "roll", mark.place - 0.5 * mark.reach * right)
    assert value(driver).roll == pytest.approx(0.0, abs=0.1), "and back"


def test_marks_are_painted_for_one_knot_of_one_run(opened) -> None:
    driver = with_knot(opened, column(1.0, knots=3))

    def blue() -> int:
        picture = driver.pane(0).grab().toImage()
        spots = [driver.spot(0, m.place) for m in marks(driver).values()] or [driver.spot(0, np.array([0, 0, 0.5]))]
        near = [(s.x() + dx, s.y() + dy) for s in spots for dx in range(-7, 8) for dy in range(-7, 8)]
        return sum(picture.pixelColor(x, y).name() == QColor(LIGHT.blue).name() for x, y in near)

    shown, kept = blue(), MARKS["values of the knot"]
    MARKS["values of the knot"] = lambda over: None
    driver.pane(0).update()
    bare = blue()
    MARKS["values of the knot"] = kept
    assert shown > bare + 20
    driver.key(Qt.Key.Key_Escape)
    driver.key(Qt.Key.Key_A, CTRL)
    driver.settle()
    assert not marks(driver)
