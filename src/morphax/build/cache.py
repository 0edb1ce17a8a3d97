"""Caches by the identity of frozen values: what is in use is kept whatever its size, what is not by its bytes."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Any, Generic, TypeVar

V = TypeVar("V")

MOST_BYTES = 1 << 30
"""A long drag of a heavy run must not fill the memory with bodies that nobody goes back to."""
_ROOM = 1.05
"""What is all in use is looked through again only when there is so much more of it."""

Sources = tuple[Any, ...]


class IdentityCache(Generic[V]):
    """Values by the identity of the objects they were made from, which it keeps alive; oldest use goes first.

    It holds at most ``most`` values where that is said, and no more than ``most_bytes`` by what ``weigh`` says of them;
    what ``is_used`` says of its sources and value is in use stays whatever the bytes.
    """

    def __init__(
        self,
        most: int | None = None,
        *,
        most_bytes: int = MOST_BYTES,
        weigh: Callable[[V], int] = lambda value: 0,
        is_used: Callable[[Sources, V], bool] = lambda sources, value: False,
    ) -> None:
        self.most, self.most_bytes, self._weigh, self._is_used = most, most_bytes, weigh, is_used
        self._weight, self._full = 0, 0.0
        self._items: OrderedDict[Hashable, tuple[Sources, V]] = OrderedDict()
        self._lock = Lock()

    def get(self, sources: Sources, make: Callable[[], V]) -> V:
        key = key_of(sources)
        with self._lock:
            found = self._items.get(key)
            if found is not None:
                self._items.move_to_end(key)
                return found[1]
        return self.put(sources, make())  # outside the lock: the interface thread never waits for a build

    def put(self, sources: Sources, value: V) -> V:
        """Keeps a value, unless there is one for its sources already; the one that is kept."""
        key = key_of(sources)
        with self._lock:
            if key not in self._items:
                self._items[key] = (sources, value)
                self._weight += self._weigh(value)
            kept = self._items[key][1]
            self._make_room()
        return kept

    def known(self, sources: Sources) -> bool:
        return key_of(sources) in self._items

    def peek(self, sources: Sources) -> V | None:
        """The value for sources, if it is kept."""
        with self._lock:
            found = self._items.get(key_of(sources))
        return None if found is None else found[1]

    def __len__(self) -> int:
        return len(self._items)

    def _make_room(self) -> None:
        while self.most is not None and len(self._items) > self.most:
            self._drop_oldest()
        looked = 0
        while self._weight > max(self.most_bytes, self._full) and looked < len(self._items) - 1:
            key, (sources, value) = next(iter(self._items.items()))
            if self._is_used(sources, value):
                self._items.move_to_end(key)
                looked += 1
            else:
                self._drop_oldest()
        if self._weight > self.most_bytes:
            self._full = self._weight * _ROOM if looked else self._full
        else:
            self._full = 0.0

    def _drop_oldest(self) -> None:
        self._weight -= self._weigh(self._items.popitem(last=False)[1][1])


def key_of(sources: Sources) -> Hashable:
    """Plain numbers, words, choices and places count by value, everything else by identity."""
    return tuple([s if isinstance(s, _PLAIN) or _is_place(s) else id(s) for s in sources])


_PLAIN = (str, float, int, type(None))


def _is_place(s: Any) -> bool:
    return isinstance(s, tuple) and all(isinstance(v, float) for v in s)
