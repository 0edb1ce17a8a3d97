"""Places on the skin of a run's body, said by where along its path they are and which way round it."""

from dataclasses import dataclass

import numpy as np

from morphax.core.body.profile import StepSide
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
    is walked from its end, or is a mirror image, keeps its spots."""

    share: float
    around: float


def spot_near(
    path: ResolvedPath, section: SectionShape, recipe: Recipe, place: Points3, reference: Reference = PLAIN
) -> BodySpot:
    """Where on a run's body a place (3,) m lies: beside the nearest place of its path."""
    s, _ = nearest_along(path, place)
    s = path.length - s if reference.from_end else s
    fr, _, middle = _ring(path, section, recipe, s, reference)
    off = np.asarray(place) @ reference.world - fr.origin[0]
    x, y = float(off @ fr.right[0]) - middle[0], float(off @ fr.up[0]) - middle[1]
    return BodySpot(s / path.length, float(np.arctan2(y, x)))


def spot_place(
    path: ResolvedPath, section: SectionShape, recipe: Recipe, spot: BodySpot, reference: Reference = PLAIN
) -> tuple[Points3, Vectors3]:
    """The place (3,) m of a spot on a run's body, and the unit normal (3,) there, in the world.

    It is where a line from the middle of the section leaves the outline for the last time; where it meets none (an open
    side), the nearest point of the outline.
    """
    fr, ring, middle = _ring(path, section, recipe, spot.share * path.length, reference)
    way = np.array([np.cos(spot.around), np.sin(spot.around)])
    far = np.hypot(*(ring - middle).T)
    if len(ring) >= _SIDES and np.ptp(far) <= _ROUND * far.max():
        xy, normal = middle + float(far.max()) * way, way
    else:
        xy, normal = _left_at(ring, middle, way)
    right, up = fr.right[0] @ reference.world.T, fr.up[0] @ reference.world.T
    origin = fr.origin[0] @ reference.world.T
    return origin + xy[0] * right + xy[1] * up, normal[0] * right + normal[1] * up


def _ring(
    path: ResolvedPath, section: SectionShape, recipe: Recipe, s: float, reference: Reference
) -> tuple[Frames, Floats, Floats]:
    """The run's frame at a distance of its path, the outermost outline (n, 2) there, and its middle (2,)."""
    own = own_path(path, reference)
    turned = own_recipe(recipe, reference)
    fine = Density(deviation=_FINE * max(section_width(section) * recipe.size, 1e-9))
    plain = PlainRecipe(turned.size, turned.placing, turned.corner, turned.ends, fine)
    profile = profile_stage(own, section, plain)
    field = frame_stage(own, profile, plain.placing)
    ends = np.array([leg.s[-1] for leg in field.legs])
    leg = min(int(np.searchsorted(ends, s)), len(ends) - 1)
    fr = frames_at(field, leg, np.clip([s], field.legs[leg].s[0], ends[leg]))
    ring = _outer(profile.outline_at(s, StepSide.AFTER))
    return fr, ring, 0.5 * (ring.min(0) + ring.max(0))


def _outer(outline: SampledSection) -> Floats:
    """The widest outer loop's points (n, 2), counter-clockwise."""
    loops = [outline.points[sl] for sl in outline.loop_slices]
    widest = max(loops, key=lambda p: float(np.ptp(p, axis=0).sum()))
    onward = np.roll(widest, -1, axis=0)
    area = float((widest[:, 0] * onward[:, 1] - onward[:, 0] * widest[:, 1]).sum())
    return widest if area >= 0.0 else widest[::-1]


def _left_at(ring: Floats, middle: Floats, way: Floats) -> tuple[Floats, Floats]:
    """Where a ray leaves an outline for the last time, and the outline's normal there."""
    a, side = ring - middle, np.roll(ring, -1, axis=0) - ring
    across = side[:, 0] * way[1] - side[:, 1] * way[0]
    with np.errstate(divide="ignore", invalid="ignore"):
        far = (side[:, 0] * a[:, 1] - side[:, 1] * a[:, 0]) / across
        share = (way[0] * a[:, 1] - way[1] * a[:, 0]) / across
    met = (across != 0.0) & (share >= -1e-12) & (share <= 1.0 + 1e-12) & (far > 0.0)
    if not met.any():
        k = int(np.argmax(a @ way))
        return ring[k], way
    k = int(np.argmax(np.where(met, far, -np.inf)))
    out = np.array([side[k, 1], -side[k, 0]])
    return middle + float(far[k]) * way, out / float(np.hypot(*out))
