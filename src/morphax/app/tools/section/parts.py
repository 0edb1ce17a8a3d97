"""Edits of whole parts on the section board, each one step of history. Free of widgets."""

from collections.abc import Callable
from dataclasses import replace
from math import pi

import numpy as np

from morphax.app.session.board import Board
from morphax.app.tools.section.dragging import moved as points_moved
from morphax.core.section.combining import How, combined, united
from morphax.core.section.loop_edits import is_left_turning
from morphax.core.section.nesting import nested
from morphax.core.section.repeats import Repeat, about, copies, repeated, turn_matrix
from morphax.core.section.seams import seam_share
from morphax.core.section.sections import Anchor, Part, SectionShape
from morphax.core.section.walls import as_strips, hollowed, moved_by
from morphax.core.types import Floats
from morphax.project.edits.outlines import with_anchor
from morphax.project.edits.runs import with_placing
from morphax.project.model.document import ReadyMadeSource

Parts = tuple[Part, ...]
_ANCHOR = "Move the anchor"


def chosen_parts(board: Board) -> tuple[int, ...]:
    """Numbers of the parts that points are chosen of, one for each loop that stands alone: a hole counts as its own
    outline. All where none is chosen."""
    wanted = {i for i, _ in board.chosen}
    return tuple(range(len(board.loops))) if not wanted else tuple(sorted(wanted))


def _split(board: Board, shape: SectionShape) -> tuple[Parts, Parts]:
    """The chosen outlines, and the other parts without them; a whole part where its outline is chosen."""
    wanted, at = set(chosen_parts(board)), 0
    mine: list[Part] = []
    others: list[Part] = []
    for part in shape.parts:
        holes = range(at + 1, at + 1 + len(part.holes))
        if at in wanted:
            mine.append(part)
        else:
            taken = [h for k, h in zip(holes, part.holes, strict=True) if k in wanted]
            mine += [p for h in taken for p in nested([h])]
            others.append(Part(part.outer, tuple(h for h in part.holes if h not in taken)))
        at += 1 + len(part.holes)
    return tuple(mine), tuple(others)


def _are_holes(board: Board) -> bool:
    """Whether only holes are chosen: united with what is round them they would be filled."""
    loops = [board.loops[i] for i in chosen_parts(board)]
    return bool(board.chosen) and all(not loop.is_open and not is_left_turning(loop) for loop in loops)


def _change(board: Board, label: str, change: Callable[[Parts, Parts], Parts], *, as_solid: bool = False) -> bool:
    """A change of the chosen parts, given the others; ``as_solid``: ribbons with a thickness become its strips."""

    def changed(shape: SectionShape) -> SectionShape:
        shape = as_strips(shape) if as_solid else shape
        return replace(shape, parts=tuple(change(*_split(board, shape))))

    done = board.change(label, changed)
    if done:
        board.choose(())
    return done


def unite(board: Board) -> bool:
    """All parts as one; what crosses itself is put right too."""
    return board.change("Unite the parts", lambda s: replace(as_strips(s), parts=united(as_strips(s).parts)))


def combine(board: Board, how: How, label: str) -> bool:
    """The chosen parts cut out of the others, or what they have in common with them."""

    def made(mine: Parts, others: Parts) -> Parts:
        return combined(others, mine, how)

    return _change(board, label, made, as_solid=True)


def transform(board: Board, label: str, matrix: Floats) -> bool:
    """The chosen parts turned, mirrored or stretched about the anchor."""
    place = board.sight.origin
    return _change(board, label, lambda mine, others: (*others, *(about(p, matrix, place) for p in mine)))


def mirror(board: Board) -> bool:
    """Left and right changed round, about the anchor."""
    return transform(board, "Mirror the outline", np.diag([-1.0, 1.0]))


def mirror_copy(board: Board) -> bool:
    """The chosen parts and their mirror images across the anchor's upright line, united; of holes further holes."""
    place, flip, are_holes = board.sight.origin, np.diag([-1.0, 1.0]), _are_holes(board)

    def made(mine: Parts, others: Parts) -> Parts:
        both = [*mine, *(about(p, flip, place) for p in mine)]
        return combined(others, both, "subtract") if are_holes else united([*others, *both])

    return _change(board, "Mirror a copy", made)


