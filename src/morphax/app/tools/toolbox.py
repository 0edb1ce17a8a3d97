"""The armed tool, shared by all panes: Edit, or drawing one kind of path."""

from typing import Literal

from PySide6.QtCore import QObject, Qt, Signal

from morphax.app.session.workspace import Workspace
from morphax.app.tools.path.draw import DrawTool
from morphax.app.tools.path.edge_tool import EdgeTool
from morphax.app.tools.path.edit import EditTool
from morphax.app.tools.path.freehand_tool import FreehandTool
from morphax.app.tools.path.go_on_tool import GoOnTool
from morphax.app.tools.path.guide_tools import HelperTool, PictureScaleTool
from morphax.app.tools.path.made_tool import MADE_KINDS, MadeTool
from morphax.app.tools.path.measure_tool import MeasureTool
from morphax.app.tools.path.mix import MIXED
from morphax.app.tools.path.port_tool import PortTool
from morphax.app.tools.path.rectangle_tool import RectangleTool
from morphax.app.tools.shared.grab import Grab
from morphax.app.tools.shared.landing import Snapping
from morphax.app.tools.shared.state import Pointer, Sketch
from morphax.app.tools.shared.typing import next_field, with_character, without_last
from morphax.core.path.paths import PathKind
from morphax.project.history import Selection

HELP_DRAW = {
    PathKind.STRAIGHT: "straight path",
    PathKind.THROUGH: "path through your clicks",
    PathKind.HANDLES: "path with handles",
    PathKind.PULLED: "path pulled by your clicks",
    "rectangle": "rectangle, corner to corner",
    "helper-line": "helper line, corner by corner",
    "helper-rectangle": "helper rectangle, corner to corner",
    PathKind.HANGING: "cable that hangs between your clicks",
}


HELPERS = ("helper-line", "helper-rectangle")


_NEVER_EDIT = ("port", "edges", "freehand", "strand", "measure", "picture-scale", *HELPERS)
"""While these are armed a press on a knot does not take hold of it."""


