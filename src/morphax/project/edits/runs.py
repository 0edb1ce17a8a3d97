"""Edits of runs: pure functions from a project to a project."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np

from morphax.core.path.paths import PathKind
from morphax.project.derive.along import with_knots
from morphax.project.derive.images import on_its_own, set_free
from morphax.project.derive.strands import lead_to_own_guides, without_guides
from morphax.project.draft import Draft, unique_name
from morphax.project.edits.casting import drop_unused_casts
from morphax.project.edits.resting import slid
from morphax.project.edits.rewinding import coils_round, wound_onto
from morphax.project.edits.station_values import (
    as_laid,
    lead_to_copies,
    with_fitting_marks,
    with_own_sets,
    with_own_stations,
)
from morphax.project.lookup import path_of, refuse_laid, run_by_id, section_of
from morphax.project.model.document import (
    DocumentError,
    Knot,
    OutlineSource,
    Path,
    Place,
    Project,
    ReadyMadeSource,
    Recipe,
    RestHold,
    Run,
    Section,
    Show,
    Station,
    StationLike,
    copied,
    evolve,
    source_title,
)
from morphax.project.ready_looks import ReadyLook, material_for

Source = ReadyMadeSource | OutlineSource


@dataclass(frozen=True)
class Added:
    """A project with new things in it, and their ids."""

    project: Project
    ids: tuple[str, ...]


def with_run(project: Project, run_id: str, change: Callable[[Run], Run]) -> Project:
    """The project with one run changed; the others stay the same objects."""
    return with_runs(project, [run_id], change)


def with_runs(project: Project, run_ids: Sequence[str], change: Callable[[Run], Run]) -> Project:
    """The project with several runs changed."""
    draft = Draft(project)
    for run_id in run_ids:
        draft.put(change(draft.run(run_id)))
    return draft.done()


def with_recipe(project: Project, run_ids: Sequence[str], **changes: Any) -> Project:
    """The project with fields of several runs' recipes changed."""
    return with_runs(project, run_ids, lambda r: evolve(r, recipe=evolve(r.recipe, **changes)))


def with_placing(project: Project, run_ids: Sequence[str], **changes: Any) -> Project:
    """The project with fields of several runs' placing changed."""
    return with_part(project, run_ids, "placing", **changes)


def with_part(
    project: Project, run_ids: Sequence[str], part: Literal["placing", "ends", "density"], **changes: Any
) -> Project:
    """The project with fields of a part of several runs' recipes changed; the others of the part stay each run's."""

    def changed(run: Run) -> Run:
        now = evolve(getattr(run.recipe, part), **changes)
        return evolve(run, recipe=evolve(run.recipe, **{part: now}))

    return with_runs(project, run_ids, changed)


def shared_section(draft: Draft, source: Source) -> str:
    """The id of a section with this source: the one that is in use already, else a new one."""
    for section in draft.items("sections"):
        if section.source is source or section.source == source:
            found: str = section.id
            return found
    name = draft.free_name("sections", source_title(source))
    made = Section(id=draft.new_id("s"), name=name, source=source)
    draft.add(made)
    return made.id


def width_of(draft: Draft, run: Run) -> float:
    """Width of a run's body at its first station, m."""
    first, strands = run.recipe.stations[0], run.recipe.strands
    if strands is not None and (guide := draft.find("runs", strands.of[0])) is not None:
        return width_of(draft, guide) * strands.rule.size_from
    return run.recipe.size * first.scale * draft.section_width(first.section)


@dataclass(frozen=True)
class NewRun:
    """What the next run is made of; ``width`` m, None for the section's own; ``like`` gives the rest of its recipe.

    Its look is a ``material`` of the document, or a ready-made ``look``; ``stations``: all of several sections.
    """

    source: Source
    width: float | None = None
    name: str | None = None
    material: str | None = None
    like: Recipe | None = None
    look: ReadyLook | None = None
    stations: tuple[StationLike, ...] = ()


