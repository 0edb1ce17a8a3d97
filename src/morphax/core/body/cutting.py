"""A run cut to its range: rows of the whole run as they are, with rings of their own where a stretch begins or stops.

Where a mitre is near, the ring of a stretch's end leans as much towards the mitre as it is near, so that a body that
grows never jumps; within a bevel it goes from its one side to the other.
"""

from collections.abc import Mapping, Sequence
from dataclasses import fields, replace
from math import pi
from typing import Any

import numpy as np

from morphax.core.body.carried import CarriedRows, carried_rows, joined_rows, ring_coefficients, taken_rows
from morphax.core.body.ends import EndPlace
from morphax.core.body.joints import Joint, JointKind, Joints
from morphax.core.body.layout import PlacedRings, closing_shift
from morphax.core.body.pointed_ends import PointZone, drawn_in
from morphax.core.body.prisms import is_prism
from morphax.core.body.profile import Profile, StepSide
from morphax.core.body.rings import Rows, ring_points, step_rows
from morphax.core.body.stretches import SAME, Bevels, InCorner, LegPart, Pair, Segment, leg_parts
from morphax.core.body.wedges import fan_between
from morphax.core.frame.frames import FrameField, Frames, frames_on
from morphax.core.types import Flags, Floats, Ints
from morphax.core.vectors import exact_turn, unit

_CLEAR, _HALF = 1e-6, 0.4995
"""Rings keep so many reaches from an end that leans; what an end
may take of its stretch."""


class Leanings:
    """How far the mitres at both ends of each leg reach into it, and how a ring leans there."""

    def __init__(self, whole: PlacedRings, field: FrameField, profile: Profile) -> None:
        self.rows, self.field = whole.rows, field
        flat = np.column_stack([np.ones(profile.size), profile.flat_points])
        self.flat = flat
        first, last = self.rows.starts[:-1], self.rows.starts[1:] - 1
        self.sent = (self.rows.sent[first], self.rows.sent[last])
        far = [np.abs(sent @ flat.T).max(1) for sent in self.sent]
        length = np.array([float(f.s[-1] - f.s[0]) for f in field.legs])
        over = np.maximum((far[0] + far[1]) / length, 1.0)
        self.reach = (far[0] / over, far[1] / over)

    def at(self, leg: int, s: float) -> Floats:
        """(1 + 2 j,) how far points of a ring there are sent along the leg."""
        own = self.field.legs[leg].s
        out = np.zeros(self.rows.sent.shape[1])
        for k, away in ((0, s - float(own[0])), (1, float(own[-1]) - s)):
            reach = float(self.reach[k][leg])
            if away < reach:
                out += (1.0 - max(away, 0.0) / reach) * self.sent[k][leg]
        return out

    def room(self, leg: int, s: float, *, is_start: bool) -> float:
        """How far a ring's own stretch goes on straight from there into the run, m; 0 where it leans."""
        own = self.field.legs[leg].s
        near = (s - float(own[0]), float(own[-1]) - s)
        if any(near[k] < self.reach[k][leg] - SAME for k in (0, 1)):
            return 0.0
        k = 1 if is_start else 0
        return max(0.0, near[k] - float(self.reach[k][leg]))


Zones = Sequence[Sequence[PointZone]]
Clear = Mapping[tuple[int, bool], float]
"""By segment, and whether it is its start: how far from there its other rings begin, m."""


