"""Budgets of faces, for a run or for several together."""

from collections.abc import Mapping
from dataclasses import replace

from morphax.core.errors import DensityError
from morphax.project.edits.runs import with_runs
from morphax.project.model.document import Project, Run, evolve

LEAST = 4
"""A body has no fewer faces."""


def with_budget(project: Project, faces: Mapping[str, int], most: int) -> Project:
    """Runs that have ``most`` faces together, each by the share that it has of ``faces``: now, or within one deviation.

    What else was wished for of their rings is given up for it; typed sides stay. Of a run that is shown at a level it
    is that level's number. Raises DensityError for fewer than each of them needs.
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
        own, most = run.recipe.density, shares[run.id]
        rest = dict.fromkeys(("deviation", "rings", "spacing", "per_span", "sides_within"))
        density = replace(own, **({own.level: most} if own.level else {"budget": most, **rest}))
        return evolve(run, recipe=evolve(run.recipe, density=density))

    return with_runs(project, list(faces), changed)
