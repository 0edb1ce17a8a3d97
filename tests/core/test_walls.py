"""Outlines moved along their normals, hollow parts, strips of a thickness: exact on lines and arcs."""

from math import pi, sqrt

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from morphax.core.errors import SectionError
from morphax.core.section.chains import Chain, Node
from morphax.core.section.outlines import Segment, loop_area
from morphax.core.section.pieces import arc, circle_about, rectangle, regular
from morphax.core.section.ready_made import READY_MADE, ready_made
from morphax.core.section.sections import Part
from morphax.core.section.walls import hollowed, moved_by, thickened
from tests.core.test_combining import area
from tests.core.test_loop_edits import CURVED, is_chain, outline

RING, BAR = (Part(circle_about((0.0, 0.0), 0.02)),), (Part(rectangle((0.0, 0.0), (0.04, 0.02))),)


@pytest.mark.parametrize("by", [0.005, -0.005, 0.0001, -0.0199])
def test_circles_stay_circles_and_rectangles_rectangles(by: float) -> None:
    assert area(moved_by(RING, by)) == pytest.approx(pi * (0.02 + by) ** 2, rel=1e-12)
    if by > -0.01:
        (part,) = moved_by(BAR, by)
        assert area((part,)) == pytest.approx((0.04 + 2 * by) * (0.02 + 2 * by), rel=1e-12)
        assert len(part.outer.segments) == 4


def test_a_hexagon_grows_with_sharp_corners_and_a_hole_shrinks_as_its_outline_grows() -> None:
    six = (Part(regular((0.0, 0.0), (0.02, 0.0), 6)),)
    side = 0.02 + 0.003 * 2.0 / sqrt(3.0)
    assert area(moved_by(six, 0.003)) == pytest.approx(1.5 * sqrt(3.0) * side**2)
    (pipe,) = moved_by(ready_made("pipe", {"width": 0.1, "wall": 0.02}).parts, 0.005)
    assert area((pipe,)) == pytest.approx(pi * (0.055**2 - 0.025**2)) and len(pipe.holes) == 1


def test_what_is_left_comes_apart_or_is_nothing() -> None:
    dumbbell = ready_made("i", {"width": 0.1, "height": 0.1, "web": 0.01, "flange": 0.03, "fillet": 0.0}).parts
    assert len(moved_by(dumbbell, -0.006)) == 2, "the web is gone, both flanges are left"
    with pytest.raises(SectionError, match="nothing would be left"):
        moved_by(BAR, -0.01)


def test_a_wall_leaves_a_hole_or_is_refused() -> None:
    (made,) = hollowed(BAR, 0.003)
    assert area((made,)) == pytest.approx(0.04 * 0.02 - 0.034 * 0.014) and len(made.holes) == 1
    (tube,) = hollowed(ready_made("pipe", {"width": 0.04, "wall": 0.015}).parts, 0.002)
    assert area((tube,)) == pytest.approx(pi * (0.02**2 - 0.018**2)), "its wall is the new one"
    with pytest.raises(SectionError, match="leaves no hole"):
        hollowed(BAR, 0.011)
    with pytest.raises(SectionError, match="thicker than 0"):
        hollowed(BAR, 0.0)


@pytest.mark.parametrize("name", READY_MADE)
@pytest.mark.parametrize("by", [0.002, -0.002])
def test_offsets_of_every_ready_made_section_keep_their_distance(name: str, by: float) -> None:
    """Every place of the new outline is as far from the old one as it should be, corners that stand out at most four
    times as far; its curves are not more than a few for each of the old ones."""
    parts = ready_made(name, {"width": 0.1}).parts
    try:
        made = moved_by(parts, by)
    except SectionError as error:
        assert by < 0.0 and "nothing would be left" in str(error)
        return
    old = shapely.MultiLineString([outline(loop)[::2] for p in parts for loop in (p.outer, *p.holes)])
    for loop in (loop for p in made for loop in (p.outer, *p.holes)):
        assert is_chain(loop)
        far = shapely.distance(shapely.points(outline(loop)[::40]), old)
        assert far.min() > abs(by) * 0.999 - 2e-6 and far.max() < abs(by) * 4.001
        smooth = np.concatenate([s.at(np.linspace(0.05, 0.95, 9)) for s in loop.segments])
        assert np.median(shapely.distance(shapely.points(smooth), old)) == pytest.approx(abs(by), abs=2e-6)
    most = 17 * sum(max(len(loop.segments), 4) for p in parts for loop in (p.outer, *p.holes))
    assert sum(len(loop.segments) for p in made for loop in (p.outer, *p.holes)) <= most


@given(by=st.floats(-0.004, 0.01))
def test_a_curved_outline_keeps_its_distance(by: float) -> None:
    if abs(by) < 1e-5:
        return
    old = shapely.LinearRing(outline(CURVED)[::4])
    for part in moved_by((Part(CURVED),), by):
        far = shapely.distance(shapely.points(outline(part.outer)[::100]), old)
        assert far.min() > abs(by) - 4e-6 and is_chain(part.outer)


def test_a_strip_of_lines_and_an_arc_has_its_thickness_and_flat_ends() -> None:
    line = [Segment((0.0, 0.0), (0.03, 0.0)), arc((0.03, 0.0), (0.05, 0.02), sqrt(2.0) - 1.0)]
    made = thickened(line, 0.001, 0.002)
    long = 0.03 + 0.5 * pi * 0.02
    assert is_chain(made.outer) and loop_area(made.outer) > 0.0
    extra = 0.5 * (0.002**2 - 0.001**2) * 0.5 * pi
    assert loop_area(made.outer) == pytest.approx(long * 0.003 + extra, rel=1e-9), "the outer side is longer"
    assert len(made.outer.segments) == 6


def test_a_gutter_with_a_lip_is_a_line_with_a_thickness() -> None:
    chain = Chain([Node((0.0, 0.1)), Node((0.0, 0.0)), Node((0.12, 0.0)), Node((0.12, 0.08)), Node((0.1, 0.08))])
    made = thickened(chain.segments(), 0.0, 0.002)
    lengths = (0.1, 0.12, 0.08, 0.02)
    assert loop_area(made.outer) == pytest.approx(0.002 * (sum(lengths) + 3 * 0.002), rel=1e-9)
    assert len(made.outer.segments) == 10
    with pytest.raises(SectionError, match="too thick"):
        thickened(chain.segments(), 0.03, 0.0)
    with pytest.raises(SectionError, match="thicker than 0"):
        thickened(chain.segments(), 0.0, 0.0)
