"""Edits of runs beside others: parallel ones, pairs at a gauge, rows and rounds."""

from collections.abc import Callable, Sequence
from math import pi
from typing import Any

import numpy as np

from morphax.core.path.paths import PathKind
from morphax.project.derive.images import image_of, likes_of
from morphax.project.derive.strands import strands_between
from morphax.project.draft import Draft
from morphax.project.edits.images import add_images
from morphax.project.edits.runs import Added, delete_runs
from morphax.project.edits.station_values import with_own_sets, with_own_stations
from morphax.project.lookup import path_by_id, run_by_id
from morphax.project.model.document import DocumentError, Path, Place, Project, Run, copied, evolve
from morphax.project.model.paths import MOST_IMAGES, BesideOf, Between, ImageOf, RoundOf, RowOf


def add_beside(project: Project, run_ids: Sequence[str], side: float, up: float = 0.0) -> Added:
    """Runs like others, each on a path beside the other's, ``side`` m to the right (negative: left) and ``up`` m above;
    their ids."""
    draft = Draft(project)
    ids = [_add_beside(draft, draft.run(i), BesideOf(path="p0", side=side, up=up), flip=False) for i in run_ids]
    return Added(draft.done(), tuple(ids))


def add_on_path(project: Project, run_ids: Sequence[str]) -> Added:
    """Runs like others on the very same paths; their ids. Sections stay shared; pieces that lead to others don't come
    along."""
    draft, ids = Draft(project), list[str]()
    for run in map(draft.run, run_ids):
        recipe = run.recipe
        made = copied(
            run,
            id=draft.new_id("r"),
            recipe=copied(
                recipe,
                stations=with_own_stations(draft, recipe.stations),
                sets=with_own_sets(draft, tuple(s for s in recipe.sets if s.to is None)),
            ),
            show=copied(run.show, name=draft.free_name("runs", run.show.name)),
            like=None,
            cast=None,
        )
        draft.add(made)
        ids.append(made.id)
    return Added(draft.done(), tuple(ids))


def add_pair(project: Project, run_ids: Sequence[str], gauge: float, between: Between = "centres") -> Added:
    """Two runs like each of some, one to its right and one, mirrored, to its left, with the ``gauge``, m, between them;
    their ids."""
    draft, ids = Draft(project), list[str]()
    for run in map(draft.run, run_ids):
        for sign in (1.0, -1.0):
            follows = BesideOf(path="p0", side=0.5 * sign * gauge, gauge=gauge, between=between)
            ids.append(_add_beside(draft, run, follows, flip=sign < 0.0))
    return Added(draft.done(), tuple(ids))


def _add_beside(draft: Draft, run: Run, follows: BesideOf, *, flip: bool) -> str:
    """A run like another one on a path beside that one's. Values of knots stay behind: it has knots of its own; pieces
    that lead to another run do so too."""
    of, recipe = draft.path(run.recipe.path), run.recipe
    own = Path(id=draft.new_id("p"), kind=PathKind.STRAIGHT, follows=copied(follows, path=of.id))
    draft.add(own)
    stations = tuple(
        copied(s, id=draft.new_id("t"), knot=None, by="share" if s.by == "knot" else s.by) for s in recipe.stations
    )
    varying = recipe.varying if recipe.varying is None else evolve(recipe.varying, knots=())
    placing = evolve(recipe.placing, flip=recipe.placing.flip is not flip)
    sets = with_own_sets(draft, tuple(s for s in recipe.sets if s.to is None))
    made = copied(
        run,
        id=draft.new_id("r"),
        recipe=copied(recipe, path=own.id, stations=stations, varying=varying, placing=placing, sets=sets),
        show=copied(run.show, name=draft.free_name("runs", run.show.name)),
        like=None,
        cast=None,
    )
    draft.add(made)
    return made.id


def set_beside(project: Project, path_ids: Sequence[str], **changes: Any) -> Project:
    """Other values of how paths run beside others: ``side``, ``up``, ``gauge``, ``between``. A typed side is no gauge
    any more. Raises DocumentError where a path runs beside none."""
    draft = Draft(project)
    if "side" in changes:
        changes = {**changes, "gauge": None}
    for path_id in path_ids:
        path = path_by_id(project, path_id)
        if not isinstance(path.follows, BesideOf):
            raise DocumentError("this path runs beside no other one")
        draft.put(copied(path, follows=evolve(path.follows, **changes)))
    return draft.done()


def running_beside(project: Project, path_id: str) -> list[Run]:
    """The runs whose paths run beside a path; looked through once for a document's paths and runs."""
    known: tuple[object, object, dict[str, list[Run]]] | None = project.__dict__.get("_runs_beside")
    if known is None or known[0] is not project.paths or known[1] is not project.runs:
        beside = {p.id: p.follows.path for p in project.paths if isinstance(p.follows, BesideOf)}
        found: dict[str, list[Run]] = {}
        for run in project.runs if beside else ():
            if run.recipe.path in beside:
                found.setdefault(beside[run.recipe.path], []).append(run)
        known = project.__dict__["_runs_beside"] = (project.paths, project.runs, found)
    return known[2].get(path_id, [])


