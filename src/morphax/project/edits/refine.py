"""Refining paths: lining up, spacing, extending and trimming, splitting and joining, flattening."""

from collections.abc import Callable, Sequence
from typing import Literal

import numpy as np

from morphax.core.body.range import WHOLE
from morphax.core.body.reference import multiplied
from morphax.core.errors import PathError
from morphax.core.path.arclength import places_at
from morphax.core.path.paths import PathKind
from morphax.core.path.resolved import ResolvedPath, points_along, resolve_path
from morphax.core.pieces.sets import corners_of
from morphax.core.types import Floats, Points3
from morphax.core.vectors import unit
from morphax.project.derive.along import with_knots
from morphax.project.derive.strands import without_guides
from morphax.project.draft import Draft
from morphax.project.edits.even_out import compared, free_knot, free_path
from morphax.project.edits.holding import is_fixed, is_lead
from morphax.project.edits.knots import set_knot_kind, set_path_kind
from morphax.project.edits.paths import insert_knot, knot_index, move_knots, reverse_path, without_lone_leads
from morphax.project.edits.pieces import led_on
from morphax.project.edits.range_path import JoinedPart, part_of
from morphax.project.edits.range_path import joined as joined_ranges
from morphax.project.edits.reshape import Reshaped, with_path
from morphax.project.edits.resting import Rest, rest_on, slid
from morphax.project.edits.runs import Added, drop_unused_paths, with_runs
from morphax.project.edits.split_pieces import CutPath, sets_of_part
from morphax.project.edits.station_values import with_own_sets, with_own_stations
from morphax.project.edits.timing_path import cut_in_two, made_one
from morphax.project.edits.transform import mirrored, targets_of, transformed
from morphax.project.lookup import path_by_id, path_of, path_shape, run_by_id
from morphax.project.model.document import Knot, Path, Place, Project, RestHold, Run, evolve

End = Literal["start", "end"]
_LEAST = 1e-6


def _place(p: Floats) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))


def _places(path: Path) -> Points3:
    return np.array([k.place for k in path.knots], dtype=np.float64).reshape(-1, 3)


def _chosen(path: Path, knot_ids: Sequence[str]) -> list[int]:
    """Positions of some knots, all where none is named, in the path's order."""
    wanted = set(knot_ids) or {k.id for k in path.knots}
    return [i for i, k in enumerate(path.knots) if k.id in wanted]


def lined_up(project: Project, path_id: str, knot_ids: Sequence[str], axis: int) -> Reshaped:
    """Knots that share one coordinate, their mean, along a world axis (0 x, 1 y, 2 z)."""
    path = free_path(project, path_id)
    index, places = _chosen(path, knot_ids), _places(path)
    places[index, axis] = places[index, axis].mean()
    moved = {path.knots[i].id: _place(places[i]) for i in index}
    return compared(project, move_knots(project, path_id, moved), path_id)


def lined_between(project: Project, path_id: str, knot_ids: Sequence[str]) -> Reshaped:
    """Knots put on the line through the first and the last of them, straight across to it."""
    path = free_path(project, path_id)
    index, places = _chosen(path, knot_ids), _places(path)
    if len(index) < 3:
        raise PathError("choose three knots or more: all come onto the line through the first and the last")
    start, way = places[index[0]], places[index[-1]] - places[index[0]]
    size = float(way @ way)
    if size <= 0.0:
        raise PathError("the first and the last knot lie on one spot; they give no line")
    foot = start + ((places[index] - start) @ way / size)[:, None] * way
    moved = {path.knots[i].id: _place(p) for i, p in zip(index[1:-1], foot[1:-1], strict=True)}
    return compared(project, move_knots(project, path_id, moved), path_id)


def straightened(project: Project, path_id: str, knot_ids: Sequence[str]) -> Reshaped:
    """The knots from the first to the last chosen one put on the straight line between them, in their proportions."""
    path = free_path(project, path_id)
    index, places = _chosen(path, knot_ids), _places(path)
    first, last = index[0], index[-1]
    if last - first < 2:
        raise PathError("choose two knots with others between them")
    stretch = places[first : last + 1]
    share = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(stretch, axis=0), axis=1))])
    share /= max(share[-1], 1e-300)
    line = stretch[0] + share[:, None] * (stretch[-1] - stretch[0])
    moved = {path.knots[first + i].id: _place(p) for i, p in enumerate(line) if 0 < i < len(line) - 1}
    return compared(project, move_knots(project, path_id, moved), path_id)


