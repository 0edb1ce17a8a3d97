"""Guided frames: their up follows a field of directions, a host's normals or the way to a place or a path."""

from collections.abc import Callable
from dataclasses import replace
from math import radians, sin

import numpy as np

from morphax.core.frame.frames import FrameField, LegFrames, carried_legs, closing_angle
from morphax.core.frame.upright import eased_corners, filled_rolls, wrapped
from morphax.core.path.arclength import LengthTable
from morphax.core.path.legs import Leg
from morphax.core.types import Floats, Points3, Vectors3
from morphax.core.vectors import angle_about, dot, perpendicular

_LEAST = 48
_STEEP = sin(radians(10.0))
"""A wish that leans less from the path says nothing about the up."""


def guided_field(
    table: LengthTable,
    legs: tuple[Leg, ...],
    wish: Callable[[Points3], Vectors3],
    *,
    closed: bool = False,
    smooth: float = 0.0,
    reach: float = 0.0,
) -> FrameField:
    """Frames whose up is ``wish(places)`` made perpendicular, exactly so at the samples, linear in roll between them.

    Parameters: ``smooth`` m, the wish is averaged over so much of its leg on both sides (it is a host's facets that
    want it); ``reach`` of the section, m. Where the wish is zero or lies along the path the up is carried through and
    the difference shared out; where it is so everywhere, the frames are carried. Frames that differ at a corner are
    turned half way by each leg. Does not handle batches.
    """
    carried = carried_legs(table, legs, least=_LEAST)
    up = np.concatenate([f.up for f in carried])
    wanted = np.concatenate([_smoothed(f.s, wish(f.curve.point), smooth) for f in carried])
    tangent = np.concatenate([f.curve.tangent for f in carried])
    size = np.sqrt(dot(wanted, wanted))
    across = wanted - dot(wanted, tangent)[:, None] * tangent
    mute = np.sqrt(dot(across, across)) <= np.maximum(_STEEP * size, 1e-12)
    if mute.all():
        return FrameField(table, carried, np.zeros(len(legs)))
    roll = np.where(mute, 0.0, -angle_about(tangent, up, perpendicular(tangent, np.where(mute[:, None], up, wanted))))
    s = np.concatenate([f.s for f in carried])
    turn_round = -float(closing_angle(carried)) if closed else None
    roll, slope, known = filled_rolls(s, roll, mute, float(table.total), turn_round)
    rise = np.array([wrapped(d) for d in np.diff(roll)]) / np.maximum(np.diff(s), 1e-300)
    slope[:-1] = np.where(known[:-1], rise, slope[:-1])
    return eased_corners(table, _with_rolls(carried, roll, slope), closed=closed, reach=reach)


def _with_rolls(carried: tuple[LegFrames, ...], roll: Floats, slope: Floats) -> tuple[LegFrames, ...]:
    cuts = np.cumsum([len(f.s) for f in carried])[:-1]
    parts = zip(carried, np.split(roll, cuts), np.split(slope, cuts), strict=True)
    return tuple(replace(f, roll=r, slope=m[:-1]) for f, r, m in parts)


def _smoothed(s: Floats, wish: Vectors3, over: float) -> Vectors3:
    """The mean (q, 3) of directions over ``over`` m on both sides along a leg, less beside its ends."""
    if over <= 0.0 or len(s) < 3:
        return wish
    area = np.concatenate([np.zeros((1, 3)), np.cumsum(0.5 * (wish[1:] + wish[:-1]) * np.diff(s)[:, None], axis=0)])
    reach = np.minimum(over, np.minimum(s - s[0], s[-1] - s))
    low, high = s - reach, s + reach
    mean = np.stack([np.interp(high, s, area[:, k]) - np.interp(low, s, area[:, k]) for k in range(3)], axis=1)
    width = (high - low)[:, None]
    return np.where(width > 1e-12 * (s[-1] - s[0]), mean / np.where(width > 0.0, width, 1.0), wish)
