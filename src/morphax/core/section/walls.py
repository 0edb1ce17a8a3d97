"""Outlines moved by a distance along their normals: walls of even thickness, grown and shrunk parts.

Lines stay lines and arcs stay arcs about the same middle; of a cubic the offset is followed by cubics with its true
ends and derivatives there. Which stretches are left where an outline meets itself is found on polygons.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import atan2, hypot, tan

import numpy as np
import shapely

from morphax.core.errors import SectionError
from morphax.core.section.combining import combined
from morphax.core.section.loop_edits import tidied
from morphax.core.section.nesting import nested
from morphax.core.section.outlines import Loop, Segment
from morphax.core.section.pieces import Corner, bulged, pair, part_of
from morphax.core.section.sections import Part, SectionShape, refuse_ribbons
from morphax.core.section.traced import Pieces, Stretch, joined, stretches
from morphax.core.types import Floats

_MITRE = 4.0
"""Corners stand out by at most so many distances."""
_CUBICS, _NEAR = (1, 2, 4, 8, 16), 1e-4
"""Numbers of cubics beside one that are tried, till they are so near, as a share of the distance."""
_MEETS = "the strip would meet itself: it is too thick for its bends"
_STEP, _ROUNDS = 1e-5, 20
"""The step of differences; rounds of Newton."""
_BEYOND, _FAR, _LAST = 0.1, 50.0, 0.07
"""How far cubics, and other pieces, may be drawn out, in their own lengths; what is so near to an end goes on to it."""


def moved_by(parts: Sequence[Part], by: float) -> tuple[Part, ...]:
    """Parts whose outlines go outward by ``by``, m (inward where it is less than 0), holes the other way.

    Raises SectionError where nothing is left.
    """
    refuse_ribbons(parts)
    pieces = Pieces([loop for p in parts for loop in (p.outer, *p.holes)])
    rings = iter(pieces.rings)
    polygons = [shapely.Polygon(next(rings), [next(rings) for _ in p.holes]) for p in parts]
    region = shapely.union_all(polygons).buffer(by, join_style="mitre", mitre_limit=_MITRE, quad_segs=1)
    loops = []
    for polygon in shapely.get_parts(region):
        for ring in () if polygon.is_empty else (polygon.exterior, *polygon.interiors):
            points = np.array(shapely.normalize(ring).coords)[:-1]
            loops.append(_loop_beside(points, pieces, abs(by)))
    if not loops:
        raise SectionError(f"nothing would be left {-by:g} m inside the outline")
    return nested(loops)


def hollowed(parts: Sequence[Part], wall: float) -> tuple[Part, ...]:
    """Parts with a wall of a thickness, m, inside their outlines, and a hole in it. Raises SectionError where the wall
    leaves no hole."""
    if not wall > 0.0:
        raise SectionError("a wall is thicker than 0")
    whole = tuple(Part(p.outer) for p in parts)
    try:
        inner = moved_by(whole, -wall)
    except SectionError as error:
        raise SectionError(f"a wall of {wall:g} m leaves no hole") from error
    return combined(parts, [Part(_plain_looking(p.outer)) for p in inner], "subtract")


def _plain_looking(loop: Loop) -> Loop:
    return replace(loop, segments=tuple(replace(s, look="") for s in loop.segments))


def thickened(line: Sequence[Segment], left: float, right: float) -> Part:
    """An open line of pieces as a strip: so far to its left, and to its right, m, with flat ends.

    Corners are mitred within four times the thickness. Raises SectionError where the strip would meet itself.
    """
    if not (left >= 0.0 and right >= 0.0 and left + right > 0.0):
        raise SectionError("a strip is thicker than 0")
    back = [part_of(s, 1.0, 0.0) for s in reversed(_line_beside(line, left))]
    around = [*_line_beside(line, -right), *back]
    ends = [around[k + 1 - len(around)].start for k in range(len(around))]
    closed: list[Segment] = []
    for s, end in zip(around, ends, strict=True):
        closed += [s] if _gap(s.end, end) < 1e-12 else [s, Segment(s.end, end)]
    loop = tidied(joined(closed, [True] * len(closed)))
    shape = shapely.Polygon(np.concatenate([s.at(np.linspace(0.0, 1.0, 17)[:-1]) for s in loop.segments]))
    if not shape.is_valid:
        raise SectionError(_MEETS)
    return Part(loop)


def as_strips(shape: SectionShape) -> SectionShape:
    """A shape whose ribbons are strips of its thickness; itself where it has none. Raises as ``thickened`` does."""
    if not any(shape.thickness) or not any(p.is_ribbon for p in shape.parts):
        return shape
    parts = tuple(thickened(p.outer.drawn, *shape.thickness) if p.is_ribbon else p for p in shape.parts)
    return replace(shape, parts=parts, thickness=(0.0, 0.0))


def _line_beside(line: Sequence[Segment], by: float) -> list[Segment]:
    """A line of pieces moved to its left."""
    sides = [_Side(s, 0.0, 1.0, by) for s in line]
    for before, after in zip(sides[:-1], sides[1:], strict=True):
        _meet(before, after)
    if any(side.end <= side.begin or side.is_shrunk for side in sides):
        raise SectionError(_MEETS)
    return [s for side in sides for s in side.pieces()]


def _gap(a: Corner, b: Corner) -> float:
    return hypot(a[0] - b[0], a[1] - b[1])


@dataclass
class _Side:
    """The offset of a stretch of a piece, walked from ``begin`` to ``end``, to the left of that by ``by``, m.

    ``bridge``: lines to the next one by way of these places. ``near_begin``, ``near_end``: where polygons see its ends.
    """

    piece: Segment
    begin: float
    end: float
    by: float
    bridge: tuple[Corner, ...] = ()
    near_begin: float = 0.0
    near_end: float = 0.0

    def __post_init__(self) -> None:
        self.near_begin, self.near_end = self.begin, self.end

    @property
    def way(self) -> float:
        return 1.0 if self.end > self.begin else -1.0

    def at(self, t: float) -> tuple[Floats, Floats]:
        """The place at a parameter of the piece, drawn out beyond its ends, and its derivative."""
        place, slope = self.piece.at(np.array([t]))[0], self.piece.slope(np.array([t]))[0]
        speed = max(float(np.hypot(*slope)), 1e-300)
        left = np.array([-slope[1], slope[0]]) / speed
        by = self.by * self.way
        return place + by * left, slope * (1.0 - by * self._bend(t) / speed)

    def _bend(self, t: float) -> float:
        """How fast the piece's direction turns with its parameter, rad."""
        if self.piece.is_arc:
            return self.piece.a1 - self.piece.a0
        if self.piece.inner is None:
            return 0.0
        a, b = self.piece.slope(np.array([t - _STEP, t + _STEP]))
        return atan2(a[0] * b[1] - a[1] * b[0], float(a @ b)) / (2.0 * _STEP)

    def pieces(self) -> list[Segment]:
        """As lines, arcs and cubics; none where an arc has shrunk to nothing."""
        if self.piece.inner is not None:
            out = next(p for n in _CUBICS if self._are_near(p := self._cubics(n)) or n == _CUBICS[-1])
        else:
            a, b = (pair(self.at(t)[0]) for t in (self.begin, self.end))
            turn = (self.piece.a1 - self.piece.a0) * (self.end - self.begin) if self.piece.is_arc else 0.0
            out = [bulged(a, b, tan(0.25 * turn))] if _gap(a, b) > 1e-12 else []
        for place in self.bridge if out else ():
            if _gap(out[-1].end, place) > 1e-12:
                out.append(Segment(out[-1].end, place))
        return [replace(s, look=self.piece.look) for s in out] if self.piece.look else out

    def _cubics(self, count: int) -> list[Segment]:
        """So many cubics with the offset's places and derivatives at their ends."""
        step = (self.end - self.begin) / count
        at = [self.at(self.begin + k * step) for k in range(count + 1)]
        return [
            Segment(pair(p), pair(q), inner=(pair(p + dp * step / 3.0), pair(q - dq * step / 3.0)))
            for (p, dp), (q, dq) in zip(at[:-1], at[1:], strict=True)
        ]

    def _are_near(self, cubics: list[Segment]) -> bool:
        """Whether the middles of cubics lie on the offset."""
        step = (self.end - self.begin) / len(cubics)
        middles = [self.at(self.begin + (k + 0.5) * step)[0] for k in range(len(cubics))]
        off = [np.hypot(*(c.at(np.array([0.5]))[0] - m)) for c, m in zip(cubics, middles, strict=True)]
        return bool(max(off) < _NEAR * abs(self.by))

    @property
    def is_shrunk(self) -> bool:
        """Whether the distance is more than the radius inside an arc."""
        turn = self.way * (self.piece.a1 - self.piece.a0)
        return self.piece.is_arc and self.by * turn > 0.0 and abs(self.by) >= self.piece.radii[0] * (1.0 - 1e-9)


