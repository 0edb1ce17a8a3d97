"""Ends whose ring leans: angled ones, cut by a plane, and returns, which go on round a mitre to the run's wall."""

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from math import cos, pi, sin, tan
from typing import Any

import numpy as np

from morphax.core.body.carried import CarriedRows, carried_rows, extents, joined_rows, ring_coefficients, taken_rows
from morphax.core.body.ends import EndPlace
from morphax.core.body.joints import Joint, JointKind
from morphax.core.body.profile import Profile, StepSide
from morphax.core.body.recipe import End, Ends
from morphax.core.body.rings import Rows, end_row, sent_to_planes
from morphax.core.findings import Finding, Severity, in_mm
from morphax.core.frame.frames import FrameField, Frames, frames_on
from morphax.core.path.resolved import ResolvedPath
from morphax.core.types import Floats, Ints, Vectors3

USUAL = 0.25 * pi
"""The angle of an angled end where none was typed; a return always has it."""
_EVEN = 1e-9
"""An anchor that is so near to the middle, of the width, is in it."""
_CLEAR = 1e-3
"""Rings stay so many reaches clear of an end that leans."""


@dataclass(frozen=True, eq=False)
class LeaningEnd:
    """An end whose ring lies in a plane: its side ``way`` (3,), across the path, ends at the run's end, ``most`` m from
    the path, and the side opposite, ``least`` m from it, ``into`` m before. ``slope``: how far it goes back for each m
    across. ``is_returned``: from there it goes on to a wall beyond the side opposite."""

    place: EndPlace
    way: Vectors3
    most: float
    least: float
    slope: float
    is_returned: bool

    @property
    def into(self) -> float:
        return self.slope * (self.most - self.least)

    def plane(self, frames: Frames) -> tuple[Vectors3, Vectors3]:
        """Normal (1, 3) and a place (1, 3) of the plane, where the path's frames are those of the end."""
        sign = 1.0 if self.place.is_start else -1.0
        return frames.forward + sign * self.slope * self.way, frames.origin + self.most * self.way


def leaning_ends(
    path: ResolvedPath, field: FrameField, profile: Profile, ends: Ends, places: Sequence[EndPlace]
) -> tuple[tuple[LeaningEnd, ...], list[Finding]]:
    """The ends that lean, and notes on those that lean less than was asked for, or not at all."""
    found, notes = list[LeaningEnd](), list[Finding]()
    for place in places:
        kind, angle, turn = (
            (ends.start, ends.start_angle, ends.start_turn)
            if place.is_start
            else (ends.end, ends.end_angle, ends.end_turn)
        )
        if not kind.leans:
            continue
        if field.fixed is not None:
            message = f"The {path.end_word(is_start=place.is_start)} ends flat: a fixed section does not lean."
            notes.append(Finding("no-lean", Severity.NOTE, message, place.at))
            continue
        own = _end_at(field, profile, place, turn)
        is_returned, where = kind is End.RETURNED, path.end_word(is_start=place.is_start)
        asked = tan(USUAL if angle is None or is_returned else angle)
        wide = own.most - own.least
        slope = min(asked, place.room / wide) if wide > 0.0 else 0.0
        if is_returned and slope < asked:
            message = f"The {where} ends flat: there is no room for a return of {in_mm(wide)}."
            notes.append(Finding("no-return", Severity.NOTE, message, place.at))
            continue
        if slope < asked:
            message = f"The {where} goes back by {in_mm(slope * wide)} only: {in_mm(asked * wide)} does not fit."
            notes.append(Finding("angle-reduced", Severity.NOTE, message, place.at))
        if slope > 0.0:
            found.append(replace(own, slope=slope, is_returned=is_returned))
    return tuple(found), notes


def _at_end(field: FrameField, profile: Profile, place: EndPlace) -> tuple[Frames, CarriedRows]:
    at, side = np.array([place.at]), StepSide.AFTER if place.is_start else StepSide.BEFORE
    frames = frames_on(field, np.array([place.leg]), at)
    return frames, carried_rows(profile, frames.right, frames.up, at, np.array([float(side)]))


def _end_at(field: FrameField, profile: Profile, place: EndPlace, turn: float | None) -> LeaningEnd:
    """Which side of the ring goes to the end: by its turn from the section's up, rad, else that beyond the anchor."""
    _, carried = _at_end(field, profile, place)
    (x, y), (c, n) = (carried.x[0], carried.y[0]), place.turned
    x, y = c * x + n * y, c * y - n * x
    if turn is None:
        reach = extents(carried, carried.x, profile.flat_points)[0]
        way = x if reach.max() + reach.min() >= -_EVEN * np.ptp(reach) else -x
    else:
        way = cos(turn) * y - sin(turn) * x
    far = extents(carried, way[None], profile.flat_points)[0]
    return LeaningEnd(place, way, float(far.max()), float(far.min()), 0.0, is_returned=False)


def leaned(rows: Rows, ends: Sequence[LeaningEnd]) -> Rows:
    """Rows of which those at the ends lie in the planes of these."""
    if not ends:
        return rows
    sent = rows.sent.copy()
    for end in ends:
        at = np.array([end_row(rows, end.place.rows, is_start=end.place.is_start)])
        frames = _taken(rows.frames, at)
        normal, place = end.plane(frames)
        own = ring_coefficients(frames.origin, taken_rows(rows.carried, at))
        sent[at] = sent_to_planes(own, frames.forward, normal, place)
    return replace(rows, sent=sent)


