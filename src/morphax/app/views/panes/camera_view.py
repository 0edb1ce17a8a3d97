"""The scene from a camera: the newest picture with the overlay painted over it, and what lies under a pixel."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QObject, QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QCursor, QPainter
from PySide6.QtWidgets import QMenu

from morphax.app.session.camera import FLAT_VIEWS, PERSPECTIVE, Camera, framed
from morphax.app.session.in_sight import Meshes
from morphax.app.session.pointer import Pointer
from morphax.app.session.sight import CameraSight
from morphax.app.tools.shared.landing import grid_step
from morphax.app.tools.toolbox import Toolbox
from morphax.app.views.panes.drawing import View
from morphax.app.views.panes.gliding import Gliding
from morphax.app.views.panes.live_picture import OTHER_MILLISECONDS, PLAY_MILLISECONDS, LivePicture
from morphax.app.views.panes.marks import paint_measure
from morphax.app.views.panes.overlay import Over, paint_overlay
from morphax.app.views.panes.pane import Pane
from morphax.app.views.panes.path_marks import paint_axes
from morphax.app.views.panes.scene_input import SceneInput
from morphax.app.views.panes.scene_items import EMPTY_SIZES, Scene, scene_points
from morphax.app.views.panes.smoother import smoothed_and_caged
from morphax.app.views.pictures import sheets
from morphax.app.views.render_hub import RenderHub
from morphax.app.views.view3d.scene import Item, RenderRequest, is_heavy
from morphax.app.widgets.motion import Fade
from morphax.app.widgets.theme import backdrop, colour
from morphax.core.mesh.mesh import Mesh
from morphax.project.model.document import Place
from morphax.project.things import Thing

MOST_QUICK_PIXELS = 1.5e6
"""Larger views are drawn at half the resolution while something moves."""
_AXES = (Qt.Key.Key_X, Qt.Key.Key_Y, Qt.Key.Key_Z)

MenuAt = Callable[["CameraView", QPoint], QMenu]


FOLLOW = "follow the first view"
"""Offered by the second view: it goes back to the side that shows most beside the first one."""


class CameraView(QObject):
    """One view of the scene; it stands in a pane."""

    camera_changed = Signal()
    moved_by_hand = Signal()
    """The user has moved or zoomed it."""
    follow_wanted = Signal()
    section_dropped = Signal(str, str)
    choices: tuple[str, ...] = (PERSPECTIVE, *FLAT_VIEWS)
    name_at = (8, 8)

    def __init__(self, pane: Pane, scene: Scene, toolbox: Toolbox, hub: RenderHub) -> None:
        super().__init__(pane)
        self.pane, self.scene, self.toolbox, self.look = pane, scene, toolbox, pane.look
        self.workspace = scene.workspace
        self.camera = Camera()
        self.note = ""
        self.empty_size = "room"
        self.menu: MenuAt | None = None
        self.input = SceneInput(self)
        self.picture = LivePicture(pane, hub, lambda fine: self.refresh(fine=fine))
        self._sight = CameraSight(self.camera, (1, 1))
        self.chosen_fade, self.hover_fade = (Fade(self, pane.update) for _ in range(2))
        self._hovered: Thing | None = None
        self.gliding = Gliding(self, lambda: self.camera, self._take_camera)
        self.workspace.selection_changed.connect(self._on_selection)
        toolbox.sketched.connect(self._on_sketch)
        self.look.changed.connect(self._on_look)
        self.workspace.deviations.changed.connect(self._on_look)

    # -- view ----------------------------------------------------------------------------------

    @property
    def title(self) -> str:
        wanted = self.look.smooth
        made = self._request(self.scene.items(self.look.tokens), 0, fine=True, heavy=False).levels if wanted else 0
        return f"{self.camera.view}{self.note}{f' · smooth {made} of {wanted}' if made < wanted else ''}"

    @property
    def sight(self) -> CameraSight:
        """The same object as long as camera and size are the same."""
        size = (max(1, self.pane.width()), max(1, self.pane.height()))
        if self._sight.camera is not self.camera or self._sight.size != size:
            self._sight = CameraSight(self.camera, size)
        return self._sight

    @property
    def grid(self) -> float:
        """The grid's step in this view, m."""
        return grid_step(self.sight, self.workspace.project.unit)

    @property
    def is_shown(self) -> bool:
        """Whether it is what its pane shows."""
        return self.pane.view is self and self.pane.isVisible()

    @property
    def is_settled(self) -> bool:
        """Whether the newest, fine picture is on the screen."""
        return self.picture.is_settled and not self.gliding.is_on and self.workspace.deviations.is_settled

    def set_camera(self, camera: Camera) -> None:
        """Looks from elsewhere at once."""
        self.gliding.stop()
        self._take_camera(camera)

    def _take_camera(self, camera: Camera) -> None:
        if camera != self.camera:
            self.camera = camera
            self.refresh()
            self.camera_changed.emit()

    def choose(self, choice: str) -> None:
        """Looks from another side at the same things, or follows the first view again."""
        if choice == FOLLOW:
            self.follow_wanted.emit()
            return
        self.set_camera(replace(self.gliding.goal, view=choice))

    def frame(self, *, chosen: bool = False, margin: float = 1.18) -> None:
        """Brings everything, or what is chosen, into sight, with so many times its size around it."""
        points = scene_points(self.workspace, chosen=chosen, empty=self.empty_size)
        is_new = self.picture.image is None or not self.is_shown
        self.gliding.to(framed(self.camera, points, self.sight.size, margin=margin), at_once=is_new)

    def take_focus(self) -> None:
        self.pane.setFocus()

    # -- picture -------------------------------------------------------------------------------

    def refresh(self, *, fine: bool = False) -> None:
        """Asks for a new picture.

        While something is drawn or dragged in the other pane, or a play runs beside it, this one is drawn a few times a
        second only: the interface needs the time.
        """
        is_busy = self.toolbox.is_drawing or self.toolbox.edit.is_dragging
        waits = (is_busy and self._is_beside()) or (self.workspace.playing.is_on and self.pane.index > 0)
        beside = PLAY_MILLISECONDS if self.workspace.playing.is_on else OTHER_MILLISECONDS
        if waits and not fine and self.picture.has_to_wait(beside):
            return
        self.pane.rename()
        if self.is_shown:
            items = self.scene.items(self.look.tokens)
            heavy = is_heavy(items)
            self.picture.ask(self._request(items, self.picture.next_number(), fine=fine, heavy=heavy), heavy=heavy)
        if not self.workspace.playing.is_on:  # what lies over a play is painted with its picture
            self.pane.update()

    def _request(self, items: tuple[Item, ...], number: int, *, fine: bool, heavy: bool) -> RenderRequest:
        ratio, (width, height) = self.pane.devicePixelRatioF(), self.sight.size
        plain = not fine and self._is_behind()
        if not fine and (plain or heavy or width * height * ratio**2 > MOST_QUICK_PIXELS):
            ratio *= 0.5
        smoothed, cages = smoothed_and_caged(self.workspace) if self.look.smooth else (None, ())
        return RenderRequest(
            self.pane.index,
            number,
            (max(8, int(width * ratio)), max(8, int(height * ratio))),
            self.camera,
            items,
            backdrop(self.look.tokens),
            self.grid,
            fine,
            self.look.edges,
            self.look.shaded,
            sheets(self.workspace, self.camera.view),
            () if self.look.smooth else self._chosen(),
            ratio,
            shadows=not plain,
            smooth=self.look.smooth,
            smoothed=smoothed,
            cages=cages,
        )

    def _is_behind(self) -> bool:
        """Whether a play runs that this machine can't draw as fast as it should be seen."""
        ws = self.workspace
        return ws.playing.is_on and self.picture.seconds > 1.0 / ws.project.clock.rate

    def _chosen(self) -> tuple[Mesh, ...]:
        """Meshes of what is chosen and shown."""
        ws = self.workspace
        bodies = [b for i in ws.chosen.run_ids if (b := ws.bodies.in_sight.visible.get(i)) is not None]
        hosts = [h for i in ws.selection.hosts if (h := ws.project.find("hosts", i)) is not None]
        shown = [ws.bodies.builder.host(ws.project, h) for h in hosts if h.is_solid and not h.show.hidden]
        return (*(b.touchable for b in bodies if b.touchable.face_count), *shown)

    def _is_beside(self) -> bool:
        """Whether a tool works in another pane."""
        return self.toolbox.pane not in (None, self.pane.index)

    def _on_sketch(self) -> None:
        """What a tool shows: at once in the pane that it works in; the other one follows its picture in a drag."""
        if self.toolbox.sketch.hover != self._hovered:
            self._hovered = self.toolbox.sketch.hover
            self.hover_fade.begin()
        if not (self.toolbox.edit.is_dragging and self._is_beside()):
            self.pane.update()

    def _on_selection(self) -> None:
        self.chosen_fade.begin()
        self.refresh()

    def _on_look(self) -> None:
        self.refresh()

    def paint(self, painter: QPainter) -> None:
        """The picture with the overlay."""
        view = View(painter, self.sight, self.look.tokens, self.workspace.project.unit)
        whole, image = QRectF(self.pane.rect()), self.picture.image
        if image is None:
            painter.fillRect(whole, colour(self.look.tokens.floor if self.camera.is_flat else self.look.tokens.sky_low))
        else:
            if image.width() != self.pane.width() * self.pane.devicePixelRatioF():
                painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(whole, image)
        paint_axes(view)
        if not self.workspace.project.runs and not self.workspace.project.hosts:
            paint_measure(view, EMPTY_SIZES[self.empty_size], self.workspace.project.unit)
        fades = (self.chosen_fade.share, self.hover_fade.share)
        paint_overlay(Over(view, self.workspace, self.toolbox, self.look.seam, self.input.is_moving, *fades))

    # -- under the pointer ---------------------------------------------------------------------

    def menu_at(self, at: QPoint) -> QMenu | None:
        return None if self.menu is None else self.menu(self, at)

    def pointer_at(self, p: QPointF | QPoint, keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> Pointer:
        """A place of this view as tools see it."""
        held = self.toolbox.held
        return Pointer(
            self.sight,
            (float(p.x()), float(p.y())),
            self.grid,
            bool(keys & Qt.KeyboardModifier.ShiftModifier),
            bool(keys & Qt.KeyboardModifier.ControlModifier),
            Qt.Key.Key_V in held,
            Qt.Key.Key_O in held,
            next((i for i, k in enumerate(_AXES) if k in held), None),
            self.toolbox.sees_through,
            self.pane.pressure,
        )

    def under_pointer(self) -> QPoint | None:
        """The pixel that the pointer is at; None where it is elsewhere."""
        return self.pane.mapFromGlobal(QCursor.pos()) if self.is_shown and self.pane.underMouse() else None

    def place_under(self, at: QPointF | QPoint) -> Place:
        """The point of the scene under a pixel, m; else where the line of sight passes the target."""
        line, ws = self.sight.line((at.x(), at.y())), self.workspace
        shown = [h for h in ws.project.hosts if not h.show.hidden and h.is_solid]
        hosts = Meshes((h.id, ws.bodies.builder.host(ws.project, h)) for h in shown)
        picker = self.toolbox.edit.under.picker
        hits = [picker.nearest_hit(meshes, line) for meshes in (ws.bodies.in_sight.visible_meshes, hosts)]
        depths = [hit[1].far for hit in hits if hit is not None]
        depth = min(depths) if depths else float((np.array(self.camera.target) - line.origin) @ line.direction)
        x, y, z = line.origin + depth * line.direction
        return (float(x), float(y), float(z))
