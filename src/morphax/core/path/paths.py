"""Paths: knots joined by straight or curved spans, as a chain of cubic Bezier spans."""

from dataclasses import dataclass, field, replace
from enum import StrEnum
from functools import lru_cache
from typing import Any

import numpy as np

from morphax.core.errors import PathError
from morphax.core.kernels.measuring import through_spans
from morphax.core.path.hung import Hung, hung_pieces
from morphax.core.path.least_bend import LeastBend, least_bend_spans
from morphax.core.path.made_paths import MadeCurve, MadeShape, made_spans
from morphax.core.path.pulled import hull_places, pulled_spans
from morphax.core.path.splines import centripetal_steps, closed_slopes, hermite_spans, open_slopes
from morphax.core.types import Flags, Floats, Ints, Points3, Spans, Vectors3, frozen
from morphax.core.vectors import unit


class PathKind(StrEnum):
    """How a path's knots are joined."""

    STRAIGHT = "straight"
    THROUGH = "through"
    HANDLES = "handles"
    PULLED = "pulled"
    HANGING = "hanging"
    MADE = "ready-made"

    @property
    def is_made(self) -> bool:
        """Whether the curve is made from the knots as a whole, so that drawn spans are no spans of its chain."""
        return self in (PathKind.PULLED, PathKind.HANGING, PathKind.MADE)


def _none() -> Floats:
    return np.empty(0)


def _no_index() -> Ints:
    return np.empty(0, dtype=np.int32)


@dataclass(frozen=True, eq=False)
class PathShape:
    """Knots and how they are joined.

    ``knots`` (..., n, 3) m; ``corner`` (n,) knots that are corners; ``curved`` (n,) whether the span that
    leaves a knot is curved (the last flag counts on closed paths only); ``steps`` (n,) stored parameter steps
    of a through path, nan where centripetal, or empty when none is stored. ``handles`` (n, 2, 3) of a handles path:
    the coming and the leaving handle as offsets from the knot, m; nan where they are computed (a smooth knot).
    ``radius`` (n,) of corners, m, or empty when there is none. ``slack``: by what share a hanging path is longer than
    the straight lines between its knots. ``made``: what a ready-made path is; its knots are that curve's marks.
    ``tension`` t of a through path scales its derivatives at the knots by 1 - t: above 0 tighter, below 0 softer.
    ``lying`` (n, 3): unit normals of the surfaces that knots lie on, nan for those that lie on none, or empty: there
    the curve runs along the surface. ``least_bend`` m, and ``bulge`` (3,): the one curved span of a through path
    between two straight ones bends least (see ``LeastBend``); 0 where it does not. Leading axes are a batch of equal
    shape (handles, radii, lying, least bend: not in batches).
    """

    knots: Points3
    kind: PathKind
    closed: bool
    corner: Flags
    curved: Flags
    steps: Floats = field(default_factory=_none)
    handles: Floats = field(default_factory=_none)
    radius: Floats = field(default_factory=_none)
    slack: float = 0.0
    stiffness: float = 0.0
    made: MadeCurve | None = None
    tension: float = 0.0
    lying: Floats = field(default_factory=_none)
    least_bend: float = 0.0
    bulge: Floats = field(default_factory=_none)

    @property
    def bends_least(self) -> bool:
        """Whether it is one curved span between two straight leads, and takes the way that bends least."""
        if not self.least_bend or self.kind is not PathKind.THROUGH or self.tension != 0.0:
            return False
        return is_from_lead_to_lead(self)


def is_from_lead_to_lead(path: PathShape) -> bool:
    """Whether a path has a curved span between two straight ones, along which it leaves, and nothing else."""
    if path.closed or len(path.knots) != 4:
        return False
    return path.curved[:3].tolist() == [False, True, False] and not path.corner[1:3].any()


