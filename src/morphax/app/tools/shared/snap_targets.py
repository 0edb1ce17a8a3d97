"""What lies round the pointer and may catch it: knots, ports, corners and edges of hosts, surfaces. No Qt here."""

from dataclasses import replace
from typing import Literal

import numpy as np

from morphax.app.session.in_sight import Meshes
from morphax.app.session.pointer import Pointer
from morphax.app.session.workspace import Workspace
from morphax.app.tools.shared.crossings import crossing_near
from morphax.app.tools.shared.edges_seen import EdgesSeen
from morphax.app.tools.shared.landing import SNAP_PIXELS, Caught, Snapping, Surface, Target
from morphax.app.tools.shared.picking import Picker
from morphax.build.cache import IdentityCache
from morphax.build.locators import Hit
from morphax.core.mesh.mesh import Mesh
from morphax.core.mesh.port_finding import Spot
from morphax.core.mesh.triangles import Creases
from morphax.core.section.sections import anchor_place, section_bounds
from morphax.project.derive.holds import placed_port
from morphax.project.edits.hosts import host_by_id
from morphax.project.edits.ports import NewPort
from morphax.project.lookup import source_shape
from morphax.project.model.document import Place, Project

_MOST_TRIED = 8
_BESIDE_PIXELS = 24.0
_SAME_DEPTH = 1e-6
"""What lies on a surface is seen, though the line of sight meets the surface so much of its length before it."""
_MOST_FLAT = 30_000
"""In larger hosts only rims are looked for while the pointer moves."""


