"""Rings: all copies of the section's points, from their coefficients and the section."""

from dataclasses import dataclass

import numpy as np

from morphax.core.frames import FrameField, Frames, frames_at
from morphax.core.joints import Joint, JointKind
from morphax.core.kernels.skinning import put_points
from morphax.core.section_sampling import SampledSection
from morphax.core.types import Floats, Points2, Points3


@dataclass(frozen=True, eq=False)
class Row:
    """The rows of one leg: frames, ring coefficients and texture distances.

    ``coefficients`` (r, 3, 3): origin, x vector and y vector of each ring; ``distance`` (r, 3): the same for the
    distance along the path of a point, so that mitres cut the texture as a saw does.
    """

    frames: Frames
    s: Floats
    coefficients: Floats
    distance: Floats


def ring_points(coefficients: Floats, section: Points2) -> Points3:
    """Points (..., r, s, 3) of rings from their coefficients (..., r, 3, 3) and section points (s, 2)."""
    out = np.empty((*coefficients.shape[:-2], len(section), 3))
    put_points(coefficients, section, out.reshape(-1, len(section), 3))
    return out


def leg_rows(
    field: FrameField,
    leg: int,
    places: Floats,
    section: SampledSection,
    joints: tuple[Joint | None, Joint | None],
    least: int = 1,
) -> Row:
    """Rows of a leg from its ring places; ends at mitres lie in the corner's plane.

    Beside a mitre, rings with a point beyond the corner plane are dropped (but ``least`` intervals stay) and, on
    legs that bend or roll, one is set at the section's reach before the plane.
    """
    start, end = joints
    mitres = [j for j in (start, end) if j is not None and j.kind is JointKind.MITRE]
    if mitres and (len(places) > 2 or not field.legs[leg].leg.straight):
        places = _kept_places(field, leg, places, section, joints, least)
    frames = frames_at(field, leg, places)
    coefficients = np.stack([frames.origin, frames.right, frames.up], axis=-2)
    distance = np.zeros((len(places), 3))
    distance[:, 0] = places
    for joint, k in ((start, 0), (end, -1)):
        if joint is not None and joint.kind is JointKind.MITRE:
            _send_to_plane(coefficients, distance, frames, joint, k)
    return Row(frames, places, coefficients, distance)


def _send_to_plane(coefficients: Floats, distance: Floats, frames: Frames, joint: Joint, k: int) -> None:
    """Moves a ring's points along the leg into the bisector plane: linear in x and y, so exact."""
    t = frames.forward[k]
    along = -(coefficients[k] @ joint.normal) / (t @ joint.normal)
    along[0] = (joint.place - coefficients[k, 0]) @ joint.normal / (t @ joint.normal)
    coefficients[k] += along[:, None] * t
    distance[k] += along


def _kept_places(
    field: FrameField,
    leg: int,
    places: Floats,
    section: SampledSection,
    joints: tuple[Joint | None, Joint | None],
    least: int,
) -> Floats:
    start, end = joints
    s0, s1 = float(places[0]), float(places[-1])
    inner = [places[1:-1]]
    f = field.legs[leg]
    is_prism = f.leg.straight and not f.slope.any() and not f.ease.any()
    for joint, edge, sign in ((start, s0, 1.0), (end, s1, -1.0)):
        if joint is None or joint.kind is not JointKind.MITRE:
            continue
        fr = frames_at(field, leg, np.array([edge]))
        across = np.array([fr.right[0] @ joint.normal, fr.up[0] @ joint.normal])
        reach = float((-sign * (section.points @ across)).max()) / float(fr.forward[0] @ joint.normal)
        if not is_prism and s0 < edge + sign * reach < s1:
            inner.append(np.array([edge + sign * reach]))
    inside = np.unique(np.concatenate(inner))
    fr = frames_at(field, leg, inside)
    keep = np.ones(len(inside), dtype=bool)
    for joint, sign in ((start, 1.0), (end, -1.0)):
        if joint is None or joint.kind is not JointKind.MITRE:
            continue
        offset = sign * ((fr.origin - joint.place) @ joint.normal)
        tilt = np.stack([fr.right @ joint.normal, fr.up @ joint.normal], axis=-1)
        lowest = offset + (sign * (tilt @ section.points.T)).min(1)
        near = np.abs(inside - (s0 if sign > 0 else s1)) <= 2.0 * section.reach * _stretch(joint, field, leg)
        keep &= ~(near & (lowest < -1e-9 * section.reach))
    if keep.sum() + 1 < least:
        return np.linspace(s0, s1, least + 1)
    return np.concatenate([[s0], inside[keep], [s1]])


def _stretch(joint: Joint, field: FrameField, leg: int) -> float:
    """How many section reaches a mitre extends along its leg, at most."""
    f = field.legs[leg]
    t = f.curve.tangent[0 if joint.after == leg else -1]
    c = float(t @ joint.normal)
    return max(1.0, float(np.sqrt(max(0.0, 1.0 - c * c))) / max(c, 1e-9))
