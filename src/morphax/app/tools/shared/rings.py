"""The rings of a body at the stations of its run. Free of Qt."""

from weakref import WeakKeyDictionary

import numpy as np

from morphax.build.built import Built
from morphax.core.mesh.mesh import Mesh
from morphax.core.types import Floats
from morphax.project.derive.along import knot_distances, station_at
from morphax.project.model.document import Path, Run

_NEAR = 1e-6
_KNOWN: WeakKeyDictionary[Mesh, dict[int, Floats]] = WeakKeyDictionary()
"""Rings of meshes that were asked for."""


def station_rings(run: Run, built: Built, path: Path) -> dict[str, Floats]:
    """The sides (n, 2, 3) of the ring at each station by its id; without those where the body has none."""
    resolved = built.path.resolved
    if resolved is None:
        return {}
    knots = knot_distances(path, resolved, run.recipe.reference)
    at = {s.id: station_at(s, resolved.length, knots) for s in run.recipe.stations}
    seen = {i: resolved.length - d if run.recipe.reference.from_end else d for i, d in at.items()}
    found = {i: ring_sides(built, d) for i, d in seen.items()}
    return {i: sides for i, sides in found.items() if len(sides)}


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
