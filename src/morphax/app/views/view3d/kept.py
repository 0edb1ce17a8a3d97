"""Actors that are kept as long as their meshes are shown."""

from collections.abc import Callable, Iterable

from morphax.app.views.view3d import vtk_names as vtk
from morphax.core.mesh.mesh import Mesh


class Kept:
    """An actor for each of some meshes; it belongs to the thread that made it."""

    def __init__(self, renderer: vtk.vtkRenderer, make: Callable[[Mesh], vtk.vtkActor]) -> None:
        self._renderer, self._make = renderer, make
        self._kept: dict[int, tuple[Mesh, vtk.vtkActor]] = {}

    def show(self, meshes: Iterable[Mesh]) -> list[tuple[Mesh, vtk.vtkActor]]:
        """Some meshes with their actors; those of all others go."""
        wanted = {id(m): m for m in meshes}
        for key in set(self._kept) - set(wanted):
            self._renderer.RemoveActor(self._kept.pop(key)[1])
        for key in set(wanted) - set(self._kept):
            self._kept[key] = (wanted[key], self._make(wanted[key]))
            self._renderer.AddActor(self._kept[key][1])
        return list(self._kept.values())
