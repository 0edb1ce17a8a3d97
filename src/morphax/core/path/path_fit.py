"""One cubic between two places of a path, as near to it as can be: for knots that go, and knots spaced anew."""

from dataclasses import replace

import numpy as np

from morphax.core.errors import PathError
from morphax.core.path.arclength import places_at
from morphax.core.path.corner_arcs import rounded_chain
from morphax.core.path.curve_fit import best_cubics
from morphax.core.path.knot_checks import welded
from morphax.core.path.path_edits import largest_change, shown_handles, smooth_neighbours, without_knots
from morphax.core.path.paths import PathKind, PathShape, chain_of, derivatives_at, points_at
from morphax.core.path.resolved import ResolvedPath, resolve_path
from morphax.core.path.splines import centripetal_steps
from morphax.core.types import Flags, Floats, Points3, Vectors3
from morphax.core.vectors import lengths, unit

_INSIDE = 1e-9
"""Share of the path by which ends of a stretch are read inside it: at a corner its own tangent counts."""


def sharp_path(path: PathShape) -> ResolvedPath:
    """The path measured with its corners sharp."""
    return resolve_path(replace(path, radius=np.empty(0)))


def path_change(a: PathShape, b: PathShape) -> float:
    """Largest distance between two paths as they are built, doubled knots as one, m; 0 where one cannot be built."""
    try:
        return largest_change(*(rounded_chain(welded(p)) for p in (a, b)))
    except PathError:
        return 0.0


def fitted_between(path: ResolvedPath, first: Floats, last: Floats) -> tuple[Floats, Flags]:
    """Handles (m, 2, 3) of the cubics that are nearest to a path from ``first`` to ``last`` (m,), distances in m.

    Each one leaves and comes in along the path; the handles are offsets from the two ends, and zero on lines, which
    the flags (m,) tell. On a closed path a distance may go on past its length.
    """

    def curve(at: Floats) -> tuple[Points3, Vectors3]:
        found = places_at(path.table, (at % path.length if path.chain.closed else at).ravel())
        spans = path.table.spans[found.span]
        place, slope = points_at(spans, found.t), derivatives_at(spans, found.t)
        return place.reshape(*at.shape, 3), unit(slope).reshape(*at.shape, 3)

    inside = _INSIDE * path.length
    a, b = first + inside, last - inside
    ends = curve(np.stack([a, b]))[0]
    line = lengths(ends.swapaxes(0, 1))[:, 0] >= (b - a) * (1.0 - 1e-12)
    spans = best_cubics(curve, a, b)[0]
    handles = np.stack([spans[:, 1] - spans[:, 0], spans[:, 2] - spans[:, 3]], axis=1)
    return np.where(line[:, None, None], 0.0, handles), line


def thinned(path: PathShape, gone: Flags) -> PathShape:
    """``path`` without the knots where ``gone`` (n,) is true, its shape kept as near as can be.

    A handles path keeps its tangents at the knots that stay; their handles are fitted. A through path keeps the
    parameter steps of what is merged where that is nearer. Raises PathError when too few knots would remain.
    """
    fewer = without_knots(path, gone)
    stretches = _merged(path, gone)
    if not stretches or path.kind not in (PathKind.HANDLES, PathKind.THROUGH):
        return fewer
    if welded(path) is not path:
        return fewer  # doubled knots: nothing to be measured between them
    if path.kind is PathKind.HANDLES:
        return _with_fitted(path, gone, stretches)
    other = _with_merged_steps(path, gone, fewer, stretches)
    whole = chain_of(path)
    return min((fewer, other), key=lambda p: largest_change(whole, chain_of(p)))


def _merged(path: PathShape, gone: Flags) -> list[tuple[int, int]]:
    """Pairs of knots that stay with others gone between them; on a loop the second may be n or more."""
    n, keep = len(path.knots), np.flatnonzero(~gone)
    after = [*keep[1:], *([keep[0] + n] if path.closed else [])]
    return [(int(i), int(j)) for i, j in zip(keep, after, strict=False) if j - i > 1]


def _with_fitted(path: PathShape, gone: Flags, stretches: list[tuple[int, int]]) -> PathShape:
    n, measured, shown = len(path.knots), sharp_path(path), shown_handles(path)
    at = measured.knot_at
    first = np.array([at[i] for i, _ in stretches])
    last = np.array([at[j] if j <= n - (not path.closed) else at[j - n] + measured.length for _, j in stretches])
    fitted, line = fitted_between(measured, first, last)
    handles, curved = (path.handles.copy() if path.handles.size else np.full((n, 2, 3), np.nan)), path.curved.copy()
    for i, j in stretches:
        near = np.concatenate([smooth_neighbours(path, i), smooth_neighbours(path, (j - 1) % n)])
        handles[near] = shown[near]
    for (i, j), own, is_line in zip(stretches, fitted, line, strict=True):
        handles[i, 1], handles[j % n, 0] = own
        handles[[i, j % n]] = np.nan_to_num(handles[[i, j % n]])
        curved[i] = not is_line
    return without_knots(replace(path, handles=handles, curved=curved), gone)


def _with_merged_steps(path: PathShape, gone: Flags, fewer: PathShape, stretches: list[tuple[int, int]]) -> PathShape:
    """The steps of a stretch added up, where it is curved and had no corner inside."""
    n = len(path.knots)
    steps = centripetal_steps(np.concatenate([path.knots, path.knots[:1]]))
    steps = np.where(np.isnan(path.steps), steps, path.steps) if path.steps.size else steps
    out = fewer.steps.copy()
    order = np.cumsum(~gone) - 1
    for i, j in stretches:
        inner = np.arange(i, j)
        if path.curved[inner % n].all() and not path.corner[inner[1:] % n].any():
            out[order[i]] = steps[inner % n].sum()
    return replace(fewer, steps=out)
