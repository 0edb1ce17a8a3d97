"""Drags of values in the panes: the run's size, and a knot's own size and roll. No Qt here."""

from math import degrees, radians

import numpy as np

from morphax.app.session.pointer import Pointer
from morphax.app.tools.path.drags import Drag, size_drag
from morphax.app.tools.shared.knot_marks import KnotMark, size_share, turned_by
from morphax.app.tools.shared.landing_planes import drag_normal
from morphax.app.tools.shared.size_marks import SizeMark
from morphax.project.edits.along import knot_value, set_knot_value
from morphax.project.lookup import run_by_id
from morphax.project.model.document import Project
from morphax.project.units import format_number

_ROUND = 3
"""Digits after the point of a size that is dragged."""


def mark_drag(at: Pointer, project: Project, run_id: str, mark: SizeMark | KnotMark) -> Drag:
    """The drag that begins on a mark."""
    if isinstance(mark, SizeMark):
        return size_drag(at.sight, at.pixel, project, run_id, mark, alone=at.other_snap)
    return knot_value_drag(at, project, mark)


def knot_value_drag(at: Pointer, project: Project, mark: KnotMark) -> Drag:
    """A knot's size follows how far the mark is from it, its roll how far the mark is turned about the path, in whole
    degrees."""
    own, faces = knot_value(run_by_id(project, mark.run), mark.knot), mark.faces(at.sight)

    def move(place: np.ndarray) -> Project:
        if mark.what == "size":
            value = {"size": round(own.size * size_share(mark, place), _ROUND)}
        else:
            value = {"roll": radians(round(degrees(own.roll + turned_by(mark, place, faces=faces))))}
        return set_knot_value(project, mark.run, [mark.knot], **value)

    def words(now: Project) -> str:
        made = knot_value(run_by_id(now, mark.run), mark.knot)
        if mark.what == "size":
            return f"size {format_number(made.size, decimals=_ROUND)} at the knot"
        return f"roll {format_number(degrees(made.roll), decimals=0)}° at the knot"

    turns = mark.what == "roll" and faces
    normal = mark.axis if turns else drag_normal(at.sight, mark.place)
    seen = (at.sight, at.pixel, mark.place, normal)
    label = f"Drag a knot's {mark.what}"
    return Drag(*seen, project, frozenset(), label, move, stays_up=False, words=words, free=True)
