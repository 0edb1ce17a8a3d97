"""Edits of outlines by their points: exact places, shapes that stay, and what random edits must keep."""

from math import hypot, pi, sqrt

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.core.errors import SectionError
from morphax.core.section.chains import Chain, Node, shape_by
from morphax.core.section.loop_edits import (
    handles_of,
    inserted,
    kind_of,
    made_corner,
    made_smooth,
    removed,
    tidied,
    with_handle,
    with_kind,
    with_places,
)
from morphax.core.section.nesting import nested
from morphax.core.section.outlines import Loop, Segment, circle, ellipse, line, loop_area, loop_bounds
from morphax.core.section.pieces import (
    bulge_along,
    bulge_of,
    bulge_through,
    circle_about,
    nearest,
    part_of,
    plain,
    rectangle,
    regular,
    reversed_loop,
    tangents,
    transformed,
)
from morphax.core.section.ready_made import READY_MADE, ready_made

SQUARE = rectangle((0.0, 0.0), (0.04, 0.02))
CURVED = Loop(
    (
        Segment((0.0, 0.0), (0.04, 0.0), True),
        Segment((0.04, 0.0), (0.04, 0.03), True, inner=((0.06, 0.01), (0.05, 0.03))),
        Segment((0.04, 0.03), (0.0, 0.02), False, inner=((0.02, 0.03), (0.0, 0.03))),
        Segment((0.0, 0.02), (0.0, 0.0), True),
    )
)
WAVY = shape_by("polygon", (0.0, 0.0), (0.05, 0.0), 5)
FINE = np.linspace(0.0, 1.0, 2001)


def outline(loop: Loop) -> np.ndarray:
    return np.concatenate([s.at(FINE) for s in loop.segments])


def area_of(loop: Loop) -> float:
    """By the shoelace formula on a fine polyline: nothing of the loop's own integrals."""
    p = outline(loop)
    q = np.roll(p, -1, axis=0)
    return float(0.5 * (p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0]).sum())


def is_chain(loop: Loop) -> bool:
    n = len(loop.segments)
    return all(loop.segments[k].end == loop.segments[(k + 1) % n].start for k in range(n))


def turn_at(loop: Loop, i: int) -> float:
    come, leave = tangents(loop.segments[i - 1])[1], tangents(loop.segments[i])[0]
    return abs(float(np.arctan2(come[0] * leave[1] - come[1] * leave[0], come @ leave)))


@pytest.mark.parametrize("name", READY_MADE)
def test_every_ready_made_outline_keeps_its_shape_as_lines_arcs_and_cubics(name: str) -> None:
    shape = ready_made(name, {"width": 0.1})
    for loop in shape.loops:
        made = plain(loop)
        assert is_chain(made) and len(made.segments) >= 2
        assert area_of(made) == pytest.approx(loop_area(loop), rel=2e-5)
        assert loop_bounds(made) == pytest.approx(loop_bounds(loop), abs=1e-6 * 0.1)
        assert all(abs(bulge_of(s)) <= 1.001 for s in made.segments), "no arc is more than half a turn"


def test_a_circle_is_four_exact_arcs_and_an_ellipse_within_four_millionths_of_its_radius() -> None:
    arcs = plain(circle(0.1))
    assert len(arcs.segments) == 4 and np.hypot(*outline(arcs).T) == pytest.approx(0.05, abs=1e-15)
    p = outline(plain(ellipse(0.2, 0.1))) / np.array([0.1, 0.05])
    assert np.hypot(*p.T) == pytest.approx(1.0, abs=5e-6)


def test_points_take_their_handles_along_and_arcs_keep_their_turn() -> None:
    moved = with_places(CURVED, {2: (0.05, 0.04)})
    assert moved.segments[2].start == (0.05, 0.04) == moved.segments[1].end
    assert handles_of(moved, 2)["coming"] == pytest.approx((0.06, 0.04))
    assert handles_of(moved, 2)["leaving"] == pytest.approx((0.03, 0.04)) and not moved.segments[2].corner
    ring = with_places(circle_about((0.0, 0.0), 0.01), {0: (0.0, -0.02)})
    assert [bulge_of(s) for s in ring.segments] == pytest.approx([sqrt(2.0) - 1.0] * 4)
    with pytest.raises(SectionError, match="lie on each other"):
        with_places(SQUARE, {0: (0.04, 0.0)})


