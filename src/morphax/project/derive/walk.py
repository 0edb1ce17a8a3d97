"""The walk: everything that follows from something else, brought up to date in one order."""

from collections.abc import Callable, Iterable

from morphax.project.derive.coils import wound_anew
from morphax.project.derive.graph import Graph, in_order, reads_of
from morphax.project.derive.holds import with_held_knots
from morphax.project.derive.leads import Widths, follows_width, with_leads
from morphax.project.draft import Draft
from morphax.project.model.document import Path, Project

Step = Callable[[Project, Path], Path]
STEPS: tuple[Step, ...] = (with_held_knots, wound_anew)
"""What is done to each path that reads something, in this order. A step gives the same path where nothing changed."""


def derived(project: Project, suspects: Iterable[str] | None = None) -> Project:
    """The document with all that follows from something else as it should be; itself where it is so already.

    ``suspects``: ids of paths that may be behind; None looks at all.
    """
    if suspects is None:
        suspects = [p.id for p in project.paths if reads_of(p)]
    widths = Widths(project)
    order = in_order(project, [i for i in suspects if project.find("paths", i) is not None])
    for name in order:
        path: Path = project.find("paths", name)
        now = with_leads(widths, path)
        for step in STEPS:
            now = step(project, now)
        if now is not path:
            draft = Draft(project)
            draft.put(now)
            project = draft.done()
    return project


def followed(project: Project, before: Project) -> Project:
    """The document with all that follows from what changed since ``before`` as it should be."""
    graph = Graph()
    graph.move_to(before)
    return brought_up(graph, project)[0]


def brought_up(graph: Graph, project: Project) -> tuple[Project, set[str]]:
    """Moves a graph to a document in which all follows as it should; that document, and the ids of what changed or
    follows from what changed since the graph's last one."""
    affected = graph.affected(graph.move_to(project))
    done = derived(project, sorted(_behind(project, affected)))
    if done is not project:
        affected |= graph.affected(graph.move_to(done))
    return done, affected


def _behind(project: Project, affected: Iterable[str]) -> set[str]:
    """Ids of paths that may be behind: those that read something, and those whose leads follow a run's width."""
    out = set[str]()
    for name in affected:
        path: Path | None = project.find("paths", name)
        run = project.find("runs", name) if path is None else None
        if path is not None and reads_of(path):
            out.add(name)
        elif run is not None and follows_width(project.find("paths", run.recipe.path)):
            out.add(run.recipe.path)
    return out
