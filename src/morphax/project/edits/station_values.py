"""What goes along where a run is copied: its stations and what varies along it, on another path or as values."""

from collections.abc import Mapping, Sequence
from typing import Any

from morphax.project.draft import Draft
from morphax.project.model.document import PieceSet, Recipe, Station, StationLike, copied, evolve


def as_laid(station: Station | StationLike) -> dict[str, Any]:
    """Where a station stands and how its section is laid there, for another run: at a knot by the share that it has."""
    names = ("share", "by", "distance", "turn", "mirror", "blend", "marks")
    found = {name: getattr(station, name) for name in names}
    return found | ({"by": "share"} if station.by == "knot" else {})


def with_fitting_marks(recipe: Recipe, before: Recipe) -> Recipe:
    """Without the marks of neighbours one of which is another one now, or has another outline."""

    def pairs(r: Recipe) -> dict[str, tuple[Any, ...]]:
        both = zip(r.stations[:-1], r.stations[1:], strict=True)
        return {a.id: (a.section, a.mirror, b.id, b.section, b.mirror) for a, b in both}

    was, now = pairs(before), pairs(recipe)
    stations = (evolve(s, marks=()) if s.marks and was.get(s.id) != now.get(s.id) else s for s in recipe.stations)
    return evolve(recipe, stations=tuple(stations))


def with_size_of_one(recipe: Recipe) -> Recipe:
    """A recipe of a single section: that is as large as the run says, and not as much larger again by itself."""
    if len(recipe.stations) > 1 or recipe.stations[0].scale == 1.0:
        return recipe
    only = recipe.stations[0]
    return evolve(recipe, size=recipe.size * only.scale, stations=(evolve(only, scale=1.0),))


def with_own_stations(
    draft: Draft, stations: tuple[Station, ...], twins: Mapping[str, str] | None = None
) -> tuple[Station, ...]:
    """Stations for a run of their own, each with an id of its own; ``twins``: its knots by those that they copy."""
    known = twins or {}
    return tuple(
        copied(s, id=draft.new_id("t"), knot=None if s.knot is None else known.get(s.knot, s.knot)) for s in stations
    )


def with_own_sets(draft: Draft, sets: tuple[PieceSet, ...]) -> tuple[PieceSet, ...]:
    """Sets of pieces for a run of their own, each with an id of its own."""
    return tuple(copied(s, id=draft.new_id("e")) for s in sets)


def lead_to_copies(draft: Draft, run_ids: Sequence[str], copies: Mapping[str, Sequence[str]]) -> None:
    """Pieces between two runs that are copied both stand between the copies; ``copies`` of paths by their ids."""
    for run in map(draft.run, run_ids):
        if any(s.to in copies for s in run.recipe.sets):
            twins = {old: new[0] for old, new in copies.items()}
            sets = tuple(copied(s, to=twins.get(s.to or "", s.to)) for s in run.recipe.sets)
            draft.put(copied(run, recipe=copied(run.recipe, sets=sets)))
