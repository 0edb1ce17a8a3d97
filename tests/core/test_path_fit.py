"""Knots that go leave the curve as near as can be; cubics between places of a path; tension."""

import numpy as np
import pytest

from morphax.core.path.path_edits import as_handles, largest_change, with_knot, without_knots
from morphax.core.path.path_fit import fitted_between, path_change, sharp_path, thinned
from morphax.core.path.paths import (
    PathKind,
    chain_of,
    derivatives_at,
    path_from_points,
    points_at,
    second_derivatives_at,
)
from morphax.core.path.resolved import points_along
from tests.helpers import circle_points, torus_knot

SMOOTH = np.array([(0, 0, 0), (1, 0.6, 0.1), (2, 0.2, 0.5), (2.6, 1.2, 0.3), (3.5, 1.0, 0)], dtype=float)
CURVED = [PathKind.THROUGH, PathKind.HANDLES]


@pytest.mark.parametrize("closed", [False, True])
@pytest.mark.parametrize("kind", CURVED)
def test_a_knot_that_was_only_inserted_goes_without_a_trace(kind: PathKind, closed: bool) -> None:
    path = path_from_points(SMOOTH, kind=kind, closed=closed)
    more = with_knot(path, 2, 0.4)
    gone = np.zeros(len(more.knots), dtype=bool)
    gone[3] = True
    change = largest_change(chain_of(path), chain_of(thinned(more, gone)))
    assert change < 1e-5 and change <= largest_change(chain_of(path), chain_of(without_knots(more, gone)))


@pytest.mark.parametrize("closed", [False, True])
@pytest.mark.parametrize("kind", CURVED)
def test_what_is_left_is_nearer_than_the_curve_that_the_other_knots_make(kind: PathKind, closed: bool) -> None:
    points = torus_knot()[::4] if closed else np.concatenate([SMOOTH, SMOOTH[:, [0, 2, 1]] + [4.0, 0.3, 0.2]])
    path = path_from_points(points, kind=kind, closed=closed)
    whole = chain_of(path)
    for k in range(1, len(points) - 1, 3):
        gone = np.zeros(len(points), dtype=bool)
        gone[k] = True
        near, plain = (largest_change(whole, chain_of(p)) for p in (thinned(path, gone), without_knots(path, gone)))
        assert near <= plain + 1e-12
        if kind is PathKind.HANDLES:
            assert near < 0.75 * plain


def test_a_removed_corner_and_several_neighbours_leave_one_span_that_keeps_its_tangents() -> None:
    path = as_handles(path_from_points(SMOOTH, kind=PathKind.THROUGH))
    gone = np.array([False, True, True, False, False])
    left = thinned(path, gone)
    a, b = chain_of(path), chain_of(left)
    assert len(left.knots) == 3
    for t, i, j in ((0.0, 0, 0), (1.0, 2, 0)):
        one, two = derivatives_at(a.spans[i], np.array(t)), derivatives_at(b.spans[j], np.array(t))
        assert np.linalg.norm(np.cross(one, two)) / np.linalg.norm(one) / np.linalg.norm(two) < 1e-6
    assert np.array_equal(b.spans[1], a.spans[3]), "beyond, nothing changes"


def test_ends_and_straight_stretches_go_as_they_always_did() -> None:
    path = path_from_points(SMOOTH, kind=PathKind.STRAIGHT)
    gone = np.array([True, False, False, False, True])
    assert np.array_equal(thinned(path, gone).knots, SMOOTH[1:4])
    line = as_handles(path_from_points(np.array([[0, 0, 0], [1, 0, 0], [3.0, 0, 0]]), kind=PathKind.THROUGH))
    left = thinned(line, np.array([False, True, False]))
    assert np.abs(chain_of(left).spans[..., 1:]).max() < 1e-12


def test_cubics_between_places_follow_a_circle() -> None:
    path = sharp_path(path_from_points(circle_points(32), kind=PathKind.THROUGH, closed=True))
    cuts = np.linspace(0.3, 0.3 + path.length, 9)
    handles, line = fitted_between(path, cuts[:-1], cuts[1:])
    ends = points_along(path, cuts % path.length)
    spans = np.stack([ends[:-1], ends[:-1] + handles[:, 0], ends[1:] + handles[:, 1], ends[1:]], axis=1)
    t = np.linspace(0.0, 1.0, 33)
    radius = np.linalg.norm(points_at(spans[:, None], np.broadcast_to(t, (8, 33))), axis=-1)
    assert not line.any() and np.abs(radius / radius.mean() - 1.0).max() < 1e-4


@pytest.mark.parametrize("closed", [False, True])
@pytest.mark.parametrize("tension", [-1.0, -0.4, 0.0, 0.5, 0.95])
def test_tension_scales_the_handles_and_keeps_the_direction(tension: float, closed: bool) -> None:
    plain = path_from_points(SMOOTH, kind=PathKind.THROUGH, closed=closed)
    tight = type(plain)(**{**plain.__dict__, "tension": tension})
    a, b = chain_of(plain), chain_of(tight)
    for end, inner in ((0, 1), (3, 2)):
        assert np.array_equal(a.spans[:, end], b.spans[:, end])
        np.testing.assert_allclose(
            b.spans[:, inner] - b.spans[:, end], (1.0 - tension) * (a.spans[:, inner] - a.spans[:, end]), atol=1e-12
        )
    first, second = (
        f(b.spans[:, None], np.broadcast_to([0.0, 1.0], (len(b.spans), 2)))
        for f in (derivatives_at, second_derivatives_at)
    )
    if tension != 0.0:
        return
    out, into = first[1:, 0], first[:-1, 1]
    curvature = [
        np.linalg.norm(np.cross(v, w), axis=1) / np.linalg.norm(v, axis=1) ** 3
        for v, w in ((out, second[1:, 0]), (into, second[:-1, 1]))
    ]
    np.testing.assert_allclose(curvature[0], curvature[1], rtol=1e-9)


def test_a_knot_put_into_a_tight_path_keeps_its_curve() -> None:
    plain = path_from_points(SMOOTH, kind=PathKind.THROUGH)
    tight = type(plain)(**{**plain.__dict__, "tension": 0.4})
    more = with_knot(tight, 1, 0.3)
    assert more.kind is PathKind.HANDLES and largest_change(chain_of(tight), chain_of(more)) < 1e-9


@pytest.mark.parametrize("kind", CURVED)
def test_knots_on_one_spot_are_compared_as_one(kind: PathKind) -> None:
    plain = path_from_points(SMOOTH, kind=kind)
    doubled = path_from_points(np.insert(SMOOTH, 2, SMOOTH[2], axis=0), kind=kind)
    assert path_change(plain, doubled) == 0.0
    assert np.isfinite(chain_of(doubled).spans).all(), "and nothing is divided by zero where they are not welded"
    flat = path_from_points(SMOOTH * [1.0, 0.0, 0.0], kind=kind)
    assert path_change(plain, flat) > 0.3
    one = path_from_points(np.zeros((3, 3)), kind=kind)
    assert path_change(plain, one) == 0.0, "what cannot be built is not compared"
