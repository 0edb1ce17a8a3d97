"""Through paths whose knots lie on surfaces: they run along them, and keep all that through paths keep."""

import subprocess
import sys
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.core.path.path_edits import largest_change, reversed_path, with_first_knot, with_knot
from morphax.core.path.paths import PathKind, PathShape, chain_of, path_from_points, points_at, second_derivatives_at

UP = np.array([0.0, 0.0, 1.0])


def lying_on(points: np.ndarray, normals: dict[int, np.ndarray], *, closed: bool = False) -> PathShape:
    rows = np.full(points.shape, np.nan)
    for i, n in normals.items():
        rows[i] = n
    return replace(path_from_points(points, kind=PathKind.THROUGH, closed=closed), lying=rows)


def dense(path: PathShape, spans: slice = slice(None)) -> np.ndarray:
    own = chain_of(path).spans[spans]
    return points_at(own[:, None], np.broadcast_to(np.linspace(0.0, 1.0, 65), (len(own), 65))).reshape(-1, 3)


CABLE = np.array([[0, 0, 0], [0.3, 0.1, 0], [0.7, -0.1, 0], [0.9, 0.0, 0.35], [1.3, 0.2, 0.5], [1.6, 0, 0.0]], float)


def test_a_cable_that_leaves_a_table_does_not_dip_into_it() -> None:
    free = path_from_points(CABLE, kind=PathKind.THROUGH)
    assert dense(free)[:, 2].min() < -5e-3, "a plain curve dips"
    path = lying_on(CABLE, {0: UP, 1: UP, 2: UP})
    assert np.abs(dense(path, slice(0, 2))[:, 2]).max() == 0.0
    assert dense(path)[:, 2].min() > -1e-12


@pytest.mark.parametrize("kind", [PathKind.THROUGH, PathKind.HANDLES])
@pytest.mark.parametrize("corner", [2, 3])
def test_a_stretch_between_corners_that_lies_on_nothing_is_as_it_was_without_what_lies_beyond(
    kind: PathKind, corner: int
) -> None:
    path = replace(lying_on(CABLE, {0: UP, 1: UP}), kind=kind)
    corners = np.zeros(len(CABLE), dtype=bool)
    corners[corner] = True
    path = replace(path, corner=corners)
    free = replace(path, lying=np.empty((0, 3)))
    np.testing.assert_allclose(dense(path, slice(corner, None)), dense(free, slice(corner, None)), atol=1e-15)
    assert np.isfinite(dense(path)).all()
    assert np.allclose(dense(path), dense(free)) is (corner == 2), "before the third knot all is level anyway"


@given(st.integers(0, 4), st.floats(0.05, 0.95), st.floats(-0.5, 0.9))
def test_inserting_a_knot_and_reversing_keep_the_curve(span: int, t: float, tension: float) -> None:
    path = lying_on(CABLE, {0: UP, 1: UP, 2: UP, 5: UP})
    assert largest_change(chain_of(path), chain_of(with_knot(path, span, t))) < 1e-12
    tight = replace(path, tension=tension)
    assert largest_change(chain_of(tight), chain_of(reversed_path(tight))) < 1e-12


def test_curvature_is_continuous_where_a_knot_lies_on_nothing_and_along_the_surface_where_it_does() -> None:
    spans = chain_of(lying_on(CABLE, {0: UP, 1: UP, 2: UP})).spans
    steps = np.sqrt(np.linalg.norm(np.diff(CABLE, axis=0), axis=1))
    before = second_derivatives_at(spans[:-1], np.ones(len(spans) - 1)) / steps[:-1, None] ** 2
    after = second_derivatives_at(spans[1:], np.zeros(len(spans) - 1)) / steps[1:, None] ** 2
    jump = after - before
    np.testing.assert_allclose(jump[:, :2], 0.0, atol=1e-9)
    np.testing.assert_allclose(jump[[2, 3], 2], 0.0, atol=1e-9)
    assert abs(jump[1, 2]) > 0.1, "it takes off there"


@pytest.mark.parametrize("closed", [False, True])
def test_on_a_ball_it_stays_on_it(closed: bool) -> None:
    """Six knots 30 degrees apart on a ball of 150 mm."""
    turn = np.radians(30.0) * np.arange(12 if closed else 6)
    ring = np.stack([np.cos(turn), np.sin(turn), np.zeros(len(turn))], axis=1) * 0.15
    tilt = np.array([[1, 0, 0], [0, np.cos(0.6), -np.sin(0.6)], [0, np.sin(0.6), np.cos(0.6)]])
    points = ring @ tilt.T
    path = lying_on(points, dict(enumerate(points / 0.15)), closed=closed)
    far = np.linalg.norm(dense(path), axis=1)
    assert 0.15 - far.min() < 4e-5 and far.max() - 0.15 < 4e-5
    if closed:
        assert largest_change(chain_of(path), chain_of(with_first_knot(path, 4))) < 1e-12


def test_smooth_knots_of_a_handles_path_lie_too() -> None:
    path = replace(lying_on(CABLE, {0: UP, 1: UP, 2: UP}), kind=PathKind.HANDLES, handles=np.full((6, 2, 3), np.nan))
    assert np.abs(dense(path, slice(0, 2))[:, 2]).max() == 0.0


def test_beside_a_corner_the_curve_lies_as_well() -> None:
    path = lying_on(CABLE, {0: UP, 1: UP, 2: UP})
    corner = path.corner.copy()
    corner[1] = True
    assert np.abs(dense(replace(path, corner=corner), slice(0, 2))[:, 2]).max() == 0.0


@pytest.mark.parametrize("closed", [False, True])
@pytest.mark.parametrize("count", [5, 40, 90])
def test_one_direction_and_many_knots_are_solved_to_the_same_conditions(count: int, closed: bool) -> None:
    """Slopes lie in their planes, and elsewhere the second derivatives meet, however the system is solved."""
    rng = np.random.default_rng(count)
    points = rng.normal(size=(count, 3))
    normals = rng.normal(size=(count, 3))
    normals /= np.linalg.norm(normals, axis=1)[:, None]
    for own in (np.broadcast_to(normals[0], normals.shape), normals):
        lies = {i: own[i] for i in range(0, count, 2)}
        path = lying_on(points, lies, closed=closed)
        spans = chain_of(path).spans
        ring = np.concatenate([points, points[:1]]) if closed else points
        steps = np.sqrt(np.linalg.norm(np.diff(ring, axis=0), axis=1))
        slope = 3.0 * (spans[:, 1] - spans[:, 0]) / steps[:, None]
        for i, n in lies.items():
            if i < len(slope):
                assert abs(slope[i] @ n) < 1e-9
        before = second_derivatives_at(spans[:-1], np.ones(len(spans) - 1)) / steps[:-1, None] ** 2
        after = second_derivatives_at(spans[1:], np.zeros(len(spans) - 1)) / steps[1:, None] ** 2
        for k, jump in enumerate(after - before):
            n = lies.get(k + 1)
            aside = jump if n is None else jump - (jump @ n) * n
            assert np.abs(aside).max() < 1e-7 * max(1.0, np.abs(before[k]).max())


def test_the_core_loads_without_scipy() -> None:
    """A cold start waits for nothing that it does not need."""
    code = "import sys, morphax.core.body.sweep, morphax.core.path.splines; print('scipy' in sys.modules)"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "False"
