"""Seen edges, rims and faces of hosts as the pointer meets them; what does not change while it moves is kept. No Qt."""

import numpy as np

from morphax.app.session.pointer import Pointer
from morphax.app.tools.shared.landing import SNAP_PIXELS
from morphax.build.cache import IdentityCache
from morphax.build.guides import LineMesh, line_creases
from morphax.build.locators import Locator
from morphax.core.mesh.mesh import Mesh
from morphax.core.mesh.port_finding import Spot, face_port, facing_order, rim_circle, turned_out
from morphax.core.mesh.triangles import Creases, creases_of
from morphax.core.types import Points3

_SAME_PIXELS = 2.5
"""Edges whose distances from the pointer differ by less are equally near; the one in front counts."""

_SHORT_PIXELS = 12.0
"""A single edge that is shorter on the screen gives way to a longer one beside it."""
_GOES_ON = 0.866
"""Cosine of 30 degrees: edges that turn less where they meet are pieces of one."""

_SEEN_BYTES = 64 << 20


class EdgesSeen:
    """Looks up edges near the pointer; remembers edges, where they are seen, rims and faces by identity."""

    def __init__(self) -> None:
        self._creases: IdentityCache[Creases] = IdentityCache(256)
        self._seen: IdentityCache[np.ndarray] = IdentityCache(256, most_bytes=_SEEN_BYTES, weigh=lambda a: a.nbytes)
        self._under: IdentityCache[list[int]] = IdentityCache(64)
        self._rims: IdentityCache[tuple[Spot | None, ...]] = IdentityCache(256)
        self._going_on: IdentityCache[np.ndarray] = IdentityCache(256)
        self._faces: IdentityCache[Spot] = IdentityCache(256)

    def creases(self, mesh: Mesh) -> Creases:
        """The seen edges of a host's mesh; those of a helper line."""
        if isinstance(mesh, LineMesh):
            return self._creases.get((mesh,), lambda: line_creases(mesh))
        return self._creases.get((mesh,), lambda: creases_of(mesh))

    def knows(self, mesh: Mesh) -> bool:
        """Whether a mesh's edges are found already."""
        return self._creases.known((mesh,))

    def seen(self, at: Pointer, points: Points3) -> np.ndarray:
        """Pixels and depth (n, 3) of points in the pointer's view."""
        return self._seen.get((points, at.sight), lambda: at.sight.seen(points))

    def under(self, at: Pointer, creases: Creases) -> list[int]:
        """The edges within reach of the pointer, the nearest first."""
        if not len(creases.edges):
            return []
        sources = (creases, at.sight, *at.pixel)
        return self._under.get(sources, lambda: self.within(at, creases, SNAP_PIXELS))

    def within(self, at: Pointer, creases: Creases, pixels: float) -> list[int]:
        """The edges no farther than so many pixels from the pointer, the nearest first; short ones last."""
        if not len(creases.edges):
            return []
        seen = self.seen(at, creases.points)
        start, end = (seen[creases.edges[:, i], :2] for i in (0, 1))
        gap = gaps_to(at, start, end)
        near = np.flatnonzero(gap <= pixels)
        if not len(near):
            return []
        middles = creases.points[creases.edges[near]].mean(1)
        depth = at.sight.seen(middles)[:, 2]
        short = np.linalg.norm(end[near] - start[near], axis=1) < _SHORT_PIXELS
        short &= ~self._going_on.get((creases,), lambda: goes_on(creases))[near]
        return [int(k) for k in near[np.lexsort((depth, np.floor(gap[near] / _SAME_PIXELS), short))]]

    def rim(self, at: Pointer, creases: Creases, edge: int) -> Spot | None:
        """The circle of the round rim that an edge belongs to, facing outward."""
        eye = -at.sight.line(at.pixel).direction
        order = facing_order(creases, edge, eye)
        (spot,) = self._rims.get((creases, edge, *order), lambda: (rim_circle(creases, edge, order),))
        return None if spot is None else turned_out(spot, creases.normals[edge], eye)

    def face(self, locator: Locator, face: int) -> Spot:
        """The flat face of a mesh that a triangle belongs to."""
        return self._faces.get((locator, face), lambda: face_port(locator.points, locator.tris, face))

    def near_pieces(self, at: Pointer, line: np.ndarray) -> np.ndarray:
        """The pieces (k, 2, 3) of a polyline (n, 3) that pass the pointer within reach."""
        if len(line) < 2:
            return np.empty((0, 2, 3))
        seen = self.seen(at, line)[:, :2]
        index = np.flatnonzero(gaps_to(at, seen[:-1], seen[1:]) <= SNAP_PIXELS)
        return np.stack([line[index], line[index + 1]], axis=1)


def goes_on(creases: Creases) -> np.ndarray:
    """Which edges (n,) are pieces of a longer one: at one of their ends a single other edge goes on the same way."""
    edges, n = creases.edges, len(creases.points)
    way = creases.points[edges[:, 1]] - creases.points[edges[:, 0]]
    way = way / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-300)
    ends = edges.T.ravel()  # all starts, then all ends
    away = np.concatenate([way, -way])  # each edge's direction away from that end
    order = np.argsort(ends, kind="stable")
    single = np.flatnonzero(np.bincount(ends, minlength=n)[ends[order]] == 2).reshape(-1, 2)
    a, b = order[single[:, 0]], order[single[:, 1]]
    smooth = (away[a] * away[b]).sum(1) < -_GOES_ON
    out = np.zeros(len(edges), dtype=bool)
    out[np.concatenate([a[smooth], b[smooth]]) % len(edges)] = True
    return out


def gaps_to(at: Pointer, start: np.ndarray, end: np.ndarray) -> np.ndarray:
    """Distances (n,), pixels, of segments from ``start`` to ``end`` (n, 2) to the pointer; inf where not seen."""
    d, to = end - start, np.array(at.pixel) - start
    with np.errstate(invalid="ignore"):
        size = np.maximum(d[:, 0] * d[:, 0] + d[:, 1] * d[:, 1], 1e-12)
        share = np.clip((to[:, 0] * d[:, 0] + to[:, 1] * d[:, 1]) / size, 0.0, 1.0)
        gap = np.hypot(share * d[:, 0] - to[:, 0], share * d[:, 1] - to[:, 1])
    return np.where(np.isnan(gap), np.inf, gap)
