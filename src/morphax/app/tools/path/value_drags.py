"""Drags of values in the panes: the run's size, a knot's own size and roll, where a section stands. No Qt here."""

from math import degrees, radians

import numpy as np

from morphax.app.session.pointer import Pointer
from morphax.app.session.workspace import Workspace
from morphax.app.tools.path.drags import Drag, size_drag
from morphax.app.tools.shared.knot_marks import KnotMark, size_share, turned_by
from morphax.app.tools.shared.landing_planes import drag_normal
from morphax.app.tools.shared.picking import nearest_on_path
from morphax.app.tools.shared.range_marks import RangeMark
from morphax.app.tools.shared.size_marks import SizeMark
from morphax.build.built import Built
from morphax.core.path.arclength import Places, distances_of
from morphax.core.path.paths import points_at
from morphax.project.edits.along import knot_value, set_knot_value, slid_station, station_of
from morphax.project.edits.ranges import seen_range, slid_stop, with_range
from morphax.project.lookup import run_by_id
from morphax.project.model.document import Project
from morphax.project.units import format_length, format_number

_ROUND = 3
"""Digits after the point of a size that is dragged."""


def mark_drag(at: Pointer, ws: Workspace, mark: SizeMark | KnotMark | RangeMark) -> Drag | None:
    """The drag of the chosen run that begins on a mark."""
    if isinstance(mark, SizeMark):
        return size_drag(at.sight, at.pixel, ws.project, ws.selection.runs[0], mark, alone=at.other_snap)
    if isinstance(mark, KnotMark):
        return knot_value_drag(at, ws.project, mark)
    return range_drag(at, ws.project, mark, ws.chosen.body)


def range_drag(at: Pointer, project: Project, mark: RangeMark, built: Built | None) -> Drag | None:
    """An end of what is shown goes to the place of the path that is nearest to the pointer."""
    resolved = None if built is None else built.path.resolved
    if resolved is None:
        return None
    own, closed = seen_range(run_by_id(project, mark.run)), resolved.chain.closed
    off = np.diff(at.sight.seen(np.stack([mark.foot, mark.place]))[:, :2], axis=0)[0]

    def move(place: np.ndarray) -> Project:
        x, y = at.sight.seen(place[None])[0, :2] - off
        found = nearest_on_path(at.sight, resolved.table, (float(x), float(y)), within=np.inf)
        if found is None:
            return project
        where = Places(np.array([found.span]), np.array([found.t]))
        new = slid_stop(own, mark.which, float(distances_of(resolved.table, where)[0]), resolved.length, closed=closed)
        return with_range(project, [mark.run], start=new.start, end=new.end)

    def words(now: Project) -> str:
        new, length = seen_range(run_by_id(now, mark.run)), resolved.length
        where = (new.start if mark.which == "start" else new.end).at(length)
        share = format_number(100.0 * where / length, decimals=1)
        said = "from" if mark.which == "start" else "to"
        return f"shown {said} {format_length(where, unit=now.unit, decimals=1)} · {share} %"

    seen = (at.sight, at.pixel, mark.place, drag_normal(at.sight, mark.place))
    return Drag(*seen, project, frozenset(), "Drag the range", move, stays_up=False, words=words, free=True)


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


def station_words(ws: Workspace, station_id: str) -> str:
    """What a ring in the panes is, and what a drag of it does."""
    run = ws.chosen.run
    number = next((k for k, s in enumerate(run.recipe.stations, 1) if s.id == station_id), 0) if run is not None else 0
    return f"section {number} · drag: slide it"


def station_drag(at: Pointer, project: Project, run_id: str, station_id: str, built: Built | None) -> Drag | None:
    """A station slides to the place of the path that is nearest to the pointer."""
    resolved = None if built is None else built.path.resolved
    begun = None if resolved is None else nearest_on_path(at.sight, resolved.table, at.pixel, within=np.inf)
    if resolved is None or begun is None:
        return None
    recipe = run_by_id(project, run_id).recipe
    from_end, was_at_knot = recipe.reference.from_end, station_of(recipe, station_id).by == "knot"
    origin = points_at(resolved.table.spans[begun.span], np.array(begun.t))

    def share_at(place: np.ndarray) -> float:
        seen = at.sight.seen(place[None])[0]
        found = nearest_on_path(at.sight, resolved.table, (float(seen[0]), float(seen[1])), within=np.inf) or begun
        where = Places(np.array([found.span]), np.array([found.t]))
        share = float(distances_of(resolved.table, where)[0]) / resolved.length
        return min(max(1.0 - share if from_end else share, 0.0), 1.0)

    def move(place: np.ndarray) -> Project:
        return slid_station(project, run_id, station_id, share_at(place), resolved.length)

    def words(now: Project) -> str:
        own = station_of(run_by_id(now, run_id).recipe, station_id)
        seen = (1.0 - own.share if from_end else own.share) * resolved.length
        gone = " · lets go of its knot" if was_at_knot and own.by != "knot" else ""
        return f"section at {format_length(seen, unit=now.unit, decimals=1)}{gone}"

    seen = (at.sight, at.pixel, origin, drag_normal(at.sight, origin))
    label = "Slide the station"
    return Drag(*seen, project, frozenset(), label, move, stays_up=False, words=words, free=True)
