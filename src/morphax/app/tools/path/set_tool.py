"""Drags of the handle set, and the box that chooses: parts of *Edit*. No Qt here."""

import numpy as np

from morphax.app.session.pointer import Pointer
from morphax.app.session.workspace import Workspace
from morphax.app.tools.path.drags import SetDrag
from morphax.app.tools.shared.handle_set import motion_of, part_at, typed_motion
from morphax.app.tools.shared.hit_test import HitTest
from morphax.app.tools.shared.landing import Snapping
from morphax.app.tools.shared.state import Sketch
from morphax.app.tools.shared.steps import shown_step
from morphax.app.tools.shared.typing import Typed, label
from morphax.project.edits.holding import all_that_stay
from morphax.project.edits.hosts import moved_hosts
from morphax.project.edits.transform import Transform, pivot_place, targets_of, transformed
from morphax.project.model.document import Project
from morphax.project.things import Selection
from morphax.project.units import format_length

DRAG_PIXELS = 3.0
_NAMES = {"ring": {"distance": "turn"}, "size": {"distance": "percent"}}
"""What the typed number is called where it is no distance."""
_DOES = {
    "arrow": "move {what} along {axis}",
    "ring": "turn {what} about {axis}",
    "square": "move {what} across the view",
    "size": "scale {what}",
}
Box = tuple[tuple[float, float], tuple[float, float]]