def turn(board: Board, angle: float = 0.5 * pi) -> bool:
    """The chosen parts turned about the anchor, rad."""
    return transform(board, "Turn the outline", turn_matrix(angle))


def stretch(board: Board, x: float, y: float) -> bool:
    """The chosen parts so many times as wide and high, about the anchor."""
    return transform(board, "Size the outline", np.diag([x, y]))


def wall(board: Board, thickness: float) -> bool:
    """The chosen parts hollow, with a wall of a thickness, m on the body."""
    own = thickness / board.sight.grow
    return _change(board, "Make a wall", lambda mine, others: (*others, *hollowed(mine, own)), as_solid=True)


def grow(board: Board, by: float) -> bool:
    """The chosen parts larger all round by a distance, m on the body; smaller where it is less than 0."""
    own = by / board.sight.grow
    return _change(board, "Grow the outline", lambda mine, others: (*others, *moved_by(mine, own)), as_solid=True)


def repeat_parts(board: Board, repeat: Repeat) -> bool:
    """The chosen parts once more, round the anchor or along a line; of holes further holes."""
    centre = board.sight.origin
    if _are_holes(board) and repeat.joining == "united":
        repeat = replace(repeat, joining="cut out")
    return _change(board, "Repeat", lambda mine, others: repeated(mine, others, repeat, centre))


def preview(board: Board) -> list[Part]:
    """The copies of a repeat that is not done yet. Raises SectionError where it can't be."""
    if board.repeat is None or board.shape is None:
        return []
    mine, _ = _split(board, board.shape)
    return copies(mine, board.repeat, board.sight.origin)


def line_up(board: Board, axis: int) -> bool:
    """The chosen points in one line: all at the place of the one chosen last, across (0) or up (1)."""
    loops, chosen = board.loops, board.chosen
    goal = loops[chosen[-1][0]].segments[chosen[-1][1]].start[axis]
    places = {}
    for i, k in chosen:
        at = list(loops[i].segments[k].start)
        at[axis] = goal
        places[(i, k)] = (at[0], at[1])
    return board.change("Line up points", lambda s: points_moved(s, places))


def seam_here(board: Board, place: tuple[float, float]) -> bool:
    """The skin's seam of the run that is looked at begins at a place of the outline, m."""
    run, shape = board.on.through, board.shape
    if run is None or shape is None:
        board.desk.bench.said.emit("The seam is a run's own; choose a run first.")
        return False
    share = seam_share(shape, place)
    return board.desk.attempt("Seam here", lambda p: with_placing(p, (run.id,), seam=share))


def up_here(board: Board, place: tuple[float, float]) -> bool:
    """The section of the run that is looked at is rolled until a place of it, m, lies above the path."""
    run = board.on.through
    off = np.subtract(place, board.sight.origin)
    if run is None or not off.any():
        why = "The roll is a run's own; choose a run first." if run is None else "This point is the anchor itself."
        board.desk.bench.said.emit(why)
        return False
    angle = float(np.arctan2(off[1], -off[0] if run.recipe.placing.flip else off[0]))
    return board.desk.attempt("Up here", lambda p: with_placing(p, (run.id,), roll=0.5 * pi - angle))


def anchor_here(board: Board, place: Anchor) -> bool:
    """The path goes through the section at a place, m, or at a named spot of it; of a run with an anchor of its own
    that is changed, and of one with a ready-made section, which keeps its values."""
    on = board.on
    run = on.through
    is_own = run is not None and run.recipe.placing.anchor is not None
    if run is not None and (is_own or isinstance(on.source, ReadyMadeSource)):
        return board.desk.attempt(_ANCHOR, lambda p: with_placing(p, (run.id,), anchor=place))
    if on.section is None:
        return board.change(_ANCHOR, lambda s: replace(s, laying=replace(s.laying, anchor=place)))
    section = on.section
    return board.desk.attempt(_ANCHOR, lambda p: with_anchor(p, section, place))
