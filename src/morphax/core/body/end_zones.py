"""The ends of a run: domes, and first rings that are cut to a host."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from morphax.core.body.ends import Cut, Dome, EndPlace, Fineness, chamfer_of, dome_of, dome_radius
from morphax.core.body.inset import insets_of
from morphax.core.body.nearby import HostQuery, Nearby
from morphax.core.body.prisms import is_prism
from morphax.core.body.profile import Profile
from morphax.core.body.recipe import MOST_SEGMENTS, End, Ends
from morphax.core.body.ring_places import ring_density
from morphax.core.findings import Finding, Severity, in_mm
from morphax.core.frame.frames import FrameField, frames_at
from morphax.core.path.resolved import ResolvedPath
from morphax.core.types import Points3, Vectors3, frozen

AUTO_SHARE = 1.0 / 150.0
_THINNEST = 1e-9
"""A dome has a radius of more than this share of the outline's reach."""
_HALF = 0.4995
"""An end's zone takes so much of its leg: two of them leave a band of faces that have a size."""
_FAR = (4.0, 16.0, 64.0, np.inf)
"""An end looks for its host within so many reaches along its way; farther where some of its points met nothing."""


def path_ends(path: ResolvedPath, field_: FrameField) -> tuple[EndPlace, ...]:
    """The start and end of a run that is shown whole; none where it is closed."""
    if path.chain.closed:
        return ()
    last, (a, b) = len(field_.legs) - 1, (field_.legs[0].s, field_.legs[-1].s)
    rooms = [_HALF * float(s[-1] - s[0]) for s in (a, b)]
    return (EndPlace(0, float(a[0]), True, rooms[0], 0), EndPlace(last, float(b[-1]), False, rooms[1], last))


def domes_of(
    path: ResolvedPath, field_: FrameField, profile: Profile, ends: Ends, places: Sequence[EndPlace], deviation: float
) -> tuple[tuple[Dome, ...], list[Finding]]:
    """The domes and chamfers of a run that starts and stops at ``places``, and notes on those that are smaller."""
    domes, notes = list[Dome](), list[Finding]()
    for place in places:
        kind, wanted = (ends.start, ends.start_radius) if place.is_start else (ends.end, ends.end_radius)
        if not kind.is_inset:
            continue
        radius, said = _inset_radius(profile, place, wanted, _END_WORDS[kind], path.end_word(is_start=place.is_start))
        notes += said
        asked = ends.start_segments if place.is_start else ends.end_segments
        least = _least_segments(field_, profile, place, radius, deviation) if radius and asked is None else 1
        if radius and kind is End.DOMED:
            fine = Fineness(deviation, asked, least)
            domes.append(dome_of(field_, profile, radius, fine, place))
        elif radius:
            domes.append(chamfer_of(field_, profile, radius, asked or least, place))
    return tuple(domes), notes


def _least_segments(field: FrameField, profile: Profile, place: EndPlace, radius: float, deviation: float) -> int:
    """How many segments a dome or chamfer needs because the path bends, or the section turns, over its length."""
    if is_prism(field, place.leg, profile):
        return 1
    s, density = ring_density(field, place.leg, profile, deviation)
    at = place.at + (0.5 if place.is_start else -0.5) * radius * np.linspace(0.0, 2.0, 9)
    return int(np.clip(np.ceil(0.5 * np.pi * radius * float(np.interp(at, s, density).max())), 1, MOST_SEGMENTS))


_END_WORDS = {End.DOMED: "dome", End.CHAMFERED: "chamfer"}


def _inset_radius(
    profile: Profile, place: EndPlace, wanted: float | None, word: str, where: str
) -> tuple[float, list[Finding]]:
    """The radius of a dome or chamfer, m, 0 where it has none; and what is to be said of it."""

    def said(code: str, message: str) -> list[Finding]:
        return [Finding(code, Severity.NOTE, message, place.at)]

    outline = place.outline(profile)
    if profile.is_ribbon:
        return 0.0, said("no-dome", f"The {where} ends open: a ribbon has no inside for a {word}.")
    if not all(outline.round_length):
        return 0.0, said("no-dome", f"The {where} ends flat: one of its outlines is a point there.")
    insets, least = insets_of(outline), _THINNEST * outline.reach
    if any(p.most <= 0.0 for p in insets):
        return 0.0, said("no-dome", f"The {where} ends flat: its outline crosses itself there.")
    most = dome_radius(insets, wanted)
    radius = min(most, place.room)
    if not radius > least:
        why = f"there is no room for a {word} beside the corner" if most > least else f"it is too thin for a {word}"
        return 0.0, said("no-dome", f"The {where} ends flat: {why}.")
    if wanted is not None and radius < wanted * (1.0 - 1e-9):
        fits = f"{in_mm(radius)}: {in_mm(wanted)} does not fit"
        return radius, said("dome-reduced", f"The {word} at the {where} has a radius of {fits}.")
    if radius < most:
        fits = f"{in_mm(radius)}: the run is too short for more"
        return radius, said("dome-reduced", f"The {word} at the {where} has a radius of {fits}.")
    if any(p.splits and p.most < radius * (1.0 + 1e-9) for p in insets):
        ends = f"{in_mm(radius)}: farther in, its outline would fall apart"
        return radius, said("dome-ends", f"The {word} at the {where} ends at {ends}.")
    return radius, []


