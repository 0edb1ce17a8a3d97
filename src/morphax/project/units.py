"""Lengths as people type them: units, fractions, feet and inches, arithmetic."""

import re
from dataclasses import dataclass
from math import isfinite

from morphax.core.errors import MorphaxError

METRES = {"mm": 1e-3, "cm": 1e-2, "m": 1.0, "in": 0.0254, "ft": 0.3048}
"""Known units in metres."""
_MARKS = {"'": "ft", '"': "in", "\u2032": "ft", "\u2033": "in"}
_TOKEN = re.compile(
    r"\s*(?:(?P<number>\d+\s+\d+/\d+|\d+/\d+|\d+(?:[\s\u2009\u202f]\d{3})+(?![\d])(?:\.\d+)?|\d*\.\d+(?:e-?\d+)?|\d+\.?(?:e-?\d+)?)"
    r"|(?P<unit>mm|cm|m|in|ft|['\"\u2032\u2033])|(?P<op>[-+*/()\u2212\u00d7]))"
)


class UnitError(MorphaxError, ValueError):
    """A text that is no length or number."""


@dataclass(frozen=True)
class _Quantity:
    value: float
    power: int  # of length: 0 plain number, 1 metres


def _number(text: str) -> float:
    text = text.replace("\u2009", " ").replace("\u202f", " ")
    if "/" not in text:
        return float(text.replace(" ", ""))
    whole, _, fraction = text.rpartition(" ")
    top, bottom = fraction.split("/")
    if not float(bottom):
        raise UnitError(f"{text!r} divides by zero")
    return float(whole or 0) + float(top) / float(bottom)


def _tokens(text: str, what: str) -> list[tuple[str, str]]:
    out, at = [], 0
    while at < len(text.rstrip()):
        found = _TOKEN.match(text, at)
        if not found:
            raise UnitError(f"{text!r} is not {what}: {text[at:].strip()!r} is neither a number nor a unit")
        kind = found.lastgroup or ""
        out.append((kind, found.group(kind).replace("\u2212", "-").replace("\u00d7", "*")))
        at = found.end()
    return out


class _Parser:
    """Recursive descent over sums, products and numbers with units; bare terms in a sum take ``unit``."""

    def __init__(self, text: str, unit: float, what: str) -> None:
        self.text, self.unit, self.what = text, unit, what
        self.tokens = _tokens(text, what)
        self.at = 0

    def peek(self) -> tuple[str, str]:
        return self.tokens[self.at] if self.at < len(self.tokens) else ("end", "")

    def take(self) -> tuple[str, str]:
        token = self.peek()
        self.at += 1
        return token

    def sum(self, depth: int = 0) -> _Quantity:
        total = self.product(depth)
        while self.peek()[1] in ("+", "-"):
            sign = 1.0 if self.take()[1] == "+" else -1.0
            total = self.added(total, self.product(depth), sign)
        return total

    def added(self, a: _Quantity, b: _Quantity, sign: float) -> _Quantity:
        power = max(a.power, b.power)
        x, y = (q.value * self.unit if q.power < power else q.value for q in (a, b))
        return _Quantity(x + sign * y, power)

    def product(self, depth: int) -> _Quantity:
        out = self.factor(depth)
        while self.peek()[1] in ("*", "/"):
            op, b = self.take()[1], self.factor(depth)
            if op == "/" and b.value == 0.0:
                raise UnitError(f"{self.text!r} divides by zero")
            value = out.value * b.value if op == "*" else out.value / b.value
            out = _Quantity(value, out.power + (b.power if op == "*" else -b.power))
        return out

    def factor(self, depth: int) -> _Quantity:
        kind, text = self.take()
        if depth > 32:
            raise UnitError("too many brackets")
        if text in ("-", "+"):
            q = self.factor(depth + 1)
            return _Quantity(-q.value if text == "-" else q.value, q.power)
        if text == "(":
            q = self.sum(depth + 1)
            if self.take()[1] != ")":
                raise UnitError(f"{self.text!r} misses a closing bracket")
        elif kind == "number":
            q = _Quantity(_number(text), 0)
        else:
            raise UnitError(f"{self.text!r} is not {self.what}" if self.text.strip() else "nothing was typed")
        if self.peek()[0] == "unit":
            word = self.take()[1]
            unit = _MARKS.get(word, word)
            q = _Quantity(q.value * METRES[unit], q.power + 1)
            if self.peek()[0] == "number":  # 2' 6 1/2": inches go on after feet, and nothing else does
                q = self.inches_after(q, unit, depth)
        return q

    def inches_after(self, feet: _Quantity, unit: str, depth: int) -> _Quantity:
        if unit != "ft":
            raise UnitError(f"{self.text!r} has a number after {unit}: put + between them, or type it anew")
        more = self.factor(depth + 1)
        return _Quantity(feet.value + (more.value if more.power else more.value * METRES["in"]), 1)


def parse_length(text: str, *, unit: str = "mm") -> float:
    """Metres from what was typed; a number without a unit is in ``unit``.

    Reads ``24``, ``7/8 in``, ``870 mm``, ``2' 6 1/2"``, ``12 mm * 3``, ``(1 m - 20) / 2``.
    Raises UnitError with a plain sentence on anything else.
    """
    return _read(text, METRES[unit], powers=(0, 1))


def parse_number(text: str) -> float:
    """A plain number, with arithmetic. Raises UnitError."""
    return _read(text, 1.0, powers=(0,))


def parse_share(text: str) -> float:
    """A plain number, or one in percent: ``0.45``, ``45 %``. Raises UnitError."""
    whole = text.rstrip()
    return 0.01 * parse_number(whole[:-1]) if whole.endswith("%") else parse_number(text)


def _read(text: str, unit: float, *, powers: tuple[int, ...]) -> float:
    if len(text) > 200:
        raise UnitError("that is too long for a number")
    decimal_comma = text.count(",") > 0 and "." not in text
    what = "a length" if 1 in powers else "a plain number"
    parser = _Parser(text.replace(",", ".") if decimal_comma else text, unit, what)
    q = parser.sum()
    if parser.peek()[0] != "end":
        raise UnitError(f"{text!r} is not understood from {parser.peek()[1]!r} on")
    if q.power not in powers or not isfinite(q.value):
        raise UnitError(f"{text!r} is not {what}")
    return q.value if q.power else q.value * unit


def format_number(value: float, *, decimals: int = 3) -> str:
    """Digits that matter, thousands set apart by a thin space, a true minus sign."""
    text = f"{value:,.{decimals}f}".replace(",", "\u202f")
    text = text.rstrip("0").rstrip(".") if "." in text else text
    text = "0" if text in ("-0", "") else text
    return text.replace("-", "\u2212")


_IN_MM = re.compile(r"(-?\d+(?:\.\d+)?(?:e[-+]?\d+)?) mm\b")


def sentence_in(sentence: str, *, unit: str) -> str:
    """A finding's sentence, which speaks of millimetres, with its lengths in the display unit."""
    if unit == "mm":
        return sentence
    return _IN_MM.sub(lambda found: format_length(float(found[1]) * METRES["mm"], unit=unit), sentence)


def format_length(metres: float, *, unit: str = "mm", decimals: int | None = None) -> str:
    """A length in the display unit, with its name; 0.1 mm fine or finer unless ``decimals`` says otherwise."""
    fine = {"mm": 2, "cm": 3, "m": 4, "in": 3, "ft": 4}[unit] if decimals is None else decimals
    return f"{format_number(metres / METRES[unit], decimals=fine)} {unit}"
