"""The section board as a view in a pane, with its own row of tools at the foot."""

from PySide6.QtCore import QPoint
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QMenu

from morphax.app.session.workspace import Workspace
from morphax.app.tools.section.board_tool import BoardTool, words_of
from morphax.app.tools.section.parts import mirror_copy
from morphax.app.tools.section.sketch import ToolKind
from morphax.app.views.board.board_foot import BoardFoot
from morphax.app.views.board.board_input import BoardInput
from morphax.app.views.board.board_paint import BoardPainter
from morphax.app.views.board.in_place import BACK, InPlace
from morphax.app.views.board.paper import RULER_LEFT, RULER_TOP
from morphax.app.views.board.walls import Walls
from morphax.app.views.panes.pane import Pane
from morphax.core.section.repeats import Repeat

TOOLS: tuple[tuple[ToolKind, str], ...] = (
    ("line", "Lines from corner to corner (S)"),
    ("arc", "Arcs that go on smoothly, or through a place (A)"),
    ("curve", "A curve through places (T)"),
    ("rectangle", "A rectangle by two corners (Shift+R)"),
    ("circle", "A circle by its middle and edge"),
    ("polygon", "A polygon by its middle and a corner"),
)

DOING = {
    "repeat": "Repeat what is chosen, or all, round the anchor or along a line",
    "strip": "The open line that is drawn gets a thickness, to its left; how thick stands in the column",
    "mirror": "Half an outline that is drawn is closed by its mirror image; else a copy is mirrored",
}


class BoardView(InPlace):
    """Shows the workspace's board; it stands in the second pane while a section is edited."""

    name_at = (RULER_LEFT + 8, RULER_TOP + 8)

    def __init__(self, pane: Pane, workspace: Workspace) -> None:
        self.pane, self.workspace, self.board = pane, workspace, workspace.board
        self.tool = BoardTool(workspace, self.board)
        self.input = BoardInput(self)
        self.walls = Walls(workspace)
        self.foot = BoardFoot(pane, {**dict(TOOLS), **DOING})
        self.buttons = self.foot.buttons
        for kind, _ in TOOLS:
            self.buttons[kind].clicked.connect(lambda _=False, kind=kind: self.arm(kind))
        self.buttons["repeat"].clicked.connect(self._turn_repeat)
        self.buttons["mirror"].clicked.connect(self._mirror)
        self.buttons["strip"].clicked.connect(self._strip)
        self.board.changed.connect(self.refresh)
        self.board.replaced.connect(self._put_down)
        pane.look.changed.connect(self.refresh)

    @property
    def title(self) -> str:
        return f"Section board · {self.board.on.name}"

    @property
    def words(self) -> str:
        """What a click or key does now."""
        return words_of(self.tool)

    def arm(self, kind: ToolKind) -> None:
        """A tool of the board; once more, and it is put down."""
        self.tool.arm("edit" if kind == self.tool.kind else kind)
        self.pane.setFocus()

    def _put_down(self) -> None:
        """What was being drawn was for another section."""
        self.tool.cancel()
        self.tool.sketch.kind = "edit"

    def _turn_repeat(self) -> None:
        self.board.set_repeat(Repeat() if self.board.repeat is None else None)
        self.pane.setFocus()

    def _strip(self) -> None:
        if len(self.tool.sketch.chain.nodes) > 1:
            self.tool.sketch.strip(self.workspace.bench.thickness / self.board.sight.grow)
        else:
            self.workspace.said.emit("Draw a line of two places or more first; it stays open.")
        self.pane.setFocus()

    def _mirror(self) -> None:
        if self.tool.sketch.chain.nodes:
            self.tool.sketch.mirror()
        elif self.board.loops:
            mirror_copy(self.board)
        self.pane.setFocus()

    def choose(self, choice: str) -> None:
        if choice == BACK:
            self.board.close()

    def refresh(self) -> None:
        is_here = self.pane.view is self
        self.foot.setVisible(is_here)
        if not is_here:
            return
        self.board.resize(self.pane.width(), self.pane.height())
        self.board.walls = self.walls.rings(self.board)
        self.foot.check({self.tool.kind, *(["repeat"] if self.board.repeat is not None else [])})
        self.pane.rename()
        self.foot.place(self.pane.look.tokens)
        self.pane.update()

    def paint(self, painter: QPainter) -> None:
        self.board.walls = self.walls.rings(self.board)  # bodies and hosts may be new since
        BoardPainter(painter, self.tool, self.pane.look.tokens, self.board.walls).paint()

    def menu_at(self, at: QPoint) -> QMenu | None:
        return None
