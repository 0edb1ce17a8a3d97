"""Cures of what is found in sections' outlines: pure functions from a project to a project."""

from collections.abc import Callable
from dataclasses import replace
from math import hypot

from morphax.core.errors import SectionError
from morphax.core.section.combining import united
from morphax.core.section.loop_edits import removed, tidied
from morphax.core.section.nesting import nested, regions_of
from morphax.core.section.outline_checks import LEAST_SIDE
from morphax.core.section.outlines import Loop
from morphax.core.section.sections import Part, SectionShape
from morphax.project.edits.outlines import plain_shape, with_outline
from morphax.project.lookup import section_of
from morphax.project.model.document import Project

Parts = tuple[Part, ...]


def _redrawn(project: Project, run_id: str, change: Callable[[SectionShape], Parts]) -> Project:
    section = section_of(project, run_id)
    shape = plain_shape(section.source)
    return with_outline(project, section.id, replace(shape, parts=change(shape)))


def unite_parts(project: Project, run_id: str) -> Project:
    """Parts that overlap, or an outline that crosses itself, as outlines that don't."""
    return _redrawn(project, run_id, lambda shape: united(shape.parts))


def sort_outlines(project: Project, run_id: str) -> Project:
    """Outlines that lie in others as holes of them, and holes that lie in none as parts."""
    return _redrawn(project, run_id, lambda shape: nested(shape.loops))


def tidy_outlines(project: Project, run_id: str) -> Project:
    """Without points that lie on each other, and sides that are too short to be meant."""
    return _redrawn(project, run_id, lambda shape: nested([_tidy(loop, shape) for loop in shape.loops]))


def _tidy(loop: Loop, shape: SectionShape) -> Loop:
    x0, y0, x1, y1 = shape.bounds
    least = LEAST_SIDE * max(x1 - x0, y1 - y0)
    made = tidied(loop)
    short = [k for k, s in enumerate(made.segments) if not s.is_curved and _length(s.start, s.end) < least]
    try:
        return removed(made, short) if short else made
    except SectionError:
        return made  # what would be left encloses nothing: it stays as it is


def _length(a: tuple[float, float], b: tuple[float, float]) -> float:
    return hypot(b[0] - a[0], b[1] - a[1])


def drop_empty(project: Project, run_id: str) -> Project:
    """Without outlines that have no area. Raises SectionError where all are such."""

    def left(shape: SectionShape) -> Parts:
        areas = (r.area for r in regions_of(shape.loops))
        kept = [loop for loop, area in zip(shape.loops, areas, strict=True) if area > 0.0]
        if not kept:
            raise SectionError("no outline of this section has an area; give the run another one")
        return nested(kept)

    return _redrawn(project, run_id, left)
