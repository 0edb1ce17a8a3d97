"""The profile: what a run carries along its path, as blocks of section points, their weights, and laws on rows.

A section point at distance s is q(s) = offset(s) + size(s) turn(roll(s)) stretch(s) sum_k w_k(s) q_k, with the blocks
q_k about their anchors. One section is one block of weight 1; a loft has a block a station. Whoever reads a profile
reads these numbers.
"""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from enum import IntEnum
from functools import cached_property
from math import gcd
from typing import Protocol

import numpy as np

from morphax.core.section.sampling import (
    SampledSection,
    blended_section,
    extreme_points,
    placed_section,
)
from morphax.core.section.sections import Laying
from morphax.core.section.stretching import stretched_section
from morphax.core.section.symmetry import rotational_symmetry
from morphax.core.types import Floats, frozen

_KEPT_OUTLINES = 8
LEAST_STRETCH = 1e-4
"""A width or a height by laws is never less than this share of the section's own: only a size becomes nothing."""


class StepSide(IntEnum):
    """Which of two rings at a step is meant: the one that ends what was before, or the one that begins what comes."""

    BEFORE = -1
    AFTER = 1


@dataclass(frozen=True, eq=False)
class Weights:
    """Weights of the blocks at r rows, each row's sum 1, and their rates: (r, j) each, rates in 1/m."""

    values: Floats
    rates: Floats


Weigh = Callable[[Floats, Floats], Weights]
"""``weigh(s, side)``: weights at distances (r,), m; ``side`` (r,) is ``StepSide`` of each row."""


def whole(s: Floats, side: Floats) -> Weights:
    """One block that never changes."""
    return Weights(np.ones((len(s), 1)), np.zeros((len(s), 1)))


@dataclass(frozen=True, eq=False)
class LawRows:
    """Values of the laws at rows: ``size`` (r,) factor, ``roll`` (r,) rad, and their rates per m.

    ``stretch`` (r, 2): factors of the sections' own x and y; ``offset`` (r, 2) m along right and up, before the roll;
    None where nothing is stretched, or moved.
    """

    size: Floats
    roll: Floats
    size_rate: Floats
    roll_rate: Floats
    stretch: Floats | None = None
    stretch_rate: Floats | None = None
    offset: Floats | None = None
    offset_rate: Floats | None = None

    @property
    def moves(self) -> bool:
        """Whether sections are stretched, or stand beside the path."""
        return self.stretch is not None or self.offset is not None

    @property
    def stretches(self) -> Floats:
        """(r, 2) factors of x and y beside the size."""
        return np.ones((len(self.size), 2)) if self.stretch is None else self.stretch

    @property
    def scales(self) -> Floats:
        """(r, 2) what x and y are multiplied by."""
        both: Floats = np.stack([self.size, self.size], axis=1)
        return both if self.stretch is None else both * self.stretch

    @property
    def scale_rates(self) -> Floats:
        """(r, 2) how fast that changes, per m."""
        rate: Floats = np.stack([self.size_rate, self.size_rate], axis=1)
        if self.stretch is None or self.stretch_rate is None:
            return rate
        return rate * self.stretch + self.size[:, None] * self.stretch_rate


class Laws(Protocol):
    """Values along the path; ``size`` that of the run, ``most`` the largest factor of x or y, ``farthest`` the largest
    offset, m."""

    @property
    def size(self) -> float: ...
    @property
    def most(self) -> float: ...
    @property
    def farthest(self) -> float: ...
    @property
    def symmetry(self) -> int:
        """The most turns that leave it as it is, about the path; 0 where any does."""
        ...

    @property
    def is_even(self) -> bool: ...
    @property
    def twist_rate(self) -> float:
        """How fast it rolls all along, rad per m."""
        ...

    def at(self, s: Floats, side: Floats | None = None) -> LawRows:
        """Values at distances (r,), m, on a ``side`` of steps (r,), by default the one that begins there."""
        ...


@dataclass(frozen=True)
class EvenLaws:
    """One size and one roll, rad, all along."""

    size: float = 1.0
    roll: float = 0.0
    farthest = 0.0
    symmetry = 0
    twist_rate = 0.0

    @property
    def most(self) -> float:
        return self.size

    @property
    def is_even(self) -> bool:
        return True

    def at(self, s: Floats, side: Floats | None = None) -> LawRows:
        none = np.zeros(len(s))
        roll = np.full(len(s), self.roll) if self.roll else none
        return LawRows(np.full(len(s), self.size), roll, none, none)


@dataclass(frozen=True)
class SectionFacts:
    """What is known of the true outline, whatever its sampling; m at size 1.

    ``width`` nominal, the largest of several; ``reach`` largest distance from the anchor; ``laying`` how it is usually
    laid; ``first_width`` of the first of several.
    """

    width: float
    reach: float
    laying: Laying = field(default_factory=Laying)
    first_width: float | None = None


