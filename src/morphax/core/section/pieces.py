"""Pieces of outlines: segments split, turned round, moved and measured; lines, circular arcs and cubics."""

from dataclasses import replace
from math import atan2, ceil, hypot, pi, tan

import numpy as np

from morphax.core.errors import SectionError
from morphax.core.section.outlines import Loop, Segment, arc, line, open_loop
from morphax.core.section.segment_table import table_of
from morphax.core.types import Floats

Corner = tuple[float, float]
_ARC_STEP = 0.25 * pi
"""Arcs of an ellipse become cubics of at most so much: true to 4e-6 of their radius."""
_LEAST_BULGE = 1e-9
_FINE = np.linspace(0.0, 1.0, 33)


def pair(p: Floats) -> Corner:
    return float(p[0]), float(p[1])


def is_circular(segment: Segment) -> bool:
    """Whether it is an arc of a circle of at most half a turn, or a line or cubic."""
    rx, ry = segment.radii
    return not segment.is_arc or (abs(rx - ry) < 1e-12 * max(rx, ry) and abs(segment.a1 - segment.a0) < 1.001 * pi)


def bulge_of(segment: Segment) -> float:
    """The tangent of a quarter of a circular arc's turn; 0 for others."""
    return tan(0.25 * (segment.a1 - segment.a0)) if segment.is_arc else 0.0


def bulged(start: Corner, end: Corner, bulge: float, *, corner: bool = True) -> Segment:
    """An arc by its bulge; a line where it is none. Raises SectionError where both ends are one."""
    if start == end:
        raise SectionError("two points of the outline would lie on each other")
    if abs(bulge) < _LEAST_BULGE:
        return Segment(start, end, corner)
    return arc(start, end, bulge, corner=corner)


def plain(loop: Loop) -> Loop:
    """The loop with arcs of circles of at most half a turn only; those of ellipses become cubics."""
    out: list[Segment] = []
    for s in loop.segments:
        out += [s] if is_circular(s) else _plain_pieces(s)
    return Loop(tuple(out), loop.is_open)


def _plain_pieces(s: Segment) -> list[Segment]:
    turn = s.a1 - s.a0
    is_circle = abs(s.radii[0] - s.radii[1]) < 1e-12 * max(s.radii)
    count = ceil(abs(turn) / ((0.5 * pi if is_circle else _ARC_STEP) * 1.001))
    t = np.linspace(0.0, 1.0, count + 1)
    at, slope = s.at(t), s.slope(t) / count
    at[0], at[-1] = s.start, s.end
    step = turn / count
    reach = (4.0 / 3.0) * tan(0.25 * step) / step
    out = []
    for k in range(count):
        a, b, corner = pair(at[k]), pair(at[k + 1]), s.corner and k == 0
        if is_circle:
            out.append(replace(arc(a, b, tan(0.25 * step), corner=corner), look=s.look))
        else:
            inner = (pair(at[k] + reach * slope[k]), pair(at[k + 1] - reach * slope[k + 1]))
            out.append(Segment(a, b, corner, inner=inner, look=s.look))
    return out


def part_of(s: Segment, t0: float, t1: float, *, corner: bool = True) -> Segment:
    """The stretch of a segment between two parameters; walked backwards where ``t1`` is before ``t0``."""
    a, b = (s.start if t == 0.0 else s.end if t == 1.0 else pair(s.at(np.array([t]))[0]) for t in (t0, t1))
    if s.inner is not None:
        first, last = s._cubic_slope(np.array([t0, t1])) * (t1 - t0) / 3.0
        return Segment(a, b, corner, inner=(pair(np.array(a) + first), pair(np.array(b) - last)), look=s.look)
    if s.is_arc:
        return replace(bulged(a, b, tan(0.25 * (s.a1 - s.a0) * (t1 - t0)), corner=corner), look=s.look)
    return Segment(a, b, corner, look=s.look)


def split(s: Segment, t: float) -> tuple[Segment, Segment]:
    """A segment as two that meet at a parameter; they meet smoothly."""
    return part_of(s, 0.0, t, corner=s.corner), part_of(s, t, 1.0, corner=False)


def reversed_loop(loop: Loop) -> Loop:
    """The same loop walked the other way, from the same point; a ribbon from its end."""
    if loop.is_open:
        own = loop.drawn
        back = [part_of(own[k], 1.0, 0.0, corner=loop.segments[k + 1].corner) for k in range(len(own) - 1, -1, -1)]
        return open_loop(back)
    n = len(loop.segments)
    back = [part_of(loop.segments[n - 1 - k], 1.0, 0.0, corner=loop.segments[(n - k) % n].corner) for k in range(n)]
    return Loop(tuple(back))


def is_similar(matrix: Floats) -> bool:
    """Whether a matrix (2, 2) turns, mirrors and sizes only."""
    square = matrix.T @ matrix
    return bool(abs(square[0, 0] - square[1, 1]) + 2.0 * abs(square[0, 1]) < 1e-12 * (square[0, 0] + square[1, 1]))


