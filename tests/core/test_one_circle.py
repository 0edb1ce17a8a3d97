"""Arcs are joined to one only where they are of one circle."""

from math import pi, tan

import pytest

from morphax.core.section.loop_edits import tidied
from morphax.core.section.outlines import Loop, Segment, arc


@pytest.mark.parametrize("off", [0.0, 0.05, 0.2])
def test_two_arcs_that_meet_smoothly_are_one_only_on_one_circle(off: float) -> None:
    """Quarters of circles that touch at the top; the second one is smaller by a share, and its centre higher."""
    first = arc((1.0, 0.0), (0.0, 1.0), tan(pi / 8.0), corner=True)
    radius = 1.0 - off
    second = arc((0.0, 1.0), (-radius, off), tan(pi / 8.0), corner=False)
    loop = Loop((first, second, Segment((-radius, off), (-0.5, -1.0)), Segment((-0.5, -1.0), (1.0, 0.0))))
    arcs = [s for s in tidied(loop).segments if s.is_arc]
    assert len(arcs) == (1 if off == 0.0 else 2)
    assert sum(s.a1 - s.a0 for s in arcs) == pytest.approx(pi)
