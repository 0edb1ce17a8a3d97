"""Ready-made paths: added, and changed by their values, by a drag of a mark, and as a whole."""

from collections.abc import Mapping
from dataclasses import replace
from math import cos, pi, sin

import numpy as np

from morphax.core.path.coils import spine_of
from morphax.core.path.made_paths import (
    MadeCurve,
    MadeShape,
    checked_values,
    dragged,
    made_marks,
    transformed_curve,
)
from morphax.core.path.paths import PathKind
from morphax.core.types import Floats, frozen
from morphax.project.derive.coils import marked_knots
from morphax.project.derive.graph import refuse_circle
from morphax.project.derive.rests import low_of
from morphax.project.draft import Draft
from morphax.project.edits.reshape import with_path
from morphax.project.edits.resting import Rest
from morphax.project.edits.runs import Added, NewRun, add_run
from morphax.project.lookup import path_by_id
from morphax.project.model.document import DocumentError, Knot, Made, Path, Place, Project, RestHold, evolve
from morphax.project.model.paths import made_curve, path_shape

_LEVEL = 1e-9
"""A ready-made path that is turned against its surface, or raised, by no more than this keeps its rest, m."""
COIL_STAYS = "a coil lies where its path is: move that, or make the coil a handles path"


def made_of(curve: MadeCurve, around: str | None = None, spine: Path | None = None) -> Made:
    """The document's value of a ready-made path; a coil's with the path that it winds round."""
    x, _, z = curve.axes
    return Made(
        shape=curve.shape,
        values=tuple((k, float(v)) for k, v in curve.values.items()),
        at=_place(curve.origin),
        x=_place(x),
        z=_place(z),
        around=around,
        spine=spine,
    )


def add_made(
    project: Project, curve: MadeCurve, new: NewRun, *, around: str | None = None, spine: Path | None = None
) -> Added:
    """Adds a run on a ready-made path; ids are the run, the path and the knots. Raises PathError out of range."""
    places = [_place(p) for p in made_marks(curve)]
    added = add_run(project, PathKind.THROUGH, places, new, closed=curve.shape.is_closed)
    path = path_by_id(added.project, added.ids[1])
    changed = evolve(
        path, kind=PathKind.MADE, made=made_of(curve, around, spine), knots=marked_knots(curve, list(path.knots))
    )
    return Added(with_path(added.project, changed), added.ids)


def with_curve(project: Project, path: Path, curve: MadeCurve) -> Project:
    """The project with a ready-made path changed; its knots go along, the first ones keep their ids."""
    draft = Draft(project)
    draft.put(curved(draft, path, curve))
    return draft.done()


def curved(draft: Draft, path: Path, curve: MadeCurve) -> Path:
    """A ready-made path with another curve; ids of its new knots come from the draft."""
    count = len(made_marks(curve))
    ids = [k.id for k in path.knots[:count]]
    ids += draft.new_ids("k", count - len(ids))
    knots = [Knot(id=i, place=(0.0, 0.0, 0.0)) for i in ids]
    around, spine = (None, None) if path.made is None else (path.made.around, path.made.spine)
    made = made_of(curve, around, spine)
    if path.made is not None and path.made.rest is not None:
        made = evolve(made, rest=_rest_along(path.made, path.made.rest, curve))
    return evolve(path, made=made, knots=marked_knots(curve, knots))


def _rest_along(made: Made, rest: RestHold, curve: MadeCurve) -> RestHold | None:
    """What a ready-made path rests on once its curve is another one: it slides, and what moves it up lifts it; tilted
    against the surface it rests no more."""
    up = np.array(rest.up)
    if abs(abs(float(curve.axes[2] @ up)) - abs(float(np.array(made.z) @ up))) > _LEVEL:
        return None
    shift = curve.origin - np.array(made.at)
    raised = low_of(curve, up) - low_of(made_curve(made), up) if _sizes(curve) == _sizes(made_curve(made)) else 0.0
    height = rest.height
    if abs(raised) > _LEVEL:
        height = max(low_of(made_curve(made), up) - float(np.array(rest.foot) @ up) + raised, 0.0)
    foot = np.array(rest.foot) + shift - float(shift @ up) * up
    return evolve(rest, foot=_place(foot), height=height, share=None)


def _sizes(curve: MadeCurve) -> list[float]:
    return sorted(abs(float(v)) for v in curve.values.values())


def rest_made(project: Project, path_id: str, rest: Rest) -> Project:
    """A ready-made path that lies on something from now on, above the ``foot`` below its origin."""
    path = path_by_id(project, path_id)
    if path.made is None or path.made.around is not None:
        raise DocumentError("only a ready-made path of its own can lie on something as a whole")
    if rest.run is not None:
        refuse_circle(project, path_id, rest.run, "these two runs would rest on each other")
    up = np.array(rest.up)
    foot = np.array(path.made.at) - float((np.array(path.made.at) - rest.foot) @ up) * up
    host = None if rest.host is None else project.find("hosts", rest.host)
    seen = None if host is None else host.place
    hold = RestHold(host=rest.host, foot=_place(foot), up=rest.up, seen=seen, run=rest.run)
    return with_path(project, evolve(path, made=evolve(path.made, rest=hold)))


def made_stand_off(path: Path | None) -> float | None:
    """How far the lowest place of a ready-made path stands above what it lies on, m; None where it lies on nothing."""
    if path is None or path.made is None or path.made.rest is None:
        return None
    up = np.array(path.made.rest.up)
    return low_of(made_curve(path.made), up) - float(np.array(path.made.rest.foot) @ up)