def transformed(loop: Loop, matrix: Floats, shift: Corner = (0.0, 0.0)) -> Loop:
    """The loop with p -> matrix p + shift; a mirrored one is walked the other way, so that it turns as before."""
    source = plain(loop) if is_similar(matrix) else _cubics_for_arcs(plain(loop))
    way = float(np.sign(np.linalg.det(matrix)))
    to = np.array(shift)

    def place(p: Corner) -> Corner:
        return pair(matrix @ np.array(p) + to)

    moved = [
        replace(bulged(place(s.start), place(s.end), way * bulge_of(s), corner=s.corner), look=s.look)
        if s.is_arc
        else replace(
            s,
            start=place(s.start),
            end=place(s.end),
            inner=None if s.inner is None else (place(s.inner[0]), place(s.inner[1])),
        )
        for s in source.segments
    ]
    out = Loop(tuple(moved), loop.is_open)
    return out if way > 0.0 else reversed_loop(out)


def _cubics_for_arcs(loop: Loop) -> Loop:
    out: list[Segment] = []
    for s in loop.segments:
        out += [s] if not s.is_arc else as_cubics(s)
    return Loop(tuple(out), loop.is_open)


def as_cubics(s: Segment) -> list[Segment]:
    """A circular arc as cubics."""
    turn = s.a1 - s.a0
    count = ceil(abs(turn) / (_ARC_STEP * 1.001))
    cuts = np.linspace(0.0, 1.0, count + 1)
    step = turn / count
    reach = (4.0 / 3.0) * tan(0.25 * step) / turn
    out = []
    for k, (t0, t1) in enumerate(zip(cuts[:-1], cuts[1:], strict=True)):
        a, b = (
            (s.start if k == 0 else pair(s.at(np.array([t0]))[0])),
            (s.end if k == count - 1 else pair(s.at(np.array([t1]))[0])),
        )
        d0, d1 = s.slope(np.array([t0, t1])) * reach
        inner = (pair(np.array(a) + d0), pair(np.array(b) - d1))
        out.append(Segment(a, b, s.corner and k == 0, inner=inner, look=s.look))
    return out


def tangents(s: Segment) -> tuple[Floats, Floats]:
    """Unit directions (2,) in which a segment leaves its start and comes to its end."""
    slope = s.slope(np.array([0.0, 1.0]))
    size = np.maximum(np.hypot(slope[:, 0], slope[:, 1]), 1e-300)
    return slope[0] / size[0], slope[1] / size[1]


def bulge_through(start: Corner, middle: Corner, end: Corner) -> float:
    """The bulge of the arc from start to end through a third point; 0 where they lie in a line."""
    ax, ay = middle[0] - start[0], middle[1] - start[1]
    bx, by = end[0] - middle[0], end[1] - middle[1]
    turn = 2.0 * atan2(ax * by - ay * bx, ax * bx + ay * by)
    return tan(0.25 * turn) if abs(turn) < 1.999 * pi else 0.0


def bulge_along(start: Corner, direction: Floats, end: Corner) -> float:
    """The bulge of the arc from start to end that leaves in a direction (2,); 0 where that looks at the end."""
    dx, dy = end[0] - start[0], end[1] - start[1]
    half = atan2(direction[0] * dy - direction[1] * dx, direction[0] * dx + direction[1] * dy)
    return tan(0.5 * half) if abs(half) < 0.999 * pi else 0.0


def nearest(loop: Loop, place: Corner) -> tuple[int, float, float]:
    """The segment nearest to a place, the parameter there, and how far it is, m."""
    table = table_of(loop)
    n, goal = len(loop.drawn), np.array(place)
    k = np.repeat(np.arange(n), len(_FINE))
    d = table.at(k, np.tile(_FINE, n)) - goal
    best = int(np.argmin((d * d).sum(1)))
    segment, t = best // len(_FINE), float(_FINE[best % len(_FINE)])
    s = loop.segments[segment]
    for _ in range(6):
        off, slope = s.at(np.array([t]))[0] - goal, s.slope(np.array([t]))[0]
        t = min(max(t - float(off @ slope) / max(float(slope @ slope), 1e-300), 0.0), 1.0)
    off = s.at(np.array([t]))[0] - goal
    return segment, t, hypot(float(off[0]), float(off[1]))


def rectangle(a: Corner, b: Corner) -> Loop:
    """A rectangle between two opposite corners, counter-clockwise from its lower left."""
    (x0, x1), (y0, y1) = sorted((a[0], b[0])), sorted((a[1], b[1]))
    if not (x1 > x0 and y1 > y0):
        raise SectionError("a rectangle has a width and a height")
    corners = ((x0, y0), (x1, y0), (x1, y1), (x0, y1))
    return Loop(tuple(line(corners[k], corners[(k + 1) % 4]) for k in range(4)))


def circle_about(centre: Corner, radius: float) -> Loop:
    """A circle of four arcs, counter-clockwise from its lowest point."""
    if not radius > 0.0:
        raise SectionError("a circle has a radius of more than 0")
    x, y = centre
    at = ((x, y - radius), (x + radius, y), (x, y + radius), (x - radius, y))
    return Loop(tuple(arc(at[k], at[(k + 1) % 4], tan(pi / 8.0), corner=False) for k in range(4)))


def regular(centre: Corner, tip: Corner, count: int) -> Loop:
    """A regular polygon about a centre with a corner at a tip, counter-clockwise."""
    d, angle = np.array(tip) - np.array(centre), 2.0 * pi / count * np.arange(count)
    if not (hypot(*d) > 0.0 and count >= 3):
        raise SectionError("a polygon has at least three corners and a radius of more than 0")
    c, s = np.cos(angle), np.sin(angle)
    at = np.stack([centre[0] + c * d[0] - s * d[1], centre[1] + s * d[0] + c * d[1]], axis=1)
    return Loop(tuple(line(pair(at[k]), pair(at[(k + 1) % count])) for k in range(count)))