class SnapTargets:
    """Looks up what may catch the pointer; remembers edges and prepared meshes by identity."""

    def __init__(self, workspace: Workspace, picker: Picker) -> None:
        self.workspace, self.picker = workspace, picker
        self.edges = EdgesSeen()
        self._hosts: IdentityCache[Meshes] = IdentityCache(4)
        self._front: IdentityCache[tuple[tuple[str, Hit] | None]] = IdentityCache(4)

    def hosts(self) -> Meshes:
        """Meshes of the hosts that are shown, by id; pictures have no surface to draw on."""
        ws = self.workspace

        def make() -> Meshes:
            shown = [h for h in ws.project.hosts if h.picture is None and not h.show.hidden]
            return Meshes((h.id, ws.bodies.builder.host(ws.project, h)) for h in shown)

        return self._hosts.get((ws.project.hosts, ws.project.assets), make)

    def front(self, at: Pointer) -> tuple[str, Hit] | None:
        """The first face of a host under the pointer."""
        hosts = self.hosts()
        find = lambda: (self.picker.nearest_hit(hosts, at.sight.line(at.pixel)),)  # noqa: E731
        return self._front.get((hosts, at.sight, *at.pixel), find)[0]

    def surface(self, at: Pointer, snapping: Snapping, *, without: tuple[str, ...] = ()) -> Surface | None:
        """The first face under the pointer, of a host or of a built body."""
        if not snapping.faces:
            return None
        ws = self.workspace
        line = at.sight.line(at.pixel)
        own = ws.bodies.in_sight.visible_meshes
        met = {i: own[i] for i in own.met_by(line.origin, line.direction) if i not in without}
        found = self.picker.nearest_hit(Meshes({**self.hosts(), **met}), line)
        if found is None:
            return None
        of, hit = found
        normal = hit.normal if hit.normal @ line.direction < 0.0 else -hit.normal
        name = (ws.project.find("hosts", of) or ws.project.find("runs", of)).show.name
        return Surface(hit.place, normal, of, name, hit.face)

    def rest(self, width: float) -> float:
        """How far the next run's path lies from what it rests on: its section's reach below its anchor, m."""
        shape = source_shape(self.workspace.bench.next_run.source)
        x0, y0, x1, _ = section_bounds(shape)
        return (anchor_place(shape, shape.laying.anchor)[1] - y0) * width / (x1 - x0)

    def caught(self, at: Pointer, snapping: Snapping, knots: tuple[Target, ...] = ()) -> Target | None:
        """What catches the pointer: knots and ports first, then corners and edge middles, then edges.

        Edges and corners that lie behind a surface don't catch.
        """
        near = _nearest(at, (*(knots if snapping.knots else ()), *self.ports(self.workspace.finished, snapping)))
        if near is not None and not self._is_behind(at, np.array(near.place)):
            return near
        rim = self.rim(at) if snapping.ports else None
        if rim is not None:
            return rim
        if not (snapping.corners or snapping.edges or snapping.middles or snapping.crossings):
            return None
        best: Target | None = None
        for host, mesh in self.hosts().items():
            creases = self.edges.creases(mesh)
            for found in _on_edges(at, creases, self.edges.under(at, creases), snapping):
                if not self._is_behind(at, np.array(found.place)):
                    found = replace(found, host=host)
                    best = found if best is None or _rank(found) < _rank(best) else best
                    break
        if snapping.crossings and (best is None or best.kind is Caught.EDGE):
            crossing = self._crossing(at)
            best = best if crossing is None else crossing
        return best

    def _crossing(self, at: Pointer) -> Target | None:
        """Where two edges or paths cross in the view, near the pointer; the place lies on the nearer of the two."""
        lines = []
        for mesh in self.hosts().values():
            creases = self.edges.creases(mesh)
            lines.append(creases.points[creases.edges[self._edges_before(at, creases)]])
        ws = self.workspace
        own = ws.chosen.run_id if ws.unfinished.is_drawing else None
        for run_id, built in ws.bodies.in_sight.visible.items():
            if run_id != own:
                lines.append(self.edges.near_pieces(at, built.path.polyline))
        found = crossing_near(at, np.concatenate(lines) if lines else np.empty((0, 2, 3)), SNAP_PIXELS)
        if found is None or self._is_behind(at, found.place):
            return None
        ways = tuple(w for d in found.lines for w in _along(d))
        return Target("crossing", _place(found.place), Caught.CROSSING, ways=ways)

    def rim(self, at: Pointer) -> Target | None:
        """The flat round face whose middle is under the pointer, or a round rim there, which can become a port.

        Of several rims the nearest to the eye counts.
        """
        hosts, line = self.hosts(), at.sight.line(at.pixel)
        front = self.front(at)
        found = None if front is None else self._round_face(at, hosts[front[0]], front)
        if found is not None:
            return found
        best: tuple[float, str, Spot] | None = None
        for host_id, mesh in hosts.items():
            creases = self.edges.creases(mesh)
            for edge in self._edges_before(at, creases):
                spot = self.edges.rim(at, creases, edge)
                depth = 0.0 if spot is None else float((spot.centre - line.origin) @ line.direction)
                if spot is not None and (best is None or depth < best[0]):
                    best = (depth, host_id, spot)
        return None if best is None else _as_target(self.workspace.finished, *best[1:])

    def _round_face(self, at: Pointer, mesh: Mesh, front: tuple[str, Hit]) -> Target | None:
        """The round face under the pointer, where the pointer is near its middle."""
        locator = self.picker.locator(mesh)
        if len(locator.tris) > _MOST_FLAT:
            return None
        spot = self.edges.face(locator, front[1].face)
        seen = at.sight.seen(spot.centre[None])[0]
        is_near = np.hypot(seen[0] - at.pixel[0], seen[1] - at.pixel[1]) <= SNAP_PIXELS
        return _as_target(self.workspace.finished, front[0], spot) if spot.is_round and is_near else None

    def edge_at(self, at: Pointer) -> tuple[str, Creases, int] | None:
        """The seen edge of a host under the pointer, in front of all surfaces."""
        hosts = self.hosts()
        best: tuple[float, str, Creases, int] | None = None
        for host_id, mesh in hosts.items():
            creases = self.edges.creases(mesh)
            for edge in self._edges_before(at, creases)[:1]:
                place = _on_segment(at, *creases.points[creases.edges[edge]])
                seen = at.sight.seen(place[None])[0]
                gap = float(np.hypot(seen[0] - at.pixel[0], seen[1] - at.pixel[1]))
                if best is None or gap < best[0]:
                    best = (gap, host_id, creases, edge)
        return None if best is None else best[1:]

    def _edges_before(self, at: Pointer, creases: Creases) -> list[int]:
        """The edges under the pointer that no surface hides, the nearest to it first."""
        ends = creases.points[creases.edges]
        near = self.edges.under(at, creases)[:_MOST_TRIED]
        return [e for e in near if not self._is_behind(at, _on_segment(at, *ends[e]))]

    def beside(self, at: Pointer) -> np.ndarray | None:
        """The place of the nearest edge of a host whose outline passes the pointer within 24 pixels, where the pointer
        is on none: its depth is what a first knot takes."""
        if self.front(at) is not None:
            return None
        found: list[tuple[float, float, np.ndarray]] = []
        for mesh in self.hosts().values():
            creases = self.edges.creases(mesh)
            for edge in self.edges.within(at, creases, _BESIDE_PIXELS)[:1]:
                place = _on_segment(at, *creases.points[creases.edges[edge]])
                x, y, depth = at.sight.seen(place[None])[0]
                found.append((round(float(np.hypot(x - at.pixel[0], y - at.pixel[1])), 1), float(depth), place))
        return min(found, key=lambda f: f[:2])[2] if found else None

    def port_at(self, at: Pointer) -> tuple[str, NewPort] | None:
        """The port that can be made under the pointer, and its host's name: a rim, a face, or (Shift) a point."""
        rim = None if at.add else self.rim(at)
        if rim is not None and rim.of is not None and rim.spot is not None:
            return host_by_id(self.workspace.project, rim.of[0]).show.name, _new_port(rim.spot, "rim")
        front = self.front(at)
        if front is None:
            return None
        name, hit = host_by_id(self.workspace.project, front[0]).show.name, front[1]
        if at.add:
            return name, _new_port(Spot(hit.place, hit.normal, 0.0), "point")
        locator = self.picker.locator(self.hosts()[front[0]])
        return name, _new_port(self.edges.face(locator, hit.face), "face")

    def is_filled(self, target: Target) -> bool:
        """Whether a round rim or face has a surface in its middle: a post's top has one, a pipe's opening none."""
        mesh = None if target.of is None else self.hosts().get(target.of[0])
        size = 0.0 if target.spot is None else target.spot.diameter
        return mesh is not None and self.picker.locator(mesh).nearest(np.array(target.place), 1e-3 * size) is not None

    def ports(self, project: Project, snapping: Snapping) -> tuple[Target, ...]:
        """The ports of all hosts that are shown."""
        if not snapping.ports:
            return ()
        hosts = [h for h in project.hosts if not h.show.hidden]
        return tuple(
            Target(p.name, placed_port(h, p).centre, Caught.PORT, (h.id, p.id))
            for h in hosts
            for p in h.ports
            if not p.lost
        )

    def _is_behind(self, at: Pointer, place: np.ndarray) -> bool:
        """Whether a surface of a host lies between the eye and a place; nothing does while paths are seen through."""
        if at.through:
            return False
        x, y, _ = at.sight.seen(place[None])[0]
        line = at.sight.line((float(x), float(y)))
        met = self.picker.nearest_hit(self.hosts(), line)
        far = float((place - line.origin) @ line.direction)
        return met is not None and met[1].far < far - _SAME_DEPTH * max(abs(far), at.sight.height)


