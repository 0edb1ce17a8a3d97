"""What the renderer is asked to draw: frozen values without any VTK."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from morphax.app.session.camera import Camera
from morphax.app.widgets.backdrop import Backdrop, Rgb
from morphax.core.mesh.mesh import Mesh
from morphax.core.pieces.copies import Copies
from morphax.core.types import Points3


@dataclass(frozen=True, eq=False)
class Item:
    """A mesh with its look; ``edges`` off: its edges are never drawn; ``opacity`` below 1: a ghost; ``tints`` (f, 3)
    uint8 of its faces, quads first, in the place of its colour. ``whole``: what it is the faces ``of_look`` of."""

    mesh: "Mesh | Bundle | Repeated"
    colour: Rgb
    roughness: float = 0.6
    metal: float = 0.0
    edges: bool = True
    opacity: float = 1.0
    warns_inside: bool = True
    tints: np.ndarray | None = None
    whole: Mesh | None = None
    of_look: int = 0

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


@dataclass(frozen=True, eq=False)
class Repeated:
    """Many copies of one mesh: drawn as well as their number allows, as boxes while something moves."""

    copies: Copies

    @cached_property
    def points(self) -> range:
        """Counts the points of all."""
        return range(len(self.copies.mesh.points) * len(self.copies.transforms))


HEAVY_POINTS = 200_000
"""With more points in sight, bundles are coarser while something moves, and nothing has shadows or smooth edges."""


def is_heavy(items: tuple[Item, ...]) -> bool:
    """Whether drawing items as well as can be would take too long."""
    return sum(len(item.mesh.points) for item in items) > HEAVY_POINTS


_MOST_SMOOTH = {True: 400_000, False: 60_000}
"""So many faces a smoothed preview may have in all, of a fine picture and of one that is quick."""


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
    device pixels a pixel. ``smooth``: how often bodies are subdivided, those ``smoothed`` or all; ``cages`` are drawn
    as wire over them.
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
    smoothed: tuple[Mesh, ...] | None = None
    cages: tuple[Mesh, ...] = ()

    def smoothed_of(self, item: Item) -> tuple[Mesh, ...]:
        """The meshes of an item that are to be subdivided."""
        if not self.smooth or not item.edges:
            return ()
        wanted = None if self.smoothed is None else {id(m) for m in self.smoothed}
        if isinstance(item.mesh, Repeated):
            return ()
        own = item.mesh.meshes if isinstance(item.mesh, Bundle) else (item.whole or item.mesh,)
        return tuple(m for m in own if m.face_count and (wanted is None or id(m) in wanted))

    @property
    def levels(self) -> int:
        """How often they are subdivided: as often as is wanted, or as it is quick enough."""
        faces = sum(m.face_count for item in self.items for m in self.smoothed_of(item))
        levels = self.smooth
        while levels and faces * 4**levels > _MOST_SMOOTH[self.fine]:
            levels -= 1
        return levels
