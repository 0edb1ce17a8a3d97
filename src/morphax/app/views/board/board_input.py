"""The pointer and keys over the section board."""

from typing import Protocol

from PySide6.QtCore import QEvent, QMimeData, QPointF, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence, QMouseEvent, QWheelEvent

from morphax.app.session.board import Board
from morphax.app.tools.section.board_tool import BoardTool
from morphax.app.tools.section.catch import grid_of
from morphax.app.tools.section.points import delete_points, nudge, step, toggle_corner
from morphax.app.tools.section.sketch import ToolKind
from morphax.app.views.panes.pane import Pane
from morphax.project.units import METRES

_LETTERS: dict[Qt.Key, ToolKind] = {Qt.Key.Key_S: "line", Qt.Key.Key_A: "arc", Qt.Key.Key_T: "curve"}
_ARROWS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, 1),
    Qt.Key.Key_Down: (0, -1),
}
_ZOOM = 1.0015
_SHIFT, _CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
_ALT = Qt.KeyboardModifier.AltModifier


class Shown(Protocol):
    """What is asked of the view that the pointer is over."""

    pane: Pane
    tool: BoardTool
    board: Board

    def arm(self, kind: ToolKind) -> None: ...


class BoardInput:
    """Turns a pane's events into calls of the board's tool, and moves what is seen of it."""

    def __init__(self, view: Shown) -> None:
        self.view = view
        self._panning: QPointF | None = None

    @property
    def tool(self) -> BoardTool:
        return self.view.tool

    def press(self, event: QMouseEvent) -> None:
        at, keys = event.position(), event.modifiers()
        if event.button() == Qt.MouseButton.MiddleButton:
            self._panning = at
        elif event.button() == Qt.MouseButton.LeftButton:
            self.tool.press((at.x(), at.y()), adds=bool(keys & _SHIFT), turned=bool(keys & _CTRL))

    def move(self, event: QMouseEvent) -> None:
        at, keys = event.position(), event.modifiers()
        if self._panning is not None:
            d = at - self._panning
            self._panning = at
            self.view.board.look(self.view.board.sight.panned(d.x(), d.y()))
        elif event.buttons() & Qt.MouseButton.LeftButton:
            self.tool.drag_to((at.x(), at.y()), turned=bool(keys & _CTRL), alone=bool(keys & _ALT))
        else:
            self.tool.hover((at.x(), at.y()), turned=bool(keys & _CTRL))

    def release(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.MiddleButton:
            self._panning = None
        elif event.button() == Qt.MouseButton.LeftButton:
            self.tool.release()

    def double_press(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.tool.double_press((event.position().x(), event.position().y()))

    def wheel(self, event: QWheelEvent) -> None:
        at, board = event.position(), self.view.board
        board.look(board.sight.zoomed(_ZOOM ** event.angleDelta().y(), at.x(), at.y()))

    def leave(self) -> None:
        self.tool.left()

    def key(self, event: QKeyEvent) -> bool:
        """Keys of the board; asked once whether they are its own, and once they are pressed."""
        acts = event.type() == QEvent.Type.KeyPress
        if event.matches(QKeySequence.StandardKey.Undo) and self.tool.sketch.is_on:
            return self.tool.erase() if acts else True
        if event.modifiers() & (_CTRL | _ALT):
            return False
        return self._plain_key(event, acts=acts)

    def _plain_key(self, event: QKeyEvent, *, acts: bool) -> bool:
        key, tool = Qt.Key(event.key()), self.tool
        if key == Qt.Key.Key_Escape:
            if acts:
                self._escape()
            return True
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            return (tool.finish() or True) if acts else True
        if key == Qt.Key.Key_Backspace:
            return (tool.erase() or delete_points(self.view.board) or True) if acts else True
        if key == Qt.Key.Key_Delete:
            return (delete_points(self.view.board) or True) if acts else True
        if key in _ARROWS:
            return self._arrow(*_ARROWS[key], shift=bool(event.modifiers() & _SHIFT)) if acts else True
        if key == Qt.Key.Key_R and event.modifiers() & _SHIFT:
            self.view.arm("rectangle") if acts else None
            return True
        return self._letter(key, event.text(), acts=acts)

    def _letter(self, key: Qt.Key, text: str, *, acts: bool) -> bool:
        tool, board = self.tool, self.view.board
        if tool.sketch.is_on or tool.is_dragging:
            is_number = bool(text) and text in "0123456789.,+-*/'\" xcmftin\t"
            if is_number and not (text in "ct" and not tool.typed.text):
                return tool.type(text) if acts else True
        if key in _LETTERS:
            self.view.arm(_LETTERS[key]) if acts else None
            return True
        if key == Qt.Key.Key_B and board.chosen:
            toggle_corner(board, board.chosen) if acts else None
            return True
        if key in (Qt.Key.Key_PageDown, Qt.Key.Key_PageUp) and board.loops:
            step(board, 1 if key == Qt.Key.Key_PageDown else -1) if acts else None
            return True
        return False

    def _arrow(self, right: int, up: int, *, shift: bool) -> bool:
        tool, board = self.tool, self.view.board
        if up and tool.sketch.more_corners(up):
            tool.workspace.said.emit(f"A polygon of {tool.sketch.corners} sides.")
            board.changed.emit()
            return True
        nudge(board, right, up, grid_of(board.sight, METRES[tool.workspace.project.unit]) * (10.0 if shift else 1.0))
        return True

    def _escape(self) -> None:
        """Drops what is going on, puts the tool down, chooses nothing, and at last goes back to the scene."""
        tool, board = self.tool, self.view.board
        if tool.cancel():
            return
        if tool.kind != "edit":
            tool.arm("edit")
        elif board.chosen:
            board.choose(())
        else:
            board.close()

    # -- drops ---------------------------------------------------------------------------------

    def takes(self, data: QMimeData) -> bool:
        return False

    def drag_over(self, at: QPointF) -> None:
        """Nothing can be dropped here."""

    def drop(self, data: QMimeData, at: QPointF) -> None:
        """Nothing can be dropped here."""
