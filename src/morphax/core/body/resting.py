"""How far a run's body reaches from its path towards what it rests on."""

from dataclasses import replace

import numpy as np

from morphax.core.body.carried import carried_rows, extents
from morphax.core.body.profile import Profile, StepSide
from morphax.core.body.profiles import Carries, carries
from morphax.core.body.recipe import Recipe
from morphax.core.body.reference import Reference, own_path, own_recipe
from morphax.core.body.sweep import PLAIN, frame_stage, profile_stage
from morphax.core.frame.frames import FrameField, Orientation, frames_at
from morphax.core.path.resolved import ResolvedPath, points_along
from morphax.core.section.sampling import kept_with
from morphax.core.section.sections import SectionShape, anchor_place, section_reach
from morphax.core.types import Floats, Ints, Vectors3
from morphax.core.vectors import cross, unit

_EVEN = 1e-6
_LOOKED = 1025
"""Places along a path at which its lowest one is looked for."""
_BETWEEN = 15
"""Places between two knots at which their reach is asked for."""


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
    section: SectionShape | Carries,
    recipe: Recipe,
    knots: Ints,
    normals: Vectors3,
    reference: Reference = PLAIN,
) -> Floats:
    """How far (k,), m, the section at ``knots`` (k,) of a path, in their order, reaches against the unit ``normals``
    (k, 3) of what lies there; at least 0.

    Between two knots that follow each other the section may lie otherwise: what it reaches most on the way counts at
    both. Orientations that look at something are taken as carried; what a law lifts is lifted off what it lies on.
    """
    own, recipe = own_path(path, reference), own_recipe(recipe, reference)
    profile = profile_stage(own, section, recipe)
    frames = frame_stage(own, profile, recipe.placing)
    n = len(path.shape.knots)
    step = np.roll(knots, -1) - knots
    after = np.flatnonzero(step % n == 1 if path.chain.closed else step == 1)
    share = np.arange(_BETWEEN + 2) / (_BETWEEN + 1.0)
    at = path.knot_at[knots]
    ends = path.knot_at[knots[after] + 1]
    s = at[after, None] + share * (ends - at[after])[:, None]
    ups = normals[after, None] + share[:, None] * (np.roll(normals, -1, axis=0)[after] - normals[after])[:, None]
    places, across = np.concatenate([at, s.ravel()]), -unit(np.concatenate([normals, ups.reshape(-1, 3)]))
    places = path.length - places if reference.from_end else places
    far = _against(profile, recipe, frames, places, across @ reference.world, moved=False)
    out, between = np.maximum(far[: len(knots)], 0.0), far[len(knots) :].reshape(s.shape)
    onward = (after + 1) % len(knots)
    if carries(section).along.is_plain:
        np.maximum.at(out, after, between.max(1, initial=0.0))
        np.maximum.at(out, onward, between.max(1, initial=0.0))
        return out
    # what grows along the path is as high as it is at each knot, and higher where it is more than that between them
    straight = out[after, None] + share * (out[onward] - out[after])[:, None]
    more = (between - straight).max(1, initial=0.0)
    extra = np.zeros(len(out))
    np.maximum.at(extra, after, more)
    np.maximum.at(extra, onward, more)
    return out + extra


def depth_below(
    path: ResolvedPath, section: SectionShape | Carries, recipe: Recipe, up: Vectors3, reference: Reference = PLAIN
) -> float:
    """How far down, m, the body on a path reaches against the unit direction ``up`` (3,), from the world's origin:
    ``-depth`` is the height of its lowest place. Orientations that look at something are taken as carried."""
    own, recipe = own_path(path, reference), own_recipe(recipe, reference)
    profile = profile_stage(own, section, recipe)
    frames = frame_stage(own, profile, recipe.placing)
    s = np.concatenate([np.linspace(0.0, own.length, _LOOKED), own.table.at_knots.ravel()])
    s = np.clip(s, 0.0, own.length)
    down = np.broadcast_to(-(up @ reference.world), (len(s), 3))
    far = _against(profile, recipe, frames, s, down, moved=True)
    return float((far + (points_along(own, s) * down).sum(1)).max())


def _against(
    profile: Profile, recipe: Recipe, field: FrameField, s: Floats, across: Vectors3, *, moved: bool
) -> Floats:
    """How far (k,), m, the section reaches along ``across`` (k, 3) at distances (k,); at corners on the longer side.
    ``moved``: where shifts and lifts put it, else as if it stood on the path."""
    orientation = recipe.placing.orientation or profile.facts.laying.orientation
    out, points = np.full(len(s), -np.inf), profile.flat_points
    slack = 1e-9 * float(field.legs[-1].s[-1])
    for i, leg in enumerate(field.legs):
        low, high = float(leg.s[0]), float(leg.s[-1])
        mine = np.flatnonzero((s >= low - slack) & (s <= high + slack))
        if not len(mine):
            continue
        here = np.clip(s[mine], low, high)
        frames = frames_at(field, i, here)
        right, up = frames.right, frames.up
        if orientation is Orientation.ON_HOST:  # it stands on what it lies on
            right = unit(cross(frames.forward, -across[mine]))
            up = cross(right, frames.forward)
        rows = carried_rows(profile, right, up, here, np.full(len(here), float(StepSide.AFTER)))
        rows = rows if moved else replace(rows, offset=None)
        out[mine] = np.maximum(out[mine], extents(rows, across[mine], points).max(1))
    return out
