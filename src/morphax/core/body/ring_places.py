"""Ring places: where along each leg the mesh has rings."""

from collections import Counter
from dataclasses import dataclass
from heapq import heapify, heapreplace

import numpy as np

from morphax.core.body.carried import block_vectors, carried_rows, ring_coefficients, ring_speeds, side_speeds
from morphax.core.body.profile import Profile, StepSide
from morphax.core.errors import DensityError
from morphax.core.frame.frames import FrameField, Frames, frames_at
from morphax.core.kernels.measuring import track_gaps, track_speeds
from morphax.core.path.legs import Stretch, place_distance
from morphax.core.types import Flags, Floats
from morphax.core.vectors import dot

_MOST_ROUNDS = 12
MOST_FACES, _MOST_BREAKS = 20_000_000, 200_000
"""A run with more faces, or places where its section changes at once, is refused."""
_BLOCK = 8192
_VARYING, _APART = 16, 1e-9
"""Samples between two known places of a leg on which the profile varies; known places are farther apart than this share
of it."""


@dataclass(frozen=True)
class RingRule:
    """How rings are asked for: within a ``deviation`` of the true surface, as a ``count``, by ``spacing``, m, or so
    many intervals ``per_span`` between two knots.
    """

    deviation: float | None = None
    count: int | None = None
    spacing: float | None = None
    per_span: int | None = None

    def __post_init__(self) -> None:
        if sum(v is not None for v in (self.deviation, self.count, self.spacing, self.per_span)) != 1:
            raise DensityError("rings are set by deviation, by count, by spacing or per span, one of the four")
        if self.per_span is not None and self.per_span < 1:
            raise DensityError(f"rings per span is {self.per_span}; it must be 1 or more")
        if self.spacing is not None and not self.spacing > 0.0:
            raise DensityError(f"spacing is {self.spacing:g} m; it must be more than 0")
        if self.deviation is not None and not self.deviation > 0.0:
            raise DensityError(f"deviation is {self.deviation:g} m; it must be more than 0")
        if self.count is not None and self.count < 2:
            raise DensityError(f"rings is {self.count}; a run has 2 or more")


def _row_frames(field: FrameField, leg: int, profile: Profile) -> tuple[Floats, Frames]:
    """Distances at which a leg's density is found, and frames there: its samples; more of them on a varying profile."""
    f = field.legs[leg]
    if profile.is_even:
        return f.s, field.sampled(leg)
    a, b = float(f.s[0]), float(f.s[-1])
    known = np.unique(np.concatenate([f.s, profile.breaks[(profile.breaks > a) & (profile.breaks < b)]]))
    known = known[np.append(True, np.diff(known) > _APART * (b - a))]
    known[-1] = b
    share = np.arange(_VARYING) / _VARYING
    s = np.append((known[:-1, None] + np.diff(known)[:, None] * share).ravel(), known[-1])
    return s, frames_at(field, leg, s)


def ring_density(field: FrameField, leg: int, profile: Profile, deviation: float) -> tuple[Floats, Floats]:
    """Distances (q,) along a leg and rings per metre there, so that tracks stay within half the deviation of chords.

    Chord error h^2 m / 8 <= d / 2, with m the largest second derivative across the track; a roll rate adds
    reach (rate^2 + |its change|), a profile that varies adds twice its speed in the ring times the curvature and the
    change of that speed. The twist of quads needs side change x h / 4 <= d / 2.
    """
    s, frames = _row_frames(field, leg, profile)
    if frames.tangent is not None and profile.is_even:  # fixed: every track is the path itself, moved
        return s, np.sqrt(np.sqrt(dot(frames.curvature, frames.curvature)) / (4.0 * deviation))
    side = np.full(len(s), float(StepSide.AFTER))
    side[-1] = float(StepSide.BEFORE)
    rows = carried_rows(profile, frames.right, frames.up, s, side)
    curvature = np.sqrt(dot(frames.curvature, frames.curvature))
    most = np.pi / np.maximum(np.gradient(s), 1e-300)  # at a cusp: no more than half a turn between samples
    share = most / np.maximum(curvature, most)
    bend = np.einsum("rkc,rc->rk", block_vectors(rows), share[:, None] * frames.curvature)
    speed = np.ones(len(s)) if frames.tangent is not None else track_speeds(bend, profile.tracks)
    if rows.offset is not None and frames.tangent is None:
        speed = speed + np.abs(dot(rows.offset, share[:, None] * frames.curvature))
    bent = share * curvature * np.maximum(speed, 1.0)
    rate = frames.roll_rate + rows.laws.roll_rate
    breaks = np.isin(s, profile.breaks)
    if rate.any():
        bent = bent + profile.reach * (rate**2 + np.abs(_change(rate, s, breaks)))
    twist = profile.longest_side * np.abs(rate)
    moving = ring_speeds(rows, profile.tracks)
    if moving.any():
        bent = bent + 2.0 * moving * (curvature + np.abs(rate)) + np.abs(_change(moving, s, breaks))
        twist = twist + side_speeds(rows, profile)
    chord: Floats = np.sqrt(bent / (4.0 * deviation))
    return s, np.maximum(chord, 0.5 * twist / deviation)


