"""Straight spans between resting knots led over what they run through: along the surface, over its edges."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from morphax.core.errors import PathError
from morphax.core.path.resolved import resolve_path
from morphax.core.types import Floats, Points3
from morphax.core.vectors import unit
from morphax.project.draft import Draft
from morphax.project.edits.reshape import with_path
from morphax.project.edits.resting import Rest, rest_on, stand_off
from morphax.project.edits.spans import is_straight_span
from morphax.project.lookup import path_of, path_shape
from morphax.project.model.document import Knot, Path, Place, Project, RestHold, evolve

_PLACES = 65
"""Places at which the surface below a span is looked for."""
_HALVES, _CLOSE = 40, 1e-4
_TURNS = 0.966
"""Cosine of the turn of the surface from which on a knot lies on the crease."""
_FLAT = 0.9
"""Cosine to upright from which on a face is no wall."""
_JUMPS = 4.0
"""A step of the surface that is so many times longer than the one along the span goes over an edge."""
_AT = 1e-6
"""So near a surface, as a share of the span, a place lies in it."""
_NEAR = 0.02
"""How far the way may be from a curved surface, as a share of what the body stands above it."""


@dataclass(frozen=True, eq=False)
class Met:
    """A place of a surface (3,), its unit normal there (3,), the host that it is of (None: the floor), and how far."""

    place: Points3
    normal: Floats
    host: str | None
    far: float

    def facing(self, side: Floats) -> "Met":
        """With the normal that looks to a side: a surface alone has an outside on both."""
        return self if float(self.normal @ side) > 0.0 else replace(self, normal=-self.normal)


Cast = Callable[[str | None, Points3, Floats], Met | None]
"""What a line from a place (3,) along a unit direction (3,) meets first of a host, or of the floor (None); its normal
looks out of the host."""


def may_go_over(path: Path, span: int) -> bool:
    """Whether a span can be led over something: a straight one between two knots that rest, not both on bodies."""
    both = path.knots[span], path.knots[(span + 1) % len(path.knots)]
    free = path.made is None and not path.kind.is_made
    rests = [k.hold for k in both if isinstance(k.hold, RestHold)]
    return free and is_straight_span(path, span) and len(rests) == 2 and any(h.run is None for h in rests)


def span_at(path: Path, at: float) -> int:
    """The number of the span at a distance along a path, m."""
    return int(np.clip(np.searchsorted(resolve_path(path_shape(path)).knot_at, at, side="right") - 1, 0, _last(path)))


def _last(path: Path) -> int:
    return len(path.knots) - (1 if path.closed else 2)


def gone_over(project: Project, run_id: str, at: float, cast: Cast) -> Project:
    """The straight span at a distance ``at`` m along a run's path led over what lies below it, on new knots that rest.

    Raises PathError where it is no such span, or nothing lies below it.
    """
    path = path_of(project, run_id)
    span = span_at(path, at)
    if not may_go_over(path, span):
        raise PathError("only a straight span between two knots that rest is led over what lies below it")
    a, b = path.knots[span], path.knots[(span + 1) % len(path.knots)]
    rests = _Way(a, b, cast).rests()
    if not rests:
        raise PathError("there is nothing below this span to go over")
    draft = Draft(project)
    new = [Knot(id=draft.new_id("k"), place=r.foot, kind="corner", curved=False) for r in rests]
    knots = (*path.knots[: span + 1], *new, *path.knots[span + 1 :])
    project = with_path(draft.done(), evolve(path, knots=knots))
    return rest_on(project, path.id, {k.id: r for k, r in zip(new, rests, strict=True)})


class _Way:
    """The surface below a straight span, by shares of it from 0 to 1."""

    def __init__(self, a: Knot, b: Knot, cast: Cast) -> None:
        holds = [k.hold for k in (a, b) if isinstance(k.hold, RestHold)]
        self._feet, self._ups = (np.array([getattr(h, name) for h in holds]) for name in ("foot", "up"))
        self._hosts = list(dict.fromkeys(h.host for h in holds if h.run is None))
        self._size = float(np.linalg.norm(self._feet[1] - self._feet[0]))
        self.stands = max(stand_off(k) or 0.0 for k in (a, b))
        self._cast = cast

    def _up(self, share: float) -> Floats:
        return unit(self._ups[0] + share * (self._ups[1] - self._ups[0]))

    def met(self, share: float) -> Met | None:
        """The highest surface at a place of the span: what it lies under there, else what lies below it."""
        up = self._up(share)
        place = self._feet[0] + share * (self._feet[1] - self._feet[0])
        found = [m for h in self._hosts if (m := self._surface(h, place, up)) is not None]
        return max(found, key=lambda m: float(m.place @ up), default=None)

    def _surface(self, host: str | None, place: Points3, up: Floats) -> Met | None:
        """Where a host, or the floor, is left upward from a place in it; from outside, what is met downward."""
        off = _AT * self._size * up
        above = self._cast(host, place - off, up)
        leaves = 0.0 if above is None else float(above.normal @ up)
        if above is not None and leaves > _AT:
            return above
        start = place + (self._size * up if above is not None and leaves > -_AT else off)  # in a wall: from far above
        below = self._cast(host, start, -up)
        return None if below is None else below.facing(up)

    def rests(self) -> list[Rest]:
        """What new knots on the way rest on, in their order."""
        shares = np.linspace(0.0, 1.0, _PLACES)
        seen = [(float(s), m) for s in shares if (m := self.met(s)) is not None]
        out: list[Rest] = []
        smooth = [m for _, m in seen[:1]]
        for (s, one), (t, two) in zip(seen, seen[1:], strict=False):
            if self._breaks(one, two, t - s):
                found = self._over(s, t, one, two)
                out += [*self._curved(smooth), *found]
                smooth = []
            smooth.append(two)
        return [*out, *self._curved(smooth)]

    def _breaks(self, one: Met, two: Met, step: float) -> bool:
        jump = float(np.linalg.norm(two.place - one.place)) > _JUMPS * step * self._size + 1e-9
        return jump or float(one.normal @ two.normal) < _TURNS

    def _over(self, s: float, t: float, one: Met, two: Met) -> list[Rest]:
        """Over an edge, or along a crease, that lies between two places."""
        for _ in range(_HALVES):
            middle = 0.5 * (s + t)
            met = self.met(middle)
            if met is None:
                break
            goes_with_one = self._is_as(one, met, two)
            if t - s < _CLOSE:  # on the very edge a line may meet the face beside it
                met = replace(met, normal=one.normal if goes_with_one else two.normal)
            s, one, t, two = (middle, met, t, two) if goes_with_one else (s, one, middle, met)
        height = float((one.place - two.place) @ self._up(s))
        if abs(height) <= 1e-6 * self._size:
            return [_both(one, one.normal, two.normal)]
        upper, lower = (one, two) if height > 0.0 else (two, one)
        wall = self._wall(upper, lower, abs(height), goes_down=height > 0.0)
        pair = [_both(upper, upper.normal, wall), _both(lower, lower.normal, wall)]
        return pair if height > 0.0 else pair[::-1]

    def _is_as(self, one: Met, met: Met, two: Met) -> bool:
        """Whether a place goes with the first of two rather than with the second."""
        if met.host != two.host or met.host != one.host:
            return met.host == one.host
        up = self._up(0.5)
        off = [
            abs(float((met.place - m.place) @ up)) + self._size * (1.0 - float(met.normal @ m.normal))
            for m in (one, two)
        ]
        return off[0] <= off[1]

    def _wall(self, upper: Met, lower: Met, height: float, *, goes_down: bool) -> Floats:
        """The normal of the face from an edge down: looked for from the lower side."""
        up = self._up(0.5)
        way = self._feet[1] - self._feet[0]
        away = unit(way - (way @ up) * up) * (1.0 if goes_down else -1.0)
        start = lower.place + 0.5 * height * up + 0.25 * self._size * away
        met = self._cast(upper.host, start, -away)
        return away if met is None or abs(float(met.normal @ up)) > _FLAT else met.facing(away).normal

    def _curved(self, met: list[Met]) -> list[Rest]:
        """Knots on a smooth stretch of the surface, as many as it takes to stay near it; none at its ends."""
        if len(met) < 3:
            return []
        line = np.array([m.place for m in met])
        way = unit(line[-1] - line[0])
        off = line - line[0]
        off = np.linalg.norm(off - (off @ way)[:, None] * way, axis=1)
        k = int(np.argmax(off))
        if off[k] <= max(_NEAR * self.stands, 1e-6 * self._size):
            return []
        own = Rest(met[k].host, _place(met[k].place), _place(met[k].normal))
        return [*self._curved(met[: k + 1]), own, *self._curved(met[k:])]


def _both(at: Met, one: Floats, two: Floats) -> Rest:
    """A rest that is clear of two faces by the reach."""
    both = one + two
    size = float(np.linalg.norm(both))
    if size < 0.2:
        return Rest(at.host, _place(at.place), _place(one))
    return Rest(at.host, _place(at.place), _place(both / size), 2.0 / size)


def _place(p: Floats) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
