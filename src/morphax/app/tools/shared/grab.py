"""Moving a knot that is placed already while its path is still being drawn, in any pane. No Qt here."""

from dataclasses import dataclass, replace

import numpy as np

from morphax.app.session.camera import on_plane
from morphax.app.session.pointer import Pointer
from morphax.app.tools.path.draw import DrawTool
from morphax.app.tools.path.go_on_tool import GoOnTool
from morphax.app.tools.shared.direction_lock import locked
from morphax.app.tools.shared.landing import Caught, Landing, Snapping, Target
from morphax.app.tools.shared.landing_planes import rounded_in_plane
from morphax.app.tools.shared.picking import nearest_knot

DRAG_PIXELS = 3.0
_ON_IT = 4.0
"""A click so near to the last knot ends the path; farther off it places another."""


@dataclass
class _Held:
    tool: DrawTool
    knot: int
    at: Pointer
    snapping: Snapping
    origin: np.ndarray
    has_moved: bool = False


class Grab:
    """A press on a placed knot becomes a drag of it, or, where it does not move, the click that it was."""

    def __init__(self) -> None:
        self._held: _Held | None = None

    @property
    def is_on(self) -> bool:
        return self._held is not None

    def knot_at(self, tool: object, at: Pointer) -> int | None:
        """The placed knot under the pointer; not the first one where a click closes the path."""
        if type(tool) not in (DrawTool, GoOnTool) or not isinstance(tool, DrawTool) or not tool.knots:
            return None
        k = nearest_knot(at.sight, np.array(tool.knots), at.pixel)
        return None if k == 0 and (isinstance(tool, GoOnTool) or len(tool.knots) >= 3) else k

    def hover(self, tool: object, at: Pointer) -> None:
        """Says so where a press would take hold of a knot."""
        k = self.knot_at(tool, at)
        if k is not None and isinstance(tool, DrawTool) and k < len(tool.knots) - 1:
            tool.hover_left()
            label = "drag moves this knot"
            tool.sketch = replace(tool.sketch, label=label, label_at=np.array(tool.knots[k]))

    def press(self, tool: object, at: Pointer, snapping: Snapping) -> bool:
        """Takes hold of a placed knot; False where there is none."""
        k = self.knot_at(tool, at)
        if k is None or not isinstance(tool, DrawTool):
            return False
        self._held = _Held(tool, k, at, snapping, np.array(tool.knots[k]))
        return True

    def drag(self, at: Pointer, snapping: Snapping) -> None:
        """Moves the knot in the plane of the view, on the grid, or onto what catches it.

        An end that is moved lets go of its port; dropped on one it plugs in.
        """
        h = self._held
        if h is None or (not h.has_moved and np.hypot(*np.subtract(at.pixel, h.at.pixel)) < DRAG_PIXELS):
            return
        if h.knot >= len(h.tool.knots):
            return  # Esc or Backspace took it away meanwhile
        normal = at.sight.basis.forward
        begin, now = (on_plane(at.sight.line(p), h.origin, normal) for p in (h.at.pixel, at.pixel))
        if begin is None or now is None:
            return
        free = snapping.turned_round() if at.other_snap else snapping
        knots = (Target("knot", k.place) for p in h.tool.workspace.finished.paths for k in p.knots)
        caught = h.tool.around.caught(at, free, tuple(knots))
        place = h.origin + (now - begin) if caught is None else np.array(caught.place)
        if at.axis is not None or at.add:
            kind = Caught.GRID if free.grid and caught is None else Caught.NOTHING
            place = locked(Landing(place, kind, normal, "", caught), h.origin, None, at).place
        elif free.grid and caught is None:
            place = rounded_in_plane(place, h.origin, normal, at.step)
        h.has_moved = True
        h.tool.ports.pop(h.knot, None)
        if caught is not None and caught.kind is Caught.PORT and tuple(place) == tuple(caught.place):
            h.tool.ports[h.knot] = caught
        self._kept_ground(h, place)
        h.tool.knots[h.knot] = (float(place[0]), float(place[1]), float(place[2]))
        h.tool.hover_left()

    def _kept_ground(self, h: _Held, place: np.ndarray) -> None:
        """A knot that is moved along the floor still lies on it; moved otherwise it lies on nothing."""
        ground = h.tool.grounds.pop(h.knot, None)
        step = place - np.array(h.tool.knots[h.knot])
        if ground is not None and not ground.of and abs(float(step[2])) < 1e-9:
            h.tool.grounds[h.knot] = replace(ground, place=ground.place + step)

    def release(self) -> bool:
        """Ends the drag; a press that did not move is a click like any other. True where it ends the path: on its last
        knot."""
        held, self._held = self._held, None
        if held is None or held.has_moved or not held.tool.is_drawing:
            return False
        x, y, _ = held.at.sight.seen(np.array(held.tool.knots[held.knot])[None])[0]
        is_on_it = float(np.hypot(x - held.at.pixel[0], y - held.at.pixel[1])) <= _ON_IT
        if held.knot == len(held.tool.knots) - 1 and held.knot > 0 and is_on_it:
            return True
        held.tool.press(held.at, held.snapping)
        return False