def test_a_curve_follows_the_line_that_it_goes_on_from() -> None:
    smooth = made_smooth(CURVED, 1)
    assert turn_at(smooth, 1) < 1e-9 and not smooth.segments[1].corner
    moved = with_places(smooth, {0: (0.0, -0.01)})
    assert turn_at(moved, 1) < 1e-9, "the line turned, and the curve with it"
    first = handles_of(moved, 1)["leaving"]
    assert hypot(first[0] - 0.04, first[1]) == pytest.approx(hypot(0.02, 0.01)), "as long as it was"


def test_a_smooth_point_between_two_lines_or_arcs_that_no_longer_meet_smoothly_is_a_corner() -> None:
    pill = transformed(circle_about((0.0, 0.0), 0.01), np.eye(2))
    pulled = with_places(pill, {1: (0.03, 0.0)})
    assert all(s.corner == (turn_at(pulled, k) > 1e-6) for k, s in enumerate(pulled.segments))


def test_handles_of_a_smooth_point_turn_together_and_break_apart_alone() -> None:
    turned = with_handle(CURVED, 2, "leaving", (0.03, 0.05))
    assert turn_at(turned, 2) < 1e-9
    a, b = handles_of(turned, 2)["coming"], handles_of(CURVED, 2)["coming"]
    assert hypot(a[0] - 0.04, a[1] - 0.03) == pytest.approx(hypot(b[0] - 0.04, b[1] - 0.03))
    alone = with_handle(CURVED, 2, "leaving", (0.03, 0.05), alone=True)
    assert alone.segments[2].corner and handles_of(alone, 2)["coming"] == b
    with pytest.raises(SectionError, match="curves"):
        with_handle(SQUARE, 1, "leaving", (0.0, 0.0))


def test_a_handle_opposite_a_line_stays_in_its_line() -> None:
    smooth = made_smooth(CURVED, 1)
    moved = with_handle(smooth, 1, "leaving", (0.06, 0.02))
    assert handles_of(moved, 1)["leaving"] == pytest.approx((0.06, 0.0))
    assert turn_at(moved, 1) < 1e-9


@pytest.mark.parametrize("i", range(4))
def test_a_corner_of_lines_becomes_smooth_and_one_of_arcs_too(i: int) -> None:
    made = made_smooth(SQUARE, i)
    assert turn_at(made, i) < 1e-9 and is_chain(made) and kind_of(made.segments[i]) == "curve"
    arcs = with_kind(with_kind(SQUARE, 1, "arc"), 2, "arc")
    assert turn_at(made_smooth(arcs, 2), 2) < 1e-9 and turn_at(arcs, 2) > 0.1
    assert turn_at(made_smooth(with_kind(SQUARE, 1, "arc"), 1), 1) < 1e-9
    assert turn_at(made_smooth(with_kind(SQUARE, 1, "arc"), 2), 2) < 1e-9
    assert made_corner(made, i).segments[i].corner


def test_kinds_of_sides_go_round_and_keep_both_points() -> None:
    for loop in (SQUARE, CURVED):
        for kind in ("arc", "curve", "line"):
            made = with_kind(loop, 1, kind)
            assert kind_of(made.segments[1]) == kind and is_chain(made)
            assert made.segments[1].start == loop.segments[1].start and made.segments[1].end == loop.segments[1].end
    half = with_kind(plain(circle(0.02)), 0, "curve")
    assert np.hypot(*half.segments[0].at(FINE).T) == pytest.approx(0.01, abs=3e-6), "an arc as one cubic"


@given(i=st.integers(0, 3), t=st.floats(0.03, 0.97), loop=st.sampled_from([SQUARE, CURVED, plain(circle(0.03))]))
def test_a_point_that_is_added_and_taken_out_leaves_the_shape_as_it_was(i: int, t: float, loop: Loop) -> None:
    more = inserted(loop, i, t)
    assert len(more.segments) == len(loop.segments) + 1 and is_chain(more)
    assert area_of(more) == pytest.approx(area_of(loop), rel=1e-7)
    on = loop.segments[i].at(np.array([t]))[0]
    assert more.segments[i + 1].start == pytest.approx(tuple(on), abs=1e-12)
    assert more.segments[i + 1].corner is (kind_of(loop.segments[i]) == "line")
    back = removed(more, [i + 1])
    assert np.abs(outline(back) - outline(loop)).max() < 1e-9


