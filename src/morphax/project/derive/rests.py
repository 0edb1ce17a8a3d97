"""Knots that rest: they keep their section's reach above what they lie on, whatever width, section or host do."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from morphax.core.body.on_body import BodySpot, spot_near, spot_place
from morphax.core.body.resting import depth_below, even_reach, level_reach, reaches
from morphax.core.errors import MorphaxError
from morphax.core.path.made_paths import MadeCurve, made_marks, made_spans
from morphax.core.path.paths import PathKind
from morphax.core.path.resolved import polylines, resolve_path
from morphax.core.types import Floats
from morphax.core.vectors import unit
from morphax.project.derive.coils import marked_knots
from morphax.project.derive.graph import follows_from, holds_of
from morphax.project.derive.leads import RunsOn
from morphax.project.lookup import section_shape
from morphax.project.model.document import Host, HostPlace, Knot, Path, Place, Project, RestHold, Run, copied, evolve
from morphax.project.model.paths import Hold, Made, made_curve, path_shape
from morphax.project.model.placing import matrix_of

_UP = (0.0, 0.0, 1.0)
_PLACES, _SAME = 64, 1e-12
"""Places on a span at which a path's lowest one is looked for; it stays where it is to this share of its size."""


def rests(path: Path) -> bool:
    """Whether a path, or a knot of it, rests on something."""
    known: bool | None = path.__dict__.get("_rests")
    if known is None:  # found out once: it goes with the path
        known = path.__dict__["_rests"] = any(isinstance(h, RestHold) for h in holds_of(path))
    return known


def rested_runs(path: Path) -> tuple[str, ...]:
    """Ids of the runs on whose bodies a path, or a knot of it, rests."""
    return tuple(h.run for h in holds_of(path) if isinstance(h, RestHold) and h.run is not None) if rests(path) else ()


def with_rests(project: Project, path: Path, runs: RunsOn) -> Path:
    """A path whose resting knots stand their reach above what they lie on; itself where they do.

    The reach is that of the ``runs`` on it, the farthest of them, by the frames of the path as it lies on the surface.
    """
    if path.made is not None:
        return _made_at_rest(project, path, path.made, runs)
    was = [(i, k.hold) for i, k in enumerate(path.knots) if isinstance(k.hold, RestHold)]
    if not was:
        return path
    index = [i for i, _ in was]
    holds = [h if h.host is None and h.run is None else seen_now(project, path, h) for _, h in was]
    lifts = _lifts(path, runs, index, holds)
    knots, carried = list(path.knots), dict[int, Knot]()
    for i, hold, lift in zip(index, holds, lifts, strict=True):
        (x, y, z), (a, b, c) = hold.foot, hold.up
        place = (x + lift * a, y + lift * b, z + lift * c)
        knot = knots[i]
        if hold is not knot.hold or place != knot.place:
            step = knot.step if place == knot.place else None
            carried[i] = knot if hold is knot.hold else _with_host(knot, hold)
            knots[i] = copied(carried[i], hold=hold, place=place, step=step)
    if not carried:
        return path
    knots = _with_handles(path, knots, carried) if path.kind is PathKind.HANDLES else knots
    return copied(path, knots=tuple(knots))


def _with_host(knot: Knot, hold: RestHold) -> Knot:
    """A knot with its place and handles carried along by the host that it rests on, as high above it as it was."""
    was = knot.hold
    if not isinstance(was, RestHold) or was.seen is None or hold.seen is None or was.seen == hold.seen:
        return knot
    before, at = matrix_of(was.seen)
    now, there = matrix_of(hold.seen)
    by = np.linalg.solve(before.T, now.T).T
    handles = {
        name: None if value is None else _place(by @ np.array(value))
        for name, value in (("coming", knot.coming), ("leaving", knot.leaving))
    }
    return copied(knot, place=_place(by @ (np.array(knot.place) - at) + there), **handles)


