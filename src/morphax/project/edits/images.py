"""Edits of images, mirrored, in rows and round an axis: made, moved, set free; and what is changed on one of them is
changed on its original."""

from collections import Counter
from collections.abc import Sequence

import numpy as np

from morphax.core.types import Floats
from morphax.project.derive.along import with_knots
from morphax.project.derive.graph import differences
from morphax.project.derive.images import (
    Motion,
    as_imaged,
    image_of,
    image_seen,
    knot_seen,
    likes_of,
    motion_of,
    on_its_own,
    own_ids,
    path_seen,
    recipe_seen,
)
from morphax.project.draft import Draft, Letter
from morphax.project.edits.holding import is_fixed
from morphax.project.edits.resting import slid
from morphax.project.edits.runs import Added, delete_runs
from morphax.project.feeds import path_users
from morphax.project.lookup import path_by_id
from morphax.project.model.document import DocumentError, Knot, Path, Place, Project, RestHold, Run, copied, evolve
from morphax.project.model.paths import BesideOf, ImageOf, MirrorOf


def add_mirrors(project: Project, run_ids: Sequence[str], at: Floats, normal: Floats) -> Added:
    """The mirror images of runs across a plane through ``at`` (3,), m, with a ``normal`` (3,): runs that follow them in
    all that they are; the ids of the images. Runs on one path have images on one path."""
    unit = _place(np.asarray(normal) / np.linalg.norm(normal))
    return add_images(project, run_ids, [MirrorOf(path="p0", at=_place(at), normal=unit)])


def add_images(project: Project, run_ids: Sequence[str], images: Sequence[ImageOf]) -> Added:
    """Images of runs, of each as many as are said (of whatever path): runs that follow them; their ids, all of the
    first image first."""
    draft, ids = Draft(project), list[str]()
    for image in images:
        paths = dict[str, Path]()
        ids += [_add_image(draft, draft.run(run_id), image, paths) for run_id in run_ids]
    return Added(draft.done(), tuple(ids))


def _add_image(draft: Draft, run: Run, image: ImageOf, paths: dict[str, Path]) -> str:
    """Adds an image of a run; ``paths``: the images of paths that there are by now."""
    motion = motion_of(image)
    of = as_imaged(draft.path(run.recipe.path), motion)
    if of.id not in paths:
        own = copied(image, path=of.id)
        paths[of.id] = image_seen(of, own, draft.new_id("p"), draft.new_ids("k", len(of.knots)))
        draft.add(paths[of.id])
    path = paths[of.id]
    twins = dict(zip((k.id for k in of.knots), (k.id for k in path.knots), strict=True))
    ids = draft.new_ids("t", len(run.recipe.stations)), draft.new_ids("e", len(run.recipe.sets))
    recipe = recipe_seen(run.recipe, motion, path.id, ids, twins)
    show = copied(run.show, name=draft.free_name("runs", run.show.name))
    made = copied(run, id=draft.new_id("r"), recipe=recipe, show=show, like=run.id, cast=None)
    draft.add(made)
    return made.id


def set_mirror(project: Project, path_id: str, at: Place, normal: Place) -> Project:
    """Another plane for the image that a path is. Raises DocumentError where it is none."""
    path = path_by_id(project, path_id)
    if not isinstance(path.follows, MirrorOf):
        raise DocumentError("this path is no mirror image")
    draft = Draft(project)
    draft.put(evolve(path, follows=evolve(path.follows, at=at, normal=normal)))
    return draft.done()


def own_copies(project: Project, run_ids: Sequence[str]) -> Project:
    """Runs that follow nothing any more and share their paths with none: each has a path of its own, that goes as it
    did; its images go on following it. Raises DocumentError where all have one already."""
    draft, users, is_done = Draft(project), path_users(project).copy(), False
    for run_id in run_ids:
        run = draft.run(run_id)
        if run.recipe.strands is not None:
            raise DocumentError(f"{run.show.name} runs between others, and can't go its own way")
        is_shared = users[run.recipe.path] > 1
        if is_shared or run.like is not None or draft.path(run.recipe.path).follows is not None:
            is_done = True
            own = _onto_own_path(draft, run, users) if is_shared else run
            draft.put(on_its_own(draft.path(own.recipe.path), draft))
            draft.put(copied(own, like=None))
    if not is_done:
        raise DocumentError("this run follows nothing, and no other has its path: it is its own already")
    return draft.done()


