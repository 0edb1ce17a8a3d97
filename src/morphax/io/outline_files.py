"""Sections from files: closed curves sorted into parts with holes.

What a shape fills follows its own rule, even-odd or nonzero; outlines that cross or share an edge are united; one that
lies in another is a hole of it.
"""

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import replace
from math import pi
from pathlib import Path

import numpy as np
import shapely

from morphax.core.section.combining import united
from morphax.core.section.found_arcs import found_arcs
from morphax.core.section.nesting import nested
from morphax.core.section.outlines import Loop, Segment, arc, open_loop
from morphax.core.section.sections import Part, SectionShape
from morphax.core.types import Floats
from morphax.io.errors import FileError
from morphax.io.svg import Curve2, read_svg

_SHARED = 1e-6
"""Regions that share a larger part of their area or outline are one."""
_ARC_STEP = pi / 6.0
"""Arcs of an outline are cubics of 30 degrees: true to 4e-7 of their radius."""
_MANY = 12
"""A curve of so many spans has short ones."""
_FINE, _SOFT = 48, 0.35
"""Lines for a curve of outlines that cross; a turn, rad, from which on they meet in a corner."""
_SPECK, _MOST_WINDINGS, _AT_ONCE = 1e-12, 400_000_000, 4_000_000
"""Faces between outlines that cross are nothing where they are smaller than this share of the box round all; how many
pairs of a face and a piece of an outline are looked at, and how many at once."""
_EXACT = 400
"""Of so many outlines those that overlap are united exactly; of more by fine lines."""
_GAP, _FEWEST = 0.01, 3
"""An outline is closed over a gap of less than this share of its size; lines of fewer spans are none."""
_ALIGNED = 1e-6
"""Spans that meet with less of a turn are smooth, rad."""


def read_section(path: Path, *, unit: str = "mm") -> tuple[SectionShape, tuple[str, ...]]:
    """A section from an SVG file, and what was left out. Raises FileError where no closed outline can be made."""
    if path.suffix.lower() == ".dxf":
        from morphax.io.dxf import dxf_curves  # what reads them takes half a second to load

        curves, left_out = dxf_curves(path, unit)
    elif path.suffix.lower() == ".svg":
        drawing = read_svg(path, unit=unit, arc_step=_ARC_STEP)
        curves, left_out = drawing.curves, drawing.left_out
    else:
        raise FileError(f"{path}: a section is read from an .svg or a .dxf file")
    curves = tuple(_closed_over(c) for c in curves)
    flat = sum(_is_there_and_back(c) for c in curves)
    closed = [c for c in curves if c.closed and not _is_there_and_back(c)]
    apart = [c for c in curves if not c.closed]
    if not closed and not apart:
        raise FileError(f"{path} has no closed outline, and no open line")
    many = len(apart) > 1
    lines = f"{len(apart)} open line{'s' if many else ''}{_where(apart)}"
    if not closed:
        words = (
            f"{lines}: {'they are ribbons, not closed outlines' if many else 'it is a ribbon, not a closed outline'}"
        )
        return SectionShape(tuple(Part(_ribbon(c)) for c in apart), is_free=True), (*left_out, words)
    only = f"{flat} shape{'s' if flat > 1 else ''} of two points"
    said = (*left_out, *((lines,) if apart else ()), *((only,) if flat else ()))
    return SectionShape(_parts(closed, str(path)), is_free=True), said


def _ribbon(curve: Curve2) -> Loop:
    """An open line as a ribbon."""
    begins, ends = _directions(curve.spans)
    turns = np.abs(np.arctan2(*_products(ends[:-1], begins[1:])))
    corners = [True, *(turns > _ALIGNED * 1e3).tolist()]
    places = [list(map(tuple, span)) for span in curve.spans.tolist()]
    return open_loop(
        [
            Segment(a, d, corner, inner=None if line else (b, c))
            for (a, b, c, d), corner, line in zip(places, corners, curve.straight.tolist(), strict=True)
        ]
    )


def _products(a: Floats, b: Floats) -> tuple[Floats, Floats]:
    """Cross and scalar products (m,) of directions (m, 2)."""
    return a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(1)


def _is_there_and_back(curve: Curve2) -> bool:
    """Whether a closed curve is a line and the way back: it has no area, and is no outline."""
    return curve.closed and len(curve.spans) < _FEWEST and bool(curve.straight.all())


