"""Holding points: beside each corner of an outline one on either side, for meshes that are subdivided downstream."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from morphax.core.section.sampling import SampledSection, unit2
from morphax.core.section.segment_table import Index
from morphax.core.types import Floats, frozen

_THIRD = 1.0 / 3.0
"""Of a side between two corners each of them takes so much at most."""


def held_blocks(blocks: Sequence[SampledSection], distance: float) -> tuple[SampledSection, ...]:
    """Blocks of the same loops with points at a ``distance``, m, beside their corners, on their sides.

    A side that is no longer than that in any block gets none: its other end is near enough. Points on sides are where
    the sampled outline is, so that a held outline is the same one.
    """
    lengths = np.stack([_sides(b) for b in blocks])
    corner = np.any([b.corner for b in blocks], axis=0)
    after = np.concatenate([np.roll(corner[sl], -1) for sl in blocks[0].loop_slices])
    long = (lengths > distance).any(0)
    with np.errstate(divide="ignore"):
        share = np.minimum(distance / np.maximum(lengths, 1e-300), _THIRD)
    first, last = np.flatnonzero(corner & long), np.flatnonzero(after & long)
    if not len(first) and not len(last):
        return tuple(blocks)
    side = np.concatenate([first, last])
    at = np.concatenate([share[:, first], 1.0 - share[:, last]], axis=1)
    order = np.lexsort((at[0], side))
    return tuple(_with_points(b, side[order], t[order]) for b, t in zip(blocks, at, strict=True))


def _sides(s: SampledSection) -> Floats:
    """Length of the side from each point on, m; from a ribbon's end, which is no corner, back to its start."""
    onward = np.concatenate([np.roll(s.points[sl], -1, axis=0) for sl in s.loop_slices])
    out: Floats = np.hypot(*(onward - s.points).T)
    return out


def _with_points(s: SampledSection, side: Index, share: Floats) -> SampledSection:
    """A block with points at shares of some sides, in their order."""
    following = np.concatenate([np.roll(np.arange(sl.start, sl.stop), -1) for sl in s.loop_slices])[side]
    t = share[:, None]
    points = (1.0 - t) * s.points[side] + t * s.points[following]
    normal = unit2((1.0 - t) * s.after[side] + t * s.before[following])
    length = np.repeat(s.round_length, np.diff(s.starts))
    ends = np.where(following > side, s.u[following], length[side])
    u = (1.0 - share) * s.u[side] + share * ends
    at = side + 1
    return replace(
        s,
        points=frozen(np.insert(s.points, at, points, axis=0)),
        starts=tuple(int(v) for v in np.array(s.starts) + np.searchsorted(side, s.starts)),
        corner=frozen(np.insert(s.corner, at, values=False)),
        before=frozen(np.insert(s.before, at, normal, axis=0)),
        after=frozen(np.insert(s.after, at, normal, axis=0)),
        u=frozen(np.insert(s.u, at, u)),
        memo={},
        look=frozen(np.insert(s.look, at, s.look[side])) if s.looks else s.look,
    )
