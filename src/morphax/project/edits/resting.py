"""Knots that rest: made to, slid along what they lie on, and those that come between others."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from morphax.project.derive.graph import refuse_circle
from morphax.project.edits.reshape import with_path
from morphax.project.lookup import path_by_id
from morphax.project.model.document import DocumentError, Host, Knot, Place, Project, RestHold, evolve

_PARALLEL, _FLAT = 1.0 - 1e-9, 1e-6
"""Cosine between normals of one flat surface; how far from it, of the way between two knots, a place still lies on."""


@dataclass(frozen=True)
class Rest:
    """What a knot is laid on: a host, or the body of a ``run``, by id, or (neither) the floor; the ``foot`` there and
    the unit normal, m.

    It stands so many ``times`` its reach above that: more than once over an edge.
    """

    host: str | None
    foot: Place
    up: Place
    times: float = 1.0
    run: str | None = None


def rest_on(project: Project, path_id: str, rests: Mapping[str, Rest]) -> Project:
    """Knots, by id, that rest from now on; they stand their section's reach above their feet once that is known.

    Raises DocumentError where what they would rest on follows, in some steps, from their own path.
    """
    path = path_by_id(project, path_id)
    for run in {r.run for r in rests.values() if r.run is not None}:
        refuse_circle(project, path_id, run, "these two runs would rest on each other")

    def laid(knot: Knot) -> Knot:
        rest = rests[knot.id]
        host: Host | None = None if rest.host is None else project.find("hosts", rest.host)
        if rest.host is not None and host is None:
            raise DocumentError(f"there is no host {rest.host}")
        height = knot.hold.height if isinstance(knot.hold, RestHold) else None
        seen = None if host is None else host.place
        hold = RestHold(
            host=rest.host, foot=rest.foot, up=rest.up, height=height, times=rest.times, seen=seen, run=rest.run
        )
        return evolve(knot, hold=hold, step=None)

    return with_path(project, evolve(path, knots=tuple(laid(k) if k.id in rests else k for k in path.knots)))


def set_stand_off(project: Project, path_id: str, knot_ids: Collection[str], height: float | None) -> Project:
    """How far resting knots stand above what they lie on, m; None: their section's reach. Raises DocumentError."""
    if height is not None and height < 0.0:
        raise DocumentError("what rests on something stands 0 or more above it")
    path, wanted = path_by_id(project, path_id), set(knot_ids)
    resting = [k for k in path.knots if k.id in wanted and isinstance(k.hold, RestHold)]
    if not resting:
        raise DocumentError("none of these knots rests on anything")
    new = {k.id: evolve(k, hold=evolve(k.hold, height=height)) for k in resting}
    return with_path(project, evolve(path, knots=tuple(new.get(k.id, k) for k in path.knots)))


def stand_off(knot: Knot) -> float | None:
    """How far a resting knot stands above what it lies on, m; None for one that rests on nothing."""
    hold = knot.hold
    return float(np.subtract(knot.place, hold.foot) @ np.array(hold.up)) if isinstance(hold, RestHold) else None


def slid(knot: Knot, place: Place) -> Knot:
    """A resting knot moved along what it lies on towards a place: it stays as high above it as it is."""
    hold = knot.hold
    if not isinstance(hold, RestHold):
        return knot
    up, shift = np.array(hold.up), np.subtract(place, knot.place)
    step = shift - float(shift @ up) * up
    if not step.any():
        return knot
    moved = evolve(hold, foot=_place(np.array(hold.foot) + step), share=None)
    return evolve(knot, hold=moved, place=_place(np.array(knot.place) + step), step=None)


def lifted(knot: Knot, place: Place) -> Knot:
    """A resting knot at a place, m: it lies below that, and stands as far above as the place does."""
    hold = slid(knot, place).hold
    if not isinstance(hold, RestHold):
        return knot
    height = max(float(np.subtract(place, hold.foot) @ np.array(hold.up)), 0.0)
    same = stand_off(knot)
    if same is not None and abs(height - same) <= 1e-12:
        return slid(knot, place)
    foot = np.array(hold.foot)
    return evolve(knot, hold=evolve(hold, height=height), place=_place(foot + height * np.array(hold.up)), step=None)


def with_rests_between(knots: Sequence[Knot], fresh: Collection[str]) -> tuple[Knot, ...]:
    """Knots of which the ``fresh`` ones that came between two that rest on one flat surface rest there too."""
    out = list(knots)
    if not fresh or not any(isinstance(k.hold, RestHold) for k in out):
        return tuple(out)
    resting = [i for i, k in enumerate(out) if isinstance(k.hold, RestHold)]
    for a, b in zip(resting, [*resting[1:], resting[0] + len(out)], strict=True):
        for i in range(a + 1, b):
            knot = out[i % len(out)]
            if knot.id in fresh and knot.hold is None:
                hold = _between(out[a], out[b % len(out)], knot)
                out[i % len(out)] = knot if hold is None else evolve(knot, hold=hold)
    return tuple(out)


def _between(a: Knot, b: Knot, knot: Knot) -> RestHold | None:
    """What a knot between two resting ones lies on, where that is one flat surface and it is as high above it."""
    one, two = a.hold, b.hold
    if not isinstance(one, RestHold) or not isinstance(two, RestHold):
        return None
    if (one.host, one.run, one.height, one.times) != (two.host, two.run, two.height, two.times):
        return None
    up = np.array(one.up)
    size = max(float(np.linalg.norm(np.subtract(b.place, a.place))), 1e-3)
    off = [float(np.subtract(p, a.place) @ up) for p in (b.place, knot.place)]
    if float(up @ np.array(two.up)) < _PARALLEL or max(abs(o) for o in off) > _FLAT * size:
        return None
    height = float(np.subtract(a.place, one.foot) @ up)
    return evolve(one, foot=_place(np.array(knot.place) - (height + off[1]) * up), share=None)


def _place(p: np.ndarray) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
