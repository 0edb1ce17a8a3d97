"""Where along the chosen run the pointer is: told by the length strip, or by the path in a pane."""

from collections.abc import Callable

from morphax.app.tools.shared.state import Sketch


class Hover:
    """``sketch`` gives what the armed tool shows, ``tell`` says that the pointer is elsewhere."""

    def __init__(self, sketch: Callable[[], Sketch], tell: Callable[[], None]) -> None:
        self._sketch, self._tell = sketch, tell
        self._on_strip: float | None = None

    @property
    def distance(self) -> float | None:
        """Along the chosen run, m; the strip's comes first."""
        return self._on_strip if self._on_strip is not None else self._sketch().hover_distance

    def over_strip(self, distance: float | None) -> None:
        """The pointer is over the length strip at a distance along the run, m, or has left it."""
        self._on_strip = distance
        self._tell()
