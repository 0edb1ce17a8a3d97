"""Ropes: bodies of strands laid round the path, each a tube of its own that touches its neighbours."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import acos, ceil, pi, sqrt

import numpy as np

from morphax.core.body.profile import Profile
from morphax.core.body.recipe import Density, End, Recipe
from morphax.core.body.rope_lay import USUAL_LAY, Rope, nearest, strand_radius, thinned
from morphax.core.findings import Finding, Severity, in_mm, spot
from morphax.core.frame.frames import FrameField, Frames, carried_field, frames_at
from morphax.core.mesh.mesh import Mesh, empty_mesh, joined
from morphax.core.mesh.tubes import TubeRings, tube_mesh
from morphax.core.path.resolved import ResolvedPath
from morphax.core.types import Floats, Points3, Vectors3, frozen

_TURN = 2.0 * pi
_SHARE, _LEAST_SIDES, _MOST_SIDES, _HALVINGS = 1.0 / 150.0, 5, 256, 60
_FRAYS_OVER, _SQUARES_OVER, _ALMOST = 1.0, 4.0, 0.98
"""Strands spread over so many lay lengths before an end, and their rings turn into its plane over so many radii; domes
end in a small flat, so that no face is without area."""
_TIGHT = 0.5
"""Where the inner side of a bend is shortened to less than this, strands are too thin to be a rope."""
_WHIP_LONG, _WHIP_THICK = 1.5, 0.06


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
    turns = length / (rope.lay or USUAL_LAY * 2.0 * reach) if rope.turns is None else rope.turns
    turns = max(float(round(turns)), 1.0) if closed else turns
    pitch = length / turns
    sign = 1.0 if rope.left else -1.0  # right and up turn left-handed round the way on
    return Laid(rope, sign * pitch, turns, reach, strand_radius(reach, pitch, rope.strands))


@dataclass(frozen=True, eq=False)
class RopeBody:
    """A rope's ``mesh``, the ``places`` of its rings, m, how many ``sides`` each strand has, and what is said."""

    mesh: Mesh
    places: Floats
    sides: int
    findings: tuple[Finding, ...]


def rope_body(
    path: ResolvedPath, profile: Profile, recipe: Recipe, stretches: Sequence[tuple[float, float]]
) -> RopeBody:
    """The body of a rope on all of its path, or on stretches of it, m."""
    rope, ends, closed, length = recipe.rope or Rope(), recipe.ends, path.chain.closed, path.length
    if (path.sharp[:-1] if closed else path.sharp[1:-1]).any():
        said = "A rope can't turn sharp corners: round them (R), or make them smooth (B)."
        return RopeBody(empty_mesh(), frozen(np.empty(0)), 0, (Finding("rope-corners", Severity.ERROR, said),))
    field = carried_field(path.table, path.legs, closed=closed)
    it = laid(rope, length, 0.5 * profile.first_width, closed=closed)
    density = _within_budget(it, length, recipe.density)
    is_ring, sides = closed and not stretches, _sides(it, density)
    parts, places, found = list[Mesh](), list[Floats](), list[Finding]()
    for part in stretches or ((0.0, length),):
        s = _ring_places(it, length, density, part, is_ring=is_ring)
        places.append(s)
        frames = frames_at(field, 0, s % length if closed and not is_ring else np.clip(s, 0.0, length))
        square = np.zeros(len(s)) if is_ring else _square(it, s, (ends.start, ends.end))
        for tube in _tubes(it, profile, frames, (s, square), length):
            parts.append(_tube(tube, sides, closed=is_ring, ends=(ends.start, ends.end)))
        if rope.whipped and not is_ring:
            parts += _whippings(it, profile, field, part, 2 * sides)
        found += _tight(frames, s, profile)
    others = {ends.start, ends.end} - {End.OPEN, End.FLAT, End.DOMED}
    if others and not closed:
        said = f"The strands of a rope end flat, open or domed; {' and '.join(sorted(others))} is flat here."
        found.append(Finding("rope-ends", Severity.NOTE, said))
    if profile.laws.at(np.linspace(0.0, length, 9)).stretch is not None:
        said = "Widths and heights that vary along it don't change a rope; sizes do."
        found.append(Finding("rope-stretch", Severity.NOTE, said))
    return RopeBody(joined(parts), frozen(np.concatenate(places)), sides, tuple(found))


