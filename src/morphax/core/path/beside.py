"""Paths beside a path: at a constant distance to the side in plan, corners extended, inside loops taken out.

Offsets of a cubic are no cubics: each is joined from cubics with the true places and derivatives at their ends, as many
as it takes to stay near (Farouki and Neff, "Analytic properties of plane offset curves", 1990).
"""

from dataclasses import dataclass

import numpy as np

from morphax.core.errors import PathError
from morphax.core.frame.frames import FrameField, carried_field, frames_on
from morphax.core.path.arclength import Places, distances_of
from morphax.core.path.loops_cut import Pieces, without_loops
from morphax.core.path.paths import derivatives_at, points_at, second_derivatives_at
from morphax.core.path.resolved import ResolvedPath
from morphax.core.types import Flags, Floats, Ints, Points3, Spans, Vectors3, frozen

NEAR = 1e-4
"""A path beside another one is as far from it as is asked for to this share of that distance."""
_STEEP = 0.2
"""A path that is level by less than this, anywhere, has its sides by its frames instead of in plan."""
_ROUNDS, _MOST_PARTS, _MORE, _LEAST = 5, 16, 1.1, 1.0 / 128.0
_LOOKS = np.array([0.3, 0.7])
_SHARPEST = 1.0 + np.cos(np.radians(150.0))


@dataclass(frozen=True, eq=False)
class BesidePath:
    """``spans`` (m, 4, 3), m, end to end; ``corner`` (m+1,) whether the place before a span, and after the last, is a
    corner; ``straight`` (m,); ``cuts`` (k, 3) places at which a loop was taken out."""

    spans: Spans
    corner: Flags
    straight: Flags
    closed: bool
    cuts: Points3


def beside(path: ResolvedPath, side: float, up: float = 0.0) -> BesidePath:
    """The path that runs ``side`` m to the right of another one (negative: left) and ``up`` m above it.

    Seen from above it is everywhere as far away; where the path is steep, right and up are those of its carried frames.
    Raises PathError where nothing is left of it.
    """
    offset = _plan(path, side) if _is_level(path) else _framed(path, side, up)
    pieces = _pieces(path, offset, max(abs(side), 1e-9) * NEAR)
    pieces, corner = _with_corners(path, offset, pieces)
    lift = np.array([0.0, 0.0, up]) if isinstance(offset, _Plan) else np.zeros(3)
    found = without_loops(pieces, corner, closed=path.chain.closed)
    if not len(found.spans):
        raise PathError("so far to this side nothing is left: the path bends tighter than that everywhere")
    return BesidePath(
        frozen(found.spans + lift), frozen(found.corner), frozen(found.straight), path.chain.closed, found.cuts + lift
    )


def _is_level(path: ResolvedPath) -> bool:
    spans = path.chain.spans
    ways = np.stack([derivatives_at(spans, np.full(len(spans), t)) for t in np.linspace(0.0, 1.0, 9)])
    size = np.linalg.norm(ways, axis=-1)
    level = np.linalg.norm(ways[..., :2], axis=-1) > _STEEP * size
    return bool((level | (size <= 1e-12 * size.max())).all())


@dataclass(frozen=True, eq=False)
class _Plan:
    """Offsets to the right as seen from above; heights stay."""

    spans: Spans
    side: float

    def at(self, span: Ints, t: Floats) -> tuple[Points3, Vectors3]:
        """Places (n, 3) beside the path at parameters of its spans, and their derivatives."""
        own = self.spans[span]
        p, d, dd = points_at(own, t), derivatives_at(own, t), second_derivatives_at(own, t)
        size2 = np.maximum((d[:, :2] ** 2).sum(1), 1e-300)
        size = np.sqrt(size2)
        right = np.stack([d[:, 1], -d[:, 0], np.zeros(len(d))], axis=1) / size[:, None]
        turning = (d[:, 0] * dd[:, 1] - d[:, 1] * dd[:, 0]) / size2
        slope = d * np.where(np.arange(3) < 2, (1.0 + self.side * turning / size)[:, None], 1.0)
        return p + self.side * right, slope


@dataclass(frozen=True, eq=False)
class _Framed:
    """Offsets in the frames that are carried along the path."""

    path: ResolvedPath
    field: FrameField
    leg_of: Ints
    side: float
    up: float

    def at(self, span: Ints, t: Floats) -> tuple[Points3, Vectors3]:
        """Places (n, 3) beside the path at parameters of its spans, and their derivatives (by differences)."""
        own = self.path.chain.spans[span]
        step = 1e-4
        low, high = np.maximum(t - step, 0.0), np.minimum(t + step, 1.0)
        off, before, after = (self._offset(span, v) for v in (t, low, high))
        slope = derivatives_at(own, t) + (after - before) / (high - low)[:, None]
        return points_at(own, t) + off, slope

    def _offset(self, span: Ints, t: Floats) -> Vectors3:
        table = self.path.table
        s, leg = distances_of(table, Places(np.asarray(span), t)), self.leg_of[span]
        starts = np.array([float(f.s[0]) for f in self.field.legs])
        s = np.where(s < starts[leg] - 1e-9 * float(table.total), s + float(table.total), s)  # round a closed path
        frames = frames_on(self.field, leg, s)
        out: Vectors3 = self.side * frames.right + self.up * frames.up
        return out


