"""Ready-made paths in the document: their values change, they move as a whole, and they keep their shape."""

import numpy as np
import pytest
from scipy.spatial import cKDTree

from morphax.build.builder import Builder
from morphax.core.errors import MorphaxError
from morphax.core.mesh.measures import is_closed
from morphax.core.path.made_paths import MadeCurve, MadeShape, across, checked_values
from morphax.core.path.paths import PathKind, points_at
from morphax.core.path.resolved import resolve_path
from morphax.project.derive.walk import derived, followed
from morphax.project.edits import even_out, refine
from morphax.project.edits import paths as path_edits
from morphax.project.edits import runs as edits
from morphax.project.edits.across import copied_across
from morphax.project.edits.knots import set_path_kind
from morphax.project.edits.ready_made import add_coil, add_made, drag_mark, set_made_value
from morphax.project.edits.runs import NewRun
from morphax.project.edits.transform import Transform, mirrored, scaled, targets_of, transformed, turned
from morphax.project.lookup import path_by_id, path_of, path_shape
from morphax.project.model.document import Project, ReadyMadeSource, evolve

ROUND = NewRun(ReadyMadeSource(name="round"), 0.02)
TURN = 0.4
SHAPES = [s for s in MadeShape if s is not MadeShape.COIL]


def added(shape: str, **values: float) -> tuple[Project, str, str]:
    """A project with one ready-made run; the run's and the path's id."""
    kind = MadeShape(shape)
    curve = MadeCurve(kind, checked_values(kind, values), np.array([0.2, 0.1, 0.5]), across(np.array([0.6, 0.0, 0.8])))
    made = add_made(Project(), curve, ROUND)
    return made.project, made.ids[0], made.ids[1]


def curve_points(project: Project, path_id: str) -> np.ndarray:
    spans = resolve_path(path_shape(path_by_id(project, path_id))).chain.spans
    t = np.linspace(0.0, 1.0, 5)
    return points_at(spans[:, None], np.broadcast_to(t, (len(spans), 5))).reshape(-1, 3)


@pytest.mark.parametrize("shape", SHAPES)
def test_every_shape_gives_a_closed_body(shape: str) -> None:
    project, run, path = added(shape)
    body = Builder().run(project, edits.run_by_id(project, run)).body
    assert is_closed(body.mesh) and not body.has_errors
    assert path_by_id(project, path).kind is PathKind.MADE


@pytest.mark.parametrize("shape", SHAPES)
@pytest.mark.parametrize(
    "by",
    [Transform(np.eye(3), np.array([1.0, 2.0, 3.0])), turned(0, TURN), turned(2, np.pi / 2), scaled(2.5), mirrored(1)],
)
def test_a_whole_ready_made_path_moves_turns_grows_and_mirrors_exactly(shape: str, by: Transform) -> None:
    project, run, path = added(shape, **({"turns": 2.25} if shape in ("spiral", "helix") else {}))
    pivot = np.array([0.3, -0.2, 0.1])
    after = transformed(project, targets_of(project, [run]), pivot, by)
    wanted = pivot + (curve_points(project, path) - pivot) @ by.matrix.T + by.shift
    assert np.abs(curve_points(after, path) - wanted).max() < 2e-9 * np.abs(wanted).max()
    assert path_by_id(after, path).kind is PathKind.MADE


@pytest.mark.parametrize("shape", SHAPES)
def test_reversing_walks_the_same_curve_from_its_end(shape: str) -> None:
    values = {"turns": -2.25} if shape in ("spiral", "helix") else {"waves": 1.5} if shape == "wave" else {}
    project, _, path = added(shape, **values)
    before, after = curve_points(project, path), curve_points(path_edits.reverse_path(project, path), path)
    assert np.abs(after - before[::-1]).max() < 1e-8


def test_a_wave_that_ends_askew_is_not_reversed() -> None:
    project, _, path = added("wave", waves=1.3)
    with pytest.raises(MorphaxError, match="only a wave that ends"):
        path_edits.reverse_path(project, path)


