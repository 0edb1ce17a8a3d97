"""Places on the skin of a run's body, said by where along its path they are and which way round it."""

from dataclasses import dataclass

import numpy as np

from morphax.core.body.profile import StepSide
from morphax.core.body.profiles import Carries, carries
from morphax.core.body.recipe import Density, PlainRecipe, Recipe
from morphax.core.body.reference import Reference, own_path, own_recipe
from morphax.core.body.sweep import PLAIN, frame_stage, profile_stage
from morphax.core.frame.frames import Frames, frames_at
from morphax.core.path.resolved import ResolvedPath, nearest_along
from morphax.core.section.sampling import SampledSection, section_width
from morphax.core.section.sections import SectionShape
from morphax.core.types import Floats, Points3, Vectors3

_FINE = 1e-5
"""The outline is followed to this share of its width."""
_SIDES, _ROUND = 128, 1e-4
"""An outline of so many points that are equally far from its middle to this share is a round, and is met exactly."""


@dataclass(frozen=True)
class BodySpot:
    """``share`` of the path's length, and ``around`` rad from right towards up, both as the run sees them: a run that
    is walked from its end, or is a mirror image, keeps its spots. ``behind``: how many sides of the outline lie farther
    out on that way: more than none inside a channel or a gutter."""

    share: float
    around: float
    behind: int = 0


def spot_near(
    path: ResolvedPath,
    section: SectionShape | Carries,
    recipe: Recipe,
    place: Points3,
    reference: Reference = PLAIN,
    facing: Vectors3 | None = None,
) -> BodySpot:
    """Where on a run's body a place (3,) m lies: beside the nearest place of its path. Of two sides in that place, as a
    strip has, it is the one that looks the way of ``facing`` (3,)."""
    s, _ = nearest_along(path, place)
    s = path.length - s if reference.from_end else s
    fr, ring, middle = _ring(path, section, recipe, s, reference)
    off = np.asarray(place) @ reference.world - fr.origin[0]
    x, y = float(off @ fr.right[0]) - middle[0], float(off @ fr.up[0]) - middle[1]
    around = float(np.arctan2(y, x))
    far, normals = _met(ring, middle, np.array([np.cos(around), np.sin(around)]))
    if not len(far):
        return BodySpot(s / path.length, around)
    off = np.abs(far - np.hypot(x, y))
    there = off <= off.min() + _ROUND * float(np.hypot(*np.ptp(ring, axis=0)))
    way = np.zeros(3) if facing is None else np.asarray(facing) @ reference.world
    looks = normals @ np.array([float(way @ fr.right[0]), float(way @ fr.up[0])])
    return BodySpot(s / path.length, around, int(np.argmax(np.where(there, looks, -np.inf))))


def spot_place(
    path: ResolvedPath, section: SectionShape | Carries, recipe: Recipe, spot: BodySpot, reference: Reference = PLAIN
) -> tuple[Points3, Vectors3]:
    """The place (3,) m of a spot on a run's body, and the unit normal (3,) there, in the world.

    It is where a line from the middle of the section meets the outline, counted from outside; where it meets none (an
    open side), the nearest point of the outline.
    """
    fr, ring, middle = _ring(path, section, recipe, spot.share * path.length, reference)
    way = np.array([np.cos(spot.around), np.sin(spot.around)])
    off = np.hypot(*(ring - middle).T)
    if len(ring) >= _SIDES and np.ptp(off) <= _ROUND * off.max():
        xy, normal = middle + float(off.max()) * way, way
    else:
        xy, normal = _met_at(ring, middle, way, spot.behind)
    right, up = fr.right[0] @ reference.world.T, fr.up[0] @ reference.world.T
    origin = fr.origin[0] @ reference.world.T
    return origin + xy[0] * right + xy[1] * up, normal[0] * right + normal[1] * up


def _ring(
    path: ResolvedPath, section: SectionShape | Carries, recipe: Recipe, s: float, reference: Reference
) -> tuple[Frames, Floats, Floats]:
    """The run's frame at a distance of its path, the outermost outline (n, 2) there, and its middle (2,)."""
    own = own_path(path, reference)
    turned = own_recipe(recipe, reference)
    fine = Density(deviation=_FINE * max(section_width(carries(section).section) * recipe.size, 1e-9))
    plain = PlainRecipe(turned.size, turned.placing, turned.corner, turned.ends, fine)
    profile = profile_stage(own, section, plain)
    field = frame_stage(own, profile, plain.placing)
    ends = np.array([leg.s[-1] for leg in field.legs])
    if own.chain.closed and s < float(field.legs[0].s[0]):  # a closed path's first leg begins at its first corner
        s += own.length
    leg = min(int(np.searchsorted(ends, s)), len(ends) - 1)
    fr = frames_at(field, leg, np.clip([s], field.legs[leg].s[0], ends[leg]))
    ring = _outer(profile.outline_at(s, StepSide.AFTER))
    return fr, ring, 0.5 * (ring.min(0) + ring.max(0))


def _outer(outline: SampledSection) -> Floats:
    """The widest loop's points (n, 2), counter-clockwise; a ribbon's there and back, as its two sides."""
    loops = zip(outline.loop_slices, outline.opens, strict=True)
    widest, ends = max(((outline.points[sl], e) for sl, e in loops), key=lambda p: float(np.ptp(p[0], axis=0).sum()))
    if ends:
        return np.concatenate([widest, widest[-2:0:-1]])
    onward = np.roll(widest, -1, axis=0)
    area = float((widest[:, 0] * onward[:, 1] - onward[:, 0] * widest[:, 1]).sum())
    return widest if area >= 0.0 else widest[::-1]


def _met(ring: Floats, middle: Floats, way: Floats) -> tuple[Floats, Floats]:
    """How far (k,) from the middle a ray meets an outline, from outside in, and the outline's normals (k, 2) there."""
    a, side = ring - middle, np.roll(ring, -1, axis=0) - ring
    across = side[:, 0] * way[1] - side[:, 1] * way[0]
    with np.errstate(divide="ignore", invalid="ignore"):
        far = (side[:, 0] * a[:, 1] - side[:, 1] * a[:, 0]) / across
        share = (way[0] * a[:, 1] - way[1] * a[:, 0]) / across
    met = np.flatnonzero((across != 0.0) & (share >= -1e-12) & (share < 1.0 - 1e-12) & (far > 0.0))
    out = np.stack([side[met, 1], -side[met, 0]], axis=1) / np.hypot(*side[met].T)[:, None]
    order = np.lexsort((-out @ way, -far[met]))  # of a ribbon's two sides in one place the outer one first
    return far[met][order], out[order]


def _met_at(ring: Floats, middle: Floats, way: Floats, behind: int) -> tuple[Floats, Floats]:
    """Where a ray meets an outline for the last time but ``behind``, and the outline's normal there."""
    far, normals = _met(ring, middle, way)
    if not len(far):
        return ring[int(np.argmax((ring - middle) @ way))], way
    k = min(behind, len(far) - 1)
    return middle + float(far[k]) * way, normals[k]
