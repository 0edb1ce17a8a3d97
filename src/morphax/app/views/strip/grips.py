"""What is held in the strip while the button is down: each drag is one step of history, and Esc takes it back."""

from collections.abc import Callable

from morphax.app.tools.shared.steps import shown_step
from morphax.app.views.strip.along import run_on
from morphax.app.views.strip.lanes import OnStrip
from morphax.project.model.document import Project

_MOVES = 3.0
"""Pixels from which on a press is a drag."""


class Drag:
    """A drag in a lane: every step is made of the project as it was, and shown."""

    label = ""

    def __init__(self, on: OnStrip, x: float, y: float) -> None:
        self.ws, self.run, self.base = on.workspace, run_on(on).id, on.workspace.project
        self.begun, self.moved = (x, y), False

    def step(self, on: OnStrip, x: float, y: float) -> Callable[[], Project]:
        """What makes the project of a step."""
        raise NotImplementedError

    def move(self, on: OnStrip, x: float, y: float) -> None:
        if not self.moved and abs(x - self.begun[0]) + abs(y - self.begun[1]) < _MOVES:
            return
        self.moved = True
        shown_step(self.ws, self.step(on, x, y))

    def drop(self) -> None:
        made = self.ws.unfinished.project
        self.let_go()
        if self.moved and made is not None and made is not self.base:
            self.ws.edit(self.label, made)

    def let_go(self) -> None:
        """Nothing is made of it."""
        self.ws.unfinished.show(None)
