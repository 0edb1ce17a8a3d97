"""Paths beside paths: everywhere as far away in plan, corners extended, loops taken out; held against GEOS."""

from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import assume, example, given
from hypothesis import strategies as st
from scipy.optimize import fsolve

from morphax.core.errors import PathError
from morphax.core.path.beside import NEAR, beside
from morphax.core.path.loops_cut import Pieces, without_loops
from morphax.core.path.made_paths import MadeCurve, MadeShape, checked_values, made_marks
from morphax.core.path.paths import PathKind, PathShape, path_from_points, points_at
from morphax.core.path.resolved import resolve_path

BENT = [(0.0, 0.0, 0.0), (1.0, 0.5, 0.0), (2.0, 0.0, 0.3), (3.0, 1.0, 0.2), (4.0, 0.0, 0.0)]
SQUARE = [(0.0, 0.0, 0.0), (2.0, 0.0, 0.0), (2.0, 2.0, 0.0), (0.0, 2.0, 0.0)]


def places(spans, per_span: int = 64) -> np.ndarray:
    t = np.linspace(0.0, 1.0, per_span)
    return points_at(spans[:, None], np.broadcast_to(t, (len(spans), per_span))).reshape(-1, 3)


def resolved(points, kind=PathKind.THROUGH, *, closed=False, radius=0.0):
    shape = path_from_points(np.array(points, dtype=float), kind=kind, closed=closed)
    return resolve_path(replace(shape, radius=np.full(len(points), radius)) if radius else shape)


def made(shape: MadeShape, **values: float):
    curve = MadeCurve(shape, checked_values(shape, values), np.zeros(3), np.eye(3))
    marks = made_marks(curve)
    n = len(marks)
    flags = np.zeros(n, dtype=bool)
    return resolve_path(PathShape(marks, PathKind.MADE, shape.is_closed, flags, ~flags, made=curve))


def in_plan(path, found, per_span: int = 600) -> np.ndarray:
    """How far places beside a path are from it, seen from above."""
    line = shapely.LineString(places(path.chain.spans, per_span)[:, :2])
    return shapely.distance(shapely.points(places(found.spans)[:, :2]), line)


def assert_whole(found) -> None:
    ends = np.abs(found.spans[1:, 0] - found.spans[:-1, 3])
    assert not len(ends) or ends.max() < 1e-9
    assert len(found.corner) == len(found.spans) + 1 and len(found.straight) == len(found.spans)
    if found.closed:
        assert np.abs(found.spans[0, 0] - found.spans[-1, 3]).max() < 1e-9


@pytest.mark.parametrize("side", [0.3, -0.3, 0.05])
def test_lines_stay_lines_and_corners_are_mitred_exactly(side: float) -> None:
    path = resolved([(0.0, 0.0, 0.0), (2.0, 0.0, 0.0), (2.0, 2.0, 0.5)], PathKind.STRAIGHT)
    found = beside(path, side, 0.1)
    assert found.straight.all() and len(found.spans) == 2 and not len(found.cuts)
    assert np.allclose(found.spans[0, 0], (0.0, -side, 0.1)) and np.allclose(found.spans[0, 3], (2 + side, -side, 0.1))
    assert np.allclose(found.spans[1, 3], (2.0 + side, 2.0, 0.6))
    assert found.corner.tolist() == [False, True, False]


def test_a_closed_frame_grows_and_shrinks_by_its_sides() -> None:
    path = resolved(SQUARE, PathKind.STRAIGHT, closed=True)
    outer, inner = (beside(path, s).spans[:, 0] for s in (0.25, -0.25))
    assert np.allclose(np.ptp(outer, axis=0)[:2], 2.5, atol=1e-12) and np.allclose(np.ptp(inner, axis=0)[:2], 1.5)
    assert beside(path, 0.25).closed and beside(path, 0.25).corner.all()
    with pytest.raises(PathError, match="nothing is left"):
        beside(path, -1.2)


