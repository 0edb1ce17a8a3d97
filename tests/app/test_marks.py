"""Each mark of the overlay is seen: the picture is another one when its painter does nothing."""

from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QBuffer, QPointF, Qt
from PySide6.QtGui import QColor, QImage

from morphax.app.session.camera import Camera
from morphax.app.session.settings import Settings
from morphax.app.session.sight import CameraSight
from morphax.app.session.workspace import Remark
from morphax.app.tools.routing import PointerRoute
from morphax.app.tools.shared.state import Sketch
from morphax.app.views.panes import camera_view, drawing, marks, overlay, path_marks
from morphax.app.views.panes.overlay import MARKS
from morphax.app.window import Window
from morphax.core.body.recipe import Placing
from morphax.core.findings import Finding, Severity
from morphax.core.frame.frames import Orientation
from morphax.core.path.paths import PathKind
from morphax.project.edits.along import add_station
from morphax.project.edits.guides import add_helper, add_picture
from morphax.project.edits.hosts import add_form, with_hosts
from morphax.project.edits.ports import NewPort, add_port
from morphax.project.edits.runs import NewRun, add_run, with_recipe
from morphax.project.lookup import path_of
from morphax.project.model.document import Form, PortHold, Project, ReadyMadeSource, evolve
from morphax.project.things import Selection
from tests.app.conftest import drive
from tests.app.driver import Driver

ROUND = NewRun(ReadyMadeSource(name="round"), 0.05)
LIFTED = [(-0.4, 0.0, 0.3), (-0.1, 0.3, 0.5), (0.3, 0.2, 0.4), (0.6, -0.1, 0.35)]


def stage() -> Project:
    """A path of each kind that has marks of its own, a bend that is too tight, a box with a port and a note."""
    project = add_run(Project(), PathKind.HANDLES, LIFTED, ROUND).project
    project = add_run(project, PathKind.PULLED, [(x, y - 0.6, z) for x, y, z in LIFTED], ROUND).project
    project = add_run(project, PathKind.THROUGH, [(0.6, 0.6, 0.0), (0.7, 0.6, 0.0), (0.6, 0.62, 0.0)], ROUND).project
    project = with_recipe(
        project, [project.runs[1].id], placing=Placing(orientation=Orientation.TOWARDS, towards=(0.2, 0.4, 0.8))
    )
    project = add_form(project, Form(kind="box", size=(0.2, 0.2, 0.2)), "Box").project
    box = project.hosts[0].id
    project, _ = add_port(project, box, NewPort((0.0, -0.1, 0.1), (0.0, -1.0, 0.0), 0.05, "face"))
    project = with_hosts(project, [box], note="here")
    project = add_run(project, PathKind.STRAIGHT, [(0.0, -0.1, 0.1), (0.0, -0.3, 0.1)], ROUND).project
    path, port = project.paths[3], project.hosts[0].ports[0]
    first = evolve(path.knots[0], hold=PortHold(host=box, port=port.id, along=0.0))
    project = evolve(project, paths=(*project.paths[:3], evolve(path, knots=(first, path.knots[1]))))
    project, _ = add_station(project, project.runs[1].id, 0.5, ReadyMadeSource(name="star"))
    return add_helper(project, [(-0.6, -0.6, 0.0), (0.0, -0.7, 0.0), (0.4, -0.6, 0.1)], closed=False).project


@pytest.fixture(scope="module")
def settled(qapp, request) -> Iterator[Driver]:
    from pytestqt.qtbot import QtBot

    window = drive(QtBot(request), Window(stage(), Settings(look="light")))
    yield next(window)
    next(window, None)


@pytest.fixture
def shown(settled: Driver) -> Iterator[Driver]:
    yield settled
    window = settled.window
    window.frame()
    window.toolbox.escape()
    window.toolbox.arm(None)
    window.toolbox.held.clear()
    window.toolbox.edit.set.moves_whole = False
    window.workspace.remark_on(None)
    window.workspace.print_check.show(None)
    window.workspace.select(Selection())


def picture(driver: Driver) -> QImage:
    return driver.pane(0).grab().toImage()


def run(driver: Driver, k: int) -> str:
    return driver.window.workspace.project.runs[k].id


def pixel(driver: Driver, place) -> QPointF:
    x, y, _ = driver.view(0).sight.seen(np.array([place]))[0]
    return QPointF(x, y)


def pointed(driver: Driver, place) -> None:
    PointerRoute(driver.window.toolbox).hover(driver.view(0).pointer_at(pixel(driver, place)))


