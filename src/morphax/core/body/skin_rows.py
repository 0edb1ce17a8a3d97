"""Points, true normals and texture of all rows of a skin."""

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

import numpy as np

from morphax.core.body.carried import in_plane
from morphax.core.body.profile import Profile
from morphax.core.body.rings import Rows, ring_points
from morphax.core.kernels.compiling import packed
from morphax.core.kernels.skinning import (
    ROW,
    BlendedRows,
    put_blended_rows,
    put_even_rows,
    put_leaning,
    put_rows,
)
from morphax.core.types import Floats, Ints, Points3, Single
from morphax.core.vectors import cross, dot

Later = Callable[[Callable[[], Any]], Callable[[], Any]]


@contextmanager
def second_thread(is_worth_it: bool) -> Iterator[Later]:
    """Gives ``later(make)``, a function that returns what ``make`` makes: begun at once, in a thread of its own, where
    that is worth it, else made when it is asked for. NumPy lets both threads run, so large bodies take both cores.
    """
    if not is_worth_it:
        yield lambda make: make
        return
    with ThreadPoolExecutor(1) as pool:
        yield lambda make: pool.submit(make).result


@dataclass(frozen=True, eq=False)
class SkinArrays:
    """What is written: ``points`` (rings, n, 3), ``normals`` (r, c, 3) and ``uvs`` (r, c, 2) of rows."""

    points: Points3
    normals: Single
    uvs: Single


@dataclass(frozen=True, eq=False)
class SkinColumns:
    """The vertex columns round a section: ``point`` (c,) and ``across`` (c, 5 j), see ``profile_columns``; ``ring``
    (r,) the ring of each row."""

    point: Ints
    across: Floats
    ring: Ints


_SECOND = 0.38
"""Share of the rows that a thread makes beside the faces, where a second one does."""


def put_skin_rows(rows: Rows, profile: Profile, columns: SkinColumns, out: SkinArrays, later: Later) -> None:
    """Points, normals and texture of all rows; ``later`` as ``second_thread`` gives it."""
    if _is_blended(rows):
        blended, count = _blended(rows, columns.ring), len(rows.s)
        turned = columns.across.copy()
        turned[:, 4::5] *= rows.carried.laws.size[0]
        own = (packed(turned.T), columns.point)
        arrays, middle = (out.points, out.normals, out.uvs), round((1.0 - _SECOND) * count)
        rest = later(lambda: put_blended_rows(blended, slice(middle, count), own, arrays))
        put_blended_rows(blended, slice(0, middle), own, arrays)
        rest()
    else:
        points = later(lambda: _put_points(rows, profile, columns.ring, out.points))
        _put_carried(rows, columns.across, out.normals, out.uvs)
        points()
    _put_in_order(rows, out.uvs)


def _put_points(rows: Rows, profile: Profile, ring: Ints, out: Points3) -> None:
    coefficients = rows.coefficients
    if len(out) != len(ring):
        coefficients = coefficients[np.unique(ring, return_index=True)[1]]
    ring_points(coefficients, profile.flat_points, out)


def _put_in_order(rows: Rows, uvs: Single) -> None:
    """Texture beside mitres of legs that bend: a point that the mitre sends on along the leg's tangent may come farther
    than its place on the next ring; no track's texture runs back there."""
    first, last = rows.starts[:-1], rows.starts[1:] - 1
    leans = rows.sent[first, 1:].any(1) | rows.sent[last, 1:].any(1)
    for leg in np.flatnonzero(leans & (last - first > 1)):
        low, high = uvs[first[leg], :, 1], uvs[last[leg], :, 1]
        inner = uvs[first[leg] + 1 : last[leg], :, 1]
        np.copyto(inner, np.clip(inner, low, high), where=low <= high)


def _is_blended(rows: Rows) -> bool:
    laws = rows.carried.laws
    return bool(rows.carried.weights.values.shape[1] > 1 or laws.size_rate.any() or laws.moves)


def _blended(rows: Rows, ring: Ints) -> BlendedRows:
    """Rows as their loop takes them; a ring's points are made by its first row."""
    fr, carried = rows.frames, rows.carried
    laws, weights = carried.laws, carried.weights
    numbers = np.empty((len(rows.s), 12))
    numbers[:, 0] = fr.roll_rate + laws.roll_rate
    numbers[:, 1:3], numbers[:, 3:5], numbers[:, 5:7] = laws.scales, laws.scale_rates, laws.stretches
    numbers[:, 7:11], numbers[:, 11] = _aside(rows), rows.s
    first = np.full(len(ring), -1, dtype=np.int32)
    at = np.unique(ring, return_index=True)[1] if ring[-1] != len(ring) - 1 else slice(None)
    first[at] = ring[at]
    place = fr.origin if carried.offset is None else fr.origin + carried.offset
    track, bend = (fr.forward, fr.curvature) if fr.tangent is None else (fr.tangent, np.zeros((len(rows.s), 3)))
    frames = (carried.x, carried.y, track, place, bend)
    return BlendedRows(frames, numbers, (weights.values, weights.rates, rows.sent), first)


def _aside(rows: Rows) -> Floats:
    """How fast the rings' centres move beside the path (r, 3), and their bend: 0 on the path itself."""
    fr, laws, offset = rows.frames, rows.carried.laws, rows.carried.offset
    out = np.zeros((len(rows.s), 4))
    if laws.offset is None or laws.offset_rate is None or offset is None:
        return out
    turned = laws.offset_rate + fr.roll_rate[:, None] * np.stack([-laws.offset[:, 1], laws.offset[:, 0]], axis=1)
    out[:, :3] = turned[:, :1] * fr.right + turned[:, 1:] * fr.up
    if fr.tangent is None:
        out[:, 3] = dot(offset, fr.curvature)
    return out


def _put_carried(rows: Rows, across: Floats, normals: Single, uvs: Single) -> None:
    """Normals and texture of one section that keeps its size."""
    fr, carried = rows.frames, rows.carried
    laws = carried.laws
    rate = fr.roll_rate + laws.roll_rate
    if fr.tangent is None and not rate.any():
        put_even_rows((carried.x, carried.y), rows.distance, across, float(laws.size[0]), normals, uvs)
        return
    across = across.copy()
    across[:, 4::5] *= laws.size[0]
    each = np.zeros((len(rows.s), ROW))
    each[:, :3], each[:, 3:6], each[:, 6:9], each[:, 12:] = carried.x, carried.y, fr.forward, rows.distance
    if rate.any():
        each[:, 9:11] = in_plane(carried, fr.curvature) * laws.size[:, None]
        each[:, 11] = rate * laws.size
    put_rows(each, across, normals, uvs)
    if fr.tangent is not None:  # rings that are not across the path: ring direction and track, crossed
        pair = np.stack([cross(fr.tangent, carried.y), cross(carried.x, fr.tangent)], axis=-2)
        put_leaning(pair, across, normals)