# -- how fine --------------------------------------------------------------------------------------


def _deviation(it: Laid, density: Density) -> float:
    return density.deviation or _SHARE * 2.0 * it.reach


def _sides(it: Laid, density: Density) -> int:
    """Sides of a strand: so many as are asked for, or as its deviation takes."""
    if density.sides is not None:
        return max(density.sides, 3)
    off = density.of_sides or _SHARE * 2.0 * it.reach
    share = 1.0 - min(off / _thinnest(it), 0.5)
    return int(np.clip(ceil(pi / acos(share)), _LEAST_SIDES, _MOST_SIDES))


def _thinnest(it: Laid) -> float:
    """The radius of what a rope is made of: strands, or their yarns, m."""
    return it.radius if it.rope.yarns == 1 else _yarns(it)[1]


def _within_budget(it: Laid, length: float, density: Density) -> Density:
    """The finest deviation with which a rope has at most so many faces, in the place of a budget."""
    if density.budget is None:
        return density
    whole = 2.0 * it.reach

    def faces(deviation: float) -> int:
        wish = Density(deviation=deviation)
        sides = _sides(it, wish)
        return it.tubes * (ceil(length / _step(it, deviation)) * sides + 2 * (sides - 2))

    low, high = 1e-9 * whole, whole
    for _ in range(_HALVINGS):
        middle = sqrt(low * high)
        low, high = (low, middle) if faces(middle) <= density.budget else (middle, high)
    return Density(deviation=high)


def _ring_places(it: Laid, length: float, density: Density, part: tuple[float, float], *, is_ring: bool) -> Floats:
    """Distances of the rings of a stretch, m: evenly, as is asked for."""
    a, b = part
    long = b - a
    if density.rings is not None:
        count = max(round((density.rings - 1) * long / length), 1)
    elif density.spacing is not None:
        count = max(round(long / density.spacing), 1)
    else:
        count = ceil(long / _step(it, _deviation(it, density)))
    count = max(count, 3 if is_ring else 1)
    s = np.linspace(a, b, count + 1)
    return s[:-1] if is_ring else s


def _step(it: Laid, deviation: float) -> float:
    """How far apart rings are, m along the path, so that chords of the outermost helix are within a deviation."""
    radius, pitch = it.reach - it.radius, abs(it.pitch)
    if it.rope.yarns > 1:
        radius, pitch = it.radius, pitch / (1.0 + it.rope.yarn_lay)
    rate = _TURN / pitch
    bend = radius * rate**2 / (1.0 + (radius * rate) ** 2)
    return sqrt(8.0 * deviation / bend) / sqrt(1.0 + (radius * rate) ** 2)


# -- centre lines ----------------------------------------------------------------------------------


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


def _reach(profile: Profile, s: Floats) -> tuple[Floats, Floats]:
    """The rope's radius at distances and how it is rolled there, m and rad."""
    rows = profile.laws.at(s)
    return 0.5 * profile.first_width / profile.laws.size * rows.size, rows.roll


def _line(profile: Profile, frames: Frames, s: Floats) -> "_Line":
    """The middle of the rope: beside the path where its anchor is no centre, or laws shift it."""
    rows, points = profile.laws.at(s), profile.basis[0].points
    own = 0.5 * (points.min(0) + points.max(0))
    cos, sin = np.cos(rows.roll), np.sin(rows.roll)
    beside = rows.size[:, None] * np.stack([own[0] * cos - own[1] * sin, own[0] * sin + own[1] * cos], axis=1)
    beside = beside if rows.offset is None else beside + rows.offset
    off = beside[:, :1] * frames.right + beside[:, 1:] * frames.up
    return _Line(frames.origin + off, frames.right, frames.up, frames.forward, frames.curvature, off)


def _square(it: Laid, s: Floats, ends: tuple[End, End]) -> Floats:
    """How far rings are turned from their strands' ways into the rope's own plane, 0 to 1: at flat ends wholly."""
    out, over = np.zeros(len(s)), _SQUARES_OVER * it.radius
    for end, far in ((ends[0], s - s[0]), (ends[1], s[-1] - s)):
        if end is not End.DOMED:
            share = np.clip(1.0 - far / over, 0.0, 1.0)
            out = np.maximum(out, share * share * (3.0 - 2.0 * share))
    return out


