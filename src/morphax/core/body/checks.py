"""Checks of paths and runs: pure functions that return findings and repair nothing."""

from collections.abc import Sequence
from math import degrees, radians, sin

import numpy as np

from morphax.core.body.carried import carried_rows, extents
from morphax.core.body.prisms import is_prism
from morphax.core.body.profile import LEAST_STRETCH, Profile, StepSide
from morphax.core.body.rings import Rows, ring_points
from morphax.core.body.tips import inner_tips, loop_tips
from morphax.core.findings import Finding, Severity, in_mm, spot
from morphax.core.frame.frames import FrameField
from morphax.core.kernels.measuring import largest_square, most_turned
from morphax.core.types import Floats, Ints, Points3, Vectors3
from morphax.core.vectors import cross, dot, unit

EDGE_ON = radians(5.0)
"""A fixed section nearer than this to lying along the path is flat there."""


_MOST_SAID = 12
"""Of more places of one kind only the first is said, and how many there are."""
_SEEN = 1e-4
"""Turned faces are said from this share of the reach squared on."""
COARSE = radians(60.0)
"""A path that turns by more between two rings is not followed."""


def pinches(field: FrameField, profile: Profile, width: float) -> tuple[Finding, ...]:
    """Bends whose inside the body runs into: reach x curvature >= 1 to that side; the worst of each stretch."""
    out = []
    for i, f in enumerate(field.legs):
        if f.leg.straight or field.fixed is not None:
            continue
        if largest_square(f.samples, 12) * profile.reach**2 < 1.0:
            continue  # nowhere does the path bend as tightly as the section reaches, whichever way it is turned
        fr = field.sampled(i)
        rows = carried_rows(profile, fr.right, fr.up, f.s, np.full(len(f.s), float(StepSide.AFTER)))
        load = extents(rows, fr.curvature, profile.outermost).max(1)
        edges = np.flatnonzero(np.diff(np.concatenate([[False], load >= 1.0, [False]]).astype(int)))
        for a, b in zip(edges[::2], edges[1::2], strict=True):
            k = a + int(np.argmax(load[a:b]))
            at = float(f.s[k]) % float(field.table.total)
            free = width / float(load[k])
            radius = 1.0 / float(np.sqrt(fr.curvature[k] @ fr.curvature[k]))
            message = (
                f"The bend at {in_mm(at)} has a radius of {in_mm(radius)}, too tight for the body: "
                f"it would be free up to {in_mm(free)} wide."
            )
            out.append(Finding("pinch", Severity.WARNING, message, at, free, spot(fr.origin[k])))
    return tuple(out)


def nothing_left(rows: Rows, *, closed: bool) -> tuple[Finding, ...]:
    """Where laws make nothing of the section: inside a run its size, or only its width or height. Of many places the
    first is said, and how many there are."""

    def said(code: str, at: Sequence[int], message: str) -> list[Finding]:
        more = f" So it is at {len(at)} places." if len(at) > _MOST_SAID else ""
        out = []
        for row in at[:1] if more else at:
            where = float(rows.s[row])
            place = spot(rows.frames.origin[row])
            out.append(Finding(code, Severity.WARNING, message.format(in_mm(where)) + more, where, place=place))
        return out

    point = "The size is nothing at {}: the body comes to a point there."
    found = said("no-size", inner_tips(rows, closed=closed), point)
    stretch = rows.carried.laws.stretch
    for axis, word in enumerate(("width", "height") if stretch is not None else ()):
        thin = rows.carried.laws.stretches[:, axis] <= LEAST_STRETCH
        begins = np.flatnonzero(thin & ~np.append(False, thin[:-1])).tolist()
        found += said(f"no-{word}", begins, f"The {word} comes to nothing at {{}}: it stays a thin edge there.")
    return tuple(found)