def test_values_change_the_curve_and_keep_the_ids_of_knots() -> None:
    project, _, path = added("helix", turns=3)
    ids = [k.id for k in path_by_id(project, path).knots]
    more = set_made_value(project, path, "turns", 6.0)
    now = [k.id for k in path_by_id(more, path).knots]
    assert now[: len(ids)] == ids and len(now) == 7 and len(set(now)) == 7
    wide = dict(path_by_id(set_made_value(project, path, "radius", 0.5), path).made.values)
    assert wide["radius"] == wide["top"] == 0.5
    with pytest.raises(MorphaxError, match="cannot be 0"):
        set_made_value(project, path, "turns", 0.0)


def test_a_drag_of_one_knot_sets_a_value_and_of_all_moves() -> None:
    project, _, path = added("circle", radius=0.3)
    knots = path_by_id(project, path).knots
    wide = drag_mark(project, path, knots[0].id, tuple(np.array(knots[0].place) * 2.0 - (0.2, 0.1, 0.5)))
    assert dict(path_by_id(wide, path).made.values)["radius"] == pytest.approx(0.6)
    everything = {k.id: (k.place[0] + 1.0, k.place[1], k.place[2]) for k in knots}
    there = path_edits.move_knots(project, path, everything)
    assert path_by_id(there, path).made.at == pytest.approx((1.2, 0.1, 0.5))
    with pytest.raises(MorphaxError, match="keeps its shape"):
        path_edits.move_knots(project, path, dict(list(everything.items())[:2]))


def test_a_ready_made_path_refuses_what_would_break_its_shape_in_a_sentence() -> None:
    project, _, path = added("circle")
    for edit in (
        lambda: path_edits.set_closed(project, path, False),
        lambda: path_edits.remove_knots(project, path, [path_by_id(project, path).knots[0].id]),
    ):
        with pytest.raises((MorphaxError, ValueError), match="keeps its shape|ready-made"):
            edit()


@pytest.mark.parametrize(
    "refining",
    [
        lambda p, path, knots: refine.lined_up(p, path, knots, 0),
        refine.straightened,
        refine.spaced_out,
        refine.flattened,
        lambda p, path, _: even_out.evened_out(p, path, 5),
        lambda p, path, knots: refine.knots_between(p, path, knots, 2),
        lambda p, path, _: refine.extended(p, path, "end", 0.1),
    ],
)
def test_what_moves_knots_one_by_one_refuses_ready_made_paths(refining) -> None:
    project, _, path = added("arc")
    with pytest.raises(MorphaxError, match="keeps its shape; make its kind handles"):
        refining(project, path, [k.id for k in path_by_id(project, path).knots])


def test_a_knot_put_in_or_a_trim_makes_it_a_handles_path() -> None:
    project, _, path = added("arc")
    put_in = path_edits.insert_knot(project, path, 1, 0.5).project
    trimmed = refine.trimmed(project, path, "end", 0.05).project
    for changed in (put_in, trimmed):
        assert path_by_id(changed, path).kind is PathKind.HANDLES and path_by_id(changed, path).made is None


def test_as_a_handles_path_it_keeps_its_curve_and_is_free() -> None:
    project, _, path = added("spiral", turns=1.5)
    done = set_path_kind(project, path, PathKind.HANDLES)
    changed = path_by_id(done.project, path)
    assert done.deviation < 1e-12 and changed.made is None and changed.kind is PathKind.HANDLES
    through = set_path_kind(project, path, PathKind.THROUGH).project
    assert path_by_id(through, path).made is None


def test_copies_stand_beside_and_keep_their_values() -> None:
    project, run, path = added("helix")
    twin = edits.duplicate_runs(project, [run], offset=(0.5, 0.0, 0.0))
    copied = twin.project.paths[1]
    assert (
        copied.made.at == pytest.approx((0.7, 0.1, 0.5)) and copied.made.values == path_by_id(project, path).made.values
    )


def test_the_project_reads_back_what_it_wrote() -> None:
    project, _, _ = added("wave")
    assert Project.model_validate_json(project.model_dump_json()) == project


def coiled() -> tuple[Project, str, str, str]:
    """A bent path with a coil round it: the path's, the coil's run's and its path's id."""
    base = edits.add_run(Project(), PathKind.THROUGH, [(0, 0, 0), (0.5, 0.3, 0), (1, 0, 0.2)], ROUND)
    made = add_coil(base.project, base.ids[1], 0.03, 12.0, ROUND)
    return made.project, base.ids[1], made.ids[0], made.ids[1]


