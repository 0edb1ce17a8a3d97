"""The registry of tools, by the word that arms them: a new tool is a new row here."""

from collections.abc import Callable
from typing import cast

from morphax.app.session.workspace import Workspace
from morphax.app.tools.path.draw import DrawTool
from morphax.app.tools.path.draw_out_tool import DrawOutTool
from morphax.app.tools.path.edge_tool import EdgeTool
from morphax.app.tools.path.freehand_tool import FreehandTool
from morphax.app.tools.path.guide_tools import HelperTool, PictureScaleTool
from morphax.app.tools.path.made_tool import MADE_KINDS, MadeTool
from morphax.app.tools.path.measure_tool import MeasureTool
from morphax.app.tools.path.port_tool import PortTool
from morphax.app.tools.path.rectangle_tool import RectangleTool
from morphax.app.tools.shared.snap_targets import SnapTargets
from morphax.app.tools.shared.tool import Tool, ToolKind, says
from morphax.core.path.paths import PathKind


def _begins(what: str) -> Callable[[Tool], str]:
    return says(f"Click to begin a {what} · Ctrl turns snapping round · Esc puts it down")


def _goes_on(tool: Tool) -> str:
    is_mixed = isinstance(tool, DrawTool) and tool.mix.is_possible
    mixed = "S, T: straight, curved from here · B corner · " if is_mixed else "double-click or "
    return f"Click, or type how far · {mixed}Enter ends · held: Shift straight, X Y Z axis"


def _own_words(tool: Tool) -> str:
    """A tool of several clicks says itself what the next one is."""
    return cast(MadeTool | PictureScaleTool | DrawOutTool, tool).help


def _path(kind: PathKind, what: str) -> ToolKind:
    return ToolKind(lambda ws, around: DrawTool(ws, kind, around), _begins(what), _goes_on, spares="body")


def _made(name: str) -> ToolKind:
    return ToolKind(lambda ws, around: MadeTool(ws, around, name), _own_words, spares="body")


def _helper(name: str, what: str) -> ToolKind:
    return ToolKind(lambda ws, around: HelperTool(ws, around, name), _begins(what), _goes_on)


def _scale(ws: Workspace, around: SnapTargets) -> Tool:
    return PictureScaleTool(ws)


TOOLS: dict[str, ToolKind] = {
    PathKind.STRAIGHT: _path(PathKind.STRAIGHT, "straight path"),
    PathKind.THROUGH: _path(PathKind.THROUGH, "path through your clicks"),
    PathKind.HANDLES: _path(PathKind.HANDLES, "path with handles"),
    PathKind.PULLED: _path(PathKind.PULLED, "path pulled by your clicks"),
    PathKind.HANGING: _path(PathKind.HANGING, "cable that hangs between your clicks"),
    "rectangle": ToolKind(RectangleTool, _begins("rectangle, corner to corner"), _goes_on, spares="body"),
    "helper-line": _helper("helper-line", "helper line, corner by corner"),
    "helper-rectangle": _helper("helper-rectangle", "helper rectangle, corner to corner"),
    **{name: _made(name) for name in MADE_KINDS},
    "freehand": ToolKind(
        lambda ws, around: FreehandTool(ws, around, "freehand"),
        says("Drag to draw a stroke, in a plane or on a host; it becomes a path of few knots · Esc puts it down"),
        spares="knots",
    ),
    "strand": ToolKind(
        lambda ws, around: FreehandTool(ws, around, "strand"),
        says("Drag over a host: the strand lies on it, holds on to it and follows it · Esc puts it down"),
        spares="knots",
    ),
    "edges": ToolKind(
        EdgeTool,
        says("Click edges one by one · Shift: all that go on · O held: the loop · a second click drops · Enter ends"),
    ),
    "draw-out": ToolKind(DrawOutTool, _own_words),
    "port": ToolKind(
        PortTool,
        says("Click a round rim or a face of a host: a port is made there · Shift: at that point · Esc puts it down"),
    ),
    "measure": ToolKind(
        MeasureTool,
        says("Click two points to measure between them; corners, edges, knots and ports catch · Esc puts it down"),
    ),
    "picture-scale": ToolKind(_scale, _own_words),
}
"""By the kind of path, or the tool's own word."""