def _closed_over(curve: Curve2) -> Curve2:
    """A curve whose ends nearly meet, closed by a line; any other as it is."""
    ends = curve.spans[-1, 3], curve.spans[0, 0]
    gap = float(np.hypot(*(ends[1] - ends[0])))
    size = float(np.ptp(curve.spans.reshape(-1, 2), axis=0).max())
    if curve.closed or len(curve.spans) < _FEWEST or gap > _GAP * size:
        return curve
    if gap < 1e-9 * size:
        spans, straight = curve.spans.copy(), curve.straight
        spans[-1, 3] = spans[0, 0]
    else:
        step = ends[0] + np.linspace(0.0, 1.0, 4)[:, None] * (ends[1] - ends[0])
        spans, straight = np.concatenate([curve.spans, step[None]]), np.append(curve.straight, True)
    return replace(curve, spans=spans, straight=straight, closed=True)


def _where(curves: Sequence[Curve2]) -> str:
    """How far apart the ends of lines are that could have been outlines, and where; at most three of them."""
    words = []
    for c in (c for c in curves if len(c.spans) >= _FEWEST):
        (ax, ay), (bx, by) = c.spans[-1, 3] * 1e3, c.spans[0, 0] * 1e3
        words.append(f"{np.hypot(bx - ax, by - ay):.3g} mm open at {ax:.4g}, {ay:.4g}")
    return f" ({'; '.join(words[:3])})" if words else ""


def _loops(curves: Sequence[Curve2]) -> list[Loop]:
    """Closed curves as loops, with their arcs as arcs; all at once, since there may be thousands of them."""
    if not curves:
        return []
    spans, straight = np.concatenate([c.spans for c in curves]), np.concatenate([c.straight for c in curves])
    counts = np.array([len(c.spans) for c in curves])
    first = np.cumsum(counts) - counts
    before = np.arange(len(spans)) - 1
    before[first] += counts
    begins, ends = _directions(spans)
    ends = ends[before]
    corners = np.abs(np.arctan2(*_products(ends, begins))) > _ALIGNED * 1e3
    begin, bulges = found_arcs(spans, straight, first)
    points = list(map(tuple, spans[begin].reshape(-1, 2).tolist()))
    stays = np.zeros(len(spans), dtype=np.int64)
    stays[begin] = 1
    last = np.cumsum(np.add.reduceat(stays, first)) - 1
    onward = np.arange(1, len(begin) + 1)
    onward[last] = np.append(0, last[:-1] + 1)
    segments = [
        arc(points[k], points[4 * after], bulge, corner=corner)
        if bulge
        else Segment(points[k], points[k + 3], corner, inner=None if line else (points[k + 1], points[k + 2]))
        for k, after, bulge, corner, line in zip(
            range(0, len(points), 4),
            onward.tolist(),
            bulges.tolist(),
            corners[begin].tolist(),
            straight[begin].tolist(),
            strict=True,
        )
    ]
    ends = (last + 1).tolist()
    return [Loop(tuple(segments[a:b])) for a, b in zip([0, *ends[:-1]], ends, strict=True)]


def _reversed(curve: Curve2) -> Curve2:
    """The same curve walked the other way."""
    return replace(curve, spans=curve.spans[::-1, ::-1], straight=curve.straight[::-1])


def _directions(spans: Floats) -> tuple[Floats, Floats]:
    """The directions (m, 2) in which spans (m, 4, 2) begin and end: towards the next of their points that is apart."""
    size = np.abs(spans - spans[:, :1]).max((1, 2))[:, None]
    out = []
    for own, others in ((0, (1, 2, 3)), (3, (2, 1, 0))):
        steps = np.stack([(spans[:, k] - spans[:, own]) * (1.0 if own == 0 else -1.0) for k in others], axis=1)
        apart = np.abs(steps).max(2) > 1e-9 * size
        out.append(steps[np.arange(len(spans)), apart.argmax(1)])
    return out[0], out[1]


def _parts(curves: Sequence[Curve2], name: str) -> tuple[Part, ...]:
    """Outlines with their holes."""
    curves = _once_each(curves)
    shapes = _polygons(curves)
    solid = _made_valid(shapes)
    if (shapely.area(solid) <= 0.0).any():
        raise FileError(f"{name}: an outline has no area")
    around, left = _containers(solid), _are_left(shapes)
    crossing = _crossing(solid) | _knotted(shapes, curves)
    apart = [i for i in range(len(curves)) if i not in crossing and _is_edge(i, curves, left, around[i])]
    met, alone = [curves[i] for i in sorted(crossing)], [curves[i] for i in apart]
    if met and len(curves) <= _EXACT and _are_plain(met, shapes[sorted(crossing)]):
        whole = united([Part(loop) for loop in _loops(met)])
        return nested([*_loops(alone), *(loop for p in whole for loop in (p.outer, *p.holes))])
    return _nested(alone, shapes[apart], _united(met, name) if met else [])


def _are_plain(curves: Sequence[Curve2], shapes: np.ndarray) -> bool:
    """Whether each curve is a shape of its own that doesn't cross itself: then either rule fills just its inside."""
    return len({c.of for c in curves}) == len(curves) and bool(shapely.is_valid(shapes).all())


