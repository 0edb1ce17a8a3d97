"""Edits of a loop by its points: point i is where segment i starts. Arcs and cubics stay what they are."""

from collections.abc import Collection, Mapping
from dataclasses import replace
from math import asin, atan2, hypot, tan
from typing import Literal

import numpy as np

from morphax.core.errors import SectionError
from morphax.core.section.outlines import Loop, Segment, loop_area, open_loop
from morphax.core.section.pieces import Corner, bulge_along, bulge_of, bulged, pair, split, tangents
from morphax.core.types import Floats

Way = Literal["coming", "leaving"]
SegmentKind = Literal["line", "arc", "curve"]
_ALIGNED = 1e-6
"""Two directions that differ by less are one, rad."""
_NEW_BULGE = 0.2
_FEWEST_LINES = 3


def _turn(a: Floats, b: Floats) -> float:
    """The angle from one direction to another, rad."""
    return atan2(float(a[0] * b[1] - a[1] * b[0]), float(a @ b))


def kind_of(segment: Segment) -> SegmentKind:
    return "arc" if segment.is_arc else "line" if segment.inner is None else "curve"


def points_of(loop: Loop) -> Floats:
    """The points of a loop (n, 2), m."""
    return np.array([s.start for s in loop.segments])


def with_places(loop: Loop, places: Mapping[int, Corner]) -> Loop:
    """Points moved: handles go along, arcs keep their turn, smooth points stay smooth where they can.

    Raises SectionError where two points that follow each other would be one.
    """
    segments = list(loop.segments)
    n = len(segments)
    touched = {k % n for i in places for k in (i - 1, i)}
    for k in touched:
        s = segments[k]
        start, end = places.get(k, s.start), places.get((k + 1) % n, s.end)
        segments[k] = _moved(s, start, end)
    around = {k % n for i in places for k in (i - 1, i, i + 1)}
    for i in around:
        if not segments[i].corner:
            _align(segments, i, held=i in places)
    return replace(loop, segments=tuple(segments))


def _moved(s: Segment, start: Corner, end: Corner) -> Segment:
    if s.is_arc:
        return bulged(start, end, bulge_of(s), corner=s.corner)
    if start == end and s.inner is None:
        raise SectionError("two points of the outline would lie on each other")
    if s.inner is None:
        return replace(s, start=start, end=end)
    (ax, ay), (bx, by) = s.inner
    first = (ax + start[0] - s.start[0], ay + start[1] - s.start[1])
    last = (bx + end[0] - s.end[0], by + end[1] - s.end[1])
    return replace(s, start=start, end=end, inner=(first, last))


def _align(segments: list[Segment], i: int, *, held: bool = False) -> None:
    """Keeps a smooth point smooth after its neighbours moved: a curve follows a line or arc; else it is a corner now.

    ``held``: the point itself was moved, so that its handles went along as they were.
    """
    before, after = segments[i - 1], segments[i]
    come, leave = tangents(before)[1], tangents(after)[0]
    if abs(_turn(come, leave)) < _ALIGNED:
        return
    if after.inner is not None and before.inner is None:
        segments[i] = _with_leaving(after, come)
    elif before.inner is not None and after.inner is None:
        segments[i - 1] = _with_coming(before, leave)
    elif before.inner is None or not held:
        segments[i] = replace(after, corner=True)


def _with_leaving(s: Segment, direction: Floats) -> Segment:
    """A cubic that leaves its start in a direction, with a handle as long as it was."""
    first, last = s.inner or (s.start, s.end)
    reach = hypot(first[0] - s.start[0], first[1] - s.start[1])
    return replace(s, inner=(pair(np.array(s.start) + reach * direction), last))


def _with_coming(s: Segment, direction: Floats) -> Segment:
    first, last = s.inner or (s.start, s.end)
    reach = hypot(last[0] - s.end[0], last[1] - s.end[1])
    return replace(s, inner=(first, pair(np.array(s.end) - reach * direction)))


def with_handle(loop: Loop, i: int, way: Way, place: Corner, *, alone: bool = False) -> Loop:
    """A handle of point ``i`` moved. At a smooth point the one opposite turns along, or the handle keeps the direction
    of the line or arc opposite; ``alone`` breaks that and makes the point a corner.

    Raises SectionError where there is no curve on that side.
    """
    segments = list(loop.segments)
    k = i if way == "leaving" else i - 1
    s = segments[k]
    if s.inner is None:
        raise SectionError("only curves have handles")
    at = np.array(segments[i].start)
    first, last = s.inner
    smooth = not segments[i].corner and not alone
    other = segments[i - 1] if way == "leaving" else segments[i]
    if smooth and other.inner is None:
        along = tangents(other)[1] if way == "leaving" else -tangents(other)[0]
        place = pair(at + max(float((np.array(place) - at) @ along), 0.0) * along)
    segments[k] = replace(s, inner=(place, last) if way == "leaving" else (first, place))
    if smooth and other.inner is not None:
        d = np.array(place) - at
        size = hypot(float(d[0]), float(d[1]))
        if size > 0.0 and way == "leaving":
            segments[i - 1] = _with_coming(other, d / size)
        elif size > 0.0:
            segments[i] = _with_leaving(other, -d / size)
    if alone:
        segments[i] = replace(segments[i], corner=True)
    return replace(loop, segments=tuple(segments))


