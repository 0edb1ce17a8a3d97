"""Parts of a section united, cut out of each other, or what they have in common; arcs and curves stay exact."""

from collections.abc import Sequence
from typing import Literal

import numpy as np
import shapely

from morphax.core.errors import SectionError
from morphax.core.section.loop_edits import tidied
from morphax.core.section.nesting import nested
from morphax.core.section.sections import Part, refuse_ribbons
from morphax.core.section.traced import Pieces, loops_of

How = Literal["unite", "subtract", "intersect"]


def combined(first: Sequence[Part], second: Sequence[Part], how: How) -> tuple[Part, ...]:
    """What two groups of parts make together; parts of a group are united first.

    Raises SectionError where nothing is left.
    """
    refuse_ribbons((*first, *second))
    pieces = Pieces([loop for p in (*first, *second) for loop in (p.outer, *p.holes)])
    rings = iter(pieces.rings)
    regions = [_region([next(rings) for _ in range(1 + len(p.holes))]) for p in (*first, *second)]
    if how == "unite":
        made = shapely.union_all(regions)
    else:
        a, b = (shapely.union_all(r) for r in (regions[: len(first)], regions[len(first) :]))
        made = shapely.difference(a, b) if how == "subtract" else shapely.intersection(a, b)
    loops = [tidied(loop) for loop in loops_of(made, pieces)]
    if not loops:
        raise SectionError("nothing would be left of the outline")
    return nested(loops)


def united(parts: Sequence[Part]) -> tuple[Part, ...]:
    """All parts as one outline, or as few as they are apart; one that crosses itself is split where it does. Ribbons
    stay what they are."""
    solid, ribbons = [p for p in parts if not p.is_ribbon], tuple(p for p in parts if p.is_ribbon)
    return (*combined(solid, (), "unite"), *ribbons) if solid else ribbons


def _region(rings: Sequence[np.ndarray]) -> shapely.Geometry:
    made = shapely.Polygon(rings[0], rings[1:])
    return made if made.is_valid else shapely.make_valid(made)
