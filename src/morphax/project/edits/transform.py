"""Moving, turning and scaling whole paths or some of their knots."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from morphax.core.body.images import mirror_matrix, turn_matrix
from morphax.core.types import Floats
from morphax.project.derive.rests import rested_runs
from morphax.project.draft import Draft
from morphax.project.edits.holding import held_words, is_held
from morphax.project.edits.ready_made import curved, keeps_shape, transformed_made
from morphax.project.edits.resting import lifted, slid
from morphax.project.edits.rewinding import coils_round, rewound
from morphax.project.lookup import path_by_id, path_of
from morphax.project.model.document import Bend, DocumentError, Knot, Place, Project, RestHold, evolve
from morphax.project.model.paths import made_curve

Pivot = Literal["middle", "first knot", "origin", "own place"]
PIVOTS: tuple[Pivot, ...] = ("middle", "first knot", "origin", "own place")
Targets = Mapping[str, frozenset[str]]
"""Knot ids by path id."""
_AXES = np.eye(3)


@dataclass(frozen=True, eq=False)
class Transform:
    """p -> pivot + matrix (p - pivot) + shift; ``matrix`` (3, 3), ``shift`` (3,) m. ``grow`` scales corner radii."""

    matrix: Floats
    shift: Floats
    grow: float = 1.0


def moved(shift: Sequence[float]) -> Transform:
    return Transform(np.eye(3), np.asarray(shift, dtype=np.float64))


def turned(axis: int, angle: float) -> Transform:
    """A turn about a world axis (0 x, 1 y, 2 z) by ``angle`` rad, right-handed; quarter turns are exact."""
    return Transform(turn_matrix(_AXES[axis], angle), np.zeros(3))


def mirrored(axis: int) -> Transform:
    """A mirror image across a world axis (0 x, 1 y, 2 z)."""
    return Transform(mirror_matrix(_AXES[axis]), np.zeros(3))


def scaled(factor: float) -> Transform:
    """Raises DocumentError unless the factor is more than 0."""
    if not 0.0 < factor < 1e6:
        raise DocumentError("a scale is more than 0")
    return Transform(np.eye(3) * factor, np.zeros(3), factor)


def targets_of(project: Project, run_ids: Sequence[str], knot_ids: Sequence[str] = ()) -> Targets:
    """The chosen knots of the first run's path, or all knots of the runs' paths."""
    if knot_ids and run_ids:
        return {path_of(project, run_ids[0]).id: frozenset(knot_ids)}
    paths = {path.id: path for path in (path_of(project, r) for r in run_ids)}
    return {i: frozenset(k.id for k in p.knots) for i, p in paths.items()}


def pivot_place(
    project: Project,
    targets: Targets,
    pivot: Pivot,
    own: Place = (0.0, 0.0, 0.0),
    others: Sequence[Place] = (),
) -> Floats:
    """Where a pivot lies, (3,) m: the middle of the box round the knots, the first of them, the origin, or ``own``.

    ``others`` are places that count besides the knots: corners of hosts.
    """
    knots = [k.place for i, ids in targets.items() for k in path_by_id(project, i).knots if k.id in ids]
    places = np.array([*knots, *others])
    if pivot == "own place":
        return np.array(own)
    if pivot == "origin" or not len(places):
        return np.zeros(3)
    first: Floats = places[0]
    return first if pivot == "first knot" else 0.5 * (places.min(0) + places.max(0))


def transformed(
    project: Project,
    targets: Targets,
    pivot: Floats,
    by: Transform,
    *,
    frees: bool = False,
    with_hosts: Sequence[str] = (),
) -> Project:
    """The project with knots moved, their handles turned along, and radii and stored steps fitting again.

    Knots that hold on to something stay, unless it moves too (``with_hosts``: hosts that do); ``frees`` lets them go.
    Raises DocumentError where no knot could move.
    """
    draft = Draft(project)
    below = _moved_along(project, targets)
    if not frees:
        targets = _without_held(project, targets, with_hosts, by, below)
    for path_id, ids in targets.items():
        path = draft.path(path_id)
        whole = ids >= {k.id for k in path.knots}
        if path.made is not None:
            if not whole:
                raise DocumentError(keeps_shape(path))
            if path.made.around in targets:
                continue  # it goes along, below
            curve = transformed_made(made_curve(path.made), pivot, by.matrix, by.shift, by.grow)
            draft.put(curved(draft, path, curve))
            continue
        knots = tuple(
            _changed(k, pivot, by, whole=whole, below=below) if k.id in ids else _loosened(k, whole) for k in path.knots
        )
        draft.put(evolve(path, knots=knots, bend=_bent(path.bend, by) if whole else path.bend))
    for coil in coils_round([path_by_id(project, i) for i in targets], targets):
        first = pivot + by.matrix @ (np.array(coil.knots[0].place) - pivot) + by.shift
        mirrored = float(np.linalg.det(by.matrix)) < 0.0
        draft.put(rewound(draft, draft.path(coil.id), first, grow=by.grow, turns_over=mirrored))
    return draft.done()


def _moved_along(project: Project, targets: Targets) -> frozenset[str]:
    """Ids of the runs that knots of the targets rest on and that are moved whole with them."""
    paths = [path_by_id(project, i) for i in targets]
    below = {r for p in paths for r in rested_runs(p)}
    whole = {p.id for p in paths if targets[p.id] >= {k.id for k in p.knots}}
    return frozenset(r.id for r in project.runs if r.recipe.path in whole) & below if below else frozenset()


def _without_held(
    project: Project, targets: Targets, with_hosts: Sequence[str], by: Transform, below: frozenset[str]
) -> Targets:
    """Those that a move takes along: what is held stays; what rests slides, where the move keeps its surface level."""
    out, said = dict[str, frozenset[str]](), ""
    for path_id, ids in targets.items():
        path = path_by_id(project, path_id)
        along = {k.id for k in path.knots if slides(k, by) and getattr(k.hold, "host", None) not in with_hosts}
        along |= {k.id for k in path.knots if isinstance(k.hold, RestHold) and k.hold.run in below}
        held = frozenset(k.id for k in path.knots if k.id in ids - along and is_held(project, k))
        if held:
            said = held_words(project, path, held)
        if ids - held or not held:
            out[path_id] = ids - held
        elif all(getattr(k.hold, "host", None) in with_hosts for k in path.knots if k.id in held):
            said = ""  # it follows
    if not out and said:
        raise DocumentError(f"{said}: let go of it first")
    return out


def slides(knot: Knot, by: Transform) -> bool:
    """Whether a knot rests on something that a move leaves as it lies: it goes along, as high as it is moved."""
    if not isinstance(knot.hold, RestHold):
        return False
    up = np.array(knot.hold.up)
    turned = by.matrix @ up
    return float(turned @ up) > (1.0 - 1e-9) * float(np.linalg.norm(turned))


def _changed(knot: Knot, pivot: Floats, by: Transform, *, whole: bool, below: frozenset[str]) -> Knot:
    place = pivot + by.matrix @ (np.array(knot.place) - pivot) + by.shift
    handles = {
        name: None if value is None else _place(by.matrix @ np.array(value))
        for name, value in (("coming", knot.coming), ("leaving", knot.leaving))
    }
    step = None if knot.step is None or not whole else knot.step * float(np.sqrt(by.grow))
    rest = _gone_along(knot, place, by) if slides(knot, by) else None
    if isinstance(knot.hold, RestHold) and knot.hold.run in below:  # it stays where it is on a body that moves too
        rest = evolve(knot, place=_place(place), step=None)
    hold, place = (None, place) if rest is None else (rest.hold, np.array(rest.place))
    return evolve(knot, place=_place(place), radius=knot.radius * by.grow, step=step, hold=hold, **handles)


def _gone_along(knot: Knot, place: Floats, by: Transform) -> Knot:
    """A resting knot that goes along: scaled and turned it slides, and only what it is moved by lifts it."""
    along = slid(knot, _place(place))
    up = np.array(getattr(knot.hold, "up", (0.0, 0.0, 1.0)))
    more = float(by.shift @ up)
    return lifted(along, _place(np.array(along.place) + more * up)) if more else along


def _bent(bend: Bend | None, by: Transform) -> Bend | None:
    """How a path that moved goes from port to port: to the same side of it."""
    if bend is None:
        return None
    bulge = by.matrix @ np.array(bend.bulge)
    return evolve(bend, radius=bend.radius * by.grow, bulge=_place(bulge / np.linalg.norm(bulge)))


def _loosened(knot: Knot, whole: bool) -> Knot:
    """A knot that stays: beside one that moved its stored step no longer fits."""
    return knot if whole or knot.step is None else evolve(knot, step=None)


def _place(p: Floats) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
