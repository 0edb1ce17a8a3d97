"""Arcs and circles of files come in as arcs, each as one stretch; what is no circle stays a curve."""

from math import pi, tan
from pathlib import Path

import ezdxf
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from morphax.core.section.outlines import loop_area
from morphax.io.outline_files import read_section

PAGE = '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="100mm" viewBox="0 0 100 100">{}</svg>'


def read(tmp_path: Path, body: str):
    file = tmp_path / "a.svg"
    file.write_text(PAGE.format(body))
    return read_section(file)[0]


def test_circles_and_rounded_rectangles_are_arcs(tmp_path: Path) -> None:
    shape = read(tmp_path, '<circle cx="50" cy="40" r="20"/><circle cx="50" cy="40" r="10"/>')
    (part,) = shape.parts
    for loop, radius in ((part.outer, 0.02), (part.holes[0], 0.01)):
        assert len(loop.segments) == 4 and all(s.is_arc for s in loop.segments)
        assert [s.radii[0] for s in loop.segments] == pytest.approx([radius] * 4, rel=1e-12)
        assert [s.centre for s in loop.segments] == [pytest.approx((0.05, -0.04), abs=1e-12)] * 4
        assert not any(s.corner for s in loop.segments)
    assert loop_area(part.outer) == pytest.approx(pi * 4e-4, rel=1e-12)
    (box,) = read(tmp_path, '<rect width="40" height="20" rx="5"/>').parts
    assert sorted(s.is_arc for s in box.outer.segments) == [False] * 4 + [True] * 4
    assert loop_area(box.outer) == pytest.approx(8e-4 - (4.0 - pi) * 25e-6, rel=1e-12)


def test_ellipses_stretched_circles_and_free_curves_stay_curves(tmp_path: Path) -> None:
    for body in (
        '<ellipse cx="50" cy="40" rx="20" ry="12"/>',
        '<g transform="scale(1 0.5)"><circle cx="50" cy="40" r="20"/></g>',
        '<path d="M0 0C10 0 20 12 20 20L0 20Z"/>',
    ):
        segments = read(tmp_path, body).parts[0].outer.segments
        assert not any(s.is_arc for s in segments) and any(s.inner for s in segments)


@settings(max_examples=60)
@given(st.floats(0.1, 6.1), st.floats(1.0, 40.0), st.floats(-3.0, 3.0), st.booleans())
def test_an_arc_of_any_turn_is_one_arc_or_two(
    tmp_path_factory, turn: float, radius: float, start: float, back: bool
) -> None:
    sign = -1.0 if back else 1.0
    a, b = (50.0 + radius * np.array([np.cos(v), np.sin(v)]) for v in (start, start + sign * turn))
    flags = f"{int(turn > pi)} {int(not back)}"
    path = f'<path d="M{a[0]!r} {a[1]!r} A{radius!r} {radius!r} 0 {flags} {b[0]!r} {b[1]!r} L50 50Z"/>'.replace(
        "np.float64(", ""
    ).replace(")", "")
    shape = read(tmp_path_factory.mktemp("arcs"), path)
    arcs = [s for s in shape.parts[0].outer.segments if s.is_arc]
    assert len(arcs) == (1 if turn <= pi else 2)
    assert sum(abs(s.a1 - s.a0) for s in arcs) == pytest.approx(turn, rel=1e-6)
    assert [s.radii[0] for s in arcs] == pytest.approx([radius * 1e-3] * len(arcs), rel=1e-6)
    assert abs(loop_area(shape.parts[0].outer)) == pytest.approx(0.5e-6 * radius**2 * turn, rel=1e-6)


def test_bulges_of_a_dxf_come_in_as_they_are(tmp_path: Path) -> None:
    document = ezdxf.new()
    document.units = ezdxf.units.MM
    bulge = tan(pi / 8.0)
    document.modelspace().add_lwpolyline([(0, 0, 0), (40, 0, bulge), (50, 10, 0), (0, 10, 0)], format="xyb", close=True)
    document.saveas(tmp_path / "a.dxf")
    shape, _ = read_section(tmp_path / "a.dxf")
    (arc,) = [s for s in shape.parts[0].outer.segments if s.is_arc]
    assert arc.radii[0] == pytest.approx(0.01, rel=1e-9) and len(shape.parts[0].outer.segments) == 4


def test_two_arcs_of_one_circle_with_a_point_between_are_one(tmp_path: Path) -> None:
    body = '<path d="M0 0A10 10 0 0 0 10 10A10 10 0 0 0 20 0A10 10 0 0 1 30 10L30 -20L0 -20Z"/>'
    arcs = [s for s in read(tmp_path, body).parts[0].outer.segments if s.is_arc]
    assert sorted(round(abs(s.a1 - s.a0) / pi, 6) for s in arcs) == [0.5, 1.0], (
        "half a turn, and a quarter of another circle"
    )