def stations_like(draft: Draft, stations: Sequence[StationLike], size: float) -> tuple[Station, ...]:
    """Stations for a run of a size; their sections are those of the project that are just so, else new ones."""

    def made(like: StationLike) -> Station:
        section = shared_section(draft, like.source)
        scale = like.width / (size * draft.section_width(section))
        return Station(id=draft.new_id("t"), section=section, scale=scale, **as_laid(like))

    return tuple(made(s) for s in stations)


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
    draft = Draft(project)
    section_id = shared_section(draft, new.source)
    path_id, run_id = draft.new_id("p"), draft.new_id("r")
    straight = kind is PathKind.STRAIGHT
    plain = (
        Knot(id=draft.new_id("k"), place=p, kind="corner" if straight else "smooth", curved=not straight)
        for p in places
    )
    knots = tuple(_with_handle(k, (handles or {}).get(i)) for i, k in enumerate(plain))
    path = Path(id=path_id, kind=kind, closed=closed, knots=knots)
    own = draft.section_width(section_id)
    size = 1.0 if new.width is None else new.width / own
    name = draft.free_name("runs", new.name or source_title(new.source))
    station = Station(id=draft.new_id("t"), section=section_id)
    recipe = Recipe(path=path.id, stations=(station,), size=size)
    if new.like is not None:
        sets = with_own_sets(draft, new.like.sets)
        recipe = evolve(new.like, path=path.id, stations=(station,), size=size, sets=sets)
    if new.stations:
        recipe = evolve(recipe, stations=stations_like(draft, new.stations, size))
    draft.add(path)
    material = new.material if new.look is None else material_for(draft, new.look)
    draft.add(Run(id=run_id, recipe=recipe, show=Show(name=name, material=material)))
    return Added(draft.done(), (run_id, path.id, *(k.id for k in knots)))


def _with_handle(knot: Knot, leaving: Place | None) -> Knot:
    if leaving is None:
        return knot
    x, y, z = leaving
    return evolve(knot, kind="in line", coming=(-x, -y, -z), leaving=leaving)


def delete_runs(project: Project, run_ids: Sequence[str]) -> Project:
    """The project without these runs, and without the paths and sections that nothing uses any more."""
    draft = Draft(project)
    draft.drop("runs", [*run_ids, *without_guides(draft, run_ids)])
    drop_unused(draft)
    drop_unused_casts(draft)
    return draft.done()


def drop_unused(draft: Draft) -> None:
    """Takes out the paths that no run uses, and such ready-made sections; own ones stay in the stock."""
    drop_unused_paths(draft)
    sections = {s.section for r in draft.items("runs") for s in r.recipe.stations}
    draft.drop("sections", (s.id for s in draft.items("sections") if s.id not in sections and is_ready(s)))


def drop_unused_paths(draft: Draft) -> None:
    """Takes out the paths that no run uses; what followed them goes on as it is."""
    paths = {r.recipe.path for r in draft.items("runs")}
    gone = {p.id for p in draft.items("paths") if p.id not in paths}
    draft.drop("paths", gone)
    set_free(draft, gone)


def is_ready(section: Section) -> bool:
    """Whether a section is a ready-made one: those from files are the project's own."""
    return isinstance(section.source, ReadyMadeSource)


def add_section(project: Project, source: Source) -> Project:
    """The project with a section in its stock; itself where it is there already."""
    draft = Draft(project)
    shared_section(draft, source)
    return draft.done()


def drop_section(project: Project, section_id: str) -> Project:
    """The project without one of its own sections. Raises DocumentError where a run uses it."""
    users = [r.show.name for r in project.runs if any(s.section == section_id for s in r.recipe.stations)]
    if users:
        more = "" if len(users) == 1 else f" and {len(users) - 1} more"
        raise DocumentError(f"{users[0]}{more} uses this section: give it another one first")
    draft = Draft(project)
    draft.drop("sections", [section_id])
    return draft.done()


