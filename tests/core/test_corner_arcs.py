"""Corner radii: true arcs, true lengths, knots in the middle of their arcs, shortened where they do not fit."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.core.body.recipe import End
from morphax.core.body.sweep import sweep
from morphax.core.mesh.measures import volume
from morphax.core.path.arclength import places_at
from morphax.core.path.corner_arcs import corner_arcs, rounded_chain
from morphax.core.path.knot_checks import radius_findings
from morphax.core.path.path_edits import reversed_path, with_first_knot, with_knot
from morphax.core.path.paths import chain_of, path_from_points, points_at
from morphax.core.path.resolved import drawn_place, resolve_path
from morphax.core.section.ready_made import ready_made
from tests.helpers import FRAME, OUT_OF_PLANE, S_CURVE, STRAIGHT, THROUGH, assert_watertight, recipe_of

ELBOW = np.array([[0, 0, 0], [1.0, 0, 0], [1.0, 1.0, 0]])


def rounded(points: np.ndarray, radius: float, *, closed: bool = False):
    path = path_from_points(points, kind=STRAIGHT, closed=closed)
    return replace(path, radius=np.full(len(points), radius))


def test_an_elbow_has_the_length_of_its_legs_and_its_arc() -> None:
    path = resolve_path(rounded(ELBOW, 0.25))
    np.testing.assert_allclose(path.length, 1.5 + 0.5 * np.pi * 0.25, rtol=1e-9)
    np.testing.assert_allclose(path.knot_at, [0.0, 0.75 + 0.25 * np.pi * 0.25, path.length], rtol=1e-9)
    assert not path.sharp.any() and len(path.legs) == 1


def test_every_arc_is_round_to_5e_10() -> None:
    chain = rounded_chain(rounded(ELBOW, 0.25))
    arc = chain.spans[~chain.straight]
    assert len(arc) == 10 and len(arc) % 2 == 0
    t = np.linspace(0.0, 1.0, 33)
    points = points_at(arc[:, None], np.broadcast_to(t, (len(arc), 33))).reshape(-1, 3)
    np.testing.assert_allclose(np.linalg.norm(points - [0.75, 0.25, 0.0], axis=1), 0.25, rtol=5e-10)


def test_without_a_radius_the_corner_stays_and_the_length_differs() -> None:
    """Negative control: the elbow's length tells whether there is an arc."""
    assert abs(resolve_path(path_from_points(ELBOW, kind=STRAIGHT)).length - (1.5 + 0.125 * np.pi)) > 0.1


def test_a_rounded_frame_is_one_smooth_loop_with_the_exact_volume() -> None:
    path = rounded(FRAME, 0.2, closed=True)
    resolved = resolve_path(path)
    np.testing.assert_allclose(resolved.length, 6.0 - 8 * 0.2 + 2.0 * np.pi * 0.2, rtol=1e-9)
    assert len(resolved.legs) == 1 and len(resolved.knot_at) == 5
    body = sweep(path, ready_made("round", {"width": 0.1}), recipe_of(deviation=2e-6))
    assert_watertight(body.mesh)
    np.testing.assert_allclose(volume(body.mesh), np.pi * 0.05**2 * resolved.length, rtol=3e-4)
    assert body.findings == ()


def test_rings_stand_where_arcs_begin_and_end_and_none_on_straights() -> None:
    body = sweep(rounded(ELBOW, 0.25), ready_made("round", {"width": 0.1}))
    for at in (0.75, 0.75 + 0.125 * np.pi):
        assert np.abs(body.ring_at - at).min() < 1e-9
    inside = (body.ring_at > 1e-9) & (body.ring_at < 0.75 - 1e-9)
    assert not inside.any(), "a straight leg needs no rings"


def test_radii_that_do_not_fit_are_shortened_together_and_said() -> None:
    path = rounded(np.array([[0, 0, 0], [1, 0, 0], [1, 0.5, 0], [2, 0.5, 0]], dtype=float), 0.4)
    arcs = corner_arcs(path)
    np.testing.assert_allclose(arcs.radius[1:3], 0.25, rtol=1e-12)
    assert list(arcs.shortened) == [False, True, True, False]
    body = sweep(path, ready_made("round", {"width": 0.02}))
    assert_watertight(body.mesh)
    assert [f.code for f in body.findings] == ["radius-shortened"] * 2
    assert "250 mm: 400 mm does not fit" in body.findings[0].message


def test_a_radius_beside_a_curve_is_a_finding_and_the_corner_stays() -> None:
    path = path_from_points(S_CURVE, kind=THROUGH, corner=np.arange(5) == 2)
    path = replace(path, radius=np.where(np.arange(5) == 2, 0.05, 0.0))
    resolved = resolve_path(path)
    assert resolved.sharp.sum() == 1
    assert [f.code for f in radius_findings(path, resolved.knot_at)] == ["radius-needs-straight"]


@given(st.integers(0, 3), st.floats(0.05, 0.95))
def test_a_knot_put_into_a_span_moves_nothing(span: int, t: float) -> None:
    path = rounded(OUT_OF_PLANE, 0.08)
    more = with_knot(path, span, t)
    a, b = resolve_path(path), resolve_path(more)
    s = np.linspace(0.0, a.length, 200)
    first, second = (
        points_at(r.table.spans[places.span], places.t) for r, places in ((r, places_at(r.table, s)) for r in (a, b))
    )
    np.testing.assert_allclose(first, second, atol=1e-11)


def test_reversal_and_first_knot_keep_the_curve() -> None:
    closed = rounded(FRAME, 0.2, closed=True)
    length = resolve_path(closed).length
    for changed in (reversed_path(closed), with_first_knot(closed, 2)):
        np.testing.assert_allclose(resolve_path(changed).length, length, rtol=1e-12)
    uneven = replace(closed, radius=np.array([0.1, 0.2, 0.0, 0.3]))
    back = reversed_path(uneven)
    np.testing.assert_allclose(back.radius, [0.1, 0.3, 0.0, 0.2])
    np.testing.assert_allclose(resolve_path(back).length, resolve_path(uneven).length, rtol=1e-12)


def test_places_on_arcs_belong_to_the_drawn_span_they_lie_on() -> None:
    resolved = resolve_path(rounded(ELBOW, 0.25))
    assert drawn_place(resolved, 0, 0.5) == pytest.approx((0, 0.375))
    last = len(resolved.chain.spans) - 1
    assert drawn_place(resolved, last, 0.5)[0] == 1
    assert drawn_place(resolved, 2, 0.5)[0] == 0 and drawn_place(resolved, last - 2, 0.5)[0] == 1


def test_a_full_turn_of_half_circles_has_no_straights_left() -> None:
    square = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]], dtype=float)
    resolved = resolve_path(rounded(square, 0.5, closed=True))
    np.testing.assert_allclose(resolved.length, np.pi, rtol=1e-9)
    body = sweep(rounded(square, 0.7, closed=True), ready_made("ogee", {"width": 0.1}), recipe_of(end=End.FLAT))
    assert_watertight(body.mesh)
    assert len(chain_of(rounded(square, 0.5, closed=True)).spans) == 4, "drawn spans stay drawn spans"