def test_a_coil_follows_its_path_and_keeps_its_values() -> None:
    project, spine, run, coil = coiled()
    knot = path_by_id(project, spine).knots[1]
    moved = followed(path_edits.move_knots(project, spine, {knot.id: (0.5, -0.3, 0.4)}), project)
    assert path_by_id(moved, coil).made.spine is path_by_id(moved, spine)
    assert path_by_id(moved, coil).made.values == path_by_id(project, coil).made.values
    middle = np.array(path_by_id(moved, coil).knots[6].place)
    assert np.linalg.norm(middle - (0.5, -0.3, 0.4)) < 0.1
    assert is_closed(Builder().run(moved, edits.run_by_id(moved, run)).body.mesh)
    same = edits.rename_run(moved, run, "Spring")
    assert path_by_id(followed(same, moved), coil) is path_by_id(moved, coil)


def test_a_coil_waits_where_its_path_turns_sharp_or_goes() -> None:
    project, spine, run, coil = coiled()
    sharp = followed(path_edits.toggle_corners(project, spine, [path_by_id(project, spine).knots[1].id]), project)
    assert path_by_id(sharp, coil) is path_by_id(project, coil)
    builder = Builder()
    assert [f.code for f in builder.run(sharp, edits.run_by_id(sharp, run)).body.findings] == ["coil-waits"]
    again = followed(path_edits.toggle_corners(sharp, spine, [path_by_id(sharp, spine).knots[1].id]), sharp)
    assert not builder.run(again, edits.run_by_id(again, run)).body.findings
    alone = followed(edits.delete_runs(project, [project.runs[0].id]), project)
    assert is_closed(Builder().run(alone, edits.run_by_id(alone, run)).body.mesh)


def test_a_coil_goes_along_with_its_path_but_not_alone() -> None:
    project, _, run, coil = coiled()
    by = Transform(np.eye(3), np.array([0.0, 0.0, 1.0]))
    with pytest.raises(MorphaxError, match="lies where its path is"):
        transformed(project, targets_of(project, [run]), np.zeros(3), by)
    both = transformed(project, targets_of(project, [r.id for r in project.runs]), np.zeros(3), by)
    before, after = (np.array([k.place for k in path_by_id(p, coil).knots]) for p in (project, followed(both, project)))
    assert np.allclose(after, before + (0.0, 0.0, 1.0), atol=1e-9)


def test_a_coil_reads_back_with_the_path_that_it_winds_round() -> None:
    project, _, _, coil = coiled()
    again = Project.model_validate_json(project.model_dump_json())
    assert again == project and path_by_id(followed(again, Project()), coil) == path_by_id(project, coil)


def test_a_copied_coil_stays_on_its_path() -> None:
    project, spine, run, coil = coiled()
    twin = edits.duplicate_runs(project, [run], offset=(0.5, 0.0, 0.0))
    copied = twin.project.paths[-1]
    assert copied.made == path_by_id(project, coil).made and copied.id != coil
    assert [k.place for k in copied.knots] == [k.place for k in path_by_id(project, coil).knots]


def round_a_coil() -> tuple[Project, list[str]]:
    """A bent path, a coil round it, and a coil round that coil; the ids of their runs."""
    project, _, run, coil = coiled()
    outer = add_coil(project, coil, 0.006, 14.0, NewRun(ReadyMadeSource(name="crown"), 0.002))
    return outer.project, [project.runs[0].id, run, outer.ids[0]]


def points(project: Project, run: str) -> np.ndarray:
    return Builder().run(project, edits.run_by_id(project, run)).body.mesh.points


def apart(a: np.ndarray, b: np.ndarray) -> float:
    """Largest distance from points of either of two bodies to the nearest of the other."""
    return max(cKDTree(x).query(y)[0].max() for x, y in ((a, b), (b, a)))


MIRRORS = [np.diag(np.where(np.arange(3) == k, -1.0, 1.0)) for k in range(3)]


