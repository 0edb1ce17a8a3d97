"""The application's state: history, selection, the unfinished edit, and the bodies that follow; few coarse signals."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, Signal

from morphax.app.session.bench import Bench
from morphax.app.session.board import Board
from morphax.app.session.bodies import Bodies
from morphax.app.session.chosen import Chosen
from morphax.app.session.deviations import Deviations
from morphax.app.session.playing import Playing
from morphax.app.session.print_check import PrintCheck
from morphax.app.session.unfinished import Unfinished
from morphax.build.built import Built
from morphax.build.worker import BuildResult
from morphax.core.errors import MorphaxError
from morphax.project import history
from morphax.project.edits.holding import let_go
from morphax.project.edits.images import freed_words, handed_back
from morphax.project.edits.show import locked_change, refuse_cast
from morphax.project.edits.things import still_there
from morphax.project.history import History
from morphax.project.model.document import Project
from morphax.project.things import Selection


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
    progressed = Signal(int, int)
    _result = Signal(object)

    def __init__(self, project: Project | None = None) -> None:
        super().__init__()
        self.bodies = Bodies(self._result.emit, self.progressed.emit)
        self.history: History = history.started(self.bodies.settled(project or Project()))
        self.file: Path | None = None
        self.remark: Remark | None = None
        self.unfinished = Unfinished(self.bodies.settled, self._changed, self.edit)
        self._last = self.history.now.project
        self.playing = Playing(
            self,
            lambda: self.project,
            lambda path: self.bodies.builder.path(path).length,
            lambda: self.bodies.is_building,
        )
        self.chosen, self.bench = Chosen(self), Bench(self)
        self.board = Board(self, self)
        self._told = Selection()
        self.bench.changed.connect(self.selection_changed)
        self.bench.said.connect(self.said)
        self._result.connect(self._on_result)
        self.playing.changed.connect(self._on_time)
        self.print_check = PrintCheck(self)
        self.deviations = Deviations(self, self._looked_at)
        for signal in (self.built, self.selection_changed, self.project_changed):
            signal.connect(self.deviations.follow)
        self._follow()

    # -- reading -------------------------------------------------------------------------------

    @property
    def project(self) -> Project:
        """The document as it is shown: with the unfinished edit, if there is one."""
        return self.unfinished.project or self.history.now.project

    @property
    def finished(self) -> Project:
        """The document without the unfinished edit."""
        return self.history.now.project

    @property
    def selection(self) -> Selection:
        return self.history.now.selection

    def _looked_at(self) -> tuple[Project, dict[str, Built]]:
        """The document as it is shown, and bodies of what is chosen in it, else all that are seen; none in a play."""
        seen = {} if self.playing.is_on else self.bodies.in_sight.visible
        names = [i for i in self.selection.runs if i in seen] or seen
        return self.bodies.project, {i: seen[i] for i in names}

    # -- changing ------------------------------------------------------------------------------

    def edit(self, label: str, project: Project, selection: Selection | None = None) -> None:
        """Makes a new moment of history; what can't be done to an image is said, and nothing is made."""
        try:
            project = handed_back(self.finished, project)
            refuse_cast(self.finished, project)
        except (MorphaxError, ValueError) as error:
            self.unfinished.show(None)
            self.said.emit(sentence(error))
            return
        self._make(label, project, selection)

    def _make(self, label: str, project: Project, selection: Selection | None = None) -> None:
        project = self.bodies.settled(project)
        self.unfinished.drop()
        chosen = selection if selection is not None else self.selection
        before = self.history.now.project
        if project is not before:
            self.history = history.pushed(self.history, label, project, still_there(chosen, project))
        self._changed()
        told = let_go(before, project) or freed_words(before, project)
        if told:
            self.said.emit(told)

    def attempt(self, label: str, change: Callable[[Project], Project]) -> bool:
        """Applies an edit; an edit that cannot be made leaves everything as it is and says why.

        While a path is being drawn the edit is made to what is finished; the drawing goes on from there.
        """
        base = self.finished if self.unfinished.is_drawing or self.unfinished.is_live else self.project
        try:
            project = handed_back(base, change(base))
            refuse_cast(base, project)
        except (MorphaxError, ValueError) as error:
            self.said.emit(sentence(error))
            return False
        locked = locked_change(base, project)
        if locked is not None:
            self.said.emit(f"{locked} is locked; Ctrl+L unlocks it.")
            return False
        if self.unfinished.is_live:
            self.unfinished.show_live(label, project)
        else:
            self._make(label, project)
        return True

    def amend(self, project: Project) -> None:
        """Changes the document without a step of history: what is remembered, not made."""
        self.history = history.amended(self.history, self.bodies.settled(project))
        self._changed()

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
        self.unfinished.drop()
        self.history = to
        self._changed()

    def restart(self, project: Project, file: Path | None = None, *, saved: bool = True) -> None:
        """Another document; its history begins anew."""
        self.unfinished.drop()
        self.bench.leave_project()
        self.playing.leave_project()
        self.history, self.file = history.started(self.bodies.settled(project), saved=saved), file
        self._changed()

    def mark_saved(self, file: Path) -> None:
        self.history, self.file = history.marked_saved(self.history), file
        self.project_changed.emit(self.project, self.project)

    def remark_on(self, remark: Remark | None) -> None:
        """Shows something measured in the panes until anything changes."""
        self.remark = remark
        self.built.emit()

    def _changed(self) -> None:
        before, self._last, self.remark = self._last, self.project, None
        self._follow()
        self.project_changed.emit(before, self.project)
        if self.selection != self._told:
            self._told = self.selection
            self.selection_changed.emit()

    # -- building ------------------------------------------------------------------------------

    def _follow(self) -> None:
        project = self.project
        shown = self.playing.shown(project)
        if shown is not project:  # others may follow another slack, or another width
            shown = self.bodies.settled(shown)
        self.bodies.follow(shown, in_drag=self.unfinished.is_on or self.playing.now is not None)

    def _on_time(self) -> None:
        """Another second is shown."""
        if self.playing.shown(self.project) is not self.bodies.project:
            self._follow()
        self.built.emit()

    def _on_result(self, result: BuildResult) -> None:
        if self.bodies.take(result, in_drag=self.unfinished.is_on or self.playing.now is not None):
            self.built.emit()

    def build_anew(self) -> None:
        """Builds what was coarser for now, as it was asked for."""
        self.bodies.build_anew()
        self.built.emit()

    def stop_building(self) -> None:
        """Gives up what is being built and takes back the change that asked for it."""
        self.bodies.stop()
        if self.unfinished.is_on:
            self.unfinished.show(None)
        elif self.bodies.is_waiting and self.history.undo_label is not None:
            self.undo()
        elif self.bodies.is_waiting:
            self.bodies.give_up()
            self.said.emit("Building was stopped; the next change starts it again.")
            self.built.emit()

    def close(self) -> None:
        """Ends the worker."""
        self.deviations.close()
        self.print_check.close()
        self.bodies.close()


def sentence(error: Exception) -> str:
    """The error as a sentence for the status line."""
    text = str(error).splitlines()[0] if not hasattr(error, "errors") else str(error.errors()[0]["msg"])
    text = text.removeprefix("Value error, ")
    return text[:1].upper() + text[1:] + ("" if text.endswith(".") else ".")
