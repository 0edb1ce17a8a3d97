"""One thread that builds projects: the newest request wins, results come back through a callback."""

import sys
import threading
from collections.abc import Callable
from dataclasses import dataclass
from time import perf_counter

from morphax.build.builder import Builder, BuildStopped
from morphax.build.built import Built
from morphax.project.lookup import run_by_id
from morphax.project.model.document import Project

TOGETHER = 300
"""So many runs are looked at for equal shapes at a time: progress is told between them."""
PATIENCE_SECONDS = 0.4
"""A build that has taken longer is given up for a newer one."""

_SWITCH_SECONDS = 0.0005
"""A NumPy thread in a tight loop would otherwise hold the interface thread up for some 100 ms."""


@dataclass(frozen=True, eq=False)
class BuildRequest:
    """All that a build needs: a frozen project and its number."""

    number: int
    project: Project
    run_ids: tuple[str, ...] | None = None
    """The runs that are wanted; None: all."""


@dataclass(frozen=True, eq=False)
class BuildResult:
    """Bodies of the runs of a project that were wanted."""

    number: int
    project: Project
    built: dict[str, Built]


class BuildWorker:
    """Builds in the background. ``on_result`` and ``on_progress`` (runs done, of all) are called in its thread."""

    def __init__(
        self,
        builder: Builder,
        on_result: Callable[[BuildResult], None],
        on_progress: Callable[[int, int], None] = lambda done, of: None,
    ) -> None:
        sys.setswitchinterval(_SWITCH_SECONDS)
        self._builder, self._on_result, self._on_progress = builder, on_result, on_progress
        self._stopped = False
        self._begun = 0.0
        self._wake = threading.Condition()
        self._wanted: BuildRequest | None = None
        self._closing = False
        self._thread = threading.Thread(target=self._work, name="morphax-build", daemon=True)
        self._thread.start()

    def submit(self, request: BuildRequest) -> None:
        """Asks for a build; an older one that has not begun is dropped; one that takes long stops at its next stage."""
        with self._wake:
            self._wanted, self._stopped = request, False
            self._wake.notify()

    def stop(self) -> None:
        """Gives up what is wanted; a build that is going on ends at its next stage and gives no result."""
        with self._wake:
            self._wanted, self._stopped = None, True

    def close(self) -> None:
        """Ends the thread and waits for it."""
        with self._wake:
            self._closing = True
            self._wake.notify()
        self._thread.join()

    def _superseded(self) -> bool:
        """Whether the build that is going on is no longer wanted; one that is soon done ends, so that drags show it."""
        late = perf_counter() - self._begun > PATIENCE_SECONDS
        return self._closing or self._stopped or (late and self._wanted is not None)

    def _work(self) -> None:
        while True:
            with self._wake:
                while self._wanted is None and not self._closing:
                    self._wake.wait()
                if self._closing:
                    return
                request, self._wanted = self._wanted, None
            if request is not None:
                try:
                    self._build(request)
                except Exception:  # noqa: BLE001 - a mistake of ours is told, but the next edit must be built
                    threading.excepthook(threading.ExceptHookArgs((*sys.exc_info(), self._thread)))

    def _build(self, request: BuildRequest) -> None:
        built: dict[str, Built] = {}
        self._begun = perf_counter()
        project = request.project
        wanted = project.runs if request.run_ids is None else [run_by_id(project, i) for i in request.run_ids]
        try:
            for done, run in enumerate(wanted):
                if self._superseded():
                    return
                self._on_progress(done, len(wanted))
                if done % TOGETHER == 0:
                    self._builder.build_alike(project, wanted[done : done + TOGETHER])
                built[run.id] = self._builder.run(project, run, self._superseded)
        except BuildStopped:
            return
        self._on_result(BuildResult(request.number, project, built))