class Cutting:
    """Cuts the rows of a whole run to stretches of it."""

    def __init__(self, whole: PlacedRings, field: FrameField, profile: Profile) -> None:
        self.whole, self.field, self.profile = whole, field, profile
        self.leanings = Leanings(whole, field, profile)
        self.total = float(field.table.total)
        self.turned = (1.0, 0.0)
        if whole.closed:
            self.turned = exact_turn(-2.0 * pi * closing_shift(field, profile) / profile.symmetry)
        self.bevels = Bevels(field, whole.joints, profile.reach)

    # -- where stretches begin and stop ----------------------------------------------------------

    def segments(self, stretch: Pair) -> list[Segment]:
        """What a stretch is made of."""
        return self.bevels.segments(stretch)

    def frame_at_end(self, stretch: Pair, *, is_start: bool) -> tuple[float, Frames]:
        """Where on its leg a stretch begins or stops, m, and the frame of the ring there, which may lean or lie within
        a bevel: a section set along its right and up is in the ring's plane."""
        segment = self.segments(stretch)[0 if is_start else -1]
        if isinstance(segment, InCorner):
            ring = corner_ring(self.whole, segment, self.turned)
            return float(segment.joint.at), ring.frames
        at = segment.a if is_start else segment.b
        frames, sent = frames_on(self.field, np.array([segment.leg]), np.array([at])), self.leanings.at(segment.leg, at)
        return at, self._leaned(frames, at, sent) if sent.any() else frames

    def _leaned(self, frames: Frames, at: float, sent: Floats) -> Frames:
        """The frame of a ring that leans: what its points are sent along their leg is linear in right and up."""
        rows = carried_rows(self.profile, frames.right, frames.up, np.array([at]), np.zeros(1))
        around = ring_points(ring_coefficients(frames.origin, rows), self.profile.flat_points)[0] - frames.origin
        known = np.column_stack([np.ones(len(around)), around @ frames.right[0], around @ frames.up[0]])
        along, x, y = np.linalg.lstsq(known, self.leanings.flat @ sent, rcond=1e-9)[0]
        right, up = frames.right + x * frames.forward, frames.up + y * frames.forward
        forward = unit(frames.forward - x * frames.right - y * frames.up)
        return replace(frames, origin=frames.origin + along * frames.forward, right=right, up=up, forward=forward)

    def ends(self, stretches: Sequence[Pair], made: Sequence[Sequence[Segment]]) -> list[EndPlace]:
        """The places where stretches begin and stop; legs are counted on through all segments."""
        out, count = list[EndPlace](), 0
        for stretch, segments in zip(stretches, made, strict=True):
            parts = leg_parts(self.field, stretch)
            for part, segment, is_start in ((parts[0], segments[0], True), (parts[-1], segments[-1], False)):
                own = part if isinstance(segment, InCorner) else segment
                at = own.a if is_start else own.b
                straight = 0.0 if isinstance(segment, InCorner) else self._room(own, at, is_start=is_start)
                room = min(_HALF * (own.b - own.a), straight)
                rows = count if is_start else count + len(segments) - 1
                turned = self.turned if own.lap else (1.0, 0.0)
                out.append(EndPlace(own.leg, at, is_start, room, rows, turned))
            count += len(segments)
        return out

    def _room(self, part: LegPart, at: float, *, is_start: bool) -> float:
        """How far an end's zone may go: at the path's own ends as in the whole run."""
        if not self.whole.closed and at in (0.0, float(self.field.legs[-1].s[-1])):
            return part.b - part.a
        return self.leanings.room(part.leg, at, is_start=is_start)

    # -- rows ------------------------------------------------------------------------------------

    def rows(
        self, made: Sequence[Sequence[Segment]], edges: dict[int, Pair], special: tuple[Zones, Clear], deviation: float
    ) -> Rows:
        """The rows of all segments; ``edges`` where the rings of each segment begin and stop, m, domes left out;
        ``special``: the zones of pointed ends of each stretch, and how far from an end that leans other rings are."""
        zones, clear = special
        new = _NewRows(self)
        flat = [(segment, segments) for segments in made for segment in segments]
        zones_of = [own for segments, own in zip(made, zones, strict=True) for _ in segments]
        for number, (segment, _) in enumerate(flat):
            if isinstance(segment, InCorner):
                new.add_in_corner(segment)
            else:
                own, far = zones_of[number], (clear.get((number, True), 0.0), clear.get((number, False), 0.0))
                more = [z.places(self.profile.reach, 0.5 * deviation) for z in own]
                places = np.concatenate([np.empty(0), *more]) - segment.lap * self.total
                span = edges.get(number, (segment.a, segment.b))
                places = np.append(places, self._held(segment, span, own, far))
                new.add_part(segment, span, places, far)
        counts = [len(v) for v in new.order]
        laps = np.repeat([segment.lap for segment, _ in flat], counts)
        rows = new.made(laps == 1, self._stepped(flat))
        stretch = np.repeat([k for k, segments in enumerate(made) for _ in segments], counts)
        return self._pointed(rows, rows.s + laps * self.total, stretch, zones)

    def _held(self, part: LegPart, span: Pair, zones: Sequence[PointZone], far: Pair) -> Floats:
        """Where rings are held beside the ends that a stretch has of its own, m."""
        hold, leg = self.whole.hold, self.field.legs[part.leg].s
        if hold is None:
            return np.empty(0)
        (a, b), pointed = span, {z.is_start for z in zones}
        own = min(hold, 0.25 * max(b - a - sum(far), 0.0))
        out = []
        if part.is_first and True not in pointed and (far[0] or part.a > float(leg[0]) + SAME * self.total):
            out.append(a + far[0] + own)
        if part.is_last and False not in pointed and (far[1] or part.b < float(leg[-1]) - SAME * self.total):
            out.append(b - far[1] - own)
        return np.array(out)

    def _pointed(self, rows: Rows, s: Floats, stretch: Ints, zones: Zones) -> Rows:
        """Rows with those of pointed ends drawn in; ``s`` m with laps counted, ``stretch`` of each row."""
        carried, sent = rows.carried, rows.sent
        for k, own in enumerate(zones):
            which = np.flatnonzero(stretch == k)
            for zone in own:
                carried, sent = drawn_in(carried, sent, s[which], which, zone)
        return rows if carried is rows.carried else replace(rows, carried=carried, sent=sent)

    def _stepped(self, flat: Sequence[tuple[Segment, Sequence[Segment]]]) -> tuple[int, ...]:
        own = self.whole.rows.stepped
        return tuple(
            n for n, (seg, of) in enumerate(flat) if isinstance(seg, LegPart) and seg.leg in own and seg is not of[0]
        )

    def joints(self, made: Sequence[Sequence[Segment]]) -> Joints:
        """The joints between segments of one stretch."""
        known = {(j.before, j.after): j for j in self.whole.joints.items}
        out, count = list[Joint](), 0
        for segments in made:
            for k, (one, two) in enumerate(zip(segments[:-1], segments[1:], strict=True)):
                joint = next((s.joint for s in (one, two) if isinstance(s, InCorner)), None)
                if joint is None and isinstance(one, LegPart) and isinstance(two, LegPart):
                    joint = known.get((one.leg, two.leg)) or self._smooth(two)
                assert joint is not None
                out.append(replace(joint, before=count + k, after=count + k + 1))
            count += len(segments)
        return Joints(tuple(out), ())

    def _smooth(self, part: LegPart) -> Joint:
        """Where a closed path without a corner at its start goes on round."""
        curve = self.field.legs[part.leg].curve
        return Joint(0, 0, JointKind.PLAIN, curve.point[0], curve.tangent[0], 0.0, 0.0)


