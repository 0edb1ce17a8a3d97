"""Refining paths: what moves, by how much, and what keeps its shape."""

import numpy as np
import pytest

from morphax.build.builder import Builder
from morphax.core.errors import PathError
from morphax.core.mesh.measures import volume
from morphax.core.path.path_edits import largest_change
from morphax.core.path.paths import PathKind
from morphax.core.path.resolved import points_along, resolve_path
from morphax.project.derive.walk import followed
from morphax.project.edits import even_out, refine
from morphax.project.edits.along import knot_value, set_knot_value
from morphax.project.edits.knots import set_knot_kind, set_path_kind, set_radius
from morphax.project.edits.paths import remove_knots, set_closed
from morphax.project.edits.resting import Rest, stand_off
from morphax.project.edits.runs import NewRun, add_run
from morphax.project.edits.spans import set_spans
from morphax.project.lookup import path_of, path_shape
from morphax.project.model.document import Project, ReadyMadeSource

PLACES = [(0.0, 0.0, 0.0), (0.4, 0.3, 0.1), (1.0, 0.2, 0.4), (1.3, 0.8, 0.2), (2.0, 1.0, 0.0)]
KINDS = [k for k in PathKind if k is not PathKind.MADE]


def project(kind: PathKind = PathKind.THROUGH, places=PLACES, *, closed: bool = False) -> Project:
    source = ReadyMadeSource(name="crown", values=(("width", 0.05),))
    return add_run(Project(), kind, list(places), NewRun(source, 0.05), closed=closed).project


def path(p: Project, k: int = 0):
    return path_of(p, p.runs[k].id)


def places(p: Project, k: int = 0) -> np.ndarray:
    return np.array([q.place for q in path(p, k).knots])


def chain(p: Project, k: int = 0):
    return resolve_path(path_shape(path(p, k))).chain


def ids(p: Project, *index: int) -> list[str]:
    return [path(p).knots[i].id for i in index]


def test_lined_up_knots_share_a_coordinate() -> None:
    p = project()
    done = refine.lined_up(p, path(p).id, ids(p, 1, 3), 2)
    assert np.allclose(places(done.project)[[1, 3], 2], 0.15) and done.deviation > 0.01
    assert np.allclose(places(done.project)[[0, 2, 4]], places(p)[[0, 2, 4]])


def test_a_straightened_stretch_lies_on_its_chord() -> None:
    p = project()
    after = places(refine.straightened(p, path(p).id, ids(p, 0, 3)).project)
    line = after[3] - after[0]
    assert np.allclose(np.cross(after[1:3] - after[0], line), 0.0, atol=1e-12)
    share = ((after[1:3] - after[0]) @ line) / (line @ line)
    steps = np.linalg.norm(np.diff(places(p)[:4], axis=0), axis=1)
    assert np.allclose(share, np.cumsum(steps)[:2] / steps.sum())
    with pytest.raises(PathError, match="between them"):
        refine.straightened(p, path(p).id, ids(p, 0, 1))


def test_spaced_out_knots_are_equally_far_along_the_old_curve() -> None:
    p = project(PathKind.STRAIGHT, [(0, 0, 0), (0.1, 0, 0), (0.2, 0, 0), (3, 0, 0)])
    assert np.allclose(places(refine.spaced_out(p, path(p).id, []).project)[:, 0], [0, 1, 2, 3])


def test_a_stretch_is_spaced_out_and_the_rest_stays() -> None:
    p = project(PathKind.STRAIGHT, [(0, 0, 0), (1, 0, 0), (1.1, 0, 0), (3, 0, 0), (4, 0, 0), (6, 0, 0)])
    done = refine.spaced_out(p, path(p).id, ids(p, 1, 3))
    assert np.allclose(places(done.project)[:, 0], [0, 1, 2, 3, 4, 6]), "one knot between is enough"
    with pytest.raises(PathError, match="between them"):
        refine.spaced_out(p, path(p).id, ids(p, 1, 2))


@pytest.mark.parametrize("count", [2, 4, 9, 30])
def test_evened_out_paths_have_so_many_knots_at_equal_distances(count: int) -> None:
    p = project()
    done = even_out.evened_out(p, path(p).id, count)
    before = resolve_path(path_shape(path(p)))
    assert len(places(done.project)) == count
    at = np.linspace(0.0, before.length, count)
    assert np.allclose(places(done.project), points_along(before, at), atol=1e-9)
    assert done.deviation < (0.5 if count < 4 else 0.25 if count < 9 else 0.04)


