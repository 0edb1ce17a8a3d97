"""The middles of a rope's or a braid's strands on a path, with their directions and radii: tubes that are not meshed
yet."""

from dataclasses import dataclass

import numpy as np

from morphax.core.body.braids import braid_offsets, braid_radius
from morphax.core.body.profile import Profile
from morphax.core.body.recipe import End
from morphax.core.body.rope_lay import Rope, nearest, strand_radius, thinned
from morphax.core.frame.frames import Frames
from morphax.core.types import Floats, Points3, Vectors3

TURN = 2.0 * np.pi
_NARROWEST, _FRAYS_OVER, _SQUARES_OVER = 0.05, 1.0, 4.0
"""Strands in bends keep so much of their radius; they spread over so many lay lengths before an end, and their rings
turn into its plane over so many radii."""


@dataclass(frozen=True, eq=False)
class Laid:
    """What a rope comes to on its path: ``pitch`` m a turn with its sign, ``turns`` in all, and the ``radius`` of a
    strand, m, in a rope of the radius ``reach``."""

    rope: Rope
    pitch: float
    turns: float
    reach: float
    radius: float

    @property
    def tubes(self) -> int:
        """How many strands, or yarns, there are with the core."""
        return self.rope.strands * self.rope.yarns + self.rope.has_core


def laid(rope: Rope, length: float, reach: float, *, closed: bool) -> Laid:
    """A rope of a radius on a path of a length, m; on a closed path it makes whole turns."""
    turns = length / (rope.lay or rope.usual_lay * 2.0 * reach) if rope.turns is None else rope.turns
    turns = max(float(round(turns)), 1.0) if closed else turns
    pitch = length / turns
    sign = 1.0 if rope.left else -1.0  # right and up turn left-handed round the way on
    if rope.weave == "laid":
        radius = strand_radius(reach, pitch, rope.strands)
    else:
        radius = braid_radius(rope.weave, rope.strands, reach, pitch)
    return Laid(rope, sign * pitch, turns, reach, radius)


@dataclass(frozen=True, eq=False)
class Tube:
    """A strand or yarn: ``centre`` (m, 3), unit ``way`` and ``out`` (m, 3) square to it, ``radius`` (m,), m; ``plane``
    (m, 3) what its rings lie square to: the way, at flat ends the rope's; ``along`` (m,) its own length; ``lean`` (m,)
    how much longer it is than the rope."""

    centre: Points3
    way: Vectors3
    out: Vectors3
    radius: Floats
    plane: Vectors3
    along: Floats
    lean: Floats


def reach_at(profile: Profile, s: Floats) -> tuple[Floats, Floats]:
    """The rope's radius at distances and how it is rolled there, m and rad."""
    rows = profile.laws.at(s)
    return 0.5 * profile.first_width / profile.laws.size * rows.size, rows.roll


def line_of(profile: Profile, frames: Frames, s: Floats) -> "Line":
    """The middle of the rope: beside the path where its anchor is no centre, or laws shift it."""
    rows, points = profile.laws.at(s), profile.basis[0].points
    own = 0.5 * (points.min(0) + points.max(0))
    cos, sin = np.cos(rows.roll), np.sin(rows.roll)
    beside = rows.size[:, None] * np.stack([own[0] * cos - own[1] * sin, own[0] * sin + own[1] * cos], axis=1)
    beside = beside if rows.offset is None else beside + rows.offset
    off = beside[:, :1] * frames.right + beside[:, 1:] * frames.up
    return Line(frames.origin + off, frames.right, frames.up, frames.forward, frames.curvature, off)


def squared(it: Laid, s: Floats, ends: tuple[End, End]) -> Floats:
    """How far rings are turned from their strands' ways into the rope's own plane, 0 to 1: at flat ends wholly."""
    out, over = np.zeros(len(s)), _SQUARES_OVER * it.radius
    for end, far in ((ends[0], s - s[0]), (ends[1], s[-1] - s)):
        if end is not End.DOMED:
            share = np.clip(1.0 - far / over, 0.0, 1.0)
            out = np.maximum(out, share * share * (3.0 - 2.0 * share))
    return out


