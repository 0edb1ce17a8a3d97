"""Insets: the outline of a part at a distance inside it, point by point with the section's own, for rounded ends."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely

from morphax.core.section.sampling import SampledSection
from morphax.core.types import Flags, Floats, Ints, Points2

_SHARE = 0.98
"""How much of a part's inner radius an inset may take; a round part may take all."""
_SEGMENTS = 32
"""Chords of a quarter turn where the inset goes round a corner that points inwards."""
_ROUGH = 6
"""Chords of a quarter turn where insets are only looked at."""
_STEPS, _FEW_STEPS, _MANY = 33, 9, 2000
"""Insets that are tried one after the other, fewer for outlines of many points."""
_GONE, _STEADY, _FINEST = 0.12, 1.5, 2e-4
"""A piece that is gone at once is longer than this share of the part's inner radius; what draws back by so many times
the step of the inset is steady; steps are halved down to this share."""
_MEET = 1e-7
"""Points nearer than this share of the part's extent have met."""


@dataclass(frozen=True, eq=False)
class PartInset:
    """How a part of a section is inset.

    ``loops`` (n, 2) m of its outline and its holes, ``ways`` (n, 2) each in which a point goes while it can, m per
    metre; ``most`` m that the inset can take, 0 where the outline crosses itself; ``splits``: farther in, the outline
    would fall apart.
    """

    index: int
    loops: tuple[Points2, ...]
    ways: tuple[Points2, ...]
    most: float
    is_round: bool
    splits: bool


def insets_of(section: SampledSection) -> tuple[PartInset, ...]:
    """The insets of all parts; kept with the section."""
    known: tuple[PartInset, ...] | None = section.memo_placed.get("insets")
    if known is None:
        solid = sorted({p for p, ends in zip(section.part, section.opens, strict=True) if not ends})
        known = section.memo_placed["insets"] = tuple(_part(section, p) for p in solid)
    return known


def _part(section: SampledSection, part: int) -> PartInset:
    slices = [sl for sl, p in zip(section.loop_slices, section.part, strict=True) if p == part]
    ways = _ways(section)
    loops, own = tuple(section.points[sl] for sl in slices), tuple(ways[sl] for sl in slices)
    if len(loops) == 1 and (radius := _round_radius(loops[0], own[0])):
        return PartInset(part, loops, own, radius, True, False)
    polygon = shapely.Polygon(loops[0], loops[1:])
    if not polygon.is_valid:  # between two sections an outline may cross itself
        return PartInset(part, loops, own, 0.0, False, False)
    if len(loops) == 2 and (wall := _even_wall(*loops)):
        return PartInset(part, loops, own, _SHARE * 0.5 * wall, False, False)
    inner = float(shapely.maximum_inscribed_circle(polygon, tolerance=1e-4 * float(np.sqrt(polygon.area))).length)
    most, splits = _most_inset(polygon, inner, len(loops[0]))
    return PartInset(part, loops, own, most, False, splits)


def _most_inset(polygon: shapely.Polygon, inner: float, count: int) -> tuple[float, bool]:
    """How far a region of an inner radius, m, may be inset, and whether it would fall apart farther in."""
    most = _SHARE * inner
    if polygon.convex_hull.area <= polygon.area * (1.0 + 1e-9):
        return most, False
    steps = np.linspace(0.0, most, _STEPS if count < _MANY else _FEW_STEPS)
    for between in pairwise(steps.tolist()):
        end = _first_break(polygon, between, _GONE * inner, _FINEST * inner)
        if end is not None:
            return end, True
    return most, False


def _even_wall(outer: Points2, hole: Points2) -> float:
    """The wall between two circles about one middle, as far as their chords go, m; 0 where there is none."""
    middle = outer.mean(0)
    r, h = (np.hypot(*(loop - middle).T) for loop in (outer, hole))
    even = max(float(np.ptp(r)), float(np.ptp(h))) <= 1e-9 * float(r.max())
    return float(r.max() * np.cos(np.pi / len(outer)) - h.max()) if even else 0.0


def _first_break(polygon: shapely.Polygon, between: tuple[float, float], slack: float, least: float) -> float | None:
    """The first inset between two, m, at which the outline falls apart or a piece of it is gone at once; else None."""
    low, high = between
    if _goes_on(polygon, low, high, slack):
        return None
    if high - low < least:
        return low
    middle = 0.5 * (low + high)
    first = _first_break(polygon, (low, middle), slack, least)
    return first if first is not None else _first_break(polygon, (middle, high), slack, least)


def _ways(section: SampledSection) -> Points2:
    """Inwards: along both sides' normals at a corner that points outwards, straight in where it points inwards."""
    before, after = section.before, section.after
    n = before + after
    turn = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    mitred = np.maximum(1.0 + (before * after).sum(1), 1e-6)
    out: Points2 = -n / np.where(turn >= 0.0, mitred, np.maximum(np.hypot(n[:, 0], n[:, 1]), 1e-12))[:, None]
    return out


def _round_radius(loop: Points2, ways: Points2) -> float:
    """The inset at which all points of a loop are one, m; 0 where there is none."""
    middle = loop.mean(0)
    radii = np.hypot(*(loop - middle).T)
    radius = float(radii.mean())
    if np.ptp(radii) > 1e-9 * radius:
        return 0.0
    gone = loop + radius * ways
    return radius if float(np.abs(gone - middle).max()) < 1e-9 * radius else 0.0


def _buffered(polygon: shapely.Polygon, by: float, segments: int = _SEGMENTS) -> shapely.Geometry:
    return shapely.buffer(polygon, -by, quad_segs=segments)


