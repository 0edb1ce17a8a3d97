"""Outlines: closed loops of lines, elliptic arcs and cubics in the section's plane, x to the right, y up."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import chain
from math import atan, atan2, hypot, pi, tan

import numpy as np

from morphax.core.errors import SectionError
from morphax.core.types import Floats, Points2

_X, _W = np.polynomial.legendre.leggauss(16)
_NODES, _WEIGHTS = 0.5 * (_X + 1.0), 0.5 * _W


@dataclass(frozen=True)
class Segment:
    """A stretch of a loop: a line, an arc of an ellipse along the axes, or a cubic Bezier curve.

    Lines use ``start`` and ``end``; cubics also their two ``inner`` control points. Arcs lie at
    centre + (rx cos a, ry sin a) for a from ``a0`` to ``a1`` (rad).
    ``corner``: whether the loop has a corner at the segment's start. ``look``: a name for what its faces look like;
    without one they look as the run does.
    """

    start: tuple[float, float]
    end: tuple[float, float]
    corner: bool = True
    centre: tuple[float, float] | None = None
    radii: tuple[float, float] = (0.0, 0.0)
    a0: float = 0.0
    a1: float = 0.0
    inner: tuple[tuple[float, float], tuple[float, float]] | None = None
    look: str = ""

    @property
    def is_arc(self) -> bool:
        return self.centre is not None

    @property
    def is_curved(self) -> bool:
        return self.centre is not None or self.inner is not None

    @property
    def control(self) -> Points2:
        """The four control points (4, 2) of a cubic."""
        return np.array([self.start, *(self.inner or (self.start, self.end)), self.end])

    def at(self, t: Floats) -> Points2:
        """Points (k, 2) at parameters 0..1."""
        if self.inner is not None:
            w = 1.0 - t
            cubic: Points2 = np.stack([w**3, 3.0 * w * w * t, 3.0 * w * t * t, t**3], axis=-1) @ self.control
            return cubic
        if self.centre is None:
            a, b = np.array(self.start), np.array(self.end)
            out: Points2 = a + (b - a) * t[:, None]
            return out
        angle = self.a0 + (self.a1 - self.a0) * t
        return np.array(self.centre) + np.stack([self.radii[0] * np.cos(angle), self.radii[1] * np.sin(angle)], axis=-1)

    def slope(self, t: Floats) -> Points2:
        """Derivatives (k, 2) with respect to the parameter; where a handle is missing, the chord's direction."""
        if self.inner is not None:
            return self._cubic_slope(t)
        if self.centre is None:
            return np.broadcast_to(np.array(self.end) - np.array(self.start), (len(t), 2)).copy()
        sweep = self.a1 - self.a0
        angle = self.a0 + sweep * t
        return sweep * np.stack([-self.radii[0] * np.sin(angle), self.radii[1] * np.cos(angle)], axis=-1)

    def _cubic_slope(self, t: Floats) -> Points2:
        p, w = self.control, 1.0 - t
        slope: Points2 = np.stack([3.0 * w * w, 6.0 * w * t, 3.0 * t * t], axis=-1) @ np.diff(p, axis=0)
        size = float(np.abs(p - p[0]).max())
        still = np.abs(slope).max(1) < 1e-9 * size
        if still.any():
            near = np.where(t[still] < 0.5, t[still] + 1e-4, t[still] - 1e-4)
            slope[still] = (self.at(near) - self.at(t[still])) * np.where(t[still] < 0.5, 1e4, -1e4)[:, None]
        return slope

    @property
    def _bend(self) -> float:
        """Largest second derivative of a cubic, m: its chords lie within an eighth of it over pieces squared."""
        p = self.control
        return 6.0 * float(np.hypot(*(np.diff(p, n=2, axis=0).T)).max())

    def deviation(self, pieces: Floats) -> Floats:
        """Largest distance from the segment to a polyline of equal parameter pieces, m (an upper bound on cubics)."""
        if self.inner is not None:
            return self._bend / 8.0 / pieces**2
        if self.centre is None:
            return np.zeros_like(pieces)
        return max(self.radii) * (1.0 - np.cos(0.5 * abs(self.a1 - self.a0) / pieces))


def line(start: tuple[float, float], end: tuple[float, float]) -> Segment:
    return Segment(start, end)


