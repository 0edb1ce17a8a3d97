"""What reads what in a document, by ids: the order in which things follow from each other, and the rule for circles.

A circle is refused in a sentence when it would be made (``refuse_circle``); in a document that holds one all the same,
the things of the circle keep what they have.
"""

from collections.abc import Iterable, Sequence
from typing import Any

from morphax.project.model.document import DocumentError, Host, Path, PathHold, Project, RestHold, Run
from morphax.project.model.paths import Hold

KINDS = ("assets", "sections", "hosts", "paths", "runs")
"""Collections whose things read each other; in this order, but for runs that serve as hosts, nothing reads what comes
later."""


def reads_of(thing: Any) -> tuple[str, ...]:
    """Ids of what a thing's shape follows from."""
    if isinstance(thing, Run):
        recipe = thing.recipe
        out = (recipe.path, *[s.section for s in recipe.stations])  # asked for each of thousands by one edit
        led = (i for s in recipe.sets for i in (s.to, s.foot, s.of))
        near = (recipe.host, recipe.placing.towards_path, thing.like, *led)
        near = near if recipe.strands is None else (*near, *recipe.strands.of)
        return out if near == (None, None, None) else (*out, *(i for i in near if i is not None))
    if isinstance(thing, Path):
        known: tuple[str, ...] | None = thing.__dict__.get("_reads")
        if known is None:  # found out once: it goes with the path
            known = thing.__dict__["_reads"] = _read_by_path(thing)
        return known
    if isinstance(thing, Host):
        of = thing.source or thing.picture
        return () if of is None else (of.asset,)
    return ()


def _read_by_path(path: Path) -> tuple[str, ...]:
    out = [name for h in holds_of(path) if (name := held_by(h)) is not None]
    if path.follows is not None:
        out.append(path.follows.path)
    return (*out, path.made.around) if path.made is not None and path.made.around is not None else tuple(out)


def holds_of(path: Path) -> list[Hold]:
    """What a path and its knots hold on to."""
    out: list[Hold] = [k.hold for k in path.knots if k.hold is not None]
    if path.made is not None and path.made.rest is not None:
        out.append(path.made.rest)
    return out


def held_by(hold: Hold) -> str | None:
    """The id of what a hold follows; None for the floor."""
    if isinstance(hold, PathHold):
        return hold.path
    return hold.run if isinstance(hold, RestHold) and hold.run is not None else hold.host


def thing_by_id(project: Project, wanted: str) -> Any:
    """The thing of any of the kinds with an id, or None."""
    return next((found for kind in KINDS if (found := project.find(kind, wanted)) is not None), None)


def follows_from(project: Project, start: str) -> set[str]:
    """Ids of a thing and of all that it reads, in any number of steps."""
    found, open_ = set[str](), [start]
    while open_:
        now = open_.pop()
        if now not in found:
            found.add(now)
            open_ += reads_of(thing_by_id(project, now))
    return found


def refuse_circle(project: Project, thing: str, on: str, sentence: str) -> None:
    """Raises DocumentError with a sentence where ``on`` follows, in some steps, from ``thing``, which is to read it."""
    if thing in follows_from(project, on):
        raise DocumentError(sentence)


def in_order(project: Project, ids: Iterable[str]) -> list[str]:
    """Things, each behind those of them that it reads; of things in a circle only what leads there comes first."""
    ids = list(ids)
    wanted, done, out = set(ids), set[str](), list[str]()
    for first in ids:
        stack = [(first, False)]
        while stack:
            now, is_ready = stack.pop()
            if is_ready:
                out.append(now)
            elif now in wanted and now not in done:
                done.add(now)
                stack.append((now, True))
                stack += [(i, False) for i in reads_of(thing_by_id(project, now)) if i not in done]
    return out


def differences(old: Sequence[Any], new: Sequence[Any]) -> tuple[list[Any], set[str]]:
    """Items of a tuple that are new or changed against an older one, by identity; and the ids that are gone."""
    n = len(old)
    pairs = [(a, b) for a, b in zip(old, new, strict=False) if a is not b]
    if len(new) >= n and all(a.id == b.id for a, b in pairs):
        return [b for _, b in pairs] + list(new[n:]), set()
    before = {item.id: item for item in old}
    now = [item for item in new if before.pop(item.id, None) is not item]
    return now, set(before) - {item.id for item in now}


class Graph:
    """Who reads whom, kept up with a document as it changes: costs are those of what changed.

    It belongs to one thread.
    """

    def __init__(self) -> None:
        self.project = Project()
        self._reads: dict[str, tuple[str, ...]] = {}
        self._readers: dict[str, set[str]] = {}

    def move_to(self, project: Project) -> set[str]:
        """Takes a document in place of the last one; ids of what is new, changed or gone."""
        changed = set[str]()
        for kind in KINDS:
            old, new = getattr(self.project, kind), getattr(project, kind)
            if old is new:
                continue
            now, gone = differences(old, new)
            for thing in now:
                self._note(thing.id, reads_of(thing))
            for name in gone:
                self._note(name, ())
            changed.update(gone, (thing.id for thing in now))
        self.project = project
        return changed

    def _note(self, name: str, reads: tuple[str, ...]) -> None:
        before = self._reads.get(name, ())
        if before == reads:
            return
        for other in before:
            self._readers[other].discard(name)
        for other in reads:
            self._readers.setdefault(other, set()).add(name)
        self._reads[name] = reads

    def affected(self, changed: Iterable[str]) -> set[str]:
        """Ids that were changed and all that follow from them."""
        found, open_ = set[str](), list(changed)
        while open_:
            now = open_.pop()
            if now not in found:
                found.add(now)
                open_ += self._readers.get(now, ())
        return found
