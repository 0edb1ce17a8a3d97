"""Sections of a loft matched to each other: which place becomes which, and what that must keep."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.core.errors import SectionError
from morphax.core.loft.loop_ruler import LoopRuler
from morphax.core.loft.matching import matched_sections
from morphax.core.loft.pairing import paired
from morphax.core.section.nesting import nested
from morphax.core.section.outlines import Segment, open_loop
from morphax.core.section.pieces import reversed_loop, transformed
from morphax.core.section.ready_made import READY_MADE, ready_made
from morphax.core.section.sampling import sample_section
from morphax.core.section.sections import Part, SectionShape
from morphax.core.types import Floats

CLOSED = [n for n in READY_MADE if len(ready_made(n, {}).parts) == 1 and not ready_made(n, {}).parts[0].holes]


def shape(name: str, **values: float) -> SectionShape:
    return ready_made(name, values)


def ruler(name: str, **values: float) -> LoopRuler:
    return LoopRuler(shape(name, **values).parts[0].outer)


def turned(s: SectionShape, angle: float, size: float = 1.0, *, mirror: bool = False) -> SectionShape:
    c, n = size * np.cos(angle), size * np.sin(angle)
    matrix = np.array([[c, -n], [n, c]]) @ np.diag([-1.0 if mirror else 1.0, 1.0])
    return SectionShape(tuple(Part(transformed(p.outer, matrix)) for p in s.parts), is_free=True)


@pytest.mark.parametrize("name", CLOSED)
def test_a_ruler_finds_the_way_back_from_its_places(name: str) -> None:
    r = ruler(name)
    share = np.linspace(0.0, 1.0, 101)[:-1]
    p = r.at(share)
    gaps = np.hypot(*(np.roll(p, -1, axis=0) - p).T)
    assert gaps.max() <= r.length / 100 * (1.0 + 1e-9), "no two places are farther apart than their way is long"
    assert r.at(np.array([0.0]))[0][0] == pytest.approx(0.5 * (p[:, 0].min() + p[:, 0].max()), abs=0.02 * r.length)
    fine = r.at(np.linspace(0.0, 1.0, 20001))
    assert np.hypot(*np.diff(fine, axis=0).T).sum() == pytest.approx(r.length, rel=1e-3)


def test_corners_of_a_square_come_to_lie_on_the_diagonals_of_a_circle() -> None:
    made = matched_sections([shape("rectangle", width=0.1, height=0.1), shape("round", width=0.1)], sides=32)
    square, circle = made.blocks
    at = circle.points[square.corner]
    assert len(at) == 4
    angles = np.degrees(np.arctan2(at[:, 1], at[:, 0])) % 360.0
    assert sorted(angles) == pytest.approx([45.0, 135.0, 225.0, 315.0], abs=1e-7)
    assert np.hypot(*circle.points.T) == pytest.approx(0.05)
    assert not circle.corner.any()


@pytest.mark.parametrize("points", [3, 4, 5, 6, 9])
def test_a_polygon_is_matched_to_itself_point_by_point(points: int) -> None:
    made = matched_sections([shape("polygon", points=points, width=w) for w in (0.1, 0.3)], sides=4 * points)
    a, b = made.blocks
    assert b.points == pytest.approx(3.0 * a.points, abs=1e-12) and (a.corner == b.corner).all()


def test_a_star_keeps_its_symmetry_on_the_way_to_a_circle() -> None:
    made = matched_sections([shape("star", points=7, width=0.1), shape("round", width=0.1)], sides=56)
    a, b = made.blocks
    half = 0.5 * (a.points + b.points)
    c, n = np.cos(2 * np.pi / 7), np.sin(2 * np.pi / 7)
    spun = half @ np.array([[c, n], [-n, c]])
    off = np.abs(np.roll(half, -8, axis=0) - spun).max()
    assert off < 1e-7


@pytest.mark.parametrize("first", CLOSED)
@pytest.mark.parametrize("second", ["round", "rectangle", "star"])
def test_blocks_lie_on_their_own_outlines_with_all_corners(first: str, second: str) -> None:
    shapes = [shape(first), shape(second)]
    made = matched_sections(shapes, deviation=1e-4 * max(s.bounds[2] - s.bounds[0] for s in shapes))
    for s, block in zip(shapes, made.blocks, strict=True):
        own = LoopRuler(s.parts[0].outer)
        corners = own.at(own.corners[0])
        near = np.abs(block.points[:, None] - corners[None]).max(-1)
        if len(corners):
            assert near.min(0).max() < 1e-9, "every corner is a point"
        fine = own.at(np.linspace(0.0, 1.0, 6001))
        far = np.linalg.norm(block.points[:, None] - fine[None], axis=-1).min(1)
        assert far.max() <= own.length / 6000
        area = 0.5 * abs(_cross(block.points))
        assert area == pytest.approx(own.middle[1], rel=5e-3), "and they go round once, in order"
        assert np.diff(block.u).min() > 0.0


def _cross(p: Floats) -> float:
    q = np.roll(p, -1, axis=0)
    return float((p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0]).sum())


@given(st.sampled_from(CLOSED), st.sampled_from(CLOSED), st.floats(-3.0, 3.0), st.floats(0.2, 5.0), st.booleans())
def test_turning_mirroring_and_scaling_both_commutes(a: str, b: str, angle: float, size: float, mirror: bool) -> None:
    """The surface between them is the same one, turned: judged by places halfway for places of the first."""
    one, two = (LoopRuler(shape(n).parts[0].outer) for n in (a, b))
    first, second = (LoopRuler(turned(shape(n), angle, size, mirror=mirror).parts[0].outer) for n in (a, b))
    plain, moved = paired(one, two), paired(first, second)
    share = np.linspace(0.0, 1.0, 24, endpoint=False)
    c, n = size * np.cos(angle), size * np.sin(angle)
    matrix = np.array([[c, -n], [n, c]]) @ np.diag([-1.0 if mirror else 1.0, 1.0])
    start = one.at(share) @ matrix.T
    fine = np.linspace(0.0, 1.0, 4001)[:-1]
    own = fine[np.linalg.norm(first.at(fine)[:, None] - start[None], axis=-1).argmin(0)]
    here = two.at(plain.onward(share)) @ matrix.T
    there = second.at(moved.onward(own))
    off = np.linalg.norm(here - there, axis=-1) / second.length
    assert np.median(off) < 2e-3 or _is_tie(one, two), (a, b)


def _is_tie(one: LoopRuler, two: LoopRuler) -> bool:
    """Whether several turns are as good: then the smallest one is taken as the sections are drawn."""
    k = np.arange(256) / 256
    p, q = ((r.at(k) - r.middle[0]) / np.sqrt(r.middle[1]) for r in (one, two))
    cost = np.array([((p - np.roll(q, -i, axis=0)) ** 2).sum() for i in range(256)])
    low = np.flatnonzero(cost < cost.min() + 0.02 * (p**2).sum())
    return len(low) > 3


@pytest.mark.parametrize("name", ["star", "crown", "leaf", "gear", "channel"])
def test_the_direction_in_which_a_section_was_drawn_changes_nothing(name: str) -> None:
    s = shape(name)
    back = SectionShape(nested([reversed_loop(p.outer) for p in s.parts]), is_free=True)
    one, two = (matched_sections([shape("round"), v], sides=64) for v in (s, back))
    assert one.blocks[1].points == pytest.approx(two.blocks[1].points, abs=1e-9)


@pytest.mark.parametrize(
    "pair", [("rectangle", "round"), ("polygon", "rectangle"), ("ellipse", "round"), ("polygon", "round")]
)
def test_no_side_crosses_another_on_the_way_between_convex_outlines(pair: tuple[str, str]) -> None:
    made = matched_sections([shape(n, width=0.1) for n in pair], sides=36)
    a, b = (block.points for block in made.blocks)
    for w in np.linspace(0.0, 1.0, 9):
        q = (1.0 - w) * a + w * b
        step = np.roll(q, -1, axis=0) - q
        turn = step[:, 0] * np.roll(step, -1, axis=0)[:, 1] - step[:, 1] * np.roll(step, -1, axis=0)[:, 0]
        assert turn.min() > -1e-9, "it stays convex"


def test_an_outline_that_is_equal_in_two_is_unchanged_between_them() -> None:
    made = matched_sections([shape("star"), shape("star"), shape("round", width=0.05)], deviation=1e-4)
    assert np.array_equal(made.blocks[0].points, made.blocks[1].points)


def test_marks_win() -> None:
    square, circle = shape("rectangle", width=0.1, height=0.1), shape("round", width=0.1)
    marks = ((0.125, 0.25), (0.625, 0.75))
    made = matched_sections([square, circle], sides=32, marks=[marks])
    a, b = made.blocks
    k = int(np.linalg.norm(a.points - (0.05, -0.05), axis=1).argmin())
    assert a.points[k] == pytest.approx((0.05, -0.05)) and b.points[k] == pytest.approx((0.05, 0.0), abs=1e-9)
    assert made.pairings[0].fixed.sum() == 2


def test_sides_are_what_was_asked_for_or_the_features() -> None:
    made = matched_sections([shape("round"), shape("rectangle")], sides=24)
    assert [len(b.points) for b in made.blocks] == [24, 24] and not made.kept_corners
    made = matched_sections([shape("round"), shape("star", points=9)], sides=6)
    assert len(made.blocks[0].points) == 18 and made.kept_corners


def test_parts_and_holes_find_their_partners() -> None:
    twin = shape("twin")
    swapped = SectionShape(twin.parts[::-1], is_free=True)
    made = matched_sections([twin, swapped], sides=16)
    a, b = made.blocks
    assert np.abs(a.points - b.points).max() < 1e-12, "near ones, not those of the same number"
    pipe = matched_sections([shape("pipe", width=0.1, wall=0.01), shape("pipe", width=0.1, wall=0.03)], sides=24)
    for block, inner in zip(pipe.blocks, (0.04, 0.02), strict=True):
        hole = block.points[block.loop_slices[1]]
        assert np.hypot(*hole.T) == pytest.approx(inner)
        assert _cross(hole) < 0.0, "clockwise"
        out = block.after[block.loop_slices[1]]
        assert (out * hole).sum(1).max() < 0.0, "the normals of a hole look into it"


def test_ribbons_are_matched_from_end_to_end() -> None:
    def ribbon(*points: tuple[float, float]) -> SectionShape:
        sides = tuple(Segment(a, b) for a, b in zip(points[:-1], points[1:], strict=True))
        return SectionShape((Part(open_loop(sides)),), is_free=True)

    flat, bent = ribbon((-0.05, 0.0), (0.05, 0.0)), ribbon((-0.05, 0.0), (0.0, 0.04), (0.05, 0.0))
    a, b = matched_sections([flat, bent], sides=8).blocks
    alone = sample_section(bent, sides=8)
    assert b.is_open == (True,) and b.corner.sum() == 1
    assert b.points[[0, -1]] == pytest.approx(alone.points[[0, -1]]), "walked as a lone one is"
    assert a.points[b.corner][0] == pytest.approx((0.0, 0.0), abs=1e-12)
    assert np.array_equal(np.sign(b.after[1]), np.sign(alone.after[1]))
    with pytest.raises(SectionError, match="open line"):
        matched_sections([flat, shape("round")], sides=8)
