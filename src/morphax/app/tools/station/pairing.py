"""How one section becomes the next: pairs of places of their outlines, and marks that are dragged along them. No Qt."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from morphax.app.session.board_sight import BoardSight
from morphax.app.session.workspace import Workspace
from morphax.app.tools.shared.steps import shown_step
from morphax.core.loft.along import StationShape, matching_shape
from morphax.core.loft.loop_ruler import LoopRuler
from morphax.core.loft.pairing import Pairing
from morphax.core.loft.tracks import Home, Mark, Track, loop_of, tracks_of
from morphax.core.section.sampling import section_width
from morphax.core.section.sections import Anchor, SectionShape, anchor_place
from morphax.core.types import Floats, Points2
from morphax.core.vectors import exact_turn
from morphax.project.edits.along import set_station
from morphax.project.lookup import section_by_id, section_shape
from morphax.project.model.document import Project, Run, Station

_LINES, _LINES_MORE, _CATCH, _FINE = 48, 16, 9.0, 720
"""Lines that are drawn between two outlines, and between two further ones; pixels at which a place of one is caught;
places at which it is drawn."""


@dataclass(frozen=True, eq=False)
class Side:
    """One of the two sections: its station, and how it stands on the body, m, without laws."""

    station: Station
    name: str
    width: float
    anchor: tuple[float, float]
    grow: float

    def on_body(self, places: Points2) -> Points2:
        """Places (n, 2) of the section on the body, m."""
        c, s = exact_turn(self.station.turn)
        out: Points2 = (places - np.array(self.anchor)) * self.grow @ np.array([[c, s], [-s, c]])
        return out


@dataclass(frozen=True, eq=False)
class Loops:
    """A loop of the first section and what it becomes: its ``number`` there, -1 where it begins as a point."""

    track: Track
    sides: tuple[Side, Side]

    @property
    def number(self) -> int:
        return self.track.numbers[0]

    @property
    def pairing(self) -> Pairing:
        return self.track.pairings[0]

    @property
    def is_whole(self) -> bool:
        """Whether both sections have it."""
        return min(self.track.numbers) >= 0

    def ruler(self, k: int) -> LoopRuler:
        return self.track.rulers[k]

    def places(self, k: int, share: Floats) -> Points2:
        """Places (n, 2) of side ``k`` on the body at shares of the way round, m."""
        gone, share = self.track.points[k], np.asarray(share)
        own = self.ruler(k).at(share) if gone is None else np.tile(gone, (len(share), 1))
        return self.sides[k].on_body(own)

    def lines(self) -> tuple[Points2, Points2]:
        """Places of both that belong together, for as many lines as are drawn."""
        n = _LINES if self.number == 0 else _LINES_MORE
        share = (np.arange(n) + 0.5) / n
        return self.places(0, share), self.places(1, self.pairing.onward(share))

    def ends(self) -> tuple[Points2, Points2]:
        """Places of the pairs that are held or found at corners."""
        return self.places(0, self.pairing.first), self.places(1, self.pairing.second)

    def outline(self, k: int) -> Points2:
        return self.places(k, self._fine(k))

    def _fine(self, k: int) -> Floats:
        return np.unique(np.concatenate([np.arange(_FINE) / _FINE, self.ruler(k).corners[0]]))

    def mark(self, first: float, second: float) -> Mark:
        return (first, second, self.number) if self.number else (first, second)

    def pair_at(self, k: int) -> Mark:
        """The pair of a number, as a mark."""
        return self.mark(float(self.pairing.first[k]) % 1.0, float(self.pairing.second[k]) % 1.0)

    def nearest(self, k: int, sight: BoardSight, at: tuple[float, float]) -> float:
        """The share of side ``k`` nearest to a pixel; a corner that is near draws it on."""
        share, corners = self._fine(k), self.ruler(k).corners[0]
        gap = np.hypot(*(sight.pixels(self.places(k, share)) - at).T)
        if len(corners):
            far = np.hypot(*(sight.pixels(self.places(k, corners)) - at).T)
            if far.min() <= min(gap.min() + _CATCH, 1.5 * _CATCH):
                return float(corners[int(np.argmin(far))])
        return float(share[int(np.argmin(gap))])


@dataclass(frozen=True, eq=False)
class Pair:
    """Two neighbours of a run: ``first`` owns the marks; how their loops are paired, the first outline first."""

    run: Run
    first: Side
    second: Side
    loops: tuple[Loops, ...]


def pair_of(project: Project, run: Run, station_id: str) -> Pair | None:
    """A station and the next one, for the last one those before it; None where there is no other."""
    stations = run.recipe.stations
    k = next((i for i, s in enumerate(stations) if s.id == station_id), None)
    if k is None or len(stations) < 2:
        return None
    k = min(k, len(stations) - 2)
    shapes, sides = zip(*(_side(project, run, s) for s in stations[k : k + 2]), strict=True)
    homes = [Home(side.anchor, side.station.scale, side.station.turn) for side in sides]
    tracks = tracks_of(shapes, [stations[k].marks], homes)
    return Pair(run, sides[0], sides[1], tuple(Loops(t, (sides[0], sides[1])) for t in tracks))


def _side(project: Project, run: Run, station: Station) -> tuple[SectionShape, Side]:
    section = section_by_id(project, station.section)
    shape, asked = section_shape(section), run.recipe.placing.anchor
    own = StationShape(0.0, shape, station.scale, station.turn, station.mirror)
    anchor: Anchor = shape.laying.anchor if asked is None else asked
    x, y = anchor_place(shape, anchor)
    grow = run.recipe.size * station.scale
    side = Side(station, section.name, section_width(shape) * grow, (-x if station.mirror else x, y), grow)
    return matching_shape(own), side


@dataclass(frozen=True)
class Grip:
    """The end of a pair: of which loop, on which side (0, 1), and which one of its pairs."""

    loop: int
    side: int
    pair: int


class PairingTool:
    """Drags an end of a pair along its outline: it is a mark from then on. A double-click makes one, or lets it go."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace
        self.sight = BoardSight()
        self._grip: Grip | None = None
        self._base: Project | None = None

    @property
    def pair(self) -> Pair | None:
        run, chosen = self.workspace.chosen.run, self.workspace.selection.stations
        return None if run is None or not chosen else pair_of(self.workspace.project, run, chosen[0])

    def frame(self, size: tuple[int, int]) -> None:
        """Both sections in the middle of the pane."""
        pair = self.pair
        if pair is None:
            return
        p = np.concatenate([loop.outline(k) for loop in pair.loops for k in (0, 1)])
        bounds = (*p.min(0).tolist(), *p.max(0).tolist())
        self.sight = BoardSight(size=size).framed((bounds[0], bounds[1], bounds[2], bounds[3]))

    def hit(self, x: float, y: float) -> Grip | None:
        """The pair whose end is at a pixel."""
        pair = self.pair
        best, found = _CATCH, None
        for n, loop in enumerate(pair.loops if pair is not None else ()):
            for side, places in enumerate(loop.ends() if loop.is_whole else ()):
                far = np.hypot(*(self.sight.pixels(places) - (x, y)).T)
                if len(far) and far.min() <= best:
                    best, found = float(far.min()), Grip(n, side, int(np.argmin(far)))
        return found

    def press(self, x: float, y: float) -> bool:
        self._grip, self._base = self.hit(x, y), self.workspace.project
        self.workspace.unfinished.held = None if self._grip is None else self.let_go
        return self._grip is not None

    def drag(self, x: float, y: float) -> None:
        """Shows the pair that is held with its end at the nearest place of its outline."""
        if self._grip is None or self._base is None:
            return
        base, grip = self._base, self._grip
        run = base.find("runs", self.workspace.chosen.run_id)
        pair = None if run is None else pair_of(base, run, self.workspace.selection.stations[0])
        if pair is None:
            return
        loop = pair.loops[grip.loop]
        own = loop.pair_at(grip.pair)
        at = loop.nearest(grip.side, self.sight, (x, y))
        new = loop.mark(own[0], at) if grip.side else loop.mark(at, own[1])
        marks = (*(m for m in pair.first.station.marks if not _same(m, own)), new)
        if not _rises([m for m in marks if loop_of(m) == loop.number]):
            self.workspace.said.emit("Pairs do not cross: they follow each other round both outlines.")
            return
        owner = pair.first.station.id
        shown_step(self.workspace, lambda: set_station(base, pair.run.id, owner, marks=tuple(sorted(marks))))

    def _add(self, pair: Pair, x: float, y: float) -> None:
        """A mark where an outline is at a pixel, with the place that it is paired with now."""
        best, new = 1.5 * _CATCH, None
        for loop in pair.loops:
            for k in (0, 1) if loop.is_whole else ():
                share = np.array([loop.nearest(k, self.sight, (x, y))])
                far = float(np.hypot(*(self.sight.pixels(loop.places(k, share))[0] - (x, y))))
                if far > best:
                    continue
                other = (loop.pairing.back if k else loop.pairing.onward)(share) % 1.0
                best, new = far, loop.mark(*(float(v[0]) for v in ((other, share) if k else (share, other))))
        if new is None:
            return
        marks = tuple(sorted({*pair.first.station.marks, new}))
        owner, run = pair.first.station.id, pair.run.id
        self.workspace.attempt("Pair two places", lambda p: set_station(p, run, owner, marks=marks))

    def release(self) -> None:
        made, held, base = self.workspace.unfinished.project, self._grip, self._base
        self.let_go()
        if held is not None and made is not None and made is not base:
            self.workspace.edit("Pair two places", made)

    def let_go(self) -> None:
        """Nothing is made of what is held."""
        self._grip = self._base = self.workspace.unfinished.held = None
        self.workspace.unfinished.show(None)

    def turn(self, x: float, y: float) -> None:
        """A mark under a pixel is let go: the pairing finds its own way there; elsewhere on an outline one is made."""
        hit, pair = self.hit(x, y), self.pair
        if pair is None:
            return
        if hit is None or not pair.loops[hit.loop].pairing.fixed[hit.pair]:
            self._add(pair, x, y)
            return
        own = pair.loops[hit.loop].pair_at(hit.pair)
        kept = tuple(m for m in pair.first.station.marks if not _same(m, own))
        if kept != pair.first.station.marks:
            owner, run = pair.first.station.id, pair.run.id
            self.workspace.attempt("Let a pair go", lambda p: set_station(p, run, owner, marks=kept))


def _rises(marks: Sequence[Mark]) -> bool:
    """Whether marks follow each other once round on both outlines."""
    second = [m[1] for m in sorted(marks)]
    return sum(b <= a for a, b in zip(second, [*second[1:], *second[:1]], strict=True)) <= 1


def _same(a: Mark, b: Mark) -> bool:
    is_there = all(abs((p - q + 0.5) % 1.0 - 0.5) < 1e-9 for p, q in zip(a[:2], b[:2], strict=True))
    return is_there and loop_of(a) == loop_of(b)