def handles_of(loop: Loop, i: int) -> dict[Way, Corner]:
    """The handles of a point, m."""
    before, after = loop.segments[i - 1], loop.segments[i]
    out: dict[Way, Corner] = {}
    if before.inner is not None:
        out["coming"] = before.inner[1]
    if after.inner is not None:
        out["leaving"] = after.inner[0]
    return out


def made_corner(loop: Loop, i: int) -> Loop:
    """Point ``i`` as a corner: its handles stay, and can be moved one by one."""
    segments = list(loop.segments)
    segments[i] = replace(segments[i], corner=True)
    return replace(loop, segments=tuple(segments))


def made_smooth(loop: Loop, i: int) -> Loop:
    """Point ``i`` without a corner: a curve follows what is opposite, an arc turns, two lines become curves."""
    refuse_ends(loop, i)
    segments = list(loop.segments)
    before, after = segments[i - 1], segments[i]
    if kind_of(before) == "line" and kind_of(after) == "line":
        segments[i - 1], segments[i] = before, after = as_curve(before), as_curve(after)
    come, leave = tangents(before)[1], tangents(after)[0]
    if before.inner is not None and after.inner is not None:
        middle = come + leave
        size = hypot(float(middle[0]), float(middle[1]))
        middle = np.array([-come[1], come[0]]) if size < 1e-9 else middle / size
        segments[i - 1], segments[i] = _with_coming(before, middle), _with_leaving(after, middle)
    elif after.inner is not None:
        segments[i] = _with_leaving(after, come)
    elif before.inner is not None:
        segments[i - 1] = _with_coming(before, leave)
    elif after.is_arc:
        segments[i] = bulged(after.start, after.end, bulge_along(after.start, come, after.end))
    else:
        segments[i - 1] = bulged(
            before.start, before.end, -bulge_along(before.end, -leave, before.start), corner=before.corner
        )
    segments[i] = replace(segments[i], corner=False)
    return replace(loop, segments=tuple(segments))


def as_curve(s: Segment) -> Segment:
    """A segment as one cubic; a line has its handles on its thirds."""
    if s.inner is not None:
        return s
    if not s.is_arc:
        a, b = np.array(s.start), np.array(s.end)
        return replace(s, inner=(pair(a + (b - a) / 3.0), pair(b - (b - a) / 3.0)))
    turn = s.a1 - s.a0
    first, last = s.slope(np.array([0.0, 1.0])) * (4.0 / 3.0 * tan(0.25 * turn) / turn)
    inner = (pair(np.array(s.start) + first), pair(np.array(s.end) - last))
    return Segment(s.start, s.end, s.corner, inner=inner, look=s.look)


def with_kind(loop: Loop, i: int, kind: SegmentKind) -> Loop:
    """Segment ``i`` as a line, an arc or a curve between the same points."""
    segments = list(loop.segments)
    s, n = segments[i], len(segments)
    if kind_of(s) == kind:
        return loop
    if kind == "line":
        segments[i] = Segment(s.start, s.end, s.corner, look=s.look)
    elif kind == "arc":
        leave = tangents(s)[0] if s.inner is not None else None
        bulge = _NEW_BULGE if leave is None else bulge_along(s.start, leave, s.end) or _NEW_BULGE
        segments[i] = replace(bulged(s.start, s.end, bulge, corner=s.corner), look=s.look)
    else:
        segments[i] = as_curve(s)
    for k in (i, (i + 1) % n):
        if not segments[k].corner:
            _align(segments, k)
    return replace(loop, segments=tuple(segments))


def with_radius(loop: Loop, i: int, radius: float) -> Loop:
    """The arc ``i`` with a radius, m, between the same points, turning as it did. Raises SectionError where the points
    are farther apart than its diameter."""
    segments = list(loop.segments)
    s, n = segments[i], len(segments)
    chord = hypot(s.end[0] - s.start[0], s.end[1] - s.start[1])
    if not s.is_arc or not radius >= 0.5 * chord * (1.0 - 1e-12):
        raise SectionError(f"a radius between points {chord:g} m apart is {0.5 * chord:g} m or more")
    way = 1.0 if s.a1 > s.a0 else -1.0
    segments[i] = bulged(s.start, s.end, way * tan(0.5 * asin(min(0.5 * chord / radius, 1.0))), corner=s.corner)
    for k in (i, (i + 1) % n):
        if not segments[k].corner:
            _align(segments, k)
    return replace(loop, segments=tuple(segments))


