"""The ends of a run: domes, and first rings that are cut to a host."""

import numpy as np

from morphax.core.body.ends import Cut, Dome, dome_of, dome_radius, end_outline
from morphax.core.body.inset import insets_of
from morphax.core.body.nearby import HostQuery, Nearby
from morphax.core.body.profile import Profile
from morphax.core.body.recipe import End, Ends
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


def domes_of(
    path: ResolvedPath, field_: FrameField, profile: Profile, ends: Ends, deviation: float
) -> tuple[tuple[Dome, ...], list[Finding]]:
    """The domes of an open run, and notes on those that had to be smaller than was asked for."""
    wishes = ((ends.start, ends.start_radius, True), (ends.end, ends.end_radius, False))
    if path.chain.closed or End.DOMED not in (ends.start, ends.end) or profile.is_ribbon:
        return (), []
    domes, notes = [], []
    for end, wanted, is_start in wishes:
        if end is not End.DOMED:
            continue
        own = field_.legs[0 if is_start else -1].s
        outline = end_outline(field_, profile, is_start=is_start)
        if not all(outline.round_length):
            message = f"The {path.end_word(is_start=is_start)} ends flat: one of its outlines is a point there."
            notes.append(Finding("no-dome", Severity.NOTE, message, float(own[0] if is_start else own[-1])))
            continue
        insets = insets_of(outline)
        most, room = dome_radius(insets, wanted), _HALF * float(own[-1] - own[0])
        radius = min(most, room)
        where, edge = path.end_word(is_start=is_start), float(own[0] if is_start else own[-1])
        if not radius > _THINNEST * outline.reach:
            notes.append(Finding("no-dome", Severity.NOTE, f"The {where} ends flat: it is too thin for a dome.", edge))
            continue
        if wanted is not None and radius < wanted * (1.0 - 1e-9):
            message = f"The dome at the {where} has a radius of {in_mm(radius)}: {in_mm(wanted)} does not fit."
            notes.append(Finding("dome-reduced", Severity.NOTE, message, edge))
        elif radius < most:
            message = f"The dome at the {where} has a radius of {in_mm(radius)}: the run is too short for more."
            notes.append(Finding("dome-reduced", Severity.NOTE, message, edge))
        elif any(p.splits and p.most < radius * (1.0 + 1e-9) for p in insets):
            message = f"The dome at the {where} ends at {in_mm(radius)}: farther in, its outline would fall apart."
            notes.append(Finding("dome-ends", Severity.NOTE, message, edge))
        domes.append(dome_of(field_, outline, radius, deviation, is_start=is_start))
    return tuple(domes), notes


def cuts_of(
    path: ResolvedPath, field_: FrameField, profile: Profile, ends: Ends, near: Nearby
) -> tuple[tuple[Cut, ...], list[Finding]]:
    """The ends that are cut to the host, and what is to be said of those that don't meet it."""
    cuts, notes = list[Cut](), list[Finding]()
    if path.chain.closed:
        return (), []
    for end, is_start in ((ends.start, True), (ends.end, False)):
        if end is not End.CUT:
            continue
        where, edge = path.end_word(is_start=is_start), field_.legs[0].s[0] if is_start else field_.legs[-1].s[-1]
        cut = None if near.host is None else _cut(field_, profile, near.host, is_start, ends.cut_along)
        if cut is None:
            message = f"The {where} meets no host, so it ends flat."
            notes.append(Finding("no-host-hit", Severity.WARNING, message, float(edge)))
            continue
        cuts.append(cut)
        missed = int(np.isnan(cut.along).sum())
        if missed:
            message = f"{missed} of {len(cut.along)} points of the {where} pass the host by; they end flat."
            notes.append(Finding("no-host-hit", Severity.WARNING, message, float(edge)))
    return tuple(_filled(c) for c in cuts), notes


def _filled(cut: Cut) -> Cut:
    along = np.nan_to_num(cut.along)
    return Cut(cut.is_start, frozen(np.nan_to_num(cut.shift)), frozen(along), cut.into)


def _cut(field_: FrameField, profile: Profile, host: HostQuery, is_start: bool, way: str) -> Cut | None:
    """Sends the flat ring's points from inside the run back to the first face that they meet."""
    leg, k = (0, 0) if is_start else (len(field_.legs) - 1, -1)
    own = field_.legs[leg].s
    frame = frames_at(field_, leg, own[[k]])
    sampled = end_outline(field_, profile, is_start=is_start)
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
    return Cut(is_start, shift, along, max(0.0, float(into)))


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