def test_too_few_points_are_refused() -> None:
    with pytest.raises(SectionError, match="at least three points"):
        removed(SQUARE, [0, 1])
    with pytest.raises(SectionError, match="at least two points"):
        removed(plain(circle(0.02)), [0, 1, 2])


def test_points_in_line_and_arcs_of_one_circle_are_tidied_away() -> None:
    more = inserted(inserted(SQUARE, 0, 0.3), 3, 0.5)
    assert len(tidied(more).segments) == 4 and area_of(tidied(more)) == pytest.approx(0.0008)
    ring = plain(circle(0.02))
    eight = ring
    for k in range(4):
        eight = inserted(eight, 2 * k, 0.5)
    assert len(eight.segments) == 8 and 2 <= len(tidied(eight).segments) <= 4
    assert area_of(tidied(eight)) == pytest.approx(pi * 1e-4, rel=1e-6)


@given(
    loop=st.sampled_from([SQUARE, CURVED, plain(circle(0.03)), plain(ellipse(0.03, 0.01))]),
    angle=st.floats(-7.0, 7.0),
    sx=st.sampled_from([1.0, -1.0, 0.3, 2.0]),
    sy=st.sampled_from([1.0, 2.0]),
)
def test_moved_turned_and_stretched_outlines_are_what_their_points_say(
    loop: Loop, angle: float, sx: float, sy: float
) -> None:
    c, s = np.cos(angle), np.sin(angle)
    matrix = np.array([[c, -s], [s, c]]) @ np.diag([sx, sy])
    made = transformed(loop, matrix, (0.01, -0.02))
    assert is_chain(made)
    assert area_of(made) == pytest.approx(area_of(loop) * abs(sx) * sy, rel=3e-5), "it turns the way it turned"
    wanted = outline(loop) @ matrix.T + np.array([0.01, -0.02])
    off = [min(np.hypot(*(outline(made) - p).T)) for p in wanted[::977]]
    assert max(off) < 6e-5, "on the same curve, as near as the samples are close"
    back = reversed_loop(reversed_loop(loop))
    assert np.abs(outline(back) - outline(loop)).max() < 1e-12
    assert [s.corner for s in back.segments] == [s.corner for s in loop.segments]
    assert area_of(reversed_loop(loop)) == pytest.approx(-area_of(loop))


def test_arcs_through_a_place_and_along_a_direction() -> None:
    assert bulge_through((-1.0, 0.0), (0.0, 1.0), (1.0, 0.0)) == pytest.approx(-1.0)
    assert bulge_through((-1.0, 0.0), (0.0, -1.0), (1.0, 0.0)) == pytest.approx(1.0)
    assert bulge_through((-1.0, 0.0), (0.3, 0.0), (1.0, 0.0)) == pytest.approx(0.0, abs=1e-15)
    bulge = bulge_along((0.0, 0.0), np.array([1.0, 0.0]), (1.0, 1.0))
    assert bulge == pytest.approx(sqrt(2.0) - 1.0), "a quarter turn to the left"


def test_a_stretch_of_a_piece_lies_on_it_both_ways() -> None:
    for piece in (*CURVED.segments, plain(circle(0.02)).segments[1]):
        for a, b in ((0.2, 0.7), (0.9, 0.4), (0.0, 1.0), (1.0, 0.0)):
            made = part_of(piece, a, b)
            assert made.at(FINE) == pytest.approx(piece.at(a + (b - a) * FINE), abs=1e-12)


def test_the_nearest_place_on_an_outline() -> None:
    assert nearest(SQUARE, (0.01, -0.005)) == pytest.approx((0, 0.25, 0.005))
    k, t, far = nearest(plain(circle(0.02)), (0.02, 0.0))
    at = plain(circle(0.02)).segments[k].at(np.array([t]))[0]
    assert far == pytest.approx(0.01) and tuple(at) == pytest.approx((0.01, 0.0), abs=1e-9)


def test_shapes_by_two_places() -> None:
    assert area_of(shape_by("rectangle", (0.03, 0.02), (-0.01, 0.0), 0)) == pytest.approx(0.04 * 0.02)
    assert area_of(shape_by("circle", (0.1, 0.2), (0.13, 0.24), 0)) == pytest.approx(pi * 0.05**2, rel=1e-6)
    six = regular((0.0, 0.0), (0.02, 0.0), 6)
    assert area_of(six) == pytest.approx(1.5 * sqrt(3.0) * 0.02**2)
    for kind in ("rectangle", "circle", "polygon"):
        with pytest.raises(SectionError):
            shape_by(kind, (0.01, 0.01), (0.01, 0.01), 5)


