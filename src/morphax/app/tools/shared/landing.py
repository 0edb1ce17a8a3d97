"""Where a click lands: snap targets, then the plane of the view or of the previous knot. Pure functions."""

from dataclasses import dataclass, fields, replace
from enum import StrEnum
from math import floor, log10

import numpy as np

from morphax.app.session.camera import Ray, on_plane
from morphax.app.session.sight import Sight
from morphax.app.session.work_plane import GROUND, WorkPlane
from morphax.core.mesh.port_finding import Spot
from morphax.project.units import METRES

SNAP_PIXELS = 8.0
_EDGE_ON = 0.02
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
    """A face under the pointer: place (3,) and normal (3,) towards the eye, whose it is, what it is called."""

    place: np.ndarray
    normal: np.ndarray
    of: str
    name: str


@dataclass(frozen=True)
class Target:
    """A place that catches the pointer."""

    name: str
    place: tuple[float, float, float]
    kind: Caught = Caught.KNOT
    of: tuple[str, str] | None = None
    spot: Spot | None = None
    ways: tuple[tuple[float, float, float], ...] = ()
    """``of``: host and port id of a port; ``spot``: a round rim that can become a port; ``ways``: unit directions of
    the lines that catch there: one along an edge, two at a crossing, two or three at a corner."""


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
    resting: bool = False

    def turned_round(self) -> "Snapping":
        """All kinds the other way."""
        turned = {f.name: not getattr(self, f.name) for f in fields(self) if f.name != "resting"}
        return replace(self, **turned)


@dataclass(frozen=True, eq=False)
class Landing:
    """Where a click would land: ``place`` (3,) m, what caught it, and the ``normal`` of the plane it lies in.

    ``target`` is what caught it, ``host`` the host or run whose face it lies on.
    """

    place: np.ndarray
    caught: Caught
    normal: np.ndarray
    plane: str
    target: Target | None = None
    host: str | None = None


def grid_step(sight: Sight, unit: str = "mm") -> float:
    """The grid's step, m: 1, 2 or 5 times a power of ten in the display unit, at least 11 pixels apart."""
    least = _GRID_PIXELS * sight.grid_scale / METRES[unit]
    power = 10.0 ** floor(log10(least))
    factor = next((f for f in (1.0, 2.0, 5.0) if f * power >= least * (1.0 - 1e-9)), 10.0)
    return factor * power * METRES[unit]


def work_plane(
    sight: Sight, previous: np.ndarray | None, first: WorkPlane = GROUND
) -> tuple[np.ndarray, np.ndarray, str]:
    """Origin, normal and name of the plane that a click lands in.

    Flat view: across the view at the previous knot's depth; a first knot lies where the line of sight meets the
    ground, or, where that is seen edge-on, in the plane through the origin. Perspective: of the ground, front
    and side planes through the previous knot the one that faces the eye most; a ``first`` knot lies on the work plane,
    which is the ground unless another was chosen.
    """
    origin = first.origin if previous is None else previous
    if sight.is_flat:
        return origin, -sight.basis.forward, f"across the {sight.name.lower()} view"
    if previous is None:
        return origin, first.normal, first.name
    toward = sight.basis.eye - previous
    axis = int(np.argmax(np.abs(toward) * np.array([1.0, 1.0, 1.0])))
    normal = np.zeros(3)
    normal[axis] = 1.0
    return origin, normal, ("side plane", "front plane", "level plane")[axis]


def _caught_by(sight: Sight, pixel: tuple[float, float], targets: tuple[Target, ...]) -> Target | None:
    if not targets:
        return None
    seen = sight.seen(np.array([t.place for t in targets]))
    gap = np.hypot(seen[:, 0] - pixel[0], seen[:, 1] - pixel[1])
    gap = np.where(np.isnan(gap), np.inf, gap)
    k = int(np.argmin(gap))
    return targets[k] if gap[k] <= SNAP_PIXELS else None


