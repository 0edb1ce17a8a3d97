"""The way between two ports that bends least."""

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from morphax.core.body.checks import pinches
from morphax.core.body.recipe import PlainRecipe
from morphax.core.body.sweep import frame_stage, profile_stage
from morphax.core.errors import PathError
from morphax.core.path.least_bend import LeastBend, least_bend_spans
from morphax.core.path.path_edits import largest_change, with_knot
from morphax.core.path.paths import (
    PathKind,
    PathShape,
    chain_of,
    derivatives_at,
    points_at,
    second_derivatives_at,
)
from morphax.core.path.resolved import drawn_place, resolve_path
from morphax.core.section.ready_made import ready_made
from tests.conftest import MANY

X, Y, Z = np.eye(3)
R = 0.1
directions = st.sampled_from(
    [X, -X, Y, -Y, Z, -Z, (X + Z) / np.sqrt(2.0), (Y - Z) / np.sqrt(2.0), (X + Y + Z) / 3**0.5]
)


def wish(**changes) -> LeastBend:
    given_ = {"start": np.zeros(3), "end": X + 0.3 * Y, "out": X, "into": Y, "radius": R, "bulge": Y, **changes}
    return LeastBend(**given_)  # type: ignore[arg-type]


def along(spans: np.ndarray, each: int = 24) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Points, unit tangents and curvature vectors at the middles of even steps of each span's parameter."""
    t = np.broadcast_to((np.arange(each) + 0.5) / each, (len(spans), each))
    p, v, a = (f(spans[:, None], t).reshape(-1, 3) for f in (points_at, derivatives_at, second_derivatives_at))
    speed2 = (v * v).sum(1)[:, None]
    bent = (a - (a * v).sum(1)[:, None] / speed2 * v) / speed2
    return p, v / np.sqrt(speed2), bent


def radius_of(spans: np.ndarray) -> float:
    return float(1.0 / np.linalg.norm(along(spans)[2], axis=1).max())


def energy(points: np.ndarray, cheaper: int = 0) -> float:
    """Bending and the price of length of a fine polyline, worked out apart from the solver; length so often cheaper."""
    d = np.diff(points, axis=0)
    size = np.linalg.norm(d, axis=1)
    u = d / size[:, None]
    bend = 0.5 * (((u[1:] - u[:-1]) ** 2).sum(1) / (0.5 * (size[1:] + size[:-1]))).sum()
    return float(bend + size.sum() * 0.6**cheaper / (4.0 * (1.02 * R) ** 2))


def path(ends: np.ndarray, leads: np.ndarray, bulge: np.ndarray = Y, radius: float = R) -> PathShape:
    """A path from port to port: ends (2, 3), and leads (2, 3) from them."""
    knots = np.array([ends[0], ends[0] + leads[0], ends[1] + leads[1], ends[1]])
    curved, none = np.array([False, True, False, True]), np.zeros(4, dtype=bool)
    return PathShape(knots, PathKind.THROUGH, False, none, curved, least_bend=radius, bulge=bulge)


def test_the_square_of_the_curvature_goes_with_the_direction():
    # an elastica of free length: kappa^2 = 2 price - 2 force . tangent, the same force all along (no moment of force
    # at its ends is needed for this; Love, 262); what is fitted is judged apart from how it was found
    for out, into, end in ((X, Y, X + 0.3 * Y), (X, -X, 0.5 * Y), (X, Z, np.array([0.6, 0.5, 0.2])), (-X, -X, X)):
        spans = least_bend_spans(wish(out=out, into=into, end=end, radius=0.05))
        _, tangent, bent = along(spans)
        k2 = (bent * bent).sum(1)
        rows = np.column_stack([np.ones(len(k2)), tangent])
        fitted = rows @ np.linalg.lstsq(rows, k2, rcond=None)[0]
        assert np.abs(fitted - k2).max() < 0.04 * k2.max()
        assert np.sqrt(((fitted - k2) ** 2).mean()) < 0.01 * k2.max()


