"""Drafts: ids from one place, things found by id, and documents in which only what changed was looked at."""

from time import perf_counter

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from morphax.core.path.paths import PathKind
from morphax.project.draft import Draft, unique_name
from morphax.project.edits import refine
from morphax.project.edits import runs as edits
from morphax.project.lookup import path_of, run_by_id
from morphax.project.model.document import (
    DocumentError,
    Material,
    Project,
    ReadyMadeSource,
    Run,
    Station,
    all_ids,
    evolve,
)

ROUND = edits.NewRun(ReadyMadeSource(name="round"), width=0.02)


def with_runs(count: int, project: Project | None = None) -> Project:
    project = project or Project()
    for i in range(count):
        places = [(float(i), 0.0, 0.0), (float(i), 1.0, 0.0), (float(i), 2.0, 0.5)]
        project = edits.add_run(project, PathKind.THROUGH, places, ROUND).project
    return project


def whole(project: Project) -> Project:
    """The same document, validated from nothing."""
    return Project.model_validate(project.model_dump())


def test_every_id_is_used_once_whatever_is_made() -> None:
    project = with_runs(3)
    ids = [r.id for r in project.runs]
    project = edits.duplicate_runs(project, ids).project
    path = path_of(project, ids[0])
    project = refine.split(project, ids[0], path.knots[1].id).project
    found = list(all_ids(project))
    assert len(found) == len(set(found))
    assert all(int(i[1:]) < project.next_id for i in found)


def test_stations_of_a_copy_and_of_both_halves_have_ids_of_their_own() -> None:
    project = with_runs(1)
    run = project.runs[0]
    more = (*run.recipe.stations, Station(id="t900", section=run.recipe.stations[0].section, share=0.5))
    loft = run.recipe.model_copy(update={"stations": more})  # a loft, before the document takes one
    project = project.model_copy(update={"runs": (run.model_copy(update={"recipe": loft}),), "next_id": 901})
    draft = Draft(project)
    own = edits.with_own_stations(draft, more)
    assert len({s.id for s in (*own, *more)}) == 4


def test_an_id_used_twice_is_refused_anywhere() -> None:
    project = with_runs(2)
    knot = project.paths[0].knots[0]
    twin = evolve(project.paths[1], knots=(*project.paths[1].knots, evolve(knot)))
    with pytest.raises(ValidationError, match="used twice"):
        whole(project.model_copy(update={"paths": (project.paths[0], twin)}))
    with pytest.raises(ValidationError, match="used twice"):
        evolve(project, runs=(*project.runs, project.runs[0]))


def test_quick_changes_are_refused_as_whole_validation_does() -> None:
    project = with_runs(2)
    run = project.runs[0]
    lost = evolve(run, recipe=evolve(run.recipe, path="p77"))
    for change in (
        {"runs": (lost, project.runs[1])},
        {"paths": project.paths[:1]},
        {"sections": ()},
        {"runs": (run, "r9")},
        {"runs": (evolve(run, show=evolve(run.show, material="m4")), project.runs[1])},
    ):
        with pytest.raises(ValidationError):
            evolve(project, **change)


def test_what_did_not_change_stays_the_same_object() -> None:
    project = with_runs(4)
    changed = edits.set_width(project, [project.runs[2].id], 0.05)
    assert [a is b for a, b in zip(project.runs, changed.runs, strict=True)] == [True, True, False, True]
    assert changed.paths is project.paths and changed.sections is project.sections


def test_siblings_that_share_an_index_find_their_own() -> None:
    root = with_runs(2)
    fork = edits.add_run(root, PathKind.STRAIGHT, [(0, 0, 0), (1, 1, 1)], ROUND).project
    a, b = with_runs(1, root), with_runs(2, fork)
    for project in (a, b, root, a, b):
        for run in project.runs:
            assert run_by_id(project, run.id) is run
            assert path_of(project, run.id).id == run.recipe.path
        assert whole(project) == project
    gone = {r.id for r in b.runs} - {r.id for r in a.runs}
    for run_id in gone:
        with pytest.raises(DocumentError, match=f"there is no run {run_id}"):
            run_by_id(a, run_id)


KINDS = st.sampled_from(["add", "copy", "delete", "width", "name", "back"])
STEPS = st.lists(st.tuples(KINDS, st.integers(0, 9)), max_size=14)


@given(STEPS)
def test_any_edits_give_a_document_that_is_whole(steps: list[tuple[str, int]]) -> None:
    moments = [with_runs(2)]
    for what, k in steps:
        now = moments[-1]
        ids = [r.id for r in now.runs]
        some = ids[k % len(ids) :][:2] if ids else []
        if what == "back" and len(moments) > 1:
            moments.append(moments[k % (len(moments) - 1)])
        elif what == "add" or not some:
            moments.append(with_runs(1, now))
        elif what == "copy":
            moments.append(edits.duplicate_runs(now, some).project)
        elif what == "delete":
            moments.append(edits.delete_runs(now, some))
        elif what == "width":
            moments.append(edits.set_width(now, some, 0.01 + 0.001 * k))
        elif what == "name":
            moments.append(edits.rename_run(now, some[0], "Round"))
    for project in moments:
        assert whole(project) == project
        assert all(run_by_id(project, r.id) is r for r in project.runs)
        names = [r.show.name for r in project.runs]
        assert len(names) == len(set(names))


def test_names_count_on_from_their_stem() -> None:
    assert unique_name("Cable", ["Cable", "Cable 2"]) == "Cable 3"
    assert unique_name("Cable 2", ["Cable", "Cable 2"]) == "Cable 3"
    draft = Draft(with_runs(2))
    assert [draft.free_name("runs", "Round") for _ in range(3)] == ["Round 3", "Round 4", "Round 5"]


def test_a_draft_that_changed_nothing_is_its_project() -> None:
    project = with_runs(1)
    assert Draft(project).done() is project
    draft = Draft(project)
    with pytest.raises(DocumentError, match="there is no run r99"):
        draft.put(evolve(project.runs[0], id="r99"))
    draft.drop("runs", [project.runs[0].id])
    with pytest.raises(DocumentError):
        draft.run(project.runs[0].id)


def test_materials_and_units_are_still_validated_whole() -> None:
    project = with_runs(1)
    assert evolve(project, unit="in").unit == "in"
    with pytest.raises(ValidationError):
        evolve(project, unit="mile")
    with_material = evolve(project, materials=(Material(id="m900", name="Red", colour="#ff0000"),), next_id=901)
    assert with_material.materials[0].name == "Red"


def test_an_edit_costs_what_it_changes() -> None:
    """Ten times as many runs take far less than ten times as long for the same change of one."""

    def seconds(project: Project) -> float:
        best = 1.0
        for k in range(7):
            begin = perf_counter()
            edits.set_width(project, [project.runs[3].id], 0.02 + 0.001 * k)
            best = min(best, perf_counter() - begin)
        return best

    small = with_runs(100)
    large = small
    while len(large.runs) < 1600:
        large = edits.duplicate_runs(large, [r.id for r in large.runs]).project
    assert isinstance(large.runs[-1], Run)
    assert seconds(large) < 8.0 * seconds(small)