def tubes_of(it: Laid, profile: Profile, frames: Frames, at: tuple[Floats, Floats], length: float) -> list[Tube]:
    """All strands, or their yarns, and the core. ``at``: distances, m, and how far rings are turned there."""
    s, square = at
    reach, roll = reach_at(profile, s)
    scale, bend = reach / it.reach, np.linalg.norm(frames.curvature, axis=1)
    ring, line = (it.reach - it.radius) * scale, line_of(profile, frames, s)
    across = (s, square, frames.forward)
    if it.rope.weave == "laid":
        thin = _thin(it, scale, bend)
        spread = ring * _frayed(it, s, length)
        angles = [TURN * (s / it.pitch + k / it.rope.strands) + roll for k in range(it.rope.strands)]
        strands = [wound(line, (spread, angle), it.radius * scale * thin, across) for angle in angles]
        core = np.maximum(ring - it.radius * scale, 0.0) * thin
    else:
        thin = np.clip(1.0 - bend * reach, _NARROWEST, 1.0)
        strands = _braided(it, line, (scale, roll, _frayed(it, s, length)), it.radius * scale * thin, across)
        core = np.maximum(it.reach - 4.0 * it.radius, 0.0) * scale * thin
    out: list[Tube] = []
    for strand in strands:
        out += [strand] if it.rope.yarns == 1 else _laid_yarns(it, strand, at, (scale * thin, frames.forward))
    if it.rope.has_core and core.max() > 0.0:
        out.append(wound(line, (np.zeros(len(s)), roll), core, across))
    return out


def _thin(it: Laid, scale: Floats, bend: Floats) -> Floats:
    """What the strands' radii are multiplied by, in bends and where the rope's size varies: so they don't meet."""
    ring = (it.reach - it.radius) * scale
    thin = thinned(it.reach, abs(it.pitch), it.rope.strands, 1.0 - bend * ring)
    if np.ptp(scale) > 0.0:  # its lay stays where it grows thinner or thicker
        own = 0.5 * nearest(ring, np.full(len(scale), abs(it.pitch)), it.rope.strands)
        thin = thin * np.minimum(own / (it.radius * scale), 1.0)
    return thin


def _braided(
    it: Laid,
    line: "Line",
    sizes: tuple[Floats, Floats, Floats],
    radius: Floats,
    at: tuple[Floats, Floats, Vectors3],
) -> list["Tube"]:
    """The strands of a braid: scaled, rolled and spread by ``sizes``."""
    (scale, roll, spread), s = sizes, at[0]
    cos, sin = np.cos(roll), np.sin(roll)
    out = []
    for x, y in braid_offsets(it.rope.weave, it.rope.strands, (it.reach, it.radius), TURN * s / it.pitch):
        far = scale * spread
        out.append(_woven(line, (far * (x * cos - y * sin), far * (x * sin + y * cos)), radius, at))
    return out


@dataclass(frozen=True, eq=False)
class Line:
    """What tubes are wound round: places with two directions across and one along, (m, 3) each; where that is known,
    how the path bends, 1/m, and how far ``off`` it the places are."""

    origin: Points3
    right: Vectors3
    up: Vectors3
    way: Vectors3
    curvature: Vectors3 | None = None
    off: Vectors3 | float = 0.0


def _woven(line: Line, off: tuple[Floats, Floats], radius: Floats, at: tuple[Floats, Floats, Vectors3]) -> Tube:
    """A tube so far right and up of a line."""
    (x, y), s = off, at[0]
    beside = x[:, None] * line.right + y[:, None] * line.up
    if line.curvature is None or len(s) < 3:
        way = _differences(line.origin + beside, s)
    else:
        ahead = 1.0 - (line.curvature * (line.off + beside)).sum(1)
        rates = np.gradient(x, s, edge_order=2), np.gradient(y, s, edge_order=2)
        way = ahead[:, None] * line.way + rates[0][:, None] * line.right + rates[1][:, None] * line.up
    return _along_way(line.origin + beside, way, line.up, radius, at)


