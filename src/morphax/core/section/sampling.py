"""Sections as points: sampled by deviation or by count, placed on their anchor, mirrored and sized."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import cached_property
from math import pi
from typing import Any, TypeVar

import numpy as np

from morphax.core.errors import DensityError
from morphax.core.section.sections import SectionShape, section_bounds
from morphax.core.section.segment_table import Index, SegmentTable
from morphax.core.section.side_counts import MOST_SIDES, NODES, WEIGHTS, pieces_of
from morphax.core.section.side_looks import side_looks
from morphax.core.types import Flags, Floats, Points2, frozen
from morphax.core.vectors import exact_turn

V = TypeVar("V")

_KEPT_SAMPLES, _UPRIGHT = 32, 1e-6
_AS_GOOD_AS_NOTHING = 1e-12
"""What the normals of a loop that is a point weigh, m: they count where it is one, and nowhere else."""


@dataclass(frozen=True, eq=False)
class SampledSection:
    """Points of all loops one after the other, each loop from its seam.

    ``points`` (s, 2) m; ``starts`` (l+1,) where loops begin; ``part`` (l,) part index; ``hole`` (l,);
    ``corner`` (s,); ``before`` and ``after`` (s, 2) outward unit normals on both sides of a point; ``u`` (s,)
    length round the loop from its seam; ``round_length`` (l,) whole lengths, m. ``kept_corners``: a count asked
    for fewer points than there are corners. ``is_open`` (l,) loops that are ribbons, walked so that their front is out;
    empty: none is. ``looks``: names of what sides look like, and ``look`` (s,) which of them the side from a point on
    has; without names all look as the run does.
    ``memo`` holds what follows from how the points are joined: handed on where they are only moved, sized or turned.
    """

    points: Points2
    starts: tuple[int, ...]
    part: tuple[int, ...]
    hole: tuple[bool, ...]
    corner: Flags
    before: Points2
    after: Points2
    u: Floats
    round_length: tuple[float, ...]
    kept_corners: bool = False
    memo: dict[str, Any] = field(default_factory=dict, repr=False)
    is_open: tuple[bool, ...] = ()
    looks: tuple[str, ...] = ()
    look: Index = field(default_factory=lambda: np.zeros(0, dtype=np.int64))

    @property
    def opens(self) -> tuple[bool, ...]:
        """(l,) loops that are ribbons: they end at their last point."""
        return self.is_open or (False,) * (len(self.starts) - 1)

    @property
    def loop_slices(self) -> list[slice]:
        return [slice(a, b) for a, b in zip(self.starts[:-1], self.starts[1:], strict=True)]

    @property
    def loop_ways(self) -> list[int]:
        """1 for counter-clockwise loops, -1 for holes."""
        return [-1 if hole else 1 for hole in self.hole]

    @cached_property
    def memo_placed(self) -> dict[str, Any]:
        """What follows from where the points lie; a section that is placed anew has none of it."""
        return {}

    @cached_property
    def outermost(self) -> Points2:
        """The points that are farthest out in 48 directions."""
        found: Points2 = self.points[extreme_points(self.points)]
        return found

    @cached_property
    def reach(self) -> float:
        """Largest distance from the anchor, m."""
        return float(np.sqrt((self.points**2).sum(1).max()))


def extreme_points(points: Points2, *, directions: int = 48) -> np.ndarray:
    """Indices of the points that are farthest out in evenly spread directions (all when there are few)."""
    if len(points) <= directions:
        return np.arange(len(points))
    angle = np.linspace(0.0, 2.0 * pi, directions, endpoint=False)
    return np.unique((points @ np.stack([np.cos(angle), np.sin(angle)])).argmax(0))


def sample_section(
    section: SectionShape, *, deviation: float | None = None, sides: int | None = None
) -> SampledSection:
    """Samples every loop: within ``deviation`` (m) of the true outline, or with ``sides`` points a loop.

    Raises DensityError when neither or both are given, or a value is out of range. A circle of n sides is
    regular, with a flat at the bottom. With fewer sides than corners the corners are kept.
    """
    if deviation is not None and not deviation > 0.0:
        raise DensityError(f"deviation is {deviation:g} m; it must be more than 0")
    if (deviation is None) == (sides is None):
        raise DensityError("a section is sampled by deviation or by sides, one of the two")
    if sides is not None and not 3 <= sides <= MOST_SIDES:
        raise DensityError(f"sides is {sides}; a section has 3 to {MOST_SIDES}")
    return kept_with(section, (deviation, sides), lambda: _sampled(section, deviation, sides))


def kept_with(section: SectionShape, key: tuple[Any, ...], make: Callable[[], V]) -> V:
    """What was made of an outline for a key, kept with it: the same object for as long as not too much is kept."""
    known: V | None = section.samples.get(key)  # another thread may clear it at any time
    if known is None:
        known = make()
        if len(section.samples) >= _KEPT_SAMPLES:
            section.samples.clear()
        section.samples[key] = known
    return known


def _sampled(section: SectionShape, deviation: float | None, sides: int | None) -> SampledSection:
    table = SegmentTable(section.loops)
    pieces, kept = pieces_of(section.loops, table, deviation, sides)
    rows = _all_points(table, pieces)
    starts = np.concatenate([[0], np.cumsum(pieces)])[table.first].tolist()
    is_open = tuple(loop.is_open for loop in section.loops)
    rows = _with_ribbons(table, is_open, starts, rows) if any(is_open) else rows
    points, corner = rows.points, rows.corner
    seams = [
        0 if is_round or ends else _seam(points[a:b], corner[a:b])
        for a, b, is_round, ends in zip(starts[:-1], starts[1:], table.is_round.tolist(), is_open, strict=True)
    ]
    order = np.concatenate(
        [a + (np.arange(b - a) + seam) % (b - a) for a, b, seam in zip(starts[:-1], starts[1:], seams, strict=True)]
    )
    step = rows.step[order]
    lengths = [np.cumsum(step[a:b]) for a, b in zip(starts[:-1], starts[1:], strict=True)]
    return SampledSection(
        frozen(points[order]),
        tuple(starts),
        tuple(i for i, p in enumerate(section.parts) for _ in range(1 + len(p.holes))),
        tuple(k > 0 for p in section.parts for k in range(1 + len(p.holes))),
        frozen(corner[order]),
        frozen(rows.before[order]),
        frozen(rows.after[order]),
        frozen(np.concatenate([np.concatenate([[0.0], x[:-1]]) for x in lengths])),
        tuple(float(x[-1]) for x in lengths),
        kept,
        is_open=is_open if any(is_open) else (),
        **side_looks(section.loops, pieces, starts, order),
    )


@dataclass(frozen=True, eq=False)
class _Rows:
    """Points (n, 2), corners (n,), normals before and after them (n, 2), and lengths to the next (n,)."""

    points: Points2
    corner: Flags
    before: Points2
    after: Points2
    step: Floats


def _with_ribbons(table: SegmentTable, is_open: tuple[bool, ...], starts: list[int], rows: _Rows) -> _Rows:
    """The rows of all loops, those of ribbons walked from their ends, so that their front is out. A ribbon's gap is one
    piece, whose start is the ribbon's end."""
    points, corner, before, after, step = (v.copy() for v in vars(rows).values())
    for i in np.flatnonzero(is_open):
        a, b = starts[i], starts[i + 1]
        last = _outward(table.slope(np.array([table.first[i + 1] - 2]), np.ones(1)))
        points[a:b] = rows.points[a:b][::-1]
        corner[a:b] = rows.corner[a:b][::-1]
        corner[[a, b - 1]] = False
        before[a:b] = -np.concatenate([rows.after[a : b - 1], last])[::-1]
        after[a:b] = -np.concatenate([rows.after[a : a + 1], rows.before[a + 1 : b - 1], last])[::-1]
        step[a:b] = np.append(rows.step[a : b - 1][::-1], 0.0)
    return _Rows(points, corner, before, after, step)


