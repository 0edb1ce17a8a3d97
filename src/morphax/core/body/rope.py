"""Ropes and braids: bodies of strands along the path, each a tube of its own that touches its neighbours."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import acos, ceil, pi, sqrt

import numpy as np

from morphax.core.body.profile import Profile
from morphax.core.body.recipe import Density, End, Recipe
from morphax.core.body.rope_lay import Rope
from morphax.core.body.rope_tubes import TURN, Laid, Tube, laid, line_of, reach_at, squared, tubes_of, wound, yarns_of
from morphax.core.findings import Finding, Severity, in_mm, spot
from morphax.core.frame.frames import FrameField, Frames, carried_field, frames_at
from morphax.core.mesh.mesh import Mesh, empty_mesh, joined
from morphax.core.mesh.tubes import TubeRings, tube_mesh
from morphax.core.path.resolved import ResolvedPath
from morphax.core.types import Floats, Vectors3, frozen

_SHARE, _LEAST_SIDES, _MOST_SIDES, _HALVINGS = 1.0 / 150.0, 5, 256, 60
_ALMOST, _BRAIDED = 0.98, 0.04
"""Domes end in a small flat, so that no face is without area; braids are within so much of their strands' radius."""
_HALF = 0.5
"""Rings and sides have half of the deviation each: what both are off adds up."""
_TIGHT = 0.5
"""Where the inner side of a bend is shortened to less than this, strands are too thin to be a rope."""
_WHIP_LONG, _WHIP_THICK = 1.5, 0.06


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
    density = _within_budget(it, length, recipe.density.counted(len(path.chain.spans)))
    is_ring, sides = closed and not stretches, _sides(it, density)
    parts, places, found = list[Mesh](), list[Floats](), list[Finding]()
    for part in stretches or ((0.0, length),):
        s = _ring_places(it, length, density, part, is_ring=is_ring)
        places.append(s)
        frames = frames_at(field, 0, s % length if closed and not is_ring else np.clip(s, 0.0, length))
        square = np.zeros(len(s)) if is_ring else squared(it, s, (ends.start, ends.end))
        for tube in tubes_of(it, profile, frames, (s, square), length):
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


# -- how fine ---------------------------------------------------------------------------------------


def _deviation(it: Laid, density: Density) -> float:
    usual = _SHARE * 2.0 * it.reach
    if it.rope.weave != "laid":  # chords of strands that cross come near each other
        usual = min(usual, _BRAIDED * it.radius)
    return density.deviation or usual


def _sides(it: Laid, density: Density) -> int:
    """Sides of a strand: so many as are asked for, or as its deviation takes."""
    if density.sides is not None:
        return max(density.sides, 3)
    off = density.of_sides or _SHARE * 2.0 * it.reach
    share = 1.0 - min(_HALF * off / _thinnest(it), 0.5)
    return int(np.clip(ceil(pi / acos(share)), _LEAST_SIDES, _MOST_SIDES))


def _thinnest(it: Laid) -> float:
    """The radius of what a rope is made of: strands, or their yarns, m."""
    return it.radius if it.rope.yarns == 1 else yarns_of(it)[1]


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
    radius, pitch, rope, deviation = it.reach - it.radius, abs(it.pitch), it.rope, _HALF * deviation
    if rope.weave != "laid":  # strands go up and down faster than they swing or turn
        times = rope.strands if rope.weave == "flat" else 0.5 * rope.strands
        swing, lift = radius * (TURN / pitch) ** 2, it.radius * (times * TURN / pitch) ** 2
        return sqrt(8.0 * deviation / (swing + lift))
    if rope.yarns > 1:
        radius, pitch = it.radius, pitch / (1.0 + rope.yarn_lay)
    rate = TURN / pitch
    bend = radius * rate**2 / (1.0 + (radius * rate) ** 2)
    return sqrt(8.0 * deviation / bend) / sqrt(1.0 + (radius * rate) ** 2)


# -- bodies ----------------------------------------------------------------------------------------


def _tube(tube: Tube, sides: int, *, closed: bool, ends: tuple[End, End]) -> Mesh:
    """The mesh of a strand."""
    if not closed:
        for k, end in enumerate(ends):
            tube = _domed(tube, sides, is_start=k == 0) if end is End.DOMED else tube
    angle = np.arange(sides) * TURN / sides
    side = np.cross(tube.way, tube.out)
    ray = np.cos(angle)[None, :, None] * tube.out[:, None] + np.sin(angle)[None, :, None] * side[:, None]
    rise = (ray * tube.plane[:, None]).sum(2) / (tube.way * tube.plane).sum(1)[:, None]
    own = ray - rise[..., None] * tube.way[:, None]  # along the tube into the ring's plane
    points = tube.centre[:, None] + tube.radius[:, None, None] * own
    round_ = np.linspace(0.0, TURN, sides + 1) * float(tube.radius.max())
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
    turn = np.linspace(0.0, _ALMOST * 0.5 * pi, max(ceil(sides / 4), 2) + 1)
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
        none, (reach, _) = np.zeros(len(s)), reach_at(profile, s)
        line = line_of(profile, frames, s)
        tube = wound(line, (none, none), reach * (1.0 + _WHIP_THICK), (s, none, frames.forward))
        out.append(_tube(tube, sides, closed=False, ends=(End.FLAT, End.FLAT)))
    return out


def _tight(frames: Frames, s: Floats, profile: Profile) -> list[Finding]:
    """Bends that are too tight for a rope: the worst of them."""
    reach, _ = reach_at(profile, s)
    bend = np.linalg.norm(frames.curvature, axis=1)
    share = 1.0 - bend * reach
    k = int(share.argmin())
    if share[k] >= _TIGHT:
        return []
    free, at = 2.0 * (1.0 - _TIGHT) / float(bend[k]), float(s[k])
    said = f"The bend at {in_mm(at)} is too tight for this rope; one up to {in_mm(free)} wide could be laid there."
    return [Finding("rope-tight", Severity.WARNING, said, at=at, free_width=free, place=spot(frames.origin[k]))]
