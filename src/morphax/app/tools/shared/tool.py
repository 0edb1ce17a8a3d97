"""What a tool is: it takes the pointer and keys while it is armed, and says what a click does now."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, Protocol

from morphax.app.session.pointer import Pointer
from morphax.app.session.workspace import Workspace
from morphax.app.tools.shared.landing import Snapping
from morphax.app.tools.shared.snap_targets import SnapTargets
from morphax.app.tools.shared.state import Sketch
from morphax.app.tools.shared.typing import Typed


class Tool(Protocol):
    """A tool that is armed. It knows of the view what ``Pointer`` says, so that a flat board can serve it too."""

    sketch: Sketch

    @property
    def kind(self) -> str: ...
    @property
    def typed(self) -> Typed: ...
    @property
    def is_drawing(self) -> bool: ...
    def hover(self, at: Pointer, snapping: Snapping) -> None: ...
    def press(self, at: Pointer, snapping: Snapping) -> None: ...
    def pull(self, at: Pointer, snapping: Snapping) -> None: ...
    def hover_left(self) -> None: ...
    def finish(self, *, closed: bool = False) -> str | None: ...
    def take_back(self) -> bool: ...
    def cancel(self) -> bool: ...
    def type(self, typed: Typed) -> None: ...
    def enter_typed(self) -> bool: ...


@dataclass(frozen=True)
class ToolKind:
    """A row of the registry: how a tool is made, and what the status line says of it.

    ``idle`` says what a click begins, ``busy`` (None: the same) what it does once something is begun.
    ``spares``: of what is chosen, a drag from there edits it while nothing is begun: *knots* and handles, or the whole
    *body*.
    """

    make: Callable[[Workspace, SnapTargets], Tool]
    idle: Callable[[Tool], str]
    busy: Callable[[Tool], str] | None = None
    spares: Literal["nothing", "knots", "body"] = "nothing"

    def words(self, tool: Tool) -> str:
        """What a click does now."""
        return self.busy(tool) if self.busy is not None and tool.is_drawing else self.idle(tool)


def says(words: str) -> Callable[[Tool], str]:
    """The same words whatever the tool is at."""
    return lambda tool: words
