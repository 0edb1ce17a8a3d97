"""Loops that a path beside another one makes on the inner side of bends: found where it runs backwards, and cut off
where the ways before and after it cross, seen from above."""

from dataclasses import dataclass

import numpy as np

from morphax.core.path.paths import derivatives_at, points_at
from morphax.core.types import Flags, Floats, Ints, Points3, Spans, Vectors3

_PER_PIECE = 8
_NEWTON, _NONE = 6, 1e-9
_WINDOWS = (64, 256, 1024)
"""So many steps before and after a loop its ways are looked along for where they cross."""


@dataclass(frozen=True, eq=False)
class Pieces:
    """Cubics end to end: ``spans`` (m, 4, 3), m; ``straight`` (m,); ``way`` (m, 3) the directions in which they have to
    run; ``span`` (m,) of the path that each lies beside."""

    spans: Spans
    straight: Flags
    way: Vectors3
    span: Ints


@dataclass(frozen=True, eq=False)
class Cut:
    """Pieces without loops; ``corner`` (m+1,); ``cuts`` (k, 3) where the loops were."""

    spans: Spans
    straight: Flags
    corner: Flags
    cuts: Points3


def without_loops(pieces: Pieces, corner: Flags, *, closed: bool) -> Cut:
    """Pieces of which all run forwards; nothing is left where none did."""
    t = np.linspace(0.0, 1.0, _PER_PIECE + 1)
    grid = points_at(pieces.spans[:, None], np.broadcast_to(t, (len(pieces.spans), len(t))))
    steps = np.diff(grid, axis=1)
    back = ((steps * pieces.way[:, None]).sum(2) < 0.0).ravel()
    if not back.any():
        return Cut(pieces.spans, pieces.straight, corner, np.empty((0, 3)))
    if back.all():
        return Cut(pieces.spans[:0], pieces.straight[:0], corner[:1], np.empty((0, 3)))
    if closed:
        turn = _far_from(back) // _PER_PIECE
        order = np.roll(np.arange(len(pieces.spans)), -turn)
        pieces = Pieces(pieces.spans[order], pieces.straight[order], pieces.way[order], pieces.span[order])
        corner = np.append(corner[:-1][order], corner[turn])
        grid, back = grid[order], np.roll(back, -turn * _PER_PIECE)
    line = np.concatenate([grid[:, :-1].reshape(-1, 3), grid[-1:, -1]])
    kept = [(a, b) for a, b in _kept(pieces, line, back) if b - a > _NONE]
    far = np.linalg.norm(np.diff(line, axis=0), axis=1)
    if not kept or (len(kept) == 1 and far[back].sum() > far[~back].sum()):
        return Cut(pieces.spans[:0], pieces.straight[:0], corner[:1], np.empty((0, 3)))
    return _joined(pieces, corner, kept)


def _far_from(back: Flags) -> int:
    """The middle of the longest stretch of a closed line that runs forwards."""
    n = len(back)
    bad = np.flatnonzero(back)
    gaps = np.diff(np.append(bad, bad[0] + n))
    k = int(gaps.argmax())
    return int(bad[k] + gaps[k] // 2) % n


Stretch = tuple[float, float]
"""From a place to another one, in pieces."""


def _kept(pieces: Pieces, line: Points3, back: Flags) -> list[Stretch]:
    """The stretches that are left, in the unit of pieces."""
    n = len(back)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], back.astype(np.int8), [0]])))
    loops = list(zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True))
    out: list[Stretch] = []
    start, i = 0.0, 0
    while i < len(loops):
        a, b = loops[i]
        if a == 0:
            start, i = b / _PER_PIECE, i + 1
            continue
        found = None
        for k in range(i, len(loops)):  # loops that lie in each other are one
            b = loops[k][1]
            last = loops[k + 1][0] if k + 1 < len(loops) else n
            found = _crossing(line, (int(start * _PER_PIECE), a), (b, last))
            if found is not None or b >= n:
                break
        else:
            k = i
            b = loops[i][1]
        if found is None and b >= n:
            out.append((start, a / _PER_PIECE))
            return out
        if found is not None and found[0] < _NONE and found[1] > n - _NONE:
            found = None  # a closed line's own ends
        if found is None:  # its ways don't cross: there is nothing that it could be cut off from
            i += 1
            continue
        found = _refined(pieces.spans, found)
        out.append((start, found[0] / _PER_PIECE))
        start, i = found[1] / _PER_PIECE, k + 1
    out.append((start, n / _PER_PIECE))
    return out


