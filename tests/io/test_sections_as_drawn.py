"""Sections as others draw them: fill rules, overlaps, symbols, shares, hidden shapes, DXF; judged by areas."""

from math import cos, pi, sin
from pathlib import Path
from time import perf_counter

import ezdxf
import manifold3d
import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from morphax.core.body.sweep import sweep
from morphax.core.mesh.measures import volume
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.outline_checks import section_errors
from morphax.core.section.sampling import section_width
from morphax.core.section.sections import SectionShape, section_area, section_bounds
from morphax.io.errors import FileError
from morphax.io.outline_files import read_section
from morphax.io.path_files import read_paths
from morphax.io.svg import read_svg
from tests.helpers import assert_watertight, recipe_of

NS = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
SQUARES = "M0 0H10V10H0Z M2 2H8V8H2Z"
"""Both run the same way round."""


def drawn(tmp_path: Path, body: str, page: str = "") -> Path:
    file = tmp_path / "drawn.svg"
    file.write_text(f"<svg {NS} {page}>{body}</svg>")
    return file


def section(tmp_path: Path, body: str, page: str = "") -> tuple[SectionShape, tuple[str, ...]]:
    return read_section(drawn(tmp_path, body, page))


def area(tmp_path: Path, body: str, page: str = "") -> float:
    """mm2."""
    return section_area(section(tmp_path, body, page)[0]) * 1e6


@pytest.mark.parametrize(
    ("body", "wanted", "parts", "holes"),
    [
        (f'<path d="{SQUARES}"/>', 100.0, 1, 0),
        (f'<path fill-rule="nonzero" d="{SQUARES}"/>', 100.0, 1, 0),
        (f'<path fill-rule="evenodd" d="{SQUARES}"/>', 64.0, 1, 1),
        (f'<g style="fill-rule:evenodd"><path d="{SQUARES}"/></g>', 64.0, 1, 1),
        ('<path d="M0 0H10V10H0Z M2 2V8H8V2Z"/>', 64.0, 1, 1),
        ('<path d="M0 0H10V10H0Z M2 2V8H8V2Z M4 4H6V6H4Z"/>', 68.0, 2, 1),
        ('<path fill-rule="evenodd" d="M0 0H10V10H0Z M2 2H8V8H2Z M4 4H6V6H4Z"/>', 68.0, 2, 1),
        ('<rect width="10" height="10"/><rect x="2" y="2" width="6" height="6"/>', 64.0, 1, 1),
        ('<rect width="10" height="4"/><rect x="6" width="4" height="10"/>', 40.0 + 40.0 - 16.0, 1, 0),
        ('<rect width="10" height="4"/><rect x="10" width="5" height="4"/>', 60.0, 1, 0),
        ('<rect width="10" height="4"/><rect x="12" width="5" height="4"/>', 60.0, 2, 0),
        ('<path fill-rule="evenodd" d="M0 0H10V10H0Z M5 5H15V15H5Z"/>', 150.0, 2, 0),
        ('<path d="M0 0H10V10H0Z M5 5H15V15H5Z"/>', 175.0, 1, 0),
    ],
)
def test_what_is_filled_is_what_the_rule_says(tmp_path: Path, body: str, wanted: float, parts: int, holes: int) -> None:
    shape, _ = section(tmp_path, body)
    assert section_area(shape) * 1e6 == pytest.approx(wanted, rel=1e-9)
    assert len(shape.parts) == parts and sum(len(p.holes) for p in shape.parts) == holes


def test_outlines_that_cross_are_united_as_shapely_unites_them(tmp_path: Path) -> None:
    shape, _ = section(tmp_path, '<circle cx="10" cy="10" r="10"/><circle cx="22" cy="10" r="8"/>')
    both = shapely.Point(10, 10).buffer(10, quad_segs=512).union(shapely.Point(22, 10).buffer(8, quad_segs=512))
    assert len(shape.parts) == 1
    assert section_area(shape) * 1e6 == pytest.approx(both.area, rel=1e-3)
    corners = sum(s.corner for s in shape.parts[0].outer.segments)
    assert corners == 2, "round but for the two places where they meet"


