"""Corners rounded and cut off by value, between lines, arcs and curves."""

from math import hypot, pi, sqrt

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from morphax.core.errors import SectionError
from morphax.core.section.fillets import chamfered, filleted
from morphax.core.section.loop_edits import kind_of, with_kind
from morphax.core.section.outlines import loop_area
from morphax.core.section.pieces import rectangle, regular
from tests.core.test_loop_edits import CURVED, SQUARE, area_of, is_chain, turn_at


@pytest.mark.parametrize("i", range(4))
def test_a_fillet_of_a_right_angle_is_a_quarter_of_a_circle(i: int) -> None:
    made = filleted(SQUARE, i, 0.005)
    arcs = [s for s in made.segments if s.is_arc]
    assert len(made.segments) == 5 and is_chain(made) and len(arcs) == 1
    assert arcs[0].radii[0] == pytest.approx(0.005, rel=1e-9)
    assert arcs[0].a1 - arcs[0].a0 == pytest.approx(0.5 * pi)
    k = made.segments.index(arcs[0])
    assert turn_at(made, k) < 1e-9 and turn_at(made, (k + 1) % 5) < 1e-9
    assert not made.segments[k].corner and not made.segments[(k + 1) % 5].corner
    assert loop_area(made) == pytest.approx(0.0008 - (1.0 - pi / 4.0) * 0.005**2)


@pytest.mark.parametrize("i", range(4))
def test_a_chamfer_goes_back_as_far_along_both_sides(i: int) -> None:
    made = chamfered(SQUARE, i, 0.004)
    assert len(made.segments) == 5 and is_chain(made) and all(s.corner for s in made.segments)
    assert loop_area(made) == pytest.approx(0.0008 - 0.5 * 0.004**2)
    assert min(hypot(s.end[0] - s.start[0], s.end[1] - s.start[1]) for s in made.segments) == pytest.approx(
        0.004 * sqrt(2.0)
    )


def test_what_does_not_fit_is_refused_with_what_there_is_room_for() -> None:
    with pytest.raises(SectionError, match="room for 0.02 m"):
        filleted(SQUARE, 1, 0.021)
    with pytest.raises(SectionError, match="room for 0.02 m"):
        chamfered(SQUARE, 2, 0.5)
    with pytest.raises(SectionError, match="needs a corner"):
        filleted(filleted(SQUARE, 1, 0.005), 1, 0.001)
    for size in (0.0, -1.0):
        with pytest.raises(SectionError, match="more than 0"):
            filleted(SQUARE, 1, size)


def test_a_fillet_as_large_as_a_side_takes_the_side() -> None:
    made = filleted(rectangle((0.0, 0.0), (0.02, 0.02)), 1, 0.02)
    assert [kind_of(s) for s in made.segments] == ["arc", "line", "line"] and is_chain(made)
    assert loop_area(made) == pytest.approx(0.02**2 - (1.0 - pi / 4.0) * 0.02**2)


@given(n=st.integers(3, 9), i=st.integers(0, 8), share=st.floats(0.02, 0.95))
def test_fillets_of_polygons_touch_both_sides(n: int, i: int, share: float) -> None:
    loop = regular((0.3, -0.2), (0.35, -0.2), n)
    side = 2.0 * 0.05 * np.sin(pi / n)
    radius = share * side / np.tan(pi / n)
    made = filleted(loop, i % n, radius)
    arc = next(s for s in made.segments if s.is_arc)
    assert arc.radii[0] == pytest.approx(radius, rel=1e-8) and is_chain(made)
    lost = radius**2 * (np.tan(pi / n) - pi / n)
    assert area_of(made) == pytest.approx(area_of(loop) - lost, rel=1e-6)


@given(i=st.sampled_from([0, 1, 3]), radius=st.floats(2e-4, 4e-3), arc=st.booleans())
def test_fillets_between_lines_arcs_and_curves_are_smooth_on_both_sides(i: int, radius: float, arc: bool) -> None:
    loop = with_kind(CURVED, 3, "arc") if arc else CURVED
    try:
        made = filleted(loop, i, radius)
    except SectionError:
        assume(False)
        return
    found = [k for k, s in enumerate(made.segments) if s.is_arc and s.radii[0] == pytest.approx(radius, rel=1e-6)]
    assert found and is_chain(made) and len(made.segments) == 5
    k = found[0]
    assert turn_at(made, k) < 1e-6 and turn_at(made, (k + 1) % 5) < 1e-6
