"""What is shown of a run: the rings of a range, cut out of the whole run, with the run's own ends."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from morphax.core.body.cutting import Cutting
from morphax.core.body.end_pieces import end_pieces
from morphax.core.body.end_zones import cuts_of, domes_of
from morphax.core.body.layout import PlacedRings
from morphax.core.body.leaning_ends import LeaningEnd, clear_of, leaned, leaning_ends, with_returns
from morphax.core.body.nearby import Nearby
from morphax.core.body.pointed_ends import point_zones
from morphax.core.body.profile import Profile
from morphax.core.body.recipe import Ends
from morphax.core.body.stretches import LegPart, Pair, leg_parts
from morphax.core.frame.frames import FrameField, frames_on
from morphax.core.path.resolved import ResolvedPath
from morphax.core.types import Floats, frozen

_SAME = 1e-9
"""Places nearer than this share of the length are one."""
Whole = tuple[ResolvedPath, FrameField, Profile, PlacedRings]


def shown_rings(whole: Whole, stretches: Sequence[Pair], ends: Ends, deviation: float, near: Nearby) -> PlacedRings:
    """The rings of some stretches of a run, each with the run's own ends; nothing of the whole is made again.

    Ends that are cut to a host are so where the path itself ends, and flat elsewhere.
    """
    path, field, profile, placed = whole
    asked = stretches
    cutting = Cutting(placed, field, profile)
    stretches, at_ends, smaller = end_pieces(path, cutting, ends, stretches, deviation)
    made = [cutting.segments(s) for s in stretches]
    places = cutting.ends(stretches, made)
    domes, notes = domes_of(path, field, profile, ends, places, deviation)
    zones, shorter = point_zones(path, ends, stretches, places, profile.first_width)
    edges = {n: (seg.a, seg.b) for n, seg in enumerate(s for own in made for s in own) if isinstance(seg, LegPart)}
    for dome in domes:
        a, b = edges[dome.leg]
        edges[dome.leg] = (a + dome.depth, b) if dome.is_start else (a, b - dome.depth)
    own = [p for p in places if not path.chain.closed and p.at in (0.0, float(field.legs[-1].s[-1]))]
    cuts, said = cuts_of(path, field, profile, ends, own, near)
    counts = np.concatenate([[0], np.cumsum([len(v) for v in made])]).tolist()
    pieces = tuple((a, b - 1) for a, b in zip(counts[:-1], counts[1:], strict=True))
    leaning, less = leaning_ends(path, field, profile, ends, places)
    clear = {(e.place.rows, e.place.is_start): clear_of(e, profile.reach) for e in leaning}
    rows = leaned(cutting.rows(made, edges, (zones, clear), deviation), leaning)
    joints = cutting.joints(made)
    kept = tuple(f for f in placed.findings if f.at is None)
    shown = tuple((float(a), float(b)) for a, b in asked)
    notes = [*kept, *notes, *shorter, *said, *less, *smaller]
    out = PlacedRings(rows, joints, tuple(notes), domes, cuts, False, pieces, shown, pieces_at_ends=at_ends)
    return _returned(out, leaning) if any(e.is_returned for e in leaning) else out


def _returned(shown: PlacedRings, leaning: Sequence[LeaningEnd]) -> PlacedRings:
    """With the legs of returns: what is numbered by legs is so anew."""
    made = with_returns(shown.rows, leaning, shown.pieces, shown.joints.items)
    return replace(
        shown,
        rows=made.rows,
        pieces=made.pieces,
        joints=replace(shown.joints, items=made.joints),
        domes=tuple(replace(d, leg=int(made.number[d.leg])) for d in shown.domes),
        cuts=tuple(replace(c, leg=int(made.number[c.leg])) for c in shown.cuts),
        met=made.pairs,
    )


def is_shown(at: float | None, shown: PlacedRings, path: ResolvedPath) -> bool:
    """Whether what is found at a distance lies on what is shown."""
    if at is None:
        return True
    near, laps = _SAME * path.length, (0.0, path.length)
    return any(a - near <= at + lap <= b + near for a, b in shown.stretches for lap in laps)


def ends_and_axes(field: FrameField, stretches: Sequence[Pair]) -> tuple[Floats, Floats]:
    """Where the path is (2, 3) at the first and the last end that is shown, and right, up and forward at the first."""
    first, last = leg_parts(field, stretches[0])[0], leg_parts(field, stretches[-1])[-1]
    frames = [frames_on(field, np.array([p.leg]), np.array([at])) for p, at in ((first, first.a), (last, last.b))]
    one = frames[0]
    places = np.concatenate([f.origin for f in frames])
    return frozen(places), frozen(np.concatenate([one.right, one.up, one.forward]))
