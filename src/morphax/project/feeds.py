"""What feeds what: a run with its section and what it holds on to, a section or host with the runs that have it."""

from collections.abc import Iterator

from morphax.project.lookup import path_by_id
from morphax.project.model.document import Project, Run


def related(project: Project, thing: str) -> frozenset[str]:
    """A run, section or host, and what belongs to it: a run's section and hosts; else the runs that have it."""
    run: Run | None = project.find("runs", thing)
    if run is not None:
        return frozenset({thing, *(s.section for s in run.recipe.stations), *_held(project, run)})
    if project.find("sections", thing) is not None:
        return frozenset({thing, *(r.id for r in project.runs if any(s.section == thing for s in r.recipe.stations))})
    if project.find("hosts", thing) is not None:
        return frozenset({thing, *(r.id for r in project.runs if thing in _held(project, r))})
    return frozenset()


def _held(project: Project, run: Run) -> set[str]:
    """What a run lies on, is cut to, or holds on to with its knots."""
    return {h for h in _all_held(project, run) if h}


def _all_held(project: Project, run: Run) -> Iterator[str]:
    yield run.recipe.host or ""
    for knot in path_by_id(project, run.recipe.path).knots:
        yield getattr(knot.hold, "host", "") or ""
