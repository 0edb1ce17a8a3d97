"""A profile at rows: the directions that its blocks go along, how rings lie there and how fast they change."""

from collections.abc import Sequence
from dataclasses import dataclass, fields

import numpy as np

from morphax.core.body.profile import LawRows, Profile, Weights
from morphax.core.kernels.carrying import rolled
from morphax.core.types import Floats, Ints, Points3
from morphax.core.vectors import exact_turn

_LONG = 1e-9


@dataclass(frozen=True, eq=False)
class CarriedRows:
    """A profile at r rows: ``x`` and ``y`` (r, 3) the unit directions that a block's x and y go along, roll included;
    ``weights``; ``laws``; ``offset`` (r, 3) m from the path, None where it is on it."""

    x: Floats
    y: Floats
    weights: Weights
    laws: LawRows
    offset: Floats | None = None


def carried_rows(profile: Profile, right: Floats, up: Floats, s: Floats, side: Floats) -> CarriedRows:
    """What a profile is at rows whose frames have ``right`` and ``up`` (r, 3)."""
    laws = profile.laws.at(s, side)
    offset = None if laws.offset is None else laws.offset[:, :1] * right + laws.offset[:, 1:] * up
    if laws.roll.any():
        right, up = rolled(right, up, *rolled_axes(laws.roll))
    return CarriedRows(right, up, profile.weigh(s, side), laws, offset)


def taken_rows(rows: CarriedRows, at: Ints) -> CarriedRows:
    """Some of the rows, by their indices."""

    def taken(values: Floats | None) -> Floats | None:
        return None if values is None else values[at]

    laws = LawRows(*(taken(getattr(rows.laws, f.name)) for f in fields(LawRows)))  # type: ignore[arg-type]
    weights = Weights(rows.weights.values[at], rows.weights.rates[at])
    return CarriedRows(rows.x[at], rows.y[at], weights, laws, taken(rows.offset))


def joined_rows(parts: Sequence[CarriedRows]) -> CarriedRows:
    """Rows one after the other."""

    def joined(name: str, of: Sequence[object]) -> Floats | None:
        values = [getattr(own, name) for own in of]
        return None if values[0] is None else np.concatenate(values)

    all_laws = [p.laws for p in parts]
    laws = LawRows(*(joined(f.name, all_laws) for f in fields(LawRows)))  # type: ignore[arg-type]
    weights = Weights(*(np.concatenate([getattr(p.weights, n) for p in parts]) for n in ("values", "rates")))
    x, y = (np.concatenate([getattr(p, n) for p in parts]) for n in ("x", "y"))
    return CarriedRows(x, y, weights, laws, joined("offset", parts))


def rolled_axes(roll: Floats) -> tuple[Floats, Floats]:
    """Cosines and sines (r,) of rolls, rad; quarter turns are exact."""
    if len(roll) and (roll == roll[0]).all():
        c, n = exact_turn(float(roll[0]))
        return np.full(len(roll), c), np.full(len(roll), n)
    return np.cos(roll), np.sin(roll)


def _is_plain(rows: CarriedRows) -> bool:
    """Whether one block is carried just as it is."""
    laws = rows.laws
    return laws.stretch is None and rows.weights.values.shape[1] == 1 and bool((laws.size == 1.0).all())


def block_vectors(rows: CarriedRows) -> Floats:
    """(r, 2 j, 3): what x and y of each block are multiplied by, m per m."""
    axes = np.stack([rows.x, rows.y], axis=1)
    if _is_plain(rows):
        return axes
    axes = axes * rows.laws.scales[:, :, None]
    return (rows.weights.values[:, :, None, None] * axes[:, None]).reshape(len(axes), -1, 3)


def ring_coefficients(origin: Points3, rows: CarriedRows) -> Floats:
    """(r, 1 + 2 j, 3): the rings' origins, and what x and y of each block are multiplied by."""
    place = origin if rows.offset is None else origin + rows.offset
    if _is_plain(rows):
        out = np.empty((len(origin), 3, 3))
        out[:, 0], out[:, 1], out[:, 2] = place, rows.x, rows.y
        return out
    return np.concatenate([place[:, None], block_vectors(rows)], axis=1)


def extents(rows: CarriedRows, across: Floats, points: Floats) -> Floats:
    """Distances (r, t), m, of block points (t, 2 j) along directions ``across`` (r, 3) at rows, from the path."""
    reach = np.einsum("rkc,rc->rk", block_vectors(rows), across)
    out: Floats = reach @ points.T
    return out if rows.offset is None else out + (rows.offset * across).sum(1)[:, None]


def in_plane(rows: CarriedRows, vectors: Floats) -> Floats:
    """(r, 2) x and y of vectors (r, 3) along the rows' own x and y."""
    return np.stack([(vectors * rows.x).sum(-1), (vectors * rows.y).sum(-1)], axis=-1)


def _block_rates(rows: CarriedRows) -> tuple[Floats, Floats]:
    """(r, j, 2) factors of x and y of each block, and how fast they change, per m."""
    w, scales, rates = rows.weights, rows.laws.scales[:, None], rows.laws.scale_rates[:, None]
    return w.values[:, :, None] * scales, w.rates[:, :, None] * scales + w.values[:, :, None] * rates


def ring_speeds(rows: CarriedRows, points: Floats) -> Floats:
    """Largest speed (r,) per m of block points (t, 2 j) within the ring's plane, roll left out."""
    laws = rows.laws
    _, rate = _block_rates(rows)
    out: Floats = np.zeros(len(laws.size)) if laws.offset_rate is None else np.hypot(*laws.offset_rate.T)
    if not rate.any():
        return out
    xy = points.reshape(len(points), -1, 2)
    moved = np.einsum("rjc,tjc->rtc", rate, xy)
    out = out + np.hypot(moved[..., 0], moved[..., 1]).max(1)
    return out


def side_speeds(rows: CarriedRows, profile: Profile) -> Floats:
    """Largest change (r,) per m of any side of a ring across itself, by weights and factors: what twists its quads. One
    that only grows or shrinks leaves them flat."""
    factor, rate = _block_rates(rows)
    xy = profile.flat_points.reshape(profile.size, -1, 2)
    if not rate.any() or (xy.shape[1] == 1 and rows.laws.stretch is None):  # of one section sides only grow
        return np.zeros(len(rate))
    sides = np.concatenate([np.roll(xy[sl], -1, axis=0) - xy[sl] for sl in profile.loops.loop_slices])
    moved = np.einsum("rjc,tjc->rtc", rate, sides)
    own = np.einsum("rjc,tjc->rtc", factor, sides)
    long = np.hypot(own[..., 0], own[..., 1])
    across = np.abs(own[..., 0] * moved[..., 1] - own[..., 1] * moved[..., 0]) / np.maximum(long, 1e-300)
    far = np.hypot(moved[..., 0], moved[..., 1])
    out: Floats = np.where(long > _LONG * long.max(1, keepdims=True), across, far).max(1)
    return out
