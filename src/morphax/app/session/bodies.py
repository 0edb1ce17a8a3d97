"""Bodies of the runs as they are shown, kept up with the document: quick ones at once, others by the worker."""

from collections import deque
from collections.abc import Callable, Iterator, Mapping, Sequence

from morphax.app.session.in_sight import InSight, Tally
from morphax.build.built import Built
from morphax.build.cache import IdentityCache, Sources
from morphax.build.locators import Locator
from morphax.build.project_bodies import new_builder
from morphax.build.worker import BuildRequest, BuildResult, BuildWorker
from morphax.core.kernels.compiling import is_plain
from morphax.core.mesh.mesh import Mesh
from morphax.project.derive.graph import Graph
from morphax.project.derive.walk import brought_up
from morphax.project.model.document import Host, Project, Run

MOST_TOUCHED = 64
"""So many changes are remembered for views that keep up by what changed."""
MOST_QUICK_SECONDS = 0.06
"""What quick runs together may take at once; the others of them go to the worker, so that nothing stands still."""
QUICK_SECONDS = 0.02
"""A run that took less of the processor last time is built at once in a drag; others go to the worker, which takes
longer while pictures are drawn (measured: 16 ms against 60 ms for a run of 10 ms)."""


class Bodies(Mapping[str, Built]):
    """The bodies by their runs' ids, of ``project`` as it is shown. What a change costs is what changed.

    ``on_result`` and ``on_progress`` are called in the worker's thread; ``on_result`` hands over to ``take``.
    """

    def __init__(
        self, on_result: Callable[[BuildResult], None], on_progress: Callable[[int, int], None] = lambda done, of: None
    ) -> None:
        self.builder = new_builder()
        self.tally = Tally()
        self.version = 0
        self.project = Project()
        self._all: dict[str, Built] = {}
        self._in_sight = InSight((), self._all)
        self._touched: deque[frozenset[str]] = deque(maxlen=MOST_TOUCHED)
        self._graph = Graph()
        self._suspects: set[str] = set()
        self._late: set[str] = set()
        self._is_given_up = False
        self._spent = 0.0
        self._number = 0
        self._locators: IdentityCache[Locator] = IdentityCache(256)
        self._worker = BuildWorker(self.builder, on_result, on_progress)

    def __getitem__(self, run_id: str) -> Built:
        return self._all[run_id]

    def __iter__(self) -> Iterator[str]:
        return iter(self._all)

    def __len__(self) -> int:
        return len(self._all)

    @property
    def in_sight(self) -> InSight:
        """What is shown, and its bodies; the same object as long as neither changes."""
        known, runs = self._in_sight, self.project.runs
        if known.runs is not runs or known.bodies is not self._all:
            self._in_sight = known = InSight(runs, self._all)
        return known

    @property
    def is_waiting(self) -> bool:
        """Whether a body that is shown is older than the document."""
        return bool(self._late)

    @property
    def is_building(self) -> bool:
        """Whether bodies that are waited for are still coming."""
        return self.is_waiting and not self._is_given_up

    def touched_since(self, version: int) -> frozenset[str] | None:
        """Ids of what changed since a version; None where that is too long ago to know."""
        back = self.version - version
        return frozenset().union(*list(self._touched)[-back:] if back else ()) if back <= len(self._touched) else None

    def what_follows(self, ids: Sequence[str]) -> set[str]:
        """Ids of things, and of all that follows from them."""
        return self._graph.affected(ids)

    def locator(self, host: Host) -> Locator:
        """A host made ready for nearest points, where it stands."""
        return self.locator_of(self.builder.host(self.project, host))

    def locator_of(self, mesh: Mesh) -> Locator:
        """A mesh made ready for nearest points and lines of sight."""
        return self._locators.get((mesh,), lambda: Locator(mesh))

    # -- keeping up ------------------------------------------------------------------------------

    def settled(self, project: Project) -> Project:
        """The document with all that follows from something else as it should be."""
        done, affected = brought_up(self._graph, project)
        self._suspects |= affected
        self.builder.know_settled(done)
        return done

    def follow(self, project: Project, *, in_drag: bool) -> None:
        """Builds at once what is known or quick; asks the worker for the rest."""
        self._is_given_up, self._spent = False, 0.0
        self.project = self.builder.present = project
        self._suspects |= self._graph.affected(self._graph.move_to(project))
        suspects, self._suspects = self._suspects, set()
        bodies = dict(self._all)
        runs: dict[str, Run | None] = {i: project.find("runs", i) for i in suspects}
        for run_id, run in runs.items():
            if run is None:
                bodies.pop(run_id, None)
                self._late.discard(run_id)
            else:
                self._renew(run, bodies, in_drag=in_drag)
        self._all = bodies
        self._touch(runs)
        self._number += 1
        if self._late:
            self._worker.submit(BuildRequest(self._number, project, tuple(self._late)))

    def take(self, result: BuildResult, *, in_drag: bool) -> bool:
        """Bodies from the worker. In a drag that went on meanwhile, its last body but one is better than none."""
        if result.number != self._number and not in_drag:
            return False
        arrived = {k: b for k, b in result.built.items() if k in self._late}
        self._all = {**self._all, **arrived}
        self._touch({i: self.project.find("runs", i) for i in arrived})
        if result.number == self._number:
            self._late -= arrived.keys()
        return True

    def build_anew(self) -> None:
        """Loops are compiled now: bodies that were coarser for now are built as they were asked for."""
        self._suspects |= {i for i, b in self._all.items() if b.is_for_now}
        self.follow(self.project, in_drag=False)

    def stop(self) -> None:
        """Stops what the worker is at."""
        self._worker.stop()

    def give_up(self) -> None:
        """Waits for nothing until the next change."""
        self._is_given_up = True

    def close(self) -> None:
        """Ends the worker."""
        self._worker.close()

    def _touch(self, runs: Mapping[str, Run | None]) -> None:
        """Notes what changed, by ids (None: gone), for views that keep up."""
        self.tally.update(runs, self._all)
        self._touched.append(frozenset(runs))
        self.version += 1

    def _renew(self, run: Run, bodies: dict[str, Built], *, in_drag: bool) -> None:
        """Shows the run's body where it is known or quick to build; else the old one stays until it is built."""
        found = self.builder.found_alone(self.project, run)
        if found is not None:
            bodies[run.id] = found
            self._late.discard(run.id)
            return
        old, wanted = bodies.get(run.id), self.builder.sources(self.project, run)
        is_new = old is not None and same_sources(old.sources, wanted) and not (old.is_for_now and not is_plain())
        found = old if is_new else self.builder.found(wanted)
        if found is None and in_drag and self._spent < MOST_QUICK_SECONDS and is_quick(run, old):
            found = self.builder.run(self.project, run)
            self._spent += found.seconds
        if found is None:
            self._late.add(run.id)
            return
        bodies[run.id] = found
        self._late.discard(run.id)


def is_quick(run: Run, old: Built | None) -> bool:
    """Whether a run is built at once in a drag: where the step before was quick and asked for the same density."""
    if old is None or old.seconds >= QUICK_SECONDS:
        return False
    return bool(old.sources[-1].density == run.recipe.density)


def same_sources(a: Sources, b: Sources) -> bool:
    """Whether a body was made from the very values that are wanted."""
    return len(a) == len(b) and all(x is y for x, y in zip(a, b, strict=True))
