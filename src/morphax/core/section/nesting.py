"""Loops sorted into parts: one that lies in another is a hole of it, one in a hole a part again; the way they run."""

from collections import defaultdict
from collections.abc import Sequence

import numpy as np
import shapely

from morphax.core.section.outlines import Loop
from morphax.core.section.pieces import reversed_loop
from morphax.core.section.sections import Part
from morphax.core.section.segment_table import SegmentTable

_EACH = 24
"""Lines for a curve."""


def regions_of(loops: Sequence[Loop], each: int = _EACH) -> np.ndarray:
    """The regions inside loops, their curves as lines, as an array of polygons."""
    table = SegmentTable(loops)
    count = np.where(table.is_arc | table.is_cubic, each, 1)
    k = np.repeat(np.arange(len(count)), count)
    t = (np.arange(len(k)) - (np.cumsum(count) - count)[k]) / count[k]
    points = table.at(k, t)
    size = np.add.reduceat(count, table.first[:-1])
    ends = np.cumsum(size)
    return np.array(
        [shapely.Polygon(points[b - n : b]) if n >= 3 else shapely.Polygon() for b, n in zip(ends, size, strict=True)],
        dtype=object,
    )


def nested(loops: Sequence[Loop]) -> tuple[Part, ...]:
    """Parts with their holes from loops that may run either way; ribbons are parts of their own, as they run."""
    ribbons = tuple(Part(loop) for loop in loops if loop.is_open)
    loops = [loop for loop in loops if not loop.is_open]
    if not loops:
        return ribbons
    regions = regions_of(loops)
    left = shapely.is_ccw(shapely.get_exterior_ring(regions)).tolist()
    bad = ~shapely.is_valid(regions)
    regions[bad] = shapely.make_valid(regions[bad])
    area = shapely.area(regions)
    spots = shapely.point_on_surface(regions)
    around: list[list[int]] = [
        [j for j in range(len(loops)) if area[j] > area[i] and regions[j].contains(spots[i])] for i in range(len(loops))
    ]
    turned = [
        loop if is_left == (len(inside) % 2 == 0) else reversed_loop(loop)
        for loop, is_left, inside in zip(loops, left, around, strict=True)
    ]
    holes: dict[int, list[Loop]] = defaultdict(list)
    for i, inside in enumerate(around):
        if len(inside) % 2 == 1:
            holes[max(inside, key=lambda j: len(around[j]))].append(turned[i])
    solid = tuple(Part(turned[i], tuple(holes[i])) for i, inside in enumerate(around) if len(inside) % 2 == 0)
    return (*solid, *ribbons)
