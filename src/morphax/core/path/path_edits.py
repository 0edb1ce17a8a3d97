"""Edits of a path that keep its shape: insert, reverse, choice of the first knot; and those that do not."""

from dataclasses import replace
from typing import Any

import numpy as np

from morphax.core.errors import PathError
from morphax.core.path.corner_arcs import corner_arcs
from morphax.core.path.paths import (
    Chain,
    PathKind,
    PathShape,
    chain_of,
    derivatives_at,
    points_at,
    second_derivatives_at,
)
from morphax.core.path.splines import centripetal_steps
from morphax.core.types import Floats, Points3, Spans


def _all_steps(path: PathShape) -> Floats:
    """Stored steps with nan where none is stored, always (n,)."""
    n = path.knots.shape[-2]
    return path.steps.copy() if path.steps.size else np.full(n, np.nan)


def _taken(path: PathShape, order: np.ndarray) -> PathShape:
    """Knots with all that is theirs in another order, or some of them; steps and spans are the caller's."""
    handles, radius, lying = (v[order] if v.size else v for v in (path.handles, path.radius, path.lying))
    return replace(
        path, knots=path.knots[order], corner=path.corner[order], handles=handles, radius=radius, lying=lying
    )


def shown_handles(path: PathShape) -> Floats:
    """The handles (n, 2, 3) of a path as it runs, own or computed: offsets to its spans' inner points, m.

    Straight spans and open ends have none (zero).
    """
    chain = chain_of(path)
    n, m = len(path.knots), len(chain.spans)
    out = np.zeros((n, 2, 3))
    curved = ~chain.straight
    start, end = np.arange(m), (np.arange(m) + 1) % n
    out[end[curved], 0] = chain.spans[curved, 2] - path.knots[end[curved]]
    out[start[curved], 1] = chain.spans[curved, 1] - path.knots[start[curved]]
    return out


def as_handles(path: PathShape) -> PathShape:
    """The same curve as a handles path, with a knot between any two spans of the chain."""
    chain = chain_of(path)
    spans, m = chain.spans, len(chain.spans)
    knots = spans[:, 0] if path.closed else np.concatenate([spans[:, 0], spans[-1:, 3]])
    handles = np.zeros((len(knots), 2, 3))
    curved = ~chain.straight
    start, end = np.arange(m), (np.arange(m) + 1) % len(knots)
    handles[start[curved], 1] = spans[curved, 1] - spans[curved, 0]
    handles[end[curved], 0] = spans[curved, 2] - spans[curved, 3]
    corner = chain.corner[: len(knots)].copy()
    if not path.closed:
        corner[[0, -1]] = True
    flags = np.append(curved, curved[-1:]) if not path.closed else curved
    return PathShape(knots.copy(), PathKind.HANDLES, path.closed, corner, flags.copy(), handles=handles)


def with_knot(path: PathShape, span: int, t: float) -> PathShape:
    """``path`` with a knot at parameter ``t`` of a drawn span; the curve keeps its shape to rounding.

    On curved spans of a through path the two new steps are stored, so the same curve is solved again; on those of a
    handles path the smooth knots near by keep their handles as their own. Beside a rounded corner the knot goes
    where its arc ends. A through path with tension becomes a handles path. Raises PathError
    when ``t`` is not inside the span, or arcs leave no straight part of it. On a span that bends least ``t`` is a share
    of its cubics, and the curve changes: through a free knot it no longer has its own way.
    """
    if not 0.0 < t < 1.0:
        raise PathError(f"a knot goes inside a span: its parameter is {t}, it must be between 0 and 1")
    if path.kind.is_made or (path.kind is PathKind.THROUGH and path.tension):
        return with_knot(as_handles(path), span, t)
    chain = chain_of(path)
    if path.bends_least and path.curved[span]:
        return _with_free_knot(path, chain, t)
    if chain.straight[span]:
        t = _beside_arcs(path, span, t)
    elif path.kind is PathKind.HANDLES:
        return _with_handle_knot(path, span, t)
    place = points_at(chain.spans[span], np.asarray(t))
    steps = _all_steps(path)
    curved = bool(path.curved[span]) and not chain.straight[span]
    if curved:
        ends = path.knots[[span, (span + 1) % len(path.knots)]]
        whole = steps[span] if not np.isnan(steps[span]) else float(centripetal_steps(ends)[0])
        steps[span] = whole * t
        steps = np.insert(steps, span + 1, whole * (1.0 - t))
    else:
        steps = np.insert(steps, span + 1, np.nan)
    corner = path.kind is PathKind.STRAIGHT or not curved
    return replace(
        _with_row(path, span, place, np.zeros((2, 3))),
        corner=np.insert(path.corner, span + 1, corner),
        curved=np.insert(path.curved, span + 1, path.curved[span]),
        steps=steps,
    )


