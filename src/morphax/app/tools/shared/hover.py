"""Where along the chosen run the pointer is, and on what: told by the length strip, or by the path in a pane."""

from collections.abc import Callable

from morphax.app.tools.shared.state import Sketch
from morphax.project.things import Thing, ThingKind


class Hover:
    """``sketch`` gives what the armed tool shows, ``tell`` says that the pointer is elsewhere."""

    def __init__(self, sketch: Callable[[], Sketch], tell: Callable[[], None]) -> None:
        self._sketch, self._tell = sketch, tell
        self._on_strip: float | None = None
        self._strip_thing: Thing | None = None

    @property
    def distance(self) -> float | None:
        """Along the chosen run, m; the strip's comes first."""
        return self._on_strip if self._on_strip is not None else self._sketch().hover_distance

    def over(self, kind: ThingKind) -> str | None:
        """The thing of a kind that is pointed at, in a pane or on the strip, by id; the strip's comes first."""
        thing = self._strip_thing or self._sketch().hover
        return thing.id if thing is not None and thing.kind is kind else None

    def over_strip(self, distance: float | None, thing: Thing | None = None) -> None:
        """The pointer is over the length strip at a distance along the run, m, on a thing of it; or has left it."""
        self._on_strip, self._strip_thing = distance, thing
        self._tell()
