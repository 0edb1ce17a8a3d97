"""Sections to SVG and DXF: judged by readers of others, and read back as what they were."""

import xml.etree.ElementTree as ElementTree
from math import pi
from pathlib import Path

import ezdxf
import pytest
import svgelements

from morphax.core.section.outlines import loop_area
from morphax.core.section.ready_made import READY_MADE, ready_made
from morphax.core.section.sections import section_bounds
from morphax.io.errors import FileError
from morphax.io.outline_files import read_section
from morphax.io.section_export import write_section

SOME = ("round", "pipe", "crown", "leaf", "ogee-gutter", "gear", "bundle", "ellipse", "picture-frame", "rail")


@pytest.mark.parametrize("name", READY_MADE)
def test_every_section_comes_back_from_svg_as_it_was(name: str, tmp_path: Path) -> None:
    shape = ready_made(name, {"width": 0.1})
    write_section(tmp_path / "a.svg", name, shape)
    back, left = read_section(tmp_path / "a.svg")
    assert left == () and len(back.parts) == len(shape.parts)
    assert [len(p.holes) for p in back.parts] == [len(p.holes) for p in shape.parts]
    wanted = sum(loop_area(loop) for loop in shape.loops)
    assert sum(loop_area(loop) for loop in back.loops) == pytest.approx(wanted, rel=2e-5)
    (ax, ay, bx, by), (cx, cy, dx, dy) = section_bounds(shape), section_bounds(back)
    assert (dx - cx, dy - cy) == pytest.approx((bx - ax, by - ay), rel=1e-6), "at its real size"


@pytest.mark.parametrize("name", SOME)
def test_sections_come_back_from_dxf_as_they_were(name: str, tmp_path: Path) -> None:
    shape = ready_made(name, {"width": 0.1})
    write_section(tmp_path / "a.dxf", name, shape, scale=2.0, unit="in")
    back, _ = read_section(tmp_path / "a.dxf")
    wanted = 4.0 * sum(loop_area(loop) for loop in shape.loops)
    assert sum(loop_area(loop) for loop in back.loops) == pytest.approx(wanted, rel=1e-4)
    assert not ezdxf.readfile(tmp_path / "a.dxf").audit().errors


def test_arcs_are_arcs_in_both_files(tmp_path: Path) -> None:
    shape = ready_made("rounded-rectangle", {"width": 0.06, "height": 0.04, "radius": 0.01})
    write_section(tmp_path / "a.svg", 'a "b" & c', shape)
    (path,) = ElementTree.parse(tmp_path / "a.svg").getroot()
    assert path.get("id") == 'a "b" & c'
    drawn = svgelements.Path(path.get("d"))
    arcs = [s for s in drawn if isinstance(s, svgelements.Arc)]
    assert len(arcs) == 4 and all(a.rx == pytest.approx(10.0) for a in arcs)
    assert abs(drawn.length()) == pytest.approx(2 * (40 + 20) + 2 * pi * 10, rel=1e-6)
    write_section(tmp_path / "a.dxf", "a", shape)
    (line,) = ezdxf.readfile(tmp_path / "a.dxf").modelspace().query("LWPOLYLINE")
    assert line.closed and [round(b, 9) for *_, b in line.get_points("xyb")].count(0.414213562) == 4


def test_other_endings_are_refused(tmp_path: Path) -> None:
    with pytest.raises(FileError, match="must be one of"):
        write_section(tmp_path / "a.png", "a", ready_made("round", {}))
