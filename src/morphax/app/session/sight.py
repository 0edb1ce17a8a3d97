"""A sight: how a view shows places, as tools know it. They ask nothing else of a view, so that any view can serve them.

Pixels from top left, lengths in m.
"""

from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

import numpy as np

from morphax.app.session.camera import Basis, Camera, Ray, basis, metres_per_pixel, projected, ray, sight_of


class Sight(Protocol):
    """Where places are seen, and what lies behind a pixel. Sights of equal values are equal and hash alike."""

    @property
    def name(self) -> str:
        """What the view is called."""
        ...

    @property
    def is_flat(self) -> bool:
        """Whether lines of sight are parallel, so that depth is not seen."""
        ...

    @property
    def size(self) -> tuple[int, int]:
        """Width and height of the view, pixels."""
        ...

    @property
    def target(self) -> tuple[float, float, float]:
        """The point that the view looks at, m."""
        ...

    @property
    def height(self) -> float:
        """How much the view shows from its lower to its upper edge, m."""
        ...

    @property
    def grid_scale(self) -> float:
        """Size of a pixel in the middle of the view, m."""
        ...

    @property
    def basis(self) -> Basis:
        """The view's own directions."""
        ...

    def seen(self, points: np.ndarray) -> np.ndarray:
        """Pixels and depth (n, 3) of points (n, 3); what is behind the eye has pixels of nan."""
        ...

    def line(self, pixel: tuple[float, float]) -> Ray:
        """The line of sight through a pixel."""
        ...

    def scale_at(self, place: np.ndarray) -> float:
        """Size of a pixel at a place, m."""
        ...

    def way_to(self, place: np.ndarray) -> np.ndarray:
        """The unit direction (3,) in which a place is seen."""
        ...


@dataclass(frozen=True)
class CameraSight:
    """The sight of a camera in a view of ``size`` pixels."""

    camera: Camera
    size: tuple[int, int]

    @property
    def name(self) -> str:
        return self.camera.view

    @property
    def is_flat(self) -> bool:
        return self.camera.is_flat

    @property
    def target(self) -> tuple[float, float, float]:
        return self.camera.target

    @property
    def height(self) -> float:
        return self.camera.height

    @property
    def grid_scale(self) -> float:
        return self.camera.height / self.size[1]

    @cached_property
    def basis(self) -> Basis:
        return basis(self.camera)

    def seen(self, points: np.ndarray) -> np.ndarray:
        return projected(self.camera, points, self.size)

    def line(self, pixel: tuple[float, float]) -> Ray:
        return ray(self.camera, pixel, self.size)

    def scale_at(self, place: np.ndarray) -> float:
        return metres_per_pixel(self.camera, place, self.size)

    def way_to(self, place: np.ndarray) -> np.ndarray:
        return sight_of(self.camera, place)