@pytest.mark.parametrize("axis", [0, 1, 2])
def test_coils_copied_across_with_their_path_are_its_mirror_image_and_follow_the_copy(axis: int) -> None:
    project, runs = round_a_coil()
    done = copied_across(project, runs[::-1], axis, 0.3)  # in any order
    flip, shift = MIRRORS[axis], 0.6 * np.eye(3)[axis]
    for old, new in zip(runs[::-1], done.ids, strict=True):
        assert apart(points(project, old) @ flip + shift, points(done.project, new)) < 1e-7
    assert derived(done.project) is done.project
    spine, coil, outer = (path_of(done.project, i) for i in reversed(done.ids))
    assert coil.made.around == spine.id and outer.made.around == coil.id
    assert dict(coil.made.values)["turns"] == -12.0


@pytest.mark.parametrize("by", [turned(0, 0.7), turned(1, -1.2), scaled(2.5)])
def test_coils_that_are_turned_with_their_path_lie_on_it_as_before(by: Transform) -> None:
    project, runs = round_a_coil()
    done = transformed(project, targets_of(project, runs), np.zeros(3), by)
    for run in runs:
        before, after = (np.array([k.place for k in path_of(p, run).knots]) for p in (project, done))
        assert np.abs(before @ by.matrix.T - after).max() < 1e-7
    assert followed(done, project) == done


def test_coils_keep_their_bodies_when_their_path_is_reversed() -> None:
    project, runs = round_a_coil()
    back = followed(path_edits.reverse_path(project, path_of(project, runs[0]).id), project)
    for run in runs:
        assert apart(points(project, run), points(back, run)) < 1e-7
        assert edits.run_by_id(back, run).recipe.reference.from_end
    again = path_edits.reverse_path(back, path_of(project, runs[0]).id)
    for run in runs:
        assert apart(points(project, run), points(again, run)) < 1e-7


def test_a_coil_copied_beside_with_its_path_winds_round_the_copy() -> None:
    project, runs = round_a_coil()
    twins = edits.duplicate_runs(project, runs[::-1], offset=(0.0, 2.0, 0.0))
    for old, new in zip(runs[::-1], twins.ids, strict=True):
        assert np.abs(points(project, old) + (0.0, 2.0, 0.0) - points(twins.project, new)).max() < 1e-7
    assert followed(twins.project, project) == twins.project
    coils = edits.duplicate_runs(project, runs[1:], offset=(0.0, 2.0, 0.0))  # its path stays, so they do
    assert np.abs(points(project, runs[1]) - points(coils.project, coils.ids[0])).max() < 1e-9
    assert path_of(coils.project, coils.ids[1]).made.around == path_of(coils.project, coils.ids[0]).id


def test_runs_that_share_a_coil_are_copied_with_coils_round_the_copy_each() -> None:
    project, runs = round_a_coil()
    coil = edits.run_by_id(project, runs[1])
    stations = (evolve(coil.recipe.stations[0], id="t90"),)
    second = evolve(coil, id="r90", recipe=evolve(coil.recipe, size=0.5 * coil.recipe.size, stations=stations))
    project = evolve(project, runs=(*project.runs, second))
    ids = [*runs, "r90"]
    twins = edits.duplicate_runs(project, ids, offset=(0.0, 2.0, 0.0))
    for old, new in zip(ids, twins.ids, strict=True):
        assert np.abs(points(project, old) + (0.0, 2.0, 0.0) - points(twins.project, new)).max() < 1e-7
    assert followed(twins.project, project) == twins.project
    spine = path_of(twins.project, twins.ids[0])
    knot = path_edits.move_knots(twins.project, spine.id, {spine.knots[1].id: (0.5, 2.6, 0.1)})
    moved = followed(knot, twins.project)
    assert apart(path_points(moved, twins.ids[1]), path_points(moved, twins.ids[3])) < 1e-9  # both follow


def path_points(project: Project, run: str) -> np.ndarray:
    return np.array([k.place for k in path_of(project, run).knots])


def test_a_coil_that_waits_keeps_its_body_when_its_path_is_reversed() -> None:
    project, runs = round_a_coil()
    spine = path_of(project, runs[0])
    sharp = followed(path_edits.toggle_corners(project, spine.id, [spine.knots[1].id]), project)
    back = followed(path_edits.reverse_path(sharp, spine.id), sharp)
    for run in runs[1:]:
        assert apart(points(sharp, run), points(back, run)) < 1e-9
        assert not edits.run_by_id(back, run).recipe.reference.from_end