def _loop_beside(points: Floats, pieces: Pieces, by: float) -> Loop:
    """A ring of the moved polygon as a loop of moved pieces that meet."""
    found = [s for s in stretches(points, pieces) if abs(s.begin - s.end) > 1e-9]
    ring = shapely.LinearRing(points)
    sides = [_Side(pieces.segments[s.piece], s.begin, s.end, by * _side_of(s, ring, pieces)) for s in found]
    for k, after in enumerate(found):
        _stretch_to_ends(sides[k - 1], sides[k], found[k - 1], after, pieces)
    sides = [s for s in sides if not s.is_shrunk]
    if len(sides) > 1:
        for k in range(len(sides)):
            _meet(sides[k - 1], sides[k])
    flat = [s for side in sides for s in side.pieces()]
    return tidied(joined(flat, [True] * len(flat)))


def _stretch_to_ends(before: _Side, after: _Side, one: Stretch, two: Stretch, pieces: Pieces) -> None:
    """Stretches of pieces that follow each other go on to the point between them."""
    if one.way != two.way or one.piece == two.piece or pieces.loop[one.piece] != pieces.loop[two.piece]:
        return
    end, begin = (1.0, 0.0) if one.way > 0 else (0.0, 1.0)
    a, b = pieces.segments[one.piece], pieces.segments[two.piece]
    follow = a.end == b.start if one.way > 0 else a.start == b.end
    if follow and abs(one.end - end) < _LAST and abs(two.begin - begin) < _LAST:
        before.end, after.begin = end, begin


