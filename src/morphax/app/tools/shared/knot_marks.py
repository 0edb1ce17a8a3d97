"""Marks round the chosen knot, at which the section's own size and roll there are dragged. Free of Qt."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from morphax.app.session.sight import Sight
from morphax.app.session.workspace import Workspace
from morphax.build.built import Built
from morphax.core.path.arclength import places_at
from morphax.core.path.paths import derivatives_at
from morphax.core.types import Floats
from morphax.core.vectors import cross, unit
from morphax.project.model.document import Run

_BESIDE, _AWAY, _FACING = 1.25, 16.0, 0.35
"""Marks stand so many reaches from the path, and so many pixels from the body; from so much of it on a path runs into
the view, where its roll is turned as it is seen."""
_ROLL_AT = np.array([-0.5, np.sqrt(0.75)])


@dataclass(frozen=True, eq=False)
class KnotMark:
    """A mark at ``place`` (3,), m, about the ``knot`` at ``centre`` (3,), where the run goes along ``axis`` (3,).

    ``across`` (3,): the unit direction in which both marks are seen beside the path.
    """

    what: Literal["size", "roll"]
    run: str
    knot: str
    place: Floats
    centre: Floats
    axis: Floats
    across: Floats

    @property
    def words(self) -> str:
        return f"drag: {self.what} at the knot"

    @property
    def reach(self) -> float:
        return float(np.linalg.norm(self.place - self.centre))

    def faces(self, sight: Sight) -> bool:
        """Whether the path runs into the view so that a turn about it is seen as one."""
        return abs(float(self.axis @ sight.way_to(self.place))) > _FACING


def knot_marks(ws: Workspace, sight: Sight) -> list[KnotMark]:
    """Marks of the only chosen knot of the only chosen run: none where its body or path can't be measured."""
    run, built, path, knots = ws.chosen.run, ws.chosen.body, ws.chosen.path, ws.selection.knots
    if run is None or built is None or path is None or len(knots) != 1 or len(ws.selection.runs) != 1:
        return []
    k = next((i for i, own in enumerate(path.knots) if own.id == knots[0]), None)
    resolved = built.path.resolved
    if k is None or resolved is None or len(resolved.shape.knots) != len(path.knots):
        return []
    at = float(resolved.knot_at[k])
    where = places_at(resolved.table, np.array([at]))
    axis = _way_of_roll(run) * unit(derivatives_at(resolved.table.spans[where.span], where.t))[0]
    centre = np.array(path.knots[k].place)
    far = max(_BESIDE * _reach(built, at, centre), _reach(built, at, centre) + _AWAY * sight.scale_at(centre))
    across, towards = _beside(axis, sight, centre)
    spots = {"size": far * across, "roll": far * (_ROLL_AT[0] * across + _ROLL_AT[1] * towards)}
    return [KnotMark(what, run.id, knots[0], centre + spots[what], centre, axis, across) for what in ("size", "roll")]


def _way_of_roll(run: Run) -> float:
    """1, or -1 for runs that are turned the other way about their path: reversed ones, and mirror images."""
    reference = run.recipe.reference
    return -1.0 if reference.is_mirrored is not reference.from_end else 1.0


def _beside(axis: Floats, sight: Sight, centre: Floats) -> tuple[Floats, Floats]:
    """Directions at right angles to the path: to the right as it is seen, and up or towards the eye."""
    way = sight.way_to(centre)
    across = cross(axis[None], way[None])[0]
    if np.linalg.norm(across) < 1e-6:
        across = sight.basis.right - (sight.basis.right @ axis) * axis
    across = unit(across[None])[0]
    across = across if across @ sight.basis.right >= 0.0 else -across
    towards = unit(cross(axis[None], across[None]))[0]
    seen = towards @ sight.basis.up - towards @ way
    return across, towards if seen >= 0.0 else -towards


def _reach(built: Built, at: float, centre: Floats) -> float:
    """How far the body goes from the path at a distance along it, m."""
    mesh, places = built.body.mesh, built.body.ring_place
    if not len(places) or mesh.rings * mesh.sides > len(mesh.points):
        return 0.5 * built.body.width
    k = int(np.argmin(np.abs(places - at)))
    ring = mesh.points[k * mesh.sides : (k + 1) * mesh.sides]
    return float(np.linalg.norm(ring - ring.mean(0), axis=1).max())


def circle_of(mark: KnotMark) -> Floats:
    """The circle (49, 3) about the knot on which its marks stand."""
    turn = np.linspace(0.0, 2.0 * np.pi, 49)[:, None]
    other = cross(mark.axis[None], mark.across[None])
    out: Floats = mark.centre + mark.reach * (np.cos(turn) * mark.across + np.sin(turn) * other)
    return out


def size_share(mark: KnotMark, place: Floats) -> float:
    """How many times as large the section gets where the mark is dragged to a place (3,)."""
    return max(float((place - mark.centre) @ mark.across) / mark.reach, 0.0)


def turned_by(mark: KnotMark, place: Floats, *, faces: bool) -> float:
    """How far the section turns, rad, from right towards up, where the mark is dragged to a place (3,)."""
    begun, now = mark.place - mark.centre, place - mark.centre
    if faces:
        side = cross(-mark.axis[None], begun[None])[0]
        return float(np.arctan2(now @ side, now @ begun))
    speed = cross(-mark.axis[None], begun[None])[0] @ mark.across
    return float((now - begun) @ mark.across / speed)
