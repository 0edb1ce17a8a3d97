"""What varies along runs, and what is shown, kept where it is while their path changes: another first knot, knots that
go."""

from collections.abc import Collection

from morphax.core.body.range import WHOLE
from morphax.core.loft.laws import Piece
from morphax.core.path.resolved import resolve_path
from morphax.project.draft import Draft
from morphax.project.edits import range_path
from morphax.project.lookup import path_by_id
from morphax.project.model.along import LAWS
from morphax.project.model.document import LawPoint, Project, Recipe, Station, Varying, evolve
from morphax.project.model.paths import path_shape

_BEFORE = 2e-6
"""A value that a law is held at up to a step stands so far before it, as a share of the length."""


def with_start_at(project: Project, path_id: str, knot_id: str) -> Project:
    """Runs on a closed path that is to begin at another knot: what varies and is shown stays where it is."""
    draft = Draft(project)
    path = path_by_id(project, path_id)
    runs = [r for r in project.runs if r.recipe.path == path_id and (r.recipe.varies or r.recipe.range != WHOLE)]
    if not runs:
        return project
    resolved = resolve_path(path_shape(path))
    k = next(i for i, knot in enumerate(path.knots) if knot.id == knot_id)
    share = float(resolved.knot_at[k]) / resolved.length
    for run in runs:
        own = (1.0 - share) % 1.0 if run.recipe.reference.from_end else share
        ranged = range_path.begun_at(run, share, resolved.length)
        draft.put(evolve(ranged, recipe=_begun_at(ranged.recipe, own, resolved.length)))
    return draft.done()


def _begun_at(recipe: Recipe, share: float, length: float) -> Recipe:
    """The recipe of the same body on a closed path that begins at a share of what it was."""
    stations = tuple(sorted((_shifted(s, share, length) for s in recipe.stations), key=lambda s: s.share))
    varying = recipe.varying
    if varying is None:
        return evolve(recipe, stations=stations)
    twist = varying.twist if varying.lay is None else 6.283185307179586 * length / varying.lay
    placing = evolve(recipe.placing, roll=recipe.placing.roll + twist * share) if twist else recipe.placing
    now = evolve(varying, **{law: _round_from(getattr(varying, law), share) for law in LAWS})
    return evolve(recipe, stations=stations, varying=now, placing=placing)


def _shifted(station: Station, share: float, length: float) -> Station:
    if station.by == "knot":
        return evolve(station, share=(station.share - share) % 1.0)
    own = station.share
    if station.by != "share":
        own = station.distance / length if station.by == "start" else 1.0 - station.distance / length
    return evolve(station, share=(own - share) % 1.0, by="share", distance=0.0)


def _round_from(points: tuple[LawPoint, ...], share: float) -> tuple[LawPoint, ...]:
    """Points of a law that goes round, from another place on; one at the end is one at the start, but where the law
    ends with another value: then it is held up to there, and steps."""
    own = {round((p.share - share) % 1.0, 12): p for p in reversed(points)}
    if len(points) > 1 and (points[0].share, points[-1].share) == (0.0, 1.0) and points[0].value != points[-1].value:
        own[(1.0 - share) % 1.0 - _BEFORE] = evolve(points[-1], piece=Piece.HOLD)
    return tuple(evolve(p, share=at) for at, p in sorted(own.items()))


def without_knots(project: Project, path_id: str, gone: Collection[str]) -> Project:
    """Runs on a path whose knots are to go: stations that stand at them stay there by their share, and their sizes and
    rolls go with them."""
    draft = Draft(project)
    path = path_by_id(project, path_id)
    for run in project.runs:
        recipe = run.recipe
        if recipe.path != path_id or not recipe.varies:
            continue
        resolved = resolve_path(path_shape(path))
        at = {k.id: float(d) / resolved.length for k, d in zip(path.knots, resolved.knot_at, strict=False)}
        stations = tuple(_let_go(s, at, gone, from_end=recipe.reference.from_end) for s in recipe.stations)
        varying = recipe.varying or Varying()
        kept = tuple(v for v in varying.knots if v.knot not in gone)
        if stations != recipe.stations or kept != varying.knots:
            now = evolve(varying, knots=kept)
            changed = evolve(recipe, stations=stations, varying=None if now.is_plain else now)
            draft.put(evolve(run, recipe=changed))
    return draft.done()


def _let_go(station: Station, at: dict[str, float], gone: Collection[str], *, from_end: bool) -> Station:
    if station.by != "knot" or station.knot not in gone:
        return station
    share = at.get(station.knot or "", station.share)
    return evolve(station, by="share", knot=None, share=1.0 - share if from_end else share)
