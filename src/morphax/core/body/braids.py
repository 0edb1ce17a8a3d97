"""Braids: strands that go over and under each other, round a core or side by side; as thick as they can be.

In a round braid half of the strands wind each way, and all of one way are out where those of the other are in: each
goes over one and under one. In a flat braid each strand swings from edge to edge, and at every crossing one lies above
the other. Where their centre lines come nearest is looked for on a grid, and nearer and nearer about the best of it.
"""

from functools import lru_cache
from math import asin, pi

import numpy as np

from morphax.core.types import Floats

_TURN = 2.0 * pi
_GRID, _FINE, _TIMES, _LOOKED, _ROUNDS = 48, 13, 3, 4, 2.4
_SURE = 0.999
"""Strands are so much of what would touch."""
_LIFT = {"flat": 1.03, "round": 1.03}
"""So many radii strands lie above and below the middle where they cross."""


def braid_offsets(weave: str, count: int, sizes: tuple[float, float], turn: Floats) -> list[tuple[Floats, Floats]]:
    """How far right and up of the middle, m, each strand is after so much of a ``turn`` (n,), rad. ``sizes``: the
    radius, or half the width, of the whole, and that of a strand, m."""
    reach, radius = sizes
    if weave == "flat":
        return [_swung(count, reach, radius, turn + _TURN * k / count) for k in range(count)]
    half = count // 2
    lift = _LIFT["round"] * radius
    middle, wave = reach - lift - radius, lift * np.cos(half * turn)
    out = []
    for k in range(half):
        for sign in (1.0, -1.0):
            far, angle = middle + sign * wave, sign * turn + _TURN * k / half
            out.append((far * np.cos(angle), far * np.sin(angle)))
    return out


def _swung(count: int, reach: float, radius: float, turn: Floats) -> tuple[Floats, Floats]:
    """A strand of a flat braid: evenly from edge to edge, over and under wholly at each crossing."""
    sharp = 1.0 - _ROUNDS / count**2  # evenly, but for a round turn at the edges
    across = np.arcsin(sharp * np.cos(turn)) / asin(sharp)
    return (reach - radius) * across, _LIFT["flat"] * radius * _over(count, turn)


def _over(count: int, turn: Floats) -> Floats:
    """1 where a strand of a flat braid is wholly above the others, -1 below: it crosses them at whole parts of half a
    turn, and what it does on the way back is the opposite."""
    own = np.remainder(turn + pi, _TURN) - pi
    far, edge = np.abs(own), pi / count
    last = (-1.0) ** count * np.sin(0.5 * count * (pi - far))
    between = np.where(far > pi - edge, last, -np.cos(count * far))
    return np.sign(own) * np.where(far < edge, np.sin(0.5 * count * far), between)


def braid_radius(weave: str, count: int, reach: float, pitch: float) -> float:
    """The radius of a braid's strands, m, that come just to touch: of a radius, or half a width, ``reach``, and a
    ``pitch``, the way on in a whole turn or swing, m."""
    return reach * _unit_radius(weave, count, float(f"{pitch / reach:.3e}"))


@lru_cache(maxsize=512)
def _unit_radius(weave: str, count: int, pitch: float) -> float:
    """The same for a reach of 1."""
    from scipy.optimize import brentq  # for start-up time: most runs are no braids

    def off(radius: float) -> float:
        return 0.5 * _nearest(weave, count, (1.0, radius), pitch) - radius

    high = 0.45 if weave == "flat" else 0.24
    low = 1e-3 / count
    if off(high) > 0.0:
        return _SURE * high
    return _SURE * float(brentq(off, low, high, xtol=1e-5, rtol=1e-4))


def _nearest(weave: str, count: int, sizes: tuple[float, float], pitch: float) -> float:
    """How near the centre lines of two strands come, m: the others' to the first one's."""
    a = np.linspace(0.0, _TURN / (count // 2) if weave == "round" else _TURN, _GRID, endpoint=False)
    b = np.linspace(-0.5 * _TURN, 0.5 * _TURN, 2 * _GRID, endpoint=False)
    own = _places(weave, count, sizes, pitch, a)[0]
    others = _places(weave, count, sizes, pitch, np.add.outer(a, b).ravel())[1:]
    far = np.linalg.norm(others.reshape(count - 1, len(a), len(b), 3) - own[None, :, None], axis=3)
    flat = far.reshape(count - 1, -1)
    best = np.inf
    for k in np.argsort(flat.min(1))[:_LOOKED]:
        i, j = np.unravel_index(int(flat[k].argmin()), far.shape[1:])
        at = (float(a[i]), float(a[i] + b[j]))
        best = min(best, _finer(weave, count, (sizes, pitch), int(k) + 1, at, float(a[1] - a[0])))
    return best


def _finer(
    weave: str, count: int, of: tuple[tuple[float, float], float], k: int, at: tuple[float, float], step: float
) -> float:
    """The least distance about two places, on finer and finer grids."""
    best = np.inf
    for _ in range(_TIMES):
        spread = np.linspace(-step, step, _FINE)
        one = _places(weave, count, *of, at[0] + spread)[0]
        two = _places(weave, count, *of, at[1] + spread)[k]
        far = np.linalg.norm(one[:, None] - two[None], axis=2)
        i, j = np.unravel_index(int(far.argmin()), far.shape)
        best = min(best, float(far[i, j]))
        at, step = (at[0] + spread[i], at[1] + spread[j]), 2.5 * step / _FINE
    return best


def _places(weave: str, count: int, sizes: tuple[float, float], pitch: float, turn: Floats) -> Floats:
    """(strands, n, 3) places of all strands on a straight line."""
    along = pitch * turn / _TURN
    return np.array([np.stack([x, y, along], axis=-1) for x, y in braid_offsets(weave, count, sizes, turn)])
