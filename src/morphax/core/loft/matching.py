"""Sections of a loft, matched one after the other and sampled at the same places: as many points, loop for loop."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from morphax.core.errors import DensityError
from morphax.core.loft.pairing import Pairing
from morphax.core.loft.tracks import Home, Marks, Track, tracks_of
from morphax.core.section.sampling import SampledSection
from morphax.core.section.sections import SectionShape
from morphax.core.types import Flags, Floats, Ints, frozen

_SAME, _FEWEST, _MOST = 1e-9, 3, 100_000


@dataclass(frozen=True, eq=False)
class Matched:
    """Sections as ``blocks`` of the same loops, and how each one's first outline is paired with the one before."""

    blocks: tuple[SampledSection, ...]
    pairings: tuple[Pairing, ...]
    kept_corners: bool = False


def matched_sections(
    shapes: Sequence[SectionShape],
    *,
    sides: int | None = None,
    deviation: float | None = None,
    marks: Sequence[Marks] = (),
    homes: Sequence[Home] = (),
) -> Matched:
    """Two sections or more as blocks of the same loops. ``sides`` points a loop, more where there are more features, or
    so many that all are within a ``deviation``, m. ``marks`` of each pair of neighbours.

    An outline or a hole that has no partner in another section is a point there, at the same place by the ``homes`` of
    both. Raises SectionError where open lines would follow closed outlines.
    """
    tracks = tracks_of(shapes, marks, homes)
    if sides is not None and not _FEWEST <= sides <= _MOST:
        raise DensityError(f"sides is {sides}; a section has {_FEWEST} to {_MOST}")
    places = [_places(track, sides, deviation) for track in tracks]
    blocks = tuple(_block(tracks, places, k) for k in range(len(shapes)))
    short = sides is not None and any(
        len(p) > sides + (1 if t.rulers[0].is_open else 0) for t, p in zip(tracks, places, strict=True)
    )
    return Matched(blocks, tracks[0].pairings, short)


def _places(track: Track, sides: int | None, deviation: float | None) -> Floats:
    """Shares of the first loop at which all of them have points."""
    features, is_open = track.features(joints=True), track.rulers[0].is_open
    if sides is not None and len(features) > sides:
        features = track.features(joints=False)
    if not len(features):
        count = sides or max(_FEWEST, _needed(track, np.array([0.0]), np.array([1.0]), deviation).item())
        own: Floats = (np.arange(count) + 0.5) / count  # a flat at the bottom
        return own
    a = features[:-1] if is_open else features
    b = features[1:] if is_open else np.append(features[1:], features[0] + 1.0)
    if sides is None:
        counts = _needed(track, a, b, deviation)
        while counts.sum() < _FEWEST and not is_open:
            counts[int(np.argmax((b - a) / counts))] += 1
    else:
        counts = _shared_out(track, a, b, sides)
    parts = [x + (y - x) * np.arange(n) / n for x, y, n in zip(a, b, counts.tolist(), strict=True)]
    out: Floats = np.concatenate([*parts, features[-1:]] if is_open else parts)
    return out


def _needed(track: Track, a: Floats, b: Floats, deviation: float | None) -> Ints:
    """Pieces (n,) of the stretches between shares of the first loop so that all loops keep within the deviation, m."""
    if deviation is None or not deviation > 0.0:
        raise DensityError("a section is sampled by deviation or by sides, one of the two")
    most = np.ones(len(a))
    for ruler, x, y in zip(track.rulers, track.shares(a), track.shares(b), strict=True):
        length = np.maximum(y - x, 0.0) * ruler.length
        bend = ruler.most_bend(x, np.maximum(y, x))
        most = np.maximum(most, length * np.sqrt(bend / (8.0 * deviation)))
    counts: Ints = np.ceil(most - 1e-6).astype(np.int32)
    if counts.sum() > _MOST:
        raise DensityError(f"this density asks for {counts.sum()} sides; {_MOST} is the limit")
    out: Ints = np.maximum(counts, 1)
    return out


def _shared_out(track: Track, a: Floats, b: Floats, sides: int) -> Ints:
    """So many points in all, but one for each feature: each to the stretch that is longest for its points."""
    length = np.max([y - x for x, y in zip(track.shares(a), track.shares(b), strict=True)], axis=0)
    counts: Ints = np.ones(len(a), dtype=np.int32)
    for _ in range(max(sides - len(a), 0)):
        each = length / counts
        counts[int(np.argmax(each > each.max() * (1.0 - _SAME)))] += 1
    return counts


def _block(tracks: Sequence[Track], places: Sequence[Floats], k: int) -> SampledSection:
    """One section at the places of all."""
    parts = [_loop_rows(track, track.shares(t)[k], k) for track, t in zip(tracks, places, strict=True)]
    counts = [len(t) for t in places]
    starts = np.concatenate([[0], np.cumsum(counts)]).tolist()
    columns = [np.concatenate([p[i] for p in parts]) for i in range(5)]
    lengths = [0.0 if track.is_point(k) else track.rulers[k].length for track in tracks]
    is_open = tuple(track.rulers[0].is_open for track in tracks)
    looks = [name for p in parts for name in p[5]]
    names = tuple(dict.fromkeys(["", *looks]))
    look = np.array([names.index(v) for v in looks] if len(names) > 1 else [], dtype=np.int64)
    return SampledSection(
        frozen(columns[0]),
        tuple(starts),
        tuple(track.part for track in tracks),
        tuple(track.is_hole for track in tracks),
        frozen(columns[3].astype(np.bool_)),
        frozen(columns[1]),
        frozen(columns[2]),
        frozen(columns[4]),
        tuple(lengths),
        is_open=is_open if any(is_open) else (),
        looks=names if len(names) > 1 else (),
        look=frozen(look),
    )


Rows = tuple[Floats, Floats, Floats, Flags, Floats, list[str]]


def _loop_rows(track: Track, share: Floats, k: int) -> Rows:
    """Points, normals before and after them, corners, lengths from the first one, and looks of the sides, of a loop."""
    ruler = track.rulers[k]
    points, (before, after), long = ruler.at(share), ruler.normals(share), ruler.length
    gone = track.points[k]
    if gone is not None:
        points, long = np.tile(gone, (len(share), 1)), 0.0
    off = np.abs((share[:, None] - ruler.corners[0][None] + 0.5) % 1.0 - 0.5)
    corner: Flags = np.asarray((off < _SAME).any(1))
    before = np.where(corner[:, None], before, after)
    along = (share - share[0]) * long
    onward = np.append(share[1:], share[0] + 1.0)
    looks = ruler.look_at(0.5 * (share + onward)) if any(ruler.looks) else [""] * len(share)
    if ruler.is_open:  # walked from its end, so that its front is out
        corner[[0, -1]] = False
        looks = [*reversed(looks[:-1]), ""]
        back = long - along
        return points[::-1], -after[::-1], -before[::-1], corner[::-1], back[::-1], looks
    if track.is_hole:  # walked clockwise from the same point
        turn = np.r_[0, np.arange(len(share) - 1, 0, -1)]
        back = np.where(turn == 0, 0.0, long - along[turn])
        looks = [looks[i - 1] for i in turn.tolist()]
        return points[turn], -after[turn], -before[turn], corner[turn], back, looks
    return points, before, after, corner, along, looks