def _change(values: Floats, s: Floats, breaks: Flags) -> Floats:
    """How fast values (r,) change along distances (r,), per m, on the side of each of the ``breaks`` (r,) that comes
    after it: over a break itself nothing is a change."""
    if len(s) < 2:
        return np.zeros_like(values)
    long = np.diff(s)
    slope = np.diff(values) / long
    left, right = np.append(0.0, slope), np.append(slope, 0.0)
    before, after = np.append(0.0, long), np.append(long, 0.0)
    has_left, has_right = (before > 0.0) & ~breaks, (after > 0.0) & ~np.append(breaks[1:], False)
    mean = (after * left + before * right) / (before + after)
    out: Floats = np.where(has_left & has_right, mean, np.where(has_left, left, np.where(has_right, right, 0.0)))
    return out


def check_faces(faces: float) -> None:
    """Raises DensityError where a density would make more faces than a run may have."""
    if faces > MOST_FACES:
        raise DensityError(f"this would make about {faces / 1e6:.0f} million faces; 20 million is the limit")


def _by_integral(s: Floats, density: Floats, cuts: Floats, *, least: int, sides: int) -> Floats:
    """Places between each two of ``cuts`` (m,), at equal shares of the density's integral, and the cuts themselves."""
    x = np.union1d(cuts, s[(s > cuts[0]) & (s < cuts[-1])])
    rho, at = np.interp(x, s, density), np.searchsorted(x, cuts)
    before = rho[1:].copy()  # the density may jump at a cut: what holds just before counts up to there
    alone = at[1:][np.diff(at) > 2]
    before[alone - 1] = rho[alone - 1]
    total = np.concatenate([[0.0], np.cumsum(0.5 * (rho[:-1] + before) * np.diff(x))])
    each = np.diff(total[at])
    count = np.maximum(least, np.ceil(each - 1e-9)).astype(np.int64)
    check_faces(float(count.sum()) * sides)
    k = np.repeat(np.arange(len(count)), count)
    step = np.arange(len(k)) - (np.cumsum(count) - count)[k]
    evenly = cuts[k] + step * ((cuts[1:] - cuts[:-1]) / count)[k]
    wanted = total[at[k]] + step * (each / count)[k]
    places = np.where((count[k] == 1) | (each[k] <= 0.0), evenly, np.interp(wanted, total, x))
    places[step == 0] = cuts[:-1]
    return np.append(places, cuts[-1])


def _failing(
    field: FrameField, leg: int, profile: Profile, places: Floats, which: np.ndarray, allowed: float
) -> np.ndarray:
    """Which of the intervals ``which`` have a track farther than ``allowed`` from its chord, or twist too much."""
    a, b = places[which], places[which + 1]
    steps = np.array([0.0, 0.25, 0.5, 0.75, 1.0])
    s = a[:, None] + (b - a)[:, None] * steps
    s[:, -1] = b  # to the bit, or it is beyond a step
    s = s.ravel()
    side = np.tile([1.0, 1.0, 1.0, 1.0, -1.0], len(which))
    fr = frames_at(field, leg, s)
    rows = carried_rows(profile, fr.right, fr.up, s, side)
    rings = ring_coefficients(fr.origin, rows)
    gap = track_gaps(rings.reshape(len(which), len(steps), -1), profile.tracks)
    rate = np.abs(fr.roll_rate + rows.laws.roll_rate).reshape(len(which), 5).max(1)
    twist = profile.longest_side * rate + side_speeds(rows, profile).reshape(len(which), 5).max(1)
    bad: np.ndarray = (gap > allowed**2) | (0.25 * twist * (b - a) > allowed)
    return bad


