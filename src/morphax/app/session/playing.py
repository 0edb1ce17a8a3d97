"""The time that is shown: at rest at the end of the play, moved by hand, or running."""

from collections.abc import Callable

from PySide6.QtCore import QElapsedTimer, QObject, Qt, QTimer, Signal

from morphax.project.derive.at_time import Kept, LengthOf, moving, play_length, project_at
from morphax.project.model.document import Project, Run


class Playing(QObject):
    """Which second of the play is shown; nothing of it is in the document. ``now`` None: at rest, all as it is.

    ``changed``: another time is shown, it runs or stands still, or there is something to play or no more.
    """

    changed = Signal()

    def __init__(
        self, parent: QObject, project: Callable[[], Project], length_of: LengthOf, is_late: Callable[[], bool]
    ) -> None:
        super().__init__(parent)
        self.is_late = is_late
        self._project, self.length_of = project, length_of
        self.now: float | None = None
        self.loops = True
        self._kept = Kept()
        self._known: tuple[tuple[Run, ...], bool] = ((), False)
        self._clock = QElapsedTimer()
        self._from = 0.0
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._tick)

    # -- reading ---------------------------------------------------------------------------------

    @property
    def has_any(self) -> bool:
        """Whether anything moves."""
        runs = self._project().runs
        if self._known[0] is not runs:
            self._known = (runs, bool(moving(self._project())))
        return self._known[1]

    @property
    def length(self) -> float:
        """How long the play is, s."""
        return play_length(self._project())

    @property
    def time(self) -> float:
        """The second that is shown."""
        return self.length if self.now is None else min(self.now, self.length)

    @property
    def is_on(self) -> bool:
        """Whether it runs."""
        return self._timer.isActive()

    def shown(self, project: Project) -> Project:
        """A project as it is at the time that is shown."""
        if not self.has_any:
            self.now = None  # what it was the time of is gone
        if self.now is None:
            return project
        return project_at(project, min(self.now, play_length(project)), self.length_of, self._kept)

    # -- changing --------------------------------------------------------------------------------

    def go_to(self, time: float | None) -> None:
        """Shows another second; None: at rest."""
        self.now = None if time is None else min(max(time, 0.0), self.length)
        self.changed.emit()

    def step(self, frames: int) -> None:
        """So many pictures on or back."""
        rate = self._project().clock.rate
        self.pause()
        self.go_to((round(self.time * rate) + frames) / rate)

    def play(self) -> None:
        """Runs from the time that is shown, from 0 where that is the end."""
        if not self.has_any or self.length <= 0.0:
            return
        self._from = 0.0 if self.time >= self.length else self.time
        self._clock.start()
        self._timer.start(max(1, round(250.0 / self._project().clock.rate)))
        self.go_to(self._from)

    def pause(self) -> None:
        """Stands still at the time that is shown."""
        if self.is_on:
            self._timer.stop()
            self.changed.emit()

    def rest(self) -> None:
        """Stands still, with all as it is in the end."""
        self.pause()
        self.go_to(None)

    def turn(self) -> None:
        """Plays, or pauses."""
        if self.is_on:
            self.pause()
        else:
            self.play()

    def set_loops(self, loops: bool) -> None:
        """Whether it begins again at its end."""
        self.loops = loops
        self.changed.emit()

    def leave_project(self) -> None:
        """Another document: at rest."""
        self._timer.stop()
        self.now, self._kept = None, Kept()
        self.changed.emit()

    def _tick(self) -> None:
        """The picture of this moment: where building takes longer, pictures are left out, and seconds stay seconds."""
        length, rate = self.length, self._project().clock.rate
        if not self.has_any or length <= 0.0:
            self._timer.stop()
            self.go_to(None)
            return
        if self.is_late():  # each picture that is shown is whole
            return
        time = self._from + self._clock.elapsed() / 1000.0
        if time >= length and not self.loops:
            self._timer.stop()
            self.go_to(None)
            return
        frame = int(time % (length + 1.0 / rate) * rate) / rate  # the last picture is seen as long as the others
        if frame != self.now:
            self.go_to(frame)
