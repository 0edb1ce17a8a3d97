"""Spans that run through what their ends rest on: straight ones, and those that keep a shape of their own.

Curves through resting knots are laid on the surface, so they are not asked.
"""

from collections.abc import Callable
from math import ceil

import numpy as np

from morphax.build.near import MeshQuery
from morphax.core.errors import PathError
from morphax.core.findings import Finding, Severity, in_mm
from morphax.core.path.hung import even_slack
from morphax.core.path.paths import PathKind, hung_of
from morphax.core.path.resolved import ResolvedPath, points_along, resolve_path
from morphax.core.types import Floats, Points3
from morphax.project.edits.resting import stand_off
from morphax.project.model.document import Knot, Path, RestHold, evolve
from morphax.project.model.paths import path_shape

Query = Callable[[str], MeshQuery | None]
"""A host by its id, ready for nearest places and lines of sight; None where there is none."""
_PLACES = 33
"""Places on a curved span."""
_GRAZES = 0.05
"""A body may lie so deep in what it rests on, as a share of how far its path is above that."""
_SLACK_STEP = 1e-4
_THIN = 1e-4
"""How far from the surface a path is asked at least, as a share of its span."""


def spans_to_ask(path: Path) -> tuple[int, ...]:
    """Numbers of the spans that are asked: between resting knots, and not laid on the surface."""
    known: tuple[int, ...] | None = path.__dict__.get("_spans_to_ask")
    if known is None:
        known = path.__dict__["_spans_to_ask"] = _spans_to_ask(path)
    return known


def _spans_to_ask(path: Path) -> tuple[int, ...]:
    if path.kind in (PathKind.PULLED, PathKind.MADE):
        return ()
    knots, n = path.knots, len(path.knots)
    return tuple(i for i in range(n if path.closed else n - 1) if _may_enter(path, i, knots[i], knots[(i + 1) % n]))


def _may_enter(path: Path, span: int, a: Knot, b: Knot) -> bool:
    """Whether a span's ends rest; of one that hangs one end is enough, unless the other one holds on to that host."""
    rests = [isinstance(k.hold, RestHold) for k in (a, b)]
    if path.kind is PathKind.HANGING:
        hosts = [getattr(k.hold, "host", None) for k in (a, b)]
        return all(rests) or (any(rests) and (None in hosts or hosts[0] != hosts[1]))
    is_laid = path.kind is PathKind.THROUGH and a.curved
    is_on_the_floor = _is_line(path, span) and _lies_on_the_floor(a) and _lies_on_the_floor(b)
    return all(rests) and not is_laid and not is_on_the_floor


def _lies_on_the_floor(knot: Knot) -> bool:
    return isinstance(knot.hold, RestHold) and knot.hold.is_on_floor


def rested_on(path: Path) -> tuple[str, ...]:
    """Ids of the hosts that a path could run through, each once."""
    n = len(path.knots)
    knots = [path.knots[k % n] for i in spans_to_ask(path) for k in (i, i + 1)]
    return tuple(dict.fromkeys(k.hold.host for k in knots if isinstance(k.hold, RestHold) and k.hold.host is not None))


def entering(path: Path, resolved: ResolvedPath | None, query_of: Query) -> tuple[Finding, ...]:
    """Findings of the spans that run through what they rest on. ``query_of`` a host by its id."""
    if resolved is None or len(resolved.shape.knots) != len(path.knots):
        return ()
    out = []
    for i in spans_to_ask(path):
        a, b = path.knots[i], path.knots[(i + 1) % len(path.knots)]
        ends = float(resolved.knot_at[i]), float(resolved.knot_at[i + 1])
        share, places = _under(resolved, a, b, ends, is_line=_is_line(path, i))
        met = _first_met(places, (a, b), query_of)
        if met is not None:
            k, place = met
            at = ends[0] + float(share[k]) * (ends[1] - ends[0])
            message = f"At {in_mm(at)} the path runs through what it rests on."
            spot = (float(place[0]), float(place[1]), float(place[2]))
            out.append(Finding("enters", Severity.WARNING, message, at, place=spot))
    return tuple(out)


