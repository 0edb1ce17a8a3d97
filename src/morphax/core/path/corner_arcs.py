"""Corner radii: a corner between straight legs becomes an arc, shortened where its legs are too short for it."""

from dataclasses import dataclass, replace
from math import ceil, radians, tan

import numpy as np

from morphax.core.path.paths import Chain, PathShape, chain_of
from morphax.core.types import Flags, Floats, Points3, Spans, frozen
from morphax.core.vectors import turn_between, unit

ARC_STEP = radians(10.0)
"""Arcs are cubics of at most this angle: their radius is true to 5e-10."""
_SHARPEST = radians(175.0)


@dataclass(frozen=True, eq=False)
class CornerArcs:
    """What becomes of the corners that have a radius; all (n,), one entry a knot.

    ``turn`` rad; ``radius`` the arc's own, m, 0 where the corner stays sharp; ``shortened`` where the legs are too
    short for the radius that was asked for; ``crooked`` where a leg is not straight, or the path turns back.
    """

    turn: Floats
    radius: Floats
    shortened: Flags
    crooked: Flags

    @property
    def set_back(self) -> Floats:
        """How far before and behind its knot each arc starts and ends, m."""
        return self.radius * np.tan(0.5 * self.turn)


def corner_arcs(path: PathShape) -> CornerArcs:
    """Decides every corner that has a radius. Raises PathError as ``chain_of`` does."""
    n = len(path.knots)
    none = np.zeros(n, dtype=bool)
    if not path.radius.size or not np.any(path.radius > 0.0):
        return CornerArcs(np.zeros(n), np.zeros(n), none, none)
    chain = chain_of(path)
    before, after = np.arange(n) - 1, np.arange(n)
    inner = np.ones(n, dtype=bool)
    if not path.closed:
        inner[0] = inner[-1] = False
        before, after = np.clip(before, 0, None), np.clip(after, None, len(chain.spans) - 1)
    chords = chain.spans[:, 3] - chain.spans[:, 0]
    turn = turn_between(unit(chords[before]), unit(chords[after]))
    asked = inner & (path.radius > 0.0) & chain.corner[:n]
    straight = chain.straight[before] & chain.straight[after]
    crooked = asked & (~straight | (turn > _SHARPEST))
    round_ = asked & ~crooked & (turn > 1e-9)
    wanted = np.where(round_, path.radius * np.tan(0.5 * np.where(round_, turn, 0.0)), 0.0)
    length = np.sqrt((chords**2).sum(1))
    last = np.roll(wanted, -1)[: len(length)]
    room = length / np.maximum(wanted[: len(length)] + last, 1e-300)
    share = np.minimum(1.0, np.minimum(room[before], room[after]))
    return CornerArcs(turn, np.where(round_, path.radius * share, 0.0), round_ & (share < 1.0 - 1e-12), crooked)


def arc_spans(start: Points3, tangent: Floats, inward: Floats, radius: float, turn: float) -> Spans:
    """Cubics (k, 4, 3) along an arc from ``start`` along the unit ``tangent`` towards the unit ``inward``; k is even.

    Source: handles of 4/3 tan(theta/4) times the radius, the usual cubic for an arc of theta.
    """
    count = 2 * max(1, ceil(0.5 * turn / ARC_STEP - 1e-9))
    angle = np.linspace(0.0, turn, count + 1)[:, None]
    centre = start + radius * inward
    points = centre - radius * (np.cos(angle) * inward - np.sin(angle) * tangent)
    along = np.cos(angle) * tangent + np.sin(angle) * inward
    handle = 4.0 / 3.0 * tan(0.25 * turn / count) * radius
    inner = points[:-1] + handle * along[:-1], points[1:] - handle * along[1:]
    return np.stack([points[:-1], *inner, points[1:]], axis=1)


def rounded_chain(path: PathShape) -> Chain:
    """The chain of a path with its corner radii; a rounded knot is the middle of its arc."""
    chain = chain_of(path)
    if not path.radius.size:
        return chain
    arcs = corner_arcs(path)
    return _with_arcs(path, chain, arcs) if np.any(arcs.radius > 0.0) else chain


def _with_arcs(path: PathShape, chain: Chain, arcs: CornerArcs) -> Chain:
    n, m = len(path.knots), len(chain.spans)
    back = arcs.set_back
    pieces = [_arc_at(path, chain, arcs, k) if arcs.radius[k] > 0.0 else None for k in range(n)]
    first, knots = pieces[0], [0]
    spans: list[Floats] = [] if first is None else list(first[len(first) // 2 :])  # closed: from the arc's middle on
    corner, straight, arc_of = [False] * len(spans), [False] * len(spans), [1] * len(spans)
    for i in range(m):
        a, b = i, (i + 1) % n
        trimmed = _trimmed(chain.spans[i], back[a], back[b]) if chain.straight[i] else chain.spans[i]
        if trimmed is not None:
            spans.append(trimmed)
            corner.append(bool(chain.corner[i]) and arcs.radius[a] == 0.0)
            straight.append(bool(chain.straight[i]))
            arc_of.append(0)
        arc = pieces[b] if i + 1 < m or path.closed else None
        if arc is not None:
            half = len(arc) // 2
            wanted = arc if i + 1 < m else arc[:half]
            knots.append(len(spans) + half)
            spans += list(wanted)
            corner += [False] * len(wanted)
            straight += [False] * len(wanted)
            arc_of += [b + 1] * len(wanted)
        else:
            knots.append(len(spans))
    corner.append(bool(chain.corner[m]) and arcs.radius[m % n] == 0.0)
    return replace(
        chain,
        spans=frozen(np.array(spans)),
        corner=frozen(np.array(corner)),
        straight=frozen(np.array(straight)),
        knot_index=frozen(np.array(knots, dtype=np.int32)),
        arc=frozen(np.array(arc_of, dtype=np.int32)),
    )


def _arc_at(path: PathShape, chain: Chain, arcs: CornerArcs, knot: int) -> Spans:
    a, b = (unit(s[3] - s[0]) for s in (chain.spans[knot - 1], chain.spans[knot]))
    start = path.knots[knot] - arcs.set_back[knot] * a
    return arc_spans(start, a, unit(b - (b @ a) * a), float(arcs.radius[knot]), float(arcs.turn[knot]))


def _trimmed(span: Spans, lead: float, tail: float) -> Spans | None:
    """A straight span without what its arcs take; None where nothing is left."""
    a, b = span[0], span[3]
    length = float(np.sqrt(((b - a) ** 2).sum()))
    if lead + tail >= length * (1.0 - 1e-12):
        return None
    a, b = a + (b - a) * (lead / length), b - (b - a) * (tail / length)
    return np.stack([a, (2.0 * a + b) / 3.0, (a + 2.0 * b) / 3.0, b])
