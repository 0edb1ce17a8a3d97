"""Where pieces sit: on the path, in the middle of the section there, or on its outline."""

from dataclasses import dataclass, replace

import numpy as np

from morphax.core.body.carried import carried_rows, ring_coefficients
from morphax.core.body.profile import Profile
from morphax.core.body.rings import ring_points
from morphax.core.frame.frames import FrameField, frames_on
from morphax.core.types import Flags, Floats, Ints, Points3, Vectors3
from morphax.core.vectors import unit

_STEEP = 1e-3
"""An upright piece on a path that is so near to plumb lies as one that is carried."""
_LEAST_COSINE = 0.1
"""At sharper corners than that an outline is no longer drawn out further."""
_SAME = 1e-9
"""Places nearer than this share of the length are one."""


@dataclass(frozen=True, eq=False)
class Seats:
    """Places (n, 3) m with the ways right, up and forward (n, 3) there; ``differs`` (n,) where these are not those of
    the run's ring."""

    origin: Points3
    right: Vectors3
    up: Vectors3
    forward: Vectors3
    differs: Flags

    def __len__(self) -> int:
        return len(self.origin)


def path_seats(field: FrameField, s: Floats, *, upright: bool = False, closed: bool = False) -> Seats:
    """The frames at distances (n,) of a path, m; at a corner those between its two sides; ``upright`` ones stand plumb
    whatever the path does."""
    s, first, last = _legs_at(field, s, closed=closed)
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
    differs = last >= 0
    return (
        _stood_up(Seats(one.origin, right, up, forward, differs))
        if upright
        else Seats(one.origin, right, up, forward, differs)
    )


def _up_of(right: Vectors3, up: Vectors3, forward: Vectors3, new_right: Vectors3, new_forward: Vectors3) -> Vectors3:
    """The third way of axes whose others are new, to the side on which it was."""
    side = np.sign((np.cross(right, forward) * up).sum(1))
    out: Vectors3 = side[:, None] * np.cross(new_right, new_forward)
    return out


def _between(a: Vectors3, b: Vectors3) -> Vectors3:
    """Half way between two directions; the first where they are opposite."""
    mean = a + b
    long = np.linalg.norm(mean, axis=1, keepdims=True)
    out: Vectors3 = np.where(long > 1e-6, unit(mean), a)
    return out


def _legs_at(field: FrameField, s: Floats, *, closed: bool) -> tuple[Floats, Ints, Ints]:
    """Each distance, m, as the legs count it, its leg, and where it is a corner the leg that ends there, else -1. The
    first leg of a closed path begins at its first corner: what lies before that is the end of the last one."""
    starts = np.array([float(f.s[0]) for f in field.legs])
    near = _SAME * float(field.table.total)
    if closed:
        s = np.where(s < starts[0] - near, s + float(field.table.total), s)
    leg: Ints = np.clip(np.searchsorted(starts, s + near, side="right") - 1, 0, len(starts) - 1).astype(np.int32)
    at_start = np.abs(s - starts[leg]) <= near
    before = np.where(at_start & (leg > 0), leg - 1, -1)
    if closed and len(starts) > 1:
        before = np.where(at_start & (leg == 0), len(starts) - 1, before)
    return s, leg, before.astype(np.int32)


def _stood_up(seats: Seats) -> Seats:
    """With right level and up as plumb as the path allows."""
    flat = np.cross(seats.forward, [0.0, 0.0, 1.0])
    long = np.linalg.norm(flat, axis=1)
    right = np.where((long > _STEEP)[:, None], flat / np.maximum(long, _STEEP)[:, None], seats.right)
    up = unit(np.cross(right, seats.forward))
    return Seats(seats.origin, right, up, seats.forward, np.ones(len(seats), dtype=np.bool_))


