"""Sections and paths from SVG, DXF and OBJ: true sizes, holes, transforms, guards and plain sentences."""

from pathlib import Path

import ezdxf
import numpy as np
import pytest

from morphax.build.builder import Builder
from morphax.core.body.sweep import sweep
from morphax.core.mesh.measures import is_closed, volume
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.section.outlines import Loop, Segment
from morphax.core.section.sections import Part, SectionShape, section_area, section_bounds
from morphax.io.errors import FileError
from morphax.io.outline_files import read_section
from morphax.io.path_files import read_paths
from morphax.io.project_file import from_bytes, to_bytes
from morphax.io.svg import drawing_from
from morphax.project.edits.runs import NewRun, add_run, set_section
from morphax.project.lookup import outline_source, section_of
from morphax.project.model.document import Project
from tests.helpers import assert_watertight

SVG = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" {page}>{body}</svg>'
LINE = path_from_points(np.array([[0, 0, 0], [0, 1.0, 0]]), kind=PathKind.STRAIGHT)


def svg(tmp_path: Path, body: str, page: str = "") -> Path:
    file = tmp_path / "a.svg"
    file.write_text(SVG.format(page=page, body=body))
    return file


def test_a_plate_with_two_holes_has_its_exact_size_and_volume(tmp_path: Path) -> None:
    body = (
        '<path d="M0 0 H40 V20 H0 Z M10 5 a5 5 0 1 0 0.0001 0 Z"/><text>no</text>'
        '<g transform="translate(25,5)"><rect width="8" height="8" rx="2"/></g>'
    )
    section, left = read_section(svg(tmp_path, body, 'width="40mm" height="20mm" viewBox="0 0 40 20"'))
    assert left == ("1 text",) and len(section.parts) == 1 and len(section.parts[0].holes) == 2
    np.testing.assert_allclose(section_bounds(section), [0.0, -0.02, 0.04, 0.0], atol=1e-15)
    exact = 800.0 - np.pi * 25.0 - (64.0 - 16.0 + 4.0 * np.pi)
    np.testing.assert_allclose(section_area(section) * 1e6, exact, rtol=1e-6)
    solid = sweep(LINE, section)
    assert_watertight(solid.mesh)
    np.testing.assert_allclose(volume(solid.mesh), exact * 1e-6, rtol=0.01)


@pytest.mark.parametrize(
    ("page", "width"),
    [
        ("", 0.010),
        ('width="100mm" viewBox="0 0 50 50"', 0.020),
        ('width="2in" height="2in" viewBox="0 0 4 4"', 0.127),
        ('width="1cm" height="1cm"', 10 * 0.0254 / 96),
        ('width="100" height="100" viewBox="0 0 50 50"', 0.010),
    ],
    ids=["user units", "viewBox", "inches", "pixels", "no real size"],
)
def test_units(tmp_path: Path, page: str, width: float) -> None:
    section, _ = read_section(svg(tmp_path, '<rect width="10" height="5"/>', page))
    x0, _, x1, _ = section_bounds(section)
    np.testing.assert_allclose(x1 - x0, width, rtol=1e-12)


def test_user_units_can_be_told(tmp_path: Path) -> None:
    section, _ = read_section(svg(tmp_path, '<circle r="5"/>'), unit="in")
    np.testing.assert_allclose(section_area(section), np.pi * (5 * 0.0254) ** 2, rtol=1e-6)


def test_transforms_uses_and_winding_come_out_right(tmp_path: Path) -> None:
    body = '<defs><rect id="r" width="10" height="5"/></defs><use href="#r" transform="rotate(90) scale(2 -1)"/>'
    section, _ = read_section(svg(tmp_path, body))
    np.testing.assert_allclose(section_area(section) * 1e6, 100.0, rtol=1e-9)
    assert_watertight(sweep(LINE, section).mesh)


def test_separate_outlines_are_parts_and_nested_ones_holes_and_islands(tmp_path: Path) -> None:
    rings = "".join(f'<circle cx="30" cy="30" r="{r}"/>' for r in (30, 20, 10)) + '<circle cx="100" cy="0" r="5"/>'
    section, _ = read_section(svg(tmp_path, rings))
    assert sorted(len(p.holes) for p in section.parts) == [0, 0, 1]
    assert_watertight(sweep(LINE, section).mesh)


def _group(i: int) -> str:
    return f'<g id="g{i}">' + (f'<use xlink:href="#g{i - 1}"/>' * 10 if i else '<rect width="1" height="1"/>') + "</g>"


BOMB = "<defs>" + "".join(map(_group, range(9))) + '</defs><use xlink:href="#g8"/>'


@pytest.mark.parametrize(
    ("body", "words"),
    [
        (BOMB, "too many elements"),
        ('<g id="a"><use href="#a"/></g>', "in circles"),
        ("<g>" * 80 + "</g>" * 80, "nested too deeply"),
        ('<path d="M0 0 L nan 5 L3 3 Z"/>', "no closed outline|not finite|sound"),
        ('<path d="M0 0 L1e12 0 L 0 1e12 Z"/>', "too large"),
        ("<text>words</text>", "no closed outline"),
    ],
    ids=["bomb", "circle", "deep", "nan", "far", "text"],
)
def test_bad_svg_is_one_sentence(tmp_path: Path, body: str, words: str) -> None:
    with pytest.raises(FileError, match=words):
        read_section(svg(tmp_path, body))


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b'<!DOCTYPE svg [<!ENTITY a "b">]><svg/>', "DOCTYPE"),
        (b"not xml", "not an SVG"),
        (b"<html/>", "not an SVG"),
        (b"", "not an SVG"),
        (b'<svg width="1..5mm"/>', "not a number"),
        (b'<svg width="5mm" viewBox="a b c d"/>', "viewBox"),
    ],
)
def test_what_is_no_svg_is_refused(data: bytes, words: str) -> None:
    with pytest.raises(FileError, match=words):
        drawing_from(data, "a.svg")