def spaced_out(project: Project, path_id: str, knot_ids: Sequence[str]) -> Reshaped:
    """The knots from the first to the last chosen one at equal distances along the path as it runs."""
    path = free_path(project, path_id)
    index, resolved = _chosen(path, knot_ids), resolve_path(path_shape(path))
    first, last = index[0], index[-1]
    if last - first < 2:
        raise PathError("choose two knots with others between them")
    at = np.linspace(resolved.knot_at[first], resolved.knot_at[last], last - first + 1)
    moved = {
        path.knots[first + i].id: _place(p) for i, p in enumerate(points_along(resolved, at)) if 0 < i < len(at) - 1
    }
    return compared(project, move_knots(project, path_id, moved), path_id)


def knots_between(project: Project, path_id: str, knot_ids: Sequence[str], count: int) -> Reshaped:
    """``count`` new knots on each span between neighbouring chosen knots; the curve keeps its shape."""
    path = free_path(project, path_id)
    wanted = {path.knots[i].id for i in _chosen(path, knot_ids)}
    n = len(path.knots)
    pairs = [(i, (i + 1) % n) for i in range(n if path.closed else n - 1)]
    spans = [i for i, j in pairs if path.knots[i].id in wanted and path.knots[j].id in wanted]
    if path.kind.is_made:
        raise PathError(f"a {path.kind} path gets knots by even out, or as a handles path")
    if not spans or not 1 <= count <= 1000:
        raise PathError("choose two knots that follow each other, and 1 to 1 000 knots between them")
    new: list[str] = []
    for span in reversed(spans):
        for k in range(count):
            done = insert_knot(project, path_id, span + k, 1.0 / (count + 1 - k))
            project, new = done.project, [*new, *done.knots]
    return Reshaped(project, knots=tuple(new))


def extended(project: Project, path_id: str, end: End, by: float) -> Reshaped:
    """A path that goes on past an end by ``by`` m, along its tangent there. Raises PathError on a closed path."""
    path = free_path(project, path_id)
    if path.closed:
        raise PathError("a closed path has no end to extend")
    if not by > 0.0:
        raise PathError("a path is extended by more than 0")
    spans = resolve_path(path_shape(path)).chain.spans
    out = spans[0, 0] - spans[0, 1] if end == "start" else spans[-1, 3] - spans[-1, 2]
    tip = np.array(path.knots[0 if end == "start" else -1].place)
    draft = Draft(project)
    knot = free_knot(path, draft.new_id("k"), tip + by * unit(out[None])[0])
    last, second = path.knots[:2] if end == "start" else reversed(path.knots[-2:])
    freed: tuple[Knot, ...] = (
        (last, second) if is_lead(last, second) else (last,)
    )  # an end with its lead lets go of its port
    rest = slid(last, knot.place)
    if isinstance(last.hold, RestHold):
        freed = freed[1:]  # it goes on resting, and the new end does where the path goes on along the surface
        flat = np.allclose(rest.place, knot.place, rtol=0.0, atol=1e-9)
        knot = evolve(knot, hold=rest.hold) if flat else knot
    knots = tuple(evolve(k, hold=None) if k in freed and k.hold is not None else k for k in path.knots)
    longer = (knot, *knots) if end == "start" else (*knots, knot)
    draft.put(evolve(path, knots=longer))
    return Reshaped(draft.done(), knots=(knot.id,))


def trimmed(project: Project, path_id: str, end: End, by: float) -> Reshaped:
    """A path without its first or last ``by`` m; what is left keeps its shape (a curved path has handles then).

    Raises PathError where nothing is left.
    """
    resolved = _with_ends(project, path_id)
    if not 0.0 < by < resolved.length - _LEAST:
        raise PathError("a path is trimmed by more than 0 and less than its length")
    return trimmed_to(project, path_id, end, by if end == "start" else resolved.length - by)


def _with_ends(project: Project, path_id: str) -> ResolvedPath:
    path = path_by_id(project, path_id)
    if path.closed:
        raise PathError("a closed path has no end to trim; open it first")
    return resolve_path(path_shape(path))


def trimmed_to(project: Project, path_id: str, end: End, at: float) -> Reshaped:
    """A path that starts or ends at a distance ``at`` along it, m: at a knot where one is there, else at a new one.

    What is left keeps its shape. Raises PathError where nothing is left, or nothing goes.
    """
    resolved = _with_ends(project, path_id)
    rest, gone = (resolved.length - at, at) if end == "start" else (at, resolved.length - at)
    if rest <= _LEAST or gone <= _LEAST:
        raise PathError(f"there is nothing to trim {'before' if end == 'start' else 'behind'} this place")
    if path_by_id(project, path_id).kind is not PathKind.STRAIGHT:
        project = _as_handles(project, path_id)
        resolved = _with_ends(project, path_id)
    path = path_by_id(project, path_id)
    near = np.abs(resolved.knot_at - at)
    if near.min() <= _LEAST:
        k = int(np.argmin(near))
    else:
        project, k = _with_knot_at(project, path_id, resolved, at)
        path = path_by_id(project, path_id)
    tip = evolve(path.knots[k], radius=0.0)
    knots = [tip, *path.knots[k + 1 :]] if end == "start" else [*path.knots[:k], tip]
    return Reshaped(with_path(project, evolve(path, knots=without_lone_leads(knots))))


