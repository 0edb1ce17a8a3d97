"""The second view beside the first: framed on what is chosen, and still under the hand; words about the ground."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPoint
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtTest import QTest

from morphax.app.session.camera import FLAT_VIEWS, Camera, basis, right_angle_view, widened
from morphax.app.session.sight import CameraSight
from morphax.app.views.panes.drawing import View
from morphax.app.views.panes.ground_words import FLOOR, floor_line, grid_words, paint_ground_words
from morphax.app.widgets.theme import DARK, LIGHT
from morphax.project.edits.runs import set_width
from morphax.project.things import Selection
from tests.app.driver import LEFT, Driver
from tests.app.test_pictures import pictures, request

SIZE = (300, 600)


def in_sight(camera: Camera, points: np.ndarray, size: tuple[int, int] = SIZE) -> bool:
    seen = CameraSight(camera, size).seen(points)[:, :2]
    return bool((seen >= -1e-6).all() and (seen <= np.array(size) + 1e-6).all())


@pytest.mark.parametrize("view", FLAT_VIEWS)
def test_a_widened_view_shows_what_it_showed_and_the_points_and_never_narrows(view: str) -> None:
    rng = np.random.default_rng(3)
    camera = Camera(view, target=(1.0, -2.0, 0.5), height=2.0)
    b, half = basis(camera), np.array([0.5, 1.0])
    corners = np.array(camera.target) + np.array([[i, j] for i in (-1, 1) for j in (-1, 1)]) * half @ [b.right, b.up]
    for _ in range(20):
        points = rng.normal(size=(3, 3)) * 3.0
        wide = widened(camera, points, SIZE)
        assert in_sight(wide, points) and in_sight(wide, corners) and wide.height >= camera.height
        assert wide.height < 60.0 and wide.view == view
    inner = np.array(camera.target) + 0.4 * (b.right * 0.5 + b.up)
    assert widened(camera, inner[None], SIZE) is camera and widened(camera, np.empty((0, 3)), SIZE) is camera


@pytest.mark.parametrize(
    ("yaw", "pitch", "extent", "view"),
    [
        (0.0, 0.4, (2.0, 0.1, 0.1), "Top"),  # looked at along its length, from a little above
        (1.57, 0.1, (2.0, 2.0, 0.01), "Top"),  # lies flat
        (0.7, 1.2, (0.1, 0.1, 3.0), "Front"),  # upright, seen from above
    ],
)
def test_beside_perspective_stands_the_view_that_adds_most(yaw, pitch, extent, view) -> None:
    first = Camera(yaw=yaw, pitch=pitch)
    points = np.array([np.zeros(3), np.array(extent)])
    chosen = right_angle_view(first, points, adds=True)
    looks = np.abs(basis(first).forward) * extent
    hidden = {"Front": 1, "Right": 0, "Top": 2}
    assert looks[hidden[chosen]] == looks.min() and chosen in (view, "Right", "Front")
    if view == "Top":
        assert chosen == "Top" or looks[2] > looks.min()


def share(demo: Driver, run: str) -> float:
    """How much of the second view's width or height a run takes."""
    view, pane = demo.view(1), demo.pane(1)
    size = np.ptp(view.sight.seen(demo.window.workspace.bodies[run].body.mesh.points)[:, :2], axis=0)
    return float(max(size[0] / pane.width(), size[1] / pane.height()))


def test_it_is_framed_anew_when_the_choice_changes_and_only_then(demo: Driver) -> None:
    ws, second = demo.window.workspace, demo.view(1)
    runs = [r.id for r in ws.project.runs]
    demo.pane(0).setFocus()
    for run in runs[:4]:
        ws.select(Selection.of((run,)))
        demo.settle()
        assert 0.6 < share(demo, run) < 0.8, "with a margin of its surroundings"
    camera = second.camera
    ws.edit("Width", set_width(ws.project, (runs[3],), 0.03))
    demo.settle()
    ws.select(Selection())
    demo.settle()
    assert second.camera == camera, "neither an edit nor letting go moves it"
    demo.window.frame()
    demo.settle()
    assert share(demo, runs[3]) < 0.5 and second.camera != camera


def test_with_nothing_chosen_the_shape_alone_counts_and_front_comes_first() -> None:
    post = np.array([[-0.1, -0.1, 0.0], [0.1, 0.1, 1.2]])
    for yaw in (0.0, 0.5, 1.0, 1.5):
        assert right_angle_view(Camera(yaw=yaw), post) == "Front"
    assert right_angle_view(Camera(yaw=-1.05, pitch=0.38), post, adds=True) == "Right"


