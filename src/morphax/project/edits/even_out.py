"""Knots spaced evenly along a path, by their number or by their distance; corners stay where they are."""

from collections.abc import Callable, Sequence

import numpy as np

from morphax.core.errors import PathError
from morphax.core.path.path_fit import fitted_between, path_change, sharp_path
from morphax.core.path.paths import PathKind
from morphax.core.path.resolved import ResolvedPath, points_along
from morphax.core.types import Floats
from morphax.project.draft import Draft
from morphax.project.edits.ready_made import keeps_shape
from morphax.project.edits.reshape import Reshaped
from morphax.project.edits.resting import with_rests_between
from morphax.project.lookup import path_by_id, path_shape
from morphax.project.model.document import DocumentError, Knot, Path, Place, Project, RestHold, evolve

_MOST_KNOTS = 10_000
InnerOf = Callable[[int, Sequence[float]], list[int]]
"""From the number of knots that stay, and the lengths between them, to how many come between."""


def evened_out(project: Project, path_id: str, count: int) -> Reshaped:
    """The path with ``count`` knots at equal distances along it; its corners stay where they are.

    Between two corners the knots are shared out by length. Held ends stay held. Raises PathError below 2.
    """
    path = free_path(project, path_id)
    least = 3 if path.closed else 2
    if not least <= count <= _MOST_KNOTS:
        raise PathError(f"a path keeps at least {least} knots, and at most {_MOST_KNOTS}")
    return _evened(project, path, lambda kept, sizes: _shared_out(max(0, count - kept), sizes))


def evened_by(project: Project, path_id: str, distance: float) -> Reshaped:
    """The path with knots as near to ``distance`` m apart along it as its corners, which stay, allow.

    Each stretch between corners is divided evenly. Raises PathError where that gives more than 10 000 knots.
    """
    path = free_path(project, path_id)
    length = sharp_path(path_shape(path)).length
    if not distance > 0.0 or length / distance > _MOST_KNOTS:
        raise PathError(f"so near to each other there would be more than {_MOST_KNOTS} knots")
    least = 3 if path.closed else 2

    def inner(kept: int, sizes: Sequence[float]) -> list[int]:
        found = [max(1, round(size / distance)) - 1 for size in sizes]
        return found if kept + sum(found) >= least else _shared_out(least - kept, sizes)

    return _evened(project, path, inner)


_MOST_TRIED = 400


def evened_within(project: Project, path_id: str, deviation: float) -> Reshaped:
    """As few knots as keep the path within a deviation, m, evenly spaced between those that stay.

    Raises PathError where so many are needed that it makes no sense.
    """
    if not deviation > 0.0:
        raise PathError("a deviation is more than 0")
    path = free_path(project, path_id)
    count = max(3 if path.closed else 2, len(_kept(path, sharp_path(path_shape(path)))))
    low = count - 1
    while (done := evened_out(project, path_id, count)).deviation > deviation:
        low, count = count, 2 * count
        if count > _MOST_TRIED:
            raise PathError(f"more than {_MOST_TRIED} knots would be needed for that")
    while count - low > 1:
        middle = (low + count) // 2
        tried = evened_out(project, path_id, middle)
        low, count, done = (low, middle, tried) if tried.deviation <= deviation else (middle, count, done)
    return done


def _evened(project: Project, path: Path, inner_of: InnerOf) -> Reshaped:
    """The path with new knots between those that stay. A handles path gets the handles that keep its curve nearest."""
    measured = sharp_path(path_shape(path))
    if len(measured.shape.knots) != len(path.knots):
        raise PathError("this path has doubled knots; weld them first")
    kept = _kept(path, measured)
    at = [float(measured.knot_at[i]) for i in kept]
    cuts = [*at, at[0] + measured.length] if path.closed else at
    inner = inner_of(len(kept), np.diff(cuts).tolist())
    stops = [np.linspace(a, b, k + 2)[:-1] for a, b, k in zip(cuts[:-1], cuts[1:], inner, strict=True)]
    places = np.concatenate([*stops, [] if path.closed else cuts[-1:]])
    own = np.cumsum([0, *(len(s) for s in stops)])
    old = {int(k): path.knots[i] for k, i in zip(own, kept, strict=False)}
    points, draft = points_along(measured, places % measured.length if path.closed else places), Draft(project)
    knots = [old.get(k) or free_knot(path, draft.new_id("k"), p) for k, p in enumerate(points)]
    knots = [evolve(k, step=None) for k in knots]
    if path.kind is PathKind.HANDLES:
        knots = _with_handles(knots, measured, np.append(places, cuts[-1:]) if path.closed else places)
    else:
        knots = _with_straight(knots, path, kept, own)
    fresh = {k.id for k in knots} - {k.id for k in path.knots}
    draft.put(evolve(path, knots=with_rests_between(knots, fresh)))
    return compared(project, draft.done(), path.id)