@dataclass(frozen=True, eq=False)
class Chain:
    """Cubic spans end to end.

    ``spans`` (..., m, 4, 3) m; ``corner`` (m+1,) whether the place before span i (and after the last) is a
    corner; on closed chains the first and last flag are equal. ``straight`` (m,) spans that are lines.
    ``knot_index`` (n,) which of the m+1 places are the path's own knots (a closed path ends with its first knot
    again), or empty when all are: a rounded corner has several spans. ``arc`` (m,) tells them: the same number,
    more than 0, for the spans of one rounded corner, 0 for others; empty where there is none.
    """

    spans: Spans
    closed: bool
    corner: Flags
    straight: Flags
    knot_index: Ints = field(default_factory=_no_index)
    arc: Ints = field(default_factory=_no_index)

    @property
    def knots(self) -> Ints:
        """Indices of the path's own knots among the places between spans."""
        return self.knot_index if self.knot_index.size else np.arange(self.spans.shape[-3] + 1, dtype=np.int32)


def path_from_points(
    points: Points3, *, kind: PathKind, closed: bool = False, corner: Flags | None = None
) -> PathShape:
    """A path of one kind through ``points`` (..., n, 3); straight knots are corners, others smooth."""
    n = points.shape[-2]
    is_straight = kind is PathKind.STRAIGHT
    corners = np.full(n, is_straight) if corner is None else np.asarray(corner, dtype=bool)
    return PathShape(np.asarray(points, dtype=np.float64), kind, closed, corners, np.full(n, not is_straight))


def chain_of(path: PathShape) -> Chain:
    """The chain of Bezier spans of a path, one a drawn span; corners that have a radius are still sharp.

    Raises PathError when there are fewer than two knots (three on a closed path) or a place is not finite.
    Does not handle doubled knots: weld them first (``checks.welded``).
    """
    n = path.knots.shape[-2]
    if n < 2 or (path.closed and n < 3):
        raise PathError(f"a path needs {3 if path.closed else 2} knots; this one has {n}")
    if not np.isfinite(path.knots).all():
        raise PathError("a knot's place is not a finite number")
    if path.kind is PathKind.HANDLES:
        return _handles_chain(path)
    if path.made is not None:
        return _ready_chain(path.made)
    if path.kind is PathKind.PULLED:
        return _pulled_chain(path)
    if path.kind is PathKind.HANGING:
        return _hanging_chain(path)
    return (_least_chain(path) if path.bends_least else None) or _solved_chain(path)


def _ready_chain(made: MadeCurve) -> Chain:
    spans, marks = made_spans(made)
    sharp, closed = made.shape is MadeShape.POLYGON, made.shape.is_closed
    corner = np.full(len(spans) + 1, sharp)
    return Chain(frozen(spans), closed, frozen(corner), frozen(np.full(len(spans), sharp)), frozen(marks))


def _pulled_chain(path: PathShape) -> Chain:
    spans = pulled_spans(path.knots, closed=path.closed)
    none = np.zeros(len(spans) + 1, dtype=np.bool_)
    straight = np.full(len(spans), len(path.knots) == 2)
    places = hull_places(len(path.knots), closed=path.closed)
    return Chain(frozen(spans), path.closed, frozen(none), frozen(straight), frozen(places))


def hung_of(path: PathShape) -> Hung:
    """A hanging path's knots and how they hang; spans that are not curved are straight leads."""
    return Hung(path.knots, path.curved, path.closed, path.slack, path.stiffness)


def _hanging_chain(path: PathShape) -> Chain:
    """Cables from knot to knot; knots are supports, at which they bend sharply; beside a lead they leave along it."""
    hung = hung_of(path)
    pieces = hung_pieces(hung)
    places = np.cumsum([0, *(len(p) for p in pieces)])
    corner = np.zeros(int(places[-1]) + 1, dtype=np.bool_)
    corner[places if path.closed else places[1:-1]] = True
    straight = np.concatenate([np.full(len(p), len(p) <= 2 and _is_line(p)) for p in pieces])
    return Chain(
        frozen(np.concatenate(pieces)), path.closed, frozen(corner), frozen(straight), frozen(places.astype(np.int32))
    )


def _least_chain(path: PathShape) -> Chain | None:
    """Two leads and the way between them that bends least; None where there is none."""
    leads = _straight_spans(path.knots)
    out, into = unit(path.knots[1] - path.knots[0]), unit(path.knots[3] - path.knots[2])
    values = path.knots[1], path.knots[2], out, into, path.bulge
    between = _least_bend(*(v.tobytes() for v in values), path.least_bend)
    if between is None:
        return None
    m = len(between)
    straight = np.zeros(m + 2, dtype=np.bool_)
    straight[[0, -1]] = True
    spans = np.concatenate([leads[:1], between, leads[2:]])
    none, places = np.zeros(m + 3, dtype=np.bool_), np.array([0, 1, m + 1, m + 2], dtype=np.int32)
    return Chain(frozen(spans), False, frozen(none), frozen(straight), frozen(places))


