"""The two panes: the first shows the scene from where the user likes, the second what the first can't."""

import numpy as np
from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QSplitter, QWidget

from morphax.app.session.camera import framed, tipped
from morphax.app.session.corner_seen import corner_seen
from morphax.app.session.workspace import Remark, Workspace
from morphax.app.tools.toolbox import Toolbox
from morphax.app.views.board.board_view import BoardView
from morphax.app.views.board.pairing_view import PairingView
from morphax.app.views.panes.beside import Beside
from morphax.app.views.panes.camera_view import FOLLOW, CameraView
from morphax.app.views.panes.pane import Pane
from morphax.app.views.panes.pane_view import PaneView
from morphax.app.views.panes.scene_items import Scene
from morphax.app.views.render_hub import RenderHub
from morphax.app.widgets.appearance import Look
from morphax.project.edits.along import knot_value
from morphax.project.feeds import related
from morphax.project.lookup import section_of, section_shape
from morphax.project.model.document import Place
from morphax.project.things import ThingKind

_BOARD_SHARE = 0.5
"""The section board has so much of the views' room at least."""


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
        self.board_view = BoardView(self.panes[1], workspace)
        self.pairing_view = PairingView(self.panes[1], workspace)
        workspace.selection_changed.connect(self._on_stations)
        workspace.project_changed.connect(lambda *_: self._on_stations())
        self._was_folded, self._sizes = False, list[int]()
        self._pointed = ""
        workspace.board.opened.connect(self._on_board)
        workspace.bench.lit_changed.connect(self._on_lit)
        workspace.print_check.shown_changed.connect(self._on_lit)
        toolbox.sketched.connect(self._light)

    def _on_board(self, is_open: bool) -> None:
        """The section board takes the second pane while a section is edited."""
        if is_open:
            self._was_folded = self.panes[1].isHidden()
            self.put_second(self.board_view)
            self._widen()
            self.panes[1].setFocus()
            return
        self.put_second(None)
        self.board_view.refresh()
        self._on_stations()
        if self._was_folded:
            self.panes[1].hide()
        splitter = self.panes[1].parentWidget()
        if isinstance(splitter, QSplitter) and self._sizes:
            splitter.setSizes(self._sizes)
        self.panes[0].setFocus()

    def _on_stations(self) -> None:
        """The pairing stands in the second pane while a station is chosen, unless that is folded or has the board."""
        pane, view = self.panes[1], self.pairing_view
        if not self.workspace.selection.stations:
            view.dismissed = ()
        if pane.view is self.board_view or pane.isHidden():
            return
        if view.is_wanted and pane.view is not view:
            self.put_second(view)
        elif pane.view is view:
            view.refresh() if view.is_wanted else self.put_second(None)

    def _on_lit(self) -> None:
        for pane in self.panes:
            pane.update()

    def _light(self) -> None:
        """What is pointed at in a view lights what belongs to it everywhere."""
        run, bench = self.toolbox.sketch.hovers(ThingKind.RUN), self.workspace.bench
        if (run or "") != self._pointed:
            self._pointed = run or ""
            bench.light(related(self.workspace.project, self._pointed))

    def _widen(self) -> None:
        """The board has half of the views' room, if it has less."""
        splitter = self.panes[1].parentWidget()
        if not isinstance(splitter, QSplitter):
            return
        self._sizes = splitter.sizes()
        whole = sum(self._sizes) or splitter.width()
        if self._was_folded or self._sizes[1] < _BOARD_SHARE * whole:
            splitter.setSizes([round(whole * (1.0 - _BOARD_SHARE)), round(whole * _BOARD_SHARE)])

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
        """Brings everything, or what is chosen, into sight; on the section board the outline."""
        if self.board_view.is_shown and self.panes[1].hasFocus():
            self.workspace.board.frame()
            return
        self.views[0].frame(chosen=chosen)
        self.beside.frame(chosen=chosen)

    def show_place(self, place: Place, size: float) -> None:
        """The first view looks at a place from where it is, with so much around it, m."""
        view, around = self.views[0], 0.5 * size * np.array([[-1.0, -1.0, -1.0], [1.0, 1.0, 1.0]])
        view.gliding.to(framed(view.camera, np.array(place) + around, view.sight.size))

    def show_corner(self, knot_id: str) -> None:
        """The first view looks at a corner of the chosen path across its bisector, with its angles beside it."""
        ws = self.workspace
        run, path, built = ws.chosen.run, ws.chosen.path, ws.chosen.body
        found = None if path is None or built is None else corner_seen(path, built, knot_id)
        if run is None or path is None or built is None or found is None:
            ws.said.emit("There is no corner here to look at.")
            return
        view, width = self.views[0], built.body.width
        view.gliding.to(found.camera(view.gliding.goal, width))
        own = knot_value(run, knot_id).corner or run.recipe.corner
        style = own or section_shape(section_of(ws.project, run.id)).laying.corner
        ws.remark_on(Remark(*found.line(width), found.words(style)))

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
