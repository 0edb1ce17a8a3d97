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
from morphax.core.section.touching import feet_from, tangents_from
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
    """What can catch: outlines, but for the points that are being moved; points that are being drawn; the rings (n, 2)
    that hosts fill, m; and ``ways``: places with directions (2,) in which what is drawn may go on."""

    loops: Sequence[Loop]
    skip: Collection[Spot] = ()
    drawn: Sequence[Corner] = ()
    walls: Sequence[Floats] = ()
    ways: Sequence[tuple[Corner, Floats, str]] = ()

    @cached_property
    def places(self) -> tuple[Floats, Floats]:
        """Points and middles of sides (n, 2) that stay, m; a ribbon's gap has none."""
        moving = set(self.skip)
        points: list[Floats] = []
        middles: list[Floats] = []
        for i, loop in enumerate(self.loops):
            table, n = table_of(loop), len(loop.segments)
            index = np.arange(n)
            still = np.array([(i, k) not in moving for k in range(n)], dtype=np.bool_)
            points.append(table.at(index, np.zeros(n))[still])
            whole = still & np.roll(still, -1) & (index < len(loop.drawn))
            middles.append(table.at(index, np.full(n, 0.5))[whole])
        drawn = np.array(self.drawn, dtype=np.float64).reshape(-1, 2)
        none = np.empty((0, 2))
        return np.concatenate([none, *points, drawn]), np.concatenate([none, *middles])


def caught(sight: BoardSight, pixel: tuple[float, float], among: Targets, snapping: Snapping, unit: float) -> Caught:
    """Where a pixel lands; ``unit`` in m is the display unit, which the grid goes by."""
    goal = np.array(pixel)
    points, middles = among.places
    place = sight.place(*pixel)
    touching, near = _touching(sight, place, goal, among, snapping)
    for kind, targets, word in (("knots", points, "point"), ("middles", middles, "middle")):
        if getattr(snapping, kind) and len(targets):
            off = np.hypot(*(sight.pixels(targets) - goal).T)
            k = int(np.argmin(off))
            if off[k] < min(POINT_PIXELS, near):
                return Caught(pair(targets[k]), _anchor_word(targets[k], sight) or word)
    found = touching or _on_host(sight, place, goal, among, snapping)
    if found is None and snapping.edges:
        on = _on_outline(sight, place, among)
        found = None if on is None else Caught(on, "outline")
    found = _straight_on(sight, place, among, snapping, unit) if found is None else found
    if found is not None:
        return found
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


def _touching(
    sight: BoardSight, place: Corner, goal: Floats, among: Targets, snapping: Snapping
) -> tuple[Caught | None, float]:
    """Where a line from the last point drawn touches an outline near the pointer, or meets it squarely; and how many
    pixels off that is."""
    if not among.drawn or not snapping.crossings:
        return None, np.inf
    start, moving = among.drawn[-1], {i for i, _ in among.skip}
    for i, loop in enumerate(among.loops):
        k, _, far = nearest(loop, place) if i not in moving else (0, 0.0, np.inf)
        if far >= POINT_PIXELS * sight.pixel:
            continue
        n = len(loop.segments)
        beside = sorted({(k - 1) % n, k, (k + 1) % n})
        for find, word in ((tangents_from, "tangent"), (feet_from, "square to the outline")):
            targets = find(loop, start, beside)
            off = np.hypot(*(sight.pixels(targets) - goal).T) if len(targets) else np.empty(0)
            if len(off) and off.min() < POINT_PIXELS:
                end = pair(targets[int(np.argmin(off))])
                return Caught(end, word, ((start, end),)), float(off.min())
    return None, np.inf


def _on_host(sight: BoardSight, place: Corner, goal: Floats, among: Targets, snapping: Snapping) -> Caught | None:
    """A corner of what a host fills, or the nearest place on its edge."""
    at = np.array(place)
    for ring in among.walls:
        if snapping.corners:
            off = np.hypot(*(sight.pixels(ring) - goal).T)
            k = int(np.argmin(off))
            if off[k] < POINT_PIXELS:
                return Caught(pair(ring[k]), "corner of a host")
        if snapping.edges:
            d = np.roll(ring, -1, axis=0) - ring
            share = (((at - ring) * d).sum(1) / np.maximum((d * d).sum(1), 1e-300)).clip(0.0, 1.0)
            foot = ring + share[:, None] * d
            far = np.hypot(*(foot - at).T)
            k = int(np.argmin(far))
            if far[k] < LINE_PIXELS * sight.pixel:
                return Caught(pair(foot[k]), "edge of a host")
    return None


def _straight_on(sight: BoardSight, place: Corner, among: Targets, snapping: Snapping, unit: float) -> Caught | None:
    """On a line in which what is drawn may go on, at a round length."""
    at = np.array(place)
    for start, way, word in among.ways if snapping.crossings else ():
        long = float((at - np.array(start)) @ way)
        if long <= 0.0 or np.hypot(*(np.array(start) + long * way - at)) > LINE_PIXELS * sight.pixel:
            continue
        if snapping.grid:
            step = grid_of(sight, unit) / sight.grow
            long = max(round(long / step), 1) * step
        end = pair(np.array(start) + long * way)
        return Caught(end, word, ((start, end),))
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