@pytest.mark.parametrize("fill", ["", 'fill="red"', 'style="fill:#333"', 'fill="none"'])
def test_open_paths_stay_open_whatever_their_fill(tmp_path: Path, fill: str) -> None:
    file = drawn(tmp_path, f'<path {fill} d="M0 0 L10 0 L10 5"/>')
    assert not read_svg(file).curves[0].closed and not read_paths(file, kind="through", unit="mm")[0].closed
    shape, said = read_section(file)
    (part,) = shape.parts
    assert part.is_ribbon and said == ("1 open line: it is a ribbon, not a closed outline",)
    assert [s.start for s in part.outer.segments] == [pytest.approx(p) for p in ((0, 0), (0.01, 0), (0.01, -0.005))]


def test_uses_and_symbols_stand_where_they_are_used(tmp_path: Path) -> None:
    symbol = '<symbol id="s" viewBox="0 0 10 10"><circle cx="5" cy="5" r="4"/></symbol>'
    shape, _ = section(tmp_path, f'{symbol}<use href="#s" x="2" y="3" width="20" height="20"/>')
    assert len(shape.parts) == 1 and section_area(shape) * 1e6 == pytest.approx(64.0 * pi, rel=1e-5)
    x0, y0, x1, y1 = (v * 1e3 for v in section_bounds(shape))
    assert (x0, x1) == pytest.approx((4.0, 20.0), abs=1e-6) and (y0, y1) == pytest.approx((-21.0, -5.0), abs=1e-6)
    inner = '<symbol id="t"><use href="#s" width="10" height="10"/></symbol>'
    shape, _ = section(tmp_path, f'{symbol}{inner}<use xlink:href="#t" transform="scale(2)"/>')
    assert section_area(shape) * 1e6 == pytest.approx(64.0 * pi, rel=1e-5)
    wide = f'{symbol}<use href="#s" width="40" height="20"/>'
    x0, _, x1, _ = section_bounds(section(tmp_path, wide)[0])
    assert (x0 * 1e3, x1 * 1e3) == pytest.approx((12.0, 28.0), abs=1e-6), "meets its box, in the middle"
    with pytest.raises(FileError, match="no closed outline"):
        section(tmp_path, symbol)


def test_shares_are_those_of_the_page(tmp_path: Path) -> None:
    page = 'width="100mm" height="50mm" viewBox="0 0 200 100"'
    assert area(tmp_path, '<rect width="50%" height="50%"/>', page) == pytest.approx(50.0 * 25.0)
    plain = 'viewBox="0 0 60 80"'
    assert area(tmp_path, '<circle cx="50%" cy="50%" r="10%"/>', plain) == pytest.approx(pi * 5000.0 * 0.01, rel=1e-5)


def test_hidden_shapes_are_left_out_and_named(tmp_path: Path) -> None:
    body = (
        '<rect width="3" height="3"/><rect x="9" width="5" height="5" visibility="hidden"/>'
        '<g visibility="hidden"><rect x="20" width="9" height="5"/>'
        '<rect x="40" width="4" height="4" visibility="visible"/></g>'
        '<g style="display: none"><circle r="7"/></g>'
    )
    shape, left = section(tmp_path, body)
    assert section_area(shape) * 1e6 == pytest.approx(9.0 + 16.0) and left == ("3 hidden shapes",)


def test_two_spans_make_an_outline(tmp_path: Path) -> None:
    lens = '<path d="M0 0 A5 5 0 0 1 10 0 A5 5 0 0 1 0 0"/>'
    assert area(tmp_path, lens) == pytest.approx(25.0 * pi, rel=1e-5)


