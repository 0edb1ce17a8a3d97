"""What catches a place on the section board: points, middles, the outline, lines through other points, the grid."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from morphax.app.session.board import Spot
from morphax.app.session.board_sight import BoardSight
from morphax.app.tools.shared.landing import Snapping
from morphax.core.section.outlines import Loop
from morphax.core.section.pieces import Corner, nearest, pair
from morphax.core.section.segment_table import table_of
from morphax.core.types import Floats

POINT_PIXELS, LINE_PIXELS = 8.0, 5.0
_STEPS = (1.0, 2.0, 5.0, 10.0)
FINEST_PIXELS = 7.0
"""Grid lines on the board are so many pixels apart at least."""


@dataclass(frozen=True)
class Caught:
    """Where a click lands, m in the section's plane; the word for what caught it; lines (m) that show why."""

    place: Corner
    word: str = ""
    guides: tuple[tuple[Corner, Corner], ...] = ()


def grid_of(sight: BoardSight, unit: float) -> float:
    """The fine grid's step on the body, m: 1, 2 or 5 times a power of ten of the display unit."""
    least = FINEST_PIXELS / sight.scale / unit
    power = 10.0 ** np.floor(np.log10(least))
    return float(next(f for f in _STEPS if f * power >= least * (1.0 - 1e-9)) * power * unit)


@dataclass(frozen=True)
class Targets:
    """What can catch: outlines, but for the points that are being moved; and points that are being drawn."""

    loops: Sequence[Loop]
    skip: Collection[Spot] = ()
    drawn: Sequence[Corner] = ()

    @cached_property
    def places(self) -> tuple[Floats, Floats]:
        """Points and middles of sides (n, 2) that stay, m."""
        moving = set(self.skip)
        points: list[Floats] = []
        middles: list[Floats] = []
        for i, loop in enumerate(self.loops):
            table, n = table_of(loop), len(loop.segments)
            index = np.arange(n)
            still = np.array([(i, k) not in moving for k in range(n)], dtype=np.bool_)
            points.append(table.at(index, np.zeros(n))[still])
            middles.append(table.at(index, np.full(n, 0.5))[still & np.roll(still, -1)])
        drawn = np.array(self.drawn, dtype=np.float64).reshape(-1, 2)
        none = np.empty((0, 2))
        return np.concatenate([none, *points, drawn]), np.concatenate([none, *middles])


def caught(sight: BoardSight, pixel: tuple[float, float], among: Targets, snapping: Snapping, unit: float) -> Caught:
    """Where a pixel lands; ``unit`` in m is the display unit, which the grid goes by."""
    goal = np.array(pixel)
    points, middles = among.places
    for kind, targets, word in (("knots", points, "point"), ("middles", middles, "middle")):
        if getattr(snapping, kind) and len(targets):
            off = np.hypot(*(sight.pixels(targets) - goal).T)
            k = int(np.argmin(off))
            if off[k] < POINT_PIXELS:
                return Caught(pair(targets[k]), _anchor_word(targets[k], sight) or word)
    place = sight.place(*pixel)
    if snapping.edges:
        on = _on_outline(sight, place, among)
        if on is not None:
            return Caught(on, "outline")
    return _lined_up(sight, place, goal, points, snapping, unit)


def _anchor_word(place: Floats, sight: BoardSight) -> str:
    return "anchor" if np.hypot(*(np.array(place) - np.array(sight.origin))) < 1e-12 else ""


def _on_outline(sight: BoardSight, place: Corner, among: Targets) -> Corner | None:
    moving = {i for i, _ in among.skip}
    for i, loop in enumerate(among.loops):
        if i in moving:
            continue
        k, t, far = nearest(loop, place)
        if far < LINE_PIXELS * sight.pixel:
            return pair(loop.segments[k].at(np.array([t]))[0])
    return None


def _lined_up(
    sight: BoardSight, place: Corner, goal: Floats, points: Floats, snapping: Snapping, unit: float
) -> Caught:
    """In line with other points or the anchor, across and up, each on its own; else on the grid."""
    shown = list(sight.shown(place))
    if snapping.grid:
        step = grid_of(sight, unit)
        shown = [round(v / step) * step for v in shown]
    out, words, guides = list(sight.own((shown[0], shown[1]))), [], []
    targets = np.concatenate([points, [sight.origin]]) if snapping.crossings else np.empty((0, 2))
    if len(targets):
        off = np.abs(sight.pixels(targets) - goal)
        for axis in (0, 1):
            k = int(np.argmin(off[:, axis] + 1e-3 * off[:, 1 - axis]))
            if off[k, axis] < LINE_PIXELS:
                out[axis] = float(targets[k, axis])
                guides.append(pair(targets[k]))
                words.append("in line")
    end = (out[0], out[1])
    return Caught(end, words[0] if words else "", tuple((g, end) for g in guides))
