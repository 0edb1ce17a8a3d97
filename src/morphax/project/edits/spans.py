"""Straight and curved spans in one path, and paths that are drawn on from an end."""

from collections.abc import Collection, Mapping, Sequence
from typing import Literal

import numpy as np

from morphax.core.errors import PathError
from morphax.core.path.path_edits import shown_handles
from morphax.core.path.paths import PathKind
from morphax.project.draft import Draft
from morphax.project.edits.even_out import free_knot, free_path
from morphax.project.edits.holding import is_lead
from morphax.project.edits.reshape import Reshaped, with_path
from morphax.project.lookup import path_shape
from morphax.project.model.document import Knot, Path, Place, Project, RestHold, evolve

End = Literal["start", "end"]


def spans_between(path: Path, knot_ids: Collection[str]) -> tuple[int, ...]:
    """Spans whose two knots are both among some, or, of a single one, the span that leaves it (comes to the last)."""
    n, wanted = len(path.knots), {k.id for k in path.knots} & set(knot_ids)
    last = n if path.closed else n - 1
    found = tuple(i for i in range(last) if path.knots[i].id in wanted and path.knots[(i + 1) % n].id in wanted)
    if found or len(wanted) != 1:
        return found
    return (min(next(i for i, k in enumerate(path.knots) if k.id in wanted), last - 1),)


def is_straight_span(path: Path, span: int) -> bool:
    return path.kind is PathKind.STRAIGHT or not path.knots[span].curved


def set_spans(project: Project, path_id: str, spans: Sequence[int], *, straight: bool) -> Project:
    """Makes spans straight, or curved. At a smooth knot the curve beside a straight span leaves along it.

    A straight path whose spans are to curve becomes a through path. Raises PathError on pulled, hanging and
    ready-made paths, and where no span is named.
    """
    path = free_path(project, path_id)
    if path.kind.is_made:
        raise PathError(f"a {path.kind} path has no straight spans; make it a through or handles path for that")
    if not spans:
        raise PathError("choose the knots at both ends of the spans")
    if path.kind is PathKind.STRAIGHT:
        if straight:
            return project
        path = evolve(path, kind=PathKind.THROUGH, knots=_eased(path, spans))
    knots = [evolve(k, curved=not straight, step=None) if i in spans else k for i, k in enumerate(path.knots)]
    if path.kind is PathKind.HANDLES:
        knots = _along_straight(path, knots, spans) if straight else knots
    return with_path(project, evolve(path, knots=tuple(knots)))


def _eased(path: Path, spans: Sequence[int]) -> tuple[Knot, ...]:
    """Knots of a straight path, smooth at both ends of the spans that are to curve: their curves leave along them."""
    n = len(path.knots)
    smooth = {k % n for span in spans for k in (span, span + 1)}
    return tuple(evolve(k, kind="smooth", radius=0.0) if i in smooth else k for i, k in enumerate(path.knots))


def _along_straight(path: Path, knots: list[Knot], spans: Sequence[int]) -> list[Knot]:
    """In-line and smooth knots beside spans that are straight now: their other handle goes on along the span."""
    n, shown, out = len(knots), shown_handles(path_shape(path)), list(knots)
    for span in spans:
        a, b = span, (span + 1) % n
        chord = np.subtract(knots[b].place, knots[a].place)
        way = chord / max(float(np.linalg.norm(chord)), 1e-300)
        for i, side, other in ((a, 1, -way), (b, 0, way)):
            if knots[i].kind in ("in line", "smooth"):
                pair = [np.zeros(3), np.zeros(3)]
                pair[side] = chord / 3.0 if side else -chord / 3.0
                pair[1 - side] = other * float(np.linalg.norm(shown[i, 1 - side]))
                out[i] = evolve(out[i], kind="in line", coming=_place(pair[0]), leaving=_place(pair[1]))
    return out


def drawn_on(
    project: Project,
    path_id: str,
    end: End,
    places: Sequence[Place],
    handles: Mapping[int, Place] | None = None,
) -> Reshaped:
    """A path that goes on from an end through new places, in its own kind; the end lets go of what it held on to.

    ``handles``: leaving handles of some of the new knots of a handles path. Raises PathError on a closed path.
    """
    path = free_path(project, path_id)
    if path.closed:
        raise PathError("a closed path has no end to go on from")
    own = path.knots if end == "end" else tuple(reversed(path.knots))
    tip = own[-1]
    freed = {tip.id, own[-2].id} if len(own) > 1 and is_lead(tip, own[-2]) else {tip.id}
    was_plugged = path.kind is PathKind.THROUGH and tip.kind == "corner" and _lets_go(tip)
    draft = Draft(project)
    new = [free_knot(path, draft.new_id("k"), np.array(p)) for p in places]
    for i, knot in enumerate(new):
        if handles and i in handles:
            x, y, z = handles[i]
            away, back = (x, y, z), (-x, -y, -z)
            new[i] = evolve(knot, kind="in line", coming=back if end == "end" else away,
                            leaving=away if end == "end" else back)  # fmt: skip
    kept = {k.id: evolve(k, hold=None) if k.id in freed and _lets_go(k) else k for k in path.knots}
    kept[tip.id] = evolve(kept[tip.id], kind="smooth") if was_plugged else kept[tip.id]
    order = tuple(kept[k.id] for k in path.knots)
    if end == "end":
        last = evolve(order[-1], curved=path.kind is not PathKind.STRAIGHT, step=None)
        knots = (*order[:-1], last, *new)
    else:
        knots = (*reversed(new), *order)
    draft.put(evolve(path, knots=knots))
    return Reshaped(draft.done(), knots=tuple(k.id for k in new))


def _lets_go(knot: Knot) -> bool:
    """Whether an end that is gone on from has to let go: one that rests goes on resting."""
    return knot.hold is not None and not isinstance(knot.hold, RestHold)


def _place(p: np.ndarray) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
