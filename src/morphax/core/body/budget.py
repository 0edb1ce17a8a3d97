"""The best body within a number of faces: the deviation gives the proportions, then it is filled ring by ring."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from morphax.core.body.recipe import Body, Density
from morphax.core.findings import Finding, Severity

_TRIES, _FILLS, _BUILDS, _NEAR = 4, 5, 12, 0.93
"""Deviations that are tried, fillings by rings, bodies in all, and the share of the budget that is near enough to be
filled up."""
_COARSEST, _FINER, _HALVINGS = 1e4, 0.05, 15
"""A deviation of so many widths asks for nothing; a finer outline is looked for down to this share of its deviation."""
Build = Callable[[Density], Body]


class _Filling:
    """Bodies within a budget, each built once."""

    def __init__(self, build: Build, count_sides: Callable[[Density], int], asked: Density) -> None:
        assert asked.budget is not None
        self.build, self.count_sides, self.asked, self.budget = build, count_sides, asked, asked.budget
        self._known: dict[Density, Body] = {}

    def body(self, density: Density) -> Body:
        if density not in self._known:
            self._known[density] = self.build(density)
        return self._known[density]

    def fits(self, body: Body) -> bool:
        return body.mesh.face_count <= self.budget

    def by(self, deviation: float) -> Density:
        """All of it within a deviation; a typed number of sides stays."""
        own = None if self.asked.sides is None else self.asked.sides
        return Density(deviation=deviation, sides=own, crease=self.asked.crease, hold=self.asked.hold)

    def filled(self, rings: int, within: float) -> Density:
        """So many rings, of an outline within a deviation."""
        own = self.asked.sides
        within_ = None if own is not None else within
        return Density(rings=rings, sides=own, sides_within=within_, crease=self.asked.crease, hold=self.asked.hold)

    def proportions(self, deviation: float) -> tuple[float, Body] | None:
        """A deviation at which the body nearly fills the budget, and that body; None where nothing is coarse enough."""
        low, high, best = 0.0, np.inf, None
        for _ in range(_TRIES):
            body = self.body(self.by(deviation))
            faces = body.mesh.face_count
            if faces <= self.budget:
                best, high = (deviation, body), deviation
                if faces >= _NEAR * self.budget:
                    break
            else:
                low = deviation
            wanted = deviation * faces / (0.5 * (1.0 + _NEAR) * self.budget)
            inside = low < wanted < high
            deviation = wanted if inside else np.sqrt(low * high) if low and np.isfinite(high) else wanted
        return best

    def most_rings(self, rings: int, within: float) -> tuple[int, Body]:
        """As many rings as the budget allows; fewer than asked for where it is exceeded."""
        fits: tuple[int, Body] | None = None
        over, known = None, list[tuple[int, int]]()
        for _ in range(_FILLS):
            body = self.body(self.filled(rings, within))
            faces, each = body.mesh.face_count, max(body.sides, 1)
            known.append((rings, faces))
            if faces <= self.budget:
                fits = (rings, body) if fits is None or rings > fits[0] else fits
            else:
                over = rings if over is None else min(over, rings)
            is_full = fits is not None and (self.budget - fits[1].mesh.face_count < each or over == fits[0] + 1)
            wanted = max(rings + int((self.budget - faces) // self._each(known, each)), 2)
            if fits is not None and over is not None:
                wanted = min(max(wanted, fits[0] + 1), over - 1)
            if is_full or wanted == rings:
                break
            rings = wanted
        return fits or (rings, body)

    @staticmethod
    def _each(known: list[tuple[int, int]], sides: int) -> float:
        """How many faces a ring more makes: all round it, fewer on average where only a part of the run is shown."""
        (r0, f0), (r1, f1) = known[0], known[-1]
        return min(max((f1 - f0) / (r1 - r0), 1.0), sides) if r1 != r0 else float(sides)

    def finer(self, within: float, more: int) -> float | None:
        """The largest smaller deviation at which an outline has so many points more, or the next number above; None
        where there is none, or the number is typed."""
        if self.asked.sides is not None:
            return None
        wanted = self.points(within) + more
        low, high = _FINER * within, within
        if self.points(low) < wanted:
            return None
        for _ in range(_HALVINGS):
            middle = float(np.sqrt(low * high))
            low, high = (middle, high) if self.points(middle) >= wanted else (low, middle)
        return low

    def points(self, within: float) -> int:
        """How many points the outline has within a deviation."""
        return self.count_sides(self.filled(2, within))

    def most_sides(self, rings: int, within: float, body: Body) -> tuple[float, Body]:
        """A finer outline, as long as the budget allows: what rings leave over goes into sides."""
        careful = False
        while self.fits(body) and len(self._known) < _BUILDS:
            left, faces = self.budget - body.mesh.face_count, max(body.mesh.face_count, 1)
            more = 1 if careful else max(1, left * self.points(within) // faces)
            next_ = self.finer(within, more)
            if next_ is None and more == 1:
                break
            finer = body if next_ is None else self.body(self.filled(rings, next_))
            if next_ is not None and self.fits(finer):
                within, body = next_, finer
            elif more == 1:
                break
            else:
                careful = True
        return within, body


def within_budget(build: Build, count_sides: Callable[[Density], int], asked: Density, width: float) -> Body:
    """The body that fills a budget of faces best: never above it, and one more ring, or side, would exceed it.

    ``build`` makes a body of a density, ``count_sides`` says how many points its rings would have; ``width`` m.
    """
    filling = _Filling(build, count_sides, asked)
    first = filling.body(filling.by(width / 150.0))
    if first.has_errors:
        return first
    found = filling.proportions(width / 150.0)
    if found is None:
        coarsest = filling.body(filling.by(_COARSEST * width))
        if not filling.fits(coarsest):
            return _too_few(coarsest, filling.budget)
        found = (_COARSEST * width, coarsest)
    within, body = found
    rings, body = filling.most_rings(max(body.mesh.rings, 2), within)
    _, body = filling.most_sides(rings, within, body)
    return body if filling.fits(body) else found[1]


def _too_few(body: Body, budget: int) -> Body:
    message = f"It has {body.mesh.face_count} faces: its corners and ends take more than the {budget} asked for."
    return replace(body, findings=(*body.findings, Finding("budget", Severity.WARNING, message)))