def set_made_stand_off(project: Project, path_id: str, height: float | None) -> Project:
    """How far the lowest place of a ready-made path stands above what it lies on, m; None: its body touches that."""
    if height is not None and height < 0.0:
        raise DocumentError("what rests on something stands 0 or more above it")
    path = path_by_id(project, path_id)
    if path.made is None or path.made.rest is None:
        raise DocumentError("this path rests on nothing")
    return with_path(project, evolve(path, made=evolve(path.made, rest=evolve(path.made.rest, height=height))))


def add_coil(project: Project, path_id: str, radius: float, turns: float, new: NewRun) -> Added:
    """Adds a run that winds round a path and follows it. Raises PathError where that has sharp corners."""
    spine = path_by_id(project, path_id)
    values = checked_values(MadeShape.COIL, {"radius": radius, "turns": turns})
    curve = MadeCurve(MadeShape.COIL, values, np.zeros(3), np.eye(3), spine_of(path_shape(spine)))
    return add_made(project, curve, new, around=path_id, spine=spine)


def set_made_value(project: Project, path_id: str, name: str, value: float) -> Project:
    """Changes a value of a ready-made path. Raises PathError out of range."""
    path, curve = _curve_of(project, path_id)
    values = {**curve.values, name: value}
    if name == "radius" and curve.values.get("top") == curve.values["radius"]:
        values["top"] = value  # a cylinder stays one
    return with_curve(project, path, replace(curve, values=values))


def drag_mark(project: Project, path_id: str, knot_id: str, place: Place) -> Project:
    """A ready-made path whose values follow one of its knots to a place. Raises PathError out of range."""
    path, curve = _curve_of(project, path_id)
    mark = next(i for i, k in enumerate(path.knots) if k.id == knot_id)
    return with_curve(project, path, dragged(curve, mark, np.array(place)))


def transformed_made(curve: MadeCurve, pivot: Floats, matrix: Floats, shift: Floats, grow: float) -> MadeCurve:
    """p -> pivot + matrix (p - pivot) + shift; ``matrix`` is ``grow`` times a turn or a mirror image.

    Raises DocumentError for a coil, which lies where its path is.
    """
    if curve.spine is not None:
        raise DocumentError(COIL_STAYS)
    return transformed_curve(curve, pivot, matrix, shift, grow)


def reversed_made(curve: MadeCurve) -> MadeCurve:
    """The same curve from its end. Raises DocumentError for a coil, and a wave that ends between crest and middle."""
    if curve.spine is not None:
        raise DocumentError("a coil runs as its path does; reverse that, or make the coil a handles path")
    v, (x, y, z) = dict(curve.values), curve.axes
    if curve.shape is MadeShape.WAVE:
        return _reversed_wave(curve, v)
    turn = v["turn"] if "turn" in v else 2.0 * pi * v.get("turns", 0.0)
    ahead = cos(turn) * x + sin(turn) * y
    if "inner" in v:
        v["inner"], v["radius"] = v["radius"], v["inner"]
    rise = v.get("pitch", 0.0) * abs(v.get("turns", 0.0))
    if "top" in v:
        v["top"], v["radius"] = v["radius"], v["top"]
    axes = np.stack([ahead, np.cross(-z, ahead), -z])
    return replace(curve, values=v, origin=frozen(curve.origin + rise * z), axes=frozen(axes))


def _reversed_wave(curve: MadeCurve, v: dict[str, float]) -> MadeCurve:
    halves = 2.0 * v["waves"]
    if abs(halves - round(halves)) > 1e-9:
        raise DocumentError("only a wave that ends on its middle line can be reversed; make it a handles path first")
    x, y, z = curve.axes
    v["height"] *= -1.0 if round(halves) % 2 else 1.0
    return replace(curve, values=v, origin=frozen(curve.origin + v["length"] * x), axes=frozen(np.stack([-x, -y, z])))


def moved_made(curve: MadeCurve, shift: Floats) -> MadeCurve:
    """The curve elsewhere. Raises DocumentError for a coil."""
    if curve.spine is not None:
        raise DocumentError(COIL_STAYS)
    return replace(curve, origin=frozen(curve.origin + shift))


def marks_moved(project: Project, path: Path, places: Mapping[str, Place]) -> Project:
    """Knots of a ready-made path moved: one changes its values, all together move it.

    Raises DocumentError where some, but not all, are moved, or each elsewhere.
    """
    if len(places) == 1:
        ((knot_id, place),) = places.items()
        return drag_mark(project, path.id, knot_id, place)
    old = {k.id: np.array(k.place) for k in path.knots}
    shifts = np.array([np.array(p) - old[k] for k, p in places.items()])
    if len(places) == len(old) and np.ptp(shifts, axis=0).max() < 1e-9:
        return with_curve(project, path, moved_made(_curve(path), shifts.mean(0)))
    raise DocumentError(keeps_shape(path))


def keeps_shape(path: Path) -> str:
    """Why a ready-made path refuses an edit."""
    shape = path.made.shape if path.made is not None else "path"
    return f"a ready-made {shape} keeps its shape; make its kind handles to change its knots one by one"


def _curve(path: Path) -> MadeCurve:
    if path.made is None:
        raise DocumentError(f"path {path.id} is not ready-made")
    return made_curve(path.made)


def _curve_of(project: Project, path_id: str) -> tuple[Path, MadeCurve]:
    path = path_by_id(project, path_id)
    return path, _curve(path)


def _place(p: Floats) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
