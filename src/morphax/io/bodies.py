"""What exporters are given: named meshes with a look, and how they are to be written."""

from dataclasses import dataclass

import numpy as np

from morphax.core.mesh.mesh import Mesh


@dataclass(frozen=True)
class Look:
    """A material for export: colour as linear or display RGB in 0..1 is the writer's business; here hex."""

    name: str = "plain"
    colour: str = "#b8b0a2"
    roughness: float = 0.6
    metal: float = 0.0

    @property
    def rgb(self) -> tuple[float, float, float]:
        """Display (sRGB) components 0..1."""
        r, g, b = (int(self.colour[i : i + 2], 16) / 255.0 for i in (1, 3, 5))
        return r, g, b


@dataclass(frozen=True, eq=False)
class NamedMesh:
    """One object of an exported file."""

    name: str
    mesh: Mesh
    look: Look = Look()


@dataclass(frozen=True)
class ExportOptions:
    """``scale`` multiplies metres; ``up`` is the file's vertical axis; ``triangles`` splits quads in OBJ.

    PLY is written in triangles, which every reader takes, unless ``quads`` asks for faces of four corners.
    """

    scale: float = 1000.0
    up: str = "z"
    triangles: bool = False
    quads: bool = False


def with_up(vectors: np.ndarray, up: str) -> np.ndarray:
    """Vectors (n, 3) of our z-up world in a file whose vertical axis is ``up`` (z or y)."""
    if up == "z":
        return vectors
    return np.stack([vectors[:, 0], vectors[:, 2], -vectors[:, 1]], axis=1)
