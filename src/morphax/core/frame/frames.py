"""Frames: the directions right, up and forward that carry the section along the path.

right = forward x up. *carried* turns as little as can be (double reflection: Wang, Juettler, Zheng, Liu,
"Computation of Rotation Minimizing Frames", ACM TOG 2008); *upright* keeps the world's up.
"""

from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cached_property
from math import ceil, pi, radians
from typing import Any

import numpy as np

from morphax.core.frame.rolls import Easing, Roll, eased, world_up
from morphax.core.kernels.along import NUMBERS, carry_legs, frame_places, sampled_legs
from morphax.core.kernels.compiling import spread
from morphax.core.kernels.measuring import chosen_ups, largest_turn, largest_turns
from morphax.core.path.arclength import LengthTable
from morphax.core.path.legs import Curve, Leg
from morphax.core.types import Flags, Floats, Points3, Vectors3
from morphax.core.vectors import (
    angle_about,
    cross,
    dot,
    perpendicular,
    smallest_turn,
    turned,
)

_Z, _Y = np.array([0.0, 0.0, 1.0]), np.array([0.0, 1.0, 0.0])


class Orientation(StrEnum):
    """How frames follow the path."""

    CARRIED = "carried"
    UPRIGHT = "upright"
    FIXED = "fixed"
    ON_HOST = "on the host"
    TOWARDS = "towards"


@dataclass(frozen=True, eq=False)
class Frames:
    """Frames at r places: (..., r, 3) each; ``roll_rate`` (..., r) rad/m of roll beyond *carried*.

    ``tangent`` is the path's direction where that is not ``forward`` (*fixed*: every ring is the first one moved).
    """

    origin: Points3
    right: Vectors3
    up: Vectors3
    forward: Vectors3
    curvature: Vectors3
    roll_rate: Floats
    tangent: Vectors3 | None = None


@dataclass(frozen=True, eq=False)
class LegFrames:
    """Carried ups at a leg's fixed samples, and the roll on top of them.

    ``s`` (..., q) distances; ``samples`` (..., q, 15) place, right, carried up, tangent and curvature there, which
    ``curve`` and ``up`` (..., q, 3) are parts of; ``roll`` (..., q) angle from
    the carried up to the wanted one at the samples; ``slope`` (..., q-1) its rate in each interval, rad/m;
    ``exact`` (..., q-1) intervals where the up is the world's own; ``ease`` (..., 2) angle that the leg turns
    towards its neighbour at its start and end, within ``zone`` (..., 2) m that begins ``level`` (..., 2) m from
    the corner (nearer than that the turn is complete, so that mitres stay true).
    """

    leg: Leg
    s: Floats
    samples: Floats
    roll: Floats
    slope: Floats
    exact: Flags
    ease: Floats
    zone: Floats
    level: Floats

    @cached_property
    def curve(self) -> Curve:
        """The path at the samples."""
        return _curve(self.samples)

    @property
    def up(self) -> Vectors3:
        """Carried ups at the samples, (..., q, 3)."""
        return self.samples[..., 6:9]


@dataclass(frozen=True, eq=False)
class FrameField:
    """Frames of a whole path.

    ``corner_turns`` (..., legs) angle shared by the legs at each corner, rad; ``symmetry`` k: on a closed path the
    last frame is the first one up to a turn by a whole number of 360/k degrees. ``fixed`` (3, 3): right, up and
    forward of all rings where they don't turn with the path.
    """

    table: LengthTable
    legs: tuple[LegFrames, ...]
    corner_turns: Floats
    symmetry: int = 1
    fixed: Floats | None = None

    @cached_property
    def joined(self) -> "_Joined":
        """All legs as one, for ``frames_on``."""
        return _joined(self)

    @property
    def is_even(self) -> bool:
        """Whether frames are carried alone: nothing rolls or turns towards a neighbour."""
        return self.joined.roll is None and self.joined.easing is None

    @cached_property
    def _sampled(self) -> dict[int, Frames]:
        return {}

    @cached_property
    def _turned(self) -> dict[int, Floats]:
        return {}

    def turned_by(self, leg: int) -> Floats:
        """(..., q) how far the path has turned at a leg's samples since the leg's start, rad, whole turns included."""
        if leg not in self._turned:
            t = self.legs[leg].samples[..., 9:12]
            step = np.sqrt(((t[..., 1:, :] - t[..., :-1, :]) ** 2).sum(-1))
            angle = np.cumsum(2.0 * np.arcsin(np.minimum(0.5 * step, 1.0)), axis=-1)
            self._turned[leg] = np.concatenate([np.zeros((*angle.shape[:-1], 1)), angle], axis=-1)
        return self._turned[leg]

    def sampled(self, leg: int) -> Frames:
        """Frames at a leg's own samples."""
        if leg not in self._sampled:
            self._sampled[leg] = sample_frames(self, leg)
        return self._sampled[leg]