@pytest.mark.parametrize("scale", [1e-3, 1.0, 500.0])
@pytest.mark.parametrize("side", [0.1, -0.1, 0.5, -0.5, 0.9])
def test_a_curve_has_one_beside_it_as_shapes_on_maps_have(side: float, scale: float) -> None:
    path = resolved(np.array(BENT) * scale)
    found = beside(path, side * scale)
    assert_whole(found)
    far = in_plan(path, found)
    assert np.abs(far / scale - abs(side)).max() <= 2.0 * NEAR * abs(side) + 2e-5  # that of the lines on the right
    line = shapely.LineString(places(path.chain.spans, 300)[:, :2])
    known = line.offset_curve(-side * scale, quad_segs=64, join_style="mitre", mitre_limit=10.0)
    own = shapely.LineString(places(found.spans)[:, :2])
    assert shapely.hausdorff_distance(own, known) < 3e-4 * scale
    assert len(found.cuts) == {0.1: 0, -0.1: 0, 0.5: 2, -0.5: 1, 0.9: 2}[side]


def test_circles_and_arcs_have_circles_and_arcs_beside_them() -> None:
    circle = made(MadeShape.CIRCLE, radius=0.5)
    for side in (0.1, -0.1, 0.4999):
        radii = np.linalg.norm(places(beside(circle, side).spans)[:, :2], axis=1)
        assert np.allclose(radii, 0.5 + side, rtol=0.0, atol=abs(side) * NEAR)
    with pytest.raises(PathError, match="nothing is left"):
        beside(circle, -0.6)
    bend = resolved([(0, 0, 0), (2, 0, 0), (2, 2, 0)], PathKind.STRAIGHT, radius=0.5)
    for side in (0.3, -0.3):
        assert np.abs(in_plan(bend, beside(bend, side)) - 0.3).max() < 1e-5
    sharp = beside(bend, -0.7)  # beyond the middle of the arc: a corner is left of it
    assert len(sharp.spans) == 2 and np.allclose(sharp.spans[1, 0], (1.3, 0.7, 0.0), atol=1e-9)
    assert sharp.corner[1] and len(sharp.cuts) == 1


def test_heights_stay_and_up_is_added() -> None:
    path = resolved(BENT)
    found = beside(path, 0.2, 0.35)
    ends = path.chain.spans[0, 0], path.chain.spans[-1, 3]
    assert np.allclose([found.spans[0, 0, 2], found.spans[-1, 3, 2]], [e[2] + 0.35 for e in ends], atol=1e-12)
    highest = places(found.spans)[:, 2].max() - places(path.chain.spans)[:, 2].max()
    assert highest == pytest.approx(0.35, abs=1e-4)


def test_a_steep_path_has_its_sides_by_its_frames() -> None:
    post = resolved([(0, 0, 0), (0, 0, 2)], PathKind.STRAIGHT)
    found = beside(post, 0.3, 0.4)
    assert np.allclose(np.linalg.norm(found.spans[0, :, :2], axis=1), 0.5) and np.allclose(found.spans[0, 3, 2], 2.0)
    bent = resolved([(0, 0, 0), (0, 0.2, 2), (1, 0, 3)])
    found = beside(bent, 0.1)
    line = shapely.LineString(places(bent.chain.spans, 600))
    own = places(found.spans, 16)
    nearest = np.linalg.norm(own[:, None] - np.array(line.coords)[None], axis=2).min(1)
    assert np.abs(nearest - 0.1).max() < 2e-4


def test_a_steep_closed_path_whose_start_is_no_corner_has_its_side_all_round() -> None:
    loop = np.array([(0.0, 0.0, -1.0), (0.0, 0.9, 0.0), (0.0, 0.0, 1.3), (0.0, -0.9, 0.0)])
    corner = np.array([False, False, True, False])
    path = resolve_path(replace(path_from_points(loop, kind=PathKind.THROUGH, closed=True), corner=corner))
    found = beside(path, 0.02, 0.1)
    assert_whole(found)
    own, far = places(path.chain.spans, 400), np.hypot(0.02, 0.1)
    near = np.linalg.norm(places(found.spans, 12)[:, None] - own[None], axis=2).min(1)
    assert np.quantile(near, 0.1) > 0.98 * far and np.quantile(near, 0.9) < 1.02 * far


