"""What is under the pointer: knots, places on paths, bodies. Pure functions on projected points."""

from dataclasses import dataclass

import numpy as np

from morphax.app.panes.camera import Camera, Ray, projected, ray
from morphax.build.bodies import IdentityCache
from morphax.core.arclength import LengthTable
from morphax.core.mesh import Mesh, point_triangles
from morphax.core.paths import points_at
from morphax.core.vectors import cross, dot

KNOT_PIXELS, PATH_PIXELS = 9.0, 7.0


@dataclass(frozen=True)
class PathPlace:
    """A place on a path: span, parameter in it, distance in pixels from the pointer."""

    span: int
    t: float
    gap: float


def nearest_knot(camera: Camera, knots: np.ndarray, pixel: tuple[float, float], size: tuple[int, int]) -> int | None:
    """Index of the knot (n, 3) under the pointer; the nearest to the eye where several lie on one another."""
    if not len(knots):
        return None
    seen = projected(camera, knots, size)
    gap = np.hypot(seen[:, 0] - pixel[0], seen[:, 1] - pixel[1])
    near = np.flatnonzero(gap <= KNOT_PIXELS)
    if not len(near):
        return None
    best = near[gap[near] <= gap[near].min() + 1.5]
    return int(best[np.argmin(seen[best, 2])])


def nearest_on_path(
    camera: Camera, table: LengthTable, pixel: tuple[float, float], size: tuple[int, int]
) -> PathPlace | None:
    """The place of a path under the pointer, within 7 pixels, refined on the curve itself."""
    spans = table.spans
    t = np.linspace(0.0, 1.0, 33)
    points = points_at(spans[:, None], np.broadcast_to(t, (len(spans), 33)))
    seen = projected(camera, points.reshape(-1, 3), size)[:, :2].reshape(len(spans), 33, 2)
    a, b = seen[:, :-1], seen[:, 1:]
    d = b - a
    with np.errstate(invalid="ignore"):
        share = np.clip(((np.array(pixel) - a) * d).sum(-1) / np.maximum((d * d).sum(-1), 1e-12), 0.0, 1.0)
        gap = np.linalg.norm(a + share[..., None] * d - np.array(pixel), axis=-1)
    gap = np.where(np.isnan(gap), np.inf, gap)
    k = np.unravel_index(int(np.argmin(gap)), gap.shape)
    if gap[k] > PATH_PIXELS:
        return None
    return PathPlace(int(k[0]), float((k[1] + share[k]) / 32.0), float(gap[k]))


@dataclass(frozen=True, eq=False)
class PickMesh:
    """A mesh made ready for lines of sight: first corners and two edges of its triangles, and its box."""

    corner: np.ndarray
    first: np.ndarray
    second: np.ndarray
    low: np.ndarray
    high: np.ndarray


def pick_mesh(mesh: Mesh) -> PickMesh:
    """Prepares a mesh; worth keeping, since the pointer asks many times."""
    tri = mesh.points[point_triangles(mesh)]
    low, high = (f(mesh.points, axis=0) if len(mesh.points) else np.zeros(3) for f in (np.min, np.max))
    return PickMesh(tri[:, 0].copy(), tri[:, 1] - tri[:, 0], tri[:, 2] - tri[:, 0], low, high)


class Picker:
    """Finds bodies under lines of sight; remembers prepared meshes by identity."""

    def __init__(self, most: int = 256) -> None:
        self._ready: IdentityCache[PickMesh] = IdentityCache(most)

    def depth(self, mesh: Mesh, line: Ray) -> float | None:
        """Distance along a line of sight to the nearest face of a mesh, m; None where it misses."""
        return hit_depth(self._ready.get((mesh,), lambda: pick_mesh(mesh)), line)

    def body(
        self, camera: Camera, bodies: dict[str, Mesh], pixel: tuple[float, float], size: tuple[int, int]
    ) -> str | None:
        """Id of the nearest body under the pointer."""
        line = ray(camera, pixel, size)
        depth = {name: self.depth(mesh, line) for name, mesh in bodies.items()}
        hits = {name: d for name, d in depth.items() if d is not None}
        return min(hits, key=lambda name: hits[name]) if hits else None


def hit_depth(mesh: PickMesh, line: Ray) -> float | None:
    """Distance along a line of sight to the nearest face, m (Moeller and Trumbore 1997); None where it misses."""
    if not len(mesh.corner) or not _meets_box(mesh, line):
        return None
    d = np.broadcast_to(line.direction, mesh.second.shape)
    p = cross(d, mesh.second)
    det = dot(mesh.first, p)
    good = np.abs(det) > 1e-18
    inverse = 1.0 / np.where(good, det, 1.0)
    to = line.origin - mesh.corner
    u = dot(to, p) * inverse
    q = cross(to, mesh.first)
    v = dot(d, q) * inverse
    along = dot(mesh.second, q) * inverse
    hit = good & (u >= 0.0) & (v >= 0.0) & (u + v <= 1.0) & (along > 0.0)
    return float(along[hit].min()) if hit.any() else None


def _meets_box(mesh: PickMesh, line: Ray) -> bool:
    d = np.where(np.abs(line.direction) > 1e-12, line.direction, 1e-12)
    a, b = (mesh.low - line.origin) / d, (mesh.high - line.origin) / d
    return bool(np.minimum(a, b).max() <= np.maximum(a, b).min())