@pytest.mark.parametrize(("unit", "wanted"), [("mm", 50.8), ("in", 50.8), ("px", 50.8)])
def test_real_sizes_count(tmp_path: Path, unit: str, wanted: float) -> None:
    per = {"mm": 1.0, "in": 25.4, "px": 25.4 / 96.0}[unit]
    size = [f"{v / per}{unit}" if unit != "px" else "" for v in (50.8, 76.2)]
    page = f'width="{size[0]}" height="{size[1]}" viewBox="0 0 2 3"' if unit != "px" else 'width="50.8mm"'
    body = '<rect width="2" height="3"/>' if unit != "px" else f'<rect width="{50.8 / per}" height="{76.2 / per}"/>'
    shape, _ = section(tmp_path, body, page)
    x0, y0, x1, y1 = section_bounds(shape)
    assert (x1 - x0) * 1e3 == pytest.approx(wanted) and (y1 - y0) * 1e3 == pytest.approx(76.2)
    assert section_width(shape) == pytest.approx(0.0508)


def test_many_shapes_and_long_outlines_are_quick(tmp_path: Path) -> None:
    """Ten thousand circles, and a path of 50 000 points, with their width; three times as long as they may take on a
    machine that has nothing else to do (they are timed by the bench)."""
    begin = perf_counter()
    shape, _ = section(tmp_path, MANY_CIRCLES)
    assert len(shape.parts) == 10_000 and perf_counter() - begin < 6.0
    assert section_width(shape) == pytest.approx(0.299, rel=1e-9)
    begin = perf_counter()
    shape, _ = section(tmp_path, f'<path d="M0,0 L{WAVE} 50000,0 Z"/>')
    assert len(shape.parts[0].outer.segments) > 49_000 and perf_counter() - begin < 6.0
    assert section_width(shape) == pytest.approx(50.0, rel=1e-9) and not section_errors(shape)


ZIGZAG = " ".join(f"{k} {k * k % 7 + 1}" for k in range(60))
MANY_CIRCLES = "".join(f'<circle cx="{3 * (i % 100)}" cy="{3 * (i // 100)}" r="1"/>' for i in range(10_000))
WAVE = " ".join(f"{i},{10 + 3 * ((i * 7919) % 13)}" for i in range(50_000))


@pytest.mark.parametrize(
    "shape",
    [
        '<circle cx="5" cy="-3.5" r="2"/>',
        '<ellipse rx="1e1" ry="4"/>',
        '<g fill="red"><g><circle id="a" r="3" fill="none"/></g></g>',
        f'<path d="M0,0 L{" ".join(f"{k},{k * k % 7}" for k in range(60))} 60,-9Z"/>',
        f'<path d="M0 0 {ZIGZAG} L60,-9 0,0"/>',
        f'<path fill-rule="evenodd" d="M-9 -9 99 -9L99 99-9,99Z M0 0 L{ZIGZAG} 60,-9z"/>',
        f'<path d="M-9 -9 L99 -9 L99 99 L-9 99 Z M0 0 L{ZIGZAG} L60 -9 z"/>',
    ],
)
@pytest.mark.parametrize("page", ["", 'width="3in" height="2in" viewBox="-3 2 90 60"'])
def test_plain_shapes_are_what_the_reader_makes_of_them(tmp_path: Path, shape: str, page: str) -> None:
    plain = read_svg(drawn(tmp_path, shape, page)).curves
    others = read_svg(drawn(tmp_path, f'<g transform="translate(0 0)">{shape}</g>', page)).curves
    assert [c.closed for c in plain] == [c.closed for c in others] and plain
    for a, b in zip(plain, others, strict=True):
        assert a.even_odd == b.even_odd and np.array_equal(a.straight, b.straight)
        assert np.abs(a.spans - b.spans).max() < 1e-12


@pytest.mark.parametrize(
    ("body", "wanted"),
    [
        ('<style>circle{display:none}</style><circle r="2"/>', 0),
        ('<circle r="2" style="display:none"/><circle r="3"/>', 1),
        ('<g visibility="hidden"><circle r="2"/></g><circle r="3"/>', 1),
        ('<circle id="a" r="2"/><use href="#a" x="9"/>', 2),
        ('<circle r="0"/><circle r="2"/>', 1),
        ('<defs><circle r="2"/></defs><circle r="3"/>', 1),
    ],
)
def test_what_is_said_elsewhere_holds_for_plain_shapes_too(tmp_path: Path, body: str, wanted: int) -> None:
    assert len(read_svg(drawn(tmp_path, body)).curves) == wanted


