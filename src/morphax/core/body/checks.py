"""Checks of paths and runs: pure functions that return findings and repair nothing."""

from math import degrees, radians, sin

import numpy as np

from morphax.core.body.profile import Profile, StepSide, carried_rows, extents
from morphax.core.body.rings import Rows
from morphax.core.findings import Finding, Severity, in_mm, spot
from morphax.core.frame.frames import FrameField
from morphax.core.kernels.measuring import largest_square, least_cosine
from morphax.core.vectors import turn_between

EDGE_ON = radians(5.0)
"""A fixed section nearer than this to lying along the path is flat there."""


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


def edge_on(field: FrameField) -> tuple[Finding, ...]:
    """Stretches where a *fixed* section lies within 5 degrees of edge-on to the path; the worst place of each."""
    if field.fixed is None:
        return ()
    out = []
    for f in field.legs:
        lean = np.abs(f.curve.tangent @ field.fixed[2])
        edges = np.flatnonzero(np.diff(np.concatenate([[False], lean < sin(EDGE_ON), [False]]).astype(int)))
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


def coarse(rows: Rows, total: float) -> tuple[Finding, ...]:
    """Rings so far apart that the path turns by a right angle or more between two of them; the worst place."""
    lean = rows.frames.forward if rows.frames.tangent is None else rows.frames.tangent
    if least_cosine(lean) > 0.1:
        return ()
    turn = turn_between(lean[:-1], lean[1:])
    turn[rows.starts[1:-1] - 1] = 0.0  # from one leg to the next
    k = int(np.argmax(turn))
    worst = float(turn[k])
    if worst < radians(90.0):
        return ()
    at = float(0.5 * (rows.s[k] + rows.s[k + 1])) % (total or 1.0)
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