_Offset = _Plan | _Framed


def _plan(path: ResolvedPath, side: float) -> _Plan:
    return _Plan(path.chain.spans, side)


def _framed(path: ResolvedPath, side: float, up: float) -> _Framed:
    field = carried_field(path.table, path.legs, closed=path.chain.closed)
    m = len(path.chain.spans)
    leg_of = np.zeros(m, dtype=np.int32)
    for k, leg in enumerate(path.legs):
        leg_of[np.arange(leg.first, leg.last) % m] = k
    return _Framed(path, field, leg_of, side, up)


def _hermite(offset: _Offset, span: Ints, t0: Floats, t1: Floats) -> Spans:
    """Cubics from parameters to others, with the true places and derivatives at their ends."""
    (a, da), (b, db) = offset.at(span, t0), offset.at(span, t1)
    third = ((t1 - t0) / 3.0)[:, None]
    return np.stack([a, a + third * da, b - third * db, b], axis=1)


def _pieces(path: ResolvedPath, offset: _Offset, within: float) -> Pieces:
    """Cubics beside each span, as many as it takes; lines beside lines."""
    straight, m = path.chain.straight, len(path.chain.spans)
    span, t0, t1 = np.arange(m, dtype=np.int32), np.zeros(m), np.ones(m)
    spans, far = _missed(path, offset, span, t0, t1)
    for _ in range(_ROUNDS):
        parts = np.clip(np.ceil(_MORE * (far / within) ** 0.25), 1, _MOST_PARTS).astype(int)  # of fourth order
        parts = np.where(straight[span] | (far <= within) | (t1 - t0 <= _LEAST), 1, np.maximum(parts, 2))
        split = parts > 1
        if not split.any():
            break
        n = parts[split]
        k = np.arange(n.sum()) - np.repeat(np.cumsum(n) - n, n)
        step = np.repeat((t1 - t0)[split] / n, n)
        low = np.repeat(t0[split], n) + k * step
        fresh: tuple[Ints, Floats, Floats] = np.repeat(span[split], n), low, low + step
        made, missed = _missed(path, offset, *fresh)
        span = np.concatenate([span[~split], fresh[0]])
        t0, t1 = (np.concatenate([a[~split], b]) for a, b in zip((t0, t1), fresh[1:], strict=True))
        spans, far = np.concatenate([spans[~split], made]), np.concatenate([far[~split], missed])
    order = np.lexsort((t0, span))
    span, t0, t1, spans = span[order], t0[order], t1[order], spans[order]
    lines = straight[span]
    spans[lines] = _lines(spans[lines, 0], spans[lines, 3])
    return Pieces(spans, lines, derivatives_at(path.chain.spans[span], 0.5 * (t0 + t1)), span.astype(np.int32))


def _missed(path: ResolvedPath, offset: _Offset, span: Ints, t0: Floats, t1: Floats) -> tuple[Spans, Floats]:
    """Cubics for stretches of spans, and how far they are from what they stand for; 0 where that runs backwards, which
    is cut off."""
    made, wide = _hermite(offset, span, t0, t1), t1 - t0
    n, k = len(span), len(_LOOKS)
    looks, which = np.tile(_LOOKS, n), np.repeat(np.arange(n), k)
    t = t0[which] + looks * wide[which]
    place, slope = offset.at(span[which], t)
    far = np.linalg.norm(points_at(made[which], looks) - place, axis=1).reshape(n, k).max(1)
    back = ((slope * derivatives_at(path.chain.spans[span[which]], t)).sum(1) <= 0.0).reshape(n, k).all(1)
    return made, np.where(back, 0.0, far)


def _lines(a: Points3, b: Points3) -> Spans:
    return np.stack([a, (2.0 * a + b) / 3.0, (a + 2.0 * b) / 3.0, b], axis=1)


