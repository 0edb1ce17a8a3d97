"""The walk: everything that follows from something else, brought up to date in one order."""

from collections.abc import Callable, Iterable

from morphax.project.derive.beside import renew_beside
from morphax.project.derive.coils import wound_anew
from morphax.project.derive.graph import Graph, in_order, reads_of
from morphax.project.derive.holds import with_held_knots
from morphax.project.derive.images import renew_image
from morphax.project.derive.leads import RunsOn, follows_width, with_bend, with_leads
from morphax.project.derive.rests import rested_runs, rests, with_rests
from morphax.project.derive.strands import renew_strands
from morphax.project.draft import Draft
from morphax.project.model.document import Path, Project, Run
from morphax.project.model.paths import BesideOf, runs_between_ports

Step = Callable[[Project, Path], Path]
STEPS: tuple[Step, ...] = (with_held_knots, wound_anew)
"""What is done to each path that reads something, in this order. A step gives the same path where nothing changed."""


def derived(project: Project, suspects: Iterable[str] | None = None) -> Project:
    """The document with all that follows from something else as it should be; itself where it is so already.

    ``suspects``: ids of paths, and of runs that are images, that may be behind; None looks at all.
    """
    if suspects is None:
        suspects = [p.id for p in project.paths if reads_of(p) or p.bend is not None or rests(p)]
        suspects += [r.id for r in project.runs if r.like is not None or r.recipe.strands is not None]
    runs, following = RunsOn(project), None
    behind: dict[str, Path] = {}
    for name in _each_after_what_it_reads(project, suspects):
        path: Path | None = project.find("paths", name)
        if path is None or path.follows is not None:
            if following is None:
                following, behind = Draft(_with(project, behind)), {}
            if path is not None and isinstance(path.follows, BesideOf):
                renew_beside(following, path, runs)
            else:
                renew_image(following, name)
                _renew_run(following, name)
            continue
        if following is not None:
            project, following = following.done(), None
            runs = RunsOn(project)
        reads = reads_of(path) if behind else ()
        if reads and not behind.keys().isdisjoint(_read_by(project, path)):
            project, behind = _with(project, behind), {}
        now = with_leads(runs, path)
        for step in STEPS:
            now = step(project, now)
        now = with_bend(project, runs, now)
        now = with_rests(project, now, runs) if rests(now) else now
        if now is not path:
            behind[name] = now
    return _with(project, behind) if following is None else following.done()


def _renew_run(draft: Draft, name: str) -> None:
    """Brings a run of strands up to what its guides are."""
    run: Run | None = draft.find("runs", name)
    if run is not None and run.recipe.strands is not None:
        renew_strands(draft, run)


def _each_after_what_it_reads(project: Project, suspects: Iterable[str]) -> list[str]:
    """Ids of the paths among some, each behind those that it reads, through runs too."""
    suspects = list(suspects)
    paths: dict[str, Path] = {i: p for i in suspects if (p := project.find("paths", i)) is not None}
    images = [i for i in suspects if i not in paths]
    between = {r for p in paths.values() for r in rested_runs(p)}
    if images or any(p.follows is not None for p in paths.values()):
        names = [*paths, *images]
        found = in_order(project, [*names, *sorted(between - set(names))])
        return [i for i in found if i not in between or i in images]
    if not between and all(paths.keys().isdisjoint(reads_of(p)) for p in paths.values()):
        return list(paths)
    return [i for i in in_order(project, [*paths, *sorted(between)]) if i not in between]


def _read_by(project: Project, path: Path) -> tuple[str, ...]:
    """Ids of what a path reads, and of the paths of the runs that it rests on."""
    runs = (project.find("runs", i) for i in rested_runs(path))
    return (*reads_of(path), *(run.recipe.path for run in runs if run is not None))


def _with(project: Project, paths: dict[str, Path]) -> Project:
    """The document with paths by their ids in the place of those that it has."""
    if not paths:
        return project
    draft = Draft(project)
    for path in paths.values():
        draft.put(path)
    return draft.done()


def followed(project: Project, before: Project) -> Project:
    """The document with all that follows from what changed since ``before`` as it should be."""
    graph = Graph()
    graph.move_to(before)
    return brought_up(graph, project)[0]


def brought_up(graph: Graph, project: Project) -> tuple[Project, set[str]]:
    """Moves a graph to a document in which all follows as it should; that document, and the ids of what changed or
    follows from what changed since the graph's last one."""
    now = affected = graph.affected(graph.move_to(project))
    seen = set[str]()
    while behind := _behind(project, now, seen):  # what was brought up to date is, but for circles
        seen |= behind
        done = derived(project, sorted(behind))
        if done is project:
            break
        project, now = done, graph.affected(graph.move_to(done))
        affected = affected | now
    return project, affected


def _behind(project: Project, affected: Iterable[str], seen: set[str]) -> set[str]:
    """Ids of paths that may be behind, but for those that were ``seen``: those that read something, and those whose
    leads or rests follow a run."""
    out = set[str]()
    for name in affected:
        if name in seen:
            continue
        path: Path | None = project.find("paths", name)
        run = project.find("runs", name) if path is None else None
        if path is not None and (reads_of(path) or path.bend is not None or rests(path)):
            out.add(name)
        if run is not None and (run.like is not None or run.recipe.strands is not None):
            out.add(name)
        elif run is not None and run.recipe.path not in seen and run.recipe.path not in out:
            own: Path = project.find("paths", run.recipe.path)
            if (
                isinstance(own.follows, BesideOf)
                or follows_width(own)
                or own.bend is not None
                or runs_between_ports(own)
                or rests(own)
            ):
                out.add(own.id)
    return out
