"""Edits of single knots: kinds, handles, radii; and the kind of a whole path."""

from collections.abc import Sequence
from typing import Literal

import numpy as np

from morphax.core.errors import PathError
from morphax.core.path import path_edits as core
from morphax.core.path.path_fit import path_change
from morphax.core.path.paths import PathKind
from morphax.project.derive.handles import by_handles
from morphax.project.draft import Draft
from morphax.project.edits.reshape import Reshaped, with_path
from morphax.project.lookup import path_by_id, path_shape
from morphax.project.model.document import DocumentError, Knot, KnotKind, Path, Place, Project, evolve

Handle = Literal["coming", "leaving"]


def set_knot_kind(project: Project, path_id: str, knot_ids: Sequence[str], kind: KnotKind) -> Project:
    """Changes knots' kind. In-line and loose knots start with the handles that the path has there.

    Raises PathError where the path's kind has no such knots.
    """
    path = path_by_id(project, path_id)
    if path.kind.is_made:
        raise PathError(f"the knots of a {path.kind} path have no kinds; make it a handles path for that")
    if path.kind is PathKind.STRAIGHT and kind != "corner":
        raise PathError("a straight path has corners only; choose another kind of path for smooth knots")
    if path.kind is not PathKind.HANDLES and kind in ("in line", "loose"):
        raise PathError("only a handles path has in-line and loose knots")
    shown = core.shown_handles(path_shape(path)) if kind in ("in line", "loose") else np.empty(0)
    wanted = set(knot_ids)

    def changed(i: int, knot: Knot) -> Knot:
        if knot.id not in wanted or knot.kind == kind:
            return knot
        if kind in ("corner", "smooth"):
            return evolve(knot, kind=kind, coming=None, leaving=None)
        coming, leaving = (np.array(shown[i, k]) for k in (0, 1))
        if kind == "in line":
            coming, leaving = _in_line(coming, leaving)
        return evolve(knot, kind=kind, coming=_place(coming), leaving=_place(leaving))

    return with_path(project, evolve(path, knots=tuple(changed(i, k) for i, k in enumerate(path.knots))))


