"""Checks of paths and runs: pure functions that return findings and repair nothing."""

from dataclasses import replace
from math import degrees, radians, sin

import numpy as np
import shapely

from morphax.core.corner_arcs import corner_arcs
from morphax.core.findings import Finding, Severity, in_mm
from morphax.core.frames import FrameField
from morphax.core.outlines import Loop
from morphax.core.paths import PathShape
from morphax.core.rings import Rows
from morphax.core.section_sampling import SampledSection
from morphax.core.sections import SectionShape
from morphax.core.tolerances import Tolerances
from morphax.core.types import Flags, Floats, Points3
from morphax.core.vectors import dot, lengths, turn_between

EDGE_ON = radians(5.0)
"""A fixed section nearer than this to lying along the path is flat there."""


def _spot(p: Floats) -> tuple[float, float, float]:
    return (float(p[0]), float(p[1]), float(p[2]))


def path_size(knots: Points3) -> float:
    """Largest extent of finite knots (n, 3), m."""
    return float((knots.max(0) - knots.min(0)).max()) if len(knots) else 0.0


def path_errors(path: PathShape) -> tuple[Finding, ...]:
    """Findings of severity error: too few knots, a place that is not finite."""
    n, least = len(path.knots), 3 if path.closed else 2
    if not np.isfinite(path.knots).all():
        bad = int(np.flatnonzero(~np.isfinite(path.knots).all(1))[0])
        return (Finding("not-finite", Severity.ERROR, f"Knot {bad + 1} has a place that is not a finite number."),)
    distinct = n - int(doubled_knots(path).sum())
    if n and distinct < least:
        what = "A closed path" if path.closed else "A path"
        message = f"{what} needs {least} knots in different places; this one has {distinct}."
        return (Finding("too-few-knots", Severity.ERROR, message, place=_spot(path.knots[0])),)
    if not n:
        return (Finding("too-few-knots", Severity.ERROR, "The path has no knots yet."),)
    return ()


def doubled_knots(path: PathShape) -> Flags:
    """(n,) knots that lie where the kept knot before them is (on a closed path also the last where the first is)."""
    limit = Tolerances(path_size(path.knots), 0.0).doubled_knots
    gone = np.zeros(len(path.knots), dtype=bool)
    if len(path.knots) < 2:
        return gone
    near = lengths(path.knots) <= limit
    gone[1:] = near
    if near.any():  # a slow creep of near knots is welded only as far as it stays near its first
        kept = 0
        for i in range(1, len(gone)):
            gone[i] = bool(np.linalg.norm(path.knots[i] - path.knots[kept]) <= limit)
            kept = kept if gone[i] else i
    if path.closed and not gone[-1]:
        gone[-1] = bool(np.linalg.norm(path.knots[-1] - path.knots[0]) <= limit)
    return gone


def welded(path: PathShape) -> PathShape:
    """The path with doubled knots built as one; itself when there are none."""
    gone = doubled_knots(path)
    if not gone.any():
        return path
    keep = ~gone
    steps, handles, radius = (v[keep] if v.size else v for v in (path.steps, path.handles, path.radius))
    return replace(
        path,
        knots=path.knots[keep],
        corner=path.corner[keep],
        curved=path.curved[keep],
        steps=steps,
        handles=handles,
        radius=radius,
    )


def knot_findings(path: PathShape, built: PathShape, at_knots: Floats) -> tuple[Finding, ...]:
    """Doubled knots. ``built`` is the path welded, ``at_knots`` distances of its knots, m."""
    if built is path:
        return ()
    out = []
    gone = doubled_knots(path)
    kept_before = np.cumsum(~gone) - 1
    for i in np.flatnonzero(gone):
        at = float(at_knots[kept_before[i]])
        message = f"Two knots lie on the same spot at {in_mm(at)}; they are built as one."
        out.append(Finding("doubled-knots", Severity.WARNING, message, at, place=_spot(path.knots[i])))
    return tuple(out)