def _as_handles(project: Project, path_id: str) -> Project:
    """The same curve as a handles path whose knots all have their own handles: its spans do not hang together."""
    if path_by_id(project, path_id).kind is not PathKind.HANDLES:
        project = set_path_kind(project, path_id, PathKind.HANDLES).project
    smooth = [k.id for k in path_by_id(project, path_id).knots if k.kind == "smooth"]
    return set_knot_kind(project, path_id, smooth, "in line") if smooth else project


def _with_knot_at(project: Project, path_id: str, resolved: ResolvedPath, at: float) -> tuple[Project, int]:
    """The project with a knot at a distance, and its position."""
    found = places_at(resolved.table, np.array([at]))
    done = insert_knot(project, path_id, int(found.span[0]), float(found.t[0]))
    return done.project, knot_index(path_by_id(done.project, path_id), done.knots[0])


def split(project: Project, run_id: str, knot_id: str) -> Added:
    """A run cut at a knot into two that start with equal settings; the curve stays. Raises PathError at an end."""
    run, path = run_by_id(project, run_id), path_of(project, run_id)
    k = knot_index(path, knot_id)
    if path.closed:
        raise PathError("a closed path is opened before it is split")
    if not 0 < k < len(path.knots) - 1:
        raise PathError("a path is split at a knot between its ends")
    if sum(r.recipe.path == path.id for r in project.runs) > 1:
        raise PathError("several runs share this path; it cannot be split")
    if path.kind not in (PathKind.STRAIGHT, PathKind.HANGING):  # both sides of a smooth knot hang together
        project = _as_handles(project, path.id)
        path = path_by_id(project, path.id)
        if all(q.id != knot_id for q in path.knots):
            raise PathError("a pulled or ready-made path is made a handles path before it is split")
        k = knot_index(path, knot_id)
    first_run, second_run = _split_ranges_and_times(run, path, k)
    draft = Draft(project)
    path_id, knot_id = draft.new_id("p"), draft.new_id("k")
    second = evolve(path, id=path_id, knots=(evolve(path.knots[k], id=knot_id), *path.knots[k + 1 :]))
    draft.put(evolve(path, knots=path.knots[: k + 1]))
    draft.add(second)
    twins = {path.knots[k].id: knot_id}
    stations = with_own_stations(draft, run.recipe.stations, twins)
    sets = with_own_sets(draft, second_run.recipe.sets)
    recipe = evolve(
        second_run.recipe, path=second.id, stations=stations, varying=with_knots(run.recipe.varying, twins), sets=sets
    )
    twin = evolve(
        second_run,
        id=draft.new_id("r"),
        recipe=recipe,
        show=evolve(run.show, name=draft.free_name("runs", run.show.name)),
    )
    place = project.position("runs", run_id)
    runs = (*project.runs[:place], first_run, twin, *project.runs[place + 1 :])
    return Added(draft.done(runs=runs), (run_id, twin.id))


def _split_ranges_and_times(run: Run, path: Path, k: int) -> tuple[Run, Run]:
    """A run on both parts of its path, each showing what was shown there, when it was, with the pieces that stood
    there."""
    if run.recipe.range == WHOLE and run.times is None and not run.recipe.sets:
        return run, run
    resolved = resolve_path(path_shape(path))
    at, length = float(resolved.knot_at[k]), resolved.length
    first, second = run, run
    if run.recipe.range != WHOLE or run.times is not None:
        first, second = cut_in_two(run, part_of(run, 0.0, at, length), part_of(run, at, length, length), at, length)
    cut = CutPath(length, resolved.knot_at, corners_of(resolved))
    sets = (sets_of_part(run, part, cut) for part in ((0.0, at), (at, length)))
    one, two = (
        evolve(part, recipe=evolve(part.recipe, sets=own, has_body=part.recipe.has_body or not own))
        for part, own in zip((first, second), sets, strict=True)
    )
    return one, two


