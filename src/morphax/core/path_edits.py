"""Edits of a path that keep its shape: insert, reverse, choice of the first knot; and those that do not."""

from dataclasses import replace

import numpy as np

from morphax.core.errors import PathError
from morphax.core.paths import Chain, PathKind, PathShape, chain_of, points_at
from morphax.core.splines import centripetal_steps
from morphax.core.types import Floats, Points3


def _all_steps(path: PathShape) -> Floats:
    """Stored steps with nan where none is stored, always (n,)."""
    n = path.knots.shape[-2]
    return path.steps.copy() if path.steps.size else np.full(n, np.nan)


def with_knot(path: PathShape, span: int, t: float) -> PathShape:
    """``path`` with a knot at parameter ``t`` of a span; the curve keeps its shape to rounding.

    On curved spans of a through path the two new steps are stored, so the same curve is solved again.
    Raises PathError when ``t`` is not strictly inside the span.
    """
    if not 0.0 < t < 1.0:
        raise PathError(f"a knot goes inside a span: its parameter is {t}, it must be between 0 and 1")
    place = points_at(chain_of(path).spans[span], np.asarray(t))
    knots = np.insert(path.knots, span + 1, place, axis=0)
    steps = _all_steps(path)
    curved = bool(path.curved[span])
    if curved:
        ends = path.knots[[span, (span + 1) % len(path.knots)]]
        whole = steps[span] if not np.isnan(steps[span]) else float(centripetal_steps(ends)[0])
        steps[span] = whole * t
        steps = np.insert(steps, span + 1, whole * (1.0 - t))
    else:
        steps = np.insert(steps, span + 1, np.nan)
    corner = np.insert(path.corner, span + 1, path.kind is PathKind.STRAIGHT or not curved)
    return replace(path, knots=knots, corner=corner, curved=np.insert(path.curved, span + 1, curved), steps=steps)


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
    return replace(
        path,
        knots=path.knots[keep],
        corner=path.corner[keep],
        curved=path.curved[keep],
        steps=steps[keep],
    )


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
    return replace(
        path,
        knots=path.knots[order],
        corner=path.corner[order],
        curved=path.curved[spans],
        steps=steps[spans],
    )


def with_first_knot(path: PathShape, first: int) -> PathShape:
    """A closed path that starts at another of its knots. Raises PathError on an open path."""
    if not path.closed:
        raise PathError("only a closed path can start at another knot")
    return replace(
        path,
        knots=np.roll(path.knots, -first, axis=0),
        corner=np.roll(path.corner, -first),
        curved=np.roll(path.curved, -first),
        steps=np.roll(_all_steps(path), -first),
    )


def largest_change(a: Chain, b: Chain, *, samples: int = 256) -> float:
    """Largest distance between points at equal shares of two chains' parameters, m."""

    def sampled(chain: Chain) -> Points3:
        x = np.linspace(0.0, len(chain.spans), samples)
        i = np.minimum(x.astype(int), len(chain.spans) - 1)
        return points_at(chain.spans[i], x - i)

    gaps = sampled(a)[:, None, :] - sampled(b)[None, :, :]
    distance = np.sqrt((gaps**2).sum(-1))
    return float(max(distance.min(0).max(), distance.min(1).max()))
