"""Edits of how sections sit on their paths: turned by quarters, mirrored."""

from collections.abc import Sequence
from math import pi

from morphax.project.edits.runs import with_runs
from morphax.project.model.document import Project, Run, evolve


def quarter_turned(project: Project, run_ids: Sequence[str]) -> Project:
    """Rolls sections by exactly 90 degrees, to above -180 and at most 180 degrees."""

    def turned(run: Run) -> Run:
        placing = run.recipe.placing
        quarters = round(placing.roll / (0.5 * pi), 9) + 1
        roll = 0.5 * pi * (quarters - 4 if quarters > 2 else quarters)
        return evolve(run, recipe=evolve(run.recipe, placing=evolve(placing, roll=roll)))

    return with_runs(project, run_ids, turned)


def flip_side(project: Project, run_ids: Sequence[str]) -> Project:
    """Mirrors the section so that it faces the other side of the path."""

    def flipped(run: Run) -> Run:
        placing = run.recipe.placing
        return evolve(run, recipe=evolve(run.recipe, placing=evolve(placing, flip=not placing.flip)))

    return with_runs(project, run_ids, flipped)
