"""What is chosen, as things of the document: the run that single-run views show, its path and its body."""

from collections.abc import Sequence
from typing import Protocol

import numpy as np
from PySide6.QtCore import SignalInstance

from morphax.app.session.bodies import Bodies
from morphax.app.session.unfinished import Unfinished
from morphax.build.built import Built
from morphax.core.types import Points3
from morphax.project.edits.things import shows
from morphax.project.lookup import path_by_id
from morphax.project.model.document import Path, Place, Project, Run
from morphax.project.things import Selection, Thing, ThingKind


class Shown(Protocol):
    """What is read of the workspace; ``unfinished`` knows the run that is being drawn."""

    unfinished: Unfinished
    bodies: Bodies
    said: SignalInstance

    @property
    def project(self) -> Project: ...
    @property
    def selection(self) -> Selection: ...


class Chosen:
    """Reads of a workspace what its selection means now."""

    def __init__(self, shown: Shown) -> None:
        self._shown = shown

    @property
    def run_id(self) -> str | None:
        """The run that single-run views show: the one being drawn, else the first chosen one."""
        return self._shown.unfinished.run or self._shown.selection.run

    @property
    def run_ids(self) -> tuple[str, ...]:
        """The runs that the inspector speaks of."""
        drawn = self._shown.unfinished.run
        return (drawn,) if drawn else self._shown.selection.runs

    @property
    def run(self) -> Run | None:
        """The run being drawn, else the first chosen one, if it exists."""
        found: Run | None = self._shown.project.find("runs", self.run_id)
        return found

    @property
    def path(self) -> Path | None:
        run = self.run
        return None if run is None else path_by_id(self._shown.project, run.recipe.path)

    @property
    def body(self) -> Built | None:
        return self._shown.bodies.get(self.run_id or "")

    def host_corners(self) -> list[Place]:
        """Lowest and highest corner of each chosen host."""
        project, builder = self._shown.project, self._shown.bodies.builder
        chosen = (project.find("hosts", i) for i in self._shown.selection.hosts)
        meshes = [builder.host(project, h) for h in chosen if h is not None]
        return [_place_of(f(m.points, axis=0)) for m in meshes if len(m.points) for f in (np.min, np.max)]

    def is_locked(self, ids: Sequence[str]) -> bool:
        """Whether one of the runs or hosts is locked; says so."""
        project = self._shown.project
        things = (Thing(kind, i) for i in ids for kind in (ThingKind.RUN, ThingKind.HOST))
        name = next((s.name for s in shows(project, things) if s.locked), None)
        if name is not None:
            self._shown.said.emit(f"{name} is locked; Ctrl+L unlocks it.")
        return name is not None


def _place_of(p: Points3) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
