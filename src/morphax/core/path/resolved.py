"""Resolved paths: welded, rounded at their corners, measured and cut into legs; and what is seen from them."""

from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np

from morphax.core.path import knot_checks
from morphax.core.path.arclength import LengthTable, length_table, places_at
from morphax.core.path.corner_arcs import rounded_chain
from morphax.core.path.legs import Leg, legs_of, sharp_corners
from morphax.core.path.paths import Chain, PathShape, points_at
from morphax.core.tolerances import Tolerances
from morphax.core.types import Flags, Floats, Points3, Spans

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
    from_end: bool = False
    """Whether it is walked from the end that its drawn path calls its end."""

    def end_word(self, *, is_start: bool) -> str:
        """What the drawn path calls an end of this one."""
        return "start" if is_start is not self.from_end else "end"

    @cached_property
    def knot_at(self) -> Floats:
        """Distances of the path's own knots, m (a closed path ends with its first knot again)."""
        out: Floats = self.table.at_knots[..., self.chain.knots]
        return out

    @cached_property
    def size(self) -> float:
        """Largest extent of the path's knots, m."""
        return knot_checks.path_size(self.shape.knots)

    @property
    def length(self) -> float:
        return float(self.table.total)


def resolve_path(path: PathShape) -> ResolvedPath:
    """Welds doubled knots, makes the chain and measures it. Raises PathError as ``chain_of`` does."""
    shape = knot_checks.welded(path)
    chain = rounded_chain(shape)
    sharp = sharp_corners(chain, Tolerances(knot_checks.path_size(shape.knots), 0.0))
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


def polylines(spans: Spans, *, per_span: int = 24) -> Points3:
    """Points (b, n, 3) along a batch of curved paths, as ``path_polyline`` has them."""
    t = np.arange(per_span) / per_span
    w = 1.0 - t
    points = np.stack([w**3, 3.0 * w * w * t, 3.0 * w * t * t, t**3], axis=-1) @ spans
    return np.concatenate([points.reshape(len(spans), -1, 3), spans[:, -1:, 3]], axis=1)


def drawn_place(path: ResolvedPath, span: int, t: float) -> tuple[int, float]:
    """The drawn span, and the parameter on it, of a place on the chain; on arcs and trimmed spans by projection."""
    if path.shape.kind.is_made:
        return span, t
    knots = path.chain.knots
    drawn = min(int(np.searchsorted(knots, span, side="right")) - 1, len(knots) - 2)
    if knots[drawn + 1] - knots[drawn] == 1:
        return drawn, t
    if path.shape.bends_least:
        return drawn, (span - int(knots[drawn]) + t) / int(knots[drawn + 1] - knots[drawn])
    a, b = path.shape.knots[drawn], path.shape.knots[(drawn + 1) % len(path.shape.knots)]
    place = points_at(path.chain.spans[span], np.asarray(t))
    share = float((place - a) @ (b - a)) / max(float((b - a) @ (b - a)), 1e-300)
    return drawn, min(max(share, 1e-6), 1.0 - 1e-6)
