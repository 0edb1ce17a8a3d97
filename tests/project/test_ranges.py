"""Edits of the range: as the path goes, also of runs that are walked from their end."""

import numpy as np
import pytest

from morphax.build.builder import Builder
from morphax.core.body.range import END, START, WHOLE, Range, Stop
from morphax.core.errors import PathError
from morphax.core.path.paths import PathKind
from morphax.io.project_file import from_bytes, to_bytes
from morphax.project.edits.paths import reverse_path, set_closed, set_first_knot
from morphax.project.edits.ranges import (
    seen_range,
    slid_stop,
    stop_at,
    with_gap,
    with_gap_at,
    with_range,
)
from morphax.project.edits.refine import joined, split
from morphax.project.edits.runs import NewRun, add_run
from morphax.project.model.document import Project, ReadyMadeSource


@pytest.fixture
def project() -> Project:
    square = ReadyMadeSource(name="rectangle", values={"width": 0.1, "height": 0.1})
    return add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (2.0, 0, 0)], NewRun(square, 0.1)).project


def bounds(project: Project) -> list[float]:
    built = Builder().run(project, project.runs[0])
    assert not built.body.has_errors, built.body.findings
    return built.body.mesh.bounds[:, 0].tolist()


def test_a_range_is_set_kept_in_files_and_taken_back(project: Project) -> None:
    run = project.runs[0].id
    cut = with_range(project, [run], start=Stop(0.25), end=Stop(0.3, "end"))
    assert bounds(cut) == pytest.approx([0.5, 1.7]) and seen_range(cut.runs[0]).end == Stop(0.3, "end")

    assert from_bytes(to_bytes(cut), "a.morphax").runs[0].recipe.range == cut.runs[0].recipe.range
    assert with_range(cut, [run], start=START, end=END).runs[0].recipe.range == WHOLE


def test_a_reversed_run_keeps_what_is_shown_and_is_set_as_its_path_goes(project: Project) -> None:
    run = project.runs[0]
    cut = with_range(project, [run.id], start=Stop(0.25), end=Stop(1.5, "start"))
    back = reverse_path(cut, run.recipe.path)
    assert bounds(back) == pytest.approx(bounds(cut)) and bounds(cut) == pytest.approx([0.5, 1.5])
    assert seen_range(back.runs[0]) == Range(Stop(1.5, "end"), Stop(0.75))
    again = with_range(back, [run.id], start=Stop(0.1, "start"))
    assert bounds(again) == pytest.approx([0.5, 1.9]), "the path begins at its other end now"
    assert seen_range(reverse_path(again, run.recipe.path).runs[0]).end == Stop(0.1, "end")


def test_stretches_are_left_out_moved_and_shown_again(project: Project) -> None:
    run = project.runs[0].id
    with_door = with_gap(project, run, Stop(0.5, "start"), Stop(1.4, "start"))
    mesh = Builder().run(with_door, with_door.runs[0]).body.mesh
    x = np.unique(mesh.points[:, 0])
    assert x == pytest.approx([0.0, 0.5, 1.4, 2.0])
    moved = with_gap_at(with_door, run, 0, (Stop(0.6, "start"), Stop(1.5, "start")))
    x = np.unique(Builder().run(moved, moved.runs[0]).body.mesh.points[:, 0])
    assert x == pytest.approx([0.0, 0.6, 1.5, 2.0])
    assert with_gap_at(moved, run, 0, None).runs[0].recipe.range == WHOLE
    with pytest.raises(PathError, match="no such stretch"):
        with_gap_at(moved, run, 1, None)


def test_a_stop_that_is_slid_keeps_how_it_counts_and_leaves_something() -> None:
    own = Range(Stop(0.2), Stop(0.5, "end"))
    moved = slid_stop(own, "end", 1.2, 2.0, closed=False).end
    assert (moved.value, moved.by) == (pytest.approx(0.8), "end")
    assert slid_stop(own, "start", 1.9, 2.0, closed=False).start.value * 2.0 == pytest.approx(1.498)
    assert slid_stop(own, "end", 0.1, 2.0, closed=False).end.at(2.0) == pytest.approx(0.402)
    assert slid_stop(own, "end", 9.0, 2.0, closed=False).end == END
    assert slid_stop(own, "start", -1.0, 2.0, closed=False).start == START
    round_ = slid_stop(own, "start", 1.8, 2.0, closed=True)
    assert round_.start.at(2.0) == pytest.approx(1.8) and round_.stretches(2.0, closed=True) == ((1.8, 3.5),)
    assert stop_at(Stop(0.0, "start"), 0.7, 2.0) == Stop(0.7, "start")


def test_a_range_that_leaves_nothing_is_said_in_words_and_nothing_is_lost(project: Project) -> None:
    run = project.runs[0].id
    none = with_gap(project, run, START, END)
    built = Builder().run(none, none.runs[0])
    assert built.body.has_errors and "Nothing of the run is left" in built.body.findings[0].message
    assert bounds(with_gap_at(none, run, 0, None)) == pytest.approx([0.0, 2.0])


# -- while the path changes ------------------------------------------------------------------------------


def corners(project: Project) -> np.ndarray:
    """The points of the body, in one order."""
    built = Builder().run(project, project.runs[0])
    assert not built.body.has_errors, built.body.findings
    points = np.round(built.body.mesh.points, 9) + 0.0
    return points[np.lexsort(points.T)]


