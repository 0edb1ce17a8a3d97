"""Edits of runs: pure functions from a project to a project."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from morphax.core.path.paths import PathKind
from morphax.core.section.sampling import section_width
from morphax.project.lookup import run_by_id, run_width, section_shape
from morphax.project.model.document import (
    DocumentError,
    FileSource,
    Knot,
    Path,
    Place,
    Project,
    ReadyMadeSource,
    Recipe,
    Run,
    Section,
    Show,
    Station,
    evolve,
    source_title,
)

Source = ReadyMadeSource | FileSource


@dataclass(frozen=True)
class Added:
    """A project with new things in it, and their ids."""

    project: Project
    ids: tuple[str, ...]


def unique_name(wanted: str, taken: Sequence[str]) -> str:
    """``wanted``, with the next free number behind it when it is taken."""
    if wanted not in taken:
        return wanted
    stem, _, tail = wanted.rpartition(" ")
    base = stem if stem and tail.isdigit() else wanted
    number = 2
    while f"{base} {number}" in taken:
        number += 1
    return f"{base} {number}"


def with_run(project: Project, run_id: str, change: Callable[[Run], Run]) -> Project:
    """The project with one run changed; the others stay the same objects."""
    run_by_id(project, run_id)
    return evolve(project, runs=tuple(change(r) if r.id == run_id else r for r in project.runs))


def with_recipe(project: Project, run_ids: Sequence[str], **changes: Any) -> Project:
    """The project with fields of several runs' recipes changed."""
    for run_id in run_ids:
        project = with_run(project, run_id, lambda r: evolve(r, recipe=evolve(r.recipe, **changes)))
    return project


def shared_section(project: Project, source: Source) -> tuple[Project, str]:
    """A section with this source: the one that is in use already, else a new one."""
    for section in project.sections:
        if section.source == source:
            return project, section.id
    name = unique_name(source_title(source), [s.name for s in project.sections])
    section = Section(id=f"s{project.next_id}", name=name, source=source)
    return evolve(project, sections=(*project.sections, section), next_id=project.next_id + 1), section.id


@dataclass(frozen=True)
class NewRun:
    """What the next run is made of; ``width`` m, None for the section's own; ``like`` gives the rest of its recipe."""

    source: Source
    width: float | None = None
    name: str | None = None
    material: str | None = None
    like: Recipe | None = None


def add_run(
    project: Project,
    kind: PathKind,
    places: Sequence[Place],
    new: NewRun,
    *,
    closed: bool = False,
    handles: Mapping[int, Place] | None = None,
) -> Added:
    """Adds a run on a new path through ``places``; ids are the run, the path and the knots in order.

    ``handles``: leaving handles of some knots of a handles path; those knots are in line.
    """
    project, section_id = shared_section(project, new.source)
    n = project.next_id
    straight = kind is PathKind.STRAIGHT
    plain = (
        Knot(id=f"k{n + 2 + i}", place=p, kind="corner" if straight else "smooth", curved=not straight)
        for i, p in enumerate(places)
    )
    knots = tuple(_with_handle(k, (handles or {}).get(i)) for i, k in enumerate(plain))
    path = Path(id=f"p{n}", kind=kind, closed=closed, knots=knots)
    own = section_width(section_shape(next(s for s in project.sections if s.id == section_id)))
    size = 1.0 if new.width is None else new.width / own
    name = unique_name(new.name or source_title(new.source), [r.show.name for r in project.runs])
    run_id = f"r{n + 1}"
    station = Station(id=f"t{n + 2 + len(knots)}", section=section_id)
    recipe = Recipe(path=path.id, stations=(station,), size=size)
    if new.like is not None:
        recipe = evolve(new.like, path=path.id, stations=(station,), size=size)
    run = Run(id=run_id, recipe=recipe, show=Show(name=name, material=new.material))
    changed = evolve(
        project,
        paths=(*project.paths, path),
        runs=(*project.runs, run),
        next_id=n + 3 + len(knots),
    )
    return Added(changed, (run_id, path.id, *(k.id for k in knots)))


def _with_handle(knot: Knot, leaving: Place | None) -> Knot:
    if leaving is None:
        return knot
    x, y, z = leaving
    return evolve(knot, kind="in line", coming=(-x, -y, -z), leaving=leaving)


def delete_runs(project: Project, run_ids: Sequence[str]) -> Project:
    """The project without these runs, and without the paths and sections that nothing uses any more."""
    runs = tuple(r for r in project.runs if r.id not in set(run_ids))
    used_paths = {r.recipe.path for r in runs}
    used_sections = {s.section for r in runs for s in r.recipe.stations}
    return evolve(
        project,
        runs=runs,
        paths=tuple(p for p in project.paths if p.id in used_paths),
        sections=tuple(s for s in project.sections if s.id in used_sections),
    )


