"""Steps of a drag that may not be possible. No Qt here."""

from collections.abc import Callable

from morphax.app.session.workspace import Workspace, sentence
from morphax.core.errors import MorphaxError
from morphax.project.edits.images import handed_back
from morphax.project.model.document import Project


def shown_step(workspace: Workspace, change: Callable[[], Project]) -> bool:
    """Shows what a drag makes of the project; where that cannot be, the step before stays and the reason is said."""
    try:
        project = handed_back(workspace.finished, change())
    except (MorphaxError, ValueError) as error:
        workspace.said.emit(sentence(error))
        return False
    workspace.unfinished.show(project)
    return True
