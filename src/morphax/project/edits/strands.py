"""Edits of strands between runs: made between some, and set otherwise."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from morphax.core.body.in_between import MOST_GUIDES, InBetween
from morphax.core.body.single_strands import SingleStrand
from morphax.core.errors import MorphaxError
from morphax.core.frame.frames import Orientation
from morphax.core.loft.laws import Piece
from morphax.core.path.paths import PathKind
from morphax.core.path.resolved import points_along, resolve_path
from morphax.core.types import Floats
from morphax.project.derive.strands import guides_of
from morphax.project.draft import Draft
from morphax.project.edits.runs import Added, delete_runs
from morphax.project.edits.show import grouped
from morphax.project.lookup import path_of, run_by_id
from morphax.project.model.document import (
    DocumentError,
    Knot,
    LawPoint,
    Path,
    Place,
    Project,
    Recipe,
    Run,
    Station,
    Varying,
    copied,
    evolve,
)
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


def opened(project: Project, run_id: str, strands: Sequence[SingleStrand]) -> Added:
    """Strands as runs of their own, each with a path by handles, below a heading, in the place of a run of strands;
    their ids. They follow nothing any more."""
    draft, run = Draft(project), run_by_id(project, run_id)
    guides = guides_of(project, run)
    ids = [_opened(draft, run, one, guides[one.guide]) for one in strands]
    done = delete_runs(draft.done(), [run_id])
    return Added(grouped(done, ids, run.show.name).project, tuple(ids))


def _opened(draft: Draft, run: Run, one: SingleStrand, guide: Run) -> str:
    handles = [_place(h) for h in one.handles]
    knots = tuple(
        Knot(id=draft.new_id("k"), place=_place(p), kind="in line", coming=(-x, -y, -z), leaving=(x, y, z))
        for p, (x, y, z) in zip(one.knots, handles, strict=True)
    )
    path = Path(id=draft.new_id("p"), kind=PathKind.HANDLES, knots=knots)
    station = evolve(guide.recipe.stations[0], id=draft.new_id("t"), share=0.0, by="share", knot=None, marks=())
    size = float(max(one.sizes.max(), 1e-9))
    placing = evolve(guide.recipe.placing, orientation=Orientation.CARRIED, roll=0.0, flip=one.mirrored)
    recipe = evolve(
        run.recipe,
        path=path.id,
        stations=(evolve(station, turn=0.0),),
        size=size,
        placing=placing,
        varying=_varying(one, size),
        strands=None,
    )
    draft.add(path)
    made = Run(
        id=draft.new_id("r"),
        recipe=recipe,
        show=evolve(run.show, name=draft.free_name("runs", run.show.name)),
        times=run.times,
    )
    draft.add(made)
    return made.id


def _varying(one: SingleStrand, size: float) -> Varying | None:
    """What varies along a strand; None where nothing does."""

    def law(values: Floats) -> tuple[LawPoint, ...]:
        pairs = zip(one.shares.tolist(), values.tolist(), strict=True)
        return tuple(LawPoint(share=s, value=v, piece=Piece.SMOOTH) for s, v in pairs)

    laws = {"size": law(one.sizes / size), "roll": law(one.rolls)}
    if one.stretch is not None:
        laws |= {"width": law(one.stretch[:, 0]), "height": law(one.stretch[:, 1])}
    if one.offset is not None:
        laws |= {"shift": law(one.offset[:, 0]), "lift": law(one.offset[:, 1])}
    even = {"size": 1.0, "width": 1.0, "height": 1.0, "roll": 0.0, "shift": 0.0, "lift": 0.0}
    kept = {name: points for name, points in laws.items() if any(abs(p.value - even[name]) > 1e-9 for p in points)}
    return Varying(**kept) if kept else None


def _place(p: Floats) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))


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
