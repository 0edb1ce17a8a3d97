"""Labels over a picture, and the arrow back to the scene."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtTest import QTest

from morphax.app.session.camera import Camera, framed
from morphax.app.session.sight import CameraSight
from morphax.app.views.panes import drawing
from morphax.app.views.panes.labels import Label, Labels, boxes_of, placed
from morphax.app.views.panes.way_back import WORDS, out_of_sight
from morphax.demo import lantern_wagon, practice_table
from morphax.project.lookup import path_of
from morphax.project.things import Selection
from tests.app.driver import Driver

ROOM = (500.0, 400.0)
SIZES = st.tuples(st.floats(20.0, 160.0), st.just(20.0))
PIXELS = st.tuples(st.floats(0.0, 500.0), st.floats(0.0, 400.0))


def overlaps(a: np.ndarray, b: np.ndarray) -> bool:
    return bool(a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3])


def is_inside(box: np.ndarray, room: tuple[float, float] = ROOM) -> bool:
    return bool(box[0] >= 0.0 and box[1] >= 30.0 and box[2] <= room[0] and box[3] <= room[1])


@given(st.lists(st.tuples(SIZES, PIXELS, PIXELS), min_size=1, max_size=6))
def test_labels_stay_inside_and_off_each_other_and_off_what_is_handled(wanted) -> None:
    sizes = np.array([s for s, _, _ in wanted])
    spots = np.array([(np.array(of) + [12.0, -8.0], of) for _, of, _ in wanted])
    knots = [np.array([x - 7.0, y - 7.0, x + 7.0, y + 7.0]) for _, _, (x, y) in wanted]
    boxes = placed(sizes, spots, ROOM, knots)
    assert all(is_inside(b) for b in boxes)
    np.testing.assert_allclose(boxes[:, 2:] - boxes[:, :2], sizes, atol=1e-9)
    for k, box in enumerate(boxes):
        assert not any(overlaps(box, other) for other in (*boxes[:k], *knots)), "six fit everywhere"


def test_a_label_stays_at_its_place_where_that_is_free_and_goes_to_the_nearest_free_one_where_not() -> None:
    spot = np.array([[(112.0, 192.0), (100.0, 200.0)]])
    (own,) = placed(np.array([[80.0, 20.0]]), spot, ROOM, [])
    assert own.tolist() == [112.0, 172.0, 192.0, 192.0]
    (moved,) = placed(np.array([[80.0, 20.0]]), spot, ROOM, [own])
    away = np.maximum(np.maximum(moved[:2] - [100.0, 200.0], [100.0, 200.0] - moved[2:]), 0.0)
    assert not overlaps(moved, own) and np.hypot(*away) < 15.0


@pytest.fixture
def asked(monkeypatch) -> list[tuple[list, np.ndarray, tuple[float, float]]]:
    """All labels that are painted, with their boxes and the size of their pane."""
    out = []
    boxes_of = drawing.boxes_of

    def kept(labels, sizes, room):
        boxes = boxes_of(labels, sizes, room)
        out.append((labels.wanted, boxes, room))
        return boxes

    monkeypatch.setattr(drawing, "boxes_of", kept)
    return out


def painted(driver: Driver, index: int) -> None:
    pane = driver.pane(index)
    image = QImage(pane.size(), QImage.Format.Format_RGB32)
    with QPainter(image) as painter:
        driver.view(index).paint(painter)


@pytest.mark.parametrize("project", [lantern_wagon, practice_table])
def test_no_two_labels_meet_from_24_sides(driver, asked, project) -> None:
    driver.window.workspace.restart(project())
    ws = driver.window.workspace
    if ws.project.runs:
        run = ws.project.runs[1].id
        ws.select(Selection.of((run,), (path_of(ws.project, run).knots[4].id,)))
    driver.settle()
    view = driver.view(0)
    most = 0
    for k in range(24):
        camera = Camera("Perspective", yaw=2.0 * np.pi * k / 12.0, pitch=0.15 if k < 12 else 0.7)
        box = np.concatenate(
            [ws.bodies.tally.box, *(ws.bodies.builder.host(ws.project, h).bounds for h in ws.project.hosts)]
        )
        view.set_camera(framed(camera, box, view.sight.size))
        asked.clear()
        painted(driver, 0)
        ((labels, boxes, room),) = asked
        most = max(most, len(labels))
        for i, one in enumerate(boxes):
            assert is_inside(one, room)
            assert not any(overlaps(one, other) for other in boxes[:i]), [lb.text for lb in labels]
    assert most >= 3


def test_the_ports_of_the_chosen_path_are_named_and_labels_fade_while_the_view_turns(
    driver, asked, monkeypatch
) -> None:
    driver.window.workspace.restart(lantern_wagon())
    ws = driver.window.workspace
    driver.window.frame()
    asked.clear()
    ws.select(Selection.of((ws.project.runs[1].id,)))
    driver.settle()
    painted(driver, 0)
    assert {"port: Stage", "port: Fog box"} <= {lb.text for lb in asked[-1][0]}
    faded = []
    monkeypatch.setattr(
        "morphax.app.views.panes.overlay.paint_labels", lambda view, *, faded=False, to=faded: to.append(faded)
    )
    pane = driver.pane(0)
    QTest.mousePress(pane, Qt.MouseButton.MiddleButton, pos=QPoint(300, 300))
    painted(driver, 0)
    QTest.mouseRelease(pane, Qt.MouseButton.MiddleButton, pos=QPoint(300, 300))
    painted(driver, 0)
    assert True in faded and faded[-1] is False


def test_an_arrow_shows_the_way_back_where_nothing_is_in_sight(driver, asked) -> None:
    driver.window.workspace.restart(lantern_wagon())
    driver.window.frame()
    driver.settle()
    view = driver.view(0)
    there = view.camera
    for away, want in (((40.0, 0.0, 0.0), None), ((-40.0, 0.0, 0.0), None), ((0.0, 0.0, 30.0), (0.0, 1.0))):
        camera = replace(there, target=tuple(np.array(there.target) + away), height=1.0)
        view.set_camera(camera)
        asked.clear()
        painted(driver, 0)
        assert [lb.text for lb in asked[-1][0]].count(WORDS) == 1
        way = out_of_sight(view.sight, driver.window.workspace.bodies.tally.boxes)
        assert way is not None and np.hypot(*way) == pytest.approx(1.0)
        assert float(way @ (view.sight.basis.right @ -np.array(away), view.sight.basis.up @ np.array(away))) > 0.0
        assert want is None or way[1] > 0.9
    view.set_camera(there)
    asked.clear()
    painted(driver, 0)
    assert WORDS not in [lb.text for lb in asked[-1][0]]


def test_one_box_of_thousands_in_sight_is_enough_and_none_has_no_way() -> None:
    sight = CameraSight(Camera("Top", height=2.0), (400, 300))
    far = np.tile(np.array([[[50.0, 50.0, 0.0], [51.0, 51.0, 1.0]]]), (3000, 1, 1))
    way = out_of_sight(sight, far)
    assert way is not None and way[0] > 0.0 and way[1] < 0.0
    near = far.copy()
    near[2777] = [[-0.1, -0.1, 0.0], [0.1, 0.1, 0.1]]
    assert out_of_sight(sight, near) is None and out_of_sight(sight, near[:0]) is None


def test_boxes_come_in_the_order_of_the_labels_and_the_last_one_has_its_own_place() -> None:
    labels = Labels([Label("a", "", np.array([100.0, 200.0]), np.array([70.0, 230.0])) for _ in range(3)])
    sizes = np.array([(40.0, 20.0), (60.0, 20.0), (90.0, 20.0)])
    boxes = boxes_of(labels, sizes, ROOM)
    np.testing.assert_allclose(boxes[:, 2] - boxes[:, 0], sizes[:, 0])
    np.testing.assert_allclose(boxes[2], [100.0, 180.0, 190.0, 200.0])
    assert not overlaps(boxes[0], boxes[2]) and not overlaps(boxes[1], boxes[2]) and not overlaps(boxes[0], boxes[1])


def test_the_arrow_knows_what_reaches_behind_the_eye() -> None:
    """Corners behind the eye are nowhere: those before it say whether a box is in sight."""
    sight = CameraSight(Camera("Perspective", (0.0, 0.0, 0.0), 1.0, 0.0, 0.0), (500, 400))
    b = sight.basis
    eye = np.array(sight.target) - sight.camera.distance * b.forward
    ahead = np.array([eye + s * b.right * 0.02 + t * b.forward for s in (-1, 1) for t in (-3.0, 1.0)])
    aside = np.array([eye - (30.0 + s) * b.right + t * b.forward for s in (-1, 1) for t in (-3.0, 1.0)])
    boxes = [np.array([[p.min(0), p.max(0)]]) for p in (ahead, aside)]
    assert out_of_sight(sight, boxes[0]) is None, "what is before the eye is in sight"
    way = out_of_sight(sight, boxes[1])
    assert way is not None and way[0] < -0.9