def drawn(*nodes: Node) -> Chain:
    chain = Chain()
    for node in nodes:
        chain.add(node)
    return chain


def test_a_half_round_edge_is_drawn_by_two_lines_and_an_arc() -> None:
    """18 by 7 mm: a flat of 18, and an arc that rises 7 in its middle."""
    chain = drawn(Node((-0.009, 0.0)), Node((0.009, 0.0)), Node((-0.009, 0.0), "arc", (0.0, 0.007)))
    made = chain.closed()
    assert [kind_of(s) for s in made.segments] == ["line", "arc"] and all(s.corner for s in made.segments)
    r = (0.009**2 + 0.007**2) / (2 * 0.007)
    assert made.segments[1].radii[0] == pytest.approx(r)
    assert loop_bounds(made) == pytest.approx((-0.009, 0.0, 0.009, 0.007))


def test_an_arc_goes_on_smoothly_and_a_curve_through_its_places() -> None:
    chain = drawn(Node((0.0, 0.0)), Node((0.02, 0.0)), Node((0.03, 0.01), "arc"), Node((0.0, 0.03)))
    made = chain.closed()
    assert made.segments[1].is_arc and not made.segments[1].corner and turn_at(made, 1) < 1e-9
    wave = drawn(*(Node((0.01 * k, 0.004 * (-1) ** k), "curve") for k in range(5)))
    pieces = wave.segments()
    assert all(not s.corner for s in pieces[1:]) and len(pieces) == 4
    loop = Chain([Node((0.02 * np.cos(a), 0.02 * np.sin(a)), "curve") for a in np.arange(6) * pi / 3]).closed("curve")
    assert max(turn_at(loop, k) for k in range(6)) < 1e-9
    assert area_of(loop) == pytest.approx(pi * 0.02**2, rel=0.02)


def test_half_an_outline_is_closed_by_its_mirror_image() -> None:
    half = drawn(Node((0.0, 0.0)), Node((0.02, 0.0)), Node((0.03, 0.02), "arc"), Node((0.0, 0.05)))
    made = half.mirrored(0.0)
    p = outline(made)
    assert is_chain(made) and loop_bounds(made) == pytest.approx((-0.0325, 0.0, 0.0325, 0.05)), "the arc goes on round"
    off = [np.hypot(*(p - q).T).min() for q in (p * np.array([-1.0, 1.0]))[::997]]
    assert max(off) < 5e-5
    own = drawn(Node((0.0, 0.0)), Node((0.02, 0.0)), Node((0.03, 0.02), "arc"), Node((0.0, 0.05))).closed()
    assert abs(area_of(made)) == pytest.approx(2.0 * abs(area_of(own)))
    apart = drawn(Node((0.01, 0.0)), Node((0.02, 0.01)), Node((0.01, 0.02))).mirrored(0.0)
    assert len(apart.segments) == 6 and is_chain(apart)


def test_what_encloses_nothing_is_refused() -> None:
    with pytest.raises(SectionError, match="at least three points"):
        drawn(Node((0.0, 0.0)), Node((0.01, 0.0))).closed()
    with pytest.raises(SectionError, match="lie on each other"):
        drawn(Node((0.0, 0.0)), Node((0.0, 0.0)))


def test_loops_are_sorted_into_outlines_holes_and_parts_in_holes() -> None:
    rings = [circle_about((0.0, 0.0), r) for r in (0.01, 0.04, 0.03)]
    away = rectangle((0.1, 0.0), (0.12, 0.02))
    parts = nested([rings[0], reversed_loop(rings[1]), rings[2], reversed_loop(away)])
    assert sorted(len(p.holes) for p in parts) == [0, 0, 1]
    assert all(loop_area(p.outer) > 0.0 for p in parts) and all(loop_area(h) < 0.0 for p in parts for h in p.holes)
    whole = sum(area_of(loop) for p in parts for loop in (p.outer, *p.holes))
    assert whole == pytest.approx(pi * (0.04**2 - 0.03**2 + 0.01**2) + 0.02**2, rel=1e-6)
    assert nested([]) == ()
    assert line((0.0, 0.0), (1.0, 0.0)).end == (1.0, 0.0) and WAVY.segments[0].corner
