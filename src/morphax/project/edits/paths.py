"""Edits of paths: knots moved, inserted, removed, sharpened; closing and reversing."""

from collections.abc import Collection, Mapping, Sequence

import numpy as np

from morphax.core.body.range import WHOLE
from morphax.core.body.reference import ends_swapped
from morphax.core.errors import PathError
from morphax.core.path import path_edits as core
from morphax.core.path.path_fit import path_change, thinned
from morphax.core.path.paths import PathKind, PathShape
from morphax.core.path.resolved import resolve_path
from morphax.project.derive.leads import LEAST_BEND
from morphax.project.draft import Draft
from morphax.project.edits.along_path import with_start_at, without_knots
from morphax.project.edits.holding import held_words, is_held, is_lead, moved_held, plugs_of
from morphax.project.edits.knots import made_to_handles, set_knot_kind, set_path_kind
from morphax.project.edits.range_path import opened
from morphax.project.edits.ready_made import curved as with_marks
from morphax.project.edits.ready_made import marks_moved, reversed_made
from morphax.project.edits.reshape import Reshaped, with_path
from morphax.project.edits.resting import slid, with_rests_between
from morphax.project.edits.rewinding import coils_round, rewound
from morphax.project.lookup import path_by_id, path_shape
from morphax.project.model.document import (
    DocumentError,
    Knot,
    KnotKind,
    Path,
    Place,
    PortHold,
    Project,
    Recipe,
    RestHold,
    evolve,
)
from morphax.project.model.paths import has_least_bend, made_curve


def knots_from(shape: PathShape, ids: Sequence[str], old: Mapping[str, Knot]) -> tuple[Knot, ...]:
    """Knots with the core's places, kinds and steps; those that are equal stay the same objects."""
    out, places, curved = [], shape.knots.tolist(), shape.curved.tolist()
    steps = [s if s == s else None for s in shape.steps.tolist()] if shape.steps.size else [None] * len(ids)
    radii = shape.radius.tolist() if shape.radius.size else [0.0] * len(ids)
    for i, knot_id in enumerate(ids):
        before, place = old.get(knot_id), tuple(places[i])
        kind, coming, leaving = _kind_and_handles(shape, i, before)
        if before is not None and isinstance(before.hold, RestHold):
            before = slid(before, place)
            place = before.place
        hold = before.hold if before is not None and before.place == place else None
        plain = (place, kind, curved[i], steps[i], coming, leaving, radii[i], hold)
        if before is not None and _plain(before) == plain:
            out.append(before)
            continue
        names = ("place", "kind", "curved", "step", "coming", "leaving", "radius", "hold")
        out.append(Knot.model_validate({"id": knot_id, **dict(zip(names, plain, strict=True))}))
    return with_rests_between(without_lone_leads(out), set(ids) - set(old))


def _plain(k: Knot) -> tuple[object, ...]:
    """All that a knot says but for its id."""
    return (k.place, k.kind, k.curved, k.step, k.coming, k.leaving, k.radius, k.hold)


def without_lone_leads(some: Sequence[Knot]) -> tuple[Knot, ...]:
    """A lead knot lets go of its port with the end that was plugged in there."""
    knots = list(some)
    for end, second in ((0, 1), (-1, -2)):
        other = knots[-1 - end] if len(knots) == 3 else None  # with three knots it may be the other end's lead
        if other is not None and is_lead(other, knots[second]):
            continue
        if len(knots) > 2 and knots[end].hold is None and isinstance(knots[second].hold, PortHold):
            knots[second] = evolve(knots[second], hold=None)
    return tuple(knots)


def _kind_and_handles(shape: PathShape, i: int, old: Knot | None) -> tuple[KnotKind, Place | None, Place | None]:
    """A knot's kind, and its handles where it has own ones."""
    plain: KnotKind = "corner" if shape.corner[i] else "smooth"
    if not shape.handles.size or np.isnan(shape.handles[i]).any():
        return plain, None, None
    if plain == "corner" and not shape.handles[i].any() and (old is None or old.kind == "corner"):
        return "corner", None, None
    a, b = (_place(h) for h in shape.handles[i])
    return "loose" if shape.corner[i] else "in line", a, b


def _place(p: np.ndarray) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))


def _reshaped(path: Path, shape: PathShape, ids: Sequence[str]) -> Path:
    return evolve(path, closed=shape.closed, knots=knots_from(shape, ids, {k.id: k for k in path.knots}))


