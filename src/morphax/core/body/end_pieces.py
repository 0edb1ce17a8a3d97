"""End pieces: turned forms at a run's ends. They take their room from the run, which stays as long as it was."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from shapely import MultiPoint, minimum_bounding_circle, minimum_bounding_radius

from morphax.core.body.cutting import LegPart, Pair, leg_parts
from morphax.core.body.ends import EndPiece
from morphax.core.body.profile import Profile, StepSide
from morphax.core.body.recipe import End, Ends
from morphax.core.findings import Finding, Severity, in_mm
from morphax.core.frame.frames import FrameField, frames_on
from morphax.core.mesh.mesh import Mesh, joined
from morphax.core.path.resolved import ResolvedPath
from morphax.core.pieces.placing import Copies, realised
from morphax.core.pieces.plates import plate_mesh, plate_outlines
from morphax.core.pieces.turned import PLATE, form_of, sides_within, turned_mesh
from morphax.core.types import Floats

_HALF = 0.4995
"""Of its stretch an end takes so much at most."""
_PLATE = 0.1
"""A plate is so thick for each reach of the section."""


def end_pieces(
    path: ResolvedPath,
    field: FrameField,
    profile: Profile,
    ends: Ends,
    stretches: Sequence[Pair],
    deviation: float,
) -> tuple[list[Pair], tuple[EndPiece, ...], list[Finding]]:
    """The stretches without the room that pieces take, m, the pieces, and notes on those that are smaller."""
    own, pieces, notes = list[Pair](), list[EndPiece](), list[Finding]()
    for stretch in stretches:
        a, b = stretch
        for is_start, kind, name, size in (
            (True, ends.start, ends.start_piece, ends.start_size),
            (False, ends.end, ends.end_piece, ends.end_size),
        ):
            if kind is not End.PIECE:
                continue
            reach, part = _reach_at(field, profile, stretch, is_start=is_start)
            wanted = (_PLATE if name == PLATE else form_of(name).length) * reach * size
            if not wanted > 0.0:  # it has come to a point there
                continue
            room = _HALF * (stretch[1] - stretch[0])
            long = min(wanted, room)
            if long < wanted * (1.0 - 1e-9):
                where = path.end_word(is_start=is_start)
                message = f"The {name} at the {where} is {in_mm(long)} long: {in_mm(wanted)} does not fit."
                notes.append(Finding("piece-reduced", Severity.NOTE, message, part.a if is_start else part.b))
            a, b = (a + long, b) if is_start else (a, b - long)
            if name == PLATE:
                pieces.append(_plate(field, profile, (a, b), long, is_start=is_start))
                continue
            place = _placed(field, profile, (a, b), reach * size * (long / wanted), is_start=is_start)
            pieces.append(EndPiece(name, place, sides_within(reach * size, deviation), is_start))
        own.append((a, b))
    return own, tuple(pieces), notes


def _at(field: FrameField, stretch: Pair, *, is_start: bool) -> tuple[LegPart, float]:
    parts = leg_parts(field, stretch)
    return (parts[0], parts[0].a) if is_start else (parts[-1], parts[-1].b)


def _middle(profile: Profile, at: float, *, is_start: bool) -> tuple[Floats, float]:
    """The middle (2,) and the radius of the smallest circle round the outline there, m."""
    outline = profile.outline_at(at, StepSide.AFTER if is_start else StepSide.BEFORE).points
    points = MultiPoint(outline)
    radius = float(minimum_bounding_radius(points))
    if not radius > 0.0:
        return outline[0], 0.0
    middle = minimum_bounding_circle(points).centroid
    return np.array([middle.x, middle.y]), radius


def _reach_at(field: FrameField, profile: Profile, stretch: Pair, *, is_start: bool) -> tuple[float, LegPart]:
    part, at = _at(field, stretch, is_start=is_start)
    return _middle(profile, at, is_start=is_start)[1], part


def _placed(field: FrameField, profile: Profile, stretch: Pair, scale: float, *, is_start: bool) -> Floats:
    """The transform (3, 4) of a form whose foot stands on the end of what is left of a stretch."""
    part, at = _at(field, stretch, is_start=is_start)
    frame = frames_on(field, np.array([part.leg]), np.array([at]))
    (x, y), _ = _middle(profile, at, is_start=is_start)
    right, up, forward = frame.right[0], frame.up[0], frame.forward[0]
    if (
        frame.tangent is not None and float(frame.tangent[0] @ forward) < 0.0
    ):  # a fixed section that is walked backwards
        right, forward, x = -right, -forward, -x
    out = np.empty((3, 4))
    out[:, 0] = scale * (-forward if is_start else forward)
    out[:, 1] = scale * (right if is_start else -right)
    out[:, 2] = scale * up
    out[:, 3] = frame.origin[0] + x * right + y * up
    return out


def _plate(field: FrameField, profile: Profile, stretch: Pair, long: float, *, is_start: bool) -> EndPiece:
    """A plate of the outline at the end of what is left of a stretch, in the run's own axes."""
    part, at = _at(field, stretch, is_start=is_start)
    frame = frames_on(field, np.array([part.leg]), np.array([at]))
    out = frame.forward[0] if frame.tangent is None else frame.tangent[0]
    sign = -1.0 if is_start else 1.0
    if float(out @ frame.forward[0]) < 0.0:
        sign = -sign
    place = np.column_stack([sign * frame.forward[0], frame.right[0], frame.up[0], frame.origin[0]])
    outline = profile.outline_at(at, StepSide.AFTER if is_start else StepSide.BEFORE)
    return EndPiece(PLATE, place, 0, is_start, plate_outlines(outline), long)


def with_end_pieces(mesh: Mesh, pieces: Sequence[EndPiece]) -> Mesh:
    """A run's mesh with its end pieces, as shells of their own that stand on its caps."""
    if not pieces:
        return mesh
    made = []
    for piece in pieces:
        if piece.form == PLATE and not piece.outlines:
            continue
        form = plate_mesh(piece.outlines, piece.long) if piece.outlines else turned_mesh(piece.form, piece.sides)
        own = realised(Copies(form, piece.transform[None], np.zeros(1)))
        name = f"{'start' if piece.is_start else 'end'} piece"
        made.append(replace(own, parts=tuple(replace(p, name=name) for p in own.parts)))
    whole = joined([mesh, *made])
    return replace(whole, rings=mesh.rings, sides=mesh.sides, is_sheet=mesh.is_sheet)
