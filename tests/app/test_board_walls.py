"""The hosts' cut behind the outline: it lies where the body's own first ring says."""

from itertools import pairwise
from math import radians

import numpy as np
import pytest
import shapely

from morphax.app.session.settings import Settings
from morphax.app.tools.section.catch import Targets, caught
from morphax.app.views.board.walls import Walls, _own
from morphax.app.window import Window
from morphax.core.body.recipe import End
from morphax.core.section.outlines import Segment, open_loop
from morphax.demo import lantern_wagon
from morphax.project.edits.runs import with_part, with_placing
from morphax.project.model.document import evolve
from morphax.project.things import Selection
from tests.app.conftest import drive
from tests.app.driver import Driver
from tests.app.job_projects import without
from tests.core.test_loop_edits import outline


@pytest.mark.parametrize(("flip", "roll"), [(False, 0.0), (True, 0.0), (False, 0.6), (True, radians(-100.0))])
def test_places_beside_the_path_come_back_to_the_section_as_it_is_drawn(demo: Driver, flip: bool, roll: float) -> None:
    ws = demo.window.workspace
    run = next(r for r in ws.project.runs if r.show.name == "Gutter")
    ws.attempt("x", lambda p: with_placing(p, (run.id,), flip=flip, roll=roll))
    ws.attempt("x", lambda p: with_part(p, (run.id,), "ends", start=End.FLAT))  # its plate stands before the ring
    ws.select(Selection.of((run.id,)))
    demo.settle()
    run = ws.project.find("runs", run.id)
    ws.board.open_run(run)
    body, start = ws.bodies.get(run.id).body, ws.bodies.get(run.id).path.polyline[0]
    ring = (body.mesh.points[: body.mesh.sides] - start) @ body.start_axes.T
    assert np.abs(ring[:, 2]).max() < 1e-9, "the first ring lies in the plane"
    own = _own(ring[:, :2], run, ws.board)
    lines = shapely.MultiLineString([outline(loop) for loop in ws.board.loops])
    assert shapely.distance(shapely.points(own), lines).max() < 2e-7, "every point of the ring is one of the outline"
    corners = np.array([s.start for loop in ws.board.loops for s in loop.segments if s.corner])
    assert np.hypot(*(corners[:, None] - own[None]).T).min(0).max() < 1e-9, "each corner is a point of the ring"


def test_a_cornice_has_its_wall_behind_it_and_looks_for_it_once(demo: Driver) -> None:
    ws = demo.window.workspace
    run = next(r for r in ws.project.runs if r.show.name == "Cornice")
    ws.select(Selection.of((run.id,)))
    ws.board.open_run(run)
    walls = Walls(ws)
    rings = walls.rings(ws.board)
    assert rings and walls.rings(ws.board) is rings
    filled = shapely.union_all([shapely.Polygon(r).buffer(0.0) for r in rings])
    moulding = shapely.Polygon([s.start for s in ws.board.loops[0].segments])
    assert filled.distance(moulding) < 1e-6, "it touches the moulding"
    ws.select(Selection())
    ws.board.open_section(ws.project.sections[0].id)
    assert walls.rings(ws.board) == (), "without a run there is no wall"


def test_hosts_far_away_are_not_cut(qtbot) -> None:
    project = without(lantern_wagon(), "Fog hose")  # it would be a ribbed hose of 2 km
    away = tuple(evolve(h, place=evolve(h.place, at=(900.0, 0.0, 0.0))) for h in project.hosts)
    window = drive(qtbot, Window(evolve(project, hosts=away), Settings(look="light")))
    driver = next(window)
    ws = driver.window.workspace
    ws.board.open_run(next(r for r in ws.project.runs if r.show.name == "Cornice"))
    assert Walls(ws).rings(ws.board) == ()
    next(window, None)


def test_points_catch_on_corners_and_edges_of_what_hosts_fill(demo: Driver) -> None:
    ws = demo.window.workspace
    run = next(r for r in ws.project.runs if r.show.name == "Cornice")
    ws.select(Selection.of((run.id,)))
    ws.board.open_run(run)
    demo.settle()
    board, tool = ws.board, demo.window.pair.board_view.tool
    assert board.walls
    ring = board.walls[0]
    corner = ring[int(np.argmin(np.hypot(*(board.sight.pixels(ring) - np.array(board.sight.size) / 2).T)))]
    apart = Targets((), walls=board.walls)
    pixel = board.sight.pixels(corner)
    found = caught(board.sight, tuple(pixel + 3.0), apart, tool.snapping, 0.001)
    assert found.word == "corner of a host" and found.place == pytest.approx(tuple(corner))
    k = int(np.argmax(np.hypot(*(np.roll(ring, -1, axis=0) - ring).T)))
    middle = 0.5 * (ring[k] + ring[(k + 1) % len(ring)])
    found = caught(board.sight, tuple(board.sight.pixels(middle) + 1.0), apart, tool.snapping, 0.001)
    assert found.word == "edge of a host"
    line = shapely.LinearRing(ring)
    assert line.distance(shapely.Point(found.place)) < 1e-9


def test_the_wall_comes_into_the_picture_as_soon_as_the_body_is_there(qtbot) -> None:
    """The board is opened before anything is built."""
    window = drive(qtbot, Window(lantern_wagon(), Settings(look="light")))
    driver = next(window)
    ws = driver.window.workspace
    run = next(r for r in ws.project.runs if r.show.name == "Cornice")
    ws.board.open_run(run)
    ws.board.walls = ()
    with_it = driver.pane(1).grab().toImage()
    assert ws.board.walls, "found out when it is painted"
    driver.window.pair.board_view.walls.rings = lambda board: ()
    assert driver.pane(1).grab().toImage() != with_it, "and seen"
    next(window, None)


def test_the_middle_of_a_ribbon_s_gap_catches_nothing() -> None:
    line = ((0.0, 0.1), (0.0, 0.0), (0.2, 0.0), (0.2, 0.1))
    gutter = open_loop([Segment(a, b) for a, b in pairwise(line)])
    points, middles = Targets((gutter,)).places
    assert points.tolist() == [list(p) for p in line]
    assert middles.tolist() == [[0.0, 0.05], [0.1, 0.0], [0.2, 0.05]]
