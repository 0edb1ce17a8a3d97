"""Guides as meshes: a picture's sheet, and helper lines, which have edges but no faces."""

from dataclasses import dataclass

import numpy as np

from morphax.core.mesh.mesh import FacePart, Mesh, empty_mesh
from morphax.core.mesh.triangles import Creases
from morphax.core.types import Ints, frozen
from morphax.core.vectors import any_perpendicular, unit
from morphax.project.model.document import Helper, Picture, View

VIEW_AXES: dict[View, tuple[tuple[int, int, int], tuple[int, int, int]]] = {
    "Front": ((1, 0, 0), (0, 0, 1)),
    "Right": ((0, 1, 0), (0, 0, 1)),
    "Back": ((-1, 0, 0), (0, 0, 1)),
    "Left": ((0, -1, 0), (0, 0, 1)),
    "Top": ((1, 0, 0), (0, 1, 0)),
    "Bottom": ((1, 0, 0), (0, -1, 0)),
}
"""Right and up of a picture that is seen in a view."""


def picture_mesh(picture: Picture) -> Mesh:
    """A picture's sheet about its middle: one quad, its corners from the lower left on, counter-clockwise as seen."""
    right, up = (np.array(v, dtype=np.float64) for v in VIEW_AXES[picture.view])
    x, y = 0.5 * picture.width * right, 0.5 * picture.height * up
    points = np.stack([-x - y, x - y, x + y, -x + y])
    quad, none = np.arange(4, dtype=np.int32)[None], np.empty((0, 3), dtype=np.int32)
    normals = np.tile(np.cross(right, up), (4, 1)).astype(np.float32)
    texture = np.array([(0, 0), (1, 0), (1, 1), (0, 1)], dtype=np.float32)
    one, part = frozen(quad), (FacePart("host", (0, 1), (0, 0)),)
    return Mesh(
        frozen(points),
        one,
        frozen(none),
        frozen(quad[0]),
        frozen(normals),
        frozen(texture),
        one,
        frozen(none),
        part,
        0,
        0,
    )


@dataclass(frozen=True, eq=False)
class LineMesh(Mesh):
    """A mesh without faces; ``edges`` (e, 2) between its points."""

    edges: Ints | None = None


def line_mesh(helper: Helper) -> LineMesh:
    """A helper line as a mesh of edges."""
    count = len(helper.places)
    edges = np.stack([np.arange(count), np.roll(np.arange(count), -1)], axis=1).astype(np.int32)
    bare = empty_mesh()
    fields = {name: getattr(bare, name) for name in bare.__dataclass_fields__}
    points = frozen(np.array(helper.places, dtype=np.float64))
    return LineMesh(**{**fields, "points": points}, edges=frozen(edges if helper.closed else edges[:-1]))


def line_creases(mesh: LineMesh) -> Creases:
    """The edges of a helper line; the sides of a flat one are outward and its plane's normal."""
    edges = mesh.edges if mesh.edges is not None else np.empty((0, 2), dtype=np.int32)
    p = mesh.points
    middle = p - p.mean(0)
    normal = np.linalg.svd(middle)[2][2] if len(p) > 2 else np.array([0.0, 0.0, 1.0])
    main = normal[int(np.argmax(np.abs(normal)))]
    normal = normal if main > 0.0 else -normal
    along = unit(p[edges[:, 1]] - p[edges[:, 0]])
    across = np.cross(along, normal)
    bare = np.linalg.norm(across, axis=1) < 1e-6
    across = unit(np.where(bare[:, None], any_perpendicular(along), across))
    outward = ((p[edges].mean(1) - p.mean(0)) * across).sum(1)
    across = np.where(outward[:, None] < 0.0, -across, across)
    up = np.broadcast_to(normal, across.shape)
    return Creases(p, edges, np.stack([across, up], axis=1))
