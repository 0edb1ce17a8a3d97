"""Where clicks, strokes and drags land in the window: scenes of a crate, a post that stands askew, a ball behind."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import Qt

from morphax.core.path.paths import PathKind
from morphax.core.vectors import unit
from morphax.project.model.document import Form, Host, HostPlace, Project, Show
from tests.app.driven.test_freehand import stroke
from tests.app.driver import Driver
from tests.app.job_projects import thread_on_a_table

TURN = 25.0
IDS = {name: f"h{i}" for i, name in enumerate(("crate", "post", "ball", "house", "roof", "table"))}


def host(name: str, kind: str, size: tuple[float, float, float], at: tuple[float, float, float], turn: float = 0.0):
    place = HostPlace(at=at, turn=(0.0, 0.0, float(np.radians(turn))))
    return Host(id=IDS[name], forms=(Form(kind=kind, size=size),), show=Show(name=name), place=place)


def yard(*hosts: Host) -> Project:
    return Project(hosts=hosts, next_id=20)


CRATE = host("crate", "box", (0.5, 0.4, 0.3), (0.0, 0.0, 0.0))
POST = host("post", "box", (0.12, 0.12, 1.2), (0.0, 0.0, 0.0), TURN)
BALL = host("ball", "ball", (0.3, 0.3, 0.3), (0.1, 0.6, 0.25))


def line_of(driver: Driver) -> np.ndarray:
    return driver.window.workspace.chosen.body.path.polyline


def between(driver: Driver, pane: int, a: object, b: object, n: int = 30) -> list[tuple[float, float]]:
    p, q = (driver.spot(pane, np.array(s, dtype=float)) for s in (a, b))
    return [(p.x() + (q.x() - p.x()) * k / n, p.y() + (q.y() - p.y()) * k / n) for k in range(n + 1)]


def test_outward_from_a_post_that_stands_askew_and_it_is_cut_there(opened) -> None:
    driver, _ = opened(yard(POST))
    turn = np.radians(TURN)
    out = np.array([np.sin(turn), -np.cos(turn), 0.0])  # the face that looks to the front
    foot = 0.06 * out + (0.0, 0.0, 0.8)
    view = driver.view(0)
    view.set_camera(replace(view.camera, yaw=turn - 0.5 * np.pi + 0.9, pitch=0.25, target=(0.0, 0.0, 0.8), height=1.2))
    driver.settle()
    driver.catch("grid")
    driver.key(Qt.Key.Key_S)
    driver.click(0, foot)
    driver.click(0, foot + 0.25 * out)
    driver.enter()
    driver.enter_value("width", "10")
    driver.settle()
    way = unit(driver.places[1] - driver.places[0])
    assert way @ out > 0.9999 and np.linalg.norm(driver.places[0] / 1000 - foot) < 0.01
    recipe = driver.run.recipe
    assert recipe.ends.start == "cut to host" and recipe.host == IDS["post"] and recipe.ends.end == "flat"
    driver.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    driver.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert driver.window.workspace.project.runs == ()


def test_along_a_face_nothing_is_cut(opened) -> None:
    driver, _ = opened(yard(CRATE))
    driver.key(Qt.Key.Key_T)
    driver.click(0, (-0.1, -0.05, 0.3))
    driver.click(0, (0.15, 0.1, 0.3))
    driver.enter()
    driver.settle()
    assert driver.run.recipe.ends.start == "flat" and driver.run.recipe.host is None
    assert 0.3 <= driver.body.mesh.points[:, 2].min() < 0.301


def test_a_stroke_round_a_crate_stays_above_the_floor_and_out_of_the_crate(opened) -> None:
    driver, _ = opened(yard(CRATE))
    view = driver.view(0)
    view.set_camera(replace(view.camera, target=(0.0, 0.0, 0.15), height=1.6))
    driver.settle()
    driver.key(Qt.Key.Key_F)
    stroke(driver, 0, between(driver, 0, (-0.3, -0.3, 0.0), (0.3, 0.32, 0.0)))
    line = line_of(driver)
    assert line[:, 2].min() > -1e-6
    inside = (np.abs(line[:, 0]) < 0.245) & (np.abs(line[:, 1]) < 0.195) & (line[:, 2] < 0.295)
    assert not inside.any()


def test_a_stroke_on_the_floor_is_no_curtain(driver: Driver) -> None:
    driver.key(Qt.Key.Key_F)
    stroke(driver, 0, between(driver, 0, (-0.8, -0.4, 0.0), (0.9, 0.6, 0.0)))
    z = line_of(driver)[:, 2]
    assert np.ptp(z) < 1e-9 and z[0] == pytest.approx(0.5 * driver.body.width, rel=1e-9)


def test_in_the_front_view_a_stroke_does_not_jump_to_a_ball_behind_but_ends_on_it(opened) -> None:
    driver, _ = opened(yard(CRATE, BALL))
    driver.window.scene_views[0].choose("Front")
    driver.window.frame()
    driver.settle()
    driver.key(Qt.Key.Key_F)
    stroke(driver, 0, between(driver, 0, (-0.2, -0.2, 0.1), (-0.3, -0.2, 0.45)))
    assert np.ptp(line_of(driver)[:, 1]) < 1e-9
    assert driver.places[0, 1] == pytest.approx(-200 - 500 * driver.body.width, abs=1e-3), "it rests on the crate"
    driver.settle()
    stroke(driver, 0, between(driver, 0, (-0.15, -0.2, 0.15), (0.1, 0.45, 0.42)))
    y = line_of(driver)[:, 1]
    assert y[0] == pytest.approx(-0.2, abs=0.06) and y[-1] > 0.3
    assert np.abs(np.diff(y)).max() < 0.25 * np.ptp(y), "the depth is shared out"


def test_a_floor_knot_dragged_in_perspective_stays_on_the_floor(driver: Driver) -> None:
    driver.key(Qt.Key.Key_T)
    for at in ((-0.6, 0.0, 0.0), (0.0, 0.3, 0.0), (0.6, 0.0, 0.0)):
        driver.click(0, at)
    driver.enter()
    driver.key(Qt.Key.Key_Escape)
    driver.settle()
    was = driver.path.knots[1].place
    driver.drag(0, was, np.array(was) + (0.2, -0.7, 0.0))
    now = driver.path.knots[1].place
    assert now[2] == pytest.approx(was[2], abs=1e-9) and now[1] < was[1] - 0.5


def test_an_edge_that_a_surface_hides_catches_at_no_zoom_but_with_space(opened) -> None:
    driver, _ = opened(yard(host("house", "box", (8.0, 6.0, 5.0), (0.0, 0.0, 0.0))))
    driver.window.frame()
    driver.settle()
    driver.key(Qt.Key.Key_T)
    hidden = (4.0 - 1e-9, 3.0, 0.0)
    view = driver.view(0)
    view.set_camera(replace(view.camera, yaw=-2.2, pitch=0.3))
    driver.settle()
    driver.move(0, hidden)
    assert driver.window.toolbox.sketch.next.caught not in ("corner", "edge", "edge middle")
    driver.window.toolbox.held.add(Qt.Key.Key_Space)
    spot = driver.spot(0, hidden)
    driver.move(0, (spot.x() + 1, spot.y()))
    driver.window.toolbox.held.discard(Qt.Key.Key_Space)
    assert driver.window.toolbox.sketch.next.caught == "corner"


def test_beside_an_outline_a_first_knot_takes_its_depth(opened) -> None:
    driver, _ = opened(yard(host("roof", "box", (2.0, 1.4, 0.1), (0.3, 0.2, 2.4))))
    driver.window.scene_views[1].choose("Top")
    driver.window.frame()
    driver.settle()
    driver.pane(1).setFocus()
    driver.key(Qt.Key.Key_S)
    spot = driver.spot(1, (0.3, -0.5, 2.5))
    driver.move(1, (spot.x(), spot.y() + 15))
    assert driver.window.toolbox.sketch.next.place[2] == pytest.approx(2.5)
    driver.move(1, (spot.x(), spot.y() + 60))
    assert driver.window.toolbox.sketch.next.place[2] == 0.0


# -- a kind stays armed: a drag edits, a click begins --------------------------------------------


def begun_again(driver: Driver, key: Qt.Key) -> None:
    """A path of three knots is drawn, and its kind stays armed."""
    driver.key(key)
    for at in ((-0.6, 0.0, 0.0), (0.0, 0.3, 0.0), (0.6, 0.0, 0.0)):
        driver.click(0, at)
    driver.enter()
    driver.settle()


def test_the_next_path_begins_at_a_knot_of_the_one_just_drawn(driver: Driver) -> None:
    begun_again(driver, Qt.Key.Key_T)
    last = driver.path.knots[-1].place
    driver.click(0, last)
    assert driver.window.toolbox.is_drawing and driver.window.toolbox.draw.knots == [last]
    driver.click(0, (0.9, -0.5, 0.0))
    driver.enter()
    assert len(driver.window.workspace.project.runs) == 2 and driver.path.knots[0].place == last


def test_a_drag_of_a_knot_or_of_the_body_edits_what_was_just_drawn(driver: Driver) -> None:
    begun_again(driver, Qt.Key.Key_T)
    was = np.array(driver.path.knots[1].place)
    driver.drag(0, was, was + (0.1, 0.3, 0.0))
    assert len(driver.window.workspace.project.runs) == 1 and driver.window.toolbox.kind == PathKind.THROUGH
    assert driver.path.knots[1].place[1] > was[1] + 0.1
    driver.enter_value("width", "250")
    driver.settle()
    line = line_of(driver)
    spot = driver.spot(0, line[len(line) // 4])
    beside = (spot.x() + 1.0, spot.y() + 10.0)  # on the body, but not on its path
    driver.drag(0, beside, (beside[0], beside[1] + 60.0))
    assert len(driver.window.workspace.project.runs) == 1 and len(driver.path.knots) == 4, "a knot is pulled out"
    assert "drag" in driver.window.help_label.text() and "click" in driver.window.help_label.text().lower()


def test_a_stroke_from_a_knot_edits_and_with_its_letter_held_draws(driver: Driver) -> None:
    driver.key(Qt.Key.Key_F)
    stroke(driver, 0, between(driver, 0, (-0.6, -0.2, 0.0), (0.4, 0.2, 0.0)))
    line = line_of(driver)
    seen = driver.view(0).sight.seen
    far = np.linalg.norm(seen(line)[:, None, :2] - seen(driver.places / 1000)[:, :2], axis=2).min(1)
    body = line[np.argmax(far)]
    stroke(driver, 0, between(driver, 0, body, body + (0.1, -0.5, 0.0)))
    assert len(driver.window.workspace.project.runs) == 2, "strokes begin on the body"
    last = driver.path.knots[-1].place
    driver.drag(0, last, np.array(last) + (0.2, 0.1, 0.0))
    assert len(driver.window.workspace.project.runs) == 2 and driver.path.knots[-1].place != last
    last = driver.path.knots[-1].place
    driver.window.toolbox.held.add(Qt.Key.Key_F)
    stroke(driver, 0, between(driver, 0, last, np.array(last) + (0.5, 0.3, 0.0)))
    driver.window.toolbox.held.discard(Qt.Key.Key_F)
    assert len(driver.window.workspace.project.runs) == 3, "and on a knot while the letter is held"


def test_the_letter_of_the_armed_kind_is_held_and_not_a_shortcut(driver: Driver) -> None:
    driver.key(Qt.Key.Key_F)
    assert driver.window.toolbox.letters["freehand"] == Qt.Key.Key_F.value
    from PySide6.QtTest import QTest

    QTest.keyPress(driver.pane(0), Qt.Key.Key_F)
    assert Qt.Key.Key_F.value in driver.window.toolbox.held and driver.window.toolbox.kind == "freehand"
    QTest.keyRelease(driver.pane(0), Qt.Key.Key_F)
    assert Qt.Key.Key_F.value not in driver.window.toolbox.held


def test_esc_forgets_a_press_that_waits(driver: Driver) -> None:
    begun_again(driver, Qt.Key.Key_S)
    last = driver.path.knots[-1].place
    driver.press(0, last)
    driver.key(Qt.Key.Key_Escape)
    driver.release(0, last)
    assert not driver.window.toolbox.is_drawing


def test_a_small_thing_on_a_table_is_picked_from_above_however_near_the_view_is(opened) -> None:
    driver, _ = opened(thread_on_a_table())
    view = driver.view(0)
    view.choose("Top")
    view.set_camera(replace(view.camera, target=(0.0, 0.001, 0.0), height=0.03))
    driver.settle()
    driver.click(0, (0.0, 0.001, 0.7))
    assert driver.run.recipe.stations
    driver.key(Qt.Key.Key_T)
    driver.move(0, (0.008, -0.006, 0.7))
    assert driver.window.toolbox.sketch.next.place[2] == pytest.approx(0.7)
