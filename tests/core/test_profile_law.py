"""Laws from outlines."""

from math import pi

import numpy as np
import pytest

from morphax.core.errors import SectionError
from morphax.core.loft.along import Along
from morphax.core.loft.laws import Piece, PointLaw
from morphax.core.loft.profile_law import profile_rows
from morphax.core.loft.varying_laws import Laws
from morphax.core.mesh.measures import volume
from morphax.core.section.outlines import Loop, line, open_loop
from morphax.core.section.pieces import rectangle
from morphax.core.section.ready_made import ready_made
from morphax.core.section.sections import Part, SectionShape
from tests.core.test_along import LINE, ROUND, Carries, built
from tests.helpers import assert_watertight


def shape(*points: tuple[float, float], is_open: bool = False) -> SectionShape:
    ends = points[1:] if is_open else (*points[1:], points[0])
    sides = [line(a, b) for a, b in zip(points, ends, strict=not is_open)]
    return SectionShape((Part(open_loop(sides) if is_open else Loop(tuple(sides))),), is_free=True)


def lathed(section: SectionShape, round_=ROUND):
    share, value = profile_rows(section)
    law = PointLaw(share, value, (Piece.STRAIGHT,) * len(share))
    return built(LINE, Carries(round_, Along(laws=Laws((law,)))), deviation=1e-5)


def test_a_rectangle_is_even_and_a_triangle_a_cone() -> None:
    share, value = profile_rows(SectionShape((Part(rectangle((-0.3, 5.0), (0.3, 7.0))),)))
    assert share.tolist() == [0.0, 1.0] and value.tolist() == [1.0, 1.0]
    share, value = profile_rows(shape((-2, 1), (2, 1), (0.5, 4)))
    assert share.tolist() == [0.0, 1.0] and value == pytest.approx([1.0, 0.0], abs=1e-9)


def test_a_disc_as_profile_of_a_round_section_makes_a_ball() -> None:
    body = lathed(ready_made("round", {"width": 3.0}), ready_made("round", {"width": 1.0}))
    assert_watertight(body.mesh)
    assert volume(body.mesh) == pytest.approx(pi / 6.0, rel=5e-3)


def test_a_moulding_steps_where_it_steps() -> None:
    section = shape((-1, 0), (1, 0), (1, 1), (0.5, 1), (0.5, 3), (1, 4), (-1, 4), (-0.5, 3), (-0.5, 1), (-1, 1))
    share, value = profile_rows(section)
    assert share == pytest.approx([0.0, 0.25, 0.25, 0.75, 1.0], abs=3e-6)
    assert value == pytest.approx([1.0, 1.0, 0.5, 0.5, 1.0])
    body = lathed(section)
    assert_watertight(body.mesh)
    area = volume(built(LINE, Carries(ROUND), deviation=1e-5).mesh)
    assert volume(body.mesh) == pytest.approx(area * (0.25 + 0.5 * 0.25 + 0.25 * (1 + 0.25 + 0.5) / 3.0), rel=1e-3)


def test_an_undercut_counts_with_what_lies_farthest_out() -> None:
    hook = shape((0, 0), (1, 0), (1, 4), (3, 4), (3, 2), (4, 2), (4, 5), (0, 5))
    share, value = profile_rows(hook)
    for at, wanted in ((0.2, 0.25), (0.39, 0.25), (0.41, 1.0), (0.9, 1.0)):
        assert np.interp(at, share, value) == pytest.approx(wanted, abs=1e-6)


def test_an_open_line_counts_from_the_drawn_axis() -> None:
    share, value = profile_rows(shape((0.2, 0), (0.4, 1), (0.1, 2), is_open=True))
    assert share == pytest.approx([0.0, 0.5, 1.0]) and value == pytest.approx([0.5, 1.0, 0.25])
    for flat in (shape((0.2, 0), (0.4, 0), is_open=True), shape((0, 0), (0, 1), is_open=True)):
        with pytest.raises(SectionError, match="says nothing"):
            profile_rows(flat)
