"""Rows of a ready-made path: its values and where it stands; sides of lines and rectangles. No Qt here."""

from typing import Any

import numpy as np

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.rows import Row
from morphax.core.path.made_paths import VALUES, Value
from morphax.project.edits.ready_made import (
    made_stand_off,
    moved_made,
    set_made_stand_off,
    set_made_value,
    with_curve,
)
from morphax.project.edits.sides import set_side, sides_of
from morphax.project.model.paths import Made, made_curve

_KINDS = {"length": "length", "angle": "angle", "count": "count", "turns": "share"}


def _made(ws: Workspace) -> Made | None:
    path = ws.chosen.path
    return None if path is None or len(ws.chosen.run_ids) > 1 else path.made


def _value_row(name: str, value: Value) -> Row:
    def read(ws: Workspace) -> Any:
        made = _made(ws)
        found = None if made is None else dict(made_curve(made).values).get(name)
        return round(found) if found is not None and value.kind == "count" else found

    def write(ws: Workspace, number: float) -> None:
        path = ws.chosen.path
        if path is not None and number is not None:
            ws.attempt(f"Set the {value.title.lower()}", lambda p: set_made_value(p, path.id, name, float(number)))

    return Row(f"made.{name}", value.title, _KINDS[value.kind], read, write, shown=lambda ws: read(ws) is not None)


def _place_row(axis: int) -> Row:
    def read(ws: Workspace) -> Any:
        made = _made(ws)
        return None if made is None or made.around is not None else made.at[axis]

    def write(ws: Workspace, number: float) -> None:
        path, made = ws.chosen.path, _made(ws)
        if path is None or made is None or number is None:
            return
        shift = np.zeros(3)
        shift[axis] = number - made.at[axis]
        curve = moved_made(made_curve(made), shift)
        ws.attempt("Move the path", lambda p: with_curve(p, path, curve))

    name = "xyz"[axis]
    return Row(f"made.at.{name}", f"At {name}", "length", read, write, shown=lambda ws: read(ws) is not None)


def _side_row(name: str, title: str, count: int, side: int) -> Row:
    """A side of a plain straight path: of a line, which has one, or of a rectangle."""

    def read(ws: Workspace) -> float | None:
        path = ws.chosen.path
        sides = () if path is None or len(ws.chosen.run_ids) > 1 else sides_of(path)
        return sides[side] if len(sides) == count else None

    def write(ws: Workspace, number: float) -> None:
        path = ws.chosen.path
        if path is not None and number is not None:
            ws.attempt(f"Set the {title.lower()}", lambda p: set_side(p, path.id, side, float(number)))

    return Row(f"side.{name}", title, "length", read, write, shown=lambda ws: read(ws) is not None)


def _set_stand_off(ws: Workspace, height: float | None) -> None:
    path = ws.chosen.path
    if path is not None:
        ws.attempt("Stand off", lambda p: set_made_stand_off(p, path.id, height))


def _rests(ws: Workspace, *, typed: bool = False) -> bool:
    made = _made(ws)
    return made is not None and made.rest is not None and (not typed or made.rest.height is not None)


_STAND_OFF = Row(
    "made.stand-off",
    "Stand-off",
    "length",
    lambda ws: made_stand_off(ws.chosen.path),
    _set_stand_off,
    changed=lambda ws: _rests(ws, typed=True),
    reset=lambda ws: _set_stand_off(ws, None),
    shown=_rests,
)
"""How far the lowest place of a path that rests stands above what it lies on."""
_BY_NAME: dict[str, Value] = {name: value for kinds in VALUES.values() for name, value in kinds.items()}
_ORDER = ("length", "radius", "inner", "top", "turn", "start", "sides", "pitch", "turns", "height", "waves")
MADE = (
    _side_row("line", "Line length", 1, 0),
    _side_row("first", "First side", 2, 0),
    _side_row("second", "Second side", 2, 1),
    *(_value_row(name, _BY_NAME[name]) for name in _ORDER),
    *(_place_row(axis) for axis in range(3)),
    _STAND_OFF,
)
"""One row for each value that some ready-made path has; those of the chosen one are shown."""
