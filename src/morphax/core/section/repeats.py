"""Parts of an outline once more: round a place, along a line, mirrored, turned and stretched."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import pi
from typing import Literal

import numpy as np

from morphax.core.errors import SectionError
from morphax.core.section.combining import combined, united
from morphax.core.section.pieces import Corner, transformed
from morphax.core.section.sections import Part
from morphax.core.types import Floats
from morphax.core.vectors import exact_turn

MOST_COPIES = 1000
Joining = Literal["apart", "united", "cut out"]


@dataclass(frozen=True)
class Repeat:
    """``count`` of a part, itself among them: ``round`` a place over an ``angle``, rad (a whole turn spaces them
    evenly), or ``along`` by a ``step``, m, from each to the next; and what becomes of them and the other parts."""

    kind: Literal["round", "along"] = "round"
    count: int = 6
    angle: float = 2.0 * pi
    step: Corner = (0.01, 0.0)
    joining: Joining = "united"


def moved(part: Part, matrix: Floats, shift: Corner = (0.0, 0.0)) -> Part:
    """A part with p -> matrix p + shift."""
    return Part(transformed(part.outer, matrix, shift), tuple(transformed(h, matrix, shift) for h in part.holes))


def about(part: Part, matrix: Floats, place: Corner) -> Part:
    """A part turned, mirrored or stretched by a matrix (2, 2) about a place that stays."""
    p = np.array(place)
    x, y = p - matrix @ p
    return moved(part, matrix, (float(x), float(y)))


def turn_matrix(angle: float) -> Floats:
    """A turn by an angle, rad, counter-clockwise; quarters are exact."""
    c, s = exact_turn(angle)
    return np.array([[c, -s], [s, c]])


def copies(parts: Sequence[Part], repeat: Repeat, centre: Corner) -> list[Part]:
    """The parts and their copies. Raises SectionError on counts that make no sense."""
    if not 2 <= repeat.count <= MOST_COPIES:
        raise SectionError(f"{repeat.count} copies are asked for; there can be 2 to {MOST_COPIES}")
    if repeat.kind == "along":
        dx, dy = repeat.step
        return [moved(p, np.eye(2), (k * dx, k * dy)) for k in range(repeat.count) for p in parts]
    is_whole = abs(abs(repeat.angle) - 2.0 * pi) < 1e-9
    step = repeat.angle / (repeat.count if is_whole else repeat.count - 1)
    return [about(p, turn_matrix(k * step), centre) for k in range(repeat.count) for p in parts]


def repeated(parts: Sequence[Part], others: Sequence[Part], repeat: Repeat, centre: Corner) -> tuple[Part, ...]:
    """Parts repeated, and joined with the others or cut out of them."""
    made = copies(parts, repeat, centre)
    if repeat.joining == "apart":
        return (*others, *made)
    if repeat.joining == "united":
        return united([*others, *made])
    if not others:
        raise SectionError("there is no other part that they could be cut out of")
    return combined(others, made, "subtract")