class _NewRows:
    """Rows in the making: some of the whole run's, by their numbers, and new ones after them."""

    def __init__(self, cutting: Cutting) -> None:
        self.cutting, self.base = cutting, cutting.whole.rows
        self.count = len(self.base.s)
        self.order = list[Ints]()
        self.extra = list[Rows]()
        self.near = SAME * cutting.total

    def _new(self, rows: Rows) -> int:
        """Adds a row, and gives its number."""
        self.extra.append(rows)
        return self.count + len(self.extra) - 1

    def add_part(self, part: LegPart, edges: Pair, more: Floats, clear: Pair = (0.0, 0.0)) -> None:
        """A part of a leg, with ``more`` places of rings, m; rings that would cross one that leans are left out, those
        nearer to its ends than ``clear``, m, too."""
        a, b = edges
        lo, hi = int(self.base.starts[part.leg]), int(self.base.starts[part.leg + 1])
        s = self.base.s[lo:hi]
        first = self._edge(part, a, s, StepSide.AFTER) if part.is_first or a > part.a else None
        last = self._edge(part, b, s, StepSide.BEFORE) if part.is_last or b < part.b else None
        low = -np.inf if first is None else a + max(self._beyond(part.leg, a, 1.0), clear[0]) + self.near
        high = np.inf if last is None else b - max(self._beyond(part.leg, b, -1.0), clear[1]) - self.near
        if any(clear) and not is_prism(self.cutting.field, part.leg, self.cutting.profile):
            beyond = [v for v, c in ((a + 2.0 * clear[0], clear[0]), (b - 2.0 * clear[1], clear[1])) if c]
            more = np.concatenate([more, beyond])
        inside: Ints = (lo + np.flatnonzero((s > low) & (s < high))).astype(np.int32)
        inside = self._uncrossed(
            inside[(inside > lo) & (inside < hi - 1)], part.leg, (first, a, clear[0]), (last, b, clear[1])
        )
        ends = [lo if first is None else first], [hi - 1 if last is None else last]
        inner = self._with_more(part, inside[(inside != first) & (inside != last)], more, (max(low, a), min(high, b)))
        self.order.append(np.concatenate([ends[0], inner, ends[1]]))

    def _uncrossed(
        self, inside: Ints, leg: int, first: tuple[int | None, float, float], last: tuple[int | None, float, float]
    ) -> Ints:
        """Without rings that are held beside a mitre, and lean as it does, where one of two new ends crosses them."""
        sent, flat = self.base.sent, self.cutting.leanings.flat
        leans = inside[sent[inside].any(1)]
        if not len(leans):
            return inside
        crossed = np.zeros(len(leans), dtype=np.bool_)
        for (row, at, far), sign in ((first, 1.0), (last, -1.0)):
            if row is None:
                continue
            away = self.base.s[leans, None] - at + (sent[leans] - self.cutting.leanings.at(leg, at)) @ flat.T
            crossed |= (sign * away).min(1) <= far + self.near
        kept: Ints = inside[~np.isin(inside, leans[crossed])]
        return kept

    def _with_more(self, part: LegPart, inside: Ints, more: Floats, between: Pair) -> Ints:
        """Rings between two places, m, with ``more`` of them where there are none yet, in their order."""
        more = np.unique(more[(more > between[0] + self.near) & (more < between[1] - self.near)])
        s = self.base.s[inside]
        if len(s) and len(more):
            more = more[np.abs(more[:, None] - s[None]).min(1) > self.near]
        if not len(more):
            return inside
        new = np.array([self._edge(part, float(at), np.empty(0), StepSide.AFTER) for at in more])
        return np.concatenate([inside, new])[np.argsort(np.concatenate([s, more]), kind="stable")]

    def _beyond(self, leg: int, s: float, sign: float) -> float:
        """How far a ring that leans reaches into the stretch."""
        lean = self.cutting.leanings.at(leg, s)
        if not lean.any():
            return 0.0
        return max(0.0, float((sign * self.cutting.leanings.flat @ lean).max())) + _CLEAR * self.cutting.profile.reach

    def _edge(self, part: LegPart, at: float, s: Floats, side: StepSide) -> int:
        """The number of the ring at a distance of a leg: the whole run's where it has one there, else a new one."""
        near = np.flatnonzero(np.abs(s - at) <= self.near)
        if len(near):
            return int(self.base.starts[part.leg]) + int(near[-1 if side is StepSide.AFTER else 0])
        c, place = self.cutting, np.array([at])
        frames = frames_on(c.field, np.array([part.leg]), place)
        carried = carried_rows(c.profile, frames.right, frames.up, place, np.array([float(side)]))
        return self._new(Rows(frames, place, c.leanings.at(part.leg, at)[None], np.array([0, 1]), carried))

    def add_in_corner(self, blend: InCorner) -> None:
        """A ring between the two sides of a bevel."""
        row = corner_ring(self.cutting.whole, blend, self.cutting.turned)
        self.order.append(np.array([self._new(row)], dtype=np.int64))

    def made(self, on_second_lap: Flags, stepped: tuple[int, ...]) -> Rows:
        """All rows in order; those of a closed path's second lap turned so that they go on from its end."""
        index = np.concatenate(self.order)
        frames, carried, s, sent = self.base.frames, self.base.carried, self.base.s, self.base.sent
        if self.extra:
            frames = _joined_frames([frames, *(r.frames for r in self.extra)])
            carried = joined_rows([carried, *(r.carried for r in self.extra)])
            s, sent = (np.concatenate([v, *(getattr(r, n) for r in self.extra)]) for v, n in ((s, "s"), (sent, "sent")))
        starts = np.concatenate([[0], np.cumsum([len(v) for v in self.order])])
        frames, carried, s, sent = _taken_frames(frames, index), taken_rows(carried, index), s[index], sent[index]
        if on_second_lap.any() and self.cutting.turned != (1.0, 0.0):
            carried = _turned_rows(carried, on_second_lap, self.cutting.turned)
            sent = _turned_sent(sent, on_second_lap, self.cutting.turned)
        return Rows(frames, s, sent, starts, carried, step_rows(s, starts), stepped)


