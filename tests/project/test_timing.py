"""What moves with time: runs that appear, values that they come to, and the project at a time."""

from dataclasses import replace

import numpy as np
import pytest

from morphax.build.project_bodies import new_builder
from morphax.core.body.range import PartOfRange, Range, Stop
from morphax.core.body.recipe import End, Ends
from morphax.core.path.paths import PathKind
from morphax.io.project_file import from_bytes, to_bytes
from morphax.project.derive.at_time import Kept, frame_times, play_length, project_at
from morphax.project.edits import timing
from morphax.project.edits.paths import move_knots, reverse_path, set_slack
from morphax.project.edits.ranges import with_range
from morphax.project.edits.runs import NewRun, add_run, with_recipe
from morphax.project.model.along import Varying
from morphax.project.model.document import DocumentError, Project, ReadyMadeSource, copied, evolve
from morphax.project.model.times import Moment, Move, Times, eased

ROUND = ReadyMadeSource(name="round", values=(("width", 0.02),))
BENT = [(0.0, 0.0, 0.0), (0.3, 0.1, 0.0), (0.6, 0.0, 0.2), (1.0, 0.2, 0.1)]


def project_of(count: int = 1, kind: PathKind = PathKind.THROUGH) -> tuple[Project, list[str]]:
    project, ids = Project(), []
    for k in range(count):
        made = add_run(project, kind, [(x, y + k, z) for x, y, z in BENT], NewRun(ROUND, name=f"run {k}"))
        project, ids = made.project, [*ids, made.ids[0]]
    return project, ids


def at(project: Project, time: float) -> Project:
    return project_at(project, time, lambda path: new_builder().path(path).length)


def points_at(project: Project, time: float, run: str) -> np.ndarray:
    now = at(project, time)
    return new_builder().run(now, now.find("runs", run)).body.mesh.points


@pytest.mark.parametrize("easing", ["even", "soft", "soft start", "soft end"])
def test_easings_go_from_0_to_1_and_never_back(easing: str) -> None:
    values = [eased(f, easing) for f in np.linspace(-0.5, 1.5, 201)]
    assert values[0] == 0.0 and values[-1] == 1.0 and values == sorted(values)
    ends = [eased(1e-4, easing) * 1e4, (1.0 - eased(1.0 - 1e-4, easing)) * 1e4]
    slow = {"even": (1, 1), "soft": (0, 0), "soft start": (0, 2), "soft end": (2, 0)}[easing]
    assert ends == pytest.approx(slow, abs=1e-3)


@pytest.mark.parametrize(("origin", "range_"), [("start", (0.0, 0.5)), ("end", (0.5, 1.0)), ("middle", (0.25, 0.75))])
def test_a_run_at_a_time_is_bitwise_the_run_with_that_range(origin: str, range_: tuple[float, float]) -> None:
    project, (run,) = project_of()
    project = with_recipe(project, [run], ends=Ends(End.DOMED, End.POINTED))
    moving = timing.with_appears(timing.with_origin(project, [run], origin), [run], begin=1.0, end=2.0)
    typed = with_range(project, [run], start=Stop(range_[0]), end=Stop(range_[1]))
    assert np.array_equal(points_at(moving, 1.5, run), points_at(typed, 0.0, run))
    assert at(moving, 1.0).find("runs", run).show.hidden and at(moving, 0.0).find("runs", run).show.hidden
    assert at(moving, 2.0).find("runs", run).recipe is moving.find("runs", run).recipe
    assert not at(moving, 99.0).find("runs", run).show.hidden


def test_what_appears_is_the_range_with_its_gaps() -> None:
    project, (run,) = project_of()
    project = with_range(project, [run], start=Stop(0.2), end=Stop(0.6), out=((Stop(0.3), Stop(0.35)),))
    moving = timing.with_appears(timing.with_origin(project, [run], "start"), [run], end=2.0)
    assert at(moving, 1.0).find("runs", run).recipe.range == PartOfRange(
        Stop(0.2), Stop(0.6), ((Stop(0.3), Stop(0.35)),), (0.0, 0.5)
    )
    assert moving.find("runs", run).recipe.range == project.find("runs", run).recipe.range


