"""How one section becomes the next: pairs of places of their outlines, and marks that are dragged along them. No Qt."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from morphax.app.session.board_sight import BoardSight
from morphax.app.session.workspace import Workspace
from morphax.app.tools.shared.steps import shown_step
from morphax.core.loft.along import StationShape, matching_shape
from morphax.core.loft.loop_ruler import LoopRuler, ruler_of
from morphax.core.loft.pairing import Pairing, paired
from morphax.core.section.sampling import section_width
from morphax.core.section.sections import Anchor, anchor_place
from morphax.core.types import Floats, Points2
from morphax.core.vectors import exact_turn
from morphax.project.edits.along import set_station
from morphax.project.lookup import section_by_id, section_shape
from morphax.project.model.document import Project, Run, Station

_LINES, _CATCH, _FINE = 48, 9.0, 720
"""Lines that are drawn between two outlines; pixels at which a place of one is caught; places at which it is drawn."""


@dataclass(frozen=True, eq=False)
class Side:
    """One of the two outlines: its station, its ruler, and how it stands on the body, m, without laws."""

    station: Station
    name: str
    width: float
    ruler: LoopRuler
    anchor: tuple[float, float]
    grow: float

    def places(self, share: Floats) -> Points2:
        """Places (n, 2) on the body at shares of the way round, m."""
        c, s = exact_turn(self.station.turn)
        out: Points2 = (
            (self.ruler.at(np.asarray(share)) - np.array(self.anchor)) * self.grow @ np.array([[c, s], [-s, c]])
        )
        return out


@dataclass(frozen=True, eq=False)
class Pair:
    """Two neighbours of a run: ``first`` owns the marks; how their first outlines are paired."""

    run: Run
    first: Side
    second: Side
    pairing: Pairing

    def lines(self) -> tuple[Points2, Points2]:
        """Places of both that belong together, for as many lines as are drawn."""
        share = (np.arange(_LINES) + 0.5) / _LINES
        return self.first.places(share), self.second.places(self.pairing.onward(share))

    def ends(self) -> tuple[Points2, Points2]:
        """Places of the pairs that are held or found at corners."""
        return self.first.places(self.pairing.first), self.second.places(self.pairing.second)

    def outline(self, side: Side) -> Points2:
        corners = side.ruler.corners[0]
        return side.places(np.unique(np.concatenate([np.arange(_FINE) / _FINE, corners])))


def pair_of(project: Project, run: Run, station_id: str) -> Pair | None:
    """A station and the next one, for the last one those before it; None where there is no other."""
    stations = run.recipe.stations
    k = next((i for i, s in enumerate(stations) if s.id == station_id), None)
    if k is None or len(stations) < 2:
        return None
    k = min(k, len(stations) - 2)
    one, two = (_side(project, run, s) for s in stations[k : k + 2])
    return Pair(run, one, two, paired(one.ruler, two.ruler, one.station.marks))


def _side(project: Project, run: Run, station: Station) -> Side:
    section = section_by_id(project, station.section)
    shape, asked = section_shape(section), run.recipe.placing.anchor
    own = StationShape(0.0, shape, station.scale, station.turn, station.mirror)
    anchor: Anchor = shape.laying.anchor if asked is None else asked
    x, y = anchor_place(shape, anchor)
    grow = run.recipe.size * station.scale
    ruler = ruler_of(matching_shape(own).parts[0].outer)
    return Side(station, section.name, section_width(shape) * grow, ruler, (-x if station.mirror else x, y), grow)


class PairingTool:
    """Drags an end of a pair along its outline: it is a mark from then on. A double-click makes one, or lets it go."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace
        self.sight = BoardSight()
        self._grip: tuple[int, int] | None = None
        self._base: Project | None = None

    @property
    def pair(self) -> Pair | None:
        run, chosen = self.workspace.chosen.run, self.workspace.selection.stations
        return None if run is None or not chosen else pair_of(self.workspace.project, run, chosen[0])

    def frame(self, size: tuple[int, int]) -> None:
        """Both outlines in the middle of the pane."""
        pair = self.pair
        if pair is None:
            return
        p = np.concatenate([pair.outline(pair.first), pair.outline(pair.second)])
        bounds = (*p.min(0).tolist(), *p.max(0).tolist())
        self.sight = BoardSight(size=size).framed((bounds[0], bounds[1], bounds[2], bounds[3]))

    def hit(self, x: float, y: float) -> tuple[int, int] | None:
        """The outline (0, 1) and the number of the pair whose end is at a pixel."""
        pair = self.pair
        if pair is None:
            return None
        ends = [self.sight.pixels(e) for e in pair.ends()]
        near = [(float(np.hypot(*(p - (x, y)))), i, k) for i, e in enumerate(ends) for k, p in enumerate(e)]
        best = min(near, default=(np.inf, 0, 0))
        return (best[1], best[2]) if best[0] <= _CATCH else None

    def press(self, x: float, y: float) -> bool:
        self._grip, self._base = self.hit(x, y), self.workspace.project
        self.workspace.unfinished.held = None if self._grip is None else self.let_go
        return self._grip is not None

    def drag(self, x: float, y: float) -> None:
        """Shows the pair that is held with its end at the nearest place of its outline."""
        if self._grip is None or self._base is None:
            return
        base = self._base
        run = base.find("runs", self.workspace.chosen.run_id)
        pair = None if run is None else pair_of(base, run, self.workspace.selection.stations[0])
        if pair is None:
            return
        side, k = self._grip
        own = (float(pair.pairing.first[k]) % 1.0, float(pair.pairing.second[k]) % 1.0)
        at = self._nearest(pair.second if side else pair.first, x, y)
        new = (own[0], at) if side else (at, own[1])
        marks = (*(m for m in pair.first.station.marks if not _same(m, own)), new)
        if not _rises(marks):
            self.workspace.said.emit("Pairs do not cross: they follow each other round both outlines.")
            return
        owner = pair.first.station.id
        shown_step(self.workspace, lambda: set_station(base, pair.run.id, owner, marks=tuple(sorted(marks))))

    def _add(self, pair: Pair, x: float, y: float) -> None:
        sides = (pair.first, pair.second)
        share = [self._nearest(s, x, y) for s in sides]
        spots = [self.sight.pixels(s.places(np.array([v])))[0] for s, v in zip(sides, share, strict=True)]
        far = [float(np.hypot(*(p - (x, y)))) for p in spots]
        i = int(np.argmin(far))
        if far[i] > 1.5 * _CATCH:
            return
        there = pair.pairing.back if i else pair.pairing.onward
        other = float(there(np.array([share[i]]))[0]) % 1.0
        new = (other, share[1]) if i else (share[0], other)
        marks = tuple(sorted({*pair.first.station.marks, new}))
        owner, run = pair.first.station.id, pair.run.id
        self.workspace.attempt("Pair two places", lambda p: set_station(p, run, owner, marks=marks))

    def _nearest(self, side: Side, x: float, y: float) -> float:
        """The share of an outline nearest to a pixel; a corner that is near draws it on."""
        share = np.unique(np.concatenate([np.arange(_FINE) / _FINE, side.ruler.corners[0]]))
        gap = np.hypot(*(self.sight.pixels(side.places(share)) - (x, y)).T)
        corners = side.ruler.corners[0]
        if len(corners):
            far = np.hypot(*(self.sight.pixels(side.places(corners)) - (x, y)).T)
            if far.min() <= min(gap.min() + _CATCH, 1.5 * _CATCH):
                return float(corners[int(np.argmin(far))])
        return float(share[int(np.argmin(gap))])

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
        if hit is None or not pair.pairing.fixed[hit[1]]:
            self._add(pair, x, y)
            return
        k = hit[1]
        own = (float(pair.pairing.first[k]) % 1.0, float(pair.pairing.second[k]) % 1.0)
        kept = tuple(m for m in pair.first.station.marks if not _same(m, own))
        if kept != pair.first.station.marks:
            owner, run = pair.first.station.id, pair.run.id
            self.workspace.attempt("Let a pair go", lambda p: set_station(p, run, owner, marks=kept))


def _rises(marks: Sequence[tuple[float, float]]) -> bool:
    """Whether marks follow each other once round on both outlines."""
    second = [q for _, q in sorted(marks)]
    return sum(b <= a for a, b in zip(second, [*second[1:], *second[:1]], strict=True)) <= 1


def _same(a: tuple[float, float], b: tuple[float, float]) -> bool:
    return all(abs((p - q + 0.5) % 1.0 - 0.5) < 1e-9 for p, q in zip(a, b, strict=True))