def _refined(field: FrameField, leg: int, profile: Profile, places: Floats, allowed: float) -> Floats:
    """Splits intervals that miss the deviation, again and again; stops after 12 rounds (1/4096 of a step)."""
    which = np.arange(len(places) - 1)
    for _ in range(_MOST_ROUNDS):
        blocks = [which[i : i + _BLOCK] for i in range(0, len(which), _BLOCK)]
        bad = which[np.concatenate([_failing(field, leg, profile, places, b, allowed) for b in blocks])]
        if not len(bad):
            break
        places = np.insert(places, bad + 1, 0.5 * (places[bad] + places[bad + 1]))
        shifted = bad + np.arange(len(bad))
        which = np.sort(np.concatenate([shifted, shifted + 1]))
    return places


def ring_places(
    field: FrameField, profile: Profile, rule: RingRule, ranges: list[tuple[float, float]], *, least: int
) -> tuple[list[Floats], int]:
    """Distances of the rings of every leg, within its ``ranges`` (start, end), m, and how many were forced.

    Straight, unvarying legs get two rings; others ``least`` intervals or more (a closed run needs three in all,
    or its faces would lie on each other). A count is for the whole run, evenly by distance.
    """
    if len(profile.breaks) > _MOST_BREAKS:
        raise DensityError(f"the section would change {len(profile.breaks)} times along the run; 200 000 is the limit")
    if rule.spacing is not None:
        return _spaced(field, profile, rule.spacing, ranges, least=least), 0
    if rule.per_span is not None:
        return [_per_span(field, i, rule.per_span, span, least) for i, span in enumerate(ranges)], 0
    if rule.deviation is None:
        check_faces((rule.count or 2) * profile.size)
        return _counted(field, profile, rule.count or 2, ranges, least=least)
    return [_within(field, i, profile, rule.deviation, span, least) for i, span in enumerate(ranges)], 0


def _within(
    field: FrameField, leg: int, profile: Profile, deviation: float, span: tuple[float, float], least: int
) -> Floats:
    """Places of one leg by deviation; where straight and curved stretches meet there is always a ring."""
    f = field.legs[leg]
    is_even = profile.is_even and (field.is_even or not (f.slope.any() or f.ease.any()))
    if f.leg.straight and is_even:
        return np.array(span)
    s, density = ring_density(field, leg, profile, deviation)
    s, density = (s, density) if len(s) > 2 else (np.array(span), density[[0, -1]])
    parts = []
    for stretch, cuts in _cut_stretches(field, leg, profile, span):
        straight = stretch is not None and stretch.straight and is_even
        own = least if len(cuts) == 2 and cuts[0] == span[0] and cuts[-1] == span[1] else 1
        parts.append(cuts if straight else _by_integral(s, density, cuts, least=own, sides=profile.size))
    places = _joined(parts) if parts else np.array(span)
    while len(places) - 1 < least:
        k = int(np.argmax(np.diff(places)))
        places = np.insert(places, k + 1, 0.5 * (places[k] + places[k + 1]))
    return _refined(field, leg, profile, places, 0.5 * deviation)


def _cut_stretches(
    field: FrameField, leg: int, profile: Profile, span: tuple[float, float]
) -> list[tuple[Stretch | None, Floats]]:
    """The straight and curved stretches of a leg within a span, and where each is cut: at its ends, and where the
    profile breaks."""
    found = list[tuple[Stretch | None, Floats]]()
    for stretch in field.legs[leg].leg.stretches or (None,):
        a, b = span if stretch is None else _clipped(field, stretch, span)
        if a < b:
            within = profile.breaks[(profile.breaks > a) & (profile.breaks < b)]
            found.append((stretch, np.concatenate([[a], within, [b]])))
    return found


def _clipped(field: FrameField, stretch: Stretch, span: tuple[float, float]) -> tuple[float, float]:
    a, b = (float(place_distance(field.table, k)) for k in (stretch.first, stretch.last))
    return max(a, span[0]), min(b, span[1])


def _joined(parts: list[Floats]) -> Floats:
    """Places one after the other, the shared ones once."""
    return np.concatenate([parts[0], *(p[1:] for p in parts[1:])])


