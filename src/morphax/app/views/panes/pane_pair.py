"""The two panes: the first shows the scene from where the user likes, the second what the first can't."""

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from morphax.app.session.camera import right_angle_view, tipped
from morphax.app.session.workspace import Workspace
from morphax.app.tools.toolbox import Toolbox
from morphax.app.views.panes.pane import Pane
from morphax.app.views.panes.scene_items import Scene, scene_points
from morphax.app.views.render_hub import RenderHub
from morphax.app.widgets.appearance import Look


class PanePair(QObject):
    """Both panes, and what is done with them together. ``others`` are the window's other parts, for filling it."""

    turned = Signal()

    def __init__(self, workspace: Workspace, toolbox: Toolbox, hub: RenderHub, look: Look) -> None:
        super().__init__()
        self.workspace, self.toolbox = workspace, toolbox
        scene = Scene(workspace)
        self.panes = tuple(Pane(i, scene, toolbox, hub, look) for i in range(2))
        self.others: tuple[QWidget, ...] = ()
        self._by_hand = False
        self._filled: list[tuple[QWidget, bool]] | None = None
        self.panes[0].camera_changed.connect(self.turned)
        self.panes[1].name_button.menu().triggered.connect(lambda *_: setattr(self, "_by_hand", True))

    def active(self) -> Pane:
        """The pane with the focus, else the first."""
        return next((p for p in self.panes if p.hasFocus()), self.panes[0])

    def frame(self, *, chosen: bool = False) -> None:
        """Brings everything, or what is chosen, into sight."""
        for pane in self.panes:
            pane.frame(chosen=chosen)

    def look_from(self, view: str) -> None:
        self.active().set_view(view)

    def tip(self, way: str) -> None:
        pane = self.active()
        pane.set_camera(tipped(pane.camera, way))

    def use(self, mouse: str, empty_size: str) -> None:
        """Takes over a map of the mouse and the size of an empty view."""
        grown = any(pane.empty_size != empty_size for pane in self.panes)
        for pane in self.panes:
            pane.mouse_map, pane.empty_size = mouse, empty_size
        if grown:
            self.frame()

    def turn_second(self) -> None:
        """Keeps the second pane at right angles to the first, unless its view was chosen by hand."""
        first, second = self.panes
        if self._by_hand or self.toolbox.is_drawing or self.toolbox.edit.is_dragging:
            return
        chosen = bool(self.workspace.selection.runs)
        view = right_angle_view(first.camera, scene_points(self.workspace, chosen=chosen))
        second.note = " · at right angles"
        if view != second.camera.view:
            second.set_view(view)
            second.frame()

    def fill_window(self) -> None:
        """The pane under the pointer fills the window, or everything comes back."""
        if self._filled is not None:
            for part, was in self._filled:
                part.setVisible(was)
            self._filled = None
            return
        wanted = next((p for p in self.panes if p.underMouse()), self.active())
        others = (*self.others, *(p for p in self.panes if p is not wanted))
        self._filled = [(p, p.isVisible()) for p in others]
        for part in others:
            part.setVisible(False)
        wanted.setFocus()
