"""History: a list of documents with labels; undo is going back in it. Selection belongs to it."""

from dataclasses import dataclass, field, replace

from morphax.project.model.document import Project
from morphax.project.things import Selection


@dataclass(frozen=True)
class Moment:
    """A document as it was after an edit, with what was chosen."""

    label: str
    project: Project
    selection: Selection


@dataclass(frozen=True)
class History:
    """All moments, the present one among them, and the one that was saved."""

    moments: tuple[Moment, ...]
    at: int = 0
    saved: int | None = 0
    most: int = field(default=1000)

    @property
    def now(self) -> Moment:
        return self.moments[self.at]

    @property
    def undo_label(self) -> str | None:
        return self.now.label if self.at > 0 else None

    @property
    def redo_label(self) -> str | None:
        return self.moments[self.at + 1].label if self.at + 1 < len(self.moments) else None

    @property
    def is_saved(self) -> bool:
        return self.saved is not None and self.moments[self.saved].project is self.now.project


def started(project: Project, *, saved: bool = True) -> History:
    """A history with one moment, taken as saved unless told otherwise."""
    return History((Moment("", project, Selection()),), saved=0 if saved else None)


def pushed(history: History, label: str, project: Project, selection: Selection) -> History:
    """The history with a new present; what was undone before is dropped."""
    kept = history.moments[: history.at + 1]
    saved = history.saved if history.saved is not None and history.saved < len(kept) else None
    moments = (*kept, Moment(label, project, selection))
    if len(moments) > history.most:
        moments = moments[1:]
        saved = saved - 1 if saved else None
    return replace(history, moments=moments, at=len(moments) - 1, saved=saved)


def reselected(history: History, selection: Selection) -> History:
    """The history with another selection in the present moment."""
    moment = replace(history.now, selection=selection)
    return replace(history, moments=(*history.moments[: history.at], moment, *history.moments[history.at + 1 :]))


def amended(history: History, project: Project) -> History:
    """The history with another document in the present moment, and no new step; it counts as not saved."""
    moment = replace(history.now, project=project)
    moments = (*history.moments[: history.at], moment, *history.moments[history.at + 1 :])
    return replace(history, moments=moments, saved=None if history.saved == history.at else history.saved)


def undone(history: History) -> History:
    """One step back, selection included; itself at the beginning."""
    return replace(history, at=max(0, history.at - 1))


def redone(history: History) -> History:
    """One step forward; itself at the end."""
    return replace(history, at=min(len(history.moments) - 1, history.at + 1))


def marked_saved(history: History) -> History:
    """The present counts as saved."""
    return replace(history, saved=history.at)
