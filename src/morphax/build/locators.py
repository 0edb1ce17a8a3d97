"""Nearest points and lines of sight on meshes."""

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from morphax.core.mesh.mesh import Mesh, point_triangles, triangle_normals
from morphax.core.types import Floats, Ints, Points3
from morphax.core.vectors import unit

if TYPE_CHECKING:
    from morphax.build.cells import Cells


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
    def _cells(self) -> "Cells":
        from morphax.build.cells import Cells  # what is not asked loads nothing

        return Cells(self.points, self.tris)

    def prepare(self) -> None:
        """Makes it ready now: worth it for a heavy mesh, in a thread."""
        if self._mesh.face_count:
            assert self._cells is not None

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
        end = origin + (reach * 1.01 + 1e-9) * direction
        found = self._cells.first_met(origin, end, self._slack)
        if found is None:
            return None
        place, face = found
        return Hit(place, self._normal(face), face, float((place - origin) @ direction))

    def closest(self, points: Points3) -> tuple[Points3, Ints]:
        """The nearest place (n, 3) on the mesh, which has faces, to each of some points, and its triangle (n,)."""
        return self._cells.closest(points)

    def nearest(self, point: Floats, within: float) -> Hit | None:
        """The nearest place on the mesh, no farther than ``within`` m."""
        if not self._mesh.face_count:
            return None
        off = np.maximum(np.maximum(self._low - point, point - self._high), 0.0)
        if float(off @ off) > within * within:
            return None
        found = self._cells.nearest(point, within)
        if found is None:
            return None
        place, face = found
        return Hit(place, self._normal(face), face, float(np.linalg.norm(place - point)))
