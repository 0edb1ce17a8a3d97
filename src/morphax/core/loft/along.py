"""What varies along a run: stations with other sections, laws of size and roll, and twist; as a profile."""

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from math import gcd, pi

import numpy as np

from morphax.core.body.profile import Profile, SectionFacts
from morphax.core.errors import PathError, SectionError
from morphax.core.loft.blends import Blend, StationWeights, eases
from morphax.core.loft.laws import Law, PointLaw
from morphax.core.loft.matching import matched_sections
from morphax.core.loft.tracks import Home, Marks
from morphax.core.loft.varying_laws import NO_LAWS, Laws, VaryingLaws
from morphax.core.section.pieces import plain, transformed
from morphax.core.section.sampling import SampledSection, kept_with, placed_section, section_width, with_seam
from morphax.core.section.sections import Anchor, CornerStyle, Part, SectionShape, anchor_place, section_reach
from morphax.core.types import Floats, frozen

_NEAR = 1e-9
"""Stations nearer to each other than this share of the length stand in one place."""
_MOST_GROWN = 1e6
"""Laws that make more of a size than so many times itself are a slip of a figure."""
_COARSE = 64
"""Sides of outlines of which only the widths count."""


@dataclass(frozen=True, eq=False)
class StationShape:
    """A section at a distance ``at`` of the path, m, as the run sees that: ``scale`` times as large about its anchor,
    turned by ``turn`` rad, mirrored, and how it goes on to the next one; ``marks`` fixed pairs of places with that one.
    """

    at: float
    section: SectionShape
    scale: float = 1.0
    turn: float = 0.0
    mirror: bool = False
    blend: Blend = Blend.SMOOTH
    marks: Marks = ()
    anchor: Anchor | None = None

    def __post_init__(self) -> None:
        if not 0.0 < self.scale <= 1e4:
            raise SectionError(f"a station's scale is {self.scale:g}; it must be more than 0")


@dataclass(frozen=True, eq=False)
class Along:
    """``stations``, none where the section is one as it is; ``laws``, and a ``twist`` of so many rad over the whole
    length; ``corners``: how those at some distances, m, are taken.

    Closed paths take as much twist as brings the section on to itself again.
    """

    stations: tuple[StationShape, ...] = ()
    laws: Laws = NO_LAWS
    twist: float = 0.0
    corners: tuple[tuple[float, CornerStyle], ...] = ()

    @property
    def is_plain(self) -> bool:
        return not (self.laws.all or self.twist) and self.has_one_as_it_is

    @property
    def has_one_as_it_is(self) -> bool:
        """Whether there is one section all along, of its own size, not turned and not mirrored."""
        changed = any((s.scale, s.turn, s.mirror) != (1.0, 0.0, False) for s in self.stations)
        return len(self.stations) < 2 and not changed

    def standing_at(self, places: Floats, length: float) -> "Along":
        """With what stands as good as at one of some ``places`` (n,), m, there: a step at a corner stands in it."""

        def there(at: Floats) -> Floats:
            near = places[np.argmin(np.abs(places[None] - at[:, None]), axis=1)]
            return frozen(np.where(np.abs(near - at) <= _NEAR * length, near, at))

        def law_there(law: Law) -> Law:
            return replace(law, at=there(law.at)) if isinstance(law, PointLaw) else law

        at = there(np.array([s.at for s in self.stations])) if self.stations else ()
        stations = tuple(replace(s, at=float(a)) for s, a in zip(self.stations, at, strict=True))
        laws = {f.name: tuple(map(law_there, getattr(self.laws, f.name))) for f in fields(Laws)}
        return replace(self, stations=stations, laws=Laws(**laws))


PLAIN_ALONG = Along()


@dataclass(frozen=True)
class Sampling:
    """How a run's sections are laid and sampled: at its ``size`` and ``roll``, all mirrored, with a ``seam``, about an
    ``anchor`` or their own; ``sides`` points a loop or a ``deviation`` of the body, m."""

    size: float = 1.0
    roll: float = 0.0
    mirror: bool = False
    seam: float = 0.0
    anchor: Anchor | None = None
    sides: int | None = None
    deviation: float | None = None


def varied_profile(along: Along, first: Profile, sampling: Sampling, length: float, *, closed: bool) -> Profile:
    """The profile of a run that varies; ``first`` is that of its first section alone."""
    twist = along.twist
    if closed and twist:
        own = gcd(first.symmetry, along.laws.symmetry)
        step = 2.0 * pi / own if len(along.stations) < 2 else 2.0 * pi
        twist = round(twist / step) * step
    laws = VaryingLaws(sampling.size, sampling.roll, along.laws, twist / length if length else 0.0)
    if not laws.most > 0.0:
        raise SectionError("the size is nothing all along the run")
    if laws.most > _MOST_GROWN * sampling.size:
        raise SectionError(f"the laws would make the size {laws.most / sampling.size:.2g} times what it is")
    breaks, steps = laws.breaks, laws.steps
    if along.has_one_as_it_is:
        steps = _stood(steps, laws, length, closed=closed)
        return replace(first, laws=laws, breaks=frozen(_inside(breaks, length)), steps=frozen(steps))
    stations = _in_order(along.stations, length, closed=closed)
    blocks = _kept_blocks(stations, sampling, laws.most)
    at = np.array([s.at for s in stations])
    period = length if closed else None
    points = np.stack([b.points for b in blocks])
    weigh = StationWeights(at, tuple(s.blend for s in stations), eases(points, at, period), period)
    widths = [section_width(s.section) * s.scale for s in stations]
    reach = max(section_reach(s.section, _anchor(s, sampling)) * s.scale for s in stations)
    facts = SectionFacts(max(widths), reach, stations[0].section.laying, widths[0])
    return Profile(
        blocks,
        facts,
        laws,
        weigh,
        frozen(_inside(np.concatenate([breaks, at]), length)),
        frozen(_stood(np.concatenate([steps, weigh.steps]), laws, length, closed=closed)),
    )


