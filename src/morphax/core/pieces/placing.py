"""How pieces lie on their seats: which of their axes runs along, own turns, side and lift, size, jitter."""

import numpy as np

from morphax.core.pieces.rules import PiecePlacing
from morphax.core.pieces.seats import Seats
from morphax.core.types import Floats, Vectors3, frozen


def jittered(placing: PiecePlacing, at: Floats, length: float, *, closed: bool) -> tuple[Floats, Floats]:
    """Distances (n,) m within the length of pieces that are meant to stand at distances, and what else jitters (n, 2):
    turn and size, from -1 to 1."""
    jitter = _jitter(placing, len(at))
    s = at + jitter[:, 0] * placing.place_jitter
    if closed:
        s = np.mod(s, length)
        s = np.where(np.abs(s - length) < 1e-12 * length, 0.0, s)
    return (s if closed else np.clip(s, 0.0, length)), jitter[:, 1:]


def piece_transforms(seats: Seats, placing: PiecePlacing, jitter: Floats, scale: Floats | None = None) -> Floats:
    """Transforms (n, 3, 4) of pieces on their seats; ``jitter`` (n, 2) of turn and size, ``scale`` (n,): how large each
    one is, beside the placing's own size. In the order of placing: mirrored, turned, sized, moved by side and lift,
    then by the frame.
    """
    n, rounds = len(seats.origin), placing.times if placing.is_outside else 1
    odd = (np.arange(n) // rounds % 2).astype(float)
    turn = placing.turn + odd * placing.alternate + jitter[:, 0] * placing.turn_jitter
    right, up, forward = seats.right, seats.up, seats.forward
    if placing.is_outside and turn.any():
        right, forward = _turned(right, forward, -turn)
    elif turn.any():
        right, up = _turned(right, up, turn)
    size = placing.size * (1.0 + jitter[:, 1] * placing.size_jitter) * (1.0 if scale is None else scale)
    out = np.empty((n, 3, 4))
    left = -right if placing.axis != "y" else right
    ways = {"x": (forward, left, up), "y": (right, forward, up), "z": (left, up, forward)}[placing.axis]
    for k, way in enumerate(ways):
        out[:, :, k] = size[:, None] * way
    if placing.mirrored:
        across = {"x": 1, "y": 0, "z": 0}[placing.axis]
        out[:, :, across] *= (1.0 - 2.0 * odd)[:, None]
    out[:, :, 3] = seats.origin + placing.side * seats.right + placing.lift * seats.up
    return frozen(out)


def _jitter(placing: PiecePlacing, count: int) -> Floats:
    """(n, 3) from -1 to 1, drawn piece by piece, so that each one keeps its own."""
    if not (placing.place_jitter or placing.turn_jitter or placing.size_jitter):
        return np.zeros((count, 3))
    return np.random.default_rng(placing.seed).uniform(-1.0, 1.0, (count, 3))


def _turned(right: Vectors3, up: Vectors3, turn: Floats) -> tuple[Vectors3, Vectors3]:
    c, n = np.cos(turn)[:, None], np.sin(turn)[:, None]
    return c * right + n * up, c * up - n * right
