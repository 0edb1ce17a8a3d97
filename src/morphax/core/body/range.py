"""The range: which part of a run is shown and exported, and what is left out of it."""

from dataclasses import dataclass
from math import isfinite

from morphax.core.errors import PathError

_STRICT = {"extra": "forbid", "allow_inf_nan": False}
_WAYS = ("share", "start", "end")
_LEAST = 1e-9
"""Stretches shorter than this share of the length are none."""
Pair = tuple[float, float]
ALL: Pair = (0.0, 1.0)


@dataclass(frozen=True)
class Stop:
    """A place along the length: a ``share`` of it, or so many m from its start or its ``end``."""

    value: float = 0.0
    by: str = "share"

    __pydantic_config__ = _STRICT

    def __post_init__(self) -> None:
        if self.by not in _WAYS:
            raise PathError(f"a range counts by {', '.join(_WAYS)}, not by {self.by!r}")
        if not isfinite(self.value) or self.value < 0.0 or (self.by == "share" and self.value > 1.0):
            raise PathError(f"{self.value:g} is no place of a range")

    def at(self, length: float) -> float:
        """Its distance from the start, m; within the length."""
        along = {"share": self.value * length, "start": self.value, "end": length - self.value}[self.by]
        return min(max(along, 0.0), length)


START, END = Stop(0.0), Stop(1.0)


@dataclass(frozen=True)
class Range:
    """The part of a run from ``start`` to ``end``, as the run sees its path, without what is left ``out``.

    On a closed path a range whose end comes before its start goes on through the path's start.
    """

    start: Stop = START
    end: Stop = END
    out: tuple[tuple[Stop, Stop], ...] = ()

    __pydantic_config__ = _STRICT

    @property
    def part(self) -> Pair:
        """How much of what its stops leave is shown: from a share of it to a share."""
        return ALL

    @property
    def is_whole(self) -> bool:
        """Whether it is plain to see that it is the whole run."""
        return self.start == START and self.end == END and not self.out and self.part == ALL

    def stretches(self, length: float, *, closed: bool) -> tuple[Pair, ...]:
        """What is shown, from where to where, m; ends beyond the length go on round. None at all: the whole run.

        Raises PathError where nothing is left.
        """
        least = _LEAST * length
        a, b = self.start.at(length), self.end.at(length)
        is_all = a <= least and b >= length - least and self.part == ALL
        gaps = [(o.at(length), p.at(length)) for o, p in self.out]
        if not closed and any(q < p for p, q in gaps):
            raise PathError("what is left out ends before it begins")
        gaps = [(p, q if q >= p else q + length) for p, q in gaps]
        gaps = [g for g in gaps if g[1] - g[0] > least]
        if is_all and not gaps:
            return ()
        if is_all and closed:
            a = gaps[0][1] % length
            b = a + length
        elif b < a:
            if not closed:
                raise PathError("the range ends before it starts")
            b += length
        a, b = a + self.part[0] * (b - a), b if self.part[1] == 1.0 else a + self.part[1] * (b - a)
        found = [(a, b)]
        for lap in (-length, 0.0, length) if closed else (0.0,):
            for p, q in gaps:
                found = [s for own in found for s in _without(own, (p + lap, q + lap))]
        found = [(p, q) for p, q in found if q - p > least]
        if not found:
            raise PathError("nothing of the run is left")
        return tuple((p - length, q - length) if p >= length else (p, q) for p, q in found)


def _without(stretch: Pair, gap: Pair) -> list[Pair]:
    (a, b), (p, q) = stretch, gap
    return [stretch] if q <= a or p >= b else [(a, min(p, b)), (max(q, a), b)]


@dataclass(frozen=True)
class PartOfRange(Range):
    """A range of which only a ``part`` is shown for now, from share to share of it: of a run that appears."""

    part: Pair = ALL

    def __post_init__(self) -> None:
        if not 0.0 <= self.part[0] < self.part[1] <= 1.0:
            raise PathError("a part of a range goes from a share of it to a greater one")


WHOLE = Range()
