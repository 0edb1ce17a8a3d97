"""The rim round what is chosen: a line along its outline, also where it is thin or something stands before it."""

import numpy as np
from scipy.ndimage import uniform_filter

from morphax.app.views.view3d import vtk_names as vtk
from morphax.app.views.view3d.drawn import drawn
from morphax.app.views.view3d.kept import Kept
from morphax.app.views.view3d.scene import RenderRequest
from morphax.app.views.view3d.vtk_data import pixels_of, poly_data
from morphax.core.mesh.mesh import Mesh

_MOST_POINTS = 200_000
"""More points together have no rim: another picture of all of them would take too long."""
_WIDE = 1.5
"""How wide the rim is beside the shape, pixels; one more lies on its edge."""
_BESIDE = ((-1, 0), (1, 0), (0, -1), (0, 1))


class Rim:
    """Draws what is chosen alone, and a line round it into the picture. It belongs to the thread that made it."""

    def __init__(self, camera: vtk.vtkCamera) -> None:
        self._window, self._own = vtk.vtkRenderWindow(), vtk.vtkRenderer()
        self._window.SetOffScreenRendering(1)
        self._window.SetMultiSamples(0)
        self._window.AddRenderer(self._own)
        self._own.SetBackground(0.0, 0.0, 0.0)
        self._own.SetActiveCamera(camera)
        self._kept = Kept(self._own, _white), Kept(self._own, _white_lines)

    def drawn_round(self, picture: np.ndarray, request: RenderRequest) -> np.ndarray:
        """The picture (h, w, 3) uint8 with a line round what is chosen."""
        is_shown = sum(len(m.points) for m in request.chosen) <= _MOST_POINTS
        chosen = request.chosen if is_shown else ()
        for kept in self._kept:
            kept.show(chosen)
        if not chosen:
            return picture
        self._window.SetSize(*request.size)
        self._window.Render()
        shape = pixels_of(self._window, request.size)[..., 0]
        return with_line(picture, shape, np.array(request.backdrop.chosen), max(1.0, _WIDE * request.ratio))

    def close(self) -> None:
        self._window.Finalize()


def with_line(picture: np.ndarray, shape: np.ndarray, colour: np.ndarray, wide: float) -> np.ndarray:
    """A picture (h, w, 3) with a line of a colour, 0..1, ``wide`` pixels round a shape (h, w) and along its edge, all
    uint8."""
    h, w = shape.shape
    reach = int(np.ceil(wide))
    padded = np.pad(shape, reach)
    grown = shape.copy()
    for dy in range(-reach, reach + 1):
        for dx in range(-reach, reach + 1):
            if dx * dx + dy * dy <= wide * wide:
                np.maximum(grown, padded[reach + dy : reach + dy + h, reach + dx : reach + dx + w], out=grown)
    soft = uniform_filter(
        grown, 3
    )  # the shape is drawn without smooth edges, and the pixels at its own are half others'
    beside = [padded[reach + dy : reach + dy + h, reach + dx : reach + dx + w] for dy, dx in _BESIDE]
    inner = np.minimum.reduce([shape, *beside])
    y, x = np.nonzero((soft > 0) & (inner == 0))
    share = soft[y, x, None] / 255.0
    out = picture.copy()
    out[y, x] = (picture[y, x] + share * (255.0 * colour - picture[y, x])).astype(np.uint8)
    return out


def _white(mesh: Mesh) -> vtk.vtkActor:
    mapper, actor = vtk.vtkPolyDataMapper(), vtk.vtkActor()
    mapper.SetInputDataObject(poly_data(drawn(mesh)))
    mapper.StaticOn()
    actor.SetMapper(mapper)
    actor.GetProperty().LightingOff()
    actor.GetProperty().SetColor(1.0, 1.0, 1.0)
    return actor


def _white_lines(mesh: Mesh) -> vtk.vtkActor:
    """Lines are drawn however thin a body is on the screen."""
    actor = _white(mesh)
    actor.GetProperty().SetRepresentationToWireframe()
    return actor
