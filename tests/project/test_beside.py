"""Runs beside others: parallel ones and pairs follow path and widths; rows and rounds stand where they are counted."""

import numpy as np
import pytest
import shapely

from morphax.build.project_bodies import new_builder
from morphax.core.path.paths import PathKind
from morphax.core.path.resolved import path_polyline, resolve_path
from morphax.io.project_file import from_bytes, to_bytes
from morphax.project.derive.walk import derived, followed
from morphax.project.edits.beside import (
    add_beside,
    add_on_path,
    add_pair,
    all_round,
    images_of,
    original_of,
    pair_of,
    running_beside,
    set_beside,
    set_round,
    set_row,
)
from morphax.project.edits.images import freed_words, handed_back, own_copies
from morphax.project.edits.outlines import own_copy
from morphax.project.edits.paths import move_knots, set_closed
from morphax.project.edits.pieces import add_between
from morphax.project.edits.runs import NewRun, add_run, delete_runs, set_width, with_placing
from morphax.project.lookup import path_of, path_shape, run_by_id, section_of
from morphax.project.model.document import DocumentError, Project, ReadyMadeSource, all_ids
from morphax.project.model.paths import RoundOf, RowOf

RAIL = NewRun(ReadyMadeSource(name="rectangle", values=(("height", 0.08), ("width", 0.04))), 0.04)
ROUND = NewRun(ReadyMadeSource(name="round"), 0.1)
WAY = [(0.0, 0.0, 0.0), (2.0, 0.6, 0.0), (4.0, 0.0, 0.2), (6.0, 1.5, 0.2)]
POST = [(1.0, 0.0, 0.0), (1.0, 0.0, 1.4)]


def line(kind: PathKind = PathKind.THROUGH, new: NewRun = RAIL, places=WAY) -> tuple[Project, str]:
    run = add_run(Project(), kind, places, new)
    return run.project, run.ids[0]


def plan(project: Project, run_id: str) -> np.ndarray:
    return path_polyline(resolve_path(path_shape(path_of(project, run_id))), per_span=48)[:, :2]