@settings(max_examples=min(MANY, 40))
@given(out=directions, into=directions, end=st.tuples(*[st.floats(-1.5, 1.5)] * 3), seed=st.integers(0, 99))
def test_no_near_curve_costs_less(out, into, end, seed):
    end = np.array(end) + 0.6 * X + 0.01 * (Y + Z)
    spans = least_bend_spans(wish(out=out, into=into, end=end))
    p = along(spans, 40)[0]
    at = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(p, axis=0), axis=1))])
    even = np.linspace(0.0, at[-1], 600)
    line = np.stack([np.interp(even, at, p[:, k]) for k in range(3)], axis=1)
    s = even / even[-1]
    rng = np.random.default_rng(seed)
    waves = sum(rng.normal(size=3) * (s**2 * (1 - s) ** 2 * np.cos(k * np.pi * s))[:, None] for k in range(4))
    near = [line + size * waves for size in (0.02, -0.02)]
    costs = [min(energy(p, k) for p in near) / energy(line, k) for k in range(7)]  # 0: where there is room
    assert max(costs) > 1.0 - 2e-5
    assert (
        radius_of(spans) >= 0.99 * R or costs[6] > 1.0 - 2e-5
    )  # a tighter bend only where length is as cheap as it gets


@settings(max_examples=min(MANY, 40))
@given(end=st.tuples(st.floats(0.0, 1.0), st.floats(-1.0, 1.0), st.floats(-1.0, 1.0)), far=st.floats(8.0, 30.0))
def test_ports_that_face_away_are_left_in_wide_bends(end, far):
    # Must: two ports that face away from each other with 8 widths of room: least radius >= reach
    reach, d = R / 1.5, np.array(end) + 1e-6 * X
    d *= far * 2.0 * reach / np.linalg.norm(d)
    spans = least_bend_spans(wish(out=-X, into=-X, end=d))
    assert radius_of(spans) >= reach


@pytest.mark.parametrize("radius", [1e-4, 0.03, 20.0])
def test_far_apart_bends_are_as_wide_as_wished(radius):
    for out, into in ((X, Y), (Y, Z), (-X, X), (-X, -X), (Z, -Z)):
        spans = least_bend_spans(wish(out=out, into=into, end=60.0 * radius * (X + 0.2 * Y), radius=radius))
        assert radius_of(spans) >= radius
        assert radius_of(spans) < 4.0 * radius  # and no wider than they must be: length costs


@settings(max_examples=min(MANY, 15))
@example(out=-X, into=-X, end=(0.0, 0.0, 0.0))
@example(out=-Z, into=-Z, end=(-0.3, -0.3, 0.5))
@given(out=directions, into=directions, end=st.tuples(*[st.floats(-0.8, 0.8)] * 3))
def test_it_is_the_same_from_both_ends_and_in_a_mirror(out, into, end):
    end = np.array(end) + 0.3 * (X + Y)
    there = wish(out=out, into=into, end=end)
    back = wish(start=end, end=np.zeros(3), out=-into, into=-out)
    a, b = least_bend_spans(there), least_bend_spans(back)[::-1, ::-1]
    assert np.abs(a - b).max() < 1e-9
    flip = np.diag([1.0, -1.0, 1.0])
    mirrored = wish(out=flip @ out, into=flip @ into, end=flip @ end, bulge=flip @ Y)
    c = least_bend_spans(mirrored)
    assert np.abs(largest(c @ flip) - largest(a)).max() < 1e-9 or same_cost(c, a)


def largest(spans: np.ndarray) -> np.ndarray:
    return along(spans)[0]


def same_cost(a: np.ndarray, b: np.ndarray) -> bool:
    """Whether two ways are equals of which either may be taken: the second side of a mirror image is its other one."""
    costs = [energy(along(s, 40)[0]) for s in (a, b)]
    return abs(costs[0] - costs[1]) < 2e-3 * max(costs)


