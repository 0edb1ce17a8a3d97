"""Where the entities of a document stand, by id: handed on from document to document, never made anew for an edit."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

Positions = dict[str, int]
"""Position in its tuple by id. Documents that come of each other share one: places that an entry names are looked at
before they are believed, since a sibling document may have put something else there."""


def positions_of(items: Sequence[Any]) -> Positions:
    return {item.id: k for k, item in enumerate(items)}


def found_at(positions: Mapping[str, int], items: Sequence[Any], wanted: str) -> int | None:
    """Position of an id among items; -1 where it is not there; None where the positions are those of a sibling."""
    k = positions.get(wanted)
    if k is None:
        return -1
    return k if k < len(items) and items[k].id == wanted else None


class Change:
    """What one tuple of a document and its successor differ in: ``now`` new or changed items, ``gone`` ids.

    ``positions`` of the successor's items.
    """

    def __init__(self, old: Sequence[Any], new: Sequence[Any], positions: Positions) -> None:
        self.now: list[Any] = []
        self.fresh: list[Any] = []
        self.gone: set[str] = set()
        n = len(old)
        pairs = [(a, b) for a, b in zip(old, new, strict=False) if a is not b]
        if len(new) >= n and all(a.id == getattr(b, "id", None) for a, b in pairs):
            self._grown([b for _, b in pairs], n, new, positions)
            return
        before = {item.id: item for item in old}
        self.positions = positions_of(new)
        for item in new:
            was = before.pop(item.id, None)
            if was is not item:
                self.now.append(item)
                if was is None:
                    self.fresh.append(item)
        self.gone = set(before)

    def _grown(self, now: list[Any], n: int, new: Sequence[Any], positions: Positions) -> None:
        """The common case: items changed in their places, and others added behind them."""
        self.fresh = list(new[n:])
        self.now = [*now, *self.fresh]
        clash = any(item.id in positions and positions[item.id] != n + k for k, item in enumerate(self.fresh))
        self.positions = positions_of(new) if clash else positions
        for k, item in enumerate(self.fresh):
            self.positions[item.id] = n + k


def numbers_of(ids: Iterable[str]) -> list[int]:
    """The numbers in ids."""
    return [int(i.lstrip("abcdefghijklmnopqrstuvwxyz")) for i in ids]
