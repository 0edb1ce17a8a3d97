"""Held knots: where a port, a point of a host or another path puts them."""

from dataclasses import dataclass

import numpy as np

from morphax.core.errors import PathError
from morphax.core.path.resolved import points_along, resolve_path
from morphax.core.types import Floats
from morphax.project.model.document import Host, Knot, Path, PathHold, Place, PointHold, Port, Project, RestHold, evolve
from morphax.project.model.paths import path_shape
from morphax.project.model.placing import matrix_of


@dataclass(frozen=True)
class PlacedPort:
    """A port where its host stands: centre, unit direction outward, diameter, m."""

    centre: Place
    direction: Place
    diameter: float


def placed_port(host: Host, port: Port) -> PlacedPort:
    """A port in the world."""
    matrix, at = matrix_of(host.place)
    direction = matrix @ np.array(port.direction) / host.place.scale
    return PlacedPort(_place(matrix @ np.array(port.centre) + at), _place(direction), port.diameter * host.place.scale)


def place_on(path: Path, share: float) -> Place:
    """The place at a share of a path's length. Raises PathError where the path cannot be measured."""
    resolved = resolve_path(path_shape(path))
    x, y, z = points_along(resolved, np.array([share * resolved.length]))[0]
    return float(x), float(y), float(z)


def held_place(project: Project, knot: Knot) -> Place | None:
    """Where a held knot belongs; None where it is free, or what it held on to is gone."""
    hold = knot.hold
    if isinstance(hold, PathHold):
        return _place_on_path(project, hold)
    if isinstance(hold, RestHold):
        return None  # a step of its own
    host = None if hold is None else project.find("hosts", hold.host)
    if hold is None or host is None:
        return None
    if isinstance(hold, PointHold):
        matrix, at = matrix_of(host.place)
        return _place(matrix @ np.array(hold.point) + at)
    port = next((p for p in host.ports if p.id == hold.port), None)
    if port is None:
        return None
    placed = placed_port(host, port)
    return _place(np.array(placed.centre) + hold.along * np.array(placed.direction))


def _place_on_path(project: Project, hold: PathHold) -> Place | None:
    """Where on its path a hold is; None where that is gone or cannot be measured: the knot stays where it is."""
    path = project.find("paths", hold.path)
    try:
        return None if path is None else place_on(path, hold.share)
    except PathError:
        return None


def with_held_knots(project: Project, path: Path) -> Path:
    """A path with its held knots where they belong; itself where they are there."""
    if all(k.hold is None or isinstance(k.hold, RestHold) for k in path.knots):
        return path  # what rests is a step of its own
    knots = tuple(k if k.hold is None else _brought(project, k) for k in path.knots)
    return path if all(a is b for a, b in zip(knots, path.knots, strict=True)) else evolve(path, knots=knots)


def _brought(project: Project, knot: Knot) -> Knot:
    place = held_place(project, knot)
    if place is None or place == knot.place:
        return knot
    return evolve(knot, place=place, step=None)


def _place(p: Floats) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
