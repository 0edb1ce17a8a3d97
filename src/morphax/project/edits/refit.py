"""Paths fitted anew by few knots, and ends that nearly meet joined."""

from dataclasses import replace

import numpy as np

from morphax.core.errors import PathError
from morphax.core.path.freehand import path_of_stroke
from morphax.core.path.path_edits import largest_change
from morphax.core.path.paths import PathShape
from morphax.core.path.resolved import path_polyline, resolve_path
from morphax.project.draft import Draft
from morphax.project.edits.paths import knots_from, set_closed
from morphax.project.edits.reshape import Reshaped, with_path
from morphax.project.lookup import path_by_id, path_of, path_shape, run_width
from morphax.project.model.document import DocumentError, Knot, Path, Project, evolve

CLOSE = 1e-4
"""Ends that are no farther apart become one knot, m."""
_SHARE = 1.0 / 50.0


def refitted(project: Project, path_id: str, within: float) -> Reshaped:
    """The path as a handles path of few knots that stays within a distance, m, of what it was; tells how near it is.

    Sharp turns stay corners; ends stay the same knots and keep what they hold on to. Raises DocumentError unless
    ``within`` is more than 0.
    """
    if not within > 0.0:
        raise DocumentError("a path is fitted within a distance that is more than 0")
    path = path_by_id(project, path_id)
    before = resolve_path(path_shape(path))
    points = path_polyline(before, per_span=24)
    fine = _even(points, max(200, len(points)))
    shape = path_of_stroke(fine, within)
    if path.closed:
        shape = _closed(shape)
    draft = Draft(project)
    ids = [path.knots[0].id, *draft.new_ids("k", len(shape.knots) - 1)]
    if not path.closed:
        ids[-1] = path.knots[-1].id
    own = {k.id: k for k in (path.knots[0], path.knots[-1])}
    knots = tuple(_holding(k, own) for k in knots_from(shape, ids, {}))
    changed = evolve(path, kind=shape.kind, made=None, knots=knots)
    after = resolve_path(path_shape(changed))
    draft.put(changed)
    return Reshaped(draft.done(), largest_change(before.chain, after.chain))


def _even(points: np.ndarray, count: int) -> np.ndarray:
    """Points along a polyline no farther apart than its length by ``count``; its own corners stay."""
    gap = np.linalg.norm(np.diff(points, axis=0), axis=1)
    pieces = np.maximum(np.ceil(gap * count / max(float(gap.sum()), 1e-300)), 1).astype(int)
    share = np.concatenate([np.arange(k) / k for k in pieces])[:, None]
    out = np.repeat(points[:-1], pieces, axis=0) + share * np.repeat(np.diff(points, axis=0), pieces, axis=0)
    return np.concatenate([out, points[-1:]])


def _closed(shape: PathShape) -> PathShape:
    """A stroke that returns to its start, closed: its last knot becomes the first one, which takes its handle over."""
    if len(shape.knots) < 4:
        raise PathError("a closed path keeps at least 3 knots; choose a smaller distance")
    handles = shape.handles[:-1].copy()
    handles[0, 0] = shape.handles[-1, 0]
    a, b = -handles[0, 0], handles[0, 1]
    turn = float(a @ b) / max(float(np.linalg.norm(a) * np.linalg.norm(b)), 1e-300)
    corner = shape.corner[:-1].copy()
    corner[0] = turn < np.cos(np.radians(10.0))
    if not corner[0]:  # nearly in line: in line
        way = a / np.linalg.norm(a) + b / np.linalg.norm(b)
        way /= np.linalg.norm(way)
        handles[0] = -np.linalg.norm(a) * way, np.linalg.norm(b) * way
    return replace(shape, knots=shape.knots[:-1], closed=True, corner=corner, curved=shape.curved[:-1], handles=handles)


def _holding(knot: Knot, own: dict[str, Knot]) -> Knot:
    """An end knot with what it held on to."""
    old = own.get(knot.id)
    return knot if old is None or old.hold is None else evolve(knot, hold=old.hold, place=old.place)


def refit_run(project: Project, run_id: str) -> Project:
    """A run's path fitted anew within a fiftieth of its width."""
    return refitted(project, path_of(project, run_id).id, _SHARE * run_width(project, run_id)).project


def bridged(project: Project, run_id: str) -> Project:
    """A path whose ends nearly meet, closed: they become one knot, or a span joins them."""
    path: Path = path_of(project, run_id)
    gap = np.linalg.norm(np.subtract(path.knots[-1].place, path.knots[0].place))
    if gap > CLOSE or len(path.knots) < 4:
        return set_closed(project, path.id, True)
    last, first = path.knots[-1], path.knots[0]
    if first.coming is not None and last.coming is not None:
        first = evolve(first, coming=last.coming, kind="loose")
    return with_path(project, evolve(path, closed=True, knots=(first, *path.knots[1:-1])))
