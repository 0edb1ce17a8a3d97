"""Budgets of faces, for a run or for several together."""

from collections.abc import Mapping

from morphax.core.errors import DensityError
from morphax.project.edits.runs import with_runs
from morphax.project.model.document import Density, Project, Run, evolve

LEAST = 4
"""A body has no fewer faces."""


def with_budget(project: Project, faces: Mapping[str, int], most: int) -> Project:
    """Runs that have ``most`` faces together, each by the share that it has of ``faces``: now, or within one deviation.

    What else was wished for of their rings is given up for it; typed sides stay. Raises DensityError for fewer than
    each of them needs.
    """
    if most < LEAST * max(len(faces), 1):
        raise DensityError(f"{most} faces are too few for {len(faces)} runs")
    whole = max(sum(faces.values()), 1)
    shares = {i: max(LEAST, most * own // whole) for i, own in faces.items()}
    over = sum(shares.values()) - most
    for i in sorted(shares, key=lambda i: -shares[i]):  # what the smallest ones got more the largest give
        given = min(max(over, 0), shares[i] - LEAST)
        shares[i], over = shares[i] - given, over - given

    def changed(run: Run) -> Run:
        own = run.recipe.density
        density = Density(sides=own.sides, budget=shares[run.id], crease=own.crease)
        return evolve(run, recipe=evolve(run.recipe, density=density))

    return with_runs(project, list(faces), changed)
