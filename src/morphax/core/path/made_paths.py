"""Ready-made paths: arc, circle, polygon, spiral, helix and wave, by their values."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import partial
from math import inf, pi
from typing import Protocol

import numpy as np

from morphax.core.errors import PathError
from morphax.core.path.curve_fit import Curve, fitted_spans
from morphax.core.types import Floats, Ints, Points3, Spans, Vectors3, frozen

EXACT = 1e-9
"""Share of its size within which a ready-made path follows its true curve."""
_STEP = pi / 18.0
_MOST_MARKS = 48


class MadeShape(StrEnum):
    """The ready-made paths."""

    ARC = "arc"
    CIRCLE = "circle"
    POLYGON = "polygon"
    SPIRAL = "spiral"
    HELIX = "helix"
    WAVE = "wave"
    COIL = "coil"

    @property
    def is_closed(self) -> bool:
        return self in (MadeShape.CIRCLE, MadeShape.POLYGON)


@dataclass(frozen=True)
class Value:
    """A value of a ready-made path: ``kind`` length, angle (rad), count or turns; its default and its range."""

    title: str
    kind: str
    usual: float
    least: float
    most: float = inf


_RADIUS = Value("Radius", "length", 0.2, 1e-6, 1e7)
_TURNS = Value("Turns", "turns", 5.0, -1000.0, 1000.0)
VALUES: Mapping[MadeShape, Mapping[str, Value]] = {
    MadeShape.ARC: {"radius": _RADIUS, "turn": Value("Angle", "angle", pi / 2.0, -2.0 * pi, 2.0 * pi)},
    MadeShape.CIRCLE: {"radius": _RADIUS},
    MadeShape.POLYGON: {"radius": _RADIUS, "sides": Value("Corners", "count", 6, 3, 400)},
    MadeShape.SPIRAL: {
        "inner": Value("Inner radius", "length", 0.02, 0.0, 1e7),
        "radius": _RADIUS,
        "turns": replace(_TURNS, usual=3.0),
    },
    MadeShape.HELIX: {
        "radius": _RADIUS,
        "top": Value("Top radius", "length", 0.2, 1e-6, 1e7),
        "pitch": Value("Rise per turn", "length", 0.1, -1e7, 1e7),
        "turns": _TURNS,
    },
    MadeShape.WAVE: {
        "length": Value("Length", "length", 1.0, 1e-6, 1e7),
        "height": Value("Height", "length", 0.1, -1e7, 1e7),
        "waves": Value("Waves", "turns", 4.0, 0.05, 1000.0),
    },
    MadeShape.COIL: {
        "radius": _RADIUS,
        "turns": _TURNS,
        "start": Value("Starts at", "angle", 0.0, -2.0 * pi, 2.0 * pi),
    },
}
"""What each shape's values are, in the order in which they are shown."""


class Spine(Protocol):
    """What a coil winds round."""

    @property
    def length(self) -> float:
        """Its length, m."""

    def winding(self, radius: float, end: float, start: float, u: Floats) -> tuple[Points3, Vectors3]:
        """Places and derivatives (..., 3) after u rad of ``end`` rad in all (clockwise where negative)."""

    def axis_at(self, share: float) -> Floats:
        """The place (3,) of the spine itself at a share of its length."""


@dataclass(frozen=True, eq=False)
class MadeCurve:
    """A ready-made path where it lies: ``values`` by name, m and rad; ``origin`` (3,) m; ``axes`` (3, 3) rows x, y, z.

    The circle, polygon and spiral lie in x and y about the origin, the arc too, from x; the helix rises along z; the
    wave runs along x and swings along y. A coil lies where its ``spine`` is.
    """

    shape: MadeShape
    values: Mapping[str, float]
    origin: Floats
    axes: Floats
    spine: Spine | None = None

    def placed(self, local: Points3) -> Points3:
        return self.origin + local @ self.axes

    def local(self, place: Points3) -> Points3:
        """A place in the curve's own coordinates."""
        out: Points3 = (place - self.origin) @ self.axes.T
        return out


