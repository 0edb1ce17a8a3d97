"""What is under the pointer: knots, handles and places of the chosen run's path, bodies. No Qt here."""

import numpy as np

from morphax.app.session.in_sight import Meshes
from morphax.app.session.pointer import Pointer
from morphax.app.session.workspace import Workspace
from morphax.app.tools.path.drags import handle_tips
from morphax.app.tools.shared.knot_marks import KnotMark, knot_marks
from morphax.app.tools.shared.picking import PathPlace, Picker, nearest_knot, nearest_on_path
from morphax.app.tools.shared.range_marks import RangeMark, range_marks
from morphax.app.tools.shared.rings import station_rings
from morphax.app.tools.shared.size_marks import SizeMark, nearest_mark, size_marks
from morphax.core.path.resolved import ResolvedPath
from morphax.project.edits.knots import Handle
from morphax.project.edits.neighbours import looked_at

_SIZE_PIXELS, _RING_PIXELS = 7.0, 5.0
"""The pointer is on a mark, or on the ring of a station, from so near on."""


class HitTest:
    """Looks things up for the tools."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace
        self.picker = Picker(workspace.bodies.locator_of)

    def knot_at(self, at: Pointer) -> str | None:
        path = self.workspace.chosen.path
        if path is None or not path.knots or not path.has_own_knots:
            return None
        k = nearest_knot(at.sight, np.array([k.place for k in path.knots]), at.pixel)
        return None if k is None else path.knots[k].id

    def handle_at(self, at: Pointer) -> tuple[str, Handle, np.ndarray] | None:
        """The handle of a chosen knot under the pointer: knot, which one, place of its tip."""
        path = self.workspace.chosen.path
        tips = [] if path is None else handle_tips(path, set(self.workspace.selection.knots))
        k = nearest_knot(at.sight, np.array([p for _, _, p in tips]).reshape(-1, 3), at.pixel)
        return None if k is None else tips[k]

    def target_at(self, at: Pointer) -> np.ndarray | None:
        """The place that the chosen run looks towards, where the pointer is on its mark."""
        run = self.workspace.chosen.run
        place = None if run is None else looked_at(self.workspace.project, run.id)
        if place is None or nearest_knot(at.sight, np.array([place]), at.pixel) is None:
            return None
        return np.array(place)

    def mark_at(self, at: Pointer) -> SizeMark | KnotMark | RangeMark | None:
        """The mark under the pointer: of the chosen knot's size or roll, or of the only chosen run's size or range."""
        ws = self.workspace
        built = ws.chosen.body
        if built is None or len(ws.selection.runs) != 1:
            return None
        own = nearest_mark(knot_marks(ws, at.sight), at.sight, at.pixel, _SIZE_PIXELS)
        size = own or nearest_mark(size_marks(built, at.sight), at.sight, at.pixel, _SIZE_PIXELS)
        return size or nearest_mark(range_marks(ws, at.sight), at.sight, at.pixel, _SIZE_PIXELS)

    def station_at(self, at: Pointer) -> tuple[str, np.ndarray] | None:
        """The station of the only chosen run whose ring is under the pointer, and the place of the ring there."""
        ws = self.workspace
        run, built, path = ws.chosen.run, ws.chosen.body, ws.chosen.path
        if run is None or built is None or path is None or len(run.recipe.stations) < 2:
            return None
        found = []
        for station, sides in station_rings(run, built, path).items():
            seen = at.sight.seen(sides.reshape(-1, 3))[:, :2].reshape(-1, 2, 2)
            far, k = _nearest_side(seen, at.pixel)
            found.append((far, station, sides[k].mean(0)))
        best = min(found, key=lambda f: f[0], default=None)
        return None if best is None or best[0] > _RING_PIXELS else best[1:]

    def place_at(self, at: Pointer) -> tuple[PathPlace, ResolvedPath] | None:
        """The place of the chosen run's path under the pointer, and that path; of one that runs beside another no place
        is to be taken."""
        built, path = self.workspace.chosen.body, self.workspace.chosen.path
        if built is None or built.path.resolved is None or path is None or not path.has_own_knots:
            return None
        resolved = built.path.resolved
        found = nearest_on_path(at.sight, resolved.table, at.pixel)
        return None if found is None else (found, resolved)

    def place_on_body(self, at: Pointer) -> tuple[PathPlace, ResolvedPath] | None:
        """The place of the chosen run's path under the pointer, or nearest to it where its body is."""
        found, built = self.place_at(at), self.workspace.chosen.body
        if found is not None or built is None or built.path.resolved is None or at.add or at.other_snap:
            return found
        if self.workspace.chosen.path is None or not self.workspace.chosen.path.has_own_knots:
            return None
        if at.through or self.run_at(at) != self.workspace.chosen.run_id:
            return None
        near = nearest_on_path(at.sight, built.path.resolved.table, at.pixel, within=np.inf)
        return None if near is None else (near, built.path.resolved)

    def run_at(self, at: Pointer) -> str | None:
        """The run whose body is under the pointer; while paths are seen through everything, whose path is."""
        if at.through:
            return self._path_at(at)
        return self.picker.body(at.sight, self.workspace.bodies.in_sight.pickable_meshes, at.pixel)

    def _path_at(self, at: Pointer) -> str | None:
        found = {}
        for i, built in self.workspace.bodies.in_sight.pickable.items():
            if built.path.resolved is not None:
                place = nearest_on_path(at.sight, built.path.resolved.table, at.pixel)
                if place is not None:
                    found[i] = place.gap
        return min(found, key=lambda i: found[i]) if found else None

    def host_at(self, at: Pointer) -> str | None:
        """The host under the pointer, where no run lies before it."""
        hosts = [h for h in self.workspace.project.hosts if h.picture is None or h.picture.view == at.sight.name]
        shown = {h.id: h for h in hosts if not h.show.hidden and not h.show.locked}
        bodies = Meshes((i, self.workspace.bodies.builder.host(self.workspace.project, h)) for i, h in shown.items())
        return self.picker.body(at.sight, bodies, at.pixel)

    def all_at(self, at: Pointer) -> list[str]:
        """Runs and hosts under the pointer that can be picked, from the eye on."""
        project, line = self.workspace.project, at.sight.line(at.pixel)
        hosts = [h for h in project.hosts if h.picture is None or h.picture.view == at.sight.name]
        free = [h for h in hosts if not h.show.hidden and not h.show.locked]
        own = self.workspace.bodies.in_sight.pickable_meshes
        meshes = {i: own[i] for i in own.met_by(line.origin, line.direction)}
        meshes |= {h.id: self.workspace.bodies.builder.host(project, h) for h in free}
        depth = {i: self.picker.depth(m, line) for i, m in meshes.items()}
        found = {i: d for i, d in depth.items() if d is not None}
        return sorted(found, key=lambda i: found[i])

    def knots_in(self, at: Pointer, box: tuple[tuple[float, float], tuple[float, float]]) -> tuple[str, ...]:
        """Knots of the chosen run's path inside a box of pixels."""
        path = self.workspace.chosen.path
        if path is None or not path.knots or not path.has_own_knots:
            return ()
        inside = _inside(at, np.array([k.place for k in path.knots]), box)
        return tuple(k.id for k, is_in in zip(path.knots, inside, strict=True) if is_in)

    def runs_in(self, at: Pointer, box: tuple[tuple[float, float], tuple[float, float]]) -> tuple[str, ...]:
        """Runs that are shown and whose path lies in a box of pixels, or passes through it."""
        out = []
        for run_id, built in self.workspace.bodies.in_sight.pickable.items():
            if len(built.path.polyline) and _inside(at, _dense(built.path.polyline), box).any():
                out.append(run_id)
        return tuple(out)


