"""Draws scenes with VTK off screen. Everything here belongs to the one thread that made it."""

from collections import OrderedDict
from collections.abc import Iterable

import numpy as np

from morphax.app.panes.camera import basis
from morphax.app.view3d import vtk_names as vtk
from morphax.app.view3d.scene import Item, RenderRequest
from morphax.core.mesh import Mesh

_MOST_KEPT = 400
_SAMPLES = 8


def _cells(arrays: Iterable[np.ndarray]) -> vtk.vtkCellArray:
    faces = [a for a in arrays if len(a)]
    cells = vtk.vtkCellArray()
    if not faces:
        return cells
    connectivity = np.concatenate([a.ravel() for a in faces]).astype(np.int64)
    sizes = np.concatenate([np.full(len(a), a.shape[1]) for a in faces])
    offsets = np.concatenate([[0], np.cumsum(sizes)]).astype(np.int64)
    cells.SetData(vtk.numpy_to_vtkIdTypeArray(offsets, deep=True), vtk.numpy_to_vtkIdTypeArray(connectivity, deep=True))
    return cells


def poly_data(mesh: Mesh) -> vtk.vtkPolyData:
    """A mesh's vertices, normals and faces for VTK."""
    data, points = vtk.vtkPolyData(), vtk.vtkPoints()
    places = np.ascontiguousarray(mesh.points[mesh.vertex_point], dtype=np.float32)
    points.SetData(vtk.numpy_to_vtk(places, deep=True))
    data.SetPoints(points)
    data.SetPolys(_cells([mesh.quad_vertices, mesh.tri_vertices]))
    normals = vtk.numpy_to_vtk(np.ascontiguousarray(mesh.normals), deep=True)
    normals.SetName("Normals")
    data.GetPointData().SetNormals(normals)
    return data


def _lines(points: np.ndarray) -> vtk.vtkPolyData:
    """Separate line segments from points (n, 2, 3)."""
    data, holder = vtk.vtkPolyData(), vtk.vtkPoints()
    holder.SetData(vtk.numpy_to_vtk(points.reshape(-1, 3).astype(np.float32), deep=True))
    data.SetPoints(holder)
    data.SetLines(_cells([np.arange(2 * len(points)).reshape(-1, 2)]))
    return data


