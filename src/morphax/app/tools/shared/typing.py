"""Numbers typed during a drag or between clicks: distance, then by Tab direction, x, y, z; ``+`` is relative. No Qt."""

from dataclasses import dataclass, replace

import numpy as np

from morphax.project.units import UnitError, parse_length, parse_number

FIELDS = ("distance", "direction", "x", "y", "z")
_CHARACTERS = "0123456789.,+-*/'\" xcmftin"


@dataclass(frozen=True)
class Typed:
    """What has been typed so far, and for which field; ``kept`` are the fields that were typed before, with texts."""

    text: str = ""
    field: str = "distance"
    kept: tuple[tuple[str, str], ...] = ()

    @property
    def is_empty(self) -> bool:
        return not self.text and self.field == "distance" and not self.kept

    @property
    def texts(self) -> dict[str, str]:
        """Texts by field."""
        own = {self.field: self.text.strip()} if self.text.strip() else {}
        return {k: v for k, v in (dict(self.kept) | own).items() if v}


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
    """Tab: the next field; what was typed stays, and can be changed when its field comes again."""
    field = FIELDS[(FIELDS.index(typed.field) + 1) % len(FIELDS)]
    texts = typed.texts
    return Typed(texts.pop(field, ""), field, tuple(texts.items()))


def typed_place(
    typed: Typed, origin: np.ndarray, pointer: np.ndarray, normal: np.ndarray, unit: str
) -> np.ndarray | None:
    """The place (3,) that was typed, m; None where nothing is, or a text is no number yet.

    ``distance`` goes from ``origin`` towards ``pointer``, or in the ``direction``, degrees in the plane from its first
    axis (x, or y where it looks along x) to its second; ``600 x 400`` (or ``600x400``) along the plane; x, y and z set
    one coordinate each, from the origin where the text begins with ``+`` or ``-``.
    """
    texts = typed.texts
    if not texts:
        return None
    try:
        place = _polar(texts, origin, pointer, normal, unit)
        for axis, name in enumerate("xyz"):
            if name in texts and place is not None:
                value = parse_length(texts[name].removeprefix("+"), unit=unit)
                place[axis] = origin[axis] + value if texts[name][0] in "+-" else value
    except UnitError:
        return None
    return place


def _polar(
    texts: dict[str, str], origin: np.ndarray, pointer: np.ndarray, normal: np.ndarray, unit: str
) -> np.ndarray | None:
    """The place at the typed distance and direction; where one of them isn't typed, it is the pointer's."""
    distance = texts.get("distance", "")
    if "x" in distance:
        return _two(distance, origin, normal, unit)
    if not distance and "direction" not in texts:
        return np.array(pointer, dtype=np.float64)
    way = pointer - origin
    size = float(np.linalg.norm(way))
    if "direction" in texts:
        angle = np.radians(parse_number(texts["direction"].removeprefix("+")))
        first, second = plane_axes(normal)
        way = np.cos(angle) * first + np.sin(angle) * second
    elif size == 0.0:
        return None
    else:
        way = way / size
    return np.asarray(origin + (parse_length(distance.removeprefix("+"), unit=unit) if distance else size) * way)


def plane_axes(normal: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Two unit directions in a plane: along the world axes that lie in it most, in their order."""
    n = normal / np.linalg.norm(normal)
    i, j = (k for k in range(3) if k != int(np.argmax(np.abs(n))))
    first = np.eye(3)[i] - n[i] * n
    first = first / np.linalg.norm(first)
    second = np.cross(n, first)
    return first, second if second[j] > 0.0 else -second


def _two(text: str, origin: np.ndarray, normal: np.ndarray, unit: str) -> np.ndarray:
    first, second = text.split("x", 1)  # no unit has one
    place = np.array(origin, dtype=np.float64)
    axes = [i for i in range(3) if i != int(np.argmax(np.abs(normal)))]
    for axis, part in zip(axes, (first, second), strict=True):
        place[axis] += parse_length(part.strip().removeprefix("+"), unit=unit)
    return place


def label(typed: Typed, names: dict[str, str] | None = None) -> str:
    """How the typed numbers are shown beside the pointer; ``names`` of fields that are called otherwise."""
    called = {f: f for f in FIELDS} | (names or {})
    before = "".join(f"{called[f]} {t} · " for f, t in typed.kept if t)
    return f"{before}{called[typed.field]} {typed.text}│"
