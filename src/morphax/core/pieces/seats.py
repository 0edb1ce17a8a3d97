"""Where pieces sit: on the path, in the middle of the section there, or on its outline."""

from dataclasses import dataclass

import numpy as np

from morphax.core.body.carried import carried_rows, ring_coefficients
from morphax.core.body.profile import Profile
from morphax.core.body.rings import ring_points
from morphax.core.frame.frames import FrameField, frames_on
from morphax.core.types import Floats, Ints, Points3, Vectors3
from morphax.core.vectors import unit

_STEEP = 1e-3
"""An upright piece on a path that is so near to plumb lies as one that is carried."""
_LEAST_COSINE = 0.1
"""At sharper corners than that an outline is no longer drawn out further."""
_SAME = 1e-9
"""Places nearer than this share of the length are one."""


@dataclass(frozen=True, eq=False)
class Seats:
    """Places (n, 3) m with the ways right, up and forward (n, 3) there."""

    origin: Points3
    right: Vectors3
    up: Vectors3
    forward: Vectors3

    def __len__(self) -> int:
        return len(self.origin)


def path_seats(field: FrameField, s: Floats, *, upright: bool = False, closed: bool = False) -> Seats:
    """The frames at distances (n,) of a path, m; at a corner those between its two sides; ``upright`` ones stand plumb
    whatever the path does."""
    first, last = _legs_at(field, s, closed=closed)
    one = frames_on(field, first, s)
    forward = one.forward if one.tangent is None else one.tangent
    right, up = one.right, one.up
    at = np.flatnonzero(last >= 0)
    if len(at):
        leg = last[at]
        two = frames_on(field, leg, np.array([float(field.legs[k].s[-1]) for k in leg]))
        beside = two.forward if two.tangent is None else two.tangent
        forward, right = forward.copy(), right.copy()
        forward[at] = _between(forward[at], beside)
        right[at] = _between(right[at], two.right)
        right = unit(right - (right * forward).sum(1)[:, None] * forward)
        up = np.where(
            np.isin(np.arange(len(s)), at)[:, None], _up_of(one.right, one.up, one.forward, right, forward), up
        )
    return _stood_up(Seats(one.origin, right, up, forward)) if upright else Seats(one.origin, right, up, forward)


def _up_of(right: Vectors3, up: Vectors3, forward: Vectors3, new_right: Vectors3, new_forward: Vectors3) -> Vectors3:
    """The third way of axes whose others are new, to the side on which it was."""
    side = np.sign((np.cross(right, forward) * up).sum(1))
    out: Vectors3 = side[:, None] * np.cross(new_right, new_forward)
    return out


def _between(a: Vectors3, b: Vectors3) -> Vectors3:
    """Half way between two directions; the first where they are opposite."""
    mean = a + b
    long = np.linalg.norm(mean, axis=1, keepdims=True)
    out: Vectors3 = np.where(long > 1e-6, mean / np.maximum(long, 1e-6), a)
    return out


def _legs_at(field: FrameField, s: Floats, *, closed: bool) -> tuple[Ints, Ints]:
    """The leg of each distance, m, and where it is a corner the leg that ends there, else -1."""
    starts = np.array([float(f.s[0]) for f in field.legs])
    near = _SAME * float(field.table.total)
    leg: Ints = np.clip(np.searchsorted(starts, s + near, side="right") - 1, 0, len(starts) - 1).astype(np.int32)
    at_start = np.abs(s - starts[leg]) <= near
    before = np.where(at_start & (leg > 0), leg - 1, -1)
    if closed and len(starts) > 1:
        before = np.where(at_start & (leg == 0), len(starts) - 1, before)
    return leg, before.astype(np.int32)


def _stood_up(seats: Seats) -> Seats:
    """With right level and up as plumb as the path allows."""
    flat = np.cross(seats.forward, [0.0, 0.0, 1.0])
    long = np.linalg.norm(flat, axis=1)
    right = np.where((long > _STEEP)[:, None], flat / np.maximum(long, _STEEP)[:, None], seats.right)
    return Seats(seats.origin, right, unit(np.cross(right, seats.forward)), seats.forward)