def rounded_in_plane(place: np.ndarray, origin: np.ndarray, normal: np.ndarray, step: float) -> np.ndarray:
    """A place of a plane rounded to the grid along the two world axes that lie most in it."""
    axis = int(np.argmax(np.abs(normal)))
    out = place.copy()
    for i in range(3):
        if i != axis:
            out[i] = np.round(place[i] / step) * step
    out[axis] = origin[axis] - sum(normal[i] * (out[i] - origin[i]) for i in range(3) if i != axis) / normal[axis]
    return out + 0.0


@dataclass(frozen=True, eq=False)
class Aim:
    """What a click lands by.

    What has ``caught`` the pointer already, else one of the ``targets``, comes before everything; then the
    ``surface`` under the pointer, ``rest`` m above it; then the plane through the ``previous`` knot, else ``first``,
    rounded to ``step`` m. ``upright``: straight above or below the previous knot, where that line passes the line of
    sight.
    """

    previous: np.ndarray | None = None
    targets: tuple[Target, ...] = ()
    snapping: Snapping = Snapping()
    step: float = 0.0
    upright: bool = False
    caught: Target | None = None
    surface: Surface | None = None
    rest: float = 0.0
    first: WorkPlane = GROUND


def landing(sight: Sight, pixel: tuple[float, float], aim: Aim = Aim()) -> Landing | None:
    """Where a click lands, or None where the line of sight meets nothing (above the horizon)."""
    previous, snapping, step, caught, surface = aim.previous, aim.snapping, aim.step, aim.caught, aim.surface
    origin, normal, name = work_plane(sight, previous, aim.first)
    if aim.upright and previous is not None:
        height = _height_on_vertical(sight.line(pixel), previous)
        if height is not None:
            height = round(height / step) * step if snapping.grid and step > 0.0 else height
            place = np.array([previous[0], previous[1], height])
            return Landing(place, Caught.NOTHING, normal, "straight up or down")
    if caught is None:
        wanted = tuple(t for t in aim.targets if snapping.knots or t.kind is not Caught.KNOT)
        caught = _caught_by(sight, pixel, wanted)
    if caught is not None:
        return Landing(np.array(caught.place), caught.kind, normal, caught.name, caught)
    if surface is not None:
        place = surface.place + aim.rest * surface.normal
        return Landing(place, Caught.FACE, surface.normal, f"on {surface.name}", None, surface.of)
    line = sight.line(pixel)
    met = on_plane(line, origin, normal)
    if met is None:
        return None
    place = met
    if not sight.is_flat and sight.scale_at(place) > 0.05 * max(sight.height, 1.0):
        return None
    if sight.is_flat and previous is None:
        place = _on_work_plane(sight, sight.line(pixel), place, aim.first)
    if previous is None and not sight.is_flat:
        origin = place = place + aim.rest * normal
    if snapping.grid and step > 0.0:
        return Landing(rounded_in_plane(place, origin, normal, step), Caught.GRID, normal, name)
    return Landing(place, Caught.NOTHING, normal, name)


def _height_on_vertical(line: Ray, foot: np.ndarray) -> float | None:
    """Height at which the vertical through ``foot`` passes a line of sight nearest; None where both are upright."""
    level = line.direction[:2]
    size2 = float(level @ level)
    if size2 < 1e-6:
        return None
    t = float((foot[:2] - line.origin[:2]) @ level) / size2
    return float(line.origin[2] + t * line.direction[2]) if t > 0.0 else None


def _on_work_plane(sight: Sight, line: Ray, place: np.ndarray, first: WorkPlane) -> np.ndarray:
    """First knot in a flat view: where the line of sight meets the work plane; where that lies edge-on, in the plane
    across the view through its origin."""
    forward = sight.basis.forward
    along = float(forward @ first.normal)
    if abs(along) < _EDGE_ON:
        across: np.ndarray = place - ((place - first.origin) @ forward) * forward
        return across
    t = float((first.origin - place) @ first.normal) / along
    out: np.ndarray = place + t * forward
    return out