@lru_cache(maxsize=64)
def _least_bend(start: bytes, end: bytes, out: bytes, into: bytes, bulge: bytes, radius: float) -> Spans | None:
    """Ways that were found lately, by their values: a path is asked for its chain more than once."""
    a, b, c, d, e = (np.frombuffer(v) for v in (start, end, out, into, bulge))
    try:
        return frozen(least_bend_spans(LeastBend(a, b, c, d, radius, e)))
    except PathError:
        return None


def _is_line(spans: Spans) -> bool:
    """Whether every span is a line from end to end."""
    whole = spans[:, 3] - spans[:, 0]
    return bool(np.abs(spans[:, 1] - spans[:, 0] - whole / 3.0).max() <= 1e-12 * np.abs(whole).max())


def _solved_chain(path: PathShape) -> Chain:
    """Straight spans, and curves through the knots between corners."""
    if not path.closed and path.curved[:-1].all() and not path.corner[1:-1].any():
        return _through_chain(path)
    knots = np.concatenate([path.knots, path.knots[..., :1, :]], axis=-2) if path.closed else path.knots
    spans = _straight_spans(knots)
    curved = path.curved if path.closed else path.curved[:-1]
    steps = _steps(path, knots)
    whole_loop = path.closed and curved.all() and not path.corner.any()
    if whole_loop:
        slopes = (1.0 - path.tension) * closed_slopes(path.knots, steps, path.lying if path.lying.size else None)
        spans = hermite_spans(knots, np.concatenate([slopes, slopes[..., :1, :]], axis=-2), steps)
    else:
        for first, last in _curved_stretches(path, curved):
            _curve_stretch(path, knots, steps, spans, first, last)
    corner = np.concatenate([path.corner, path.corner[:1]]) if path.closed else path.corner.copy()
    if not path.closed:
        corner[0] = corner[-1] = False
    _free_straight_joints(corner, curved, closed=path.closed)
    return Chain(frozen(spans), path.closed, frozen(corner), frozen(~curved))


def _through_chain(path: PathShape) -> Chain:
    """One open curve through all knots: the commonest path."""
    steps = _steps(path, path.knots)
    if path.lying.size:
        slopes = (1.0 - path.tension) * open_slopes(path.knots, steps, lying=path.lying)
        spans = hermite_spans(path.knots, slopes, steps)
    else:
        spans = through_spans(path.knots, steps, 1.0 - path.tension)
    none = np.zeros(path.knots.shape[-2], dtype=np.bool_)
    return Chain(frozen(spans), False, frozen(none), frozen(none[1:].copy()))


def _handles_chain(path: PathShape) -> Chain:
    """Curves with their own handles; smooth knots take those of the through curve over the smooth neighbours.

    A loose knot is a corner of the chain: whether it is sharp depends on how its handles lie.
    """
    n = len(path.knots)
    own: Any = np.isfinite(path.handles).all(axis=(1, 2)) if path.handles.size else np.zeros(n, dtype=np.bool_)
    coming, leaving = (path.handles[:, 0], path.handles[:, 1]) if path.handles.size else (path.knots, path.knots)
    after = np.roll(np.arange(n), -1)
    bare = own & own[after] & ~np.any(leaving, axis=1) & ~np.any(coming[after], axis=1)
    curved = path.curved & ~bare  # without any handle a span is a line
    free = replace(path, kind=PathKind.THROUGH, corner=own | path.corner, curved=curved, handles=_none(), tension=0.0)
    solved = _solved_chain(free)
    spans = solved.spans.copy()
    count = len(spans)
    start, end = np.arange(count), after[:count]
    leave, come = own[start] & curved[start], own[end] & curved[start]
    spans[leave, 1] = path.knots[start[leave]] + leaving[start[leave]]
    spans[come, 2] = path.knots[end[come]] + coming[end[come]]
    corner = np.append(path.corner, path.corner[:1]) if path.closed else path.corner.copy()
    if not path.closed:
        corner[0] = corner[-1] = False
    _free_straight_joints(corner, curved if path.closed else curved[:-1], closed=path.closed)
    return Chain(frozen(spans), path.closed, frozen(corner), solved.straight)


