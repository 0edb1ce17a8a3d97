"""An arrow at the edge of a view in which nothing is to be seen: where the scene is."""

from itertools import product

import numpy as np
from PySide6.QtGui import QPen

from morphax.app.session.sight import Sight
from morphax.app.session.workspace import Workspace
from morphax.app.views.panes.drawing import View, label, polygon
from morphax.app.widgets.theme import colour
from morphax.core.types import Floats, Points3

WORDS = "the scene is over there"
_CORNERS = np.array(list(product((0, 1), repeat=3)))
_EDGE, _LONG, _HALF = 26.0, 18.0, 9.0
"""How far from the edge the arrow ends, how long it is, half its width, pixels."""
_AT_ONCE = 64
"""So many boxes are looked at together: mostly one of the first is in sight."""


def paint_way_back(view: View, workspace: Workspace) -> None:
    """Where nothing is in sight, an arrow towards the nearest of what is there."""
    way = out_of_sight(view.sight, _boxes(workspace))
    if way is None:
        return
    size = np.array(view.sight.size, dtype=np.float64)
    tip = 0.5 * size + way * float(np.min((0.5 * size - _EDGE) / np.maximum(np.abs(way), 1e-9)))
    side, back = np.array([-way[1], way[0]]), tip - _LONG * way
    view.painter.setPen(QPen(colour(view.tokens.raised), 1.2))
    view.painter.setBrush(colour(view.tokens.teal))
    view.painter.drawPolygon(
        polygon(np.array([tip, back + _HALF * side, tip - 0.7 * _LONG * way, back - _HALF * side]))
    )
    view.labels.keep_free(np.array([tip, back]), _HALF)
    label(view, tip - 2.5 * _LONG * way + np.array([-60.0, 12.0]), WORDS, view.tokens.ink, of=back)


def out_of_sight(sight: Sight, boxes: Points3) -> Floats | None:
    """The direction (2,) in the view in which the nearest of boxes (n, 2, 3) lies; None where one is in sight, or there
    is none."""
    width, height = sight.size
    for k in range(0, len(boxes), _AT_ONCE):
        some = boxes[k : k + _AT_ONCE]
        corners = some[:, _CORNERS, np.arange(3)]
        seen = sight.seen(corners.reshape(-1, 3)).reshape(len(some), 8, -1)[..., :2]
        before = np.isfinite(seen).all(-1, keepdims=True)
        low, high = np.where(before, seen, np.inf).min(1), np.where(before, seen, -np.inf).max(1)
        if ((high[:, 0] > 0.0) & (low[:, 0] < width) & (high[:, 1] > 0.0) & (low[:, 1] < height)).any():
            return None
    if not len(boxes):
        return None
    basis = sight.basis
    from_eye = boxes.mean(1) - np.array(sight.target)
    aside = np.stack([from_eye @ basis.right, -(from_eye @ basis.up)], axis=1)
    way = aside[int(np.argmin(np.linalg.norm(aside, axis=1)))]
    far = float(np.linalg.norm(way))
    return way / far if far > 0.0 else np.array([0.0, 1.0])


def _boxes(workspace: Workspace) -> Points3:
    """Boxes (n, 2, 3) of all that is visible."""
    hosts = [h for h in workspace.project.hosts if not h.show.hidden]
    own = [b for h in hosts if len(b := workspace.bodies.builder.host(workspace.project, h).bounds)]
    return np.concatenate([np.array(own).reshape(-1, 2, 3), workspace.bodies.tally.boxes])