def arc(start: tuple[float, float], end: tuple[float, float], bulge: float, *, corner: bool = True) -> Segment:
    """Circular arc by its bulge tan(sweep/4), positive to the left of no chord: counter-clockwise."""
    sweep = 4.0 * atan(bulge)
    dx, dy = end[0] - start[0], end[1] - start[1]
    offset = 0.5 / tan(0.5 * sweep)
    cx, cy = 0.5 * (start[0] + end[0]) - offset * dy, 0.5 * (start[1] + end[1]) + offset * dx
    a0 = atan2(start[1] - cy, start[0] - cx)
    radius = hypot(start[0] - cx, start[1] - cy)
    return Segment(start, end, corner, (cx, cy), (radius, radius), a0, a0 + sweep)


def stretched(segment: Segment, sx: float, sy: float) -> Segment:
    """The segment with x times ``sx`` and y times ``sy`` (both positive)."""

    def place(p: tuple[float, float]) -> tuple[float, float]:
        return (p[0] * sx, p[1] * sy)

    centre = None if segment.centre is None else place(segment.centre)
    inner = None if segment.inner is None else (place(segment.inner[0]), place(segment.inner[1]))
    return replace(
        segment,
        start=place(segment.start),
        end=place(segment.end),
        centre=centre,
        radii=(segment.radii[0] * sx, segment.radii[1] * sy),
        inner=inner,
    )


@dataclass(frozen=True)
class Loop:
    """A closed chain of segments: counter-clockwise outside, clockwise for a hole.

    ``is_open``: a ribbon, whose front is to the left of its direction; its last segment, back to its start, is a gap.
    """

    segments: tuple[Segment, ...]
    is_open: bool = False

    @property
    def drawn(self) -> tuple[Segment, ...]:
        """The segments without the gap of a ribbon."""
        return self.segments[:-1] if self.is_open else self.segments

    @property
    def is_round(self) -> bool:
        """A whole circle or ellipse in one segment, without a corner."""
        return len(self.segments) == 1 and self.segments[0].is_arc and not self.is_open


def open_loop(segments: Sequence[Segment]) -> Loop:
    """A ribbon of segments one after the other; its ends are corners."""
    first = segments[0] if segments[0].corner else replace(segments[0], corner=True)
    return Loop((first, *segments[1:], Segment(segments[-1].end, first.start)), is_open=True)


def circle(diameter: float, *, hole: bool = False) -> Loop:
    """A circle about the origin that starts at mid-bottom."""
    return ellipse(diameter, diameter, hole=hole)


def ellipse(width: float, height: float, *, hole: bool = False) -> Loop:
    """An ellipse along the axes about the origin that starts at mid-bottom."""
    radii, sweep = (0.5 * width, 0.5 * height), -2.0 * pi if hole else 2.0 * pi
    bottom = (0.0, -radii[1])
    return Loop((Segment(bottom, bottom, False, (0.0, 0.0), radii, -0.5 * pi, -0.5 * pi + sweep),))


def rounded(points: Sequence[tuple[float, float]], radii: Sequence[float]) -> Loop:
    """A closed polygon, counter-clockwise, whose corners have radii (0 keeps the corner).

    Raises SectionError where the arcs of two neighbouring corners do not fit on the edge between them.
    """
    p, r = np.array(points), np.array(radii)
    edge = np.roll(p, -1, axis=0) - p
    length = np.hypot(edge[:, 0], edge[:, 1])
    d = edge / length[:, None]
    before = np.roll(d, 1, axis=0)
    turn = np.arctan2(before[:, 0] * d[:, 1] - before[:, 1] * d[:, 0], (before * d).sum(1))
    back = r * np.abs(np.tan(0.5 * turn))
    room = length - back - np.roll(back, -1)
    if room.min() < -1e-12 * length.max():
        k = int(np.argmin(room))
        raise SectionError(f"the corner radii {r[k]:g} m and {r[(k + 1) % len(r)]:g} m do not fit on their edge")
    starts, ends = p - before * back[:, None], p + d * back[:, None]
    segments: list[Segment] = []
    for i in range(len(p)):
        smooth = bool(back[i] > 0.0)
        a, b = _pair(starts[i]), _pair(ends[i])
        if smooth:
            segments.append(arc(a, b, float(np.tan(0.25 * turn[i])), corner=False))
        onward = _pair(starts[(i + 1) % len(p)])
        if room[i] > 1e-12 * length.max():
            segments.append(Segment(b, onward, corner=not smooth))
    return Loop(tuple(segments))