def _tubes(it: Laid, profile: Profile, frames: Frames, at: tuple[Floats, Floats], length: float) -> list[Tube]:
    """All strands, or their yarns, and the core. ``at``: distances, m, and how far rings are turned there."""
    s, square = at
    reach, roll = _reach(profile, s)
    scale = reach / it.reach
    bend = np.linalg.norm(frames.curvature, axis=1)
    ring = (it.reach - it.radius) * scale
    thin = thinned(it.reach, abs(it.pitch), it.rope.strands, 1.0 - bend * ring)
    if np.ptp(scale) > 0.0:  # its lay stays where it grows thinner or thicker
        own = 0.5 * nearest(ring, np.full(len(s), abs(it.pitch)), it.rope.strands)
        thin = thin * np.minimum(own / (it.radius * scale), 1.0)
    line = _line(profile, frames, s)
    spread = ring * _frayed(it, s, length)
    out: list[Tube] = []
    for k in range(it.rope.strands):
        angle = _TURN * (s / it.pitch + k / it.rope.strands) + roll
        strand = _wound(line, (spread, angle), it.radius * scale * thin, (s, square, frames.forward))
        out += [strand] if it.rope.yarns == 1 else _of_yarns(it, strand, at, (scale * thin, frames.forward))
    if it.rope.has_core:
        radius = np.maximum(ring - it.radius * scale, 0.0) * thin
        out.append(_wound(line, (np.zeros(len(s)), roll), radius, (s, square, frames.forward)))
    return out


@dataclass(frozen=True, eq=False)
class _Line:
    """What tubes are wound round: places with two directions across and one along, (m, 3) each; where that is known,
    how the path bends, 1/m, and how far ``off`` it the places are."""

    origin: Points3
    right: Vectors3
    up: Vectors3
    way: Vectors3
    curvature: Vectors3 | None = None
    off: Vectors3 | float = 0.0


def _wound(line: _Line, polar: tuple[Floats, Floats], radius: Floats, at: tuple[Floats, Floats, Vectors3]) -> Tube:
    """A tube round a line, at a distance and an angle from its right towards its up. ``at``: the distances, how far
    rings are turned into the planes across the rope's ``forward``, and those."""
    (far, angle), (s, square, forward) = polar, at
    cos, sin = np.cos(angle)[:, None], np.sin(angle)[:, None]
    ray, side = cos * line.right + sin * line.up, cos * line.up - sin * line.right
    centre = line.origin + far[:, None] * ray
    if line.curvature is None or len(s) < 3:
        way = _differences(centre, s)
    else:  # carried frames turn along the path alone
        rate, spread = np.gradient(angle, s), np.gradient(far, s)
        ahead = 1.0 - (line.curvature * (line.off + far[:, None] * ray)).sum(1)
        way = ahead[:, None] * line.way + spread[:, None] * ray + (far * rate)[:, None] * side
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


def _yarns(it: Laid) -> tuple[float, float]:
    """How far yarns' middles are from their strand's, and their radius, m."""
    pitch = abs(it.pitch) / it.rope.yarn_lay
    radius = strand_radius(it.radius, pitch, it.rope.yarns)
    return it.radius - radius, radius


def _of_yarns(it: Laid, strand: Tube, at: tuple[Floats, Floats], of: tuple[Floats, Vectors3]) -> list[Tube]:
    """The yarns of a strand, laid the other way; ``of``: what they are scaled by, and the rope's forward."""
    (far, radius), (s, square), (scale, forward) = _yarns(it), at, of
    line = _Line(strand.centre, strand.out, np.cross(strand.way, strand.out), strand.way)
    out = []
    for k in range(it.rope.yarns):
        angle = _TURN * (it.rope.yarn_lay * s / it.pitch + k / it.rope.yarns)
        out.append(_wound(line, (far * scale, angle), radius * scale, (s, square, forward)))
    return out


def _frayed(it: Laid, s: Floats, length: float) -> Floats:
    """How far strands spread at distances, as a factor: smoothly, over a lay length before an end."""
    out, over = np.ones(len(s)), _FRAYS_OVER * abs(it.pitch)
    for fray, far in ((it.rope.fray_start, s), (it.rope.fray_end, length - s)):
        share = np.clip(1.0 - far / over, 0.0, 1.0)
        out += (fray - 1.0) * share * share * (3.0 - 2.0 * share)
    return out


