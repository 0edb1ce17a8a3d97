"""What can be done with each kind of thing that can be chosen: found, named, shown and deleted. A table of kinds."""

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import groupby
from typing import Any

from morphax.project.edits.along import remove_station
from morphax.project.edits.hosts import delete_hosts, rename_host
from morphax.project.edits.paths import remove_knots
from morphax.project.edits.pieces import remove_sets
from morphax.project.edits.ports import delete_port
from morphax.project.edits.reshape import Reshaped
from morphax.project.edits.runs import delete_runs, rename_run
from morphax.project.edits.show import rename_group, ungrouped
from morphax.project.lookup import path_by_id, path_of
from morphax.project.model.document import DocumentError, Project, Show
from morphax.project.things import Selection, Thing, ThingKind

_LEAST_KNOTS = 2


@dataclass(frozen=True)
class ThingRow:
    """A kind: its ``word``; how those of one owner are found, ``None`` where one is gone; how they are deleted; how one
    is named, where it has a name."""

    word: str
    find: Callable[[Project, str, Sequence[str]], list[Any]]
    delete: Callable[[Project, str, Sequence[str]], Reshaped]
    name: Callable[[Project, str, str], Project] | None = None


def _of(collection: str) -> Callable[[Project, str, Sequence[str]], list[Any]]:
    return lambda project, _, ids: [project.find(collection, i) for i in ids]


def _knots(project: Project, run_id: str, ids: Sequence[str]) -> list[Any]:
    run = project.find("runs", run_id)
    own = {} if run is None else {k.id: k for k in path_by_id(project, run.recipe.path).knots}
    return [own.get(i) for i in ids]


def _without_knots(project: Project, run_id: str, ids: Sequence[str]) -> Reshaped:
    path = path_of(project, run_id)
    if len(path.knots) - len(ids) < _LEAST_KNOTS:
        raise DocumentError("a path keeps at least 2 knots; choose the run itself in the list to delete it")
    return remove_knots(project, path.id, ids)


def _ports(project: Project, host_id: str, ids: Sequence[str]) -> list[Any]:
    host = project.find("hosts", host_id)
    own = {} if host is None else {p.id: p for p in host.ports}
    return [own.get(i) for i in ids]


def _without_ports(project: Project, host_id: str, ids: Sequence[str]) -> Reshaped:
    for port_id in ids:
        project = delete_port(project, host_id, port_id)
    return Reshaped(project)


def _stations(project: Project, run_id: str, ids: Sequence[str]) -> list[Any]:
    run = project.find("runs", run_id)
    own = {} if run is None else {s.id: s for s in run.recipe.stations}
    return [own.get(i) for i in ids]


def _without_stations(project: Project, run_id: str, ids: Sequence[str]) -> Reshaped:
    for station_id in ids:
        project = remove_station(project, run_id, station_id)
    return Reshaped(project)


def _sets(project: Project, run_id: str, ids: Sequence[str]) -> list[Any]:
    run = project.find("runs", run_id)
    own = {} if run is None else {s.id: s for s in run.recipe.sets}
    return [own.get(i) for i in ids]


def _dissolved(project: Project, ids: Sequence[str]) -> Project:
    """Without groups; what stood in them stays."""
    return ungrouped(project, [r.id for r in project.runs if r.show.group in ids])


THINGS: dict[ThingKind, ThingRow] = {
    ThingKind.RUN: ThingRow(
        "run", _of("runs"), lambda project, _, ids: Reshaped(delete_runs(project, ids)), rename_run
    ),
    ThingKind.HOST: ThingRow(
        "host", _of("hosts"), lambda project, _, ids: Reshaped(delete_hosts(project, ids)), rename_host
    ),
    ThingKind.GROUP: ThingRow(
        "group", _of("groups"), lambda project, _, ids: Reshaped(_dissolved(project, ids)), rename_group
    ),
    ThingKind.KNOT: ThingRow("knot", _knots, _without_knots),
    ThingKind.PORT: ThingRow("port", _ports, _without_ports),
    ThingKind.STATION: ThingRow("station", _stations, _without_stations),
    ThingKind.PIECES: ThingRow("set of pieces", _sets, lambda p, run, ids: Reshaped(remove_sets(p, run, ids))),
}


def _by_owner(things: Iterable[Thing]) -> dict[tuple[ThingKind, str], list[Thing]]:
    """Things by kind and owner: those of one owner are looked up, and go, together."""
    out = dict[tuple[ThingKind, str], list[Thing]]()
    for key, some in groupby(things, key=lambda thing: (thing.kind, thing.owner)):
        out.setdefault(key, []).extend(some)
    return out


def _looked_up(project: Project, things: Iterable[Thing]) -> Iterator[tuple[Thing, Any]]:
    """Things as they are in a project; None with those that are gone."""
    for (kind, owner), some in _by_owner(things).items():
        yield from zip(some, THINGS[kind].find(project, owner, [t.id for t in some]), strict=True)


def found(project: Project, things: Iterable[Thing]) -> dict[Thing, Any]:
    """Those of the things that a project has, as they are in it."""
    return {thing: entity for thing, entity in _looked_up(project, things) if entity is not None}


def thing_of(project: Project, entity_id: str) -> Thing | None:
    """The run, host or group with an id."""
    whole = (Thing(kind, entity_id) for kind in (ThingKind.RUN, ThingKind.HOST, ThingKind.GROUP))
    return next(iter(found(project, whole)), None)


def still_there(selection: Selection, project: Project) -> Selection:
    """The selection without what is gone."""
    gone = {thing for thing, entity in _looked_up(project, selection.things) if entity is None}
    return Selection(tuple(t for t in selection.things if t not in gone)) if gone else selection


def shows(project: Project, things: Iterable[Thing]) -> list[Show]:
    """How those of the things are shown that can be hidden, locked or ghosts."""
    return [entity.show for _, entity in _looked_up(project, things) if hasattr(entity, "show")]


def renamed(project: Project, thing: Thing, name: str) -> Project:
    """A thing with another name; one that is taken gets a number. Raises DocumentError where it has none."""
    row = THINGS[thing.kind]
    if row.name is None:
        raise DocumentError(f"a {row.word} has no name of its own")
    return row.name(project, thing.id, name)


def deleted(project: Project, things: Iterable[Thing]) -> Reshaped:
    """Without things; how far the path of removed knots moved. Raises DocumentError where one can't be spared."""
    moved = 0.0
    for (kind, owner), some in _by_owner(things).items():
        done = THINGS[kind].delete(project, owner, [t.id for t in some])
        project, moved = done.project, max(moved, done.deviation)
    return Reshaped(project, moved)