def gap(project: Project, one: str, two: str) -> tuple[float, float]:
    """How near and how far a run's path is to another's, seen from above, away from their ends."""
    own, other = plan(project, one), shapely.LineString(plan(project, two))
    far = shapely.distance(shapely.points(own[len(own) // 8 : -len(own) // 8]), other)
    return float(far.min()), float(far.max())


def test_a_parallel_run_follows_the_path_and_has_its_own_section() -> None:
    project, run_id = line()
    made = add_beside(project, [run_id], 0.5, 0.1)
    project, twin = derived(made.project), made.ids[0]
    assert gap(project, twin, run_id) == pytest.approx((0.5, 0.5), abs=1e-3)
    assert derived(project) is project and from_bytes(to_bytes(project), "x.morphax") == project
    assert path_of(project, twin).knots[0].place[2] == pytest.approx(0.1)
    path = path_of(project, run_id)
    now = followed(move_knots(project, path.id, {path.knots[1].id: (2.0, -1.0, 0.0)}), project)
    assert gap(now, twin, run_id) == pytest.approx((0.5, 0.5), abs=1e-3)
    wide = followed(set_width(now, [twin], 0.2), now)
    assert run_by_id(wide, twin).recipe.size != run_by_id(wide, run_id).recipe.size
    moved = followed(set_beside(wide, [path_of(wide, twin).id], side=-0.3), wide)
    assert gap(moved, twin, run_id) == pytest.approx((0.3, 0.3), abs=1e-3)
    own = path_of(moved, twin)
    with pytest.raises(DocumentError, match="runs beside another one"):
        handed_back(moved, move_knots(moved, own.id, {own.knots[0].id: (9.0, 9.0, 9.0)}))
    free = own_copies(moved, [twin])
    alone = followed(move_knots(free, path.id, {path.knots[1].id: (2.0, 1.0, 0.0)}), free)
    assert np.array_equal(plan(alone, twin), plan(moved, twin))
    with pytest.raises(DocumentError, match="beside no other"):
        set_beside(free, [own.id], side=1.0)


@pytest.mark.parametrize(("between", "more"), [("inner faces", 0.02), ("centres", 0.0), ("outer faces", -0.02)])
def test_a_pair_stands_at_its_gauge_whatever_the_width(between, more: float) -> None:
    project, run_id = line()
    made = add_pair(project, [run_id], 1.0, between)
    project = derived(made.project)
    right, left = made.ids
    for run in (right, left):
        assert gap(project, run, run_id) == pytest.approx((0.5 + more,) * 2, abs=1e-3)
    assert gap(project, right, left) == pytest.approx((1.0 + 2.0 * more,) * 2, abs=2e-3)
    assert run_by_id(project, left).recipe.placing.flip and not run_by_id(project, right).recipe.placing.flip
    wide = followed(set_width(project, [right, left], 0.2), project)
    assert gap(wide, right, run_id) == pytest.approx((0.5 + 5.0 * more,) * 2, abs=1e-3)
    path = path_of(wide, right)
    assert {r.id for r in running_beside(wide, path_of(wide, run_id).id)} == {right, left}
    assert not running_beside(wide, path.id)
    assert set(pair_of(wide, path)) == {path.id, path_of(wide, left).id}
    assert pair_of(wide, path_of(wide, run_id)) == (path_of(wide, run_id).id,)
    second = add_pair(wide, [run_id], path_of(wide, right).follows.gauge, between)
    for ids in (made.ids, second.ids):
        both = {path_of(second.project, i).id for i in ids}
        for i in ids:
            assert set(pair_of(second.project, path_of(second.project, i))) == both, "two pairs are two"


@pytest.mark.parametrize("roll", [0.0, 0.5 * np.pi, 0.7])
@pytest.mark.parametrize("anchor", ["centre", "left", "top-right"])
def test_the_gauge_is_measured_on_the_bodies_themselves(roll: float, anchor: str) -> None:
    """Between inner faces: the distance of the two meshes, looked at by their corners."""
    project, run_id = line(PathKind.STRAIGHT, places=[(0.0, 0.0, 0.0), (3.0, 0.0, 0.0)])
    made = add_pair(with_placing(project, [run_id], roll=roll, anchor=anchor), [run_id], 0.7, "inner faces")
    project = derived(made.project)
    builder = new_builder()
    right, left = (builder.run(project, run_by_id(project, i)).body.mesh.points for i in made.ids)
    assert left[:, 1].min() - right[:, 1].max() == pytest.approx(0.7, abs=1e-3)
    outer = followed(set_beside(project, [path_of(project, i).id for i in made.ids], between="outer faces"), project)
    right, left = (new_builder().run(outer, run_by_id(outer, i)).body.mesh.points for i in made.ids)
    assert left[:, 1].max() - right[:, 1].min() == pytest.approx(0.7, abs=1e-3)


def test_pieces_between_a_pair_follow_both_and_a_closed_path_has_closed_ones() -> None:
    project, run_id = line()
    made = add_pair(project, [run_id], 0.8)
    planks = add_between(derived(made.project), *made.ids, "plank")
    project = derived(planks.project)
    copies = new_builder().run(project, run_by_id(project, made.ids[0])).body.copies[0]
    assert len(copies.transforms) > 5
    (planked,) = run_by_id(project, made.ids[0]).recipe.sets
    across = copies.transforms[:, :, 1] / np.linalg.norm(copies.transforms[:, :, 1], axis=1)[:, None]
    way = np.gradient(copies.transforms[:, :2, 3], axis=0)
    assert planked.rule.match == "nearest" and np.abs((across[:, :2] * way).sum(1)[2:-2]).max() < 0.02
    closed = followed(set_closed(project, path_of(project, run_id).id, True), project)
    assert all(path_of(closed, i).closed for i in made.ids)


def test_loops_are_said_and_where_nothing_is_left_the_path_stays() -> None:
    project, run_id = line()
    made = add_beside(project, [run_id], 2.6)
    project = derived(made.project)
    path = path_of(project, made.ids[0])
    found = new_builder().run(project, run_by_id(project, made.ids[0])).body.findings
    assert len(path.follows.cuts) >= 1 and [f.code for f in found].count("loop-taken-out") == len(path.follows.cuts)
    project, run_id = line(places=[(0.0, 0.0, 0.0), (2.0, 0.0, 0.0), (2.0, 1.0, 0.0), (0.0, 1.0, 0.0)])
    made = add_beside(set_closed(project, path_of(project, run_id).id, True), [run_id], -0.2)
    project = derived(made.project)
    path = path_of(project, made.ids[0])
    small = followed(set_beside(project, [path.id], side=-400.0), project)
    assert path_of(small, made.ids[0]).knots == path.knots and len(path.knots) > 4
    codes = [f.code for f in new_builder().run(small, run_by_id(small, made.ids[0])).body.findings]
    assert "beside-stays" in codes


def test_what_ran_beside_a_run_that_goes_is_on_its_own() -> None:
    project, run_id = line()
    made = add_pair(project, [run_id], 1.0)
    project = derived(made.project)
    alone = followed(delete_runs(project, [run_id]), project)
    assert len(alone.runs) == 2 and all(p.follows is None for p in alone.paths)
    assert freed_words(project, alone).startswith("Rectangle 2 and 1 more followed what is gone: they stay")
    assert freed_words(project, own_copies(project, made.ids)) == "" == freed_words(alone, project)
    assert "it stays as it is" in freed_words(project, delete_runs(project, [run_id, made.ids[0]]))
    assert np.array_equal(plan(alone, made.ids[0]), plan(project, made.ids[0]))
    chain = add_beside(project, [made.ids[0]], 0.2)
    both = followed(delete_runs(derived(chain.project), [run_id]), chain.project)
    assert gap(both, chain.ids[0], made.ids[0]) == pytest.approx((0.2, 0.2), abs=1e-3)


def test_a_row_is_counted_and_spaced_and_changes_with_its_first() -> None:
    project, run_id = line(PathKind.STRAIGHT, ROUND, POST)
    row = set_row(project, [run_id], 5, (0.5, 0.1, 0.0))
    project = row.project
    assert len(row.ids) == 4 and [i.number for _, i in images_of(project, run_id, RowOf)] == [1, 2, 3, 4]
    assert path_of(project, row.ids[-1]).knots[0].place == pytest.approx((3.0, 0.4, 0.0))
    less = followed(set_row(project, [row.ids[1]], 3, (0.25, 0.0, 0.0)).project, project)
    assert [r.id for r in less.runs] == [run_id, *row.ids[:2]]
    assert path_of(less, row.ids[1]).knots[0].place == pytest.approx((1.5, 0.0, 0.0))
    more = set_row(less, [run_id], 4, (0.25, 0.0, 0.0))
    assert len(more.project.runs) == 4 and len(set(all_ids(more.project))) == len(list(all_ids(more.project)))
    wide = followed(handed_back(less, set_width(less, [row.ids[1]], 0.3)), less)
    bodies = [new_builder().run(wide, r).body for r in wide.runs]
    assert {round(b.width, 9) for b in bodies} == {0.3}
    assert original_of(less, row.ids[1]) == run_id == original_of(less, run_id)
    one = followed(set_row(less, [run_id], 1, (0.0, 0.0, 0.0)).project, less)
    assert [r.id for r in one.runs] == [run_id]
    with pytest.raises(DocumentError, match="1 to 1000"):
        set_row(project, [run_id], 0, (1.0, 0.0, 0.0))


def test_runs_stand_round_an_axis_whichever_way_it_points() -> None:
    project, run_id = line(PathKind.STRAIGHT, ROUND, POST)
    made = set_round(project, [run_id], 6, (0.0, 0.0, 0.0), (0.0, 0.0, 2.0), all_round(6))
    places = np.array([path_of(made.project, r.id).knots[0].place for r in made.project.runs])
    assert np.allclose(np.linalg.norm(places[:, :2], axis=1), 1.0) and np.allclose(places.sum(0), 0.0, atol=1e-12)
    assert all(isinstance(path_of(made.project, i).follows, RoundOf) for i in made.ids)
    quarter = set_round(project, [run_id], 2, (1.0, 0.0, 0.7), (1.0, 0.0, 0.0), 0.5 * np.pi)
    assert np.allclose(path_of(quarter.project, quarter.ids[0]).knots[1].place, (1.0, -0.7, 0.7), atol=1e-12)
    volumes = [abs(_volume(new_builder().run(made.project, r).body.mesh)) for r in made.project.runs]
    assert np.ptp(volumes) < 1e-12


def _volume(mesh) -> float:
    tris = np.vstack([mesh.quads[:, [0, 1, 2]], mesh.quads[:, [0, 2, 3]], mesh.tris])
    a, b, c = (mesh.points[tris[:, i]] for i in range(3))
    return float((a * np.cross(b, c)).sum() / 6.0)


def test_path_and_section_are_shared_or_own_in_all_four_ways() -> None:
    project, run_id = line()
    made = add_on_path(project, [run_id])
    twin = made.ids[0]

    def shares(p: Project) -> tuple[bool, bool]:
        return path_of(p, run_id).id == path_of(p, twin).id, section_of(p, run_id).id == section_of(p, twin).id

    assert shares(made.project) == (True, True)
    assert shares(own_copy(made.project, twin)) == (True, False)
    assert shares(own_copies(made.project, [twin])) == (False, True)
    assert shares(own_copies(own_copy(made.project, twin), [twin])) == (False, False)
    assert len(set(all_ids(made.project))) == len(list(all_ids(made.project)))
    path = path_of(made.project, run_id)
    moved = followed(move_knots(made.project, path.id, {path.knots[0].id: (0.0, 3.0, 0.0)}), made.project)
    one, two = (new_builder().run(moved, r).body.mesh.points for r in moved.runs)
    assert np.array_equal(one, two)
