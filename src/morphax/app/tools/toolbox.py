"""The armed tool, shared by all views: Edit, or one of the registry. Free of widgets."""

from typing import Literal

from PySide6.QtCore import QObject, Qt, Signal

from morphax.app.session.workspace import Workspace
from morphax.app.tools.path.draw import DrawTool
from morphax.app.tools.path.draw_out_tool import DrawOutTool
from morphax.app.tools.path.edit import EditTool
from morphax.app.tools.path.freehand_tool import FreehandTool
from morphax.app.tools.path.go_on_tool import GoOnTool
from morphax.app.tools.path.mix import MIXED
from morphax.app.tools.registry import TOOLS
from morphax.app.tools.shared.grab import Grab
from morphax.app.tools.shared.hover import Hover
from morphax.app.tools.shared.landing import Snapping
from morphax.app.tools.shared.state import Sketch
from morphax.app.tools.shared.tool import Tool
from morphax.core.path.paths import PathKind
from morphax.project.things import Selection


class Toolbox(QObject):
    """What is armed, what is held, and what both show. ``pointer`` and ``keys`` route events to it.

    ``pane`` is the view that the pointer was last in, ``hover`` where along the chosen run it is; ``letters`` are the
    keys that arm tools, by their kinds.
    """

    changed = Signal()
    sketched = Signal()
    finished_run = Signal()
    pressed = Signal()

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.edit = EditTool(workspace)
        self.grab = Grab()
        self.draw: Tool | None = None
        self.snapping = Snapping()
        self.held: set[int] = set()
        self.letters: dict[str, int] = {}
        self.hover = Hover(lambda: self.sketch, self.sketched.emit)
        self.pane: int | None = None

    # -- what is there -------------------------------------------------------------------------

    @property
    def sketch(self) -> Sketch:
        if self.draw is not None and (self.draw.is_drawing or not self.edit.is_dragging):
            own = self.draw.sketch
            return own if own.next or own.lines or self.draw.is_drawing else self.edit.sketch
        return self.edit.sketch

    @property
    def kind(self) -> str | None:
        return None if self.draw is None else self.draw.kind

    @property
    def shown_kind(self) -> str | None:
        """The kind of the span that the next click ends, of the tool that is armed."""
        is_mixed = isinstance(self.draw, DrawTool) and self.draw.mix.is_possible
        return self.draw.mix.shown_kind if is_mixed and isinstance(self.draw, DrawTool) else self.kind

    @property
    def is_drawing(self) -> bool:
        return self.draw is not None and self.draw.is_drawing

    @property
    def typing_tool(self) -> EditTool | Tool | None:
        """What takes a number that is typed now: a drag that is going on, or the path that is drawn."""
        return self.edit if self.edit.is_dragging else self.draw if self.is_drawing else None

    @property
    def is_typing(self) -> bool:
        """Whether a number has been begun, so that letters belong to it."""
        return self.typing_tool is not None and bool(self.typing_tool.typed.text)

    @property
    def sees_through(self) -> bool:
        """Space held: all paths are seen, and picked, through everything."""
        return Qt.Key.Key_Space in self.held and not self.is_typing

    # -- arming --------------------------------------------------------------------------------

    def arm(self, kind: str | None) -> None:
        """Arms a tool of the registry, or (None) Edit; an unfinished path is finished with the knots it has.

        While a straight or through path is drawn, the one or the other is what its next spans are.
        """
        if self.draw is not None and self.draw.is_drawing:
            if isinstance(self.draw, DrawTool) and self.draw.mix.is_possible and kind in MIXED:
                self.draw.mix.go_on_as(PathKind(kind))
                self.draw.type(self.draw.typed)  # shows it
                self.changed.emit()
                self.sketched.emit()
                return
            self.draw.finish()
        self.draw = None if kind is None else TOOLS[kind].make(self.workspace, self.edit.around)
        self.edit.sketch = Sketch()
        self.changed.emit()

    def go_on(self, run_id: str, path_id: str, end: Literal["start", "end"]) -> None:
        """Draws a path on from one of its ends."""
        self.arm(None)
        self.draw = GoOnTool(self.workspace, self.edit.around, run_id, path_id, end)
        self.changed.emit()

    def put_down(self) -> None:
        """Puts down a tool that draws one path only, once it has."""
        if isinstance(self.draw, GoOnTool) and not self.draw.is_drawing:
            self.draw = None

    # -- ending --------------------------------------------------------------------------------

    def finish(self) -> bool:
        """Enter: places a typed knot, ends a drag at its typed place, or ends the path with the knots it has."""
        if self.edit.is_dragging:
            self.release()
            return True
        if self.draw is not None and self.draw.enter_typed():
            self.changed.emit()
            return True
        if self.draw is None or not self.draw.is_drawing:
            return False
        if self.draw.finish() is not None and not isinstance(self.draw, GoOnTool):
            self.finished_run.emit()
        self.put_down()
        self.changed.emit()
        return True

    def release(self) -> None:
        """The button is let go."""
        if isinstance(self.draw, FreehandTool | DrawOutTool):
            self.draw.release()
            self.changed.emit()
        if self.grab.release():
            self.finish()
        self.edit.release()
        self.sketched.emit()

    def take_back(self) -> bool:
        """Backspace, undo: takes back a drag that is going on, or the last knot of an unfinished path."""
        done = self.edit.cancel() or (self.draw is not None and self.draw.take_back())
        self.put_down()
        self.changed.emit()
        return done

    def escape(self) -> None:
        """Esc: drops a drag or the unfinished path whole; the next one puts the tool down, or lets a station go."""
        if self.workspace.unfinished.give_up():
            return
        if self.edit.cancel() or (self.draw is not None and self.draw.cancel()):
            self.put_down()
            self.changed.emit()
        elif self.draw is not None:
            self.arm(None)
        elif self.workspace.selection.stations:
            self.workspace.select(Selection.of(self.workspace.selection.runs))
