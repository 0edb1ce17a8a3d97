"""Resolved paths: welded, rounded at their corners, measured and cut into legs; and what is seen from them."""

from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np

from morphax.core import checks
from morphax.core.arclength import LengthTable, length_table, places_at
from morphax.core.corner_arcs import rounded_chain
from morphax.core.frames import first_up
from morphax.core.legs import Leg, legs_of, sharp_corners
from morphax.core.paths import Chain, PathShape, points_at
from morphax.core.sections import Side
from morphax.core.tolerances import Tolerances
from morphax.core.types import Flags, Floats, Points3, Vectors3
from morphax.core.vectors import unit

_SAMPLES, _ZOOMS = 257, 5
"""Places that are looked at for the nearest one, and how often, each time round the best one so far."""


@dataclass(frozen=True, eq=False)
class ResolvedPath:
    """A measured path: what every later stage reads of it."""

    shape: PathShape
    chain: Chain
    table: LengthTable
    sharp: Flags
    legs: tuple[Leg, ...]
    memo: dict[str, Any] = field(default_factory=dict, repr=False)
    """Where ``path_checks`` keeps what it found out about the path itself."""

    @cached_property
    def knot_at(self) -> Floats:
        """Distances of the path's own knots, m (a closed path ends with its first knot again)."""
        out: Floats = self.table.at_knots[..., self.chain.knots]
        return out

    @cached_property
    def size(self) -> float:
        """Largest extent of the path's knots, m."""
        return checks.path_size(self.shape.knots)

    @property
    def length(self) -> float:
        return float(self.table.total)


def resolve_path(path: PathShape) -> ResolvedPath:
    """Welds doubled knots, makes the chain and measures it. Raises PathError as ``chain_of`` does."""
    shape = checks.welded(path)
    chain = rounded_chain(shape)
    sharp = sharp_corners(chain, Tolerances(checks.path_size(shape.knots), 0.0))
    return ResolvedPath(shape, chain, length_table(chain), sharp, legs_of(chain, sharp))


def points_along(path: ResolvedPath, at: Floats) -> Points3:
    """Points (r, 3) at distances (r,) of a measured path, m."""
    places = places_at(path.table, at)
    return points_at(path.table.spans[places.span], places.t)


def nearest_along(path: ResolvedPath, place: Points3) -> tuple[float, float]:
    """The distance along a path at which it is nearest to a place (3,), and how far that is, m."""
    low, high = 0.0, path.length
    best = far = 0.0
    for _ in range(_ZOOMS):
        s = np.linspace(low, high, _SAMPLES)
        gap = np.linalg.norm(points_along(path, s) - place, axis=1)
        k = int(np.argmin(gap))
        best, far, step = float(s[k]), float(gap[k]), (high - low) / (_SAMPLES - 1)
        low, high = max(0.0, best - step), min(path.length, best + step)
    return best, far


def path_polyline(path: ResolvedPath, *, per_span: int = 24) -> Points3:
    """Points (n, 3) along a path for showing it; straight spans have their ends only."""
    spans, straight = path.chain.spans, path.chain.straight
    t = np.arange(per_span) / per_span
    w = 1.0 - t
    points = np.stack([w**3, 3.0 * w * w * t, 3.0 * w * t * t, t**3], axis=-1) @ spans
    shown = np.ones(points.shape[:2], dtype=np.bool_)
    shown[straight, 1:] = False
    return np.concatenate([points[shown], spans[-1:, 3]])


def drawn_place(path: ResolvedPath, span: int, t: float) -> tuple[int, float]:
    """The drawn span, and the parameter on it, of a place on the chain; on arcs and trimmed spans by projection."""
    if path.shape.kind.is_made:
        return span, t
    knots = path.chain.knots
    drawn = min(int(np.searchsorted(knots, span, side="right")) - 1, len(knots) - 2)
    if knots[drawn + 1] - knots[drawn] == 1:
        return drawn, t
    a, b = path.shape.knots[drawn], path.shape.knots[(drawn + 1) % len(path.shape.knots)]
    place = points_at(path.chain.spans[span], np.asarray(t))
    share = float((place - a) @ (b - a)) / max(float((b - a) @ (b - a)), 1e-300)
    return drawn, min(max(share, 1e-6), 1.0 - 1e-6)


def _area_vector(points: Points3) -> Vectors3:
    p = points - points.mean(0)
    out: Vectors3 = 0.5 * np.cross(p[:-1], p[1:]).sum(0)
    return out


def closed_start_up(path: ResolvedPath, side: Side) -> Vectors3 | None:
    """The wish for the first up: the plane's normal on a closed planar path whose section faces in.

    It points towards +z, else -y, else +x. None where the usual rule holds.
    """
    if not path.chain.closed or side is not Side.IN:
        return None
    points = path_polyline(path)
    p = points - points.mean(0)
    spread = np.linalg.svd(p, full_matrices=False)[1]
    if spread[2] > 1e-6 * spread[0] or spread[1] <= 1e-9 * spread[0]:
        return None
    normal = unit(_area_vector(points))
    lead = next((v for v in (normal[2], -normal[1], normal[0]) if abs(v) > 1e-6), 1.0)
    return normal if lead > 0.0 else -normal


def faces_wrong_way(path: ResolvedPath, side: Side, start_up: Vectors3 | None) -> bool:
    """Whether the section must be mirrored so that its x faces ``side`` of a closed path."""
    if not path.chain.closed:
        return False
    tangent = path.chain.spans[0, 1] - path.chain.spans[0, 0]
    up = start_up if start_up is not None else first_up(unit(tangent))
    right_is_out = float(_area_vector(path_polyline(path)) @ up) > 0.0
    return right_is_out is not (side is Side.OUT)
