"""Handles paths: kinds of knots, the through curve at smooth ones, edits that keep the curve."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.core.body.sweep import sweep
from morphax.core.frame.frames import Orientation
from morphax.core.path.path_edits import largest_change, reversed_path, shown_handles, with_first_knot, with_knot
from morphax.core.path.paths import PathKind, PathShape, chain_of, path_from_points, points_at
from morphax.core.path.resolved import resolve_path
from morphax.core.section.ready_made import ready_made
from tests.helpers import S_CURVE, THROUGH, assert_watertight, circle_points, recipe_of

NAN = np.full((2, 3), np.nan)


def handles_path(points: np.ndarray, own: dict[int, tuple] | None = None, *, closed: bool = False) -> PathShape:
    """Smooth knots but for those in ``own``: (coming, leaving) offsets, or () for a corner."""
    n = len(points)
    handles, corner = np.full((n, 2, 3), np.nan), np.zeros(n, dtype=bool)
    for k, value in (own or {}).items():
        handles[k] = value if value else np.zeros((2, 3))
        corner[k] = not value or abs(np.cross(*handles[k])).max() > 1e-12
    base = path_from_points(points, kind=PathKind.HANDLES, closed=closed)
    return replace(base, handles=handles, corner=corner, curved=np.ones(n, dtype=bool))


LOOSE = ((-0.1, 0.0, 0.0), (0.0, 0.1, 0.05))
IN_LINE = ((-0.1, -0.02, 0.0), (0.2, 0.04, 0.0))


@pytest.mark.parametrize("closed", [False, True])
def test_smooth_knots_have_the_through_curve(closed: bool) -> None:
    points = circle_points(9) * [1.0, 0.6, 1.0] if closed else S_CURVE
    a = chain_of(handles_path(points, closed=closed))
    b = chain_of(path_from_points(points, kind=THROUGH, closed=closed))
    np.testing.assert_allclose(a.spans, b.spans, atol=1e-15)


def test_own_handles_are_the_inner_points_of_their_spans() -> None:
    chain = chain_of(handles_path(S_CURVE, {2: LOOSE}))
    np.testing.assert_allclose(chain.spans[1, 2], S_CURVE[2] + LOOSE[0])
    np.testing.assert_allclose(chain.spans[2, 1], S_CURVE[2] + LOOSE[1])
    assert resolve_path(handles_path(S_CURVE, {2: LOOSE})).sharp[2]
    assert not resolve_path(handles_path(S_CURVE, {2: IN_LINE})).sharp.any()


def test_two_corners_without_handles_are_joined_by_a_line() -> None:
    chain = chain_of(handles_path(S_CURVE, {1: (), 2: ()}))
    assert list(chain.straight) == [False, True, False, False]
    np.testing.assert_allclose(chain.spans[1, 1], (2 * S_CURVE[1] + S_CURVE[2]) / 3)


@given(st.integers(0, 3), st.floats(0.02, 0.98), st.sampled_from([{}, {2: LOOSE}, {1: IN_LINE}, {0: (), 3: LOOSE}]))
def test_a_knot_put_in_keeps_the_curve_to_rounding(span: int, t: float, own: dict) -> None:
    path = handles_path(S_CURVE, own)
    old, new = chain_of(path), chain_of(with_knot(path, span, t))
    s = np.linspace(0.0, 1.0, 40)
    for k in range(len(old.spans)):
        wanted = points_at(old.spans[k][None], s)
        if k == span:
            first, second = new.spans[k], new.spans[k + 1]
            got = np.where(
                (s < t)[:, None],
                points_at(first[None], np.minimum(s / t, 1.0)),
                points_at(second[None], np.clip((s - t) / (1 - t), 0.0, 1.0)),
            )
        else:
            got = points_at(new.spans[k + (k > span)][None], s)
        assert np.abs(got - wanted).max() < 1e-12


def test_a_solved_again_neighbour_would_be_caught() -> None:
    """Negative control: without keeping the smooth handles the curve would move."""
    path = handles_path(S_CURVE)
    new = with_knot(path, 1, 0.3)
    loosened = replace(new, handles=np.where(np.arange(6)[:, None, None] == 2, new.handles, np.nan))
    assert largest_change(chain_of(path), chain_of(loosened)) > 1e-4


@pytest.mark.parametrize("own", [{}, {2: LOOSE}, {1: IN_LINE, 3: ()}])
@pytest.mark.parametrize("closed", [False, True])
def test_reversal_keeps_the_curve(own: dict, closed: bool) -> None:
    points = circle_points(7) if closed else S_CURVE
    path = handles_path(points, own, closed=closed)
    a, b = chain_of(path).spans, chain_of(reversed_path(path)).spans
    np.testing.assert_allclose(b[::-1, ::-1], a, atol=1e-13)


def test_another_first_knot_keeps_the_curve() -> None:
    path = handles_path(circle_points(7), {1: IN_LINE, 3: ()}, closed=True)
    a, b = chain_of(path).spans, chain_of(with_first_knot(path, 3)).spans
    np.testing.assert_allclose(np.roll(b, 3, axis=0), a, atol=1e-13)


def test_shown_handles_are_those_of_the_curve() -> None:
    shown = shown_handles(handles_path(S_CURVE, {2: LOOSE}))
    np.testing.assert_allclose(shown[2], LOOSE)
    assert not shown[0, 0].any() and not shown[-1, 1].any()
    np.testing.assert_allclose(np.cross(shown[1, 0], shown[1, 1]), 0.0, atol=1e-12)


@pytest.mark.parametrize("own", [{}, {2: LOOSE}, {1: IN_LINE}, {1: (), 2: ()}])
def test_bodies_along_handles_are_closed(own: dict) -> None:
    assert_watertight(sweep(handles_path(S_CURVE, own), ready_made("rectangle", {"width": 0.02})).mesh)


def test_a_missing_handle_beside_a_curve_asks_for_no_endless_rings() -> None:
    """Rounding must not take the place of a speed that is zero there: the curvature would be 1e33."""
    points = np.array([[1.759, 0.541, 0.03], [1.825, 1.271, 0.49], [0.508, 1.457, 1.348], [1.262, 0.692, 1.008]])
    path = handles_path(points, {0: (), 1: ((0.055, 0.177, -0.062), (-0.063, -0.202, 0.071)), 2: ()})
    for orientation in ("carried", "upright"):
        body = sweep(path, ready_made("rectangle", {"width": 0.02}), recipe_of(orientation=Orientation(orientation)))
        assert_watertight(body.mesh)
        assert body.mesh.face_count < 20_000
