"""From pointer and keys to the armed tool: what each press, move and character means now. Free of widgets."""

import numpy as np
from PySide6.QtCore import Qt

from morphax.app.session.pointer import Pointer
from morphax.app.tools.path.draw import DrawTool
from morphax.app.tools.path.edit import DRAG_PIXELS
from morphax.app.tools.path.go_on_tool import GoOnTool
from morphax.app.tools.registry import TOOLS
from morphax.app.tools.shared.landing import Snapping
from morphax.app.tools.shared.state import Sketch
from morphax.app.tools.shared.typing import next_field, with_character, without_last
from morphax.app.tools.toolbox import Toolbox
from morphax.project.things import Selection


class PointerRoute:
    """The pointer's events, from whatever view.

    With a kind armed and nothing begun, a press on what is chosen waits: a drag edits it, a click begins a path there.
    """

    def __init__(self, tools: Toolbox) -> None:
        self.tools = tools
        self._waiting: Pointer | None = None

    def _may_edit(self, at: Pointer) -> bool:
        """Whether a drag from here edits what is chosen, though a kind is armed."""
        tools = self.tools
        if tools.draw is None or tools.draw.is_drawing or _letter_held(tools):
            return False
        spares, under = TOOLS[tools.draw.kind].spares, tools.edit.under
        if spares == "nothing":
            return False
        if under.knot_at(at) is not None or under.handle_at(at) is not None:
            return True
        return spares == "body" and under.place_on_body(at) is not None

    def hover(self, at: Pointer) -> None:
        tools = self.tools
        if tools.draw is None:
            tools.edit.hover(at)
        else:
            tools.draw.hover(at, tools.snapping)
            tools.grab.hover(tools.draw, at)
        tools.sketched.emit()

    def press(self, at: Pointer) -> None:
        tools = self.tools
        self._waiting = None
        tools.pressed.emit()  # what was said gives way
        if tools.draw is None:
            tools.edit.press(at)
        elif self._may_edit(at):
            self._waiting = at
        else:
            self._draw_from(at)
        tools.changed.emit()

    def _draw_from(self, at: Pointer) -> None:
        """A click of the armed tool."""
        tools = self.tools
        if tools.draw is not None and not tools.grab.press(tools.draw, at, tools.snapping):
            was = tools.draw.is_drawing
            tools.draw.press(at, tools.snapping)
            if was and not tools.draw.is_drawing and not isinstance(tools.draw, GoOnTool):
                tools.finished_run.emit()
            tools.put_down()

    def drag(self, at: Pointer) -> None:
        tools, begun = self.tools, self._waiting
        if begun is not None:
            if np.hypot(*np.subtract(at.pixel, begun.pixel)) < DRAG_PIXELS:
                return
            self._waiting = None
            tools.edit.press(begun)
        if tools.draw is None or not tools.draw.is_drawing:
            tools.edit.drag(at, tools.snapping)
        elif tools.grab.is_on:
            tools.grab.drag(at, tools.snapping)
        else:
            tools.draw.pull(at, tools.snapping)
        tools.sketched.emit()

    def release(self) -> None:
        """The button is let go: a press that waited and did not move is a click of the armed tool."""
        begun, self._waiting = self._waiting, None
        if begun is not None:
            self._draw_from(begun)
        self.tools.release()
        self.tools.changed.emit()

    def double_press(self, at: Pointer) -> None:
        tools = self.tools
        if tools.is_drawing:
            tools.finish()
        elif tools.draw is None:
            tools.edit.double_press(at)
        tools.changed.emit()

    def leave(self) -> None:
        """The pointer left the panes."""
        tools = self.tools
        if tools.draw is not None and tools.draw.is_drawing:
            tools.draw.hover_left()
        elif tools.draw is not None:
            tools.draw.sketch = Sketch()
        tools.edit.sketch = Sketch() if not tools.edit.is_dragging else tools.edit.sketch
        tools.sketched.emit()

    def choose(self, at: Pointer) -> None:
        """Chooses what lies under the pointer, as a click in *Edit* does, but keeps what is chosen already."""
        tools = self.tools
        ws, under = tools.workspace, tools.edit.under
        knot, run = under.knot_at(at), under.run_at(at)
        if tools.is_drawing or (knot in ws.selection.knots) or (knot is None and run in ws.selection.runs):
            return
        if knot is not None:
            ws.select(Selection.of(ws.selection.runs[:1], (knot,)))
        elif under.place_at(at) is None:
            host = under.host_at(at) if run is None else None
            if host is None or host not in ws.selection.hosts:
                ws.select(Selection.of(() if run is None else (run,), (), () if host is None else (host,)))


