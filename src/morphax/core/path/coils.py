"""Coils: a curve that winds round another path, at a distance from it."""

from dataclasses import dataclass

import numpy as np

from morphax.core.errors import PathError
from morphax.core.frame.frames import FrameField, carried_field, frames_at
from morphax.core.path.paths import PathShape
from morphax.core.path.resolved import resolve_path
from morphax.core.types import Floats, Points3, Vectors3

_STEP = 1e-4


@dataclass(frozen=True, eq=False)
class Spine:
    """A path without sharp corners that a coil winds round, with carried frames along it."""

    field: FrameField
    length: float

    def winding(self, radius: float, end: float, start: float, u: Floats) -> tuple[Points3, Vectors3]:
        """Places and derivatives (..., 3) of the coil after u rad of ``end`` rad in all, from ``start`` rad.

        It turns clockwise where ``end`` is negative. The derivative is a central difference, to about 1e-9 of it.
        """
        whole = abs(end)
        low, high = np.clip(u - _STEP, 0.0, whole), np.clip(u + _STEP, 0.0, whole)
        three = self._at(radius, (start, end), np.stack([u, low, high]))
        return three[0], (three[2] - three[1]) / (high - low)[..., None]

    def axis_at(self, share: float) -> Floats:
        """The place (3,) of the path at a share of its length."""
        out: Floats = frames_at(self.field, 0, np.array([share * self.length])).origin[0]
        return out

    def _at(self, radius: float, angles: tuple[float, float], u: Floats) -> Points3:
        start, end = angles
        s = (self.length * u / abs(end)).ravel()
        frames = frames_at(self.field, 0, s)
        turn = (start + np.sign(end) * u).ravel()[:, None]
        out: Points3 = frames.origin + radius * (np.cos(turn) * frames.right + np.sin(turn) * frames.up)
        return out.reshape(*u.shape, 3)


def spine_of(path: PathShape) -> Spine:
    """What a coil round a path needs. Raises PathError where the path has sharp corners or cannot be measured."""
    resolved = resolve_path(path)
    if len(resolved.legs) > 1 or (resolved.chain.closed and resolved.sharp.any()):
        raise PathError("a coil winds round a path without sharp corners; round them first")
    field = carried_field(resolved.table, resolved.legs, closed=False)
    return Spine(field, resolved.length)
