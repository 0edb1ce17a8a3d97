"""The segments of many loops as arrays: an outline from a file may have ten thousand loops."""

from collections.abc import Sequence
from typing import Any

import numpy as np

from morphax.core.section.outlines import Loop
from morphax.core.types import Flags, Floats, Points2

Index = np.ndarray[Any, np.dtype[Any]]
"""Numbers of segments or loops."""


def table_of(loop: Loop) -> "SegmentTable":
    """A loop's own table, made once and kept with it."""
    known: SegmentTable | None = loop.__dict__.get("_table")
    if known is None:
        known = loop.__dict__["_table"] = SegmentTable((loop,))
    return known


class SegmentTable:
    """All segments of loops, one after the other; what ``Segment`` says of one, for many at once.

    ``first`` (l+1,) where loops begin; ``corner`` (m,); ``previous`` (m,) the segment before, round the loop;
    ``is_round`` (l,) loops that are one whole arc, ``of`` (m,) the loop of a segment; ``gaps`` the segments of ribbons
    that are not there.
    """

    def __init__(self, loops: Sequence[Loop]) -> None:
        segments = [s for loop in loops for s in loop.segments]
        counts = np.array([len(loop.segments) for loop in loops], dtype=np.int64)
        self.first: Index = np.concatenate([[0], np.cumsum(counts)])
        self.of: Index = np.repeat(np.arange(len(loops)), counts)
        self.previous: Index = np.arange(len(segments)) - 1
        self.previous[self.first[:-1]] += counts
        self.corner: Flags = np.array([s.corner for s in segments], dtype=np.bool_)
        self.is_arc: Flags = np.array([s.centre is not None for s in segments], dtype=np.bool_)
        self.is_cubic: Flags = np.array([s.inner is not None for s in segments], dtype=np.bool_)
        is_open = np.array([loop.is_open for loop in loops], dtype=np.bool_)
        self.gaps: Index = self.first[1:][is_open] - 1
        self.is_round: Flags = (counts == 1) & self.is_arc[self.first[:-1]] & ~is_open
        ends = np.array([(s.start, *(s.inner or (s.start, s.end)), s.end) for s in segments], dtype=np.float64)
        self._control: Floats = ends.reshape(-1, 4, 2)
        arcs = [(*(s.centre or (0.0, 0.0)), *s.radii, s.a0, s.a1) for s in segments]
        self._arc: Floats = np.array(arcs, dtype=np.float64).reshape(-1, 6)

    def at(self, k: Index, t: Floats) -> Points2:
        """Points (n, 2) of segments ``k`` (n,) at parameters ``t`` (n,) from 0 to 1."""
        p, w = self._control[k], (1.0 - t)
        out: Points2 = p[:, 0] + (p[:, 3] - p[:, 0]) * t[:, None]
        cubic = self.is_cubic[k]
        if cubic.any():
            u, v = t[cubic], w[cubic]
            weights = np.stack([v**3, 3.0 * v * v * u, 3.0 * v * u * u, u**3], axis=-1)
            out[cubic] = (weights[:, None] @ p[cubic])[:, 0]
        arc = self.is_arc[k]
        if arc.any():
            a = self._arc[k[arc]]
            angle = a[:, 4] + (a[:, 5] - a[:, 4]) * t[arc]
            out[arc] = a[:, :2] + np.stack([a[:, 2] * np.cos(angle), a[:, 3] * np.sin(angle)], axis=-1)
        return out

    def slope(self, k: Index, t: Floats) -> Points2:
        """Derivatives (n, 2) with respect to the parameter; where a handle is missing, the chord's direction."""
        p = self._control[k]
        out: Points2 = p[:, 3] - p[:, 0]
        cubic = self.is_cubic[k]
        if cubic.any():
            out[cubic] = self._cubic_slope(k[cubic], t[cubic])
        arc = self.is_arc[k]
        if arc.any():
            a = self._arc[k[arc]]
            sweep = a[:, 5] - a[:, 4]
            angle = a[:, 4] + sweep * t[arc]
            out[arc] = sweep[:, None] * np.stack([-a[:, 2] * np.sin(angle), a[:, 3] * np.cos(angle)], axis=-1)
        return out

    def _cubic_slope(self, k: Index, t: Floats) -> Points2:
        p, w = self._control[k], 1.0 - t
        weights = np.stack([3.0 * w * w, 6.0 * w * t, 3.0 * t * t], axis=-1)
        slope: Points2 = (weights[:, None] @ np.diff(p, axis=1))[:, 0]
        size = np.abs(p - p[:, :1]).max((1, 2))
        still = np.abs(slope).max(1) < 1e-9 * size
        if still.any():
            begins = t[still] < 0.5
            near = np.where(begins, t[still] + 1e-4, t[still] - 1e-4)
            chord = self.at(k[still], near) - self.at(k[still], t[still])
            slope[still] = chord * np.where(begins, 1e4, -1e4)[:, None]
        return slope

    def pieces_within(self, deviation: float) -> Index:
        """Fewest equal pieces (m,) of each segment that stay within a deviation, m."""
        out = np.ones(len(self._control))
        bend = 6.0 * np.hypot(*np.diff(self._control, n=2, axis=1).T).max(0)
        cubic = np.ceil(np.sqrt(bend / (8.0 * deviation)) - 1e-9)
        out[self.is_cubic] = cubic[self.is_cubic]
        a = self._arc[self.is_arc]
        share = np.clip(deviation / a[:, 2:4].max(1), 1e-9, 1.0)
        out[self.is_arc] = np.ceil(np.abs(a[:, 5] - a[:, 4]) / (2.0 * np.arccos(1.0 - share)) - 1e-9)
        whole: Index = np.maximum(out, 1.0).astype(np.int64)
        return whole
