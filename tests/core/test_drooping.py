"""Droops: stiff cables between two ends that leave in given directions."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.core.errors import PathError
from morphax.core.findings import in_mm
from morphax.core.path.arclength import length_table
from morphax.core.path.drooping import Drooping, drooping_spans
from morphax.core.path.hanging import hanging_spans
from morphax.core.path.hung import Hung, even_slack, hung_pieces, one_span, sag, slack_for_sag
from morphax.core.path.path_checks import path_findings
from morphax.core.path.path_edits import largest_change
from morphax.core.path.paths import Chain, PathKind, PathShape, chain_of, points_at, second_derivatives_at
from morphax.core.path.resolved import resolve_path
from tests.conftest import MANY

X, Y, Z = np.eye(3)
START, END = np.zeros(3), np.array([1.0, 0.2, 0.3])


def wish(**changes) -> Drooping:
    return Drooping(
        **{"start": START, "end": END, "length": 1.4, "stiffness": 0.2, "out": X, "into": Z, **changes}  # type: ignore[arg-type]
    )


def chain(spans: np.ndarray) -> Chain:
    return Chain(spans, False, np.zeros(len(spans) + 1, dtype=bool), np.zeros(len(spans), dtype=bool))


def length_of(spans: np.ndarray) -> float:
    return float(length_table(chain(spans)).total)


def tangents(spans: np.ndarray) -> np.ndarray:
    ends = np.array([spans[0, 1] - spans[0, 0], spans[-1, 3] - spans[-1, 2]])
    return ends / np.linalg.norm(ends, axis=1)[:, None]


def curve(spans: np.ndarray, each: int = 32) -> np.ndarray:
    t = np.arange(each) / each
    p = points_at(spans[:, None], np.broadcast_to(t, (len(spans), each)))
    return np.concatenate([p.reshape(-1, 3), spans[-1:, 3]])


def energy(points: np.ndarray, stiffness: float) -> float:
    """Bending and weight of a fine polyline, worked out apart from the solver."""
    d = np.diff(points, axis=0)
    size = np.linalg.norm(d, axis=1)
    u = d / size[:, None]
    bend = 0.5 * stiffness**3 * (((u[1:] - u[:-1]) ** 2).sum(1) / (0.5 * (size[1:] + size[:-1]))).sum()
    return float(bend + (size * 0.5 * (points[1:, 2] + points[:-1, 2])).sum())


directions = st.sampled_from([X, -X, Y, -Y, Z, -Z, (X + Z) / np.sqrt(2.0), (Y - Z) / np.sqrt(2.0)])


@given(directions, directions, st.floats(1.05, 2.0), st.floats(0.03, 5.0))
def test_length_ends_and_directions_are_exact_and_curvature_is_continuous(out, into, length, stiffness) -> None:
    far = float(np.linalg.norm(END - START))
    spans = drooping_spans(wish(out=out, into=into, length=length * far, stiffness=stiffness))
    assert length_of(spans) == pytest.approx(length * far, rel=1e-8)
    assert np.allclose(spans[0, 0], START, atol=1e-14) and np.allclose(spans[-1, 3], END, atol=1e-14)
    assert np.allclose(tangents(spans), [out, into], atol=1e-12)
    ends = second_derivatives_at(spans, np.ones(len(spans)))[:-1]
    starts = second_derivatives_at(spans, np.zeros(len(spans)))[1:]
    assert np.abs(ends - starts).max() < 1e-8 * max(np.abs(starts).max(), 1.0)


def test_without_stiffness_it_is_the_catenary() -> None:
    slack = 1.4 / float(np.linalg.norm(END)) - 1.0
    true = chain(hanging_spans(START, END, slack))
    gaps = []
    for stiffness in (0.1, 0.03, 0.01):
        loose = drooping_spans(wish(stiffness=stiffness, out=None, into=None))
        gaps.append(largest_change(chain(loose), true))
    assert gaps[0] > gaps[1] > gaps[2] and gaps[2] < 2e-4
    clamped = drooping_spans(wish(stiffness=0.01, out=Y, into=Z))
    assert largest_change(chain(clamped), true) < 0.03, "clamps bend the ends only"


def test_a_plane_droop_stays_in_its_plane_and_a_symmetric_one_is_symmetric() -> None:
    spans = drooping_spans(wish(end=X, out=Z, into=-Z, length=1.7))
    line = curve(spans)
    assert np.abs(line[:, 1]).max() < 1e-9
    mirrored = line[::-1] * [-1.0, 1.0, 1.0] + X
    assert np.allclose(mirrored, line, atol=1e-6)


def test_no_small_change_of_the_curve_lowers_its_energy() -> None:
    asked = wish(length=1.6, stiffness=0.3)
    spans = drooping_spans(asked)
    line = curve(spans)
    s = np.linspace(0.0, 1.0, len(line))[:, None]
    least = energy(line, 0.3)
    rng = np.random.default_rng(3)
    for _ in range(20):
        bump = sum(rng.normal(size=3) * (s * (1 - s)) ** 2 * np.cos(k * np.pi * s) for k in range(4))
        moved = line + 0.03 * bump
        longer = (
            np.linalg.norm(np.diff(moved, axis=0), axis=1).sum() / np.linalg.norm(np.diff(line, axis=0), axis=1).sum()
        )
        weight = (longer - 1.0) * 10.0  # what stretching would cost: only changes of equal length compete
        assert energy(moved, 0.3) > least - abs(weight)
    straight = curve(drooping_spans(wish(length=1.6, stiffness=3.0)))
    assert energy(straight, 0.3) > least + 1e-3, "the droop of another stiffness is not the least here"


def test_more_stiffness_bends_more_evenly_and_is_the_same_upside_down_without_weight() -> None:
    def sharpest(stiffness: float) -> float:
        u = np.diff(curve(drooping_spans(wish(end=X, out=Z, into=-Z, length=1.7, stiffness=stiffness))), axis=0)
        u /= np.linalg.norm(u, axis=1)[:, None]
        return float(np.linalg.norm(np.diff(u, axis=0), axis=1).max())

    assert sharpest(0.1) > 1.5 * sharpest(1.0)


def test_one_end_may_be_free_to_turn() -> None:
    spans = drooping_spans(wish(into=None))
    assert np.allclose(tangents(spans)[0], X, atol=1e-12)
    assert np.abs(second_derivatives_at(spans[-1:], np.ones(1))).max() < 1e-9, "no moment where it can turn"


def test_a_droop_no_longer_than_its_chord_is_a_line() -> None:
    spans = drooping_spans(wish(length=float(np.linalg.norm(END))))
    assert len(spans) == 1 and length_of(spans) == pytest.approx(float(np.linalg.norm(END)))


def hose(slack: float = 0.4, stiffness: float = 0.3) -> PathShape:
    """Straight leads of 0.2 m at both ends, hanging between them."""
    knots = np.array([[0.0, 0.0, 0.5], [0.2, 0.0, 0.5], [1.2, 0.0, 0.8], [1.2, 0.0, 0.6]])
    curved = np.array([False, True, False, True])
    return PathShape(knots, PathKind.HANGING, False, np.zeros(4, dtype=bool), curved, slack=slack, stiffness=stiffness)


def test_a_hanging_path_leaves_its_leads_smoothly_and_has_no_corner_there() -> None:
    path = resolve_path(hose())
    assert len(path.legs) == 1 and not path.sharp.any()
    chord = float(np.hypot(1.0, 0.3))
    assert path.length == pytest.approx(0.2 + 1.4 * chord + 0.2, rel=1e-8)
    assert np.allclose(path.knot_at, [0.0, 0.2, 0.2 + 1.4 * chord, path.length], atol=1e-8)
    bare = resolve_path(hose(stiffness=0.0))
    assert len(bare.legs) == 3, "a chain bends sharply where its leads end"


def hung(shape: PathShape) -> Hung:
    return Hung(shape.knots, shape.curved, shape.closed, shape.slack, shape.stiffness)


@pytest.mark.parametrize("stiffness", [0.0, 0.3])
def test_slack_for_a_sag_and_back(stiffness: float) -> None:
    shape = hung(hose(stiffness=stiffness))
    for wanted in (0.15, 0.4):
        slack = slack_for_sag(shape, wanted)
        found = Hung(shape.knots, shape.hangs, False, slack, stiffness)
        assert sag(found) == pytest.approx(wanted, abs=2e-9)
    with pytest.raises(PathError, match="0 or more"):
        slack_for_sag(shape, -0.1)


def test_the_sag_is_that_of_the_curve() -> None:
    shape = hung(hose())
    spans = hung_pieces(shape)[1]
    line, chord = curve(spans, 400), shape.knots[2] - shape.knots[1]
    share = ((line - shape.knots[1])[:, :2] @ chord[:2]) / (chord[:2] @ chord[:2])
    below = shape.knots[1][2] + share * chord[2] - line[:, 2]
    assert sag(shape) == pytest.approx(below.max(), abs=1e-7)


def test_even_slack_grows_with_the_turns_that_the_ends_ask_for() -> None:
    easy, hard = hose(), hose()
    hard.knots[0], hard.knots[3] = [0.4, 0.0, 0.5], [1.0, 0.0, 0.8]
    assert even_slack(hung(easy)) < even_slack(hung(hard))
    none = Hung(easy.knots, np.ones(4, dtype=bool), False, 0.1, 0.3)
    assert even_slack(none) == 0.0, "without leads nothing droops"


def test_the_span_at_a_place_keeps_its_leads() -> None:
    one = one_span(hung(hose()), np.array([0.7, 0.0, 0.2]))
    assert len(one.knots) == 4 and sag(one) == sag(hung(hose()))
    knots = np.array([[0.0, 0, 0], [1.0, 0, 0], [2.0, 0, 0]])
    two = Hung(knots, np.ones(3, dtype=bool), False, 0.1, 0.0)
    assert np.allclose(one_span(two, np.array([1.6, 0.0, -0.1])).knots, knots[1:])


def test_a_hanging_chain_is_one_curve_and_its_pieces_join() -> None:
    spans = chain_of(hose()).spans
    assert np.array_equal(spans[1:, 0], spans[:-1, 3])


def randomly_hung(seed: int) -> PathShape:
    """A droop between two leads that point anywhere, of any size, slack and stiffness."""
    rng = np.random.default_rng(seed)
    size = 10.0 ** rng.uniform(-2.0, 1.5)
    a, b = (rng.normal(size=3) * size for _ in range(2))
    chord = float(np.linalg.norm(b - a))
    leads = [d / np.linalg.norm(d) * 0.1 * chord for d in rng.normal(size=(2, 3))]
    knots = np.stack([a - leads[0], a, b, b + leads[1]])
    flags = np.array([False, True, False, False])
    slack, stiffness = rng.choice([0.0005, 0.01, 0.05, 0.3, 2.0]), chord * rng.choice([0.05, 0.3, 1.0])
    return PathShape(knots, PathKind.HANGING, False, flags & False, flags, slack=slack, stiffness=float(stiffness))


@pytest.mark.parametrize("seed", range(MANY // 10))
def test_a_droop_is_as_long_as_it_was_asked_to_be_or_says_so(seed: int) -> None:
    shape = randomly_hung(seed)
    path = resolve_path(shape)
    wished = np.linalg.norm(shape.knots[2] - shape.knots[1]) * (1.0 + shape.slack)
    own = float(path.knot_at[2] - path.knot_at[1])
    said = [f for f in path_findings(path, 0.0) if f.code == "length-missed"]
    assert (abs(own / wished - 1.0) < 1e-6) is not bool(said)
    if said:
        assert in_mm(own) in said[0].message and said[0].place == tuple(shape.knots[1])
