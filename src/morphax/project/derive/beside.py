"""Paths beside other paths: followed as those change, and as wide as the bodies on them ask for."""

from dataclasses import dataclass
from math import copysign, cos, sin

import numpy as np

from morphax.core.errors import MorphaxError, PathError
from morphax.core.findings import Finding, Severity, in_mm, spot
from morphax.core.path.beside import BesidePath, beside
from morphax.core.path.knot_checks import path_errors
from morphax.core.path.paths import PathKind
from morphax.core.path.resolved import resolve_path
from morphax.core.section.sections import anchor_place
from morphax.core.types import Floats
from morphax.project.derive.images import Finds, own_ids
from morphax.project.derive.leads import RunsOn
from morphax.project.draft import Draft
from morphax.project.model.document import Knot, Path, Place, Project, Run, copied
from morphax.project.model.paths import BesideOf, path_shape


@dataclass(frozen=True, eq=False)
class _Found:
    """What lies beside a path, or why nothing does."""

    path: BesidePath | None
    why: str = ""


def found_beside(of: Path, side: float, up: float) -> _Found:
    """What lies beside a path; it goes with the path, so that it is found once."""
    known: dict[tuple[float, float], _Found] = of.__dict__.setdefault("_beside", {})
    if (side, up) not in known:
        known[side, up] = _looked_for(of, side, up)
    return known[side, up]


def _looked_for(of: Path, side: float, up: float) -> _Found:
    shape = path_shape(of)
    errors = path_errors(shape)
    if errors:
        return _Found(None, "The path that this one runs beside can't be measured now; it stays as it was.")
    try:
        return _Found(beside(resolve_path(shape), side, up))
    except PathError as error:
        said = str(error)
        return _Found(None, f"{said[:1].upper()}{said[1:]}; it stays as it was.")
    except (MorphaxError, MemoryError):
        return _Found(None, "The path that this one runs beside can't be followed now; it stays as it was.")


def gauged_side(runs: RunsOn, path: Path, follows: BesideOf) -> float:
    """How far to the right a path of a pair runs, m: by the gauge and the widest body on it."""
    if follows.gauge is None:
        return follows.side
    sign = copysign(1.0, follows.side)
    half = 0.5 * follows.gauge
    faces = [_faces(runs, run, sign) for run in runs.on(path.id)]
    inner, outer = min((a for a, _ in faces), default=0.0), max((b for _, b in faces), default=0.0)
    more = {"inner faces": -inner, "centres": -0.5 * (inner + outer), "outer faces": -outer}[follows.between]
    return sign * max(half + more, 0.0)


def _faces(runs: RunsOn, run: Run, sign: float) -> tuple[float, float]:
    """How far a run's body reaches from its path towards the other one (less than 0) and away from it, m."""
    shape, placing = runs.shape(run), run.recipe.placing
    if shape is None:
        return 0.0, 0.0
    anchor = anchor_place(shape, shape.laying.anchor if placing.anchor is None else placing.anchor)
    turned = -1.0 if placing.flip else 1.0
    if placing.roll == 0.0:
        x0, _, x1, _ = shape.bounds
        ends = turned * (np.array([x0, x1]) - anchor[0])
    else:
        points = shape.outer_points - np.array(anchor)
        ends = turned * points[:, 0] * cos(placing.roll) - points[:, 1] * sin(placing.roll)
    ends = ends * run.recipe.size * run.recipe.stations[0].scale * sign
    return float(ends.min()), float(ends.max())


def runs_beside(project: Finds, path: Path) -> Path | None:
    """The path that one runs beside; None for others, and where it is gone."""
    follows = path.follows
    found: Path | None = project.find("paths", follows.path) if isinstance(follows, BesideOf) else None
    return found


def renew_beside(draft: Draft, path: Path, runs: RunsOn) -> None:
    """Brings a path that runs beside another one up to what that is in a draft."""
    of, follows = runs_beside(draft, path), path.follows
    if of is None or not isinstance(follows, BesideOf):
        return
    side = gauged_side(runs, path, follows)
    found = found_beside(of, side, follows.up).path
    if found is None:
        return
    seen = _as_path(found, path, draft)
    cuts = tuple(_place(p) for p in found.cuts)
    seen = copied(seen, follows=copied(follows, side=side, cuts=cuts))
    if seen != path:
        draft.put(seen)


def _as_path(found: BesidePath, path: Path, draft: Draft) -> Path:
    """A path of handles of the same curve; its knots keep their ids, in their order."""
    spans, m = found.spans, len(found.spans)
    count = m if found.closed else m + 1
    places = spans[:, 0] if found.closed else np.concatenate([spans[:, 0], spans[-1:, 3]])
    handles = np.zeros((count, 2, 3))
    curved = ~found.straight
    start, end = np.arange(m), (np.arange(m) + 1) % count
    handles[start[curved], 1] = (spans[:, 1] - spans[:, 0])[curved]
    handles[end[curved], 0] = (spans[:, 2] - spans[:, 3])[curved]
    sharp = found.corner[:count] | ~np.any(handles != 0.0, axis=2).all(axis=1)
    own = own_ids(draft, "k", [k.id for k in path.knots], count)
    knots = []
    plain = Knot(id="k0", place=(0.0, 0.0, 0.0))
    is_curved = np.append(curved, False)[:count].tolist()
    for i, (p, (coming, leaving)) in enumerate(zip(places.tolist(), handles.tolist(), strict=True)):
        has = any(coming) or any(leaving)
        kind = ("loose" if has else "corner") if sharp[i] else "in line"
        both = (tuple(coming), tuple(leaving)) if has else (None, None)
        knots.append(
            copied(plain, id=own[i], place=tuple(p), kind=kind, curved=is_curved[i], coming=both[0], leaving=both[1])
        )
    return copied(path, kind=PathKind.HANDLES, closed=found.closed, knots=tuple(knots), made=None, bend=None)


def beside_findings(project: Project, path: Path) -> tuple[Finding, ...]:
    """What is to be said of a path that runs beside another one."""
    of, follows = runs_beside(project, path), path.follows
    if of is None or not isinstance(follows, BesideOf):
        return ()
    found = found_beside(of, follows.side, follows.up)
    if found.path is None:
        return (Finding("beside-stays", Severity.WARNING, found.why),)
    far = in_mm(abs(follows.side))
    said = f"The path beside which this one runs bends tighter than {far} here: a loop is taken out."
    return tuple(Finding("loop-taken-out", Severity.WARNING, said, place=spot(c)) for c in found.path.cuts)


def _place(p: Floats) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