def _with_free_knot(path: PathShape, chain: Chain, t: float) -> PathShape:
    """A knot on the way between two leads, which is a curve through it from now on."""
    first, last = int(chain.knots[1]), int(chain.knots[2])
    at = first + t * (last - first)
    span = min(int(at), last - 1)
    place = points_at(chain.spans[span], np.asarray(at - span))
    return replace(
        _with_row(path, 1, place, np.zeros((2, 3))),
        corner=np.insert(path.corner, 2, False),
        curved=np.insert(path.curved, 2, True),
        steps=np.empty(0),
    )


def _with_row(path: PathShape, span: int, place: Points3, handles: Floats) -> PathShape:
    """A knot with its handles put behind a span's start; flags and steps are the caller's."""
    return replace(
        path,
        knots=np.insert(path.knots, span + 1, place, axis=0),
        handles=np.insert(path.handles, span + 1, handles, axis=0) if path.handles.size else path.handles,
        radius=np.insert(path.radius, span + 1, 0.0) if path.radius.size else path.radius,
        lying=np.insert(path.lying, span + 1, np.nan, axis=0) if path.lying.size else path.lying,
    )


def _beside_arcs(path: PathShape, span: int, t: float) -> float:
    """The parameter on a straight span, moved off the arcs of its corners."""
    n = len(path.knots)
    a, b = path.knots[span], path.knots[(span + 1) % n]
    length = float(np.sqrt(((b - a) ** 2).sum()))
    back = corner_arcs(path).set_back
    if not back[span] and not back[(span + 1) % n]:
        return t
    low, high = back[span] / length, 1.0 - back[(span + 1) % n] / length
    if high - low < 1e-9:
        raise PathError("the arcs of its corners take this whole span: make a radius smaller first")
    return float(np.clip(t, low, high))


def _with_handle_knot(path: PathShape, span: int, t: float) -> PathShape:
    """de Casteljau: the span is cut in two, the new knot is in line."""
    n = len(path.knots)
    near = smooth_neighbours(path, span)
    shown = shown_handles(path)
    handles = path.handles.copy() if path.handles.size else np.full((n, 2, 3), np.nan)
    handles[near] = shown[near]
    p = chain_of(path).spans[span]
    ab, bc, cd = (p[i] + t * (p[i + 1] - p[i]) for i in range(3))
    abc, bcd = ab + t * (bc - ab), bc + t * (cd - bc)
    middle = abc + t * (bcd - abc)
    after = (span + 1) % n
    handles[span, 1], handles[after, 0] = ab - p[0], cd - p[3]
    handles[[span, after]] = np.nan_to_num(handles[[span, after]])
    changed = _with_row(replace(path, handles=handles), span, middle, np.stack([abc - middle, bcd - middle]))
    return replace(
        changed,
        corner=np.insert(path.corner, span + 1, False),
        curved=np.insert(path.curved, span + 1, True),
        steps=np.empty(0),
    )


def smooth_neighbours(path: PathShape, span: int) -> np.ndarray:
    """Indices of the smooth knots whose computed handles hang together with a span's."""
    n = len(path.knots)
    smooth: Any = np.isnan(path.handles).any(axis=(1, 2)) if path.handles.size else ~path.corner
    found: set[int] = set()
    for start, step in ((span, -1), ((span + 1) % n, 1)):
        k = start
        while smooth[k] and k not in found:
            found.add(k)
            if not path.closed and not 0 <= k + step < n:
                break
            k = (k + step) % n
    return np.array(sorted(found), dtype=int)


