"""Bodies of strands between runs: their guides measured, and what those carry."""

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from morphax.build.built import BuiltPath
from morphax.core.body.guides import Guide
from morphax.core.body.nearby import Nearby
from morphax.core.body.profiles import Carries
from morphax.core.body.recipe import Body, Keep, Recipe
from morphax.core.body.single_strands import SingleStrand, single_strands
from morphax.core.body.strands import strands_body
from morphax.core.body.sweep import finished
from morphax.core.errors import PathError
from morphax.core.findings import Finding, Severity
from morphax.core.mesh.mesh import empty_mesh
from morphax.core.path.resolved import ResolvedPath
from morphax.core.section.sections import SectionShape
from morphax.core.types import frozen
from morphax.project.derive.strands import guides_of
from morphax.project.lookup import path_by_id
from morphax.project.model.document import Path, Project, Run

_NOWHERE = frozen(np.zeros((2, 3)))
Measure = Callable[[Path], BuiltPath]
CarriedBy = Callable[[Project, Run, ResolvedPath], SectionShape | Carries]
NearBy = Callable[[Run], Nearby]
Asked = tuple[Measure, CarriedBy, NearBy]
"""How paths are measured, what runs carry, and what they lie near."""


def strands_of(project: Project, run: Run, recipe: Recipe, asked: Asked, keep: Keep) -> Body:
    """The body of a run that is strands, with the ends, density and range of a ``recipe``."""
    strands, own = run.recipe.strands, asked[0](path_by_id(project, run.recipe.path))
    length = 0.0 if own.resolved is None else own.resolved.length
    guides, lost = _guides(project, run, asked)
    if lost or strands is None:
        return Body(empty_mesh(), lost, length, False)
    made = strands_body(guides, strands.rule, recipe, keep)
    body = Body(
        finished(made.mesh, recipe, keep),
        made.findings,
        length,
        False,
        frozen(made.shares * length),
        made.width,
        made.height,
        made.sides,
    )
    return replace(body, start_axes=made.axes, end_axes=made.axes, end_places=made.ends) if len(made.shares) else body


def _guides(project: Project, run: Run, asked: Asked) -> tuple[Sequence[Guide], tuple[Finding, ...]]:
    """The guides of a run of strands, and what is to be said of those that can't be measured."""
    (measure, carried_by, near_by), guides, lost = asked, list[Guide](), list[Finding]()
    for other in guides_of(project, run):
        path = path_by_id(project, other.recipe.path)
        built = measure(path)
        if built.resolved is None:
            said = f"The path of {other.show.name} can't be measured now."
            lost.append(Finding("guide-lost", Severity.ERROR, said))
            continue
        what, name = carried_by(project, other, built.resolved), other.show.name
        guides.append(Guide(built.resolved, what, other.recipe, near_by(other), other.recipe.reference, name))
    return guides, tuple(lost)


def strands_alone(project: Project, run: Run, asked: Asked) -> list[SingleStrand]:
    """The strands of a run by themselves. Raises PathError where there are none now."""
    guides, lost = _guides(project, run, asked)
    if lost or run.recipe.strands is None:
        raise PathError(lost[0].message if lost else f"{run.show.name} is no strands")
    return single_strands(guides, run.recipe.strands.rule)