def duplicate_runs(project: Project, run_ids: Sequence[str], *, offset: Place = (0.0, 0.0, 0.0)) -> Added:
    """Copies runs with own copies of their paths, moved by ``offset``; sections stay shared."""
    ids = []
    for run_id in run_ids:
        run = run_by_id(project, run_id)
        path = next(p for p in project.paths if p.id == run.recipe.path)
        n, made = project.next_id, path.made
        shift = (0.0, 0.0, 0.0) if made is not None and made.around is not None else offset  # a coil stays on its path
        knots = tuple(
            evolve(k, id=f"k{n + 3 + i}", place=_moved(k.place, shift), hold=None) for i, k in enumerate(path.knots)
        )
        made = None if made is None else evolve(made, at=_moved(made.at, shift))
        copied = evolve(path, id=f"p{n}", knots=knots, made=made)
        stations = tuple(evolve(s, id=f"t{n + 2}") for s in run.recipe.stations)
        name = unique_name(run.show.name, [r.show.name for r in project.runs])
        twin = Run(
            id=f"r{n + 1}",
            recipe=evolve(run.recipe, path=copied.id, stations=stations),
            show=evolve(run.show, name=name),
        )
        ids.append(twin.id)
        project = evolve(
            project,
            paths=(*project.paths, copied),
            runs=(*project.runs, twin),
            next_id=n + 3 + len(knots),
        )
    return Added(project, tuple(ids))


def _moved(place: Place, offset: Place) -> Place:
    return (place[0] + offset[0], place[1] + offset[1], place[2] + offset[2])


def set_width(project: Project, run_ids: Sequence[str], width: float) -> Project:
    """Sets the body's width at the first station by the run's size. Raises DocumentError unless positive."""
    if not 0.0 < width < 1e6:
        raise DocumentError("a width is more than 0")
    for run_id in run_ids:
        size = run_by_id(project, run_id).recipe.size * width / run_width(project, run_id)
        project = with_recipe(project, [run_id], size=size)
    return project


def set_section(project: Project, run_ids: Sequence[str], source: Source) -> Project:
    """Gives runs another section at the width that they have; what nothing uses any more goes."""
    for run_id in run_ids:
        width = run_width(project, run_id)
        project, section_id = shared_section(project, source)
        run = run_by_id(project, run_id)
        station = evolve(run.recipe.stations[0], section=section_id)
        project = with_recipe(project, [run_id], stations=(station,))
        project = set_width(project, [run_id], width)
    used = {s.section for r in project.runs for s in r.recipe.stations}
    return evolve(project, sections=tuple(s for s in project.sections if s.id in used))


def flip_side(project: Project, run_ids: Sequence[str]) -> Project:
    """Mirrors the section so that it faces the other side of the path."""
    for run_id in run_ids:
        placing = run_by_id(project, run_id).recipe.placing
        project = with_recipe(project, [run_id], placing=evolve(placing, flip=not placing.flip))
    return project


def rename_run(project: Project, run_id: str, name: str) -> Project:
    """Renames a run; a name that is taken gets a number. Raises DocumentError on an empty name."""
    if not name.strip():
        raise DocumentError("a name has at least one letter")
    others = [r.show.name for r in project.runs if r.id != run_id]
    unique = unique_name(name.strip()[:110], others)
    return with_run(project, run_id, lambda r: evolve(r, show=evolve(r.show, name=unique)))


def rename_host(project: Project, host_id: str, name: str) -> Project:
    """Names a host; a name that is taken gets a number."""
    taken = [h.show.name for h in project.hosts if h.id != host_id]
    shown = unique_name(name.strip() or "Host", taken)
    hosts = (evolve(h, show=evolve(h.show, name=shown)) if h.id == host_id else h for h in project.hosts)
    return evolve(project, hosts=tuple(hosts))


def set_hidden(project: Project, ids: Sequence[str], hidden: bool) -> Project:
    """Hides or shows runs and hosts."""
    wanted = set(ids)

    def shown(things: tuple[Any, ...]) -> tuple[Any, ...]:
        return tuple(evolve(t, show=evolve(t.show, hidden=hidden)) if t.id in wanted else t for t in things)

    return evolve(project, runs=shown(project.runs), hosts=shown(project.hosts))


def set_section_value(project: Project, run_ids: Sequence[str], key: str, value: float) -> Project:
    """Changes a value of the runs' sections (for all runs that share them). Raises SectionError out of range."""
    wanted = {s.section for r in run_ids for s in run_by_id(project, r).recipe.stations}

    def changed(section: Section) -> Section:
        if not isinstance(section.source, ReadyMadeSource):
            raise DocumentError(f"the section {section.name} comes from a file: it has no values")
        values = tuple(sorted({**dict(section.source.values), key: value}.items()))
        return evolve(section, source=evolve(section.source, values=values))

    return evolve(project, sections=tuple(changed(s) if s.id in wanted else s for s in project.sections))
