"""The sections along the chosen run, in the panes: the body's own ring at each station, with its number and width."""

from weakref import WeakKeyDictionary

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPen

from morphax.app.session.workspace import Workspace
from morphax.app.views.panes.drawing import View, label
from morphax.app.widgets.theme import colour
from morphax.build.builder import Built
from morphax.core.mesh.mesh import Mesh
from morphax.core.types import Floats
from morphax.project.derive.along import knot_distances, station_at
from morphax.project.edits.along import station_width
from morphax.project.lookup import section_by_id
from morphax.project.units import METRES, format_number

_NEAR = 1e-6
_BESIDE = 10.0
_KNOWN: WeakKeyDictionary[Mesh, dict[int, Floats]] = WeakKeyDictionary()
"""Rings of meshes that were asked for."""


def paint_stations(view: View, workspace: Workspace) -> None:
    """A ring where each section stands; the chosen one is teal. Nothing on a run of one section."""
    run, built, path, project = workspace.chosen.run, workspace.chosen.body, workspace.chosen.path, workspace.project
    if run is None or built is None or path is None or built.path.resolved is None or len(run.recipe.stations) < 2:
        return
    resolved, chosen = built.path.resolved, workspace.selection.stations
    knots = knot_distances(path, resolved, run.recipe.reference)
    for k, station in enumerate(run.recipe.stations):
        at = station_at(station, resolved.length, knots)
        seen = resolved.length - at if run.recipe.reference.from_end else at
        sides = ring_sides(built, seen)
        if not len(sides):
            continue
        tint = view.tokens.teal if station.id in chosen else view.tokens.plum
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


def ring_sides(built: Built, distance: float) -> Floats:
    """The sides (n, 2, 3) of the body's ring at a distance along the path, m; none where it has no ring there."""
    mesh, places = built.body.mesh, built.body.ring_place
    if not len(places) or not mesh.sides:
        return np.empty((0, 2, 3))
    k = int(np.argmin(np.abs(places - distance)))
    if abs(float(places[k]) - distance) > _NEAR * max(built.body.length, 1e-9):
        return np.empty((0, 2, 3))
    known = _KNOWN.setdefault(mesh, {})  # each repaint asks for the same few rings
    if k not in known:
        known[k] = mesh.points[_sides_of(mesh, k)]
    return known[k]


def _sides_of(mesh: Mesh, ring: int) -> np.ndarray:
    """Points (n, 2) of the sides of a ring, by the faces that begin, or end, at it."""
    for first, last in ((0, 3), (1, 2)):
        own = mesh.quads[mesh.quads[:, first] // mesh.sides == ring]
        if len(own):
            pairs: np.ndarray = own[:, [first, last]]
            return pairs
    return np.empty((0, 2), dtype=np.int32)
