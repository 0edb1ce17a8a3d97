"""New, open, save, recent, and the question about unsaved changes."""

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from morphax.app.actions.desk import Desk
from morphax.app.session.settings import with_recent
from morphax.build.project_bodies import project_thumbnail
from morphax.demo import lantern_wagon, practice_table
from morphax.io.errors import FileError
from morphax.io.project_file import load_project, save_project
from morphax.project.model.document import Project

_FILTER = "Morphax projects (*.morphax)"


class Files:
    """The window's dealings with project files."""

    def __init__(self, window: Desk, parent: QWidget) -> None:
        self.window, self.parent, self.workspace = window, parent, window.workspace

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
        """Saves; a failure keeps everything unsaved and says why."""
        try:
            project = self.workspace.history.now.project
            save_project(project, file, project_thumbnail(project, self.workspace.bodies.builder))
        except FileError as error:
            self.window.say(f"{error}.")
            return False
        self.workspace.mark_saved(file)
        self._remember(file)
        self.window.say(f"Saved {file.name}.")
        return True

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
        leave = box.addButton("Leave them", QMessageBox.ButtonRole.DestructiveRole)
        box.setDefaultButton(save)
        box.exec()
        box.deleteLater()
        if box.clickedButton() is save:
            return self.save()
        return box.clickedButton() is leave
