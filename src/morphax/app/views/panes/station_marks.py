"""The sections along the chosen run, in the panes: the body's own ring at each station, with its number and width."""

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPen

from morphax.app.session.workspace import Workspace
from morphax.app.tools.shared.rings import station_rings
from morphax.app.views.panes.drawing import View, label
from morphax.app.widgets.theme import colour
from morphax.project.edits.along import station_width
from morphax.project.lookup import section_by_id
from morphax.project.units import METRES, format_number

_BESIDE = 10.0


def paint_stations(view: View, workspace: Workspace, pointed: str | None = None) -> None:
    """A ring where each section stands; the chosen one, and the one that is pointed at, are teal.

    Nothing on a run of one section.
    """
    run, built, path, project = workspace.chosen.run, workspace.chosen.body, workspace.chosen.path, workspace.project
    if run is None or built is None or path is None or built.path.resolved is None or len(run.recipe.stations) < 2:
        return
    chosen, rings = workspace.selection.stations, station_rings(run, built, path)
    for k, station in enumerate(run.recipe.stations):
        if station.id not in rings:
            continue
        sides = rings[station.id]
        tint = view.tokens.teal if station.id in chosen or station.id == pointed else view.tokens.plum
        spots = view.at(sides.reshape(-1, 3)).reshape(-1, 2, 2)
        spots = spots[np.isfinite(spots).all((1, 2))]
        if not len(spots):
            continue
        lines = [QPointF(float(x), float(y)) for pair in spots for x, y in pair]
        for width, shade in ((4.0, view.tokens.raised), (2.0 if station.id in chosen else 1.5, tint)):
            view.painter.setPen(QPen(colour(shade), width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            view.painter.drawLines(lines)
        right = spots.reshape(-1, 2)[int(np.argmax(spots.reshape(-1, 2)[:, 0]))]
        name = section_by_id(project, station.section).name.lower()
        wide = format_number(station_width(project, run.id, station.id) / METRES[project.unit], decimals=1)
        label(view, right + np.array([_BESIDE, 8.0]), f"{k + 1} · {name} · {wide}", tint, of=right)
