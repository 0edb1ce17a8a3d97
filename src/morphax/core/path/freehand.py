"""Freehand strokes: few cubics through many points, within a stated distance.

Source: Schneider, "An Algorithm for Automatically Fitting Digitized Curves", Graphics Gems, 1990; corners where the
stroke turns sharply over a short stretch.
"""

from math import cos, radians

import numpy as np

from morphax.core.errors import PathError
from morphax.core.path.paths import PathKind, PathShape, points_at
from morphax.core.types import Floats, Points3, Spans, Vectors3
from morphax.core.vectors import dot, unit

CORNER = radians(55.0)
"""A turn of the stroke beyond this, over a twentieth of its size, is a corner."""
_ROUNDS = 16
_REACH = 12.0
_AROUND = 2
"""Samples before and after one that count with it."""


def thinned_stroke(points: Points3, least: float) -> Points3:
    """The points (n, 3) of a stroke that lie ``least`` m apart or more; the first and last stay."""
    if len(points) < 3:
        return points
    keep = [0]
    for i in range(1, len(points) - 1):
        if np.linalg.norm(points[i] - points[keep[-1]]) >= least:
            keep.append(i)
    return points[[*keep, len(points) - 1]]


def stroke_corners(points: Points3) -> list[int]:
    """Indices of the stroke's corners, its ends included."""
    size = float(np.ptp(points, axis=0).max())
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
    reach = size / 20.0
    i = np.arange(1, len(points) - 1)
    i = i[(along[i] >= reach) & (along[-1] - along[i] >= reach)]
    before = np.minimum(np.searchsorted(along, along[i] - reach), i - 1)  # of a quick stroke, the point before it
    behind = np.clip(np.searchsorted(along, along[i] + reach), i + 1, len(points) - 1)
    straight = dot(unit(points[i] - points[before]), unit(points[behind] - points[i]))
    found = [(float(straight[k]), int(i[k])) for k in np.flatnonzero(straight < cos(CORNER))]
    corners: list[int] = []
    for _, here in sorted(found):
        if all(abs(along[here] - along[k]) > 2.0 * reach for k in corners):
            corners.append(here)
    return [0, *sorted(corners), len(points) - 1]


def fitted_spans(points: Points3, within: float) -> tuple[Spans, list[bool]]:
    """Cubics (m, 4, 3) no farther than ``within`` m from all points (n, 3), and which of their starts are corners.

    Raises PathError where there are fewer than two points in different places, or ``within`` is not more than 0.
    """
    if not within > 0.0:
        raise PathError("a stroke is fitted within more than 0")
    if len(points) < 2 or not np.ptp(points, axis=0).any():
        raise PathError("a stroke needs two places that differ")
    spans: list[Floats] = []
    corner: list[bool] = []
    cuts = stroke_corners(points)
    for a, b in zip(cuts[:-1], cuts[1:], strict=True):
        own = points[a : b + 1]
        begin, end = _direction(own, within), _direction(own[::-1], within)
        made = _fitted(own, begin, end, within)
        corner += [True, *[False] * (len(made) - 1)]
        spans += made
    return np.array(spans), corner


def _direction(points: Points3, within: float) -> Vectors3:
    """The unit direction in which a stretch begins: that of the parabola through its first points, three or more, and
    as many as lie within a dozen fits, so that the unsteadiness of the hand does not count."""
    far = np.linalg.norm(points - points[0], axis=1) > _REACH * within
    count = max(3, int(np.argmax(far)) if far.any() else len(points))
    ahead = points[1 : count + 1] - points[0]
    if len(ahead) < 3:
        return np.asarray(unit(ahead[:1])[0])
    s = np.cumsum(np.linalg.norm(np.diff(points[: len(ahead) + 1], axis=0), axis=1))
    fit, *_ = np.linalg.lstsq(np.stack([s, s * s], axis=1), ahead, rcond=None)
    out: Vectors3 = unit(fit[:1])[0]
    return out


