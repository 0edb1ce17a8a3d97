"""Rings: all copies of the section's points, from their coefficients and the profile's blocks."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from morphax.core.body.carried import CarriedRows, carried_rows, extents, ring_coefficients, taken_rows
from morphax.core.body.holding import Holds, mitre_reach
from morphax.core.body.joints import Joint, JointKind
from morphax.core.body.prisms import is_prism
from morphax.core.body.profile import Profile, StepSide
from morphax.core.frame.frames import FrameField, Frames, frames_at, frames_on
from morphax.core.kernels.skinning import put_points
from morphax.core.types import Floats, Points3, Vectors3
from morphax.core.vectors import dot

_AFTER, _BEFORE = float(StepSide.AFTER), float(StepSide.BEFORE)


@dataclass(frozen=True, eq=False)
class Rows:
    """The rows of all legs, one after the other: frames, distances, and how far mitres send their points.

    ``sent`` (r, 1 + 2 j), m along the row's forward: of its origin, and by x and y of each block, 0 but at mitres;
    ``starts`` (legs+1,) where each leg's rows begin; ``carried`` the profile at each row; ``steps`` rows that a wall
    joins with the next one; ``stepped`` legs at whose start a wall joins them with what comes before, 0 on a closed
    path.
    """

    frames: Frames
    s: Floats
    sent: Floats
    starts: np.ndarray
    carried: CarriedRows
    steps: tuple[int, ...] = ()
    stepped: tuple[int, ...] = ()

    @cached_property
    def coefficients(self) -> Floats:
        """(r, 1 + 2 j, 3): origin, then what x and y of each block go along."""
        out = ring_coefficients(self.frames.origin, self.carried)
        at = np.flatnonzero(self.sent.any(1))
        out[at] += self.sent[at][:, :, None] * self.frames.forward[at][:, None]
        return out

    @cached_property
    def distance(self) -> Floats:
        """(r, 1 + 2 j): the distance along the path of the origin, and what x and y of each block add to a point's, so
        that mitres cut the texture as a saw does."""
        out = self.sent.copy()
        out[:, 0] += self.s
        return out


def ring_points(coefficients: Floats, points: Floats, into: Points3 | None = None) -> Points3:
    """Points (..., r, n, 3) of rings from coefficients (..., r, 1 + 2 j, 3) and block points (n, 2 j)."""
    out = np.empty((*coefficients.shape[:-2], len(points), 3)) if into is None else into
    put_points(coefficients, points, out.reshape(-1, len(points), 3))
    return out


def end_row(rows: Rows, leg: int, *, is_start: bool) -> int:
    """The first, or last, row of a leg."""
    return int(rows.starts[leg]) if is_start else int(rows.starts[leg + 1]) - 1


def row_sides(starts: np.ndarray, steps: Sequence[int] = ()) -> Floats:
    """(r,) the side of a step that each row is on: a leg's last one, and the first of two at a step, end what was."""
    side = np.full(int(starts[-1]), _AFTER)
    side[starts[1:] - 1] = _BEFORE
    side[list(steps)] = _BEFORE
    return side


def _doubled(places: Floats, steps: Floats) -> Floats:
    """Places with two rings at each step between the first and the last."""
    near = _SAME * float(places[-1])
    inside = steps[(steps > places[0] + near) & (steps < places[-1] - near)]
    return np.sort(np.concatenate([np.setdiff1d(places, inside), inside, inside])) if len(inside) else places


_CLEAR, _SAME = 1e-3, 1e-9
"""Rings beside a mitre stay clear of its plane by so many reaches, so that no points meet; a step that is so near, of
the way there, to where a leg begins stands there."""
NO_HOLDS: Holds = {}
JointsAt = dict[int, Joint]
"""Joints by the leg that starts, or ends, at them."""


def rows_of(
    field: FrameField,
    places: list[Floats],
    profile: Profile,
    joints: tuple[JointsAt, JointsAt],
    least: int = 1,
    holds: Holds = NO_HOLDS,
) -> Rows:
    """Rows of all legs from their ring places; those at mitres lie in the corner's plane.

    ``joints``: at the starts and at the ends of legs.

    Beside a mitre, rings with a point beyond the corner plane are dropped (but ``least`` intervals stay) and, on
    legs that bend or roll, one is set at the section's reach before the plane. ``holds``: how far from mitres others
    lie as they do.
    """
    mitred = tuple({i: j for i, j in at.items() if j.kind is JointKind.MITRE} for at in joints)
    starts, ends = mitred
    kept = list(places)
    for i in sorted({*starts, *ends}):
        if len(places[i]) > 2 or not field.legs[i].leg.straight:
            kept[i] = _kept_places(field, i, places[i], profile, (starts.get(i), ends.get(i)), (least, holds))
    held = _held_rings(field, kept, profile, (starts, ends), holds)
    if len(profile.steps):
        kept = [_doubled(p, profile.steps) for p in kept]
    if len(kept) == 1:
        s, leg, first = kept[0], np.zeros(len(kept[0]), dtype=np.int64), np.array([0, len(kept[0])])
    else:
        counts = np.array([len(p) for p in kept])
        s, leg = np.concatenate(kept), np.repeat(np.arange(len(kept)), counts)
        first = np.concatenate([[0], np.cumsum(counts)])
    frames = frames_on(field, leg, s)
    walls = step_rows(s, first) if len(profile.steps) else ()
    carried = carried_rows(profile, frames.right, frames.up, s, row_sides(first, walls))
    sent = np.zeros((len(s), 1 + 2 * len(profile.basis)))
    if starts or ends:
        at = np.array([*(first[i] for i in starts), *(first[i + 1] - 1 for i in ends)])
        own = ring_coefficients(frames.origin[at], taken_rows(carried, at))
        planes = [*starts.values(), *ends.values()]
        normal, place = np.array([j.normal for j in planes]), np.array([j.place for j in planes])
        sent[at] = sent_to_planes(own, frames.forward[at], normal, place)
        for i, is_start in held:  # as the mitre lies, only farther on
            row, of = (first[i] + 1, first[i]) if is_start else (first[i + 1] - 2, first[i + 1] - 1)
            sent[row] = sent[of]
    return Rows(frames, s, sent, first, carried, walls, _stepped(kept, profile.steps))


