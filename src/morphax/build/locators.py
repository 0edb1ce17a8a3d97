"""Nearest points and lines of sight on meshes, by VTK's static cell locator; below app, VTK is known here only."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from vtkmodules.util.numpy_support import numpy_to_vtk, numpy_to_vtkIdTypeArray  # noqa: TID251 - see architecture.md
from vtkmodules.vtkCommonCore import reference, vtkPoints  # noqa: TID251
from vtkmodules.vtkCommonDataModel import (  # noqa: TID251
    vtkCellArray,
    vtkGenericCell,
    vtkPolyData,
    vtkStaticCellLocator,
)

from morphax.core.mesh import Mesh, point_triangles, triangle_normals
from morphax.core.types import Floats, Ints, Points3
from morphax.core.vectors import unit


@dataclass(frozen=True, eq=False)
class Hit:
    """A place on a mesh: ``place`` (3,) m, the face's outward ``normal`` (3,), ``face`` index of its triangle.

    ``far`` m from the point or along the line that asked.
    """

    place: Floats
    normal: Floats
    face: int
    far: float


class Locator:
    """A mesh made ready for queries; worth keeping. Not to be shared between threads."""

    def __init__(self, mesh: Mesh) -> None:
        self.points: Points3 = mesh.points
        self.tris: Ints = point_triangles(mesh)
        self._data = vtkPolyData()
        self._locator: Any = vtkStaticCellLocator()
        holder, cells = vtkPoints(), vtkCellArray()
        holder.SetData(numpy_to_vtk(np.ascontiguousarray(self.points), deep=True))
        offsets = np.arange(0, 3 * len(self.tris) + 1, 3, dtype=np.int64)
        cells.SetData(
            numpy_to_vtkIdTypeArray(offsets, deep=True),
            numpy_to_vtkIdTypeArray(self.tris.ravel().astype(np.int64), deep=True),
        )
        self._data.SetPoints(holder)
        self._data.SetPolys(cells)
        self._locator.SetDataSet(self._data)
        if len(self.tris):
            self._locator.BuildLocator()
            self._low, self._high = mesh.bounds
            self._slack = 1e-9 * float(np.linalg.norm(self._high - self._low))
        self._cell = vtkGenericCell()

    def _normal(self, face: int) -> Floats:
        tri = self.tris[face : face + 1]
        out: Floats = unit(triangle_normals(self.points, tri))[0]
        return out

    def ray(self, origin: Floats, direction: Floats) -> Hit | None:
        """The first face that a line from ``origin`` (3,) along the unit ``direction`` (3,) meets."""
        if not len(self.tris):
            return None
        reach = float(np.linalg.norm(self._high - self._low) + np.linalg.norm(0.5 * (self._low + self._high) - origin))
        x: list[float] = [0.0] * 3
        at: list[float] = [0.0] * 3
        t, sub, face = (reference(v) for v in (0.0, 0, 0))
        end = origin + (reach * 1.01 + 1e-9) * direction
        if not self._locator.IntersectWithLine(tuple(origin), tuple(end), self._slack, t, x, at, sub, face, self._cell):
            return None
        place = np.array(x)
        return Hit(place, self._normal(int(face)), int(face), float((place - origin) @ direction))

    def nearest(self, point: Floats, within: float) -> Hit | None:
        """The nearest place on the mesh, no farther than ``within`` m."""
        if not len(self.tris):
            return None
        x: list[float] = [0.0] * 3
        face, sub, far2 = (reference(v) for v in (0, 0, 0.0))
        if not self._locator.FindClosestPointWithinRadius(tuple(point), within, x, self._cell, face, sub, far2):
            return None
        return Hit(np.array(x), self._normal(int(face)), int(face), float(np.linalg.norm(np.array(x) - point)))