def alone(rows: Rows, profile: Profile) -> tuple[Finding, ...]:
    """Where outlines or holes that have no partner shrink to points."""
    out = dict[int, str]()
    for row, a, _ in loop_tips(rows, profile):
        out[row] = "hole" if profile.loops.hole[profile.loops.starts.index(a)] and row not in out else "outline"
    first = [r for r in sorted(out) if r - 1 not in out]
    return tuple(
        Finding(
            "no-partner",
            Severity.NOTE,
            f"One {out[r]} of the section has no partner at {in_mm(float(rows.s[r]))}: it is a point there.",
            float(rows.s[r]),
            place=spot(rows.frames.origin[r]),
        )
        for r in first
    )


def edge_on(field: FrameField) -> tuple[Finding, ...]:
    """Stretches where a *fixed* section lies within 5 degrees of edge-on to the path; the worst place of each."""
    if field.fixed is None:
        return ()
    out = []
    for f in field.legs:
        along = f.curve.tangent @ field.fixed[2]
        lean, low = np.abs(along), np.abs(along) < sin(EDGE_ON)
        turns = np.flatnonzero(along[1:] * along[:-1] < 0.0)  # it is edge-on between two samples
        low[turns + (lean[turns + 1] < lean[turns])] = True
        edges = np.flatnonzero(np.diff(np.concatenate([[False], low, [False]]).astype(int)))
        for a, b in zip(edges[::2], edges[1::2], strict=True):
            k = a + int(np.argmin(lean[a:b]))
            at = float(f.s[k]) % float(field.table.total)
            message = f"At {in_mm(at)} the path runs along the fixed section, so the body is flat there."
            out.append(Finding("edge-on", Severity.WARNING, message, at, place=spot(f.curve.point[k])))
    return (*out, *_folds(field))


def _folds(field: FrameField) -> list[Finding]:
    """Corners at which a path with a *fixed* section turns back through it without lying along it."""
    if field.fixed is None:
        return []
    legs = field.legs if _closes(field) else field.legs[:-1]
    out = []
    for i, f in enumerate(legs):
        onward = field.legs[(i + 1) % len(field.legs)]
        before, after = (float(t @ field.fixed[2]) for t in (f.curve.tangent[-1], onward.curve.tangent[0]))
        if before * after < 0.0 and min(abs(before), abs(after)) >= sin(EDGE_ON):
            at = float(f.s[-1]) % float(field.table.total)
            message = f"At {in_mm(at)} the path turns back through the fixed section: the body folds over itself."
            out.append(Finding("edge-on", Severity.WARNING, message, at, place=spot(f.curve.point[-1])))
    return out


def _closes(field: FrameField) -> bool:
    gap = field.legs[-1].curve.point[-1] - field.legs[0].curve.point[0]
    return bool(np.abs(gap).max() <= 1e-9 * float(field.table.total))


def coarse(field: FrameField, rows: Rows) -> tuple[Finding, ...]:
    """Rings so far apart that the path turns by more than 60 degrees between two of them, whole turns included."""
    worst, at = COARSE, 0.0
    for i, f in enumerate(field.legs):
        if f.leg.straight:
            continue
        s = rows.s[rows.starts[i] : rows.starts[i + 1]]
        turn, k = most_turned(s, f.s, field.turned_by(i))
        if turn > worst:
            worst, at = turn, float(0.5 * (s[k] + s[k + 1]))
    if worst <= COARSE:
        return ()
    at %= float(field.table.total) or 1.0
    message = (
        f"The path turns by {degrees(worst):.0f} degrees between two rings at {in_mm(at)}: the body misses its bend."
    )
    return (Finding("coarse", Severity.NOTE, message, at),)


def short_legs(rows: Rows, profile: Profile, width: float, total: float) -> tuple[Finding, ...]:
    """Legs between mitres that are too short on the inner side."""
    first, last = rows.starts[:-1], rows.starts[1:] - 1
    if len(first) < 2 and not (rows.distance[0, 1:].any() or rows.distance[-1, 1:].any()):
        return ()
    leans = rows.distance[first, 1:].any(1) | rows.distance[last, 1:].any(1)  # others end across the path
    if not leans.any():
        return ()
    out, first, last = [], first[leans], last[leans]
    left = (rows.distance[last] - rows.distance[first]) @ np.c_[np.ones(profile.size), profile.flat_points].T
    length = rows.s[last] - rows.s[first]
    for k in np.flatnonzero((left.min(1) <= 0.0) & (length > 0.0)):
        free = width * float(length[k]) / float(length[k] - left[k].min())
        at = float(0.5 * (rows.s[first[k]] + rows.s[last[k]])) % total
        message = f"The leg at {in_mm(at)} is too short for its corners: it would be free up to {in_mm(free)} wide."
        middle = 0.5 * (rows.frames.origin[first[k]] + rows.frames.origin[last[k]])
        out.append(Finding("short-leg", Severity.WARNING, message, at, free, spot(middle)))
    return tuple(out)


