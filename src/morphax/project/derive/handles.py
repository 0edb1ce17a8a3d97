"""Paths by their handles: the same curve with knots of its own kind."""

from collections.abc import Callable

from morphax.core.path.path_edits import as_handles
from morphax.core.path.paths import PathKind, chain_of
from morphax.core.types import Floats
from morphax.project.model.document import Knot, KnotKind, Path, Place, evolve
from morphax.project.model.paths import path_shape


def by_handles(path: Path, fresh: Callable[[int], list[str]]) -> Path:
    """A pulled, hanging or ready-made path, or one that bends least, as a handles path of the same curve; its ends, and
    knots that lie on the curve, stay the same. ``fresh`` gives ids of new knots."""
    before = path_shape(path)
    shape = as_handles(before)
    count = len(shape.knots)
    ids = [path.knots[0].id, *fresh(count - 1)]
    if path.kind in (PathKind.HANGING, PathKind.THROUGH):
        for k, at in zip(path.knots, chain_of(before).knots.tolist(), strict=False):
            ids[at] = k.id
    if not path.closed:
        ids[-1] = path.knots[-1].id
    knots, holds = [], {k.id: k.hold for k in path.knots}
    for i, knot_id in enumerate(ids):
        coming, leaving = (_place(h) for h in shape.handles[i])
        has = bool(shape.handles[i].any())
        kind: KnotKind = ("loose" if has else "corner") if shape.corner[i] else "in line"
        own = {"hold": holds.get(knot_id)} | ({"coming": coming, "leaving": leaving} if has else {})
        knots.append(Knot(id=knot_id, place=_place(shape.knots[i]), kind=kind, curved=bool(shape.curved[i]), **own))
    return evolve(path, kind=PathKind.HANDLES, knots=tuple(knots), made=None)


def _place(p: Floats) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
