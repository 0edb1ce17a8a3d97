"""Edits of strands between runs: made between some, and set otherwise."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from morphax.core.body.in_between import MOST_GUIDES, InBetween
from morphax.core.errors import MorphaxError
from morphax.core.path.paths import PathKind
from morphax.core.path.resolved import points_along, resolve_path
from morphax.core.types import Floats
from morphax.project.draft import Draft
from morphax.project.edits.runs import Added
from morphax.project.lookup import path_of, run_by_id
from morphax.project.model.document import DocumentError, Path, Project, Recipe, Run, Station, copied, evolve
from morphax.project.model.paths import BesideOf, path_shape
from morphax.project.model.strands import StrandsOf

_LOOKED = 9


def add_strands(project: Project, run_ids: Sequence[str], rule: InBetween = InBetween()) -> Added:  # noqa: B008
    """A run of strands between some, in the order in which they lie beside each other; its id. It looks as the first
    of them does, and ends as that. Raises DocumentError for fewer than two, or where one is strands itself."""
    if not 2 <= len(run_ids) <= MOST_GUIDES:
        raise DocumentError(f"strands run between 2 to {MOST_GUIDES} runs")
    for run_id in run_ids:
        run = run_by_id(project, run_id)
        if run.recipe.strands is not None:
            raise DocumentError(f"{run.show.name} is strands itself: choose the runs between which they run")
    draft, ids = Draft(project), in_a_row(project, run_ids)
    first = draft.run(ids[0])
    path = Path(id=draft.new_id("p"), kind=PathKind.STRAIGHT, follows=BesideOf(path=first.recipe.path, side=0.0))
    draft.add(path)
    station = Station(id=draft.new_id("t"), section=first.recipe.stations[0].section)
    recipe = Recipe(
        path=path.id,
        stations=(station,),
        ends=first.recipe.ends,
        density=first.recipe.density,
        strands=StrandsOf(of=tuple(ids), rule=rule),
    )
    show = copied(first.show, name=draft.free_name("runs", "Strands"))
    made = Run(id=draft.new_id("r"), recipe=recipe, show=show)
    draft.add(made)
    return Added(draft.done(), (made.id,))


def set_strands(project: Project, run_ids: Sequence[str], **changes: Any) -> Project:
    """Other values of strands. Raises PathError out of range, DocumentError where a run is none."""
    draft = Draft(project)
    for run_id in run_ids:
        run = draft.run(run_id)
        strands = run.recipe.strands
        if strands is None:
            raise DocumentError(f"{run.show.name} is no strands between others")
        now = evolve(strands, rule=replace(strands.rule, **changes))
        draft.put(evolve(run, recipe=evolve(run.recipe, strands=now)))
    return draft.done()


def in_a_row(project: Project, run_ids: Sequence[str]) -> list[str]:
    """Runs in the order in which they lie beside each other: from the one that lies farthest out on to the nearest
    that is left."""
    places = {i: places_of(project, i) for i in run_ids}
    middle = np.mean([p.mean(0) for p in places.values()], axis=0)
    left = list(run_ids)
    now = max(left, key=lambda i: float(np.linalg.norm(places[i].mean(0) - middle)))
    out = [now]
    while len(out) < len(run_ids):
        left.remove(now)
        now = min(left, key=lambda i: _far(places[i], places[out[-1]]))
        out.append(now)
    return out if run_ids.index(out[0]) <= run_ids.index(out[-1]) else out[::-1]


def places_of(project: Project, run_id: str) -> Floats:
    """Some places (9, 3) along a run's path; those of its knots' middle where it can't be measured."""
    shape = path_shape(path_of(project, run_id))
    try:
        path = resolve_path(shape)
        return points_along(path, np.linspace(0.0, path.length, _LOOKED))
    except MorphaxError:
        return np.repeat(shape.knots.mean(0)[None], _LOOKED, axis=0)


def _far(a: Floats, b: Floats) -> float:
    """How far two runs are from each other, m, whichever way they are walked."""
    return min(float(np.linalg.norm(a - other, axis=1).mean()) for other in (b, b[::-1]))
