"""Paths: spans, continuity, arc length, and edits that keep the shape."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from scipy.interpolate import CubicSpline

from morphax.core.errors import PathError
from morphax.core.path.arclength import distances_of, length_table, places_at
from morphax.core.path.path_edits import (
    largest_change,
    reversed_path,
    with_first_knot,
    with_knot,
    with_places,
    without_knots,
)
from morphax.core.path.paths import (
    Chain,
    PathKind,
    chain_of,
    derivatives_at,
    path_from_points,
    points_at,
    second_derivatives_at,
)
from morphax.core.path.splines import centripetal_steps, hermite_spans, open_slopes
from tests.helpers import FRAME, S_CURVE, STRAIGHT, THROUGH, circle_points, torus_knot, zoo

places = arrays(np.float64, (5, 3), elements=st.floats(-1.0, 1.0, width=32)).filter(
    lambda p: np.linalg.norm(np.diff(p, axis=0), axis=1).min() > 0.05
)


def arc_chain(sweep: float, rise: float = 0.0) -> Chain:
    """A circle or helix of unit radius from cubics of 10 degrees: handles 4/3 tan(theta/4)."""
    n = round(sweep / np.radians(10.0))
    a = np.linspace(0.0, sweep, n + 1)
    h = 4.0 / 3.0 * np.tan((a[1] - a[0]) / 4.0)
    p = np.stack([np.cos(a), np.sin(a), rise * a], axis=1)
    d = np.stack([-np.sin(a), np.cos(a), np.full_like(a, rise)], axis=1)
    spans = np.stack([p[:-1], p[:-1] + h * d[:-1], p[1:] - h * d[1:], p[1:]], axis=1)
    return Chain(spans, False, np.zeros(n + 1, bool), np.zeros(n, bool))


def curvature(span: np.ndarray, t: float) -> np.ndarray:
    d, dd = derivatives_at(span, np.array(t)), second_derivatives_at(span, np.array(t))
    return np.cross(d, dd) / np.linalg.norm(d) ** 3


@given(places)
def test_through_passes_its_knots_with_continuous_curvature(p: np.ndarray) -> None:
    chain = chain_of(path_from_points(p, kind=THROUGH))
    np.testing.assert_allclose(chain.spans[:, 0], p[:-1], atol=1e-14)
    for a, b in zip(chain.spans[:-1], chain.spans[1:], strict=True):
        if np.linalg.norm(derivatives_at(b, np.array(0.0))) < 1e-3:
            continue  # a path that turns straight back stands still there: it has no curvature
        ka, kb = curvature(a, 1.0), curvature(b, 0.0)
        np.testing.assert_allclose(ka, kb, atol=1e-7 * max(1.0, np.abs(ka).max()))


def test_periodic_curve_has_continuous_curvature_at_its_first_knot() -> None:
    chain = chain_of(path_from_points(torus_knot(12), kind=THROUGH, closed=True))
    np.testing.assert_allclose(curvature(chain.spans[-1], 1.0), curvature(chain.spans[0], 0.0), atol=1e-10)


def test_curvature_jumps_where_a_span_is_bent_by_hand() -> None:
    spans = chain_of(path_from_points(S_CURVE, kind=THROUGH)).spans.copy()
    spans[1, 1] += 0.01
    assert np.abs(curvature(spans[0], 1.0) - curvature(spans[1], 0.0)).max() > 1e-3


@pytest.mark.parametrize("ratio", [1, 10, 100, 1000])
@pytest.mark.parametrize("turn", [30.0, 90.0, 150.0])
def test_through_stays_within_a_chord_share_at_uneven_spacing(ratio: int, turn: float) -> None:
    a = np.radians(turn)
    p = np.array([[0, 0, 0], [1, 0, 0], [1 + np.cos(a) / ratio, np.sin(a) / ratio, 0], [2, 1, 0.5]])
    spans = chain_of(path_from_points(p, kind=THROUGH)).spans
    for span, q0, q1 in zip(spans, p[:-1], p[1:], strict=True):
        x = points_at(span[None], np.linspace(0, 1, 65))
        chord = q1 - q0
        t = np.clip((x - q0) @ chord / (chord @ chord), 0, 1)
        off = np.linalg.norm(x - q0 - t[:, None] * chord, axis=1).max()
        assert off <= 0.6 * np.linalg.norm(chord)


def test_equal_steps_would_overshoot_at_uneven_spacing() -> None:
    p = np.array([[0, 0, 0], [1, 0, 0], [1, 0.001, 0], [2, 1, 0.5]])
    path = path_from_points(p, kind=THROUGH)
    even = type(path)(path.knots, path.kind, False, path.corner, path.curved, np.ones(4))
    span, short = chain_of(even).spans[1], p[2] - p[1]
    x = points_at(span[None], np.linspace(0, 1, 65)) - p[1]
    t = np.clip(x @ short / (short @ short), 0, 1)
    assert np.linalg.norm(x - t[:, None] * short, axis=1).max() > 0.6 * np.linalg.norm(short)


def test_corner_in_a_through_path_breaks_the_curve_and_straight_spans_clamp_it() -> None:
    p = path_from_points(S_CURVE, kind=THROUGH, corner=np.array([0, 0, 1, 0, 0], bool))
    chain = chain_of(p)
    a, b = derivatives_at(chain.spans[1], np.array(1.0)), derivatives_at(chain.spans[2], np.array(0.0))
    assert np.linalg.norm(np.cross(a, b)) > 0.01 and chain.corner[2]
    mixed = path_from_points(S_CURVE, kind=THROUGH)
    curved = mixed.curved.copy()
    curved[0] = False
    mixed = type(mixed)(mixed.knots, mixed.kind, False, mixed.corner, curved)
    spans = chain_of(mixed).spans
    a, b = derivatives_at(spans[0], np.array(1.0)), derivatives_at(spans[1], np.array(0.0))
    assert np.linalg.norm(np.cross(a / np.linalg.norm(a), b / np.linalg.norm(b))) < 1e-12


@pytest.mark.parametrize("closed,n", [(False, 1), (True, 2)])
def test_too_few_knots_are_named(closed: bool, n: int) -> None:
    with pytest.raises(PathError, match=f"needs {n + 1} knots; this one has {n}"):
        chain_of(path_from_points(S_CURVE[:n], kind=THROUGH, closed=closed))


def test_not_finite_is_refused() -> None:
    bad = S_CURVE.copy()
    bad[1, 2] = np.nan
    with pytest.raises(PathError, match="not a finite"):
        chain_of(path_from_points(bad, kind=THROUGH))


@pytest.mark.parametrize(
    "chain,length",
    [
        (arc_chain(2 * np.pi), 2 * np.pi),
        (arc_chain(4 * np.pi, 0.3), 4 * np.pi * np.hypot(1, 0.3)),
    ],
    ids=["circle", "helix"],
)
def test_length_of_circle_and_helix(chain: Chain, length: float) -> None:
    assert abs(float(length_table(chain).total) / length - 1.0) < 1e-9


def test_chords_alone_would_be_too_short() -> None:
    chain = arc_chain(2 * np.pi)
    chords = np.linalg.norm(np.diff(chain.spans[:, 0], axis=0), axis=1).sum()
    assert abs(chords / float(length_table(chain).total) - 1.0) > 1e-4


def test_length_of_parabola() -> None:
    span = np.array([[[0, 0, 0], [1 / 3, 0, 0], [2 / 3, 1 / 3, 0], [1, 1, 0]]])  # y = x^2
    exact = np.sqrt(5) / 2 + np.arcsinh(2) / 4
    table = length_table(Chain(span, False, np.zeros(2, bool), np.zeros(1, bool)))
    assert abs(float(table.total) / exact - 1.0) < 1e-9


@pytest.mark.parametrize("name", sorted(zoo()))
def test_distance_to_place_and_back(name: str) -> None:
    path = zoo()[name]
    table = length_table(chain_of(path))
    s = np.linspace(0.0, float(table.total), 201)
    back = distances_of(table, places_at(table, s))
    assert np.abs(back - s).max() < 1e-9 * float(table.total)


def test_batch_gives_what_single_paths_give() -> None:
    rng = np.random.default_rng(1)
    knots = rng.normal(size=(7, 6, 3))
    batch = chain_of(path_from_points(knots, kind=THROUGH))
    table = length_table(batch)
    s = np.linspace(0.05, 0.95, 9) * table.total[:, None]
    found = places_at(table, s)
    for i in range(7):
        one = chain_of(path_from_points(knots[i], kind=THROUGH))
        np.testing.assert_allclose(batch.spans[i], one.spans, atol=1e-13)
        single = length_table(one)
        assert abs(float(single.total) - float(table.total[i])) < 1e-10
        own = places_at(single, s[i])
        assert (own.span == found.span[i]).all()
        np.testing.assert_allclose(own.t, found.t[i], atol=1e-8)


@pytest.mark.parametrize("kind", [STRAIGHT, THROUGH])
@pytest.mark.parametrize("closed", [False, True])
def test_insert_reverse_and_first_knot_keep_the_shape(kind: PathKind, closed: bool) -> None:
    points = torus_knot(9)
    path = path_from_points(points, kind=kind, closed=closed)
    size = np.ptp(points)
    inserted = with_knot(path, 3, 0.37)
    spans, more = chain_of(path).spans, chain_of(inserted).spans
    t = np.linspace(0.0, 1.0, 17)
    for k in (0, 2, 5):
        moved = points_at(spans[k][None], t) - points_at(more[k if k < 3 else k + 1][None], t)
        assert np.abs(moved).max() < 1e-12 * size
    left = points_at(spans[3][None], 0.37 * t) - points_at(more[3][None], t)
    right = points_at(spans[3][None], 0.37 + 0.63 * t) - points_at(more[4][None], t)
    assert max(np.abs(left).max(), np.abs(right).max()) < 1e-12 * size
    back = chain_of(reversed_path(inserted)).spans
    np.testing.assert_allclose(back, more[::-1, ::-1], atol=1e-12 * size)
    twice = reversed_path(reversed_path(inserted))
    np.testing.assert_array_equal(twice.knots, inserted.knots)
    np.testing.assert_array_equal(twice.steps, inserted.steps)
    if closed:
        other = chain_of(with_first_knot(inserted, 4)).spans
        np.testing.assert_allclose(other, np.roll(more, -4, axis=0), atol=1e-12 * size)


def test_plain_insert_without_steps_would_move_the_curve() -> None:
    path = path_from_points(S_CURVE, kind=THROUGH)
    place = points_at(chain_of(path).spans[1][None], np.array([0.2]))
    naive = path_from_points(np.insert(S_CURVE, 2, place, axis=0), kind=THROUGH)
    assert largest_change(chain_of(path), chain_of(naive)) > 1e-4


def test_moving_a_knot_clears_the_steps_beside_it_and_removing_tells_its_change() -> None:
    path = with_knot(path_from_points(S_CURVE, kind=THROUGH), 1, 0.4)
    assert (~np.isnan(path.steps)).sum() == 2
    moved = with_places(path, np.array([2]), path.knots[[2]] + 0.1)
    assert np.isnan(moved.steps).all()
    gone = without_knots(path, np.arange(6) == 2)
    np.testing.assert_array_equal(gone.knots, S_CURVE)
    assert largest_change(chain_of(path), chain_of(gone)) < 0.02
    with pytest.raises(PathError, match="at least 3"):
        closed = path_from_points(circle_points(3), kind=THROUGH, closed=True)
        without_knots(closed, np.arange(3) == 0)


def test_closing_a_straight_path_moves_no_knot_and_no_span() -> None:
    open_, closed = (chain_of(path_from_points(FRAME, kind=STRAIGHT, closed=c)) for c in (False, True))
    np.testing.assert_array_equal(closed.spans[:3], open_.spans)


def test_edits_refuse_places_that_make_no_sense() -> None:
    path = path_from_points(S_CURVE, kind=THROUGH)
    with pytest.raises(PathError, match="between 0 and 1"):
        with_knot(path, 0, 1.0)
    with pytest.raises(PathError, match="only a closed path"):
        with_first_knot(path, 2)


@pytest.mark.parametrize("knots", [2, 3, 4, 24, 101])
@pytest.mark.parametrize("tension", [0.0, 0.7, -0.5])
def test_the_commonest_path_is_that_of_the_general_system_to_the_bit(knots: int, tension: float) -> None:
    places = np.random.default_rng(knots).normal(size=(knots, 3))
    path = path_from_points(places, kind=PathKind.THROUGH)
    steps = centripetal_steps(places)
    wanted = hermite_spans(places, (1.0 - tension) * open_slopes(places, steps), steps)
    chain = chain_of(replace(path, tension=tension))
    assert np.array_equal(chain.spans, wanted) and not chain.corner.any() and not chain.straight.any()
    outside = CubicSpline(np.concatenate([[0.0], np.cumsum(steps)]), places, bc_type="natural")
    handles = (1.0 - tension) * outside(outside.x[:-1], 1) * steps[:, None] / 3.0
    np.testing.assert_allclose(chain.spans[:, 1] - chain.spans[:, 0], handles, atol=1e-12)
