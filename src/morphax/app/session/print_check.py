"""The check before a print: bodies joined to one solid and looked at in a thread, while a page wants it."""

from collections.abc import Sequence
from threading import Event, Thread

from PySide6.QtCore import QObject, Signal

from morphax.build.printing import joined_solid
from morphax.core.errors import MorphaxError
from morphax.core.findings import Finding
from morphax.core.mesh.print_check import Printer, print_findings
from morphax.core.mesh.solid import JoiningStopped, Solid
from morphax.io.bodies import NamedMesh

Asked = tuple[tuple[NamedMesh, ...], Printer]


class PrintCheck(QObject):
    """``told``: how much of the joining is done, of how much; ``done``: ``solid`` and ``findings`` are those of what
    was asked last. ``failed`` says why there are none."""

    told = Signal(int, int)
    done = Signal()
    failed = Signal(str)
    shown_changed = Signal()
    _ended = Signal(object, object, object)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.solid: Solid | None = None
        self.findings: tuple[Finding, ...] = ()
        self.shown: Finding | None = None
        self._asked: Asked | None = None
        self._stop = Event()
        self._thread: Thread | None = None
        self._ended.connect(self._take)

    @property
    def is_on(self) -> bool:
        """Whether it is at work."""
        return self._thread is not None

    def ask(self, bodies: Sequence[NamedMesh], printer: Printer) -> None:
        """Checks bodies for a print; what is asked already is not begun again."""
        asked = (tuple(bodies), printer)
        if self._asked is not None and _same(self._asked, asked):
            return
        self._asked, self.solid, self.findings = asked, None, ()
        self.show(None)
        self._stop.set()
        if self._thread is None:
            self._begin()

    def forget(self) -> None:
        """Nothing is to be checked any more."""
        self._asked, self.solid, self.findings = None, None, ()
        self._stop.set()
        self.show(None)

    def show(self, finding: Finding | None) -> None:
        """Marks the place of a finding in the views."""
        if finding is not self.shown:
            self.shown = finding
            self.shown_changed.emit()

    def close(self) -> None:
        """Gives up, and waits for it."""
        self.forget()
        if self._thread is not None:
            self._thread.join()

    def _begin(self) -> None:
        if self._asked is None:
            return
        self._stop = Event()
        self._thread = Thread(target=self._work, args=(self._asked, self._stop), name="morphax-print", daemon=True)
        self._thread.start()

    def _work(self, asked: Asked, stop: Event) -> None:
        bodies, printer = asked

        def go_on(done: int, of: int) -> bool:
            self.told.emit(done, of)
            return not stop.is_set()

        def may_go_on() -> None:
            if stop.is_set():
                raise JoiningStopped("the check was stopped")

        try:
            solid = joined_solid(bodies, go_on)
            found = print_findings([(b.name, b.mesh) for b in bodies], solid, printer, may_go_on)
            self._ended.emit(asked, solid, found)
        except (MorphaxError, MemoryError) as error:
            self._ended.emit(asked, None, str(error) or "there is not enough memory for this solid")

    def _take(self, asked: Asked, solid: Solid | None, found: object) -> None:
        """What the thread has made, unless something else is wanted by now."""
        if self._thread is not None:
            self._thread.join()
        self._thread = None
        if asked is not self._asked:
            self._begin()
            return
        if solid is None:
            self._asked = None
            self.failed.emit(str(found))
            return
        self.solid, self.findings = solid, found  # type: ignore[assignment]
        self.done.emit()


def _same(a: Asked, b: Asked) -> bool:
    """Whether the same bodies are to be checked for the same print."""
    return a[1] == b[1] and len(a[0]) == len(b[0]) and all(x.mesh is y.mesh for x, y in zip(a[0], b[0], strict=True))