@pytest.mark.parametrize("closed", [False, True])
@pytest.mark.parametrize("distance", [0.05, 0.3, 0.8])
def test_knots_come_at_a_distance_as_near_as_a_whole_number_of_them_allows(distance: float, closed: bool) -> None:
    p = project(closed=closed)
    done = even_out.evened_by(p, path(p).id, distance)
    before = resolve_path(path_shape(path(p)))
    count = max(round(before.length / distance), 3 if closed else 1)
    assert len(places(done.project)) == count + (not closed)
    at = np.linspace(0.0, before.length, count + 1)[: count + (not closed)]
    assert np.allclose(places(done.project), points_along(before, at), atol=1e-9)
    with pytest.raises(PathError, match="10000"):
        even_out.evened_by(p, path(p).id, 1e-6)


@pytest.mark.parametrize("closed", [False, True])
@pytest.mark.parametrize("count", [7, 12])
def test_a_handles_path_that_is_evened_out_stays_near_its_curve(count: int, closed: bool) -> None:
    p = set_path_kind(project(closed=closed), path(project()).id, PathKind.HANDLES).project
    p = set_knot_kind(p, path(p).id, ids(p, 2), "loose")
    done = even_out.evened_out(p, path(p).id, count)
    assert len(places(done.project)) == count and done.deviation < (0.04 if count == 7 else 0.004)
    assert {*ids(p, 0, 2)} <= {k.id for k in path(done.project).knots}, "a loose knot is a corner, and stays"
    assert path(done.project).knots[0].id == ids(p, 0)[0], "a closed path starts where it did"
    plain = even_out.evened_out(project(closed=closed), path(p).id, count)
    assert done.deviation < 0.5 * plain.deviation, "its handles keep it nearer than a curve through the knots"


def test_straight_spans_stay_straight_when_a_path_is_evened_out() -> None:
    p = project()
    p = set_spans(p, path(p).id, [1], straight=True)
    done = even_out.evened_by(p, path(p).id, 0.1).project
    chain_ = chain(done)
    assert {*ids(p, 1, 2)} <= {k.id for k in path(done).knots}
    assert chain_.straight.sum() == round(float(np.linalg.norm(np.subtract(PLACES[2], PLACES[1]))) / 0.1)


def test_knots_come_onto_the_line_through_the_first_and_the_last() -> None:
    p = project()
    done = places(refine.lined_between(p, path(p).id, ids(p, 0, 1, 3)).project)
    way = done[3] - done[0]
    assert np.allclose(np.cross(done[1] - done[0], way), 0.0, atol=1e-12)
    assert (places(p)[1] - done[1]) @ way == pytest.approx(0.0, abs=1e-12), "straight across"
    assert np.array_equal(done[[0, 2, 3, 4]], places(p)[[0, 2, 3, 4]])
    with pytest.raises(PathError, match="three knots"):
        refine.lined_between(p, path(p).id, ids(p, 0, 1))


@pytest.mark.parametrize("kind", [PathKind.STRAIGHT, PathKind.THROUGH, PathKind.HANDLES])
def test_a_path_is_trimmed_to_a_knot_and_to_a_place(kind: PathKind) -> None:
    p = project(kind)
    whole = resolve_path(path_shape(path(p)))
    at = float(whole.knot_at[3])
    done = refine.trimmed_to(p, path(p).id, "end", at).project
    assert [k.id for k in path(done).knots] == ids(p, 0, 1, 2, 3)
    assert resolve_path(path_shape(path(done))).length == pytest.approx(at, rel=1e-9)
    done = refine.trimmed_to(done, path(p).id, "start", 0.5 * at).project
    left = resolve_path(path_shape(path(done)))
    assert left.length == pytest.approx(0.5 * at, rel=1e-9)
    assert np.allclose(points_along(left, np.array([0.0]))[0], points_along(whole, np.array([0.5 * at]))[0], atol=1e-9)
    with pytest.raises(PathError, match="nothing to trim"):
        refine.trimmed_to(p, path(p).id, "start", 0.0)