def test_a_reversed_run_goes_on_appearing_from_where_it_did() -> None:
    """Reversing a path keeps the body: its start is the path's end now, and is called so."""
    project, (run,) = project_of()
    moving = timing.with_origin(project, [run], "start")
    path = moving.find("runs", run).recipe.path
    back = reverse_path(moving, path)
    assert timing.seen_origin(back.find("runs", run)) == "end"
    a, b = points_at(moving, 1.0, run), points_at(back, 1.0, run)
    assert a.shape == b.shape and np.abs(a - b).max() < 1e-9
    again = timing.with_origin(back, [run], "start")
    assert np.abs(points_at(again, 1.0, run).mean(0) - a.mean(0)).max() > 0.1


def test_times_go_along_and_are_kept_in_files() -> None:
    project, ids = project_of(2)
    moving = timing.with_clock(timing.with_origin(project, ids, "middle"), rate=30, length=5.0)
    moving = timing.with_move(moving, ids[:1], "twist", lambda _: timing.begun("twist", 2.0))
    read = from_bytes(to_bytes(moving), "a project")
    assert read == moving and play_length(read) == 5.0 and read.runs[0].times.move("twist").end == 2.0
    assert play_length(evolve(moving, clock=type(moving.clock)())) == 3.0 and play_length(project) == 0.0


def test_typed_times_push_each_other() -> None:
    project, (run,) = project_of()
    moving = timing.with_origin(project, [run], "start")
    later = timing.with_appears(moving, [run], begin=5.0).find("runs", run).times.appears
    sooner = timing.with_appears(moving, [run], begin=2.0)
    sooner = timing.with_appears(sooner, [run], end=0.5).find("runs", run).times.appears
    assert (later.begin, later.end, sooner.begin, sooner.end) == (5.0, 8.0, 0.0, 0.5)
    with pytest.raises(DocumentError, match="run 0 does not appear"):
        timing.with_appears(project, [run], begin=1.0)


def test_runs_appear_in_turn_with_an_overlap() -> None:
    project, ids = project_of(3)
    moving = timing.with_appears(timing.with_origin(project, ids, "start"), ids, begin=1.0, end=3.0)
    for overlap, begins in ((0.0, (1.0, 3.0, 5.0)), (0.25, (1.0, 2.5, 4.0)), (1.0, (1.0, 1.0, 1.0))):
        turned = timing.in_turn(moving, ids[::-1], overlap)
        found = [r.times.appears for r in turned.runs]
        assert tuple(a.begin for a in found) == begins and all(a.end - a.begin == 2.0 for a in found)
        assert timing.overlap_of(turned.runs) == overlap
    with pytest.raises(DocumentError):
        timing.in_turn(moving, ids, 1.5)
    assert timing.overlap_of(timing.with_appears(turned, ids[:1], begin=0.0, end=0.5).runs) is None
    fresh = timing.in_turn(project, ids, 0.0)  # those that did not appear do now
    assert [r.times.appears.begin for r in fresh.runs] == [0.0, 3.0, 6.0]