# -- DXF ---------------------------------------------------------------------------------------------


def dxf(tmp_path: Path, draw: object, units: int = 4) -> Path:
    document = ezdxf.new()
    document.header["$INSUNITS"] = units
    draw(document.modelspace())  # type: ignore[operator]
    file = tmp_path / "drawn.dxf"
    document.saveas(file)
    return file


def test_a_dxf_outline_of_lines_and_arcs_in_any_order_and_direction(tmp_path: Path) -> None:
    """A slot of 40 x 20 mm with a hole, its pieces drawn as they come."""

    def draw(space) -> None:
        space.add_line((10, 0), (30, 0))
        space.add_arc((10, 10), 10, 90, 270)
        space.add_line((10, 20), (30, 20))
        space.add_arc((30, 10), 10, 270, 90)
        space.add_circle((10, 10), 4)
        space.add_text("slot")

    shape, left = read_section(dxf(tmp_path, draw))
    assert len(shape.parts) == 1 and len(shape.parts[0].holes) == 1 and left == ("1 text",)
    assert section_area(shape) * 1e6 == pytest.approx(20 * 20 + 100 * pi - 16 * pi, rel=1e-5)
    assert section_width(shape) == pytest.approx(0.04)


def test_dxf_units_polylines_splines_and_open_lines(tmp_path: Path) -> None:
    def draw(space) -> None:
        space.add_lwpolyline([(0, 0), (2, 0, 0, 0, 0.3), (2, 3), (0, 3)], close=True)
        space.add_line((5, 5), (6, 6))

    shape, left = read_section(dxf(tmp_path, draw, units=1))
    assert left == ("1 open line",) and section_bounds(shape)[3] == pytest.approx(3 * 0.0254)
    ring = dxf(tmp_path, lambda s: s.add_ellipse((0, 0), (10, 0), 0.5))
    assert section_area(read_section(ring)[0]) * 1e6 == pytest.approx(50.0 * pi, rel=1e-5)
    lines, said = read_section(dxf(tmp_path, lambda s: s.add_line((0, 0), (1, 1))))
    assert [p.is_ribbon for p in lines.parts] == [True] and "it is a ribbon" in said[0]


def test_thousands_of_pieces_are_joined_as_quickly_as_few(tmp_path: Path) -> None:
    """A round of 6 000 lines that were drawn in any order."""
    turn = [2.0 * pi * i / 6000 for i in range(6001)]
    corners = [(100.0 * cos(a), 100.0 * sin(a)) for a in turn[:-1]] + [(100.0, 0.0)]
    order = [(i * 2357) % 6000 for i in range(6000)]

    def draw(space) -> None:
        for i in order:
            space.add_line(*((corners[i], corners[i + 1]) if i % 3 else (corners[i + 1], corners[i])))

    shape, left = read_section(dxf(tmp_path, draw))
    assert len(shape.parts) == 1 and len(shape.parts[0].outer.segments) == 6000 and not left
    assert section_area(shape) * 1e6 == pytest.approx(3000.0 * 1e4 * sin(2.0 * pi / 6000), rel=1e-9)


@pytest.mark.parametrize("d", ["M0 0 A 1e300 1e300 0 0 1 5 5 Z", "M0 0 A 5 1e-320 0 0 1 5 5 Z"])
def test_arcs_that_are_no_arcs_are_a_sentence_or_nothing(tmp_path: Path, d: str) -> None:
    try:
        shape, _ = section(tmp_path, f'<path d="{d}"/><rect width="3" height="2"/>')
    except FileError as error:
        assert "sound" in str(error) or "refused" in str(error)
    else:
        assert section_area(shape) > 0.0


