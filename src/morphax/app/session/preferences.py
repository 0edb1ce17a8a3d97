"""Preferences: the user's own settings, kept on the disk as soon as they change. Free of widgets."""

from PySide6.QtCore import QObject, Signal

from morphax.app.session.settings import Settings, save_settings
from morphax.app.session.workspace import Workspace
from morphax.project.model.document import evolve


class Preferences(QObject):
    """Settings of this user; what cannot be kept is said."""

    changed = Signal()
    keys_changed = Signal()

    def __init__(self, settings: Settings, workspace: Workspace) -> None:
        super().__init__()
        self.settings, self.workspace = settings, workspace

    def keep(self, **changes: object) -> None:
        """Takes over changed settings and writes them."""
        self.settings = self.settings.model_copy(update=changes)
        failed = save_settings(self.settings)
        if failed:
            self.workspace.said.emit(failed)

    def choose_keys(self, keys: dict[str, tuple[str, ...]]) -> None:
        """Takes over the user's own keys."""
        self.keep(keys=keys)
        self.keys_changed.emit()

    def choose_mouse(self, name: str) -> None:
        """Takes over a map of the mouse."""
        if name != self.settings.mouse:
            self.keep(mouse=name)
        self.changed.emit()

    def choose_unit(self, unit: str) -> None:
        """The display unit of this project, and of new ones."""
        self.keep(unit=unit)
        project, history = self.workspace.project, self.workspace.history
        if project.runs or project.hosts or len(history.moments) > 1 or self.workspace.file is not None:
            self.workspace.attempt("Change the unit", lambda p: evolve(p, unit=unit))
        else:
            self.workspace.restart(evolve(project, unit=unit))
        self.changed.emit()

    def choose_scale(self, scale: str) -> None:
        """How large the view of an empty project is: something in the hand, a room, a site."""
        if scale != self.settings.scale:
            self.keep(scale=scale)
        self.changed.emit()
