"""Where a click lands while a path is drawn: what catches, what it rests on, and how that is said. No Qt here."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Protocol

import numpy as np

from morphax.app.session.pointer import Pointer
from morphax.app.session.sight import Sight
from morphax.app.session.workspace import Workspace
from morphax.app.tools.shared import typing
from morphax.app.tools.shared.direction_lock import locked
from morphax.app.tools.shared.landing import Aim, Caught, Ground, Landing, Snapping, Target, landing
from morphax.app.tools.shared.snap_targets import SnapTargets
from morphax.app.tools.shared.typing import Typed
from morphax.core.body.recipe import End
from morphax.core.path.paths import PathKind
from morphax.core.section.sections import section_bounds
from morphax.project.edits.neighbours import lay_on
from morphax.project.edits.resting import Rest, rest_on
from morphax.project.edits.runs import Source, with_recipe
from morphax.project.lookup import path_by_id, path_of, run_by_id, source_shape
from morphax.project.model.document import Place, Project
from morphax.project.units import format_length

_ALONG_NORMAL = 0.9962
"""Cosine of 5 degrees: a span that leaves a face so is meant to leave along its normal."""
_ALIKE = 0.7
"""Cosine between what two knots lie on from which on a path lies on both: a wire from a wall on to a table doesn't."""
_ALONG_EDGE = 0.9
"""Cosine between a span and an edge from which on it follows that rather than crosses it."""
_FLAT, _SAME = 1.0 - 1e-9, 1e-9
"""Cosine between normals of one flat surface; places so near, m, are one."""


class Drawing(Protocol):
    """What is asked of a tool that places knots; ``grounds`` are the surfaces that knots lie on, by their number.

    ``rests``: what it makes can lie on something, ``rests_first``: its first knot does at once.
    """

    workspace: Workspace
    around: SnapTargets
    knots: list[Place]
    grounds: dict[int, Ground]
    typed: Typed
    came: np.ndarray | None
    path_kind: PathKind
    far: Place | None
    rests: bool
    rests_first: bool

    @property
    def wished_width(self) -> float | None: ...


_TALL = 2.0
"""A section that is so many times as high as wide starts by its height."""


def nice_width(view_height: float, source: Source) -> float:
    """A round starting width near 1/40 of the view, m; a tall section, as a skirting board, is about so high."""
    left, low, right, high = section_bounds(source_shape(source))
    tall = (high - low) / max(right - left, 1e-12)
    wanted = view_height / 40.0 / (tall if tall >= _TALL else 1.0)
    power = 10.0 ** np.floor(np.log10(wanted))
    return float(power * min((1.0, 2.0, 5.0, 10.0), key=lambda f: abs(np.log(f * power / wanted))))


def closing_place(tool: Drawing) -> Place | None:
    """The knot on which a click closes the path, once that is possible."""
    if tool.far is not None:
        return tool.far if len(tool.knots) > 1 else None
    return tool.knots[0] if len(tool.knots) >= 3 else None


def lies_on_surfaces(sight: Sight, snapping: Snapping, *, first: bool) -> bool:
    """Whether what is under the pointer counts: in perspective always, in *Top* where things rest; in the other flat
    views for first knots, so that a path never jumps to what lies deeper."""
    return not sight.is_flat or first or (sight.name == "Top" and snapping.resting)


def where(tool: Drawing, at: Pointer, snapping: Snapping) -> Landing | None:
    """Where a click would land now."""
    if at.other_snap:
        snapping = snapping.turned_round()
    previous = np.array(tool.knots[-1]) if tool.knots else None
    around, own = tool.around, tool.workspace.chosen.run_id if tool.knots else None
    caught = around.caught(at, snapping, _targets(tool))
    counts = caught is None and lies_on_surfaces(at.sight, snapping, first=previous is None)
    surface = around.surface(at, snapping, without=() if own is None else (own,)) if counts else None
    is_free = caught is None and surface is None and previous is None and at.sight.is_flat and snapping.faces
    aim = Aim(
        previous=previous,
        on=tool.grounds.get(len(tool.knots) - 1),
        caught=caught,
        snapping=snapping,
        step=at.step,
        upright=at.upright,
        surface=surface,
        first=tool.workspace.bench.work_plane,
        rest=_rest(tool, at, snapping),
        beside=around.beside(at) if is_free else None,
    )
    found = landing(at.sight, at.pixel, aim)
    if found is None or previous is None:
        return found
    if found.ground is not None and arrives(previous, found.ground):
        found = replace(found, place=found.ground.place)
    found = _over_an_edge(tool, found, previous, aim.rest)
    before = previous - np.array(tool.knots[-2]) if len(tool.knots) > 1 else tool.came
    return locked(found, previous, before, at)


