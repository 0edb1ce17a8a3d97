"""Knots that hold on to another path, at a share of its length."""

from collections.abc import Mapping

import numpy as np

from morphax.core.path.resolved import nearest_along, resolve_path
from morphax.project.derive.graph import refuse_circle
from morphax.project.derive.holds import place_on
from morphax.project.edits.reshape import with_path
from morphax.project.lookup import path_by_id, path_shape
from morphax.project.model.document import Path, PathHold, Place, Project, evolve


def share_at(path: Path, place: Place) -> tuple[float, float]:
    """The share of a path's length at which it is nearest to a place, and how far that is, m. Raises PathError."""
    resolved = resolve_path(path_shape(path))
    at, far = nearest_along(resolved, np.array(place))
    return at / resolved.length, far


def hold_on_paths(project: Project, path_id: str, holds: Mapping[str, tuple[str, float]]) -> Project:
    """Knots that follow other paths: by knot id, the other path's id and the share of its length; they go there.

    Raises DocumentError where a path would, in some steps, hold on to itself.
    """
    path = path_by_id(project, path_id)
    for other, _ in holds.values():
        refuse_circle(project, path_id, other, "these two paths would hold on to each other")
    knots = tuple(
        evolve(k, hold=PathHold(path=holds[k.id][0], share=holds[k.id][1]), step=None,
               place=place_on(path_by_id(project, holds[k.id][0]), holds[k.id][1])) if k.id in holds else k
        for k in path.knots
    )  # fmt: skip
    return with_path(project, evolve(path, knots=knots))