def _new_port(spot: Spot, found: Literal["face", "rim", "point"]) -> NewPort:
    return NewPort(_place(spot.centre), _place(spot.direction), spot.diameter, found)


def _place(p: np.ndarray) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))


def _as_target(project: Project, host_id: str, spot: Spot) -> Target:
    """A place that can become a port; an existing port that lies there is taken instead."""
    host = host_by_id(project, host_id)
    for port in host.ports:
        placed = placed_port(host, port)
        if np.linalg.norm(np.array(placed.centre) - spot.centre) < 1e-4 + 0.01 * spot.diameter:
            return Target(port.name, placed.centre, Caught.PORT, (host.id, port.id))
    place = (float(spot.centre[0]), float(spot.centre[1]), float(spot.centre[2]))
    return Target(f"outlet of {host.show.name}", place, Caught.PORT, (host.id, ""), spot)


def _rank(target: Target) -> int:
    return {Caught.CORNER: 0, Caught.MIDDLE: 1}.get(target.kind, 2)


def _nearest(at: Pointer, targets: tuple[Target, ...]) -> Target | None:
    if not targets:
        return None
    seen = at.sight.seen(np.array([t.place for t in targets]))
    gap = np.hypot(seen[:, 0] - at.pixel[0], seen[:, 1] - at.pixel[1])
    gap = np.where(np.isnan(gap), np.inf, gap)
    k = int(np.argmin(gap))
    return targets[k] if gap[k] <= SNAP_PIXELS else None


