"""Picking a port: a click on a round rim, a flat face or (Shift) a point of a host makes one there. No Qt here."""

import numpy as np

from morphax.app.session.pointer import Pointer
from morphax.app.session.workspace import Workspace
from morphax.app.tools.shared.landing import Caught, Landing, Snapping, Target
from morphax.app.tools.shared.snap_targets import SnapTargets
from morphax.app.tools.shared.state import Sketch
from morphax.app.tools.shared.typing import Typed
from morphax.project.edits.ports import add_port
from morphax.project.units import format_length


class PortTool:
    """Armed like a kind of path, but a click makes a port."""

    kind = "port"
    is_drawing = False

    def __init__(self, workspace: Workspace, around: SnapTargets) -> None:
        self.workspace, self.around = workspace, around
        self.sketch, self.typed = Sketch(), Typed()

    def hover(self, at: Pointer, snapping: Snapping) -> None:
        """Shows the port that a click would make."""
        found = self.around.port_at(at)
        if found is None:
            self.sketch = Sketch()
            return
        host, new = found
        place = np.array(new.centre)
        unit = self.workspace.project.unit
        words = f"{new.found} of {host}"
        if new.diameter > 0.0:
            words += f" · {format_length(new.diameter, unit=unit, decimals=1)} across"
        landing = Landing(place, Caught.PORT, np.array(new.direction), words, Target(words, new.centre, Caught.PORT))
        self.sketch = Sketch(next=landing, label=words, label_at=place)

    def press(self, at: Pointer, snapping: Snapping) -> None:
        """Makes the port."""
        found = self.around.port_at(at)
        if found is None:
            self.workspace.said.emit("There is no host under the pointer; a port belongs to one.")
            return
        name, new = found
        host = next(h.id for h in self.workspace.project.hosts if h.show.name == name)
        self.workspace.attempt("Add a port", lambda p: add_port(p, host, new)[0])

    def finish(self, *, closed: bool = False) -> None:
        """Nothing is ever half done."""

    def enter_typed(self) -> bool:
        return False

    def take_back(self) -> bool:
        return False

    def cancel(self) -> bool:
        return False

    def type(self, typed: Typed) -> None:
        """Nothing is typed here."""

    def hover_left(self) -> None:
        """The pointer left the views."""
        self.sketch = Sketch()

    def pull(self, at: Pointer, snapping: Snapping) -> None:
        """A drag does nothing here."""
