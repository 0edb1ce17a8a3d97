"""The planes that clicks land in where nothing catches and no surface is met. Pure functions."""

from dataclasses import dataclass

import numpy as np

from morphax.app.session.camera import Ray, on_plane
from morphax.app.session.sight import Sight
from morphax.app.session.work_plane import GROUND, WorkPlane
from morphax.core.vectors import unit

_EDGE_ON = 0.02
_SLANTED = 0.17
"""Sine of 10 degrees: a plane that is seen at less than that lies edge-on to who draws in it."""
_STEEP = 0.5**0.5
_FARTHEST = 0.05
"""Where a pixel is so large a share of the view's height, what is pointed at is too near the horizon."""
_UP = np.array([0.0, 0.0, 1.0])


@dataclass(frozen=True, eq=False)
class Plane:
    """A place (3,), a unit normal (3,), and what the plane is called."""

    origin: np.ndarray
    normal: np.ndarray
    name: str


def plane_for(
    sight: Sight, line: Ray, previous: np.ndarray | None, face: np.ndarray | None, first: WorkPlane
) -> Plane | None:
    """The plane that a line of sight is asked to meet; None where it meets none.

    Flat view: across the view at the ``previous`` depth; a first knot lies in the work plane ``first``, or, where that
    is seen edge-on, across the view through its origin. Perspective: out of the steep ``face`` (its normal) that the
    previous knot lies on, else the work plane wherever the previous knot is; above its horizon the upright plane
    through the previous knot, or the work plane's origin, that faces the eye.
    """
    if sight.is_flat:
        across = f"across the {sight.name.lower()} view"
        if previous is not None:
            return Plane(previous, -sight.basis.forward, across)
        if abs(float(sight.basis.forward @ first.normal)) < _EDGE_ON:
            return Plane(first.origin, -sight.basis.forward, across)
        return Plane(first.origin, first.normal, first.name)
    if previous is not None and face is not None and abs(float(face[2])) < _STEEP:
        out = out_of(sight, previous, face)
        if out is not None and reached(sight, line, out) is not None:
            return out
    own = Plane(first.origin, first.normal, first.name)
    if reached(sight, line, own) is not None:
        return own
    upright = facing(sight, first.origin if previous is None else previous)
    return upright if reached(sight, line, upright) is not None else None


def out_of(sight: Sight, place: np.ndarray, face: np.ndarray) -> Plane | None:
    """The plane out of a steep face at a place of it: through its normal and the vertical, or, where that lies edge-on,
    through its normal and the level; None where both do."""
    way = sight.way_to(place)
    level = unit(np.cross(face, _UP))
    for normal, name in ((level, "out from the face, upright"), (unit(np.cross(level, face)), "out from the face")):
        if abs(float(way @ normal)) >= _SLANTED:
            return Plane(place, normal, name)
    return None


def facing(sight: Sight, place: np.ndarray) -> Plane:
    """The upright plane through a place that faces the eye; across the view where that looks straight up or down."""
    way = sight.way_to(place)
    level = way * (1.0, 1.0, 0.0)
    size = float(np.linalg.norm(level))
    if size < _SLANTED:
        return Plane(place, -way, "across the view")
    return Plane(place, -level / size, "upright, facing you")


def floor_under(sight: Sight, previous: np.ndarray | None, first: WorkPlane) -> Plane | None:
    """What nothing goes below in perspective: the floor, or the level of what lies below it already."""
    if sight.is_flat:
        return None
    low = min(0.0, float(first.origin[2]), 0.0 if previous is None else float(previous[2]))
    return Plane(np.array([0.0, 0.0, low]), _UP, GROUND.name if low == 0.0 else "level plane")


def reached(sight: Sight, line: Ray, plane: Plane) -> np.ndarray | None:
    """Where a line of sight meets a plane; None where it does not, or in perspective too near the horizon."""
    place = on_plane(line, plane.origin, plane.normal)
    if place is None or (not sight.is_flat and sight.scale_at(place) > _FARTHEST * sight.height):
        return None
    axis = int(np.argmax(np.abs(plane.normal)))
    if abs(float(plane.normal[axis])) == 1.0:
        place[axis] = plane.origin[axis]  # to the last bit
    return place


def height_on_vertical(line: Ray, foot: np.ndarray) -> float | None:
    """Height at which the vertical through ``foot`` passes a line of sight nearest; None where both are upright."""
    level = line.direction[:2]
    size2 = float(level @ level)
    if size2 < 1e-6:
        return None
    t = float((foot[:2] - line.origin[:2]) @ level) / size2
    return float(line.origin[2] + t * line.direction[2]) if t > 0.0 else None


def rounded_in_plane(place: np.ndarray, origin: np.ndarray, normal: np.ndarray, step: float) -> np.ndarray:
    """A place of a plane rounded to the grid: along the two world axes that lie most in it; in an upright plane that
    stands askew its height, and how far it is from the origin on the level."""
    axis = int(np.argmax(np.abs(normal)))
    if abs(float(normal[2])) < 1e-9 and abs(float(normal[axis])) < 1.0 - 1e-9:
        level = np.array([-normal[1], normal[0], 0.0])
        far = np.round(float((place - origin) @ level) / step) * step
        out = origin + far * level
        return np.array([out[0], out[1], np.round(place[2] / step) * step + 0.0])
    out = place.copy()
    for i in range(3):
        if i != axis:
            out[i] = np.round(place[i] / step) * step
    out[axis] = origin[axis] - sum(normal[i] * (out[i] - origin[i]) for i in range(3) if i != axis) / normal[axis]
    return out + 0.0


def drag_normal(sight: Sight, origin: np.ndarray, *, lies: bool = False, up: np.ndarray | None = None) -> np.ndarray:
    """Normal (3,) of the plane that what is dragged moves in: across a flat view; in perspective level for what
    ``lies`` on the floor or another level surface, ``up`` for what rests on one with that normal, else of the upright
    planes the one that faces the eye."""
    if sight.is_flat:
        return -sight.basis.forward
    up = _UP if lies else up
    if up is not None and abs(float(sight.way_to(origin) @ up)) >= _SLANTED:
        return up
    return facing(sight, origin).normal