def knot_index(path: Path, knot_id: str) -> int:
    """Position of a knot in its path. Raises DocumentError when it is gone."""
    for i, knot in enumerate(path.knots):
        if knot.id == knot_id:
            return i
    raise DocumentError(f"there is no knot {knot_id} in path {path.id}")


def move_knots(
    project: Project,
    path_id: str,
    places: Mapping[str, Place],
    *,
    freeing: Collection[str] = (),
    lifting: bool = False,
) -> Project:
    """Moves knots to new places, m. Held ones keep their hold (see ``holding``), but for those in ``freeing``.

    ``lifting``: those that rest stand as high above what they lie on as their places are.
    """
    path = path_by_id(project, path_id)
    if path.made is not None:
        return marks_moved(project, path, places)
    path, places = moved_held(project, path, places, freeing, lifting=lifting)
    if not places:
        return with_path(project, path)
    index = np.array([knot_index(path, k) for k in places], dtype=int)
    shape = core.with_places(path_shape(path), index, np.array(list(places.values())).reshape(-1, 3))
    return with_path(project, _reshaped(path, shape, [k.id for k in path.knots]))


def insert_knot(project: Project, path_id: str, span: int, t: float) -> Reshaped:
    """Adds a knot inside a span; the curve keeps its shape.

    A pulled or hanging path, or a through one with tension, becomes a handles path. One that bends least from port to
    port goes through the new knot from now on, and tells the largest deviation.
    """
    path = path_by_id(project, path_id)
    before = path_shape(path)
    if path.kind is PathKind.THROUGH and path.tension:
        project = set_path_kind(project, path_id, PathKind.HANDLES).project
        path = path_by_id(project, path_id)
    if path.kind.is_made:
        project, path = made_to_handles(project, path)
        project = with_path(project, path)
    shape = core.with_knot(path_shape(path), span, min(max(t, 1e-4), 1.0 - 1e-4))
    far = path_change(before, shape) if before.bends_least else 0.0
    draft = Draft(project)
    new = draft.new_id("k")
    ids = [k.id for k in path.knots]
    ids.insert(span + 1, new)
    draft.put(_reshaped(path, shape, ids))
    return Reshaped(draft.done(), far, (new,))


def remove_knots(project: Project, path_id: str, knot_ids: Sequence[str]) -> Reshaped:
    """Removes knots, keeping the curve as near as can be, and tells the largest deviation.

    Ends that are plugged in, and their leads, stay.

    Raises PathError when too few would remain.
    """
    path = path_by_id(project, path_id)
    plugged = plugs_of(path)
    plugs = {k.id for k in path.knots if k.id in plugged and is_held(project, k)}
    wanted = set(knot_ids) - plugs
    if knot_ids and not wanted:
        raise DocumentError(f"{held_words(project, path, knot_ids)}: let go of it first")
    gone = np.array([k.id in wanted for k in path.knots])
    shape = path_shape(path)
    fewer = thinned(shape, gone)
    ids = [k.id for k, g in zip(path.knots, gone, strict=True) if not g]
    project = without_knots(project, path_id, wanted)
    return Reshaped(with_path(project, _reshaped(path, fewer, ids)), path_change(shape, fewer))


def toggle_corners(project: Project, path_id: str, knot_ids: Sequence[str]) -> Project:
    """Makes knots corners, or smooth again when they all are. Raises PathError on a straight path."""
    path = path_by_id(project, path_id)
    chosen = [k for k in path.knots if k.id in set(knot_ids)]
    kind: KnotKind = "smooth" if all(k.kind == "corner" for k in chosen) else "corner"
    return set_knot_kind(project, path_id, knot_ids, kind)


def set_closed(project: Project, path_id: str, closed: bool) -> Project:
    """Closes or opens a path; no knot moves. Raises PathError when there are fewer than three knots."""
    path = path_by_id(project, path_id)
    if closed and len(path.knots) < 3:
        raise PathError(f"a closed path needs 3 knots; this one has {len(path.knots)}")
    if closed and path.kind is PathKind.HANDLES and not path.closed:
        path = _with_written_handles(path)
    if path.closed and not closed:
        project = _with_opened_ranges(project, path)
    return with_path(project, evolve(path, closed=closed))


def _with_opened_ranges(project: Project, path: Path) -> Project:
    """Runs on a closed path that is to be opened: ranges that go on through its start are cut there."""
    runs = [r for r in project.runs if r.recipe.path == path.id and r.recipe.range != WHOLE]
    if not runs:
        return project
    draft, length = Draft(project), resolve_path(path_shape(path)).length
    for run in runs:
        draft.put(opened(run, length))
    return draft.done()


