"""Hanging and pulled paths against closed forms."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.core.body.sweep import sweep
from morphax.core.errors import PathError
from morphax.core.path.hanging import catenary, hanging_spans, length_for_sag, sag_of
from morphax.core.path.path_edits import as_handles, with_knot
from morphax.core.path.paths import PathKind, PathShape, chain_of, path_from_points, points_at
from morphax.core.path.pulled import hull_places, pulled_spans
from morphax.core.path.resolved import resolve_path
from morphax.core.section.ready_made import ready_made

T = np.linspace(0.0, 1.0, 33)


def hanging(points, slack: float, *, closed: bool = False) -> PathShape:
    shape = path_from_points(np.array(points, float), kind=PathKind.HANGING, closed=closed)
    return PathShape(shape.knots, shape.kind, closed, shape.corner, shape.curved, slack=slack)


@given(
    st.floats(0.01, 20.0),
    st.floats(-5.0, 5.0),
    st.floats(1e-6, 3.0),
)
def test_a_cable_has_its_length_hangs_from_both_ends_and_follows_the_catenary(across, rise, slack) -> None:
    end = np.array([across * 0.6, across * 0.8, rise])
    spans = hanging_spans(np.zeros(3), end, slack)
    length = np.linalg.norm(end) * (1.0 + slack)
    resolved = resolve_path(hanging([np.zeros(3), end], slack))
    assert resolved.length == pytest.approx(length, rel=1e-8)
    assert np.array_equal(spans[0, 0], np.zeros(3)) and np.array_equal(spans[-1, 3], end)
    cable = catenary(across, rise, length)
    if np.isinf(cable.scale) or cable.scale == 0.0:
        return
    p = points_at(spans[:, None], np.broadcast_to(T, (len(spans), 33))).reshape(-1, 3)
    x = p[:, :2] @ (0.6, 0.8)
    y = cable.scale * (np.cosh((x - cable.low) / cable.scale) - np.cosh(cable.low / cable.scale))
    slope = np.sqrt(1.0 + np.sinh((x - cable.low) / cable.scale) ** 2)
    assert np.abs((p[:, 2] - y) / slope).max() < 1e-8 * length


def test_known_catenary() -> None:
    cable = catenary(2.0, 0.0, 2.0 * np.sinh(1.0))
    assert cable.scale == pytest.approx(1.0, rel=1e-14) and sag_of(cable) == pytest.approx(np.cosh(1.0) - 1.0)
    assert length_for_sag(2.0, 0.0, np.cosh(1.0) - 1.0) == pytest.approx(2.0 * np.sinh(1.0), rel=1e-9)


def test_the_limits_are_a_line_and_straight_down_and_up() -> None:
    assert len(hanging_spans(np.zeros(3), np.array([1.0, 0, 0]), 0.0)) == 1
    down = hanging_spans(np.zeros(3), np.array([0.0, 0.0, -1.0]), 0.5)
    assert down[:, :, 2].min() == pytest.approx(-1.25) and np.allclose(down[:, :, :2], 0.0)
    assert sag_of(catenary(0.0, -1.0, 1.5)) == pytest.approx(0.25)
    with pytest.raises(PathError, match="does not reach"):
        catenary(1.0, 0.0, 0.9)
    with pytest.raises(PathError, match="0 or more"):
        length_for_sag(1.0, 0.0, -0.1)


@given(st.floats(0.0, 4.0))
def test_sag_and_length_lead_to_each_other(sag: float) -> None:
    assert sag_of(catenary(2.0, 0.7, length_for_sag(2.0, 0.7, sag))) == pytest.approx(sag, abs=1e-6)


def test_a_cable_over_three_supports_bends_at_the_middle_one() -> None:
    resolved = resolve_path(hanging([(0, 0, 2), (2, 0, 2), (4, 0, 2.5)], 0.05))
    assert len(resolved.knot_at) == 3 and resolved.sharp.sum() == 1
    body = sweep(hanging([(0, 0, 2), (2, 0, 2), (4, 0, 2.5)], 0.05), ready_made("round", {"width": 0.02}))
    assert body.mesh.face_count and not body.has_errors


def test_two_and_three_pulling_knots_give_a_line_and_a_parabola() -> None:
    a, m, b = np.array([0, 0, 0.0]), np.array([1, 2, 0.0]), np.array([2, 0, 0.0])
    line = pulled_spans(np.array([a, b]), closed=False)
    assert np.allclose(points_at(line, np.array([0.5])), 0.5 * (a + b))
    curve = points_at(pulled_spans(np.array([a, m, b]), closed=False), T)
    assert np.allclose(curve, (1 - T)[:, None] ** 2 * a + (2 * T * (1 - T))[:, None] * m + T[:, None] ** 2 * b)


@pytest.mark.parametrize("closed", [False, True])
@pytest.mark.parametrize("n", [4, 5, 9])
def test_a_pulled_path_is_the_b_spline_of_its_hull(n: int, closed: bool) -> None:
    from scipy.interpolate import BSpline

    hull = np.random.default_rng(n).normal(size=(n, 3))
    spans = pulled_spans(hull, closed=closed)
    if closed:
        u, c = np.arange(-3, n + 4).astype(float), np.concatenate([hull, hull[:3]])
        curve = BSpline(u, c, 3)
        begin = np.roll(np.arange(n), 1)
        t = begin[:, None] + T
    else:
        u = np.concatenate([np.zeros(3), np.arange(n - 2), np.full(3, n - 3)]).astype(float)
        curve = BSpline(u, hull, 3)
        t = np.arange(n - 3)[:, None] + T
    p = points_at(spans[:, None], np.broadcast_to(T, (len(spans), 33)))
    assert np.allclose(p, curve(np.clip(t, u[3], u[-4])), atol=1e-12)
    assert len(hull_places(n, closed=closed)) == (n + 1 if closed else n)
    chain = chain_of(path_from_points(hull, kind=PathKind.PULLED, closed=closed))
    second = 6 * (spans[:, 0] - 2 * spans[:, 1] + spans[:, 2]), 6 * (spans[:, 1] - 2 * spans[:, 2] + spans[:, 3])
    assert np.allclose(second[1][:-1], second[0][1:], atol=1e-9) and not chain.corner.any()


@pytest.mark.parametrize("kind", [PathKind.PULLED, PathKind.HANGING])
@pytest.mark.parametrize("closed", [False, True])
def test_as_handles_it_is_the_same_curve_and_takes_knots(kind: PathKind, closed: bool) -> None:
    points = np.array([[0, 0, 1.0], [1, 0.2, 2], [2, 1.0, 1.4], [1, 2, 1.2], [0, 1.5, 1]])
    shape = path_from_points(points, kind=kind, closed=closed)
    shape = PathShape(shape.knots, kind, closed, shape.corner, shape.curved, slack=0.1)
    before, after = chain_of(shape), chain_of(as_handles(shape))
    assert np.allclose(before.spans, after.spans, atol=1e-12) and np.array_equal(before.straight, after.straight)
    more = chain_of(with_knot(shape, 1, 0.4))
    assert len(more.spans) == len(before.spans) + 1
    assert np.allclose(more.spans[1, 3], points_at(before.spans[1], np.array(0.4)), atol=1e-12)
