"""How things are shown and listed: hide, lock, ghost, order, groups; nothing of it builds a body."""

import pytest

from morphax.build.builder import Builder
from morphax.io.project_file import from_bytes, to_bytes
from morphax.project.edits.runs import rename_run, set_section, set_section_value, set_width
from morphax.project.edits.show import (
    grouped,
    locked_change,
    only_these,
    rename_group,
    reordered,
    ungrouped,
    with_shows,
)
from morphax.project.model.document import DocumentError
from tests.project.test_edits import project_with_runs


def test_only_these_hides_the_rest_and_a_second_time_brings_it_back() -> None:
    project, ids = project_with_runs()
    only = only_these(project, ids[:1])
    assert [r.show.hidden for r in only.runs] == [False, True]
    again = only_these(only, ids[:1])
    assert not any(r.show.hidden for r in again.runs)


def test_nothing_of_it_builds_a_ring() -> None:
    project, ids = project_with_runs()
    builder = Builder()
    for run in project.runs:
        builder.run(project, run)
    made = builder.bodies_built
    group = grouped(project, ids, "Pair")
    for changed in (
        with_shows(project, ids, ghost=True),
        with_shows(project, ids, locked=True),
        group.project,
        reordered(project, list(reversed(ids))),
        rename_group(group.project, group.ids[0], "Two"),
    ):
        for run in changed.runs:
            builder.run(changed, run)
    assert builder.bodies_built == made


def test_a_locked_run_is_named_when_an_edit_would_change_it() -> None:
    project, ids = project_with_runs()
    locked = with_shows(project, ids[:1], locked=True)
    assert locked_change(locked, set_width(locked, ids[:1], 0.5)) == locked.runs[0].show.name
    assert locked_change(locked, set_width(locked, ids[1:], 0.5)) is None
    assert locked_change(locked, rename_run(locked, ids[0], "Other")) is None


def test_groups_gather_their_runs_and_go_when_they_are_empty() -> None:
    project, ids = project_with_runs(3)
    made = grouped(project, [ids[0], ids[2]])
    assert [r.id for r in made.project.runs] == [ids[0], ids[2], ids[1]]
    assert {r.show.group for r in made.project.runs} == {made.ids[0], None}
    assert from_bytes(to_bytes(made.project), "a") == made.project
    again = grouped(made.project, [ids[1]])
    assert [g.name for g in again.project.groups] == ["Group", "Group 2"]
    assert rename_group(again.project, made.ids[0], "Group 2").groups[0].name == "Group 3"
    assert ungrouped(made.project, ids).groups == ()
    with pytest.raises(DocumentError, match="at least one letter"):
        rename_group(made.project, made.ids[0], " ")
    with pytest.raises(DocumentError, match="each run once"):
        reordered(project, ids[:2])
    with pytest.raises(DocumentError, match="choose the runs"):
        grouped(project, [])


def test_a_locked_run_is_not_changed_through_a_section_that_it_shares() -> None:
    project, ids = project_with_runs()
    locked = with_shows(project, ids[:1], locked=True)
    shared = set_section(locked, ids[1:], locked.sections[0].source)
    key = dict(locked.sections[0].source.values)
    assert key and locked_change(shared, set_section_value(shared, ids[1:], "width", 0.123)) == locked.runs[0].show.name
