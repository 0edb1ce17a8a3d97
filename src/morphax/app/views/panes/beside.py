"""The second view keeps beside the first: it shows what that one can't of what is chosen, and jumps under no hand."""

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QObject

from morphax.app.session.camera import right_angle_view, widened
from morphax.app.session.workspace import Workspace
from morphax.app.tools.toolbox import Toolbox
from morphax.app.views.panes.camera_view import CameraView
from morphax.app.views.panes.scene_items import scene_points

AROUND = 1.4
"""How much of its surroundings the second view shows around the chosen run, as so many times its size."""
_MANY = 64
"""Of more runs than these, it does not look whether they have left it."""
_NOTE = " · at right angles"


class Beside(QObject):
    """Turns, frames and widens the second view, until the user takes it by hand."""

    def __init__(self, workspace: Workspace, toolbox: Toolbox, views: Sequence[CameraView]) -> None:
        super().__init__()
        self.workspace, self.toolbox = workspace, toolbox
        self.first, self.second = views
        self._by_hand = False
        self._shows: tuple[str, tuple[str, ...]] | None = None
        self.second.pane.view_chosen.connect(self.take_by_hand)
        self.second.moved_by_hand.connect(self.take_by_hand)
        self.second.follow_wanted.connect(self.follow)
        toolbox.sketched.connect(self._widen_for_knots)

    def take_by_hand(self) -> None:
        """From now on it stays where the user put it."""
        self._by_hand = True
        self._say("")

    def follow(self) -> None:
        """It goes back to the side that it takes by itself, framed on what is chosen."""
        self._by_hand = False
        self._turn()
        self._frame_chosen()

    def keep_up(self) -> None:
        """Other runs are chosen, or the first view shows another side: it is framed anew. Else it widens at most."""
        is_drawing = self.toolbox.is_drawing or self.toolbox.edit.is_dragging
        if self._by_hand or is_drawing or not self.second.is_shown:
            return
        side, chosen = shows = (self.first.camera.view, self._chosen())
        before, self._shows = self._shows, shows
        stays = before is not None and (shows == before or (side == before[0] and not chosen))
        if self._is_in_hand():
            return
        if stays:
            self._widen(scene_points(self.workspace, chosen=True) if 0 < len(chosen) <= _MANY else np.empty((0, 3)))
        else:
            self._turn()
            self._frame_chosen()

    def frame(self, *, chosen: bool) -> None:
        """Everything, or what is chosen, comes into sight, from the side that shows most beside the first view."""
        if not self._by_hand and self.second.is_shown:
            self._shows = (self.first.camera.view, self._chosen())
            self._turn(chosen=chosen)
        self.second.frame(chosen=chosen)

    def _chosen(self) -> tuple[str, ...]:
        """Chosen runs that have a body."""
        return tuple(i for i in self.workspace.selection.runs if i in self.workspace.bodies)

    def _is_in_hand(self) -> bool:
        """Whether the user works in it just now: what is under the pointer must not go away."""
        return self.second.pane.hasFocus()

    def _turn(self, *, chosen: bool = True) -> None:
        chosen = chosen and bool(self._chosen())
        points = scene_points(self.workspace, chosen=chosen)
        self.second.choose(right_angle_view(self.first.camera, points, adds=chosen))
        self._say(_NOTE)

    def _frame_chosen(self) -> None:
        chosen = bool(self._chosen())
        self.second.frame(chosen=chosen, margin=AROUND if chosen else 1.18)

    def _widen_for_knots(self) -> None:
        """A knot that was placed in the first view comes into sight here."""
        knots = self.toolbox.sketch.knots
        if knots and not self._by_hand and not self._is_in_hand() and self.second.is_shown:
            self._widen(np.array(knots))

    def _widen(self, points: np.ndarray) -> None:
        if self.second.camera.is_flat:
            self.second.gliding.to(widened(self.second.gliding.goal, points, self.second.sight.size))

    def _say(self, note: str) -> None:
        if note != self.second.note:
            self.second.note = note
            self.second.pane.rename()
