"""Images: paths and runs that are those of another run, mirrored or elsewhere, whatever becomes of it."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np

from morphax.core.body.images import imaged_body, mirror_matrix, turn_matrix
from morphax.core.body.recipe import Body
from morphax.core.body.reference import multiplied
from morphax.core.errors import PathError
from morphax.core.path.made_paths import transformed_curve
from morphax.core.path.paths import PathKind
from morphax.core.types import Floats
from morphax.project.derive.along import with_knots
from morphax.project.derive.coils import marked_knots
from morphax.project.derive.handles import by_handles
from morphax.project.draft import Draft, Letter
from morphax.project.model.document import Knot, Path, Place, Project, Recipe, Run, copied, evolve
from morphax.project.model.paths import ImageOf, Made, MirrorOf, RoundOf, RowOf, made_curve, rest_ups

_LEVEL = 1e-9
"""What is turned up so little is level."""


class Finds(Protocol):
    """A document, or one in the making."""

    def find(self, kind: str, wanted: str | None) -> Any: ...


def image_of(project: Finds, run: Run) -> tuple[Run, ImageOf] | None:
    """The run that another one is an image of, and how; None for one that is nothing's, or whose original is gone or
    stands on another path now."""
    if run.like is None:
        return None
    original: Run | None = project.find("runs", run.like)
    path: Path | None = project.find("paths", run.recipe.path)
    image = None if path is None else path.follows
    if original is None or not isinstance(image, ImageOf) or original.recipe.path != image.path:
        return None
    return original, image


def likes_of(project: Project) -> Mapping[str, list[Run]]:
    """The runs that are images, by the id of what they are images of; looked through once for a document's runs."""
    known: tuple[object, dict[str, list[Run]]] | None = project.__dict__.get("_likes")
    if known is None or known[0] is not project.runs:
        found = dict[str, list[Run]]()
        for run in project.runs:
            if run.like is not None:
                found.setdefault(run.like, []).append(run)
        known = project.__dict__["_likes"] = (project.runs, found)
    return known[1]


@dataclass(frozen=True, eq=False)
class Motion:
    """p -> matrix p + shift; ``matrix`` (3, 3) a turn or a mirror image, ``shift`` (3,) m."""

    matrix: Floats
    shift: Floats

    @property
    def back(self) -> "Motion":
        return Motion(self.matrix.T, -(self.matrix.T @ self.shift))

    @property
    def keeps_level(self) -> bool:
        """Whether what hangs hangs so after it too."""
        return abs(float(self.matrix[2, 2]) - 1.0) < _LEVEL

    def place(self, place: Place) -> Place:
        """A place after it."""
        return _place(self.matrix @ np.array(place) + self.shift)

    def way(self, direction: Place) -> Place:
        """A direction or handle after it."""
        return _place(self.matrix @ np.array(direction))


def motion_of(image: ImageOf) -> Motion:
    """How an image comes from its original."""
    if isinstance(image, MirrorOf):
        at, normal = np.array(image.at), np.array(image.normal)
        return Motion(mirror_matrix(normal), 2.0 * float(at @ normal) * normal)
    if isinstance(image, RowOf):
        return Motion(np.eye(3), image.number * np.array(image.step))
    assert isinstance(image, RoundOf)
    matrix, at = turn_matrix(np.array(image.axis), image.number * image.angle), np.array(image.at)
    return Motion(matrix, at - matrix @ at)


def seen_body(body: Body, image: ImageOf) -> Body:
    """The body of a run's image."""
    motion = motion_of(image)
    return imaged_body(body, motion.matrix, motion.shift)


def knot_seen(knot: Knot, motion: Motion, own: str) -> Knot:
    """A knot elsewhere, with an id of its own; it holds on to nothing."""
    coming, leaving = (None if h is None else motion.way(h) for h in (knot.coming, knot.leaving))
    return copied(knot, id=own, place=motion.place(knot.place), coming=coming, leaving=leaving, hold=None)


def as_imaged(of: Path, motion: Motion) -> Path:
    """The path that has an image: itself; but a coil, and one that hangs where that is tilted, are by their handles,
    with some knots more: by themselves they would wind and hang otherwise."""
    is_coil = of.made is not None and of.made.spine is not None
    if not is_coil and (of.kind is not PathKind.HANGING or motion.keeps_level):
        return of
    return copied(by_handles(of, lambda count: [f"x{i}" for i in range(count)]), bend=None)


def path_seen(of: Path, motion: Motion, own: str, ids: Sequence[str]) -> Path:
    """A path (that of ``as_imaged``) elsewhere, with ids of its own: whatever it is, the same one."""
    bend = of.bend
    if bend is not None:
        bend = copied(bend, bulge=motion.way(bend.bulge), host=None, seen=None, reaches=None)
    made = None if of.made is None else _made_seen(of.made, motion)
    knots = tuple(knot_seen(k, motion, i) for k, i in zip(of.knots, ids, strict=True))
    if made is not None:
        knots = marked_knots(made_curve(made), list(knots))
    return copied(of, id=own, knots=knots, made=made, bend=bend)