def _with_written_handles(path: Path) -> Path:
    """An open handles path whose smooth knots have the handles that were computed as their own, so that its curve stays
    when it is closed; its ends get ones that the closing span leaves and comes along."""
    shown = core.shown_handles(path_shape(path))
    gap = float(np.linalg.norm(np.subtract(path.knots[0].place, path.knots[-1].place))) / 3.0
    knots = []
    for i, knot in enumerate(path.knots):
        if knot.kind != "smooth":
            knots.append(knot)
            continue
        coming, leaving = (np.array(h) for h in shown[i])
        for own, other in ((coming, leaving), (leaving, coming)):
            size = float(np.linalg.norm(other))
            if not own.any() and size > 0.0:
                own[:] = -other / size * gap
        has = coming.any() and leaving.any()
        written = evolve(knot, kind="in line", coming=_place(coming), leaving=_place(leaving)) if has else knot
        knots.append(written)
    return evolve(path, knots=tuple(knots))


def set_slack(project: Project, path_id: str, slack: float) -> Project:
    """By what share a hanging path is longer than the straight lines between its knots."""
    return with_path(project, evolve(path_by_id(project, path_id), slack=slack))


def set_stiffness(project: Project, path_id: str, stiffness: float) -> Project:
    """How stiff the droops of a hanging path are: the size of a loop that carries itself, m; 0 for a chain."""
    return with_path(project, evolve(path_by_id(project, path_id), stiffness=stiffness))


def set_tension(project: Project, path_id: str, tension: float) -> Project:
    """How tight a through path is: 0 with an even curvature, up to 0.95 nearly straight spans, down to -1 wide bends.

    Raises DocumentError beyond.
    """
    if not -1.0 <= tension <= 0.95:
        raise DocumentError("a tension lies between -1 and 0.95")
    return with_path(project, evolve(path_by_id(project, path_id), tension=tension))


def set_least_bend(project: Project, path_id: str, radius: float | None) -> Project:
    """How wide the bends of a path from lead to lead are at least, m; 0 for a curve through the ends of its leads, None
    for so many reaches of its body. Raises DocumentError on other paths."""
    path = path_by_id(project, path_id)
    if path.bend is None or not has_least_bend(path):
        raise DocumentError("only a path from port to port, without a free knot between, has a least bend")
    if radius is not None and radius < 0.0:
        raise DocumentError("a least bend is 0 or more")
    reaches = LEAST_BEND if radius is None else None
    bend = evolve(path.bend, radius=path.bend.radius if radius is None else radius, reaches=reaches)
    return with_path(project, evolve(path, bend=bend))


def set_first_knot(project: Project, path_id: str, knot_id: str) -> Project:
    """Lets a closed path start at another knot; the curve stays. Raises PathError on an open path."""
    path = path_by_id(project, path_id)
    first = knot_index(path, knot_id)
    ids = [k.id for k in path.knots]
    if path.closed:
        project = with_start_at(project, path_id, knot_id)
    return with_path(
        project, _reshaped(path, core.with_first_knot(path_shape(path), first), [*ids[first:], *ids[:first]])
    )


def reverse_path(project: Project, path_id: str) -> Project:
    """Walks the path from its end; the curve stays, and so do the bodies on it: their starts are called ends now. Coils
    round it are walked from their ends too, but for those that wait.
    """
    draft = Draft(project)
    path = draft.path(path_id)
    if path.made is not None:
        draft.put(with_marks(draft, path, reversed_made(made_curve(path.made))))
    else:
        shape = path_shape(path)
        ids = [k.id for k in path.knots]
        order = [ids[0], *reversed(ids[1:])] if path.closed else list(reversed(ids))
        draft.put(_reshaped(path, core.reversed_path(shape), order))
    turned = {path_id}
    for coil in coils_round(project.paths, [path_id]):
        back = rewound(draft, coil, np.array(coil.knots[-1].place))
        if coil.made is not None and coil.made.around in turned and back is not coil:
            draft.put(back)
            turned.add(coil.id)
    for run in project.runs:
        if run.recipe.path in turned:
            draft.put(evolve(run, recipe=_from_other_end(run.recipe)))
    return draft.done()


def _from_other_end(recipe: Recipe) -> Recipe:
    """The recipe of the same body on its path walked the other way."""
    reference = evolve(recipe.reference, from_end=not recipe.reference.from_end)
    return evolve(recipe, ends=ends_swapped(recipe.ends), reference=reference)