def checked_values(shape: MadeShape, values: Mapping[str, float]) -> dict[str, float]:
    """All values of a shape. Raises PathError for one that is unknown or out of range."""
    known = VALUES[shape]
    strange = [k for k in values if k not in known]
    if strange:
        raise PathError(f"a {shape} has no {strange[0]}; it has {', '.join(known)}")
    full = {k: float(values.get(k, v.usual)) for k, v in known.items()}
    for name, value in full.items():
        of = known[name]
        if not of.least <= value <= of.most:
            raise PathError(f"{of.title.lower()} of a {shape}: {value:g} is outside {of.least:g} to {of.most:g}")
        if name in ("turn", "turns", "waves") and abs(value) < 1e-3:
            raise PathError(f"{of.title.lower()} of a {shape} cannot be 0")
    if shape is MadeShape.SPIRAL and abs(full["radius"] - full["inner"]) < EXACT:
        raise PathError("inner and outer radius of a spiral differ")
    if shape is MadeShape.HELIX and full["pitch"] == 0.0 and full["top"] == full["radius"]:
        raise PathError("a helix rises, or its radius changes")
    return full


def _round(values: Mapping[str, float], u: Floats) -> tuple[Points3, Vectors3]:
    r, zero = values["radius"], np.zeros_like(u)
    c, s = r * np.cos(u), r * np.sin(u)
    return np.stack([c, s, zero], -1), np.stack([-s, c, zero], -1)


def _turning(inner: float, outer: float, end: float, rise: float, u: Floats) -> tuple[Points3, Vectors3]:
    """Radius and height grow evenly from u = 0 to ``end`` rad, which may be negative: then it turns clockwise."""
    way = np.sign(end)
    share, grow = u / abs(end), (outer - inner) / abs(end)
    r = inner + (outer - inner) * share
    c, s = np.cos(u), way * np.sin(u)
    z = np.stack([np.zeros_like(u), np.zeros_like(u), rise * share], -1)
    place = r[..., None] * np.stack([c, s, np.zeros_like(u)], -1) + z
    slope = np.stack([grow * c - r * np.sin(u), grow * s + r * way * np.cos(u), np.full_like(u, rise / abs(end))], -1)
    return place, slope


def _waving(length: float, height: float, rate: float, u: Floats) -> tuple[Points3, Vectors3]:
    """u rad of the sine; ``rate`` rad in all."""
    x = length * u / rate
    zero = np.zeros_like(u)
    return (
        np.stack([x, height * np.sin(u), zero], -1),
        np.stack([np.full_like(u, length / rate), height * np.cos(u), zero], -1),
    )


def _curve(made: MadeCurve) -> tuple[Curve, Floats]:
    """The curve in its own coordinates, and the parameters of its marks."""
    v = checked_values(made.shape, made.values)
    shape = made.shape
    if shape is MadeShape.CIRCLE:
        return partial(_round, v), np.linspace(0.0, 2.0 * pi, 5)
    if shape is MadeShape.ARC:
        way = np.sign(v["turn"])
        turning = partial(_turning, v["radius"], v["radius"], v["turn"], 0.0)
        return turning, np.linspace(0.0, way * v["turn"], 3)
    if shape is MadeShape.WAVE:
        rate = 2.0 * pi * v["waves"]
        return partial(_waving, v["length"], v["height"], rate), _marks(rate, 0.5 * pi, pi)
    end = 2.0 * pi * v["turns"]
    if shape is MadeShape.COIL:
        if made.spine is None:
            raise PathError("a coil needs a path that it winds round")
        return partial(made.spine.winding, v["radius"], end, v["start"]), _marks(abs(end), 2.0 * pi, 2.0 * pi)
    inner, outer = (v["inner"], v["radius"]) if shape is MadeShape.SPIRAL else (v["radius"], v["top"])
    rise = 0.0 if shape is MadeShape.SPIRAL else v["pitch"] * abs(v["turns"])
    return partial(_turning, inner, outer, end, rise), _marks(abs(end), 2.0 * pi, 2.0 * pi)


