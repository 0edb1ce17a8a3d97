"""Sections: ready-made outlines, sampling, placing, symmetry."""

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from morphax.core.errors import DensityError, SectionError
from morphax.core.frame.frames import Orientation
from morphax.core.section.outlines import Loop, Segment, ellipse, loop_area, loop_bounds
from morphax.core.section.ready_made import READY_MADE, ready_made
from morphax.core.section.sampling import (
    placed_section,
    sample_section,
    section_width,
    weighed_normals,
    with_seam,
)
from morphax.core.section.sections import SPOTS, Side, anchor_place, section_area, section_bounds
from morphax.core.section.segment_table import SegmentTable
from morphax.core.section.symmetry import rotational_symmetry, turned_points

NAMES = sorted(READY_MADE)


@pytest.mark.parametrize("name", NAMES)
def test_ready_made_has_the_asked_size_and_counter_clockwise_parts(name: str) -> None:
    keys = READY_MADE[name].keys
    values = {"width": 0.08} | ({"height": 0.08 * keys["height"].share * 1.25} if "height" in keys else {})
    section = ready_made(name, values)
    x0, y0, x1, y1 = section_bounds(section)
    if READY_MADE[name].by_tips:
        tips = np.array([p for loop in section.loops for s in loop.segments for p in s.at(np.linspace(0.0, 1.0, 2001))])
        assert 2.0 * np.hypot(*tips.T).max() == pytest.approx(0.08, rel=1e-6) and section_width(section) == 0.08
    else:
        assert x1 - x0 == pytest.approx(0.08, abs=1e-15)
        high = {"leaf": None, "twin": 0.0384, "half-round-gutter": 0.04, "strip": 0.0016}.get(
            name, values.get("height", 0.08)
        )
        assert high is None or y1 - y0 == pytest.approx(high, abs=1e-15)
    for part in section.parts:
        assert loop_area(part.outer) > 0 and all(loop_area(h) < 0 for h in part.holes)


@pytest.mark.parametrize("n", [3, 4, 5, 8, 28])
def test_a_circle_of_n_sides_is_regular_with_a_flat_at_the_bottom(n: int) -> None:
    s = sample_section(ready_made("round", {"width": 2.0}), sides=n)
    side = np.linalg.norm(np.roll(s.points, -1, 0) - s.points, axis=1)
    np.testing.assert_allclose(side, 2 * np.sin(np.pi / n), rtol=1e-13)
    low = np.sort(s.points[:, 1])[:2]
    assert low[0] == pytest.approx(low[1], abs=1e-14) and low[0] == pytest.approx(-np.cos(np.pi / n))
    assert s.points[0, 0] > 0 and s.points[0, 1] == pytest.approx(low[0])
    mirror = np.roll(s.points[::-1], 0, 0) * [-1, 1]
    np.testing.assert_allclose(mirror, s.points, atol=1e-14)


def test_an_uneven_circle_is_caught() -> None:
    s = sample_section(ready_made("round", {"width": 2.0}), sides=8)
    bent = s.points.copy()
    bent[3] *= 1.01
    side = np.linalg.norm(np.roll(bent, -1, 0) - bent, axis=1)
    assert np.ptp(side) > 1e-3


@pytest.mark.parametrize("name", NAMES)
@pytest.mark.parametrize("deviation", [1e-3, 1e-4])
def test_sampling_stays_within_its_deviation(name: str, deviation: float) -> None:
    section = ready_made(name, {"width": 0.1})
    s, fine = sample_section(section, deviation=deviation), sample_section(section, deviation=1e-7)
    for a, b in zip(s.loop_slices, fine.loop_slices, strict=True):
        p, q = s.points[a], np.roll(s.points[a], -1, 0)
        x = fine.points[b][:, None]
        d = q - p
        t = np.clip(((x - p) * d).sum(-1) / (d * d).sum(-1), 0, 1)
        gap = np.linalg.norm(x - p - t[..., None] * d, axis=-1).min(1)
        assert gap.max() <= deviation * 1.0001 + 1e-7


@pytest.mark.parametrize("name", NAMES)
def test_corners_are_always_points_and_the_seam_starts_after_mid_bottom(name: str) -> None:
    section = ready_made(name, {"width": 0.1})
    coarse = sample_section(section, sides=3)
    fine = sample_section(section, deviation=1e-5)
    corners = fine.points[fine.corner]
    gaps = np.abs(corners[:, None] - coarse.points[None]).max(-1).min(1) if len(corners) else np.zeros(1)
    assert gaps.max() < 1e-12
    assert coarse.kept_corners is (len(section.parts[0].outer.segments) > 3)
    np.testing.assert_allclose(fine.points[0], sample_section(section, deviation=1e-3).points[0], atol=1e-2)
    assert fine.corner[0] or not fine.corner.any()