def _over_an_edge(tool: Drawing, found: Landing, previous: np.ndarray, rest: float) -> Landing:
    """A knot of a through path that lies on a host, caught by an edge that it crosses: it goes over it, its reach off
    both faces. One that follows the edge stays on it."""
    target, on = found.target, tool.grounds.get(len(tool.knots) - 1)
    if target is None or len(target.faces) != 2 or on is None or on.of != target.host or rest <= 0.0:
        return found
    way = found.place - previous
    along = abs(float(way @ np.array(target.ways[0]))) / max(float(np.linalg.norm(way)), 1e-300)
    if tool.path_kind is not PathKind.THROUGH or along > _ALONG_EDGE:
        return found
    both = np.array(target.faces).sum(0)
    size = float(np.linalg.norm(both))  # twice the cosine of half the angle between the faces
    if size < _ALONG_EDGE:
        return found
    ground = Ground(found.place, both / size, target.host, 2.0 / size)
    return replace(found, place=found.place + rest * ground.times * ground.normal, ground=ground)


def _rest(tool: Drawing, at: Pointer, snapping: Snapping) -> float:
    """How far the next knot stands above what it lies on, m."""
    if not (snapping.resting and tool.rests and (tool.knots or tool.rests_first)):
        return 0.0
    return tool.around.rest(tool.wished_width or nice_width(at.sight.height, tool.workspace.bench.next_run.source))


def first_place(tool: Drawing, next_: Landing | None, snapping: Snapping | None, width: float) -> Place | None:
    """Where the first knot goes once the second shares its surface, lies on one that faces alike, or lies below it: it
    rests there too. None: it stays."""
    ground = tool.grounds.get(0)
    if len(tool.knots) != 1 or ground is None or next_ is None or not tool.rests or tool.rests_first:
        return None
    on = next_.ground
    shares = on is not None and (on.of == ground.of or float(on.normal @ ground.normal) > _ALIKE)
    if snapping is None or not snapping.resting or not (shares or _is_below(ground, next_.place)):
        return None
    if is_along(ground, next_.place):
        return None
    return _place(ground.place + tool.around.rest(width) * ground.normal)


def is_along(ground: Ground, to: np.ndarray) -> bool:
    """Whether a span from what a knot lies on leaves along its normal."""
    way = to - ground.place
    return float(way @ ground.normal) > _ALONG_NORMAL * max(float(np.linalg.norm(way)), 1e-300)


def _is_below(ground: Ground, to: np.ndarray) -> bool:
    """Whether a span from what a knot lies on would lead into it."""
    way = to - ground.place
    return float(way @ ground.normal) < -_SAME * max(float(np.linalg.norm(way)), 1.0)


def arrives(previous: np.ndarray, ground: Ground) -> bool:
    """Whether a span comes to the face of a host along its normal."""
    return bool(ground.of) and is_along(ground, previous)


def with_cut_ends(
    tool: Drawing, project: Project, run_id: str, *, closed: bool, next_: Landing | None = None
) -> Project:
    """The project with the ends of the run that leave a face of a host along its normal cut to that host.

    An end that is neither flat nor open stays what it is; both ends share one host.
    """
    knots = [np.array(k.place) for k in path_of(project, run_id).knots]
    if closed or len(knots) < 2 or not tool.rests:
        return project
    last = tool.grounds.get(len(knots) - 1) if next_ is None else next_.ground
    ends = run_by_id(project, run_id).recipe.ends
    for name, ground, own, to in (
        ("start", tool.grounds.get(0), knots[0], knots[1]),
        ("end", last, knots[-1], knots[-2]),
    ):
        host = None if ground is None else project.find("hosts", ground.of)
        if ground is None or host is None or not host.is_solid or getattr(ends, name) not in (End.FLAT, End.OPEN):
            continue
        if np.array_equal(own, ground.place) and is_along(ground, to):
            run_host = run_by_id(project, run_id).recipe.host
            if run_host in (None, ground.of):
                ends = replace(ends, start=End.CUT) if name == "start" else replace(ends, end=End.CUT)
                project = with_recipe(lay_on(project, [run_id], ground.of), [run_id], ends=ends)
    return project