def without_knots(path: PathShape, gone: np.ndarray) -> PathShape:
    """``path`` without the knots where ``gone`` (n,) is true; the steps beside them are solved anew.

    Raises PathError when fewer than two knots (three when closed) would remain.
    """
    keep = ~gone
    least = 3 if path.closed else 2
    if keep.sum() < least:
        raise PathError(f"a path keeps at least {least} knots")
    steps = _all_steps(path)
    steps[gone | np.roll(gone, -1)] = np.nan
    return replace(_taken(path, np.flatnonzero(keep)), curved=path.curved[keep], steps=steps[keep])


def with_places(path: PathShape, index: np.ndarray, places: Points3) -> PathShape:
    """``path`` with knots ``index`` moved to ``places`` (k, 3); the stored steps beside them are cleared."""
    knots = path.knots.copy()
    knots[index] = places
    steps = _all_steps(path)
    n = len(knots)
    steps[index] = np.nan
    steps[(np.asarray(index) - 1) % n] = np.nan
    return replace(path, knots=knots, steps=steps)


def reversed_path(path: PathShape) -> PathShape:
    """The same curve walked from its end; a closed path keeps its first knot."""
    steps = _all_steps(path)
    if path.closed:  # knot 0, n-1, ..., 1; the span that leaves knot i is now the one that came to it
        order = np.concatenate([[0], np.arange(len(path.knots) - 1, 0, -1)])
        spans = np.arange(len(path.knots) - 1, -1, -1)
    else:
        order = np.arange(len(path.knots) - 1, -1, -1)
        spans = np.concatenate([order[1:], order[:1]])
    turned = _taken(path, order)
    handles = turned.handles[:, ::-1] if turned.handles.size else turned.handles
    return replace(turned, handles=handles, curved=path.curved[spans], steps=steps[spans])


def with_first_knot(path: PathShape, first: int) -> PathShape:
    """A closed path that starts at another of its knots. Raises PathError on an open path."""
    if not path.closed:
        raise PathError("only a closed path can start at another knot")
    order = np.roll(np.arange(len(path.knots)), -first)
    return replace(_taken(path, order), curved=path.curved[order], steps=_all_steps(path)[order])


def largest_change(a: Chain, b: Chain, *, samples: int = 256, pieces: int = 1024) -> float:
    """Largest distance from points of either of two chains to the other, m: at ``samples`` places of the one, to the
    nearest of ``pieces`` places of the other, and from there by Newton's method to the foot of the perpendicular."""

    def sampled(chain: Chain, count: int) -> Points3:
        each = max(1, -(-count // len(chain.spans)))
        t = np.arange(each) / each
        p = points_at(chain.spans[:, None], np.broadcast_to(t, (len(chain.spans), each)))
        return np.concatenate([p.reshape(-1, 3), chain.spans[-1:, 3]])

    def farthest(points: Points3, chain: Chain) -> float:
        line = sampled(chain, pieces)
        each = (len(line) - 1) // len(chain.spans)
        gap = points[:, None] - line
        k = np.argmin((gap * gap).sum(-1), axis=1)
        best = np.full(len(points), np.inf)
        for side in (-1, 0):  # a place between two spans belongs to both
            span = np.clip((k + side) // each, 0, len(chain.spans) - 1)
            t = np.clip((k - span * each) / each, 0.0, 1.0)
            best = np.minimum(best, _foot_distance(chain.spans[span], t, points))
        return float(best.max())

    return max(farthest(sampled(x, samples), y) for x, y in ((a, b), (b, a)))


def _foot_distance(spans: Spans, t: Floats, points: Points3) -> Floats:
    """Distances (n,) from points (n, 3) to spans (n, 4, 3), near parameters t (n,)."""
    for _ in range(6):
        to = points_at(spans, t) - points
        first, second = derivatives_at(spans, t), second_derivatives_at(spans, t)
        slope = (first * first).sum(-1) + np.maximum((to * second).sum(-1), 0.0)
        t = np.clip(t - (to * first).sum(-1) / np.maximum(slope, 1e-300), 0.0, 1.0)
    to = points_at(spans, t) - points
    out: Floats = np.sqrt((to * to).sum(-1))
    return out
