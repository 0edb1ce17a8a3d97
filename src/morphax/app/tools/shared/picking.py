"""What is under the pointer: knots, places on paths, bodies. Pure functions on projected points."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from morphax.app.session.camera import Ray
from morphax.app.session.in_sight import Meshes
from morphax.app.session.sight import Sight
from morphax.build.locators import Hit, Locator
from morphax.core.mesh.mesh import Mesh
from morphax.core.path.arclength import LengthTable
from morphax.core.path.paths import points_at

KNOT_PIXELS, PATH_PIXELS = 9.0, 7.0


@dataclass(frozen=True)
class PathPlace:
    """A place on a path: span, parameter in it, distance in pixels from the pointer."""

    span: int
    t: float
    gap: float


def nearest_knot(sight: Sight, knots: np.ndarray, pixel: tuple[float, float]) -> int | None:
    """Index of the knot (n, 3) under the pointer; the nearest to the eye where several lie on one another."""
    if not len(knots):
        return None
    seen = sight.seen(knots)
    gap = np.hypot(seen[:, 0] - pixel[0], seen[:, 1] - pixel[1])
    near = np.flatnonzero(gap <= KNOT_PIXELS)
    if not len(near):
        return None
    best = near[gap[near] <= gap[near].min() + 1.5]
    return int(best[np.argmin(seen[best, 2])])


def nearest_on_path(
    sight: Sight, table: LengthTable, pixel: tuple[float, float], within: float = PATH_PIXELS
) -> PathPlace | None:
    """The place of a path under the pointer, within some pixels, refined on the curve itself."""
    spans = table.spans
    t = np.linspace(0.0, 1.0, 33)
    points = points_at(spans[:, None], np.broadcast_to(t, (len(spans), 33)))
    seen = sight.seen(points.reshape(-1, 3))[:, :2].reshape(len(spans), 33, 2)
    a, b = seen[:, :-1], seen[:, 1:]
    d = b - a
    with np.errstate(invalid="ignore"):
        share = np.clip(((np.array(pixel) - a) * d).sum(-1) / np.maximum((d * d).sum(-1), 1e-12), 0.0, 1.0)
        gap = np.linalg.norm(a + share[..., None] * d - np.array(pixel), axis=-1)
    gap = np.where(np.isnan(gap), np.inf, gap)
    k = np.unravel_index(int(np.argmin(gap)), gap.shape)
    if not gap[k] <= within or np.isinf(gap[k]):
        return None
    return PathPlace(int(k[0]), float((k[1] + share[k]) / 32.0), float(gap[k]))


class Picker:
    """Finds bodies under lines of sight. ``locator`` gives a mesh made ready for queries."""

    def __init__(self, locator: Callable[[Mesh], Locator] = Locator) -> None:
        self.locator = locator

    def depth(self, mesh: Mesh, line: Ray) -> float | None:
        """Distance along a line of sight to the nearest face of a mesh, m; None where it misses."""
        hit = self.locator(mesh).ray(line.origin, line.direction)
        return None if hit is None else hit.far

    def nearest_hit(self, meshes: Meshes, line: Ray) -> tuple[str, Hit] | None:
        """The first face that a line of sight meets, and whose it is."""
        near = meshes.met_by(line.origin, line.direction)
        hits = {name: self.locator(meshes[name]).ray(line.origin, line.direction) for name in near}
        found = {name: h for name, h in hits.items() if h is not None}
        name = min(found, key=lambda n: found[n].far, default=None)
        return None if name is None else (name, found[name])

    def body(self, sight: Sight, bodies: Meshes, pixel: tuple[float, float]) -> str | None:
        """Id of the nearest body under the pointer."""
        hit = self.nearest_hit(bodies, sight.line(pixel))
        return None if hit is None else hit[0]