@dataclass(frozen=True, eq=False)
class Outlines:
    """The rings of a profile at seats, seen in them: ``points`` (n, k, 2) m to the right and up, ``middle`` (n, 2) of
    the box round them, and ``loops``; ``reach`` (n,) how far the true outline is from its middle, m, whatever the
    number of its sides."""

    points: Floats
    loops: tuple[slice, ...]
    opens: tuple[bool, ...]
    middle: Floats
    reach: Floats

    @property
    def boxes(self) -> "Outlines":
        """The boxes round them."""
        (x, y), (far_x, far_y) = (f(1).T for f in (self.points.min, self.points.max))
        corners = np.stack([np.stack(c, axis=1) for c in ((x, y), (far_x, y), (far_x, far_y), (x, far_y))], axis=1)
        return replace(self, points=corners, loops=(slice(0, 4),), opens=(False,))

    def taken(self, at: Ints) -> "Outlines":
        """Some of them, by their numbers."""
        return Outlines(self.points[at], self.loops, self.opens, self.middle[at], self.reach[at])


def outlines_at(field: FrameField, profile: Profile, s: Floats, seats: Seats, *, closed: bool = False) -> Outlines:
    """The profile's rings at distances (n,), m, seen from seats there. Where all rings are alike, one is looked at."""
    n, looked = len(s), slice(0, 1) if profile.is_even else slice(None)
    on, leg, _ = _legs_at(field, s[looked], closed=closed)
    frames = frames_on(field, leg, on)
    rows = carried_rows(profile, frames.right, frames.up, on, np.ones(len(leg)))
    around = ring_points(ring_coefficients(frames.origin, rows), profile.flat_points) - frames.origin[:, None]
    own = _seen(around, frames.right, frames.up)
    truth = profile.true_reach / profile.reach if profile.reach > 0.0 else 1.0
    middle = _middle(own)
    reach = truth * np.linalg.norm(own - middle[:, None], axis=2).max(1)
    loops, opens = tuple(profile.loops.loop_slices), tuple(profile.loops.opens)
    points = np.broadcast_to(own, (n, *own.shape[1:]))
    every = Outlines(points, loops, opens, np.broadcast_to(middle, (n, 2)), np.broadcast_to(reach, (n,)))
    other = np.flatnonzero(seats.differs).astype(np.int32)
    return _seen_from(field, every, (other, s[other]), seats, closed=closed) if len(other) else every


def _seen_from(
    field: FrameField, outlines: Outlines, others: tuple[Ints, Floats], seats: Seats, *, closed: bool
) -> Outlines:
    """Outlines with those at seats that look elsewhere than their rings seen from there; at a corner in the plane of
    its mitre."""
    at, s = others
    on, leg, _ = _legs_at(field, s, closed=closed)
    frames = frames_on(field, leg, on)
    own = outlines.points[at]
    around = own[:, :, :1] * frames.right[:, None] + own[:, :, 1:] * frames.up[:, None]
    straight = np.maximum((frames.forward * seats.forward[at]).sum(1), _LEAST_COSINE)
    slid = np.einsum("npk,nk->np", around, seats.forward[at]) / straight[:, None]
    points, middle = outlines.points.copy(), outlines.middle.copy()
    points[at] = _seen(around - slid[:, :, None] * frames.forward[:, None], seats.right[at], seats.up[at])
    middle[at] = _middle(points[at])
    return replace(outlines, points=points, middle=middle)


def _seen(points: Floats, right: Vectors3, up: Vectors3) -> Floats:
    """(n, k, 2) of points (n, k, 3): to the right and up."""
    return np.stack([np.einsum("npk,nk->np", points, way) for way in (right, up)], axis=-1)


def _middle(points: Floats) -> Floats:
    """(n, 2) of the box round points (n, k, 2)."""
    out: Floats = 0.5 * (points.min(1) + points.max(1))
    return out


def moved_to(seats: Seats, flat: Floats) -> Seats:
    """Seats moved by (n, 2) m to the right and up."""
    origin = seats.origin + flat[:, :1] * seats.right + flat[:, 1:] * seats.up
    return replace(seats, origin=origin)


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
    return replace(place, right=right, up=up)
