"""What of an outline lies under a pixel of the section board, or in a box. Free of widgets."""

from dataclasses import dataclass, replace

import numpy as np
import shapely

from morphax.app.session.board import Board, Spot
from morphax.app.tools.section.catch import POINT_PIXELS, Targets, caught
from morphax.app.tools.section.dragging import Handle
from morphax.app.tools.shared.landing import Snapping
from morphax.core.section.loop_edits import handles_of
from morphax.core.section.nesting import regions_of
from morphax.core.section.outlines import Loop
from morphax.core.section.pieces import nearest
from morphax.project.units import METRES

Pixel = tuple[float, float]
_LINE_PIXELS, _BOX_PIXELS = 6.0, 4.0


@dataclass(frozen=True)
class Under:
    """What lies under the pointer: a point, a handle of one, or a side with where on it."""

    spot: Spot | None = None
    handle: Handle | None = None
    side: Spot | None = None
    at: float = 0.0


def looked_at(board: Board, pixel: Pixel) -> Under:
    """What of the outline lies under a pixel: handles of chosen points first, then points, then sides."""
    sight, goal, loops = board.sight, np.array(pixel), board.loops
    for i, k in board.chosen:
        for way, tip in handles_of(loops[i], k).items():
            if np.hypot(*(sight.pixels(np.array(tip)) - goal)) < POINT_PIXELS:
                return Under(handle=(i, k, way))
    best: tuple[float, Spot] | None = None
    for i, loop in enumerate(loops):
        off = np.hypot(*(sight.pixels(np.array([s.start for s in loop.segments])) - goal).T)
        k = int(np.argmin(off))
        if off[k] < POINT_PIXELS and (best is None or off[k] < best[0]):
            best = (float(off[k]), (i, k))
    if best is not None:
        return Under(spot=best[1])
    place = sight.place(*pixel)
    for i, loop in enumerate(loops):
        k, t, far = nearest(loop, place)
        if far < _LINE_PIXELS * sight.pixel:
            return Under(side=(i, k), at=t)
    return Under()


def part_at(board: Board, pixel: Pixel) -> tuple[Spot, ...]:
    """All points of the innermost outline round a pixel, a hole's too; none outside of all."""
    place = shapely.Point(board.sight.place(*pixel))
    regions = regions_of(board.loops) if board.loops else ()
    around = [i for i, r in enumerate(regions) if shapely.make_valid(r).contains(place)]
    if not around:
        return ()
    inner = min(around, key=lambda i: float(shapely.area(regions[i])))
    return tuple((inner, k) for k in range(len(board.loops[inner].segments)))


def spots_of(board: Board, under: Under) -> tuple[Spot, ...]:
    """The points that a press there takes: one, or both of a side."""
    if under.spot is not None:
        return (under.spot,)
    if under.side is None:
        return ()
    i, k = under.side
    return ((i, k), (i, (k + 1) % len(board.loops[i].segments)))


def in_box(board: Board, a: Pixel, b: Pixel) -> list[Spot]:
    """The points between two pixels; none where those are one click."""
    low, high = np.minimum(a, b), np.maximum(a, b)
    if np.hypot(*(high - low)) < _BOX_PIXELS:
        return []
    found: list[Spot] = []
    for i, loop in enumerate(board.loops):
        at = board.sight.pixels(np.array([s.start for s in loop.segments]))
        found += [(i, int(k)) for k in np.flatnonzero(((at >= low) & (at <= high)).all(1))]
    return found


def choose_in(board: Board, a: Pixel, b: Pixel, *, adds: bool) -> None:
    """Chooses what lies in a box; a click without one takes the whole outline round it, outside of all nothing."""
    found = in_box(board, a, b) or (part_at(board, a) if np.hypot(b[0] - a[0], b[1] - a[1]) < _BOX_PIXELS else ())
    kept = board.chosen if adds else ()
    board.choose((*kept, *(s for s in found if s not in kept)))


def share_on(board: Board, under: Under, pixel: Pixel, snapping: Snapping) -> float:
    """Where on the side under the pointer a pixel is: at what catches it there, where that lies on the side."""
    if under.side is None:
        return under.at
    unit = METRES[board.desk.project.unit]
    found = caught(board.sight, pixel, Targets(board.loops), replace(snapping, edges=False), unit)
    i, k = under.side
    _, t, far = nearest(Loop((board.loops[i].segments[k],)), found.place)
    return t if far < board.sight.pixel else under.at
