"""Checks of measured paths: tiny spans, crossed handles, a path that crosses itself. They repair nothing."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from morphax.core.findings import Finding, Severity, in_mm
from morphax.core.kernels.measuring import pair_boxes, pair_spans
from morphax.core.path.hung import wished_lengths
from morphax.core.path.paths import PathKind, hung_of, points_at
from morphax.core.path.resolved import ResolvedPath
from morphax.core.tolerances import Tolerances
from morphax.core.types import Floats, Points3, Spans
from morphax.core.vectors import dot, turn_between, unit

_PIECES = 16
_TOUCH = 1e-6
"""Two stretches that come nearer than this share of the path's size cross."""


_MISSED = 1e-6
"""A cable that differs from its wished length by a larger share is not as long as asked for."""


@dataclass(frozen=True)
class _Facts:
    """What is true of a path whatever runs along it: its findings, and what becomes one for a section of some width.

    ``shortest`` span between two knots, m; ``gap`` between the ends of an open path, m; ``hooks`` knots at which it
    turns back, with the shorter of the two legs there, m.
    """

    findings: tuple[Finding, ...]
    shortest: float
    gap: float
    hooks: tuple[tuple[int, float], ...]


def path_findings(path: ResolvedPath, width: float) -> tuple[Finding, ...]:
    """All that is to be said of a path for a section of a width, m."""
    if "facts" not in path.memo:
        path.memo["facts"] = _facts_of(path)
    facts: _Facts = path.memo["facts"]
    limits = Tolerances(path.size, width)
    return (
        *(_hook(path, i) for i, leg in facts.hooks if leg < limits.hook_leg),
        *(tiny_spans(path, width) if facts.shortest < limits.tiny_span else ()),
        *(_end_gap(path, facts.gap) if facts.gap < 0.5 * width and path.length >= 4.0 * width else ()),
        *facts.findings,
    )


def _facts_of(path: ResolvedPath) -> _Facts:
    has_ends = not path.chain.closed and len(path.shape.knots) > 2
    meets = has_ends and path.shape.kind not in (PathKind.HANGING, PathKind.MADE)
    gap = float(np.linalg.norm(path.chain.spans[-1, 3] - path.chain.spans[0, 0])) if meets else np.inf
    at = path.knot_at
    shortest = float((at[1:] - at[:-1]).min(initial=np.inf))
    return _Facts(shape_findings(path), shortest, gap, _hooks(path.shape.knots, closed=path.chain.closed))


def know_facts(paths: Sequence[ResolvedPath], spans: Spans, knots: Points3) -> None:
    """Finds out for a batch of smooth open paths (b, m, 4, 3) through knots (b, n, 3) what ``path_findings`` asks."""
    low, high = spans.min(2), spans.max(2)
    gap = np.linalg.norm(spans[:, -1, 3] - spans[:, 0, 0], axis=1)
    chord = knots[:, 1:] - knots[:, :-1]
    turns_back = np.any(dot(chord[:, :-1], chord[:, 1:]) < 0.0, axis=1).tolist()
    for i, path in enumerate(paths):
        at = path.knot_at
        crossing = self_crossings(path) if len(pair_boxes(low[i], high[i], closed=False)) else ()
        hooks = _hooks(knots[i], closed=False) if turns_back[i] else ()
        path.memo["facts"] = _Facts(crossing, float((at[1:] - at[:-1]).min()), float(gap[i]), hooks)


def _hooks(knots: Points3, *, closed: bool) -> tuple[tuple[int, float], ...]:
    ring = np.concatenate([knots[-1:], knots, knots[:1]]) if closed else knots
    if len(ring) < 3:
        return ()
    chord = ring[1:] - ring[:-1]
    back = np.flatnonzero(dot(chord[:-1], chord[1:]) < 0.0)
    if not len(back):
        return ()
    a, b = chord[back], chord[back + 1]
    back, size = back[turn_between(unit(a), unit(b)) > Tolerances.hook_turn], np.sqrt(dot(chord, chord))
    return tuple((int(i) + (0 if closed else 1), float(min(size[i], size[i + 1]))) for i in back)


def _hook(path: ResolvedPath, knot: int) -> Finding:
    at = float(path.knot_at[knot])
    message = f"The path hooks back at {in_mm(at)}: a knot there is probably a slip."
    return Finding("hook", Severity.WARNING, message, at, place=_spot(path.shape.knots[knot]))


def shape_findings(path: ResolvedPath) -> tuple[Finding, ...]:
    """What is to be said of a path whatever runs along it: crossed handles, places where it crosses itself, cables that
    are longer than they were asked to be."""
    return (*crossed_handles(path), *self_crossings(path), *missed_lengths(path))


def missed_lengths(path: ResolvedPath) -> tuple[Finding, ...]:
    """Hanging spans whose ends leave in directions that take more cable than was asked for."""
    if path.shape.kind is not PathKind.HANGING:
        return ()
    own, wished = np.diff(path.knot_at), wished_lengths(hung_of(path.shape))
    out = []
    for i in np.flatnonzero(np.abs(own - wished) > _MISSED * wished):
        message = f"The cable here is {in_mm(float(own[i]))} long, not {in_mm(float(wished[i]))}: "
        message += "with these ends it hangs no shorter." if own[i] > wished[i] else "it hangs no longer."
        at = float(path.knot_at[i])
        out.append(Finding("length-missed", Severity.WARNING, message, at, place=_spot(path.shape.knots[i])))
    return tuple(out)


def _spot(p: Floats) -> tuple[float, float, float]:
    return (float(p[0]), float(p[1]), float(p[2]))


