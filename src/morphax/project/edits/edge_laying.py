"""How sections with a flat lie on the faces beside a chain of host edges."""

import numpy as np

from morphax.core.mesh.edge_chains import roll_onto
from morphax.core.path.resolved import resolve_path
from morphax.core.types import Vectors3
from morphax.project.edits.runs import Source, with_part
from morphax.project.lookup import path_of
from morphax.project.model.document import Project, ReadyMadeSource
from morphax.project.model.paths import path_shape

_FLATS = ("half-round",)
"""Ready-made sections that lie with a flat on something."""


def lies_on_flat(source: Source) -> bool:
    """Whether a section lies with a flat on what it is fixed to."""
    return isinstance(source, ReadyMadeSource) and source.name in _FLATS


def with_flat_on(project: Project, run_id: str, normal: Vectors3) -> Project:
    """A run along an edge whose section lies with its flat on one of the faces there, ``normal`` (3,), from the edge
    inwards. A face that the first span doesn't run along changes nothing."""
    spans = resolve_path(path_shape(path_of(project, run_id))).chain.spans
    roll = roll_onto(spans[0, 3] - spans[0, 0], np.asarray(normal))
    if roll is None:
        return project
    anchor = "bottom-right" if abs(roll) < 0.25 * np.pi else "bottom-left"
    return with_part(project, [run_id], "placing", roll=roll, anchor=anchor)
