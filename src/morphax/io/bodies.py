"""What exporters are given: named meshes with a look, and how they are to be written."""

import unicodedata
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from morphax.core.mesh.edges_shaded import shaded_as
from morphax.core.mesh.mesh import Mesh, by_look
from morphax.core.pieces.copies import Copies
from morphax.core.types import Floats, frozen
from morphax.project.ready_looks import PLAIN_RUN


@dataclass(frozen=True)
class Look:
    """A material for export: colour as linear or display RGB in 0..1 is the writer's business; here hex."""

    name: str = PLAIN_RUN.name
    colour: str = PLAIN_RUN.colour
    roughness: float = PLAIN_RUN.roughness
    metal: float = PLAIN_RUN.metal

    @property
    def rgb(self) -> tuple[float, float, float]:
        """Display (sRGB) components 0..1."""
        r, g, b = (int(self.colour[i : i + 2], 16) / 255.0 for i in (1, 3, 5))
        return r, g, b


@dataclass(frozen=True, eq=False)
class NamedMesh:
    """One object of an exported file; ``looks`` of its stretches by their names; the ``copies`` that its mesh is all
    of, where it is pieces."""

    name: str
    mesh: Mesh
    look: Look = Look()
    looks: Mapping[str, Look] = field(default_factory=dict)
    copies: Copies | None = None

    @cached_property
    def pieces(self) -> tuple[tuple[Look, Mesh], ...]:
        """The mesh in pieces of one look each, over the same points and vertices: first what looks as the whole."""
        return tuple((self.looks.get(name, self.look), piece) for name, piece in by_look(self.mesh))


@dataclass(frozen=True)
class ExportOptions:
    """``scale`` multiplies metres; ``up`` is the file's vertical axis; ``triangles`` splits quads in OBJ.

    PLY is written in triangles, which every reader takes, unless ``quads`` asks for faces of four corners.
    """

    scale: float = 1000.0
    up: str = "z"
    triangles: bool = False
    quads: bool = False


def shifted(body: NamedMesh, shift: Floats) -> NamedMesh:
    """A body moved by ``shift`` (3,), m, its copies too."""
    if not shift.any():
        return body
    copies = body.copies
    if copies is not None:
        moved = copies.transforms.copy()
        moved[:, :, 3] += shift
        copies = replace(copies, transforms=frozen(moved))
    return replace(body, mesh=replace(body.mesh, points=frozen(body.mesh.points + shift)), copies=copies)


def with_edges(body: NamedMesh, edges: str) -> NamedMesh:
    """A body with its edges shaded as they are, smooth or hard, its copies too."""
    if edges == "kept":
        return body
    copies = body.copies
    if copies is not None:
        copies = replace(copies, mesh=shaded_as(copies.mesh, edges), plain=None)
    return replace(body, mesh=shaded_as(body.mesh, edges), copies=copies)


def plain_name(name: str) -> str:
    """A name without control characters, which no format's names should have."""
    kept = "".join(c if unicodedata.category(c)[0] != "C" else " " for c in name)
    return " ".join(kept.split()) or "body"


def told_apart(names: Sequence[str], clean: Callable[[str], str] = plain_name) -> list[str]:
    """Names as a format has them, each one once: what comes out equal gets a number."""
    out, taken, following = list[str](), set[str](), dict[str, int]()
    for name in names:
        base = unique = clean(name)
        while unique in taken:
            following[base] = following.get(base, 1) + 1
            unique = f"{base}_{following[base]}"
        taken.add(unique)
        out.append(unique)
    return out


def looks_of(bodies: Sequence[NamedMesh]) -> list[Look]:
    """The looks of bodies and their stretches, each once: two of one name that differ stay two."""
    return list(dict.fromkeys(look for b in bodies for look, _ in b.pieces))


def with_up(vectors: np.ndarray, up: str) -> np.ndarray:
    """Vectors (n, 3) of our z-up world in a file whose vertical axis is ``up`` (z or y)."""
    if up == "z":
        return vectors
    return np.stack([vectors[:, 0], vectors[:, 2], -vectors[:, 1]], axis=1)