def duplicate_runs(project: Project, run_ids: Sequence[str], *, offset: Place = (0.0, 0.0, 0.0)) -> Added:
    """Copies runs with own copies of their paths, moved by ``offset``; sections stay shared.

    A coil's copy winds round the copy of its path where that is among them, else it stays where it is.
    """
    draft, old = Draft(project), [path_of(project, i) for i in run_ids]
    still, staying = (0.0, 0.0, 0.0), _staying(old)
    pairs = zip(run_ids, old, strict=True)
    ids = [_duplicated(draft, draft.run(i), still if p.id in staying else offset) for i, p in pairs]
    copies: dict[str, list[str]] = {}
    for path, i in zip(old, ids, strict=True):
        copies.setdefault(path.id, []).append(draft.run(i).recipe.path)
    lead_to_copies(draft, ids, copies)
    lead_to_own_guides(draft, dict(zip(run_ids, ids, strict=True)))
    for path in coils_round(old, copies):
        if path.made is not None and path.made.around in copies:
            for twin in copies[path.id]:
                draft.put(wound_onto(draft.path(twin), draft.path(copies[path.made.around][0])))
    return Added(draft.done(), tuple(ids))


def _staying(paths: Sequence[Path]) -> set[str]:
    """Ids of coils whose path is not among these, and of those that wind round such a coil."""
    around = {p.id: p.made.around for p in paths if p.made is not None and p.made.around is not None}
    ids, out = {p.id for p in paths}, set[str]()
    while more := {i for i, a in around.items() if a not in ids or a in out} - out:
        out |= more
    return out


def _duplicated(draft: Draft, run: Run, shift: Place) -> str:
    path = on_its_own(draft.path(run.recipe.path), draft)
    made = path.made
    path_id, twin_id = draft.new_id("p"), draft.new_id("r")
    knots = tuple(
        copied(k, id=draft.new_id("k"), place=_moved(k.place, shift), hold=_copied_hold(k, shift)) for k in path.knots
    )
    if made is not None and made.around is None:  # a coil lies where its path is
        made = copied(made, at=_moved(made.at, shift), rest=_copied_rest(made.rest, shift))
    draft.add(copied(path, id=path_id, knots=knots, made=made))
    name = draft.free_name("runs", run.show.name)
    twins = dict(zip((k.id for k in path.knots), (k.id for k in knots), strict=True))
    stations = with_own_stations(draft, run.recipe.stations, twins)
    recipe = copied(run.recipe, path=path_id, stations=stations, varying=with_knots(run.recipe.varying, twins))
    recipe = copied(recipe, sets=with_own_sets(draft, recipe.sets)) if recipe.sets else recipe
    draft.add(copied(run, id=twin_id, recipe=recipe, show=copied(run.show, name=name), like=None, cast=None))
    return twin_id


def _copied_hold(knot: Knot, shift: Place) -> RestHold | None:
    """Copies hold on to nothing, but what rests does so at its new place too, where it moves along what it lies on."""
    if isinstance(knot.hold, RestHold) and knot.hold.run is not None and any(shift):
        return None  # beside what it lay on
    moved = slid(knot, _moved(knot.place, shift))
    flat = isinstance(moved.hold, RestHold) and np.allclose(moved.place, _moved(knot.place, shift), rtol=0.0, atol=1e-9)
    return moved.hold if flat and isinstance(moved.hold, RestHold) else None


def _copied_rest(rest: RestHold | None, shift: Place) -> RestHold | None:
    """What a copied ready-made path lies on: the same, where it moves along a flat side of that."""
    if rest is None or abs(float(np.array(rest.up) @ np.array(shift))) > 1e-9 or (rest.run is not None and any(shift)):
        return None
    return copied(rest, foot=_moved(rest.foot, shift))


def _moved(place: Place, offset: Place) -> Place:
    return (place[0] + offset[0], place[1] + offset[1], place[2] + offset[2])


