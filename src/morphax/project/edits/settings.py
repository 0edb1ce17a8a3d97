"""Settings of a run, copied as a value, and given to others whole or in part: in this project or another one."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from morphax.project.draft import Draft
from morphax.project.edits.looks import look_like, materials_of, with_look, with_material, with_materials
from morphax.project.edits.pieces import with_sets_added
from morphax.project.edits.presets import Preset, preset_of
from morphax.project.edits.ropes import unlaid
from morphax.project.edits.runs import (
    drop_unused,
    set_section,
    set_width,
    stations_like,
    width_of,
    with_recipe,
    with_runs,
)
from morphax.project.edits.station_values import as_laid, with_size_of_one
from morphax.project.lookup import refuse_laid, run_by_id, section_by_id
from morphax.project.model.document import Project, Run, Station, Varying, evolve
from morphax.project.ready_looks import ReadyLook, material_for


@dataclass(frozen=True)
class Copied:
    """All of a run but its path: a preset with its name, its look (None: the plain one), and those of its section's
    ``sides`` by their materials."""

    preset: Preset
    look: ReadyLook | None
    sides: Mapping[str, ReadyLook] = field(default_factory=dict)


def copied_from(project: Project, run_id: str) -> Copied:
    """A run's settings; they stay what they are, whatever becomes of the run."""
    found = project.find("materials", run_by_id(project, run_id).show.material)
    sides = {m: look_like(project.find("materials", m)) for m in sorted(_materials(project, run_id))}
    return Copied(preset_of(project, run_id), None if found is None else look_like(found), sides)


def _materials(project: Project, run_id: str) -> frozenset[str]:
    stations = run_by_id(project, run_id).recipe.stations
    return frozenset().union(*(materials_of(section_by_id(project, s.section)) for s in stations))


def _section(project: Project, ids: Sequence[str], new: Copied) -> Project:
    draft = Draft(project)
    materials = {old: material_for(draft, look) for old, look in new.sides.items()}
    given = set_section(unlaid(draft.done(), ids), ids, with_materials(new.preset.source, materials))
    return with_recipe(given, ids, rope=new.preset.rope)


def _placing(project: Project, ids: Sequence[str], new: Copied) -> Project:
    def given(run: Run) -> Run:
        own = run.recipe.placing
        placing = evolve(new.preset.placing, towards=own.towards, towards_path=own.towards_path)
        return evolve(run, recipe=evolve(run.recipe, placing=placing))

    return with_runs(project, ids, given)


def _ends(project: Project, ids: Sequence[str], new: Copied) -> Project:
    own = {name: getattr(new.preset, name) for name in ("corner", "limit", "ends")}
    return with_runs(project, ids, lambda run: evolve(run, recipe=evolve(run.recipe, **own)))


def _density(project: Project, ids: Sequence[str], new: Copied) -> Project:
    density = new.preset.density
    return with_runs(project, ids, lambda run: evolve(run, recipe=evolve(run.recipe, density=density)))


def _along(project: Project, ids: Sequence[str], new: Copied) -> Project:
    """Further sections, as wide beside the first one as they were, sizes, rolls and twist. A run keeps its own first
    section, and its values at its knots."""
    draft = Draft(project)
    materials = {old: material_for(draft, look) for old, look in new.sides.items()}
    likes = [evolve(s, source=with_materials(s.source, materials)) for s in new.preset.stations]
    for run_id in ids:
        run = draft.run(run_id)
        own = run.recipe.varying or Varying()
        now = evolve(new.preset.varying or Varying(), knots=own.knots)
        first, grown = run.recipe.stations[0], width_of(draft, run) / new.preset.width
        stations: tuple[Station, ...] = (evolve(first, turn=0.0, mirror=False),)
        if likes:
            more = [evolve(s, width=s.width * grown) for s in likes[1:]]
            stations = (evolve(first, **as_laid(likes[0])), *stations_like(draft, more, run.recipe.size))
        recipe = evolve(run.recipe, stations=stations, varying=None if now.is_plain else now)
        draft.put(evolve(run, recipe=with_size_of_one(recipe)))
    drop_unused(draft)
    return draft.done()


def _pieces(project: Project, ids: Sequence[str], new: Copied) -> Project:
    """Those along the run; those that lead to other things, or are copies of some, are each run's own."""

    def bared(run: Run) -> Run:
        return evolve(run, recipe=evolve(run.recipe, sets=tuple(s for s in run.recipe.sets if not s.is_alone)))

    bare = with_runs(project, ids, bared)
    given = with_sets_added(bare, ids, new.preset.pieces).project
    return with_recipe(given, ids, has_body=new.preset.has_body)


def _look(project: Project, ids: Sequence[str], new: Copied) -> Project:
    return with_material(project, ids, None) if new.look is None else with_look(project, ids, new.look)


PARTS: Mapping[str, tuple[str, Callable[[Project, Sequence[str], Copied], Project]]] = {
    "section": ("Section", _section),
    "width": ("Width", lambda p, ids, new: set_width(p, ids, new.preset.width)),
    "placing": ("Placing", _placing),
    "ends": ("Corners and ends", _ends),
    "density": ("Density", _density),
    "along": ("Along the length", _along),
    "pieces": ("Pieces", _pieces),
    "look": ("Look", _look),
}
"""Parts of settings in the order in which they are given: what each is called, and how."""


_CARRIED = {"section", "placing", "along", "pieces"}


def with_preset(project: Project, ids: Sequence[str], preset: Preset) -> Project:
    """Runs with all that a preset holds; their paths, names, looks and what lies near them stay."""
    return with_settings(project, ids, Copied(preset, None), [part for part in PARTS if part != "look"])


def with_settings(project: Project, ids: Sequence[str], new: Copied, parts: Iterable[str] = tuple(PARTS)) -> Project:
    """Runs with parts of copied settings; their paths and names, and what lies near them, stay. Strands between others
    have what is carried along a path from those: DocumentError where nothing else is given to nothing else."""
    wanted = set(parts)
    carrying = [i for i in ids if run_by_id(project, i).recipe.strands is None]
    if ids and not carrying and wanted and wanted <= _CARRIED:
        refuse_laid([run_by_id(project, ids[0])])
    for name, (_, give) in PARTS.items():
        if name in wanted:
            project = give(project, carrying if name in _CARRIED else ids, new)
    return project
