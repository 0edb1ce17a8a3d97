"""Roll on top of carried ups: shared out, eased towards neighbours, or the world's own up instead."""

from dataclasses import dataclass

import numpy as np

from morphax.core.path.legs import Curve
from morphax.core.types import Flags, Floats, Vectors3
from morphax.core.vectors import cross, dot, perpendicular

_Z = np.array([0.0, 0.0, 1.0])


@dataclass(frozen=True, eq=False)
class Roll:
    """Roll on top of carried ups: its angle and rate, and where the up is the world's own instead."""

    angle: Floats
    rate: Floats
    exact: Flags


@dataclass(frozen=True, eq=False)
class Easing:
    """What ``eased`` reads, against places (..., r): (..., 1, 2) of one leg or (..., r, 2) place by place."""

    edge: Floats
    ease: Floats
    zone: Floats
    level: Floats


def eased(e: Easing, s: Floats) -> tuple[Floats, Floats]:
    """Angle and rate (..., r) of a leg's turn towards its neighbours near its ends: 3x^2 - 2x^3."""
    angle, rate = np.zeros(s.shape), np.zeros(s.shape)
    for k, sign in ((0, -1.0), (1, 1.0)):
        zone, amount = e.zone[..., k], e.ease[..., k]
        x = np.clip(1.0 - (np.abs(s - e.edge[..., k]) - e.level[..., k]) / zone, 0.0, 1.0)
        angle += amount * (x * x * (3.0 - 2.0 * x))
        rate += sign * amount * 6.0 * x * (1.0 - x) / zone
    return angle, rate


def world_up(curve: Curve, exact: Flags, up: Vectors3, angle: Floats, rate: Floats) -> tuple[Vectors3, Floats, Floats]:
    """Replaces the up by the world's where ``exact``; its rate beyond *carried* is (z.T)(k.R)/|z - (z.T)T|."""
    t = curve.tangent
    level = np.hypot(t[..., 0], t[..., 1])
    world = perpendicular(t, np.broadcast_to(_Z, t.shape))
    turn = t[..., 2] * dot(curve.curvature, cross(t, world)) / np.where(level > 0.0, level, 1.0)
    return (
        np.where(exact[..., None], world, up),
        np.where(exact, 0.0, angle),
        np.where(exact, turn, rate),
    )