def _once_each(curves: Sequence[Curve2]) -> list[Curve2]:
    """Curves without the repetitions of those that are a whole shape each: the same drawn twice is filled once."""
    alone = Counter(c.of for c in curves)
    single = [i for i, c in enumerate(curves) if alone[c.of] == 1]
    kept = {curves[i].spans.tobytes(): i for i in reversed(single)}
    return [c for i, c in enumerate(curves) if alone[c.of] > 1 or kept[c.spans.tobytes()] == i]


def _polygons(curves: Sequence[Curve2]) -> np.ndarray:
    """The regions inside curves, their spans as lines: fewer for each where there are many."""
    many = np.array([len(c.spans) >= _MANY for c in curves])
    out = np.empty(len(curves), dtype=object)
    for some, each in ((many, 4), (~many, 16)):
        index = np.flatnonzero(some)
        if len(index):
            own = [curves[i] for i in index.tolist()]
            points, keep = _places(
                np.concatenate([c.spans for c in own]), np.concatenate([c.straight for c in own]), each
            )
            of = np.repeat(np.arange(len(own)), [len(c.spans) for c in own])
            rings = shapely.linearrings(points[keep], indices=np.repeat(of, keep.sum(1)))
            out[index] = shapely.polygons(rings)
    return out


def _made_valid(shapes: np.ndarray) -> np.ndarray:
    """Regions of which those that cross themselves are put right."""
    bad = ~shapely.is_valid(shapes)
    out = shapes.copy()
    out[bad] = shapely.make_valid(shapes[bad])
    return out


def _are_left(shapes: np.ndarray) -> np.ndarray:
    """Which of them run counter-clockwise, (n,)."""
    return np.asarray(shapely.is_ccw(shapely.get_exterior_ring(shapes)), dtype=bool)


def _containers(solid: np.ndarray) -> list[list[int]]:
    """Of each region the numbers of those that it lies in."""
    area = shapely.area(solid)
    spots = shapely.point_on_surface(solid)  # a vertex may lie on the outline of what only touches it
    inner, outer = shapely.STRtree(solid).query(spots)
    larger = area[outer] > area[inner]
    inner, outer = inner[larger], outer[larger]
    met = shapely.intersects(spots[inner], solid[outer])
    out: list[list[int]] = [[] for _ in solid]
    for i, j in zip(inner[met].tolist(), outer[met].tolist(), strict=True):
        out[i].append(j)
    return out


def _is_edge(i: int, curves: Sequence[Curve2], left: np.ndarray, around: Sequence[int]) -> bool:
    """Whether a loop parts what its shape fills from what it does not."""
    if curves[i].even_odd:
        return True
    own = 1 if left[i] else -1
    outside = sum(1 if left[j] else -1 for j in around if curves[j].of == curves[i].of)
    return (outside == 0) is not (outside + own == 0)


def _crossing(solid: np.ndarray) -> set[int]:
    """Numbers of regions that overlap another, share an edge with it, or are it once more."""
    out: set[int] = set()
    tree = shapely.STRtree(solid)
    area, edges = shapely.area(solid), shapely.length(shapely.boundary(solid))
    near_a, near_b = tree.query(solid)
    near_a, near_b = near_a[near_a < near_b], near_b[near_a < near_b]
    for meets in (shapely.overlaps, shapely.touches, shapely.equals):
        met = meets(solid[near_a], solid[near_b])
        a, b = near_a[met], near_b[met]
        both = shapely.intersection(solid[a], solid[b])
        shared = shapely.area(both) > _SHARED * np.minimum(area[a], area[b])
        shared |= shapely.length(both) > _SHARED * np.minimum(edges[a], edges[b])
        out |= {*a[shared].tolist(), *b[shared].tolist()}
    return out


def _knotted(shapes: np.ndarray, curves: Sequence[Curve2]) -> set[int]:
    """Numbers of curves that cross themselves, and of those of the same shape in the box round one."""
    own = np.flatnonzero(~shapely.is_valid(shapes))
    a, b = shapely.STRtree(shapes).query(shapes[own])
    beside = {int(j) for i, j in zip(own[a], b, strict=True) if curves[i].of == curves[j].of}
    return {*own.tolist(), *beside}


def _united(curves: Sequence[Curve2], name: str) -> list[Floats]:
    """The outlines and holes (n, 2) of curves that cross: what each shape fills by its rule, then all shapes together.

    Curves are polylines in it, fine enough that they look round.
    """
    groups: dict[int, list[Curve2]] = defaultdict(list)
    for curve in curves:
        groups[curve.of].append(curve)
    whole = shapely.union_all([_filled(group, name) for group in groups.values()])
    rings = [r for p in shapely.get_parts(whole) if p.geom_type == "Polygon" for r in (p.exterior, *p.interiors)]
    return [np.array(r.coords)[:-1] for r in rings]


