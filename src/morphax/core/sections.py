"""Sections: parts with holes, how they are laid, and the ready-made ones with their values."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from morphax.core.errors import SectionError
from morphax.core.frames import Orientation
from morphax.core.outlines import (
    Loop,
    Segment,
    arc,
    circle,
    line,
    loop_area,
    loop_bounds,
    loop_moments,
    stretched,
)


class CornerStyle(StrEnum):
    """How a sharp knot is taken."""

    MITRE = "mitre"
    BEVEL = "bevel"


class Side(StrEnum):
    """Where a section's outward side (x) faces on a closed path."""

    OUT = "out"
    IN = "in"


SPOTS: Mapping[str, tuple[float, float]] = {
    "top-left": (0.0, 1.0),
    "top": (0.5, 1.0),
    "top-right": (1.0, 1.0),
    "left": (0.0, 0.5),
    "centre": (0.5, 0.5),
    "right": (1.0, 0.5),
    "bottom-left": (0.0, 0.0),
    "bottom": (0.5, 0.0),
    "bottom-right": (1.0, 0.0),
}
"""The nine spots as shares of the bounding box."""

Anchor = str | tuple[float, float]
"""A spot's name, ``centroid``, ``drawn``, or x and y in m."""


@dataclass(frozen=True)
class Laying:
    """How a section is usually laid; a run starts from it and may override it. ``width`` is the usual one, m."""

    anchor: Anchor = "centre"
    orientation: Orientation = Orientation.CARRIED
    side: Side = Side.OUT
    corner: CornerStyle = CornerStyle.MITRE
    width: float = 0.02


@dataclass(frozen=True)
class Part:
    """One outer loop and the holes inside it."""

    outer: Loop
    holes: tuple[Loop, ...] = ()


@dataclass(frozen=True)
class SectionShape:
    """A flat outline: parts, and how it is laid."""

    parts: tuple[Part, ...]
    laying: Laying = field(default_factory=Laying)

    @property
    def loops(self) -> tuple[Loop, ...]:
        return tuple(loop for part in self.parts for loop in (part.outer, *part.holes))


def section_bounds(section: SectionShape) -> tuple[float, float, float, float]:
    """Exact bounding box (x0, y0, x1, y1) of the parts, m."""
    boxes = [loop_bounds(part.outer) for part in section.parts]
    x0, y0, x1, y1 = zip(*boxes, strict=True)
    return min(x0), min(y0), max(x1), max(y1)


def section_area(section: SectionShape) -> float:
    """Area without the holes, m2."""
    return sum(loop_area(loop) for loop in section.loops)


def anchor_place(section: SectionShape, anchor: Anchor) -> tuple[float, float]:
    """Where an anchor lies in the section's plane, m. Raises SectionError on an unknown name."""
    if not isinstance(anchor, str):
        return anchor
    if anchor == "drawn":
        return (0.0, 0.0)
    if anchor == "centroid":
        area = section_area(section)
        moments = [loop_moments(loop) for loop in section.loops]
        return sum(m[0] for m in moments) / area, sum(m[1] for m in moments) / area
    if anchor not in SPOTS:
        raise SectionError(f"there is no anchor {anchor!r}; there are: {', '.join([*SPOTS, 'centroid', 'drawn'])}")
    x0, y0, x1, y1 = section_bounds(section)
    fx, fy = SPOTS[anchor]
    return x0 + fx * (x1 - x0), y0 + fy * (y1 - y0)


def _closed(*points: tuple[float, float]) -> tuple[Segment, ...]:
    return tuple(line(a, b) for a, b in zip(points, [*points[1:], points[0]], strict=True))


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


def _pipe(width: float, wall: float) -> SectionShape:
    if not wall < 0.5 * width:
        raise SectionError(f"wall is {wall:g} m; it must be less than half the width, {0.5 * width:g} m")
    return SectionShape((Part(circle(width), (circle(width - 2.0 * wall, hole=True),)),))


def _rectangle(width: float, height: float) -> SectionShape:
    x, y = 0.5 * width, 0.5 * height
    return SectionShape((Part(Loop(_closed((x, -y), (x, y), (-x, y), (-x, -y)))),))


@dataclass(frozen=True)
class ReadyMade:
    """A ready-made section: what it is, its keys with their shares of the width, and how it is made."""

    title: str
    about: str
    keys: Mapping[str, float]
    laying: Laying
    make: Callable[..., SectionShape]


_CROWN_LAYING = Laying("top-left", Orientation.UPRIGHT, width=0.09)
_OGEE_LAYING = Laying("bottom-left", Orientation.CARRIED, Side.IN, width=0.06)

READY_MADE: Mapping[str, ReadyMade] = {
    "round": ReadyMade("Round", "a full circle", {"width": 1.0}, Laying(), _round),
    "pipe": ReadyMade("Pipe", "a circle with a wall", {"width": 1.0, "wall": 0.1}, Laying(), _pipe),
    "rectangle": ReadyMade("Rectangle", "four corners", {"width": 1.0, "height": 1.0}, Laying(), _rectangle),
    "crown": ReadyMade(
        "Crown moulding",
        "a cornice, hung from its back top corner",
        {"width": 1.0, "height": 1.0},
        _CROWN_LAYING,
        _moulding(_CROWN, _CROWN_LAYING),
    ),
    "ogee": ReadyMade(
        "Ogee moulding",
        "an S-shaped frame moulding, lying on its back edge",
        {"width": 1.0, "height": 1.0},
        _OGEE_LAYING,
        _moulding(_OGEE, _OGEE_LAYING),
    ),
}


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
        if not 0.0 < value < 1e7:
            raise SectionError(f"{name}: {key} is {value:g} m; it must be more than 0 and below 1e7 m")
    return READY_MADE[name].make(**completed(name, values))


def completed(name: str, values: Mapping[str, float]) -> dict[str, float]:
    """All values of a ready-made section, the missing ones in proportion to the width."""
    width = values.get("width", 0.02)
    return {key: values.get(key, share * width) for key, share in READY_MADE[name].keys.items()}
