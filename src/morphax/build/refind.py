"""Finding again, after a file was read anew, what was picked on its objects: ports, and points that knots hold."""

from dataclasses import dataclass

import numpy as np

from morphax.build.locators import Locator
from morphax.core.mesh.mesh import Mesh
from morphax.core.mesh.port_finding import Spot, face_port, rim_port
from morphax.core.mesh.triangles import Creases, creases_of
from morphax.core.types import Floats, Points3
from morphax.project.edits.hosts import with_hosts
from morphax.project.edits.reshape import with_path
from morphax.project.model.document import Host, Knot, Place, PointHold, Port, Project, RestHold, evolve
from morphax.project.model.placing import matrix_of

_FAR = 0.2
"""What was found again lies within this share of the object's size from where it was expected."""
_SAME = 1e-6
_ALIKE = 0.7
"""Cosine up to which a surface faces as the one did that a knot rested on."""


@dataclass(frozen=True, eq=False)
class Change:
    """An object before and after its file was read again, in its own coordinates."""

    old: Mesh
    new: Mesh

    def expected(self, place: Points3) -> Points3:
        """Where a place (3,) of the old object should be: the same share of the box round the new one."""
        low, high = self.old.points.min(0), self.old.points.max(0)
        size = np.where(high - low > 0.0, high - low, 1.0)
        share = (place - low) / size
        new_low, new_high = self.new.points.min(0), self.new.points.max(0)
        out: Points3 = new_low + share * (new_high - new_low)
        return out

    @property
    def reach(self) -> float:
        """How far from its expected place a thing may lie, m."""
        return _FAR * float(np.linalg.norm(np.ptp(self.new.points, axis=0)))


@dataclass(frozen=True)
class Refound:
    """The project with what was found again, and the names of what was not."""

    project: Project
    lost: tuple[str, ...]


def refound(project: Project, host_id: str, change: Change) -> Refound:
    """Ports of a host, and points that knots hold on to, brought to where they are on the new object.

    A port that is not found again stays where it is and is marked as lost; a knot lets go and stays.
    """
    host = next(h for h in project.hosts if h.id == host_id)
    locator, creases = Locator(change.new), creases_of(change.new)
    ports = tuple(_port_again(p, change, locator, creases) for p in host.ports)
    lost = [f"{p.name} of {host.show.name}" for p in ports if p.lost]
    if ports:
        project = with_hosts(project, [host_id], ports=ports)
    old = creases_of(change.old)
    for path in project.paths:
        knots = tuple(_knot_again(k, host, change, (old, creases, locator)) for k in path.knots)
        if path.made is not None and path.made.rest is not None and path.made.rest.host == host.id:
            rest = _rest_again(path.made.rest, host, change, locator)
            lost += [] if rest is not None else [f"the {path.made.shape} on {host.show.name}"]
            project = with_path(project, evolve(path, made=evolve(path.made, rest=rest)))
        elif any(a is not b for a, b in zip(knots, path.knots, strict=True)):
            gone = sum(a.hold is None and b.hold is not None for a, b in zip(knots, path.knots, strict=True))
            if gone:
                lost.append(f"{gone} knot{'s' if gone > 1 else ''} on {host.show.name}")
            project = with_path(project, evolve(path, knots=knots))
    return Refound(project, tuple(lost))


def _port_again(port: Port, change: Change, locator: Locator, creases: Creases) -> Port:
    wanted, out = change.expected(np.array(port.centre)), np.array(port.direction)
    found = _spot(port, wanted, out, (locator, creases))
    if found is None or np.linalg.norm(found.centre - wanted) > max(change.reach, port.diameter):
        return evolve(port, lost=True)
    return evolve(
        port,
        centre=_place(found.centre),
        direction=_place(found.direction),
        diameter=found.diameter,
        lost=False,
    )


def _spot(port: Port, wanted: Points3, out: Floats, at: tuple[Locator, Creases]) -> Spot | None:
    """The rim, face or point of the new object that lies nearest to where the port should be and faces the same way."""
    locator, creases = at
    if port.found == "rim":
        return _rim_near(creases, wanted, out)
    hit = locator.nearest(wanted, float(np.linalg.norm(np.ptp(locator.points, axis=0))) or 1.0)
    if hit is None or float(hit.normal @ out) < 0.7:
        return None
    return Spot(hit.place, hit.normal, port.diameter) if port.found == "point" else face_port(
        locator.points, locator.tris, hit.face
    )  # fmt: skip


def _rim_near(creases: Creases, wanted: Points3, out: Floats) -> Spot | None:
    if not len(creases.edges):
        return None
    middles = creases.points[creases.edges].mean(1)
    order = np.argsort(((middles - wanted) ** 2).sum(1))
    best: Spot | None = None
    for edge in order[:64]:
        spot = rim_port(creases, int(edge), out)
        if spot is None or float(spot.direction @ out) < 0.7:
            continue
        if best is None or np.linalg.norm(spot.centre - wanted) < np.linalg.norm(best.centre - wanted):
            best = spot
    return best


def _knot_again(knot: Knot, host: Host, change: Change, at: tuple[Creases, Creases, Locator]) -> Knot:
    """A knot that holds on to a point of the host: to the same corner of the new object, else to its surface. One that
    rests on it: to the surface there that faces the same way."""
    if isinstance(knot.hold, RestHold) and knot.hold.host == host.id:
        rest = _rest_again(knot.hold, host, change, at[2])
        return knot if rest == knot.hold else evolve(knot, hold=rest)
    if not isinstance(knot.hold, PointHold) or knot.hold.host != host.id:
        return knot
    old, new, locator = at
    place = np.array(knot.hold.point)
    wanted = change.expected(place)
    found: Points3 | None = None
    size = float(np.linalg.norm(np.ptp(change.old.points, axis=0)))
    if len(old.points) and np.linalg.norm(old.points - place, axis=1).min() <= _SAME * max(size, 1.0):
        gaps = np.linalg.norm(new.points[np.unique(new.edges)] - wanted, axis=1) if len(new.edges) else np.empty(0)
        if len(gaps) and gaps.min() <= change.reach:
            found = new.points[np.unique(new.edges)][int(np.argmin(gaps))]
    else:
        hit = locator.nearest(wanted, change.reach)
        found = None if hit is None else hit.place
    if found is None:
        return evolve(knot, hold=None)
    return evolve(knot, hold=evolve(knot.hold, point=_place(found)))


def _rest_again(hold: RestHold, host: Host, change: Change, locator: Locator) -> RestHold | None:
    """Where on the new object what rested on the old one rests; None where that faces elsewhere, or is gone."""
    matrix, at = matrix_of(host.place)
    own = np.asarray(np.linalg.solve(matrix, np.array(hold.foot) - at), dtype=np.float64)
    wanted = change.expected(own)
    hit = locator.nearest(wanted, change.reach)
    if hit is None:
        return None
    up = matrix @ (hit.normal if float(matrix @ hit.normal @ hold.up) >= 0.0 else -hit.normal)
    up = up / np.linalg.norm(up)
    if float(up @ hold.up) < _ALIKE:
        return None
    return evolve(hold, foot=_place(matrix @ hit.place + at), up=_place(up))


def _place(p: Floats) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