def _filled(group: Sequence[Curve2], name: str) -> shapely.Geometry:
    """What the curves of one shape fill together by its rule, however they cross each other and themselves."""
    rings = [np.concatenate([p, p[:1]]) for p in (_sampled(c, _FINE) for c in group)]
    lines = [shapely.LineString(r) for r in rings]
    faces = shapely.get_parts(shapely.polygonize([shapely.node(shapely.MultiLineString(lines))]))
    faces = faces[shapely.area(faces) > _SPECK * shapely.area(shapely.envelope(shapely.MultiLineString(lines)))]
    if len(faces) * sum(map(len, rings)) > _MOST_WINDINGS:
        raise FileError(f"{name}: an outline crosses too often to tell what it fills")
    spots = shapely.get_coordinates(shapely.point_on_surface(faces))
    turns = sum((_windings(ring, spots) for ring in rings), np.zeros(len(spots), dtype=np.int64))
    filled = turns % 2 == 1 if group[0].even_odd else turns != 0
    return shapely.union_all(faces[filled])


def _windings(ring: Floats, spots: Floats) -> np.ndarray:
    """How often a closed polyline (m, 2) goes round each of some places (n, 2) that don't lie on it: (n,) integers.

    Source: Sunday, Inclusion of a point in a polygon (2001): crossings of a ray to the right, upward less downward.
    """
    a, b = ring[:-1], ring[1:]
    out = np.zeros(len(spots), dtype=np.int64)
    each = max(1, _AT_ONCE // len(ring))
    for k in range(0, len(spots), each):
        x, y = spots[k : k + each, :1], spots[k : k + each, 1:]
        side = (b[:, 0] - a[:, 0]) * (y - a[:, 1]) - (x - a[:, 0]) * (b[:, 1] - a[:, 1])
        up, down = (a[:, 1] <= y) & (b[:, 1] > y), (a[:, 1] > y) & (b[:, 1] <= y)
        out[k : k + each] = (up & (side > 0.0)).sum(1) - (down & (side < 0.0)).sum(1)
    return out


def _polygon_loop(points: Floats) -> Loop:
    """A loop of lines; where they turn little they are pieces of a curve."""
    chords = np.roll(points, -1, axis=0) - points
    before = np.roll(chords, 1, axis=0)
    turn = np.arctan2(before[:, 0] * chords[:, 1] - before[:, 1] * chords[:, 0], (before * chords).sum(1))
    ends = np.roll(points, -1, axis=0)
    corners = np.abs(turn) > _SOFT
    return Loop(
        tuple(
            Segment((float(a[0]), float(a[1])), (float(b[0]), float(b[1])), corner=bool(c))
            for a, b, c in zip(points, ends, corners, strict=True)
        )
    )


def _nested(curves: Sequence[Curve2], shapes: np.ndarray, more: Sequence[Floats]) -> tuple[Part, ...]:
    """Outlines that don't cross, by how deep they lie in each other: even depth is an outline, odd depth a hole of the
    one around it. ``shapes`` are the regions in curves; ``more`` are outlines of lines (n, 2)."""
    if more:
        shapes = np.concatenate([shapes, [shapely.Polygon(p) for p in more]])
    inside = _containers(_made_valid(shapes))
    stands = [
        is_left == (len(around) % 2 == 0) for is_left, around in zip(_are_left(shapes).tolist(), inside, strict=True)
    ]
    turned = _loops([c if keeps else _reversed(c) for c, keeps in zip(curves, stands[: len(curves)], strict=True)])
    turned += [_polygon_loop(p if k else p[::-1]) for p, k in zip(more, stands[len(curves) :], strict=True)]
    holes: dict[int, list[Loop]] = defaultdict(list)
    for i, around in enumerate(inside):
        if len(around) % 2 == 1:
            holes[max(around, key=lambda j: len(inside[j]))].append(turned[i])
    return tuple(Part(turned[i], tuple(holes[i])) for i, around in enumerate(inside) if len(around) % 2 == 0)


def _sampled(curve: Curve2, each: int) -> Floats:
    """Places (n, 2) along a curve: the starts of lines, ``each`` on every other span."""
    points, keep = _places(curve.spans, curve.straight, each)
    out: Floats = points[keep]
    return out


def _places(spans: Floats, straight: np.ndarray, each: int) -> tuple[Floats, np.ndarray]:
    """``each`` places (m, each, 2) on spans (m, 4, 2), and which of them count: of lines the starts only."""
    t = (np.arange(each) / each)[:, None]
    w = np.concatenate([(1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3], axis=1)
    points: Floats = w @ spans
    keep = np.ones(points.shape[:2], dtype=bool)
    keep[straight, 1:] = False
    return points, keep