def tiny_spans(path: ResolvedPath, width: float) -> tuple[Finding, ...]:
    """Spans between two knots that are shorter than a thousandth of the width."""
    if path.shape.kind is PathKind.PULLED:
        return ()  # the knots of a hull lie beside the path
    at = path.knot_at
    short = np.flatnonzero(at[1:] - at[:-1] < Tolerances(0.0, width).tiny_span)
    return tuple(
        Finding(
            "tiny-span",
            Severity.NOTE,
            f"Two knots at {in_mm(float(at[i]))} are only {in_mm(float(at[i + 1] - at[i]))} apart.",
            float(at[i]),
            place=_spot(path.shape.knots[i]),
        )
        for i in short
    )


def _end_gap(path: ResolvedPath, gap: float) -> tuple[Finding, ...]:
    """Ends of an open path that lie within half a width of each other, and are not joined."""
    message = f"The path's ends are {in_mm(gap)} apart, and not joined."
    return (Finding("gap", Severity.WARNING, message, path.length, place=_spot(path.chain.spans[-1, 3])),)


def runs_back(spans: Spans) -> np.ndarray:
    """(m,) spans whose handles reach past each other, so that the curve runs back on itself along its chord.

    With a and b the handles' lengths along a chord of length L, the cubic's derivative along it turns negative where
    a + b - L > sqrt(a b).
    """
    chord = spans[:, 3] - spans[:, 0]
    size = np.sqrt((chord * chord).sum(-1))
    u = chord / np.where(size > 0.0, size, 1.0)[:, None]
    a = ((spans[:, 1] - spans[:, 0]) * u).sum(-1)
    b = ((spans[:, 3] - spans[:, 2]) * u).sum(-1)
    back: np.ndarray = (a > 0.0) & (b > 0.0) & (a + b - size > np.sqrt(np.maximum(a * b, 0.0)) * (1.0 + 1e-9))
    return back


def crossed_handles(path: ResolvedPath) -> tuple[Finding, ...]:
    """Spans of a handles path whose handles reach past each other."""
    if path.shape.kind is not PathKind.HANDLES:
        return ()
    out = []
    for i in np.flatnonzero(runs_back(path.chain.spans) & ~path.chain.straight):
        at = float(0.5 * (path.table.at_knots[i] + path.table.at_knots[i + 1]))
        message = f"The handles of the span at {in_mm(at)} reach past each other, so the path runs back there."
        place = points_at(path.chain.spans[i], np.array(0.5))
        out.append(Finding("crossed-handles", Severity.WARNING, message, at, place=_spot(place)))
    return tuple(out)


def self_crossings(path: ResolvedPath) -> tuple[Finding, ...]:
    """Places at which two spans that are not neighbours meet; the first of each pair of spans."""
    spans, m = path.chain.spans, len(path.chain.spans)
    pairs = _near_pairs(spans, closed=path.chain.closed)
    if not len(pairs):
        return ()
    t = np.linspace(0.0, 1.0, _PIECES + 1)
    p = points_at(spans[:, None], np.broadcast_to(t, (m, _PIECES + 1)))
    size = float(np.ptp(p.reshape(-1, 3), axis=0).max())
    out, seen = [], list[float]()
    for i, j in pairs:  # spans whose boxes meet: few on any path that people draw
        gap, a, place = _closest(p[i], p[j])
        bend = max(_sagitta(spans[i]), _sagitta(spans[j]))
        if gap > _TOUCH * size + bend:
            continue
        at = float(path.table.at_knots[i] + a * (path.table.at_knots[i + 1] - path.table.at_knots[i]))
        if any(abs(at - s) < 1e-3 * path.length for s in seen):
            continue
        seen.append(at)
        message = f"The path crosses itself at {in_mm(at)}."
        out.append(Finding("self-crossing", Severity.WARNING, message, at, place=_spot(place)))
    return tuple(out)


def _sagitta(span: Spans) -> float:
    """How far a span may lie from its polyline of 16 pieces, m."""
    second = np.diff(span, n=2, axis=0)
    return float(6.0 * np.sqrt((second * second).sum(-1)).max() / 8.0 / _PIECES**2)


def _near_pairs(spans: Spans, *, closed: bool) -> np.ndarray:
    """Pairs (k, 2) of spans whose boxes meet and that are not neighbours."""
    return pair_spans(spans, closed=closed and len(spans) > 2)


def _closest(a: Points3, b: Points3) -> tuple[float, float, Points3]:
    """Least distance between two polylines, where on the first (0..1), and the place there.

    Segments by segments: clamped closest points (Ericson, Real-Time Collision Detection, 5.1.9).
    """
    p, d = a[:-1, None], np.diff(a, axis=0)[:, None]
    q, e = b[None, :-1], np.diff(b, axis=0)[None]
    r = p - q
    dd, ee, de = (d * d).sum(-1), (e * e).sum(-1), (d * e).sum(-1)
    dr, er = (d * r).sum(-1), (e * r).sum(-1)
    det = dd * ee - de * de
    s = np.where(det > 1e-12 * dd * ee, (de * er - dr * ee) / np.where(det == 0.0, 1.0, det), 0.0)
    s = np.clip(s, 0.0, 1.0)
    t = np.clip((de * s + er) / np.maximum(ee, 1e-300), 0.0, 1.0)
    s = np.clip((de * t - dr) / np.maximum(dd, 1e-300), 0.0, 1.0)
    gap = r + s[..., None] * d - t[..., None] * e
    far = (gap * gap).sum(-1)
    k, n = np.unravel_index(int(np.argmin(far)), far.shape)
    place: Points3 = a[k] + s[k, n] * (a[k + 1] - a[k])
    return float(np.sqrt(far[k, n])), float((k + s[k, n]) / (len(a) - 1)), place
