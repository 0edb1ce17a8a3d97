"""Edits of looks: which material runs and hosts have, and what it is like. None of them changes a mesh."""

from collections import Counter
from collections.abc import Mapping, Sequence
from typing import Any

from morphax.project.draft import Draft, unique_name
from morphax.project.edits.runs import Source
from morphax.project.edits.show import with_shows
from morphax.project.model.document import (
    DocumentError,
    Host,
    Material,
    OutlineSource,
    Project,
    ReadyMadeSource,
    Run,
    Section,
    SpanData,
    evolve,
)
from morphax.project.ready_looks import PLAIN_HOST, PLAIN_RUN, ReadyLook, material_for


def with_look(project: Project, ids: Sequence[str], look: ReadyLook) -> Project:
    """Runs and hosts get a ready-made look: the project's material that is just so, else a new one."""
    draft = Draft(project)
    material = material_for(draft, look)
    return with_material(draft.done(), ids, material)


def with_material(project: Project, ids: Sequence[str], material: str | None) -> Project:
    """Runs and hosts get a material of the project, or the plain look (None). Raises DocumentError where it is gone."""
    if material is not None and project.find("materials", material) is None:
        raise DocumentError(f"there is no material {material}")
    return with_shows(project, ids, material=material)


def set_look(project: Project, ids: Sequence[str], **changes: Any) -> Project:
    """Changes ``name``, ``colour``, ``roughness`` or ``metal`` of what runs and hosts look like.

    A material that others have too stays for them; what is chosen gets one of its own. Plain things get a first one.
    Raises DocumentError where a share is out of 0 to 1.
    """
    for field in ("roughness", "metal"):
        if not 0.0 <= changes.get(field, 0.0) <= 1.0:
            raise DocumentError(f"{field} is {changes[field]:g}; it must be from 0 to 1")
    draft, wanted = Draft(project), set(ids)
    things: list[Run | Host] = [*project.runs, *project.hosts]
    users = Counter[str | None](t.show.material for t in things)
    users.update(m for s in project.sections for m in materials_of(s))
    users.update(s.material for r in project.runs for s in r.recipe.sets if s.material is not None)
    chosen: dict[tuple[str | None, ReadyLook], list[str]] = {}
    for thing in things:
        if thing.id in wanted:
            plain = PLAIN_HOST if isinstance(thing, Host) and thing.show.material is None else PLAIN_RUN
            chosen.setdefault((thing.show.material, plain), []).append(thing.id)
    given = [
        (own, _changed(draft, material, plain, changes, is_shared=len(own) < users[material]))
        for (material, plain), own in chosen.items()
    ]
    project = draft.done()
    for own, new in given:
        project = with_shows(project, own, material=new)
    return project


def materials_of(section: Section) -> frozenset[str]:
    """The materials of an outline's stretches."""
    return section.source.materials if isinstance(section.source, OutlineSource) else frozenset()


def without_looks(source: Source) -> Source:
    """A section's source all of which looks as its run does: what another project can take, whose materials differ."""
    return with_materials(source, {})


def with_materials(source: Source, new: Mapping[str, str]) -> Source:
    """A section's source whose stretches have new materials by their old ones; without one they look as the run."""
    if isinstance(source, ReadyMadeSource) or not source.materials:
        return source

    def again(loop: tuple[SpanData, ...]) -> tuple[SpanData, ...]:
        return tuple(s if s.material is None else evolve(s, material=new.get(s.material)) for s in loop)

    parts = (evolve(p, outer=again(p.outer), holes=tuple(again(h) for h in p.holes)) for p in source.parts)
    return evolve(source, parts=tuple(parts))


def look_like(material: Material) -> ReadyLook:
    """A material as a value that any project can take."""
    return ReadyLook(material.name, material.colour, material.roughness, material.metal)


def _changed(draft: Draft, material: str | None, plain: ReadyLook, changes: dict[str, Any], *, is_shared: bool) -> str:
    """The id of a material with changed values: the same one, or a new one where others have it or there is none."""
    now = draft.find("materials", material)
    is_new = now is None or is_shared
    names = [m.name for m in draft.items("materials") if is_new or m.id != material]
    fields = {"name": "look", "colour": plain.colour, "roughness": plain.roughness} if now is None else now.model_dump()
    wished = str(changes.get("name", fields["name"])).strip()
    fields |= changes | {"name": unique_name(wished, names)}
    if not is_new:
        draft.put(evolve(now, **fields))
        return str(material)
    new = Material(**(fields | {"id": draft.new_id("m")}))
    draft.add(new)
    return new.id