def _with_handles(path: Path, knots: list[Knot], carried: Mapping[int, Knot]) -> list[Knot]:
    """Knots whose handles grow, or shrink, as the way to the next one that rests does: so a curve keeps its shape when
    its reach above what it lies on changes."""
    out, n = list(knots), len(knots)
    for i in range(n if path.closed else n - 1):
        k = (i + 1) % n
        if i not in carried and k not in carried:
            continue
        a, b = (carried.get(j, path.knots[j]) for j in (i, k))
        if not isinstance(a.hold, RestHold) or not isinstance(b.hold, RestHold):
            continue
        was = float(np.linalg.norm(np.subtract(b.place, a.place)))
        times = float(np.linalg.norm(np.subtract(knots[k].place, knots[i].place))) / was if was > 0.0 else 1.0
        if times != 1.0:
            out[i] = copied(out[i], leaving=_times(out[i].leaving, times))
            out[k] = copied(out[k], coming=_times(out[k].coming, times))
    return out


def _times(handle: Place | None, times: float) -> Place | None:
    return None if handle is None else (handle[0] * times, handle[1] * times, handle[2] * times)


def _made_at_rest(project: Project, path: Path, made: Made, runs: RunsOn) -> Path:
    """A ready-made path so high above what it lies on that its body touches that; itself where it is so."""
    if made.rest is None:
        return path
    hold, now = seen_now(project, path, made.rest), made
    if hold.seen is not None and hold.seen != made.rest.seen:
        now = _turned_along(made, made.rest, hold)
    up, foot = np.array(hold.up), np.array(hold.foot)
    try:
        curve = made_curve(now)
        low = _depth(path, curve, runs, up) if hold.height is None else hold.height - low_of(curve, up)
    except MorphaxError:
        return path  # it cannot be built, and says so itself
    own = np.array(now.at)
    at = foot + (float(own @ up) + low) * up
    if hold is made.rest and np.abs(at - np.array(made.at)).max() <= _SAME * max(1.0, float(np.abs(at).max())):
        return path
    now = evolve(now, at=_place(at), rest=hold)
    return evolve(path, made=now, knots=marked_knots(made_curve(now), list(path.knots)))


def _depth(path: Path, curve: MadeCurve, runs: RunsOn, up: Floats) -> float:
    """How far down the bodies on a ready-made path reach from the world's origin, m; its curve where there are none."""
    is_level = abs(float(curve.axes[2] @ up)) > 1.0 - _SAME and "pitch" not in curve.values
    low, found = low_of(curve, up), list[float]()
    for run in runs.on(path.id):
        shape = runs.shape(run)
        if shape is None:
            continue
        is_even = is_level and not run.recipe.varies
        reach = even_reach(shape, run.recipe) if is_even else None
        if is_even and reach is None and tuple(up) == _UP and run.recipe.reference.matrix[2] == _UP:
            reach = level_reach(shape, run.recipe)
        if reach is None:
            resolved = resolve_path(replace(path_shape(path), made=curve, knots=made_marks(curve)))
            what = runs.what(run, path, resolved) or shape
            found.append(depth_below(resolved, what, run.recipe, up, run.recipe.reference))
        else:
            found.append(reach - low)
    return max(found, default=-low)


def low_of(curve: MadeCurve, up: Floats) -> float:
    """The height of a ready-made curve's lowest place along a direction (3,), m."""
    spans, _ = made_spans(curve)
    return float((polylines(spans[None], per_span=_PLACES)[0] @ up).min())


def _turned_along(made: Made, was: RestHold, hold: RestHold) -> Made:
    """A ready-made path turned and moved with the host that it lies on; its sizes stay."""
    assert was.seen is not None and hold.seen is not None
    before, at = matrix_of(was.seen)
    now, there = matrix_of(hold.seen)
    by = np.linalg.solve(before.T, now.T).T
    x, z = (unit(by @ np.array(v)) for v in (made.x, made.z))
    return evolve(made, at=_place(by @ (np.array(made.at) - at) + there), x=_place(x), z=_place(z))