def test_rectangle_starts_at_its_bottom_right_corner_and_spreads_extra_sides() -> None:
    s = sample_section(ready_made("rectangle", {"width": 2.0, "height": 1.0}), sides=8)
    np.testing.assert_allclose(s.points[0], [1.0, -0.5])
    assert len(s.points) == 8 and s.corner.sum() == 4


def test_anchors_and_centroid() -> None:
    crown = ready_made("crown", {"width": 0.2, "height": 0.1})
    assert anchor_place(crown, "top-left") == pytest.approx((0.0, 0.1))
    assert anchor_place(crown, "drawn") == (0.0, 0.0)
    assert anchor_place(crown, (0.01, 0.02)) == (0.01, 0.02)
    fine = sample_section(crown, deviation=1e-9).points
    x, y = fine.T
    x1, y1 = np.roll(fine, -1, 0).T
    cross = x * y1 - x1 * y
    area = cross.sum() / 2
    assert section_area(crown) == pytest.approx(area, rel=1e-6)
    exact = ((x + x1) * cross).sum() / (6 * area), ((y + y1) * cross).sum() / (6 * area)
    assert anchor_place(crown, "centroid") == pytest.approx(exact, rel=1e-6)
    pipe = ready_made("pipe", {"width": 0.1, "wall": 0.01})
    assert anchor_place(pipe, "centroid") == pytest.approx((0, 0), abs=1e-15)
    for spot, share in SPOTS.items():
        place = anchor_place(ready_made("rectangle", {"width": 2.0, "height": 1.0}), spot)
        assert place == pytest.approx((2 * share[0] - 1, share[1] - 0.5))
    with pytest.raises(SectionError, match="there is no anchor 'middle'.*top-left"):
        anchor_place(pipe, "middle")


def test_trade_sections_bring_their_laying() -> None:
    assert READY_MADE["crown"].laying.orientation is Orientation.UPRIGHT
    assert READY_MADE["crown"].laying.anchor == "top-left"
    assert READY_MADE["ogee"].laying.side is Side.IN and READY_MADE["ogee"].laying.anchor == "bottom-left"
    assert READY_MADE["pipe"].laying.anchor == "centre"


@pytest.mark.parametrize("name", NAMES)
def test_mirroring_keeps_orientation_normals_and_seam_lengths(name: str) -> None:
    s = sample_section(ready_made(name, {"width": 0.1}), deviation=1e-4)
    m = placed_section(s, mirror=True)
    for sl in s.loop_slices:
        np.testing.assert_array_equal(m.points[sl][0], s.points[sl][0] * [-1, 1])
        x, y = m.points[sl].T
        area = (x * np.roll(y, -1) - np.roll(x, -1) * y).sum()
        assert np.sign(area) == (-1 if s.hole[s.loop_slices.index(sl)] else 1)
        assert (np.diff(m.u[sl]) > 0).all() and m.u[sl][0] == 0
        edge = np.roll(m.points[sl], -1, 0) - m.points[sl]
        outward = np.stack([edge[:, 1], -edge[:, 0]], 1)
        assert ((outward * (m.after[sl] + np.roll(m.before[sl], -1, 0))).sum(1) > 0).all()


def test_size_scales_about_the_anchor() -> None:
    s = sample_section(ready_made("crown", {"width": 0.1}), sides=30)
    p = placed_section(s, anchor=(0.0, 0.1), size=2.0)
    np.testing.assert_allclose(p.points, (s.points - [0.0, 0.1]) * 2.0)


def test_rotational_symmetry() -> None:
    def of(name: str, anchor: tuple[float, float] = (0.0, 0.0), **values: float) -> int:
        s = sample_section(ready_made(name, {"width": 0.1, **values}), sides=24)
        return rotational_symmetry(placed_section(s, anchor=anchor))

    assert of("round") == 24 and of("pipe") == 24
    assert of("rectangle") == 4 and of("rectangle", height=0.05) == 2
    assert of("round", (0.05, 0.0)) == 1 and of("crown") == 1


@pytest.mark.parametrize(
    "name,values,words",
    [
        ("tube", {}, "there is no section 'tube'; there are: round, pipe"),
        ("pipe", {"radius": 1.0}, "pipe has no value 'radius'; it has: width, wall"),
        ("pipe", {"width": 0.1, "wall": 0.06}, "less than half the width"),
        ("round", {"width": -1.0}, "must be more than 0"),
        ("round", {"width": float("nan")}, "must be more than 0"),
    ],
)
def test_bad_values_say_what_is_valid(name: str, values: dict[str, float], words: str) -> None:
    with pytest.raises(SectionError, match=words):
        ready_made(name, values)


