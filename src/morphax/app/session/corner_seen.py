"""A corner of a path as one looks at it: across its bisector, both legs in sight."""

from dataclasses import dataclass, replace
from math import asin, atan2, degrees

import numpy as np

from morphax.app.session.camera import PERSPECTIVE, Camera, basis
from morphax.build.built import Built
from morphax.core.path.resolved import points_along
from morphax.core.section.sections import CornerStyle
from morphax.core.types import Points3, Vectors3
from morphax.core.vectors import turn_between, unit
from morphax.project.model.document import Path
from morphax.project.units import format_number

_STEP = 1e-5
"""So far beside a corner a curve's direction is taken, as a share of its length."""
_ACROSS, _WIDE = 7.0, 1.4
"""So many widths of the body are seen round the corner; how far the mitre's line goes beyond the path, in widths."""


@dataclass(frozen=True, eq=False)
class CornerSeen:
    """A corner at ``place`` (3,): its ``turn``, rad, the ``normal`` (3,) of the plane of its legs, and the direction
    ``inwards`` (3,) of its bisector."""

    place: Points3
    turn: float
    normal: Vectors3
    inwards: Vectors3

    def camera(self, now: Camera, width: float) -> Camera:
        """Looks along the normal, from above where that says something, else from the side where the eye is now."""
        eye = -basis(now).forward
        lead = self.normal[2] if abs(self.normal[2]) > 1e-3 else float(self.normal @ eye)
        x, y, z = self.normal if lead >= 0.0 else -self.normal
        pitch, yaw = asin(min(max(float(z), -1.0), 1.0)), atan2(float(y), float(x))
        target = (float(self.place[0]), float(self.place[1]), float(self.place[2]))
        return replace(now, view=PERSPECTIVE, target=target, height=_ACROSS * width, yaw=yaw, pitch=pitch)

    def line(self, width: float) -> tuple[Points3, Points3]:
        """The mitre's line, from within the corner to beyond it."""
        return self.place + _WIDE * width * self.inwards, self.place - _WIDE * width * self.inwards

    def words(self, style: CornerStyle) -> str:
        """Its turn, and how it is cut."""
        turn = f"turn {format_number(degrees(self.turn), decimals=1)}°"
        if style is CornerStyle.MITRE:
            return f"{turn} · mitre {format_number(degrees(0.5 * self.turn), decimals=2)}°"
        return f"{turn} · {style}"


def corner_seen(path: Path, built: Built, knot_id: str) -> CornerSeen | None:
    """The corner at a knot of a measured path; None where there is none, or the path goes straight on or back."""
    resolved, index = built.path.resolved, next((i for i, k in enumerate(path.knots) if k.id == knot_id), None)
    if resolved is None or index is None or index >= len(built.knot_at):
        return None
    at, long, count = float(built.knot_at[index]), resolved.length, len(path.knots)
    if not path.closed and index in (0, count - 1):
        return None
    if path.knots[index].radius > 0.0:  # its legs are what it goes round
        around = [path.knots[(index + k) % count].place for k in (-1, 0, 1)]
        before, place, after = (np.array(p) for p in around)
    else:
        step = _STEP * long
        before, place, after = points_along(resolved, np.array([(at - step) % long, at % long, (at + step) % long]))
    ways = unit(np.array([place - before, after - place]))
    turn, normal = float(turn_between(ways[:1], ways[1:])[0]), np.cross(*ways)
    size = float(np.linalg.norm(normal))
    if size < 1e-6:
        return None
    return CornerSeen(np.array(path.knots[index].place), turn, normal / size, unit((ways[1] - ways[0])[None])[0])