def _free_straight_joints(corner: Flags, curved: Flags, *, closed: bool) -> None:
    """Two straight spans always meet in a corner, whatever the knot between them says."""
    both = ~curved[:-1] & ~curved[1:]
    corner[1:-1] |= both
    if closed:
        corner[0] |= not (curved[0] or curved[-1])
        corner[-1] = corner[0]


def _straight_spans(knots: Points3) -> Spans:
    a, b = knots[..., :-1, :], knots[..., 1:, :]
    return np.stack([a, (2.0 * a + b) / 3.0, (a + 2.0 * b) / 3.0, b], axis=-2)


def _steps(path: PathShape, knots: Points3) -> Floats:
    steps = centripetal_steps(knots)
    if path.steps.size:
        stored = path.steps[..., : steps.shape[-1]]
        steps = np.where(np.isnan(stored), steps, stored)
    return steps


def _curved_stretches(path: PathShape, curved: Flags) -> list[tuple[int, int]]:
    """Knot index pairs (first, last) between which the curve is one C2 piece; last may pass n on a loop."""
    m = len(curved)
    breaks = [i for i in range(m) if path.corner[i] or not (curved[i] and curved[i - 1])]
    if not path.closed:
        breaks = sorted({0, m, *(i for i in breaks if i > 0)})
        pairs = list(zip(breaks[:-1], breaks[1:], strict=True))
    else:
        pairs = list(zip(breaks, [*breaks[1:], breaks[0] + m], strict=True)) if breaks else []
    return [(a, b) for a, b in pairs if curved[a % m]]


def _curve_stretch(path: PathShape, knots: Points3, steps: Floats, spans: Spans, first: int, last: int) -> None:
    m = spans.shape[-3]
    index = np.arange(first, last) % m
    ends = np.concatenate([index, [last % m if path.closed else last]])
    points, h = knots[..., ends, :], steps[..., index]
    start = _clamp(path, spans, points[..., :2, :], h[..., 0], first, -1)
    end = _clamp(path, spans, points[..., -2:, :], h[..., -1], last, 0)
    lying = path.lying[ends % len(path.knots)] if path.lying.size else None
    slopes = (1.0 - path.tension) * open_slopes(points, h, start, end, lying)
    spans[..., index, :, :] = hermite_spans(points, slopes, h)


def _clamp(path: PathShape, spans: Spans, chord: Points3, step: Floats, knot: int, offset: int) -> Vectors3 | None:
    """End derivative at a stretch's end: along a straight neighbour, or free (None)."""
    m = spans.shape[-3]
    if (not path.closed and knot in (0, m)) or path.corner[knot % m]:
        return None
    neighbour = spans[..., (knot + offset) % m, :, :]
    axis = unit(neighbour[..., 3, :] - neighbour[..., 0, :])
    length = np.sqrt(((chord[..., 1, :] - chord[..., 0, :]) ** 2).sum(-1))
    out: Vectors3 = axis * (length / step)[..., None]
    return out


def points_at(spans: Spans, t: Floats) -> Points3:
    """Points (..., 3) of spans (..., 4, 3) at parameters t (...), by the Bernstein form."""
    w = 1.0 - t
    weights = np.stack([w * w * w, 3.0 * w * w * t, 3.0 * w * t * t, t * t * t], axis=-1)
    out: Points3 = (weights[..., None] * spans).sum(-2)
    return out


def derivatives_at(spans: Spans, t: Floats) -> Vectors3:
    """First derivatives (..., 3) with respect to t."""
    w = 1.0 - t
    weights = 3.0 * np.stack([-w * w, w * w - 2.0 * w * t, 2.0 * w * t - t * t, t * t], axis=-1)
    out: Points3 = (weights[..., None] * spans).sum(-2)
    return out


def second_derivatives_at(spans: Spans, t: Floats) -> Vectors3:
    """Second derivatives (..., 3) with respect to t."""
    weights = 6.0 * np.stack([1.0 - t, 3.0 * t - 2.0, 1.0 - 3.0 * t, t], axis=-1)
    out: Points3 = (weights[..., None] * spans).sum(-2)
    return out
