"""Several edits that are one step of history."""

from collections.abc import Callable, Iterable

from morphax.app.session.workspace import Workspace
from morphax.project.history import pushed


def in_one_step(workspace: Workspace, label: str, edits: Iterable[Callable[[], object]]) -> None:
    """Does edits one after the other; what they changed is taken back together."""
    before = workspace.history
    for edit in edits:
        edit()
    if workspace.history.now.project is not before.now.project:
        workspace.history = pushed(before, label, workspace.finished, workspace.selection)
        workspace.project_changed.emit(workspace.project, workspace.project)  # undo is called by another name now
