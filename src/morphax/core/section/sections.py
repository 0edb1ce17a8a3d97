"""Sections: parts with holes, their bounds and anchors, and how they are laid."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property
from typing import Any

import numpy as np

from morphax.core.errors import SectionError
from morphax.core.frame.frames import Orientation
from morphax.core.section.outlines import Loop, lines_middle, loop_area, loop_bounds, loop_moments
from morphax.core.types import Floats, frozen


class CornerStyle(StrEnum):
    """How a sharp knot is taken."""

    MITRE = "mitre"
    BEVEL = "bevel"
    ROUND = "round"


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
    """One outer loop and the holes inside it; or a ribbon, whose loop is open."""

    outer: Loop
    holes: tuple[Loop, ...] = ()

    @property
    def is_ribbon(self) -> bool:
        return self.outer.is_open


def refuse_ribbons(parts: Sequence[Part]) -> None:
    """Raises SectionError where one of the parts encloses nothing."""
    if any(p.is_ribbon for p in parts):
        raise SectionError("a ribbon has no inside; give the section's ribbons a thickness first")


@dataclass(frozen=True)
class SectionShape:
    """A flat outline: parts, and how it is laid. ``is_free``: it was drawn or read, so it is checked before use.

    ``nominal``: its width, m, where that is not its extent: of stars and polygons the circle through the tips.
    ``thickness``: what its ribbons become strips of, left and right of them, m, where they are still lines.
    """

    parts: tuple[Part, ...]
    laying: Laying = field(default_factory=Laying)
    is_free: bool = False
    nominal: float | None = None
    thickness: tuple[float, float] = (0.0, 0.0)

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """Exact bounding box (x0, y0, x1, y1), m."""
        return loop_bounds(*(part.outer for part in self.parts))

    @cached_property
    def outer_points(self) -> Floats:
        """(n, 2) places close together on the outer outlines, m."""
        t = np.linspace(0.0, 1.0, 65)
        return frozen(np.concatenate([s.at(t) for part in self.parts for s in part.outer.segments]))

    @cached_property
    def samples(self) -> dict[Any, Any]:
        """Where ``section_sampling`` keeps what it made of this outline."""
        return {}

    @property
    def loops(self) -> tuple[Loop, ...]:
        return tuple(loop for part in self.parts for loop in (part.outer, *part.holes))


def section_bounds(section: SectionShape) -> tuple[float, float, float, float]:
    """Exact bounding box (x0, y0, x1, y1) of the parts, m."""
    return section.bounds


def section_area(section: SectionShape) -> float:
    """Area without the holes, m2; ribbons have none."""
    return sum(loop_area(loop) for loop in section.loops if not loop.is_open)


def section_reach(section: SectionShape, place: tuple[float, float]) -> float:
    """Largest distance (m) of the outline from ``place``, to 1e-3 of it, whatever the sampling."""
    points = section.outer_points
    return float(np.hypot(points[:, 0] - place[0], points[:, 1] - place[1]).max())


def anchor_place(section: SectionShape, anchor: Anchor) -> tuple[float, float]:
    """Where an anchor lies in the section's plane, m. Raises SectionError on an unknown name."""
    if not isinstance(anchor, str):
        return anchor
    if anchor == "drawn":
        return (0.0, 0.0)
    if anchor == "centroid":
        if all(part.is_ribbon for part in section.parts):
            return lines_middle([part.outer for part in section.parts])
        area = section_area(section)
        moments = [loop_moments(loop) for loop in section.loops if not loop.is_open]
        return sum(m[0] for m in moments) / area, sum(m[1] for m in moments) / area
    if anchor not in SPOTS:
        raise SectionError(f"there is no anchor {anchor!r}; there are: {', '.join([*SPOTS, 'centroid', 'drawn'])}")
    x0, y0, x1, y1 = section_bounds(section)
    fx, fy = SPOTS[anchor]
    return x0 + fx * (x1 - x0), y0 + fy * (y1 - y0)
