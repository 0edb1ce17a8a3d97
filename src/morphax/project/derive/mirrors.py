"""Mirror images: paths and runs that are those of another run, seen in a plane, whatever becomes of it."""

from collections.abc import Mapping, Sequence

import numpy as np

from morphax.core.body.images import imaged_body, mirror_matrix, mirrored_places
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
from morphax.project.model.paths import Made, MirrorOf, made_curve, rest_ups

_LEVEL = 1e-9
"""A plane's normal that rises by no more is level."""


def mirror_of(project: Project, run: Run) -> tuple[Run, MirrorOf] | None:
    """The run that another one is the image of, and the plane; None for one that is nothing's, or whose original is
    gone or stands on another path now."""
    original: Run | None = project.find("runs", run.like)
    path: Path | None = project.find("paths", run.recipe.path)
    plane = None if path is None else path.follows
    if original is None or not isinstance(plane, MirrorOf) or original.recipe.path != plane.path:
        return None
    return original, plane


def plane_of(mirror: MirrorOf) -> tuple[Floats, Floats]:
    """A place of the plane and its normal, (3,) each."""
    return np.array(mirror.at), np.array(mirror.normal)


def seen_across(body: Body, mirror: MirrorOf) -> Body:
    """The body of a run's image."""
    at, normal = plane_of(mirror)
    return imaged_body(body, mirror_matrix(normal), 2.0 * float(at @ normal) * normal)


def across(place: Place, mirror: MirrorOf) -> Place:
    """A place on the other side."""
    return _place(mirrored_places(np.array(place), *plane_of(mirror)))


def turned_over(direction: Place | None, mirror: MirrorOf) -> Place | None:
    """A direction or handle as it is on the other side."""
    if direction is None:
        return None
    return _place(mirrored_places(np.array(direction), np.zeros(3), np.array(mirror.normal)))


def knots_seen(knots: Sequence[Knot], mirror: MirrorOf, ids: Sequence[str]) -> tuple[Knot, ...]:
    """Knots on the other side, with ids of their own; they hold on to nothing."""
    return tuple(knot_seen(k, mirror, i) for k, i in zip(knots, ids, strict=True))


def knot_seen(knot: Knot, mirror: MirrorOf, own: str) -> Knot:
    return copied(
        knot,
        id=own,
        place=across(knot.place, mirror),
        coming=turned_over(knot.coming, mirror),
        leaving=turned_over(knot.leaving, mirror),
        hold=None,
    )


def as_mirrored(of: Path, mirror: MirrorOf) -> Path:
    """The path that the mirror turns over: itself; but a coil, and one that hangs where that is upside down or aslant,
    are by their handles, with some knots more: by themselves they would wind and hang otherwise."""
    is_coil = of.made is not None and of.made.spine is not None
    if not is_coil and (of.kind is not PathKind.HANGING or abs(mirror.normal[2]) < _LEVEL):
        return of
    return copied(by_handles(of, lambda count: [f"x{i}" for i in range(count)]), bend=None)


def path_seen(of: Path, mirror: MirrorOf, own: str, ids: Sequence[str]) -> Path:
    """A path (that of ``as_mirrored``) on the other side, with ids of its own: whatever it is, the same one in the
    mirror."""
    ups = tuple(turned_over(up, mirror) for up in rest_ups(of))
    follows = copied(mirror, path=of.id, ups=ups)
    bend = of.bend
    if bend is not None:
        bulge = turned_over(bend.bulge, mirror) or bend.bulge
        bend = copied(bend, bulge=bulge, host=None, seen=None, reaches=None)
    made = None if of.made is None else _made_seen(of.made, mirror)
    knots = knots_seen(of.knots, mirror, ids)
    if made is not None:
        knots = marked_knots(made_curve(made), list(knots))
    return copied(of, id=own, knots=knots, made=made, bend=bend, follows=follows)


def _made_seen(made: Made, mirror: MirrorOf) -> Made:
    """A ready-made path on the other side."""
    at, normal = plane_of(mirror)
    curve = transformed_curve(made_curve(made), at, mirror_matrix(normal), np.zeros(3), 1.0)
    x, _, z = curve.axes
    values = tuple((k, float(v)) for k, v in curve.values.items())
    return copied(made, values=values, at=_place(curve.origin), x=_place(x), z=_place(z), rest=None)


def recipe_seen(
    recipe: Recipe, mirror: MirrorOf, path: str, ids: tuple[Sequence[str], Sequence[str]], twins: Mapping[str, str]
) -> Recipe:
    """A recipe on the other side: ``ids`` of its stations and of its sets of pieces; ``twins`` of its knots."""
    stations = tuple(
        copied(s, id=i, knot=None if s.knot is None else twins.get(s.knot, s.knot))
        for s, i in zip(recipe.stations, ids[0], strict=True)
    )
    sets = tuple(copied(s, id=i) for s, i in zip(recipe.sets, ids[1], strict=True))
    placing = recipe.placing
    if placing.towards is not None:
        placing = evolve(placing, towards=across(placing.towards, mirror))
    reference = multiplied(recipe.reference, mirror_matrix(np.array(mirror.normal)))
    varying = with_knots(recipe.varying, twins)
    return copied(
        recipe, path=path, stations=stations, sets=sets, placing=placing, reference=reference, varying=varying
    )


def on_its_own(path: Path, draft: Draft) -> Path:
    """A path that follows nothing; one that lies as another does keeps its shape by handles of its own."""
    lies = isinstance(path.follows, MirrorOf) and any(path.follows.ups)
    if lies and path.made is None and path.kind is not PathKind.HANDLES:
        path = by_handles(path, lambda count: draft.new_ids("k", count))
    return path if path.follows is None else copied(path, follows=None)


def with_image_path(project: Project, path: Path) -> Project:
    """The document with a path that is an image as it is in the mirror now; itself where it is so already."""
    mirror = path.follows
    of: Path | None = None if not isinstance(mirror, MirrorOf) else project.find("paths", mirror.path)
    if of is None or not isinstance(mirror, MirrorOf):
        return project
    draft = Draft(project)
    try:
        of = as_mirrored(of, mirror)
        seen = path_seen(of, mirror, path.id, own_ids(draft, "k", [k.id for k in path.knots], len(of.knots)))
    except PathError:
        return project  # what a coil winds round cannot carry one now: its own body says so
    if seen == path:
        return project
    draft.put(seen)
    return draft.done()


def with_image_run(project: Project, run: Run) -> Project:
    """The document with a run that is an image as it is in the mirror now; itself where it is so already."""
    found = mirror_of(project, run)
    if found is None:
        return project
    original, mirror = found
    draft, recipe = Draft(project), run.recipe
    of, path = as_mirrored(draft.path(mirror.path), mirror), draft.path(recipe.path)
    twins = dict(zip((k.id for k in of.knots), (k.id for k in path.knots), strict=False))
    stations = own_ids(draft, "t", [s.id for s in recipe.stations], len(original.recipe.stations))
    sets = own_ids(draft, "e", [s.id for s in recipe.sets], len(original.recipe.sets))
    seen = recipe_seen(original.recipe, mirror, path.id, (stations, sets), twins)
    if seen == recipe and original.times == run.times:
        return project
    draft.put(copied(run, recipe=seen, times=original.times))
    return draft.done()


def own_ids(draft: Draft, letter: Letter, ids: Sequence[str], count: int) -> list[str]:
    """So many ids: those that there are, and new ones."""
    kept = list(ids[:count])
    return [*kept, *draft.new_ids(letter, count - len(kept))]


def _place(p: Floats) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
