"""Holding rings: one at a typed distance beside each corner and end, for meshes that are subdivided downstream.

Beside a mitre of legs that run straight on with one section it lies as the mitre does; elsewhere it stands across the
path, clear of what leans.
"""

from collections.abc import Mapping

import numpy as np

from morphax.core.body.joints import Joint, JointKind
from morphax.core.body.profile import Profile, StepSide
from morphax.core.findings import Finding, Severity, in_mm
from morphax.core.frame.frames import FrameField, frames_at
from morphax.core.types import Floats

_QUARTER = 0.25
"""A holding ring takes so much at most of what there is of a leg between what leans at both its ends."""
Holds = Mapping[tuple[int, bool], float]
"""By leg, and whether it is its start: how far from there its holding ring is, m."""


def mitre_reach(field: FrameField, leg: int, joint: Joint, profile: Profile, edge: float, sign: float) -> float:
    """How far a mitre at a leg's start (``sign`` 1) or end (-1), at ``edge`` m, reaches into the leg, m."""
    fr = frames_at(field, leg, np.array([edge]))
    across = np.array([fr.right[0] @ joint.normal, fr.up[0] @ joint.normal])
    ring = profile.outline_at(edge, StepSide.AFTER if sign > 0 else StepSide.BEFORE).points
    return float((-sign * (ring @ across)).max()) / float(fr.forward[0] @ joint.normal)


def holds_of(
    field: FrameField,
    profile: Profile,
    joints: tuple[Mapping[int, Joint], Mapping[int, Joint]],
    ranges: list[tuple[float, float]],
    asked: tuple[float | None, bool],
) -> tuple[Holds, list[Finding]]:
    """The holding rings of all legs, by the joints at their starts and ends, within their ``ranges``, m; and what is to
    be said of those that are nearer than asked for. ``asked``: how far, m, and whether the path is closed."""
    distance, closed = asked
    if distance is None:
        return {}, []
    out, least, where = dict[tuple[int, bool], float](), distance, 0.0
    for leg, (a, b) in enumerate(ranges):
        ends = [(True, a, joints[0].get(leg)), (False, b, joints[1].get(leg))]
        reach = {k: _leaning(field, profile, leg, j, at, is_start=k) for k, at, j in ends}
        room = _QUARTER * max(0.0, b - a - sum(reach.values()))
        own = min(distance, room)
        sides = [k for k, at, j in ends if _is_held(field, leg, j, is_start=k, closed=closed)]
        if sides and own < least:
            least, where = own, 0.5 * (a + b)
        out |= {(leg, k): own for k in sides if own > 0.0}
    if least >= distance * (1.0 - 1e-9):
        return out, []
    message = f"Its holding rings are at {in_mm(least)} only there: {in_mm(distance)} does not fit."
    return out, [Finding("hold-reduced", Severity.NOTE, message, where)]


def _leaning(field: FrameField, profile: Profile, leg: int, joint: Joint | None, at: float, *, is_start: bool) -> float:
    if joint is None or joint.kind is not JointKind.MITRE:
        return 0.0
    return max(0.0, mitre_reach(field, leg, joint, profile, at, 1.0 if is_start else -1.0))


def _is_held(field: FrameField, leg: int, joint: Joint | None, *, is_start: bool, closed: bool) -> bool:
    """Whether something is held there: a corner, or an open path's end; not where a path goes on smoothly."""
    if joint is not None:
        return joint.kind is not JointKind.PLAIN
    return not closed and leg == (0 if is_start else len(field.legs) - 1)


def with_holds(places: list[Floats], holds: Holds, joints: tuple[Mapping[int, Joint], Mapping[int, Joint]]) -> None:
    """Puts the rings beside ends, bevels and fans among the places of their legs; beside mitres they come later."""
    for (leg, is_start), distance in holds.items():
        joint = joints[0 if is_start else 1].get(leg)
        if joint is not None and joint.kind is JointKind.MITRE:
            continue
        own = places[leg]
        at = own[0] + distance if is_start else own[-1] - distance
        places[leg] = np.unique(np.append(own, at))
