"""The application's state: history, selection, unfinished edit, built bodies; few coarse signals."""

from collections import deque
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import numpy as np
from PySide6.QtCore import QObject, Signal

from morphax.app.session.in_sight import InSight, Tally
from morphax.app.session.work_plane import GROUND, WorkPlane
from morphax.build.builder import Built
from morphax.build.cache import IdentityCache, Sources
from morphax.build.locators import Locator
from morphax.build.worker import BuildRequest, BuildResult, BuildWorker
from morphax.cli.bodies import new_builder
from morphax.core.errors import MorphaxError
from morphax.core.kernels.compiling import is_plain
from morphax.core.mesh.mesh import Mesh
from morphax.core.types import Points3
from morphax.project import history
from morphax.project.derive.graph import Graph
from morphax.project.derive.walk import brought_up
from morphax.project.edits.runs import NewRun
from morphax.project.edits.show import locked_change
from morphax.project.edits.transform import Pivot
from morphax.project.history import History, Selection
from morphax.project.lookup import path_by_id, path_of
from morphax.project.model.document import Host, Place, Project, ReadyMadeSource, Run
from morphax.project.model.document import Path as ProjectPath

Falloff = Literal["alone", "rest", "soft"]

MOST_TOUCHED = 64
"""So many changes are remembered for views that keep up by what changed."""
QUICK_SECONDS = 0.02
"""A run that took less of the processor last time is built at once in a drag; others go to the worker, which takes
longer while pictures are drawn (measured: 16 ms against 60 ms for a run of 10 ms)."""


@dataclass(frozen=True, eq=False)
class Remark:
    """Something that was measured, from a place to another (3,), m, and its words."""

    start: np.ndarray
    end: np.ndarray
    words: str