def _crossing(line: Points3, one: tuple[int, int], two: tuple[int, int]) -> tuple[float, float] | None:
    """Where two stretches of a line cross, seen from above, in steps of it: the nearest to the end of the first; it is
    looked for near the loop first."""
    for wide in _WINDOWS:
        near = (max(one[0], one[1] - wide), one[1]), (two[0], min(two[1], two[0] + wide))
        found = _crossing_near(line, *near)
        if found is not None or near == (one, two):
            return found
    return None


def _crossing_near(line: Points3, one: tuple[int, int], two: tuple[int, int]) -> tuple[float, float] | None:
    p, q = line[one[0] : one[1] + 1, :2], line[two[0] : two[1] + 1, :2]
    if len(p) < 2 or len(q) < 2:
        return None
    d, e = np.diff(p, axis=0), np.diff(q, axis=0)
    cross = d[:, None, 0] * e[None, :, 1] - d[:, None, 1] * e[None, :, 0]
    gap = q[None, :-1] - p[:-1, None]
    with np.errstate(divide="ignore", invalid="ignore"):
        u = (gap[..., 0] * e[None, :, 1] - gap[..., 1] * e[None, :, 0]) / cross
        v = (gap[..., 0] * d[:, None, 1] - gap[..., 1] * d[:, None, 0]) / cross
    tiny = 1e-9
    hit = (u >= -tiny) & (u <= 1.0 + tiny) & (v >= -tiny) & (v <= 1.0 + tiny)
    if not hit.any():
        return None
    i, j = np.nonzero(hit)
    k = int(np.lexsort((j, -i))[0])
    return one[0] + i[k] + float(u[i[k], j[k]]), two[0] + j[k] + float(v[i[k], j[k]])


def _refined(spans: Spans, at: tuple[float, float]) -> tuple[float, float]:
    """A crossing of the line that is one of the cubics themselves, by Newton's steps that stay on their pieces."""
    m = len(spans)
    pieces = [min(int(v / _PER_PIECE + 1e-12), m - 1) for v in at]
    t = np.array([v / _PER_PIECE - k for v, k in zip(at, pieces, strict=True)])
    own = spans[pieces]
    for _ in range(_NEWTON):
        a, b = points_at(own, t)
        da, db = derivatives_at(own, t)
        matrix = np.array([[da[0], -db[0]], [da[1], -db[1]]])
        if abs(np.linalg.det(matrix)) < 1e-300:
            break
        t = np.clip(t - np.linalg.solve(matrix, (a - b)[:2]), 0.0, 1.0)
    return float((pieces[0] + t[0]) * _PER_PIECE), float((pieces[1] + t[1]) * _PER_PIECE)


def _joined(pieces: Pieces, corner: Flags, kept: list[Stretch]) -> Cut:
    """The stretches one after the other, each cut out of its pieces; where two meet there is a corner."""
    spans: list[Spans] = []
    straight: list[Flags] = []
    flags: list[Flags] = []
    cuts: list[Floats] = []
    for k, (a, b) in enumerate(kept):
        first, last = int(a + 1e-12), max(int(np.ceil(b - 1e-12)) - 1, int(a + 1e-12))
        own = pieces.spans[first : last + 1].copy()
        own[-1] = _part(own[-1], 0.0, b - last) if b - last < 1.0 else own[-1]
        if a > first:
            share = (a - first) / (b - last) if last == first else a - first
            own[0] = _part(own[0], share, 1.0)
        begins = corner[first : last + 1].copy()
        if k:
            begins[0] = True
            middle = 0.5 * (spans[-1][-1, 3] + own[0, 0])
            cuts.append(middle)
            for one, end, near in ((spans[-1][-1], 3, 2), (own[0], 0, 1)):
                shift = middle - one[end]
                one[[end, near]] += shift
        spans.append(own)
        straight.append(pieces.straight[first : last + 1])
        flags.append(begins)
    found = np.concatenate(flags)
    return Cut(
        np.concatenate(spans), np.concatenate(straight), np.append(found, corner[-1]), np.array(cuts).reshape(-1, 3)
    )


def _part(span: Points3, t0: float, t1: float) -> Points3:
    """A part of a cubic (4, 3) from one parameter to another one (de Casteljau)."""
    p = span
    for t, is_end in ((t1, True), (t0 / t1 if t1 > 0.0 else 0.0, False)):
        a = p[:-1] + t * (p[1:] - p[:-1])
        b = a[:-1] + t * (a[1:] - a[:-1])
        c = b[0] + t * (b[1] - b[0])
        p = np.array([p[0], a[0], b[0], c]) if is_end else np.array([c, b[1], a[2], p[3]])
    return p
