"""Marks round the nearest end of the chosen run, at which its size is dragged. Free of Qt."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol, TypeVar

import numpy as np

from morphax.app.session.sight import Sight
from morphax.build.built import Built
from morphax.core.mesh.mesh import end_rings
from morphax.core.types import Floats


class Mark(Protocol):
    """Something to be taken hold of at a ``place`` (3,), m."""

    @property
    def place(self) -> Floats: ...


M = TypeVar("M", bound=Mark)
_LEAST_PIXELS = 14.0
"""Marks nearer to the path's end than this are left out: they would lie on its knot."""
_LEAST_SHARE, _FLAT = 0.3, 1e-6


@dataclass(frozen=True, eq=False)
class SizeMark:
    """A mark at ``place`` (3,), m; the size grows as it goes away from ``centre`` (3,), the path's end; ``is_upright``:
    above or below it, where it is the height."""

    place: Floats
    centre: Floats
    is_upright: bool = False

    @property
    def reach(self) -> float:
        return float(np.linalg.norm(self.place - self.centre))

    @property
    def words(self) -> str:
        return f"drag: width · Ctrl: {'height ' if self.is_upright else ''}alone"


def size_marks(built: Built, sight: Sight) -> list[SizeMark]:
    """Marks where a body's end ring goes farthest to its right and left, above and below: there the middle of it."""
    body = built.body
    rings, line, axes = end_rings(body.mesh), body.end_places, body.end_axes
    if rings is None or not len(line) or not axes.any():
        return []
    own = (rings[0] - line[0]) @ axes.T
    at_start = _starts(sight, line)
    ring = rings[0] if at_start else rings[1]
    centre = line[0] if at_start else line[-1]
    middle, marks = _beside(centre, ring), list[SizeMark]()
    for axis, sign in ((0, 1.0), (0, -1.0), (1, 1.0), (1, -1.0)):
        far = sign * own[:, axis]
        outermost = ring[far > far.max() - _FLAT * np.ptp(own[:, :2], axis=0).max()]
        if np.ptp(own[:, axis]) > 0.0:  # of a side that is flat its middle
            marks.append(SizeMark(outermost.mean(0), middle, axis == 1))
    most = max((m.reach for m in marks), default=0.0)
    return [m for m in marks if m.reach > _LEAST_SHARE * most and _pixels(m, sight) > _LEAST_PIXELS]


def _starts(sight: Sight, line: Floats) -> bool:
    """Whether the start of a path is its end that is seen, or the nearer one where both are, or none."""
    seen = sight.seen(np.array([line[0], line[-1]]))
    inside = np.all((seen[:, :2] >= 0.0) & (seen[:, :2] <= np.array(sight.size)), axis=1).tolist()
    return bool(seen[0, 2] <= seen[1, 2]) if inside[0] == inside[1] else bool(inside[0])


def _pixels(mark: SizeMark, sight: Sight) -> float:
    """How far a mark is seen from the path's end."""
    a, b = sight.seen(np.array([mark.place, mark.centre]))[:, :2]
    return float(np.hypot(*(a - b)))


def _beside(centre: Floats, ring: Floats) -> Floats:
    """The path's end, or where the path is beside a ring that stands away from it: its own middle, moved alike."""
    _, sizes, ways = np.linalg.svd(ring - ring.mean(0))
    if len(sizes) < 2 or not sizes[1] > 1e-9 * sizes[0]:
        return centre  # a flat ribbon has no plane of its own
    normal = ways[2]
    moved: Floats = centre + ((ring.mean(0) - centre) @ normal) * normal
    return moved


def nearest_mark(marks: Sequence[M], sight: Sight, pixel: tuple[float, float], within: float) -> M | None:
    """The mark under a pixel."""
    if not marks:
        return None
    seen = sight.seen(np.array([m.place for m in marks]))[:, :2]
    far = np.hypot(*(seen - np.array(pixel)).T)
    k = int(np.argmin(far))
    return marks[k] if far[k] < within else None