def _onto_own_path(draft: Draft, run: Run, users: Counter[str]) -> Run:
    """Puts a run that shared its path on a copy of it, which holds on to the same; its images come along. ``users``:
    how many runs each path has."""
    path, recipe = draft.path(run.recipe.path), run.recipe
    likes = [draft.run(r.id) for r in likes_of(draft.project).get(run.id, ())]
    images = [i for i in likes if image_of(draft, i) is not None]
    knots = tuple(copied(k, id=draft.new_id("k")) for k in path.knots)
    own = copied(path, id=draft.new_id("p"), knots=knots)
    draft.add(own)
    users.update({path.id: -1, own.id: 1})
    twins = dict(zip((k.id for k in path.knots), (k.id for k in knots), strict=True))
    stations = tuple(copied(s, knot=None if s.knot is None else twins.get(s.knot, s.knot)) for s in recipe.stations)
    varying = with_knots(recipe.varying, twins)
    made = copied(run, recipe=copied(recipe, path=own.id, stations=stations, varying=varying))
    draft.put(made)
    for image in images:
        there = _onto_own_path(draft, image, users) if users[image.recipe.path] > 1 else image
        theirs = draft.path(there.recipe.path)
        assert theirs.follows is not None
        draft.put(copied(theirs, follows=copied(theirs.follows, path=own.id)))
    return made


def with_images_of_part(project: Project, first: str, second: str) -> Project:
    """The document in which a run that was cut off another one, the ``second``, has images wherever the ``first`` has
    some."""
    images = [found[1] for r in likes_of(project).get(first, ()) if (found := image_of(project, r)) is not None]
    return add_images(project, [second], images).project if images else project


def without_twins_of_part(project: Project, first: str, second: str) -> Project:
    """The document without those images of the ``second`` run that stand where the ``first`` has some too: where both
    are made one, that one's image has both."""
    likes = likes_of(project)
    there = [_place_of(found[1]) for r in likes.get(first, ()) if (found := image_of(project, r)) is not None]
    twins = [r.id for r in likes.get(second, ()) if (i := image_of(project, r)) and _place_of(i[1]) in there]
    return delete_runs(project, twins) if twins else project


def _place_of(image: ImageOf) -> ImageOf:
    """Where an image is, whatever of."""
    return copied(image, path="p0", ups=())


def freed_words(before: Project, after: Project) -> str:
    """What is said of runs that followed others which are deleted now; empty where none did."""
    if len(after.runs) >= len(before.runs):
        return ""
    names = [r.show.name for r in before.runs if not after.find("runs", r.id) and _ran_between_gone(after, r)]
    if names:
        return f"{names[0]}{f' and {len(names) - 1} more' if names[1:] else ''} ran between what is gone, and went too."
    names = [r.show.name for r in after.runs if not all(_ties(after, r)) and _lost_one(before, after, r)]
    if not names:
        return ""
    if len(names) == 1:
        return f"{names[0]} followed what is gone: it stays as it is, on its own."
    return f"{names[0]} and {len(names) - 1} more followed what is gone: they stay as they are, on their own."


def _ran_between_gone(after: Project, run: Run) -> bool:
    """Whether a run that is gone was strands, of which a guide or the original is gone too."""
    strands = run.recipe.strands
    return strands is not None and not all(after.find("runs", i) for i in (*strands.of, run.like or strands.of[0]))


def _ties(project: Project, run: Run) -> tuple[object, object]:
    """What a run's path follows, and what it is like itself."""
    path: Path | None = project.find("paths", run.recipe.path)
    return None if path is None else path.follows, run.like


def _lost_one(before: Project, after: Project, run: Run) -> bool:
    """Whether a run followed something, in its path or all of it, that it follows no more."""
    was: Run | None = before.find("runs", run.id)
    return was is not None and any(
        old and not new for old, new in zip(_ties(before, was), _ties(after, run), strict=True)
    )


# -- the other way --------------------------------------------------------------------------------


def handed_back(before: Project, after: Project) -> Project:
    """The document in which what an edit changed on an image is changed on its original too.

    Raises DocumentError where that can't be: a path beside another one is drawn by that, and what the original's knot
    holds on to keeps it.
    """
    while True:  # an image of an image hands on what it was handed
        now = after
        if before.paths is not now.paths:
            for path in differences(before.paths, now.paths)[0]:
                now = _path_back(before, now, path)
        if before.runs is not now.runs:
            for run in differences(before.runs, now.runs)[0]:
                now = _run_back(before, now, run)
        if now is after:
            return now
        after = now


def _was_following(before: Project, after: Project, path: Path) -> Path | None:
    """A path as it was, where it follows the same as before, which was not changed itself."""
    was: Path | None = before.find("paths", path.id)
    if was is None or path.follows is None or was.follows != path.follows:
        return None
    of = after.find("paths", path.follows.path)
    is_same = of is not None and before.find("paths", of.id) is of
    return was if is_same and _shape_of(was) != _shape_of(path) else None


