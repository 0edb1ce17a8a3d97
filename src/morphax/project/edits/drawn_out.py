"""Runs pulled straight out of flat faces: each with the face's outline as its section, lying exactly on the face."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import atan2

import numpy as np

from morphax.core.body.sweep import sweep
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.loop_edits import tidied
from morphax.core.section.nesting import nested
from morphax.core.section.outlines import Loop, Segment, circle
from morphax.core.section.sections import Part, SectionShape
from morphax.core.types import Floats
from morphax.project.edits.runs import Added, NewRun, add_run, with_placing
from morphax.project.lookup import outline_source
from morphax.project.model.document import DocumentError, Place, Project


@dataclass(frozen=True, eq=False)
class FlatFace:
    """A flat face: its ``rings`` (n, 2), m, in a plane that begins at ``origin`` (3,) with ``axes`` (3, 3) right, up
    and outward, as seen from outside; ``name`` of what it belongs to."""

    rings: Sequence[Floats]
    origin: Floats
    axes: Floats
    name: str


def ring_loop(ring: Floats) -> Loop:
    """A ring (n, 2) as a loop of lines, without points that lie on a line."""
    corners = [(float(x), float(y)) for x, y in ring]
    return tidied(Loop(tuple(Segment(a, b) for a, b in zip(corners, [*corners[1:], corners[0]], strict=True))))


def draw_out(project: Project, faces: Sequence[FlatFace], distance: float, new: NewRun) -> Added:
    """Runs from flat faces, each along its own normal by a distance, m; their ids. ``new`` gives their look.

    Raises DocumentError where the distance is not more than 0.
    """
    if not distance > 0.0:
        raise DocumentError("faces are drawn out by more than 0")
    ids: list[str] = []
    for face in faces:
        seen = [ring_loop(r * np.array([-1.0, 1.0])) for r in face.rings]  # along the path, from within
        shape = SectionShape(nested(seen), is_free=True)
        source = outline_source(f"Face of {face.name}", shape, "drawn")
        line = [_place(face.origin), _place(face.origin + distance * face.axes[2])]
        added = add_run(project, PathKind.STRAIGHT, line, replace(new, source=source, width=None, name=None, like=None))
        ids.append(added.ids[0])
        project = with_placing(added.project, ids[-1:], roll=_roll(face))
    return Added(project, tuple(ids))


def _roll(face: FlatFace) -> float:
    """How far a section is rolled about the normal so that it lies as the face does, rad."""
    line = path_from_points(np.array([face.origin, face.origin + face.axes[2]]), kind=PathKind.STRAIGHT)
    right, up, _ = sweep(line, SectionShape((Part(circle(0.1)),))).start_axes
    return atan2(float(-face.axes[0] @ up), float(-face.axes[0] @ right))


def _place(p: Floats) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
