"""Triangles in VTK's static cell locator; below app, VTK is known here only, and loaded when the first is made."""

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

from morphax.core.types import Floats, Ints, Points3

Found = tuple[Floats, int]
"""A place (3,), m, and the triangle that it lies on."""


class Cells:
    """Triangles (t, 3) of points (p, 3), m, ready to be asked; by one thread at a time."""

    def __init__(self, points: Points3, tris: Ints) -> None:
        data, holder, cells = vtkPolyData(), vtkPoints(), vtkCellArray()
        holder.SetData(numpy_to_vtk(np.ascontiguousarray(points), deep=True))
        offsets = np.arange(0, 3 * len(tris) + 1, 3, dtype=np.int64)
        cells.SetData(
            numpy_to_vtkIdTypeArray(offsets, deep=True),
            numpy_to_vtkIdTypeArray(tris.ravel().astype(np.int64), deep=True),
        )
        data.SetPoints(holder)
        data.SetPolys(cells)
        self._cell = vtkGenericCell()
        self._locator: Any = vtkStaticCellLocator()  # its stubs know no references
        self._locator.SetDataSet(data)
        self._locator.BuildLocator()

    def first_met(self, start: Floats, end: Floats, slack: float) -> Found | None:
        """Where a line from ``start`` to ``end`` meets the first triangle, within ``slack`` m."""
        x: list[float] = [0.0] * 3
        at: list[float] = [0.0] * 3
        t, sub, face = (reference(v) for v in (0.0, 0, 0))
        met = self._locator.IntersectWithLine(tuple(start), tuple(end), slack, t, x, at, sub, face, self._cell)
        return (np.array(x), int(face)) if met else None

    def closest(self, points: Points3) -> tuple[Points3, Ints]:
        """The nearest place (n, 3) on a triangle to each of some points (n, 3), and which triangle (n,) that is."""
        x: list[float] = [0.0] * 3
        face, sub, far2 = (reference(v) for v in (0, 0, 0.0))
        places, faces = np.empty_like(points), np.empty(len(points), dtype=np.int32)
        for k, point in enumerate(points.tolist()):
            self._locator.FindClosestPoint(point, x, self._cell, face, sub, far2)
            places[k], faces[k] = x, int(face)
        return places, faces

    def nearest(self, point: Floats, within: float) -> Found | None:
        """The nearest place on a triangle, no farther than ``within`` m."""
        x: list[float] = [0.0] * 3
        face, sub, far2 = (reference(v) for v in (0, 0, 0.0))
        met = self._locator.FindClosestPointWithinRadius(tuple(point), within, x, self._cell, face, sub, far2)
        return (np.array(x), int(face)) if met else None
