"""What a kind of ready-made section is: its values with their ranges, how it is laid, and how it is made."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import cos, sin

from morphax.core.errors import SectionError
from morphax.core.section.outlines import Loop, Segment, arc, line, loop_bounds, stretched
from morphax.core.section.sections import Laying, Part, SectionShape


@dataclass(frozen=True)
class Key:
    """A value of a ready-made section: a length, by default ``share`` times the width, a plain ``count``, or a plain
    ``number`` of at most ``most``.

    ``least`` is the smallest value; a length with least 0 may be 0, others are more than 0. Counts have ``most_count``
    at most.
    """

    share: float = 1.0
    count: int | None = None
    least: float = 0.0
    may_be_zero: bool = False
    number: float | None = None
    most: float = 1.0
    most_count: int = 200

    @property
    def is_count(self) -> bool:
        return self.count is not None

    @property
    def is_length(self) -> bool:
        """Whether it grows with the section."""
        return self.count is None and self.number is None


@dataclass(frozen=True)
class ReadyMade:
    """A ready-made section: what it is, its keys, how it is laid and how it is made. ``by_tips``: its width is that of
    the circle through its tips, whatever they are rounded by."""

    title: str
    about: str
    keys: Mapping[str, Key]
    laying: Laying
    make: Callable[..., SectionShape]
    by_tips: bool = False


Corner = tuple[float, float]


def on_circle(diameter: float, angle: float) -> Corner:
    """The place at an angle, rad, on a circle about the origin."""
    return 0.5 * diameter * cos(angle), 0.5 * diameter * sin(angle)


def chained(*parts: Corner | float) -> tuple[Segment, ...]:
    """Segments from points with bulges between some of them; an S of two bulges meets smoothly."""
    out: list[Segment] = []
    at: Corner | None = None
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


def stretched_to(unit: tuple[Segment, ...], laying: Laying | None = None) -> Callable[..., SectionShape]:
    """How a section is made of an outline one unit wide and high: by its width and height."""

    def make(width: float, height: float) -> SectionShape:
        loop = Loop(tuple(stretched(s, width, height) for s in unit))
        return SectionShape((Part(loop),), laying or Laying())

    return make


def of_unit_size(segments: tuple[Segment, ...]) -> tuple[Segment, ...]:
    """An outline of lines and cubics moved and stretched into the square from (0, 0) to (1, 1)."""
    x0, y0, x1, y1 = loop_bounds(Loop(segments))

    def place(p: Corner) -> Corner:
        return (p[0] - x0) / (x1 - x0), (p[1] - y0) / (y1 - y0)

    return tuple(
        Segment(place(s.start), place(s.end), s.corner, inner=s.inner and (place(s.inner[0]), place(s.inner[1])))
        for s in segments
    )


def must(holds: bool, key: str, value: float, limit: str) -> None:
    """Raises SectionError where a length is out of what the others leave room for."""
    if not holds:
        raise SectionError(f"{key} is {value:g} m; it must be {limit}")