def _marks(end: float, first: float, step: float) -> Floats:
    """0, ``first`` and each ``step`` from there on while there are not too many, and the end."""
    inner = np.arange(first, end - 1e-9 * end, step) if end / step < _MOST_MARKS else np.empty(0)
    return np.concatenate([[0.0], inner, [end]])


def made_spans(made: MadeCurve) -> tuple[Spans, Ints]:
    """Cubics (m, 4, 3) along a ready-made path within 1e-9 of its size, and which of their ends are its marks."""
    if made.shape is MadeShape.POLYGON:
        p = made_marks(made)
        a, b = p, np.roll(p, -1, axis=0)
        spans = np.stack([a, (2.0 * a + b) / 3.0, (a + 2.0 * b) / 3.0, b], axis=1)
        return spans, np.arange(len(p) + 1, dtype=np.int32)
    curve, marks = _curve(made)
    counts = np.maximum(np.ceil(np.diff(marks) / _STEP - 1e-9), 1).astype(int)
    share = np.concatenate([np.arange(n) / n for n in counts])
    nodes = np.append(np.repeat(marks[:-1], counts) + share * np.repeat(np.diff(marks), counts), marks[-1])
    corners = curve(marks)[0]
    size = float(np.linalg.norm(np.ptp(np.concatenate([corners, curve(nodes)[0]]), axis=0)))
    local, ends = fitted_spans(curve, nodes, EXACT * size)
    if made.shape is MadeShape.CIRCLE:
        local[-1, 3] = local[0, 0]
    spans = frozen(made.placed(local.reshape(-1, 3)).reshape(-1, 4, 3))
    return spans, np.searchsorted(ends, marks - 1e-12).astype(np.int32)


def made_marks(made: MadeCurve) -> Points3:
    """Places (n, 3) of the knots by which a ready-made path is held: quarters, corners, turns, crests and ends."""
    if made.shape is MadeShape.POLYGON:
        v = checked_values(made.shape, made.values)
        u = 2.0 * pi * np.arange(round(v["sides"])) / round(v["sides"])
        return frozen(made.placed(_round(v, u)[0]))
    curve, marks = _curve(made)
    places = made.placed(curve(marks)[0])
    return frozen(places[:-1] if made.shape.is_closed else places)


def _mark_count(made: MadeCurve) -> int:
    """How many marks a ready-made path has."""
    return len(made_marks(made))


def transformed_curve(curve: MadeCurve, pivot: Floats, matrix: Floats, shift: Floats, grow: float) -> MadeCurve:
    """p -> pivot + matrix (p - pivot) + shift; ``matrix`` is ``grow`` times a turn or a mirror image."""
    x, y = curve.axes[:2] @ matrix.T / grow
    z = np.cross(x, y)
    kinds = VALUES[curve.shape]
    values = {k: v * grow if kinds[k].kind == "length" else v for k, v in curve.values.items()}
    if np.linalg.det(matrix) < 0.0 and "pitch" in values:
        values["pitch"] = -values["pitch"]
    origin = pivot + matrix @ (curve.origin - pivot) + shift
    return replace(curve, values=values, origin=frozen(origin), axes=frozen(np.stack([x, y, z])))