def _outward(slope: Points2) -> Points2:
    out: Points2 = np.array([slope[:, 1], -slope[:, 0]])
    out /= np.hypot(out[0], out[1])
    return out.T


def _all_points(table: SegmentTable, pieces: Index) -> _Rows:
    """The rows of all loops, one after the other."""
    k = np.repeat(np.arange(len(pieces)), pieces)
    n, whole = pieces[k], table.is_round[table.of][k]
    begins = np.cumsum(pieces) - pieces
    number = np.arange(len(k)) - begins[k]
    after = _outward(table.slope(k, (number + np.where(whole, 0.5, 0.0)) / n))
    before = after.copy()
    cornered = begins[table.corner & ~table.is_round[table.of]]
    before[cornered] = _outward(table.slope(table.previous[k[cornered]], np.ones(len(cornered))))
    corner = np.zeros(len(k), dtype=np.bool_)
    corner[cornered] = True
    t = (number[:, None] + NODES) / n[:, None]
    each = len(NODES)
    slopes = table.slope(np.repeat(k, each), t.ravel())
    step: Floats = (np.hypot(slopes[:, 0], slopes[:, 1]).reshape(-1, each) @ WEIGHTS) / n
    points = table.at(k, (number + np.where(whole, 0.5, 0.0)) / n)
    return _Rows(points, corner, before, after, step)