class SetTool:
    """Moves, turns and scales several knots, whole runs or hosts by the handle set."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace
        self.moves_whole = False
        self.has_moved = False
        self.typed = Typed()
        self._drag: SetDrag | None = None
        self._at: tuple[Pointer, Snapping] | None = None

    @property
    def is_pressed(self) -> bool:
        return self._drag is not None

    @property
    def knots(self) -> tuple[str, ...]:
        """The knots that it moves; none means whole paths."""
        knots = self.workspace.selection.knots
        return knots if len(knots) > 1 else ()

    def centre(self) -> np.ndarray | None:
        """Where it stands: several knots, several runs or hosts, or one of them while *move and turn* is on."""
        ws = self.workspace
        things = (*ws.selection.runs, *ws.selection.hosts)
        several = len(ws.selection.knots) > 1 or len(things) > 1
        if not things or not (several or self.moves_whole) or ws.unfinished.is_drawing:
            return None
        targets = targets_of(ws.project, ws.selection.runs, self.knots)
        return pivot_place(ws.project, targets, ws.bench.pivot, ws.bench.pivot_spot, ws.chosen.host_corners())

    def hover(self, at: Pointer) -> Sketch | None:
        """Says what a press on the part under the pointer would do."""
        centre = self.centre()
        part = None if centre is None else part_at(at.sight, centre, at.pixel)
        if centre is None or part is None:
            return None
        words = _DOES[part.kind].format(what=self.what(), axis="xyz"[part.axis])
        return Sketch(label=words, label_at=centre, hover_part=part)

    def what(self) -> str:
        """What it moves, in words: the knots or things by their number, one thing by its name."""
        ws = self.workspace
        if self.knots:
            return f"{len(self.knots)} knots"
        found = [ws.project.find(kind, i) for kind in ("runs", "hosts") for i in getattr(ws.selection, kind)]
        names = [thing.show.name for thing in found if thing is not None]
        if len(names) == 1:
            return str(names[0])
        return f"{len(names)} {'hosts' if not ws.selection.runs else 'things' if ws.selection.hosts else 'runs'}"

    def press(self, at: Pointer) -> bool:
        """A press on an arrow, ring or square; False where it meets none."""
        centre = self.centre()
        part = None if centre is None else part_at(at.sight, centre, at.pixel)
        if centre is None or part is None:
            return False
        ws = self.workspace
        if ws.chosen.is_locked((*ws.selection.runs, *ws.selection.hosts)):
            return True
        hosts = ws.selection.hosts
        base, targets = ws.project, targets_of(ws.project, ws.selection.runs, self.knots)
        motion = motion_of(at.sight, centre, part, at.pixel)

        def apply(by: Transform) -> Project:
            moved = transformed(base, targets, centre, by, with_hosts=hosts)
            return moved_hosts(moved, hosts, centre, by) if hosts else moved

        self._drag, self.has_moved, self.typed = SetDrag(part, centre, at.pixel, motion, apply), False, Typed()
        return True

    def drag(self, at: Pointer, snapping: Snapping) -> Sketch | None:
        d = self._drag
        if d is None or (not self.has_moved and np.hypot(*np.subtract(at.pixel, d.pixel)) < DRAG_PIXELS):
            return None
        self._at, unit = (at, snapping), self.workspace.project.unit
        now = d.motion(at.pixel, at.step if snapping.grid is not at.other_snap else 0.0)
        by, amount = typed_motion(d.part, d.centre, now, self.typed, (at.sight.basis.forward, unit)) or now
        if not shown_step(self.workspace, lambda: d.apply(by)):
            return None
        self.has_moved = True
        if d.part.kind == "ring":
            text = f"{np.degrees(amount):.1f}°"
        else:
            is_size = d.part.kind == "size"
            text = f"{100.0 * amount:.0f} %" if is_size else format_length(amount, unit=unit, decimals=1)
        if not self.typed.is_empty:
            text = f"{label(self.typed, _NAMES.get(d.part.kind))} · {text}"
        return Sketch(label=text, label_at=d.centre)

    def type(self, typed: Typed) -> Sketch | None:
        """Numbers typed during a drag: how far, how many degrees, or how many percent."""
        self.typed = typed
        return None if self._at is None else self.drag(*self._at)

    def release(self) -> None:
        """Ends the drag as one step of history."""
        d, moved = self._drag, self.has_moved
        self.cancel()
        if d is not None and moved:
            ws = self.workspace
            stay = all_that_stay(
                ws.finished, targets_of(ws.finished, ws.selection.runs, self.knots), ws.selection.hosts
            )
            ws.edit({"ring": "Turn", "size": "Scale"}.get(d.part.kind, "Move"), ws.project)
            if stay:
                ws.said.emit(stay)

    def cancel(self) -> None:
        self._drag, self._at, self.has_moved, self.typed = None, None, False, Typed()


class BoxTool:
    """A box drawn from where nothing was chooses the knots or the runs in it."""

    def __init__(self, workspace: Workspace, under: HitTest) -> None:
        self.workspace, self.under = workspace, under
        self._box: Box | None = None
        self._at: Pointer | None = None
        self._host: str | None = None

    @property
    def is_open(self) -> bool:
        return self._box is not None

    def press(self, at: Pointer, host: str | None = None) -> None:
        """Begins a box; a click without a drag chooses the ``host`` that lies there."""
        self._box, self._at, self._host = (at.pixel, at.pixel), at, host

    def drag(self, at: Pointer) -> Sketch:
        if self._box is not None:
            self._box, self._at = (self._box[0], at.pixel), at
        return Sketch(box=self._box)

    def release(self) -> None:
        """Knots of the chosen run in the box, else the runs in it; a click on nothing chooses nothing."""
        box, at, ws = self._box, self._at, self.workspace
        self._box = self._at = None
        if box is None or at is None:
            return
        if np.hypot(*np.subtract(box[1], box[0])) < DRAG_PIXELS:
            if self._host is not None:
                kept = ws.selection.hosts if at.add else ()
                ws.select(Selection.of(hosts=tuple(dict.fromkeys((*kept, self._host)))))
            elif not at.add:
                ws.select(Selection())
            return
        knots = self.under.knots_in(at, box)
        if knots:
            kept = ws.selection.knots if at.add else ()
            ws.select(Selection.of(ws.selection.runs[:1], tuple(dict.fromkeys((*kept, *knots)))))
            return
        kept = ws.selection.runs if at.add else ()
        ws.select(Selection.of(tuple(dict.fromkeys((*kept, *self.under.runs_in(at, box))))))

    def cancel(self) -> None:
        self._box = self._at = None