def _on_edges(at: Pointer, creases: Creases, near: list[int], snapping: Snapping) -> list[Target]:
    """Corners, edge middles and places on edges of one host under the pointer, as they catch."""
    if not near:
        return []
    ends = creases.points[creases.edges[near]]  # (k, 2, 3)
    out: list[Target] = []
    for wanted, kind, places in (
        (snapping.corners, Caught.CORNER, np.unique(ends.reshape(-1, 3), axis=0)),
        (snapping.middles, Caught.MIDDLE, ends.mean(1)),
    ):
        if wanted:
            seen = at.sight.seen(places)
            gap = np.hypot(seen[:, 0] - at.pixel[0], seen[:, 1] - at.pixel[1])
            order = [int(k) for k in np.argsort(gap, kind="stable") if gap[k] <= SNAP_PIXELS]
            beside = [_faces(creases, near[k]) if kind is Caught.MIDDLE else () for k in order]
            out += [
                Target(kind.value, _place(places[k]), kind, ways=_ways(ends, places[k], kind), faces=f)
                for k, f in zip(order, beside, strict=True)
            ]
    if snapping.edges:
        for k, pair in enumerate(ends[:_MOST_TRIED]):
            place, faces = _place(_on_segment(at, *pair)), _faces(creases, near[k])
            out.append(Target(Caught.EDGE.value, place, Caught.EDGE, ways=_along(pair[1] - pair[0]), faces=faces))
    return out


def _faces(creases: Creases, edge: int) -> tuple[Place, ...]:
    """Normals of the two faces at an edge; none where it has one only."""
    both = creases.normals[edge]
    return tuple(_place(n) for n in both) if np.isfinite(both).all() and both.any(1).all() else ()


def _ways(ends: np.ndarray, place: np.ndarray, kind: Caught) -> tuple[tuple[float, float, float], ...]:
    """Directions of the edges (k, 2, 3) that meet in a corner, or of the one whose middle a place is."""
    if kind is not Caught.CORNER:
        k = int(np.argmin(((ends.mean(1) - place) ** 2).sum(1)))
        return _along(ends[k, 1] - ends[k, 0])
    meet = [
        (pair[1] - pair[0]) * sign for pair in ends for end, sign in ((0, 1.0), (1, -1.0)) if (pair[end] == place).all()
    ]
    return tuple(w for d in meet[:3] for w in _along(d))


def _along(d: np.ndarray) -> tuple[tuple[float, float, float], ...]:
    size = float(np.linalg.norm(d))
    return (_place(d / size),) if size > 0.0 else ()


def _on_segment(at: Pointer, start: np.ndarray, end: np.ndarray) -> np.ndarray:
    """The place of a segment that a line of sight passes nearest."""
    line, d = at.sight.line(at.pixel), end - start
    across = d - (d @ line.direction) * line.direction
    to = line.origin - start
    share = float(to @ across) / max(float(d @ across), 1e-300)
    out: np.ndarray = start + min(max(share, 0.0), 1.0) * d
    return out
