"""Nearest points and lines of sight on meshes, by VTK's static cell locator; below app, VTK is known here only."""

from dataclasses import dataclass
from functools import cached_property
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

from morphax.core.mesh.mesh import Mesh, point_triangles, triangle_normals
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
    """A mesh made ready for queries, at the first one that comes near it; worth keeping. Not to be shared between
    threads while it asks or is made ready."""

    def __init__(self, mesh: Mesh) -> None:
        self._mesh = mesh
        self.points: Points3 = mesh.points
        self.bounds: Points3 = mesh.bounds
        if len(self.points):
            self._low, self._high = self.bounds
            self._slack = 1e-9 * float(np.linalg.norm(self._high - self._low))
            self._margin = 1e3 * self._slack

    @cached_property
    def tris(self) -> Ints:
        """All faces as triangles (t, 3) of indices into ``points``."""
        return point_triangles(self._mesh)

    @cached_property
    def _locator(self) -> Any:
        data, holder, cells = vtkPolyData(), vtkPoints(), vtkCellArray()
        holder.SetData(numpy_to_vtk(np.ascontiguousarray(self.points), deep=True))
        offsets = np.arange(0, 3 * len(self.tris) + 1, 3, dtype=np.int64)
        cells.SetData(
            numpy_to_vtkIdTypeArray(offsets, deep=True),
            numpy_to_vtkIdTypeArray(self.tris.ravel().astype(np.int64), deep=True),
        )
        data.SetPoints(holder)
        data.SetPolys(cells)
        found = vtkStaticCellLocator()
        found.SetDataSet(data)
        found.BuildLocator()
        self._cell = vtkGenericCell()
        return found

    def prepare(self) -> None:
        """Makes it ready now: worth it for a heavy mesh, in a thread."""
        if self._mesh.face_count:
            assert self._locator is not None

    def _is_met(self, origin: Floats, direction: Floats) -> bool:
        """Whether a line from ``origin`` meets the box round the mesh."""
        with np.errstate(divide="ignore", invalid="ignore"):
            one, two = (self._low - self._margin - origin) / direction, (self._high + self._margin - origin) / direction
        enter, leave = np.fmin(one, two), np.fmax(one, two)  # 0 / 0: in the plane of a side
        return bool(max(np.nanmax(enter), 0.0) <= np.nanmin(leave))

    def _normal(self, face: int) -> Floats:
        tri = self.tris[face : face + 1]
        out: Floats = unit(triangle_normals(self.points, tri))[0]
        return out

    def ray(self, origin: Floats, direction: Floats) -> Hit | None:
        """The first face that a line from ``origin`` (3,) along the unit ``direction`` (3,) meets."""
        if not self._mesh.face_count or not self._is_met(origin, direction):
            return None
        reach = float(np.linalg.norm(self._high - self._low) + np.linalg.norm(0.5 * (self._low + self._high) - origin))
        x: list[float] = [0.0] * 3
        at: list[float] = [0.0] * 3
        t, sub, face = (reference(v) for v in (0.0, 0, 0))
        locator = self._locator
        end = origin + (reach * 1.01 + 1e-9) * direction
        if not locator.IntersectWithLine(tuple(origin), tuple(end), self._slack, t, x, at, sub, face, self._cell):
            return None
        place = np.array(x)
        return Hit(place, self._normal(int(face)), int(face), float((place - origin) @ direction))

    def nearest(self, point: Floats, within: float) -> Hit | None:
        """The nearest place on the mesh, no farther than ``within`` m."""
        if not self._mesh.face_count:
            return None
        off = np.maximum(np.maximum(self._low - point, point - self._high), 0.0)
        if float(off @ off) > within * within:
            return None
        locator = self._locator
        x: list[float] = [0.0] * 3
        face, sub, far2 = (reference(v) for v in (0, 0, 0.0))
        if not locator.FindClosestPointWithinRadius(tuple(point), within, x, self._cell, face, sub, far2):
            return None
        return Hit(np.array(x), self._normal(int(face)), int(face), float(np.linalg.norm(np.array(x) - point)))
