"""Freehand strokes are fitted with few cubics within the stated distance."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial import cKDTree

from morphax.core.errors import PathError
from morphax.core.path.freehand import fitted_spans, path_of_stroke, stroke_corners, thinned_stroke
from morphax.core.path.paths import chain_of, points_at

T = np.linspace(0.0, 1.0, 60)


def farthest(points: np.ndarray, spans: np.ndarray) -> float:
    """Largest distance from the points to densely sampled cubics."""
    line = points_at(spans[:, None], np.broadcast_to(np.linspace(0, 1, 4000), (len(spans), 4000))).reshape(-1, 3)
    return float(cKDTree(line).query(points)[0].max())


WAVE = np.stack([3 * T, np.sin(6 * T), 0.3 * np.cos(4 * T)], axis=1)


@pytest.mark.parametrize("within", [0.1, 0.01, 0.001])
def test_a_wave_is_fitted_within_the_distance_by_ever_more_cubics(within: float) -> None:
    spans, corner = fitted_spans(WAVE, within)
    assert farthest(WAVE, spans) <= within * 1.001 and corner == [True, *[False] * (len(spans) - 1)]
    assert len(spans) <= {0.1: 4, 0.01: 6, 0.001: 14}[within]


def test_a_cubic_is_found_again_by_one_cubic() -> None:
    span = np.array([[0, 0, 0], [1, 2, 0], [3, 2, 1], [4, 0, 1.0]])
    points = points_at(span[None], np.linspace(0, 1, 120))
    spans, _ = fitted_spans(points, 4e-3)
    assert len(spans) == 1 and np.abs(spans[0] - span).max() < 0.1


def test_corners_stay_corners_and_everything_else_is_smooth() -> None:
    a = np.stack([T, 0 * T, 0 * T], axis=1)
    b = np.stack([1 + 0 * T, T, 0 * T], axis=1)
    zigzag = np.concatenate([a, b[1:]])
    assert stroke_corners(zigzag) == [0, 59, len(zigzag) - 1]
    path = path_of_stroke(zigzag, 0.01)
    assert np.allclose(path.knots, [(0, 0, 0), (1, 0, 0), (1, 1, 0)], atol=1e-9)
    smooth = chain_of(path_of_stroke(WAVE, 0.001))
    d = smooth.spans[:-1, 3] - smooth.spans[:-1, 2]
    e = smooth.spans[1:, 1] - smooth.spans[1:, 0]
    d, e = (v / np.linalg.norm(v, axis=1, keepdims=True) for v in (d, e))
    assert np.allclose(d, e, atol=1e-9)


@given(st.integers(0, 10_000), st.floats(0.002, 0.2))
def test_any_stroke_is_fitted_within_its_distance(seed: int, within: float) -> None:
    rng = np.random.default_rng(seed)
    steps = rng.normal(size=(50, 3)) * 0.05 + np.cumsum(rng.normal(size=(50, 3)), axis=0) * 0.02
    points = thinned_stroke(np.cumsum(steps, axis=0), 1e-3)
    spans, corner = fitted_spans(points, within)
    assert farthest(points, spans) <= within * 1.001 + 1e-6 and len(corner) == len(spans)
    assert np.allclose(spans[:-1, 3], spans[1:, 0]) and np.isfinite(spans).all()


def test_the_fit_does_not_depend_on_how_densely_the_stroke_was_sampled() -> None:
    fine = np.linspace(0.0, 1.0, 600)
    dense = np.stack([3 * fine, np.sin(6 * fine), 0.3 * np.cos(4 * fine)], axis=1)
    assert len(fitted_spans(dense, 0.01)[0]) - len(fitted_spans(WAVE, 0.01)[0]) in (-1, 0, 1)


def test_strokes_that_cannot_be_fitted_say_so() -> None:
    with pytest.raises(PathError, match="two places"):
        fitted_spans(np.zeros((4, 3)), 0.1)
    with pytest.raises(PathError, match="more than 0"):
        fitted_spans(WAVE, 0.0)


@pytest.mark.parametrize("count", [6, 9, 14, 20])
def test_a_quick_stroke_of_few_points_is_smooth_too(count: int) -> None:
    t = np.linspace(0.0, 1.0, count)
    arc = np.stack([np.cos(2 * t), np.sin(2 * t), 0.2 * t], axis=1)
    assert stroke_corners(arc) == [0, count - 1]
    shape = path_of_stroke(arc, 0.01)
    assert not shape.corner[1:-1].any()
    bent = np.concatenate([arc, arc[-1] + np.linspace(0.1, 1.0, count)[:, None] * (1.0, 0.5, 0.0)])
    assert stroke_corners(bent) == [0, count - 1, 2 * count - 1], "and a corner is still one"
