"""The stage of a sweep that makes its frames, by the orientation that is asked for."""

from morphax.core.body.nearby import NOTHING, Nearby
from morphax.core.body.profile import Profile
from morphax.core.body.recipe import Keep, Placing, fresh
from morphax.core.frame.frames import FrameField, Orientation, carried_field, fixed_field
from morphax.core.frame.guided import guided_field
from morphax.core.frame.outward import closed_start_up
from morphax.core.frame.upright import upright_field
from morphax.core.path.resolved import ResolvedPath
from morphax.core.section.sections import Side


def frame_stage(
    path: ResolvedPath, profile: Profile, placing: Placing, keep: Keep = fresh, near: Nearby = NOTHING
) -> FrameField:
    """Frames along the path; on a closed one they close up to the section's rotational symmetry.

    They don't depend on how finely the section is sampled: width and reach are those of the true outline.
    """
    laying, closed = profile.facts.laying, path.chain.closed
    orientation = placing.orientation or laying.orientation
    if orientation is Orientation.UPRIGHT:
        width, reach = profile.width, profile.true_reach
        upright: FrameField = keep(
            "frames",
            (path, orientation, width, reach),
            lambda: upright_field(path.table, path.legs, closed=closed, width=width, reach=reach),
        )
        return upright
    if orientation is Orientation.FIXED:
        fixed: FrameField = keep(
            "frames",
            (path, orientation, laying.side),
            lambda: fixed_field(path.table, path.legs, start_up=closed_start_up(path, laying.side)),
        )
        return fixed
    guided = _guided(path, profile, orientation, near, keep)
    if guided is not None:
        return guided
    symmetry = profile.symmetry if closed else 1
    carried: FrameField = keep(
        "frames",
        (path, orientation, symmetry, laying.side if closed else None),
        lambda: _carried(path, symmetry, laying.side),
    )
    return carried


def _carried(path: ResolvedPath, symmetry: int, side: Side) -> FrameField:
    """Carried frames; those of an open path follow from the path alone and stay with it."""
    if not path.chain.closed:
        if "carried" not in path.memo:
            path.memo["carried"] = carried_field(path.table, path.legs)
        known: FrameField = path.memo["carried"]
        return known
    wish = closed_start_up(path, side)
    return carried_field(path.table, path.legs, closed=True, symmetry=symmetry, start_up=wish)


def _guided(
    path: ResolvedPath, profile: Profile, orientation: Orientation, near: Nearby, keep: Keep
) -> FrameField | None:
    """Frames that follow a host or look at a target; None where that is not asked for, or there is neither."""
    on_host = orientation is Orientation.ON_HOST and near.host is not None
    towards = orientation is Orientation.TOWARDS and near.target is not None
    if not on_host and not towards:
        return None
    width, reach = profile.width, profile.true_reach
    reads = (path, orientation, width, reach, near.host_key if on_host else near.target)
    wish, smooth = (near.normals, 2.0 * width) if on_host else (near.ways_to_target, 0.0)
    made: FrameField = keep(
        "frames",
        reads,
        lambda: guided_field(path.table, path.legs, wish, closed=path.chain.closed, smooth=smooth, reach=reach),
    )
    return made
