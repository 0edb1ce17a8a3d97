"""Edits of points on the section board, each one step of history. Free of widgets."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from math import hypot

from morphax.app.session.board import Board, Spot
from morphax.app.tools.section.dragging import moved
from morphax.core.section.loop_edits import (
    SegmentKind,
    inserted,
    made_corner,
    made_smooth,
    removed,
    with_kind,
    with_radius,
)
from morphax.core.section.outlines import Loop
from morphax.core.section.pieces import Corner
from morphax.core.section.sections import Part, SectionShape
from morphax.project.draft import Draft
from morphax.project.edits.outlines import with_loops
from morphax.project.model.document import Project
from morphax.project.ready_looks import ReadyLook, material_for

_EDGE = 0.02
"""A point that is added stays so far, as a share of its side, from the ends of that."""


def _each(board: Board, label: str, spots: Sequence[Spot], change: Callable[[Loop, int], Loop]) -> bool:
    """A change of each of some points, which stay as many as they are."""

    def changed(loops: tuple[Loop, ...]) -> tuple[Loop, ...]:
        out = list(loops)
        for i, k in spots:
            out[i] = change(out[i], k)
        return tuple(out)

    return board.change_loops(label, changed)


def toggle_corner(board: Board, spots: Sequence[Spot]) -> None:
    """Corners become smooth, or, where none of them is one, corners."""
    smooth = any(board.loops[i].segments[k].corner for i, k in spots)
    set_corner(board, spots, corner=not smooth)


def set_corner(board: Board, spots: Sequence[Spot], *, corner: bool) -> None:
    """Points as corners, or smooth."""
    _each(board, "Make a corner" if corner else "Make smooth", spots, made_corner if corner else made_smooth)


def set_kind(board: Board, spots: Sequence[Spot], kind: SegmentKind) -> None:
    """The sides that begin at points as lines, arcs or curves."""
    _each(board, f"Make it {'an' if kind == 'arc' else 'a'} {kind}", spots, lambda loop, k: with_kind(loop, k, kind))


def set_look(board: Board, spots: Sequence[Spot], look: str | ReadyLook | None) -> None:
    """What the faces of the sides that begin at points look like: a material of the project by its id, a ready-made
    look, or as the run does."""
    named = [look or ""] if not isinstance(look, ReadyLook) else []

    def ready(project: Project) -> Project:
        if not isinstance(look, ReadyLook):
            return project
        draft = Draft(project)
        named.append(material_for(draft, look))
        return draft.done()

    def changed(shape: SectionShape) -> SectionShape:
        loops = [list(loop.segments) for loop in shape.loops]
        for i, k in spots:
            if k < len(shape.loops[i].drawn):
                loops[i][k] = replace(loops[i][k], look=named[-1])
        made = [replace(loop, segments=tuple(own)) for loop, own in zip(shape.loops, loops, strict=True)]
        return with_loops(shape, made)

    board.change("Look of a side" if len(spots) == 1 else "Look of sides", changed, anew=False, before=ready)


def cut_corners(board: Board, label: str, cut: Callable[[Loop, int], Loop]) -> None:
    """Every chosen corner rounded or cut off; those further along first, so that the others keep their numbers."""
    corners = [(i, k) for i, k in board.chosen if board.loops[i].segments[k].corner]
    spots = sorted(corners, key=lambda s: -s[1])
    if spots and _each(board, label, spots, cut):
        board.choose(())


def set_length(board: Board, length: float) -> None:
    """The side from the chosen point, a line, with another length, m on the body: its end moves along it."""
    ((i, k),) = board.chosen
    segments = board.loops[i].segments
    (ax, ay), (bx, by) = segments[k].start, segments[k].end
    share = length / board.sight.grow / hypot(bx - ax, by - ay)
    if not share > 0.0:
        board.desk.bench.said.emit("A side is longer than 0.")
    else:
        move_points(board, {(i, (k + 1) % len(segments)): (ax + share * (bx - ax), ay + share * (by - ay))})


def set_radius(board: Board, radius: float) -> None:
    """The arc from the chosen point with another radius, m on the body, between the same ends."""
    spots = board.chosen[:1]
    _each(board, "Set the radius", spots, lambda loop, k: with_radius(loop, k, radius / board.sight.grow))


def add_point(board: Board, side: Spot, at: float) -> None:
    """A point on a side, which is chosen then."""
    i, k = side
    share = min(max(at, _EDGE), 1.0 - _EDGE)
    if _each(board, "Add a point", (side,), lambda loop, k: inserted(loop, k, share)):
        board.choose(((i, k + 1),))


def delete_points(board: Board) -> bool:
    """The chosen points go; a part whose points are all chosen goes whole. False where none is chosen."""
    chosen = board.chosen
    if not chosen:
        return False
    gone = {i: {k for j, k in chosen if j == i} for i, _ in chosen}

    def changed(shape: SectionShape) -> SectionShape:
        loops = (
            removed(loop, gone.get(i, set()))
            for i, loop in enumerate(shape.loops)
            if len(gone.get(i, set())) < len(loop.segments)
        )
        return SectionShape(tuple(Part(loop) for loop in loops), shape.laying, is_free=True)

    if board.change("Delete points", changed):
        board.choose(())
    return True


def move_points(board: Board, places: Mapping[Spot, Corner]) -> bool:
    """Points to places, m."""
    return board.change("Move points", lambda s: moved(s, places))


def nudge(board: Board, right: int, up: int, step: float) -> None:
    """The chosen points by a step, m on the body."""
    dx, dy = right * step / board.sight.grow, up * step / board.sight.grow
    at = {(i, k): board.loops[i].segments[k].start for i, k in board.chosen}
    if at:
        move_points(board, {s: (x + dx, y + dy) for s, (x, y) in at.items()})


def step(board: Board, by: int) -> None:
    """Chooses the next point along the outline, or the one before."""
    order = [(i, k) for i, loop in enumerate(board.loops) for k in range(len(loop.segments))]
    if order:
        at = order.index(board.chosen[-1]) + by if board.chosen else min(by, 0)
        board.choose((order[at % len(order)],))
