"""Seams: where the points of an outline begin, as a place and as a share of the way round from the usual one."""

import numpy as np

from morphax.core.section.sampling import SampledSection, sample_section, section_width, with_seam
from morphax.core.section.sections import SectionShape

_FINE = 1e-4
"""Places on the outline are this share of its width from the true one at most."""


def _sampled(section: SectionShape) -> SampledSection:
    return sample_section(section, deviation=_FINE * section_width(section))


def seam_place(section: SectionShape, share: float) -> tuple[float, float]:
    """Where the first outline's points begin for a share (0..1) of the way round, m."""
    x, y = with_seam(_sampled(section), share).points[0]
    return float(x), float(y)


def seam_share(section: SectionShape, place: tuple[float, float]) -> float:
    """The share (0..1) at which the first outline's points begin at its place nearest to ``place``, m."""
    sampled = _sampled(section)
    own = sampled.loop_slices[0]
    k = int(np.argmin(np.hypot(*(sampled.points[own] - np.array(place)).T)))
    return float(sampled.u[own][k] / sampled.round_length[0]) % 1.0
