"""Outlines by their length: places, directions and corners at shares of the way round."""

from functools import cached_property

import numpy as np

from morphax.core.section.outlines import Loop
from morphax.core.section.segment_table import Index, SegmentTable
from morphax.core.types import Floats, Points2

_CELLS = 64
"""Pieces of a curved segment whose lengths are tabled; within one Newton finds the parameter."""
_ROUNDS = 4
_X, _W = np.polynomial.legendre.leggauss(6)
_NODES, _WEIGHTS = 0.5 * (_X + 1.0), 0.5 * _W
_SMOOTH, _FINE, _JUMP = 1e-6, 512, 0.2
"""A turn, rad, from which on a point is a corner; places at which areas and the lowest place are looked for; by what
share the curvature changes where an outline bends otherwise."""


class LoopRuler:
    """A loop from a place of its own: that below its middle, or a ribbon's start. ``length`` m; ``is_open``."""

    def __init__(self, loop: Loop) -> None:
        self.is_open = loop.is_open
        self.table = SegmentTable((Loop(loop.drawn) if loop.is_open else loop,))
        self.looks = tuple(s.look for s in loop.drawn)
        n = len(loop.drawn)
        curved = self.table.is_arc | self.table.is_cubic
        cells = np.where(curved, _CELLS, 1)
        self._segment: Index = np.repeat(np.arange(n), cells)
        number = np.arange(len(self._segment)) - (np.cumsum(cells) - cells)[self._segment]
        self._t0: Floats = number / cells[self._segment]
        self._step: Floats = 1.0 / cells[self._segment]
        lengths = self._lengths(self._segment, self._t0, self._step)
        self._at: Floats = np.concatenate([[0.0], np.cumsum(lengths)])
        self.length = float(self._at[-1])
        self._corner_at: Floats = self._at[np.cumsum(cells) - cells]
        self._start = 0.0 if loop.is_open else self._below()

    def _lengths(self, k: Index, t: Floats, step: Floats) -> Floats:
        """Lengths (n,) of pieces of segments from ``t`` on, m."""
        at = (t[:, None] + _NODES * step[:, None]).ravel()
        slope = self.table.slope(np.repeat(k, len(_NODES)), at)
        out: Floats = (np.hypot(slope[:, 0], slope[:, 1]).reshape(len(k), len(_NODES)) @ _WEIGHTS) * step
        return out

    def _found(self, share: Floats) -> tuple[Index, Floats]:
        """Segments (n,) and parameters at shares of the way."""
        at = self._start + np.asarray(share) * self.length
        at = np.clip(at, 0.0, self.length) if self.is_open else at % self.length
        cell = np.clip(np.searchsorted(self._at, at, side="right") - 1, 0, len(self._segment) - 1)
        k, t0, step = self._segment[cell], self._t0[cell], self._step[cell]
        own = np.maximum(self._at[cell + 1] - self._at[cell], 1e-300)
        part = np.clip((at - self._at[cell]) / own, 0.0, 1.0)
        for _ in range(_ROUNDS if len(self._segment) > len(self.looks) else 0):
            gone = self._lengths(k, t0, part * step)
            slope = self.table.slope(k, t0 + part * step)
            speed = np.maximum(np.hypot(slope[:, 0], slope[:, 1]) * step, 1e-300)
            part = np.clip(part - (gone - (at - self._at[cell])) / speed, 0.0, 1.0)
        return k, t0 + part * step

    def at(self, share: Floats) -> Points2:
        """Points (n, 2) at shares of the way, m."""
        return self.table.at(*self._found(share))

    def look_at(self, share: Floats) -> list[str]:
        """The looks of the stretches at shares of the way."""
        return [self.looks[k] for k in self._found(share)[0]]

    def normals(self, share: Floats) -> tuple[Points2, Points2]:
        """Outward unit normals (n, 2) just before and just after places; at a corner they differ."""
        k, t = self._found(share)
        after, before = self.table.slope(k, t), self.table.slope(k, t)
        begins, ends = t <= 1e-12, t >= 1.0 - 1e-12
        n = len(self.looks)
        if begins.any():
            back = self.table.previous[k[begins]]
            before[begins] = self.table.slope(back, np.ones(len(back)))
        if ends.any():
            onward = (k[ends] + 1) % n
            after[ends] = self.table.slope(onward, np.zeros(len(onward)))
        one, two = (np.stack([v[:, 1], -v[:, 0]], axis=1) / np.hypot(*v.T)[:, None] for v in (before, after))
        return one, two

    @cached_property
    def corners(self) -> tuple[Floats, Floats]:
        """Shares (c,) of the corners in their order, and by how much the outline turns there, rad."""
        share = (
            ((self._corner_at - self._start) / self.length) % 1.0 if not self.is_open else self._corner_at / self.length
        )
        before, after = self.normals(share)
        turn = np.arctan2(before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0], (before * after).sum(1))
        is_corner = self.table.corner & (np.abs(turn) > _SMOOTH)
        if self.is_open:
            is_corner[0] = False
        share = np.where(share > 1.0 - 1e-12, 0.0, share)
        order = np.argsort(share[is_corner], kind="stable")
        return share[is_corner][order], turn[is_corner][order]

    @cached_property
    def _bends(self) -> Floats:
        """The curvature (c,) of the tabled cells, 1/m."""
        one, two = (self.table.slope(self._segment, self._t0 + share * self._step) for share in (0.0, 1.0))
        turn = np.arctan2(one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0], (one * two).sum(1))
        length = np.diff(self._at)
        out: Floats = np.where(length > 0.0, np.abs(turn) / np.maximum(length, 1e-300), 0.0)
        return out

    @cached_property
    def joints(self) -> Floats:
        """Shares (j,) of the places between two stretches at which an outline bends otherwise than before:
        where lines and arcs meet."""
        first = np.flatnonzero(self._t0 == 0.0)
        before, after = self._bends[first - 1], self._bends[first]
        jumps = np.abs(before - after) > _JUMP * np.maximum(before, after)
        jumps[0] &= not self.is_open
        out: Floats = ((self._at[first[jumps]] - self._start) / self.length) % 1.0
        return out

    def most_bend(self, a: Floats, b: Floats) -> Floats:
        """The largest curvature (n,) between pairs of shares, 1/m."""
        ends = np.stack([a, b], axis=1) * self.length + self._start
        turns = np.floor(ends[:, :1] / self.length) if not self.is_open else 0.0
        ends = ends - turns * self.length
        twice, bends = np.concatenate([self._at[:-1], self._at[:-1] + self.length]), np.tile(self._bends, 2)
        slack = 1e-9 * self.length
        low = np.searchsorted(twice, ends[:, 0] + slack, side="right") - 1
        high = np.maximum(np.searchsorted(twice, ends[:, 1] - slack, side="left"), low + 1)
        out: Floats = np.array([bends[i:j].max() for i, j in zip(low.tolist(), high.tolist(), strict=True)])
        return out

    @cached_property
    def middle(self) -> tuple[Floats, float]:
        """The area's centroid (2,), and the area, m2; a ribbon's middle by length, and its squared length."""
        share = (np.arange(_FINE) + 0.5) / _FINE
        if self.is_open:
            return self.at(share).mean(0), self.length**2
        p = self.at(np.unique(np.concatenate([np.arange(_FINE) / _FINE, self.corners[0]])))
        q = np.roll(p, -1, axis=0)
        cross = p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0]
        area = 0.5 * float(cross.sum())
        centre: Floats = ((p + q) * cross[:, None]).sum(0) / (6.0 * area) if area else p.mean(0)
        return centre, abs(area)

    def _below(self) -> float:
        """The length, m, at which the loop is met straight below the middle of its box, at its lowest."""
        k = np.repeat(np.arange(len(self.looks)), _FINE // 8)
        t = np.tile(np.arange(_FINE // 8) / (_FINE // 8), len(self.looks))
        p = self.table.at(k, t)
        x = 0.5 * (p[:, 0].min() + p[:, 0].max())
        q = np.roll(p, -1, axis=0)
        met = np.flatnonzero((p[:, 0] <= x) & (q[:, 0] > x))
        if not len(met):
            return 0.0
        share = (x - p[met, 0]) / (q[met, 0] - p[met, 0])
        low = int(np.argmin(p[met, 1] + share * (q[met, 1] - p[met, 1])))
        i, t0 = int(met[low]), float(t[met[low]])
        a, b = t0, t0 + 8.0 / _FINE
        for _ in range(60):  # to the place itself
            m = 0.5 * (a + b)
            if float(self.table.at(k[i : i + 1], np.array([m]))[0, 0]) <= x:
                a = m
            else:
                b = m
        first = int(np.searchsorted(self._segment, k[i]))
        step = float(self._step[first])
        cell = first + min(int(a / step), round(1.0 / step) - 1)
        part = self._lengths(self._segment[cell : cell + 1], self._t0[cell : cell + 1], np.array([a - self._t0[cell]]))
        return float(self._at[cell] + part[0])


def ruler_of(loop: Loop) -> LoopRuler:
    """A loop's own ruler, made once and kept with it."""
    known: LoopRuler | None = loop.__dict__.get("_ruler")
    if known is None:
        known = loop.__dict__["_ruler"] = LoopRuler(loop)
    return known
