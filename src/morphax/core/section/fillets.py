"""Corners of outlines rounded or cut off by value: between lines, arcs and cubics alike."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from morphax.core.errors import SectionError
from morphax.core.section.loop_edits import refuse_ends
from morphax.core.section.outlines import Loop, Segment
from morphax.core.section.pieces import bulge_along, bulged, part_of, tangents
from morphax.core.types import Floats

_STEPS, _ROUNDS = 12, 30
_NEAR = 1e-12
_GONE = 1e-9
"""A side of which less is left, as a share, is gone."""


def filleted(loop: Loop, i: int, radius: float) -> Loop:
    """Corner ``i`` rounded by an arc of a radius, m, that meets both sides smoothly.

    Raises SectionError where there is no corner, or the radius does not fit, with what there is room for.
    """
    return _cut(loop, i, radius, "a fillet", _touching, is_round=True)


def chamfered(loop: Loop, i: int, length: float) -> Loop:
    """Corner ``i`` cut off at a length, m, along both sides. Raises SectionError where that does not fit."""
    return _cut(loop, i, length, "a chamfer", _set_back, is_round=False)


Ends = tuple[float, float]
Finder = Callable[[Segment, Segment, float], Ends | None]


def _cut(
    loop: Loop,
    i: int,
    size: float,
    word: str,
    find: Finder,
    *,
    is_round: bool,
) -> Loop:
    refuse_ends(loop, i)
    before, after = loop.segments[i - 1], loop.segments[i]
    if not size > 0.0:
        raise SectionError(f"{word} is more than 0")
    if not after.corner or abs(_turn(before, after)) < 1e-6:
        raise SectionError(f"{word} needs a corner; this point is smooth")
    found = find(before, after, size)
    if found is None:
        room = _most(before, after, size, find)
        raise SectionError(f"{word} of {size:g} m does not fit here; there is room for {room:.4g} m")
    t, u = found
    first, last = part_of(before, 0.0, t, corner=before.corner), part_of(after, u, 1.0, corner=not is_round)
    way = before.slope(np.array([t]))[0]
    bulge = bulge_along(first.end, way / max(float(np.hypot(*way)), 1e-300), last.start)
    cut = bulged(first.end, last.start, bulge if is_round else 0.0, corner=not is_round)
    cut = replace(cut, look=before.look)
    new = [first] * (t > _GONE) + [cut] + [last] * (u < 1.0 - _GONE)
    if t <= _GONE:
        new[0] = replace(cut, corner=before.corner)
    return _in_place(loop, i, new)


def _in_place(loop: Loop, i: int, new: list[Segment]) -> Loop:
    """New pieces in the places of the two at a point; what was before the point stays last where that was the first."""
    if i == 0:
        last, rest = (new[:1], new[1:]) if len(new) > 1 and new[0].end == new[1].start else ([], new)
        return Loop((*rest, *loop.segments[1:-1], *last))
    return replace(loop, segments=(*loop.segments[: i - 1], *new, *loop.segments[i + 1 :]))


def _turn(before: Segment, after: Segment) -> float:
    come, leave = tangents(before)[1], tangents(after)[0]
    return float(np.arctan2(come[0] * leave[1] - come[1] * leave[0], come @ leave))


def _most(before: Segment, after: Segment, size: float, find: Finder) -> float:
    low, high = 0.0, size
    for _ in range(24):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if find(before, after, middle) is not None else (low, middle)
    return low


def _touching(before: Segment, after: Segment, radius: float) -> Ends | None:
    """Where a circle of a radius in the corner touches both sides: parameters on them, None where it does not fit.

    Newton on the sides moved by the radius, from small radii to the wished one, so that it stays in this corner.
    """
    way = float(np.sign(_turn(before, after)))
    x = np.array([1.0, 0.0])
    for r in radius * np.linspace(0.0, 1.0, _STEPS + 1)[1:]:
        for _ in range(_ROUNDS):
            p, dp = _moved(before, x[0], way * r)
            q, dq = _moved(after, x[1], way * r)
            miss = p - q
            jacobian = np.stack([dp, -dq], axis=1)
            det = float(np.linalg.det(jacobian))
            if abs(det) < 1e-300:
                return None
            step = np.linalg.solve(jacobian, miss)
            x = x - step
            if not (np.abs(x - 0.5) < 2.0).all():
                return None
            if float(np.abs(step).max()) < _NEAR:
                break
        else:
            return None
    t, u = float(x[0]), float(x[1])
    fits = -_GONE <= t <= 1.0 and 0.0 <= u <= 1.0 + _GONE
    return (max(t, 0.0), min(u, 1.0)) if fits else None


def _moved(s: Segment, t: float, by: float) -> tuple[Floats, Floats]:
    """A place on a side moved to its left, and how it goes with the parameter (by differences of its direction)."""
    h = 1e-6
    at = np.array([t, t - h, t + h])
    p, d = s.at(at), s.slope(at)
    size = np.hypot(d[:, 0], d[:, 1])[:, None]
    left = np.stack([-d[:, 1], d[:, 0]], axis=1) / size
    return p[0] + by * left[0], d[0] + by * (left[2] - left[1]) / (2.0 * h)


def _set_back(before: Segment, after: Segment, length: float) -> Ends | None:
    """The parameters at a length along both sides from the corner; None where one of them is shorter."""
    t, u = _along(before, length, back=True), _along(after, length, back=False)
    return None if t is None or u is None else (t, u)


def _along(s: Segment, length: float, *, back: bool) -> float | None:
    nodes = np.linspace(0.0, 1.0, 513)
    d = s.slope(nodes)
    speed = np.hypot(d[:, 0], d[:, 1])
    if not s.is_curved:
        whole = float(speed[0])
        share = length / whole
        return None if share > 1.0 + _GONE else 1.0 - share if back else share
    steps = np.concatenate([[0.0], np.cumsum(0.5 * (speed[1:] + speed[:-1])) / 512.0])
    if length > steps[-1] * (1.0 + _GONE):
        return None
    return float(np.interp(steps[-1] - length if back else length, steps, nodes))
