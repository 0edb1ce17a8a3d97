"""What is under the pointer: knots, handles and places of the chosen run's path, bodies. No Qt here."""

import numpy as np

from morphax.app.tools.drags import handle_tips
from morphax.app.tools.picking import PathPlace, Picker, nearest_knot, nearest_on_path
from morphax.app.tools.state import Pointer
from morphax.app.workspace import Workspace
from morphax.core.resolved import ResolvedPath
from morphax.project.knot_edits import Handle


class Under:
    """Looks things up for the tools; remembers meshes that were made ready for picking."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace
        self.picker = Picker()

    def knot_at(self, at: Pointer) -> str | None:
        path = self.workspace.chosen_path
        if path is None or not path.knots:
            return None
        k = nearest_knot(at.camera, np.array([k.place for k in path.knots]), at.pixel, at.size)
        return None if k is None else path.knots[k].id

    def handle_at(self, at: Pointer) -> tuple[str, Handle, np.ndarray] | None:
        """The handle of a chosen knot under the pointer: knot, which one, place of its tip."""
        path = self.workspace.chosen_path
        tips = [] if path is None else handle_tips(path, set(self.workspace.selection.knots))
        k = nearest_knot(at.camera, np.array([p for _, _, p in tips]).reshape(-1, 3), at.pixel, at.size)
        return None if k is None else tips[k]

    def place_at(self, at: Pointer) -> tuple[PathPlace, ResolvedPath] | None:
        """The place of the chosen run's path under the pointer, and that path."""
        built = self.workspace.chosen_body
        if built is None or built.path.resolved is None:
            return None
        resolved = built.path.resolved
        found = nearest_on_path(at.camera, resolved.table, at.pixel, at.size)
        return None if found is None else (found, resolved)

    def run_at(self, at: Pointer) -> str | None:
        shown = {r.id for r in self.workspace.project.runs if not r.show.hidden and not r.show.locked}
        bodies = {i: b.body.mesh for i, b in self.workspace.bodies.items() if i in shown}
        return self.picker.body(at.camera, bodies, at.pixel, at.size)
