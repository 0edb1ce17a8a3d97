"""Things that can be chosen: a kind, an id, and the thing that they are a part of. A selection is a list of them."""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property
from typing import NamedTuple


class ThingKind(StrEnum):
    """The kinds of things; what can be done with each stands in ``edits/things.py``."""

    RUN = "run"
    HOST = "host"
    GROUP = "group"
    KNOT = "knot"
    PORT = "port"
    STATION = "station"
    PIECES = "pieces"


class Thing(NamedTuple):
    """A thing of the document; ``owner`` is the id of what it is a part of: the run of a knot, station or set of
    pieces, a port's host.

    A plain tuple: thousands may be chosen, and are compared at each choice.
    """

    kind: ThingKind
    id: str
    owner: str = ""


@dataclass(frozen=True)
class Selection:
    """What is chosen, in the order in which it was."""

    things: tuple[Thing, ...] = ()

    @classmethod
    def of(
        cls,
        runs: Iterable[str] = (),
        knots: Iterable[str] = (),
        hosts: Iterable[str] = (),
        stations: Iterable[str] = (),
    ) -> "Selection":
        """Runs and hosts by id; knots of the first run's path, and stations of that run."""
        runs = tuple(runs)
        owner = runs[0] if runs else ""
        return cls(
            (
                *(Thing(ThingKind.RUN, i) for i in runs),
                *(Thing(ThingKind.KNOT, i, owner) for i in knots),
                *(Thing(ThingKind.STATION, i, owner) for i in stations),
                *(Thing(ThingKind.HOST, i) for i in hosts),
            )
        )

    def ids(self, kind: ThingKind) -> tuple[str, ...]:
        """The chosen things of a kind, by id."""
        return tuple(t.id for t in self.things if t.kind is kind)

    @cached_property
    def runs(self) -> tuple[str, ...]:
        return self.ids(ThingKind.RUN)

    @cached_property
    def knots(self) -> tuple[str, ...]:
        return self.ids(ThingKind.KNOT)

    @cached_property
    def stations(self) -> tuple[str, ...]:
        return self.ids(ThingKind.STATION)

    @cached_property
    def hosts(self) -> tuple[str, ...]:
        return self.ids(ThingKind.HOST)

    @cached_property
    def pieces(self) -> tuple[str, ...]:
        """The chosen sets of pieces."""
        return self.ids(ThingKind.PIECES)

    @property
    def run(self) -> str | None:
        """The run that single-run views show."""
        return self.runs[0] if self.runs else None

    @cached_property
    def innermost(self) -> tuple[Thing, ...]:
        """What a command speaks of first: chosen parts of something, else whole things."""
        return tuple(t for t in self.things if t.owner) or self.things