def wound(line: Line, polar: tuple[Floats, Floats], radius: Floats, at: tuple[Floats, Floats, Vectors3]) -> Tube:
    """A tube round a line, at a distance and an angle from its right towards its up. ``at``: the distances, how far
    rings are turned into the planes across the rope's ``forward``, and those."""
    (far, angle), s = polar, at[0]
    cos, sin = np.cos(angle)[:, None], np.sin(angle)[:, None]
    ray, side = cos * line.right + sin * line.up, cos * line.up - sin * line.right
    centre = line.origin + far[:, None] * ray
    if line.curvature is None or len(s) < 3:
        way = _differences(centre, s)
    else:  # carried frames turn along the path alone
        rate, spread = np.gradient(angle, s), np.gradient(far, s)
        ahead = 1.0 - (line.curvature * (line.off + far[:, None] * ray)).sum(1)
        way = ahead[:, None] * line.way + spread[:, None] * ray + (far * rate)[:, None] * side
    return _along_way(centre, way, ray, radius, at)


def _along_way(
    centre: Points3, way: Vectors3, ray: Vectors3, radius: Floats, at: tuple[Floats, Floats, Vectors3]
) -> Tube:
    """A tube through places along its way, which begins its rings towards a ``ray``."""
    _, square, forward = at
    way = way / np.linalg.norm(way, axis=1)[:, None]
    out = ray - (ray * way).sum(1)[:, None] * way
    out = out / np.linalg.norm(out, axis=1)[:, None]
    plane = way + square[:, None] * (forward - way)
    step = np.linalg.norm(np.diff(centre, axis=0), axis=1)
    lean = 1.0 / np.maximum((way * forward).sum(1), 0.1)
    return Tube(centre, way, out, radius, plane, np.concatenate([[0.0], np.cumsum(step)]), lean)


def _differences(centre: Points3, s: Floats) -> Vectors3:
    """Directions of a curve through places, by differences of second order."""
    if len(s) < 3:
        return np.repeat((centre[-1] - centre[0])[None], len(s), axis=0)
    out: Vectors3 = np.gradient(centre, s, axis=0, edge_order=2)
    return out


def yarns_of(it: Laid) -> tuple[float, float]:
    """How far yarns' middles are from their strand's, and their radius, m."""
    pitch = abs(it.pitch) / it.rope.yarn_lay
    radius = strand_radius(it.radius, pitch, it.rope.yarns)
    return it.radius - radius, radius


def _laid_yarns(it: Laid, strand: Tube, at: tuple[Floats, Floats], of: tuple[Floats, Vectors3]) -> list[Tube]:
    """The yarns of a strand, laid the other way; ``of``: what they are scaled by, and the rope's forward."""
    (far, radius), (s, square), (scale, forward) = yarns_of(it), at, of
    line = Line(strand.centre, strand.out, np.cross(strand.way, strand.out), strand.way)
    out = []
    for k in range(it.rope.yarns):
        angle = TURN * (it.rope.yarn_lay * s / it.pitch + k / it.rope.yarns)
        out.append(wound(line, (far * scale, angle), radius * scale, (s, square, forward)))
    return out


def _frayed(it: Laid, s: Floats, length: float) -> Floats:
    """How far strands spread at distances, as a factor: smoothly, over a lay length before an end."""
    out, over = np.ones(len(s)), _FRAYS_OVER * abs(it.pitch)
    for fray, far in ((it.rope.fray_start, s), (it.rope.fray_end, length - s)):
        share = np.clip(1.0 - far / over, 0.0, 1.0)
        out += (fray - 1.0) * share * share * (3.0 - 2.0 * share)
    return out