def _slope_weights(count: int) -> Floats:
    """(count, 4) weights of a cubic's control points in a third of its derivative at even parameters."""
    t = np.linspace(0.0, 1.0, count)
    u = 1.0 - t
    return np.stack([-u * u, u * u - 2.0 * u * t, 2.0 * u * t - t * t, t * t], axis=-1)


_SLOPES = _slope_weights(9)


def first_up(tangent: Vectors3) -> Vectors3:
    """The up (..., 3) that a path starts with: the world's, made perpendicular; near vertical, world y.

    Between 10 and 20 degrees from vertical the one is turned into the other by its share of the angle. A tangent
    that rises or sinks turns the frame just as much as itself; one that turns its heading turns the frame with it,
    which is 1/sin(lean) times as much. No choice of ups is continuous in all directions: this one tears where the
    tangent leans towards the world's y between 10 and 20 degrees, since y and z lie opposite there.
    """
    return chosen_ups(tangent)


def samples_per_span(table: LengthTable) -> int:
    """One fixed count for the whole path: about a sample each degree of the span that turns most."""
    return min(max(ceil(largest_turn(_SLOPES, table.spans) / radians(1.0)), 8), 256)


def steps_of(table: LengthTable) -> np.ndarray:
    """What ``samples_per_span`` says of each path (b,) of a batch."""
    turns = largest_turns(_SLOPES, table.spans)
    return np.clip(np.ceil(turns / radians(1.0)), 8, 256).astype(int)


def carried_field(
    table: LengthTable,
    legs: tuple[Leg, ...],
    *,
    closed: bool = False,
    symmetry: int = 1,
    start_up: Vectors3 | None = None,
) -> FrameField:
    """Frames that turn as little as can be.

    Parameters: ``symmetry`` k, the section's rotational symmetry about its anchor (a closed path is closed
    modulo 360/k degrees); ``start_up`` (3,) a wish for the first up.
    """
    carried = carried_legs(table, legs, start_up=start_up)
    if closed:
        carried = _closed_up(table, carried, symmetry)
    return FrameField(table, carried, np.zeros((*table.total.shape, len(legs))), symmetry)


def carried_legs(
    table: LengthTable, legs: tuple[Leg, ...], *, start_up: Vectors3 | None = None, least: int = 1
) -> tuple[LegFrames, ...]:
    """Carried ups of all legs without closing; ``least`` samples on a straight span."""
    steps = samples_per_span(table)
    bounds, first = np.empty((len(legs), 4), dtype=np.int64), 0
    for i, leg in enumerate(legs):
        last = first + (leg.last - leg.first) * (least if leg.straight else max(least, steps))
        bounds[i] = leg.first, leg.last, first, last
        first = last + 1
    s, samples = sampled_legs(table.at, table.speed2, table.powers, table.pieces, bounds)
    t0 = samples[:, 0, 9:12]
    if start_up is not None and float(np.abs(dot(t0, start_up)).max()) < 0.999:
        samples[:, 0, 6:9] = perpendicular(t0, np.broadcast_to(start_up, t0.shape))
    else:
        samples[:, 0, 6:9] = first_up(t0)
    carry_legs(bounds, samples)
    return _leg_frames(table, legs, bounds, s, samples)


def _curve(numbers: Floats) -> Curve:
    """The path's own part of frames (..., r, 15)."""
    return Curve(numbers[..., :3], numbers[..., 9:12], numbers[..., 12:])