def test_a_square_turn_back_is_cut_off_square() -> None:
    path = resolved([(0, 0, 0), (2, 0, 0), (0.0, 0.05, 0)], PathKind.STRAIGHT)
    for side in (0.3, -0.3):
        found = beside(path, side)
        assert_whole(found)
        assert places(found.spans)[:, 0].max() <= 2.0 + 1.5 * 0.3
    assert in_plan(path, beside(path, 0.3)).min() > 0.3 - 1e-9


spots = st.lists(st.tuples(st.floats(-1.0, 1.0), st.floats(-0.3, 0.3)), min_size=3, max_size=7)


@given(spots, st.floats(0.02, 0.6), st.sampled_from([-1.0, 1.0]), st.booleans(), st.booleans())
@example([(0.0, 0.0)] * 4, 0.5, 1.0, True, False)
@example([(0.9, 0.3), (-0.9, -0.3), (0.9, 0.3), (0.0, 0.0), (0.5, 0.2)], 0.6, 1.0, False, True)
@example([(0.0, 0.0), (0.0, 0.0), (1.192092896e-07, 0.0)], 0.5, -1.0, False, True)  # a turn too small for a corner
@example([(0.0, 0.3), (0.0, -0.3), (0.0, 0.3), (0.0, -0.3), (0.0, 0.0)], 0.35, -1.0, False, False)
def test_whatever_the_path_what_lies_beside_it_is_whole_and_never_nearer(
    steps, side, sign, closed, is_straight
) -> None:
    """Where a path comes back near itself what lies beside it crosses; otherwise it is never nearer than asked for."""
    n = len(steps)
    along = np.linspace(0.0, 2.0 * np.pi, n, endpoint=False)
    if closed:
        points = np.array(
            [((2.0 + y) * np.cos(a), (2.0 + y) * np.sin(a), z) for a, (y, z) in zip(along, steps, strict=True)]
        )
    else:
        points = np.array([(1.5 * i, y, z) for i, (y, z) in enumerate(steps)])
    path = resolved(points, PathKind.STRAIGHT if is_straight else PathKind.THROUGH, closed=closed)
    try:
        found = beside(path, sign * side)
    except PathError:
        return
    assert_whole(found)
    assert np.isfinite(found.spans).all()
    lines = shapely.LineString(places(path.chain.spans, 400)[:, :2])
    if closed:
        lines = shapely.LinearRing(lines.coords)
    own = shapely.LineString(places(found.spans, 32)[:, :2])
    assume(own.is_simple)
    far = shapely.distance(shapely.points(places(found.spans, 32)[:, :2]), lines)
    assert far.min() >= side * (1.0 - 3.0 * NEAR) - 3e-5


def test_loops_are_cut_off_where_the_curves_themselves_cross() -> None:
    """Held against a crossing that SciPy finds."""
    one = np.array([[0.0, 0.0, 0.0], [1.0, 1.0, 0.0], [2.0, 1.2, 0.0], [3.0, 0.2, 0.0]])
    two = np.array([[1.2, -0.3, 0.0], [1.4, 0.9, 0.0], [2.2, 1.5, 0.0], [4.0, 1.6, 0.0]])
    back = np.linspace(one[3], two[0], 4)
    ahead = np.array([1.0, 0.3, 0.0])
    pieces = Pieces(np.array([one, back, two]), np.zeros(3, dtype=bool), np.tile(ahead, (3, 1)), np.arange(3))
    found = without_loops(pieces, np.zeros(4, dtype=bool), closed=False)

    def gap(t) -> np.ndarray:
        a, b = (points_at(p[None], np.array([v]))[0] for p, v in zip((one, two), t, strict=True))
        return (a - b)[:2]

    known = points_at(one[None], fsolve(gap, [0.4, 0.3], xtol=1e-14)[:1])[0]
    assert len(found.spans) == 2 and np.allclose(found.cuts, known[None], rtol=0.0, atol=1e-12)
    assert np.allclose(found.spans[0, 3], known, atol=1e-12) and np.allclose(found.spans[1, 0], known, atol=1e-12)
    assert found.corner.tolist() == [False, True, False]
