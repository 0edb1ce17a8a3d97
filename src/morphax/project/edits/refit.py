"""Paths fitted anew by few knots, and ends that nearly meet joined."""

from dataclasses import replace

import numpy as np

from morphax.core.errors import PathError
from morphax.core.path.freehand import path_of_stroke
from morphax.core.path.path_edits import largest_change
from morphax.core.path.paths import PathShape
from morphax.core.path.resolved import path_polyline, resolve_path
from morphax.project.draft import Draft
from morphax.project.edits.holding import is_lead
from morphax.project.edits.paths import knots_from, set_closed
from morphax.project.edits.reshape import Reshaped, with_path
from morphax.project.edits.resting import with_rests_between
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
    first, last = (int(not path.closed and is_lead(path.knots[a], path.knots[b])) for a, b in ((0, 1), (-1, -2)))
    points = _between(points, before.knot_at[first], before.length - before.knot_at[-1 - last])
    fine = _even(points, max(200, len(points)))
    shape = path_of_stroke(fine, within)
    if path.closed:
        shape = _closed(shape)
    draft = Draft(project)
    ids = [path.knots[first].id, *draft.new_ids("k", len(shape.knots) - 1)]
    if not path.closed:
        ids[-1] = path.knots[-1 - last].id
    own = {k.id: k for k in (path.knots[first], path.knots[-1 - last])}
    fitted = list(with_rests_between([_holding(k, own) for k in knots_from(shape, ids, {})], set(ids) - set(own)))
    start = [_plain_end(path.knots[0])] if first else []
    end = [_plain_end(path.knots[-1])] if last else []
    if first:
        fitted[0] = _on_axis(fitted[0], np.subtract(fitted[0].place, path.knots[0].place))
    if last:
        fitted[-1] = evolve(_on_axis(fitted[-1], np.subtract(path.knots[-1].place, fitted[-1].place)), curved=False)
    knots = (*start, *fitted, *end)
    changed = evolve(path, kind=shape.kind, made=None, knots=knots)
    after = resolve_path(path_shape(changed))
    draft.put(changed)
    return Reshaped(draft.done(), largest_change(before.chain, after.chain))


def _between(points: np.ndarray, a: float, b: float) -> np.ndarray:
    """The part of a polyline from ``a`` m behind its start to ``b`` m before its end."""
    at = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
    b = float(at[-1]) - b
    inside = points[(at > a + 1e-9) & (at < b - 1e-9)]
    ends = [np.array([np.interp(s, at, points[:, c]) for c in range(3)]) for s in (a, b)]
    return np.concatenate([ends[:1], inside, ends[1:]])


def _plain_end(knot: Knot) -> Knot:
    """An end that is plugged in: a corner, from which a straight span leads to its lead."""
    return evolve(knot, kind="corner", curved=False, coming=None, leaving=None, step=None)


def _on_axis(lead: Knot, way: np.ndarray) -> Knot:
    """A lead whose handles lie on its port's axis; ``way`` (3,) along the path there."""
    way = way / np.linalg.norm(way)
    out = np.linalg.norm(lead.leaving) if lead.leaving is not None else 0.0
    back = np.linalg.norm(lead.coming) if lead.coming is not None else 0.0
    size = max(float(out), float(back), 1e-9)
    ahead, behind = (float(v or size) * way for v in (out, back))
    return evolve(
        lead,
        kind="in line",
        leaving=(float(ahead[0]), float(ahead[1]), float(ahead[2])),
        coming=(float(-behind[0]), float(-behind[1]), float(-behind[2])),
    )


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