def pinches(field: FrameField, section: SampledSection, width: float) -> tuple[Finding, ...]:
    """Bends whose inside the body runs into: reach x curvature >= 1 to that side; the worst of each stretch."""
    tracks = section.outermost
    out = []
    for i, f in enumerate(field.legs):
        if f.leg.straight or field.fixed is not None:
            continue
        if dot(f.curve.curvature, f.curve.curvature).max() * section.reach**2 < 1.0:
            continue  # nowhere does the path bend as tightly as the section reaches, whichever way it is turned
        fr = field.sampled(i)
        bend = np.stack([dot(fr.curvature, fr.right), dot(fr.curvature, fr.up)], axis=-1)
        load = (bend @ tracks.T).max(1)
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
            out.append(Finding("pinch", Severity.WARNING, message, at, free, _spot(fr.origin[k])))
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
            out.append(Finding("edge-on", Severity.WARNING, message, at, place=_spot(f.curve.point[k])))
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
            out.append(Finding("edge-on", Severity.WARNING, message, at, place=_spot(f.curve.point[-1])))
    return out


def _closes(field: FrameField) -> bool:
    gap = field.legs[-1].curve.point[-1] - field.legs[0].curve.point[0]
    return bool(np.abs(gap).max() <= 1e-9 * float(field.table.total))


def radius_findings(path: PathShape, at_knots: Floats) -> tuple[Finding, ...]:
    """Corner radii that cannot be as they were asked for; ``path`` is welded."""
    if not path.radius.size:
        return ()
    arcs = corner_arcs(path)
    out = []
    for i in np.flatnonzero(arcs.shortened):
        at, asked = float(at_knots[i]), in_mm(float(path.radius[i]))
        message = f"The corner at {in_mm(at)} has a radius of {in_mm(float(arcs.radius[i]))}: {asked} does not fit."
        out.append(Finding("radius-shortened", Severity.NOTE, message, at, place=_spot(path.knots[i])))
    for i in np.flatnonzero(arcs.crooked):
        at = float(at_knots[i])
        message = f"The corner at {in_mm(at)} stays sharp: a radius needs straight legs."
        out.append(Finding("radius-needs-straight", Severity.WARNING, message, at, place=_spot(path.knots[i])))
    return tuple(out)


def coarse(rows: Rows, total: float) -> tuple[Finding, ...]:
    """Rings so far apart that the path turns by a right angle or more between two of them; the worst place."""
    lean = rows.frames.forward if rows.frames.tangent is None else rows.frames.tangent
    if dot(lean[:-1], lean[1:]).min(initial=1.0) > 0.1:
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


def short_legs(rows: Rows, section: SampledSection, width: float, total: float) -> tuple[Finding, ...]:
    """Legs between mitres that are too short on the inner side."""
    first, last = rows.starts[:-1], rows.starts[1:] - 1
    if len(first) < 2 and not rows.distance[[0, -1], 1:].any():
        return ()
    leans = rows.distance[first, 1:].any(1) | rows.distance[last, 1:].any(1)  # others end across the path
    if not leans.any():
        return ()
    out, first, last = [], first[leans], last[leans]
    left = (rows.distance[last] - rows.distance[first]) @ np.c_[np.ones(len(section.points)), section.points].T
    length = rows.s[last] - rows.s[first]
    for k in np.flatnonzero((left.min(1) <= 0.0) & (length > 0.0)):
        free = width * float(length[k]) / float(length[k] - left[k].min())
        at = float(0.5 * (rows.s[first[k]] + rows.s[last[k]])) % total
        message = f"The leg at {in_mm(at)} is too short for its corners: it would be free up to {in_mm(free)} wide."
        middle = 0.5 * (rows.frames.origin[first[k]] + rows.frames.origin[last[k]])
        out.append(Finding("short-leg", Severity.WARNING, message, at, free, _spot(middle)))
    return tuple(out)


def section_errors(section: SectionShape) -> tuple[Finding, ...]:
    """Findings of severity error on an outline that was not made by us: no area, crossing itself, a hole outside."""
    if not section.is_free:
        return ()
    t = np.linspace(0.0, 1.0, 16, endpoint=False)

    def polygon(loop: Loop) -> shapely.Polygon:
        return shapely.Polygon(np.concatenate([s.at(t) for s in loop.segments]))

    for part in section.parts:
        outer = polygon(part.outer)
        if not outer.area > 0.0:
            return (Finding("section-no-area", Severity.ERROR, "The section's outline has no area."),)
        if not all(p.is_valid for p in (outer, *map(polygon, part.holes))):
            message = "The section's outline crosses itself, so it has no inside."
            return (Finding("section-crossing", Severity.ERROR, message),)
        if not all(outer.covers(polygon(h)) for h in part.holes):
            return (Finding("hole-outside", Severity.ERROR, "A hole of the section lies outside its outline."),)
    return ()