def test_values_come_to_the_runs_own() -> None:
    """Size, twist and slack by shares of the own value, range ends by shares of the length."""
    project, (run,) = project_of(kind=PathKind.HANGING)
    project = set_slack(project, project.find("runs", run).recipe.path, 0.2)
    project = with_recipe(project, [run], varying=Varying(twist=8.0))
    project = with_range(project, [run], end=Stop(0.1, "end"))
    for what in ("size", "twist", "slack", "range end"):
        project = timing.with_move(project, [run], what, lambda _, what=what: timing.begun(what, 4.0))
    length = new_builder().path(project.paths[0]).length
    now = at(project, 2.0)
    recipe, own = now.runs[0].recipe, project.runs[0].recipe
    assert recipe.size == pytest.approx(0.55 * own.size) and recipe.varying.twist == pytest.approx(4.0)
    assert now.paths[0].slack == pytest.approx(0.1)
    assert recipe.range.end.value == pytest.approx(0.5 * (length - 0.1) / length)
    end = at(project, 4.0)
    assert end.runs[0].recipe is own and end.paths[0] is project.paths[0]
    assert at(project, -1.0).paths[0].slack == 0.0


def test_a_range_that_moves_follows_a_path_that_was_changed() -> None:
    """Its own end counts from the path's end: what was found for the path before is not taken for the new one."""
    project, (run,) = project_of()
    project = with_range(project, [run], end=Stop(0.5, "end"))
    project = timing.with_move(project, [run], "range end", lambda _: timing.begun("range end", 2.0))
    kept, builder = Kept(), new_builder()

    def share(now: Project) -> tuple[float, float]:
        length = builder.path(now.paths[0]).length
        own = project_at(now, 1.0, lambda path: builder.path(path).length, kept)
        return own.runs[0].recipe.range.end.value, 0.5 * (length - 0.5) / length

    for _ in range(2):
        found, wanted = share(project)
        assert found == pytest.approx(wanted)
        project = move_knots(project, project.paths[0].id, {project.paths[0].knots[-1].id: (2.0, 0.0, 0.0)})


def test_two_runs_on_one_path_with_one_slack_that_moves() -> None:
    project, (run,) = project_of(kind=PathKind.HANGING)
    other = copied(project.runs[0], id="r900", show=copied(project.runs[0].show, name="other"))
    station = copied(other.recipe.stations[0], id="t900")
    other = copied(other, recipe=copied(other.recipe, stations=(station,)))
    project = evolve(set_slack(project, project.paths[0].id, 0.2), runs=(*project.runs, other), next_id=1000)
    project = timing.with_move(project, [run], "slack", lambda _: timing.begun("slack", 2.0))
    project = timing.with_origin(project, ["r900"], "start")
    assert at(project, 1.0).paths[0].slack == pytest.approx(0.1)


def test_a_lay_gets_tighter_and_no_twist_is_none() -> None:
    project, (run,) = project_of()
    project = with_recipe(project, [run], varying=Varying(lay=0.1))
    project = timing.with_move(project, [run], "twist", lambda _: timing.begun("twist", 1.0))
    assert at(project, 0.5).runs[0].recipe.varying.lay == pytest.approx(0.2)
    assert at(project, 0.0).runs[0].recipe.varying.lay is None
    assert at(project, 1.0).runs[0].recipe is project.runs[0].recipe


def test_the_ends_of_a_range_move_as_the_path_goes_whichever_way_the_run_is_walked() -> None:
    """A reversed run: what is called its start is the path's, and the body at each second is what it was called."""
    project, (run,) = project_of()
    back = reverse_path(project, project.runs[0].recipe.path)
    for base in (project, back):
        moving = timing.with_move(base, [run], "range end", lambda _: timing.begun("range end", 2.0))
        assert timing.seen_move(moving.runs[0], "range end").moments[0].value == 0.0
        assert timing.seen_move(moving.runs[0], "range start") is None
        typed = with_range(base, [run], end=Stop(0.5))
        a, b = points_at(moving, 1.0, run), points_at(typed, 0.0, run)
        assert a.shape == b.shape and np.abs(a - b).max() < 1e-12
        more = timing.with_move(moving, [run], "range end", lambda m: timing.held_at(m, 1.0))
        assert [m.value for m in timing.seen_move(more.runs[0], "range end").moments] == [0.0, 0.5]
        assert timing.with_move(more, [run], "range end", lambda _: None) == base