def _in_line(coming: np.ndarray, leaving: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Handles turned into one line, each keeping its length; a missing one stays missing."""
    a, b = np.linalg.norm(coming), np.linalg.norm(leaving)
    if a == 0.0 or b == 0.0:
        return coming, leaving
    line = leaving / b - coming / a
    size = np.linalg.norm(line)
    line = line / size if size > 1e-9 else leaving / b
    return -a * line, b * line


def move_handle(project: Project, path_id: str, knot_id: str, which: Handle, offset: Place) -> Project:
    """Moves one handle of a knot; a smooth knot becomes in line; at an in-line knot the other one turns along."""
    path = path_by_id(project, path_id)
    if path.kind is not PathKind.HANDLES:
        raise PathError("only a handles path has handles")
    shown = core.shown_handles(path_shape(path))
    index = next((i for i, k in enumerate(path.knots) if k.id == knot_id), None)
    if index is None:
        raise DocumentError(f"there is no knot {knot_id} in path {path_id}")
    knot, k = path.knots[index], 0 if which == "coming" else 1
    own = np.array([knot.coming, knot.leaving]) if knot.coming is not None else shown[index].copy()
    own[k] = offset
    kind: KnotKind = "loose" if knot.kind in ("loose", "corner") else "in line"
    size = float(np.linalg.norm(own[k]))
    if kind == "in line" and size > 0.0:
        own[1 - k] = -own[k] / size * np.linalg.norm(own[1 - k])
    moved = evolve(knot, kind=kind, coming=_place(own[0]), leaving=_place(own[1]))
    return with_path(project, evolve(path, knots=tuple(moved if i == index else q for i, q in enumerate(path.knots))))


def set_radius(project: Project, path_id: str, knot_ids: Sequence[str], radius: float) -> Project:
    """Rounds knots by a radius (m, 0 for sharp); a smooth one becomes a corner. Raises DocumentError below 0."""
    if not radius >= 0.0:
        raise DocumentError("a corner radius is 0 or more")
    path, wanted = path_by_id(project, path_id), set(knot_ids)
    if path.kind.is_made and radius > 0.0:
        raise PathError(f"a {path.kind} path has no corners to round")
    plain = [k.id for k in path.knots if k.id in wanted and k.kind != "corner"]
    if plain and radius > 0.0:
        path = path_by_id(set_knot_kind(project, path_id, plain, "corner"), path_id)
    return with_path(
        project, evolve(path, knots=tuple(evolve(k, radius=radius) if k.id in wanted else k for k in path.knots))
    )


def straighten_legs(project: Project, path_id: str, knot_id: str) -> Project:
    """Makes the two spans at a knot straight, so that its radius holds."""
    path = path_by_id(project, path_id)
    n = len(path.knots)
    index = next(i for i, k in enumerate(path.knots) if k.id == knot_id)
    straight = {index, (index - 1) % n}
    knots = tuple(evolve(k, curved=False, step=None) if i in straight else k for i, k in enumerate(path.knots))
    return with_path(project, evolve(path, knots=knots))


def set_path_kind(project: Project, path_id: str, kind: PathKind) -> Reshaped:
    """Joins a path's knots in another way; the knots stay. Tells the largest deviation.

    To *handles* the curve keeps its shape; the other ways own handles are given up.
    """
    path = path_by_id(project, path_id)
    if kind is PathKind.HANDLES and (path.kind.is_made or path_shape(path).bends_least):
        project, changed = made_to_handles(project, path)
    else:
        to = {PathKind.STRAIGHT: _straight, PathKind.THROUGH: _through, PathKind.HANDLES: _handles}
        changed = evolve(path, kind=kind, knots=to.get(kind, _supports)(path), made=None, tension=0.0)
    return Reshaped(with_path(project, changed), path_change(path_shape(path), path_shape(changed)))


def made_to_handles(project: Project, path: Path) -> tuple[Project, Path]:
    """A pulled, hanging or ready-made path, or one that bends least, as a handles path of the same curve; its ends, and
    knots that lie on the curve, stay the same."""
    draft = Draft(project)
    made = by_handles(path, lambda count: draft.new_ids("k", count))
    return draft.done(), made


def _supports(path: Path) -> tuple[Knot, ...]:
    """Knots of a pulled or hanging path: the curve is made from their places alone."""
    return tuple(_plain(k, kind="smooth", curved=True, radius=0.0) for k in path.knots)


def _plain(knot: Knot, **changes: object) -> Knot:
    return evolve(knot, **{"coming": None, "leaving": None, "step": None, **changes})


def _straight(path: Path) -> tuple[Knot, ...]:
    return tuple(_plain(k, kind="corner", curved=False) for k in path.knots)


def _through(path: Path) -> tuple[Knot, ...]:
    """Straight paths curve; a loose knot stays a corner."""
    if path.kind is PathKind.STRAIGHT:
        return tuple(_plain(k, kind="corner" if k.radius else "smooth", curved=not k.radius) for k in path.knots)
    return tuple(_plain(k, kind="corner" if k.kind in ("corner", "loose") else "smooth") for k in path.knots)


def _handles(path: Path) -> tuple[Knot, ...]:
    """Corners beside curves become loose, with the handles that the curve has there; stored steps likewise."""
    shown = core.shown_handles(path_shape(path))
    stored = path.tension != 0.0 or any(k.step is not None for k in path.knots)
    out = []
    for knot, (coming, leaving) in zip(path.knots, shown, strict=True):
        if knot.kind == "corner":
            has = bool(coming.any() or leaving.any())
            out.append(
                _plain(knot, kind="loose", coming=_place(coming), leaving=_place(leaving)) if has else _plain(knot)
            )
        elif stored:
            out.append(_plain(knot, kind="in line", coming=_place(coming), leaving=_place(leaving)))
        else:
            out.append(_plain(knot, kind="smooth"))
    return tuple(out)


def _place(p: np.ndarray) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