def test_a_path_trimmed_to_a_rounded_corner_ends_there_sharp() -> None:
    p = project(PathKind.STRAIGHT, [(0, 0, 0), (1, 0, 0), (1, 1, 0)])
    p = set_radius(p, path(p).id, ids(p, 1), 0.2)
    corner = float(resolve_path(path_shape(path(p))).knot_at[1])
    done = refine.trimmed_to(p, path(p).id, "end", corner).project
    assert places(done).tolist() == [[0, 0, 0], [1, 0, 0]] and path(done).knots[-1].radius == 0.0


def test_corners_stay_when_a_path_is_evened_out() -> None:
    p = project(PathKind.STRAIGHT, [(0, 0, 0), (3, 0, 0), (3, 1, 0)])
    done = even_out.evened_out(p, path(p).id, 6)
    assert [3.0, 0.0, 0.0] in places(done.project).tolist() and done.deviation < 1e-9
    loop = project(PathKind.STRAIGHT, [(0, 0, 0), (2, 0, 0), (2, 2, 0), (0, 2, 0)], closed=True)
    assert len(places(even_out.evened_out(loop, path(loop).id, 8).project)) == 8
    with pytest.raises(PathError, match="at least 3"):
        even_out.evened_out(loop, path(loop).id, 2)


@pytest.mark.parametrize("kind", [PathKind.STRAIGHT, PathKind.THROUGH, PathKind.HANDLES])
@pytest.mark.parametrize("count", [1, 3])
def test_knots_between_keep_the_curve(kind: PathKind, count: int) -> None:
    p = project(kind)
    done = refine.knots_between(p, path(p).id, ids(p, 1, 2, 3), count)
    assert len(places(done.project)) == 5 + 2 * count and len(done.knots) == 2 * count
    assert largest_change(chain(p), chain(done.project)) < 1e-6
    assert resolve_path(path_shape(path(done.project))).length == pytest.approx(
        resolve_path(path_shape(path(p))).length, rel=1e-9
    )


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("end", ["start", "end"])
def test_an_extended_path_goes_on_along_its_tangent(kind: PathKind, end: str) -> None:
    p = project(kind)
    spans = chain(p).spans
    d = spans[0, 0] - spans[0, 1] if end == "start" else spans[-1, 3] - spans[-1, 2]
    after = places(refine.extended(p, path(p).id, end, 0.3).project)
    step = after[0] - after[1] if end == "start" else after[-1] - after[-2]
    assert np.allclose(step, 0.3 * d / np.linalg.norm(d), atol=1e-12)


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("end", ["start", "end"])
def test_a_trimmed_path_keeps_the_shape_of_what_is_left(kind: PathKind, end: str) -> None:
    p = project(kind)
    whole = resolve_path(path_shape(path(p)))
    done = refine.trimmed(p, path(p).id, end, 0.6).project
    left = resolve_path(path_shape(path(done)))
    assert left.length == pytest.approx(whole.length - 0.6, abs=2e-4)
    t = np.linspace(0.0, left.length, 40)
    offset = 0.6 if end == "start" else 0.0
    assert np.allclose(points_along(left, t), points_along(whole, t + offset), atol=2e-4)
    with pytest.raises(PathError, match="less than its length"):
        refine.trimmed(p, path(p).id, end, 99.0)


@pytest.mark.parametrize("kind", [PathKind.STRAIGHT, PathKind.THROUGH, PathKind.HANDLES, PathKind.HANGING])
def test_split_runs_start_with_equal_settings_and_join_again(kind: PathKind) -> None:
    p = project(kind)
    added = refine.split(p, p.runs[0].id, ids(p, 2)[0])
    one, two = added.project.runs
    assert (one.recipe.size, one.recipe.placing, one.recipe.density) == (
        two.recipe.size,
        two.recipe.placing,
        two.recipe.density,
    )
    assert one.show.name != two.show.name and len(places(added.project)) == 3 and len(places(added.project, 1)) == 3
    total = sum(resolve_path(path_shape(path(added.project, k))).length for k in (0, 1))
    assert total == pytest.approx(resolve_path(path_shape(path(p))).length, rel=1e-9)
    back = refine.joined(added.project, one.id, two.id)
    assert back.deviation < 1e-9 and np.allclose(places(back.project), places(p)) and len(back.project.runs) == 1
    assert largest_change(chain(p), chain(back.project)) < 1e-6


