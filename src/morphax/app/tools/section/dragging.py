"""A drag on the section board: points, a side, or a handle; shown while it goes on, one step of history at its end."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from morphax.app.session.board import Board, Spot
from morphax.app.session.workspace import Workspace
from morphax.app.tools.section.catch import Targets
from morphax.core.section.loop_edits import Way, handles_of, with_handle, with_places
from morphax.core.section.pieces import Corner
from morphax.core.section.sections import SectionShape
from morphax.project.edits.outlines import with_loops
from morphax.project.model.document import Project

Handle = tuple[int, int, Way]


def moved(shape: SectionShape, places: Mapping[Spot, Corner]) -> SectionShape:
    """The shape with points moved."""
    loops = list(shape.loops)
    for i in {i for i, _ in places}:
        loops[i] = with_places(loops[i], {k: p for (j, k), p in places.items() if j == i})
    return with_loops(shape, loops)


def begin_drag(
    workspace: Workspace,
    board: Board,
    spots: tuple[Spot, ...],
    pixel: tuple[float, float],
    handle: Handle | None = None,
) -> "Drag":
    """A drag of points, the nearest of which follows the pointer, or of a handle."""
    loops = board.loops
    if handle is not None:
        i, k, way = handle
        start = handles_of(loops[i], k)[way]
    else:
        at = board.sight.pixels(np.array([loops[i].segments[k].start for i, k in spots]))
        i, k = spots[int(np.argmin(np.hypot(*(at - np.array(pixel)).T)))]
        start = loops[i].segments[k].start
    off = board.sight.pixels(np.array(start)) - np.array(pixel)
    return Drag(workspace, board, Grip(spots, handle, start, (float(off[0]), float(off[1]))))


@dataclass(frozen=True)
class Grip:
    """What a drag holds: points, or a handle; ``start`` is the place, m, of what follows the pointer, ``off`` pixels
    beside it."""

    spots: tuple[Spot, ...]
    handle: Handle | None
    start: Corner
    off: tuple[float, float]


class Drag:
    """``among``: what catches it, as it was before; ``has_moved`` once something is shown."""

    def __init__(self, workspace: Workspace, board: Board, grip: Grip) -> None:
        self.workspace, self.board, self.grip = workspace, board, grip
        self.base: Project = workspace.finished
        self.among = Targets(board.loops, self.moving, walls=board.walls)
        self.has_moved = False
        self._end, self._alone = grip.start, False

    @property
    def start(self) -> Corner:
        return self.grip.start

    @property
    def moving(self) -> tuple[Spot, ...]:
        """The points that are moved, or the one whose handle is."""
        return self.grip.spots if self.grip.handle is None else (self.grip.handle[:2],)

    def aimed(self, pixel: tuple[float, float]) -> tuple[float, float]:
        """The pixel that what is dragged stands at."""
        return pixel[0] + self.grip.off[0], pixel[1] + self.grip.off[1]

    def to(self, place: Corner, *, alone: bool = False) -> None:
        """Shows what is dragged at a place, m. Raises where it can't be there; it stays where it was last then."""
        self.board.show(self.base, lambda s: self._changed(s, place, alone=alone))
        self.has_moved, self._end, self._alone = True, place, alone

    def _changed(self, shape: SectionShape, place: Corner, *, alone: bool) -> SectionShape:
        if self.grip.handle is not None:
            i, k, way = self.grip.handle
            loops = list(shape.loops)
            loops[i] = with_handle(loops[i], k, way, place, alone=alone)
            return with_loops(shape, loops)
        dx, dy = place[0] - self.start[0], place[1] - self.start[1]
        loops_now = shape.loops
        at = {(i, k): loops_now[i].segments[k].start for i, k in self.grip.spots}
        return moved(shape, {s: (x + dx, y + dy) for s, (x, y) in at.items()})

    def end(self) -> None:
        """What was shown becomes a step of history."""
        place, alone = self._end, self._alone
        label = "Move a handle" if self.grip.handle is not None else "Move points"
        self.workspace.unfinished.show(None)
        self.board.change(label, lambda s: self._changed(s, place, alone=alone), anew=self.grip.handle is None)

    def drop(self) -> None:
        """Everything is as it was."""
        self.workspace.unfinished.show(None)
