"""Rectangles: two opposite corners, by clicks or as `600 x 400`, give a closed straight path. No Qt here."""

import numpy as np

from morphax.app.session.pointer import Pointer
from morphax.app.session.workspace import Workspace
from morphax.app.tools.path.draw import DrawTool
from morphax.app.tools.shared.landing import Landing, Snapping
from morphax.app.tools.shared.snap_targets import SnapTargets
from morphax.core.path.paths import PathKind
from morphax.project.edits.runs import Added
from morphax.project.model.document import Place


def corners(first: Place, opposite: Place, normal: np.ndarray) -> list[Place]:
    """The four corners, counter-clockwise seen against the normal's main axis; opposite ones as they were given."""
    axis = int(np.argmax(np.abs(normal)))
    i = (axis + 1) % 3
    second, fourth = list(opposite), list(first)
    second[i], fourth[i] = first[i], opposite[i]
    order = [first, (fourth[0], fourth[1], fourth[2]), opposite, (second[0], second[1], second[2])]
    j = (axis + 2) % 3
    turn = (opposite[i] - first[i]) * (opposite[j] - first[j]) * (1.0 if normal[axis] > 0.0 else -1.0)
    return order if turn > 0.0 else [order[0], order[3], order[2], order[1]]


class RectangleTool(DrawTool):
    """Drawn like a path, but the second click ends it."""

    mixes = False
    rests_first = True

    def __init__(self, workspace: Workspace, around: SnapTargets) -> None:
        super().__init__(workspace, PathKind.STRAIGHT, around)
        self.kind = "rectangle"
        self.normal = np.array([0.0, 0.0, 1.0])

    def press(self, at: Pointer, snapping: Snapping) -> None:
        """Places a corner; the second one ends the rectangle."""
        super().press(at, snapping)
        if len(self.knots) >= 2:
            self.finish(closed=True)

    def _wanted(self, at: Pointer, snapping: Snapping) -> Landing | None:
        found = super()._wanted(at, snapping)
        if found is not None:
            self.normal = found.normal
        return found

    def _added(self, knots: list[Place], *, closed: bool, next_: Landing | None = None) -> Added:
        """The project with the rectangle between the first and the last of the knots."""
        ends = corners(knots[0], knots[-1], self.normal)
        flat = min(np.ptp(np.array(ends), axis=0)[[k for k in range(3) if k != int(np.argmax(np.abs(self.normal)))]])
        return super()._added(ends if flat > 0.0 else list(knots), closed=flat > 0.0)
