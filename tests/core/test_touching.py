"""Tangents and square feet from a place to outlines: by the circle's own formula, and by random cubics."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import minimize_scalar

from morphax.core.section.outlines import Loop, Segment, open_loop
from morphax.core.section.ready_made import ready_made
from morphax.core.section.touching import feet_from, tangents_from


def outline(name: str, **values: float) -> Loop:
    return ready_made(name, values).parts[0].outer


@given(st.floats(0.06, 2.0), st.floats(-3.1, 3.1), st.floats(0.02, 0.1))
def test_a_circle_is_touched_at_its_two_tangents_and_met_squarely_through_its_middle(far, angle, width) -> None:
    radius = width / 2
    way = np.array([np.cos(angle), np.sin(angle)])
    place = far * way
    found = tangents_from(outline("round", width=width), tuple(place))
    assert len(found) == 2
    assert np.hypot(*found.T) == pytest.approx(radius, rel=1e-9)
    assert np.hypot(*(found - place).T) == pytest.approx(np.sqrt(far**2 - radius**2), rel=1e-9), "by Pythagoras"
    feet = feet_from(outline("round", width=width), tuple(place))
    along = sorted((feet @ way).tolist())
    assert along[0] == pytest.approx(-radius, rel=1e-9) and along[-1] == pytest.approx(radius, rel=1e-9)


def test_lines_have_feet_and_no_tangents() -> None:
    box = outline("rectangle", width=0.04, height=0.02)
    assert len(tangents_from(box, (0.1, 0.003))) == 0
    feet = feet_from(box, (0.1, 0.003))
    assert sorted(map(tuple, np.round(feet, 12).tolist())) == [(-0.02, 0.003), (0.02, 0.003)]


@given(
    st.lists(st.tuples(st.floats(-1, 1), st.floats(-1, 1)), min_size=4, max_size=4),
    st.tuples(st.floats(-2, 2), st.floats(-2, 2)),
)
def test_what_is_found_on_a_curve_is_what_it_says(points, place) -> None:
    a, b, c, d = points
    if min(np.hypot(*np.subtract(a, d)), np.hypot(*np.subtract(a, b)), np.hypot(*np.subtract(c, d))) < 1e-3:
        return
    loop = Loop((Segment(a, d, inner=(b, c)), Segment(d, a)))
    curve = loop.segments[0]
    t = np.linspace(0.0, 1.0, 401)
    for found, is_tangent in ((tangents_from(loop, place), True), (feet_from(loop, place), False)):
        for p in found:
            near = float(t[np.argmin(np.hypot(*(curve.at(t) - p).T))])
            best = minimize_scalar(
                lambda v, p=p: float(((curve.at(np.array([v]))[0] - p) ** 2).sum()),
                bounds=(max(near - 0.005, 0.0), min(near + 0.005, 1.0)),
                method="bounded",
                options={"xatol": 1e-14},
            )
            if best.fun > 1e-16:
                continue  # on the line
            way, slope = np.subtract(p, place), curve.slope(np.array([best.x]))[0]
            off = way[0] * slope[1] - way[1] * slope[0] if is_tangent else way @ slope
            assert abs(off) <= 1e-5 * (1.0 + np.hypot(*way)) * max(np.hypot(*slope), 1.0)


def test_a_ribbon_has_feet_on_what_is_drawn_and_none_on_its_gap() -> None:
    line = [(0.0, 0.1), (0.0, 0.0), (0.2, 0.0), (0.2, 0.1)]
    gutter = open_loop([Segment(a, b) for a, b in pairwise(line)])
    feet = feet_from(gutter, (0.047, 0.053))
    found = sorted(map(tuple, np.round(feet, 12).tolist()))
    assert found == [(0.0, 0.053), (0.047, 0.0), (0.2, 0.053)], "none at the top"
    assert len(feet_from(gutter, (0.047, 0.053), [3])) == 0, "the gap, asked for by its number"