def _goes_on(polygon: shapely.Polygon, low: float, high: float, slack: float) -> bool:
    """Whether the inset by ``high`` is still one outline, and all of the inset by ``low`` is near it, or within
    ``slack``: a leg of even thickness is gone at once, a tip draws back steadily."""
    inside = _buffered(polygon, high, _ROUGH)
    same = inside.geom_type == "Polygon" and not inside.is_empty
    if not same or len(inside.interiors) != len(polygon.interiors):
        return False
    near = shapely.buffer(inside, max(slack, _STEADY * (high - low)), quad_segs=_ROUGH)
    return bool(shapely.covers(near, _buffered(polygon, low, _ROUGH)))


def inset_points(part: PartInset, by: Floats) -> Floats:
    """Points (r, n, 2) of a part's loops, one after the other, inset by each of ``by`` (r,) m, at most ``most``.

    A point goes straight in while that keeps it as far from the whole outline as it should be; then it lies at the
    nearest place of the inset outline, and keeps its order round the loop: points may meet there.
    """
    plain = np.concatenate(part.loops) + by[:, None, None] * np.concatenate(part.ways)
    if part.is_round:
        return plain
    polygon = shapely.Polygon(part.loops[0], part.loops[1:])
    edge = shapely.boundary(polygon)
    out, extent = plain.copy(), float(np.ptp(part.loops[0], axis=0).max())
    for k, d in enumerate(by):
        far = shapely.distance(shapely.points(plain[k]), edge)
        inside = shapely.contains_xy(polygon, plain[k][:, 0], plain[k][:, 1])
        straight = (inside & (np.abs(far - d) <= 1e-6 * extent)) | (d <= 0.0)
        if not straight.all():
            out[k] = _on_inset(part, _largest(_buffered(polygon, float(d))), plain[k], straight)
    return out


def _largest(inset: shapely.Geometry) -> shapely.Polygon:
    """The largest piece: where an outline is about to fall apart, specks of it may do so already."""
    return max(shapely.get_parts(inset), key=shapely.area) if inset.geom_type != "Polygon" else inset


def _on_inset(part: PartInset, inset: shapely.Polygon, plain: Points2, straight: Flags) -> Points2:
    rings = [inset.exterior, *_holes_in_order(part, inset)]
    starts = np.cumsum([0, *(len(lp) for lp in part.loops)])
    out = plain.copy()
    for loop, ring, a, b in zip(part.loops, rings, starts[:-1], starts[1:], strict=True):
        if not straight[a:b].all():
            out[a:b] = _in_order(loop, ring, plain[a:b], straight[a:b])
    return out


def _holes_in_order(part: PartInset, inset: shapely.Polygon) -> list[shapely.LinearRing]:
    """The inset's holes in the order of the part's own: each holds one; lost ones stay as they are."""
    rings = list(inset.interiors)
    if not rings:
        return [shapely.LinearRing(lp) for lp in part.loops[1:]]
    areas = [shapely.Polygon(ring) for ring in rings]
    nearest = [int(np.argmin(shapely.distance(areas, shapely.Point(lp[0])))) for lp in part.loops[1:]]
    return [rings[k] for k in nearest]


def _in_order(loop: Points2, ring: shapely.LinearRing, plain: Points2, straight: Flags) -> Points2:
    """Places of a loop's points on the inset ring, never back round it."""
    way = _area(np.asarray(ring.coords)) > 0.0
    if way is not (_area(loop) > 0.0):
        ring = shapely.reverse(ring)
    whole, first = ring.length, int(np.argmax(straight))
    aim = np.where(straight[:, None], plain, loop)
    at = np.roll(shapely.line_locate_point(ring, shapely.points(aim)), -first)
    step = np.diff(at, append=at[0])
    step = np.where(step > 0.5 * whole, step - whole, np.where(step < -0.5 * whole, step + whole, step))
    along = np.minimum(np.maximum.accumulate(at[0] + np.concatenate([[0.0], np.cumsum(step[:-1])])), at[0] + whole)
    found = np.roll(shapely.get_coordinates(shapely.line_interpolate_point(ring, along % whole)), first, axis=0)
    kept = straight & (np.roll(np.abs(along % whole - at % whole), first) < 1e-9 * whole)
    return np.where(kept[:, None], plain, found)


def _area(points: Points2) -> float:
    x, y = points[:, 0], points[:, 1]
    return float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum())


def met_points(part: PartInset, points: Points2) -> Ints:
    """(n,) for each of a part's inset points (n, 2) the first of its loop with which it has met: mostly itself."""
    counts = [len(lp) for lp in part.loops]
    limit, start = _MEET * float(np.ptp(part.loops[0], axis=0).max()), 0
    out: Ints = np.arange(len(points), dtype=np.int32)
    for count in counts:
        own = points[start : start + count]
        new = np.hypot(*(own - np.roll(own, 1, axis=0)).T) > limit
        if not new.any():
            out[start : start + count] = start
        else:
            last_new = np.maximum.accumulate(np.where(new, np.arange(count), -1))
            out[start : start + count] = start + np.where(last_new < 0, last_new[-1], last_new)
        start += count
    return out


def loops_left(part: PartInset, met: Ints) -> Sequence[Ints]:
    """Indices of the points that are still apart, loop by loop; empty where the outline is gone."""
    starts = np.cumsum([0, *(len(lp) for lp in part.loops)])
    loops = [np.unique(met[a:b]) for a, b in zip(starts[:-1], starts[1:], strict=True)]
    return loops if len(loops[0]) > 2 else []
