"""What is to be said of bodies that are to be printed as one solid: each with its place."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import ceil

import numpy as np

from morphax.core.findings import Finding, Severity, in_mm, spot
from morphax.core.mesh.crossings import crossing_places
from morphax.core.mesh.measures import open_edge
from morphax.core.mesh.mesh import Mesh, triangle_normals
from morphax.core.mesh.solid import Rays, Solid
from morphax.core.types import Floats, Points3

_RAYS, _SEED, _FACING, _FITS = 1500, 5, 0.5, 1.0 + 1e-9
"""Walls are measured from so many faces, drawn by their areas; one that a ray meets at a slant is none."""
Size3 = tuple[float, float, float]


@dataclass(frozen=True)
class Printer:
    """What is asked of a print, m: the ``bed`` and its height (None: any), the least ``wall`` and the least ``detail``;
    ``scale``: how large the model is printed."""

    bed: Size3 | None = None
    wall: float = 0.8e-3
    detail: float = 0.4e-3
    scale: float = 1.0


def print_findings(
    bodies: Sequence[tuple[str, Mesh]], solid: Solid, printer: Printer, told: Callable[[], None] = lambda: None
) -> tuple[Finding, ...]:
    """What is to be looked at before bodies, by their names, are printed as one ``solid``; lengths in sentences are
    those of the print. ``told`` is called between its parts, and may raise."""
    found = list[Finding]()
    for k in solid.open:
        name, mesh = bodies[k]
        place = open_edge(mesh)
        said = f"{name} is not closed: it is left out of the solid. Give it ends, or a thickness."
        found.append(_warning("print-open", said, place))
    for k in solid.inside_out:
        said = f"{bodies[k][0]} is inside out: it is left out of the solid."
        found.append(_warning("print-inside-out", said, bodies[k][1].points[0]))
    told()
    crossing = crossing_places(solid.mesh)
    if len(crossing):
        found.append(_warning("print-crossing", "Faces run through each other here.", crossing[0]))
    told()
    found += _thin(solid, printer)
    told()
    found += _small(solid, printer)
    found += _on_bed(solid, printer)
    if solid.twice > 1e-9 * max(solid.volume, 1e-300) and len(bodies) > 1:
        said = "Bodies that run into each other are one in it."
        found.append(Finding("print-joined", Severity.NOTE, said))
    if len(solid.pieces) > 1:
        said = f"It is {len(solid.pieces)} pieces that don't touch."
        found.append(Finding("print-loose", Severity.NOTE, said))
    return tuple(found)


def _warning(code: str, said: str, place: Points3 | None) -> Finding:
    return Finding(code, Severity.WARNING, said, place=None if place is None else spot(place))


def _thin(solid: Solid, printer: Printer) -> list[Finding]:
    """The thinnest wall, where it is thinner than is asked for: measured inwards from the middles of faces."""
    mesh, least = solid.mesh, printer.wall / printer.scale
    if not len(mesh.tris) or not least > 0.0:
        return []
    normals = triangle_normals(mesh.points, mesh.tris)
    areas = np.linalg.norm(normals, axis=1)
    middles, ways = mesh.points[mesh.tris].mean(1), normals / np.maximum(areas, 1e-300)[:, None]
    some = np.random.default_rng(_SEED).choice(
        len(areas), min(_RAYS, int((areas > 0.0).sum())), replace=False, p=areas / areas.sum()
    )
    best, place, rays = least, None, Rays(mesh)
    for k in some:
        thick = thickness_at(rays, middles[k], ways[k], best)
        if thick is not None and thick < best * (1.0 - 1e-6):
            best, place = thick, middles[k]
    if place is None:
        return []
    said = f"The wall here is {in_mm(best * printer.scale)} thick; {in_mm(printer.wall)} is the least for this print."
    return [_warning("print-thin", said, place)]


def thickness_at(rays: Rays, place: Points3, normal: Floats, within: float) -> float | None:
    """How thick what ``rays`` are cast at is at a place (3,) of its surface with an outward ``normal`` (3,), m; None
    where that is more than ``within``, or the other side is at a slant."""
    start = place - 1e-6 * within * normal
    met = rays.met(start, place - within * normal)
    if met is None or float(met[1] @ normal) > -_FACING:
        return None
    return met[0] + 1e-6 * within


def _small(solid: Solid, printer: Printer) -> list[Finding]:
    """Pieces of which a side is smaller than the least detail: the smallest of them."""
    sides = [float(np.ptp(box, axis=0).min()) * printer.scale for box in solid.pieces]
    small = [k for k, side in enumerate(sides) if side < printer.detail * (1.0 - 1e-9)]
    if not small:
        return []
    k = min(small, key=sides.__getitem__)
    more = f", and {len(small) - 1} more are too small" if small[1:] else ""
    said = f"This piece is {in_mm(sides[k])} thin{more}; {in_mm(printer.detail)} is the least detail of this print."
    return [_warning("print-small", said, solid.pieces[k].mean(0))]


def _on_bed(solid: Solid, printer: Printer) -> list[Finding]:
    """Whether it fits the bed, whichever of its sides lies on it."""
    if printer.bed is None or not len(solid.mesh.points):
        return []
    size = np.sort(np.ptp(solid.mesh.bounds, axis=0)) * printer.scale
    over = float((size / np.sort(np.array(printer.bed))).max())
    if over <= _FITS:
        return []
    words = " by ".join(in_mm(v) for v in np.ptp(solid.mesh.bounds, axis=0) * printer.scale)
    whole = printer.scale / over
    fits = f"1 : {ceil(1.0 / whole - 1e-9)}" if whole < 1.0 else f"{whole:.3g} times its size"
    said = f"It is {words}, too large for the bed; at {fits} it would fit."
    return [_warning("print-bed", said, solid.mesh.bounds.mean(0))]
