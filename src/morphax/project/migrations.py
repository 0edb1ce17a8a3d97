"""Steps from one schema version to the next, each a pure function on the document's dictionary."""

from collections.abc import Callable, Iterator
from itertools import count
from typing import Any

_LISTS = ("hosts", "paths", "sections", "runs", "assets", "materials", "groups")
"""The document's collections, in the order in which they keep ids that several claim."""
_REFERS = {
    "path": "paths", "around": "paths", "towards_path": "paths", "section": "sections", "material": "materials",
    "group": "groups", "asset": "assets",
}  # fmt: skip
"""Fields that name a thing, and its collection; ``host`` may name a host or a run."""

Renamed = dict[str, dict[str, str]]
"""By collection: new ids by old ones."""


def _from_1(document: dict[str, Any]) -> dict[str, Any]:
    """Version 2 has hosts from files, places and ports of hosts, held knots: what is missing has its default."""
    return document


def _from_2(document: dict[str, Any]) -> dict[str, Any]:
    """Version 3 has ready-made paths, droops, tension, guides, runs laid on hosts, holds on paths, with defaults."""
    return document


def _from_3(document: dict[str, Any]) -> dict[str, Any]:
    """Version 4 has references of runs, by default their own, and ids that are unique in the whole document.

    What is not as a document is made is left to the reader, which says what is wrong.
    """
    things = list(_things(document))
    numbers = [n for n in (_number(t["id"]) for t in things) if n is not None]
    given = document.get("next_id", 1)
    fresh = count(max([given if isinstance(given, int) else 1, *(n + 1 for n in numbers)]))
    met, renamed, ports = set[str](), Renamed(), dict[int, dict[str, str]]()
    for kind in _LISTS:
        for thing in _dicts(document.get(kind)):
            old = _rename(thing, met, fresh)
            if old:
                renamed.setdefault(kind, {})[old] = thing["id"]
    for host in _dicts(document.get("hosts")):
        for port in _dicts(host.get("ports")):
            old = _rename(port, met, fresh)
            if old:
                ports.setdefault(id(host), {})[old] = port["id"]
    for inner in _inner(document):
        _rename(inner, met, fresh)
    if renamed:
        _refer(document, renamed, {h.get("id") for h in _dicts(document.get("hosts"))})
    by_host = {h["id"]: ports[id(h)] for h in _dicts(document.get("hosts")) if id(h) in ports}
    for hold in _holds(document):
        hold["port"] = by_host.get(hold.get("host"), {}).get(hold["port"], hold["port"])
    return {**document, "next_id": next(fresh)} if things else document


def _dicts(value: Any) -> Iterator[dict[str, Any]]:
    """The dictionaries of a list; nothing of what is none."""
    return (v for v in value if isinstance(v, dict)) if isinstance(value, list) else iter(())


def _inner(document: dict[str, Any]) -> Iterator[dict[str, Any]]:
    """Knots and stations, which nothing else in a document names."""
    for path in _dicts(document.get("paths")):
        yield from _dicts(path.get("knots"))
    for run in _dicts(document.get("runs")):
        recipe = run.get("recipe")
        yield from _dicts(recipe.get("stations") if isinstance(recipe, dict) else None)


def _things(document: dict[str, Any]) -> Iterator[dict[str, Any]]:
    """All that has an id."""
    for kind in _LISTS:
        yield from (t for t in _dicts(document.get(kind)) if isinstance(t.get("id"), str))
    for host in _dicts(document.get("hosts")):
        yield from (p for p in _dicts(host.get("ports")) if isinstance(p.get("id"), str))
    yield from (t for t in _inner(document) if isinstance(t.get("id"), str))


def _number(entity_id: str) -> int | None:
    digits = entity_id.lstrip("abcdefghijklmnopqrstuvwxyz")
    return int(digits) if digits.isdecimal() and digits.isascii() and len(digits) < 25 else None


def _rename(thing: dict[str, Any], met: set[str], fresh: Iterator[int]) -> str:
    """Gives a thing whose id is another's one of its own; the id that it had then, else nothing."""
    own = thing.get("id")
    if not isinstance(own, str):
        return ""
    if own in met:
        thing["id"] = f"{own.rstrip('0123456789')}{next(fresh)}"
    met.add(thing["id"])
    return own if thing["id"] != own else ""


