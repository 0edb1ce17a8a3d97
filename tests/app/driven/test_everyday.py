"""The everyday tool: handles, typed numbers, radii, boxes and handle sets, the strip, and everything by the pointer."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QScrollArea

from morphax.app.tools.path.drags import handle_tips
from morphax.app.tools.shared.handle_set import Part, outline
from morphax.core.body.recipe import End
from morphax.core.path.paths import PathKind
from tests.app.driven.test_first_body import look_from_front
from tests.app.driver import Driver

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
LEFT = Qt.MouseButton.LeftButton
ELBOW = [(-0.5, 0.0, 0.2), (0.3, 0.0, 0.2), (0.3, 0.0, 0.8)]


@pytest.fixture
def elbow(driver: Driver) -> Driver:
    """A straight path with one corner, drawn in the front view."""
    look_from_front(driver)
    driver.key(Qt.Key.Key_S)
    for p in ELBOW[:-1]:
        driver.click(0, p)
    driver.click(0, ELBOW[-1], double=True)
    driver.type("40")
    driver.enter()
    driver.key(Qt.Key.Key_Escape)
    driver.settle()
    return driver


def centre_of(driver: Driver) -> np.ndarray:
    found = driver.window.toolbox.edit.set.centre()
    assert found is not None, "no handle set is shown"
    return found


def test_a_path_with_handles_is_drawn_and_its_handle_dragged(driver: Driver) -> None:
    look_from_front(driver)
    driver.key(Qt.Key.Key_H)
    driver.click(0, (-0.5, 0.0, 0.3))
    driver.drag(0, (0.0, 0.0, 0.3), (0.2, 0.0, 0.5))
    driver.click(0, (0.5, 0.0, 0.3), double=True)
    driver.settle()
    path = driver.path
    assert path.kind is PathKind.HANDLES and [k.kind for k in path.knots] == ["smooth", "in line", "smooth"]
    assert np.allclose(path.knots[1].leaving, (0.2, 0.0, 0.2), atol=0.03)
    driver.key(Qt.Key.Key_Escape)
    driver.click(0, path.knots[1].place)
    tip = next(p for _, which, p in handle_tips(driver.path, {path.knots[1].id}) if which == "leaving")
    driver.drag(0, tip, (0.2, 0.0, 0.1))
    moved = driver.path.knots[1]
    assert moved.leaving[2] < 0.0 < moved.coming[2], "the other handle turns along"
    driver.key(Qt.Key.Key_Z, CTRL)
    assert driver.path.knots[1] == path.knots[1]
    driver.unfold("Path")
    driver.choose("kind", "through")
    assert driver.path.kind is PathKind.THROUGH


def test_numbers_typed_during_a_drag_and_between_clicks(driver: Driver) -> None:
    look_from_front(driver)
    driver.key(Qt.Key.Key_S)
    driver.click(0, (-0.5, 0.0, 0.2))
    driver.move(0, (0.2, 0.0, 0.2))
    driver.type("600")
    assert "distance 600" in driver.window.toolbox.sketch.label
    driver.enter()
    driver.move(0, (0.1, 0.0, 0.6))
    driver.type("+50 x 250")
    driver.enter()
    driver.enter()
    assert driver.places.tolist() == [[-500, 0, 200], [100, 0, 200], [150, 0, 450]]
    driver.key(Qt.Key.Key_Escape)
    start = driver.path.knots[2].place
    driver.press(0, start)
    driver.drag_to(0, (0.15, 0.0, 0.7), start=start)
    driver.key(Qt.Key.Key_Tab)
    for _ in range(3):
        driver.key(Qt.Key.Key_Tab)
    driver.type("+1 in")
    driver.enter()
    driver.release(0, (0.15, 0.0, 0.7))
    assert driver.places[2, 2] == pytest.approx(475.4), "an inch above where the drag began"


def test_r_rounds_the_chosen_corner_and_a_shortened_radius_is_mended(elbow: Driver) -> None:
    elbow.window.panes[0].setFocus()
    elbow.key(Qt.Key.Key_R)
    elbow.type("150")
    elbow.enter()
    assert elbow.path.knots[1].radius == pytest.approx(0.15)
    assert elbow.body.length == pytest.approx(1.4 - 0.3 + 0.075 * np.pi, abs=0.05)
    elbow.click(0, ELBOW[1])
    elbow.enter_value("knot.radius", "5 m")
    assert [f.code for f in elbow.body.findings] == ["radius-shortened"]
    elbow.choose("ends", "flat · domed")
    assert elbow.run.recipe.ends.end is End.DOMED
    elbow.unfold("Corners and ends")
    elbow.enter_value("end.end.radius", "5")
    assert elbow.run.recipe.ends.end_radius == pytest.approx(0.005)


def test_dragging_a_span_moves_it_bends_it_or_pulls_out_a_knot(elbow: Driver) -> None:
    elbow.drag(0, (-0.1, 0.0, 0.2), (-0.1, 0.0, 0.4))
    assert elbow.places[:, 2].tolist() == pytest.approx([400, 400, 800], abs=25)
    elbow.key(Qt.Key.Key_Z, CTRL)
    elbow.unfold("Path")
    elbow.choose("kind", "through")
    elbow.settle()
    spot = elbow.window.workspace.chosen.body.path.polyline[10]
    elbow.drag(0, spot, spot + [0.0, 0.0, 0.2])
    assert len(elbow.path.knots) == 4
    elbow.choose("kind", "handles")
    elbow.settle()
    spot = elbow.window.workspace.chosen.body.path.polyline[60]
    elbow.drag(0, spot, spot + [0.1, 0.0, 0.0])
    assert len(elbow.path.knots) == 4 and "in line" in {k.kind for k in elbow.path.knots}


@pytest.mark.parametrize("kind", ["through", "handles"])
def test_the_end_of_a_thick_body_draws_its_end_knot_along(elbow: Driver, kind: str) -> None:
    elbow.enter_value("width", "300")
    elbow.unfold("Path")
    elbow.choose("kind", kind)
    elbow.settle()
    line = elbow.window.workspace.chosen.body.path.polyline
    for end, inside in ((line[0], line[1]), (line[-1], line[-2])):
        out = (end - inside) / np.linalg.norm(end - inside)
        aside = np.cross(out, [0.0, 1.0, 0.0])
        before = elbow.places
        press = end + 0.1 * aside - 0.04 * out
        elbow.drag(0, press, press + 0.2 * out)
        elbow.settle()
        moved = np.linalg.norm(elbow.places - before, axis=1) > 1.0
        assert len(elbow.path.knots) == 3 and moved.sum() == 1 and (moved[0] or moved[-1])
        assert np.linalg.norm(elbow.places - before) == pytest.approx(200.0, abs=30.0)


def test_a_box_chooses_knots_and_the_handle_set_moves_and_turns_them(elbow: Driver) -> None:
    elbow.drag(0, (0.1, 0.0, 0.9), (0.5, 0.0, 0.05))
    assert len(elbow.window.workspace.selection.knots) == 2
    view = elbow.view(0)
    arrow = outline(view.sight, centre_of(elbow), Part("arrow", 2))
    tip = tuple(float(v) for v in arrow[1])
    elbow.drag(0, tip, (tip[0], tip[1] - 40.0))
    assert elbow.places[0].tolist() == [-500, 0, 200] and elbow.places[1, 2] > 210
    before = elbow.places
    ring = outline(view.sight, centre_of(elbow), Part("ring", 1))
    a, b = (tuple(float(v) for v in ring[k]) for k in (3, 15))
    elbow.drag(0, a, b)
    span = np.linalg.norm(elbow.places[2] - elbow.places[1])
    assert span == pytest.approx(np.linalg.norm(before[2] - before[1]), rel=1e-4) and not np.allclose(
        elbow.places, before
    )
    elbow.key(Qt.Key.Key_Z, CTRL)
    assert np.allclose(elbow.places, before)


def test_a_whole_run_is_moved_by_m_and_by_values(elbow: Driver) -> None:
    elbow.window.panes[0].setFocus()
    elbow.key(Qt.Key.Key_M)
    view = elbow.view(0)
    square = outline(view.sight, centre_of(elbow), Part("square")).mean(0)
    elbow.drag(0, tuple(square), (square[0] + 50.0, square[1]))
    assert elbow.places[0, 0] > -480 and elbow.places[1, 0] - elbow.places[0, 0] == pytest.approx(800)
    elbow.key(Qt.Key.Key_Z, CTRL)
    elbow.unfold("Move and turn")
    elbow.enter_value("move.y", "250")
    assert elbow.places[:, 1].tolist() == [250, 250, 250]
    elbow.enter_value("turn.z", "90")
    assert np.ptp(elbow.places[:, 0]) == pytest.approx(0.0, abs=1e-6)
    elbow.enter_value("scale", "50")
    assert np.ptp(elbow.places[:, 1]) == pytest.approx(400)
    elbow.enter_value("scale", "0")
    assert "scale is more than 0" in elbow.window.help_label.text() and np.ptp(elbow.places[:, 1]) == pytest.approx(400)
    elbow.choose("pivot", "first knot")
    first = elbow.places[0]
    elbow.enter_value("turn.x", "30")
    assert elbow.places[0].tolist() == pytest.approx(first.tolist(), abs=1e-6), "it turns about its first knot"
    elbow.click(0, (5, 300))
    assert elbow.window.workspace.chosen.run is None


def test_the_strip_and_the_panes_point_at_each_other(elbow: Driver) -> None:
    strip, toolbox = elbow.window.strip, elbow.window.toolbox
    x = round(float(strip.ruler.x_of(0.4)))
    QTest.mouseMove(strip, QPoint(x, 60))
    elbow.bot.waitUntil(lambda: toolbox.hover.distance is not None)
    assert toolbox.hover.distance == pytest.approx(0.4, abs=0.01)
    toolbox.hover.over_strip(None)
    elbow.move(0, (0.3, 0.0, 0.5))
    assert toolbox.hover.distance == pytest.approx(1.1, abs=0.02)
    pointed = strip.grab().toImage()
    elbow.move(0, (5, 300))
    assert strip.grab().toImage() != pointed, "the strip marks what is pointed at in a view"
    elbow.window.panes[0].setFocus()
    elbow.key(Qt.Key.Key_F7)
    assert strip.height() == 28 and strip.isVisible()
    elbow.key(Qt.Key.Key_F7)
    assert strip.height() > 100


def test_dragging_a_label_changes_the_number_live_as_one_step(elbow: Driver) -> None:
    row = elbow.window.inspector.essentials[0]
    steps = len(elbow.window.workspace.history.moments)

    def send(kind: QMouseEvent.Type, x: float, buttons: Qt.MouseButton) -> None:
        at = QPoint(round(x), 8)
        elbow._send(kind, row.label, at, LEFT, buttons, Qt.KeyboardModifier.NoModifier)

    send(QMouseEvent.Type.MouseButtonPress, 10, LEFT)
    send(QMouseEvent.Type.MouseMove, 30, LEFT)
    assert (
        elbow.window.workspace.project.runs[0].recipe.size
        != elbow.window.workspace.history.now.project.runs[0].recipe.size
    )
    send(QMouseEvent.Type.MouseMove, 60, LEFT)
    send(QMouseEvent.Type.MouseButtonRelease, 60, Qt.MouseButton.NoButton)
    assert elbow.body.width == pytest.approx(0.06)
    assert len(elbow.window.workspace.history.moments) == steps + 1
    elbow.window.panes[0].setFocus()
    elbow.key(Qt.Key.Key_Z, CTRL)
    assert elbow.body.width == pytest.approx(0.04)


def test_arrow_keys_nudge_and_the_seam_is_shown(elbow: Driver) -> None:
    elbow.click(0, ELBOW[2])
    before = elbow.places
    elbow.pane(0).setFocus()
    elbow.key(Qt.Key.Key_Right)
    elbow.key(Qt.Key.Key_Up)
    step = elbow.view(0).grid * 1000.0
    assert (elbow.places[2] - before[2]).tolist() == pytest.approx([step, 0, step])
    elbow.key(Qt.Key.Key_S, SHIFT)
    assert elbow.window.look.seam
    elbow.unfold("Placing")
    old = elbow.body.mesh.points[0].copy()
    elbow.enter_value("seam", "0.5")
    assert np.linalg.norm(elbow.body.mesh.points[0] - old) > 0.02, "the mesh starts on the other side"


def test_the_inspector_never_grows_wider_than_its_column(elbow: Driver) -> None:
    elbow.choose("ends", "domed · domed")
    elbow.choose("section", "Rounded rectangle")
    for heading in elbow.window.inspector.headings:
        if elbow.window.inspector.headings[heading].isVisible():
            elbow.unfold(heading)
    scroll = elbow.window.inspector.findChild(QScrollArea)
    assert scroll.widget().minimumSizeHint().width() <= scroll.viewport().width()


def test_shift_and_the_axis_keys_keep_a_direction_while_drawing_and_dragging(driver: Driver) -> None:
    driver.key(Qt.Key.Key_S)
    driver.click(0, (-0.5, 0.0, 0.0))
    driver.move(0, (0.3, 0.05, 0.0), SHIFT)
    assert "along x" in driver.window.toolbox.sketch.label
    driver.click(0, (0.3, 0.05, 0.0), SHIFT)
    QTest.keyPress(driver.pane(0), Qt.Key.Key_Z)
    driver.click(0, (0.3, 0.0, 0.6))
    QTest.keyRelease(driver.pane(0), Qt.Key.Key_Z)
    driver.enter()
    driver.settle()
    p = driver.places
    assert p[1, 1] == p[0, 1] and p[1, 2] == 0.0 and np.allclose(p[2, :2], p[1, :2]) and p[2, 2] > 400.0
    driver.key(Qt.Key.Key_Escape)
    QTest.keyPress(driver.pane(0), Qt.Key.Key_Y)
    driver.drag(0, tuple(p[0] / 1000), (-0.3, 0.4, 0.0))
    QTest.keyRelease(driver.pane(0), Qt.Key.Key_Y)
    moved = driver.places[0] - p[0]
    assert moved[0] == 0.0 and moved[2] == 0.0 and moved[1] > 50.0
