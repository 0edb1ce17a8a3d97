"""A mesh's answers to runs that are laid on it or cut to it."""

import threading

import numpy as np

from morphax.build.locators import Locator
from morphax.core.mesh.mesh import Mesh
from morphax.core.types import Floats, Points3, Vectors3


class MeshQuery:
    """Nearest places and first faces of a mesh; each thread prepares its own locator."""

    def __init__(self, mesh: Mesh) -> None:
        self._mesh, self._own = mesh, threading.local()

    @property
    def key(self) -> object:
        return self._mesh

    @property
    def _locator(self) -> Locator:
        if not hasattr(self._own, "locator"):
            self._own.locator = Locator(self._mesh)
        found: Locator = self._own.locator
        return found

    def nearest(self, points: Points3) -> tuple[Points3, Vectors3]:
        """The nearest places (n, 3) to points (n, 3), m, and the outward normals (n, 3) of the faces there.

        A point's neighbour bounds how far its own nearest place can be, so points that follow a path are found fast.
        """
        locator, middle = self._locator, 0.5 * (self._mesh.points.min(0) + self._mesh.points.max(0))
        size = float(np.linalg.norm(np.ptp(self._mesh.points, axis=0)))
        places, normals = np.zeros(points.shape), np.zeros(points.shape)
        far, before = np.inf, points[0]
        for i, p in enumerate(points):
            bound = min(far + float(np.linalg.norm(p - before)), float(np.linalg.norm(p - middle)) + size)
            hit = locator.nearest(p, bound * (1.0 + 1e-9) + 1e-9)
            if hit is not None:
                places[i], normals[i], far = hit.place, hit.normal, hit.far
            before = p
        return places, normals

    def hits(self, origins: Points3, directions: Vectors3, within: float) -> Floats:
        """Distances (n,) from origins along unit directions to the first face, nan beyond ``within`` m."""
        found = [self._locator.ray(o, d) for o, d in zip(origins, directions, strict=True)]
        far = np.array([np.nan if hit is None else hit.far for hit in found])
        return np.where(far <= within, far, np.nan)
