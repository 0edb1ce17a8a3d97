"""Kinds of numbers in fields: how each is shown, read and dragged. A new kind is a new row. No Qt here."""

from collections.abc import Callable
from dataclasses import dataclass
from math import degrees, floor, log10, radians
from typing import Any

from morphax.project.units import UnitError, format_length, format_number, parse_length, parse_number, parse_share


@dataclass(frozen=True)
class NumberKind:
    """``show`` and ``read`` take the display unit; ``drag`` takes a value and pixels, None where it can't be that.

    ``read`` raises UnitError with a sentence on what is no such number.
    """

    show: Callable[[Any, str], str]
    read: Callable[[str, str], Any]
    drag: Callable[[float, float], float | int | None]


class LengthShare(float):
    """A share of a whole length, that was typed in percent."""


def _place(text: str, unit: str) -> float:
    """A distance along a path, m, or a share of its length in percent."""
    return LengthShare(parse_share(text)) if text.rstrip().endswith("%") else parse_length(text, unit=unit)


def _each(text: str, unit: str) -> tuple[str, float]:
    """How pieces are spread: a whole number is how many there are, a length how far apart they stand, per cent how many
    of their own lengths."""
    plain = text.strip()
    if plain.endswith("%"):
        return "factor", parse_share(plain)
    if plain.isdigit():
        return "count", int(plain)
    if not any(c.isalpha() or c in "'\"" for c in plain):
        raise UnitError(f"{text} is no number of pieces; write 12, a spacing such as 600 mm, or 150 % of their length")
    return "spacing", parse_length(plain, unit=unit)


def _show_each(value: tuple[str, float], unit: str) -> str:
    way, number = value
    if way == "factor":
        return f"{format_number(100.0 * number, decimals=1)} %"
    return format_number(number, decimals=0) if way == "count" else format_length(number, unit=unit)


def _lay(text: str, unit: str) -> tuple[str, float]:
    """How a rope is laid: a plain number is how many turns it makes in all, a length how long one turn is."""
    plain = text.strip()
    for word in ("turns", "turn"):
        if plain.endswith(word):
            return "turns", parse_number(plain.removesuffix(word))
    if not any(c.isalpha() or c in "'\"" for c in plain):
        return "turns", parse_number(plain)
    return "lay", parse_length(plain, unit=unit)


def _show_lay(value: tuple[str, float], unit: str) -> str:
    way, number = value
    return f"{format_number(number, decimals=2)} turns" if way == "turns" else format_length(number, unit=unit)


def _angle(text: str, _: str) -> float:
    """Rad from degrees, or from whole turns: ``30``, ``30°``, ``40 turns``."""
    plain = text.strip()
    for word in ("turns", "turn"):
        if plain.endswith(word):
            return radians(360.0 * parse_number(plain.removesuffix(word)))
    return radians(parse_number(plain.replace("°", "")))


def _whole_number(text: str, _: str) -> int:
    number = parse_number(text)
    if number != round(number):
        raise UnitError(f"{text} is not a whole number")
    return round(number)


def _dragged_length(start: float, pixels: float) -> float | None:
    """By shares of itself, 1 % a pixel, rounded to three digits."""
    size = abs(start) if abs(start) > 1e-9 else 0.1
    step = 10.0 ** (floor(log10(size)) - 2)
    value = round((start + 0.01 * pixels * size) / step) * step
    return value if start <= 0.0 or value > 0.0 else None


def _colour(text: str, _: str) -> str:
    """#rrggbb, #rgb, or three numbers from 0 to 255, as #rrggbb in small letters."""
    plain = text.strip().lower().removeprefix("#")
    if len(plain) in (3, 6) and all(c in "0123456789abcdef" for c in plain):
        return f"#{plain if len(plain) == 6 else ''.join(c * 2 for c in plain)}"
    try:
        parts = [round(parse_number(part)) for part in text.replace(",", " ").split()]
    except UnitError:
        parts = []
    if len(parts) != 3 or not all(0 <= p <= 255 for p in parts):
        raise UnitError(f"{text} is not a colour; write #c79a4b, or three numbers from 0 to 255")
    return "#" + "".join(f"{p:02x}" for p in parts)


NUMBERS: dict[str, NumberKind] = {
    "colour": NumberKind(lambda value, _: str(value), _colour, lambda start, pixels: None),
    "text": NumberKind(lambda value, _: str(value), lambda text, _: text, lambda start, pixels: None),
    "length": NumberKind(
        lambda value, unit: format_length(value, unit=unit),
        lambda text, unit: parse_length(text, unit=unit),
        _dragged_length,
    ),
    "place": NumberKind(lambda value, unit: format_length(value, unit=unit), _place, _dragged_length),
    "angle": NumberKind(
        lambda value, _: f"{format_number(degrees(value), decimals=2)}°",
        _angle,
        lambda start, pixels: start + radians(0.5 * round(pixels)),
    ),
    "seconds": NumberKind(
        lambda value, _: f"{format_number(value, decimals=3)} s",
        lambda text, _: parse_number(text.strip().removesuffix("s")),
        lambda start, pixels: max(0.0, round(start + 0.02 * pixels, 2)),
    ),
    "share": NumberKind(
        lambda value, _: format_number(value, decimals=4),
        lambda text, _: parse_share(text),
        lambda start, pixels: min(max(start + 0.005 * pixels, 0.0), 0.999),
    ),
    "factor": NumberKind(
        lambda value, _: format_number(value, decimals=4),
        lambda text, _: parse_share(text),
        lambda start, pixels: max(0.0, round(start + 0.02 * pixels, 3)),
    ),
    "each": NumberKind(_show_each, _each, lambda start, pixels: None),
    "lay": NumberKind(_show_lay, _lay, lambda start, pixels: None),
    "percent": NumberKind(
        lambda value, _: f"{format_number(100.0 * value, decimals=2)} %",
        lambda text, _: 0.01 * parse_number(text.replace("%", "")),
        lambda start, pixels: round(start + 0.005 * pixels, 3),
    ),
    "count": NumberKind(
        lambda value, _: format_number(value, decimals=0),
        _whole_number,
        lambda start, pixels: max(1, round(start + pixels / 6.0)),
    ),
}
