"""What moves with time: when a run appears, and values that it comes to. Seconds; a project has one clock."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from morphax.project.model.values import Entity

LONGEST = 3600.0
"""No time lies beyond this, s."""
Seconds = Annotated[float, Field(ge=0.0, le=LONGEST)]
Origin = Literal["start", "end", "middle"]
Easing = Literal["even", "soft", "soft start", "soft end"]
What = Literal["size", "twist", "slack", "range start", "range end"]
MOVING: tuple[What, ...] = ("size", "twist", "slack", "range start", "range end")
"""What can move."""


def eased(share: float, easing: Easing) -> float:
    """How far something has come when a share of its time has gone: 0 at 0, 1 at 1, never back."""
    f = min(max(share, 0.0), 1.0)
    return {"even": f, "soft": f * f * (3.0 - 2.0 * f), "soft start": f * f, "soft end": f * (2.0 - f)}[easing]


class Appears(Entity):
    """A run comes into sight from second ``begin`` to second ``end``, as it sees its path: from its start, from its end
    or from the middle both ways."""

    begin: Seconds = 0.0
    end: Seconds = 3.0
    origin: Origin = "start"
    easing: Easing = "even"

    @model_validator(mode="after")
    def _takes_time(self) -> Self:
        if self.end < self.begin:
            raise ValueError("a run has appeared after it began to")
        return self

    def part_at(self, time: float) -> tuple[float, float] | None:
        """From which share of the range to which it is shown at a time; None where nothing of it is."""
        if time >= self.end:
            return 0.0, 1.0
        f = eased((time - self.begin) / (self.end - self.begin), self.easing)
        low, high = {"start": (0.0, f), "end": (1.0 - f, 1.0), "middle": (0.5 - 0.5 * f, 0.5 + 0.5 * f)}[self.origin]
        return (low, high) if high - low > 1e-9 else None


class Moment(Entity):
    """A share that is held ``at`` a second: of a run's own value, or of the length where it is a place along it."""

    at: Seconds
    value: Annotated[float, Field(ge=-1e3, le=1e3)]


class Move(Entity):
    """A value that a run comes to: its own holds from second ``end`` on, ``moments`` before."""

    what: What
    moments: Annotated[tuple[Moment, ...], Field(min_length=1, max_length=200)]
    end: Seconds = 3.0
    easing: Easing = "even"

    @model_validator(mode="after")
    def _is_in_order(self) -> Self:
        times = [*(m.at for m in self.moments), self.end]
        if any(b <= a for a, b in zip(times[:-1], times[1:], strict=True)):
            raise ValueError("the moments of a value lie one after the other, and before its own is reached")
        low, high = {"twist": (-1e3, 1e3), "size": (1e-3, 1e3), "slack": (0.0, 1e3)}.get(self.what, (0.0, 1.0))
        if not all(low <= m.value <= high for m in self.moments):
            raise ValueError(f"a {self.what} is held at {100 * low:g} to {100 * high:g} %")
        return self

    def value_at(self, time: float, own: float) -> float:
        """The share at a time, where the ``own`` value is the last one."""
        if time >= self.end:
            return own
        held = [*((m.at, m.value) for m in self.moments), (self.end, own)]
        if time <= held[0][0]:
            return held[0][1]
        (t, a), (u, b) = next(pair for pair in zip(held[:-1], held[1:], strict=True) if time < pair[1][0])
        return a + (b - a) * eased((time - t) / (u - t), self.easing)


class Times(Entity):
    """What of a run moves with time: whether it ``appears``, and values that it comes to, each once."""

    appears: Appears | None = None
    moves: tuple[Move, ...] = ()

    @model_validator(mode="after")
    def _moves_each_once(self) -> Self:
        if len({m.what for m in self.moves}) != len(self.moves):
            raise ValueError("a value moves in one way")
        return self

    @property
    def end(self) -> float:
        """When all of it has come to rest, s."""
        ends = [m.end for m in self.moves]
        return max([*ends, self.appears.end] if self.appears is not None else ends, default=0.0)

    def move(self, what: What) -> Move | None:
        return next((m for m in self.moves if m.what == what), None)


class Clock(Entity):
    """How long a project's play is, s (None: until all is at rest), and how many pictures a second it has."""

    length: Annotated[float, Field(gt=0.0, le=LONGEST)] | None = None
    rate: Annotated[int, Field(ge=1, le=240)] = 24
