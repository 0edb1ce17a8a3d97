"""Checks of outlines that were not made by us: they repair nothing."""

from dataclasses import replace
from math import hypot

import numpy as np
import shapely

from morphax.core.findings import Finding, Severity
from morphax.core.section.nesting import regions_of
from morphax.core.section.sampling import kept_with
from morphax.core.section.sections import SectionShape
from morphax.core.section.segment_table import SegmentTable

_PLACES = 16
"""Places on a curve."""
_NO_AREA = Finding("section-no-area", Severity.ERROR, "The section's outline has no area.")
_CROSSING = Finding("section-crossing", Severity.ERROR, "The section's outline crosses itself, so it has no inside.")
_DOUBLED = Finding("section-doubled", Severity.ERROR, "Two points of the section's outline lie on each other.")
_OVERLAP = Finding("section-overlap", Severity.WARNING, "Parts of the section overlap, so bodies lie in each other.")
_TINY = "The section's outline has {} of less than {} per cent of its size."
LEAST_SIDE, _LEAST_AREA = 5e-4, 1e-6
"""Shares of the outline's size, and of the smaller part's area, from which on a side and an overlap count."""
_OUTSIDE = Finding("hole-outside", Severity.ERROR, "A hole of the section lies outside its outline.")


def section_errors(section: SectionShape) -> tuple[Finding, ...]:
    """Findings of severity error on an outline that was not made by us: points that lie on each other, no area,
    crossing itself, a hole outside."""
    if not section.is_free:
        return ()
    section = replace(section, parts=tuple(p for p in section.parts if not p.is_ribbon))
    loops = section.loops
    if not loops:
        return ()
    table = SegmentTable(loops)
    if any(s.start == s.end and s.inner is None for loop in loops if len(loop.segments) > 1 for s in loop.segments):
        return (_DOUBLED,)
    each = np.where(table.is_arc | table.is_cubic, _PLACES, 1)
    k = np.repeat(np.arange(len(each)), each)
    t = (np.arange(len(k)) - (np.cumsum(each) - each)[k]) / each[k]
    sizes = np.add.reduceat(each, table.first[:-1])
    few = sizes < 3  # of so few places nothing is a region: what is wrong with it is said
    if few.any():
        return (_NO_AREA,)
    regions = shapely.polygons(shapely.linearrings(table.at(k, t), indices=np.repeat(np.arange(len(loops)), sizes)))
    part = np.array([i for i, p in enumerate(section.parts) for _ in range(1 + len(p.holes))])
    is_hole = np.array([n > 0 for p in section.parts for n in range(1 + len(p.holes))])
    outer = regions[~is_hole]
    crossed = np.zeros(len(outer), dtype=bool)
    np.logical_or.at(crossed, part, ~shapely.is_valid(regions))
    for i in np.flatnonzero(~(shapely.area(outer) > 0.0) | crossed)[:1]:
        return (_CROSSING if shapely.area(outer[i]) > 0.0 else _NO_AREA,)
    if not shapely.covers(outer[part[is_hole]], regions[is_hole]).all():
        return (_OUTSIDE,)
    return ()


def section_warnings(section: SectionShape) -> tuple[Finding, ...]:
    """What is to be looked at on an outline that was not made by us, though it can be swept: parts that overlap, and
    sides that are too short to be meant."""
    return kept_with(section, ("warnings",), lambda: _warnings(section)) if section.is_free else ()


def _warnings(section: SectionShape) -> tuple[Finding, ...]:
    out = []
    if sum(not p.is_ribbon for p in section.parts) > 1 and _overlap(section):
        out.append(_OVERLAP)
    x0, y0, x1, y1 = section.bounds
    least = LEAST_SIDE * max(x1 - x0, y1 - y0)
    sides = (s for loop in section.loops for s in loop.drawn)
    short = sum(hypot(s.end[0] - s.start[0], s.end[1] - s.start[1]) < least and not s.is_curved for s in sides)
    if short:
        words = "a side" if short == 1 else f"{short} sides"
        out.append(Finding("section-tiny", Severity.NOTE, _TINY.format(words, f"{100.0 * LEAST_SIDE:g}")))
    return tuple(out)


def _overlap(section: SectionShape) -> bool:
    """Whether two parts have more in common than a line."""
    parts = [p for p in section.parts if not p.is_ribbon]
    regions = iter(regions_of([loop for p in parts for loop in (p.outer, *p.holes)]))
    solid = []
    for part in parts:
        own = next(regions)
        solid.append(own.difference(shapely.union_all([next(regions) for _ in part.holes])))
    tree = shapely.STRtree(solid)
    a, b = tree.query(solid, predicate="intersects")
    pairs = [(i, j) for i, j in zip(a.tolist(), b.tolist(), strict=True) if i < j]
    return any(solid[i].intersection(solid[j]).area > _LEAST_AREA * min(solid[i].area, solid[j].area) for i, j in pairs)
