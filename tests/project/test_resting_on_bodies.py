"""Knots that rest on other runs' bodies: they keep touching them, whatever width, section, place or turn those take."""

import numpy as np
import pytest
import trimesh

from morphax.build.builder import Builder
from morphax.core.mesh.mesh import point_triangles
from morphax.core.path.paths import PathKind
from morphax.core.path.resolved import nearest_along, resolve_path
from morphax.io.project_file import from_bytes, to_bytes
from morphax.project.derive.walk import followed
from morphax.project.edits.holding import let_go
from morphax.project.edits.paths import move_knots, reverse_path
from morphax.project.edits.refine import mirrored_runs
from morphax.project.edits.resting import Rest, rest_on
from morphax.project.edits.runs import (
    NewRun,
    add_run,
    delete_runs,
    duplicate_runs,
    set_section,
    set_width,
    with_placing,
)
from morphax.project.edits.transform import moved, targets_of, transformed, turned
from morphax.project.lookup import path_of, run_by_id
from morphax.project.model.document import DocumentError, Project, ReadyMadeSource, RestHold
from morphax.project.model.paths import path_shape

BELOW = [(-0.5, 0.0, 0.3), (0.0, 0.05, 0.35), (0.5, 0.0, 0.3)]
ROUND = ReadyMadeSource(name="round")


def crossing(below: str = "round", width: float = 0.04) -> tuple[Project, str, str]:
    """A cable on the floor, up over a pipe in the air, and down again."""
    first = add_run(Project(), PathKind.THROUGH, BELOW, NewRun(ReadyMadeSource(name=below), width))
    top = (0.02, 0.05, 0.35 + width / 2)
    places = [(0.1, -0.4, 0.0), top, (0.0, 0.5, 0.0)]
    over = add_run(first.project, PathKind.THROUGH, places, NewRun(ROUND, 0.01))
    rests = {over.ids[3]: Rest(None, top, (0.0, 0.0, 1.0), run=first.ids[0])}
    return changed(over.project, rest_on(over.project, over.ids[1], rests)), first.ids[0], over.ids[0]


def changed(before: Project, after: Project) -> Project:
    return followed(after, before)


def gap(project: Project, below: str, over: str) -> float:
    """How far the resting knot is from the axis of the run below, less both radii, m."""
    spine = resolve_path(path_shape(path_of(project, below)))
    far = nearest_along(spine, np.array(path_of(project, over).knots[1].place))[1]
    return far - 0.5 * (width_of(project, below) + width_of(project, over))


def width_of(project: Project, run_id: str) -> float:
    return Builder().run(project, run_by_id(project, run_id)).body.width


def test_they_touch_whatever_the_widths_of_both() -> None:
    project, below, over = crossing()
    for run, width in ((over, 0.03), (below, 0.1), (over, 0.002), (below, 0.004)):
        project = changed(project, set_width(project, [run], width))
        assert width_of(project, run) == pytest.approx(width)
        assert gap(project, below, over) == pytest.approx(0.0, abs=2e-6), (run, width)


def test_they_touch_wherever_the_run_below_goes() -> None:
    project, below, over = crossing()
    path = path_of(project, below)
    project = changed(project, move_knots(project, path.id, {path.knots[1].id: (0.0, 0.2, 0.6)}))
    assert gap(project, below, over) == pytest.approx(0.0, abs=2e-6)
    project = changed(project, transformed(project, targets_of(project, [below]), np.zeros(3), turned(2, 0.5)))
    assert gap(project, below, over) == pytest.approx(0.0, abs=2e-6)
    assert path_of(project, over).knots[0].place == (0.1, -0.4, 0.0), "what rests elsewhere stays"
    before = path_of(project, over).knots[1].place
    project = changed(project, reverse_path(project, path.id))
    assert path_of(project, over).knots[1].place == pytest.approx(before, abs=1e-6), "the same side of the same place"


def test_both_moved_together_stay_as_they_are_to_each_other() -> None:
    project, below, over = crossing()
    knots = [np.array(k.place) for k in path_of(project, over).knots]
    hold = path_of(project, over).knots[1].hold
    step = (0.3, -0.2, 0.25)
    after = changed(project, transformed(project, targets_of(project, [below, over]), np.zeros(3), moved(step)))
    for was, knot in zip(knots, path_of(after, over).knots, strict=True):
        assert knot.place == pytest.approx(was + step, abs=1e-7)
    now = path_of(after, over).knots[1].hold
    assert isinstance(now, RestHold) and now.run == below and now.share == pytest.approx(hold.share, abs=1e-9)


def test_moved_alone_it_slides_along_the_body() -> None:
    project, below, over = crossing()
    knot = path_of(project, over).knots[1]
    x, y, z = knot.place
    after = changed(project, move_knots(project, path_of(project, over).id, {knot.id: (x + 0.2, y, z)}))
    assert gap(after, below, over) == pytest.approx(0.0, abs=2e-6)
    assert path_of(after, over).knots[1].place[0] == pytest.approx(x + 0.2, abs=0.03)
    assert path_of(after, over).knots[1].hold.share > knot.hold.share + 0.1


