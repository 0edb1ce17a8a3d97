"""What of a document is shown and can be picked: found out once for each set of runs and bodies, when it is asked."""

from collections.abc import Mapping
from functools import cached_property

import numpy as np

from morphax.build.built import Built
from morphax.core.findings import Finding, Severity
from morphax.core.mesh.mesh import Mesh
from morphax.core.types import Points3
from morphax.project.model.document import Run
from morphax.project.model.index import numbers_of

_ACROSS = 1e-30
"""A line that runs along a slab moves so little across it: it never leaves it, and no number is without end."""


class Meshes(dict[str, Mesh]):
    """Meshes by id, with their boxes for looking things up along a line of sight."""

    @cached_property
    def names(self) -> list[str]:
        return [i for i, m in self.items() if len(m.points)]

    @cached_property
    def boxes(self) -> Points3:
        """(n, 2, 3) lowest and highest corner of each mesh that has points."""
        return np.array([self[i].bounds for i in self.names]).reshape(-1, 2, 3)

    def met_by(self, origin: Points3, direction: Points3) -> list[str]:
        """Names of the meshes whose box a line from ``origin`` (3,) along ``direction`` meets.

        By slabs (Kay and Kajiya, "Ray Tracing Complex Scenes", SIGGRAPH 1986).
        """
        if not self.names:
            return []
        along = np.where(np.abs(direction) < _ACROSS, _ACROSS, direction)
        at = (self.boxes - origin) / along
        near, far = at.min(1).max(1), at.max(1).min(1)
        return [self.names[k] for k in np.flatnonzero((near <= far + 1e-9 * np.abs(far)) & (far >= 0.0))]


class InSight:
    """Runs that are shown, with their bodies."""

    def __init__(self, runs: tuple[Run, ...], bodies: Mapping[str, Built]) -> None:
        self.runs, self.bodies = runs, bodies

    @cached_property
    def visible(self) -> dict[str, Built]:
        """Bodies of runs that are not hidden, by id."""
        bodies = self.bodies
        return {r.id: b for r in self.runs if not r.show.hidden and (b := bodies.get(r.id)) is not None}

    @cached_property
    def pickable(self) -> dict[str, Built]:
        """Those that are not locked either."""
        locked = {r.id for r in self.runs if r.show.locked}
        return {i: b for i, b in self.visible.items() if i not in locked} if locked else self.visible

    @cached_property
    def visible_meshes(self) -> Meshes:
        return Meshes((i, b.touchable) for i, b in self.visible.items())

    @cached_property
    def pickable_meshes(self) -> Meshes:
        return Meshes((i, b.touchable) for i, b in self.pickable.items())


_NOWHERE = np.full((2, 3), np.nan)


class Tally:
    """Sums over all runs, kept up as bodies come and go: faces, what is to be looked at, the box of what is visible."""

    def __init__(self) -> None:
        self.face_count = 0
        self._faces: dict[str, int] = {}
        self._serious: dict[str, tuple[str, tuple[Finding, ...]]] = {}
        self._in_order: tuple[tuple[str, str, Finding], ...] | None = ()
        self._boxes = np.full((64, 2, 3), np.nan)
        self._row: dict[str, int] = {}
        self._free: list[int] = []

    def update(self, runs: Mapping[str, Run | None], bodies: Mapping[str, Built]) -> None:
        """Takes note of runs, by ids, that changed, came or went (None)."""
        rows, boxes = list[int](), list[Points3]()
        self._in_order = None
        for name, run in runs.items():
            built = bodies.get(name)
            if run is None or built is None:
                self._forget(name)
                continue
            rows.append(self._note(run, built))
            boxes.append(built.box if not run.show.hidden and len(built.box) else _NOWHERE)
        if rows:
            while max(rows) >= len(self._boxes):
                self._boxes = np.concatenate([self._boxes, np.full(self._boxes.shape, np.nan)])
            self._boxes[rows] = boxes

    def _forget(self, name: str) -> None:
        self.face_count -= self._faces.pop(name, 0)
        self._serious.pop(name, None)
        row = self._row.pop(name, None)
        if row is not None:
            self._boxes[row] = np.nan
            self._free.append(row)

    def _note(self, run: Run, built: Built) -> int:
        """Takes note of a run's faces and findings; the row of its box."""
        name, faces = run.id, built.body.face_count
        self.face_count += faces - self._faces.get(name, 0)
        self._faces[name] = faces
        if built.serious:
            self._serious[name] = (run.show.name, built.serious)
        else:
            self._serious.pop(name, None)
        row = self._row.get(name)
        if row is None:
            row = self._row[name] = self._free.pop() if self._free else len(self._row)
        return row

    @property
    def boxes(self) -> Points3:
        """(n, 2, 3) of all that is visible, each by itself."""
        out: Points3 = self._boxes[~np.isnan(self._boxes[:, 0, 0])]
        return out

    @property
    def box(self) -> Points3:
        """(2, 3) round all that is visible, paths of runs without a body too; (0, 3) where there is nothing."""
        box = np.array([np.fmin.reduce(self._boxes[:, 0]), np.fmax.reduce(self._boxes[:, 1])])  # they pass over NaN
        return np.empty((0, 3)) if np.isnan(box[0, 0]) else box

    @property
    def serious(self) -> tuple[tuple[str, str, Finding], ...]:
        """Run, its name and finding of all that is more than a note: the worst first, then in the order of making."""
        if self._in_order is None:  # asked several times after each change
            made = sorted(self._serious, key=lambda name: numbers_of((name,)))
            found = [(name, self._serious[name][0], f) for name in made for f in self._serious[name][1]]
            self._in_order = tuple(sorted(found, key=lambda item: item[2].severity is not Severity.ERROR))
        return self._in_order