def _per_span(field: FrameField, leg: int, count: int, span: tuple[float, float], least: int) -> Floats:
    """Each span between two knots of a leg divided evenly by distance; a rounded corner is a span of its own."""
    own = field.legs[leg].leg
    m = field.table.spans.shape[-3]
    arcs = [s for s in own.stretches if s.arc]
    places = {k for k in own.knots if not any(s.first < k < s.last for s in arcs)}
    places |= {k for s in arcs for k in (s.first, s.last)}
    edges = [float(place_distance(field.table, k)) for k in sorted(places)]
    cuts = [span[0], *(d for d in edges if span[0] < d < span[1]), span[1]]
    each = max(count, -(-least // (len(cuts) - 1)))
    halves = {float(place_distance(field.table, s.first)) for s in arcs if s.first in (0, m) or s.last in (m, 2 * m)}
    return _joined(
        [
            np.linspace(a, b, (-(-each // 2) if a in halves and len(cuts) > 2 else each) + 1)
            for a, b in zip(cuts[:-1], cuts[1:], strict=True)
        ]
    )


@dataclass(frozen=True)
class _Piece:
    """A stretch of a leg between forced places; ``bends`` is 0 where it runs straight on."""

    leg: int
    start: float
    end: float
    bends: float


def _pieces(field: FrameField, profile: Profile, ranges: list[tuple[float, float]]) -> list[_Piece]:
    """The stretches of all legs between places at which a ring is held: where arcs and straight stretches meet.

    A stretch bends by the integral of the ring density over it.
    """
    out = list[_Piece]()
    for leg, span in enumerate(ranges):
        found = _cut_stretches(field, leg, profile, span)
        if not found:
            out.append(_Piece(leg, *span, 0.0))
            continue
        s, density = ring_density(field, leg, profile, 1.0)
        whole = np.concatenate([[0.0], np.cumsum(0.5 * (density[1:] + density[:-1]) * np.diff(s))])
        for stretch, cuts in found:
            is_plain = stretch is not None and stretch.straight and profile.is_even and field.is_even
            bends = np.zeros(len(cuts) - 1) if is_plain else np.diff(np.interp(cuts, s, whole))
            pairs = zip(cuts[:-1].tolist(), cuts[1:].tolist(), bends.tolist(), strict=True)
            out += [_Piece(leg, a, b, own) for a, b, own in pairs]
    return out


def _divided(pieces: list[_Piece], counts: list[int], legs: int) -> list[Floats]:
    """Places of every leg, each of its pieces divided evenly."""
    return [
        _joined([np.linspace(p.start, p.end, n + 1) for p, n in zip(pieces, counts, strict=True) if p.leg == leg])
        for leg in range(legs)
    ]


def _spaced(
    field: FrameField, profile: Profile, spacing: float, ranges: list[tuple[float, float]], *, least: int
) -> list[Floats]:
    """Each stretch between forced places divided evenly, by the nearest whole number of spacings."""
    check_faces(sum(b - a for a, b in ranges) / spacing * profile.size)
    pieces = _pieces(field, profile, ranges)
    alone = Counter(p.leg for p in pieces)
    counts = [max(least if alone[p.leg] == 1 else 1, round((p.end - p.start) / spacing)) for p in pieces]
    return _divided(pieces, _at_least(pieces, counts, least), len(ranges))


def _at_least(pieces: list[_Piece], counts: list[int], least: int) -> list[int]:
    """The counts, with no leg of fewer than ``least`` intervals in all."""
    out = list(counts)
    for leg in {p.leg for p in pieces}:
        own = [i for i, p in enumerate(pieces) if p.leg == leg]
        while sum(out[i] for i in own) < least:
            out[max(own, key=lambda i: (pieces[i].end - pieces[i].start) / out[i])] += 1
    return out


def least_intervals(legs: int, *, closed: bool) -> int:
    """Fewest intervals a leg: a closed run has three or more in all."""
    return -(-3 // legs) if closed else 1


def _counted(
    field: FrameField, profile: Profile, count: int, ranges: list[tuple[float, float]], *, least: int
) -> tuple[list[Floats], int]:
    """Places for a count of the whole run, and how many rings had to be added: forced places come first.

    Each further ring goes to the stretch that bends most for its rings; where nothing bends, to the longest.
    """
    wanted = count if least == 3 else count - 1
    if len(ranges) == 1 and len(field.legs[0].leg.stretches) < 2:
        return [np.linspace(*ranges[0], max(least, wanted) + 1)], max(0, least - wanted)
    pieces = _pieces(field, profile, ranges)
    counts = _at_least(pieces, [1] * len(pieces), least)
    spare = wanted - sum(counts)
    if spare > 0:
        bends = [p.bends for p in pieces]
        weights = bends if max(bends) > 0.0 else [p.end - p.start for p in pieces]
        open_ = [(-w / n, i) for i, (w, n) in enumerate(zip(weights, counts, strict=True))]
        heapify(open_)
        for _ in range(spare):
            i = open_[0][1]
            counts[i] += 1
            heapreplace(open_, (-weights[i] / counts[i], i))
    return _divided(pieces, counts, len(ranges)), max(0, -spare)
