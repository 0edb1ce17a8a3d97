"""Knots that rest: they keep their section's reach above what they lie on, whatever width, section or host do."""

from collections.abc import Sequence

import numpy as np

from morphax.core.body.resting import even_reach, level_reach, reaches
from morphax.core.errors import MorphaxError
from morphax.core.path.paths import PathKind
from morphax.core.path.resolved import resolve_path
from morphax.core.section.sections import SectionShape
from morphax.core.types import Floats
from morphax.project.derive.leads import RunsOn
from morphax.project.model.document import Host, HostPlace, Knot, Path, Place, Project, RestHold, Run, copied, evolve
from morphax.project.model.paths import path_shape
from morphax.project.model.placing import matrix_of

_UP = (0.0, 0.0, 1.0)


def rests(path: Path) -> bool:
    """Whether a path has knots that rest on something."""
    return any(isinstance(k.hold, RestHold) for k in path.knots)


def with_rests(project: Project, path: Path, runs: RunsOn) -> Path:
    """A path whose resting knots stand their reach above what they lie on; itself where they do.

    The reach is that of the ``runs`` on it, the farthest of them, by the frames of the path as it lies on the surface.
    """
    index = [i for i, k in enumerate(path.knots) if isinstance(k.hold, RestHold)]
    if not index:
        return path
    holds = [_seen(project, path.knots[i]) for i in index]
    lifts = _lifts(path, runs, index, holds)
    knots = list(path.knots)
    for i, hold, lift in zip(index, holds, lifts, strict=True):
        (x, y, z), (a, b, c) = hold.foot, hold.up
        place = (x + lift * a, y + lift * b, z + lift * c)
        if hold is not knots[i].hold or place != knots[i].place:
            step = knots[i].step if place == knots[i].place else None
            knots[i] = copied(knots[i], hold=hold, place=place, step=step)
    same = all(a is b for a, b in zip(knots, path.knots, strict=True))
    return path if same else copied(path, knots=tuple(knots))


def _seen(project: Project, knot: Knot) -> RestHold:
    """A knot's hold where its host stands now."""
    hold = knot.hold
    assert isinstance(hold, RestHold)
    host: Host | None = None if hold.host is None else project.find("hosts", hold.host)
    if host is None or hold.seen is None or host.place == hold.seen:
        return hold
    foot, up = carried_along(hold, host.place)
    return evolve(hold, foot=foot, up=up, seen=host.place)


def carried_along(hold: RestHold, place: HostPlace) -> tuple[Place, Place]:
    """Where a resting place goes with its host, and which way is up there then."""
    before, at = matrix_of(hold.seen or place)
    now, there = matrix_of(place)
    foot = now @ np.linalg.solve(before, np.array(hold.foot) - at) + there
    up = now @ np.linalg.solve(before, np.array(hold.up))
    return _place(foot), _place(up / np.linalg.norm(up))


def _lifts(path: Path, runs: RunsOn, index: Sequence[int], holds: Sequence[RestHold]) -> list[float]:
    """How far above its foot each resting knot stands, m: the height that was typed, else the reach."""
    typed = [h.height for h in holds]
    if None not in typed:
        return [h for h in typed if h is not None]
    out = np.zeros(len(index))
    for run in runs.on(path.id):
        shape = runs.shape(run)
        if shape is not None:
            out = np.maximum(out, _reaches(path, run, shape, index, holds))
    times = [h.times for h in holds]
    return [float(o) * t if h is None else h for o, t, h in zip(out, times, typed, strict=True)]


def _reaches(path: Path, run: Run, shape: SectionShape, index: Sequence[int], holds: Sequence[RestHold]) -> Floats:
    even = even_reach(shape, run.recipe)
    even = level_reach(shape, run.recipe) if even is None and _is_level(path, run, holds) else even
    if even is not None:
        return np.full(len(index), even)
    lying = list(path.knots)
    for i, hold in zip(index, holds, strict=True):
        lying[i] = copied(lying[i], place=hold.foot, hold=hold, step=None)
    try:
        resolved = resolve_path(path_shape(evolve(path, knots=tuple(lying))))
        if len(resolved.shape.knots) != len(path.knots):
            return np.zeros(len(index))  # doubled knots: what it rests by is unclear
        ups = np.array([h.up for h in holds])
        return reaches(resolved, shape, run.recipe, np.array(index), ups, run.recipe.reference)
    except MorphaxError:
        return np.zeros(len(index))  # it cannot be built, and says so itself


def _is_level(path: Path, run: Run, holds: Sequence[RestHold]) -> bool:
    """Whether a path lies wholly on one level surface, so that its sections stand upright on it wherever they are."""
    first = holds[0]
    same = all(h.up == _UP and h.foot[2] == first.foot[2] for h in holds)
    is_flat = path.kind in (PathKind.STRAIGHT, PathKind.THROUGH) and len(holds) == len(path.knots)
    return same and is_flat and run.recipe.reference.matrix[2] == _UP


def _place(p: Floats) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
