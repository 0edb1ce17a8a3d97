"""Edits are pure, share what did not change, and keep ids unique; history goes back and forth."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from morphax.core.errors import PathError
from morphax.core.path.paths import PathKind, chain_of
from morphax.project import history
from morphax.project.edits import paths as path_edits
from morphax.project.edits import placings
from morphax.project.edits import runs as edits
from morphax.project.edits.show import with_shows
from morphax.project.lookup import path_of, path_shape, run_by_id, run_width, section_of
from morphax.project.model.document import Density, DocumentError, Knot, Project, ReadyMadeSource, evolve
from morphax.project.things import Selection

ROUND = ReadyMadeSource(name="round", values=(("width", 0.02),))
PIPE = ReadyMadeSource(name="pipe", values=(("wall", 0.002), ("width", 0.02)))
PLACES = [(0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (1.0, 1.0, 0.5), (2.0, 1.0, 0.0)]


def project_with_runs(n: int = 2, kind: PathKind = PathKind.THROUGH) -> tuple[Project, list[str]]:
    project, ids = Project(), []
    for _ in range(n):
        added = edits.add_run(project, kind, PLACES, edits.NewRun(ROUND, 0.024))
        project = added.project
        ids.append(added.ids[0])
    return project, ids


def test_adding_runs_shares_the_section_and_numbers_names() -> None:
    project, ids = project_with_runs()
    assert [r.show.name for r in project.runs] == ["Round", "Round 2"]
    assert len(project.sections) == 1 and section_of(project, ids[0]) is section_of(project, ids[1])
    assert run_width(project, ids[0]) == pytest.approx(0.024)
    assert path_of(project, ids[0]).kind is PathKind.THROUGH


def test_an_edit_leaves_everything_else_the_same_object() -> None:
    project, ids = project_with_runs()
    path = path_of(project, ids[0])
    moved = path_edits.move_knots(project, path.id, {path.knots[1].id: (1.0, 0.5, 0.0)})
    assert path_of(moved, ids[1]) is path_of(project, ids[1])
    assert moved.runs[0] is project.runs[0] and moved.sections[0] is project.sections[0]
    new = path_of(moved, ids[0])
    assert new.knots[0] is path.knots[0] and new.knots[1].place == (1.0, 0.5, 0.0)
    assert path.knots[1].place == PLACES[1]


def test_ids_are_never_used_twice() -> None:
    project, ids = project_with_runs()
    everything = [k.id for p in project.paths for k in p.knots] + [p.id for p in project.paths] + ids
    assert len(set(everything)) == len(everything)
    gone = edits.delete_runs(project, ids)
    again = edits.add_run(gone, PathKind.THROUGH, PLACES, edits.NewRun(ROUND))
    assert not set(again.ids) & set(everything)


def test_deleting_removes_what_nothing_uses() -> None:
    project, ids = project_with_runs()
    assert edits.delete_runs(project, ids[:1]).sections == project.sections
    empty = edits.delete_runs(project, ids)
    assert empty.paths == () and empty.sections == () and empty.runs == ()


def test_duplicates_have_their_own_path_and_share_the_section() -> None:
    project, ids = project_with_runs(1)
    twin = edits.duplicate_runs(project, ids, offset=(0.0, 0.1, 0.0))
    a, b = path_of(project, ids[0]), path_of(twin.project, twin.ids[0])
    assert b.id != a.id and {k.id for k in a.knots}.isdisjoint(k.id for k in b.knots)
    assert b.knots[0].place == (0.0, 0.1, 0.0)
    assert section_of(twin.project, twin.ids[0]) is section_of(twin.project, ids[0])


def test_section_swap_keeps_the_width() -> None:
    project, ids = project_with_runs()
    swapped = edits.set_section(project, ids, PIPE)
    assert run_width(swapped, ids[1]) == pytest.approx(0.024, rel=1e-12)
    assert [s.name for s in swapped.sections] == ["Pipe"]
    with pytest.raises(DocumentError, match="more than 0"):
        edits.set_width(project, ids, -1.0)


def test_insert_keeps_the_curve_and_remove_tells_the_deviation() -> None:
    project, ids = project_with_runs(1)
    path = path_of(project, ids[0])
    more = path_edits.insert_knot(project, path.id, 1, 0.5)
    new = path_of(more.project, ids[0])
    assert [k.id for k in new.knots][2] == more.knots[0] and new.knots[2].step
    before, after = chain_of(path_shape(path)).spans, chain_of(path_shape(new)).spans
    np.testing.assert_allclose(after[0], before[0], atol=1e-14)
    fewer = path_edits.remove_knots(more.project, path.id, more.knots)
    assert len(path_of(fewer.project, ids[0]).knots) == 4 and fewer.deviation < 0.1


def test_corners_toggle_together_and_straight_paths_say_why_not() -> None:
    project, ids = project_with_runs(1)
    path = path_of(project, ids[0])
    chosen = [k.id for k in path.knots[1:3]]
    sharp = path_edits.toggle_corners(project, path.id, chosen)
    assert [k.kind for k in path_of(sharp, ids[0]).knots] == ["smooth", "corner", "corner", "smooth"]
    assert path_edits.toggle_corners(sharp, path.id, chosen) == project
    project, ids = project_with_runs(1, PathKind.STRAIGHT)
    with pytest.raises(PathError, match="corners only"):
        path_edits.toggle_corners(project, path_of(project, ids[0]).id, [path_of(project, ids[0]).knots[1].id])


def test_closing_and_reversing_keep_the_knots() -> None:
    project, ids = project_with_runs(1)
    path = path_of(project, ids[0])
    closed = path_edits.set_closed(project, path.id, True)
    assert path_of(closed, ids[0]).knots == path.knots
    back = path_edits.reverse_path(closed, path.id)
    assert [k.id for k in path_of(back, ids[0]).knots] == [path.knots[i].id for i in (0, 3, 2, 1)]
    assert path_edits.reverse_path(back, path.id) == closed
    short = edits.add_run(Project(), PathKind.THROUGH, PLACES[:2], edits.NewRun(ROUND))
    with pytest.raises(PathError, match="needs 3 knots"):
        path_edits.set_closed(short.project, short.ids[1], True)


def test_flip_and_density_and_rename() -> None:
    project, ids = project_with_runs()
    flipped = placings.flip_side(project, ids)
    assert all(r.recipe.placing.flip for r in flipped.runs)
    assert placings.flip_side(flipped, ids) == project
    dense = edits.with_recipe(project, ids, density=Density(sides=8))
    assert dense.runs[1].recipe.density.sides == 8
    assert run_by_id(edits.rename_run(project, ids[1], "Round"), ids[1]).show.name == "Round 2"
    with pytest.raises(DocumentError):
        edits.rename_run(project, ids[0], "  ")
    assert with_shows(project, ids, hidden=True).runs[0].recipe is project.runs[0].recipe


@pytest.mark.parametrize(
    "change",
    [
        {"runs": "p9"},
        {"sections": ()},
        {"paths": ()},
    ],
)
def test_broken_references_are_refused(change: dict) -> None:
    project, _ = project_with_runs(1)
    with pytest.raises(ValidationError):
        evolve(project, **change)


def test_values_that_are_not_finite_or_out_of_range_are_refused() -> None:
    for bad in (float("nan"), float("inf"), 1e9):
        with pytest.raises(ValidationError):
            Knot(id="k1", place=(bad, 0.0, 0.0))
    with pytest.raises(ValidationError, match="by a budget: one of them"):
        evolve(Density(), rings=5, deviation=0.1)
    with pytest.raises(ValidationError, match="there is no section"):
        ReadyMadeSource(name="tube")


ops = st.lists(st.sampled_from(["push", "undo", "redo", "save"]), max_size=30)


@given(ops)
def test_history_is_a_list_with_a_present(steps: list[str]) -> None:
    h = history.started(Project())
    reference, at, count = [h.now.project], 0, 0
    saved = 0
    for step in steps:
        if step == "push":
            count += 1
            project = evolve(Project(), next_id=count + 1)
            h = history.pushed(h, f"edit {count}", project, Selection.of(runs=(f"r{count}",)))
            reference = [*reference[: at + 1], project]
            if saved > at:
                saved = -1
            at += 1
        elif step == "undo":
            h, at = history.undone(h), max(0, at - 1)
        elif step == "redo":
            h, at = history.redone(h), min(len(reference) - 1, at + 1)
        else:
            h, saved = history.marked_saved(h), at
        assert h.now.project is reference[at]
        assert h.is_saved == (saved == at)
        assert (h.undo_label is None) == (at == 0)


def test_selection_travels_with_history() -> None:
    h = history.started(Project())
    h = history.reselected(h, Selection.of(runs=("r1",)))
    h = history.pushed(h, "x", Project(next_id=2), Selection.of())
    assert history.undone(h).now.selection.run == "r1"
    long = history.History(h.moments, most=3)
    for i in range(6):
        long = history.pushed(long, str(i), Project(), Selection.of())
    assert len(long.moments) == 3 and long.saved is None


def test_sections_of_equal_sources_are_one() -> None:
    """Equal, not only the same object: a file that is opened again brings its own."""
    project = Project()
    for width in (0.03, 0.05):
        pipe = ReadyMadeSource(name="pipe", values=PIPE.values)
        project = edits.add_run(project, PathKind.THROUGH, PLACES, edits.NewRun(pipe, width)).project
    assert len(project.sections) == 1 and len({r.recipe.stations[0].section for r in project.runs}) == 1