@dataclass(frozen=True, eq=False)
class Outlines:
    """The rings of a profile at seats, seen in them: ``points`` (n, k, 2) m to the right and up, and ``loops``;
    ``reach`` (n,) how far the true outline is from its middle, m, whatever the number of its sides."""

    points: Floats
    loops: tuple[slice, ...]
    opens: tuple[bool, ...]
    reach: Floats

    @property
    def middle(self) -> Floats:
        """(n, 2) of the box round each."""
        out: Floats = 0.5 * (self.points.min(1) + self.points.max(1))
        return out


def outlines_at(field: FrameField, profile: Profile, s: Floats, seats: Seats, *, closed: bool = False) -> Outlines:
    """The profile's rings at distances (n,), m, seen from seats there."""
    leg, _ = _legs_at(field, s, closed=closed)
    frames = frames_on(field, leg, s)
    rows = carried_rows(profile, frames.right, frames.up, s, np.ones(len(s)))
    around = ring_points(ring_coefficients(frames.origin, rows), profile.flat_points) - frames.origin[:, None]
    truth = profile.true_reach / profile.reach if profile.reach > 0.0 else 1.0
    reach = truth * _half_width(_seen(around, frames.right, frames.up))
    straight = np.maximum((frames.forward * seats.forward).sum(1), _LEAST_COSINE)
    slid = np.einsum("npk,nk->np", around, seats.forward) / straight[:, None]  # at a corner into the plane of its mitre
    flat = _seen(around - slid[:, :, None] * frames.forward[:, None], seats.right, seats.up)
    return Outlines(flat, tuple(profile.loops.loop_slices), tuple(profile.loops.opens), reach)


def _seen(points: Floats, right: Vectors3, up: Vectors3) -> Floats:
    """(n, k, 2) of points (n, k, 3): to the right and up."""
    return np.stack([np.einsum("npk,nk->np", points, way) for way in (right, up)], axis=-1)


def _half_width(points: Floats) -> Floats:
    """(n,) the largest distance from the middle of the box round points (n, k, 2)."""
    middle = 0.5 * (points.min(1) + points.max(1))
    out: Floats = np.linalg.norm(points - middle[:, None], axis=2).max(1)
    return out


def moved_to(seats: Seats, flat: Floats) -> Seats:
    """Seats moved by (n, 2) m to the right and up."""
    origin = seats.origin + flat[:, :1] * seats.right + flat[:, 1:] * seats.up
    return Seats(origin, seats.right, seats.up, seats.forward)


def on_outline(seats: Seats, outlines: Outlines, around: Floats) -> Seats:
    """Seats on the outermost outline in a direction (n,), rad from right towards up, seen from its middle; their up
    looks out of it, across its side there."""
    way = np.stack([np.cos(around), np.sin(around)], axis=1)
    far, out = np.zeros(len(seats)), way.copy()
    local = outlines.points - outlines.middle[:, None]
    for loop, is_open in zip(outlines.loops, outlines.opens, strict=True):
        a = local[:, loop]
        b = np.roll(a, -1, axis=1)
        a, b = (a[:, :-1], b[:, :-1]) if is_open else (a, b)
        side = b - a
        down = side[..., 1] * way[:, None, 0] - side[..., 0] * way[:, None, 1]
        safe = np.where(down == 0.0, 1.0, down)
        t = (side[..., 1] * a[..., 0] - side[..., 0] * a[..., 1]) / safe
        u = (way[:, None, 1] * a[..., 0] - way[:, None, 0] * a[..., 1]) / safe
        meets = (down != 0.0) & (u >= -1e-9) & (u <= 1.0 + 1e-9) & (t > 0.0)
        t = np.where(meets, t, 0.0)
        k = t.argmax(1)
        rows = np.arange(len(seats))
        own = side[rows, k]
        normal = np.stack([own[:, 1], -own[:, 0]], axis=1) / np.maximum(np.hypot(*own.T), 1e-300)[:, None]
        normal *= np.where((normal * way).sum(1) < 0.0, -1.0, 1.0)[:, None]
        better = t[rows, k] > far
        far, out = np.where(better, t[rows, k], far), np.where(better[:, None], normal, out)
    place = moved_to(seats, outlines.middle + far[:, None] * way)
    up = out[:, :1] * seats.right + out[:, 1:] * seats.up
    right = out[:, 1:] * seats.right - out[:, :1] * seats.up
    return Seats(place.origin, right, up, seats.forward)
