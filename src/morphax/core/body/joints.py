"""Joints: what happens at the sharp corners between legs."""

from dataclasses import dataclass
from enum import StrEnum
from math import acos, cos, degrees, tan

import numpy as np

from morphax.core.body.prisms import is_prism
from morphax.core.body.profile import Profile, StepSide
from morphax.core.findings import Finding, Severity, in_mm
from morphax.core.frame.frames import FrameField, Frames, frames_at
from morphax.core.section.sections import CornerStyle
from morphax.core.tolerances import Tolerances
from morphax.core.types import Points3, Vectors3
from morphax.core.vectors import turn_between, unit

MITRE_LIMIT = 2.0 * acos(0.25)
"""The sharpest turn that is a mitre, rad: its ring is four times as long as the section."""
"""A mitre longer than this many times the section's own size becomes a bevel (151 degrees)."""


_ROUNDS, _NEAR = 6, 1e-9
"""So often a bevel's set-back is made longer where its rings cross the corner's plane."""


class JointKind(StrEnum):
    """How two legs meet."""

    MITRE = "mitre"
    BEVEL = "bevel"
    ROUND = "round"
    CUT = "cut"
    PLAIN = "plain"


SET_BACK = (JointKind.BEVEL, JointKind.ROUND)
"""Joints before which both legs end."""


@dataclass(frozen=True, eq=False)
class Joint:
    """The meeting of leg ``before`` and leg ``after``.

    ``place`` (3,) the knot; ``normal`` (3,) of the bisector plane, along the walk; ``set_back`` m, how far each
    leg ends before the knot (bevel and round); ``at`` distance of the knot, m.
    """

    before: int
    after: int
    kind: JointKind
    place: Points3
    normal: Vectors3
    set_back: float
    at: float


@dataclass(frozen=True)
class Joints:
    """All joints of a path and what is to be said about them."""

    items: tuple[Joint, ...]
    findings: tuple[Finding, ...]


def corner_pairs(field: FrameField, *, closed: bool, sharp_count: int) -> list[tuple[int, int]]:
    """Leg indices that meet at sharp corners."""
    n = len(field.legs)
    pairs = [(i, i + 1) for i in range(n - 1)]
    return [*pairs, (n - 1, 0)] if closed and sharp_count else pairs


def plain_joints(field: FrameField, pairs: list[tuple[int, int]]) -> Joints:
    """Corners that a *fixed* section passes as it is: both legs share the ring at the knot."""
    total = max(float(field.table.total), 1e-300)
    return Joints(
        tuple(
            Joint(
                i,
                j,
                JointKind.PLAIN,
                field.legs[i].curve.point[-1],
                field.legs[i].curve.tangent[-1],
                0.0,
                float(field.legs[i].s[-1]) % total,
            )
            for i, j in pairs
        ),
        (),
    )


@dataclass(frozen=True)
class JointRule:
    """How corners are taken, ``own`` how those at some distances, m; ``limit``: the sharpest turn of a mitre, rad."""

    style: CornerStyle
    limit: float = MITRE_LIMIT
    own: tuple[tuple[float, CornerStyle], ...] = ()

    def at(self, distance: float, length: float) -> CornerStyle:
        """How the corner at a distance of the path is taken."""
        near = (s for at, s in self.own if min((at - distance) % length, (distance - at) % length) <= _NEAR * length)
        return next(near, self.style)


def joints_of(
    field: FrameField,
    pairs: list[tuple[int, int]],
    profile: Profile,
    rule: JointRule,
    tolerances: Tolerances,
) -> Joints:
    """Decides every corner; ``tolerances.width`` is the body's width."""
    if not pairs:
        return Joints((), ())
    before, after = (np.array([field.legs[p[k]].samples[-1 if k == 0 else 0, 9:12] for p in pairs]) for k in (0, 1))
    turns, normals = turn_between(before, after), unit(before + after)
    found = [
        _joint(field, pair, (float(turn), normal), profile, rule, tolerances)
        for pair, turn, normal in zip(pairs, turns, normals, strict=True)
    ]
    return Joints(tuple(j for j, _ in found), tuple(f for _, fs in found for f in fs))


