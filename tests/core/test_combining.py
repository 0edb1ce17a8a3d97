"""Parts united, cut out and intersected: exact areas, curves that stay what they are, random outlines by shapely."""

from math import acos, pi, sqrt

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from morphax.core.errors import SectionError
from morphax.core.section.combining import How, combined, united
from morphax.core.section.loop_edits import kind_of
from morphax.core.section.outlines import Loop, Segment, loop_area
from morphax.core.section.pieces import circle_about, rectangle, regular, transformed
from morphax.core.section.ready_made import READY_MADE, ready_made
from morphax.core.section.sections import Part
from tests.core.test_loop_edits import CURVED, is_chain, outline, turn_at

R, D = 0.01, 0.012
A, B = Part(circle_about((0.0, 0.0), R)), Part(circle_about((D, 0.0), R))
LENS = 2.0 * R * R * acos(D / (2.0 * R)) - 0.5 * D * sqrt(4.0 * R * R - D * D)


def area(parts: tuple[Part, ...]) -> float:
    return sum(loop_area(loop) for p in parts for loop in (p.outer, *p.holes))


def region(parts: tuple[Part, ...]) -> shapely.Geometry:
    """By fine polylines: nothing of what is tested."""
    made = [shapely.Polygon(outline(p.outer)[::8], [outline(h)[::8] for h in p.holes]) for p in parts]
    return shapely.union_all([m.buffer(0.0) for m in made])


@pytest.mark.parametrize(
    ("how", "wanted"), [("unite", 2.0 * pi * R * R - LENS), ("subtract", pi * R * R - LENS), ("intersect", LENS)]
)
def test_two_circles_make_exact_arcs(how: How, wanted: float) -> None:
    (part,) = combined([A], [B], how)
    assert loop_area(part.outer) == pytest.approx(wanted, rel=1e-12) and part.holes == () and is_chain(part.outer)
    assert all(s.is_arc and s.radii[0] == pytest.approx(R, rel=1e-12) for s in part.outer.segments)
    corners = [s.start for s in part.outer.segments if s.corner]
    height = sqrt(R * R - 0.25 * D * D)
    by_height = sorted(corners, key=lambda c: c[1])
    assert np.array(by_height) == pytest.approx(np.array([(0.5 * D, -height), (0.5 * D, height)]), abs=1e-15)


def test_a_shaft_of_sixteen_flutes_is_cut_by_a_polar_repeat() -> None:
    shaft, flute = Part(circle_about((0.0, 0.0), 0.15)), circle_about((0.15, 0.0), 0.018)
    turns = [2.0 * pi * k / 16 for k in range(16)]
    cutters = [Part(transformed(flute, np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]]))) for a in turns]
    (made,) = combined([shaft], cutters, "subtract")
    d = 0.15
    half, own = acos(1.0 - 0.018**2 / (2.0 * d * d)), acos(0.018 / (2.0 * d))
    lens = d * d * (half - 0.5 * np.sin(2.0 * half)) + 0.018**2 * (own - 0.5 * np.sin(2.0 * own))
    assert loop_area(made.outer) == pytest.approx(pi * d * d - 16.0 * lens, rel=1e-9)
    assert sum(s.corner for s in made.outer.segments) == 32, "each flute has two edges"
    radii = {round(s.radii[0], 9) for s in made.outer.segments}
    assert radii == {0.15, 0.018}


def test_what_lies_inside_is_a_hole_or_lost_and_what_is_apart_stays_apart() -> None:
    small, far = Part(circle_about((0.002, 0.0), 0.003)), Part(rectangle((0.1, 0.0), (0.12, 0.01)))
    assert area(combined([A], [small], "subtract")) == pytest.approx(pi * (R * R - 0.003**2))
    assert len(combined([A], [small], "subtract")[0].holes) == 1
    assert area(united([A, small])) == pytest.approx(pi * R * R)
    assert len(united([A, far])) == 2
    with pytest.raises(SectionError, match="nothing would be left"):
        combined([A], [far], "intersect")


def test_lines_that_lie_on_each_other_vanish() -> None:
    left, right = Part(rectangle((0.0, 0.0), (0.02, 0.01))), Part(rectangle((0.02, 0.0), (0.05, 0.01)))
    (made,) = united([left, right])
    assert len(made.outer.segments) == 4 and loop_area(made.outer) == pytest.approx(0.05 * 0.01)
    arch = Part(Loop((Segment((0.0, 0.01), (0.02, 0.01)), *circle_about((0.01, 0.01), 0.01).segments[1:3])))
    (gate,) = united([left, arch])
    assert loop_area(gate.outer) == pytest.approx(0.02 * 0.01 + 0.5 * pi * 0.01**2, rel=1e-9)
    assert sorted(kind_of(s) for s in gate.outer.segments) == ["arc", "line", "line", "line"]


def test_an_outline_that_crosses_itself_is_split_where_it_does() -> None:
    corners = ((0.0, 0.0), (0.02, 0.02), (0.02, 0.0), (0.0, 0.02))
    eight = Loop(tuple(Segment(corners[k], corners[(k + 1) % 4]) for k in range(4)))
    made = united([Part(eight)])
    assert len(made) == 2 and area(made) == pytest.approx(2.0 * 0.01 * 0.02 / 2.0)
    assert all(len(p.outer.segments) == 3 for p in made)


@pytest.mark.parametrize("name", READY_MADE)
def test_every_ready_made_section_with_itself_is_itself(name: str) -> None:
    parts = ready_made(name, {"width": 0.1}).parts
    for how in ("unite", "intersect"):
        made = combined(parts, parts, how)
        assert area(made) == pytest.approx(area(parts), rel=5e-5)
        assert all(is_chain(loop) for p in made for loop in (p.outer, *p.holes))


SHAPES = [
    rectangle((-0.02, -0.01), (0.02, 0.01)),
    circle_about((0.0, 0.0), 0.015),
    CURVED,
    regular((0.0, 0.0), (0.02, 0.0), 5),
]


@given(
    i=st.integers(0, 3),
    j=st.integers(0, 3),
    angle=st.floats(-3.0, 3.0),
    x=st.floats(-0.02, 0.02),
    y=st.floats(-0.02, 0.02),
    how=st.sampled_from(["unite", "subtract", "intersect"]),
)
def test_random_outlines_are_what_polygons_say(i: int, j: int, angle: float, x: float, y: float, how: How) -> None:
    c, s = np.cos(angle), np.sin(angle)
    first, second = (Part(SHAPES[i]),), (Part(transformed(SHAPES[j], np.array([[c, -s], [s, c]]), (x, y))),)
    a, b = region(first), region(second)
    wanted = {"unite": a | b, "subtract": a - b, "intersect": a & b}[how]
    if wanted.area < 1e-9:
        return
    made = combined(first, second, how)
    assert area(made) == pytest.approx(wanted.area, abs=1e-8)
    loops = [loop for p in made for loop in (p.outer, *p.holes)]
    assert all(is_chain(loop) for loop in loops)
    assert all(s.corner or turn_at(loop, k) < 1e-3 for loop in loops for k, s in enumerate(loop.segments))
    assert region(made).symmetric_difference(wanted).area < 2e-8