def test_a_turned_and_slanted_ellipse_has_its_area(tmp_path: Path) -> None:
    """The area of an affine image is that of the ellipse times the determinant."""
    turned = '<ellipse cx="9" rx="4" ry="2" transform="matrix(0.8 0.5 -0.3 1.1 4 7)"/>'
    assert area(tmp_path, turned) == pytest.approx(8.0 * pi * (0.8 * 1.1 + 0.5 * 0.3), rel=1e-5)
    as_path = '<path transform="matrix(0.8 0.5 -0.3 1.1 4 7)" d="M5 0 A4 2 0 0 1 13 0 A4 2 0 0 1 5 0 Z"/>'
    assert area(tmp_path, as_path) == pytest.approx(area(tmp_path, turned), rel=1e-6)


TIPS = [(20 + 20 * sin(4 * pi * k / 5), 20 - 20 * cos(4 * pi * k / 5)) for k in range(5)]
"""Five tips, each joined to the next but one."""
INNER = 20 * cos(2 * pi / 5) / cos(pi / 5)


@pytest.mark.parametrize(
    "rule, wanted, parts",
    [
        ("nonzero", 5 * 20 * INNER * sin(pi / 5), 1),
        ("evenodd", 5 * 20 * INNER * sin(pi / 5) - 2.5 * INNER**2 * sin(2 * pi / 5), 5),
    ],
)
def test_an_outline_that_crosses_itself_is_filled_by_its_rule(
    tmp_path: Path, rule: str, wanted: float, parts: int
) -> None:
    d = "M" + " L".join(f"{x!r} {y!r}" for x, y in TIPS) + "Z"
    shape, _ = section(tmp_path, f'<path d="{d}" fill-rule="{rule}"/>')
    assert section_area(shape) * 1e6 == pytest.approx(wanted, rel=1e-9) and len(shape.parts) == parts
    body = sweep(path_from_points(np.array([[0, 0, 0], [1, 0, 0.5]]), kind=PathKind.STRAIGHT), shape, recipe_of())
    assert_watertight(body.mesh)
    assert volume(body.mesh) == pytest.approx(wanted * 1e-6 * np.sqrt(1.25), rel=1e-9) and not body.findings


@pytest.mark.parametrize("rule", ["nonzero", "evenodd"])
@pytest.mark.parametrize("back", [False, True])
def test_a_square_in_the_middle_of_an_outline_that_crosses_itself_counts_with_it(
    tmp_path: Path, rule: str, back: bool
) -> None:
    """The middle is gone round twice already: a square there is a hole by one rule and filled by the other."""
    square = [(18.0, 18.0), (22.0, 18.0), (22.0, 22.0), (18.0, 22.0)][:: -1 if back else 1]
    fill = manifold3d.FillRule.NonZero if rule == "nonzero" else manifold3d.FillRule.EvenOdd
    wanted = manifold3d.CrossSection([np.array(TIPS), np.array(square)], fill).area()
    d = " ".join("M" + " L".join(f"{x!r} {y!r}" for x, y in places) + "Z" for places in (TIPS, square))
    shape, _ = section(tmp_path, f'<path d="{d}" fill-rule="{rule}"/>')
    assert section_area(shape) * 1e6 == pytest.approx(wanted, rel=1e-6)


@pytest.mark.parametrize(
    ("rule", "turned", "wanted"),
    [("nonzero", False, 400.0), ("nonzero", True, 64.0), ("evenodd", False, 64.0), ("evenodd", True, 64.0)],
)
def test_an_outline_that_is_there_twice_counts_twice(tmp_path: Path, rule: str, turned: bool, wanted: float) -> None:
    again = "M0 0V20H20V0Z" if turned else "M0 0H20V20H0Z"
    inner = "M6 6H14V14H6Z"
    shape, _ = section(tmp_path, f'<path d="M0 0H20V20H0Z {again} {inner}" fill-rule="{rule}"/>')
    assert section_area(shape) * 1e6 == pytest.approx(wanted, rel=1e-9) and len(shape.parts) == 1
    two = '<circle cx="10" cy="10" r="10"/>' * 2
    assert section_area(section(tmp_path, two)[0]) * 1e6 == pytest.approx(100.0 * np.pi, rel=1e-6), "as round as one"
    two = '<rect width="20" height="20"/><path d="M20 20H0V0H20Z"/>'
    assert section_area(section(tmp_path, two)[0]) * 1e6 == pytest.approx(400.0, rel=1e-9), "two shapes: filled once"


