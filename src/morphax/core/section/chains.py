"""Outlines as they are drawn: chains of lines, arcs and curves, and shapes by two places."""

from dataclasses import dataclass, field, replace
from math import hypot
from typing import Literal

import numpy as np

from morphax.core.errors import SectionError
from morphax.core.section.loop_edits import tidied
from morphax.core.section.outlines import Loop, Segment
from morphax.core.section.pieces import (
    Corner,
    bulge_along,
    bulge_through,
    bulged,
    circle_about,
    pair,
    rectangle,
    regular,
    tangents,
    transformed,
)
from morphax.core.types import Floats

ChainKind = Literal["line", "arc", "curve"]
_SMOOTH = 1e-3
"""Pieces that meet with less of a turn, rad, meet smoothly."""
_HANDLE = 1.0 / 3.0
_QUARTER, _HALF = 0.4142135623730951, 1.0
"""Bulges of a quarter and of half a circle."""


@dataclass(frozen=True)
class Node:
    """A place of a chain; ``kind`` is that of the piece that ends here, ``pull`` (m) where its handle was pulled to, or
    a place that its arc goes through."""

    place: Corner
    kind: ChainKind = "line"
    pull: Corner | None = None


@dataclass
class Chain:
    """A chain of places that is being drawn."""

    nodes: list[Node] = field(default_factory=list)

    @property
    def places(self) -> list[Corner]:
        return [n.place for n in self.nodes]

    def add(self, node: Node) -> None:
        """Raises SectionError where it lies on the place before."""
        if self.nodes and self.nodes[-1].place == node.place:
            raise SectionError("two points of the outline would lie on each other")
        self.nodes.append(node)

    def pull(self, to: Corner | None) -> None:
        """The last place was pulled before letting go."""
        self.nodes[-1] = replace(self.nodes[-1], pull=to)

    def take_back(self) -> bool:
        if self.nodes:
            self.nodes.pop()
        return bool(self.nodes)

    def segments(self, end: Node | None = None) -> list[Segment]:
        """The pieces drawn so far, to ``end`` where the pointer is."""
        return chained_pieces([*self.nodes, *([end] if end is not None else [])], closed=False)

    def closed(self, kind: ChainKind = "line") -> Loop:
        """The chain as a loop, its last piece of a kind. Raises SectionError where it encloses nothing."""
        nodes = list(self.nodes)
        if len(nodes) > 1 and nodes[0].place == nodes[-1].place:
            nodes[0] = replace(nodes[0], kind=nodes[-1].kind, pull=nodes[-1].pull or nodes[0].pull)
            nodes.pop()
        else:
            nodes[0] = replace(nodes[0], kind=kind)
        made = chained_pieces(nodes, closed=True) if len(nodes) > 1 else []
        if len(made) < 2 or (len(made) < 3 and not any(s.is_curved for s in made)):
            raise SectionError("an outline has at least three points, or two and a curve between them")
        return tidied(Loop(tuple(made)))

    def mirrored(self, across: float) -> Loop:
        """The chain and its mirror image across an upright line at ``across``, m, as one loop."""
        half = self.segments()
        if not half:
            raise SectionError("half an outline has at least two points")
        made = list(half)
        for piece in transformed(Loop(tuple(half)), np.diag([-1.0, 1.0]), (2.0 * across, 0.0)).segments:
            if _apart(made[-1].end, piece.start):
                made.append(Segment(made[-1].end, piece.start))
            made.append(piece)
        if _apart(made[-1].end, made[0].start):
            made.append(Segment(made[-1].end, made[0].start))
        return tidied(_with_corners(made))


def _apart(a: Corner, b: Corner) -> bool:
    return hypot(a[0] - b[0], a[1] - b[1]) > 1e-12


def chained_pieces(nodes: list[Node], *, closed: bool) -> list[Segment]:
    """Pieces between nodes: a curve through places that were not pulled goes as the places beside them lie; an arc goes
    on from what was before it, or through the place that it was pulled to."""
    n = len(nodes)
    count = n if closed else n - 1
    out: list[Segment] = []
    for k in range(count):
        a, b = nodes[k], nodes[(k + 1) % n]
        before = out[-1] if out else None
        if a.place == b.place:
            continue
        if b.kind == "arc":
            out.append(_arc_piece(a.place, b, before))
        elif b.kind == "curve":
            out.append(_curve_piece(nodes, k, closed=closed))
        else:
            out.append(Segment(a.place, b.place))
    return list(_with_corners(out, closed=closed).segments)


def _arc_piece(start: Corner, end: Node, before: Segment | None) -> Segment:
    if end.pull is not None:
        return bulged(start, end.place, bulge_through(start, end.pull, end.place))
    if before is None:
        return bulged(start, end.place, _QUARTER)
    bulge = bulge_along(start, tangents(before)[1], end.place)
    return bulged(start, end.place, bulge or (_HALF if _goes_back(before, start, end.place) else 0.0))


def _goes_back(before: Segment, start: Corner, end: Corner) -> bool:
    """Whether an arc to ``end`` would have to turn right round: then it is half a circle, to the left."""
    come, ahead = tangents(before)[1], np.array(end) - np.array(start)
    return bool(come @ ahead < 0.0)


def _curve_piece(nodes: list[Node], k: int, *, closed: bool) -> Segment:
    n = len(nodes)
    a, b = nodes[k], nodes[(k + 1) % n]
    start, end = np.array(a.place), np.array(b.place)
    reach = float(np.hypot(*(end - start))) * _HANDLE
    ways = [_way_at(nodes, at, closed=closed) for at in (k, (k + 1) % n)]
    first = start + (_pulled(a) if a.pull is not None and a.kind != "arc" else _reach(ways[0], end - start, reach))
    last = end - (_pulled(b) if b.pull is not None else _reach(ways[1], end - start, reach))
    return Segment(a.place, b.place, inner=(pair(first), pair(last)))


def _pulled(node: Node) -> Floats:
    assert node.pull is not None
    return np.asarray(np.array(node.pull) - np.array(node.place))


def _reach(way: Floats | None, chord: Floats, reach: float) -> Floats:
    return np.asarray(chord * _HANDLE if way is None else way * reach)


def _way_at(nodes: list[Node], k: int, *, closed: bool) -> Floats | None:
    """The direction in which curves go through a node: along its neighbours where both pieces are curves."""
    n = len(nodes)
    inner = closed or 0 < k < n - 1
    if not inner or nodes[k].kind != "curve" or nodes[(k + 1) % n].kind != "curve":
        return None
    way = np.array(nodes[(k + 1) % n].place) - np.array(nodes[k - 1].place)
    size = float(np.hypot(*way))
    return np.asarray(way / size) if size > 0.0 else None


def _with_corners(pieces: list[Segment], *, closed: bool = True) -> Loop:
    """Pieces that say where they meet in corners."""
    out = []
    for k, piece in enumerate(pieces):
        if k == 0 and not closed:
            out.append(piece)
            continue
        come, leave = tangents(pieces[k - 1])[1], tangents(piece)[0]
        turn = abs(np.arctan2(come[0] * leave[1] - come[1] * leave[0], float(come @ leave)))
        out.append(replace(piece, corner=bool(turn > _SMOOTH)))
    return Loop(tuple(out))


def shape_by(kind: str, start: Corner, end: Corner, count: int) -> Loop:
    """A rectangle between two corners, a circle about a place through another one, or a polygon so."""
    if kind == "rectangle":
        return rectangle(start, end)
    if kind == "circle":
        return circle_about(start, hypot(end[0] - start[0], end[1] - start[1]))
    return regular(start, end, count)
