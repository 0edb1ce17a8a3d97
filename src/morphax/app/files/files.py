"""New, open, save, recent, and the question about unsaved changes."""

import sys
from pathlib import Path

from PySide6.QtCore import QProcess
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from morphax.app.actions.desk import Desk
from morphax.app.session.settings import with_recent
from morphax.build.project_bodies import project_thumbnail
from morphax.demo import lantern_wagon, practice_table
from morphax.io.errors import FileError
from morphax.io.project_file import load_project, save_project
from morphax.project.model.document import Project

_FILTER = "Morphax projects (*.morphax)"


def _stamp(file: Path) -> tuple[int, int] | None:
    """What tells a file from one that was written later; None where there is none."""
    try:
        found = file.stat()
    except OSError:
        return None
    return found.st_mtime_ns, found.st_size


def _free_name(file: Path) -> Path:
    """The next name beside a file that is not taken."""
    return next(f for k in range(2, 10_000) if not (f := file.with_stem(f"{file.stem} {k}")).exists())


class Files:
    """The window's dealings with project files."""

    def __init__(self, window: Desk, parent: QWidget) -> None:
        self.window, self.parent, self.workspace = window, parent, window.workspace
        self._seen: tuple[Path, tuple[int, int] | None] | None = None

    def new(self) -> None:
        if self.may_leave():
            self.workspace.restart(Project(unit=self.workspace.project.unit))
            self.window.frame()

    def open(self) -> None:
        if self.may_leave():
            name = self._ask(save=False)
            if name:
                self.open_file(Path(name))

    def open_demo(self) -> None:
        if self.may_leave():
            self.workspace.restart(lantern_wagon())
            self.window.frame()

    def open_practice(self) -> None:
        """Simple hosts to try everything on."""
        if self.may_leave():
            self.workspace.restart(practice_table())
            self.window.frame()

    def open_file(self, file: Path) -> bool:
        """Opens a project; one that cannot be read changes nothing and says why."""
        try:
            project = load_project(file)
        except FileError as error:
            self.window.say(f"{error}.")
            return False
        self.workspace.restart(project, file)
        self._seen = file, _stamp(file)
        self._remember(file)
        self.window.frame()
        return True

    def open_recent(self, name: str) -> None:
        if self.may_leave():
            self.open_file(Path(name))

    def save(self) -> bool:
        return self.save_as() if self.workspace.file is None else self.save_file(self.workspace.file)

    def save_as(self) -> bool:
        name = self._ask(save=True)
        if not name:
            return False
        file = Path(name)
        return self.save_file(file if file.suffix else file.with_suffix(".morphax"))

    def save_file(self, file: Path) -> bool:
        """Saves; a failure keeps everything unsaved and says why.

        Where somebody else has written the file since it was opened, it asks what becomes of that.
        """
        if file == self.workspace.file and self._is_changed(file):
            return self._beside_theirs(file)
        return self._write(file)

    def _write(self, file: Path) -> bool:
        try:
            project = self.workspace.history.now.project
            save_project(project, file, project_thumbnail(project, self.workspace.bodies.builder))
        except FileError as error:
            self.window.say(f"{error}.")
            return False
        self.workspace.mark_saved(file)
        self._remember(file)
        self._seen = file, _stamp(file)
        self.window.say(f"Saved {file.name}.")
        return True

    def _is_changed(self, file: Path) -> bool:
        """Whether the project's file is not the one that was opened or saved here."""
        now = _stamp(file)
        return self._seen is not None and now is not None and self._seen[0] == file and self._seen[1] != now

    def _beside_theirs(self, file: Path) -> bool:
        """Asks what becomes of a file that somebody else has written meanwhile."""
        box = QMessageBox(self.parent)
        box.setWindowTitle("Changed elsewhere")
        box.setText(f"{file.name} was written by another window or program since it was opened here.")
        both = box.addButton("Keep both", QMessageBox.ButtonRole.AcceptRole)
        over = box.addButton("Take over", QMessageBox.ButtonRole.DestructiveRole)
        look = box.addButton("Look", QMessageBox.ButtonRole.ActionRole)
        box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
        both.setToolTip("Saves this project under a name of its own beside it")
        over.setToolTip(f"Saves this project as {file.name}; the other version stays as {file.name}.bak")
        look.setToolTip("Opens the other version in a window of its own; nothing is saved yet")
        box.setDefaultButton(both)
        box.exec()
        box.deleteLater()
        if box.clickedButton() is both:
            return self._write(_free_name(file))
        if box.clickedButton() is over:
            return self._write(file)
        if box.clickedButton() is look:
            QProcess.startDetached(sys.executable, ["-m", "morphax", str(file)])
        return False

    def _remember(self, file: Path) -> None:
        prefs = self.window.prefs
        prefs.keep(recent=with_recent(prefs.settings, file).recent)

    def _ask(self, *, save: bool) -> str:
        dialog = QFileDialog(self.parent, "Save the project" if save else "Open a project")
        dialog.setOption(QFileDialog.Option.DontUseNativeDialog, True)
        dialog.setDirectory(str(self.folder()))
        dialog.setNameFilter(_FILTER)
        dialog.setDefaultSuffix("morphax")
        if save:
            dialog.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
            dialog.selectFile(self.workspace.file.name if self.workspace.file else "untitled.morphax")
        else:
            dialog.setFileMode(QFileDialog.FileMode.ExistingFile)
        chosen = dialog.selectedFiles() if dialog.exec() else []
        dialog.deleteLater()
        return chosen[0] if chosen else ""

    def folder(self) -> Path:
        """Where the dialog opens: beside the project, else beside the last one, else at home."""
        known = (self.workspace.file, *(Path(r) for r in self.window.settings.recent))
        return next((f.parent for f in known if f is not None and f.parent.is_dir()), Path.home())

    def may_leave(self) -> bool:
        """Asks what becomes of unsaved changes; False where the user stays."""
        self.window.toolbox.finish()
        if self.workspace.history.is_saved:
            return True
        box = QMessageBox(self.parent)
        box.setWindowTitle("Unsaved changes")
        box.setText("This project has changes that are not saved.")
        save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
        leave = box.addButton("Go on without saving", QMessageBox.ButtonRole.DestructiveRole)
        box.setDefaultButton(save)
        box.exec()
        box.deleteLater()
        if box.clickedButton() is save:
            return self.save()
        return box.clickedButton() is leave
