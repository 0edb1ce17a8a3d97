"""The rows below the headings Outline and Repeat: whole parts on the section board, by their numbers. No Qt here."""

from dataclasses import replace
from math import pi
from typing import Any, Literal

from morphax.app.session.workspace import Workspace
from morphax.app.tools.section.parts import anchor_here, chosen_parts, grow, stretch, turn, wall
from morphax.app.views.inspector.rows import Choices, Row
from morphax.core.section.outlines import loop_bounds
from morphax.core.section.repeats import Repeat
from morphax.core.section.sections import SPOTS
from morphax.project.edits.outlines import set_thickness
from morphax.project.model.document import OutlineSource

_OWN = "at a point"


def _bounds(ws: Workspace) -> tuple[float, float, float, float] | None:
    """Of the chosen outlines, m on the body beside the anchor."""
    board = ws.board
    if not board.loops:
        return None
    x0, y0, x1, y1 = loop_bounds(*(board.loops[i] for i in chosen_parts(board)))
    (ax, ay), (bx, by) = board.sight.shown((x0, y0)), board.sight.shown((x1, y1))
    return ax, ay, bx, by


def _size(ws: Workspace, axis: int) -> float | None:
    found = _bounds(ws)
    return None if found is None else found[2 + axis] - found[axis]


def _set_size(ws: Workspace, axis: int, value: float) -> None:
    """Larger or smaller about the anchor; both ways alike where it is kept in proportion."""
    now = _size(ws, axis)
    if now is None or not value > 0.0:
        ws.said.emit("A size is more than 0.")
        return
    share = value / now
    both = ws.bench.in_proportion
    stretch(ws.board, share if both or axis == 0 else 1.0, share if both or axis == 1 else 1.0)


def _anchor(ws: Workspace) -> str | None:
    board = ws.board
    run, source = board.on.through, board.on.source
    own = None if run is None else run.recipe.placing.anchor
    if own is None:
        own = (
            source.anchor
            if isinstance(source, OutlineSource)
            else None
            if board.shape is None
            else (board.shape.laying.anchor)
        )
    return _OWN if isinstance(own, tuple) else own


def _set_anchor(ws: Workspace, word: str) -> None:
    if word == _OWN:
        ws.said.emit("Choose a point, and take Section, Anchor here.")
    else:
        anchor_here(ws.board, word)


def _anchors(ws: Workspace) -> Choices:
    return (*((s, s.replace("-", " ")) for s in (*SPOTS, "centroid", "drawn")), (_OWN, _OWN))


def _keep(ws: Workspace, on: Any) -> None:
    ws.bench.set_in_proportion(on=bool(on))


def _has_outline(ws: Workspace) -> bool:
    return bool(ws.board.loops)


def _ribbons(ws: Workspace) -> OutlineSource | None:
    """The section on the board where it has ribbons."""
    source = ws.board.on.source if ws.board.is_open else None
    has_some = isinstance(source, OutlineSource) and any(p.is_open for p in source.parts)
    return source if has_some and isinstance(source, OutlineSource) else None


def _thickness(ws: Workspace) -> float:
    """Of the ribbons of the section on the board, as thick as the body has them; else of the next strip."""
    source = _ribbons(ws)
    return ws.bench.thickness if source is None else source.thickness * ws.board.sight.grow


def _set_thickness(ws: Workspace, value: float) -> None:
    source, section = _ribbons(ws), ws.board.on.section
    if source is None or section is None:
        ws.bench.set_thickness(value)
        return
    thick = value / ws.board.sight.grow
    ws.attempt("Thickness of the strips", lambda p: set_thickness(p, section, thick, source.thick_to))


def _thick_to(ws: Workspace) -> str | None:
    source = _ribbons(ws)
    return None if source is None else source.thick_to


def _set_thick_to(ws: Workspace, word: Literal["left", "both", "right"]) -> None:
    source, section = _ribbons(ws), ws.board.on.section
    if source is not None and section is not None:
        ws.attempt("Side of the strips", lambda p: set_thickness(p, section, source.thickness, word))


