"""Paths from outside become runs: the core's shapes turned into the document's knots."""

from collections.abc import Mapping, Sequence

import numpy as np

from morphax.core.path.paths import PathShape
from morphax.core.types import Floats
from morphax.project.draft import Draft
from morphax.project.edits.along import set_knot_values
from morphax.project.edits.paths import knots_from
from morphax.project.edits.runs import Added, NewRun, add_run
from morphax.project.lookup import path_by_id, run_by_id
from morphax.project.model.document import DocumentError, Path, Project, evolve


def add_runs_along(
    project: Project, shapes: Sequence[PathShape], new: NewRun, values: Mapping[str, Floats] | None = None
) -> Added:
    """A run of the next kind on each shape; ids are those of the runs. ``values``: sizes and rolls, rad, of the knots
    (n,) of a single one. Raises DocumentError where there are not as many."""
    ids = []
    for shape in shapes:
        places = [(float(p[0]), float(p[1]), float(p[2])) for p in shape.knots]
        added = add_run(project, shape.kind, places, new, closed=shape.closed)
        run_id, path_id, *knot_ids = added.ids
        path = path_by_id(added.project, path_id)
        project = _with_path(added.project, evolve(path, knots=knots_from(shape, knot_ids, {})))
        ids.append(run_id)
        if values:
            project = set_knot_values(project, run_id, _by_knot(knot_ids, values))
    return Added(project, tuple(ids))


def _by_knot(knot_ids: Sequence[str], values: Mapping[str, Floats]) -> dict[str, dict[str, float]]:
    """Values of knots by their ids. Raises DocumentError where there are more of the ones than of the others."""
    for name, own in values.items():
        if len(own) != len(knot_ids):
            raise DocumentError(f"{len(own)} values of {name} do not fit the path's {len(knot_ids)} knots")
    return {knot: {name: float(own[k]) for name, own in values.items()} for k, knot in enumerate(knot_ids)}


def _with_path(project: Project, path: Path) -> Project:
    return evolve(project, paths=tuple(path if p.id == path.id else p for p in project.paths))


def replaced_path(project: Project, run_id: str, places: np.ndarray, radii: np.ndarray | None = None) -> Project:
    """Gives a run's path other places (n, 3) and radii (n,), as pasted from a table.

    Knots keep their kinds as far as there are as many; new ones are like the last.
    """
    run = run_by_id(project, run_id)
    path = path_by_id(project, run.recipe.path)
    knots, draft = [], Draft(project)
    for i, place in enumerate(places):
        like = path.knots[min(i, len(path.knots) - 1)]
        known = i < len(path.knots)
        radius = like.radius if radii is None else float(radii[i])
        changes = {"place": tuple(float(v) for v in place), "radius": radius, "step": None}
        if not known:
            changes |= {"id": draft.new_id("k"), "coming": None, "leaving": None}
            changes |= {"kind": "smooth"} if like.kind in ("in line", "loose") else {}
        if radius > 0.0 and changes.get("kind", like.kind) == "smooth":
            changes |= {"kind": "corner"}
        same = known and like.place == changes["place"] and like.radius == radius
        knots.append(like if same else evolve(like, **changes))
    draft.put(evolve(path, knots=tuple(knots)))
    return draft.done()