def set_width(project: Project, run_ids: Sequence[str], width: float) -> Project:
    """Sets the body's width at the first station by the run's size. Raises DocumentError unless positive."""
    if not 0.0 < width < 1e6:
        raise DocumentError("a width is more than 0")
    draft = Draft(project)
    for run_id in run_ids:
        run = draft.run(run_id)
        draft.put(_with_width(draft, run, width))
    return draft.done()


def _with_width(draft: Draft, run: Run, width: float) -> Run:
    own, strands = width_of(draft, run), run.recipe.strands
    if strands is not None:
        factor = width / own
        rule = replace(strands.rule, size_from=strands.rule.size_from * factor, size_to=strands.rule.size_to * factor)
        return evolve(run, recipe=evolve(run.recipe, strands=evolve(strands, rule=rule)))
    return evolve(run, recipe=evolve(run.recipe, size=run.recipe.size * width / own))


def with_first(recipe: Recipe, **changes: Any) -> Recipe:
    """A recipe with the values of its first station changed; the others stay as they are."""
    first, *others = recipe.stations
    return evolve(recipe, stations=(evolve(first, **changes), *others))


def with_first_section(draft: Draft, run: Run, section_id: str, width: float) -> Run:
    """A run with another first section of a width, m; what stands at other stations stays as wide as it is."""
    recipe = with_first(run.recipe, section=section_id)
    if len(recipe.stations) > 1:
        recipe = with_first(recipe, scale=width / (recipe.size * draft.section_width(section_id)))
        return evolve(run, recipe=with_fitting_marks(recipe, run.recipe))
    return _with_width(draft, evolve(run, recipe=recipe), width)


def set_section(project: Project, run_ids: Sequence[str], source: Source) -> Project:
    """Gives runs another section at the width that they have; what nothing uses any more goes. A rope keeps its own."""
    draft = Draft(project)
    refuse_laid(map(draft.run, run_ids))
    section_id = shared_section(draft, source) if run_ids else ""
    for run_id in run_ids:
        run = draft.run(run_id)
        draft.put(with_first_section(draft, run, section_id, width_of(draft, run)))
    drop_unused(draft)
    return draft.done()


def set_value_at_size(project: Project, run_ids: Sequence[str], key: str, value: float, *, is_plain: bool) -> Project:
    """Sets a value of the runs' ready-made sections as it is on their bodies: lengths are divided by each run's size.

    Sections that are shared stay shared, unless runs of different sizes need different values.
    """
    done: dict[str, float] = {}
    for run_id in run_ids:
        run = run_by_id(project, run_id)
        size = run.recipe.size * run.recipe.stations[0].scale
        section, own = section_of(project, run_id), value if is_plain else value / size
        if abs(done.setdefault(section.id, own) - own) < 1e-12:
            project = set_section_value(project, (run_id,), key, own)
        else:
            project = set_section(project, (run_id,), with_value(section, key, own).source)
    return project


def rename_run(project: Project, run_id: str, name: str) -> Project:
    """Renames a run; a name that is taken gets a number. Raises DocumentError on an empty name."""
    if not name.strip():
        raise DocumentError("a name has at least one letter")
    others = [r.show.name for r in project.runs if r.id != run_id]
    unique = unique_name(name.strip()[:110], others)
    return with_run(project, run_id, lambda r: evolve(r, show=evolve(r.show, name=unique)))


def set_section_value(project: Project, run_ids: Sequence[str], key: str, value: float) -> Project:
    """Changes a value of the runs' first sections (for all that share them). Raises ValueError out of range."""
    wanted = {section_of(project, r).id for r in run_ids}
    changed = (with_value(s, key, value) if s.id in wanted else s for s in project.sections)
    return evolve(project, sections=tuple(changed))


def with_value(section: Section, key: str, value: float) -> Section:
    """A ready-made section with a value. Raises ValueError out of range, DocumentError where it is not ready-made."""
    if not isinstance(section.source, ReadyMadeSource):
        raise DocumentError(f"the section {section.name} comes from a file: it has no values")
    values = tuple(sorted({**dict(section.source.values), key: value}.items()))
    return evolve(section, source=evolve(section.source, values=values))
