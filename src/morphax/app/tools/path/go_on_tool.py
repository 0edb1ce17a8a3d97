"""Drawing a path on from one of its ends. No Qt here."""

from dataclasses import replace
from typing import Literal

import numpy as np

from morphax.app.session.workspace import Workspace
from morphax.app.tools.path.draw import DrawTool, plugs
from morphax.app.tools.path.draw_landing import with_rests
from morphax.app.tools.shared.landing import Landing
from morphax.app.tools.shared.plugging import plugged_at
from morphax.app.tools.shared.snap_targets import SnapTargets
from morphax.project.edits.paths import set_closed
from morphax.project.edits.runs import Added
from morphax.project.edits.spans import drawn_on
from morphax.project.lookup import path_by_id, run_width
from morphax.project.model.document import Place


class GoOnTool(DrawTool):
    """Places knots that go on from an end of a path, in its own kind; the other end closes it.

    It is put down when that is finished or dropped.
    """

    label = "Draw on"

    def __init__(
        self, workspace: Workspace, around: SnapTargets, run_id: str, path_id: str, end: Literal["start", "end"]
    ) -> None:
        path = path_by_id(workspace.project, path_id)
        super().__init__(workspace, path.kind, around)
        self.run_id, self.path_id, self.end = run_id, path_id, end
        places = [k.place for k in (path.knots if end == "end" else reversed(path.knots))]
        self.far = places[0]
        self.knots = [places[-1]]
        self.came = np.subtract(places[-1], places[-2])
        self.width = run_width(workspace.project, run_id)

    def take_back(self) -> bool:
        """Takes back the last knot; the end itself stays, and with nothing drawn the tool is put down."""
        if len(self.knots) > 1:
            return super().take_back()
        return self.cancel()

    def _added(self, knots: list[Place], *, closed: bool, next_: Landing | None = None) -> Added:
        handles = {i - 1: offset for i, offset in self.handles.items() if i}
        done = drawn_on(self.workspace.finished, self.path_id, self.end, knots[1:], handles)
        tip = path_by_id(self.workspace.finished, self.path_id).knots[0 if self.end == "start" else -1].id
        ids, back = [tip, *done.knots], self.end == "start"
        project = self.mix.applied(done.project, self.path_id, ids, len(self.knots) - 1, back=back)
        project = with_rests(self, project, self.path_id, ids, next_)
        added = Added(project, (self.run_id, self.path_id, *done.knots))
        if closed:
            return replace(added, project=set_closed(project, self.path_id, True))
        last = len(knots) - 1
        target = self.ports.get(last)
        if target is None and next_ is not None and plugs(self, next_):
            target = next_.target
        if target is not None:
            project = plugged_at(project, self.path_id, self.end, target, self.width)
        return replace(added, project=project)