def inserted(loop: Loop, i: int, t: float) -> Loop:
    """The loop with a point on segment ``i``; the shape stays. The new point is ``i + 1``; on a line it is a corner."""
    first, second = split(loop.segments[i], t)
    second = replace(second, corner=not loop.segments[i].is_curved)
    return replace(loop, segments=(*loop.segments[:i], first, second, *loop.segments[i + 1 :]))


def removed(loop: Loop, indices: Collection[int]) -> Loop:
    """Without points; what lay on both sides of one becomes one segment.

    Raises SectionError where too few would be left to enclose anything.
    """
    if loop.is_open:
        return _shortened(loop, indices)
    segments = list(loop.segments)
    for i in sorted(set(indices), reverse=True):
        if len(segments) <= 2:
            raise SectionError("an outline keeps at least two points; delete the whole part instead")
        before, after = segments[i - 1], segments[i]
        segments[i - 1] = _merged(before, after)
        del segments[i]
    if len(segments) < _FEWEST_LINES and not any(s.is_curved for s in segments):
        raise SectionError("an outline of lines keeps at least three points; delete the whole part instead")
    return replace(loop, segments=tuple(segments))


def _shortened(loop: Loop, indices: Collection[int]) -> Loop:
    """A ribbon without points; without an end it ends at the point before."""
    own = list(loop.drawn)
    for i in sorted(set(indices), reverse=True):
        if len(own) < 2:
            raise SectionError("a ribbon keeps two points; delete the whole part instead")
        if 0 < i < len(own):
            own[i - 1] = _merged(own[i - 1], own[i])
        del own[min(i, len(own) - 1)]
    return open_loop(own)


def refuse_ends(loop: Loop, i: int) -> None:
    """Raises SectionError where point ``i`` is an end of a ribbon."""
    if loop.is_open and i in (0, len(loop.segments) - 1):
        raise SectionError("a ribbon has no corner at its ends")


def _merged(a: Segment, b: Segment) -> Segment:
    """One segment from the start of one to the end of the next, with the look of the first."""
    return replace(_as_one(a, b), look=a.look)


def _as_one(a: Segment, b: Segment) -> Segment:
    if a.is_arc and b.is_arc and _is_one_circle(a, b):
        return bulged(a.start, b.end, bulge_of(replace(a, a1=a.a1 + b.a1 - b.a0)), corner=a.corner)
    if a.inner is None and b.inner is None:
        return Segment(a.start, b.end, a.corner)
    one, two = as_curve(a), as_curve(b)
    (first, come), (leave, last) = one.inner or (one.start, one.end), two.inner or (two.start, two.end)
    own, others = (
        hypot(p[0] - q[0], p[1] - q[1]) for p, q in ((come, one.end), (leave, two.start))
    )  # where one curve was split they stand as its two stretches do
    share = min(max(own / max(own + others, 1e-300), 0.01), 0.99)
    start, end = np.array(a.start), np.array(b.end)
    inner = (pair(start + (np.array(first) - start) / share), pair(end + (np.array(last) - end) / (1.0 - share)))
    return Segment(a.start, b.end, a.corner, inner=inner)


def _is_one_circle(a: Segment, b: Segment) -> bool:
    ca, cb = a.centre or a.start, b.centre or b.start
    near = hypot(ca[0] - cb[0], ca[1] - cb[1]) < 1e-9 * a.radii[0]
    return near and (a.a1 - a.a0) * (b.a1 - b.a0) > 0.0 and abs(a.a1 - a.a0 + b.a1 - b.a0) < 6.2


def tidied(loop: Loop) -> Loop:
    """Without points that lie on each other and those between two lines that go straight on or arcs of one circle."""
    if loop.is_open:
        return loop
    segments = [s for s in loop.segments if s.inner is not None or s.start != s.end]
    k = 0
    while len(segments) > _FEWEST_LINES and k < len(segments):
        before, after = segments[k - 1], segments[k]
        plain_lines = kind_of(before) == kind_of(after) == "line"
        on = plain_lines and abs(_turn(tangents(before)[1], tangents(after)[0])) < _ALIGNED
        if before.look == after.look and (
            on
            or (
                before.is_arc
                and after.is_arc
                and _is_one_circle(before, after)
                and abs(before.a1 - before.a0 + after.a1 - after.a0) < 3.1416
            )
        ):
            segments[k - 1] = _merged(before, after)
            del segments[k]
        else:
            k += 1
    return replace(loop, segments=tuple(segments))


def is_left_turning(loop: Loop) -> bool:
    """Whether it runs counter-clockwise."""
    return loop_area(loop) > 0.0