def _inside(places: Floats, length: float) -> Floats:
    """Places between the ends, each once."""
    out: Floats = np.unique(places)
    return out[(out > _NEAR * length) & (out < (1.0 - _NEAR) * length)]


def _stood(steps: Floats, laws: VaryingLaws, length: float, *, closed: bool) -> Floats:
    """Steps between the ends, and 0 where a closed path's end does not go on as its start."""
    out = _inside(steps, length)
    if not closed:
        return out
    is_there = laws.jumps(length) or bool((np.minimum(steps, length - steps) <= _NEAR * length).any())
    return np.append(0.0, out) if is_there else out


def _in_order(stations: Sequence[StationShape], length: float, *, closed: bool) -> tuple[StationShape, ...]:
    """Stations by their distances; a closed path's end is its start. Raises PathError where two are in one place."""
    out = sorted((replace(s, at=s.at % length) if closed else s for s in stations), key=lambda s: s.at)
    if any(b.at - a.at <= _NEAR * length for a, b in zip(out[:-1], out[1:], strict=True)):
        raise PathError("two stations stand in the same place")
    return tuple(out)


def _anchor(station: StationShape, sampling: Sampling) -> tuple[float, float]:
    asked = station.anchor if station.anchor is not None else sampling.anchor
    section = station.section
    return anchor_place(section, section.laying.anchor if asked is None else asked)


def _foot(station: StationShape, sampling: Sampling) -> tuple[float, float]:
    """The place of a station's section, mirrored where it is, that stands on the path."""
    x, y = _anchor(station, sampling)
    return (-x if station.mirror else x, y)


def _kept_blocks(stations: Sequence[StationShape], sampling: Sampling, most: float) -> tuple[SampledSection, ...]:
    """The blocks of stations, found again where only their places or blends change: kept with the first section."""
    sections = tuple(s.section for s in stations)
    own = tuple((id(s.section), s.scale, s.turn, s.mirror, s.marks, s.anchor) for s in stations)
    key = ("loft", own, sampling, most)
    _, blocks = kept_with(sections[0], key, lambda: (sections, station_blocks(stations, sampling, most)))
    return blocks


def station_blocks(stations: Sequence[StationShape], sampling: Sampling, most: float) -> tuple[SampledSection, ...]:
    """The sections of stations about their anchors, mirrored, turned and scaled, matched to each other."""
    shapes = [matching_shape(s) for s in stations]
    scale = max(s.scale for s in stations) * most
    deviation = None if sampling.deviation is None else 0.5 * sampling.deviation / scale
    marks = [s.marks for s in stations[:-1]]
    homes = [Home(_foot(s, sampling), s.scale, s.turn) for s in stations]
    found = matched_sections(shapes, sides=sampling.sides, deviation=deviation, marks=marks, homes=homes)
    blocks = []
    for station, block, home in zip(stations, found.blocks, homes, strict=True):
        own = with_seam(block, sampling.seam) if sampling.seam else block
        placed = placed_section(own, anchor=home.place, mirror=sampling.mirror)
        turn = -station.turn if sampling.mirror else station.turn
        blocks.append(placed_section(placed, size=station.scale, roll=turn))
    return tuple(blocks)


def width_along(along: Along, at: float, period: float | None) -> float:
    """The nominal width of the section at a distance ``at``, m, without laws; ``period`` m of a closed path."""
    stations = sorted(along.stations, key=lambda s: s.at)
    widths = [section_width(s.section) * s.scale for s in stations]
    if len(stations) < 2:
        return widths[0]
    places = np.array([s.at for s in stations])
    blocks = _kept_blocks(stations, Sampling(sides=_COARSE), 1.0)
    ease = eases(np.stack([b.points for b in blocks]), places, period)
    weights = StationWeights(places, tuple(s.blend for s in stations), ease, period)
    return float(weights(np.array([at]), np.ones(1)).values[0] @ widths)


def matching_shape(station: StationShape) -> SectionShape:
    """A station's section as it is matched to others: mirrored where it is, without its turn and scale."""
    section = station.section
    return section if not station.mirror else kept_with(section, ("mirrored",), lambda: _mirrored(section))


def _mirrored(shape: SectionShape) -> SectionShape:
    """The section mirrored about its own upright axis x = 0."""
    flip = np.diag([-1.0, 1.0])
    parts = tuple(
        Part(transformed(plain(p.outer), flip), tuple(transformed(plain(h), flip) for h in p.holes))
        for p in shape.parts
    )
    return replace(shape, parts=parts, is_free=True, nominal=shape.nominal)
