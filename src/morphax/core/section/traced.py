"""Outlines found back from polygons that were made of them: every edge is a stretch of the piece that it came from.

Regions are combined as polygons, which is sure and quick; what comes out lies on the curves that went in, since every
edge is traced to its piece and the ends of stretches are put where the true curves meet.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import atan2

import numpy as np
import shapely

from morphax.core.section.outlines import Loop, Segment
from morphax.core.section.pieces import part_of, plain, tangents
from morphax.core.section.segment_table import SegmentTable
from morphax.core.types import Floats, Ints

_ARC_EACH, _CUBIC_EACH = 16, 24
"""Lines for a piece that is curved."""
_ROUNDS, _FAR = 8, 0.2
"""Rounds of Newton, and how far they may lead."""
_END, _SMOOTH = 1e-7, 1e-4
_SPECK = 1e-10
"""Rings smaller than this share of all are nothing but rounding."""


class Pieces:
    """All pieces of loops as lines that know them. ``lines`` (m, 2, 2), ``of`` (m,) the piece, ``t`` (m, 2) where on
    it; ``loop`` (n,) of the pieces."""

    def __init__(self, loops: Sequence[Loop]) -> None:
        self.loops = [plain(loop) for loop in loops]
        self.segments = [s for loop in self.loops for s in loop.segments]
        self.table = table = SegmentTable(self.loops)
        count = np.where(table.is_arc, _ARC_EACH, np.where(table.is_cubic, _CUBIC_EACH, 1))
        self.of: Ints = np.repeat(np.arange(len(count)), count).astype(np.int64)
        number = np.arange(len(self.of)) - (np.cumsum(count) - count)[self.of]
        self.t: Floats = np.stack([number, number + 1.0], axis=1) / count[self.of][:, None]
        starts = table.at(self.of, self.t[:, 0])
        size = np.add.reduceat(count, table.first[:-1])
        first = np.cumsum(size) - size
        after = np.arange(len(starts)) + 1
        after[first + size - 1] = first
        self.lines: Floats = np.stack([starts, starts[after]], axis=1)
        self.loop: Ints = table.of
        self.rings = [starts[a : a + n] for a, n in zip(first, size, strict=True)]
        self.tree = shapely.STRtree(shapely.linestrings(self.lines))


@dataclass(frozen=True)
class Stretch:
    """A stretch of a piece, walked from one parameter to another."""

    piece: int
    begin: float
    end: float

    @property
    def way(self) -> int:
        return 1 if self.end > self.begin else -1


def loops_of(region: shapely.Geometry, pieces: Pieces) -> list[Loop]:
    """The outlines of a region made of polygons of the pieces, on the curves that they came from."""
    polygons = [p for p in shapely.get_parts(region) if p.geom_type == "Polygon"]
    rings = [r for p in polygons for r in (p.exterior, *p.interiors)]
    least = _SPECK * max((p.area for p in polygons), default=0.0)
    out = []
    for ring in rings:
        points = np.array(ring.coords)[:-1]
        if shapely.Polygon(ring).area > least:
            out.append(traced(stretches(points, pieces), pieces))
    return out


def stretches(points: Floats, pieces: Pieces) -> list[Stretch]:
    """The stretches that a ring (n, 2) is made of."""
    ends = np.roll(points, -1, axis=0)
    line = np.asarray(pieces.tree.nearest(shapely.points(0.5 * (points + ends))))
    a, b = pieces.lines[line, 0], pieces.lines[line, 1]
    d = b - a
    size = np.maximum((d * d).sum(1), 1e-300)
    share = np.stack([((p - a) * d).sum(1) / size for p in (points, ends)], axis=1).clip(0.0, 1.0)
    t0, t1 = pieces.t[line].T
    t = t0[:, None] + (t1 - t0)[:, None] * share
    way = np.where(t[:, 1] >= t[:, 0], 1, -1)
    piece = pieces.of[line]
    goes_on = (piece == np.roll(piece, 1)) & (way == np.roll(way, 1))
    first = np.flatnonzero(~goes_on)
    if not len(first):
        first = np.array([0])
    last = np.roll(first - 1, -1)
    return [Stretch(int(piece[i]), _snapped(t[i, 0]), _snapped(t[j, 1])) for i, j in zip(first, last, strict=True)]


def _snapped(t: float) -> float:
    return 0.0 if t < _END else 1.0 if t > 1.0 - _END else float(t)


def traced(found: Sequence[Stretch], pieces: Pieces) -> Loop:
    """A loop of stretches, the ends of which are where the curves of both meet."""
    ends = np.array([(s.begin, s.end) for s in found])
    own = np.array([_are_neighbours(found[k - 1], after, pieces) for k, after in enumerate(found)])
    cross = np.flatnonzero(~own) if len(found) > 1 else np.empty(0, dtype=np.int64)
    if len(cross):
        piece = np.array([s.piece for s in found])
        ends[cross - 1, 1], ends[cross, 0] = met(
            pieces.table, (piece[cross - 1], piece[cross]), (ends[cross - 1, 1], ends[cross, 0])
        )
    corners = [_corner(found[k - 1], after, pieces) if own[k] else True for k, after in enumerate(found)]
    kept = np.abs(ends[:, 0] - ends[:, 1]) > 1e-12
    made = [part_of(pieces.segments[s.piece], *e) for s, e, k in zip(found, ends.tolist(), kept, strict=True) if k]
    return joined(made, [c for c, k in zip(corners, kept, strict=True) if k])


def joined(made: Sequence[Segment], corners: Sequence[bool]) -> Loop:
    """Pieces whose ends nearly meet as a loop in which they do; a corner that is none is smooth."""
    ways = [tangents(s) for s in made]
    out = []
    for k, (s, corner) in enumerate(zip(made, corners, strict=True)):
        end = made[(k + 1) % len(made)].start
        come, leave = ways[k - 1][1], ways[k][0]
        turn = abs(atan2(come[0] * leave[1] - come[1] * leave[0], come[0] * leave[0] + come[1] * leave[1]))
        out.append(replace(s, end=end, corner=corner and turn > _SMOOTH))
    return Loop(tuple(out))


def _are_neighbours(a: Stretch, b: Stretch, pieces: Pieces) -> bool:
    """Whether one goes on from the other at a point of the outline that both came from."""
    if pieces.loop[a.piece] != pieces.loop[b.piece] or a.way != b.way:
        return False
    end, begin = (1.0, 0.0) if a.way > 0 else (0.0, 1.0)
    if a.end != end or b.begin != begin:
        return False
    one, two = pieces.segments[a.piece], pieces.segments[b.piece]
    return one.end == two.start if a.way > 0 else one.start == two.end


def _corner(a: Stretch, b: Stretch, pieces: Pieces) -> bool:
    return pieces.segments[b.piece if a.way > 0 else a.piece].corner


def met(table: SegmentTable, pieces: tuple[Ints, Ints], at: tuple[Floats, Floats]) -> tuple[Floats, Floats]:
    """Parameters (k,) at which pairs of pieces meet, near given ones; those where they don't cross there (Newton)."""
    (a, b), (t, u) = pieces, (v.copy() for v in at)
    for _ in range(_ROUNDS):
        dp, dq, off = table.slope(a, t), table.slope(b, u), table.at(b, u) - table.at(a, t)
        det = dq[:, 0] * dp[:, 1] - dp[:, 0] * dq[:, 1]
        flat = np.abs(det) < 1e-9 * np.hypot(*dp.T) * np.hypot(*dq.T)
        det[flat] = np.inf  # they run along each other: nothing to be gained
        step_t = (dq[:, 0] * off[:, 1] - off[:, 0] * dq[:, 1]) / det
        step_u = (dp[:, 0] * off[:, 1] - off[:, 0] * dp[:, 1]) / det
        t, u = t + step_t, u + step_u
        if max(np.abs(step_t).max(), np.abs(step_u).max()) < 1e-14:
            break
    near = (np.abs(t - at[0]) < _FAR) & (np.abs(u - at[1]) < _FAR)
    return np.where(near, t, at[0]).clip(0.0, 1.0), np.where(near, u, at[1]).clip(0.0, 1.0)
