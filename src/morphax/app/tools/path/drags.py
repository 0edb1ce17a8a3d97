"""Drags of knots, handles and spans: where they begin, and the project that each new place gives. No Qt here."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import numpy as np

from morphax.app.session.sight import Sight
from morphax.app.tools.path.draw_landing import rest_of
from morphax.app.tools.shared.handle_set import Part
from morphax.app.tools.shared.landing import Ground
from morphax.app.tools.shared.landing_planes import drag_normal
from morphax.app.tools.shared.size_marks import SizeMark
from morphax.core.path.hung import one_span, sag, slack_for_sag
from morphax.core.path.path_edits import shown_handles
from morphax.core.path.paths import PathKind, hung_of
from morphax.project.edits.knots import Handle, move_handle
from morphax.project.edits.neighbours import look_towards
from morphax.project.edits.paths import insert_knot, move_knots, set_slack
from morphax.project.edits.ports import held
from morphax.project.edits.resting import rest_on
from morphax.project.edits.runs import set_width
from morphax.project.edits.sizes import sized_alone
from morphax.project.edits.transform import Transform
from morphax.project.lookup import path_shape, run_height, run_width
from morphax.project.model.document import Knot, Path, Place, PointHold, Project, RestHold
from morphax.project.units import format_length

_AT_AN_END = 8.0
"""A place so many pixels from a knot is at it: a further knot there would make a hook."""
_BEND_FROM = 0.1
"""A span is bent from this share of it on, counted from either end: handles would have to go far for a place nearer."""
_LEAST_SIZE = 0.02
"""A drag makes a body no smaller than this share of what it was."""
FREE_PIXELS = 24.0
"""A knot that holds lets go when it is dragged farther than this."""


@dataclass(frozen=True, eq=False)
class Drag:
    """A drag from a pixel: ``origin`` (3,) moves in the plane with ``normal``; ``move`` gives the project for a place.

    ``moving`` are the knots that move along (they don't catch); ``label`` names the step of history. ``stays_up``: in
    perspective it stops at the floor. ``rest``: the project with a knot that rests, or holds on to a point of a host,
    on what is under the pointer; ``go``: that with one that lets go of what it rests on, for a place that caught it.
    ``words`` say what it has come to; ``free``: it catches on nothing.
    """

    sight: Sight
    pixel: tuple[float, float]
    origin: np.ndarray
    normal: np.ndarray
    base: Project
    moving: frozenset[str]
    label: str
    move: Callable[[np.ndarray], Project]
    knot: str | None = None
    stays_up: bool = True
    rest: Callable[[Ground], Project] | None = None
    go: Callable[[np.ndarray], Project] | None = None
    words: Callable[[Project], str] | None = None
    free: bool = False


@dataclass(frozen=True, eq=False)
class SetDrag:
    """A drag of the handle set.

    ``motion`` gives the transform and its amount for a pixel and a grid step, ``apply`` the project for a transform.
    """

    part: Part
    centre: np.ndarray
    pixel: tuple[float, float]
    motion: Callable[[tuple[float, float], float], tuple[Transform, float]]
    apply: Callable[[Transform], Project]


def _place(p: np.ndarray) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))


def knot_drag(
    sight: Sight, pixel: tuple[float, float], project: Project, path: Path, taken: tuple[str, set[str], str]
) -> Drag:
    """``taken``: a knot, all that are chosen with it, and the falloff that takes others along."""
    knot_id, chosen, falloff = taken
    shares = dict.fromkeys(chosen | {knot_id}, 1.0) | _taken_along(path, knot_id, chosen, falloff)
    places = {k.id: np.array(k.place) for k in path.knots if k.id in shares}
    origin, moving = places[knot_id], set(shares)
    of_grip = chosen | {knot_id}
    holding = {k.id: _way_out(k) for k in path.knots if k.id in of_grip and k.hold is not None}

    def move(place: np.ndarray) -> Project:
        shift = place - origin
        ways = {k: shift if out is None else out @ shift * out for k, out in holding.items()}
        freeing = [k for k, way in ways.items() if _pixels(sight, origin, way) > FREE_PIXELS]
        moved = {k: _place(p + shares[k] * shift) for k, p in places.items()}
        return move_knots(project, path.id, moved, freeing=freeing)

    def rest(ground: Ground) -> Project:
        if isinstance(own.hold, RestHold):
            return rest_on(project, path.id, {knot_id: rest_of(project, ground)})
        on_host = project.find("hosts", ground.of) is not None
        return held(project, path.id, {knot_id: (ground.of, _place(ground.place))}) if on_host else move(ground.place)

    def go(place: np.ndarray) -> Project:
        return move_knots(project, path.id, {knot_id: _place(place)}, freeing=(knot_id,))

    own = next(k for k in path.knots if k.id == knot_id)
    out = _way_out(own)
    lies = out is None and _lies_on_floor(project, path, origin)
    normal = drag_normal(sight, origin, lies=lies, up=out)
    laid = rest if (out is not None or isinstance(own.hold, PointHold)) and len(moving) == 1 else None
    return Drag(
        sight,
        pixel,
        origin,
        normal,
        project,
        frozenset(moving),
        "Move knots",
        move,
        knot_id,
        rest=laid,
        go=go if laid and out is not None else None,
    )


def _way_out(knot: Knot) -> np.ndarray | None:
    """Which way a knot that rests leaves what it lies on; None for others."""
    return np.array(knot.hold.up) if isinstance(knot.hold, RestHold) else None


def _pixels(sight: Sight, place: np.ndarray, step: np.ndarray) -> float:
    seen = sight.seen(np.stack([place, place + step]))
    return float(np.hypot(*(seen[1, :2] - seen[0, :2])))


def _lies_on_floor(project: Project, path: Path, place: np.ndarray) -> bool:
    """Whether a place of a path is no higher above the floor than the path's body is wide."""
    widths = [run_width(project, r.id) for r in project.runs if r.recipe.path == path.id]
    return -1e-9 <= float(place[2]) <= max(widths, default=0.0) + 1e-9


def _taken_along(path: Path, knot_id: str, chosen: set[str], falloff: str) -> dict[str, float]:
    """Shares (0..1) by which other knots follow a single dragged one: the *rest* of the path wholly, or *softly* those
    around it, less the farther they are along the path (a cosine over a third of its length)."""
    if falloff == "alone" or len(chosen - {knot_id}):
        return {}
    ids = [k.id for k in path.knots]
    at = ids.index(knot_id)
    if falloff == "rest":
        return dict.fromkeys(ids[at + 1 :], 1.0)
    places = np.array([k.place for k in path.knots])
    steps = np.linalg.norm(np.diff(places, axis=0, append=places[:1] if path.closed else places[-1:]), axis=1)
    along = np.concatenate([[0.0], np.cumsum(steps)])
    far = np.abs(along[: len(ids)] - along[at])
    far = np.minimum(far, along[-1] - far) if path.closed else far
    reach = along[-1] / 3.0
    share = np.where(far < reach, 0.5 + 0.5 * np.cos(np.pi * far / max(reach, 1e-300)), 0.0)
    return {k: float(s) for k, s in zip(ids, share, strict=True) if s > 0.0 and k != knot_id}


def handle_tips(path: Path, chosen: set[str]) -> list[tuple[str, Handle, np.ndarray]]:
    """The handles that are shown: those of the chosen knots of a handles path, with the places of their tips."""
    if path.kind is not PathKind.HANDLES or len(path.knots) < 2:
        return []
    shown = shown_handles(path_shape(path))
    out: list[tuple[str, Handle, np.ndarray]] = []
    for knot, (coming, leaving) in zip(path.knots, shown, strict=True):
        if knot.id in chosen:
            place = np.array(knot.place)
            own: tuple[tuple[Handle, np.ndarray], ...] = (("coming", coming), ("leaving", leaving))
            out += [(knot.id, which, place + offset) for which, offset in own if offset.any()]
    return out


def handle_drag(
    sight: Sight, pixel: tuple[float, float], project: Project, path: Path, tip: tuple[str, Handle, np.ndarray]
) -> Drag:
    """The tip of a handle."""
    knot_id, which, origin = tip
    foot = np.array(next(k.place for k in path.knots if k.id == knot_id))

    def move(place: np.ndarray) -> Project:
        return move_handle(project, path.id, knot_id, which, _place(place - foot))

    normal = drag_normal(sight, origin, lies=_lies_on_floor(project, path, origin))
    return Drag(sight, pixel, origin, normal, project, frozenset({knot_id}), "Move a handle", move, knot_id, False)


def target_drag(sight: Sight, pixel: tuple[float, float], project: Project, run_id: str, origin: np.ndarray) -> Drag:
    """The place that a run looks towards."""

    def move(place: np.ndarray) -> Project:
        return look_towards(project, [run_id], _place(place))

    normal = drag_normal(sight, origin)
    return Drag(sight, pixel, origin, normal, project, frozenset(), "Look towards a place", move, stays_up=False)


def size_drag(
    sight: Sight, pixel: tuple[float, float], project: Project, run_id: str, mark: SizeMark, *, alone: bool = False
) -> Drag:
    """A mark of a run's size: its width follows how far the mark is from the path's end, in three digits. ``alone``:
    of width and height the one that the mark stands for, and the other stays."""
    width, out = run_width(project, run_id), (mark.place - mark.centre) / mark.reach

    def move(place: np.ndarray) -> Project:
        share = max(float((place - mark.centre) @ out) / mark.reach, _LEAST_SIZE)
        if alone:
            return sized_alone(project, run_id, float(f"{share:.3g}"), upright=mark.is_upright)
        return set_width(project, [run_id], float(f"{width * share:.3g}"))

    def words(now: Project) -> str:
        if alone and mark.is_upright:
            return f"height alone: {format_length(run_height(now, run_id), unit=now.unit)}"
        return f"width{' alone' if alone else ''} {format_length(run_width(now, run_id), unit=now.unit)}"

    normal = drag_normal(sight, mark.place)
    return Drag(
        sight, pixel, mark.place, normal, project, frozenset(), "Set the width", move, stays_up=False, words=words
    )


def span_drag(
    sight: Sight,
    pixel: tuple[float, float],
    project: Project,
    path: Path,
    place: tuple[int, float, np.ndarray],
) -> Drag:
    """A place of a span: a straight span moves with its knots, a through one gives a new knot, others bend.

    A thick body is met beyond its path's end too: there a curved span's own knot is drawn along.
    """
    span, t, origin = place
    normal = drag_normal(sight, origin, lies=_lies_on_floor(project, path, origin))
    begun = partial(Drag, sight, pixel, origin, normal, project)
    if path.kind.is_made:
        return _made_drag(begun, project, path, origin)
    first, second = path.knots[span], path.knots[(span + 1) % len(path.knots)]
    if path.kind is PathKind.STRAIGHT or not first.curved:
        ends = {k.id: np.array(k.place) for k in (first, second)}

        def move(at: np.ndarray) -> Project:
            return move_knots(project, path.id, {k: _place(p + at - origin) for k, p in ends.items()})

        return begun(frozenset(ends), "Move a span", move)
    end = min((first, second), key=lambda k: _pixels(sight, origin, np.array(k.place) - origin))
    if _pixels(sight, origin, np.array(end.place) - origin) < _AT_AN_END:
        return knot_drag(sight, pixel, project, path, (end.id, {end.id}, "alone"))
    if path.kind is PathKind.HANDLES:
        return begun(frozenset(), "Bend a span", _bend(project, path, (span, t, origin)))

    def pull(at: np.ndarray) -> Project:
        more = insert_knot(project, path.id, span, t)
        return move_knots(more.project, path.id, {more.knots[0]: _place(at)})

    return begun(frozenset(), "Pull out a knot", pull)


def _made_drag(begun: Callable[..., Drag], project: Project, path: Path, origin: np.ndarray) -> Drag:
    """The place of a pulled path draws the two nearest knots of its hull along; that of a hanging one its sag."""
    places = np.array([k.place for k in path.knots])
    if path.kind is PathKind.PULLED:
        near = np.argsort(np.linalg.norm(places - origin, axis=1))[:2]
        ends = {path.knots[k].id: places[k] for k in near}

        def pull(to: np.ndarray) -> Project:
            return move_knots(project, path.id, {k: _place(p + to - origin) for k, p in ends.items()})

        return begun(frozenset(ends), "Pull the path", pull)
    if path.made is not None:
        whole = {k.id: p for k, p in zip(path.knots, places, strict=True)}

        def carry(to: np.ndarray) -> Project:
            return move_knots(project, path.id, {k: _place(p + to - origin) for k, p in whole.items()})

        return begun(frozenset(whole), "Move the path", carry)
    hung = one_span(hung_of(path_shape(path)), origin)
    now = sag(hung)

    def hang(to: np.ndarray) -> Project:
        return set_slack(project, path.id, slack_for_sag(hung, max(0.0, now + float(origin[2] - to[2]))))

    return begun(frozenset(), "Change the sag", hang)


def _bend(project: Project, path: Path, place: tuple[int, float, np.ndarray]) -> Callable[[np.ndarray], Project]:
    """Moves the two handles of a span as little as takes its place at ``t`` along."""
    span, t, origin = place
    n, t = len(path.knots), min(max(t, _BEND_FROM), 1.0 - _BEND_FROM)
    shown = shown_handles(path_shape(path))
    weights = np.array([3.0 * (1.0 - t) ** 2 * t, 3.0 * (1.0 - t) * t * t])
    share = weights / float(weights @ weights)
    first, second = path.knots[span], path.knots[(span + 1) % n]

    def move(at: np.ndarray) -> Project:
        leaving = shown[span, 1] + share[0] * (at - origin)
        coming = shown[(span + 1) % n, 0] + share[1] * (at - origin)
        bent = move_handle(project, path.id, first.id, "leaving", _place(leaving))
        return move_handle(bent, path.id, second.id, "coming", _place(coming))

    return move