def seen_now(project: Project, path: Path, hold: Hold | None) -> RestHold:
    """A path's hold where its host, or the body that it rests on, is now."""
    assert isinstance(hold, RestHold)
    if hold.run is not None:
        return _on_body(project, path, hold)
    host: Host | None = None if hold.host is None else project.find("hosts", hold.host)
    if host is None or hold.seen is None or host.place == hold.seen:
        return hold
    foot, up = carried_along(hold, host.place)
    return evolve(hold, foot=foot, up=up, seen=host.place)


def _on_body(project: Project, path: Path, hold: RestHold) -> RestHold:
    """A hold with its foot on a run's body as that is now; as it was where that is gone, cannot be built, or follows
    from the path itself."""
    run: Run | None = None if hold.run is None else project.find("runs", hold.run)
    if run is None or path.id in follows_from(project, run.id):
        return hold
    below, section = project.find("paths", run.recipe.path), project.find("sections", run.recipe.stations[0].section)
    if below is None or section is None:
        return hold
    try:
        resolved = resolve_path(path_shape(below))
        body = (resolved, RunsOn(project).what(run, below, resolved) or section_shape(section), run.recipe)
        reference = run.recipe.reference
        near = BodySpot(hold.share, hold.around, hold.behind) if hold.share is not None else None
        spot = near or spot_near(*body, np.array(hold.foot), reference, np.array(hold.up))
        foot, up = spot_place(*body, spot, reference)
    except MorphaxError:
        return hold
    now = (_place(foot), _place(up / np.linalg.norm(up)), spot.share, spot.around, spot.behind)
    if (hold.foot, hold.up, hold.share, hold.around, hold.behind) == now:
        return hold
    return evolve(hold, foot=now[0], up=now[1], share=spot.share, around=spot.around, behind=spot.behind)


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
    same, own = 0.0, np.zeros(len(index))
    for run in runs.on(path.id):
        shape = runs.shape(run)
        if shape is None:
            continue
        if run.recipe.varies:
            own = np.maximum(own, _reaches(path, run, runs, index, holds))
            continue
        even = even_reach(shape, run.recipe)
        even = level_reach(shape, run.recipe) if even is None and _is_level(path, run, holds) else even
        if even is not None:
            same = max(same, even)
        else:
            own = np.maximum(own, _reaches(path, run, runs, index, holds))
    return [
        h.height if h.height is not None else max(same, o) * h.times for h, o in zip(holds, own.tolist(), strict=True)
    ]


def _reaches(path: Path, run: Run, runs: RunsOn, index: Sequence[int], holds: Sequence[RestHold]) -> Floats:
    lying = list(path.knots)
    for i, hold in zip(index, holds, strict=True):
        lying[i] = copied(lying[i], place=hold.foot, hold=hold, step=None)
    try:
        resolved = resolve_path(path_shape(evolve(path, knots=tuple(lying))))
        if len(resolved.shape.knots) != len(path.knots):
            return np.zeros(len(index))  # doubled knots: what it rests by is unclear
        ups = np.array([h.up for h in holds])
        what = runs.what(run, path, resolved)
        if what is None:
            return np.zeros(len(index))
        return reaches(resolved, what, run.recipe, np.array(index), ups, run.recipe.reference)
    except MorphaxError:
        return np.zeros(len(index))  # it cannot be built, and says so itself


def _is_level(path: Path, run: Run, holds: Sequence[RestHold]) -> bool:
    """Whether a path lies wholly on one level surface, so that its sections stand upright on it wherever they are."""
    first = holds[0]
    same = all(h.up == _UP and h.foot[2] == first.foot[2] and h.run is None for h in holds)
    is_flat = path.kind in (PathKind.STRAIGHT, PathKind.THROUGH) and len(holds) == len(path.knots)
    return same and is_flat and run.recipe.reference.matrix[2] == _UP


def _place(p: Floats) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
