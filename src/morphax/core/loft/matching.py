"""Sections of a loft, matched one after the other and sampled at the same places: as many points, loop for loop."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from morphax.core.errors import DensityError, SectionError
from morphax.core.loft.loop_ruler import LoopRuler, ruler_of
from morphax.core.loft.pairing import Pairing, paired
from morphax.core.section.pieces import plain, reversed_loop
from morphax.core.section.sampling import SampledSection
from morphax.core.section.sections import SectionShape
from morphax.core.types import Flags, Floats, Ints, frozen

Marks = tuple[tuple[float, float], ...]
"""Fixed pairs of shares of the first outlines of two neighbours."""
_SAME, _FEWEST, _MOST = 1e-9, 3, 100_000


@dataclass(frozen=True, eq=False)
class Matched:
    """Sections as ``blocks`` of the same loops, and how each one's first outline is paired with the one before."""

    blocks: tuple[SampledSection, ...]
    pairings: tuple[Pairing, ...]
    kept_corners: bool = False


@dataclass(frozen=True, eq=False)
class _Track:
    """A loop of all sections: its rulers, and from each one to the next the pairing."""

    rulers: tuple[LoopRuler, ...]
    pairings: tuple[Pairing, ...]
    is_hole: bool
    part: int

    def shares(self, t: Floats) -> list[Floats]:
        """Shares of the loop in each section for those of the first, or ``t`` itself."""
        out = [t]
        for pairing in self.pairings:
            out.append(pairing.onward(out[-1]))
        return out

    def features(self, *, joints: bool) -> Floats:
        """Shares of the first loop at which any of them has a corner or a mark, each once, in order; ``joints``: also
        those at which any bends otherwise than before."""
        found = [np.array([0.0, 1.0])] if self.rulers[0].is_open else []
        for k, ruler in enumerate(self.rulers):
            own = [ruler.corners[0], *([ruler.joints] if joints else [])]
            own += [self.pairings[k - 1].second[self.pairings[k - 1].fixed]] if k else []
            t = np.concatenate(own)
            for pairing in reversed(self.pairings[:k]):
                t = pairing.back(t)
            found.append(t)
        t = np.concatenate(found)
        if self.rulers[0].is_open:
            t = np.sort(np.clip(t, 0.0, 1.0))
        else:
            t = np.sort(t % 1.0)
            t = t[t < 1.0 - _SAME] if len(t) and t[0] < _SAME else t
        out: Floats = t[np.concatenate([[True], np.diff(t) > _SAME])] if len(t) else t
        return out


def matched_sections(
    shapes: Sequence[SectionShape],
    *,
    sides: int | None = None,
    deviation: float | None = None,
    marks: Sequence[Marks] = (),
) -> Matched:
    """Two sections or more as blocks of the same loops. ``sides`` points a loop, more where there are more features, or
    so many that all are within a ``deviation``, m. ``marks`` of each pair of neighbours.

    Raises SectionError where they have not as many outlines and holes.
    """
    tracks = _tracks(shapes, marks)
    if sides is not None and not _FEWEST <= sides <= _MOST:
        raise DensityError(f"sides is {sides}; a section has {_FEWEST} to {_MOST}")
    places = [_places(track, sides, deviation) for track in tracks]
    blocks = tuple(_block(tracks, places, k) for k in range(len(shapes)))
    short = sides is not None and any(
        len(p) > sides + (1 if t.rulers[0].is_open else 0) for t, p in zip(tracks, places, strict=True)
    )
    return Matched(blocks, tracks[0].pairings, short)


def _rulers(shape: SectionShape) -> list[list[LoopRuler]]:
    """Of each part the outline and its holes, all counter-clockwise."""
    return [[ruler_of(p.outer), *(ruler_of(reversed_loop(plain(h))) for h in p.holes)] for p in shape.parts]