def chosen(k: int) -> Callable[[Driver], None]:
    return lambda driver: driver.window.workspace.select(Selection.of([run(driver, k)]))


def one_knot(driver: Driver, k: int = 0, at: int = 1) -> None:
    ws = driver.window.workspace
    ws.select(Selection.of([run(driver, k)], [path_of(ws.project, run(driver, k)).knots[at].id]))


def near(driver: Driver) -> None:
    """So near to the first run that the marks of its size are apart."""
    chosen(0)(driver)
    view = driver.view(0)
    view.set_camera(replace(view.camera, target=LIFTED[0], height=0.4))
    driver.settle()


def several(driver: Driver) -> None:
    """A run with a section of its own at its middle."""
    ws = driver.window.workspace
    ws.select(Selection.of([next(r.id for r in ws.project.runs if len(r.recipe.stations) > 1)]))


def on_the_path(driver: Driver) -> None:
    chosen(0)(driver)
    line = driver.window.workspace.chosen.body.path.polyline
    pointed(driver, line[len(line) // 2])


def armed(driver: Driver, place=(0.1, -0.3, 0.0)) -> None:
    driver.window.toolbox.arm(PathKind.STRAIGHT)
    pointed(driver, place)


def boxed(driver: Driver) -> None:
    tools, view = driver.window.toolbox, driver.view(0)
    route = PointerRoute(tools)
    route.press(view.pointer_at(QPointF(5, 40)))
    route.drag(view.pointer_at(QPointF(90, 120)))


def dragged(driver: Driver) -> None:
    chosen(0)(driver)
    tools, view = driver.window.toolbox, driver.view(0)
    at, route = pixel(driver, LIFTED[1]), PointerRoute(tools)
    route.press(view.pointer_at(at))
    route.drag(view.pointer_at(at + QPointF(40.0, -30.0)))


def moved(driver: Driver) -> None:
    chosen(0)(driver)
    driver.menu("run.move")


def seam(driver: Driver) -> None:
    chosen(0)(driver)
    if not driver.window.look.seam:
        driver.window.look.toggle_seam()


def lifted_drawing(driver: Driver) -> None:
    armed(driver)
    route, view = PointerRoute(driver.window.toolbox), driver.view(0)
    route.press(view.pointer_at(pixel(driver, (0.1, -0.3, 0.0))))
    driver.window.toolbox.held.add(Qt.Key.Key_V)
    route.hover(view.pointer_at(pixel(driver, (0.1, -0.3, 0.3))))


def remark(driver: Driver) -> None:
    driver.window.workspace.remark_on(Remark(np.array(LIFTED[0]), np.array(LIFTED[2]), "that far"))


def away(driver: Driver) -> None:
    camera = driver.view(0).camera
    driver.view(0).set_camera(replace(camera, target=(90.0, 0.0, 0.0)))
    driver.settle()


def plane(driver: Driver) -> None:
    chosen(0)(driver)
    driver.menu("plane.view")
    armed(driver)


def measured(driver: Driver) -> None:
    driver.window.look.set_mode("deviation")
    driver.settle()


def print_finding(driver: Driver) -> None:
    ws = driver.window.workspace
    ws.print_check.show(
        Finding("print-thin", Severity.WARNING, "Thin.", place=path_of(ws.project, run(driver, 0)).knots[0].place)
    )


TABLE: dict[str, Callable[[Driver], None]] = {
    "words of the ground": lambda driver: None,
    "paths": lambda driver: pointed(driver, LIFTED[1]),
    "seam": seam,
    "chosen path": chosen(0),
    "up": chosen(0),
    "stations": several,
    "sizes": near,
    "values of the knot": one_knot,
    "range": chosen(0),
    "target": chosen(1),
    "pointed place": on_the_path,
    "ports": lambda driver: None,
    "names of ports": chosen(3),
    "helper lines": lambda driver: None,
    "notes": lambda driver: None,
    "work plane": plane,
    "handle set": moved,
    "box": boxed,
    "sketch": armed,
    "remark": remark,
    "deviations": measured,
    "print check": print_finding,
    "where the scene is": away,
}

INSIDE: dict[str, tuple[object, Callable[[Driver], None]]] = {
    "_paint_hull": (path_marks, chosen(1)),
    "_paint_start": (path_marks, chosen(0)),
    "_paint_handles": (path_marks, one_knot),
    "_paint_knot": (path_marks, chosen(0)),
    "_paint_drop": (path_marks, one_knot),
    "_hollow": (path_marks, on_the_path),
    "_paint_findings": (path_marks, chosen(2)),
    "_paint_dimension": (path_marks, dragged),
    "_paint_patch": (path_marks, armed),
    "_paint_drop_line": (path_marks, lifted_drawing),
    "paint_caught": (path_marks, armed),
    "paint_dots": (overlay, lambda driver: driver.window.toolbox.held.add(Qt.Key.Key_Space)),
    "paint_line": (path_marks, chosen(0)),
    "_paint_double_arrow": (marks, moved),
}


def test_every_mark_has_its_scene() -> None:
    assert list(TABLE) == list(MARKS)


@pytest.mark.parametrize("name", TABLE)
def test_a_mark_of_the_table_is_seen(shown: Driver, name: str, monkeypatch) -> None:
    TABLE[name](shown)
    with_it = picture(shown)
    assert picture(shown) == with_it, "the picture itself stands still"
    monkeypatch.setitem(MARKS, name, lambda over: None)
    assert picture(shown) != with_it


@pytest.mark.parametrize("name", INSIDE)
def test_a_part_of_a_mark_is_seen(shown: Driver, name: str, monkeypatch) -> None:
    where, scene = INSIDE[name]
    scene(shown)
    with_it = picture(shown)
    assert picture(shown) == with_it
    monkeypatch.setattr(where, name, lambda *_, **__: None)
    assert picture(shown) != with_it


@pytest.mark.parametrize(
    ("caught", "spot"),
    [("corner", (0.1, -0.1, 0.2)), ("edge middle", (0.0, -0.1, 0.2)), ("edge", (0.06, -0.1, 0.2))],
)
def test_what_catches_is_drawn_along_its_own_lines(shown: Driver, monkeypatch, caught: str, spot) -> None:
    """Teal lies along the edges at a corner and on an edge, and across it at a middle."""
    shown.key(Qt.Key.Key_S)
    shown.move(0, spot)
    landing = shown.window.toolbox.sketch.next
    assert landing.caught == caught
    at = np.array([pixel(shown, spot).x(), pixel(shown, spot).y()])
    end = np.array([pixel(shown, np.array(spot) - (0.03, 0, 0)).x(), pixel(shown, np.array(spot) - (0.03, 0, 0)).y()])
    along = (end - at) / np.hypot(*(end - at))
    across = np.array([-along[1], along[0]])
    with_mark = picture(shown)
    monkeypatch.setattr(marks, "_LINES", dict.fromkeys(marks._LINES, lambda spot, ways: []))
    without = picture(shown)

    def differs(offset: np.ndarray) -> bool:
        x, y = (round(v) for v in at + offset)
        return any(with_mark.pixel(x + i, y + j) != without.pixel(x + i, y + j) for i in (-1, 0, 1) for j in (-1, 0, 1))

    far = 10.0 if caught == "edge middle" else 7.0
    assert differs(far * along) is (caught != "edge middle")
    assert differs(2.5 * along + 5.0 * across) is (caught == "edge middle")
    t, around = shown.view(0).look.tokens, range(-14, 15)
    spots = [(round(at[0]) + i, round(at[1]) + j) for i in around for j in around]
    found = {with_mark.pixelColor(*p).name() for p in spots if with_mark.pixel(*p) != without.pixel(*p)}
    assert {QColor(t.teal).name(), QColor(t.raised).name()} <= found, "teal with a light rim"


class Counting:
    """A painter that counts what is asked of it."""

    def __init__(self) -> None:
        self.calls: Counter[str] = Counter()

    def __getattr__(self, name: str) -> Callable[..., None]:
        return lambda *_: self.calls.update([name])


def test_each_handle_of_a_chosen_knot_is_a_line_to_its_tip(shown: Driver) -> None:
    view, path = shown.view(0), path_of(shown.window.workspace.project, run(shown, 0))
    painter = Counting()
    path_marks._paint_handles(
        drawing.View(painter, view.sight, view.look.tokens, "mm"), path, {path.knots[1].id}, Sketch()
    )
    assert painter.calls["drawLine"] == painter.calls["drawPolygon"] == 2


def test_a_chosen_knot_is_teal_and_others_blue(shown: Driver) -> None:
    chosen(0)(shown)
    t, knots = shown.view(0).look.tokens, path_of(shown.window.workspace.project, run(shown, 0)).knots
    at = pixel(shown, knots[2].place).toPoint()
    assert picture(shown).pixelColor(at).name() == QColor(t.blue).name()
    shown.window.workspace.select(Selection.of((run(shown, 0),), (knots[2].id,)))
    assert picture(shown).pixelColor(at).name() == QColor(t.teal).name()


def test_the_axes_of_a_view_are_drawn_and_named(shown: Driver, monkeypatch: pytest.MonkeyPatch) -> None:
    """A line and a letter for each of the three that are seen; looked at from above two."""
    painter, view = Counting(), shown.view(0)
    path_marks.paint_axes(drawing.View(painter, view.sight, view.look.tokens, "mm"))
    assert painter.calls["drawLine"] == painter.calls["drawText"] == 3
    before = picture(shown)
    monkeypatch.setattr(camera_view, "paint_axes", lambda _: None)
    assert picture(shown) != before


@pytest.mark.parametrize("normal", [(0.0, 0.0, 1.0), (0.0, 0.0, -1.0), (0.6, 0.0, 0.8), (0.0, 1.0, 0.0)])
def test_the_plane_of_the_next_click_is_a_square_in_it_on_any_slope(shown: Driver, normal) -> None:
    view, place, drawn = shown.view(0), np.array([0.1, 0.2, 0.3]), list[np.ndarray]()

    class Kept(Counting):
        def drawPolygon(self, polygon) -> None:
            drawn.append(np.array([(p.x(), p.y()) for p in polygon]))

    path_marks._paint_patch(drawing.View(Kept(), view.sight, view.look.tokens, "mm"), place, np.array(normal))
    assert len(drawn) == 1 and drawn[0].shape == (4, 2) and np.isfinite(drawn[0]).all()
    side = 2.0 * 26.0 * view.sight.scale_at(place)
    flat = np.linalg.svd(np.stack([normal]))[2][1:]  # two directions of the plane
    corners = [place + 0.5 * side * (a * flat[0] + b * flat[1]) for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
    assert area(drawn[0]) == pytest.approx(area(view.sight.seen(np.array(corners))[:, :2]), rel=0.05)


def area(corners: np.ndarray) -> float:
    """Of a polygon, square pixels."""
    x, y = corners.T
    return 0.5 * abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1)))