def _letter_held(tools: Toolbox) -> bool:
    """Whether the key that arms the tool is held: then a drag draws wherever it starts."""
    return tools.letters.get(tools.kind or "") in tools.held


class KeyRoute:
    """Characters of numbers that are typed during a drag or between clicks, and keys that are held."""

    def __init__(self, tools: Toolbox) -> None:
        self.tools = tools

    def type(self, character: str) -> bool:
        """A character of a number; False where nothing takes it."""
        tool = self.tools.typing_tool
        if tool is None:
            return False
        typed = next_field(tool.typed) if character == "\t" else with_character(tool.typed, character)
        if typed is None:
            return False
        was = self.tools.is_typing
        tool.type(typed)
        self.tools.sketched.emit()
        if self.tools.is_typing is not was:
            self.tools.changed.emit()  # what keys do now is said
        return True

    def erase(self) -> bool:
        """Backspace: the last typed character; False when nothing was typed."""
        tool = self.tools.typing_tool
        if tool is None or not tool.typed.text:
            return False
        tool.type(without_last(tool.typed))
        self.tools.sketched.emit()
        return True

    def hold(self, key: int, *, down: bool) -> None:
        """A key goes down or up."""
        self.tools.held.add(key) if down else self.tools.held.discard(key)
        if key == Qt.Key.Key_Space:
            self.tools.sketched.emit()

    def let_go(self) -> None:
        """Another window came to the front: keys that are let go there were let go."""
        for key in tuple(self.tools.held):
            self.hold(key, down=False)


def set_snapping(tools: Toolbox, snapping: Snapping) -> None:
    """What catches from now on."""
    tools.snapping = snapping
    tools.changed.emit()


def toggle_moving(tools: Toolbox) -> None:
    """Shows the handle set on a single chosen run too, or puts it away."""
    tools.edit.set.moves_whole = not tools.edit.set.moves_whole
    tools.changed.emit()
    tools.sketched.emit()


def corner_of_drawing(tools: Toolbox) -> bool:
    """While a path is drawn: its last knot becomes a corner, or smooth again. False where none is drawn."""
    tool = tools.draw
    if not isinstance(tool, DrawTool) or not tool.is_drawing:
        return False
    if not tool.mix.toggle_corner(len(tool.knots) - 1):
        tools.workspace.said.emit("Corners are for the knots of a path through your clicks, but for its first.")
    tool.type(tool.typed)
    tools.sketched.emit()
    return True


_EDITS = {
    "nothing": "",
    "knots": " · a drag of a knot moves it",
    "body": " · a drag on the chosen run edits it",
}
"""What is said beside what a click begins, by what the tool spares."""


def words_of(tools: Toolbox) -> str:
    """What a click or key does now, for the status line."""
    if tools.is_typing:
        return "Type on · Tab: direction in degrees, then x, y, z · Enter takes it · Backspace"
    if tools.draw is not None:
        row = TOOLS[tools.draw.kind]
        more = "" if tools.is_drawing or tools.workspace.chosen.run is None else _EDITS[row.spares]
        return f"{row.words(tools.draw)}{more}"
    if tools.workspace.chosen.run is None:
        return "Click a body to choose it · S or T draws a path · middle button turns the view, wheel zooms"
    path = tools.workspace.chosen.path
    if path is not None and not path.has_own_knots:
        run = tools.workspace.chosen.run
        if run is not None and run.recipe.strands is not None:
            return "Strands run between other runs: drag those, or say below Strands how many there are, and how"
        return "It runs beside another run: drag that one's path, or type how far beside, below Beside"
    return "Drag a knot or the path, type how far · double-click adds a knot · B corner, R radius · M moves it"