def may_hang_clear(path: Path, query_of: Query) -> bool:
    """Whether a hanging path keeps clear of what it rests on when it is as tight as it can be."""
    return _is_clear(path, _least_steps(path), query_of)


def most_slack(path: Path, query_of: Query) -> float:
    """The largest slack, in steps of 1e-4, at which a hanging path keeps clear of what it rests on. Droops keep what
    the directions of their ends need. Raises PathError where even the least slack is too much.
    """
    low, high = _least_steps(path), ceil(path.slack / _SLACK_STEP)
    if not _is_clear(path, low, query_of):
        raise PathError("even a tight cable runs through what it rests on here")
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (middle, high) if _is_clear(path, middle, query_of) else (low, middle)
    return _SLACK_STEP * low


def _least_steps(path: Path) -> int:
    return ceil(min(path.slack, even_slack(hung_of(path_shape(path)))) / _SLACK_STEP)


def _is_clear(path: Path, steps: int, query_of: Query) -> bool:
    hung = evolve(path, slack=_SLACK_STEP * steps)
    return not entering(hung, resolve_path(path_shape(hung)), query_of)


def _is_line(path: Path, span: int) -> bool:
    return path.kind is PathKind.STRAIGHT or (path.kind is not PathKind.HANGING and not path.knots[span].curved)


def _under(
    resolved: ResolvedPath, a: Knot, b: Knot, ends: tuple[float, float], *, is_line: bool
) -> tuple[Floats, Points3]:
    """Shares (k,) of a span, and the places (k, 3) there that the body's underside is at, but for what may graze."""
    share = np.linspace(0.0, 1.0, 2 if is_line else _PLACES)
    if is_line:
        places = np.array([a.place, b.place], dtype=np.float64)
    else:
        places = points_along(resolved, ends[0] + share * (ends[1] - ends[0]))
    ups = np.array([k.hold.up for k in (a, b) if isinstance(k.hold, RestHold)])  # of one that rests for both
    offs = np.array([stand_off(k) or 0.0 for k in (a, b)])
    up = ups[0] + share[:, None] * (ups[-1] - ups[0])
    up /= np.maximum(np.linalg.norm(up, axis=1), 1e-9)[:, None]
    off = offs[0] + share * (offs[1] - offs[0])
    least = _THIN * float(np.linalg.norm(places[-1] - places[0]))
    return share, places - (off - np.maximum(_GRAZES * off, least))[:, None] * up


def _first_met(places: Points3, knots: tuple[Knot, Knot], query_of: Query) -> tuple[int, Points3] | None:
    """The first of the places (k, 3) behind which the way to the next one meets what the knots rest on, and where."""
    holds = [k.hold for k in knots if isinstance(k.hold, RestHold)]
    steps = np.diff(places, axis=0)
    size = np.linalg.norm(steps, axis=1)
    far = np.full(len(steps), np.nan)
    for host in {h.host for h in holds if h.run is None}:
        if host is None:
            below = places[:, 2] < 0.0
            enters = ~below[:-1] & below[1:]
            with np.errstate(divide="ignore", invalid="ignore"):
                met = np.where(enters, -places[:-1, 2] / steps[:, 2] * size, np.nan)
        else:
            query = query_of(host)
            if query is None:
                continue
            moves = size > 0.0
            met = np.full(len(steps), np.nan)
            found = query.hits(places[:-1][moves], steps[moves] / size[moves, None], float(size.max()))
            met[moves] = np.where(found <= size[moves], found, np.nan)
        far = np.fmin(far, met)
    index = np.flatnonzero(np.isfinite(far))
    if not len(index):
        return None
    k = int(index[0])
    return k, places[k] + steps[k] / size[k] * far[k]