@pytest.mark.parametrize("kind", [PathKind.STRAIGHT, PathKind.HANDLES])
def test_both_halves_have_the_size_and_the_roll_of_the_knot_between_them(kind: PathKind) -> None:
    p = project(kind)
    _, _, cut, later, _ = (k.id for k in path(p).knots)
    p = set_knot_value(p, p.runs[0].id, [cut], size=2.0, roll=0.3)
    p = set_knot_value(p, p.runs[0].id, [later], size=3.0)
    done = refine.split(p, p.runs[0].id, cut).project
    at_cut = [knot_value(r, path(done, k).knots[j].id) for k, (r, j) in enumerate(zip(done.runs, (-1, 0), strict=True))]
    assert [(v.size, v.roll) for v in at_cut] == [(2.0, 0.3)] * 2
    assert knot_value(done.runs[1], later).size == 3.0


def test_runs_apart_are_joined_over_their_nearest_ends() -> None:
    p = project(PathKind.STRAIGHT, [(0, 0, 0), (1, 0, 0)])
    more = add_run(
        p, PathKind.STRAIGHT, [(3.0, 0, 0), (1.5, 0, 0)], NewRun(ReadyMadeSource(name="round"), 0.05)
    ).project
    done = refine.joined(more, more.runs[0].id, more.runs[1].id)
    assert done.deviation == pytest.approx(0.5) and np.allclose(places(done.project)[:, 0], [0, 1, 1.5, 3])
    with pytest.raises(PathError, match="no ends"):
        loop = set_closed(project(), path(project()).id, True)
        refine.joined(loop, loop.runs[0].id, loop.runs[0].id)


def test_flattened_knots_lie_in_one_plane() -> None:
    p = project()
    best = places(refine.flattened(p, path(p).id, []).project)
    assert np.linalg.svd(best - best.mean(0))[1][-1] < 1e-12
    plane = np.array([0.0, 0.0, 0.25]), np.array([0.0, 0.0, 1.0])
    level = places(refine.flattened(p, path(p).id, [], plane).project)
    assert np.allclose(level[:, 2], 0.25) and np.allclose(level[:, :2], places(p)[:, :2])


def test_dropped_knots_lie_on_what_is_below_and_the_others_are_counted() -> None:
    p = project()
    below = lambda q: Rest(None, (q[0], q[1], -1.0), (0.0, 0.0, 1.0)) if q[0] < 1.2 else None  # noqa: E731
    done, missed = refine.dropped(p, path(p).id, [], below)
    done = followed(done, p)
    assert missed == 2 and np.allclose(places(done)[3:], places(p)[3:])
    off = [stand_off(k) for k in path(done).knots[:3]]
    assert min(off) > 0.0 and np.allclose(places(done)[:3, 2], np.array(off) - 1.0), "they rest there"


@pytest.mark.parametrize("axis", [0, 1, 2])
@pytest.mark.parametrize("kind", [PathKind.THROUGH, PathKind.STRAIGHT])
def test_a_mirrored_run_is_the_mirror_image_of_its_body(axis: int, kind: PathKind) -> None:
    p = project(kind, [(0, 0, 1), (1, 0.3, 1), (2, 0.1, 1), (2.5, 1.0, 1)])
    runs = [p.runs[0].id]
    done = refine.mirrored_runs(p, runs, np.zeros(3), axis)
    a, b = (Builder().run(x, x.runs[0]).body.mesh for x in (p, done))
    assert volume(a) == pytest.approx(volume(b), rel=1e-6) and volume(b) > 0
    image = a.points * np.where(np.arange(3) == axis, -1.0, 1.0)
    gap = np.linalg.norm(image[:, None] - b.points[None], axis=2).min(1)
    assert gap.max() < 1e-3


def test_a_path_with_doubled_knots_is_not_evened_out_but_loses_knots() -> None:
    doubled = [PLACES[0], PLACES[1], (0.4 + 1e-6, 0.3, 0.1), *PLACES[2:]]
    p = project(PathKind.HANDLES, doubled)
    with pytest.raises(PathError, match="weld them first"):
        even_out.evened_out(p, path(p).id, 9)
    assert len(places(remove_knots(p, path(p).id, ids(p, 4)).project)) == 5