def test_a_bow_tie_has_two_lobes(tmp_path: Path) -> None:
    shape, _ = section(tmp_path, '<path d="M0 0L20 20L20 0L0 20Z"/>')
    assert section_area(shape) * 1e6 == pytest.approx(200.0, rel=1e-9) and len(shape.parts) == 2


LINES = st.lists(st.tuples(st.integers(0, 40), st.integers(0, 40)), min_size=4, max_size=9, unique=True)


@pytest.mark.parametrize("rule", ["nonzero", "evenodd"])
@given(st.lists(LINES, min_size=1, max_size=3))
@settings(max_examples=40, deadline=None)
def test_any_closed_lines_are_filled_as_another_library_fills_them(
    tmp_path_factory: pytest.TempPathFactory, rule: str, lines: list[list[tuple[int, int]]]
) -> None:
    """Lines of one shape that cross themselves and each other, walked either way."""
    fill = manifold3d.FillRule.NonZero if rule == "nonzero" else manifold3d.FillRule.EvenOdd
    wanted = manifold3d.CrossSection([np.array(places, dtype=float) for places in lines], fill).area()
    assume(wanted > 1.0 and all(shapely.Polygon(p).convex_hull.area > 1.0 for p in lines))
    d = " ".join("M" + " L".join(f"{x} {y}" for x, y in places) + "Z" for places in lines)
    shape, _ = section(tmp_path_factory.mktemp("line"), f'<path d="{d}" fill-rule="{rule}"/>')
    assert section_area(shape) * 1e6 == pytest.approx(wanted, rel=1e-6)


def test_small_gaps_are_closed_and_large_ones_said_with_their_place(tmp_path: Path) -> None:
    """Gaps of 0.3 mm in a square of 40 mm are closed by a line; one of 8 mm is said, with where it is."""
    near = tmp_path / "near.svg"
    near.write_text(_drawing("M0 0H40V40H0V0.3"))
    shape, left = read_section(near)
    assert left == () and section_area(shape) == pytest.approx(40 * 40e-6, rel=1e-9)
    wide = tmp_path / "wide.svg"
    wide.write_text(_drawing("M0 0H40V40H0V8", "M50 0H60V10H50Z"))
    shape, left = read_section(wide)
    assert section_area(shape) == pytest.approx(10 * 10e-6) and left == ("1 open line (8 mm open at 0, -8)",)
    alone = tmp_path / "alone.svg"
    alone.write_text(_drawing("M0 0H40V40H0V8"))
    shape, said = read_section(alone)
    assert shape.parts[0].is_ribbon and said == (
        "1 open line (8 mm open at 0, -8): it is a ribbon, not a closed outline",
    )


def _drawing(*paths: str) -> str:
    words = "".join(f'<path fill="none" stroke="#000" d="{p}"/>' for p in paths)
    return f'<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="100mm" viewBox="0 0 100 100">{words}</svg>'


def test_shapes_that_overlap_keep_their_curves(tmp_path: Path) -> None:
    """Two circles of 20 mm, 12 apart, and a hole away from where they meet: few cubics, and their exact area."""
    file = tmp_path / "lens.svg"
    file.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="100mm" viewBox="0 0 100 100">'
        '<circle cx="30" cy="50" r="10"/><circle cx="42" cy="50" r="10"/></svg>'
    )
    shape, left = read_section(file)
    (part,) = shape.parts
    lens = 2.0 * 100.0 * np.arccos(0.6) - 0.5 * 12.0 * np.sqrt(400.0 - 144.0)
    assert left == () and section_area(shape) == pytest.approx((2.0 * pi * 100.0 - lens) * 1e-6, rel=1e-6)
    assert len(part.outer.segments) <= 26 and all(s.is_curved for s in part.outer.segments)
    assert sum(s.corner for s in part.outer.segments) == 2, "a corner where they meet, and none elsewhere"