@pytest.mark.parametrize("closed", [False, True])
def test_what_has_not_come_to_anything_is_hidden_not_a_fault(closed: bool) -> None:
    """A range whose ends meet, or that has come no farther than a stretch that is left out, shows nothing yet."""
    made = add_run(Project(), PathKind.THROUGH, BENT, NewRun(ROUND), closed=closed)
    project, run = made.project, made.ids[0]
    ends = [
        timing.with_move(project, [run], w, lambda _, w=w: timing.begun(w, 2.0)) for w in ("range end", "range start")
    ]
    gap = with_range(project, [run], out=((Stop(0.0), Stop(0.4)),))
    late = timing.with_appears(timing.with_origin(gap, [run], "start"), [run], end=2.0)
    for moving, times in ((ends[0], (0.0,)), (ends[1], (0.0,)), (late, (0.0, 0.5))):
        for time in times:
            assert at(moving, time).runs[0].show.hidden
        now = at(moving, 1.5)
        body = new_builder().run(now, now.runs[0]).body
        assert not now.runs[0].show.hidden and not body.has_errors and body.mesh.face_count


def test_moments_are_held_moved_and_let_go() -> None:
    move = timing.begun("size", 3.0)
    more = timing.held_at(move, 1.5)
    assert (more.moments[1].at, more.moments[1].value) == (1.5, pytest.approx(0.55))
    assert [more.value_at(t, 1.0) for t in (0.0, 0.75, 1.5, 3.0)] == pytest.approx([0.1, 0.325, 0.55, 1.0])
    late = timing.with_moment(more, 0, at=2.0)
    assert [m.at for m in late.moments] == [1.5, 2.0]
    assert timing.without_moment(timing.without_moment(more, 1), 0) is None
    for wrong in (lambda: timing.held_at(move, 0.0), lambda: timing.held_at(move, 3.0)):
        with pytest.raises(DocumentError, match="held already"):
            wrong()
    with pytest.raises(ValueError, match="one after the other"):
        timing.with_moment(more, 0, at=1.5)
    with pytest.raises(ValueError, match="0.1 to"):
        Move(what="size", moments=(Moment(at=0.0, value=0.0),))
    with pytest.raises(ValueError, match="in one way"):
        Times(moves=(move, move))


def test_frames_are_at_even_times_and_the_last_shows_all() -> None:
    project, (run,) = project_of()
    moving = timing.with_appears(timing.with_origin(project, [run], "start"), [run], end=0.3)
    assert frame_times(timing.with_clock(moving, rate=10)) == (0.0, 0.1, 0.2, 0.3)
    assert frame_times(timing.with_clock(moving, rate=7))[-1] == 3 / 7
    assert frame_times(project) == (0.0,)


def test_the_same_time_gives_the_same_values_so_that_bodies_are_found_again() -> None:
    project, ids = project_of(2)
    moving = timing.with_origin(project, ids[:1], "start")
    builder, kept = new_builder(), Kept()
    first, again = (project_at(moving, 1.0, lambda path: builder.path(path).length, kept) for _ in range(2))
    assert first.runs[0] is again.runs[0] and first.runs[1] is moving.runs[1]
    builder.run(first, first.runs[0])
    built = builder.bodies_built
    builder.run(again, again.runs[0])
    assert builder.bodies_built == built
    other = project_at(moving, 1.5, lambda path: builder.path(path).length, kept)
    builder.run(other, other.runs[0])
    assert builder.made["places"] == 1, "a run that appears makes no ring again"


def test_what_stands_still_is_the_project_itself() -> None:
    project, (run,) = project_of()
    assert at(project, 1.0) is project
    moving = timing.with_origin(project, [run], "start")
    assert timing.with_origin(moving, [run], None) == project
    whole = replace(Range(), start=Stop(0.0))
    assert at(moving, 3.0).runs[0].recipe.range == whole