def _fitted(points: Points3, begin: Vectors3, end: Vectors3, within: float) -> list[Floats]:
    """Cubics through a stretch without corners: one where it will do, else two halves that meet smoothly."""
    if len(points) == 2:
        third = np.linalg.norm(points[1] - points[0]) / 3.0
        return [np.array([points[0], points[0] + third * begin, points[1] + third * end, points[1]])]
    t = _by_chords(points)
    for _ in range(_ROUNDS):
        span = _least_squares(points, t, begin, end)
        gap = np.linalg.norm(points_at(span[None], t) - points, axis=1)
        worst = int(np.argmax(gap))
        if gap[worst] <= within:
            return [span]
        if gap[worst] > 60.0 * within:
            break
        t = _nearer(points, span, t)
    worst = min(max(worst, 1), len(points) - 2)
    middle = _direction(points[worst::-1], within) - _direction(points[worst:], within)
    middle = unit(middle[None])[0]
    if not middle.any():
        middle = unit((points[0] - points[-1])[None])[0]
    return [
        *_fitted(points[: worst + 1], begin, middle, within),
        *_fitted(points[worst:], -middle, end, within),
    ]


def _by_chords(points: Points3) -> Floats:
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
    out: Floats = along / max(along[-1], 1e-300)
    return out


def _least_squares(points: Points3, t: Floats, begin: Vectors3, end: Vectors3) -> Floats:
    """The cubic with given end directions that lies nearest to points at parameters t: two lengths to solve for."""
    w = 1.0 - t
    b0, b1, b2, b3 = w**3, 3.0 * w * w * t, 3.0 * w * t * t, t**3
    a1, a2 = b1[:, None] * begin, b2[:, None] * end
    rest = points - (b0 + b1)[:, None] * points[0] - (b2 + b3)[:, None] * points[-1]
    matrix = np.array([[(a1 * a1).sum(), (a1 * a2).sum()], [(a1 * a2).sum(), (a2 * a2).sum()]])
    right = np.array([(a1 * rest).sum(), (a2 * rest).sum()])
    chord = float(np.linalg.norm(points[-1] - points[0]))
    det = float(np.linalg.det(matrix))
    lengths = np.linalg.solve(matrix, right) if det > 1e-12 * matrix[0, 0] * matrix[1, 1] else np.zeros(2)
    if lengths.min() < 1e-3 * chord:  # a handle that points the wrong way: the rule of thumb
        lengths = np.full(2, chord / 3.0)
    return np.array([points[0], points[0] + lengths[0] * begin, points[-1] + lengths[1] * end, points[-1]])


def _nearer(points: Points3, span: Floats, t: Floats) -> Floats:
    """Parameters moved by one Newton step to where the cubic is nearest to each point."""
    w = 1.0 - t[:, None]
    u = t[:, None]
    d = np.diff(span, axis=0)
    first = 3.0 * (w * w * d[0] + 2.0 * w * u * d[1] + u * u * d[2])
    second = 6.0 * (w * (d[1] - d[0]) + u * (d[2] - d[1]))
    to = points_at(span[None], t) - points
    slope = (first * first).sum(1) + (to * second).sum(1)
    step = np.where(np.abs(slope) > 1e-300, (to * first).sum(1) / np.where(slope == 0.0, 1.0, slope), 0.0)
    out: Floats = np.clip(t - step, 0.0, 1.0)
    return out


def knot_pressures(places: Points3, pressures: Floats, knots: Points3) -> Floats:
    """How hard a pen was pressed (m,) at the knots (m, 3) of a stroke, which follow each other along it: the mean of
    the samples (n,) around the nearest of its places (n, 3)."""
    out, first = np.empty(len(knots)), 0
    for k, knot in enumerate(knots):
        near = first + int(np.argmin(np.linalg.norm(places[first:] - knot, axis=1))) if k else 0
        near = len(places) - 1 if k and k == len(knots) - 1 else near
        out[k], first = pressures[max(near - _AROUND, 0) : near + _AROUND + 1].mean(), near
    return out


def path_of_stroke(points: Points3, within: float) -> PathShape:
    """A handles path along a stroke, no farther than ``within`` m from its points."""
    spans, corner = fitted_spans(points, within)
    m = len(spans)
    knots = np.concatenate([spans[:, 0], spans[-1:, 3]])
    handles = np.zeros((m + 1, 2, 3))
    handles[:-1, 1] = spans[:, 1] - spans[:, 0]
    handles[1:, 0] = spans[:, 2] - spans[:, 3]
    flags = np.array([*corner, True])
    return PathShape(knots, PathKind.HANDLES, False, flags, np.ones(m + 1, dtype=bool), handles=handles)
