"""The paths, and hosts, that pieces of a run lead to."""

from collections.abc import Callable

from morphax.build.built import BuiltPath
from morphax.core.body.nearby import HostQuery
from morphax.core.path.resolved import ResolvedPath
from morphax.project.model.document import Host, Path, Project, Recipe, Run

StoodOn = tuple[tuple[HostQuery, ...] | None, ...]
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


def feet_of(project: Project, recipe: Recipe) -> list[Host]:
    """The hosts to which sets of pieces reach, those that there are."""
    return [h for s in recipe.sets if s.foot is not None and (h := project.find("hosts", s.foot)) is not None]


def stood_on(project: Project, run: Run, query_of: Callable[[str], HostQuery | None]) -> StoodOn:
    """For each set of pieces of a run the host that it reaches to, nothing in it where that is gone, None where it
    reaches to none."""
    out: list[tuple[HostQuery, ...] | None] = []
    for own in run.recipe.sets:
        found = None if own.foot is None else query_of(own.foot)
        out.append(None if own.foot is None else () if found is None else (found,))
    return tuple(out)
