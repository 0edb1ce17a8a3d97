"""Laws over the length: exact at their points, never beyond them, with true rates."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator

from morphax.core.errors import PathError
from morphax.core.loft.laws import Form, FormLaw, Law, Piece, PointLaw

ONE = np.ones


def points(at: list[float], value: list[float], piece: Piece = Piece.SMOOTH, period: float | None = None) -> PointLaw:
    return PointLaw(np.array(at), np.array(value), (piece,) * len(at), period)


def value(law: Law, s, side: float = 1.0) -> np.ndarray:
    s = np.atleast_1d(np.asarray(s, dtype=float))
    return law.at_rows(s, np.full(len(s), side))[0]


@given(
    st.lists(st.tuples(st.floats(0.01, 1.0), st.floats(0.0, 5.0)), min_size=2, max_size=8),
    st.sampled_from(list(Piece)),
    st.booleans(),
)
def test_a_law_goes_through_its_points_and_never_beyond_its_neighbours(steps, piece: Piece, closed: bool) -> None:
    at = np.cumsum([d for d, _ in steps])
    values = np.array([v for _, v in steps])
    law = PointLaw(at, values, (piece,) * len(at), float(at[-1] - at[0] + 0.3) if closed else None)
    assert value(law, at) == pytest.approx(values, abs=1e-12)
    for k in range(len(at) - 1):
        inner = value(law, np.linspace(at[k], at[k + 1], 40)[:-1])
        low, high = sorted(values[k : k + 2])
        assert inner.min() >= low - 1e-12 and inner.max() <= high + 1e-12
    assert value(law, np.linspace(at[0], at[-1], 200)).min() >= 0.0, "a size is never negative"


def test_smooth_pieces_are_those_of_another_library() -> None:
    at, values = [0.0, 0.4, 0.5, 1.3, 2.0], [1.0, 1.4, 0.2, 0.3, 0.9]
    s = np.linspace(0.0, 2.0, 101)
    assert value(points(at, values), s) == pytest.approx(PchipInterpolator(at, values)(s), abs=1e-12)


LAWS: list[Law] = [
    points([0.1, 0.5, 0.9], [1.0, 2.0, 0.5]),
    points([0.1, 0.5, 0.9], [1.0, 2.0, 0.5], Piece.STRAIGHT),
    points([0.1, 0.5, 0.9], [1.0, 2.0, 0.5], period=1.0),
    *(FormLaw(form, 0.3, 1.0, pitch=0.25, fade=0.2) for form in Form),
    *(FormLaw(form, 0.3, 1.0, pitch=0.25, upside_down=True, end_for_end=True) for form in Form),
]


@pytest.mark.parametrize("law", LAWS, ids=lambda v: getattr(v, "form", "points"))
def test_rates_are_those_of_the_values(law: Law) -> None:
    s = np.setdiff1d(np.linspace(0.013, 0.987, 83), law.breaks)
    h = 1e-6
    clear = np.array([np.abs(law.breaks - x).min() > 2e-6 if len(law.breaks) else True for x in s])
    s = s[clear]
    found = law.at_rows(s, ONE(len(s)))[1]
    assert found == pytest.approx((value(law, s + h) - value(law, s - h)) / (2.0 * h), abs=1e-5)


@pytest.mark.parametrize(
    ("form", "at", "size"),
    [
        (Form.CONE, [0.0, 0.5, 2.0], [1.0, 0.9, 0.6]),
        (Form.BARREL, [0.0, 1.0, 2.0], [1.0, 1.4, 1.0]),
        (Form.WAIST, [0.0, 1.0, 2.0], [1.0, 0.6, 1.0]),
        (Form.BELL, [0.0, 1.0, 2.0], [1.0, 1.05, 1.4]),
        (Form.RIBS, [0.0, 0.25, 0.5, 2.0], [1.0, 1.4, 1.0, 1.0]),
        (Form.STEPS, [0.1, 0.6, 1.1, 1.9], [1.0, 1 - 0.4 / 3, 1 - 0.8 / 3, 0.6]),
        (Form.GROWTH, [0.0, 0.5, 1.0, 2.0], [1.0, 1.4, 1.4**2, 1.4**4]),
    ],
)
def test_forms_have_their_sizes(form: Form, at: list[float], size: list[float]) -> None:
    law = FormLaw(form, 0.4, 2.0, pitch=0.5)
    assert value(law, at) == pytest.approx(size)
    assert value(FormLaw(form, 0.4, 2.0, pitch=0.5, end_for_end=True), [2.0 - x for x in at], -1.0) == pytest.approx(
        size
    )
    turned = [1.0 / v for v in size] if form is Form.GROWTH else [2.0 - v for v in size]
    assert value(FormLaw(form, 0.4, 2.0, pitch=0.5, upside_down=True), at) == pytest.approx(turned)
    assert law.most == pytest.approx(max(size), rel=1e-3)


def test_steps_and_holds_have_a_value_on_each_side() -> None:
    law = points([0.0, 1.0, 2.0], [1.0, 3.0, 2.0], Piece.HOLD)
    assert law.steps.tolist() == [1.0, 2.0]
    assert value(law, [1.0, 2.0], -1.0).tolist() == [1.0, 3.0] and value(law, [1.0, 2.0]).tolist() == [3.0, 2.0]
    stairs = FormLaw(Form.STEPS, 0.5, 1.0, pitch=0.25)
    assert stairs.steps == pytest.approx([0.25, 0.5, 0.75])
    assert value(stairs, 0.5, -1.0)[0] > value(stairs, 0.5)[0]


def test_a_growth_is_stated_by_length_whatever_the_length() -> None:
    for long in (0.3, 5.0):
        law = FormLaw(Form.GROWTH, 0.08, long, pitch=0.1)
        assert value(law, 0.2)[0] / value(law, 0.1)[0] == pytest.approx(1.08)


def test_what_is_no_law_is_refused() -> None:
    with pytest.raises(PathError, match="one after the other"):
        points([0.0, 0.0], [1.0, 2.0])
    with pytest.raises(PathError, match="one point at least"):
        points([], [])
    with pytest.raises(PathError, match="strength"):
        FormLaw(Form.CONE, 50.0, 1.0)


@pytest.mark.parametrize("period", [None, 1.3])
def test_what_is_held_ends_the_curve_before_it_and_begins_the_one_after_it(period: float | None) -> None:
    at, held = np.array([0.0, 0.2, 0.5, 0.6, 1.0]), np.array([2.0, 1.0, 3.0, 0.5, 0.7])
    kinds = (Piece.SMOOTH, Piece.SMOOTH, Piece.HOLD, Piece.SMOOTH, Piece.HOLD)
    whole = PointLaw(at, held, kinds, period)
    for own in (slice(0, 3), slice(3, 5)):
        alone = PointLaw(at[own], held[own], (Piece.SMOOTH,) * len(at[own]))
        s = np.linspace(at[own][0], at[own][-1], 41)[1:-1]
        for a, b in zip(whole.at_rows(s, np.ones(39)), alone.at_rows(s, np.ones(39)), strict=True):
            assert a == pytest.approx(b, abs=1e-12)