def _with_corners(path: ResolvedPath, offset: _Offset, pieces: Pieces) -> tuple[Pieces, Flags]:
    """Pieces extended to each other at sharp corners; and whether the place before each piece, and after the last, is a
    corner."""
    m = len(path.chain.spans)
    sharp: Ints = np.flatnonzero(path.sharp[:m]).astype(np.int32)
    sharp = sharp if path.chain.closed else sharp[sharp > 0]
    first = np.searchsorted(pieces.span, np.arange(m))
    spans, corner = pieces.spans.copy(), np.zeros(len(pieces.spans) + 1, dtype=bool)
    more: list[tuple[float, Spans, Vectors3]] = []
    smooth = np.setdiff1d(np.arange(0 if path.chain.closed else 1, len(spans)), first[sharp])
    gap = 0.5 * (spans[smooth, 0] - spans[smooth - 1, 3])[:, None]  # turns too small to be corners
    spans[smooth, :2] -= gap
    spans[smooth - 1, 2:] += gap
    if len(sharp):
        places = path.chain.spans[sharp, 0]
        outs = first[sharp]
        ins = (outs - 1) % len(spans)
        knees = _knees(places, _ways(path, sharp, m), (spans[ins, 3], spans[outs, 0]), flat=isinstance(offset, _Plan))
        for k, (i, o) in enumerate(zip(ins.tolist(), outs.tolist(), strict=True)):
            corner[o] = True
            _joint(pieces, spans, (i, o), knees[k], more)
    corner[-1] = corner[0]
    return _inserted(Pieces(spans, pieces.straight, pieces.way, pieces.span), corner, more)


def _ways(path: ResolvedPath, at: Ints, m: int) -> tuple[Vectors3, Vectors3]:
    """The directions in which the path comes to corners and leaves them, of length 1."""
    spans = path.chain.spans
    came, goes = derivatives_at(spans[(at - 1) % m], np.ones(len(at))), derivatives_at(spans[at], np.zeros(len(at)))
    return came / np.linalg.norm(came, axis=1)[:, None], goes / np.linalg.norm(goes, axis=1)[:, None]


@dataclass(frozen=True, eq=False)
class _Knee:
    """How two pieces meet at a corner: at the ``places`` on the way from one to the other; ``is_outer``: these lie
    beyond both; ``meets``: they are one place."""

    places: Points3
    is_outer: bool
    meets: bool


def _knees(at: Points3, ways: tuple[Vectors3, Vectors3], ends: tuple[Points3, Points3], *, flat: bool) -> list[_Knee]:
    """The corners beside corners: where both ways, prolonged, meet in the plane that halves the turn."""
    came, goes = ways
    if flat:
        level = np.array([1.0, 1.0, 0.0])
        came, goes = (v * level / np.linalg.norm(v * level, axis=1)[:, None] for v in (came, goes))
    half = came + goes
    turn = 1.0 + (came * goes).sum(1)
    offs = ends[0] - at
    along = -(half * offs).sum(1) / np.maximum((half * came).sum(1), 1e-12)
    out = []
    for k in range(len(at)):
        a, b = ends[0][k], ends[1][k]
        if turn[k] < _SHARPEST:  # so sharp that it would stand far out: cut off square
            far = min(abs(float(along[k])), float(np.linalg.norm(offs[k])))
            places = np.array([a + far * came[k], b - far * goes[k]])
            out.append(_Knee(places, bool(along[k] > 0.0), meets=False))
            continue
        meet = a + along[k] * came[k]
        if flat:
            meet = np.array([meet[0], meet[1], at[k, 2]])
        out.append(_Knee(meet[None], bool(along[k] >= 0.0), meets=True))
    return out


def _joint(
    pieces: Pieces, spans: Spans, ends: tuple[int, int], knee: _Knee, more: list[tuple[float, Spans, Vectors3]]
) -> None:
    """Brings two pieces together at a corner: lines are prolonged or shortened, others get lines between; on the inner
    side these are what a loop is cut off from."""
    i, o = ends
    a, b = spans[i, 3].copy(), spans[o, 0].copy()
    if knee.meets and pieces.straight[i] and pieces.straight[o]:
        spans[i] = _lines(spans[i, :1], knee.places)[0]
        spans[o] = _lines(knee.places, spans[o, 3:])[0]
        return
    if not knee.is_outer:
        if np.linalg.norm(b - a) > 0.0:
            more.append((float(o), _lines(a[None], b[None]), (a - b)[None]))
        return
    stops = np.concatenate([a[None], knee.places, b[None]])
    lines = _lines(stops[:-1], stops[1:])
    more.append((float(o), lines, lines[:, 3] - lines[:, 0]))


def _inserted(pieces: Pieces, corner: Flags, more: list[tuple[float, Spans, Vectors3]]) -> tuple[Pieces, Flags]:
    """Pieces with lines between some of them; all ends of those are corners."""
    if not more:
        return pieces, corner
    at = np.concatenate([np.full(len(lines), int(o)) for o, lines, _ in more])
    lines, ways = np.concatenate([x for _, x, _ in more]), np.concatenate([w for _, _, w in more])
    spans = np.insert(pieces.spans, at, lines, axis=0)
    straight, way = np.insert(pieces.straight, at, True), np.insert(pieces.way, at, ways, axis=0)
    span = np.insert(pieces.span, at, pieces.span[np.minimum(at, len(pieces.span) - 1)])
    flags = np.insert(corner, at, True)
    flags[np.flatnonzero(np.insert(np.zeros(len(pieces.spans), dtype=bool), at, True)) + 1] = True
    flags[-1] = flags[0] if corner[0] or corner[-1] else False
    return Pieces(spans, straight, way, span), flags