def test_between_equals_it_bulges_to_the_side_that_is_wished():
    for bulge in (Y, -Y, Z, -Z):
        p = along(least_bend_spans(wish(out=-X, into=-X, end=X, bulge=bulge)))[0]
        assert (p @ bulge).max() > 0.3 and (p @ bulge).min() > -1e-6


@pytest.mark.parametrize(
    ("radius", "far"), [(7.5e-4, 500.0), (7.5e-6, 500.0), (7.5e-5, 500.0), (1e3, 0.1), (0.15, 1e-9), (1e6, 0.5)]
)
def test_the_way_costs_what_it_bends_not_what_it_is_long(radius, far):
    # a cable of 1 mm over 500 m is made as well as one that turns on the spot, and of no more spans
    for out, into in ((X, Y), (-X, -X), (Z, -Z)):
        try:
            spans = least_bend_spans(wish(out=out, into=into, end=far * (X + 0.1 * Y), radius=radius))
        except PathError as none:
            assert "no way" in str(none)
            continue
        assert len(spans) < 120 and np.isfinite(spans).all()
        assert far < 10.0 * radius or 0.99 < radius_of(spans) / radius < 6.0


def test_a_straight_way_is_one_line():
    spans = least_bend_spans(wish(into=X, end=2.0 * X))
    assert len(spans) == 1 and np.allclose(spans[0], np.array([0, 2, 4, 6])[:, None] * X / 3.0)


def test_a_path_takes_it_between_its_leads_only():
    shape = path(np.array([0 * X, X]), np.array([-0.2 * X, 0.2 * X]))
    chain = chain_of(shape)
    m = len(chain.spans)
    assert chain.knots.tolist() == [0, 1, m - 1, m] and chain.straight.tolist() == [True, *[False] * (m - 2), True]
    assert np.array_equal(chain.spans[0, 0], shape.knots[0]) and np.array_equal(chain.spans[-1, 3], shape.knots[3])
    ends = chain.spans[1, 1] - chain.spans[1, 0], chain.spans[-2, 3] - chain.spans[-2, 2]
    assert np.allclose([e / np.linalg.norm(e) for e in ends], [-X, -X], atol=1e-12)
    steps = np.diff(chain.spans[1:-1], axis=1)
    assert np.abs(chain.spans[1:-2, 3] - chain.spans[2:-1, 0]).max() == 0.0
    t = [(steps[:-1, 2], steps[1:, 0])]
    assert all(np.allclose(np.cross(a, b), 0.0, atol=1e-12) for a, b in t)


@pytest.mark.parametrize("t", [0.2, 0.5, 0.77])
def test_a_free_knot_lies_where_it_was_asked_for(t):
    shape = path(np.array([0 * X, X]), np.array([-0.2 * X, 0.2 * X]))
    resolved = resolve_path(shape)
    m = len(resolved.chain.spans) - 2
    span, at = drawn_place(resolved, 1 + int(t * m), t * m - int(t * m))
    assert span == 1 and at == pytest.approx(t, abs=1e-12)
    changed = with_knot(shape, span, at)
    place = points_at(resolved.chain.spans[1 + int(t * m)], np.array(t * m - int(t * m)))
    assert len(changed.knots) == 5 and np.allclose(changed.knots[2], place, atol=1e-12) and not changed.bends_least
    assert largest_change(resolved.chain, chain_of(changed)) > 1e-4  # it is a curve through its knots now


def test_where_there_is_no_room_it_is_pinched_and_says_so():
    section, recipe = ready_made("round", {"width": 2.0 * R / 1.5}), PlainRecipe()

    def found(gap: float) -> list[str]:
        resolved = resolve_path(path(np.array([0 * X, gap * Y]), np.array([0.2 * X, 0.2 * X])))
        profile = profile_stage(resolved, section, recipe)
        return [f.code for f in pinches(frame_stage(resolved, profile, recipe.placing), profile, profile.width)]

    assert found(0.5) == [] and found(0.15) == ["pinch"]