def _tracks(shapes: Sequence[SectionShape], marks: Sequence[Marks]) -> list[_Track]:
    found = [_rulers(s) for s in shapes]
    first = found[0]
    chains = [[[r] for r in loops] for loops in first]
    for later in found[1:]:
        order = _partners([c[0][-1] for c in chains], [loops[0] for loops in later])
        for chain, k in zip(chains, order, strict=True):
            own = later[k]
            if len(own) != len(chain):
                raise SectionError("the sections along the path have not as many holes as each other")
            holes = _partners([c[-1] for c in chain[1:]], own[1:])
            chain[0].append(own[0])
            for c, i in zip(chain[1:], holes, strict=True):
                c.append(own[1 + i])
    out = list[_Track]()
    for i, chain in enumerate(chains):
        for k, rulers in enumerate(chain):
            own_marks = [marks[n] if n < len(marks) and not out else () for n in range(len(rulers) - 1)]
            pairs = [paired(a, b, m) for a, b, m in zip(rulers[:-1], rulers[1:], own_marks, strict=True)]
            out.append(_Track(tuple(rulers), tuple(pairs), k > 0, i))
    return out


def _partners(a: list[LoopRuler], b: list[LoopRuler]) -> list[int]:
    """Which of the later loops each of the earlier ones becomes: near, and alike in size."""
    if len(a) != len(b):
        raise SectionError("the sections along the path have not as many outlines as each other")
    if any(x.is_open is not b[0].is_open for x in (*a, *b)):
        raise SectionError("an open line does not become a closed outline along the path")
    if len(a) < 2:
        return list(range(len(a)))
    from scipy.optimize import linear_sum_assignment  # start-up time: few lofts have several outlines

    ca, cb = (np.array([r.middle[0] for r in v]) for v in (a, b))
    area_a, area_b = (np.array([r.middle[1] for r in v]) for v in (a, b))
    width = max(float(np.ptp(ca, axis=0).max()), float(np.ptp(cb, axis=0).max()), float(np.sqrt(area_a.max())))
    far = np.linalg.norm(ca[:, None] - cb[None], axis=-1) / width
    cost = far + np.abs(np.log(np.maximum(area_a, 1e-300)[:, None] / np.maximum(area_b, 1e-300)[None]))
    return [int(j) for j in linear_sum_assignment(cost)[1]]


def _places(track: _Track, sides: int | None, deviation: float | None) -> Floats:
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


def _needed(track: _Track, a: Floats, b: Floats, deviation: float | None) -> Ints:
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


def _shared_out(track: _Track, a: Floats, b: Floats, sides: int) -> Ints:
    """So many points in all, but one for each feature: each to the stretch that is longest for its points."""
    length = np.max([y - x for x, y in zip(track.shares(a), track.shares(b), strict=True)], axis=0)
    counts: Ints = np.ones(len(a), dtype=np.int32)
    for _ in range(max(sides - len(a), 0)):
        each = length / counts
        counts[int(np.argmax(each > each.max() * (1.0 - _SAME)))] += 1
    return counts


def _block(tracks: Sequence[_Track], places: Sequence[Floats], k: int) -> SampledSection:
    """One section at the places of all."""
    parts = [_loop_rows(track, track.shares(t)[k], k) for track, t in zip(tracks, places, strict=True)]
    counts = [len(t) for t in places]
    starts = np.concatenate([[0], np.cumsum(counts)]).tolist()
    columns = [np.concatenate([p[i] for p in parts]) for i in range(5)]
    lengths = [track.rulers[k].length for track in tracks]
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


def _loop_rows(track: _Track, share: Floats, k: int) -> Rows:
    """Points, normals before and after them, corners, lengths from the first one, and looks of the sides, of a loop."""
    ruler = track.rulers[k]
    points, (before, after) = ruler.at(share), ruler.normals(share)
    off = np.abs((share[:, None] - ruler.corners[0][None] + 0.5) % 1.0 - 0.5)
    corner: Flags = np.asarray((off < _SAME).any(1))
    before = np.where(corner[:, None], before, after)
    along = (share - share[0]) * ruler.length
    onward = np.append(share[1:], share[0] + 1.0)
    looks = ruler.look_at(0.5 * (share + onward)) if any(ruler.looks) else [""] * len(share)
    if ruler.is_open:  # walked from its end, so that its front is out
        corner[[0, -1]] = False
        looks = [*reversed(looks[:-1]), ""]
        back = ruler.length - along
        return points[::-1], -after[::-1], -before[::-1], corner[::-1], back[::-1], looks
    if track.is_hole:  # walked clockwise from the same point
        turn = np.r_[0, np.arange(len(share) - 1, 0, -1)]
        back = np.where(turn == 0, 0.0, ruler.length - along[turn])
        looks = [looks[i - 1] for i in turn.tolist()]
        return points[turn], -after[turn], -before[turn], corner[turn], back, looks
    return points, before, after, corner, along, looks
