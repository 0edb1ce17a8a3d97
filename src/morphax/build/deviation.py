"""How far a body is off the true surface, face by face: measured against a far finer body of the same run."""

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from morphax.build.builder import Builder
from morphax.build.built import Built
from morphax.build.locators import Locator
from morphax.core.mesh.mesh import Mesh
from morphax.core.types import Floats, Ints, Points3, frozen
from morphax.project.edits.runs import with_part
from morphax.project.lookup import run_by_id
from morphax.project.model.document import Project

_FIRST, _FINER, _ROUNDS = 1.0 / 600.0, 8.0, 4
"""The finer body is within so much of its width; then within a part of what was found, in so many rounds."""
_MOST_FACES, _MOST_PLACES = 400_000, 30_000
_SEED, _WORST, _ABOUT = 7, 64, 0.05
"""Of so many places that are farthest off, so many more within this part of the width are measured too."""


@dataclass(frozen=True, eq=False)
class Deviation:
    """``of_face`` (f,) m, quads before triangles: how far the true surface was found to be off each of them.

    ``largest`` of them, m; the ``place`` (3,) of the true surface where that is, and the nearest one ``on`` (3,) the
    body.
    """

    of_face: Floats
    largest: float
    place: Points3
    on: Points3


def deviation_of(builder: Builder, project: Project, built: Built) -> Deviation | None:
    """The deviation of a built run's body; None where there is nothing to measure.

    The true surface is taken to be a body of the same run within about an eighth of what is found, or the finest one
    of those that some hundred thousand faces allow: what is said may be off by about as much as that body is.
    """
    mesh, width = built.body.mesh, built.body.width
    if not mesh.face_count or built.body.has_errors or not width > 0.0:
        return None
    locator, wish, found = Locator(mesh), _FIRST * width, None
    for _ in range(_ROUNDS):
        fine = _finer(builder, project, built.run_id, wish)
        if fine is None:
            break
        found = _measured(locator, mesh, fine, width)
        enough = _FINER * wish <= found.largest or found.largest <= 1e-9 * width
        if enough or fine.face_count > _MOST_FACES // 4:
            break
        wish = max(found.largest, wish / _FINER) / _FINER
    return found


def _finer(builder: Builder, project: Project, run_id: str, deviation: float) -> Mesh | None:
    wishes = ("rings", "spacing", "per_span", "sides", "sides_within", "budget", "level", "crease", "hold")
    asked = with_part(project, [run_id], "density", **dict.fromkeys(wishes), deviation=deviation)
    body = builder.run(asked, run_by_id(asked, run_id)).body
    return None if body.has_errors or not body.mesh.face_count else body.mesh


def _measured(locator: Locator, mesh: Mesh, fine: Mesh, width: float) -> Deviation:
    """Points of a finer body and middles of its faces, by the face that each is nearest to: all, or some 30 000 of
    them, and those about the ones that are farthest off."""
    points = np.concatenate([fine.points, *(fine.points[faces].mean(1) for faces in (fine.quads, fine.tris))])
    some = points
    if len(points) > _MOST_PLACES:
        some = points[np.random.default_rng(_SEED).choice(len(points), _MOST_PLACES, replace=False)]
    places, tris = locator.closest(some)
    far = np.sqrt(((places - some) ** 2).sum(1))
    if some is not points:
        worst = some[np.argsort(far)[-_WORST:]]
        about = cKDTree(points).query_ball_point(worst, _ABOUT * width)
        more = points[np.unique(np.concatenate([np.array(i[:_WORST], dtype=np.int64) for i in about]))]
        near, of = locator.closest(more)
        some, places, tris = np.concatenate([some, more]), np.concatenate([places, near]), np.concatenate([tris, of])
        far = np.sqrt(((places - some) ** 2).sum(1))
    quads, of_face = len(mesh.quads), np.zeros(mesh.face_count)
    np.maximum.at(of_face, np.where(tris < 2 * quads, tris // 2, tris - quads), far)
    k = int(far.argmax())
    return Deviation(frozen(_spread(mesh, of_face)), float(far[k]), frozen(some[k].copy()), frozen(places[k].copy()))


def _spread(mesh: Mesh, of_face: Floats) -> Floats:
    """Faces that no place was nearest to take what those beside them have."""
    if (of_face > 0.0).all():
        return of_face
    corners: list[Ints] = [mesh.quads, mesh.tris]
    at = np.concatenate([c.ravel() for c in corners])
    face = np.concatenate(
        [np.repeat(np.arange(len(mesh.quads)), 4), len(mesh.quads) + np.repeat(np.arange(len(mesh.tris)), 3)]
    )
    most = np.zeros(len(mesh.points))
    np.maximum.at(most, at, of_face[face])
    beside = np.zeros(len(of_face))
    np.maximum.at(beside, face, most[at])
    out: Floats = np.where(of_face > 0.0, of_face, beside)
    return out
