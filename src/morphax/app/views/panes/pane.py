"""A pane: the newest picture of the scene with the overlay painted over it; turns mouse events into tool calls."""

from functools import partial

import numpy as np
from PySide6.QtCore import QElapsedTimer, QEvent, QPoint, QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QCursor,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QShowEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QMenu, QToolButton, QWidget

from morphax.app.session.camera import FLAT_VIEWS, PERSPECTIVE, Camera, framed, orbited, panned, ray, zoomed
from morphax.app.session.in_sight import Meshes
from morphax.app.session.pointer import Pointer
from morphax.app.tools.routing import KeyRoute, PointerRoute
from morphax.app.tools.shared.landing import grid_step
from morphax.app.tools.toolbox import Toolbox
from morphax.app.views.panes.drawing import View
from morphax.app.views.panes.marks import paint_measure
from morphax.app.views.panes.navigation import Press, motion, wheel_motion
from morphax.app.views.panes.overlay import paint_axes, paint_corners, paint_overlay
from morphax.app.views.panes.scene_items import EMPTY_SIZES, Scene, scene_points
from morphax.app.views.pictures import sheets
from morphax.app.views.render_hub import RenderHub
from morphax.app.views.stock.section_library import dropped_key
from morphax.app.views.view3d.scene import RenderRequest, is_heavy
from morphax.app.widgets.appearance import Look
from morphax.app.widgets.theme import backdrop, colour

REST_MILLISECONDS, HEAVY_REST_MILLISECONDS = 150, 500
"""So long after the last change a finer picture follows; later where it takes long."""
OTHER_MILLISECONDS = 120
MOST_QUICK_PIXELS = 1.5e6
"""Larger panes are drawn at half the resolution while something moves."""
_AXES = (Qt.Key.Key_X, Qt.Key.Key_Y, Qt.Key.Key_Z)


def _presses(event: QKeyEvent, kind: QEvent.Type, key: Qt.Key) -> bool:
    return event.type() == kind and event.key() == key