def _pair(p: Points2) -> tuple[float, float]:
    return float(p[0]), float(p[1])


def _integrated(loop: Loop, weight: str) -> float:
    total = 0.0
    for seg in loop.segments:
        p, d = seg.at(_NODES), seg.slope(_NODES)
        cross = p[:, 0] * d[:, 1] - p[:, 1] * d[:, 0]
        scale = np.full(len(p), 0.5) if weight == "area" else p[:, "xy".index(weight)] / 3.0
        total += float((_WEIGHTS * cross * scale).sum())
    return total


def loop_area(loop: Loop) -> float:
    """Signed area, m2; positive when counter-clockwise. Gauss-Legendre, exact to rounding on lines and arcs."""
    return _integrated(loop, "area")


def loop_moments(loop: Loop) -> tuple[float, float]:
    """Signed area times the centroid's x and y, m3."""
    return _integrated(loop, "x"), _integrated(loop, "y")


def lines_middle(loops: Sequence[Loop]) -> tuple[float, float]:
    """The middle of open lines, each place weighed by its length."""
    whole, x, y = 0.0, 0.0, 0.0
    for seg in (s for loop in loops for s in loop.drawn):
        size = _WEIGHTS * np.hypot(*seg.slope(_NODES).T)
        px, py = (seg.at(_NODES) * size[:, None]).sum(0)
        whole, x, y = whole + float(size.sum()), x + float(px), y + float(py)
    return x / whole, y / whole


def _cubic_extremes(controls: Floats) -> Points2:
    """Places (n, 2) between the ends of cubics (m, 4, 2) where x or y turns; elsewhere on them where it does not."""
    d = np.diff(controls, axis=1)
    a, b, c = d[:, 0] - 2.0 * d[:, 1] + d[:, 2], d[:, 1] - d[:, 0], d[:, 0]  # a t^2 + 2 b t + c
    root = np.sqrt(np.maximum(b * b - a * c, 0.0))
    q = -(b + np.where(b < 0.0, -root, root))
    with np.errstate(divide="ignore", invalid="ignore"):
        t = np.concatenate([q / a, c / q], axis=1)  # (m, 4): two of x and two of y
    t = np.where((t > 0.0) & (t < 1.0), t, 0.0)[..., None]
    w = 1.0 - t
    p = controls[:, :, None]
    places: Floats = w**3 * p[:, 0] + 3.0 * w * w * t * p[:, 1] + 3.0 * w * t * t * p[:, 2] + t**3 * p[:, 3]
    return places.reshape(-1, 2)


def _arc_extremes(arcs: Sequence[Segment]) -> Points2:
    """Places (n, 2) of arcs where x or y turns, and their ends."""
    values = np.array([(*(s.centre or (0.0, 0.0)), *s.radii, s.a0, s.a1) for s in arcs], dtype=np.float64).reshape(
        -1, 6
    )
    centre, radii, a0, a1 = values[:, None, :2], values[:, None, 2:4], values[:, 4:5], values[:, 5:]
    t = np.clip((np.arange(-8, 9) * 0.5 * pi - a0) / np.where(a1 == a0, 1.0, a1 - a0), 0.0, 1.0)
    angle = a0 + np.concatenate([t, np.ones_like(a0), np.zeros_like(a0)], axis=1) * (a1 - a0)
    places: Floats = centre + radii * np.stack([np.cos(angle), np.sin(angle)], axis=-1)
    return places.reshape(-1, 2)


def loop_bounds(*loops: Loop) -> tuple[float, float, float, float]:
    """Exact least x, least y, largest x, largest y of loops."""
    segments = [s for loop in loops for s in loop.segments]
    cubics = [(*s.start, *s.inner[0], *s.inner[1], *s.end) for s in segments if s.inner is not None]
    lines = [(*s.start, *s.end) for s in segments if not s.is_curved]
    arcs = [s for s in segments if s.is_arc]
    controls = np.fromiter(chain.from_iterable(cubics), np.float64, 8 * len(cubics)).reshape(-1, 4, 2)
    ends = np.fromiter(chain.from_iterable(lines), np.float64, 4 * len(lines)).reshape(-1, 2)
    p = np.concatenate([ends, controls[:, 0], controls[:, 3], _cubic_extremes(controls), _arc_extremes(arcs)])
    low, high = p.min(0), p.max(0)
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])
