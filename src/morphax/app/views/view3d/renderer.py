"""Draws scenes with VTK off screen. Everything here belongs to the one thread that made it."""

from collections import OrderedDict
from math import degrees

import numpy as np

from morphax.app.session.camera import FIELD, basis
from morphax.app.views.view3d import vtk_names as vtk
from morphax.app.views.view3d.cages import Cages
from morphax.app.views.view3d.contact import shaded
from morphax.app.views.view3d.creases import CreaseLines
from morphax.app.views.view3d.drawn import Coarse, Smoothing, coarse_for, drawn
from morphax.app.views.view3d.ground import floor_mesh, floor_reach, grid_middle, grid_segments
from morphax.app.views.view3d.rim import Rim
from morphax.app.views.view3d.scene import Bundle, Item, RenderRequest, Repeated, is_heavy
from morphax.app.views.view3d.sheets import SheetActors
from morphax.app.views.view3d.vtk_data import cells_of, pixels_of, poly_data
from morphax.app.widgets.backdrop import Backdrop
from morphax.core.mesh.mesh import Mesh

_MOST_KEPT = 400
_MOST_POINTS_KEPT = 4_000_000
"""What was shown is kept for when it comes back (undo, a choice), up to so many meshes and so many points of all."""
_Key = tuple[int, Coarse | None, int, tuple[int, ...]]
"""Which actor: id of the mesh, how coarse, how often subdivided, and the ids of its tints and of what is."""
_SAMPLES = 8
SUN = np.array([0.42, 0.62, -1.0])
"""Direction in which the sun shines; shadows on the floor follow it."""
_MOST_SHADOW_POINTS = 150_000


def _coloured(points: np.ndarray, colours: np.ndarray) -> vtk.vtkPolyData:
    """Points (n, 3) with colours (n, 3) uint8."""
    data, holder = vtk.vtkPolyData(), vtk.vtkPoints()
    holder.SetData(vtk.numpy_to_vtk(np.ascontiguousarray(points, dtype=np.float32), deep=True))
    data.SetPoints(holder)
    data.GetPointData().SetScalars(vtk.numpy_to_vtk(np.ascontiguousarray(colours, dtype=np.uint8), deep=True))
    return data


def floor_disc(drop: Backdrop, *, is_flat: bool) -> vtk.vtkPolyData:
    """The floor as a disc of radius 1 that fades out at its rim."""
    points, colours, tris = floor_mesh(drop, is_flat=is_flat)
    data = _coloured(points, colours)
    data.SetPolys(cells_of([tris]))
    return data


def grid_data(request: RenderRequest) -> vtk.vtkPolyData:
    """The grid's line pieces."""
    points, colours = grid_segments(request)
    data = _coloured(points, colours)
    data.SetLines(cells_of([np.arange(len(points)).reshape(-1, 2)]))
    return data


def _actor_and_shadow(
    item: Item, *, coarse: Coarse | None, smoothing: Smoothing | None
) -> tuple[vtk.vtkActor, vtk.vtkActor]:
    """An actor, and the same faces thrown on the floor along the sun; both draw one set of data."""
    actor, shadow, mapper = vtk.vtkActor(), vtk.vtkActor(), vtk.vtkPolyDataMapper()
    data = poly_data(drawn(item.mesh, coarse=coarse, smoothing=smoothing))
    if item.tints is not None and smoothing is None:
        data.GetCellData().SetScalars(vtk.numpy_to_vtk(item.tints, deep=True))
    mapper.SetInputDataObject(data)
    mapper.StaticOn()
    actor.SetMapper(mapper)
    under = vtk.vtkPolyDataMapper()
    under.SetInputDataObject(mapper.GetInputDataObject(0, 0))
    under.ScalarVisibilityOff()
    under.StaticOn()
    under.SetResolveCoincidentTopologyToPolygonOffset()
    under.SetRelativeCoincidentTopologyPolygonOffsetParameters(2.0, 2.0)
    shadow.SetMapper(under)
    matrix = vtk.vtkMatrix4x4()
    matrix.SetElement(0, 2, -SUN[0] / SUN[2])
    matrix.SetElement(1, 2, -SUN[1] / SUN[2])
    matrix.SetElement(2, 2, 0.0)
    shadow.SetUserMatrix(matrix)
    shadow.GetProperty().LightingOff()
    return actor, shadow


