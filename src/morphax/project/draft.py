"""Drafts: a document while an edit works on it, so that edits of many things cost what they change.

It hands out ids, finds things by id, and gives a document in which only what was made, and what refers to it, has been
looked at; opening a file validates the whole.
"""

from collections.abc import Iterable, Sequence
from typing import Any, Literal, TypeVar

from morphax.core.section.sampling import section_width
from morphax.project.lookup import section_shape
from morphax.project.model.document import (
    Asset,
    DocumentError,
    Entity,
    Group,
    Host,
    Material,
    Path,
    Project,
    Run,
    Section,
    evolve,
)

E = TypeVar("E", bound=Entity)
Letter = Literal["a", "e", "g", "h", "k", "m", "o", "p", "r", "s", "t"]
"""What ids begin with: assets, sets of pieces, groups, hosts, knots, materials, ports, paths, runs, sections,
stations."""

_KIND_OF: dict[type[Entity], str] = {
    Path: "paths", Section: "sections", Run: "runs", Host: "hosts", Asset: "assets", Group: "groups",
    Material: "materials",
}  # fmt: skip
_WORDS = {
    "paths": "path",
    "sections": "section",
    "runs": "run",
    "hosts": "host",
    "assets": "asset",
    "groups": "group",
    "materials": "material",
}


class Draft:
    """A document in the making; ``done`` gives it. Nothing of the document that it began with is changed."""

    def __init__(self, project: Project) -> None:
        self.project = project
        self._number = project.next_id
        self._put: dict[str, dict[str, Entity]] = {}
        self._added: dict[str, dict[str, None]] = {}
        self._gone: dict[str, set[str]] = {}
        self._taken: dict[str, _Names] = {}
        self._widths: dict[int, tuple[Section, float]] = {}

    def new_id(self, letter: Letter) -> str:
        """An id that nothing in the document has or had; the only place where ids are made."""
        self._number += 1
        return f"{letter}{self._number - 1}"

    def new_ids(self, letter: Letter, count: int) -> list[str]:
        return [self.new_id(letter) for _ in range(count)]

    # -- finding ---------------------------------------------------------------------------------

    def find(self, kind: str, wanted: str | None) -> Any:
        """The entity as it is now, or None."""
        if wanted is None or wanted in self._gone.get(kind, ()):
            return None
        found = self._put.get(kind, {}).get(wanted)
        return self.project.find(kind, wanted) if found is None else found

    def _known(self, kind: str, wanted: str) -> Any:
        found = self.find(kind, wanted)
        if found is None:
            raise DocumentError(f"there is no {_WORDS[kind]} {wanted}")
        return found

    def run(self, run_id: str) -> Run:
        found: Run = self._known("runs", run_id)
        return found

    def path(self, path_id: str) -> Path:
        found: Path = self._known("paths", path_id)
        return found

    def section(self, section_id: str) -> Section:
        found: Section = self._known("sections", section_id)
        return found

    def host(self, host_id: str) -> Host:
        found: Host = self._known("hosts", host_id)
        return found

    def section_width(self, section_id: str) -> float:
        """A section's own width, m; looked for once."""
        section = self.section(section_id)
        known = self._widths.get(id(section))
        if known is None:
            known = self._widths[id(section)] = (section, section_width(section_shape(section)))
        return known[1]

    def items(self, kind: str) -> tuple[Any, ...]:
        """A collection as it is now."""
        put, gone, added = self._put.get(kind, {}), self._gone.get(kind, set()), self._added.get(kind, {})
        old = getattr(self.project, kind)
        if not put and not gone:
            return tuple(old)
        changed = list(old)
        for name, entity in put.items():
            if name not in added:
                changed[self.project.position(kind, name)] = entity
        kept = [item for item in changed if item.id not in gone] if gone else changed
        return (*kept, *(put[name] for name in added if name not in gone))

    # -- changing --------------------------------------------------------------------------------

    def put(self, entity: Entity) -> None:
        """Takes the place of the entity with its id. Raises DocumentError where there is none."""
        kind = _KIND_OF[type(entity)]
        wanted: str = getattr(entity, "id")  # noqa: B009 - entities of the table have one
        self._known(kind, wanted)
        self._put.setdefault(kind, {})[wanted] = entity

    def add(self, entity: Entity) -> None:
        """A new entity, behind the others of its kind."""
        kind = _KIND_OF[type(entity)]
        name: str = getattr(entity, "id")  # noqa: B009
        self._put.setdefault(kind, {})[name] = entity
        self._added.setdefault(kind, {})[name] = None

    def drop(self, kind: str, ids: Iterable[str]) -> None:
        """Takes entities out."""
        self._gone.setdefault(kind, set()).update(ids)

    def free_name(self, kind: str, wanted: str) -> str:
        """``wanted``, with the next free number behind it when it is taken; it counts as taken from now on."""
        if kind not in self._taken:
            items = self.items(kind)
            has_show = kind in ("runs", "hosts")
            self._taken[kind] = _Names([i.show.name for i in items] if has_show else [i.name for i in items])
        return self._taken[kind].free(wanted)

    def done(self, **others: Any) -> Project:
        """The document; ``others`` are fields besides the collections that were changed."""
        kinds = {*self._put, *self._gone}
        changes: dict[str, Any] = {kind: self.items(kind) for kind in kinds}
        if self._number != self.project.next_id:
            changes["next_id"] = self._number
        changes |= others
        return evolve(self.project, **changes) if changes else self.project


class _Names:
    """Names that are taken, and where to go on counting for each."""

    def __init__(self, taken: Iterable[str]) -> None:
        self._taken, self._next = set(taken), dict[str, int]()

    def free(self, wanted: str) -> str:
        name = wanted
        if name in self._taken:
            base = stem_of(wanted)
            number = self._next.get(base, 2)
            while f"{base} {number}" in self._taken:
                number += 1
            self._next[base] = number + 1
            name = f"{base} {number}"
        self._taken.add(name)
        return name


def stem_of(name: str) -> str:
    """A name without the number behind it."""
    stem, _, tail = name.rpartition(" ")
    return stem if stem and tail.isdigit() else name


def unique_name(wanted: str, taken: Sequence[str]) -> str:
    """``wanted``, with the next free number behind it when it is taken."""
    return _Names(taken).free(wanted)