def test_a_click_in_the_second_view_does_not_move_it(demo: Driver) -> None:
    ws, second = demo.window.workspace, demo.view(1)
    gutter = next(r.id for r in ws.project.runs if r.show.name == "Gutter")
    was, pane = second.camera, demo.pane(1)
    points = second.sight.seen(ws.bodies[gutter].body.mesh.points)[:, :2]
    points = points[((points > 10.0) & (points < [pane.width() - 10.0, pane.height() - 10.0])).all(1)]
    for pixel in points[:: max(1, len(points) // 40)]:
        QTest.mouseClick(demo.pane(1), LEFT, pos=QPoint(*(int(v) for v in pixel)))
        demo.settle()
        if ws.selection.runs:
            break
    assert ws.selection.runs and second.camera == was
    ws.edit("Width", set_width(ws.project, (gutter,), 3.0))
    demo.settle()
    assert second.camera == was, "nor does what grows out of it while the hand is there"


def test_it_widens_for_a_knot_that_leaves_it_and_never_narrows(driver: Driver) -> None:
    w, second = driver.window, driver.view(1)
    w.arm("straight")
    driver.click(0, (250, 300))
    driver.settle()
    before = second.camera
    driver.wheel(0, (250, 300), -12)  # far out: the next knot lies beyond the second view
    driver.click(0, (480, 330))
    driver.settle()
    wide = second.camera
    assert wide.view == before.view and wide.height > before.height
    knots = np.array(w.toolbox.sketch.knots)
    assert len(knots) == 2 and in_sight(wide, knots, second.sight.size)
    driver.click(0, (300, 320))
    assert second.camera.height >= wide.height


def test_it_stays_where_it_was_moved_by_hand_while_something_is_drawn(driver: Driver) -> None:
    driver.wheel(1, (150, 200), 2)
    moved = driver.view(1).camera
    driver.window.arm("straight")
    driver.click(0, (250, 300))
    driver.wheel(0, (250, 300), -12)
    driver.click(0, (480, 330))
    driver.settle()
    assert len(driver.window.toolbox.sketch.knots) == 2 and driver.view(1).camera == moved


def test_a_side_that_was_chosen_from_its_menu_stays(demo: Driver) -> None:
    ws, second = demo.window.workspace, demo.view(1)
    next(a for a in demo.pane(1).name_button.menu().actions() if a.text().startswith("Left")).trigger()
    demo.pane(0).setFocus()
    for run in ws.project.runs[:3]:
        ws.select(Selection.of((run.id,)))
        demo.settle()
        assert second.camera.view == "Left" and not second.title.endswith("angles")


def test_flat_views_and_perspective_lie_on_one_ground() -> None:
    for tokens in (LIGHT, DARK):
        low = Camera("Perspective", yaw=0.3, pitch=1.3)
        views = [Camera(v) for v in ("Top", "Front", "Right", "Left", "Back")]
        grounds = [
            np.median(p.reshape(-1, 3), axis=0)
            for p in pictures(*(request(c, (), tokens=tokens) for c in (low, *views)))
        ]
        wanted = [int(tokens.floor[i : i + 2], 16) for i in (1, 3, 5)]
        for ground in grounds:
            assert np.abs(ground - wanted).max() <= 3


@pytest.mark.parametrize(
    ("camera", "unit", "words", "floor"),
    [
        (Camera("Front", target=(0.0, 0.0, 0.2), height=1.0), "mm", "grid 20 mm", 420.0),
        (Camera("Right", target=(5.0, 1.0, -0.1), height=2.0), "cm", "grid 5 cm", 270.0),
        (Camera("Top", height=1.0), "mm", "grid 20 mm", None),
        (Camera("Perspective", height=1.0), "m", "grid 0.02 m, lines 0.1 m", None),
    ],
)
def test_words_of_the_ground(qapp, camera, unit, words, floor) -> None:
    image = QImage(400, 600, QImage.Format.Format_RGB32)
    image.fill(QColor(LIGHT.floor))
    painter = QPainter(image)
    view = View(painter, CameraSight(camera, (400, 600)), LIGHT, unit)
    assert grid_words(view).replace("\u2009", " ").replace("\u202f", " ") == words
    line = floor_line(view)
    assert (line is None) == (floor is None) and (floor is None or line == pytest.approx(floor))
    paint_ground_words(view)
    painter.end()
    dark = np.array([[image.pixelColor(x, y).lightness() for x in range(400)] for y in range(600)]) < 170
    assert dark[575:595, 300:395].any() and not dark[:, :200].any(), "at the lower right"
    if floor is not None:
        below = dark[int(floor) + 2 :, 340:395]
        assert below[:14].any() and not below[14:40].any(), f"{FLOOR} stands close below its line"
    free = np.array([p for p, _ in view.labels.kept_free])
    assert len(free) and dark[575:595].any(axis=0).nonzero()[0].min() >= free[:, 0].min() - 8.0


def test_the_floor_out_of_sight_has_no_word(qapp) -> None:
    image = QImage(400, 600, QImage.Format.Format_RGB32)
    painter = QPainter(image)
    near = View(painter, CameraSight(Camera("Front", target=(0.0, 0.0, 0.2), height=1.0), (400, 600)), LIGHT)
    far = replace(near, sight=CameraSight(Camera("Front", target=(0.0, 0.0, 5.0), height=1.0), (400, 600)))
    said = []
    for view in (near, far):
        view.labels.kept_free.clear()
        paint_ground_words(view)
        said.append(len({round(float(p[1])) for p, _ in view.labels.kept_free}))
    painter.end()
    assert said == [2, 1]