def _leg_frames(
    table: LengthTable, legs: tuple[Leg, ...], bounds: np.ndarray, s: Floats, samples: Floats
) -> tuple[LegFrames, ...]:
    """Each leg's own part of the samples of all, without roll."""
    lead = table.total.shape
    s, samples = s.reshape(*lead, -1), samples.reshape(*lead, -1, NUMBERS)
    none, whole = np.zeros(s.shape), np.ones((*lead, 2))
    no, never = np.zeros((*lead, 2)), np.zeros(s.shape, dtype=bool)
    out = []
    for leg, (a, b) in zip(legs, bounds[:, 2:].tolist(), strict=True):
        own, off = slice(a, b + 1), none[..., a : b + 1]
        out.append(LegFrames(leg, s[..., own], samples[..., own, :], off, off[..., 1:], never[..., a:b], no, whole, no))
    return tuple(out)


def closing_angle(legs: tuple[LegFrames, ...]) -> Floats:
    """Angle (...) from the up carried once round a closed path to the first up, rad."""
    a, b = legs[0], legs[-1]
    t0, t1 = a.curve.tangent[..., 0, :], b.curve.tangent[..., -1, :]
    return angle_about(t0, smallest_turn(b.up[..., -1, :], t1, t0), a.up[..., 0, :])


def _closed_up(table: LengthTable, legs: tuple[LegFrames, ...], symmetry: int) -> tuple[LegFrames, ...]:
    """Shares the closing angle out by length, taken into (-180/k, 180/k] degrees."""
    part = 2.0 * pi / symmetry
    angle = -closing_angle(legs)  # as a roll, from right towards up
    angle = angle - part * np.ceil(angle / part - 0.5 - 1e-12)
    angle = np.where(np.abs(angle) < 1e-12, 0.0, angle)
    rate = (angle / table.total)[..., None]
    begin = legs[0].s[..., :1]
    return tuple(replace(f, roll=rate * (f.s - begin), slope=np.broadcast_to(rate, f.slope.shape).copy()) for f in legs)


@dataclass(frozen=True, eq=False)
class _Joined:
    """All legs of a field one after the other, as the loops take them; ``legs`` (n, 4) first and last span and sample.

    ``roll`` and the easing are None where nothing rolls.
    """

    legs: np.ndarray
    s: Floats
    samples: Floats
    roll: tuple[Floats, Floats, Flags] | None
    easing: Easing | None


def _joined(field: FrameField) -> _Joined:
    legs = field.legs
    if len(legs) == 1 and not legs[0].ease.any():
        f = legs[0]
        bounds = np.array([[f.leg.first, f.leg.last, 0, f.s.shape[-1] - 1]])
        rolls = bool(f.slope.any() or f.roll.any() or f.exact.any())
        return _Joined(bounds, f.s, f.samples, _joined_rolls(legs) if rolls else None, None)
    last = np.cumsum([f.s.shape[-1] for f in legs]) - 1
    first = np.concatenate([[0], last[:-1] + 1])
    bounds = np.column_stack([[f.leg.first for f in legs], [f.leg.last for f in legs], first, last])
    rolls = any(np.concatenate([getattr(f, n) for f in legs], axis=-1).any() for n in ("slope", "roll", "exact"))
    eases = np.concatenate([f.ease for f in legs], axis=-1).any()
    return _Joined(
        bounds,
        np.concatenate([f.s for f in legs], axis=-1),
        np.concatenate([f.samples for f in legs], axis=-2),
        _joined_rolls(legs) if rolls else None,
        Easing(
            np.stack([f.s[..., [0, -1]] for f in legs], axis=-2),
            *(np.stack([getattr(f, name) for f in legs], axis=-2) for name in ("ease", "zone", "level")),
        )
        if eases
        else None,
    )


def _joined_rolls(legs: tuple[LegFrames, ...]) -> tuple[Floats, Floats, Flags]:
    """Angles, slopes and exact intervals of all legs (..., q); none lies in an interval after a leg's last sample."""

    def longer(values: Any) -> Any:
        return np.concatenate([values, values[..., -1:]], axis=-1)

    return (
        np.concatenate([f.roll for f in legs], axis=-1),
        np.concatenate([longer(f.slope) for f in legs], axis=-1),
        np.concatenate([longer(f.exact) for f in legs], axis=-1),
    )


