"""Edits of how things are shown and listed: hide, lock, ghost, order, groups. None of them changes a mesh."""

from collections.abc import Callable, Sequence
from typing import Any, TypeVar

from morphax.project.draft import Draft, unique_name
from morphax.project.edits.casting import SUFFIX
from morphax.project.edits.runs import Added
from morphax.project.lookup import group_by_id, path_of, section_by_id
from morphax.project.model.document import DocumentError, Group, Host, Project, Run, Show, evolve

S = TypeVar("S", Run, Host)


def _shown(project: Project, change: Callable[[str, Show], Show]) -> Project:
    """The project with each run's and host's show changed; those that stay equal stay the same objects."""

    def each(things: tuple[S, ...]) -> tuple[S, ...]:
        shows = [change(thing.id, thing.show) for thing in things]
        return tuple(t if s is t.show else evolve(t, show=s) for t, s in zip(things, shows, strict=True))

    return evolve(project, runs=each(project.runs), hosts=each(project.hosts))


def with_shows(project: Project, ids: Sequence[str], **changes: Any) -> Project:
    """Runs and hosts with fields of their show changed: ``hidden``, ``locked``, ``ghost``, ``group``."""
    draft = Draft(project)
    for wanted in ids:
        thing = draft.find("runs", wanted) or draft.find("hosts", wanted)
        if thing is not None:
            draft.put(evolve(thing, show=evolve(thing.show, **changes)))
    return draft.done()


def only_these(project: Project, ids: Sequence[str]) -> Project:
    """Hides all but some; shows everything again when nothing else is in sight."""
    wanted = set(ids)
    things: tuple[Run | Host, ...] = (*project.runs, *project.hosts)
    others = [t.id for t in things if t.id not in wanted and not t.show.hidden]
    if not others:
        return _shown(project, lambda _, show: evolve(show, hidden=False) if show.hidden else show)
    return with_shows(with_shows(project, others, hidden=True), ids, hidden=False)


def locked_change(before: Project, after: Project) -> str | None:
    """Name of a locked run or host whose body would change or that would go, or None."""
    for host in (h for h in before.hosts if h.show.locked):
        now_host = after.find("hosts", host.id)
        if now_host is None or evolve(now_host, show=host.show, ports=host.ports) != host:
            name: str = host.show.name
            return name
    for run in (r for r in before.runs if r.show.locked):
        now = after.find("runs", run.id)
        if now is None or now.recipe != run.recipe or path_of(after, run.id) != path_of(before, run.id):
            return run.show.name
        if any(section_by_id(before, s.section) != section_by_id(after, s.section) for s in run.recipe.stations):
            return run.show.name
    return None


def refuse_cast(before: Project, after: Project) -> None:
    """Raises DocumentError where an edit changes what the body of a cast run follows from; one that makes it live, or
    takes it out, does not."""
    if not any(a.suffix == SUFFIX for a in before.assets):
        return  # asked after each edit of thousands
    for run in (r for r in before.runs if r.cast is not None):
        now = after.find("runs", run.id)
        if now is None or now.cast != run.cast:
            continue
        was, path = (p.find("paths", run.recipe.path) for p in (before, after))
        moves = before.hosts is after.hosts and path is not was and path != was  # else what it holds on to has moved
        if moves or (now.recipe is not run.recipe and now.recipe != run.recipe):
            raise DocumentError(f"{run.show.name} is cast: Run, Make live opens it again")


def reordered(project: Project, run_ids: Sequence[str]) -> Project:
    """The runs in another order. Raises DocumentError unless it names each run once."""
    runs = {r.id: r for r in project.runs}
    if sorted(runs) != sorted(run_ids):
        raise DocumentError("the new order must name each run once")
    return evolve(project, runs=tuple(runs[i] for i in run_ids))


def grouped(project: Project, run_ids: Sequence[str], name: str = "Group") -> Added:
    """Puts runs under a new group, one after the other at the place of the first."""
    if not run_ids:
        raise DocumentError("choose the runs that are to stand in a group")
    draft = Draft(project)
    group = Group(id=draft.new_id("g"), name=draft.free_name("groups", name))
    draft.add(group)
    changed = with_shows(draft.done(), run_ids, group=group.id)
    wanted = set(run_ids)
    order = [r.id for r in changed.runs if r.id not in wanted]
    first = next(i for i, r in enumerate(changed.runs) if r.id in wanted)
    place = sum(r.id not in wanted for r in changed.runs[:first])
    members = [r.id for r in changed.runs if r.id in wanted]
    return Added(_without_empty(reordered(changed, [*order[:place], *members, *order[place:]])), (group.id,))


def ungrouped(project: Project, run_ids: Sequence[str]) -> Project:
    """Takes runs out of their groups; a group without runs goes."""
    return _without_empty(with_shows(project, run_ids, group=None))


def _without_empty(project: Project) -> Project:
    used = {r.show.group for r in project.runs}
    return evolve(project, groups=tuple(g for g in project.groups if g.id in used))


def rename_group(project: Project, group_id: str, name: str) -> Project:
    """Renames a group; a name that is taken gets a number. Raises DocumentError on an empty name."""
    if not name.strip():
        raise DocumentError("a name has at least one letter")
    group = group_by_id(project, group_id)
    others = [g.name for g in project.groups if g.id != group_id]
    renamed = evolve(group, name=unique_name(name.strip()[:110], others))
    return evolve(project, groups=tuple(renamed if g.id == group_id else g for g in project.groups))
