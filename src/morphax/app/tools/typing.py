"""Numbers typed during a drag or between clicks: distance, then x, y, z by Tab; ``+`` is relative. No Qt here."""

from dataclasses import dataclass, replace

import numpy as np

from morphax.project.units import UnitError, parse_length

FIELDS = ("distance", "x", "y", "z")
_CHARACTERS = "0123456789.,+-*/'\" xcmftin"


@dataclass(frozen=True)
class Typed:
    """What has been typed so far, and for which field."""

    text: str = ""
    field: str = "distance"

    @property
    def is_empty(self) -> bool:
        return not self.text and self.field == "distance"


def begins(character: str) -> bool:
    """Whether a key starts typing a number."""
    return len(character) == 1 and (character.isdigit() or character in ".,+-")


def with_character(typed: Typed, character: str) -> Typed | None:
    """The text with a character more, or None where it is none of a number's."""
    if len(character) != 1 or character not in _CHARACTERS or (typed.is_empty and not begins(character)):
        return None
    return replace(typed, text=typed.text + character)


def without_last(typed: Typed) -> Typed:
    return replace(typed, text=typed.text[:-1])


def next_field(typed: Typed) -> Typed:
    """Tab: the next field, with nothing typed in it yet."""
    return Typed("", FIELDS[(FIELDS.index(typed.field) + 1) % len(FIELDS)])


def typed_place(
    typed: Typed, origin: np.ndarray, pointer: np.ndarray, normal: np.ndarray, unit: str
) -> np.ndarray | None:
    """The place (3,) that was typed, m; None where the text is no number yet.

    ``distance`` goes from ``origin`` towards ``pointer``; ``600 x 400`` (or ``600x400``) along the plane; x, y and z
    set one coordinate of the pointer's place, from the origin where the text begins with ``+`` or ``-``.
    """
    text = typed.text.strip()
    if not text:
        return None
    try:
        if typed.field == "distance" and "x" in text:
            return _two(text, origin, normal, unit)
        relative = text[0] in "+-"
        value = parse_length(text.removeprefix("+"), unit=unit)
    except UnitError:
        return None
    if typed.field == "distance":
        way = pointer - origin
        size = float(np.linalg.norm(way))
        return None if size == 0.0 else origin + value * way / size
    axis = "xyz".index(typed.field)
    place = pointer.copy()
    place[axis] = origin[axis] + value if relative else value
    return place


def _two(text: str, origin: np.ndarray, normal: np.ndarray, unit: str) -> np.ndarray:
    first, second = text.split("x", 1)  # no unit has one
    place = origin.copy()
    axes = [i for i in range(3) if i != int(np.argmax(np.abs(normal)))]
    for axis, part in zip(axes, (first, second), strict=True):
        place[axis] += parse_length(part.strip().removeprefix("+"), unit=unit)
    return place


def label(typed: Typed) -> str:
    """How the typed number is shown beside the pointer."""
    return f"{typed.field} {typed.text}\u2502"
