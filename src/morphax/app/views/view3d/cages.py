"""The wire of a body's own faces, drawn over its smoothed preview."""

import numpy as np

from morphax.app.views.view3d import vtk_names as vtk
from morphax.app.views.view3d.kept import Kept
from morphax.app.views.view3d.scene import RenderRequest
from morphax.app.views.view3d.vtk_data import cells_of
from morphax.core.mesh.mesh import Mesh

MOST_FACES = 60_000
"""Of more faces together no wire is drawn: nothing would be seen between its lines."""


class Cages:
    """Thin lines along all edges of some bodies; they belong to the thread that made them."""

    def __init__(self, renderer: vtk.vtkRenderer) -> None:
        self._kept = Kept(renderer, _actor)

    def show(self, request: RenderRequest) -> None:
        """Shows those of the request, and no others."""
        fits = sum(m.face_count for m in request.cages) <= MOST_FACES
        for _, actor in self._kept.show(request.cages if fits else ()):
            actor.GetProperty().SetColor(*request.backdrop.chosen)
            actor.GetProperty().SetLineWidth(request.ratio)


def edges_of(mesh: Mesh) -> np.ndarray:
    """All edges (e, 2) of a mesh's faces, each once."""
    pairs = [np.stack([f, np.roll(f, -1, axis=1)], axis=-1).reshape(-1, 2) for f in (mesh.quads, mesh.tris)]
    found: np.ndarray = np.unique(np.sort(np.concatenate(pairs), axis=1), axis=0)
    return found


def _actor(mesh: Mesh) -> vtk.vtkActor:
    data, points, mapper, actor = vtk.vtkPolyData(), vtk.vtkPoints(), vtk.vtkPolyDataMapper(), vtk.vtkActor()
    points.SetData(vtk.numpy_to_vtk(np.ascontiguousarray(mesh.points, dtype=np.float32), deep=True))
    data.SetPoints(points)
    data.SetLines(cells_of([edges_of(mesh)]))
    mapper.SetInputDataObject(data)
    actor.SetMapper(mapper)
    actor.GetProperty().LightingOff()
    actor.GetProperty().SetOpacity(0.5)
    return actor