# -- bodies ----------------------------------------------------------------------------------------


def _tube(tube: Tube, sides: int, *, closed: bool, ends: tuple[End, End]) -> Mesh:
    """The mesh of a strand."""
    if not closed:
        for k, end in enumerate(ends):
            tube = _domed(tube, sides, is_start=k == 0) if end is End.DOMED else tube
    angle = np.arange(sides) * _TURN / sides
    side = np.cross(tube.way, tube.out)
    ray = np.cos(angle)[None, :, None] * tube.out[:, None] + np.sin(angle)[None, :, None] * side[:, None]
    rise = (ray * tube.plane[:, None]).sum(2) / (tube.way * tube.plane).sum(1)[:, None]
    own = ray - rise[..., None] * tube.way[:, None]  # along the tube into the ring's plane
    points = tube.centre[:, None] + tube.radius[:, None, None] * own
    round_ = np.linspace(0.0, _TURN, sides + 1) * float(tube.radius.max())
    return tube_mesh(
        TubeRings(points, ray, tube.along, round_),
        closed=closed,
        capped=(ends[0] is not End.OPEN, ends[1] is not End.OPEN),
    )


def _domed(tube: Tube, sides: int, *, is_start: bool) -> Tube:
    """A strand that ends in half a ball within its length."""
    k, sign, along = (0, -1.0, tube.along) if is_start else (-1, 1.0, tube.along)
    radius = float(tube.radius[k])
    back = radius * float(tube.lean[k])
    edge = along[0] + back if is_start else along[-1] - back
    stays = along > edge if is_start else along < edge
    if stays.sum() < 2:
        return tube
    turn = np.linspace(0.0, _ALMOST * 0.5 * pi, max(sides // 4, 2) + 1)
    centre, way, out = (_at(along, getattr(tube, name), edge) for name in ("centre", "way", "out"))
    way, out = way / np.linalg.norm(way), out / np.linalg.norm(out)
    ways, n = np.repeat(way[None], len(turn), axis=0), len(turn)
    more = Tube(
        centre + sign * radius * np.sin(turn)[:, None] * way,
        ways,
        np.repeat(out[None], n, axis=0),
        radius * np.cos(turn),
        ways,
        edge + sign * radius * np.sin(turn),
        np.ones(n),
    )
    names = ("centre", "way", "out", "radius", "plane", "along", "lean")
    kept = {v: getattr(tube, v)[stays] for v in names}
    both = [(getattr(more, v)[::-1], kept[v]) if is_start else (kept[v], getattr(more, v)) for v in names]
    return Tube(*(np.concatenate(pair) for pair in both))


def _at(along: Floats, values: Vectors3, at: float) -> Vectors3:
    return np.array([np.interp(at, along, values[:, i]) for i in range(3)])


def _whippings(it: Laid, profile: Profile, field: FrameField, part: tuple[float, float], sides: int) -> list[Mesh]:
    """Sleeves round both ends of a stretch, as thick as thread is."""
    a, b = part
    long, out = min(_WHIP_LONG * 2.0 * it.reach, 0.5 * (b - a)), list[Mesh]()
    for s in (np.linspace(a, a + long, 9), np.linspace(b - long, b, 9)):
        frames = frames_at(field, 0, np.clip(s, 0.0, float(field.legs[0].s[-1])))
        none, (reach, _) = np.zeros(len(s)), _reach(profile, s)
        line = _line(profile, frames, s)
        tube = _wound(line, (none, none), reach * (1.0 + _WHIP_THICK), (s, none, frames.forward))
        out.append(_tube(tube, sides, closed=False, ends=(End.FLAT, End.FLAT)))
    return out


def _tight(frames: Frames, s: Floats, profile: Profile) -> list[Finding]:
    """Bends that are too tight for a rope: the worst of them."""
    reach, _ = _reach(profile, s)
    bend = np.linalg.norm(frames.curvature, axis=1)
    share = 1.0 - bend * reach
    k = int(share.argmin())
    if share[k] >= _TIGHT:
        return []
    free, at = 2.0 * (1.0 - _TIGHT) / float(bend[k]), float(s[k])
    said = f"The bend at {in_mm(at)} is too tight for this rope; one up to {in_mm(free)} wide could be laid there."
    return [Finding("rope-tight", Severity.WARNING, said, at=at, free_width=free, place=spot(frames.origin[k]))]
