"""Where a stroke lies: on the surface that it began on, in the air in front of it, on what catches its end. Pure."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from morphax.app.session.camera import Ray, on_plane
from morphax.app.session.sight import Sight
from morphax.app.tools.shared.landing_planes import Plane, facing

_STEEPEST = 4.0
"""A stroke in a flat view follows a surface that falls away so many times as fast as it goes on, and no faster."""


@dataclass(frozen=True, eq=False)
class Sample:
    """One place of the pointer: its line of sight; ``on``, the place (3,) of the surface that the stroke lies on, where
    it is over it; ``object`` (3,), that of a body or host there; ``is_before``: the stroke passes no deeper than it."""

    line: Ray
    on: np.ndarray | None = None
    object: np.ndarray | None = None
    is_before: bool = False


def laid_out(sight: Sight, samples: Sequence[Sample], low: float) -> np.ndarray:
    """Places (n, 3) of a stroke, m.

    Samples over the surface that it began on lie on it. Between them, and after it left, it lies in the upright plane
    through the place where it left that faces the eye (flat view: at that place's depth), no deeper than what is
    pointed at, no lower than ``low`` in perspective. Where it comes back, passes in front of something, or ends on an
    object, the depth between is shared out by length.
    """
    over = [i for i, s in enumerate(samples) if s.on is not None]
    if not over:
        return np.empty((0, 3))
    last = len(samples) - 1
    out = {i: s.on for i, s in enumerate(samples) if s.on is not None}
    ends = [*out, *([] if over[-1] == last else [last + 1])]
    for a, b in zip(ends[:-1], ends[1:], strict=True):
        if b - a > 1:
            end = samples[b].on if b <= last else samples[last].object
            out.update(_in_the_air(sight, samples, (a, min(b, last)), end, low))
    return np.array([out[i] for i in sorted(out)])


def falls_away(before: np.ndarray, now: np.ndarray, sight: Sight) -> bool:
    """Whether a place lies so much deeper than the one before that a stroke in a flat view does not go there."""
    forward, step = sight.basis.forward, now - before
    deeper = float(step @ forward)
    across = float(np.linalg.norm(step - deeper * forward))
    return deeper > _STEEPEST * across + 2.0 * sight.grid_scale


def _in_the_air(
    sight: Sight, samples: Sequence[Sample], span: tuple[int, int], end: np.ndarray | None, low: float
) -> dict[int, np.ndarray]:
    """Places of the samples after the first of a span, which lies on the surface; the last one ends on ``end``."""
    first, last = span
    start = samples[first].on
    assert start is not None
    plane = Plane(start, -sight.basis.forward, "") if sight.is_flat else facing(sight, start)
    met = {i: on_plane(samples[i].line, plane.origin, plane.normal) for i in range(first + 1, last + 1)}
    found = {first: start, **{i: p for i, p in met.items() if p is not None}}
    index = np.array(sorted(found))
    places = np.array([found[i] for i in index])
    depth = places @ sight.basis.forward
    near = np.array([_near(samples[i]) @ sight.basis.forward for i in index])
    off = np.fmin(near - depth, 0.0)  # what it passes in front of draws it nearer there
    off[np.isnan(near)] = 0.0
    known = np.flatnonzero(off < 0.0)
    if end is not None and index[-1] == last:
        off[-1], known = float(end @ sight.basis.forward) - depth[-1], np.union1d(known, [len(index) - 1])
    if len(known):  # and the way between is shared out by length
        steps = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(places, axis=0), axis=1))])
        known = np.union1d([0], known)
        depth = np.fmin(depth + np.interp(steps, steps[known], off[known]), near)
    out = {int(i): _at_depth(sight, samples[i].line, d, low) for i, d in zip(index[1:], depth[1:], strict=True)}
    if end is not None:
        out[last] = end
    return out


def _near(sample: Sample) -> np.ndarray:
    """What the stroke does not pass behind; nan where there is nothing such."""
    return np.full(3, np.nan) if sample.object is None or not sample.is_before else sample.object


def _at_depth(sight: Sight, line: Ray, depth: float, low: float) -> np.ndarray:
    """The place of a line of sight at a depth along the view; in perspective no lower than ``low``."""
    forward = sight.basis.forward
    place = line.origin + (depth - float(line.origin @ forward)) / float(line.direction @ forward) * line.direction
    if sight.is_flat or place[2] >= low or line.direction[2] > -1e-9:
        return place
    out: np.ndarray = line.origin + (low - line.origin[2]) / line.direction[2] * line.direction
    return out
