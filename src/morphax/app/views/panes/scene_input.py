"""The pointer and keys over a view of the scene: they move the view, or go to the armed tool."""

from typing import Protocol

import numpy as np
from PySide6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt, SignalInstance
from PySide6.QtGui import QKeyEvent, QMouseEvent, QWheelEvent

from morphax.app.session.camera import Camera, orbited, panned, zoomed
from morphax.app.session.pointer import Pointer
from morphax.app.session.sight import CameraSight
from morphax.app.tools.routing import KeyRoute, PointerRoute
from morphax.app.tools.toolbox import Toolbox
from morphax.app.views.panes.navigation import Press, motion, wheel_motion
from morphax.app.views.panes.pane import Pane
from morphax.app.views.stock.groups import LOOK
from morphax.app.views.stock.tile import dropped_key
from morphax.project.model.document import Place


class Turned(Protocol):
    """What is asked of the view that the pointer is over."""

    pane: Pane
    camera: Camera
    toolbox: Toolbox
    section_dropped: SignalInstance
    moved_by_hand: SignalInstance

    @property
    def sight(self) -> CameraSight: ...
    def set_camera(self, camera: Camera) -> None: ...
    def pointer_at(self, p: QPointF | QPoint, keys: Qt.KeyboardModifier = ...) -> Pointer: ...
    def place_under(self, at: QPointF | QPoint) -> Place: ...


class SceneInput:
    """Turns a pane's events into motions of its camera and calls of tools; ``mouse_map`` says which is which."""

    def __init__(self, view: Turned) -> None:
        self.view = view
        self.mouse_map = "middle orbits"
        self._route = PointerRoute(view.toolbox)
        self._moving: str | None = None
        self._last = QPointF()
        self._pivot = np.zeros(3)

    @property
    def is_moving(self) -> bool:
        """Whether the view is being turned or moved by the mouse."""
        return self._moving is not None

    def press(self, event: QMouseEvent) -> None:
        keys = event.modifiers()
        shift, alt = (bool(keys & k) for k in (Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.AltModifier))
        name = str(event.button().name).removesuffix("Button").lower()
        begun = motion(self.mouse_map, Press(name, shift, alt))
        if begun is not None:
            self._moving, self._last = begun, event.position()
            self._pivot = np.array(self.view.place_under(event.position()))
        elif event.button() == Qt.MouseButton.LeftButton:
            self._route.press(self._pointer(event))

    def move(self, event: QMouseEvent) -> None:
        if self._moving is not None and event.buttons():
            d, self._last = event.position() - self._last, event.position()
            self._move_view(self._moving, d.x(), d.y())
        elif event.buttons() & Qt.MouseButton.LeftButton:
            self._route.drag(self._pointer(event))
        else:
            self._route.hover(self._pointer(event))

    def release(self, event: QMouseEvent) -> None:
        if self._moving is not None:
            self._moving = None
            self.view.pane.update()  # labels come back
        elif event.button() == Qt.MouseButton.LeftButton:
            self._route.release()

    def double_press(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._route.double_press(self._pointer(event))

    def wheel(self, event: QWheelEvent) -> None:
        keys, p, turn = event.modifiers(), event.position(), event.angleDelta()
        shift, ctrl = (bool(keys & k) for k in (Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier))
        what = wheel_motion(self.mouse_map, shift=shift, ctrl=ctrl)
        if what == "zoom":
            view = self.view
            view.set_camera(zoomed(view.camera, 1.15 ** (turn.y() / 120.0), (p.x(), p.y()), view.sight.size))
            view.moved_by_hand.emit()
        else:
            self._pivot = np.array(self.view.place_under(p))
            self._move_view(what, turn.x() / 4.0, turn.y() / 4.0)

    def _move_view(self, what: str, dx: float, dy: float) -> None:
        """Turns or moves the view; flat views only move."""
        view = self.view
        if view.camera.is_flat or what == "pan":
            view.set_camera(panned(view.camera, dx, dy, view.sight.size, self._pivot))
        else:
            view.set_camera(orbited(view.camera, dx, dy, self._pivot))
        view.moved_by_hand.emit()

    def _pointer(self, event: QMouseEvent) -> Pointer:
        self.view.toolbox.pane = self.view.pane.index
        return self.view.pointer_at(event.position(), event.modifiers())

    def leave(self) -> None:
        self._route.leave()

    def key(self, event: QKeyEvent) -> bool:
        """While something is drawn or dragged Tab steps to the next number; its letters (units) are no shortcuts.

        Nor is the letter of the tool that is armed: held, it lets a drag draw wherever it starts."""
        tools = self.view.toolbox
        if event.type() == QEvent.Type.KeyPress:
            return self._opens_board(event) or (event.key() == Qt.Key.Key_Tab and KeyRoute(tools).type("\t"))
        held_for_a_loop = event.key() == Qt.Key.Key_O and tools.kind == "edges"
        is_own = not tools.is_drawing and event.key() == tools.letters.get(tools.kind or "")
        return held_for_a_loop or is_own or tools.is_typing

    def _opens_board(self, event: QKeyEvent) -> bool:
        """Enter with a run chosen and nothing going on: its section comes onto the board."""
        tools = self.view.toolbox
        run = tools.workspace.chosen.run
        is_enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if not is_enter or run is None or tools.draw is not None or tools.typing_tool is not None:
            return False
        tools.workspace.board.open_run(run)
        return True

    def takes(self, data: QMimeData) -> bool:
        return dropped_key(data) is not None

    def drag_over(self, at: QPointF) -> None:
        """Shows which run would take the section."""
        self._route.hover(self.view.pointer_at(at))

    def drop(self, data: QMimeData, at: QPointF) -> None:
        """A section, look or preset dropped on a run; a look on a host too."""
        key, under, pointer = dropped_key(data), self.view.toolbox.edit.under, self.view.pointer_at(at)
        if key is None:
            return
        found = under.run_at(pointer) or (under.host_at(pointer) if key.startswith(LOOK) else None)
        if found is not None:
            self.view.section_dropped.emit(key, found)
