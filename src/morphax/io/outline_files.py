"""Sections from files: closed curves sorted into parts with holes."""

from pathlib import Path

import numpy as np
import shapely

from morphax.core.section.outlines import Loop, Segment
from morphax.core.section.sections import Part, SectionShape
from morphax.core.types import Floats
from morphax.io.errors import FileError
from morphax.io.svg import Curve2, read_svg

_ALIGNED = 1e-6
"""Spans that meet with less of a turn are smooth, rad."""


def read_section(path: Path, *, unit: str = "mm") -> tuple[SectionShape, tuple[str, ...]]:
    """A section from an SVG file, and what was left out. Raises FileError where no closed outline can be made."""
    if path.suffix.lower() != ".svg":
        raise FileError(f"{path}: a section is read from an .svg file")
    drawing = read_svg(path, unit=unit)
    closed = [c for c in drawing.curves if c.closed]
    if not closed:
        raise FileError(f"{path} has no closed outline")
    open_ones = len(drawing.curves) - len(closed)
    left = (*drawing.left_out, *((f"{open_ones} open lines",) if open_ones else ()))
    return SectionShape(_parts([_loop(c) for c in closed], str(path)), is_free=True), left


def _loop(curve: Curve2) -> Loop:
    directions = [_directions(s) for s in curve.spans]
    segments = []
    for i, span in enumerate(curve.spans):
        coming, leaving = directions[i - 1][1], directions[i][0]
        turn = abs(float(np.arctan2(coming[0] * leaving[1] - coming[1] * leaving[0], coming @ leaving)))
        a, b, c, d = ((float(p[0]), float(p[1])) for p in span)
        segments.append(Segment(a, d, corner=turn > _ALIGNED * 1e3, inner=None if curve.straight[i] else (b, c)))
    return Loop(tuple(segments))


def _directions(span: Floats) -> tuple[Floats, Floats]:
    """The directions in which a span begins and ends."""
    size = np.abs(span - span[0]).max()
    starts = [span[k] - span[0] for k in (1, 2, 3) if np.abs(span[k] - span[0]).max() > 1e-9 * size]
    ends = [span[3] - span[k] for k in (2, 1, 0) if np.abs(span[3] - span[k]).max() > 1e-9 * size]
    return starts[0], ends[0]


def reversed_loop(loop: Loop) -> Loop:
    """The same loop walked the other way; lines and cubics only."""
    s = loop.segments
    return Loop(
        tuple(
            Segment(
                seg.end,
                seg.start,
                corner=s[(i + 1) % len(s)].corner,
                inner=None if seg.inner is None else (seg.inner[1], seg.inner[0]),
            )
            for i, seg in reversed(list(enumerate(s)))
        )
    )


def _parts(loops: list[Loop], name: str) -> tuple[Part, ...]:
    """Loops by how deep they lie in each other: even depth is an outline, odd depth a hole of the one around it."""
    shapes = [shapely.Polygon(_sampled(loop)) for loop in loops]
    flat = [i for i, s in enumerate(shapes) if s.area <= 0.0]
    if flat:
        raise FileError(f"{name}: an outline has no area")
    inside = [[j for j, s in enumerate(shapes) if j != i and _lies_in(shapes[i], s)] for i in range(len(loops))]
    turned = [
        loop if _is_left(loop) is (len(inside[i]) % 2 == 0) else reversed_loop(loop) for i, loop in enumerate(loops)
    ]
    parts = []
    for i, around in enumerate(inside):
        if len(around) % 2 == 0:
            holes = [turned[j] for j, other in enumerate(inside) if i in other and len(other) == len(around) + 1]
            parts.append(Part(turned[i], tuple(holes)))
    return tuple(parts)


def _sampled(loop: Loop) -> Floats:
    t = np.linspace(0.0, 1.0, 16, endpoint=False)
    return np.concatenate([s.at(t) if s.is_curved else s.at(np.zeros(1)) for s in loop.segments])


def _lies_in(inner: shapely.Polygon, outer: shapely.Polygon) -> bool:
    point = shapely.Point(inner.exterior.coords[0])
    return bool(outer.area > inner.area and shapely.make_valid(outer).covers(point))


def _is_left(loop: Loop) -> bool:
    """Whether a loop runs counter-clockwise."""
    p = _sampled(loop)
    q = np.roll(p, -1, axis=0)
    return bool((p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0]).sum() > 0.0)
