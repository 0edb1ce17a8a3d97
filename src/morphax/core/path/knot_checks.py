"""Checks of a path's knots before it is measured: too few, not finite, doubled; radii that do not fit."""

from dataclasses import replace

import numpy as np

from morphax.core.findings import Finding, Severity, in_mm, spot
from morphax.core.kernels.measuring import judged_knots
from morphax.core.path.corner_arcs import corner_arcs
from morphax.core.path.paths import PathShape
from morphax.core.tolerances import Tolerances
from morphax.core.types import Flags, Floats, Points3
from morphax.core.vectors import lengths


def path_size(knots: Points3) -> float:
    """Largest extent of finite knots (n, 3), m."""
    return float((knots.max(0) - knots.min(0)).max()) if len(knots) else 0.0


def path_errors(path: PathShape) -> tuple[Finding, ...]:
    """Findings of severity error: too few knots, a place that is not finite."""
    n, least = len(path.knots), 3 if path.closed else 2
    if n >= least and _is_plain(path):
        return ()
    if not np.isfinite(path.knots).all():
        bad = int(np.flatnonzero(~np.isfinite(path.knots).all(1))[0])
        return (Finding("not-finite", Severity.ERROR, f"Knot {bad + 1} has a place that is not a finite number."),)
    distinct = n - int(doubled_knots(path).sum())
    if n and distinct < least:
        what = "A closed path" if path.closed else "A path"
        message = f"{what} needs {least} knots in different places; this one has {distinct}."
        return (Finding("too-few-knots", Severity.ERROR, message, place=spot(path.knots[0])),)
    if not n:
        return (Finding("too-few-knots", Severity.ERROR, "The path has no knots yet."),)
    return ()


def _is_plain(path: PathShape) -> bool:
    """Whether all knots are finite and clearly apart from the next: the usual case, found out in one go."""
    if len(path.knots) < 2:
        return False
    size, nearest = judged_knots(path.knots, closed=path.closed)
    return nearest > Tolerances(size, 0.0).doubled_knots * (1.0 + 1e-9)


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
    if _is_plain(path):
        return path
    gone = doubled_knots(path)
    if not gone.any():
        return path
    keep = ~gone
    own = (path.steps, path.handles, path.radius, path.lying)
    steps, handles, radius, lying = (v[keep] if v.size else v for v in own)
    return replace(
        path,
        knots=path.knots[keep],
        corner=path.corner[keep],
        curved=path.curved[keep],
        steps=steps,
        handles=handles,
        radius=radius,
        lying=lying,
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
        out.append(Finding("doubled-knots", Severity.WARNING, message, at, place=spot(path.knots[i])))
    return tuple(out)


def radius_findings(path: PathShape, at_knots: Floats) -> tuple[Finding, ...]:
    """Corner radii that cannot be as they were asked for; ``path`` is welded."""
    if not path.radius.size:
        return ()
    arcs = corner_arcs(path)
    out = []
    for i in np.flatnonzero(arcs.shortened):
        at, asked = float(at_knots[i]), in_mm(float(path.radius[i]))
        message = f"The corner at {in_mm(at)} has a radius of {in_mm(float(arcs.radius[i]))}: {asked} does not fit."
        out.append(Finding("radius-shortened", Severity.NOTE, message, at, place=spot(path.knots[i])))
    for i in np.flatnonzero(arcs.crooked):
        at = float(at_knots[i])
        message = f"The corner at {in_mm(at)} stays sharp: a radius needs straight legs."
        out.append(Finding("radius-needs-straight", Severity.WARNING, message, at, place=spot(path.knots[i])))
    return tuple(out)