def corner_ring(whole: PlacedRings, blend: InCorner, turned: Pair) -> Rows:
    """The ring between the two sides of a bevel or a fan, a share of the way from its one side to the other.

    ``turned``: the cosine and sine by which a closed run's second lap is turned.
    """
    j, u, base = blend.joint, blend.u, whole.rows
    at = np.array([base.starts[j.before + 1] - 1, base.starts[j.after]])
    frames, carried = _taken_frames(base.frames, at), taken_rows(base.carried, at)
    size = carried.laws.size
    share = float(size[1] / size[0]) if size[0] > 0.0 else 1.0
    if j.after == 0 and whole.closed:
        carried = _turned_rows(carried, np.array([True, False]), (turned[0], -turned[1]))
    first = taken_rows(carried, np.array([0]))
    x, y = (((1.0 - u) * v[:1] + u * share * v[1:]) for v in (carried.x, carried.y))
    own: dict[str, Any] = {f.name: getattr(frames, f.name) for f in fields(Frames)}
    made: dict[str, Any] = {k: None if v is None else (1.0 - u) * v[:1] + u * v[1:] for k, v in own.items()}
    mixed = Frames(**made)
    mixed = replace(mixed, forward=unit(mixed.forward))
    fan = fan_between(base, int(at[0]), int(at[1]), 0.0, 1.0) if j.kind is JointKind.ROUND else None
    if fan is not None:
        ways = {k: fan.turned(u, own[k][:1], are_ways=True) for k in ("right", "up", "forward")}
        mixed = replace(mixed, origin=fan.turned(u, own["origin"][:1]), **ways)
        x, y = (fan.turned(u, v[:1], are_ways=True) for v in (carried.x, carried.y))
    s = np.array([float(j.at) + (2.0 * u - 1.0) * j.set_back])
    sent = np.zeros((1, base.sent.shape[1]))
    return Rows(mixed, s, sent, np.array([0, 1]), replace(first, x=x, y=y))


def _turned_rows(rows: CarriedRows, which: Flags, turned: Pair) -> CarriedRows:
    c, n = turned
    x, y, on = rows.x, rows.y, which[:, None]
    return replace(rows, x=np.where(on, c * x + n * y, x), y=np.where(on, c * y - n * x, y))


def _turned_sent(sent: Floats, which: Flags, turned: Pair) -> Floats:
    c, n = turned
    x, y, out = sent[:, 1::2], sent[:, 2::2], sent.copy()
    out[:, 1::2] = np.where(which[:, None], c * x + n * y, x)
    out[:, 2::2] = np.where(which[:, None], c * y - n * x, y)
    return out


def _taken_frames(frames: Frames, index: Ints) -> Frames:
    own: dict[str, Any] = {f.name: getattr(frames, f.name) for f in fields(Frames)}
    taken: dict[str, Any] = {k: None if v is None else v[index] for k, v in own.items()}
    return Frames(**taken)


def _joined_frames(parts: Sequence[Frames]) -> Frames:
    out: dict[str, Any] = {}
    for f in fields(Frames):
        values = [getattr(p, f.name) for p in parts]
        out[f.name] = None if values[0] is None else np.concatenate(values)
    return Frames(**out)
