"""The two panes: the first shows the scene from where the user likes, the second what the first can't."""

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from morphax.app.session.camera import tipped
from morphax.app.session.workspace import Workspace
from morphax.app.tools.toolbox import Toolbox
from morphax.app.views.panes.beside import Beside
from morphax.app.views.panes.camera_view import FOLLOW, CameraView
from morphax.app.views.panes.pane import Pane
from morphax.app.views.panes.pane_view import PaneView
from morphax.app.views.panes.scene_items import Scene
from morphax.app.views.render_hub import RenderHub
from morphax.app.widgets.appearance import Look


class PanePair(QObject):
    """Both panes, and what is done with them together. ``others`` are the window's other parts, for filling it."""

    turned = Signal()

    def __init__(self, workspace: Workspace, toolbox: Toolbox, hub: RenderHub, look: Look) -> None:
        super().__init__()
        self.workspace, self.toolbox = workspace, toolbox
        scene = Scene(workspace)
        self.panes = tuple(Pane(i, look) for i in range(2))
        self.views = tuple(CameraView(pane, scene, toolbox, hub) for pane in self.panes)
        self.views[1].choices = (*self.views[1].choices, FOLLOW)
        for pane, view in zip(self.panes, self.views, strict=True):
            pane.put(view)
        self.others: tuple[QWidget, ...] = ()
        self._filled: list[tuple[QWidget, bool]] | None = None
        self.views[0].camera_changed.connect(self.turned)
        self.beside = Beside(workspace, toolbox, self.views)

    def keep_up(self) -> None:
        """From now on both are drawn anew when anything changes.

        Asked for when all else listens to the workspace already: a picture is drawn by a thread of its own, which
        takes its time from what still has to be done here.
        """
        for view in self.views:
            self.workspace.project_changed.connect(lambda *_, view=view: view.refresh())
            self.workspace.built.connect(view.refresh)

    def active(self) -> CameraView:
        """The view of the scene in the pane with the focus, else the first."""
        return next((v for v in self.views if v.is_shown and v.pane.hasFocus()), self.views[0])

    def put_second(self, view: PaneView | None) -> None:
        """Another view takes the second pane, which is shown if it was folded; None: the scene comes back."""
        self.panes[1].put(self.views[1] if view is None else view)
        if view is not None:
            self.panes[1].setVisible(True)

    def frame(self, *, chosen: bool = False) -> None:
        """Brings everything, or what is chosen, into sight."""
        self.views[0].frame(chosen=chosen)
        self.beside.frame(chosen=chosen)

    def look_from(self, view: str) -> None:
        active = self.active()
        active.choose(view)
        if active is self.views[1]:
            self.beside.take_by_hand()

    def tip(self, way: str) -> None:
        view = self.active()
        view.set_camera(tipped(view.gliding.goal, way))
        if view is self.views[1]:
            self.beside.take_by_hand()

    def use(self, mouse: str, empty_size: str) -> None:
        """Takes over a map of the mouse and the size of an empty view."""
        grown = any(view.empty_size != empty_size for view in self.views)
        for view in self.views:
            view.input.mouse_map, view.empty_size = mouse, empty_size
        if grown:
            self.frame()

    def fill_window(self) -> None:
        """The pane under the pointer fills the window, or everything comes back."""
        if self._filled is not None:
            for part, was in self._filled:
                part.setVisible(was)
            self._filled = None
            return
        under, focused = ([p for p in self.panes if check(p)] for check in (Pane.underMouse, Pane.hasFocus))
        wanted = next(iter((*under, *focused)), self.panes[0])
        others = (*self.others, *(p for p in self.panes if p is not wanted))
        self._filled = [(p, p.isVisible()) for p in others]
        for part in others:
            part.setVisible(False)
        wanted.setFocus()
