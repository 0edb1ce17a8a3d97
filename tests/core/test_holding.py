"""Holding rings and points: at a typed distance beside corners and ends, on a body that stays what it was."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Polygon

from morphax.core.body.profiles import Carries
from morphax.core.body.range import Range, Stop
from morphax.core.body.recipe import Body, Density, End, Ends, PlainRecipe
from morphax.core.body.sweep import sweep
from morphax.core.errors import DensityError
from morphax.core.loft.along import Along, StationShape
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.path.paths import PathKind, PathShape, path_from_points
from morphax.core.section.held import held_blocks
from morphax.core.section.ready_made import ready_made
from morphax.core.section.sampling import sample_section
from morphax.core.section.sections import CornerStyle
from tests.core.test_ribbons import BENT
from tests.helpers import assert_watertight

OGEE = ready_made("ogee", {"width": 0.06, "height": 0.04})
BAR = ready_made("rectangle", {"width": 0.06, "height": 0.04})
FRAME = np.array([[0.0, 0.0, 0.0], [0.6, 0.0, 0.0], [0.6, 0.4, 0.0], [0.0, 0.4, 0.0]])
PLAIN = PlainRecipe()


def straight(points: np.ndarray, *, closed: bool = False) -> PathShape:
    return path_from_points(points, kind=PathKind.STRAIGHT, closed=closed)


def held(recipe: PlainRecipe, distance: float) -> PlainRecipe:
    return replace(recipe, density=replace(recipe.density, hold=distance))


def rings(body: Body) -> np.ndarray:
    """(rings, sides, 3) of a body without bevels and domes."""
    return body.mesh.points[: body.mesh.rings * body.sides].reshape(body.mesh.rings, body.sides, 3)


@pytest.mark.parametrize("distance", [0.001, 0.012, 0.05])
def test_beside_mitres_they_lie_as_the_mitre_does(distance: float) -> None:
    whole, body = (
        sweep(straight(FRAME, closed=True), BAR),
        sweep(straight(FRAME, closed=True), BAR, held(PLAIN, distance)),
    )
    assert body.mesh.rings == 3 * whole.mesh.rings == 12 and not body.findings
    own = rings(body)
    for mitre in (0, 3, 6, 9):  # the first ring stands at the first corner
        for beside in (mitre - 1, mitre + 1):
            assert np.linalg.norm(own[beside] - own[mitre], axis=1) == pytest.approx(distance, rel=1e-9)
    assert volume(body.mesh) == pytest.approx(volume(whole.mesh), rel=1e-12)
    assert_watertight(body.mesh)


def test_beside_ends_and_bevels_they_stand_across_the_path() -> None:
    path = straight(FRAME[:3])
    for style in (CornerStyle.BEVEL, CornerStyle.ROUND):
        recipe = replace(PLAIN, corner=style)
        whole, body = sweep(path, BAR, recipe), sweep(path, BAR, held(recipe, 0.007))
        set_back = 0.6 - float(whole.ring_at[1])
        assert body.ring_at == pytest.approx(
            [0.0, 0.007, 0.593 - set_back, 0.6 - set_back, 0.6 + set_back, 0.607 + set_back, 0.993, 1.0], abs=1e-12
        )
        assert volume(body.mesh) == pytest.approx(volume(whole.mesh), rel=1e-12)
        assert_watertight(body.mesh)


def test_on_legs_that_bend_they_stand_clear_of_the_mitre() -> None:
    points = np.array([[0.0, 0.0, 0.0], [0.3, 0.1, 0.0], [0.6, 0.0, 0.0], [0.7, 0.3, 0.0], [0.6, 0.6, 0.0]])
    path = path_from_points(points, kind=PathKind.THROUGH, corner=np.array([False, False, True, False, False]))
    recipe = held(replace(PLAIN, density=Density(spacing=0.2)), 0.03)
    body = sweep(path, BAR, recipe)
    corner = int(np.argmax(np.diff(np.sign(body.ring_at - 0.6))))
    own = rings(body)
    at = [int(np.argmin(np.linalg.norm(own.mean(1) - points[2], axis=1)))]
    for beside in (at[0] - 1, at[0] + 1):
        gap = np.linalg.norm(own[beside] - own[at[0]], axis=1).min()
        assert 0.029 < gap < 0.035, corner
    assert_watertight(body.mesh)


def test_sections_get_points_beside_their_corners() -> None:
    body = sweep(straight(FRAME[:2]), BAR, held(PLAIN, 0.004))
    assert body.sides == 12
    x, y = (np.unique(np.round(rings(body)[0][:, k], 12)) for k in (1, 2))
    assert x == pytest.approx([-0.03, -0.026, 0.026, 0.03]) and y == pytest.approx([-0.02, -0.016, 0.016, 0.02])
    short = sweep(straight(FRAME[:2]), BAR, held(PLAIN, 0.05))  # sides of 40 mm have none, those of 60 mm at a third
    assert short.sides == 8
    assert np.unique(np.round(rings(short)[0][:, 1], 12)) == pytest.approx([-0.03, -0.01, 0.01, 0.03])


def test_an_outline_that_is_held_is_the_same_one() -> None:
    for name in ("ogee", "star", "channel", "pipe", "half-round-gutter", "twin"):
        sampled = sample_section(ready_made(name, {"width": 0.1}), deviation=0.0002)
        (block,) = held_blocks((sampled,), 0.002)
        assert block.round_length == sampled.round_length and block.corner.sum() == sampled.corner.sum()
        for sl, own, length in zip(block.loop_slices, sampled.loop_slices, block.round_length, strict=True):
            p, q = block.points[sl], sampled.points[own]
            assert Polygon(p).area == pytest.approx(Polygon(q).area, rel=1e-12)
            assert (np.diff(block.u[sl]) > 0.0).all() and block.u[sl][-1] < length
            assert {tuple(v) for v in q} <= {tuple(v) for v in p}
        assert np.linalg.norm(block.before, axis=1) == pytest.approx(1.0)
    round_ = sample_section(ready_made("round", {"width": 0.1}), sides=16)
    assert held_blocks((round_,), 0.002) == (round_,)


def test_ribbons_are_held_beside_their_bends_and_ends() -> None:
    bent = sweep(straight(FRAME[:3]), BENT, held(PLAIN, 0.004))
    assert bent.sides == 4 and np.unique(bent.ring_at) == pytest.approx([0.0, 0.004, 0.596, 0.6, 0.604, 0.996, 1.0])
    assert bent.mesh.is_sheet and not bent.findings
    flat = np.linalg.norm(np.diff(bent.mesh.points[:5], axis=0), axis=1)
    assert flat[1:3] == pytest.approx(0.004), "one on each side of the bend"


def test_lofts_are_held_where_any_of_their_sections_has_corners() -> None:
    round_ = ready_made("round", {"width": 0.06})
    along = Along((StationShape(0.0, BAR), StationShape(0.6, round_)))
    path = straight(FRAME[:2])
    whole, body = sweep(path, Carries(BAR, along)), sweep(path, Carries(BAR, along), held(PLAIN, 0.004))
    assert body.sides > whole.sides
    assert volume(body.mesh) == pytest.approx(volume(whole.mesh), rel=0.01)
    assert_watertight(body.mesh)


def test_a_range_holds_its_own_ends() -> None:
    recipe = held(replace(PLAIN, range=Range(Stop(0.1, "start"), Stop(0.15, "end"))), 0.01)
    body, whole = sweep(straight(FRAME[:3]), BAR, recipe), sweep(straight(FRAME[:3]), BAR, held(PLAIN, 0.01))
    assert np.unique(body.ring_at) == pytest.approx([0.1, 0.11, 0.59, 0.6, 0.61, 0.84, 0.85], abs=1e-12)
    for row, of in ((2, 2), (3, 3), (4, 4)):
        assert (rings(body)[row] == rings(whole)[of]).all()
    near = replace(
        recipe, range=Range(Stop(0.0), Stop(0.612, "start"))
    )  # the ring held beyond the mitre would cross it
    assert_watertight(sweep(straight(FRAME[:3]), BAR, near).mesh)
    assert not sweep(straight(FRAME[:3]), BAR, near).findings


def test_what_does_not_fit_is_said_and_smaller() -> None:
    body = sweep(straight(FRAME[:2]), BAR, held(PLAIN, 0.2))
    assert [f.code for f in body.findings] == ["hold-reduced"] and "150 mm" in body.findings[0].message
    assert body.ring_at == pytest.approx([0.0, 0.15, 0.45, 0.6])
    for bad in (0.0, -1.0, float("nan")):
        with pytest.raises(DensityError):
            Density(hold=bad)


def test_smooth_closed_paths_and_rounds_have_nothing_to_hold() -> None:
    path = path_from_points(FRAME, kind=PathKind.THROUGH, closed=True)
    round_ = ready_made("round", {"width": 0.06})
    one, two = sweep(path, round_), sweep(path, round_, held(PLAIN, 0.01))
    assert (one.mesh.points == two.mesh.points).all()


def test_a_budget_counts_them() -> None:
    recipe = replace(PLAIN, density=Density(budget=400, hold=0.004))
    body = sweep(straight(FRAME, closed=True), OGEE, recipe)
    assert 0.9 * 400 <= body.mesh.face_count <= 400 and body.mesh.rings >= 12


ENDS = [e for e in End if e not in (End.CUT, End.OPEN)]


@settings(max_examples=40)
@given(
    st.lists(st.floats(0.2, 2.8), min_size=2, max_size=5),
    st.sampled_from(list(CornerStyle)),
    st.tuples(st.sampled_from(ENDS), st.sampled_from(ENDS)),
    st.floats(0.002, 0.2),
    st.tuples(st.floats(0.0, 0.5), st.floats(0.55, 1.0)),
    st.sampled_from([Density(), Density(rings=30), Density(spacing=0.1), Density(per_span=3)]),
)
def test_random_bodies_stay_closed_and_as_large(
    turns: list[float],
    style: CornerStyle,
    ends: tuple[End, End],
    distance: float,
    part: tuple[float, float],
    density: Density,
) -> None:
    way = np.cumsum([0.0, *(t * (1 if i % 2 else -1) for i, t in enumerate(turns))]) * 0.6
    points = np.cumsum([[0.0, 0.0, 0.0], *([np.cos(w), np.sin(w), 0.0] for w in way)], axis=0)
    recipe = replace(PLAIN, corner=style, ends=Ends(*ends), range=Range(Stop(part[0]), Stop(part[1])), density=density)
    one, two = sweep(straight(points), OGEE, recipe), sweep(straight(points), OGEE, held(recipe, distance))
    assert edge_check(two.mesh) == edge_check(one.mesh)
    assert {f.code for f in two.findings} - {f.code for f in one.findings} <= {"hold-reduced"}
    if End.POINTED not in ends:  # its rings draw in by their distance, leaning ones as one
        rel = 1e-3 if any(e.is_inset for e in ends) else 1e-9  # a dome joins other points
        assert volume(two.mesh) == pytest.approx(volume(one.mesh), rel=rel)