@pytest.mark.parametrize("bad", [{"sides": 2}, {"deviation": 0.0}, {}, {"sides": 8, "deviation": 0.1}])
def test_bad_density_is_refused(bad: dict) -> None:
    with pytest.raises(DensityError):
        sample_section(ready_made("round", {}), **bad)


def test_polygons_and_stars_lie_on_their_circles() -> None:
    hexagon = sample_section(ready_made("polygon", {"width": 2.0}), sides=6)
    np.testing.assert_allclose(np.hypot(*hexagon.points.T), 1.0)
    assert hexagon.corner.all() and rotational_symmetry(hexagon) == 6
    assert hexagon.points[0, 1] == hexagon.points[:, 1].min(), "a flat lies at the bottom"
    star = sample_section(ready_made("star", {"width": 2.0, "depth": 0.6, "points": 7}), sides=14)
    r = np.sort(np.hypot(*star.points.T))
    np.testing.assert_allclose(r, [0.4] * 7 + [1.0] * 7)
    assert star.points[:, 1].max() == pytest.approx(1.0) and rotational_symmetry(star) == 7


def test_rounded_corners_are_tangent_and_keep_the_area_formula() -> None:
    w, h, r = 0.08, 0.05, 0.012
    section = ready_made("rounded-rectangle", {"width": w, "height": h, "radius": r})
    assert section_area(section) == pytest.approx(w * h - (4 - np.pi) * r * r, rel=1e-12)
    fine = sample_section(section, deviation=1e-6)
    assert not fine.corner.any(), "rounded corners are smooth"
    turn = np.einsum("ij,ij->i", fine.after, np.roll(fine.after, -1, 0))
    assert turn.min() > 0.99
    sharp = ready_made("rounded-rectangle", {"width": w, "height": h, "radius": 0.0})
    assert sample_section(sharp, sides=4).corner.all()
    star = ready_made("star", {"width": 0.1, "depth": 0.5, "rounding": 0.003, "valleys": 4.0 / 3.0})
    assert not sample_section(star, deviation=1e-5).corner.any()
    assert section_area(star) < section_area(ready_made("star", {"width": 0.1, "depth": 0.5})) * 1.02


def test_half_round_and_ellipse_areas() -> None:
    assert section_area(ready_made("half-round", {"width": 0.1})) == pytest.approx(np.pi * 0.05**2 / 2)
    assert section_area(ready_made("ellipse", {"width": 0.1, "height": 0.04})) == pytest.approx(np.pi * 0.05 * 0.02)
    assert READY_MADE["half-round"].laying.anchor == "bottom"


@pytest.mark.parametrize(
    "name,values,words",
    [
        ("polygon", {"points": 2.0}, "whole number from 3 to 200"),
        ("polygon", {"points": 4.5}, "whole number"),
        ("star", {"width": 0.1, "depth": 1.2}, "from 0 to 0.999"),
        ("star", {"width": 0.1, "rounding": 0.05}, "do not fit on their edge"),
        ("rounded-rectangle", {"width": 0.1, "radius": 0.06}, "at most half the shorter side"),
        ("rounded-rectangle", {"width": 0.1, "radius": -0.01}, "0 or more"),
        ("ellipse", {"height": 0.0}, "more than 0"),
    ],
)
def test_more_bad_values_say_what_holds(name: str, values: dict[str, float], words: str) -> None:
    with pytest.raises(SectionError, match=words):
        ready_made(name, values)


def test_the_seam_moves_to_a_share_of_the_way_round() -> None:
    plain = sample_section(ready_made("rectangle", {"width": 0.04, "height": 0.02}), sides=16)
    moved = with_seam(plain, 0.5)
    assert sorted(map(tuple, moved.points)) == sorted(map(tuple, plain.points))
    start = int(np.flatnonzero((plain.points == moved.points[0]).all(1))[0])
    assert plain.u[start] == pytest.approx(0.06, abs=0.004) and moved.u[0] == 0.0
    assert (np.diff(moved.u) > 0.0).all() and moved.round_length == plain.round_length
    np.testing.assert_array_equal(with_seam(plain, 0.0).points, plain.points)