def _holds(document: dict[str, Any]) -> Iterator[dict[str, Any]]:
    """What plugs into ports."""
    for path in _dicts(document.get("paths")):
        for knot in _dicts(path.get("knots")):
            hold = knot.get("hold")
            if isinstance(hold, dict) and isinstance(hold.get("port"), str) and isinstance(hold.get("host"), str):
                yield hold


def _refer(value: Any, renamed: Renamed, hosts: set[Any]) -> None:
    """Names things by their new ids, all through a document."""
    if isinstance(value, list):
        for item in value:
            _refer(item, renamed, hosts)
    if not isinstance(value, dict):
        return
    for key, item in value.items():
        if isinstance(item, dict | list):
            _refer(item, renamed, hosts)
        elif isinstance(item, str) and key == "host":
            by_host, by_run = renamed.get("hosts", {}), renamed.get("runs", {})
            value[key] = by_host.get(item, item if item in hosts else by_run.get(item, item))
        elif isinstance(item, str) and key in _REFERS and not (key == "path" and "node" in value):  # a file's place
            value[key] = renamed.get(_REFERS[key], {}).get(item, item)


def _from_4(document: dict[str, Any]) -> dict[str, Any]:
    """Version 5 has knots that rest: what is missing rests on nothing."""
    return document


def _from_5(document: dict[str, Any]) -> dict[str, Any]:
    """Version 6 has paths that bend least from port to port; those that were there keep their curve."""
    for path in _dicts(document.get("paths")):
        holds = [k.get("hold") for k in _dicts(path.get("knots"))]
        if len(holds) == 4 and all(isinstance(h, dict) and h.get("kind") == "port" for h in holds):
            path.setdefault("bend", {"radius": 0.0})
    return document


def _from_6(document: dict[str, Any]) -> dict[str, Any]:
    """Version 7 has outlines with arcs, and how they are laid; those from files are read as outlines."""
    return document


def _from_7(document: dict[str, Any]) -> dict[str, Any]:
    """Version 8 has knots that rest on other runs, and ready-made paths that rest; what is missing rests on nothing."""
    return document


def _from_8(document: dict[str, Any]) -> dict[str, Any]:
    """Version 9 tells the inner from the outer side of a body that is rested on, and has materials of stretches of an
    outline; what is missing is the outer side, and the run's own material."""
    return document


def _from_9(document: dict[str, Any]) -> dict[str, Any]:
    """Version 10 has laws of width, height, shift and lift, and forms of a width or height; what is missing is even."""
    return document


def _from_10(document: dict[str, Any]) -> dict[str, Any]:
    """Version 11 has marks on any loop of a section; those that were there are on the first outline. It has ranges,
    pointed ends, budgets and corners of knots: what is missing is whole, flat, by deviation, and as the run's."""
    return document


def _from_11(document: dict[str, Any]) -> dict[str, Any]:
    """Version 12 has a clock, and runs that appear and values that move with time; what is missing stands still."""
    return document


def _from_12(document: dict[str, Any]) -> dict[str, Any]:
    """Version 13 has segments of domes and chamfers, pieces at ends, holding rings and budgets of three levels; what is
    missing is as before."""
    return document


def _from_13(document: dict[str, Any]) -> dict[str, Any]:
    """Version 14 has sets of pieces along runs; what is missing is none."""
    return document


def _from_14(document: dict[str, Any]) -> dict[str, Any]:
    """Version 15 has paths and runs that follow others, ropes, and exports of levels, looks and paths; what is missing
    is none."""
    return document


def _from_15(document: dict[str, Any]) -> dict[str, Any]:
    """Version 16 has strands between runs, runs that are cast, and exports of solids with what is asked of a print, and
    of edges; what is missing is none, and as is usual."""
    return document


MIGRATIONS: tuple[Callable[[dict[str, Any]], dict[str, Any]], ...] = (
    _from_1, _from_2, _from_3, _from_4, _from_5, _from_6, _from_7, _from_8,
    _from_9, _from_10, _from_11, _from_12, _from_13, _from_14, _from_15,
)  # fmt: skip
"""Step i leads from version i + 1 to i + 2."""
