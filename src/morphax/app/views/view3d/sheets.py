"""Picture guides as textured sheets behind everything in a flat view."""

import numpy as np

from morphax.app.session.camera import basis
from morphax.app.views.view3d import vtk_names as vtk
from morphax.app.views.view3d.scene import RenderRequest, Sheet

_BEHIND = 399.0
"""How far behind the target sheets are drawn, m: before the grid of flat views, which is 400 m behind."""
_ABOVE_FLOOR = 2e-4
"""In the view from above they lie on the floor: so many view heights above it, below what stands there."""


class SheetActors:
    """One actor and texture for each picture; they belong to the thread that made them."""

    def __init__(self, renderer: vtk.vtkRenderer) -> None:
        self._renderer = renderer
        self._kept: dict[tuple[int, int], tuple[np.ndarray, vtk.vtkActor, vtk.vtkPolyData]] = {}
        self._shown: set[tuple[int, int]] = set()

    def show(self, request: RenderRequest) -> None:
        """Shows the request's pictures, and no others."""
        wanted = {(id(s.pixels), k): s for k, s in enumerate(request.sheets)}  # one picture may hang twice
        for key in self._shown - set(wanted):
            self._renderer.RemoveActor(self._kept.pop(key)[1])
        for key, sheet in wanted.items():
            if key not in self._kept:
                self._kept[key] = (sheet.pixels, *_sheet_actor(sheet))
                self._renderer.AddActor(self._kept[key][1])
            self._place(self._kept[key][1], self._kept[key][2], sheet, request)
        self._shown = set(wanted)

    @staticmethod
    def _place(actor: vtk.vtkActor, data: vtk.vtkPolyData, sheet: Sheet, request: RenderRequest) -> None:
        forward = basis(request.camera).forward
        target = np.array(request.camera.target)
        if request.camera.view == "Top":
            away = (sheet.corners @ forward + _ABOVE_FLOOR * request.camera.height)[:, None]
        else:
            away = ((sheet.corners - target) @ forward - _BEHIND)[:, None]
        points = vtk.vtkPoints()
        flat = np.ascontiguousarray(sheet.corners - away * forward, dtype=np.float32)
        points.SetData(vtk.numpy_to_vtk(flat, deep=True))
        data.SetPoints(points)
        actor.GetProperty().SetOpacity(sheet.opacity)


def _sheet_actor(sheet: Sheet) -> tuple[vtk.vtkActor, vtk.vtkPolyData]:
    """A quad with the picture on it, unlit."""
    data, cells, mapper, actor = vtk.vtkPolyData(), vtk.vtkCellArray(), vtk.vtkPolyDataMapper(), vtk.vtkActor()
    cells.SetData(
        vtk.numpy_to_vtkIdTypeArray(np.array([0, 4], dtype=np.int64), deep=True),
        vtk.numpy_to_vtkIdTypeArray(np.arange(4, dtype=np.int64), deep=True),
    )
    data.SetPolys(cells)
    corners = np.array([(0, 0), (1, 0), (1, 1), (0, 1)], dtype=np.float32)
    data.GetPointData().SetTCoords(vtk.numpy_to_vtk(corners, deep=True))
    mapper.SetInputDataObject(data)
    actor.SetMapper(mapper)
    actor.SetTexture(_texture(sheet.pixels))
    actor.GetProperty().LightingOff()
    actor.ForceTranslucentOn()
    return actor, data


def _texture(pixels: np.ndarray) -> vtk.vtkTexture:
    height, width = pixels.shape[:2]
    image, texture = vtk.vtkImageData(), vtk.vtkTexture()
    image.SetDimensions(width, height, 1)
    rows = np.ascontiguousarray(pixels[::-1]).reshape(-1, pixels.shape[2])
    image.GetPointData().SetScalars(vtk.numpy_to_vtk(rows, deep=True))
    texture.SetInputDataObject(image)
    texture.InterpolateOn()
    texture.MipmapOn()
    texture.SetColorModeToDirectScalars()
    return texture
