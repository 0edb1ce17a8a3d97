"""Sections stretched across and up by different factors."""

from dataclasses import replace

import numpy as np

from morphax.core.section.sampling import SampledSection, unit2
from morphax.core.types import frozen


def stretched_section(s: SampledSection, wide: float, tall: float) -> SampledSection:
    """The section with x and y times factors above 0, and the normals of the stretched outline."""
    by, across = np.array([wide, tall]), np.array([tall, wide])
    points = s.points * by
    u, lengths = np.empty(len(points)), list[float]()
    for sl, whole in zip(s.loop_slices, s.round_length, strict=True):
        grown, was = (np.hypot(*(np.roll(p, -1, axis=0) - p).T) for p in (points[sl], s.points[sl]))
        long = np.diff(np.append(s.u[sl], whole)) * grown / np.where(was > 0.0, was, 1.0)
        u[sl] = np.cumsum(long) - long
        lengths.append(float(long.sum()))
    before, after = (frozen(unit2(n * across)) for n in (s.before, s.after))
    return replace(
        s, points=frozen(points), before=before, after=after, u=frozen(u), round_length=tuple(lengths), memo={}
    )
