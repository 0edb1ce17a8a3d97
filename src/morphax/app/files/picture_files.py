"""Pictures brought in by the menu or dropped: they become guides behind a flat view."""

from pathlib import Path

from morphax.app.actions.desk import Desk
from morphax.app.views import pictures
from morphax.io.errors import FileError


def take_picture(window: Desk, file: Path) -> None:
    """A picture becomes a guide behind the active view if that is flat, else behind the other one, else *Front*."""
    panes = [window.active_view(), *(p for p in window.scene_views if p.is_shown)]
    pane = next((p for p in panes if p.sight.is_flat), panes[0])
    window.toolbox.finish()  # a path that is being drawn
    try:
        view = pictures.bring_in_picture(window.workspace, file, pane.sight)
    except FileError as error:
        window.say(f"{error}.")  # it begins with the file's name
        return
    window.say(f"{file.name} lies behind {view} now. Its card scales it by two places.")