def _joint(
    field: FrameField,
    pair: tuple[int, int],
    bend: tuple[float, Vectors3],
    profile: Profile,
    rule: JointRule,
    tolerances: Tolerances,
) -> tuple[Joint, list[Finding]]:
    """One corner; ``bend`` is its turn, rad, and the normal of its plane."""
    i, j = pair
    a, (turn, normal) = field.legs[i], bend
    place, at = a.samples[-1, :3], float(a.s[-1]) % max(float(field.table.total), 1e-300)
    spot = (float(place[0]), float(place[1]), float(place[2]))
    findings: list[Finding] = []

    def say(code: str, severity: Severity, message: str, free: float | None = None) -> None:
        findings.append(Finding(code, severity, message, at, free, spot))

    if turn > tolerances.back_turn:
        say(
            "turns-back",
            Severity.WARNING,
            f"The path turns back on itself at {in_mm(at)}; both sides end flat there.",
        )
        return Joint(i, j, JointKind.CUT, place, a.curve.tangent[-1], 0.0, at), findings
    kind = JointKind(rule.at(at, max(float(field.table.total), 1e-300)).value)
    if kind is JointKind.MITRE and turn > rule.limit:
        kind = JointKind.BEVEL
        say(
            "mitre-limit",
            Severity.NOTE if rule.limit < MITRE_LIMIT else Severity.WARNING,
            f"The corner at {in_mm(at)} turns by {degrees(turn):.0f} degrees: too sharp for a mitre, so it is a bevel.",
        )
    set_back, free = _set_back(field, pair, bend, profile, profile.first_width) if kind in SET_BACK else (0.0, None)
    if free is not None:
        message = f"The legs at {in_mm(at)} are too short for the {kind}; up to {in_mm(free)} wide it would be free."
        say("short-leg", Severity.WARNING, message, free)
    turned = float(np.atleast_1d(field.corner_turns)[i])
    if abs(turned) > tolerances.even_angle:
        say(
            "corner-roll",
            Severity.NOTE,
            f"At {in_mm(at)} the legs meet {degrees(abs(turned)):.1f} degrees apart in roll; each takes half of it.",
        )
    return Joint(i, j, kind, place, normal, set_back, at), findings


def _set_back(
    field: FrameField, pair: tuple[int, int], bend: tuple[float, Vectors3], profile: Profile, width: float
) -> tuple[float, float | None]:
    """How far a bevel starts before the knot, m; and the width that would be free where the legs cut it short.

    On legs that bend or roll, the rings there must not reach beyond the corner's plane either.
    """
    (i, j), (turn, normal) = pair, bend
    a, b = field.legs[i], field.legs[j]
    half = 0.5 * min(float(f.s[-1] - f.s[0]) for f in (a, b))
    inner = _inner_reach(frames_at(field, i, a.s[-1:]), b.curve.tangent[0], profile, float(a.s[-1]))
    wanted = inner * tan(0.5 * turn)
    for _ in range(_ROUNDS):
        over = max(_beyond(field, k, min(wanted, half), normal, profile, is_end=k == i) for k in (i, j))
        if wanted >= half or over <= 1e-6 * profile.reach:
            break
        wanted += over / cos(0.5 * turn)
    short = wanted > half * (1.0 + 1e-9)
    return min(wanted, half), width * half / wanted if short else None


def _beyond(field: FrameField, leg: int, set_back: float, normal: Vectors3, profile: Profile, *, is_end: bool) -> float:
    """How far the ring at a set-back from a leg's end, or start, reaches beyond the corner's plane, m."""
    f = field.legs[leg]
    edge, sign = (-1, -1.0) if is_end else (0, 1.0)
    if is_prism(field, leg, profile):
        return 0.0
    at = f.s[[edge]] + sign * set_back
    fr = frames_at(field, leg, at)
    ring = profile.outline_at(float(at[0]), StepSide.BEFORE if is_end else StepSide.AFTER).points
    across = np.array([fr.right[0] @ normal, fr.up[0] @ normal])
    middle = float((fr.origin[0] - f.samples[edge, :3]) @ normal)
    return float((-sign * (middle + ring @ across)).max())


def _inner_reach(frame: Frames, towards: Vectors3, profile: Profile, at: float) -> float:
    """The section's reach on the inner side of the turn, m, never negative."""
    t = frame.forward[0]
    inner = unit(towards - (towards @ t) * t)
    across = np.array([frame.right[0] @ inner, frame.up[0] @ inner])
    return max(0.0, float((profile.outline_at(at, StepSide.BEFORE).points @ across).max()))
