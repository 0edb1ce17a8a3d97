"""Ready-made sections: what they are, their values, and how they are made."""

from collections.abc import Mapping
from dataclasses import replace
from math import inf, pi

from morphax.core.errors import SectionError
from morphax.core.frame.frames import Orientation
from morphax.core.section.kinds import Key, ReadyMade, on_circle
from morphax.core.section.outlines import circle, ellipse, rounded
from morphax.core.section.sections import Laying, Part, SectionShape
from morphax.core.section.shapes import SHAPES
from morphax.core.section.trade import TRADE


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


def _polygon(points: float, width: float) -> SectionShape:
    n = int(points)
    corners = [on_circle(width, (2 * i + 1) * pi / n - 0.5 * pi) for i in range(n)]
    return SectionShape((Part(rounded(corners, [0.0] * n)),))


def _star(points: float, width: float, depth: float, rounding: float, valleys: float) -> SectionShape:
    n = int(points)
    corners = [on_circle(width * (1.0 - depth) if i % 2 else width, 0.5 * pi + i * pi / n) for i in range(2 * n)]
    return SectionShape((Part(rounded(corners, [rounding * valleys if i % 2 else rounding for i in range(2 * n)])),))


_BOTH = {"width": Key(), "height": Key()}

READY_MADE: Mapping[str, ReadyMade] = {
    "round": ReadyMade("Round", "a full circle", {"width": Key()}, Laying(), _round),
    "pipe": ReadyMade("Pipe", "a circle with a wall", {"width": Key(), "wall": Key(0.1)}, Laying(), _pipe),
    "rectangle": ReadyMade("Rectangle", "four corners", _BOTH, Laying(), _rectangle),
    "strip": ReadyMade(
        "Strip",
        "flat, lying on the path: a carpet, a tape",
        {"width": Key(), "thickness": Key(0.02)},
        Laying(anchor="bottom", orientation=Orientation.UPRIGHT, width=0.1),
        lambda width, thickness: _rectangle(width, thickness),
    ),
    "ellipse": ReadyMade("Ellipse", "a circle with two widths", _BOTH, Laying(), _ellipse),
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
        by_tips=True,
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
        by_tips=True,
    ),
    **SHAPES,
    **TRADE,
}
_MOST_LENGTH, _SLIGHT = 1e7, 1e-6
"""Largest length, m; a value that may be 0 is so from this share of the width down."""


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
    kind, whole = READY_MADE[name], completed(name, values)
    used = {k: 0.0 if keys[k].may_be_zero and v < _SLIGHT * whole["width"] else v for k, v in whole.items()}
    return replace(kind.make(**used), laying=kind.laying, nominal=whole["width"] if kind.by_tips else None)


_OLD_STAR = ("inner", "tip", "valley")


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


def _check(name: str, key: str, kind: Key, value: float) -> None:
    if kind.is_count:
        if not (kind.least <= value <= kind.most_count and value == int(value)):
            most = f"{kind.least:g} to {kind.most_count}"
            raise SectionError(f"{name}: {key} is {value:g}; it must be a whole number from {most}")
    elif kind.number is not None:
        if not kind.least <= value <= kind.most:
            raise SectionError(f"{name}: {key} is {value:g}; it must be from {kind.least:g} to {kind.most:g}")
    elif not (0.0 <= value < _MOST_LENGTH and (value > 0.0 or kind.may_be_zero)) or value == inf:
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