def test_the_bar_of_an_empty_view_comes_nearer_the_eye_for_as_long_as_it_is_in_sight(shown: Driver) -> None:
    view, lines = shown.view(0), list[tuple[QPointF, QPointF]]()

    class Kept(Counting):
        def drawLine(self, a: QPointF, b: QPointF) -> None:
            lines.append((a, b))

    marks.paint_measure(drawing.View(Kept(), view.sight, view.look.tokens, "mm"), 0.05, "mm")
    (a, b), *_ = lines
    there = view.sight.seen(np.array([[0.0, 0.0, 0.0]]))[0, 1]
    assert a.y() > there + 10.0, "nearer the eye is lower in the picture"
    low = max(p.y() for line in lines for p in line)
    assert 12.0 < low < view.sight.size[1] - 24.0, "and it stays in sight"


def test_a_chosen_pictures_rim_is_drawn_in_its_own_view_only(shown: Driver) -> None:
    ws = shown.window.workspace
    before = ws.finished
    pixels = QImage(8, 4, QImage.Format.Format_RGB32)
    pixels.fill(Qt.GlobalColor.white)
    held = QBuffer()
    held.open(QBuffer.OpenModeFlag.WriteOnly)
    pixels.save(held, "PNG")
    added = add_picture(before, bytes(held.data().data()), ".png", "Plan", (8, 4), ("Top", 0.8, (0.0, 0.0, 0.0)))
    ws.edit("Bring in a picture", added.project)
    shown.settle()

    def lines(of: str) -> int:
        """Strokes of helper lines and rims in a view of that name."""
        sight = replace(shown.view(0).camera, yaw=0.0, pitch=0.0) if of else shown.view(0).camera
        painter = Counting()
        view = drawing.View(
            painter, CameraSight(Camera(of) if of else sight, (400, 300)), shown.view(0).look.tokens, "mm"
        )
        marks.paint_helpers(view, ws)
        return sum(painter.calls[name] for name in ("drawPolyline", "drawPolygon", "drawPath"))

    try:
        ws.select(Selection())
        quiet = lines("Top"), lines("Front")
        ws.select(Selection.of(hosts=added.ids))
        assert (lines("Top") - quiet[0], lines("Front") - quiet[1]) == (1, 0)
    finally:
        ws.select(Selection())
        ws.edit("Back", before)
        shown.settle()