class Toolbox(QObject):
    """Routes pointer events to the armed tool and says what a click does now."""

    changed = Signal()
    sketched = Signal()
    finished_run = Signal()

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.edit = EditTool(workspace)
        self.grab = Grab()
        self.draw: DrawTool | None = None
        self.snapping = Snapping()
        self.held: set[int] = set()
        self.strip_hover: float | None = None
        self.pane: int | None = None

    @property
    def sketch(self) -> Sketch:
        if self.draw is not None and (self.draw.is_drawing or not self.edit.is_dragging):
            own = self.draw.sketch
            return own if own.next or own.lines or self.draw.is_drawing else self.edit.sketch
        return self.edit.sketch

    def hold(self, key: int, *, down: bool) -> None:
        """A key goes down or up."""
        self.held.add(key) if down else self.held.discard(key)
        if key == Qt.Key.Key_Space:
            self.sketched.emit()

    def let_go(self) -> None:
        """Another window came to the front: keys that are let go there were let go."""
        for key in tuple(self.held):
            self.hold(key, down=False)

    @property
    def sees_through(self) -> bool:
        """Space held: all paths are seen, and picked, through everything."""
        return Qt.Key.Key_Space in self.held and not self.is_typing

    @property
    def kind(self) -> PathKind | None:
        return None if self.draw is None else self.draw.kind

    @property
    def shown_kind(self) -> PathKind | str | None:
        """The kind of the span that the next click ends, of the tool that is armed."""
        is_mixed = isinstance(self.draw, DrawTool) and self.draw.mix.is_possible
        return self.draw.mix.shown_kind if is_mixed else self.kind

    def go_on(self, run_id: str, path_id: str, end: Literal["start", "end"]) -> None:
        """Draws a path on from one of its ends."""
        self.arm(None)
        self.draw = GoOnTool(self.workspace, self.edit.around, run_id, path_id, end)
        self.changed.emit()

    def corner(self) -> bool:
        """While a path is drawn: its last knot becomes a corner, or smooth again. False where none is drawn."""
        if not isinstance(self.draw, DrawTool) or not self.draw.is_drawing:
            return False
        if not self.draw.mix.toggle_corner(len(self.draw.knots) - 1):
            self.workspace.said.emit("Corners are for the knots of a path through your clicks, but for its first.")
        self.draw.type(self.draw.typed)
        self.sketched.emit()
        return True

    def _put_down(self) -> None:
        """Puts down a tool that draws one path only, once it has."""
        if isinstance(self.draw, GoOnTool) and not self.draw.is_drawing:
            self.draw = None

    @property
    def is_drawing(self) -> bool:
        return self.draw is not None and self.draw.is_drawing

    @property
    def hover_distance(self) -> float | None:
        """Where along the chosen run the pointer is, on the strip or on the path in a pane, m."""
        if self.strip_hover is not None:
            return self.strip_hover
        return self.sketch.hover_distance

    def hover_strip(self, distance: float | None) -> None:
        """The pointer is over the length strip at a distance along the run, m, or has left it."""
        self.strip_hover = distance
        self.sketched.emit()

    def arm(self, kind: PathKind | str | None) -> None:
        """Arms a kind of path, ``port``, or (None) Edit; an unfinished path is finished with the knots it has.

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
        self.draw = None if kind is None else self._tool(kind)
        self.edit.sketch = Sketch()
        self.changed.emit()

    def _tool(self, kind: PathKind | str) -> DrawTool | EdgeTool | FreehandTool | MeasureTool | PortTool:
        if kind == "rectangle":
            return RectangleTool(self.workspace, self.edit.around)
        if kind in HELPERS:
            return HelperTool(self.workspace, self.edit.around, str(kind))
        if kind == "picture-scale":
            return PictureScaleTool(self.workspace)
        if kind in MADE_KINDS:
            return MadeTool(self.workspace, self.edit.around, str(kind))
        if kind == "measure":
            return MeasureTool(self.workspace, self.edit.around)
        if kind in ("freehand", "strand"):
            return FreehandTool(self.workspace, self.edit.around, str(kind))
        if kind == "edges":
            return EdgeTool(self.workspace, self.edit.around)
        if kind == "port":
            return PortTool(self.workspace, self.edit.around)
        return DrawTool(self.workspace, kind, self.edit.around)

    def set_snapping(self, snapping: Snapping) -> None:
        self.snapping = snapping
        self.changed.emit()

    # -- pointer -----------------------------------------------------------------------------------

    def _grabs_knot(self, at: Pointer) -> bool:
        """With a kind armed and no path begun, a press on a knot or handle of what is chosen edits."""
        if self.draw is None:
            return True
        if self.draw.is_drawing or self.draw.kind in (
            "port",
            "edges",
            "freehand",
            "strand",
            "measure",
            "picture-scale",
            *HELPERS,
        ):
            return False
        return self.edit.under.knot_at(at) is not None or self.edit.under.handle_at(at) is not None

    def hover(self, at: Pointer) -> None:
        if self._grabs_knot(at):
            if self.draw is not None:
                self.draw.sketch = Sketch()
            self.edit.hover(at)
        elif self.draw is not None:
            self.draw.hover(at, self.snapping)
            self.grab.hover(self.draw, at)
        self.sketched.emit()

    def press(self, at: Pointer) -> None:
        if self._grabs_knot(at):
            self.edit.press(at)
        elif self.draw is not None and not self.grab.press(self.draw, at, self.snapping):
            was = self.draw.is_drawing
            self.draw.press(at, self.snapping)
            if was and not self.draw.is_drawing and not isinstance(self.draw, GoOnTool):
                self.finished_run.emit()
            self._put_down()
        self.changed.emit()

    def toggle_moving(self) -> None:
        """Shows the handle set on a single chosen run too, or puts it away."""
        self.edit.set.moves_whole = not self.edit.set.moves_whole
        self.changed.emit()
        self.sketched.emit()

    def choose_under(self, at: Pointer) -> None:
        """Chooses what lies under the pointer, as a click in *Edit* does, but keeps what is chosen already."""
        ws, under = self.workspace, self.edit.under
        knot, run = under.knot_at(at), under.run_at(at)
        if self.is_drawing or (knot in ws.selection.knots) or (knot is None and run in ws.selection.runs):
            return
        if knot is not None:
            ws.select(Selection(ws.selection.runs[:1], (knot,)))
        elif under.place_at(at) is None:
            host = under.host_at(at) if run is None else None
            if host is None or host not in ws.selection.hosts:
                ws.select(Selection(() if run is None else (run,), (), () if host is None else (host,)))

    def drag(self, at: Pointer) -> None:
        if self.draw is None or not self.draw.is_drawing:
            self.edit.drag(at, self.snapping)
        elif self.grab.is_on:
            self.grab.drag(at, self.snapping)
        else:
            self.draw.pull(at, self.snapping)
        self.sketched.emit()

    def release(self) -> None:
        if isinstance(self.draw, FreehandTool):
            self.draw.release()
            self.changed.emit()
        self.grab.release()
        self.edit.release()
        self.sketched.emit()

    def double_press(self, at: Pointer) -> None:
        if self.draw is not None and self.draw.is_drawing:
            self.finish()
        elif self.draw is None:
            self.edit.double_press(at)
        self.changed.emit()

    def leave(self) -> None:
        """The pointer left the panes."""
        if self.draw is not None and self.draw.is_drawing:
            self.draw.hover_left()
        elif self.draw is not None:
            self.draw.sketch = Sketch()
        self.edit.sketch = Sketch() if not self.edit.is_dragging else self.edit.sketch
        self.sketched.emit()

    # -- keys --------------------------------------------------------------------------------------

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
        self._put_down()
        self.changed.emit()
        return True

    @property
    def is_typing(self) -> bool:
        """Whether a number has been begun, so that letters belong to it."""
        tool = self.edit if self.edit.is_dragging else self.draw if self.is_drawing else None
        return tool is not None and bool(tool.typed.text)

    def type(self, character: str) -> bool:
        """A character of a number typed during a drag or between clicks; False where nothing takes it."""
        tool = self.edit if self.edit.is_dragging else self.draw if self.is_drawing else None
        if tool is None:
            return False
        typed = next_field(tool.typed) if character == "\t" else with_character(tool.typed, character)
        if typed is None:
            return False
        began = tool.typed.is_empty
        tool.type(typed)
        self.sketched.emit()
        if began:
            self.changed.emit()  # what keys do now is said
        return True

    def erase(self) -> bool:
        """Backspace: the last typed character; False when nothing was typed."""
        tool = self.edit if self.edit.is_dragging else self.draw if self.is_drawing else None
        if tool is None or not tool.typed.text:
            return False
        tool.type(without_last(tool.typed))
        self.sketched.emit()
        return True

    def take_back(self) -> bool:
        """Backspace, undo: takes back a drag that is going on, or the last knot of an unfinished path."""
        done = self.edit.cancel() or (self.draw is not None and self.draw.take_back())
        self._put_down()
        self.changed.emit()
        return done

    def escape(self) -> None:
        """Esc: drops a drag or the unfinished path whole; the next one puts the kind down."""
        if self.edit.cancel() or (self.draw is not None and self.draw.cancel()):
            self._put_down()
            self.changed.emit()
        elif self.draw is not None:
            self.arm(None)

    def help(self) -> str:
        """What a click or key does now."""
        if self.is_typing:
            return "Type on · Tab: direction in degrees, then x, y, z · Enter takes it · Backspace"
        if self.draw is None:
            if self.workspace.chosen_run is None:
                return "Click a body to choose it · S or T draws a path · middle button turns the view, wheel zooms"
            return "Drag a knot or the path, type how far · double-click adds a knot · B corner, R radius · M moves it"
        if self.draw.kind == "port":
            return (
                "Click a round rim or a face of a host: a port is made there · Shift: at that point · Esc puts it down"
            )
        if self.draw.kind == "measure":
            return "Click two points to measure between them; corners, edges, knots and ports catch · Esc puts it down"
        if self.draw.kind == "freehand":
            return "Drag to draw a stroke, in a plane or on a host; it becomes a path of few knots · Esc puts it down"
        if self.draw.kind == "strand":
            return "Drag over a host: the strand lies on it, holds on to it and follows it · Esc puts it down"
        if self.draw.kind == "edges":
            return (
                "Click edges one by one · Shift: all that go on · O held: the loop · a second click drops · Enter ends"
            )
        if isinstance(self.draw, MadeTool | PictureScaleTool):
            return self.draw.help
        what = HELP_DRAW[self.draw.kind]
        if not self.draw.is_drawing:
            return f"Click to begin a {what} · Ctrl turns snapping round · Esc puts it down"
        is_mixed = isinstance(self.draw, DrawTool) and self.draw.mix.is_possible
        mixed = "S, T: straight, curved from here · B corner · " if is_mixed else "double-click or "
        return f"Click, or type how far · {mixed}Enter ends · held: Shift straight, X Y Z axis"
