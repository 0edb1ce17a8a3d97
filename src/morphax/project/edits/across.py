"""The other side: copies of runs mirrored across a plane, plugged in again where a port lies there."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from morphax.project.derive.holds import placed_port
from morphax.project.edits.ports import Plug, plug_of, plugged, port_by_id
from morphax.project.edits.refine import mirrored_runs
from morphax.project.edits.reshape import with_path
from morphax.project.edits.runs import duplicate_runs
from morphax.project.lookup import path_of
from morphax.project.model.document import PathHold, PointHold, Project, evolve

_SAME = 1e-6
"""A port lies across another one when centre and axis agree to this, m and of length 1."""


@dataclass(frozen=True)
class Across:
    """A project with the copies, their ids, how many of their ends found no port to sit in, and how many other knots
    hold on to something in the originals only."""

    project: Project
    ids: tuple[str, ...]
    open_ends: int
    loose: int


def copied_across(project: Project, run_ids: Sequence[str], axis: int, at: float = 0.0) -> Across:
    """Copies of runs whose bodies are the mirror images across the plane at ``at`` m on a world axis (0 x, 1 y, 2 z).

    An end that sits in a port sits, in the copy, in the port that lies across, where there is one.
    """
    pivot = np.zeros(3)
    pivot[axis] = at
    added = duplicate_runs(project, run_ids)
    done, open_ends = mirrored_runs(added.project, added.ids, pivot, axis), 0
    for old, new in zip(run_ids, added.ids, strict=True):
        ends: tuple[Literal["start", "end"], ...] = ("start", "end")
        for end in ends:
            plug = plug_of(path_of(project, old), end)
            if plug is None:
                continue
            other = _port_across(project, plug, axis, at)
            if other is None:
                open_ends += 1
            else:
                done = _plugged_anew(done, path_of(done, new).id, end, Plug(*other, plug.lead, plug.tuck, plug.widths))
    loose = sum(isinstance(k.hold, PointHold | PathHold) for r in run_ids for k in path_of(project, r).knots)
    return Across(done, added.ids, open_ends, loose)


def _plugged_anew(project: Project, path_id: str, end: Literal["start", "end"], plug: Plug) -> Project:
    """Plugs an end in; the copied lead, which holds on to nothing yet, goes first: the plug makes its own."""
    path = project.find("paths", path_id)
    if plug.lead > 0.0 and len(path.knots) > 2:
        knots = [*path.knots[:1], *path.knots[2:]] if end == "start" else [*path.knots[:-2], *path.knots[-1:]]
        project = with_path(project, evolve(path, knots=tuple(knots)))
    return plugged(project, path_id, end, plug)


def _port_across(project: Project, plug: Plug, axis: int, at: float) -> tuple[str, str] | None:
    """Host and port ids of the port that is the mirror image of another one."""
    mine = placed_port(*port_by_id(project, plug.host, plug.port))
    flip = np.ones(3)
    flip[axis] = -1.0
    shift = np.zeros(3)
    shift[axis] = 2.0 * at
    centre, way = np.array(mine.centre) * flip + shift, np.array(mine.direction) * flip
    for host in project.hosts:
        for port in host.ports:
            found = placed_port(host, port)
            near = np.abs(np.subtract(found.centre, centre)).max() <= _SAME
            if near and np.abs(np.subtract(found.direction, way)).max() <= _SAME:
                return host.id, port.id
    return None
