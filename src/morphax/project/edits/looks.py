"""Edits of looks: which material runs and hosts have, and what it is like. None of them changes a mesh."""

from collections.abc import Sequence
from typing import Any

from morphax.project.draft import Draft, unique_name
from morphax.project.edits.show import with_shows
from morphax.project.model.document import DocumentError, Host, Material, Project, Run, evolve
from morphax.project.ready_looks import ReadyLook, material_for


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
    """
    wanted = set(ids)
    things = [t for t in _things(project) if t.id in wanted]
    for material in dict.fromkeys(t.show.material for t in things):
        own = [t.id for t in things if t.show.material == material]
        project = _changed(project, own, material, changes)
    return project


def _changed(project: Project, own: Sequence[str], material: str | None, changes: dict[str, Any]) -> Project:
    draft, known = Draft(project), set(own)
    now = project.find("materials", material) if material is not None else None
    is_shared = any(t.show.material == material and t.id not in known for t in _things(project))
    names = [m.name for m in project.materials if now is None or m.id != now.id or is_shared]
    if "name" in changes:
        changes = changes | {"name": unique_name(str(changes["name"]).strip() or "look", names)}
    if now is not None and not is_shared:
        draft.put(evolve(now, **changes))
        return draft.done()
    fields = {"name": "look", "colour": "#9e7b66"} if now is None else now.model_dump(exclude={"id"})
    name = changes.get("name") or unique_name(fields["name"], names)
    new = Material(id=draft.new_id("m"), **(fields | changes | {"name": name}))
    draft.add(new)
    return with_shows(draft.done(), own, material=new.id)


def _things(project: Project) -> list[Run | Host]:
    return [*project.runs, *project.hosts]
