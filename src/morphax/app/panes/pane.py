"""A pane: the newest picture of the scene with the overlay painted over it; turns mouse events into tool calls."""

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QMouseEvent, QPainter, QPen, QWheelEvent
from PySide6.QtWidgets import QMenu, QToolButton, QWidget

from morphax.app.look import Look
from morphax.app.panes.camera import FLAT_VIEWS, PERSPECTIVE, Camera, framed, orbited, panned, ray, zoomed
from morphax.app.panes.overlay import View, clipped, paint_axes, paint_overlay
from morphax.app.panes.scene_items import scene_items, scene_points
from morphax.app.render_hub import RenderHub
from morphax.app.theme import backdrop, colour
from morphax.app.toolbox import Toolbox
from morphax.app.tools.landing import grid_step
from morphax.app.tools.state import Pointer
from morphax.app.view3d.scene import RenderRequest
from morphax.app.workspace import Workspace

REST_MILLISECONDS = 150
MOST_QUICK_PIXELS = 1.5e6
"""Larger panes are drawn at half the resolution while something moves."""


class Pane(QWidget):
    """One view of the scene."""

    camera_changed = Signal()

    def __init__(self, index: int, workspace: Workspace, toolbox: Toolbox, hub: RenderHub, look: Look) -> None:
        super().__init__()
        self.index, self.workspace, self.toolbox, self.hub, self.look = index, workspace, toolbox, hub, look
        self.camera = Camera()
        self.picture: QImage | None = None
        self.picture_number = 0
        self.last_request = 0
        self.note = ""
        self._pressed: QPointF | None = None
        self._pivot: np.ndarray | None = None
        self._rest = QTimer(self, singleShot=True, interval=REST_MILLISECONDS)
        self._rest.timeout.connect(lambda: self.refresh(fine=True))
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(160, 120)
        self.setAccessibleName(f"View {index + 1}")
        self.name_button = self._name_button()
        hub.picture.connect(self._on_picture)
        workspace.project_changed.connect(lambda *_: self.refresh())
        workspace.built.connect(self.refresh)
        workspace.selection_changed.connect(self.update)
        toolbox.sketched.connect(self.update)
        look.changed.connect(self._on_look)

    # -- view ----------------------------------------------------------------------------------

    def _name_button(self) -> QToolButton:
        button = QToolButton(self)
        button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        button.setAccessibleName("Choose the view")
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        menu = QMenu(button)
        for name in (PERSPECTIVE, *FLAT_VIEWS):
            menu.addAction(name, lambda n=name: self.set_view(n))
        button.setMenu(menu)
        button.setStyleSheet("QToolButton::menu-indicator { image: none; }")
        button.move(8, 8)
        return button

    @property
    def pixels(self) -> tuple[int, int]:
        return max(1, self.width()), max(1, self.height())

    @property
    def grid(self) -> float:
        """The grid's step in this view, m."""
        return grid_step(self.camera, self.pixels, self.workspace.project.unit)

    def set_camera(self, camera: Camera) -> None:
        if camera != self.camera:
            self.camera = camera
            self.refresh()
            self.camera_changed.emit()

    def set_view(self, view: str) -> None:
        """Looks from another side at the same things."""
        self.set_camera(Camera(view, self.camera.target, self.camera.height, self.camera.yaw, self.camera.pitch))

    def frame(self, *, chosen: bool = False) -> None:
        """Brings everything, or what is chosen, into sight."""
        self.set_camera(framed(self.camera, scene_points(self.workspace, chosen=chosen), self.pixels))

    def refresh(self, *, fine: bool = False) -> None:
        """Asks for a new picture: a quick one now and a finer one after a rest."""
        self.name_button.setText(self.camera.view + self.note)
        self.name_button.adjustSize()
        ratio = self.devicePixelRatioF()
        if not fine and self.width() * self.height() * ratio**2 > MOST_QUICK_PIXELS:
            ratio *= 0.5
        size = (max(8, int(self.width() * ratio)), max(8, int(self.height() * ratio)))
        self.last_request = self.hub.next_number()
        request = RenderRequest(
            self.index,
            self.last_request,
            size,
            self.camera,
            scene_items(self.workspace, self.look.tokens),
            backdrop(self.look.tokens),
            self.grid,
            fine,
            self.look.edges,
            self.look.shaded,
        )
        if self.isVisible():
            self.hub.submit(request)
            if not fine:
                self._rest.start()
        self.update()

    @property
    def is_settled(self) -> bool:
        """Whether the newest, fine picture is on the screen."""
        return not self._rest.isActive() and self.picture_number == self.last_request

    def _on_picture(self, request: RenderRequest, image: QImage) -> None:
        if request.pane == self.index and request.number > self.picture_number:
            self.picture, self.picture_number = image, request.number
            self.update()

    def _on_look(self) -> None:
        self.refresh()

    def showEvent(self, event: QEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def resizeEvent(self, event: QEvent) -> None:
        super().resizeEvent(event)
        self.refresh()

    def paintEvent(self, event: QEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        view = View(painter, self.camera, self.pixels, self.look.tokens)
        painter.setClipPath(clipped(view))
        if self.picture is None:
            painter.fillRect(self.rect(), colour(self.look.tokens.sky_low))
        else:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(QRectF(self.rect()), self.picture)
        paint_axes(view)
        paint_overlay(view, self.workspace, self.toolbox.sketch)
        if self.hasFocus():
            painter.setPen(QPen(colour(self.look.tokens.teal), 2.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 6.0, 6.0)
        painter.end()

    # -- mouse ---------------------------------------------------------------------------------

    def pointer(self, event: QMouseEvent) -> Pointer:
        """A mouse event as tools see it."""
        p, keys = event.position(), event.modifiers()
        return Pointer(
            self.camera,
            self.pixels,
            (p.x(), p.y()),
            self.grid,
            bool(keys & Qt.KeyboardModifier.ShiftModifier),
            bool(keys & Qt.KeyboardModifier.ControlModifier),
            Qt.Key.Key_V in self.toolbox.held,
        )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.MiddleButton:
            self._pressed = event.position()
            self._pivot = self._under(event.position())
        elif event.button() == Qt.MouseButton.LeftButton:
            self.toolbox.press(self.pointer(event))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.MiddleButton and self._pressed is not None:
            self._navigate(event)
        elif event.buttons() & Qt.MouseButton.LeftButton:
            self.toolbox.drag(self.pointer(event))
        else:
            self.toolbox.hover(self.pointer(event))

    def _navigate(self, event: QMouseEvent) -> None:
        d = event.position() - (self._pressed or event.position())
        self._pressed = event.position()
        pivot = self._pivot if self._pivot is not None else np.array(self.camera.target)
        if self.camera.is_flat or event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.set_camera(panned(self.camera, d.x(), d.y(), self.pixels, pivot))
        else:
            self.set_camera(orbited(self.camera, d.x(), d.y(), pivot))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.MiddleButton:
            self._pressed = None
        elif event.button() == Qt.MouseButton.LeftButton:
            self.toolbox.release()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.toolbox.double_press(self.pointer(event))

    def wheelEvent(self, event: QWheelEvent) -> None:
        factor = 1.15 ** (event.angleDelta().y() / 120.0)
        p = event.position()
        self.set_camera(zoomed(self.camera, factor, (p.x(), p.y()), self.pixels))

    def leaveEvent(self, event: QEvent) -> None:
        self.toolbox.leave()

    def _under(self, p: QPointF) -> np.ndarray:
        """The point of the scene under a pixel; else where the line of sight passes the target."""
        line = ray(self.camera, (p.x(), p.y()), self.pixels)
        depths = [
            self.toolbox.edit.under.picker.depth(item.mesh, line)
            for item in scene_items(self.workspace, self.look.tokens)
        ]
        hits = [d for d in depths if d is not None]
        depth = min(hits) if hits else float((np.array(self.camera.target) - line.origin) @ line.direction)
        return line.origin + depth * line.direction
