"""Knots that hold on to another path follow it, and never in circles."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.core.path.paths import PathKind
from morphax.project.derive.holds import place_on
from morphax.project.derive.walk import followed
from morphax.project.edits.path_holds import hold_on_paths, share_at
from morphax.project.edits.paths import move_knots, reverse_path
from morphax.project.edits.ports import unplugged
from morphax.project.edits.runs import add_run, delete_runs
from morphax.project.lookup import path_by_id
from morphax.project.model.document import DocumentError, Project
from tests.project.test_made_edits import ROUND


def rail_and_branch() -> tuple[Project, str, str]:
    """A bent rail, and a branch from above its middle to a place beside; the paths' ids."""
    rail = add_run(Project(), PathKind.THROUGH, [(0, 0, 0), (1, 0.4, 0), (2, 0, 0)], ROUND)
    branch = add_run(rail.project, PathKind.STRAIGHT, [(1, 0.42, 0), (1, 2, 0.5)], ROUND)
    return branch.project, rail.ids[1], branch.ids[1]


def held_branch() -> tuple[Project, str, str]:
    project, rail, branch = rail_and_branch()
    first = path_by_id(project, branch).knots[0]
    share, far = share_at(path_by_id(project, rail), first.place)
    assert far == pytest.approx(0.02, abs=1e-6) and share == pytest.approx(0.5, abs=1e-6)
    return hold_on_paths(project, branch, {first.id: (rail, share)}), rail, branch


@given(st.floats(0.0, 1.0))
def test_a_share_is_found_again_from_its_place(share: float) -> None:
    project, rail, _ = rail_and_branch()
    path = path_by_id(project, rail)
    found, far = share_at(path, place_on(path, share))
    assert found == pytest.approx(share, abs=1e-9) and far < 1e-9


def test_a_held_knot_goes_to_its_path_and_follows_it() -> None:
    project, rail, branch = held_branch()
    assert path_by_id(project, branch).knots[0].place == pytest.approx((1.0, 0.4, 0.0), abs=1e-6)
    middle = path_by_id(project, rail).knots[1]
    moved = followed(move_knots(project, rail, {middle.id: (1.0, -0.5, 0.3)}), project)
    knots = path_by_id(moved, branch).knots
    assert knots[0].place == pytest.approx((1.0, -0.5, 0.3), abs=1e-6) and knots[1].place == (1.0, 2.0, 0.5)
    assert followed(moved, moved) is moved


def test_moving_the_knot_itself_or_letting_go_frees_it() -> None:
    project, rail, branch = held_branch()
    first = path_by_id(project, branch).knots[0].id
    free = move_knots(project, branch, {first: (3.0, 3.0, 3.0)}, freeing={first})
    loose = unplugged(project, branch, (first,))
    for changed in (free, loose):
        assert path_by_id(changed, branch).knots[0].hold is None
        middle = path_by_id(changed, rail).knots[1].id
        after = followed(move_knots(changed, rail, {middle: (1.0, -0.5, 0.3)}), changed)
        assert path_by_id(after, branch) is path_by_id(changed, branch)


def test_a_chain_of_holds_follows_in_one_go_whatever_the_order() -> None:
    project, rail, branch = held_branch()
    third = add_run(project, PathKind.STRAIGHT, [(1, 1.2, 0.25), (4, 1, 0)], ROUND)
    first = path_by_id(third.project, third.ids[1]).knots[0].id
    project = hold_on_paths(third.project, third.ids[1], {first: (branch, 0.5)})
    project = project.model_copy(update={"paths": tuple(reversed(project.paths))})
    middle = path_by_id(project, rail).knots[1].id
    after = followed(move_knots(project, rail, {middle: (1.0, -0.5, 0.3)}), project)
    wanted = 0.5 * (np.array((1.0, -0.5, 0.3)) + (1.0, 2.0, 0.5))
    assert path_by_id(after, third.ids[1]).knots[0].place == pytest.approx(tuple(wanted), abs=1e-6)


def test_paths_dont_hold_on_to_each_other() -> None:
    project, rail, branch = held_branch()
    end = path_by_id(project, rail).knots[0].id
    for other in (branch, rail):
        with pytest.raises(DocumentError, match="each other"):
            hold_on_paths(project, rail, {end: (other, 0.3)})


def test_without_its_path_a_knot_stays_where_it_is() -> None:
    project, rail, branch = held_branch()
    gone = followed(delete_runs(project, [project.runs[0].id]), project)
    assert path_by_id(gone, branch) is path_by_id(project, branch)
    turned = followed(reverse_path(project, rail), project)
    assert path_by_id(turned, branch).knots[0].place == pytest.approx((1.0, 0.4, 0.0), abs=1e-6)
