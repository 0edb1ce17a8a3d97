"""Freehand and strands: a drag draws a stroke, which becomes a path of few knots when it ends. No Qt here.

A freehand stroke lies on what it began on; a strand on all hosts that it is drawn over, whatever the snapping, and its
knots hold on to them.
"""

from dataclasses import replace

import numpy as np

from morphax.app.session.pointer import Pointer
from morphax.app.session.workspace import Workspace
from morphax.app.tools.path.draw_landing import depth_words, lies_on_surfaces, nice_width
from morphax.app.tools.shared.landing import Aim, Ground, Landing, Snapping, Surface, landing
from morphax.app.tools.shared.laying import laid_strand, rests_of
from morphax.app.tools.shared.snap_targets import SnapTargets
from morphax.app.tools.shared.state import Sketch
from morphax.app.tools.shared.strokes import Sample, falls_away, laid_out
from morphax.app.tools.shared.typing import Typed
from morphax.core.errors import PathError
from morphax.core.path.freehand import knot_pressures, path_of_stroke, thinned_stroke
from morphax.project.edits.path_import import add_runs_along
from morphax.project.edits.resting import Rest, rest_on
from morphax.project.lookup import path_of, run_width
from morphax.project.model.document import Project
from morphax.project.things import Selection
from morphax.project.units import format_length

FIT_SHARE = 1.0 / 150.0
"""A stroke is fitted within this share of its size, unless told otherwise."""
_ENDS, _STEPS, _SLANTED = 3.0, 1.5, 0.15
_FEWEST = 3


