"""Where a click lands: snap targets, surfaces, then the floor or a plane of the previous knot. Pure functions."""

from dataclasses import dataclass, fields, replace
from enum import StrEnum
from math import floor, log10

import numpy as np

from morphax.app.session.sight import Sight
from morphax.app.session.work_plane import GROUND, WorkPlane
from morphax.app.tools.shared.landing_planes import (
    Plane,
    facing,
    floor_under,
    height_on_vertical,
    plane_for,
    reached,
    rounded_in_plane,
)
from morphax.core.mesh.port_finding import Spot
from morphax.project.units import METRES

SNAP_PIXELS = 8.0
PLUMB_PIXELS = 10.0
"""A pointer so near to the vertical through the previous knot means it, while V is held."""
_GRID_PIXELS = 11.0


class Caught(StrEnum):
    """What the pointer was caught by."""

    KNOT = "knot"
    PORT = "port"
    CORNER = "corner"
    MIDDLE = "edge middle"
    EDGE = "edge"
    CROSSING = "crossing"
    FACE = "face"
    GRID = "grid"
    NOTHING = ""


@dataclass(frozen=True, eq=False)
class Surface:
    """A face under the pointer: place (3,) and normal (3,) towards the eye, whose it is, what it is called; ``face`` is
    the number of its triangle."""

    place: np.ndarray
    normal: np.ndarray
    of: str
    name: str
    face: int = -1


@dataclass(frozen=True, eq=False)
class Ground:
    """What a knot lies on: a ``place`` (3,) of a surface with a ``normal`` (3,), ``of`` a host or run by its id; the
    floor's is empty. Over an edge it stands so many ``times`` its reach."""

    place: np.ndarray
    normal: np.ndarray
    of: str = ""
    times: float = 1.0


@dataclass(frozen=True)
class Target:
    """A place that catches the pointer."""

    name: str
    place: tuple[float, float, float]
    kind: Caught = Caught.KNOT
    of: tuple[str, str] | None = None
    spot: Spot | None = None
    ways: tuple[tuple[float, float, float], ...] = ()
    host: str = ""
    faces: tuple[tuple[float, float, float], ...] = ()
    """``of``: host and port id of a port; ``spot``: a round rim that can become a port; ``ways``: unit directions of
    the lines that catch there: one along an edge, two at a crossing, two or three at a corner; ``host`` whose edge it
    is, ``faces`` the normals of the two faces there."""


@dataclass(frozen=True)
class Snapping:
    """Which kinds catch; a held key turns them all the other way. ``resting`` lifts what lands on a face or on the
    ground by the section's own reach."""

    grid: bool = True
    knots: bool = True
    corners: bool = True
    edges: bool = True
    middles: bool = True
    faces: bool = True
    ports: bool = True
    crossings: bool = True
    resting: bool = True

    def turned_round(self) -> "Snapping":
        """All kinds the other way."""
        turned = {f.name: not getattr(self, f.name) for f in fields(self) if f.name != "resting"}
        return replace(self, **turned)


@dataclass(frozen=True, eq=False)
class Landing:
    """Where a click would land: ``place`` (3,) m, what caught it, and the ``normal`` of the plane it lies in.

    ``target`` is what caught it, ``ground`` the surface that it lies on.
    """

    place: np.ndarray
    caught: Caught
    normal: np.ndarray
    plane: str
    target: Target | None = None
    ground: Ground | None = None


def grid_step(sight: Sight, unit: str = "mm") -> float:
    """The grid's step, m: 1, 2 or 5 times a power of ten in the display unit, at least 11 pixels apart."""
    least = _GRID_PIXELS * sight.grid_scale / METRES[unit]
    power = 10.0 ** floor(log10(least))
    factor = next((f for f in (1.0, 2.0, 5.0) if f * power >= least * (1.0 - 1e-9)), 10.0)
    return factor * power * METRES[unit]


def _caught_by(sight: Sight, pixel: tuple[float, float], targets: tuple[Target, ...]) -> Target | None:
    if not targets:
        return None
    seen = sight.seen(np.array([t.place for t in targets]))
    gap = np.hypot(seen[:, 0] - pixel[0], seen[:, 1] - pixel[1])
    gap = np.where(np.isnan(gap), np.inf, gap)
    k = int(np.argmin(gap))
    return targets[k] if gap[k] <= SNAP_PIXELS else None