class Pane(QWidget):
    """One view of the scene."""

    camera_changed = Signal()
    menu_wanted = Signal(object, object)
    section_dropped = Signal(str, str)

    def __init__(self, index: int, scene: Scene, toolbox: Toolbox, hub: RenderHub, look: Look) -> None:
        super().__init__()
        self.scene, workspace = scene, scene.workspace
        self.index, self.workspace, self.toolbox, self.hub, self.look = index, workspace, toolbox, hub, look
        self.route = PointerRoute(toolbox)
        self.camera = Camera()
        self.picture: QImage | None = None
        self.picture_number = 0
        self.last_request = 0
        self.note = ""
        self._pressed: QPointF | None = None
        self._pivot: np.ndarray | None = None
        self._moving: str | None = None
        self._right_at: QPointF | None = None
        self.mouse_map = "middle orbits"
        self.empty_size = "room"
        self._rest = QTimer(self, singleShot=True, interval=REST_MILLISECONDS)
        self._rest.timeout.connect(lambda: self.refresh(fine=True))
        self._lag = QTimer(self, singleShot=True)
        self._lag.timeout.connect(self.refresh)
        self._drawn = QElapsedTimer()
        self._drawn.start()
        self.setMouseTracking(True)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # nothing behind it has to be painted first
        self.setAcceptDrops(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(160, 120)
        self.setAccessibleName(f"View {index + 1}")
        self.name_button = self._name_button()
        hub.picture.connect(self._on_picture)
        workspace.project_changed.connect(lambda *_: self.refresh())
        workspace.built.connect(self.refresh)
        workspace.selection_changed.connect(self.update)
        toolbox.sketched.connect(self._on_sketch)
        look.changed.connect(self._on_look)

    # -- view ----------------------------------------------------------------------------------

    def _name_button(self) -> QToolButton:
        button = QToolButton(self)
        button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        button.setAccessibleName("Choose the view")
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        menu = QMenu(button)
        for name in (PERSPECTIVE, *FLAT_VIEWS):
            menu.addAction(name, partial(self.set_view, name))
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
        self.set_camera(
            framed(self.camera, scene_points(self.workspace, chosen=chosen, empty=self.empty_size), self.pixels)
        )

    def refresh(self, *, fine: bool = False) -> None:
        """Asks for a new picture: a quick one now and a finer one after a rest.

        While something is drawn or dragged in the other pane, this one is drawn a few times a second only: the
        interface needs the time.
        """
        is_busy = self.toolbox.is_drawing or self.toolbox.edit.is_dragging
        if is_busy and not fine and self.toolbox.pane not in (None, self.index):
            wait = OTHER_MILLISECONDS - self._drawn.elapsed()
            if self._lag.isActive():
                return
            if wait > 0:
                self._lag.start(int(wait))
                return
        self.name_button.setText(self.camera.view + self.note)
        self.name_button.adjustSize()
        ratio, items = self.devicePixelRatioF(), self.scene.items(self.look.tokens)
        heavy = is_heavy(items)
        if not fine and (heavy or self.width() * self.height() * ratio**2 > MOST_QUICK_PIXELS):
            ratio *= 0.5
        self._rest.setInterval(HEAVY_REST_MILLISECONDS if heavy else REST_MILLISECONDS)
        size = (max(8, int(self.width() * ratio)), max(8, int(self.height() * ratio)))
        self.last_request = self.hub.next_number()
        request = RenderRequest(
            self.index,
            self.last_request,
            size,
            self.camera,
            items,
            backdrop(self.look.tokens),
            self.grid,
            fine,
            self.look.edges,
            self.look.shaded,
            sheets(self.workspace, self.camera.view),
        )
        if self.isVisible():
            self._drawn.restart()
            self.hub.submit(request)
            if not fine:
                self._rest.start()
        self.update()

    @property
    def is_settled(self) -> bool:
        """Whether the newest, fine picture is on the screen."""
        return not self._rest.isActive() and not self._lag.isActive() and self.picture_number == self.last_request

    def _on_picture(self, request: RenderRequest, image: QImage) -> None:
        if request.pane == self.index and request.number > self.picture_number:
            self.picture, self.picture_number = image, request.number
            self.update()

    def _on_sketch(self) -> None:
        """What a tool shows: at once in the pane that it works in; the other one follows its picture in a drag."""
        if not (self.toolbox.edit.is_dragging and self.toolbox.pane not in (None, self.index)):
            self.update()

    def _on_look(self) -> None:
        self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        view = View(painter, self.camera, self.pixels, self.look.tokens, self.workspace.project.unit)
        if self.picture is None:
            painter.fillRect(self.rect(), colour(self.look.tokens.sky_low))
        else:
            if self.picture.width() != self.width() * self.devicePixelRatioF():
                painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(QRectF(self.rect()), self.picture)
        paint_axes(view)
        if not self.workspace.project.runs and not self.workspace.project.hosts:
            paint_measure(view, EMPTY_SIZES[self.empty_size], self.workspace.project.unit)
        paint_overlay(view, self.workspace, self.toolbox, seam=self.look.seam)
        paint_corners(view)
        if self.hasFocus():
            painter.setPen(QPen(colour(self.look.tokens.teal), 2.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 6.0, 6.0)
        painter.end()

    # -- mouse ---------------------------------------------------------------------------------

    def pointer(self, event: QMouseEvent) -> Pointer:
        """A mouse event as tools see it."""
        self.toolbox.pane = self.index
        return self.pointer_at(event.position(), event.modifiers())

    def pointer_at(self, p: QPointF | QPoint, keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> Pointer:
        """A place of this pane as tools see it."""
        return Pointer(
            self.camera,
            self.pixels,
            (float(p.x()), float(p.y())),
            self.grid,
            bool(keys & Qt.KeyboardModifier.ShiftModifier),
            bool(keys & Qt.KeyboardModifier.ControlModifier),
            Qt.Key.Key_V in self.toolbox.held,
            Qt.Key.Key_O in self.toolbox.held,
            next((i for i, k in enumerate(_AXES) if k in self.toolbox.held), None),
            self.toolbox.sees_through,
        )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        motion = self._motion(event)
        if event.button() == Qt.MouseButton.RightButton:
            self._right_at = event.position()
        if motion is not None:
            self._moving = motion
            self._pressed = event.position()
            self._pivot = self._under(event.position())
        elif event.button() == Qt.MouseButton.LeftButton:
            self.route.press(self.pointer(event))

    def _motion(self, event: QMouseEvent) -> str | None:
        """Whether a press begins to move the view, by the map of the mouse."""
        keys = event.modifiers()
        shift, alt = (bool(keys & k) for k in (Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.AltModifier))
        name = str(event.button().name).removesuffix("Button").lower()
        return motion(self.mouse_map, Press(name, shift, alt))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._moving is not None and self._pressed is not None and event.buttons():
            d = event.position() - self._pressed
            self._pressed = event.position()
            self._move_view(self._moving, d.x(), d.y())
        elif event.buttons() & Qt.MouseButton.LeftButton:
            self.route.drag(self.pointer(event))
        else:
            self.route.hover(self.pointer(event))

    def _move_view(self, motion: str, dx: float, dy: float) -> None:
        """Turns or moves the view; flat views only move."""
        pivot = self._pivot if self._pivot is not None else np.array(self.camera.target)
        if self.camera.is_flat or motion == "pan":
            self.set_camera(panned(self.camera, dx, dy, self.pixels, pivot))
        else:
            self.set_camera(orbited(self.camera, dx, dy, pivot))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        begun = self._right_at
        if event.button() == Qt.MouseButton.RightButton:
            self._right_at = None
        if self._moving is not None:
            self._moving = self._pressed = None
        elif event.button() == Qt.MouseButton.LeftButton:
            self.toolbox.release()
        if event.button() == Qt.MouseButton.RightButton and begun is not None:
            moved = event.position() - begun
            if abs(moved.x()) + abs(moved.y()) < 4.0:
                self.menu_wanted.emit(self, event.position().toPoint())

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.route.double_press(self.pointer(event))

    def wheelEvent(self, event: QWheelEvent) -> None:
        keys, p = event.modifiers(), event.position()
        shift, ctrl = (bool(keys & k) for k in (Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier))
        what = wheel_motion(self.mouse_map, shift=shift, ctrl=ctrl)
        turn = event.angleDelta()
        if what == "zoom":
            self.set_camera(zoomed(self.camera, 1.15 ** (turn.y() / 120.0), (p.x(), p.y()), self.pixels))
        else:
            self._pivot = self._under(p)
            self._move_view(what, turn.x() / 4.0, turn.y() / 4.0)

    def event(self, event: QEvent) -> bool:
        """While something is drawn or dragged Tab steps to the next number; its letters (units) are no shortcuts."""
        if (
            isinstance(event, QKeyEvent)
            and _presses(event, QEvent.Type.KeyPress, Qt.Key.Key_Tab)
            and KeyRoute(self.toolbox).type("\t")
        ):
            event.accept()
            return True
        is_held = isinstance(event, QKeyEvent) and _presses(event, QEvent.Type.ShortcutOverride, Qt.Key.Key_O)
        if is_held and self.toolbox.kind == "edges":  # held for the whole loop of edges
            event.accept()
            return True
        if event.type() == QEvent.Type.ShortcutOverride and self.toolbox.is_typing:
            event.accept()
            return True
        return super().event(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if dropped_key(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        """Shows which run would take the section."""
        self.route.hover(self.pointer_at(event.position()))
        event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """A section or preset dropped on a run."""
        key = dropped_key(event.mimeData())
        run = self.toolbox.edit.under.run_at(self.pointer_at(event.position()))
        if key is not None and run is not None:
            self.section_dropped.emit(key, run)
        event.acceptProposedAction()

    def leaveEvent(self, event: QEvent) -> None:
        self.route.leave()

    def under_pointer(self) -> QPoint:
        """The pixel that the pointer is at."""
        return self.mapFromGlobal(QCursor.pos())

    def place_under(self, at: QPoint) -> tuple[float, float, float]:
        """The point of the scene under a pixel, m."""
        x, y, z = self._under(QPointF(at))
        return (float(x), float(y), float(z))

    def _under(self, p: QPointF) -> np.ndarray:
        """The point of the scene under a pixel; else where the line of sight passes the target."""
        line = ray(self.camera, (p.x(), p.y()), self.pixels)
        ws = self.workspace
        shown = [h for h in ws.project.hosts if not h.show.hidden and h.is_solid]
        hosts = Meshes((h.id, ws.bodies.builder.host(ws.project, h)) for h in shown)
        picker = self.toolbox.edit.under.picker
        hits = [picker.nearest_hit(meshes, line) for meshes in (ws.bodies.in_sight.visible_meshes, hosts)]
        depths = [hit[1].far for hit in hits if hit is not None]
        depth = min(depths) if depths else float((np.array(self.camera.target) - line.origin) @ line.direction)
        return line.origin + depth * line.direction
