"""What stretches of a run are made of: parts of its legs, and rings within the bevels where they begin or stop."""

from dataclasses import dataclass, replace
from math import sqrt

import numpy as np

from morphax.core.body.joints import SET_BACK, Joint, Joints
from morphax.core.frame.frames import FrameField

SAME = 1e-9
"""Places nearer than this share of the length are one."""
Pair = tuple[float, float]


@dataclass(frozen=True)
class LegPart:
    """A part of a leg from ``a`` to ``b`` m, on the ``lap`` that it is walked; ``is_first`` and ``is_last`` of its
    stretch."""

    leg: int
    a: float
    b: float
    lap: int
    is_first: bool = False
    is_last: bool = False


def leg_parts(field: FrameField, stretch: Pair) -> list[LegPart]:
    """The parts of legs that a stretch runs through; beyond the length it goes on at the start."""
    total, found = float(field.table.total), list[LegPart]()
    for lap in (0, 1):
        for i, leg in enumerate(field.legs):
            s0, s1 = float(leg.s[0]), float(leg.s[-1])
            a, b = max(stretch[0] - lap * total, s0), min(stretch[1] - lap * total, s1)
            if b - a > SAME * total:
                a, b = (s0 if a - s0 <= SAME * total else a), (s1 if s1 - b <= SAME * total else b)
                found.append(LegPart(i, a, b, lap))
    found[0] = replace(found[0], is_first=True)
    found[-1] = replace(found[-1], is_last=True)
    return found


@dataclass(frozen=True)
class InCorner:
    """A ring within a bevel or a fan: a share ``u`` of the way from its one side to the other.

    It is turned as the leg after it on its ``lap``.
    """

    joint: Joint
    u: float
    lap: int


Segment = LegPart | InCorner
"""What a leg of the rows that are shown is made of."""


class Bevels:
    """The bevels and fans of a run, as what a range goes through; ``reach`` m, of its section."""

    def __init__(self, field: FrameField, joints: Joints, reach: float) -> None:
        self.field, self.total = field, float(field.table.total)
        own = [j for j in joints.items if j.kind in SET_BACK]
        self.to, self.of = {j.after: j for j in own}, {j.before: j for j in own}
        self.zones = {j.before: self._zone(j, reach) for j in own}

    def segments(self, stretch: Pair) -> list[Segment]:
        """What a stretch is made of: parts of legs, and a ring within a bevel where it begins or stops in one."""
        parts = leg_parts(self.field, stretch)
        a, first = self._within_corner(parts[0], parts[0].a)
        b, last = self._within_corner(parts[-1], parts[-1].b)
        parts[0] = replace(parts[0], a=a, is_first=first is None)
        parts[-1] = replace(parts[-1], b=b, is_last=last is None)
        without_first = first is not None and first.u < 0.5
        without_last = last is not None and last.u > 0.5
        kept = parts[int(without_first) : len(parts) - int(without_last)]
        return [*([] if first is None else [first]), *kept, *([] if last is None else [last])]

    def _within_corner(self, part: LegPart, s: float) -> tuple[float, InCorner | None]:
        """Where a stretch that begins or stops at ``s`` does so on its leg, m, and within a bevel or a fan.

        One that is longer than its set-backs, as where the path runs along its inner side, is gone through on a little
        of the legs as well, which are gone through the faster there.
        """
        own = self.field.legs[part.leg].s
        before, after = self.of.get(part.leg), self.to.get(part.leg)
        for joint, away, sign in ((before, float(own[-1]) - s, -1.0), (after, s - float(own[0]), 1.0)):
            if joint is None or away > (zone := self.zones[joint.before]) - SAME * self.total:
                continue
            near, leg = 1.0 - away / zone, zone - joint.set_back
            share, knot = leg / (leg + zone), float(own[-1] if joint is before else own[0])
            if near < share:
                return knot + sign * (zone - leg * near / share), None
            lap = part.lap + (joint is before and joint.after == 0)
            return knot, InCorner(joint, 0.5 * (1.0 + sign * (1.0 - near) / (1.0 - share)), lap)
        return s, None

    def _zone(self, joint: Joint, reach: float) -> float:
        """How far from its knot, m, a bevel or a fan is gone through: its set-back, or as far as it is half as wide."""
        legs = [self.field.legs[k].s for k in (joint.before, joint.after)]
        along = float(np.clip(joint.normal @ self.field.legs[joint.before].samples[-1, 9:12], -1.0, 1.0))
        wide = 0.5 * reach * sqrt(1.0 - along**2)
        return max(joint.set_back, min(wide, *(0.25 * float(s[-1] - s[0]) for s in legs)))