def _held_rings(
    field: FrameField, kept: list[Floats], profile: Profile, mitred: tuple[JointsAt, JointsAt], holds: Holds
) -> list[tuple[int, bool]]:
    """Puts a ring beside each mitre of a leg that is a prism among the places, and gives the legs and ends of those."""
    out = list[tuple[int, bool]]()
    for (leg, is_start), distance in holds.items():
        if leg not in mitred[0 if is_start else 1] or not is_prism(field, leg, profile):
            continue
        own = kept[leg]
        kept[leg] = np.insert(own, 1, own[0] + distance) if is_start else np.insert(own, -1, own[-1] - distance)
        out.append((leg, is_start))
    return out


def _stepped(places: Sequence[Floats], steps: Floats) -> tuple[int, ...]:
    """Legs at whose start a step stands."""
    if not len(steps):
        return ()
    near = _SAME * float(places[-1][-1])
    return tuple(i for i, p in enumerate(places) if (np.abs(steps - p[0]) <= near).any())


def step_rows(s: Floats, starts: np.ndarray) -> tuple[int, ...]:
    """Rows whose next one, of the same leg, stands in the same place: a wall joins them."""
    twice = np.flatnonzero(np.diff(s) == 0.0)
    return tuple(int(r) for r in twice if r + 1 not in starts)


def sent_to_planes(coefficients: Floats, forward: Vectors3, normal: Vectors3, place: Points3) -> Floats:
    """How far along their legs (n, 1 + 2 j) the points of rings go into planes (n, 3): linear in x and y."""
    along: Floats = -np.einsum("ncd,nd->nc", coefficients, normal)
    along[:, 0] = dot(place - coefficients[:, 0], normal)
    along /= dot(forward, normal)[:, None]
    return along


def _kept_places(
    field: FrameField,
    leg: int,
    places: Floats,
    profile: Profile,
    joints: tuple[Joint | None, Joint | None],
    wanted: tuple[int, Holds],
) -> Floats:
    """The places of a leg's rings between mitres; ``wanted``: the fewest intervals, and holding rings."""
    (start, end), (least, holds) = joints, wanted
    s0, s1 = float(places[0]), float(places[-1])
    inner = [places[1:-1]]
    turns = not is_prism(field, leg, profile)
    for joint, edge, sign in ((start, s0, 1.0), (end, s1, -1.0)):
        if joint is None or not turns:
            continue
        clear = max(_CLEAR * profile.reach, holds.get((leg, sign > 0), 0.0))
        beyond = edge + sign * (mitre_reach(field, leg, joint, profile, edge, sign) + clear)
        if s0 < beyond < s1:
            inner.append(np.array([beyond]))
    inside = np.unique(np.concatenate(inner))
    fr = frames_at(field, leg, inside)
    carried = carried_rows(profile, fr.right, fr.up, inside, np.full(len(inside), float(StepSide.AFTER)))
    keep = np.ones(len(inside), dtype=bool)
    for joint, sign in ((start, 1.0), (end, -1.0)):
        if joint is None:
            continue
        offset = sign * ((fr.origin - joint.place) @ joint.normal)
        across = np.broadcast_to(joint.normal, fr.right.shape)
        lowest = offset + (sign * extents(carried, across, profile.flat_points)).min(1)
        held = 0.0 if turns else holds.get((leg, sign > 0), 0.0)  # the holding ring lies between them and the mitre
        far = 2.0 * profile.reach * _stretch(joint, field, leg) + held
        near = np.abs(inside - (s0 if sign > 0 else s1)) <= far
        keep &= ~(near & (lowest < 0.5 * _CLEAR * profile.reach + held * float(fr.forward[0] @ joint.normal)))
    if keep.sum() + 1 < least:
        return np.linspace(s0, s1, least + 1)
    return np.concatenate([[s0], inside[keep], [s1]])


def _stretch(joint: Joint, field: FrameField, leg: int) -> float:
    """How many section reaches a mitre extends along its leg, at most."""
    f = field.legs[leg]
    t = f.curve.tangent[0 if joint.after == leg else -1]
    c = float(t @ joint.normal)
    return max(1.0, float(np.sqrt(max(0.0, 1.0 - c * c))) / max(c, 1e-9))
