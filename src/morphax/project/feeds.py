"""What feeds what: a run with its section and what it holds on to, a section or host with the runs that have it."""

from collections import Counter
from collections.abc import Iterator

from morphax.project.derive.images import likes_of
from morphax.project.derive.strands import strands_between
from morphax.project.lookup import path_by_id
from morphax.project.model.document import Path, Project, Run


def related(project: Project, thing: str) -> frozenset[str]:
    """A run, section or host, and what belongs to it: a run's section and hosts; else the runs that have it."""
    run: Run | None = project.find("runs", thing)
    if run is not None:
        own = {thing, *(s.section for s in run.recipe.stations), *_held(project, run)}
        return frozenset(own | _tied(project, run))
    if project.find("sections", thing) is not None:
        return frozenset({thing, *(r.id for r in project.runs if any(s.section == thing for s in r.recipe.stations))})
    if project.find("hosts", thing) is not None:
        return frozenset({thing, *(r.id for r in project.runs if thing in _held(project, r))})
    return frozenset()


_TIES = {"mirror": "mirror", "row": "repeat", "round": "repeat", "beside": "beside"}


def tie_of(project: Project, run: Run) -> str | None:
    """How a run is tied to others: mirror, repeat, beside or between where it follows some, shared where another has
    its path; cast where it follows nothing any more."""
    path: Path | None = project.find("paths", run.recipe.path)
    if run.cast is not None:
        return "cast"
    if run.recipe.strands is not None and run.like is None:
        return "between"
    if path is not None and path.follows is not None:
        return _TIES[path.follows.kind]
    return "shared" if path_users(project)[run.recipe.path] > 1 else None


def path_users(project: Project) -> Counter[str]:
    """How many runs are on each path; counted once for a document's runs."""
    known: tuple[object, Counter[str]] | None = project.__dict__.get("_path_users")
    if known is None or known[0] is not project.runs:
        known = project.__dict__["_path_users"] = (project.runs, Counter(r.recipe.path for r in project.runs))
    return known[1]


def _tied(project: Project, run: Run) -> set[str]:
    """The original of an image and its images; the runs on the path that one runs beside."""
    path: Path | None = project.find("paths", run.recipe.path)
    out = {r.id for r in likes_of(project).get(run.id, ())} | ({run.like} if run.like else set())
    out |= {r.id for r in strands_between(project).get(run.id, ())}
    if run.recipe.strands is not None and run.like is None:
        return out | set(run.recipe.strands.of)
    if path is not None and path.follows is not None and run.like is None:
        out |= {r.id for r in project.runs if r.recipe.path == path.follows.path}
    return out


def _held(project: Project, run: Run) -> set[str]:
    """What a run lies on, is cut to, or holds on to with its knots."""
    return {h for h in _all_held(project, run) if h}


def _all_held(project: Project, run: Run) -> Iterator[str]:
    yield run.recipe.host or ""
    for own in run.recipe.sets:
        yield from (own.foot or "", own.of or "")
    for knot in path_by_id(project, run.recipe.path).knots:
        yield getattr(knot.hold, "host", "") or ""