class Workspace(QObject):
    """Holds the document and tells its views what changed. Views never edit each other."""

    project_changed = Signal(object, object)
    selection_changed = Signal()
    built = Signal()
    said = Signal(str)
    next_run_changed = Signal()
    progressed = Signal(int, int)
    _result = Signal(object)

    def __init__(self, project: Project | None = None) -> None:
        super().__init__()
        self.builder = new_builder()
        self.bodies: dict[str, Built] = {}
        self._in_sight = InSight((), self.bodies)
        self.tally = Tally()
        self._touched: deque[frozenset[str]] = deque(maxlen=MOST_TOUCHED)
        self.version = 0
        self._graph = Graph()
        self._suspects: set[str] = set()
        self._late: set[str] = set()
        self.history: History = history.started(self._settled(project or Project()))
        self.file: Path | None = None
        self.next_run = NewRun(ReadyMadeSource(name="round"))
        self._unfinished: Project | None = None
        self._unfinished_run: str | None = None
        self._live = ""
        self._is_stopped = False
        self._locators: IdentityCache[Locator] = IdentityCache(256)
        self.fit_within: float | None = None
        self.falloff: Falloff = "alone"
        self.work_plane = GROUND
        self.pivot: Pivot = "middle"
        self.pivot_spot: Place = (0.0, 0.0, 0.0)
        self.remark: Remark | None = None
        self._told = Selection()
        self._number = 0
        self._result.connect(self._on_result)
        self._worker = BuildWorker(self.builder, self._result.emit, self.progressed.emit)
        self._build()

    # -- reading -------------------------------------------------------------------------------

    @property
    def project(self) -> Project:
        """The document as it is shown: with the unfinished edit, if there is one."""
        return self._unfinished or self.history.now.project

    @property
    def finished(self) -> Project:
        """The document without the unfinished edit."""
        return self.history.now.project

    @property
    def selection(self) -> Selection:
        return self.history.now.selection

    @property
    def run_id(self) -> str | None:
        """The run that single-run views show: the one being drawn, else the first chosen one."""
        return self._unfinished_run or self.selection.run

    @property
    def is_unfinished(self) -> bool:
        """Whether an edit is going on: a drag, a path being drawn."""
        return self._unfinished is not None

    @property
    def is_drawing(self) -> bool:
        """Whether a path is being drawn."""
        return self._unfinished_run is not None

    @property
    def run_ids(self) -> tuple[str, ...]:
        """The runs that the inspector speaks of."""
        return (self._unfinished_run,) if self._unfinished_run else self.selection.runs

    @property
    def chosen_run(self) -> Run | None:
        """The run being drawn, else the first chosen one, if it exists."""
        found: Run | None = self.project.find("runs", self.run_id)
        return found

    @property
    def chosen_path(self) -> ProjectPath | None:
        run = self.chosen_run
        return None if run is None else path_by_id(self.project, run.recipe.path)

    @property
    def chosen_body(self) -> Built | None:
        return self.bodies.get(self.run_id or "")

    @property
    def in_sight(self) -> InSight:
        """What is shown, and its bodies; the same object as long as neither changes."""
        known, runs = self._in_sight, self.project.runs
        if known.runs is not runs or known.bodies is not self.bodies:
            self._in_sight = known = InSight(runs, self.bodies)
        return known

    @property
    def is_waiting(self) -> bool:
        """Whether a body that is shown is older than the document."""
        return bool(self._late)

    @property
    def is_building(self) -> bool:
        """Whether bodies that are waited for are still coming."""
        return self.is_waiting and not self._is_stopped

    # -- changing ------------------------------------------------------------------------------

    def edit(self, label: str, project: Project, selection: Selection | None = None) -> None:
        """Makes a new moment of history."""
        before = self.project
        project = self._settled(project)
        self._unfinished = self._unfinished_run = None
        chosen = selection if selection is not None else self.selection
        if project is not self.history.now.project:
            self.history = history.pushed(self.history, label, project, _existing(chosen, project))
        self._changed(before)

    def attempt(self, label: str, change: Callable[[Project], Project]) -> bool:
        """Applies an edit; an edit that cannot be made leaves everything as it is and says why.

        While a path is being drawn the edit is made to what is finished; the drawing goes on from there.
        """
        base = self.history.now.project if self.is_drawing or self._live else self.project
        try:
            project = change(base)
        except (MorphaxError, ValueError) as error:
            self.said.emit(sentence(error))
            return False
        locked = locked_change(base, project)
        if locked is not None:
            self.said.emit(f"{locked} is locked; Ctrl+L unlocks it.")
            return False
        if self._live:
            self._live = label
            self.show_unfinished(project)
        else:
            self.edit(label, project)
        return True

    def begin_live(self) -> None:
        """From here on edits replace each other and are shown at once, until ``end_live`` makes them one step."""
        self._live = "Change"

    def end_live(self) -> None:
        label, self._live = self._live, ""
        if label and self._unfinished is not None:
            self.edit(label, self._unfinished)

    def locator(self, host: Host) -> Locator:
        """A host made ready for nearest points, where it stands."""
        return self.locator_of(self.builder.host(self.project, host))

    def locator_of(self, mesh: Mesh) -> Locator:
        """A mesh made ready for nearest points and lines of sight."""
        return self._locators.get((mesh,), lambda: Locator(mesh))

    def what_follows(self, ids: Sequence[str]) -> set[str]:
        """Ids of things, and of all that follows from them."""
        return self._graph.affected(ids)

    def host_corners(self) -> list[Place]:
        """Lowest and highest corner of each chosen host."""
        chosen = (self.project.find("hosts", i) for i in self.selection.hosts)
        meshes = [self.builder.host(self.project, h) for h in chosen if h is not None]
        return [_place_of(f(m.points, axis=0)) for m in meshes if len(m.points) for f in (np.min, np.max)]

    def is_locked(self, ids: Sequence[str]) -> bool:
        """Whether one of the runs or hosts is locked; says so."""
        things = (self.project.find("runs", i) or self.project.find("hosts", i) for i in ids)
        name = next((t.show.name for t in things if t is not None and t.show.locked), None)
        if name is not None:
            self.said.emit(f"{name} is locked; Ctrl+L unlocks it.")
        return name is not None

    def set_work_plane(self, plane: WorkPlane) -> None:
        """Where first knots land from now on."""
        self.work_plane = plane
        self.selection_changed.emit()
        self.said.emit(f"First knots land {plane.name} now.")

    def set_falloff(self, falloff: Falloff) -> None:
        """Which knots a drag of one takes along."""
        self.falloff = falloff
        self.selection_changed.emit()

    def set_pivot(self, pivot: Pivot, spot: Place | None = None) -> None:
        """What the handle set and typed turns go about; ``spot`` is a place of its own, m."""
        self.pivot = pivot
        self.pivot_spot = self.pivot_spot if spot is None else spot
        self.selection_changed.emit()

    def amend(self, project: Project) -> None:
        """Changes the document without a step of history: what is remembered, not made."""
        before = self.project
        self.history = history.amended(self.history, self._settled(project))
        self._changed(before)

    def show_unfinished(self, project: Project | None, run_id: str | None = None) -> None:
        """Shows an edit that is still going on, with the run being drawn, or (None) takes it back."""
        before = self.project
        project = None if project is None else self._settled(project)
        self._unfinished, self._unfinished_run = project, run_id
        self._changed(before)

    def select(self, selection: Selection) -> None:
        if selection == self.selection:
            return
        self.history, self._told = history.reselected(self.history, selection), selection
        self.remark = None
        self.selection_changed.emit()

    def undo(self) -> None:
        self._travel(history.undone(self.history))

    def redo(self) -> None:
        self._travel(history.redone(self.history))

    def _travel(self, to: History) -> None:
        before = self.project
        self._unfinished = self._unfinished_run = None
        self.history = to
        self._changed(before)

    def restart(self, project: Project, file: Path | None = None, *, saved: bool = True) -> None:
        """Another document; its history begins anew."""
        before = self.project
        self._unfinished = self._unfinished_run = None
        self.history, self.file = history.started(self._settled(project), saved=saved), file
        self._changed(before)

    def mark_saved(self, file: Path) -> None:
        self.history, self.file = history.marked_saved(self.history), file
        self.project_changed.emit(self.project, self.project)

    def set_next_run(self, new: NewRun) -> None:
        self.next_run = new
        self.next_run_changed.emit()

    def remark_on(self, remark: Remark | None) -> None:
        """Shows something measured in the panes until anything changes."""
        self.remark = remark
        self.built.emit()

    def _changed(self, before: Project) -> None:
        self.remark = None
        self._build()
        self.project_changed.emit(before, self.project)
        if self.selection != self._told:
            self._told = self.selection
            self.selection_changed.emit()

    # -- building ------------------------------------------------------------------------------

    def _settled(self, project: Project) -> Project:
        """The document with all that follows from something else as it should be."""
        done, affected = brought_up(self._graph, project)
        self._suspects |= affected
        self.builder.know_settled(done)
        return done

    def _build(self) -> None:
        """Builds at once what is known or quick; asks the worker for the rest. Costs are those of what changed."""
        self._is_stopped = False
        project = self.project
        self._suspects |= self._graph.affected(self._graph.move_to(project))
        suspects, self._suspects = self._suspects, set()
        self.builder.present = project
        bodies = dict(self.bodies)
        for run_id in suspects:
            run: Run | None = project.find("runs", run_id)
            if run is None:
                bodies.pop(run_id, None)
                self._late.discard(run_id)
            else:
                self._renew(project, run, bodies)
        self.bodies = bodies
        self._touch(suspects)
        self._number += 1
        if self._late:
            self._worker.submit(BuildRequest(self._number, project, tuple(self._late)))

    def _touch(self, ids: Collection[str]) -> None:
        """Notes what changed, for views that keep up."""
        self.tally.update(ids, self.project, self.bodies)
        self._touched.append(frozenset(ids))
        self.version += 1

    def touched_since(self, version: int) -> frozenset[str] | None:
        """Ids of what changed since a version; None where that is too long ago to know."""
        back = self.version - version
        return frozenset().union(*list(self._touched)[-back:] if back else ()) if back <= len(self._touched) else None

    def _renew(self, project: Project, run: Run, bodies: dict[str, Built]) -> None:
        """Shows the run's body where it is known or quick to build; else the old one stays until it is built."""
        old, wanted = bodies.get(run.id), self.builder.sources(project, run)
        is_new = old is not None and same_sources(old.sources, wanted) and not (old.is_for_now and not is_plain())
        found = old if is_new else self.builder.found(wanted)
        if found is None and self._is_quick(run, old):
            found = self.builder.run(project, run)
        if found is None:
            self._late.add(run.id)
            return
        bodies[run.id] = found
        self._late.discard(run.id)

    def _is_quick(self, run: Run, old: Built | None) -> bool:
        """Whether a run is built at once: in a drag, where the step before was quick and asked for the same density."""
        if self._unfinished is None or old is None or old.seconds >= QUICK_SECONDS:
            return False
        return bool(old.sources[-1].density == run.recipe.density)

    def _on_result(self, result: BuildResult) -> None:
        """Bodies from the worker. In a drag that went on meanwhile, its last body but one is better than none."""
        if result.number != self._number and self._unfinished is None:
            return
        arrived = {k: b for k, b in result.built.items() if k in self._late}
        self.bodies = {**self.bodies, **arrived}
        self._touch(arrived.keys())
        if result.number == self._number:
            self._late -= arrived.keys()
        self.built.emit()

    def build_anew(self) -> None:
        """Loops are compiled now: bodies that were coarser for now are built as they were asked for."""
        self._suspects |= {i for i, b in self.bodies.items() if b.is_for_now}
        self._build()
        self.built.emit()

    def stop_building(self) -> None:
        """Gives up what is being built and takes back the change that asked for it."""
        self._worker.stop()
        if self._unfinished is not None:
            self.show_unfinished(None)
        elif self.is_waiting and self.history.undo_label is not None:
            self.undo()
        elif self.is_waiting:
            self._is_stopped = True
            self.said.emit("Building was stopped; the next change starts it again.")
            self.built.emit()

    def close(self) -> None:
        """Ends the worker."""
        self._worker.close()


def _place_of(p: Points3) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))


def same_sources(a: Sources, b: Sources) -> bool:
    """Whether a body was made from the very values that are wanted."""
    return len(a) == len(b) and all(x is y for x, y in zip(a, b, strict=True))


def _existing(selection: Selection, project: Project) -> Selection:
    """The selection without what is gone."""
    chosen = tuple(r for r in selection.runs if project.find("runs", r) is not None)
    knots: tuple[str, ...] = ()
    if chosen and selection.knots:
        own = {k.id for k in path_of(project, chosen[0]).knots}
        knots = tuple(k for k in selection.knots if k in own)
    return Selection(chosen, knots, tuple(h for h in selection.hosts if project.find("hosts", h) is not None))


def sentence(error: Exception) -> str:
    """The error as a sentence for the status line."""
    text = str(error).splitlines()[0] if not hasattr(error, "errors") else str(error.errors()[0]["msg"])
    text = text.removeprefix("Value error, ")
    return text[:1].upper() + text[1:] + ("" if text.endswith(".") else ".")
