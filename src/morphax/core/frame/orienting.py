"""The stage of a sweep that makes its frames, by the orientation that is asked for."""

from morphax.core.body.nearby import NOTHING, Nearby
from morphax.core.body.recipe import Keep, SweepOptions, fresh
from morphax.core.frame.frames import FrameField, Orientation, carried_field, fixed_field
from morphax.core.frame.guided import guided_field
from morphax.core.frame.outward import closed_start_up
from morphax.core.frame.upright import upright_field
from morphax.core.path.resolved import ResolvedPath
from morphax.core.section.sampling import SampledSection, rotational_symmetry, section_width
from morphax.core.section.sections import SectionShape, anchor_place, section_reach


def frame_stage(
    path: ResolvedPath,
    section: SectionShape,
    sampled: SampledSection,
    options: SweepOptions,
    keep: Keep = fresh,
    near: Nearby = NOTHING,
) -> FrameField:
    """Frames along the path; on a closed one they close up to the section's rotational symmetry.

    They don't depend on how finely the section is sampled: width and reach are those of the true outline.
    """
    orientation = options.orientation or section.laying.orientation
    closed = path.chain.closed
    if orientation is Orientation.UPRIGHT:
        width, reach = _width_and_reach(section, options)
        upright: FrameField = keep(
            "frames",
            (path, orientation, width, reach),
            lambda: upright_field(path.table, path.legs, closed=closed, width=width, reach=reach),
        )
        return upright
    if orientation is Orientation.FIXED:
        fixed: FrameField = keep(
            "frames",
            (path, orientation, section.laying.side),
            lambda: fixed_field(path.table, path.legs, start_up=closed_start_up(path, section.laying.side)),
        )
        return fixed
    guided = _guided(path, section, options, orientation, near, keep)
    if guided is not None:
        return guided
    symmetry = rotational_symmetry(sampled) if closed else 1
    side = section.laying.side if closed else None
    carried: FrameField = keep(
        "frames",
        (path, orientation, symmetry, side),
        lambda: carried_field(
            path.table,
            path.legs,
            closed=closed,
            symmetry=symmetry,
            start_up=closed_start_up(path, section.laying.side),
        ),
    )
    return carried


def _width_and_reach(section: SectionShape, options: SweepOptions) -> tuple[float, float]:
    anchor = anchor_place(section, section.laying.anchor if options.anchor is None else options.anchor)
    return section_width(section) * options.size, section_reach(section, anchor) * options.size


def _guided(
    path: ResolvedPath,
    section: SectionShape,
    options: SweepOptions,
    orientation: Orientation,
    near: Nearby,
    keep: Keep,
) -> FrameField | None:
    """Frames that follow a host or look at a target; None where that is not asked for, or there is neither."""
    on_host = orientation is Orientation.ON_HOST and near.host is not None
    towards = orientation is Orientation.TOWARDS and near.target is not None
    if not on_host and not towards:
        return None
    width, reach = _width_and_reach(section, options)
    reads = (path, orientation, width, reach, near.host_key if on_host else near.target)
    wish, smooth = (near.normals, 2.0 * width) if on_host else (near.ways_to_target, 0.0)
    made: FrameField = keep(
        "frames",
        reads,
        lambda: guided_field(path.table, path.legs, wish, closed=path.chain.closed, smooth=smooth, reach=reach),
    )
    return made