def _point_count(actor: vtk.vtkActor) -> int:
    """Points of what an actor draws."""
    return int(actor.GetMapper().GetInputDataObject(0, 0).GetNumberOfPoints())


class PaneRenderer:
    """One pane's window, lights and actors."""

    def __init__(self) -> None:
        self.renderer = vtk.vtkRenderer()
        self.window = vtk.vtkRenderWindow()
        self.window.SetOffScreenRendering(1)
        self.window.SetMultiSamples(0)
        self.window.AddRenderer(self.renderer)
        self.renderer.GradientBackgroundOn()
        self._actors: OrderedDict[_Key, tuple[Item, tuple[Mesh, ...], vtk.vtkActor, vtk.vtkActor]] = OrderedDict()
        self._shown: set[_Key] = set()
        self._floor, self._floor_data = self._ground_actor()
        self._grid, self._grid_data = self._ground_actor()
        self._lights = self._make_lights()
        self._fine: bool | None = None
        self._floor_of: tuple[object, ...] | None = None
        self._grid_of: tuple[object, ...] | None = None
        self._styles: dict[_Key, tuple[object, ...]] = {}
        self._sheets = SheetActors(self.renderer)
        self._creases = CreaseLines(self.renderer)
        self._cages = Cages(self.renderer)
        self._rim = Rim(self.renderer.GetActiveCamera())

    def _ground_actor(self) -> tuple[vtk.vtkActor, vtk.vtkPolyDataMapper]:
        actor, mapper = vtk.vtkActor(), vtk.vtkPolyDataMapper()
        actor.SetMapper(mapper)
        actor.GetProperty().LightingOff()
        self.renderer.AddActor(actor)
        return actor, mapper

    def _make_lights(self) -> tuple[vtk.vtkLight, ...]:
        """A warm sun that stays where it is, a light at the eye, so that no side is ever black, and a cool one from
        behind, which draws a bright line along what turns away."""
        self.renderer.SetAutomaticLightCreation(False)
        lights = []
        for scene, place, colour, strength in (
            (True, -SUN, (1.0, 0.98, 0.94), 0.62),
            (False, (-0.1, 0.6, 1.0), (0.98, 0.99, 1.0), 0.55),
            (False, (-0.3, 0.8, -0.75), (0.86, 0.93, 1.0), 0.4),
        ):
            light = vtk.vtkLight()
            light.SetLightTypeToSceneLight() if scene else light.SetLightTypeToCameraLight()
            light.SetPosition(*(float(v) for v in place))
            light.SetFocalPoint(0.0, 0.0, 0.0)
            light.SetColor(*colour)
            light.SetIntensity(strength)
            self.renderer.AddLight(light)
            lights.append(light)
        return tuple(lights)

    def render(self, request: RenderRequest) -> np.ndarray:
        """The picture (h, w, 3) uint8, top row first."""
        self._set_items(request)
        self._sheets.show(request)
        self._creases.show(request)
        self._cages.show(request)
        self._set_backdrop(request)
        self._set_camera(request)
        self._set_quality(request, is_heavy=is_heavy(request.items))
        self.window.SetSize(*request.size)
        self.window.Render()
        picture = pixels_of(self.window, request.size)
        if request.fine and request.shaded:
            picture = self._with_contact(picture, request)
        return self._rim.drawn_round(picture, request)

    def _with_contact(self, picture: np.ndarray, request: RenderRequest) -> np.ndarray:
        """The picture with soft shade where things stand."""
        width, height = request.size
        depths = vtk.vtkFloatArray()
        self.window.GetZbufferData(0, 0, width - 1, height - 1, depths)
        depth = vtk.vtk_to_numpy(depths).reshape(height, width)[::-1]
        return shaded(picture, depth, request.camera, self.renderer.GetActiveCamera().GetClippingRange())

    def _set_items(self, request: RenderRequest) -> None:
        wanted: set[_Key] = set()
        heavy = is_heavy(request.items)
        many = sum(len(i.mesh.meshes) for i in request.items if isinstance(i.mesh, Bundle))
        coarse = coarse_for(many) if heavy and not request.fine else None
        most = request.levels
        for item in request.items:
            smoothed = request.smoothed_of(item) if most else ()
            levels, own = (most if smoothed else 0), (coarse if isinstance(item.mesh, Bundle | Repeated) else None)
            ids = (id(item.tints), *map(id, smoothed)) if smoothed or item.tints is not None else ()
            key = (id(item.mesh), own, levels, ids)
            wanted.add(key)
            if key not in self._actors:
                smoothing = Smoothing(item, levels, smoothed) if smoothed else None
                made = _actor_and_shadow(item, coarse=own, smoothing=smoothing)
                self._actors[key] = (item, smoothed, *made)
            self._actors.move_to_end(key)
            style = (*item.look, request.backdrop, request.edges, request.shaded)
            if self._styles.get(key) != style:
                self._styles[key] = style
                self._style(self._actors[key][2], item, request)
            self._style_shadow(self._actors[key][3], item, request, is_heavy=heavy)
        for key in wanted - self._shown:
            for actor in self._actors[key][2:]:
                self.renderer.AddActor(actor)
        for key in self._shown - wanted:
            for actor in self._actors[key][2:] if key in self._actors else ():
                self.renderer.RemoveActor(actor)
        self._shown = wanted
        self._forget(wanted)

    def _forget(self, wanted: set[_Key]) -> None:
        """Lets go what was not shown for the longest time, where too much is kept."""
        points = {key: _point_count(made[2]) for key, made in self._actors.items()}
        total = sum(points.values())
        for gone in [key for key in self._actors if key not in wanted]:
            if len(self._actors) <= _MOST_KEPT and total <= _MOST_POINTS_KEPT:
                return
            _, _, *actors = self._actors.pop(gone)
            total -= points[gone]
            self._styles.pop(gone, None)
            for actor in actors:
                actor.ReleaseGraphicsResources(self.window)

    def _style_shadow(self, shadow: vtk.vtkActor, item: Item, request: RenderRequest, *, is_heavy: bool) -> None:
        """Shadows fall in perspective only: in a flat view they would look like things of their own."""
        is_light = len(item.mesh.points) <= _MOST_SHADOW_POINTS and not is_heavy
        shown = request.shadows and request.shaded and not request.camera.is_flat and item.opacity == 1.0 and is_light
        shadow.SetVisibility(shown and float(basis(request.camera).eye[2]) > 0.0)
        shadow.GetProperty().SetColor(*request.backdrop.shadow)

    def _style(self, actor: vtk.vtkActor, item: Item, request: RenderRequest) -> None:
        look = actor.GetProperty()
        look.SetColor(*item.colour)
        look.SetInterpolationToPhong()
        look.SetAmbient(0.26)
        look.SetDiffuse(0.82)
        look.SetSpecular(0.28 * (1.0 - item.roughness) + 0.2 * item.metal)
        look.SetSpecularPower(8.0 + 60.0 * (1.0 - item.roughness))
        look.SetEdgeColor(*request.backdrop.edge)
        look.SetLineWidth(1.0)
        look.SetOpacity(item.opacity)
        self._style_inside(actor, item, request)
        look.SetEdgeVisibility(request.edges and request.shaded and item.edges)
        if request.shaded or not item.edges:
            look.SetRepresentationToSurface()
        else:
            look.SetRepresentationToWireframe()
            look.SetAmbient(0.7)

    def _style_inside(self, actor: vtk.vtkActor, item: Item, request: RenderRequest) -> None:
        """Faces seen from behind have a warning tint: an open end, or a body that is inside out."""
        if not item.warns_inside or item.opacity < 1.0:
            actor.SetBackfaceProperty(None)  # type: ignore[arg-type]
            return
        inside = actor.GetBackfaceProperty() or vtk.vtkProperty()
        inside.SetColor(*request.backdrop.inside)
        inside.SetAmbient(0.35)
        inside.SetDiffuse(0.7)
        inside.SetSpecular(0.0)
        actor.SetBackfaceProperty(inside)

    def _set_backdrop(self, request: RenderRequest) -> None:
        drop, camera = request.backdrop, request.camera
        self.renderer.SetBackground(*(drop.floor if camera.is_flat else drop.sky_low))
        self.renderer.SetBackground2(*(drop.floor if camera.is_flat else drop.sky_top))
        from_above = float(basis(camera).eye[2]) > 0.0
        self._floor.SetVisibility(from_above and (not camera.is_flat or camera.view == "Top"))
        floor = (camera.is_flat, drop)
        if floor != self._floor_of:
            self._floor_of = floor
            self._floor_data.SetInputDataObject(floor_disc(drop, is_flat=camera.is_flat))
        reach = floor_reach(camera)
        self._floor.SetScale(reach, reach, 1.0)
        self._floor.SetPosition(*camera.target[:2], 0.0)
        grid = (camera.view, camera.height, tuple(grid_middle(request)), drop, request.grid_step, request.size)
        self._grid.SetVisibility(request.grid)
        if grid != self._grid_of:
            self._grid_of = grid
            self._grid_data.SetInputDataObject(grid_data(request))
        # floor below shadows below grid: each wins against what it lies on
        self._floor_data.SetResolveCoincidentTopologyToPolygonOffset()
        self._floor_data.SetRelativeCoincidentTopologyPolygonOffsetParameters(4.0, 4.0)
        self._grid_data.SetResolveCoincidentTopologyToPolygonOffset()
        self._grid_data.SetRelativeCoincidentTopologyLineOffsetParameters(0.0, -2.0)

    def _set_camera(self, request: RenderRequest) -> None:
        camera, view = request.camera, basis(request.camera)
        own = self.renderer.GetActiveCamera()
        own.SetParallelProjection(camera.is_flat)
        own.SetParallelScale(0.5 * camera.height)
        own.SetViewAngle(degrees(FIELD))
        own.SetFocalPoint(*camera.target)
        own.SetPosition(*view.eye)
        own.SetViewUp(*view.up)
        self.renderer.ResetCameraClippingRange()
        near, far = own.GetClippingRange()
        if camera.view == "Top":  # what the grid wins by against the floor is a share of the range
            heights = [0.0, *self.renderer.ComputeVisiblePropBounds()[4:]]
            near, far = (float(view.eye[2]) - h for h in (max(heights), min(heights)))
            slack = 0.05 * (far - near) + 1e-3 * camera.height
            own.SetClippingRange(near - slack, far + slack)
        elif camera.is_flat:
            own.SetClippingRange(-500.0, 1000.0 + camera.distance)
        else:
            own.SetClippingRange(max(near, far * 1e-4), min(far, 40.0 * max(camera.distance, 1.0)))

    def _set_quality(self, request: RenderRequest, *, is_heavy: bool) -> None:
        """Smooth edges, but not where they would keep the next picture waiting for seconds."""
        fine = request.fine and not is_heavy
        if fine == self._fine:
            return
        self._fine = fine
        self.window.SetMultiSamples(_SAMPLES if fine else 0)

    def close(self) -> None:
        self.window.Finalize()
        self._rim.close()
