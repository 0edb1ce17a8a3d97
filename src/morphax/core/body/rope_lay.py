"""How ropes are laid: strands that touch each other, whatever their number and lay; and strands laid of yarns.

The centre lines of n strands are helices about the rope's own. Two neighbours are as near as the least, over the angle
between two of their places, of the distance of those (geometry of helices on one cylinder).
"""

from dataclasses import dataclass
from functools import lru_cache
from math import pi

import numpy as np

from morphax.core.errors import PathError
from morphax.core.types import Floats

USUAL_LAY = 3.5
"""The lay length of a rope is so many of its widths, unless told otherwise."""
USUAL_SWING = 3.0
"""That of a braid."""
MOST_STRANDS, MOST_BRAIDED = 12, 24
WEAVES = {
    "laid": (2, MOST_STRANDS, "rope"),
    "round": (4, MOST_BRAIDED, "round braid"),
    "flat": (3, MOST_BRAIDED, "flat braid"),
}
"""How strands go: with how many at least and at most, and what that is called."""
_GRID, _NARROWEST = 257, 0.05
_CORE_FROM = 5
"""So many strands leave room for a core."""


@dataclass(frozen=True)
class Rope:
    """A rope: ``strands`` laid round each other, once in ``lay`` m, or ``turns`` times in all (None, both: once in some
    widths); right-laid as a screw, or ``left``. Each strand is of so many ``yarns`` (1: it is one), laid the other way
    ``yarn_lay`` times as often. ``core``: whether a straight strand fills the middle (None: where there is room).
    ``fray_start`` and ``fray_end``: how far the strands spread there, as a factor; ``whipped``: both ends are bound.
    ``weave``: laid, or a round or flat braid; a braid's lay length is that of a whole turn or swing of a strand."""

    strands: int = 3
    lay: float | None = None
    turns: float | None = None
    left: bool = False
    yarns: int = 1
    yarn_lay: float = 2.0
    core: bool | None = None
    fray_start: float = 1.0
    fray_end: float = 1.0
    whipped: bool = False
    weave: str = "laid"

    __pydantic_config__ = {"extra": "forbid", "allow_inf_nan": False}

    def __post_init__(self) -> None:
        if self.weave not in WEAVES:
            raise PathError(f"there is no weave {self.weave!r}; there are: {', '.join(WEAVES)}")
        least, most, word = WEAVES[self.weave]
        if not least <= self.strands <= most:
            raise PathError(f"a {word} has {least} to {most} strands, not {self.strands}")
        if self.weave == "round" and self.strands % 2:
            raise PathError("a round braid has an even number of strands: half of them wind each way")
        if not 1 <= self.yarns <= MOST_STRANDS:
            raise PathError(f"a strand has 1 to {MOST_STRANDS} yarns, not {self.yarns}")
        if self.lay is not None and self.turns is not None:
            raise PathError("a rope is laid by its lay length or by its turns: one of them")
        for value, name in ((self.lay, "a lay length"), (self.turns, "turns"), (self.yarn_lay, "the yarns' lay")):
            if value is not None and not 0.0 < value <= 1e6:
                raise PathError(f"{name} of a rope is more than 0")
        for fray in (self.fray_start, self.fray_end):
            if not 1.0 <= fray <= 5.0:
                raise PathError("strands spread by a factor from 1 to 5")

    @property
    def has_room(self) -> bool:
        """Whether the strands leave room for a core."""
        return self.weave == "round" or (self.weave == "laid" and self.strands >= _CORE_FROM)

    @property
    def has_core(self) -> bool:
        return self.has_room and (self.weave == "laid" if self.core is None else self.core)

    @property
    def usual_lay(self) -> float:
        """Its lay length is so many of its widths, where nobody says otherwise."""
        return USUAL_LAY if self.weave == "laid" else USUAL_SWING


def nearest(radius: Floats, pitch: Floats, count: int) -> Floats:
    """The least distance of neighbouring centre lines, m, of ``count`` helices of a ``radius`` and a ``pitch``, the way
    on in a turn, m: arrays that go together."""
    t = np.linspace(0.0, 2.0 * pi / count, _GRID)
    r2, p2 = np.square(np.asarray(radius))[..., None], np.square(np.asarray(pitch) / (2.0 * pi))[..., None]

    def squared(t: Floats) -> Floats:
        out: Floats = 2.0 * r2 * (1.0 - np.cos(t - 2.0 * pi / count)) + p2 * t * t
        return out

    def slope(t: Floats) -> tuple[Floats, Floats]:
        turn = t - 2.0 * pi / count
        return r2 * np.sin(turn) + p2 * t, r2 * np.cos(turn) + p2

    first = t[squared(t).argmin(-1)][..., None]
    for _ in range(8):
        d, dd = slope(first)
        first = np.clip(first - np.where(dd > 0.0, d / np.maximum(dd, 1e-300), 0.0), 0.0, 2.0 * pi / count)
    out: Floats = np.sqrt(np.minimum(squared(first), squared(t).min(-1)[..., None]))[..., 0]
    return out


@lru_cache(maxsize=256)
def strand_radius(reach: float, pitch: float, count: int) -> float:
    """The radius of strands that touch, m, in a rope of a radius ``reach`` and a ``pitch``, m."""

    from scipy.optimize import brentq  # for start-up time: most runs are no ropes

    def off(radius: float) -> float:
        return radius + 0.5 * float(nearest(np.array(radius), np.array(pitch), count)) - reach

    low, high = 1e-9 * reach, reach * (1.0 - 1e-12)
    return reach - float(brentq(off, low, high, xtol=1e-15 * reach, rtol=1e-14))


def thinned(reach: float, pitch: float, count: int, shares: Floats) -> Floats:
    """What strands' radii are multiplied by where a bend shortens the pitch to ``shares`` (n,) of it: so they don't run
    into each other there."""
    radius = strand_radius(reach, pitch, count)
    short = np.clip(shares, _NARROWEST, 1.0)
    known = np.linspace(_NARROWEST, 1.0, 65)
    near = nearest(np.full(len(known), reach - radius), known * pitch, count) / (2.0 * radius)
    out: Floats = np.minimum(np.interp(short, known, near), 1.0)
    return out
