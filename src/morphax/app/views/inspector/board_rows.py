"""The rows below the heading Point: what of the outline is chosen on the section board, by its numbers. No Qt here."""

from collections.abc import Callable
from typing import Any

import numpy as np

from morphax.app.session.board import Board, Spot
from morphax.app.session.workspace import Workspace
from morphax.app.tools.section.points import (
    cut_corners,
    move_points,
    set_corner,
    set_kind,
    set_length,
    set_look,
    set_radius,
)
from morphax.app.views.inspector.look_rows import look_choices, ready_choice
from morphax.app.views.inspector.rows import VARIES, Row
from morphax.core.section.fillets import chamfered, filleted
from morphax.core.section.loop_edits import kind_of
from morphax.core.section.outlines import Segment


def _common(ws: Workspace, read: Callable[[Board, Spot], Any]) -> Any:
    """A value of all chosen points; VARIES where they differ."""
    board = ws.board
    values = [read(board, spot) for spot in board.chosen]
    if not values:
        return None
    first = values[0]
    alike = all(v == first or (isinstance(v, float) and abs(v - first) < 1e-12) for v in values)
    return first if alike else VARIES


def _point(board: Board, spot: Spot) -> Segment:
    return board.loops[spot[0]].segments[spot[1]]


def _side(ws: Workspace) -> Segment | None:
    """The side that begins at the only chosen point."""
    board = ws.board
    return _point(board, board.chosen[0]) if len(board.chosen) == 1 else None


def _place_row(axis: int, label: str) -> Row:
    def write(ws: Workspace, value: float) -> None:
        board = ws.board
        places = {}
        for spot in board.chosen:
            shown = list(board.sight.shown(_point(board, spot).start))
            shown[axis] = value
            places[spot] = board.sight.own((shown[0], shown[1]))
        move_points(board, places)

    return Row(
        f"point.{label.lower()}",
        label,
        "length",
        lambda ws: _common(ws, lambda b, s: b.sight.shown(_point(b, s).start)[axis] + 0.0),
        write,
    )


def _write_corner(ws: Workspace, word: str) -> None:
    set_corner(ws.board, ws.board.chosen, corner=word == "corner")


def _length(ws: Workspace) -> float | None:
    side = _side(ws)
    if side is None:
        return None
    d = np.diff(side.at(np.linspace(0.0, 1.0, 257 if side.is_curved else 2)), axis=0)
    return float(np.hypot(d[:, 0], d[:, 1]).sum()) * ws.board.sight.grow


def _is_line(ws: Workspace) -> bool:
    side = _side(ws)
    return side is not None and kind_of(side) == "line"


def _is_arc(ws: Workspace) -> bool:
    side = _side(ws)
    return side is not None and side.is_arc


def _has_corner(ws: Workspace) -> bool:
    return any(_point(ws.board, s).corner for s in ws.board.chosen)


def _cutting(word: str, label: str) -> Row:
    cut = filleted if word == "fillet" else chamfered
    return Row(
        f"point.{word}",
        word.capitalize(),
        "length",
        lambda ws: None,
        lambda ws, v: cut_corners(ws.board, label, lambda loop, k: cut(loop, k, v / ws.board.sight.grow)),
        hint="none",
        shown=_has_corner,
    )


POINT = (
    _place_row(0, "X"),
    _place_row(1, "Y"),
    Row(
        "point.kind",
        "Kind",
        "choice",
        lambda ws: _common(ws, lambda b, s: "corner" if _point(b, s).corner else "smooth"),
        _write_corner,
        choices=lambda ws: (("corner", "corner"), ("smooth", "smooth")),
    ),
    Row(
        "point.side",
        "Side from it",
        "choice",
        lambda ws: _common(ws, lambda b, s: kind_of(_point(b, s))),
        lambda ws, kind: set_kind(ws.board, ws.board.chosen, kind),
        choices=lambda ws: tuple((k, k) for k in ("line", "arc", "curve")),
    ),
    Row("point.length", "Length", "length", _length, lambda ws, v: set_length(ws.board, v), shown=_is_line),
    Row("point.long", "Length", "plain", _length, shown=lambda ws: _side(ws) is not None and not _is_line(ws)),
    Row(
        "point.radius",
        "Radius",
        "length",
        lambda ws: None if (side := _side(ws)) is None else side.radii[0] * ws.board.sight.grow,
        lambda ws, v: set_radius(ws.board, v),
        shown=_is_arc,
    ),
    Row(
        "point.look",
        "Side's look",
        "choice",
        lambda ws: _common(ws, lambda b, s: _point(b, s).look),
        lambda ws, choice: set_look(ws.board, ws.board.chosen, ready_choice(choice) or choice or None),
        changed=lambda ws: any(_point(ws.board, s).look for s in ws.board.chosen),
        reset=lambda ws: set_look(ws.board, ws.board.chosen, None),
        choices=lambda ws: (("", "as the run"), *look_choices(ws)[1:]),
    ),
    _cutting("fillet", "Fillet"),
    _cutting("chamfer", "Chamfer"),
)


def point_rows(ws: Workspace) -> tuple[Row, ...]:
    """None without a chosen point."""
    return POINT if ws.board.is_open and ws.board.chosen else ()


def point_title(ws: Workspace) -> str:
    """Which point it is."""
    chosen = ws.board.chosen
    return f"Point {chosen[0][1] + 1}" if len(chosen) == 1 else f"{len(chosen)} points"


def point_words(ws: Workspace) -> str:
    """Of what."""
    return f"on {ws.board.on.name}"
