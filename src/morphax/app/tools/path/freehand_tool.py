"""Freehand and strands: a drag draws a stroke, which becomes a path of few knots when it ends. No Qt here.

A strand lies on the hosts that it is drawn over, whatever the snapping; its knots hold on to them.
"""

from dataclasses import replace

import numpy as np

from morphax.app.session.pointer import Pointer
from morphax.app.session.work_plane import WorkPlane
from morphax.app.session.workspace import Workspace
from morphax.app.tools.path.draw import nice_width
from morphax.app.tools.shared.landing import Aim, Landing, Snapping, landing
from morphax.app.tools.shared.laying import laid_strand
from morphax.app.tools.shared.snap_targets import SnapTargets
from morphax.app.tools.shared.state import Sketch
from morphax.app.tools.shared.typing import Typed
from morphax.core.errors import PathError
from morphax.core.path.freehand import path_of_stroke, thinned_stroke
from morphax.project.edits.path_import import add_runs_along
from morphax.project.things import Selection
from morphax.project.units import format_length

FIT_SHARE = 1.0 / 300.0
"""A stroke is fitted within this share of its size, unless told otherwise."""
_FEWEST = 3


class FreehandTool:
    """Collects the places of a stroke; each lies on a face under the pointer, else in the plane of the last one."""

    def __init__(self, workspace: Workspace, around: SnapTargets, kind: str = "freehand") -> None:
        self.workspace, self.around, self.kind = workspace, around, kind
        self.sketch, self.typed = Sketch(), Typed()
        self.places: list[np.ndarray] = []
        self.width, self.pixel = 0.02, 0.0

    @property
    def is_drawing(self) -> bool:
        return bool(self.places)

    def _landing(self, at: Pointer, snapping: Snapping) -> Landing | None:
        """Where the pointer is: on a face, else in the plane; a stroke is never rounded to the grid."""
        if at.other_snap:
            snapping = snapping.turned_round()
        if self.kind == "strand":
            snapping = replace(snapping, faces=True, resting=True)
        previous = self.places[-1] if self.places else None
        ws, first = self.workspace, self.workspace.bench.work_plane
        others = tuple(r.id for r in ws.project.runs) if self.kind == "strand" else (ws.chosen.run_id or "",)
        surface = self.around.surface(at, snapping, without=others)
        if self.kind == "strand" and surface is None:
            if previous is None:
                return None
            first, previous = WorkPlane(previous, -at.sight.basis.forward, "off the host"), None
        rest = self.around.rest(self.width) if snapping.resting else 0.0
        free = replace(snapping, grid=False)
        return landing(
            at.sight, at.pixel, Aim(previous=previous, snapping=free, surface=surface, rest=rest, first=first)
        )

    def hover(self, at: Pointer, snapping: Snapping) -> None:
        """Shows where a stroke would begin."""
        if not self.places:
            self.width = self.workspace.bench.next_run.width or nice_width(at.sight.height)
        found = self._landing(at, snapping)
        self.sketch = Sketch(next=found, label="drag to draw", label_at=None if found is None else found.place)

    def press(self, at: Pointer, snapping: Snapping) -> None:
        """Begins a stroke."""
        found = self._landing(at, snapping)
        self.places = [] if found is None else [found.place]
        if found is None:
            off = "The line of sight meets no plane here; begin lower, or in a flat view."
            self.workspace.said.emit("A strand begins on a host." if self.kind == "strand" else off)

    def pull(self, at: Pointer, snapping: Snapping) -> None:
        """Goes on with the stroke, and shows it with its body."""
        found = self._landing(at, snapping) if self.places else None
        if found is None:
            return
        self.pixel = at.sight.scale_at(found.place)
        if np.linalg.norm(found.place - self.places[-1]) >= self.pixel:
            self.places.append(found.place)
        self.sketch = Sketch(label=self._words(), label_at=found.place, lines=(np.array(self.places),))

    def _words(self) -> str:
        unit = self.workspace.project.unit
        return f"fitted within {format_length(self._within(), unit=unit)}"

    def _within(self) -> float:
        """How near the path stays to the stroke, m: what was typed, else a share of its size, but not finer than twice
        the pointer's own steps."""
        own = self.workspace.bench.fit_within
        if own is not None:
            return own
        return max(1e-5, 2.0 * self.pixel, FIT_SHARE * float(np.ptp(np.array(self.places), axis=0).max()))

    def release(self) -> str | None:
        """Ends the stroke: a run of few knots along it. A click without a drag leaves nothing."""
        places, within = self.places, self._within() if self.places else 0.0
        self.places, self.sketch = [], Sketch()
        if len(places) < _FEWEST:
            return None
        ws, new = self.workspace, self.workspace.bench.next_run
        try:
            shape = path_of_stroke(thinned_stroke(np.array(places), 0.25 * within), within)
        except PathError as error:
            ws.said.emit(f"{str(error)[:1].upper()}{str(error)[1:]}.")
            return None
        added = add_runs_along(ws.finished, (shape,), replace(new, width=new.width or self.width))
        run_id, project, kept = added.ids[0], added.project, ""
        if self.kind == "strand":
            project, count = laid_strand(ws, project, run_id, 2.0 * within)
            kept = f", {count} on the host" if count else ", none on a host"
        ws.edit("Draw a strand" if self.kind == "strand" else "Draw freehand", project, Selection.of(runs=(run_id,)))
        said = format_length(within, unit=ws.project.unit)
        ws.said.emit(f"{len(shape.knots)} knots{kept}, within {said} of the stroke. Type a width, or draw the next.")
        return run_id

    def finish(self, *, closed: bool = False) -> str | None:
        """Enter in mid-stroke ends it."""
        return self.release()

    def hover_left(self) -> None:
        """The pointer left the panes: the stroke waits."""

    def type(self, typed: Typed) -> None:
        """Nothing is typed in a stroke."""

    def enter_typed(self) -> bool:
        return False

    def take_back(self) -> bool:
        """Drops the stroke; False when there is none."""
        return self.cancel()

    def cancel(self) -> bool:
        was = self.is_drawing
        self.places, self.sketch = [], Sketch()
        return was