_SIDES = (("left", "the left"), ("both", "both sides"), ("right", "the right"))
_SHOWN = {"outline.strip-to": lambda ws: _ribbons(ws) is not None}
OUTLINE = tuple(
    row if row.id == "outline.strip" else replace(row, shown=_SHOWN.get(row.id, _has_outline))
    for row in (
        Row("outline.width", "Width", "length", lambda ws: _size(ws, 0), lambda ws, v: _set_size(ws, 0, v)),
        Row("outline.height", "Height", "length", lambda ws: _size(ws, 1), lambda ws, v: _set_size(ws, 1, v)),
        Row("outline.keep", "In proportion", "flag", lambda ws: ws.bench.in_proportion, _keep),
        Row("outline.turn", "Turn by", "angle", lambda ws: None, lambda ws, v: turn(ws.board, v), hint="0\u00b0"),
        Row("outline.wall", "Wall", "length", lambda ws: None, lambda ws, v: wall(ws.board, v), hint="whole"),
        Row("outline.grow", "Grow by", "length", lambda ws: None, lambda ws, v: grow(ws.board, v), hint="0"),
        Row("outline.strip", "Strips", "length", _thickness, _set_thickness),
        Row("outline.strip-to", "Strips to", "choice", _thick_to, _set_thick_to, choices=lambda ws: _SIDES),
        Row("outline.anchor", "Anchor", "choice", _anchor, _set_anchor, choices=_anchors),
    )
)


def is_on_board(ws: Workspace) -> bool:
    """Whether the board is open."""
    return ws.board.is_open


def outline_title(ws: Workspace) -> str:
    """Of which outlines the rows speak."""
    count = len({i for i, _ in ws.board.chosen})
    return "Outline" if not count else f"Outline · {count} of {len(ws.board.loops)}"


def outline_words(ws: Workspace) -> str:
    points = sum(len(loop.segments) for loop in ws.board.loops)
    return f"{points} points"


# -- repeats ---------------------------------------------------------------------------------------


def _repeat(ws: Workspace) -> Repeat:
    return ws.board.repeat or Repeat()


def _set(ws: Workspace, **changes: Any) -> None:
    ws.board.set_repeat(replace(_repeat(ws), **changes))


def _step_row(axis: int, label: str) -> Row:
    def write(ws: Workspace, value: float) -> None:
        step = list(_repeat(ws).step)
        step[axis] = value / ws.board.sight.grow
        _set(ws, step=(step[0], step[1]))

    return Row(
        f"repeat.{label.lower()}",
        f"Step {label}",
        "length",
        lambda ws: _repeat(ws).step[axis] * ws.board.sight.grow,
        write,
        shown=lambda ws: _repeat(ws).kind == "along",
    )


REPEAT = (
    Row(
        "repeat.kind",
        "Repeat",
        "choice",
        lambda ws: _repeat(ws).kind,
        lambda ws, kind: _set(ws, kind=kind),
        choices=lambda ws: (("round", "round it"), ("along", "along")),
    ),
    Row("repeat.count", "Count", "count", lambda ws: _repeat(ws).count, lambda ws, n: _set(ws, count=n)),
    Row(
        "repeat.angle",
        "Over",
        "angle",
        lambda ws: _repeat(ws).angle,
        lambda ws, v: _set(ws, angle=v),
        changed=lambda ws: _repeat(ws).angle != 2.0 * pi,
        reset=lambda ws: _set(ws, angle=2.0 * pi),
        shown=lambda ws: _repeat(ws).kind == "round",
    ),
    _step_row(0, "X"),
    _step_row(1, "Y"),
    Row(
        "repeat.joining",
        "They are",
        "choice",
        lambda ws: _repeat(ws).joining,
        lambda ws, word: _set(ws, joining=word),
        choices=lambda ws: tuple((w, w) for w in ("united", "apart", "cut out")),
    ),
)


def repeats(ws: Workspace) -> bool:
    """Whether a repeat is shown before it is done."""
    return ws.board.is_open and ws.board.repeat is not None
