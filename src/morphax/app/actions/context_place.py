"""Where a menu was opened, else where the pointer is: for commands that speak of *this* place."""

from dataclasses import replace
from typing import Any, Literal

import numpy as np

from morphax.app.actions.desk import Desk
from morphax.app.actions.refining import trim_to
from morphax.app.actions.section_sources import section_from_face
from morphax.app.session.session import SceneView
from morphax.app.session.work_plane import WorkPlane
from morphax.app.tools.shared.landing import Surface
from morphax.core.path.arclength import Places, distances_of
from morphax.project.model.document import Place


class ContextPlace:
    """Remembers a place while a menu is open."""

    def __init__(self, window: Desk) -> None:
        self.window = window
        self._place: Place | None = None
        self._view: SceneView | None = None
        self._spot: Any = None
        self._along: float | None = None

    def at_view(self, view: SceneView, at: Any) -> None:
        self._place = view.place_under(at)
        self._view, self._spot = view, at

    def at_strip(self, along: float | None) -> None:
        """A distance along the chosen run, m."""
        self._along = along

    def forget(self) -> None:
        self._view = self._place = self._along = None

    def _pointer(self) -> tuple[SceneView | None, Any]:
        """The view and the place in it where the menu was opened, else where the pointer is."""
        if self._view is not None:
            return self._view, self._spot
        spots = ((view, view.under_pointer()) for view in self.window.scene_views)
        return next((found for found in spots if found[1] is not None), (None, None))

    def pivot(self) -> None:
        """Handle set and typed turns go about this place."""
        at, (view, spot) = self._place, self._pointer()
        if at is None and view is not None:
            at = view.place_under(spot)
        if at is not None:
            self.window.workspace.bench.set_pivot("own place", at)

    def _surface(self) -> Surface | None:
        """The face at this place."""
        window, (view, spot) = self.window, self._pointer()
        around, snapping = window.toolbox.edit.around, window.toolbox.snapping
        return None if view is None else around.surface(view.pointer_at(spot), replace(snapping, faces=True))

    def section(self) -> None:
        """The flat face at this place becomes a section."""
        found = self._surface()
        if found is None:
            self.window.say("There is no face under the pointer.")
        else:
            section_from_face(self.window.workspace, found)

    def plane(self) -> None:
        """The face at this place becomes the work plane."""
        window, found = self.window, self._surface()
        if found is None:
            window.say("There is no face under the pointer.")
        else:
            window.workspace.bench.set_work_plane(WorkPlane(found.place, found.normal, f"in the plane of {found.name}"))

    def trim(self, end: Literal["start", "end"]) -> None:
        """The path starts or ends where the menu was opened on it, at the chosen knot, or where the pointer is."""
        if self._along is not None:
            trim_to(self.window.workspace, end, self._along, is_pointed=True)
            return
        view, spot = self._pointer()
        under = self.window.toolbox.edit.under
        at = None if view is None else view.pointer_at(spot)
        found = None if at is None else under.place_at(at)
        far = None
        if found is not None:
            place, resolved = found
            far = float(distances_of(resolved.table, Places(np.array([place.span]), np.array([place.t])))[0])
        is_pointed = self._view is not None and at is not None and under.knot_at(at) is None
        trim_to(self.window.workspace, end, far, is_pointed=is_pointed)