def _is_fixed(knot: Knot) -> bool:
    """Whether a knot holds on to a place; one that rests may give way to others that rest as well."""
    return knot.hold is not None and not isinstance(knot.hold, RestHold)


def _kept(path: Path, measured: ResolvedPath) -> list[int]:
    """Knots that stay: corners, held ones, ends of straight spans, ends, and where a closed path starts."""
    straight, n = measured.chain.straight, len(path.knots)
    spans = len(straight)
    beside = {k % n for i in range(spans) if straight[i] for k in (i, i + 1)} if spans == n - (not path.closed) else {}
    ends = [0] if path.closed else [0, n - 1]
    fixed = [i for i, k in enumerate(path.knots) if k.kind in ("corner", "loose") or _is_fixed(k) or i in beside]
    return sorted({*fixed, *ends})


def _with_handles(knots: list[Knot], measured: ResolvedPath, cuts: Floats) -> list[Knot]:
    """Knots with the handles of the cubics that are nearest to the path as it was."""
    handles, line = fitted_between(measured, cuts[:-1], cuts[1:])
    n = len(knots)
    both = np.zeros((n, 2, 3))
    both[: len(handles), 1] = handles[:, 0]
    both[np.arange(1, len(handles) + 1) % n, 0] = handles[:, 1]
    out = []
    for i, knot in enumerate(knots):
        curved = not line[min(i, len(line) - 1)]
        if not both[i].any():
            out.append(evolve(knot, kind="corner", curved=curved, coming=None, leaving=None))
            continue
        kind = "loose" if knot.kind in ("corner", "loose") else "in line"
        out.append(evolve(knot, kind=kind, curved=curved, coming=_place(both[i, 0]), leaving=_place(both[i, 1])))
    return out


def _with_straight(knots: list[Knot], path: Path, kept: list[int], own: np.ndarray) -> list[Knot]:
    """New knots on a straight span of a through path are corners of straight spans, as the span is."""
    out = list(knots)
    for i, first, last in zip(kept, own[:-1], own[1:], strict=False):
        if not path.knots[i].curved:
            out[first + 1 : last] = [evolve(k, kind="corner", curved=False) for k in out[first + 1 : last]]
    return out


def _shared_out(count: int, lengths: Sequence[float]) -> list[int]:
    """Knots for each stretch, by its length; the largest remaining gap takes the next one."""
    out = [0] * len(lengths)
    for _ in range(count):
        k = int(np.argmax([size / (n + 1) for size, n in zip(lengths, out, strict=True)]))
        out[k] += 1
    return out


def free_path(project: Project, path_id: str) -> Path:
    """The path, whose knots can be moved one by one. Raises DocumentError for a ready-made one."""
    path = path_by_id(project, path_id)
    if path.made is not None:
        raise DocumentError(keeps_shape(path))
    return path


def free_knot(path: Path, knot_id: str, place: Floats) -> Knot:
    """A new knot of the path's kind."""
    is_straight = path.kind is PathKind.STRAIGHT
    return Knot(id=knot_id, place=_place(place), kind="corner" if is_straight else "smooth", curved=not is_straight)


def compared(before: Project, after: Project, path_id: str) -> Reshaped:
    """A changed project with how far its path moved at most."""
    return Reshaped(after, path_change(*(path_shape(path_by_id(p, path_id)) for p in (before, after))))


def _place(p: Floats) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