def test_it_lies_on_the_side_of_a_box_and_on_another_section() -> None:
    project, below, over = crossing("rectangle", 0.08)
    run = run_by_id(project, below)
    mesh = Builder().run(project, run).body.mesh
    hold = path_of(project, over).knots[1].hold
    assert np.abs((mesh.points - np.array(hold.foot)) @ np.array(hold.up)).min() < 1e-3
    before = hold.foot
    project = changed(project, set_section(project, [below], ROUND))
    assert path_of(project, over).knots[1].hold.foot != before
    assert gap(project, below, over) == pytest.approx(0.0, abs=2e-6)
    rolled = changed(project, with_placing(project, [below], roll=0.9))
    assert gap(rolled, below, over) == pytest.approx(0.0, abs=2e-6)


def test_a_mirrored_run_below_is_met_where_it_is() -> None:
    project, below, over = crossing("rectangle", 0.08)
    project = changed(project, with_placing(project, [below], roll=0.3))
    project = changed(project, mirrored_runs(project, [below], np.zeros(3), 0))
    hold = path_of(project, over).knots[1].hold
    mesh = Builder().run(project, run_by_id(project, below)).body.mesh
    rings = mesh.points[np.argsort(np.linalg.norm(mesh.points - np.array(hold.foot), axis=1))[:8]]
    assert np.abs((rings - np.array(hold.foot)) @ np.array(hold.up)).min() < 1e-3, "on the face of the body"


def test_two_runs_never_rest_on_each_other() -> None:
    project, below, over = crossing()
    knot = path_of(project, below).knots[0]
    rest = {knot.id: Rest(None, knot.place, (0.0, 0.0, 1.0), run=over)}
    with pytest.raises(DocumentError, match="would rest on each other"):
        rest_on(project, path_of(project, below).id, rest)


def test_what_lay_on_a_deleted_run_stays_and_it_is_said() -> None:
    project, below, over = crossing()
    place = path_of(project, over).knots[1].place
    after = changed(project, delete_runs(project, [below]))
    assert path_of(after, over).knots[1].place == place
    assert "1 knot held on to" in let_go(project, after) and "stays where it is" in let_go(project, after)
    wider = changed(after, set_width(after, [over], 0.05))
    assert path_of(wider, over).knots[1].place[2] > place[2], "above the place where it lay"


def test_copies_beside_it_lie_on_nothing_and_copies_in_place_do() -> None:
    project, _, over = crossing()
    beside = duplicate_runs(project, [over], offset=(0.2, 0.0, 0.0))
    assert path_of(beside.project, beside.ids[0]).knots[1].hold is None
    same = duplicate_runs(project, [over], offset=(0.0, 0.0, 0.0))
    assert isinstance(path_of(same.project, same.ids[0]).knots[1].hold, RestHold)


def test_it_is_kept_in_files() -> None:
    project, below, over = crossing()
    again = from_bytes(to_bytes(project), "a")
    again = again.project if hasattr(again, "project") else again
    assert path_of(again, over).knots[1].hold == path_of(project, over).knots[1].hold
    assert gap(again, below, over) == pytest.approx(0.0, abs=2e-6)


@pytest.mark.parametrize("name", ["channel", "box-gutter", "half-round-gutter"])
def test_a_cable_laid_in_a_channel_stays_in_it(name: str) -> None:
    first = add_run(
        Project(), PathKind.STRAIGHT, [(-0.5, 0, 0.3), (0.5, 0, 0.3)], NewRun(ReadyMadeSource(name=name), 0.1)
    )
    below = first.ids[0]

    def ground(project: Project) -> tuple[float, float]:
        """Where a thin rod let down in the middle of the channel would end: its inner floor, by the built body."""
        made = Builder().run(project, run_by_id(project, below)).body.mesh
        mesh = trimesh.Trimesh(made.points, point_triangles(made), process=False)
        cut = trimesh.intersections.mesh_plane(mesh, [1.0, 0.0, 0.0], [0.1, 0.0, 0.0])
        a, b = cut[:, 0], cut[:, 1]
        y = float(mesh.bounds[:, 1].mean()) + 1e-6
        met = (a[:, 1] - y) * (b[:, 1] - y) < 0.0
        share = (y - a[met, 1]) / (b[met, 1] - a[met, 1])
        return y, float((a[met, 2] + share * (b[met, 2] - a[met, 2])).max())

    y, z = ground(first.project)
    bottom = min(p[2] for p in Builder().run(first.project, run_by_id(first.project, below)).body.mesh.points)
    assert z > bottom + 1e-4, "it looks up, and has a floor"
    places = [(-0.3, y, z), (0.1, y, z), (0.3, y, z)]
    made = add_run(first.project, PathKind.THROUGH, places, NewRun(ROUND, 0.01))
    up = (0.0, 0.0, 1.0)
    rests = {k.id: Rest(None, k.place, up, run=below) for k in path_of(made.project, made.ids[0]).knots}
    project = changed(made.project, rest_on(made.project, made.ids[1], rests))
    for run, width in ((made.ids[0], 0.02), (below, 0.2), (made.ids[0], 0.004), (below, 0.05)):
        project = changed(project, set_width(project, [run], width))
        over = width_of(project, made.ids[0])
        for knot in path_of(project, made.ids[0]).knots:
            y, z = ground(project)
            assert knot.place == pytest.approx((knot.place[0], y, z + 0.5 * over), abs=2e-5), (run, width)
