"""Ready-made shapes of several parts and of leaves: twin, bundle, flute, gear, leaf, heart, drop."""

from collections.abc import Mapping
from itertools import product
from math import acos, cos, pi, sin, sqrt, tan

import numpy as np

from morphax.core.section.kinds import Corner, Key, ReadyMade, must, of_unit_size, on_circle, stretched_to
from morphax.core.section.outlines import Loop, Segment, arc, line
from morphax.core.section.sections import Laying, Part, SectionShape
from morphax.core.types import Floats

_MOST_STRANDS, _TURNS = 61, 181
_TOP, _ROOT = 0.22, 0.18
"""Half of a tooth's top and of the gap at its root, as shares from tooth to tooth."""
_NONE = 1e-6
"""A smaller land is none."""
_TIGHT = 0.98
"""How near flutes may come to turning straight inwards at their edges."""


def _round_at(place: Corner, diameter: float) -> Part:
    """A whole circle that starts at its lowest point."""
    x, y, r = *place, 0.5 * diameter
    return Part(Loop((Segment((x, y - r), (x, y - r), False, (x, y), (r, r), -0.5 * pi, 1.5 * pi),)))


def _twin(width: float, gap: float) -> SectionShape:
    must(gap < 0.5 * width, "gap", gap, f"less than half the width, {0.5 * width:g} m")
    each = 0.5 * (width - gap)
    x = 0.5 * (width - each)
    return SectionShape((_round_at((-x, 0.0), each), _round_at((x, 0.0), each)))


def packed(count: int) -> tuple[Floats, float]:
    """Places (count, 2) of circles of radius 1 that touch and lie as closely as simple rules find, and the radius of
    the circle around all of them.

    Tried are one ring, one ring about a strand or about another ring, and the places of a triangular lattice nearest to
    a lattice place, to the middle of an edge and of a triangle; the tightest is taken.
    """
    tried = [_ring(count)] if count < 7 else []
    tried += [_two_rings(inner, count - inner) for inner in range(1, 7) if 6 < count < 22]
    k = np.arange(-6, 7)
    lattice = np.array([(2.0 * i + j, sqrt(3.0) * j) for i, j in product(k, k)])
    for middle in ((0.0, 0.0), (1.0, 0.0), (1.0, 1.0 / sqrt(3.0))):
        far = np.round(np.linalg.norm(lattice - middle, axis=1), 9)
        angle = np.round(np.arctan2(lattice[:, 1] - middle[1], lattice[:, 0] - middle[0]), 9)
        tried.append(lattice[np.lexsort((angle, far))[:count]] - middle)
    around = [float(np.linalg.norm(p, axis=1).max()) + 1.0 for p in tried]
    best = int(np.argmin(np.round(around, 9)))
    return tried[best], around[best]


def _ring(count: int) -> Floats:
    """Circles of radius 1 in a ring, each touching the next."""
    angle = 2.0 * pi * np.arange(count) / count + 0.5 * pi
    return np.stack([np.cos(angle), np.sin(angle)], axis=1) / sin(pi / count)


def _two_rings(inner: int, outer: int) -> Floats:
    """A ring of circles of radius 1, or a single one, and another ring about it, turned so that it lies closest."""
    within = _ring(inner) if inner > 1 else np.zeros((1, 2))
    far = np.hypot(*within.T)
    of_inner, of_outer = np.arctan2(within[:, 1], within[:, 0]), 2.0 * pi * np.arange(outer) / outer
    turns = 2.0 * pi / (inner * outer) * np.linspace(0.0, 1.0, _TURNS)
    apart = of_outer + turns[:, None, None] - of_inner[:, None]  # (turns, inner, outer)
    room = np.maximum(4.0 - (far[:, None] * np.sin(apart)) ** 2, 0.0)
    reach = (far[:, None] * np.cos(apart) + np.sqrt(room)).max((1, 2))
    best = int(np.argmin(reach))
    ring = max(float(reach[best]), 1.0 / sin(pi / outer))
    angle = of_outer + turns[best]
    return np.concatenate([within, ring * np.stack([np.cos(angle), np.sin(angle)], axis=1)])


def _bundle(strands: float, width: float, gap: float) -> SectionShape:
    places, around = packed(int(strands))
    must(gap < 0.5 * width / around, "gap", gap, f"less than {0.5 * width / around:g} m, half a strand")
    reach = around - 1.0  # of the outer middles, in radii
    radius = (0.5 * width - 0.5 * gap * reach) / around
    apart = radius + 0.5 * gap
    return SectionShape(tuple(_round_at((float(x), float(y)), 2.0 * radius) for x, y in places * apart))


def _flute(flutes: float, width: float, depth: float, land: float) -> SectionShape:
    """Grooves along the circle from land to land; the deepest ones turn straight inwards at their edges."""
    n, pitch, land = int(flutes), 2.0 * pi / int(flutes), land if land > _NONE else 0.0
    wide = pitch * (1.0 - land)
    bulge = -depth * _TIGHT * tan(0.25 * pi - 0.25 * wide)
    segments: list[Segment] = []
    for k in range(n):
        a = -0.5 * pi + k * pitch - 0.5 * wide
        segments.append(arc(on_circle(width, a), on_circle(width, a + wide), bulge))
        if land > 0.0:
            segments.append(arc(on_circle(width, a + wide), on_circle(width, a + pitch), tan(0.25 * (pitch - wide))))
    return SectionShape((Part(_closed(segments)),))