def with_rests(tool: Drawing, project: Project, path_id: str, ids: Sequence[str], next_: Landing | None) -> Project:
    """The project with those of the knots ``ids`` that lie on the floor, on a host or on another body resting there.

    Those that begin or end a path on a face itself don't.
    """
    grounds = [*tool.grounds.values(), *([] if next_ is None or next_.ground is None else [next_.ground])]
    wanted, rest = set(ids), tool.around.rest(tool.wished_width or 0.0)
    out: dict[str, Rest] = {}
    knots, before = path_by_id(project, path_id).knots, None
    for i, knot in enumerate(knots) if tool.rests and grounds else ():
        below = _ground_below(np.array(knot.place), grounds, rest)
        ground = None if below is None else replace(below[1], place=below[0])
        if ground is not None and knot.id in wanted:
            onward = np.array(knots[i + 1].place) if i + 1 < len(knots) else None
            out[knot.id] = rest_of(project, _gone_off(ground, before, onward))
        before = ground
    return rest_on(project, path_id, out) if out else project


def _gone_off(ground: Ground, before: Ground | None, onward: np.ndarray | None) -> Ground:
    """What a knot on an edge lies on: where the path goes on upwards from there, the face that it came along alone."""
    if ground.times == 1.0 or before is None or onward is None or before.times != 1.0:
        return ground
    return Ground(ground.place, before.normal, ground.of) if _is_above(before, onward) else ground


def _is_above(ground: Ground, place: np.ndarray) -> bool:
    """Whether a place lies above the plane of what a knot lies on."""
    off = place - ground.place
    return float(off @ ground.normal) > _SAME * max(float(np.linalg.norm(off)), 1.0)


def rest_of(project: Project, ground: Ground) -> Rest:
    """What a knot is laid on, for the document."""
    run = ground.of if ground.of and project.find("runs", ground.of) is not None else None
    host = ground.of if ground.of and run is None else None
    return Rest(host, _place(ground.place), _place(ground.normal), ground.times, run)


def _ground_below(place: np.ndarray, grounds: Sequence[Ground], rest: float) -> tuple[np.ndarray, Ground] | None:
    """The foot of a knot that stands ``rest`` m above what it was laid on; for the corners between clicks, above the
    flat surface of all."""
    first = grounds[0]
    is_flat = len(grounds) > 1 and all(
        g.of == first.of
        and g.times == 1.0
        and g.normal @ first.normal > _FLAT
        and abs((g.place - first.place) @ first.normal) < _SAME
        for g in grounds
    )
    for ground in grounds:
        height = float((place - ground.place) @ ground.normal) / ground.times
        foot = place - height * ground.times * ground.normal
        above = is_flat or float(np.linalg.norm(foot - ground.place)) < _SAME
        if above and abs(height - rest) < _SAME:
            return foot, ground
    return None


def _place(p: np.ndarray) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))


def _targets(tool: Drawing) -> tuple[Target, ...]:
    """Knots that catch the pointer: of all runs, and the first one of this path once it can be closed."""
    found = [Target("knot", k.place) for p in tool.workspace.history.now.project.paths for k in p.knots]
    closing = closing_place(tool)
    if closing is not None:
        found.append(Target("first knot: closes", closing))
    return tuple(found)


def depth_words(sight: Sight, place: np.ndarray, unit: str) -> str:
    """The depth of a place as a number along the view's own axis: what the view doesn't show."""
    if sight.is_flat and abs(float(sight.basis.forward[2])) < 0.5:
        axis = int(np.argmax(np.abs(sight.basis.forward)))
        return f"depth {'xyz'[axis]} {format_length(float(place[axis]) + 0.0, unit=unit, decimals=1)}"
    height = float(place[2])
    side = "below" if height < -1e-9 else "above"
    return f"{format_length(abs(height), unit=unit, decimals=1)} {side} the floor"


def words_of(tool: Drawing, sight: Sight | None, next_: Landing | None) -> str:
    """What is said beside the pointer: how far the next knot is, how deep it lies, and what it is caught by."""
    if next_ is None or sight is None:
        return ""
    unit = tool.workspace.project.unit
    depth = depth_words(sight, next_.place, unit)
    if not tool.knots:
        return f"{next_.plane} · {depth}" if next_.caught is not Caught.KNOT else next_.plane
    span = float(np.linalg.norm(next_.place - np.array(tool.knots[-1])))
    is_named = next_.caught not in (Caught.GRID, Caught.NOTHING) or next_.plane.startswith(("along", "at "))
    caught = f" · {next_.plane}" if is_named else ""
    if not tool.typed.is_empty:
        return f"{typing.label(tool.typed)} · {depth}"
    return f"{format_length(span, unit=unit, decimals=1)} · {depth}{caught}"
