"""Pictures brought in by the menu or dropped: they become guides behind a flat view."""

from pathlib import Path
from typing import TYPE_CHECKING

from morphax.app.views import pictures
from morphax.io.errors import FileError

if TYPE_CHECKING:
    from morphax.app.window import Window


def ask_picture(window: "Window") -> None:
    """Asks for a picture."""
    name = window.exchange.ask("Bring in a picture", f"Pictures (*{' *'.join(pictures.ENDINGS)})")
    if name:
        take_picture(window, Path(name))


def take_picture(window: "Window", file: Path) -> None:
    """A picture becomes a guide behind the active view if that is flat, else behind the other one, else *Front*."""
    panes = [window.active_pane(), *(p for p in window.panes if p.isVisible())]
    pane = next((p for p in panes if p.camera.is_flat), panes[0])
    window.toolbox.finish()  # a path that is being drawn
    try:
        view = pictures.bring_in_picture(window.workspace, file, pane.camera, pane.width() / pane.height())
    except FileError as error:
        window.say(f"{error}.")  # it begins with the file's name
        return
    window.say(f"{file.name} lies behind {view} now. Its card scales it by two places.")
