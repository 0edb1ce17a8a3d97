"""Checks of outlines that were not made by us: they repair nothing."""

import numpy as np
import shapely

from morphax.core.findings import Finding, Severity
from morphax.core.section.outlines import Loop
from morphax.core.section.sections import SectionShape


def section_errors(section: SectionShape) -> tuple[Finding, ...]:
    """Findings of severity error on an outline that was not made by us: no area, crossing itself, a hole outside."""
    if not section.is_free:
        return ()
    t = np.linspace(0.0, 1.0, 16, endpoint=False)

    def polygon(loop: Loop) -> shapely.Polygon:
        return shapely.Polygon(np.concatenate([s.at(t) for s in loop.segments]))

    for part in section.parts:
        outer = polygon(part.outer)
        if not outer.area > 0.0:
            return (Finding("section-no-area", Severity.ERROR, "The section's outline has no area."),)
        if not all(p.is_valid for p in (outer, *map(polygon, part.holes))):
            message = "The section's outline crosses itself, so it has no inside."
            return (Finding("section-crossing", Severity.ERROR, message),)
        if not all(outer.covers(polygon(h)) for h in part.holes):
            return (Finding("hole-outside", Severity.ERROR, "A hole of the section lies outside its outline."),)
    return ()