def followers_of(project: Project, run_ids: Sequence[str]) -> list[Run]:
    """The runs that follow some: their images, and what runs beside their paths."""
    out: dict[str, Run] = {}
    for run_id in run_ids:
        run: Run | None = project.find("runs", run_id)
        if run is not None:
            found = [*likes_of(project).get(run_id, ()), *running_beside(project, run.recipe.path)]
            found += strands_between(project).get(run_id, ())
            out |= {r.id: r for r in found if r.id not in run_ids}
    return list(out.values())


def pair_of(project: Project, path: Path) -> tuple[str, ...]:
    """Ids of a path of a pair and of its other one; of itself alone where it is in none."""
    follows = path.follows
    if not isinstance(follows, BesideOf) or follows.gauge is None:
        return (path.id,)
    own, at = _pair_key(follows), project.position("paths", path.id)
    way = 1 if follows.side > 0.0 else -1  # the right one was made first, the left one next to it
    others = {r.recipe.path for r in running_beside(project, follows.path)} - {path.id}
    far = []
    for other in others:
        beside, found = path_by_id(project, other).follows, way * (project.position("paths", other) - at)
        if isinstance(beside, BesideOf) and _pair_key(beside) == own and beside.side * way < 0.0:
            far.append(((found < 0, abs(found)), other))
    return (path.id, *(other for _, other in sorted(far)[:1]))


def _pair_key(follows: BesideOf) -> tuple[object, ...]:
    """What both of a pair have in common."""
    return follows.gauge, follows.between, follows.up


# -- rows and rounds ------------------------------------------------------------------------------


def original_of(project: Project, run_id: str) -> str:
    """The id of the run that one is an image of, in any number of steps; its own where it is none's."""
    seen = {run_id}
    while (found := image_of(project, run_by_id(project, run_id))) is not None and found[0].id not in seen:
        run_id = found[0].id
        seen.add(run_id)
    return run_id


def images_of(project: Project, run_id: str, kind: type[ImageOf]) -> list[tuple[Run, ImageOf]]:
    """The images of a run of one kind, by their numbers."""
    found = []
    for run in likes_of(project).get(run_id, ()):
        image = image_of(project, run)
        if image is not None and isinstance(image[1], kind):
            found.append((run, image[1]))
    return sorted(found, key=lambda f: getattr(f[1], "number", 1))


def set_row(project: Project, run_ids: Sequence[str], count: int, step: Place) -> Added:
    """Rows of ``count`` of each of some runs, that itself the first, each ``step`` m farther on; ids of all images.

    Those that stand there already move; those too many go.
    """
    return _set_images(project, run_ids, count, lambda k: RowOf(path="p0", number=k, step=step))


def set_round(project: Project, run_ids: Sequence[str], count: int, at: Place, axis: Place, angle: float) -> Added:
    """``count`` of each of some runs round an ``axis`` through ``at``, m, that itself the first, each ``angle`` rad
    farther round; ids of all images."""
    unit = np.array(axis) / np.linalg.norm(axis)
    way = (float(unit[0]), float(unit[1]), float(unit[2]))
    return _set_images(project, run_ids, count, lambda k: RoundOf(path="p0", number=k, at=at, axis=way, angle=angle))


def _set_images(project: Project, run_ids: Sequence[str], count: int, image: Callable[[int], ImageOf]) -> Added:
    if not 1 <= count <= MOST_IMAGES:
        raise DocumentError(f"there are 1 to {MOST_IMAGES} of them, with the first")
    kind, firsts = type(image(1)), list(dict.fromkeys(original_of(project, i) for i in run_ids))
    there = {i: {getattr(m, "number", 1): r for r, m in images_of(project, i, kind)} for i in firsts}
    gone = [r.id for own in there.values() for k, r in own.items() if k >= count]
    project = delete_runs(project, gone) if gone else project
    draft, missing = Draft(project), dict[tuple[int, ...], list[str]]()
    for run_id, own in there.items():
        missing.setdefault(tuple(k for k in range(1, count) if k not in own), []).append(run_id)
        of = draft.run(run_id).recipe.path
        for path in (draft.path(r.recipe.path) for k, r in own.items() if k < count):
            number = getattr(path.follows, "number", 1)
            draft.put(copied(path, follows=copied(image(number), path=of)))
    project = draft.done()
    for numbers, ids in missing.items():
        project = add_images(project, ids, [image(k) for k in numbers]).project
    return Added(project, tuple(r.id for i in firsts for r, _ in images_of(project, i, kind)))


def all_round(count: int) -> float:
    """The angle between neighbours, rad, of so many that stand all round."""
    return 2.0 * pi / max(count, 1)
