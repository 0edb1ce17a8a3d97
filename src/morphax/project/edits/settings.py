"""Settings of a run, copied as a value, and given to others whole or in part: in this project or another one."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass

from morphax.project.edits.looks import with_look, with_material
from morphax.project.edits.presets import Preset, preset_of
from morphax.project.edits.runs import set_section, set_width, with_runs
from morphax.project.lookup import run_by_id
from morphax.project.model.document import Project, Run, evolve
from morphax.project.ready_looks import ReadyLook


@dataclass(frozen=True)
class Copied:
    """All of a run but its path: a preset with its name, and its look (None: the plain one)."""

    preset: Preset
    look: ReadyLook | None


def copied_from(project: Project, run_id: str) -> Copied:
    """A run's settings; they stay what they are, whatever becomes of the run."""
    of = run_by_id(project, run_id).show.material
    found = None if of is None else project.find("materials", of)
    look = None if found is None else ReadyLook(found.name, found.colour, found.roughness, found.metal)
    return Copied(preset_of(project, run_id), look)


def _placing(project: Project, ids: Sequence[str], new: Copied) -> Project:
    def given(run: Run) -> Run:
        own = run.recipe.placing
        placing = evolve(new.preset.placing, towards=own.towards, towards_path=own.towards_path)
        return evolve(run, recipe=evolve(run.recipe, placing=placing))

    return with_runs(project, ids, given)


def _ends(project: Project, ids: Sequence[str], new: Copied) -> Project:
    corner, ends = new.preset.corner, new.preset.ends
    return with_runs(project, ids, lambda run: evolve(run, recipe=evolve(run.recipe, corner=corner, ends=ends)))


def _density(project: Project, ids: Sequence[str], new: Copied) -> Project:
    density = new.preset.density
    return with_runs(project, ids, lambda run: evolve(run, recipe=evolve(run.recipe, density=density)))


def _look(project: Project, ids: Sequence[str], new: Copied) -> Project:
    return with_material(project, ids, None) if new.look is None else with_look(project, ids, new.look)


PARTS: Mapping[str, tuple[str, Callable[[Project, Sequence[str], Copied], Project]]] = {
    "section": ("Section", lambda p, ids, new: set_section(p, ids, new.preset.source)),
    "width": ("Width", lambda p, ids, new: set_width(p, ids, new.preset.width)),
    "placing": ("Placing", _placing),
    "ends": ("Corners and ends", _ends),
    "density": ("Density", _density),
    "look": ("Look", _look),
}
"""Parts of settings in the order in which they are given: what each is called, and how."""


def with_preset(project: Project, ids: Sequence[str], preset: Preset) -> Project:
    """Runs with all that a preset holds; their paths, names, looks and what lies near them stay."""
    return with_settings(project, ids, Copied(preset, None), [part for part in PARTS if part != "look"])


def with_settings(project: Project, ids: Sequence[str], new: Copied, parts: Iterable[str] = tuple(PARTS)) -> Project:
    """Runs with parts of copied settings; their paths and names, and what lies near them, stay."""
    wanted = set(parts)
    for name, (_, give) in PARTS.items():
        if name in wanted:
            project = give(project, ids, new)
    return project
