"""The time bar below the strip: play, loop, the track, how long the play is and how many pictures a second it has."""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QSize, Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QToolButton, QWidget

from morphax.app.session.throttle import Throttle
from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.fields import NumberField
from morphax.app.views.times.time_track import HEIGHT, TimeTrack
from morphax.app.widgets.appearance import Look
from morphax.app.widgets.icons import icon
from morphax.project.edits.timing import with_clock
from morphax.project.units import format_number


class TimeBar(QWidget):
    """It stands there only where something moves."""

    def __init__(self, workspace: Workspace, look: Look) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.workspace, self.look = workspace, look
        self.setFixedHeight(HEIGHT + 2)
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 1, 8, 1)
        row.setSpacing(4)
        self.play = self._button("Play", workspace.playing.turn)
        self.loop = self._button("Begin again at the end", self._set_loops)
        self.loop.setCheckable(True)
        self.track = TimeTrack(workspace, look)
        self.words = QLabel()
        self.words.setFixedWidth(58)
        self.words.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.length = self._field("seconds", "How long the play is", 62, self._set_length)
        self.rate = self._field("count", "Pictures a second", 40, self._set_rate)
        for part in (self.play, self.loop):
            row.addWidget(part)
        row.addWidget(self.track, 1)
        row.addWidget(self.words)
        for word, field in (("of", self.length), ("at", self.rate)):
            row.addWidget(_soft(word))
            row.addWidget(field)
        row.addWidget(_soft("a second"))
        throttle = Throttle(self, workspace, self.refresh)
        workspace.project_changed.connect(throttle.ask)
        workspace.selection_changed.connect(self.track.update)
        workspace.playing.changed.connect(self.show_time)
        look.changed.connect(self.refresh)
        self.refresh()

    def _set_loops(self) -> None:
        self.workspace.playing.set_loops(self.loop.isChecked())

    def _button(self, name: str, act: Callable[[], object]) -> QToolButton:
        made = QToolButton()
        made.setObjectName("tool")
        made.setIconSize(QSize(20, 20))
        made.setToolTip(name)
        made.setAccessibleName(name)
        made.clicked.connect(act)
        return made

    def _field(self, kind: str, name: str, wide: int, take: Callable[[Any], object]) -> NumberField:
        made = NumberField(kind, "mm")
        made.setFixedWidth(wide)
        made.setAccessibleName(name)
        made.setToolTip(name)
        made.committed.connect(take)
        made.refused.connect(self.workspace.said)
        return made

    def _set_length(self, length: float | None) -> None:
        self.workspace.attempt("Set how long the play is", lambda p: with_clock(p, length=length))
        self.refresh()

    def _set_rate(self, rate: int | None) -> None:
        self.workspace.attempt("Set the pictures a second", lambda p: with_clock(p, rate=24 if rate is None else rate))
        self.refresh()

    def refresh(self) -> None:
        """Stands there if anything moves."""
        self.setVisible(self.workspace.playing.has_any)
        if self.workspace.playing.has_any:
            clock, t = self.workspace.project.clock, self.look.tokens
            self.length.show_value(self.workspace.playing.length, "mm", "")
            self.rate.show_value(clock.rate, "mm", "")
            self.loop.setIcon(icon("loop", t))
            self.show_time()

    def show_time(self) -> None:
        """The second that is shown, and whether it runs."""
        playing = self.workspace.playing
        if not self.isVisible() and not playing.has_any:
            return
        self.play.setIcon(icon("pause" if playing.is_on else "play", self.look.tokens))
        self.play.setToolTip("Pause" if playing.is_on else "Play")
        self.loop.setChecked(playing.loops)
        self.words.setText(f"{format_number(playing.time, decimals=2)} s")
        self.track.update()


def _soft(text: str) -> QLabel:
    out = QLabel(text)
    out.setObjectName("soft")
    return out