def frames_on(field: FrameField, leg: np.ndarray, s: Floats) -> Frames:
    """Frames at distances ``s`` (..., r), each of the leg of its own, ``leg`` (r,)."""
    j, table = field.joined, field.table
    lead, r = table.total.shape, s.shape[-1]
    rows = (-1, j.s.shape[-1])
    known = (j.s.reshape(rows), j.samples.reshape(*rows, NUMBERS))
    asked = spread(s, (*lead, r)).reshape(len(known[0]), r)
    index, out = frame_places((table.at, table.speed2, table.powers, table.pieces), j.legs, known, leg, asked)
    index, out = index.reshape(*lead, r), out.reshape(*lead, r, NUMBERS)
    curve, up = _curve(out), out[..., 6:9]
    if field.fixed is not None:
        return _fixed_frames(field.fixed, curve)
    if j.roll is None and j.easing is None:
        return Frames(curve.point, out[..., 3:6], up, curve.tangent, curve.curvature, np.zeros(s.shape))
    easing = None
    if j.easing is not None:
        e = j.easing
        easing = Easing(*(v[..., leg, :] for v in (e.edge, e.ease, e.zone, e.level)))
    return _rolled(s, curve, up, _roll_at(j, index, s), easing)


def _roll_at(j: _Joined, index: np.ndarray, s: Floats) -> Roll:
    def taken(values: Any, index: np.ndarray) -> Any:
        return np.take_along_axis(values, index, -1)

    if j.roll is None:
        return Roll(np.zeros(s.shape), np.zeros(s.shape), np.zeros(s.shape, dtype=bool))
    roll, slope, exact, begin = (taken(v, index) for v in (*j.roll, j.s))
    return Roll(roll + slope * (s - begin), slope, exact)


def frames_at(field: FrameField, leg_index: int, s: Floats) -> Frames:
    """Frames at distances ``s`` (..., r) of one leg. They depend on the path only, not on the rings."""
    return frames_on(field, np.full(s.shape[-1], leg_index), s)


def sample_frames(field: FrameField, leg_index: int) -> Frames:
    """Frames at a leg's own samples, where nothing has to be carried or looked up."""
    f = field.legs[leg_index]
    if field.fixed is not None:
        return _fixed_frames(field.fixed, f.curve)
    index = np.minimum(np.arange(f.s.shape[-1]), f.s.shape[-1] - 2)
    roll = Roll(f.roll, f.slope[..., index], f.exact[..., index])
    easing = None
    if f.ease.any():
        easing = Easing(f.s[..., None, [0, -1]], *(v[..., None, :] for v in (f.ease, f.zone, f.level)))
    return _rolled(f.s, f.curve, f.up, roll, easing)


def fixed_field(table: LengthTable, legs: tuple[Leg, ...], *, start_up: Vectors3 | None = None) -> FrameField:
    """Frames of *fixed*: the first frame at every place. Does not handle batches."""
    carried = carried_legs(table, legs, start_up=start_up)
    forward, up = carried[0].curve.tangent[0], carried[0].up[0]
    axes = np.stack([cross(forward, up), up, forward])
    return FrameField(table, carried, np.zeros(len(legs)), fixed=axes)


def _fixed_frames(axes: Floats, curve: Curve) -> Frames:
    right, up, forward = (np.broadcast_to(a, curve.point.shape) for a in axes)
    none = np.zeros(curve.point.shape[:-1])
    return Frames(curve.point, right, up, forward, curve.curvature, none, curve.tangent)


def _rolled(s: Floats, curve: Curve, up: Vectors3, roll: Roll, easing: Easing | None) -> Frames:
    """Frames from carried ups."""
    angle, rate = roll.angle, roll.rate
    if roll.exact.any():
        up, angle, rate = world_up(curve, roll.exact, up, angle, rate)
    if easing is not None:
        more, more_rate = eased(easing, s)
        angle, rate = angle + more, rate + more_rate
    if np.any(angle):
        # positive roll is from right towards up, which is left-handed about forward
        up = turned(up, curve.tangent, -angle)
    return Frames(curve.point, cross(curve.tangent, up), up, curve.tangent, curve.curvature, rate)