def ring(is_reversed: bool = False) -> tuple[Project, str]:
    square = ReadyMadeSource(name="rectangle", values={"width": 0.1, "height": 0.1})
    places = [(0, 0, 0), (2.0, 0, 0), (2.0, 1.0, 0), (0, 1.0, 0)]
    project = add_run(Project(), PathKind.STRAIGHT, places, NewRun(square, 0.1), closed=True).project
    path = project.runs[0].recipe.path
    return (reverse_path(project, path) if is_reversed else project), path


RANGES = [
    Range(Stop(0.1), Stop(0.6)),
    Range(Stop(0.8), Stop(0.3)),
    Range(Stop(0.5, "start"), Stop(0.7, "end")),
    Range(out=((Stop(0.2), Stop(0.4)),)),
    Range(Stop(0.7), Stop(0.4), ((Stop(0.9), Stop(0.1)),)),
]


@pytest.mark.parametrize("own", RANGES)
@pytest.mark.parametrize("is_reversed", [False, True])
def test_a_closed_path_that_begins_elsewhere_shows_what_it_did(own: Range, is_reversed: bool) -> None:
    project, path = ring(is_reversed)
    project = with_range(project, [project.runs[0].id], start=own.start, end=own.end, out=own.out)
    before = corners(project)
    for k in (1, 2, 3):
        knot = project.find("paths", path).knots[k].id
        moved = set_first_knot(project, path, knot)
        assert seen_range(moved.runs[0]) != own
        np.testing.assert_allclose(corners(moved), before, atol=1e-8)
        assert [s.by for s in (seen_range(moved.runs[0]).start, seen_range(moved.runs[0]).end)] == [
            own.start.by, own.end.by,
        ]  # fmt: skip


def test_a_whole_run_stays_whole_and_the_same_object() -> None:
    project, path = ring()
    run = project.runs[0]
    moved = set_first_knot(project, path, project.find("paths", path).knots[2].id)
    assert moved.runs[0].recipe.range == WHOLE
    assert set_closed(project, path, False).find("runs", run.id).recipe.range == WHOLE


@pytest.mark.parametrize("is_reversed", [False, True])
def test_a_range_that_goes_on_round_is_cut_where_the_path_is_opened(is_reversed: bool) -> None:
    project, path = ring(is_reversed)
    project = with_range(project, [project.runs[0].id], start=Stop(0.75), end=Stop(0.25))
    open_ = set_closed(project, path, False)
    assert seen_range(open_.runs[0]) == Range(out=((Stop(0.25), Stop(0.75)),))
    assert not Builder().run(open_, open_.runs[0]).body.has_errors
    gap = with_range(ring()[0], [project.runs[0].id], out=((Stop(0.9), Stop(0.2)),))
    open_ = set_closed(gap, path, False)
    assert seen_range(open_.runs[0]).out == ((START, Stop(0.2)), (Stop(0.9), END))
    assert not Builder().run(open_, open_.runs[0]).body.has_errors


@pytest.mark.parametrize("is_reversed", [False, True])
def test_both_parts_of_a_split_run_show_what_was_shown_there(is_reversed: bool) -> None:
    square = ReadyMadeSource(name="rectangle", values={"width": 0.1, "height": 0.1})
    project = add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (1, 0, 0), (4, 0, 0)], NewRun(square, 0.1)).project
    run = project.runs[0]
    project = reverse_path(project, run.recipe.path) if is_reversed else project
    middle = project.find("paths", run.recipe.path).knots[1].id
    own = {"start": Stop(0.125), "end": Stop(0.5, "end"), "out": ((Stop(0.75), Stop(0.8)),)}
    ranged = with_range(project, [run.id], **own)
    before = np.unique(np.round(Builder().run(ranged, ranged.runs[0]).body.mesh.points[:, 0], 9))
    made = split(ranged, run.id, middle).project
    after = [Builder().run(made, r).body.mesh.points[:, 0] for r in made.runs]
    assert np.unique(np.round(np.concatenate(after), 9)) == pytest.approx(np.union1d(before, [1.0]))
    nothing = with_range(project, [run.id], start=Stop(0.9))
    with pytest.raises(PathError, match="would show nothing"):
        split(nothing, run.id, middle)


@pytest.mark.parametrize("order", [(0, 1), (1, 0)])
@pytest.mark.parametrize("is_reversed", [False, True])
@pytest.mark.parametrize("apart", [0.0, 0.5])
def test_a_joined_run_shows_what_both_showed(order: tuple[int, int], is_reversed: bool, apart: float) -> None:
    square = ReadyMadeSource(name="rectangle", values={"width": 0.1, "height": 0.1})
    project = add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (1, 0, 0)], NewRun(square, 0.1)).project
    places = [(1 + apart, 0, 0), (2 + apart, 0, 0)]
    project = add_run(project, PathKind.STRAIGHT, places, NewRun(square, 0.1)).project
    one, two = project.runs
    project = with_range(project, [one.id], start=Stop(0.2))
    project = with_range(project, [two.id], end=Stop(0.3, "end"), out=((Stop(0.1), Stop(0.4, "start")),))
    project = reverse_path(project, two.recipe.path) if is_reversed else project
    ids = [(one.id, two.id)[k] for k in order]
    made = joined(project, ids[0], ids[1]).project
    x = np.unique(np.round(Builder().run(made, made.runs[0]).body.mesh.points[:, 0], 6))
    wanted = [0.2, *(1 + apart + v for v in (0.1, 0.4, 0.7))]
    assert x[[0, -1]] == pytest.approx([wanted[0], wanted[-1]])
    assert all(np.abs(x - v).min() < 1e-6 for v in wanted)
    assert not ((x > wanted[1] + 1e-6) & (x < wanted[2] - 1e-6)).any(), "what was left out is left out"
