"""Budgets of faces: never above, and one more ring or side would exceed; the best proportions; few builds."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from morphax.core.body import sweep as sweeping
from morphax.core.body.budget import within_budget
from morphax.core.body.range import Range, Stop
from morphax.core.body.recipe import Body, Density, End, Ends, PlainRecipe
from morphax.core.body.sweep import sweep
from morphax.core.errors import DensityError
from morphax.core.mesh.measures import edge_check
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.ready_made import ready_made
from tests.core.test_range import CURVE, FRAME, KNOT, LEGS, MIXED, varied
from tests.helpers import distance_to_mesh, recipe_of

ROUND, SQUARE, PIPE = (ready_made(n, {"width": 0.1}) for n in ("round", "rectangle", "pipe"))
ENDS = [Ends(), Ends(End.DOMED, End.FLAT), Ends(End.OPEN, End.OPEN), Ends(End.CHAMFERED, End.POINTED)]


def built(path, what, **values: object) -> Body:
    return sweep(path, what, recipe_of(**values))


def exceeded(path, what, body: Body, budget: int, **values: object) -> bool:
    """Whether one ring more than a body has would be too many, by a body that is built that way."""
    n = body.mesh.rings
    more = [built(path, what, rings=n + k, sides=None, **values) for k in (1,)]
    return all(b.mesh.face_count > budget or b.sides != body.sides for b in more)


@pytest.mark.parametrize("path", [CURVE, LEGS, KNOT, FRAME, MIXED], ids=["curve", "legs", "knot", "frame", "mixed"])
@pytest.mark.parametrize("what", [ROUND, SQUARE, PIPE, varied()], ids=["round", "square", "pipe", "loft"])
@pytest.mark.parametrize("budget", [300, 1000, 5000])
def test_a_budget_is_kept_and_filled(path, what, budget: int) -> None:
    body = built(path, what, budget=budget)
    faces = body.mesh.face_count
    assert faces <= budget and edge_check(body.mesh).closed
    assert budget - faces < body.sides, "not even one more ring would fit"


@settings(max_examples=25, deadline=None)
@given(
    st.sampled_from([CURVE, LEGS, KNOT, MIXED]), st.sampled_from([ROUND, SQUARE, PIPE]), st.sampled_from(ENDS),
    st.integers(150, 8000),
)  # fmt: skip
def test_any_budget_is_never_exceeded_unless_said(path, what, ends, budget) -> None:
    body = built(path, what, budget=budget, ends=ends)
    said = {f.code for f in body.findings}
    assert body.mesh.face_count <= budget or "budget" in said
    assert "budget" in said or budget - body.mesh.face_count < max(body.sides, 1)


def test_one_more_side_would_not_fit_either() -> None:
    for budget in (400, 1300, 2600):
        body = built(CURVE, ROUND, budget=budget)
        more = built(CURVE, ROUND, rings=body.mesh.rings, sides=body.sides + 1)
        assert more.mesh.face_count > budget


def test_a_budget_is_solved_in_at_most_twelve_builds(monkeypatch) -> None:
    counts = []
    real = sweeping.sweep_profile

    def counted(*args):
        counts[-1] += 1
        return real(*args)

    monkeypatch.setattr(sweeping, "sweep_profile", counted)
    for path in (CURVE, LEGS, KNOT, FRAME, MIXED):
        for what in (ROUND, SQUARE, PIPE, varied()):
            for budget in (120, 1000, 9000):
                counts.append(0)
                built(path, what, budget=budget)
    assert max(counts) <= 12


def test_a_larger_budget_is_nearer_to_the_true_body() -> None:
    fine = built(CURVE, ROUND, deviation=2e-4).mesh.points[::97]
    far = [distance_to_mesh(fine, built(CURVE, ROUND, budget=n).mesh).max() for n in (300, 1000, 5000)]
    assert far[0] > 2.0 * far[1] > 4.0 * far[2]


def test_it_is_better_than_other_proportions_of_as_many_faces() -> None:
    """Rings and sides share the error: fewer sides and more rings, or the other way round, are farther off."""
    fine = built(CURVE, ROUND, deviation=2e-4).mesh.points[::97]
    best = built(CURVE, ROUND, budget=2000)
    n, sides = best.mesh.rings, best.sides

    def far(rings: int, count: int) -> float:
        return float(distance_to_mesh(fine, built(CURVE, ROUND, rings=rings, sides=count).mesh).max())

    own = float(distance_to_mesh(fine, best.mesh).max())
    assert own < far(n * sides // (2 * sides), 2 * sides) and own < far(2 * n, sides // 2)


def test_what_cannot_be_kept_is_said_with_the_least_there_is() -> None:
    body = built(LEGS, ready_made("star", {"points": 12, "width": 0.1}), budget=50)
    (said,) = [f for f in body.findings if f.code == "budget"]
    assert f"{body.mesh.face_count} faces" in said.message and edge_check(body.mesh).closed


def test_typed_sides_stay_and_a_range_counts_what_is_shown() -> None:
    body = built(CURVE, ROUND, budget=1000, sides=12)
    assert body.sides == 12 and 1000 - body.mesh.face_count < 12
    part = sweep(CURVE, ROUND, recipe_of(budget=1000, range=Range(end=Stop(0.4))))
    assert part.mesh.face_count <= 1000 and 1000 - part.mesh.face_count < 2 * part.sides


def test_budgets_and_other_wishes_exclude_each_other() -> None:
    for values in ({"rings": 5}, {"deviation": 0.1}, {"spacing": 0.1}, {"per_span": 3}, {"sides_within": 0.1}):
        with pytest.raises(DensityError):
            Density(budget=100, **values)
    with pytest.raises(DensityError):
        Density(sides=8, sides_within=0.01)
    with pytest.raises(DensityError):
        Density(budget=3)


def test_sides_within_a_deviation_are_those_of_that_deviation() -> None:
    one = built(CURVE, ROUND, rings=20, sides_within=0.002)
    assert one.mesh.rings == 20 and one.sides == built(CURVE, ROUND, deviation=0.002).sides


def test_impossible_outlines_are_said_once() -> None:
    line = path_from_points(np.zeros((3, 3)), kind=PathKind.STRAIGHT)
    body = sweep(line, ROUND, PlainRecipe(density=Density(budget=100)))
    assert body.has_errors
    assert within_budget(lambda d: body, lambda d: 3, Density(budget=100), 0.1) is body


@pytest.mark.parametrize("budget", [150, 303, 777, 5001])
@pytest.mark.parametrize("what", [ROUND, PIPE], ids=["round", "pipe"])
def test_what_rings_leave_over_goes_into_sides(what, budget: int) -> None:
    """On a straight run a ring costs more than a side: neither would fit."""
    line = path_from_points(np.array([[0, 0, 0], [1.0, 0, 0]]), kind=PathKind.STRAIGHT)
    body = built(line, what, budget=budget)
    loops = 2 if what is PIPE else 1
    assert body.mesh.face_count <= budget
    more = built(line, what, rings=body.mesh.rings, sides=body.sides // loops + 1)
    assert more.mesh.face_count > budget
    assert built(line, what, rings=body.mesh.rings + 1, sides=body.sides // loops).mesh.face_count > budget


def test_a_level_is_the_budget_that_is_kept_for_it() -> None:
    path, section = LEGS, ready_made("ogee", {"width": 0.1})
    kept = Density(rings=30, hold=0.01, near=1000, mid=500, far=300)
    for level, most in (("near", 1000), ("mid", 500), ("far", 300)):
        shown = sweep(path, section, recipe_of(density=replace(kept, level=level)))
        own = sweep(path, section, recipe_of(density=Density(budget=most, hold=0.01)))
        assert np.array_equal(shown.mesh.points, own.mesh.points) and shown.mesh.face_count <= most
    plain, own = (sweep(path, section, recipe_of(density=d)) for d in (kept, Density(rings=30, hold=0.01)))
    assert np.array_equal(plain.mesh.points, own.mesh.points)
    assert Density(rings=7, near=100, level="far").in_force == Density(rings=7), "nothing is kept for it"
    assert (plain_one := Density(rings=7)).in_force is plain_one, "made once only: what is asked is kept by identity"
    assert kept.in_force is replace(kept).in_force
    for bad in ({"level": "nearest"}, {"near": 2}):
        with pytest.raises(DensityError):
            Density(**bad)