def cuts_of(
    path: ResolvedPath, field_: FrameField, profile: Profile, ends: Ends, places: Sequence[EndPlace], near: Nearby
) -> tuple[tuple[Cut, ...], list[Finding]]:
    """The ends that are cut to the host, and what is to be said of those that don't meet it."""
    cuts, notes = list[Cut](), list[Finding]()
    for place in places:
        if (ends.start if place.is_start else ends.end) is not End.CUT:
            continue
        where = path.end_word(is_start=place.is_start)
        cut = None if near.host is None else _cut(field_, profile, near.host, place, ends.cut_along)
        if cut is None:
            message = f"The {where} meets no host, so it ends flat."
            notes.append(Finding("no-host-hit", Severity.WARNING, message, place.at))
            continue
        cuts.append(cut)
        missed = int(np.isnan(cut.along).sum())
        if missed:
            message = f"{missed} of {len(cut.along)} points of the {where} pass the host by; they end flat."
            notes.append(Finding("no-host-hit", Severity.WARNING, message, place.at))
    return tuple(_filled(c) for c in cuts), notes


def _filled(cut: Cut) -> Cut:
    return replace(cut, shift=frozen(np.nan_to_num(cut.shift)), along=frozen(np.nan_to_num(cut.along)))


def _cut(field_: FrameField, profile: Profile, host: HostQuery, place: EndPlace, way: str) -> Cut | None:
    """Sends the flat ring's points from inside the run back to the first face that they meet."""
    is_start, own = place.is_start, field_.legs[place.leg].s
    frame = frames_at(field_, place.leg, np.array([place.at]))
    sampled = place.outline(profile)
    inward = frame.forward[0] if is_start else -frame.forward[0]  # from the end into the run
    ring = frame.origin[0] + sampled.points[:, :1] * frame.right[0] + sampled.points[:, 1:] * frame.up[0]
    back = -inward
    if way == "normal":
        back = -host.nearest(frame.origin)[1][0]
        if float(back @ -inward) < 0.17:  # the host's face runs along the path: its normal leads nowhere
            return None
    half, lean = 0.5 * float(own[-1] - own[0]), max(float(back @ -inward), 0.17)
    tries = [min(f * sampled.reach, half) for f in _FAR]
    shift = _first_whole(host, ring, back, [far / lean for far in tries])
    along = shift @ inward
    if np.isnan(along).all():
        return None
    depth = along
    if way != "path":
        depth = _first_whole(host, ring, -inward, tries) @ inward
    into = np.nan_to_num(np.concatenate([along, depth])).max()
    return Cut(is_start, shift, along, max(0.0, float(into)), place.rows)


def _first_whole(host: HostQuery, ring: Points3, back: Vectors3, rooms: list[float]) -> Vectors3:
    """Shifts (s, 3) m to the host from the first of some distances that leaves no point without one, else the most."""
    best = _to_host(host, ring, back, rooms[0])
    for room in rooms[1:]:
        missed = int(np.isnan(best).sum())
        if not missed:
            break
        more = _to_host(host, ring, back, room)
        best = more if int(np.isnan(more).sum()) < missed else best
    return best


def _to_host(host: HostQuery, ring: Points3, back: Vectors3, room: float) -> Vectors3:
    """Shifts (s, 3) m of points along ``back`` to the host, from ``room`` m before them; nan where they miss it."""
    distance = host.hits(ring - room * back, np.broadcast_to(back, ring.shape).copy(), 2.0 * room)
    return (distance - room)[:, None] * back


def cut_range(cut: Cut, span: tuple[float, float], reach: float) -> tuple[float, float]:
    """The stretch of the end's leg on which rings may stand, beyond the cut; the end's own ring is apart from it."""
    a, b = span
    room = min(cut.into + 0.1 * reach, 0.75 * (b - a))
    return (a + room, b) if cut.is_start else (a, b - room)