def _side_of(s: Stretch, ring: shapely.LinearRing, pieces: Pieces) -> float:
    """1 where the ring lies to the left of a stretch as it is walked, -1 to its right."""
    piece = pieces.segments[s.piece]
    middle = np.array([0.5 * (s.begin + s.end)])
    place, slope = piece.at(middle)[0], piece.slope(middle)[0] * s.way
    near = np.array(ring.interpolate(ring.project(shapely.Point(place))).coords[0]) - place
    return 1.0 if slope[0] * near[1] - slope[1] * near[0] > 0.0 else -1.0


def _meet(before: _Side, after: _Side) -> None:
    """Ends one side where the next begins: both are drawn out, or cut, to where they cross; what stands out too far,
    or does not cross, is joined by a line."""
    (a, da), (b, db) = before.at(before.end), after.at(after.begin)
    if np.hypot(*(a - b)) < 1e-12:
        return
    most = _MITRE * abs(before.by)
    starts = ((before.end, after.begin), (before.near_end, after.near_begin))
    for found in (_crossing(before, after, *start) for start in starts):
        place = None if found is None else before.at(found[0])[0]
        if found is not None and place is not None and max(np.hypot(*(place - v)) for v in (a, b)) <= most:
            before.end, after.begin = found
            return
    tip = _tip(a, before.way * da, b, -after.way * db)
    out = tip is not None and max(_gap(tip, pair(a)), _gap(tip, pair(b))) <= most
    before.bridge = (tip, pair(b)) if out and tip is not None else (pair(b),)


def _tip(a: Floats, ahead: Floats, b: Floats, back: Floats) -> Corner | None:
    """Where lines ahead of one place and back from another cross; None where they lead apart."""
    det = float(ahead[0] * back[1] - ahead[1] * back[0])
    if abs(det) < 1e-12 * float(np.hypot(*ahead) * np.hypot(*back)):
        return None
    d = b - a
    t, u = (d[0] * back[1] - d[1] * back[0]) / det, (d[0] * ahead[1] - d[1] * ahead[0]) / det
    return pair(a + t * ahead) if t > 0.0 and u > 0.0 else None


def _crossing(before: _Side, after: _Side, t: float, u: float) -> tuple[float, float] | None:
    """Parameters at which two sides cross near given ones (Newton)."""
    for _ in range(_ROUNDS):
        (p, dp), (q, dq) = before.at(t), after.at(u)
        det = float(dq[0] * dp[1] - dp[0] * dq[1])
        if abs(det) < 1e-9 * float(np.hypot(*dp) * np.hypot(*dq)):
            return None
        d = q - p
        dt, du = (dq[0] * d[1] - d[0] * dq[1]) / det, (dp[0] * d[1] - d[0] * dp[1]) / det
        t, u = t + dt, u + du
        if max(abs(dt), abs(du)) < 1e-14:
            break
    for side, v in ((before, t), (after, u)):
        out = _BEYOND if side.piece.inner is not None else _FAR
        if not -out <= v <= 1.0 + out or (v - side.begin) * side.way < 0.0 and side is before:
            return None
    return (t, u) if np.hypot(*(before.at(t)[0] - after.at(u)[0])) < 1e-9 * max(abs(before.by), 1e-9) else None
