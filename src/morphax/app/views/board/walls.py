"""What the hosts fill in the plane of a run's start, seen behind its section on the board."""

import numpy as np

from morphax.app.session.board import Board
from morphax.app.session.workspace import Workspace
from morphax.build.built import Built
from morphax.core.mesh.cuts import plane_cut
from morphax.core.mesh.mesh import Mesh, point_triangles
from morphax.core.types import Floats
from morphax.core.vectors import exact_turn
from morphax.project.model.document import Placing, Run

_AROUND = 6.0
"""Hosts farther from the run's start than so many sizes of the section are not looked at."""
_MOST_TRIANGLES = 400_000


class Walls:
    """The cuts of hosts, found again only where the run's start, its section's place or the hosts changed."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace
        self._key: tuple[object, ...] = ()
        self._rings: tuple[Floats, ...] = ()
        self._meshes: tuple[Mesh, ...] = ()

    def rings(self, board: Board) -> tuple[Floats, ...]:
        """Rings (n, 2) in the section's plane, m; none where the section is not looked at through a run."""
        ws, run = self.workspace, board.on.through
        built = None if run is None else ws.bodies.get(run.id)
        if run is None or built is None or not len(built.path.polyline) or not built.body.start_axes.any():
            return ()
        reach = _AROUND * max(built.body.width, built.body.height)
        start = built.path.polyline[0]
        meshes = tuple(m for m in self._hosts() if _is_near(m, start, reach))
        placing, sight = run.recipe.placing, board.sight
        key = (tuple(start), built.body.start_axes.tobytes(), placing.flip, placing.roll, sight.origin, sight.grow)
        same = len(meshes) == len(self._meshes) and all(a is b for a, b in zip(meshes, self._meshes, strict=True))
        if key != self._key or not same:
            self._key, self._meshes = key, meshes
            self._rings = tuple(_own(ring, run, board) for ring in _cuts(meshes, built))
        return self._rings

    def _hosts(self) -> list[Mesh]:
        ws = self.workspace
        shown = (h for h in ws.project.hosts if h.is_solid and not h.show.hidden)
        return [ws.bodies.builder.host(ws.project, h) for h in shown]


def _is_near(mesh: Mesh, start: Floats, reach: float) -> bool:
    if not len(mesh.points) or len(mesh.points) > _MOST_TRIANGLES:
        return False
    low, high = mesh.bounds
    return bool((low - reach <= start).all() and (start <= high + reach).all())


def _cuts(meshes: tuple[Mesh, ...], built: Built) -> list[Floats]:
    start, axes = built.path.polyline[0], built.body.start_axes
    return [ring for m in meshes for ring in plane_cut(m.points, point_triangles(m), start, axes)]


def _own(ring: Floats, run: Run, board: Board) -> Floats:
    """From beside the path, m, to the section as it is drawn: rolled and mirrored back, at its own size."""
    return np.asarray(_unplaced(ring, run.recipe.placing) / board.sight.grow + np.array(board.sight.origin))


def _unplaced(places: Floats, placing: Placing) -> Floats:
    c, s = exact_turn(-placing.roll)
    back: Floats = places @ np.array([[c, s], [-s, c]])
    return np.asarray(back * np.array([-1.0, 1.0])) if placing.flip else back
