"""What lies near a run and has a say in it: the host that it is laid on, what its up points to."""

from dataclasses import dataclass
from typing import Protocol

import numpy as np

from morphax.core.mesh.mesh import Mesh
from morphax.core.path.resolved import ResolvedPath
from morphax.core.types import Floats, Points3, Vectors3
from morphax.core.vectors import dot


class HostQuery(Protocol):
    """Questions to a host's surface."""

    @property
    def key(self) -> object:
        """What the answers depend on: equal objects answer equally."""

    def nearest(self, points: Points3) -> tuple[Points3, Vectors3]:
        """The nearest places (n, 3) of the surface to points (n, 3), m, and its outward normals (n, 3) there."""

    def hits(self, origins: Points3, directions: Vectors3, within: float) -> Floats:
        """Distances (n,) from origins along unit directions to the surface's first face, nan beyond ``within`` m."""


@dataclass(frozen=True, eq=False)
class Nearby:
    """``host`` that a run is laid on and cut to; ``target`` (n, 3) m: the place or polyline that its up looks at;
    ``others``: for each of its sets of pieces the path that they lead to, nothing in it where that is gone, None where
    they lead nowhere; ``feet`` the same of the hosts that they reach to, ``shapes`` of the meshes that they are."""

    host: HostQuery | None = None
    target: Points3 | None = None
    others: tuple[tuple[ResolvedPath, ...] | None, ...] = ()
    feet: tuple[tuple[HostQuery, ...] | None, ...] = ()
    shapes: tuple[tuple[Mesh, ...] | None, ...] = ()

    @property
    def host_key(self) -> object:
        return None if self.host is None else self.host.key

    def normals(self, points: Points3) -> Vectors3:
        """The host's outward normals (n, 3) nearest to points; zero without a host."""
        return np.zeros(points.shape) if self.host is None else self.host.nearest(points)[1]

    def ways_to_target(self, points: Points3) -> Vectors3:
        """From points (n, 3) to the nearest place of the target, m; zero without one."""
        if self.target is None:
            return np.zeros(points.shape)
        return nearest_on(self.target, points) - points


NOTHING = Nearby()
_BLOCK = 512


def nearest_on(line: Points3, points: Points3) -> Points3:
    """The places (n, 3) of a polyline (m, 3) nearest to points (n, 3); of a single place, that place."""
    if len(line) == 1:
        return np.broadcast_to(line[0], points.shape)
    a, d = line[:-1], np.diff(line, axis=0)
    size2 = np.maximum(dot(d, d), 1e-300)
    out = np.empty(points.shape)
    for i in range(0, len(points), _BLOCK):  # blocks keep the table of all pairs small
        p = points[i : i + _BLOCK, None]
        t = np.clip(dot(p - a, d) / size2, 0.0, 1.0)
        near = a + t[..., None] * d
        best = np.argmin(dot(near - p, near - p), axis=1)
        out[i : i + _BLOCK] = near[np.arange(len(near)), best]
    return out
