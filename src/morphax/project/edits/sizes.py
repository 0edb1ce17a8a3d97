"""The width or the height of a run's section changed alone."""

from dataclasses import replace

import numpy as np

from morphax.core.section.ready_made import completed
from morphax.core.section.repeats import about
from morphax.core.section.sections import anchor_place
from morphax.project.edits.outlines import with_outline
from morphax.project.edits.runs import set_section_value, set_width
from morphax.project.lookup import drawn_shape, run_by_id, run_width, section_of
from morphax.project.model.document import DocumentError, Project, ReadyMadeSource

_HEIGHT = "height"


def sized_alone(project: Project, run_id: str, share: float, *, upright: bool) -> Project:
    """A run's section so many times as high (``upright``), or as wide, about its anchor; the other size stays.

    All runs that share the section follow. Raises DocumentError where a section has one size only, or is rolled.
    """
    run, section = run_by_id(project, run_id), section_of(project, run_id)
    if run.recipe.placing.roll:
        raise DocumentError("a section that is rolled is sized in proportion")
    source = section.source
    if not isinstance(source, ReadyMadeSource):
        shape, anchor = drawn_shape(source), run.recipe.placing.anchor
        place = anchor_place(shape, shape.laying.anchor if anchor is None else anchor)
        matrix = np.diag([1.0, share] if upright else [share, 1.0])
        return with_outline(
            project, section.id, replace(shape, parts=tuple(about(p, matrix, place) for p in shape.parts))
        )
    values = completed(source.name, dict(source.values))
    if _HEIGHT not in values:
        raise DocumentError(f"{section.name} has one size: its width and height go together")
    if upright:
        return set_section_value(project, (run_id,), _HEIGHT, values[_HEIGHT] * share)
    wider = set_width(project, [run_id], run_width(project, run_id) * share)
    return set_section_value(wider, (run_id,), _HEIGHT, values[_HEIGHT] / share)
