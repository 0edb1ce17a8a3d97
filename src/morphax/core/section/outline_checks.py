"""Checks of outlines that were not made by us: they repair nothing."""

import numpy as np
import shapely

from morphax.core.findings import Finding, Severity
from morphax.core.section.sections import SectionShape
from morphax.core.section.segment_table import SegmentTable

_PLACES = 16
"""Places on a curve."""
_NO_AREA = Finding("section-no-area", Severity.ERROR, "The section's outline has no area.")
_CROSSING = Finding("section-crossing", Severity.ERROR, "The section's outline crosses itself, so it has no inside.")
_OUTSIDE = Finding("hole-outside", Severity.ERROR, "A hole of the section lies outside its outline.")


def section_errors(section: SectionShape) -> tuple[Finding, ...]:
    """Findings of severity error on an outline that was not made by us: no area, crossing itself, a hole outside."""
    if not section.is_free:
        return ()
    loops = section.loops
    table = SegmentTable(loops)
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