@dataclass(frozen=True, eq=False)
class Aim:
    """What a click lands by.

    What has ``caught`` the pointer already, else one of the ``targets``, comes before everything; then the
    ``surface`` under the pointer; then a plane: in a flat view at the depth of the ``previous`` knot, or of the edge
    ``beside`` a first one; in perspective the work plane ``first``, or out of the steep face that the previous knot
    lies ``on``. What lies on a surface stands ``rest`` m above it, what lies in a plane is rounded to ``step`` m.
    ``upright`` keeps the previous knot's depth: straight up or down in perspective.
    """

    previous: np.ndarray | None = None
    on: Ground | None = None
    targets: tuple[Target, ...] = ()
    snapping: Snapping = Snapping()
    step: float = 0.0
    upright: bool = False
    caught: Target | None = None
    surface: Surface | None = None
    rest: float = 0.0
    first: WorkPlane = GROUND
    beside: np.ndarray | None = None


def landing(sight: Sight, pixel: tuple[float, float], aim: Aim = Aim()) -> Landing | None:
    """Where a click lands, or None where the line of sight meets nothing."""
    caught, surface = aim.caught, aim.surface
    if caught is None:
        wanted = tuple(t for t in aim.targets if aim.snapping.knots or t.kind is not Caught.KNOT)
        caught = _caught_by(sight, pixel, wanted)
    if aim.upright and aim.previous is not None:
        return _at_its_depth(sight, pixel, aim, caught)
    if caught is not None:
        plane = _plane(sight, pixel, aim)
        normal = -sight.basis.forward if plane is None else plane.normal
        return Landing(np.array(caught.place), caught.kind, normal, caught.name, caught)
    if surface is not None:
        ground = Ground(surface.place, surface.normal, surface.of)
        place = surface.place + aim.rest * surface.normal
        return Landing(place, Caught.FACE, surface.normal, f"on {surface.name}", None, ground)
    plane = _plane(sight, pixel, aim)
    return None if plane is None else _in_plane(sight, pixel, aim, plane)


def _plane(sight: Sight, pixel: tuple[float, float], aim: Aim) -> Plane | None:
    origin = aim.beside if aim.previous is None and sight.is_flat else aim.previous
    return plane_for(sight, sight.line(pixel), origin, None if aim.on is None else aim.on.normal, aim.first)


def _in_plane(sight: Sight, pixel: tuple[float, float], aim: Aim, plane: Plane) -> Landing | None:
    """Where a line of sight meets a plane, no lower than the floor in perspective."""
    line = sight.line(pixel)
    place = reached(sight, line, plane)
    low = floor_under(sight, aim.previous, aim.first)
    if plane.name != aim.first.name and low is not None and place is not None and place[2] < low.origin[2] - 1e-9:
        plane, place = low, reached(sight, line, low)
    if place is None:
        return None
    kind = Caught.NOTHING
    if aim.snapping.grid and aim.step > 0.0:
        place, kind = rounded_in_plane(place, plane.origin, plane.normal, aim.step), Caught.GRID
    if not _is_on_floor(sight, aim, plane):
        return Landing(place, kind, plane.normal, plane.name)
    up, foot = np.array([0.0, 0.0, 1.0]), place * (1.0, 1.0, 0.0)
    return Landing(foot + aim.rest * up, kind, plane.normal, plane.name, None, Ground(foot, up))


def _is_on_floor(sight: Sight, aim: Aim, plane: Plane) -> bool:
    if sight.is_flat and aim.previous is not None:
        return sight.name == "Top" and aim.on is not None and not aim.on.of
    level = abs(float(plane.normal[2])) > 1.0 - 1e-9 and abs(float(plane.origin[2])) < 1e-9
    return level and aim.beside is None and plane.name == GROUND.name


def _at_its_depth(sight: Sight, pixel: tuple[float, float], aim: Aim, caught: Target | None) -> Landing | None:
    """V held: in a flat view at the previous knot's depth, whatever catches; in perspective straight above or below it
    near the vertical, else in the upright plane through it that faces the eye."""
    previous, step = np.zeros(3) if aim.previous is None else aim.previous, aim.step
    rounds = aim.snapping.grid and step > 0.0
    if sight.is_flat:
        if caught is None:
            plane = Plane(previous, -sight.basis.forward, _across(sight))
            return _in_plane(sight, pixel, replace(aim, upright=False, on=None), plane)
        forward = sight.basis.forward
        place = np.array(caught.place)
        at_depth = place + float((previous - place) @ forward) * forward
        return Landing(at_depth, caught.kind, -forward, f"{caught.name}, {_across(sight)}")
    height = height_on_vertical(sight.line(pixel), previous)
    plane = facing(sight, previous)
    if height is not None:
        place = np.array([previous[0], previous[1], max(height, min(0.0, float(previous[2])))])
        if abs(float(sight.seen(place[None])[0, 0]) - pixel[0]) <= PLUMB_PIXELS:
            place[2] = round(float(place[2]) / step) * step if rounds else place[2]
            return Landing(place, Caught.NOTHING, plane.normal, "straight up or down")
    return _in_plane(sight, pixel, aim, plane)


def _across(sight: Sight) -> str:
    return f"across the {sight.name.lower()} view"