class PaneRenderer:
    """One pane's window, lights and actors."""

    def __init__(self) -> None:
        self.renderer = vtk.vtkRenderer()
        self.window = vtk.vtkRenderWindow()
        self.window.SetOffScreenRendering(1)
        self.window.SetMultiSamples(0)
        self.window.AddRenderer(self.renderer)
        self.renderer.GradientBackgroundOn()
        self._actors: OrderedDict[int, tuple[Mesh, vtk.vtkActor]] = OrderedDict()
        self._shown: set[int] = set()
        self._floor, self._floor_data = self._ground_actor()
        self._grid, self._grid_data = self._ground_actor()
        self._lights = self._three_lights()
        self._ssao: vtk.vtkSSAOPass | None = None
        self._fine: bool | None = None

    def _ground_actor(self) -> tuple[vtk.vtkActor, vtk.vtkPolyDataMapper]:
        actor, mapper = vtk.vtkActor(), vtk.vtkPolyDataMapper()
        actor.SetMapper(mapper)
        actor.GetProperty().LightingOff()
        self.renderer.AddActor(actor)
        return actor, mapper

    def _three_lights(self) -> tuple[vtk.vtkLight, ...]:
        """A warm key from the upper left of the eye, a cool fill from the right, a little from behind."""
        self.renderer.SetAutomaticLightCreation(False)
        lights = []
        for place, colour, strength in (
            ((-0.7, 0.9, 0.8), (1.0, 0.98, 0.94), 0.62),
            ((0.9, 0.25, 0.7), (0.9, 0.95, 1.0), 0.3),
            ((0.1, 0.8, -0.7), (1.0, 1.0, 1.0), 0.18),
        ):
            light = vtk.vtkLight()
            light.SetLightTypeToCameraLight()
            light.SetPosition(*place)
            light.SetFocalPoint(0.0, 0.0, 0.0)
            light.SetColor(*colour)
            light.SetIntensity(strength)
            self.renderer.AddLight(light)
            lights.append(light)
        return tuple(lights)

    def render(self, request: RenderRequest) -> np.ndarray:
        """The picture (h, w, 3) uint8, top row first."""
        self._set_items(request)
        self._set_backdrop(request)
        self._set_camera(request)
        self._set_quality(request)
        self.window.SetSize(*request.size)
        self.window.Render()
        pixels = vtk.vtkUnsignedCharArray()
        width, height = request.size
        self.window.GetPixelData(0, 0, width - 1, height - 1, 0, pixels, 0)
        return np.ascontiguousarray(vtk.vtk_to_numpy(pixels).reshape(height, width, 3)[::-1])

    def _set_items(self, request: RenderRequest) -> None:
        wanted: set[int] = set()
        for item in request.items:
            key = id(item.mesh)
            wanted.add(key)
            if key not in self._actors:
                self._actors[key] = (item.mesh, self._actor(item.mesh))
            self._actors.move_to_end(key)
            self._style(self._actors[key][1], item, request)
        for key in wanted - self._shown:
            self.renderer.AddActor(self._actors[key][1])
        for key in self._shown - wanted:
            if key in self._actors:
                self.renderer.RemoveActor(self._actors[key][1])
        self._shown = wanted
        while len(self._actors) > max(_MOST_KEPT, len(wanted)):
            _, (_, actor) = self._actors.popitem(last=False)
            actor.ReleaseGraphicsResources(self.window)

    def _actor(self, mesh: Mesh) -> vtk.vtkActor:
        actor, mapper = vtk.vtkActor(), vtk.vtkPolyDataMapper()
        mapper.SetInputDataObject(poly_data(mesh))
        mapper.StaticOn()
        actor.SetMapper(mapper)
        return actor

    def _style(self, actor: vtk.vtkActor, item: Item, request: RenderRequest) -> None:
        look = actor.GetProperty()
        look.SetColor(*item.colour)
        look.SetInterpolationToPhong()
        look.SetAmbient(0.2)
        look.SetDiffuse(0.88)
        look.SetSpecular(0.28 * (1.0 - item.roughness) + 0.2 * item.metal)
        look.SetSpecularPower(8.0 + 60.0 * (1.0 - item.roughness))
        look.SetOpacity(0.35 if item.ghost else 1.0)
        look.SetEdgeColor(*request.backdrop.edge)
        look.SetLineWidth(1.0)
        look.SetEdgeVisibility(request.edges and request.shaded)
        if request.shaded:
            look.SetRepresentationToSurface()
        else:
            look.SetRepresentationToWireframe()
            look.SetAmbient(0.7)

    def _set_backdrop(self, request: RenderRequest) -> None:
        drop, camera = request.backdrop, request.camera
        self.renderer.SetBackground(*drop.sky_low)
        self.renderer.SetBackground2(*drop.sky_top)
        view = basis(camera)
        from_above = view.eye[2] > 0.0
        reach = 60.0 * max(camera.height, 1.0)
        x, y = camera.target[0], camera.target[1]
        corner = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * reach + [x, y]
        floor = vtk.vtkPolyData()
        points = vtk.vtkPoints()
        points.SetData(vtk.numpy_to_vtk(np.column_stack([corner, np.zeros(4)]).astype(np.float32), deep=True))
        floor.SetPoints(points)
        floor.SetPolys(_cells([np.array([[0, 1, 2, 3]])]))
        self._floor_data.SetInputDataObject(floor)
        self._floor.GetProperty().SetColor(*drop.floor)
        self._floor.SetVisibility(from_above and (not camera.is_flat or camera.view == "Top"))
        self._grid_data.SetInputDataObject(_lines(grid_lines(request)))
        self._grid.GetProperty().SetColor(*drop.grid)
        self._grid.SetVisibility(True)
        # the grid wins against the floor it lies on
        self._floor_data.SetResolveCoincidentTopologyToPolygonOffset()
        self._floor_data.SetRelativeCoincidentTopologyPolygonOffsetParameters(2.0, 2.0)

    def _set_camera(self, request: RenderRequest) -> None:
        camera, view = request.camera, basis(request.camera)
        own = self.renderer.GetActiveCamera()
        own.SetParallelProjection(camera.is_flat)
        own.SetParallelScale(0.5 * camera.height)
        own.SetViewAngle(32.0)
        own.SetFocalPoint(*camera.target)
        own.SetPosition(*view.eye)
        own.SetViewUp(*view.up)
        self.renderer.ResetCameraClippingRange()
        near, far = own.GetClippingRange()
        if camera.is_flat:
            own.SetClippingRange(-500.0, 1000.0 + camera.distance)
        else:
            own.SetClippingRange(max(near, far * 1e-4), min(far, 40.0 * max(camera.distance, 1.0)))

    def _set_quality(self, request: RenderRequest) -> None:
        if request.fine == self._fine:
            return
        self._fine = request.fine
        self.window.SetMultiSamples(_SAMPLES if request.fine else 0)

    def close(self) -> None:
        self.window.Finalize()


def grid_lines(request: RenderRequest) -> np.ndarray:
    """Grid lines (n, 2, 3): on the floor in perspective and from the top, else far behind across the view."""
    camera, step = request.camera, request.grid_step
    if not camera.is_flat:
        a, b, origin = np.array([1.0, 0, 0]), np.array([0, 1.0, 0]), np.zeros(3)
        half = min(60.0 * step, 8.0 * camera.height)
        centre = np.array([camera.target[0], camera.target[1]])
        half_a = half_b = half
    else:
        view = basis(camera)
        a, b = view.right, view.up
        target = np.array(camera.target)
        centre = np.array([target @ a, target @ b])
        behind = 0.0 if camera.view == "Top" else 400.0
        origin = behind * view.forward
        half_b = 0.5 * camera.height + step
        half_a = half_b * request.size[0] / request.size[1] + step
    u = np.arange(np.floor((centre[0] - half_a) / step), np.ceil((centre[0] + half_a) / step) + 1) * step
    v = np.arange(np.floor((centre[1] - half_b) / step), np.ceil((centre[1] + half_b) / step) + 1) * step
    along_b = [[x * a + v[0] * b, x * a + v[-1] * b] for x in u]
    along_a = [[u[0] * a + y * b, u[-1] * a + y * b] for y in v]
    return np.array(along_a + along_b) + origin