@pytest.mark.parametrize("k", [3, 6])
def test_points_turned_by_several_steps_are_turned_step_by_step(k: int) -> None:
    section = sample_section(ready_made("round", {"width": 0.03}), sides=24)
    once = turned_points(section, k)
    assert once is not None and np.array_equal(np.sort(once), np.arange(len(once)))
    many = once
    for steps in range(2, k):
        many = once[many]
        assert np.array_equal(turned_points(section, k, steps), many)


number = st.floats(-5.0, 5.0).map(lambda v: round(v, 3))
place = st.tuples(number, number)


@st.composite
def loops(draw) -> Loop:
    """Chains of lines, cubics (some without a handle) and arcs; they need not close, and may be one whole ellipse."""
    if draw(st.booleans()):
        return ellipse(draw(st.floats(0.1, 3.0)), draw(st.floats(0.1, 3.0)), hole=draw(st.booleans()))
    out = []
    for _ in range(draw(st.integers(1, 5))):
        a, b, c, d = (draw(place) for _ in range(4))
        assume(max(abs(a[0] - d[0]), abs(a[1] - d[1])) > 0.1)
        kind = draw(st.integers(0, 3))
        inner = {1: (b, c), 2: (a, c)}.get(kind)
        arc = {"centre": b, "radii": (0.5, 2.0), "a0": a[0], "a1": a[0] + 1.0 + abs(c[0])} if kind == 3 else {}
        out.append(Segment(a, d, draw(st.booleans()), inner=inner, **arc))
    return Loop(tuple(out))


@given(found=st.lists(loops(), min_size=1, max_size=4), t=st.floats(0.0, 1.0), deviation=st.floats(1e-4, 1.0))
def test_many_segments_at_once_are_what_each_of_them_is(found: list[Loop], t: float, deviation: float) -> None:
    table, segments = SegmentTable(found), [s for loop in found for s in loop.segments]
    k, at = np.arange(len(segments)), np.full(len(segments), t)
    one = np.array([t])
    np.testing.assert_allclose(table.at(k, at), [s.at(one)[0] for s in segments], atol=1e-12)
    np.testing.assert_allclose(table.slope(k, at), [s.slope(one)[0] for s in segments], rtol=1e-9, atol=1e-9)
    for segment, pieces in zip(segments, table.pieces_within(deviation).astype(float), strict=True):
        within, beyond = segment.deviation(np.array([pieces, max(pieces - 1.0, 1.0)]))
        wish = deviation if segment.centre is None else min(deviation, max(segment.radii))  # never more than half round
        assert within <= wish * (1.0 + 1e-8) and (pieces == 1.0 or beyond > wish * (1.0 - 1e-8))
    assert table.is_round.tolist() == [loop.is_round for loop in found]
    previous = [s for loop in found for s in (loop.segments[-1:] + loop.segments[:-1])]
    assert all(segments[i] is s for i, s in zip(table.previous, previous, strict=True))


@given(found=st.lists(loops(), min_size=1, max_size=4))
def test_bounds_hold_all_of_an_outline_and_no_more(found: list[Loop]) -> None:
    t = np.linspace(0.0, 1.0, 4001)
    points = np.concatenate([s.at(t) for loop in found for s in loop.segments])
    bounds = np.array(loop_bounds(*found))
    assert (bounds[:2] <= points.min(0) + 1e-12).all() and (bounds[2:] >= points.max(0) - 1e-12).all()
    np.testing.assert_allclose(bounds, [*points.min(0), *points.max(0)], atol=2e-5)


def test_normals_are_weighed_by_the_sides_beside_their_points() -> None:
    """A rectangle of 40 by 20: before each corner the side that comes to it, after it the one that leaves."""
    sampled = sample_section(ready_made("rectangle", {"width": 0.04, "height": 0.02}), sides=4)
    before, after = weighed_normals(sampled)
    steps = np.hypot(*(np.roll(sampled.points, -1, axis=0) - sampled.points).T)
    assert np.hypot(*after.T) == pytest.approx(steps) and np.hypot(*before.T) == pytest.approx(np.roll(steps, 1))


@pytest.mark.parametrize("name", list(READY_MADE))
def test_the_coarsest_outline_still_holds_something(name: str) -> None:
    """However large the deviation: a leaf of two arcs is a triangle, not a line."""
    section = ready_made(name, {"width": 0.1})
    sampled = sample_section(section, deviation=1e3)
    for own in sampled.loop_slices:
        x, y = sampled.points[own].T
        assert len(x) >= 3 and abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) > 1e-6
    assert section_area(section) * 0.05 < sum(
        (-1.0 if hole else 1.0) * abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) / 2.0
        for hole, (x, y) in ((h, sampled.points[sl].T) for sl, h in zip(sampled.loop_slices, sampled.hole, strict=True))
    )