def _nearest_side(sides: np.ndarray, pixel: tuple[float, float]) -> tuple[float, int]:
    """How far a pixel is from the nearest of some sides (n, 2, 2), and the number of that."""
    a, way = sides[:, 0] - np.array(pixel), sides[:, 1] - sides[:, 0]
    share = np.clip(-(a * way).sum(1) / np.maximum((way * way).sum(1), 1e-12), 0.0, 1.0)
    far = np.nan_to_num(np.hypot(*(a + share[:, None] * way).T), nan=np.inf)
    k = int(np.argmin(far))
    return float(far[k]), k


def _dense(line: np.ndarray) -> np.ndarray:
    """A polyline with 16 points a piece, so that a box finds long straight pieces too."""
    share = np.arange(16)[:, None] / 16.0
    pieces = line[:-1, None] + share * (line[1:, None] - line[:-1, None])
    return np.concatenate([pieces.reshape(-1, 3), line[-1:]])


def _inside(at: Pointer, points: np.ndarray, box: tuple[tuple[float, float], tuple[float, float]]) -> np.ndarray:
    seen = at.sight.seen(points)[:, :2]
    low, high = np.min(box, axis=0), np.max(box, axis=0)
    with np.errstate(invalid="ignore"):
        found: np.ndarray = ((seen >= low) & (seen <= high)).all(1)
    return found