class FreehandTool:
    """Collects samples of a stroke; ``places`` are where they lie, ``ground`` is what the stroke began on."""

    def __init__(self, workspace: Workspace, around: SnapTargets, kind: str = "freehand") -> None:
        self.workspace, self.around, self.kind = workspace, around, kind
        self.sketch, self.typed = Sketch(), Typed()
        self.samples: list[Sample] = []
        self.places = np.empty((0, 3))
        self.pressed: list[float] = []
        self.ground: Ground | None = None
        self.plane, self.rests = "", True
        self.width, self.pixel = 0.02, 0.0

    @property
    def is_drawing(self) -> bool:
        return bool(self.samples)

    def _snapping(self, at: Pointer, snapping: Snapping) -> Snapping:
        """What catches: a stroke is never rounded to the grid, and a strand lies on things whatever is off."""
        snapping = snapping.turned_round() if at.other_snap else snapping
        if self.kind == "strand":
            snapping = replace(snapping, faces=True, resting=True)
        return replace(snapping, grid=False)

    def _surface(self, at: Pointer, snapping: Snapping) -> Surface | None:
        """The face under the pointer; strands lie on hosts only."""
        ws, is_strand = self.workspace, self.kind == "strand"
        others = tuple(r.id for r in ws.project.runs) if is_strand else (ws.chosen.run_id or "",)
        return self.around.surface(at, snapping, without=others)

    def _landing(self, at: Pointer, snapping: Snapping, surface: Surface | None) -> Landing | None:
        """Where the pointer is: on a face, else on the floor or in the plane of the view."""
        if surface is None and self.kind == "strand":
            return None
        previous, on = (self.places[-1], self.ground) if self.is_drawing else (None, None)
        rest = self.around.rest(self.width) if snapping.resting else 0.0
        first = self.workspace.bench.work_plane
        aim = Aim(previous=previous, on=on, snapping=snapping, surface=surface, rest=rest, first=first)
        return landing(at.sight, at.pixel, aim)

    def _landing_first(self, at: Pointer, snapping: Snapping) -> Landing | None:
        snapping = self._snapping(at, snapping)
        return self._landing(at, snapping, self._surface(at, snapping))

    def hover(self, at: Pointer, snapping: Snapping) -> None:
        """Shows where a stroke would begin."""
        if not self.is_drawing:
            self.width = self.workspace.bench.next_run.width or nice_width(
                at.sight.height, self.workspace.bench.next_run.source
            )
        found = self._landing_first(at, snapping)
        words = "drag to draw"
        if found is not None:
            words += f" · {depth_words(at.sight, found.place, self.workspace.project.unit)}"
        self.sketch = Sketch(next=found, label=words, label_at=None if found is None else found.place)

    def press(self, at: Pointer, snapping: Snapping) -> None:
        """Begins a stroke."""
        self.cancel()
        found = self._landing_first(at, snapping)
        if found is None:
            off = "The line of sight meets no plane here; begin lower, or in a flat view."
            self.workspace.said.emit("A strand begins on a host." if self.kind == "strand" else off)
            return
        rests = self._snapping(at, snapping).resting
        self.ground, self.plane, self.rests = found.ground, found.plane, rests
        self.samples, self.places = [Sample(at.sight.line(at.pixel), found.place)], found.place[None]
        self.pressed = [] if at.pressure is None else [at.pressure]

    def pull(self, at: Pointer, snapping: Snapping) -> None:
        """Goes on with the stroke, and shows it with its body."""
        if not self.is_drawing:
            return
        self.samples.append(self._sample(at, snapping))
        self.pressed += [] if at.pressure is None else [at.pressure]
        low = min(0.0, float(self.places[0, 2]), float(self.workspace.bench.work_plane.origin[2]))
        self.places = laid_out(at.sight, self.samples, low)
        self.pixel = self._step(at)
        words = f"{self._words()} · {depth_words(at.sight, self.places[-1], self.workspace.project.unit)}"
        self.sketch = Sketch(label=words, label_at=self.places[-1], lines=(self.places,))

    def _step(self, at: Pointer) -> float:
        """How far a step of the pointer goes where the stroke is, m: farther on a surface that is seen at a slant."""
        place = self.places[-1]
        slant = 1.0 if self.ground is None else abs(float(at.sight.way_to(place) @ self.ground.normal))
        return at.sight.scale_at(place) / max(slant, _SLANTED)

    def _sample(self, at: Pointer, snapping: Snapping) -> Sample:
        """The pointer's place on what the stroke began on, and on the body or host there."""
        snapping = self._snapping(at, snapping)
        line, surface = at.sight.line(at.pixel), self._surface(at, snapping)
        counts = self.kind == "strand" or lies_on_surfaces(at.sight, snapping, first=False)
        found = self._landing(at, snapping, surface if counts else None)
        own = found.place if found is not None and self._is_on_it(found, at) else None
        if surface is None:
            return Sample(line, own)
        rest = self.around.rest(self.width) if snapping.resting else 0.0
        return Sample(line, own, surface.place + rest * surface.normal, counts)

    def _is_on_it(self, found: Landing, at: Pointer) -> bool:
        """Whether a landing lies on what the stroke lies on; in a flat view it never jumps to what is deeper."""
        if self.kind != "strand" and self.ground is None:
            return found.ground is None and found.plane == self.plane
        same = self.kind == "strand" or (found.ground is not None and found.ground.of == self.ground_of)
        return same and not (at.sight.is_flat and falls_away(self.places[-1], found.place, at.sight))

    @property
    def ground_of(self) -> str | None:
        """Whose surface the stroke began on: a host or run by id, empty: the floor's; None: nobody's."""
        return None if self.ground is None else self.ground.of

    def _words(self) -> str:
        unit = self.workspace.project.unit
        return f"fitted within {format_length(self._within(), unit=unit)}"

    def _within(self) -> float:
        """How near the path stays to the stroke, m: what was typed, else a share of its size. The view has a say only
        where that would be finer than the pointer's own steps."""
        own = self.workspace.bench.fit_within
        if own is not None:
            return own
        return max(1e-6, _STEPS * self.pixel, FIT_SHARE * float(np.ptp(self.places, axis=0).max()))

    def release(self) -> str | None:
        """Ends the stroke: a run of few knots along it. A click without a drag leaves nothing."""
        within, ground = self._within() if self.is_drawing else 0.0, self.ground
        drawn, pressed = self.places, self.pressed
        places = _apart(self.places, self.pixel)
        self.cancel()
        if len(places) < _FEWEST:
            return None
        ws, new = self.workspace, self.workspace.bench.next_run
        try:
            shape = path_of_stroke(thinned_stroke(places, 0.25 * within), within)
        except PathError as error:
            ws.said.emit(f"{str(error)[:1].upper()}{str(error)[1:]}.")
            return None
        is_pressed = ws.bench.pen_sizes and len(pressed) == len(drawn)
        sizes = {"size": knot_pressures(drawn, np.array(pressed), shape.knots)} if is_pressed else {}
        added = add_runs_along(ws.finished, (shape,), replace(new, width=new.width or self.width), sizes)
        run_id, kept = added.ids[0], ""
        project = (
            added.project if ground is None or not self.rests else self._laid(added.project, run_id, ground, within)
        )
        if self.kind == "strand":
            project, count = laid_strand(ws, project, run_id, 2.0 * within)
            kept = f", {count} on the host" if count else ", none on a host"
        ws.edit("Draw a strand" if self.kind == "strand" else "Draw freehand", project, Selection.of(runs=(run_id,)))
        said = format_length(within, unit=ws.project.unit)
        ws.said.emit(f"{len(shape.knots)} knots{kept}, within {said} of the stroke. Type a width, or draw the next.")
        return run_id

    def _laid(self, project: Project, run_id: str, ground: Ground, within: float) -> Project:
        """A new run with the knots that lie on what the stroke began on, and the last one on what it ended on, resting
        there."""
        path, reach = path_of(project, run_id), self.around.rest(run_width(project, run_id))
        near, last = rests_of(self.workspace, path, reach + within), path.knots[-1].id
        on = {k: r for k, r in near.items() if k == last or (ground.of and ground.of in (r.host, r.run))}
        if not ground.of and abs(float(path.knots[0].place[2] - ground.place[2]) - reach) < within:
            level, up = float(ground.place[2]), (0.0, 0.0, 1.0)
            low = [k for k in path.knots if abs(k.place[2] - level - reach) < within]
            on |= {k.id: Rest(None, (k.place[0], k.place[1], level), up) for k in low}
        return rest_on(project, path.id, on)

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
        self.samples, self.places, self.ground, self.sketch = [], np.empty((0, 3)), None, Sketch()
        self.pressed = []
        return was


def _apart(places: np.ndarray, least: float) -> np.ndarray:
    """Places (n, 3) without those that are nearer than ``least`` m to the one before, or than three times that to the
    ends."""
    kept: list[np.ndarray] = []
    for place in places:
        if not kept or float(np.linalg.norm(place - kept[-1])) >= least:
            kept.append(place)
    out = np.array(kept).reshape(-1, 3)
    if len(out) < _FEWEST:
        return out
    near = np.minimum(np.linalg.norm(out - out[0], axis=1), np.linalg.norm(out - out[-1], axis=1)) < _ENDS * least
    near[[0, -1]] = False  # where a hand sets down and lifts, it trembles
    steady: np.ndarray = out[~near]
    return steady