def folds(field: FrameField, rows: Rows, profile: Profile, mitred: Sequence[int]) -> tuple[Finding, ...]:
    """Faces beside a mitre that are turned over or have no length, on legs (``mitred``) that bend or roll.

    Found on the tracks of the section's points from ring to ring; the worst place of each leg.
    """
    out = []
    for leg in mitred:
        if is_prism(field, leg, profile):
            continue  # a prism between planes: short legs are found by themselves
        own = slice(rows.starts[leg], rows.starts[leg + 1])
        points = ring_points(rows.coefficients[own], profile.flat_points)
        forward = rows.frames.forward[own]
        onward = np.einsum("rnc,rc->rn", points[1:] - points[:-1], forward[1:] + forward[:-1]).min(1) / profile.reach
        onward = np.minimum(onward, _SEEN - _turned(points, forward, profile) / profile.reach**2)
        onward[[r - own.start for r in rows.steps if own.start <= r < own.stop - 1]] = np.inf  # a wall stands there
        k = int(np.argmin(onward))
        if onward[k] > 2e-7:
            continue
        at = float(0.5 * (rows.s[own][k] + rows.s[own][k + 1])) % float(field.table.total)
        code, what = ("turned-over", "Faces are turned over") if onward[k] < 0.0 else ("points-meet", "Points meet")
        message = f"{what} at {in_mm(at)}: the body is too wide for the bend beside its corner."
        middle = 0.5 * (rows.frames.origin[own][k] + rows.frames.origin[own][k + 1])
        out.append(Finding(code, Severity.WARNING, message, at, place=spot(middle)))
    return tuple(out)


def bevel_folds(
    field: FrameField, rows: Rows, profile: Profile, bevels: Sequence[tuple[int, int]], closing: Ints | None = None
) -> tuple[Finding, ...]:
    """Wedges with faces that are turned over, where the legs' rings are rolled against each other at a corner.

    ``bevels``: legs before and after; ``closing``: the points of the first ring that the last one meets.
    """
    out = []
    for before, after in bevels:
        a, b = rows.starts[before + 1] - 1, rows.starts[after]
        rings = ring_points(rows.coefficients[[a, b]], profile.flat_points)
        if after == 0 and closing is not None:
            rings[1] = rings[1][closing]
        if _turned(rings, rows.frames.forward[[a, b]], profile)[0] > _SEEN * profile.reach**2:
            at = float(field.legs[before].s[-1]) % float(field.table.total)
            message = f"Faces are turned over at {in_mm(at)}: the legs' sections are turned against each other there."
            out.append(
                Finding("turned-over", Severity.WARNING, message, at, place=spot(field.legs[after].curve.point[0]))
            )
    return tuple(out)


def _turned(rings: Points3, forward: Vectors3, profile: Profile) -> Floats:
    """(r-1,) the largest area of a face between two rings (r, n, 3) that looks inwards, m2; less than 0: none does."""
    worst = np.full(len(rings) - 1, -np.inf)
    for sl, ends in zip(profile.loops.loop_slices, profile.loops.opens, strict=True):
        here = rings[:, sl]
        side = np.roll(here, -1, axis=1) - here
        if ends:
            here, side = here[:, :-1], side[:, :-1]
        face = 0.5 * cross(here[1:] + side[1:] - here[:-1], here[:-1] + side[:-1] - here[1:])
        outward = cross(np.broadcast_to(forward[:, None], here.shape), side)
        worst = np.maximum(worst, -dot(face, unit(outward[1:] + outward[:-1])).min(1))
    return worst
