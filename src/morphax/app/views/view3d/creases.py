"""Thin lines along the edges of hosts, so that their form reads in flat light."""

import numpy as np

from morphax.app.views.view3d import vtk_names as vtk
from morphax.app.views.view3d.kept import Kept
from morphax.app.views.view3d.scene import RenderRequest
from morphax.app.views.view3d.vtk_data import cells_of
from morphax.core.mesh.mesh import Mesh
from morphax.core.mesh.triangles import creases_of

_MOST_FACES = 100_000
"""Larger hosts have no creases: finding them would keep the first picture waiting, and they would be too many."""

_STRENGTH = 0.85
"""How far a crease's colour is from that of its host to that of creases: clear lines would cost twice the picture."""


class CreaseLines:
    """The creases of a scene's hosts; they belong to the thread that made them."""

    def __init__(self, renderer: vtk.vtkRenderer) -> None:
        self._kept = Kept(renderer, _actor)

    def show(self, request: RenderRequest) -> None:
        """Shows the creases of the request's hosts, and no others."""
        hosts = [(i.mesh, i.colour) for i in request.items if not i.edges and i.opacity == 1.0 and request.shaded]
        wanted = {m: c for m, c in hosts if isinstance(m, Mesh) and m.face_count <= _MOST_FACES}
        for mesh, actor in self._kept.show(wanted):
            both = zip(wanted[mesh], request.backdrop.crease, strict=True)
            actor.GetProperty().SetColor(*(a + _STRENGTH * (b - a) for a, b in both))
            actor.GetProperty().SetLineWidth(request.ratio)


def _actor(mesh: Mesh) -> vtk.vtkActor:
    """Lines along the edges of a mesh where it turns, a little before its faces."""
    found = creases_of(mesh)
    data, points, mapper, actor = vtk.vtkPolyData(), vtk.vtkPoints(), vtk.vtkPolyDataMapper(), vtk.vtkActor()
    points.SetData(vtk.numpy_to_vtk(np.ascontiguousarray(found.points, dtype=np.float32), deep=True))
    data.SetPoints(points)
    data.SetLines(cells_of([found.edges]))
    mapper.SetInputDataObject(data)
    mapper.SetResolveCoincidentTopologyToPolygonOffset()
    mapper.SetRelativeCoincidentTopologyLineOffsetParameters(0.0, -1.0)
    actor.SetMapper(mapper)
    actor.GetProperty().LightingOff()
    return actor
