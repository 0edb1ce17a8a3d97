"""The paths that pieces of a run lead to."""

from collections.abc import Callable

from morphax.build.built import BuiltPath
from morphax.core.path.resolved import ResolvedPath
from morphax.project.model.document import Path, Project, Run

LedTo = tuple[tuple[ResolvedPath, ...] | None, ...]


def led_to(project: Project, run: Run, measured: Callable[[Path], BuiltPath]) -> LedTo:
    """For each set of pieces of a run the measured path that it leads to, nothing in it where that is gone, None where
    it leads nowhere."""
    out: list[tuple[ResolvedPath, ...] | None] = []
    for own in run.recipe.sets:
        path: Path | None = project.find("paths", own.to)
        resolved = None if path is None else measured(path).resolved
        out.append(None if own.to is None else () if resolved is None else (resolved,))
    return tuple(out)
