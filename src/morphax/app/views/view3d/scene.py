"""What the renderer is asked to draw: frozen values without any VTK."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from morphax.app.session.camera import Camera
from morphax.app.widgets.backdrop import Backdrop, Rgb
from morphax.core.mesh.mesh import Mesh
from morphax.core.types import Points3


@dataclass(frozen=True, eq=False)
class Item:
    """A mesh with its look; ``edges`` off: its edges are never drawn; ``opacity`` below 1: a ghost; ``tints`` (f, 3)
    uint8 of its faces, quads first, in the place of its colour."""

    mesh: "Mesh | Bundle"
    colour: Rgb
    roughness: float = 0.6
    metal: float = 0.0
    edges: bool = True
    opacity: float = 1.0
    warns_inside: bool = True
    tints: np.ndarray | None = None

    @property
    def faces(self) -> int:
        """How many faces it has."""
        return sum(m.face_count for m in (self.mesh.meshes if isinstance(self.mesh, Bundle) else (self.mesh,)))

    @property
    def look(self) -> tuple[object, ...]:
        """All but the mesh."""
        return (self.colour, self.roughness, self.metal, self.edges, self.opacity, self.warns_inside)


@dataclass(frozen=True, eq=False)
class Bundle:
    """Small meshes of one look that are drawn together."""

    meshes: tuple[Mesh, ...]

    @cached_property
    def points(self) -> range:
        """Counts the points of all."""
        return range(sum(len(m.points) for m in self.meshes))


HEAVY_POINTS = 200_000
"""With more points in sight, bundles are coarser while something moves, and nothing has shadows or smooth edges."""


def is_heavy(items: tuple[Item, ...]) -> bool:
    """Whether drawing items as well as can be would take too long."""
    return sum(len(item.mesh.points) for item in items) > HEAVY_POINTS


_MOST_SMOOTH = {True: 400_000, False: 60_000}
"""So many faces a smoothed preview may have in all, of a fine picture and of one that is quick."""


def smooth_levels(items: tuple[Item, ...], wanted: int, *, fine: bool) -> int:
    """How often bodies are subdivided: as often as is wanted, or as it is quick enough."""
    faces = sum(item.faces for item in items if item.edges)
    levels = wanted
    while levels and faces * 4**levels > _MOST_SMOOTH[fine]:
        levels -= 1
    return levels


@dataclass(frozen=True, eq=False)
class Sheet:
    """A picture guide: ``corners`` (4, 3) m from the lower left on, ``pixels`` (h, w, 4) uint8, top row first."""

    corners: Points3
    pixels: np.ndarray
    opacity: float


@dataclass(frozen=True, eq=False)
class RenderRequest:
    """One picture: ``size`` in device pixels; ``fine`` with smooth edges and soft contact shadows.

    ``grid_step`` m; ``edges`` draws the faces' edges; ``shaded`` off draws edges only; ``chosen`` have a rim; ``ratio``
    device pixels a pixel. ``smooth``: how often bodies are subdivided; ``cages`` are drawn as wire over them.
    """

    pane: int
    number: int
    size: tuple[int, int]
    camera: Camera
    items: tuple[Item, ...]
    backdrop: Backdrop
    grid_step: float
    fine: bool
    edges: bool = False
    shaded: bool = True
    sheets: tuple[Sheet, ...] = ()
    chosen: tuple[Mesh, ...] = ()
    ratio: float = 1.0
    grid: bool = True
    shadows: bool = True
    smooth: int = 0
    cages: tuple[Mesh, ...] = ()