def _seam(points: Points2, corner: Flags) -> int:
    """Index of the first corner (first point where there is none) after mid-bottom, in the loop's direction."""
    target = np.array([0.5 * (points[:, 0].min() + points[:, 0].max()), points[:, 1].min()])
    a, b = points, np.roll(points, -1, axis=0)
    d = b - a
    t = np.clip(((target - a) * d).sum(1) / (d * d).sum(1), 0.0, 1.0)
    gap = ((a + d * t[:, None] - target) ** 2).sum(1)
    first = (int(np.argmin(gap)) + 1) % len(points)
    wanted = corner if corner.any() else np.ones(len(points), dtype=bool)
    return int((first + np.argmax(np.roll(wanted, -first))) % len(points))


def placed_section(
    sampled: SampledSection,
    *,
    anchor: tuple[float, float] = (0.0, 0.0),
    mirror: bool = False,
    size: float = 1.0,
    roll: float = 0.0,
) -> SampledSection:
    """Geometry order of placing: minus the anchor, mirrored x -> -x, times the size, rolled about the anchor.

    ``roll`` rad, counter-clockwise as drawn: from right towards up.
    """
    points = (sampled.points - np.array(anchor)) * size
    s, lengths = sampled, tuple(v * size for v in sampled.round_length)
    joined = (s.starts, s.part, s.hole, s.corner, s.before, s.after)
    rest = (s.kept_corners, s.memo, s.is_open, s.looks, s.look)
    out = SampledSection(frozen(points), *joined, frozen(s.u * size), lengths, *rest)
    out = _mirrored(out) if mirror else out
    return _rolled(out, roll) if roll else out


def with_seam(s: SampledSection, share: float) -> SampledSection:
    """The same points with every loop starting at the point nearest to a share (0..1) of its way round."""
    order, u = np.arange(len(s.points)), s.u.copy()
    for sl, whole, ends in zip(s.loop_slices, s.round_length, s.opens, strict=True):
        if ends:
            continue
        own = s.u[sl]
        gap = np.abs(own - share * whole)
        k = int(np.argmin(np.minimum(gap, whole - gap)))
        order[sl] = np.roll(order[sl], -k)
        u[sl] = np.roll(own, -k) - own[k]
        u[sl] = np.where(u[sl] < 0.0, u[sl] + whole, u[sl])
    names = ("points", "corner", "before", "after", *(("look",) if s.looks else ()))
    moved = {name: frozen(getattr(s, name)[order]) for name in names}
    return replace(s, u=frozen(u), memo={}, **moved)