@dataclass(frozen=True, eq=False)
class Profile:
    """Blocks of one and the same loops about their anchors (j of them, mirrored where asked for), and how they go.

    ``breaks`` distances, m, at which weights step or bend: rings stand there, at ``steps`` two of them.
    """

    basis: tuple[SampledSection, ...]
    facts: SectionFacts
    laws: Laws = EvenLaws()
    weigh: Weigh = whole
    breaks: Floats = field(default_factory=lambda: frozen(np.empty(0)))
    steps: Floats = field(default_factory=lambda: frozen(np.empty(0)))

    @cached_property
    def loops(self) -> SampledSection:
        """A block that stands for all where only the way points are joined counts: corners of any are its corners."""
        if len(self.basis) == 1:
            return self.basis[0]
        return replace(self.basis[0], corner=frozen(np.any([b.corner for b in self.basis], axis=0)), memo={})

    @property
    def size(self) -> int:
        """Points of a ring."""
        return len(self.basis[0].points)

    @property
    def width(self) -> float:
        """The nominal width of the body, m."""
        return self.facts.width * self.laws.most

    @property
    def first_width(self) -> float:
        """The nominal width of the first section at the run's size, without laws, m."""
        return (self.facts.first_width or self.facts.width) * self.laws.size

    @property
    def true_reach(self) -> float:
        """Largest distance of the true outline from the path, m."""
        return self.facts.reach * self.laws.most + self.laws.farthest

    @cached_property
    def reach(self) -> float:
        """Largest distance of a ring's points from the path, m."""
        return max(b.reach for b in self.basis) * self.laws.most + self.laws.farthest

    @property
    def is_even(self) -> bool:
        """Whether all rings are alike."""
        return len(self.basis) == 1 and self.laws.is_even

    @cached_property
    def flat_points(self) -> Floats:
        """(n, 2 j) x and y of each point in each block, as loops take them."""
        return self.basis[0].points if len(self.basis) == 1 else np.concatenate([b.points for b in self.basis], axis=1)

    @cached_property
    def symmetry(self) -> int:
        """Largest k for which a turn by 360/k degrees about the path changes nothing."""
        return gcd(*(rotational_symmetry(b) for b in self.basis), self.laws.symmetry)

    @cached_property
    def tracks(self) -> Floats:
        """(t, 2 j) points that stand for all: the outermost of each block."""
        return self._farthest(24)

    @cached_property
    def outermost(self) -> Floats:
        """(t, 2 j) points that are farthest out in 48 directions, of each block."""
        return self._farthest(48)

    def _farthest(self, directions: int) -> Floats:
        each = [extreme_points(b.points, directions=directions) for b in self.basis]
        found: Floats = self.flat_points[each[0] if len(each) == 1 else np.unique(np.concatenate(each))]
        return found

    @cached_property
    def is_ribbon(self) -> bool:
        """Whether it is nothing but open lines: then its ends have no caps."""
        return all(self.loops.opens)

    @cached_property
    def longest_side(self) -> float:
        """The longest side of any ring, m."""
        longest = 0.0
        for block in self.basis:
            for sl in block.loop_slices:
                d = np.roll(block.points[sl], -1, axis=0) - block.points[sl]  # a ribbon's ends are taken as joined
                longest = max(longest, float(np.hypot(d[:, 0], d[:, 1]).max()))
        return longest * self.laws.most

    @cached_property
    def _even_outline(self) -> SampledSection:
        laws = self.laws.at(np.zeros(1))
        size, roll = float(laws.size[0]), float(laws.roll[0])
        return self.basis[0] if (size, roll) == (1.0, 0.0) else placed_section(self.basis[0], size=size, roll=roll)

    @cached_property
    def _even_height(self) -> float:
        return float(np.ptp(self._even_outline.points[:, 1]))

    def height_at(self, s: float) -> float:
        """Extent of the ring along y at a distance, m."""
        return self._even_height if self.is_even else float(np.ptp(self.outline_at(s).points[:, 1]))

    @cached_property
    def _outlines(self) -> dict[tuple[float, ...], SampledSection]:
        return {}

    def outline_at(self, s: float, side: StepSide = StepSide.AFTER) -> SampledSection:
        """The ring at a distance, m, as a section: sized, rolled and moved, about the path."""
        if self.is_even:
            return self._even_outline
        at, way = np.array([s]), np.array([float(side)])
        weights, laws = self.weigh(at, way).values[0], self.laws.at(at, way)
        size, roll = float(laws.size[0]), float(laws.roll[0])
        wide, tall = (1.0, 1.0) if laws.stretch is None else map(float, laws.stretch[0])
        x, y = (0.0, 0.0) if laws.offset is None else map(float, laws.offset[0])
        key = (*(float(w) for w in weights), size, roll, wide, tall, x, y)
        if key not in self._outlines:
            if len(self._outlines) >= _KEPT_OUTLINES:
                self._outlines.clear()
            alone = np.flatnonzero(weights)  # one block by itself: what is known of it is known here
            block = self.basis[int(alone[0])] if len(alone) == 1 else blended_section(self.basis, weights)
            block = block if (wide, tall) == (1.0, 1.0) else stretched_section(block, wide, tall)
            placed = placed_section(block, size=size, roll=roll)
            self._outlines[key] = placed if (x, y) == (0.0, 0.0) else placed_section(placed, anchor=(-x, -y))
        return self._outlines[key]


def even_profile(block: SampledSection, facts: SectionFacts, *, size: float = 1.0, roll: float = 0.0) -> Profile:
    """One section all along, at a size and a roll, rad."""
    return Profile((block,), facts, EvenLaws(size, roll))
