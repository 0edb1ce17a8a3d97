"""Ready-made sections: what they are, their values, and how they are made."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from math import cos, inf, pi, sin

from morphax.core.errors import SectionError
from morphax.core.frame.frames import Orientation
from morphax.core.section.outlines import Loop, Segment, arc, circle, ellipse, line, rounded, stretched
from morphax.core.section.sections import Laying, Part, SectionShape, Side


@dataclass(frozen=True)
class Key:
    """A value of a ready-made section: a length, by default ``share`` times the width, a plain ``count``, or a plain
    ``number`` of at most ``most``.

    ``least`` is the smallest value; a length with least 0 may be 0, others are more than 0.
    """

    share: float = 1.0
    count: int | None = None
    least: float = 0.0
    may_be_zero: bool = False
    number: float | None = None
    most: float = 1.0

    @property
    def is_count(self) -> bool:
        return self.count is not None

    @property
    def is_length(self) -> bool:
        """Whether it grows with the section."""
        return self.count is None and self.number is None


@dataclass(frozen=True)
class ReadyMade:
    """A ready-made section: what it is, its keys, how it is laid and how it is made."""

    title: str
    about: str
    keys: Mapping[str, Key]
    laying: Laying
    make: Callable[..., SectionShape]


def _path(*parts: tuple[float, float] | float) -> tuple[Segment, ...]:
    """Segments from points with bulges between some of them; an S of two bulges meets smoothly."""
    out: list[Segment] = []
    at: tuple[float, float] | None = None
    bulge = last = 0.0
    for item in [*parts, parts[0]]:
        if isinstance(item, float):
            bulge = item
            continue
        if at is not None:
            smooth = bool(bulge and last)
            out.append(arc(at, item, bulge, corner=not smooth) if bulge else line(at, item))
            last, bulge = bulge, 0.0
        at = item
    return tuple(out)


_CROWN = _path(
    (0.0, 0.0), (0.16, 0.0), (0.16, 0.1), (0.24, 0.14), 0.34, (0.56, 0.47), -0.34, (0.88, 0.8),
    (0.94, 0.8), (0.94, 0.87), (1.0, 0.87), (1.0, 1.0), (0.0, 1.0),
)  # fmt: skip
_OGEE = _path(
    (0.0, 0.0), (1.0, 0.0), (1.0, 0.2), (0.93, 0.2), (0.93, 0.29), -0.33, (0.585, 0.565), 0.33, (0.24, 0.84),
    (0.24, 0.91), (0.16, 0.91), (0.16, 1.0), (0.0, 1.0),
)  # fmt: skip


def _moulding(unit: tuple[Segment, ...], laying: Laying) -> Callable[..., SectionShape]:
    def make(width: float, height: float) -> SectionShape:
        return SectionShape((Part(Loop(tuple(stretched(s, width, height) for s in unit))),), laying)

    return make


def _round(width: float) -> SectionShape:
    return SectionShape((Part(circle(width)),))


def _ellipse(width: float, height: float) -> SectionShape:
    return SectionShape((Part(ellipse(width, height)),))


def _pipe(width: float, wall: float) -> SectionShape:
    if not wall < 0.5 * width:
        raise SectionError(f"wall is {wall:g} m; it must be less than half the width, {0.5 * width:g} m")
    return SectionShape((Part(circle(width), (circle(width - 2.0 * wall, hole=True),)),))


def _rectangle(width: float, height: float) -> SectionShape:
    return _rounded_rectangle(width, height, 0.0)


def _rounded_rectangle(width: float, height: float, radius: float) -> SectionShape:
    x, y = 0.5 * width, 0.5 * height
    if radius > min(x, y):
        raise SectionError(f"radius is {radius:g} m; it must be at most half the shorter side, {min(x, y):g} m")
    return SectionShape((Part(rounded([(x, -y), (x, y), (-x, y), (-x, -y)], [radius] * 4)),))


def _half_round(width: float, height: float) -> SectionShape:
    x = 0.5 * width
    curve = Segment((x, 0.0), (-x, 0.0), True, (0.0, 0.0), (x, height), 0.0, pi)
    return SectionShape((Part(Loop((line((-x, 0.0), (x, 0.0)), curve))),), _HALF_ROUND_LAYING)


def _on_circle(diameter: float, angle: float) -> tuple[float, float]:
    return 0.5 * diameter * cos(angle), 0.5 * diameter * sin(angle)


def _polygon(points: float, width: float) -> SectionShape:
    n = int(points)
    corners = [_on_circle(width, (2 * i + 1) * pi / n - 0.5 * pi) for i in range(n)]
    return SectionShape((Part(rounded(corners, [0.0] * n)),))


def _star(points: float, width: float, depth: float, rounding: float, valleys: float) -> SectionShape:
    n = int(points)
    corners = [_on_circle(width * (1.0 - depth) if i % 2 else width, 0.5 * pi + i * pi / n) for i in range(2 * n)]
    return SectionShape((Part(rounded(corners, [rounding * valleys if i % 2 else rounding for i in range(2 * n)])),))


_CROWN_LAYING = Laying("top-left", Orientation.UPRIGHT, width=0.09)
_OGEE_LAYING = Laying("bottom-left", Orientation.CARRIED, Side.IN, width=0.06)
_HALF_ROUND_LAYING = Laying("bottom", width=0.03)
_BOTH = {"width": Key(), "height": Key()}
_HALF_BOTH = {"width": Key(), "height": Key(0.5)}

READY_MADE: Mapping[str, ReadyMade] = {
    "round": ReadyMade("Round", "a full circle", {"width": Key()}, Laying(), _round),
    "pipe": ReadyMade("Pipe", "a circle with a wall", {"width": Key(), "wall": Key(0.1)}, Laying(), _pipe),
    "rectangle": ReadyMade("Rectangle", "four corners", _BOTH, Laying(), _rectangle),
    "crown": ReadyMade(
        "Crown moulding",
        "a cornice, hung from its back top corner",
        _BOTH,
        _CROWN_LAYING,
        _moulding(_CROWN, _CROWN_LAYING),
    ),
    "ogee": ReadyMade(
        "Ogee moulding",
        "an S-shaped moulding, lying on its back edge",
        _BOTH,
        _OGEE_LAYING,
        _moulding(_OGEE, _OGEE_LAYING),
    ),
    "ellipse": ReadyMade("Ellipse", "a circle with two widths", _BOTH, Laying(), _ellipse),
    "half-round": ReadyMade("Half round", "half a circle on its flat", _HALF_BOTH, _HALF_ROUND_LAYING, _half_round),
    "rounded-rectangle": ReadyMade(
        "Rounded rectangle",
        "four rounded corners",
        {**_BOTH, "radius": Key(0.2, may_be_zero=True)},
        Laying(),
        _rounded_rectangle,
    ),
    "polygon": ReadyMade(
        "Polygon",
        "equal sides; its width is that of the circle through the corners",
        {"points": Key(count=6, least=3), "width": Key()},
        Laying(),
        _polygon,
    ),
    "star": ReadyMade(
        "Star",
        "points and valleys that go in by a share of the radius, rounded alike or by a factor",
        {
            "points": Key(count=5, least=3),
            "width": Key(),
            "depth": Key(number=0.5, most=0.999),
            "rounding": Key(0.0, may_be_zero=True),
            "valleys": Key(number=1.0, most=1e9),
        },
        Laying(width=0.04),
        _star,
    ),
}
_MOST = {True: 200.0, False: 1e7}


def ready_made(name: str, values: Mapping[str, float]) -> SectionShape:
    """A ready-made section; missing values are in proportion to the width (20 mm where that is missing too).

    Raises SectionError on an unknown name or key, or a value out of range; the message lists the valid ones.
    """
    if name not in READY_MADE:
        raise SectionError(f"there is no section {name!r}; there are: {', '.join(READY_MADE)}")
    keys = READY_MADE[name].keys
    for key, value in values.items():
        if key not in keys:
            raise SectionError(f"{name} has no value {key!r}; it has: {', '.join(keys)}")
        _check(name, key, keys[key], value)
    made = READY_MADE[name].make(**completed(name, values))
    return replace(made, nominal=completed(name, values)["width"]) if name in _BY_TIPS else made


_OLD_STAR = ("inner", "tip", "valley")
_SLIGHT = 1e-6


def renewed_values(name: str, values: Mapping[str, float]) -> dict[str, float]:
    """Values as they are called now: of stars the diameter of the inner circle and the radii at tips and valleys became
    a depth, a rounding and its factor."""
    out = dict(values)
    if name != "star" or not any(k in out for k in _OLD_STAR):
        return out
    width = out.get("width", 0.02)
    inner, tip, valley = (out.pop(k, usual) for k, usual in zip(_OLD_STAR, (0.5 * width, 0.0, 0.0), strict=True))
    rounding = tip if tip > 0.0 or valley == 0.0 else _SLIGHT * width
    return {
        **out,
        "depth": min(max(1.0 - inner / width, 0.0), READY_MADE["star"].keys["depth"].most),
        "rounding": rounding,
        "valleys": valley / rounding if rounding > 0.0 else 1.0,
    }


_BY_TIPS = ("polygon", "star")
"""Sections whose width is that of the circle through their tips, whatever they are rounded by."""


def _check(name: str, key: str, kind: Key, value: float) -> None:
    if kind.is_count:
        if not (kind.least <= value <= _MOST[True] and value == int(value)):
            raise SectionError(f"{name}: {key} is {value:g}; it must be a whole number from {kind.least:g} to 200")
    elif kind.number is not None:
        if not kind.least <= value <= kind.most:
            raise SectionError(f"{name}: {key} is {value:g}; it must be from {kind.least:g} to {kind.most:g}")
    elif not (0.0 <= value < _MOST[False] and (value > 0.0 or kind.may_be_zero)) or value == inf:
        least = "0 or more" if kind.may_be_zero else "more than 0"
        raise SectionError(f"{name}: {key} is {value:g} m; it must be {least} and below 1e7 m")


def completed(name: str, values: Mapping[str, float]) -> dict[str, float]:
    """All values of a ready-made section, the missing ones in proportion to the width."""
    width = values.get("width", 0.02)
    keys = READY_MADE[name].keys

    def usual(key: Key) -> float:
        plain = key.number if key.count is None else float(key.count)
        return key.share * width if plain is None else plain

    return {k: values.get(k, usual(v)) for k, v in keys.items()}
