"""Sides of plain straight paths as values: the length of a line, the two sides of a rectangle."""

import numpy as np

from morphax.core.path.paths import PathKind
from morphax.core.types import Floats
from morphax.project.edits.paths import move_knots
from morphax.project.lookup import path_by_id
from morphax.project.model.document import DocumentError, Knot, Path, Place, Project, RestHold

_SQUARE = 1e-9
"""Sides that differ by a smaller share of the size, or a right angle missed by so little, still make a rectangle."""


def sides_of(path: Path) -> tuple[float, ...]:
    """The length of an open straight path of two knots, or the sides of a closed one whose knots are a rectangle, m.

    Nothing for all other paths, and where a knot holds on to something that says where it lies; what rests can slide.
    """
    if path.kind is not PathKind.STRAIGHT or path.made is not None or any(_is_fixed(k) for k in path.knots):
        return ()
    p = _places(path)
    if not path.closed:
        length = float(np.linalg.norm(p[1] - p[0])) if len(p) == 2 else 0.0
        return (length,) if length > 0.0 else ()
    if len(p) != 4:
        return ()
    a, b = p[1] - p[0], p[2] - p[1]
    size = float(np.ptp(p, axis=0).max())
    if size <= 0.0 or np.abs(p[3] - p[0] - b).max() > _SQUARE * size or abs(float(a @ b)) > _SQUARE * size * size:
        return ()
    sides = float(np.linalg.norm(a)), float(np.linalg.norm(b))
    return sides if min(sides) > 0.0 else ()


def set_side(project: Project, path_id: str, side: int, length: float) -> Project:
    """A line made longer or shorter from its start, a rectangle about its centre; ``length`` m.

    Raises DocumentError where the path has no such side, or the length is not more than 0.
    """
    path = path_by_id(project, path_id)
    now = sides_of(path)
    if side >= len(now):
        raise DocumentError("this path is neither a line nor a rectangle")
    if not length > 0.0:
        raise DocumentError("a side is longer than 0")
    p, ids = _places(path), [k.id for k in path.knots]
    if len(now) == 1:
        return move_knots(project, path_id, {ids[1]: _place(p[0] + (p[1] - p[0]) * (length / now[0]))})
    grown = [length / n if i == side else 1.0 for i, n in enumerate(now)]
    a, b = (0.5 * g * d for g, d in zip(grown, (p[1] - p[0], p[2] - p[1]), strict=True))
    centre = p.mean(0)
    corners = (centre - a - b, centre + a - b, centre + a + b, centre - a + b)
    return move_knots(project, path_id, {i: _place(c) for i, c in zip(ids, corners, strict=True)})


def _is_fixed(knot: Knot) -> bool:
    return knot.hold is not None and not isinstance(knot.hold, RestHold)


def _places(path: Path) -> Floats:
    return np.array([k.place for k in path.knots]).reshape(-1, 3)


def _place(p: Floats) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
