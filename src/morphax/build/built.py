"""Runs as they are built: the path that was measured, the body, and what is asked of both."""

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from morphax.build.cache import Sources
from morphax.build.readiness import FOR_NOW
from morphax.core.body.recipe import Body
from morphax.core.findings import Finding, Severity
from morphax.core.mesh.mesh import Mesh, joined
from morphax.core.path.paths import PathShape
from morphax.core.path.resolved import ResolvedPath
from morphax.core.types import Floats, Points3, frozen


@dataclass(frozen=True, eq=False)
class BuiltPath:
    """A path as drawn and, where it can be, measured; ``polyline`` (n, 3) shows it; ``findings`` say why not."""

    shape: PathShape
    resolved: ResolvedPath | None
    polyline: Points3
    findings: tuple[Finding, ...]

    @property
    def length(self) -> float:
        """How long it is, m; 0 where it can't be measured."""
        return 0.0 if self.resolved is None else self.resolved.length


@dataclass(frozen=True, eq=False)
class Built:
    """A run's body with the path it lies on; ``seconds`` of the processor that building took."""

    run_id: str
    path: BuiltPath
    body: Body
    seconds: float
    sources: Sources = field(repr=False)

    @cached_property
    def is_for_now(self) -> bool:
        """Whether it is coarser than was asked for, until loops are compiled."""
        return FOR_NOW in self.body.findings

    @cached_property
    def serious(self) -> tuple[Finding, ...]:
        """What is found in it and is more than a note."""
        return tuple(f for f in self.body.findings if f.severity is not Severity.NOTE)

    @cached_property
    def box(self) -> Points3:
        """Lowest and highest corner (2, 3) of its body, else of its path; (0, 3) where it has neither."""
        line = self.path.polyline
        parts = [c.box for c in self.body.copies if len(c.box)]
        if self.body.mesh.face_count or parts:
            corners = [*([self.body.mesh.bounds] if self.body.mesh.face_count else []), *parts]
            return frozen(np.array([np.min(corners, axis=(0, 1)), np.max(corners, axis=(0, 1))]))
        return frozen(np.array([line.min(0), line.max(0)])) if len(line) else line

    @cached_property
    def touchable(self) -> Mesh:
        """All of it that can be seen, the pieces along it too; these with few faces where they are many."""
        pieces = [c.light for c in self.body.copies if len(c.transforms)]
        return joined([self.body.mesh, *pieces]) if pieces else self.body.mesh

    @property
    def knot_at(self) -> Floats:
        """Distances of the path's knots, m (a closed path ends with its first knot again)."""
        return np.empty(0) if self.path.resolved is None else self.path.resolved.knot_at
