"""How far the bodies that are looked at are off their true surfaces: measured in a thread while it is wanted."""

from collections.abc import Callable
from threading import Thread

from PySide6.QtCore import QObject, Signal

from morphax.build.builder import Builder
from morphax.build.built import Built
from morphax.build.deviation import Deviation, deviation_of
from morphax.build.project_bodies import new_builder
from morphax.build.readiness import wait
from morphax.core.errors import MorphaxError
from morphax.project.model.document import Project

MOST_RUNS = 24
"""Of more runs nothing is measured: it would take minutes."""
Seen = Callable[[], tuple[Project, dict[str, Built]]]
"""The document that is shown, and the bodies to be measured in it, by their runs."""


class Deviations(QObject):
    """Deviations of bodies, by their runs; of bodies that are no more they are forgotten. ``changed``: others are known
    now."""

    changed = Signal()
    _done = Signal(object, object)

    def __init__(self, parent: QObject, seen: Seen) -> None:
        super().__init__(parent)
        self._seen = seen
        self.is_on = False
        self._known: dict[str, tuple[Built, Deviation | None]] = {}
        self._builder: Builder | None = None
        self._thread: Thread | None = None
        self._done.connect(self._take)

    @property
    def found(self) -> dict[str, Deviation]:
        """What is known of the bodies as they are now."""
        if not self.is_on:
            return {}
        _, bodies = self._seen()
        known = {i: self._known[i] for i, b in bodies.items() if i in self._known and self._known[i][0] is b}
        return {i: d for i, (_, d) in known.items() if d is not None}

    @property
    def largest(self) -> float:
        """The largest of all that are known, m."""
        return max((d.largest for d in self.found.values()), default=0.0)

    @property
    def is_settled(self) -> bool:
        """Whether all that is wanted is known."""
        return not self.is_on or (self._thread is None and self._next() is None)

    @property
    def has_too_many(self) -> bool:
        """Whether there are more bodies than are measured."""
        return self.is_on and len(self._seen()[1]) > MOST_RUNS

    def set_on(self, is_on: bool) -> None:
        """Begins, or ends, to measure what is looked at."""
        if is_on != self.is_on:
            self.is_on = is_on
            self._known = {}
            self.follow()
            self.changed.emit()

    def follow(self, *_: object) -> None:
        """Looks for what is not known yet, whatever changed."""
        if not self.is_on or self._thread is not None:
            return
        following = self._next()
        if following is not None:
            self._thread = Thread(target=self._work, args=following, name="morphax-deviation", daemon=True)
            self._thread.start()

    def close(self) -> None:
        """Waits for what is being measured."""
        self.is_on = False
        if self._thread is not None:
            self._thread.join()

    def _next(self) -> tuple[Project, Built] | None:
        """A body of which nothing is known yet."""
        project, bodies = self._seen()
        if len(bodies) > MOST_RUNS:
            return None
        left = (b for i, b in bodies.items() if i not in self._known or self._known[i][0] is not b)
        body = next(left, None)
        return None if body is None else (project, body)

    def _work(self, project: Project, built: Built) -> None:
        """In the thread, which has a builder of its own."""
        found = None
        try:
            wait()
            self._builder = self._builder or new_builder()
            found = deviation_of(self._builder, project, built)
        except (MorphaxError, MemoryError):
            found = None  # the body itself says what is wrong with it
        finally:
            self._done.emit(built, found)

    def _take(self, built: Built, found: Deviation | None) -> None:
        self._thread = None
        if self.is_on:
            self._known[built.run_id] = (built, found)
            self.changed.emit()
        self.follow()
