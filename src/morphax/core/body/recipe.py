"""What a sweep is asked for and what it gives."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from morphax.core.body.ends import End
from morphax.core.findings import Finding, has_errors
from morphax.core.frame.frames import Orientation
from morphax.core.mesh.mesh import Mesh
from morphax.core.section.sections import Anchor, CornerStyle
from morphax.core.types import Floats, frozen


@dataclass(frozen=True)
class SweepOptions:
    """How path and section are put together; None takes the section's own laying.

    ``size`` multiplies the section about its anchor; ``flip`` mirrors it; ``roll`` rad turns it there, from right
    towards up; ``seam`` is the share of the way round at which loops start; ``start_radius`` and ``end_radius`` m of
    domes (None: as much as fits); ``deviation`` m (None: width/150); ``rings`` a count, ``spacing`` m or ``per_span``
    instead; ``sides`` points a loop (None: by deviation); ``cut_along`` "path" or "normal": which way the points of an
    end that is cut to its host go.
    """

    anchor: Anchor | None = None
    orientation: Orientation | None = None
    corner: CornerStyle | None = None
    size: float = 1.0
    flip: bool = False
    roll: float = 0.0
    seam: float = 0.0
    start: End = End.FLAT
    end: End = End.FLAT
    start_radius: float | None = None
    end_radius: float | None = None
    deviation: float | None = None
    rings: int | None = None
    spacing: float | None = None
    per_span: int | None = None
    sides: int | None = None
    cut_along: str = "path"

    @property
    def ring_wish(self) -> tuple[float | None, int | None, float | None, int | None]:
        """All that says how rings are asked for."""
        return (self.deviation, self.rings, self.spacing, self.per_span)

    @property
    def end_wish(self) -> tuple[End, End, float | None, float | None]:
        """All that says how the run starts and stops."""
        return (self.start, self.end, self.start_radius, self.end_radius)


@dataclass(frozen=True, eq=False)
class Body:
    """What a sweep gives: the mesh, what is to be said of it, and its ruler.

    ``ring_at`` distances of the rings on the ruler; ``ring_place`` (mesh.rings,) that of each ring of the mesh, whose
    points come first in it, ring by ring (empty where bevels joined points); ``width`` and ``height`` of the body's
    section, m; ``start_axes`` (3, 3) right, up and forward at the start.
    """

    mesh: Mesh
    findings: tuple[Finding, ...]
    length: float
    path_closed: bool
    ring_at: Floats = field(default_factory=lambda: frozen(np.empty(0)))
    width: float = 0.0
    height: float = 0.0
    sides: int = 0
    ring_place: Floats = field(default_factory=lambda: frozen(np.empty(0)))
    start_axes: Floats = field(default_factory=lambda: frozen(np.zeros((3, 3))))

    @property
    def has_errors(self) -> bool:
        return has_errors(self.findings)


Keep = Callable[[str, tuple[Any, ...], Callable[[], Any]], Any]
"""Gives a stage's result: ``keep(stage, what it reads, make)``. Whoever owns a cache may find it again there."""


def fresh(stage: str, sources: tuple[Any, ...], make: Callable[[], Any]) -> Any:
    """Keeps nothing: every stage is made."""
    return make()
