"""Plain arrays as VTK's data, and its pictures as plain arrays."""

from collections.abc import Iterable

import numpy as np

from morphax.app.views.view3d import vtk_names as vtk
from morphax.app.views.view3d.drawn import Drawn


def cells_of(arrays: Iterable[np.ndarray]) -> vtk.vtkCellArray:
    """Cells of points, by arrays (n, k) of cells with k points each."""
    faces = [a for a in arrays if len(a)]
    cells = vtk.vtkCellArray()
    if not faces:
        return cells
    connectivity = np.concatenate([a.ravel() for a in faces]).astype(np.int64)
    sizes = np.concatenate([np.full(len(a), a.shape[1]) for a in faces])
    offsets = np.concatenate([[0], np.cumsum(sizes)]).astype(np.int64)
    cells.SetData(vtk.numpy_to_vtkIdTypeArray(offsets, deep=True), vtk.numpy_to_vtkIdTypeArray(connectivity, deep=True))
    return cells


def poly_data(of: Drawn) -> vtk.vtkPolyData:
    """Vertices, normals and faces."""
    data, points = vtk.vtkPolyData(), vtk.vtkPoints()
    points.SetData(vtk.numpy_to_vtk(of.places, deep=True))
    data.SetPoints(points)
    data.SetPolys(cells_of([of.quads, of.tris]))
    normals = vtk.numpy_to_vtk(of.normals, deep=True)
    normals.SetName("Normals")
    data.GetPointData().SetNormals(normals)
    return data


def pixels_of(window: vtk.vtkRenderWindow, size: tuple[int, int]) -> np.ndarray:
    """What a window of a size shows now, (h, w, 3) uint8, top row first."""
    pixels, (width, height) = vtk.vtkUnsignedCharArray(), size
    window.GetPixelData(0, 0, width - 1, height - 1, 0, pixels, 0)
    return np.ascontiguousarray(vtk.vtk_to_numpy(pixels).reshape(height, width, 3)[::-1])