def test_a_section_that_crosses_itself_is_a_finding_and_no_body() -> None:
    places = [(0.0, 0.0), (0.01, 0.01), (0.01, 0.0), (0.0, 0.012)]
    pairs = zip(places, [*places[1:], places[0]], strict=True)
    loop = Loop(tuple(Segment(a, b, corner=True) for a, b in pairs))
    body = sweep(LINE, SectionShape((Part(loop),), is_free=True))
    assert [f.code for f in body.findings] == ["section-crossing"] and not body.mesh.face_count


def test_a_file_section_lives_in_the_document(tmp_path: Path) -> None:
    shape, _ = read_section(svg(tmp_path, '<path d="M0 0 C10 0 10 10 0 10 Z"/>'))
    source = outline_source("bow", shape)
    added = add_run(Project(), PathKind.STRAIGHT, [(0.0, 0.0, 0.0), (0.0, 1.0, 0.0)], NewRun(source, 0.05))
    assert from_bytes(to_bytes(added.project), "a") == added.project
    built = Builder().run(added.project, added.project.runs[0])
    assert is_closed(built.body.mesh) and built.body.width == pytest.approx(0.05)
    assert np.ptp(built.body.mesh.points[:, 0]) == pytest.approx(0.05, rel=0.01)
    again = set_section(added.project, added.ids[:1], source)
    assert section_of(again, added.ids[0]).name == "bow" and len(again.sections) == 1


def test_dxf_curves_become_paths_of_their_true_length(tmp_path: Path) -> None:
    document = ezdxf.new()
    document.header["$INSUNITS"] = 4
    space = document.modelspace()
    space.add_line((0, 0, 0), (10, 0, 5))
    space.add_arc((0, 0), 5, 0, 90)
    space.add_lwpolyline([(0, 0), (10, 0), (10, 10)], close=True)
    space.add_circle((0, 0), 3)
    file = tmp_path / "a.dxf"
    document.saveas(file)
    found = read_paths(file, kind=PathKind.THROUGH)
    lengths = [resolve_path(p).length * 1e3 for p in found]
    np.testing.assert_allclose(lengths, [np.sqrt(125), 2.5 * np.pi, 20 + np.sqrt(200), 6 * np.pi], rtol=1e-7)
    assert [p.closed for p in found] == [False, False, True, True]
    assert [str(p.kind) for p in found] == ["straight", "handles", "straight", "handles"]


def test_obj_lines_and_svg_paths(tmp_path: Path) -> None:
    file = tmp_path / "l.obj"
    file.write_text("v 0 0 0\nv 10 0 0\nv 10 10 0\nv 0 10 3\nl 1 2 3\nl 1 2 3 4 1\nl -1 -2\n")
    found = read_paths(file, kind=PathKind.STRAIGHT)
    assert [(len(p.knots), p.closed) for p in found] == [(3, False), (4, True), (2, False)]
    curve = svg(tmp_path, '<path fill="none" d="M0 0 C0 10 10 10 10 0 S 20 -10 20 0"/>')
    (path,) = read_paths(curve, kind=PathKind.THROUGH)
    assert path.kind is PathKind.HANDLES and list(path.corner) == [True, False, True]
    assert resolve_path(path).sharp.sum() == 0


@pytest.mark.parametrize(
    ("name", "text", "words"),
    [
        ("a.dxf", "nonsense", "DXF"),
        ("a.obj", "v 1 2\nl 1 1", "three coordinates"),
        ("a.obj", "v 1 2 3\nl 1 7", "not there"),
        ("a.obj", "v a b c", "not a number"),
        ("a.obj", "v 1 2 3", "holds no path"),
        ("a.obj", "v 1e300 0 0\nv 0 0 0\nl 1 2", "1e7 m"),
        ("a.txt", "0,0", "is read from"),
        ("a.svg", "<svg/>", "holds no path"),
    ],
)
def test_bad_path_files_are_one_sentence(tmp_path: Path, name: str, text: str, words: str) -> None:
    (tmp_path / name).write_text(text)
    with pytest.raises(FileError, match=words):
        read_paths(tmp_path / name, kind=PathKind.STRAIGHT)


def test_a_shape_of_two_points_is_named_and_the_rest_is_read(tmp_path: Path) -> None:
    file = tmp_path / "a.svg"
    line = '<polygon points="1,2 3,4"/>'
    file.write_text(
        SVG.format(page='width="40mm" height="30mm" viewBox="0 0 40 30"', body=line + '<rect width="4" height="3"/>')
    )
    shape, left_out = read_section(file)
    assert left_out == ("1 shape of two points",) and np.ptp(shape.outer_points, axis=0) == pytest.approx(
        [0.004, 0.003]
    )
    file.write_text(SVG.format(page="", body=line))
    with pytest.raises(FileError, match="has no closed outline"):
        read_section(file)