def _gear(teeth: float, width: float, depth: float) -> SectionShape:
    n, pitch, inner = int(teeth), 2.0 * pi / int(teeth), width * (1.0 - depth)
    segments: list[Segment] = []
    for k in range(n):
        a = -0.5 * pi + k * pitch
        before, after = (on_circle(width, a + s * _TOP * pitch) for s in (-1, 1))
        down, up = (on_circle(inner, a + (0.5 + s * _ROOT) * pitch) for s in (-1, 1))
        segments += [
            arc(before, after, tan(0.5 * _TOP * pitch)),
            line(after, down),
            arc(down, up, tan(0.5 * _ROOT * pitch)),
            line(up, on_circle(width, a + (1.0 - _TOP) * pitch)),
        ]
    return SectionShape((Part(_closed(segments)),))


def _closed(segments: list[Segment]) -> Loop:
    """A loop whose ends meet to the bit."""
    out = [
        Segment(s.start, segments[(k + 1) % len(segments)].start, s.corner, s.centre, s.radii, s.a0, s.a1)
        for k, s in enumerate(segments)
    ]
    return Loop(tuple(out))


def _leaf(width: float, thickness: float, curl: float) -> SectionShape:
    """Two arcs from tip to tip; with curl both rise to the same side, as of a blade that is bent."""
    rise = curl * thickness
    most = 0.5 * width / (0.5 + curl)
    must(thickness <= most, "thickness", thickness, f"at most {most:g} m for this width and curl")
    above, below = rise + 0.5 * thickness, rise - 0.5 * thickness
    a, b = (-0.5 * width, 0.0), (0.5 * width, 0.0)
    under = arc(a, b, -2.0 * below / width) if abs(below) > 1e-9 * width else line(a, b)
    return SectionShape((Part(Loop((under, arc(b, a, 2.0 * above / width)))),))


def _drop(width: float, height: float) -> SectionShape:
    """A circle, and the two lines from a tip above that touch it."""
    must(height >= 1.05 * width, "height", height, f"at least {1.05 * width:g} m, a little more than the width")
    radius, tip = 0.5 * width, height - 0.5 * width
    side = acos(radius / tip)  # angle between up and where the lines touch
    a0, a1 = 0.5 * pi + side - 2.0 * pi, 0.5 * pi - side
    left, right = (radius * cos(a0), radius * sin(a0)), (radius * cos(a1), radius * sin(a1))
    round_ = Segment(left, right, False, (0.0, 0.0), (radius, radius), a0, a1)
    return SectionShape((Part(Loop((round_, Segment(right, (0.0, tip), False), Segment((0.0, tip), left, True)))),))


_HALF_HEART = (
    ((0.0, 0.0), (0.1, 0.22), (0.5, 0.42), (0.5, 0.72)),
    ((0.5, 0.72), (0.5, 1.02), (0.1, 1.06), (0.0, 0.78)),
)
_HEART = of_unit_size(
    (
        *(Segment(a, d, k == 0, inner=(b, c)) for k, (a, b, c, d) in enumerate(_HALF_HEART)),
        *(
            Segment((-d[0], d[1]), (-a[0], a[1]), k == 0, inner=((-c[0], c[1]), (-b[0], b[1])))
            for k, (a, b, c, d) in enumerate(_HALF_HEART[::-1])
        ),
    )
)

SHAPES: Mapping[str, ReadyMade] = {
    "twin": ReadyMade(
        "Twin",
        "two strands side by side",
        {"width": Key(), "gap": Key(0.04, may_be_zero=True)},
        Laying(width=0.01),
        _twin,
    ),
    "bundle": ReadyMade(
        "Bundle",
        "equal strands, packed; its width is that of the circle around them",
        {
            "strands": Key(count=3, least=2, most_count=_MOST_STRANDS),
            "width": Key(),
            "gap": Key(0.02, may_be_zero=True),
        },
        Laying(width=0.03),
        _bundle,
        by_tips=True,
    ),
    "flute": ReadyMade(
        "Flute",
        "a shaft with grooves; depth and land are shares of what there is room for",
        {
            "flutes": Key(count=16, least=3),
            "width": Key(),
            "depth": Key(number=0.7, least=0.01),
            "land": Key(number=0.15, most=0.9),
        },
        Laying(width=0.2),
        _flute,
        by_tips=True,
    ),
    "gear": ReadyMade(
        "Gear",
        "teeth that go in by a share of the radius",
        {"teeth": Key(count=14, least=4), "width": Key(), "depth": Key(number=0.2, least=0.01, most=0.6)},
        Laying(width=0.05),
        _gear,
        by_tips=True,
    ),
    "leaf": ReadyMade(
        "Leaf",
        "two arcs from tip to tip, bent by its curl",
        {"width": Key(), "thickness": Key(0.22), "curl": Key(number=0.6, most=3.0)},
        Laying(width=0.01),
        _leaf,
    ),
    "heart": ReadyMade(
        "Heart", "two lobes and a tip", {"width": Key(), "height": Key(0.9)}, Laying(width=0.03), stretched_to(_HEART)
    ),
    "drop": ReadyMade(
        "Drop", "a circle drawn out to a tip", {"width": Key(), "height": Key(1.6)}, Laying(width=0.02), _drop
    ),
}