def image_seen(of: Path, image: ImageOf, own: str, ids: Sequence[str]) -> Path:
    """The image of a path (that of ``as_imaged``), which follows it."""
    motion = motion_of(image)
    ups = tuple(None if up is None else motion.way(up) for up in rest_ups(of))
    return copied(path_seen(of, motion, own, ids), follows=copied(image, ups=ups))


def _made_seen(made: Made, motion: Motion) -> Made:
    """A ready-made path elsewhere."""
    curve = transformed_curve(made_curve(made), np.zeros(3), motion.matrix, motion.shift, 1.0)
    x, _, z = curve.axes
    values = tuple((k, float(v)) for k, v in curve.values.items())
    return copied(made, values=values, at=_place(curve.origin), x=_place(x), z=_place(z), rest=None)


def recipe_seen(
    recipe: Recipe, motion: Motion, path: str, ids: tuple[Sequence[str], Sequence[str]], twins: Mapping[str, str]
) -> Recipe:
    """A recipe elsewhere: ``ids`` of its stations and of its sets of pieces; ``twins`` of its knots."""
    stations = tuple(
        copied(s, id=i, knot=None if s.knot is None else twins.get(s.knot, s.knot))
        for s, i in zip(recipe.stations, ids[0], strict=True)
    )
    sets = tuple(copied(s, id=i) for s, i in zip(recipe.sets, ids[1], strict=True))
    placing = recipe.placing
    if placing.towards is not None:
        placing = evolve(placing, towards=motion.place(placing.towards))
    reference = multiplied(recipe.reference, motion.matrix)
    varying = with_knots(recipe.varying, twins)
    return copied(
        recipe, path=path, stations=stations, sets=sets, placing=placing, reference=reference, varying=varying
    )


def on_its_own(path: Path, draft: Draft) -> Path:
    """A path that follows nothing; one that lies as another does keeps its shape by handles of its own."""
    lies = isinstance(path.follows, ImageOf) and any(path.follows.ups)
    if lies and path.made is None and path.kind is not PathKind.HANDLES:
        path = by_handles(path, lambda count: draft.new_ids("k", count))
    return path if path.follows is None else copied(path, follows=None)


def set_free(draft: Draft, paths: Collection[str]) -> None:
    """Lets go of paths, by ids, and of runs that are gone: what followed them goes on as it is."""
    lone = set[str]()
    for run in draft.items("runs"):
        if run.like is not None and draft.find("runs", run.like) is None:
            draft.put(copied(run, like=None))
            lone.add(run.recipe.path)
    lone -= {r.recipe.path for r in draft.items("runs") if r.like is not None} if lone else set()
    for path in draft.items("paths") if paths or lone else ():
        if path.follows is not None and (path.follows.path in paths or path.id in lone):
            draft.put(on_its_own(path, draft))


def renew_image(draft: Draft, name: str) -> None:
    """Brings a path, or a run, that is an image up to what its original is in a draft."""
    path: Path | None = draft.find("paths", name)
    run: Run | None = None if path is not None else draft.find("runs", name)
    if path is not None:
        _renew_path(draft, path)
    elif run is not None:
        _renew_run(draft, run)


def _renew_path(draft: Draft, path: Path) -> None:
    image = path.follows
    of: Path | None = None if not isinstance(image, ImageOf) else draft.find("paths", image.path)
    if of is None or not isinstance(image, ImageOf):
        return
    try:
        of = as_imaged(of, motion_of(image))
        seen = image_seen(of, image, path.id, own_ids(draft, "k", [k.id for k in path.knots], len(of.knots)))
    except PathError:
        return  # what a coil winds round cannot carry one now: its own body says so
    if seen != path:
        draft.put(seen)


def _renew_run(draft: Draft, run: Run) -> None:
    found = image_of(draft, run)
    if found is None:
        return
    original, motion = found[0], motion_of(found[1])
    recipe = run.recipe
    of, path = as_imaged(draft.path(original.recipe.path), motion), draft.path(recipe.path)
    twins = dict(zip((k.id for k in of.knots), (k.id for k in path.knots), strict=False))
    stations = own_ids(draft, "t", [s.id for s in recipe.stations], len(original.recipe.stations))
    sets = own_ids(draft, "e", [s.id for s in recipe.sets], len(original.recipe.sets))
    seen = recipe_seen(original.recipe, motion, path.id, (stations, sets), twins)
    if seen != recipe or original.times != run.times:
        draft.put(copied(run, recipe=seen, times=original.times))


def own_ids(draft: Draft, letter: Letter, ids: Sequence[str], count: int) -> list[str]:
    """So many ids: those that there are, and new ones."""
    kept = list(ids[:count])
    return [*kept, *draft.new_ids(letter, count - len(kept))]


def _place(p: Floats) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