def _shape_of(path: Path) -> tuple[object, ...]:
    return (path.kind, path.closed, path.slack, path.stiffness, path.tension, path.knots, path.made, path.bend)


def _path_back(before: Project, after: Project, path: Path) -> Project:
    was = _was_following(before, after, path)
    if was is None or path.follows is None:
        return after
    of: Path = after.find("paths", path.follows.path)
    if isinstance(path.follows, BesideOf):
        if any(r.recipe.path == path.id and r.recipe.strands is not None for r in after.runs):
            raise DocumentError("strands run between other runs: change the paths of those")
        raise DocumentError("this path runs beside another one: change that, or how far beside, or make it its own")
    if as_imaged(of, motion_of(path.follows)) is not of:
        raise DocumentError("this path is an image of one that hangs or is a coil: change that, or make it its own")
    if path.made != was.made and (path.made is None or was.made is None):
        raise DocumentError("this path is an image of a ready-made one: change that, or make it its own")
    draft = Draft(after)
    twins = dict(zip((k.id for k in was.knots), of.knots, strict=False))
    back = motion_of(path.follows).back
    seen = path_seen(path, back, of.id, own_ids(draft, "k", [k.id for k in of.knots], len(path.knots)))
    old = {k.id: k for k in was.knots}
    knots = tuple(_knot_back(after, k, old.get(k.id), twins.get(k.id), back, draft) for k in path.knots)
    made = of.made
    if made is not None and seen.made is not None and path.made != was.made:
        made = copied(seen.made, rest=made.rest)
        knots = tuple(copied(k, id=i.id, hold=None) for k, i in zip(seen.knots, knots, strict=True))
    bend = of.bend
    if path.bend != was.bend and seen.bend is not None:
        bend = seen.bend if bend is None else copied(bend, radius=seen.bend.radius, bulge=seen.bend.bulge)
    names = ("kind", "closed", "slack", "stiffness", "tension")
    same = {name: getattr(path, name) for name in names}
    draft.put(evolve(of, knots=knots, made=made, bend=bend, **same))
    return draft.done()


def _knot_back(project: Project, knot: Knot, old: Knot | None, twin: Knot | None, back: Motion, draft: Draft) -> Knot:
    """The original's knot for one of the image: what it holds on to stays."""
    if knot.hold is not None:
        raise DocumentError("an image holds on to nothing itself: let its original hold on, or make it its own")
    if twin is None or old is None:
        return knot_seen(knot, back, draft.new_id("k"))
    if knot == old:
        return twin
    seen = knot_seen(knot, back, twin.id)
    if twin.hold is None or knot.place == old.place:
        return copied(seen, place=twin.place if knot.place == old.place else seen.place, hold=twin.hold)
    if is_fixed(project, twin):
        raise DocumentError("this knot's original holds on to something: move it there, or let go of it")
    if not isinstance(twin.hold, RestHold):
        return copied(seen, hold=None)
    moved = slid(twin, seen.place)
    return copied(seen, place=moved.place, hold=moved.hold, step=moved.step)


def _run_back(before: Project, after: Project, run: Run) -> Project:
    was: Run | None = before.find("runs", run.id)
    if was is None or was.like != run.like or (was.recipe == run.recipe and was.times == run.times):
        return after
    found = image_of(after, run)
    if found is None or before.find("runs", found[0].id) is not found[0] or was.recipe.path != run.recipe.path:
        return after
    original, motion = found[0], motion_of(found[1])
    draft, recipe, old = Draft(after), run.recipe, original.recipe
    path, of = draft.path(recipe.path), as_imaged(draft.path(old.path), motion)
    stations = _back_ids(
        draft, "t", [s.id for s in was.recipe.stations], [s.id for s in old.stations], [s.id for s in recipe.stations]
    )
    sets = _back_ids(draft, "e", [s.id for s in was.recipe.sets], [s.id for s in old.sets], [s.id for s in recipe.sets])
    twins = dict(zip((k.id for k in path.knots), (k.id for k in of.knots), strict=False))
    seen = recipe_seen(recipe, motion.back, of.id, (stations, sets), twins)
    if recipe.reference == was.recipe.reference:
        seen = copied(seen, reference=old.reference)
    if recipe.placing == was.recipe.placing:
        seen = copied(seen, placing=old.placing)
    draft.put(copied(original, recipe=seen, times=run.times))
    return draft.done()


def _back_ids(draft: Draft, letter: Letter, was: Sequence[str], old: Sequence[str], now: Sequence[str]) -> list[str]:
    """The original's ids for those of an image: by those that they had, new ones for new ones."""
    twins = dict(zip(was, old, strict=False))
    return [twins.get(i) or draft.new_id(letter) for i in now]


def _place(p: Floats) -> Place:
    x, y, z = (float(v) for v in p)
    return (x, y, z)
