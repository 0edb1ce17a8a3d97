"""Which outlines and holes of sections belong together along a loft; what has no partner shrinks to a point."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import count
from typing import NamedTuple

import numpy as np

from morphax.core.errors import SectionError
from morphax.core.loft.loop_ruler import LoopRuler, ruler_of
from morphax.core.loft.pairing import Pairing, paired
from morphax.core.section.pieces import plain, reversed_loop
from morphax.core.section.sections import SectionShape
from morphax.core.types import Floats
from morphax.core.vectors import exact_turn

Mark = tuple[float, float] | tuple[float, float, int]
"""A fixed pair of shares of an outline of two neighbours; of which one of the earlier section, part by part and each
outline before its holes, by default the first."""
Marks = tuple[Mark, ...]
_SAME = 1e-9


@dataclass(frozen=True)
class Home:
    """The ``place`` of a section that stands on the path, how many times as large it stands there, and its ``turn``,
    rad: by these a place in one section is one in another."""

    place: tuple[float, float] = (0.0, 0.0)
    scale: float = 1.0
    turn: float = 0.0


@dataclass(frozen=True, eq=False)
class Track:
    """A loop of all sections: its rulers, and from each one to the next the pairing.

    ``points``: where a section has no such loop the place (2,) that it shrinks to, its ruler being that of a neighbour;
    None where it has one.
    """

    rulers: tuple[LoopRuler, ...]
    pairings: tuple[Pairing, ...]
    is_hole: bool
    part: int
    points: tuple[Floats | None, ...]
    numbers: tuple[int, ...] = ()
    """Which loop of each section it is, part by part; -1 where it has none."""

    def is_point(self, k: int) -> bool:
        """Whether a section has no such loop."""
        return self.points[k] is not None

    def shares(self, t: Floats) -> list[Floats]:
        """Shares of the loop in each section for those of the first, or ``t`` itself."""
        out = [t]
        for pairing in self.pairings:
            out.append(pairing.onward(out[-1]))
        return out

    def features(self, *, joints: bool) -> Floats:
        """Shares of the first loop at which any of them has a corner or a mark, each once, in order; ``joints``: also
        those at which any bends otherwise than before."""
        found = [np.array([0.0, 1.0])] if self.rulers[0].is_open else []
        for k, ruler in enumerate(self.rulers):
            own = [ruler.corners[0], *([ruler.joints] if joints else [])]
            own += [self.pairings[k - 1].second[self.pairings[k - 1].fixed]] if k else []
            t = np.concatenate(own)
            for pairing in reversed(self.pairings[:k]):
                t = pairing.back(t)
            found.append(t)
        t = np.concatenate(found)
        if self.rulers[0].is_open:
            t = np.sort(np.clip(t, 0.0, 1.0))
        else:
            t = np.sort(t % 1.0)
            t = t[t < 1.0 - _SAME] if len(t) and t[0] < _SAME else t
        out: Floats = t[np.concatenate([[True], np.diff(t) > _SAME])] if len(t) else t
        return out


class _Loop(NamedTuple):
    """A loop of a section, and which one of it that is."""

    ruler: LoopRuler
    number: int


@dataclass(eq=False)
class _Chain:
    """A loop in the making: itself in each section, None where there is none; and the holes in it."""

    loops: list["_Loop | None"]
    holes: list["_Chain"] = field(default_factory=list)

    @property
    def last(self) -> LoopRuler:
        """The newest ruler."""
        return next(own.ruler for own in reversed(self.loops) if own is not None)


def tracks_of(shapes: Sequence[SectionShape], marks: Sequence[Marks], homes: Sequence[Home] = ()) -> list[Track]:
    """The loops of all sections, parts one after the other, each outline before its holes. ``marks`` of each pair of
    neighbours; ``homes`` of the sections, by default their own origins."""
    chains = list[_Chain]()
    for k, shape in enumerate(shapes):
        _go_on(chains, _loops(shape), k)
    homes = homes or [Home()] * len(shapes)
    out = list[Track]()
    for part, chain in enumerate(chains):
        own = _track(chain, part, homes, marks)
        out.append(own)
        out += [_track(hole, part, homes, marks, own) for hole in chain.holes]
    return out


def _loops(shape: SectionShape) -> list[list[_Loop]]:
    """Of each part the outline and its holes, all counter-clockwise."""
    number = count()
    return [
        [_Loop(ruler_of(p.outer), next(number))]
        + [_Loop(ruler_of(reversed_loop(plain(h))), next(number)) for h in p.holes]
        for p in shape.parts
    ]


def _go_on(chains: list[_Chain], loops: Sequence[Sequence[_Loop]], k: int) -> None:
    """Adds the parts of a section of a number to the chains: to those that they go on, else as new ones."""
    outers = [own[0] for own in loops]
    if any(c.last.is_open is not own.ruler.is_open for c in chains for own in outers):
        raise SectionError("an open line does not become a closed outline along the path")
    taken = _partners([c.last for c in chains], [own.ruler for own in outers])
    for i, chain in enumerate(chains):
        chain.loops.append(outers[taken[i]] if i in taken else None)
        _go_on(chain.holes, [[h] for h in loops[taken[i]][1:]] if i in taken else [], k)
    for j, own in enumerate(loops):
        if j not in taken.values():
            chains.append(_Chain([None] * k + [own[0]], [_Chain([None] * k + [h]) for h in own[1:]]))


def _partners(a: Sequence[LoopRuler], b: Sequence[LoopRuler]) -> dict[int, int]:
    """Which of the later loops earlier ones become: near, and alike in size; as many as there are of the fewer."""
    if len(a) < 2 and len(b) < 2:
        return {0: 0} if len(a) and len(b) else {}
    if not len(a) or not len(b):
        return {}
    from scipy.optimize import linear_sum_assignment  # start-up time: few lofts have several outlines

    ca, cb = (np.array([r.middle[0] for r in v]) for v in (a, b))
    area_a, area_b = (np.array([r.middle[1] for r in v]) for v in (a, b))
    width = max(float(np.ptp(ca, axis=0).max()), float(np.ptp(cb, axis=0).max()), float(np.sqrt(area_a.max())))
    far = np.linalg.norm(ca[:, None] - cb[None], axis=-1) / width
    cost = far + np.abs(np.log(np.maximum(area_a, 1e-300)[:, None] / np.maximum(area_b, 1e-300)[None]))
    rows, columns = linear_sum_assignment(cost)
    return {int(i): int(j) for i, j in zip(rows, columns, strict=True)}


def _track(
    chain: _Chain, part: int, homes: Sequence[Home], marks: Sequence[Marks], outer: Track | None = None
) -> Track:
    """A chain with what is missing as points; those of holes of an outline that is a point itself lie in that."""
    there = [k for k, own in enumerate(chain.loops) if own is not None]
    numbers = tuple(-1 if own is None else own.number for own in chain.loops)
    rulers, points = list[LoopRuler](), list[Floats | None]()
    for k, loop in enumerate(chain.loops):
        source = max((i for i in there if i <= k), default=there[0])
        known = chain.loops[source]
        assert known is not None
        rulers.append(known.ruler)
        gone = None if outer is None else outer.points[k]
        away = gone if gone is not None else _moved(known.ruler, homes[source], homes[k])
        points.append(None if loop is not None else away)
    pairs = [
        paired(a, b, _marks_of(numbers[n], marks[n]) if n < len(marks) and numbers[n + 1] >= 0 else ())
        for n, (a, b) in enumerate(zip(rulers[:-1], rulers[1:], strict=True))
    ]
    return Track(tuple(rulers), tuple(pairs), outer is not None, part, tuple(points), numbers)


def loop_of(mark: Mark) -> int:
    """Which loop of the earlier section a mark is on."""
    return mark[2] if len(mark) == 3 else 0


def _marks_of(number: int, marks: Marks) -> list[tuple[float, float]]:
    """The marks of a loop."""
    return [(m[0], m[1]) for m in marks if loop_of(m) == number]


def _moved(ruler: LoopRuler, own: Home, other: Home) -> Floats:
    """The middle of a loop of one section as a place in another one."""
    c, s = exact_turn(own.turn - other.turn)
    away = (ruler.middle[0] - np.array(own.place)) * (own.scale / other.scale)
    place: Floats = np.array(other.place) + away @ np.array([[c, s], [-s, c]])
    return place
