"""End pieces: turned forms at a run's ends. They take their room from the run, which stays as long as it was."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from shapely import MultiPoint, minimum_bounding_circle, minimum_bounding_radius

from morphax.core.body.cutting import Cutting
from morphax.core.body.ends import EndPiece
from morphax.core.body.profile import Profile, StepSide
from morphax.core.body.recipe import End, Ends
from morphax.core.body.stretches import LegPart, Pair, leg_parts
from morphax.core.findings import Finding, Severity, in_mm
from morphax.core.frame.frames import FrameField
from morphax.core.mesh.mesh import Mesh, joined
from morphax.core.path.resolved import ResolvedPath
from morphax.core.pieces.copies import Copies, realised
from morphax.core.pieces.plates import plate_mesh, plate_outlines
from morphax.core.pieces.turned import PLATE, form_of, sides_within, turned_mesh
from morphax.core.types import Floats
from morphax.core.vectors import unit

_HALF = 0.4995
"""Of its stretch an end takes so much at most."""
_PLATE = 0.1
"""A plate is so thick for each reach of the section."""


def end_pieces(
    path: ResolvedPath, cutting: Cutting, ends: Ends, stretches: Sequence[Pair], deviation: float
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
            reach, part = _reach_at(cutting, stretch, is_start=is_start)
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
                pieces.append(_plate(cutting, (a, b), long, is_start=is_start))
                continue
            form = (name, reach * size * (long / wanted), sides_within(reach * size, deviation))
            pieces.append(_turned(cutting, (a, b), form, is_start=is_start))
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


def _reach_at(cutting: Cutting, stretch: Pair, *, is_start: bool) -> tuple[float, LegPart]:
    part, at = _at(cutting.field, stretch, is_start=is_start)
    return _middle(cutting.profile, at, is_start=is_start)[1], part


@dataclass(frozen=True, eq=False)
class _Foot:
    """Where a piece stands: ``at`` m of a leg, ``place`` (3,), and the ways out, right and up (3,) there.

    Within a bevel right and up are those of its ring there, which is a little narrower.
    """

    at: float
    place: Floats
    out: Floats
    right: Floats
    up: Floats


def _foot(cutting: Cutting, stretch: Pair, *, is_start: bool) -> _Foot:
    """On the end of what is left of a stretch; a fixed section may be walked backwards there."""
    at, frame = cutting.frame_at_end(stretch, is_start=is_start)
    forward = frame.forward[0]
    is_back = frame.tangent is not None and float(frame.tangent[0] @ forward) < 0.0
    out = -forward if is_start is not is_back else forward
    return _Foot(at, frame.origin[0], out, frame.right[0], frame.up[0])


def _turned(cutting: Cutting, stretch: Pair, piece: tuple[str, float, int], *, is_start: bool) -> EndPiece:
    """A turned form about the middle of the section; ``piece``: its name, how large it is, m, and its sides."""
    (name, scale, sides), foot = piece, _foot(cutting, stretch, is_start=is_start)
    (x, y), _ = _middle(cutting.profile, foot.at, is_start=is_start)
    up = unit(foot.up[None])[0]
    axes = scale * np.column_stack([foot.out, np.cross(up, foot.out), up])
    return EndPiece(name, np.column_stack([axes, foot.place + x * foot.right + y * foot.up]), sides, is_start)


def _plate(cutting: Cutting, stretch: Pair, long: float, *, is_start: bool) -> EndPiece:
    """A plate of the outline at the end of what is left of a stretch, in the run's own axes."""
    foot = _foot(cutting, stretch, is_start=is_start)
    place = np.column_stack([foot.out, foot.right, foot.up, foot.place])
    outline = cutting.profile.outline_at(foot.at, StepSide.AFTER if is_start else StepSide.BEFORE)
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
