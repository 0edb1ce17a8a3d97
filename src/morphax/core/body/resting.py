"""How far a run's body reaches from its path towards what it rests on."""

import numpy as np

from morphax.core.body.profile import StepSide, carried_rows, extents
from morphax.core.body.recipe import Recipe
from morphax.core.body.reference import Reference, own_path, own_recipe
from morphax.core.body.sweep import PLAIN, frame_stage, profile_stage
from morphax.core.frame.frames import Orientation, frames_at
from morphax.core.path.resolved import ResolvedPath
from morphax.core.section.sampling import kept_with
from morphax.core.section.sections import SectionShape, anchor_place, section_reach
from morphax.core.types import Floats, Ints, Vectors3
from morphax.core.vectors import cross, unit

_EVEN = 1e-6


def even_reach(section: SectionShape, recipe: Recipe) -> float | None:
    """The reach of a round about its middle, m: the same to all sides; None for all else."""
    anchor = section.laying.anchor if recipe.placing.anchor is None else recipe.placing.anchor

    def found() -> float:
        place = anchor_place(section, anchor)
        points = section.outer_points - place
        far = np.hypot(points[:, 0], points[:, 1])
        return section_reach(section, place) if far.min() > (1.0 - _EVEN) * far.max() else -1.0

    own = kept_with(section, ("even reach", anchor), found)
    return own * recipe.size if own >= 0.0 else None


def level_reach(section: SectionShape, recipe: Recipe) -> float | None:
    """The reach downwards of a section that stands upright on a level surface, m: that below its anchor. None where it
    is rolled, or does not stand so."""
    placing = recipe.placing
    orientation = section.laying.orientation if placing.orientation is None else placing.orientation
    if placing.roll or orientation not in (Orientation.CARRIED, Orientation.UPRIGHT, Orientation.ON_HOST):
        return None
    anchor = section.laying.anchor if placing.anchor is None else placing.anchor
    return (anchor_place(section, anchor)[1] - section.bounds[1]) * recipe.size


def reaches(
    path: ResolvedPath,
    section: SectionShape,
    recipe: Recipe,
    knots: Ints,
    normals: Vectors3,
    reference: Reference = PLAIN,
) -> Floats:
    """How far (k,), m, the section at ``knots`` (k,) of a path reaches against the unit ``normals`` (k, 3) of what lies
    there; at least 0. At a corner the longer of its two sides counts.

    Orientations that look at something are taken as carried.
    """
    own, recipe = own_path(path, reference), own_recipe(recipe, reference)
    profile = profile_stage(own, section, recipe)
    orientation = recipe.placing.orientation or profile.facts.laying.orientation
    field = frame_stage(own, profile, recipe.placing)
    at = path.knot_at[knots]
    at = path.length - at if reference.from_end else at
    across = -normals @ reference.world
    out = np.zeros(len(knots))
    points = profile.flat_points
    for i, leg in enumerate(field.legs):
        low, high = float(leg.s[0]), float(leg.s[-1])
        slack = 1e-9 * path.length
        mine = np.flatnonzero((at >= low - slack) & (at <= high + slack))
        if path.chain.closed and i == len(field.legs) - 1:  # the first knot is the last one too
            mine = np.union1d(mine, np.flatnonzero(at <= slack))
        if not len(mine):
            continue
        s = np.clip(at[mine], low, high)
        s = np.where(path.chain.closed & (at[mine] <= slack) & (low > 0.0), high, s)
        frames = frames_at(field, i, s)
        right, up = frames.right, frames.up
        if orientation is Orientation.ON_HOST:  # it stands on what it lies on
            right = unit(cross(frames.forward, -across[mine]))
            up = cross(right, frames.forward)
        rows = carried_rows(profile, right, up, s, np.full(len(s), float(StepSide.AFTER)))
        out[mine] = np.maximum(out[mine], extents(rows, across[mine], points).max(1))
    return out
