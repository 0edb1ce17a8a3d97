"""Sets of pieces of a run: what stands where along it, made from its frames and its profile."""

from collections.abc import Sequence
from dataclasses import replace
from math import pi

import numpy as np

from morphax.core.body.profile import Profile
from morphax.core.frame.frames import FrameField
from morphax.core.path.resolved import ResolvedPath
from morphax.core.pieces.between import between_transforms, foot_ends, other_ends
from morphax.core.pieces.copies import Copies
from morphax.core.pieces.placing import jittered, piece_transforms
from morphax.core.pieces.rules import PiecePlacing, PieceRule
from morphax.core.pieces.seats import Outlines, Seats, moved_to, on_outline, outlines_at, path_seats
from morphax.core.pieces.shape import shape_of
from morphax.core.pieces.spreads import Marks, check_count, places_of
from morphax.core.types import Flags, Floats, frozen

Pair = tuple[float, float]
_NEAR = 1e-9


def copies_of(
    path: ResolvedPath,
    field_: FrameField,
    profile: Profile,
    rule: PieceRule,
    marks: Marks,
    deviation: float,
) -> Copies:
    """The pieces of a set on a whole run, or from it to the path that ``marks`` lead to.

    Each is as large as the section's reach where it sits makes it, but one whose sizes are typed. Raises PathError
    where there would be too many, or where sizes do not fit each other.
    """
    closed, length, to = path.chain.closed, path.length, marks.other
    first = np.array([rule.spread.start.at(length)])
    reach = _outlines(field_, profile, first, closed=closed)[1].reach
    shape = shape_of(rule, marks, float(reach[0]), deviation)
    mesh = shape.mesh
    at = places_of(rule.spread, length, shape.long, marks, closed=closed, interlocks=shape.interlocks)
    times = _times(rule.placing)
    check_count(len(at) * times)
    s, jitter = jittered(rule.placing, at, length, closed=closed)
    if not len(s):
        return Copies(mesh if shape.plain is None else shape.plain, frozen(np.empty((0, 3, 4))), at)
    seats, outlines = _outlines(field_, profile, s, closed=closed, upright=rule.placing.upright)
    scale = np.ones(len(s)) if shape.is_fixed else outlines.reach / reach
    seats = _seated(seats, outlines, rule.placing)
    wanted = wanted_of(at, rule.out, length, closed=closed)
    left_out = frozen(np.unique(s[~wanted]))
    s, jitter, scale = (np.repeat(v, times, axis=0) for v in (s, jitter, scale))
    kept = np.repeat(wanted, times)
    far = np.empty(0)
    if to is None:
        made = piece_transforms(seats, rule.placing, jitter, scale)
        if marks.foot is not None:
            ends, far = foot_ends(seats, rule.placing, marks.foot)
            drawn, meets = between_transforms(seats, ends, mesh, rule.placing, (jitter, scale, *shape.axes))
            far = np.where(meets, far, np.nan)
            made = np.where(np.isfinite(far)[:, None, None], drawn, made)
    else:
        ends = other_ends(path, to, s, seats.origin, rule.match)
        made, is_there = between_transforms(seats, ends, mesh, rule.placing, (jitter, scale, *shape.axes))
        kept &= is_there
    far = frozen(far[kept] if len(far) else far)
    return Copies(mesh, frozen(made[kept]), frozen(s[kept]), shape.plain, shape.sizes, left_out, far)


def wanted_of(at: Floats, out: Sequence[float], length: float, *, closed: bool) -> Flags:
    """Which of the pieces at distances (n,), m, are wanted: all but those nearest to where none is; a place that has no
    piece within half a spacing of it takes none."""
    wanted = np.ones(len(at), dtype=np.bool_)
    if not out or not len(at):
        return wanted
    own = at % length if closed else at
    gap = 0.5 * (float(np.ptp(at)) / (len(at) - 1) if len(at) > 1 else length)
    for share in out:
        far = np.abs(own - share * length)
        far = np.minimum(far, length - far) if closed else far
        k = int(far.argmin())
        wanted[k] &= far[k] > gap * (1.0 + _NEAR)
    return wanted


def marks_of(path: ResolvedPath, stations: Sequence[float], other: ResolvedPath | None = None) -> Marks:
    """Where knots, corners and stations of a run are, m, and the path that its pieces lead to."""
    return Marks(path.knot_at, corners_of(path), frozen(np.array(stations, dtype=np.float64)), other)


def corners_of(path: ResolvedPath) -> Floats:
    """Distances of a path's corners, m: of those that are rounded in the middle of their arcs."""
    arc, m = path.chain.arc, len(path.chain.spans)
    found = np.flatnonzero(path.sharp)
    if arc.size:
        knots = path.chain.knots
        knots = knots[knots < m] if path.chain.closed else knots[(knots > 0) & (knots < m)]
        found = np.union1d(found, knots[(arc[knots] > 0) & (arc[knots - 1] == arc[knots])])
    return frozen(path.table.at_knots[found])


def shown_copies(copies: Copies, stretches: Sequence[Pair], length: float) -> Copies:
    """Those that stand within stretches, m, whose ends may go on beyond the length; all where there are none."""
    if not stretches:
        return copies
    near, at = _NEAR * length, copies.at
    shown = np.any([(at + lap >= a - near) & (at + lap <= b + near) for a, b in stretches for lap in (0.0, length)], 0)
    far = copies.far[shown] if len(copies.far) else copies.far
    return replace(copies, transforms=frozen(copies.transforms[shown]), at=frozen(at[shown]), far=frozen(far))


def _times(placing: PiecePlacing) -> int:
    return placing.times if placing.is_outside else 1


def _outlines(
    field_: FrameField, profile: Profile, s: Floats, *, closed: bool, upright: bool = False
) -> tuple[Seats, Outlines]:
    seats = path_seats(field_, s, upright=upright, closed=closed)
    return seats, outlines_at(field_, profile, s, seats, closed=closed)


def _seated(seats: Seats, outlines: Outlines, placing: PiecePlacing) -> Seats:
    """Where pieces sit; on the outline so many of them round it at each place, one after the other."""
    if placing.on == "path":
        return seats
    if placing.on == "middle":
        return moved_to(seats, outlines.middle)
    n, times = len(seats), placing.times
    each = np.repeat(np.arange(n, dtype=np.int32), times)
    angles = placing.around + 2.0 * pi * np.tile(np.arange(times), n) / times
    own = Seats(*(getattr(seats, k)[each] for k in ("origin", "right", "up", "forward", "differs")))
    seen = outlines.boxes if placing.on == "box" else outlines
    return on_outline(own, seen.taken(each), angles)
