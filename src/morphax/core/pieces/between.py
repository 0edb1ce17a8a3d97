"""Pieces between two runs: rungs, planks and balusters, drawn out from the one path to the other."""

from functools import cache

import numpy as np

from morphax.core.body.nearby import HostQuery, nearest_on
from morphax.core.mesh.mesh import Mesh
from morphax.core.path.resolved import ResolvedPath, path_polyline, points_along
from morphax.core.pieces.forms import piece_mesh, piece_values
from morphax.core.pieces.rules import Match, PiecePlacing, PieceRule
from morphax.core.pieces.seats import Seats
from morphax.core.types import Flags, Floats, Points3, Vectors3, frozen
from morphax.core.vectors import unit

_ZOOMS, _SHARES = 4, 33
"""How often the place above or below is looked for more closely, and at how many places each time."""
_DENSE = 48
_FARTHEST = 1e6
_LEAST = 1e-9
"""Ends that are nearer than this share of a piece's length are one."""
AXES = "xyz"


@cache
def drawn_axis(form: str) -> int:
    """The axis along which a form is drawn out: that which is usually its longest, whatever is typed."""
    low, high = piece_mesh(form, tuple(piece_values(form, {}, 1.0).items()), 8).bounds
    return int(np.argmax(high - low))


@cache
def is_drawn_out(form: str, key: str) -> bool:
    """Whether a size of a form is only how long it is along the axis that is drawn out: then it has no effect."""
    usual = piece_values(form, {}, 1.0)
    sizes = [
        np.ptp(piece_mesh(form, tuple(v.items()), 8).bounds, axis=0) for v in (usual, usual | {key: 1.1 * usual[key]})
    ]
    across = np.arange(3) != drawn_axis(form)
    return bool(np.allclose(*(s[across] for s in sizes)) and not np.allclose(*(s[~across] for s in sizes)))


def along_axis(rule: PieceRule) -> int:
    """The axis that runs along the path: the one asked for, or the next one where that is drawn out."""
    wanted = AXES.index(rule.placing.axis)
    return (wanted + 1) % 3 if wanted == drawn_axis(rule.form) else wanted


def other_ends(path: ResolvedPath, other: ResolvedPath, s: Floats, places: Points3, match: Match) -> Points3:
    """The places (n, 3) on another path that belong to places (n, 3) at distances (n,) of the first, m.

    By *share* of the length, whichever way the other one goes; the *nearest*; or *upright*, right above or below, as
    seen from above.
    """
    if match == "share":
        return points_along(other, _shares(path, other, s / path.length) * other.length)
    line = path_polyline(other, per_span=_DENSE)
    if match == "nearest":
        return nearest_on(line, places)
    flat = np.array([1.0, 1.0, 0.0])
    return _same_place(other, places * flat, flat)


def foot_ends(seats: Seats, placing: PiecePlacing, foot: HostQuery) -> tuple[Points3, Floats]:
    """Where pieces on seats meet a host (n, 3), and how far that is, m, nan where they meet none (there it is the seat
    itself): outwards of what stands on the section, down of what sits on the path or in the middle."""
    way = seats.up if placing.is_outside else -seats.up
    start = seats.origin + placing.side * seats.right + placing.lift * seats.up
    far = foot.hits(start, way, _FARTHEST)
    return seats.origin + np.where(np.isfinite(far), far, 0.0)[:, None] * way, far


def _shares(path: ResolvedPath, other: ResolvedPath, share: Floats) -> Floats:
    """Shares of the other path, the other way round where it goes so."""
    ends = [points_along(p, np.array([0.0, 0.25 * p.length, 0.75 * p.length, p.length])) for p in (path, other)]
    straight = np.linalg.norm(ends[0] - ends[1], axis=1).sum()
    turned = np.linalg.norm(ends[0] - ends[1][::-1], axis=1).sum()
    return 1.0 - share if turned < straight else share


def _same_place(other: ResolvedPath, places: Points3, flat: Floats) -> Points3:
    """The places of a path that are nearest to places (n, 3) when both are seen along what ``flat`` leaves out."""
    step = other.length / (_DENSE * max(len(other.chain.spans), 1))
    s = np.linspace(0.0, other.length, _DENSE * max(len(other.chain.spans), 1) + 1)
    seen = points_along(other, s) * flat
    best = np.empty(len(places))
    for k in range(0, len(places), 256):  # blocks keep the table of all pairs small
        gap = np.linalg.norm(seen[None] - places[k : k + 256, None], axis=2)
        best[k : k + 256] = s[gap.argmin(1)]
    for _ in range(_ZOOMS):
        near = np.clip(best[:, None] + step * np.linspace(-1.0, 1.0, _SHARES), 0.0, other.length)
        gap = np.linalg.norm(points_along(other, near.ravel()).reshape(*near.shape, 3) * flat - places[:, None], axis=2)
        best = near[np.arange(len(near)), gap.argmin(1)]
        step *= 2.0 / (_SHARES - 1)
    return points_along(other, best)


def between_transforms(
    seats: Seats, ends: Points3, mesh: Mesh, placing: PiecePlacing, values: tuple[Floats, Floats, int, int]
) -> tuple[Floats, Flags]:
    """Transforms (n, 3, 4) of pieces from seats to ends (n, 3) m; ``values``: jitter (n, 2) of turn and size, how large
    each is across (n,), the axis that is drawn out and the one that runs along. Also which have any length: those whose
    ends are one have none.
    """
    (jitter, scale, out_of, along), (low, high) = values, mesh.bounds
    third = 3 - out_of - along
    start = seats.origin + placing.side * seats.right + placing.lift * seats.up
    ends = ends + placing.side * seats.right + placing.lift * seats.up
    way = ends - start
    far = np.linalg.norm(way, axis=1)
    is_there = far > _LEAST * float((high - low).max())
    way = np.where(is_there[:, None], way / np.where(is_there, far, 1.0)[:, None], seats.up)
    forward = _across(seats.forward, way, seats.up)
    odd = (np.arange(len(far)) % 2).astype(float)
    turn = placing.turn + odd * placing.alternate + jitter[:, 0] * placing.turn_jitter
    side = np.cross(way, forward)
    forward = np.cos(turn)[:, None] * forward + np.sin(turn)[:, None] * side
    side = np.cross(way, forward)
    # axes in the order out, along, third are right-handed where that is an even order of x, y and z
    is_even = (along - out_of) % 3 == 1
    side = side if is_even else -side
    if placing.mirrored:
        side = side * (1.0 - 2.0 * odd)[:, None]
    size = placing.size * scale * (1.0 + jitter[:, 1] * placing.size_jitter)
    made = np.empty((len(far), 3, 4))
    made[:, :, out_of] = way * (far / (high - low)[out_of])[:, None]
    made[:, :, along] = forward * size[:, None]
    made[:, :, third] = side * size[:, None]
    middle = 0.5 * (start + ends)
    made[:, :, 3] = middle - np.einsum("nij,j->ni", made[:, :, :3], 0.5 * (low + high))
    return frozen(made), is_there


def _across(forward: Vectors3, way: Vectors3, up: Vectors3) -> Vectors3:
    """Forward as far as it lies across a way (n, 3); up where it runs along."""
    first, second = (guess - (guess * way).sum(1)[:, None] * way for guess in (forward, up))
    own: Vectors3 = np.where(np.linalg.norm(first, axis=1, keepdims=True) > 1e-6, first, second)
    return unit(own)