def _rolled(s: SampledSection, roll: float) -> SampledSection:
    c, n = exact_turn(roll)
    turn = np.array([[c, n], [-n, c]])
    return replace(s, points=frozen(s.points @ turn), before=frozen(s.before @ turn), after=frozen(s.after @ turn))


def blended_section(blocks: tuple[SampledSection, ...], weights: Floats) -> SampledSection:
    """One outline between blocks of the same loops; its normals are those of the blended curve.

    ``weights`` (j,) of the blocks, their sum 1. A block's outline moves along its normal's turn as fast as its length
    grows from point to point, so normals are weighed by the lengths beside them.
    """
    first = blocks[0]
    points = np.einsum("j,jnc->nc", weights, np.stack([b.points for b in blocks]))
    before, after = (
        np.einsum("j,jnc->nc", weights, np.stack(v)) for v in zip(*map(weighed_normals, blocks), strict=True)
    )
    u = np.einsum("j,jn->n", weights, np.stack([b.u for b in blocks]))
    lengths = tuple(float(v) for v in weights @ np.array([b.round_length for b in blocks]))
    return replace(
        first,
        points=frozen(points),
        corner=frozen(np.any([b.corner for b in blocks], axis=0)),
        before=frozen(unit2(before)),
        after=frozen(unit2(after)),
        u=frozen(u),
        round_length=lengths,
        memo={},
    )


def weighed_normals(s: SampledSection) -> tuple[Points2, Points2]:
    """Normals before and after each point (n, 2), times the length of the side before and after it, m."""
    step = np.empty(len(s.points))
    for sl, total in zip(s.loop_slices, s.round_length, strict=True):
        step[sl] = np.diff(np.append(s.u[sl], total)) if total > 0.0 else _AS_GOOD_AS_NOTHING
    back = np.concatenate([np.roll(step[sl], 1) for sl in s.loop_slices])
    smooth = 0.5 * (step + back)  # where there is no corner both normals are one
    return (
        s.before * np.where(s.corner, back, smooth)[:, None],
        s.after * np.where(s.corner, step, smooth)[:, None],
    )


def unit2(v: Points2) -> Points2:
    out: Points2 = v / np.maximum(np.hypot(v[:, 0], v[:, 1]), 1e-300)[:, None]
    return out


def _mirrored(s: SampledSection) -> SampledSection:
    """x -> -x with every loop walked the other way, so that outside stays outside; the seam point stays."""
    order = np.concatenate(
        [
            np.arange(b - 1, a - 1, -1) if ends else np.r_[a, np.arange(b - 1, a, -1)]
            for a, b, ends in zip(s.starts[:-1], s.starts[1:], s.opens, strict=True)
        ]
    )
    flip = np.array([-1.0, 1.0])
    u = s.u.copy()
    for sl, whole, ends in zip(s.loop_slices, s.round_length, s.opens, strict=True):
        u[sl] = np.where((s.u[order[sl]] > 0.0) | ends, whole - s.u[order[sl]], 0.0)
    look = s.look
    if s.looks:
        onward = np.concatenate([np.roll(order[sl], -1) for sl in s.loop_slices])
        look = frozen(s.look[onward])
    return replace(
        s,
        look=look,
        points=frozen(s.points[order] * flip),
        corner=frozen(s.corner[order]),
        before=frozen(s.after[order] * flip),
        after=frozen(s.before[order] * flip),
        u=frozen(u),
        memo={},
    )


def section_width(section: SectionShape) -> float:
    """The nominal width, m: of stars and polygons the circle through the tips, of others the extent along x."""
    if section.nominal is not None:
        return section.nominal
    x0, y0, x1, y1 = section_bounds(section)
    if x1 - x0 <= _UPRIGHT * (y1 - y0) and section.parts[0].is_ribbon:
        return y1 - y0  # a ribbon that stands upright
    return x1 - x0
