"""Marks at the ends of what is shown of the chosen run, at which its range is dragged. Free of Qt."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from morphax.app.session.sight import Sight
from morphax.app.session.workspace import Workspace
from morphax.core.path.arclength import places_at
from morphax.core.path.paths import derivatives_at, points_at
from morphax.core.types import Floats
from morphax.core.vectors import unit
from morphax.project.edits.ranges import seen_range

_AWAY = 20.0
"""A mark stands so many pixels beyond its end, along the path."""


@dataclass(frozen=True, eq=False)
class RangeMark:
    """A mark at ``place`` (3,), m, beyond an end of the range at ``foot`` (3,); the path goes on along ``way`` (3,)."""

    which: Literal["start", "end"]
    run: str
    place: Floats
    foot: Floats
    way: Floats

    @property
    def words(self) -> str:
        return f"drag: {'from' if self.which == 'start' else 'up to'} where it is shown"


def range_marks(ws: Workspace, sight: Sight) -> list[RangeMark]:
    """Marks of the only chosen run; none where its path can't be measured."""
    run, built = ws.chosen.run, ws.chosen.body
    if run is None or built is None or built.path.resolved is None or len(ws.selection.runs) != 1:
        return []
    table, own = built.path.resolved.table, seen_range(run)
    total = float(table.total)
    at = np.array([own.start.at(total), own.end.at(total)])
    where = places_at(table, at)
    feet, ways = points_at(table.spans[where.span], where.t), derivatives_at(table.spans[where.span], where.t)
    marks = list[RangeMark]()
    for which, foot, way, sign in (("start", feet[0], ways[0], -1.0), ("end", feet[1], ways[1], 1.0)):
        along = sign * unit(way[None])[0]
        place = foot + _AWAY * sight.scale_at(foot) * along
        marks.append(RangeMark("start" if which == "start" else "end", run.id, place, foot, along))
    return marks