def joined(project: Project, first_id: str, second_id: str) -> Reshaped:
    """Two runs made one, with the first one's settings: their nearest ends meet, bridged by a span where apart.

    Returns how far the ends were apart. Raises PathError where the paths are closed or of different kinds.
    """
    a, b = path_of(project, first_id), path_of(project, second_id)
    if a.closed or b.closed:
        raise PathError("closed paths have no ends to join")
    if a.kind is not b.kind:
        raise PathError(f"a {a.kind} and a {b.kind} path are not joined; make them the same kind first")
    tips = [(a.knots[k].place, b.knots[m].place, k, m) for k in (-1, 0) for m in (0, -1)]
    gaps = [float(np.linalg.norm(np.subtract(p, q))) for p, q, _, _ in tips]
    gap, (_, _, k, m) = min(zip(gaps, tips, strict=True), key=lambda found: found[0])
    if k == 0:  # the first one's body stays where it is, with its ends
        project = reverse_path(project, a.id)
    x, y = path_of(project, first_id), b if m == 0 else _turned(b)
    rest = y.knots[1:] if gap <= 1e-4 else y.knots
    last = evolve(x.knots[-1], curved=y.knots[0].curved if gap <= 1e-4 else x.knots[-1].curved, step=None)
    knots = (*x.knots[:-1], last, *rest)
    draft = Draft(project)
    whole = evolve(x, knots=knots)
    draft.put(whole)
    made = _with_both_ranges(project, (first_id, second_id), (x, whole, y), turned=m != 0)
    draft.put(evolve(made, times=made_one(made, run_by_id(project, second_id))))
    draft.drop("runs", [second_id, *without_guides(draft, [second_id])])
    drop_unused_paths(draft)
    led = [a.id, *([] if draft.find("paths", b.id) else [b.id])]
    return Reshaped(led_on(draft.done(), led, a.id), gap)


def _with_both_ranges(
    project: Project, run_ids: tuple[str, str], paths: tuple[Path, Path, Path], *, turned: bool
) -> Run:
    """The first of two runs that are joined, showing what both showed; ``paths``: of the first, of both, of the second,
    which is ``turned`` there."""
    first, second = (run_by_id(project, i) for i in run_ids)
    if WHOLE == first.recipe.range == second.recipe.range:
        return first
    x, whole, y = (resolve_path(path_shape(p)) for p in paths)
    n, k = len(paths[0].knots), len(paths[1].knots) - len(paths[2].knots)
    a, b = (float(whole.knot_at[i]) / whole.length for i in (n - 1, k))
    return joined_ranges(first, JoinedPart(first, x.length, 0.0, a), JoinedPart(second, y.length, b, 1.0, turned))


def _turned(path: Path) -> Path:
    """A path walked the other way, its spans going along."""
    knots = tuple(reversed(path.knots))
    spans = [*(k.curved for k in knots[1:]), knots[-1].curved]
    return evolve(
        path,
        knots=tuple(
            evolve(k, curved=c, step=None, coming=k.leaving, leaving=k.coming)
            for k, c in zip(knots, spans, strict=True)
        ),
    )


def mirrored_runs(project: Project, run_ids: Sequence[str], pivot: Floats, axis: int) -> Project:
    """Runs mirrored across a plane through a pivot (3,), m, at right angles to a world axis (0 x, 1 y, 2 z).

    Their bodies are mirror images, whatever their recipes; so are those of other runs on the same paths.
    """
    mirror, targets = mirrored(axis), targets_of(project, run_ids)
    done = transformed(project, targets, pivot, mirror, frees=True)
    sharing = [r.id for r in done.runs if r.recipe.path in targets]

    def seen(run: Run) -> Run:
        return evolve(run, recipe=evolve(run.recipe, reference=multiplied(run.recipe.reference, mirror.matrix)))

    return with_runs(done, sharing, seen)


def flattened(
    project: Project, path_id: str, knot_ids: Sequence[str], plane: tuple[Floats, Floats] | None = None
) -> Reshaped:
    """Knots brought straight down into a plane, a place and its unit normal (3,); or into the one that fits best."""
    path = free_path(project, path_id)
    index, places = _chosen(path, knot_ids), _places(path)
    own = places[index]
    middle = own.mean(0) if plane is None else plane[0]
    normal = np.linalg.svd(own - middle, full_matrices=False)[2][-1] if plane is None else plane[1]
    flat = own - ((own - middle) @ normal)[:, None] * normal
    moved = {path.knots[i].id: _place(p) for i, p in zip(index, flat, strict=True)}
    return compared(project, move_knots(project, path_id, moved), path_id)


def dropped(
    project: Project, path_id: str, knot_ids: Sequence[str], below: Callable[[Place], Rest | None]
) -> tuple[Project, int]:
    """Knots laid on what is ``below`` them, where they rest from then on; and how many had nothing below.

    What holds on to something else stays there.
    """
    path = free_path(project, path_id)
    chosen = [path.knots[i] for i in _chosen(path, knot_ids)]
    found = {k.id: below(k.place) for k in chosen if not is_fixed(project, k)}
    down = {k: r for k, r in found.items() if r is not None}
    return rest_on(project, path_id, down) if down else project, len(found) - len(down)
