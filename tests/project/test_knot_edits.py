"""Kinds of knots and paths, handles and radii as edits of the document."""

import numpy as np
import pytest

from morphax.core.errors import PathError
from morphax.core.path.path_edits import largest_change
from morphax.core.path.paths import PathKind, chain_of
from morphax.core.path.resolved import resolve_path
from morphax.io.project_file import from_bytes, to_bytes
from morphax.project.edits.knots import move_handle, set_knot_kind, set_path_kind, set_radius
from morphax.project.edits.paths import insert_knot, remove_knots, reverse_path
from morphax.project.edits.runs import NewRun, add_run
from morphax.project.lookup import path_of, path_shape
from morphax.project.model.document import DocumentError, Knot, Path, Project
from tests.project.test_edits import ROUND

PLACES = [(0.0, 0.0, 0.0), (0.3, 0.2, 0.0), (0.6, 0.0, 0.1), (0.9, 0.3, 0.0), (1.2, 0.0, 0.0)]


def handles_project() -> tuple[Project, str, str]:
    added = add_run(Project(), PathKind.HANDLES, PLACES, NewRun(ROUND, 0.02))
    return added.project, added.ids[0], added.ids[1]


def curve_change(a: Project, b: Project, run_id: str) -> float:
    return largest_change(chain_of(path_shape(path_of(a, run_id))), chain_of(path_shape(path_of(b, run_id))))


@pytest.mark.parametrize("kind", ["in line", "loose"])
def test_own_handles_start_as_the_curve_has_them(kind: str) -> None:
    project, run, path = handles_project()
    knot = path_of(project, run).knots[2].id
    changed = set_knot_kind(project, path, [knot], kind)
    found = path_of(changed, run).knots[2]
    assert found.kind == kind and found.coming is not None
    shown = chain_of(path_shape(path_of(project, run))).spans
    np.testing.assert_allclose(np.array(found.place) + found.leaving, shown[2, 1], atol=1e-12)


def test_dragging_a_handle_turns_the_other_one_only_in_line() -> None:
    project, run, path = handles_project()
    knot = path_of(project, run).knots[2].id
    moved = path_of(move_handle(project, path, knot, "leaving", (0.0, 0.1, 0.0)), run).knots[2]
    assert moved.kind == "in line" and moved.leaving == (0.0, 0.1, 0.0)
    assert moved.coming[0] == 0.0 and moved.coming[1] < 0.0
    loose = set_knot_kind(project, path, [knot], "loose")
    before = path_of(loose, run).knots[2].coming
    after = path_of(move_handle(loose, path, knot, "leaving", (0.0, 0.1, 0.0)), run).knots[2]
    assert after.kind == "loose" and after.coming == before


def test_only_a_handles_path_has_handles() -> None:
    added = add_run(Project(), PathKind.THROUGH, PLACES, NewRun(ROUND))
    path = added.ids[1]
    with pytest.raises(PathError, match="only a handles path"):
        move_handle(added.project, path, added.ids[3], "coming", (0.0, 0.0, 0.1))
    with pytest.raises(PathError, match="only a handles path"):
        set_knot_kind(added.project, path, [added.ids[3]], "loose")
    with pytest.raises(ValueError, match="in-line and loose knots"):
        Path(
            id="p1",
            kind=PathKind.THROUGH,
            knots=(Knot(id="k1", place=(0, 0, 0), kind="loose", coming=(0, 0, 1), leaving=(0, 1, 0)),),
        )
    with pytest.raises(ValueError, match="two handles"):
        Knot(id="k1", place=(0, 0, 0), kind="in line")


def test_inserting_and_reversing_keep_the_curve_and_the_ids() -> None:
    project, run, path = handles_project()
    more = insert_knot(project, path, 1, 0.4)
    old, new = (resolve_path(path_shape(path_of(p, run))) for p in (project, more.project))
    np.testing.assert_allclose(new.length, old.length, rtol=1e-12)
    back = reverse_path(more.project, path)
    np.testing.assert_allclose(resolve_path(path_shape(path_of(back, run))).length, old.length, rtol=1e-12)
    twice = reverse_path(back, path)
    assert path_of(twice, run) == path_of(more.project, run)
    fewer = remove_knots(more.project, path, more.knots)
    assert len(path_of(fewer.project, run).knots) == 5


def test_to_handles_keeps_the_shape_and_back_tells_how_far_it_moved() -> None:
    added = add_run(Project(), PathKind.THROUGH, PLACES, NewRun(ROUND, 0.02))
    run, path = added.ids[:2]
    cornered = set_knot_kind(added.project, path, [added.ids[4]], "corner")
    handled = set_path_kind(cornered, path, PathKind.HANDLES)
    assert handled.deviation < 1e-12
    assert path_of(handled.project, run).knots[2].kind == "loose"
    stored = insert_knot(cornered, path, 0, 0.5).project
    assert set_path_kind(stored, path, PathKind.HANDLES).deviation < 1e-12
    straight = set_path_kind(handled.project, path, PathKind.STRAIGHT)
    assert straight.deviation > 1e-3 and {k.kind for k in path_of(straight.project, run).knots} == {"corner"}
    assert {k.kind for k in path_of(set_path_kind(straight.project, path, PathKind.THROUGH).project, run).knots} == {
        "smooth"
    }


def test_a_radius_makes_a_corner_and_is_saved() -> None:
    project, run, path = handles_project()
    knot = path_of(project, run).knots[1].id
    round_ = set_radius(project, path, [knot], 0.03)
    assert path_of(round_, run).knots[1].kind == "corner" and path_of(round_, run).knots[1].radius == 0.03
    assert from_bytes(to_bytes(round_), "a") == round_
    with pytest.raises(DocumentError, match="0 or more"):
        set_radius(project, path, [knot], -0.1)