def clear_of(end: LeaningEnd, reach: float) -> float:
    """How far from the end the run's other rings begin, m."""
    return end.into + _CLEAR * reach


# -- returns ---------------------------------------------------------------------------------------


@dataclass(frozen=True, eq=False)
class Returned:
    """Rows with the legs of returns among them: the first and last leg of each stretch, joints, how each old leg is
    numbered now, and the pairs of rows that share points: that at the mitre, and that at the wall."""

    rows: Rows
    pieces: tuple[tuple[int, int], ...]
    joints: tuple[Joint, ...]
    number: Ints
    pairs: tuple[tuple[int, int], ...]


def with_returns(
    rows: Rows, ends: Sequence[LeaningEnd], pieces: Sequence[tuple[int, int]], joints: Sequence[Joint]
) -> Returned:
    """Adds a leg of two rows for each end that returns: one in the plane of its mitre, one at the wall."""
    before = {e.place.rows: e for e in ends if e.is_returned and e.place.is_start}
    after = {e.place.rows: e for e in ends if e.is_returned and not e.place.is_start}
    legs = list[Rows]()
    number, links, pairs, count = list[int](), list[Joint](), list[tuple[int, int]](), 0
    for leg, (a, b) in enumerate(zip(rows.starts[:-1].tolist(), rows.starts[1:].tolist(), strict=True)):
        if leg in before:
            wall, mitred = _return_rows(rows, a, before[leg])
            legs.append(_stacked([wall, mitred]))
            links.append(_link(before[leg], len(legs) - 1))
            pairs.append((count + 1, count))
            count += 2
        number.append(len(legs))
        legs.append(_part_of(rows, np.arange(a, b)))
        count += b - a
        if leg in after:
            wall, mitred = _return_rows(rows, b - 1, after[leg])
            legs.append(_stacked([mitred, wall]))
            links.append(_link(after[leg], len(legs) - 2))
            pairs.append((count, count + 1))
            count += 2
    new = np.array(number)
    moved = np.cumsum([0, *(len(v.s) for v in legs)])
    shifted = [int(moved[new[leg]] - rows.starts[leg]) for leg in range(len(new))]
    leg_of = np.searchsorted(rows.starts, list(rows.steps), side="right") - 1
    steps = tuple(r + shifted[k] for r, k in zip(rows.steps, leg_of.tolist(), strict=True))
    made = replace(_stacked(legs), starts=moved, steps=steps, stepped=tuple(int(new[k]) for k in rows.stepped))
    own = tuple((int(new[a]) - (a in before), int(new[b]) + (b in after)) for a, b in pieces)
    kept = tuple(replace(j, before=int(new[j.before]), after=int(new[j.after])) for j in joints)
    return Returned(made, own, (*kept, *links), new, tuple(pairs))


def _link(end: LeaningEnd, before: int) -> Joint:
    return Joint(before, before + 1, JointKind.MITRE, np.zeros(3), end.way, 0.0, end.place.at)


def _return_rows(rows: Rows, row: int, end: LeaningEnd) -> tuple[Rows, Rows]:
    """The ring at the wall, and that in the mitre's plane as the return sees it."""
    at = np.array([row])
    own, carried, forward = _taken(rows.frames, at), taken_rows(rows.carried, at), rows.frames.forward[row]
    sign, way = (-1.0 if end.place.is_start else 1.0), end.way

    def turned(v: Floats) -> Floats:
        """What went away from the wall goes along the run now."""
        out: Floats = v + (v @ way)[:, None] * (sign * forward - way)
        return out

    origin = own.origin + end.least * way - sign * end.most * forward
    offset = None if carried.offset is None else turned(carried.offset)
    lying = replace(carried, x=turned(carried.x), y=turned(carried.y), offset=offset)
    bent = (np.zeros_like(own.curvature), np.zeros_like(own.roll_rate))
    frames = Frames(origin, turned(own.right), turned(own.up), -sign * way[None], *bent)
    flat = Rows(frames, rows.s[at], np.zeros_like(rows.sent[at]), np.array([0, 1]), lying)
    normal, place = end.plane(own)
    sent = sent_to_planes(ring_coefficients(origin, lying), frames.forward, normal, place)
    return flat, replace(flat, sent=sent)


def _part_of(rows: Rows, at: Ints) -> Rows:
    return Rows(
        _taken(rows.frames, at), rows.s[at], rows.sent[at], np.array([0, len(at)]), taken_rows(rows.carried, at)
    )


def _stacked(parts: Sequence[Rows]) -> Rows:
    """Rows one after the other, as one leg."""
    s, sent = (np.concatenate([getattr(p, n) for p in parts]) for n in ("s", "sent"))
    frames = _joined([p.frames for p in parts])
    return Rows(frames, s, sent, np.array([0, len(s)]), joined_rows([p.carried for p in parts]))


def _taken(frames: Frames, at: Ints) -> Frames:
    own: dict[str, Any] = {f.name: getattr(frames, f.name) for f in fields(Frames)}
    taken: dict[str, Any] = {k: None if v is None else v[at] for k, v in own.items()}
    return Frames(**taken)


def _joined(parts: Sequence[Frames]) -> Frames:
    """Frames one after the other; those of a fixed section don't lean, so that none has a tangent."""
    names = ("origin", "right", "up", "forward", "curvature", "roll_rate")
    return Frames(*(np.concatenate([getattr(p, name) for p in parts]) for name in names))
