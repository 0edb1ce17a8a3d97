"""Turns about the anchor that leave a sampled section as it is."""

from math import gcd, pi

import numpy as np

from morphax.core.section.sampling import SampledSection
from morphax.core.types import Ints


def rotational_symmetry(s: SampledSection, *, tolerance: float = 1e-9) -> int:
    """Largest k for which a turn by 360/k degrees about the anchor maps the points onto themselves.

    Loops may change places: those of a twin for k = 2, of a bundle of n for k = n.
    """
    if any(s.is_open) or s.looks:
        return 1
    counts = [sl.stop - sl.start for sl in s.loop_slices]
    most = gcd(*(n * counts.count(n) for n in set(counts)))  # loops of equal counts may change places
    for k in range(most, 1, -1):
        if most % k == 0 and turned_points(s, k, tolerance=tolerance) is not None:
            return k
    return 1


def turned_points(s: SampledSection, k: int, steps: int = 1, *, tolerance: float = 1e-9) -> Ints | None:
    """(n,) the point that each one falls on when the section is turned by ``steps`` times 360/k degrees.

    None where it does not fall on itself, loop on loop, in the order of their points. A turn is counter-clockwise.
    """
    c, n = np.cos(2.0 * pi * steps / k), np.sin(2.0 * pi * steps / k)
    spun = s.points @ np.array([[c, n], [-n, c]])
    limit = tolerance * max(s.reach, 1e-12)
    out = np.empty(len(s.points), dtype=np.int32)
    free = list(zip(s.loop_slices, s.hole, strict=True))
    for sl, hole in zip(s.loop_slices, s.hole, strict=True):
        size = sl.stop - sl.start
        for place, (other, other_hole) in enumerate(free):
            if other_hole != hole or other.stop - other.start != size:
                continue
            gap = ((s.points[other] - spun[sl.start]) ** 2).sum(1)
            shift = int(np.argmin(gap))
            if np.abs(np.roll(s.points[other], -shift, axis=0) - spun[sl]).max() < limit:
                out[sl] = other.start + (np.arange(size) + shift) % size
                free.pop(place)
                break
        else:
            return None
    return out
