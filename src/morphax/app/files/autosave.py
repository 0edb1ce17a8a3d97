"""The autosave: saves unsaved work on the side every few seconds, and brings back what a crash left."""

from PySide6.QtCore import QObject, QTimer

from morphax.app.actions.desk import Desk
from morphax.io.autosave import drop_autosave, drop_orphan, load_orphan, new_name, orphans, write_autosave
from morphax.io.errors import FileError
from morphax.project.model.document import Project


class Autosave(QObject):
    """Watches the workspace; a change is on the disk a few seconds later."""

    def __init__(self, window: Desk, seconds: float) -> None:
        super().__init__()
        self.window, self.name = window, new_name()
        self._kept: Project | None = None
        self._timer = QTimer(self, singleShot=True, interval=int(seconds * 1000))
        self._timer.timeout.connect(self.keep)
        window.workspace.project_changed.connect(lambda *_: self._on_changed())

    def _on_changed(self) -> None:
        if self.window.workspace.history.is_saved:
            self._timer.stop()
            if self._kept is not None:
                self.forget()
        elif not self._timer.isActive():
            self._timer.start()

    def keep(self) -> None:
        """Writes the present document, if it is new, beside the user's files."""
        ws = self.window.workspace
        project = ws.history.now.project
        if ws.history.is_saved or project is self._kept:
            return
        try:
            write_autosave(project, ws.file, self.name)
        except FileError as error:
            self.window.say(f"Unsaved work could not be kept: {error}.")
            return
        self._kept = project

    def stop(self) -> None:
        """Keeps nothing more; what was kept stays."""
        self._timer.stop()

    def forget(self) -> None:
        """The work is saved, or was left on purpose."""
        self._timer.stop()
        self._kept = None
        drop_autosave(self.name)

    def has_orphans(self) -> bool:
        """Whether a crash left unsaved work."""
        return bool(orphans(self.name))

    def bring_back(self) -> None:
        """Opens the newest work that a crash left, as unsaved changes of its project."""
        found = orphans(self.name)
        if not found:
            self.window.say("There is no unsaved work from before.")
            return
        if not self.window.files.may_leave():
            return
        try:
            project = load_orphan(found[0])
        except FileError as error:
            self.window.say(f"{error}.")
            return
        self.window.workspace.restart(project, found[0].project_file, saved=False)
        self.keep()
        drop_orphan(found[0])
        self.window.frame()
        self.window.say(f"Brought back {found[0].name}; it is not saved yet.")