def dragged(made: MadeCurve, mark: int, to: Floats) -> MadeCurve:
    """The ready-made path whose values, or direction, follow a drag of one of its marks to a place (3,) m.

    Raises PathError where a value would leave its range.
    """
    p, v = made.local(to), dict(made.values)
    out = float(np.hypot(p[0], p[1]))
    last = _mark_count(made) - 1
    match made.shape:
        case MadeShape.CIRCLE:
            v["radius"] = out
        case MadeShape.POLYGON:
            v["radius"] = out
            made = _turned(made, float(np.arctan2(p[1], p[0])) - 2.0 * pi * mark / round(v["sides"]))
        case MadeShape.ARC:
            made, v = _arc_dragged(made, v, mark, p)
        case MadeShape.SPIRAL:
            v["inner" if mark == 0 else "radius"] = out
            if mark:
                made = _turned(made, float(np.arctan2(p[1], p[0])) - _angle(made, mark))
        case MadeShape.HELIX:
            if mark == 0:
                v["top"], v["radius"] = (out, out) if v["top"] == v["radius"] else (v["top"], out)
            else:
                share = _angle_of_mark(made, mark) / (2.0 * pi)
                v["pitch"] = float(p[2]) / max(share, 1e-9)
        case MadeShape.COIL if made.spine is not None:
            foot = made.spine.axis_at(_angle_of_mark(made, mark) / (2.0 * pi * abs(v["turns"])))
            v["radius"] = float(np.linalg.norm(to - foot))
        case MadeShape.WAVE:
            if mark in (0, last):
                made, v = _wave_dragged(made, v, mark, to)
            else:
                v["height"] = float(p[1]) * (1.0 if mark % 2 else -1.0)
    return replace(made, values=checked_values(made.shape, v))


def _angle_of_mark(made: MadeCurve, mark: int) -> float:
    return float(_curve(made)[1][mark])


def _angle(made: MadeCurve, mark: int) -> float:
    q = made.local(made_marks(made)[mark])
    return float(np.arctan2(q[1], q[0]))


def _turned(made: MadeCurve, by: float) -> MadeCurve:
    """Turned about its own z."""
    c, s = np.cos(by), np.sin(by)
    x, y, z = made.axes
    return replace(made, axes=frozen(np.stack([c * x + s * y, c * y - s * x, z])))


def _arc_dragged(made: MadeCurve, v: dict[str, float], mark: int, p: Floats) -> tuple[MadeCurve, dict[str, float]]:
    """The middle sets the radius; an end moves round the centre, the other end stays."""
    if mark == 1:
        v["radius"] = float(np.hypot(p[0], p[1]))
        return made, v
    by = float(np.arctan2(p[1], p[0]))
    if mark == 0:
        wanted = v["turn"] - by
        v["turn"] = _near(wanted, v["turn"])
        return _turned(made, by), v
    v["turn"] = _near(by, v["turn"])
    return made, v


def _near(angle: float, to: float) -> float:
    """The angle, with so many full turns that it is nearest to another one, within a full turn."""
    best = angle + 2.0 * pi * round((to - angle) / (2.0 * pi))
    return float(np.clip(best, -2.0 * pi, 2.0 * pi))


def _wave_dragged(made: MadeCurve, v: dict[str, float], mark: int, to: Floats) -> tuple[MadeCurve, dict[str, float]]:
    """An end of a wave: its length and direction follow, the other end stays."""
    ends = made_marks(made)[[0, -1]]
    start, end = (to, ends[1]) if mark == 0 else (ends[0], to)
    offset = made.local(ends[1]) - made.local(ends[0])
    whole, skew = float(np.linalg.norm(end - start)), float(np.hypot(offset[1], 0.0))
    if whole <= skew + 1e-9:
        raise PathError("a wave is longer than it is high at its end")
    v["length"] = float(np.sqrt(whole * whole - skew * skew))
    chord = (end - start) / whole
    z = made.axes[2] - (made.axes[2] @ chord) * chord
    if np.linalg.norm(z) < 1e-6:
        z = made.axes[1] - (made.axes[1] @ chord) * chord
    z /= np.linalg.norm(z)
    across = np.cross(z, chord)
    lean = np.arctan2(offset[1], v["length"])
    x = np.cos(lean) * chord - np.sin(lean) * across
    return replace(made, origin=frozen(np.array(start)), axes=frozen(np.stack([x, np.cross(z, x), z]))), v


def across(normal: Vectors3) -> Floats:
    """Axes (3, 3) of a plane with a unit normal: x as level as can be, z the normal."""
    level = np.cross((0.0, 0.0, 1.0), normal)
    x = np.array((1.0, 0.0, 0.0)) if np.linalg.norm(level) < 1e-9 else level / np.linalg.norm(level)
    return frozen(np.stack([x, np.cross(normal, x), normal]))
