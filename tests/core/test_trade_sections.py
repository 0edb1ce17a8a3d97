"""Ready-made sections of the trades and of several parts: valid over their whole range, exact in size and area, and
closed when they are swept; judged by shapely, trimesh and formulas of their own."""

from math import acos, pi, sqrt

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from morphax.core.body.sweep import sweep
from morphax.core.errors import SectionError
from morphax.core.findings import Severity
from morphax.core.frame.frames import Orientation
from morphax.core.mesh.mesh import point_triangles
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.outlines import Loop, loop_area
from morphax.core.section.ready_made import READY_MADE, completed, ready_made
from morphax.core.section.sampling import sample_section
from morphax.core.section.sections import SectionShape, Side, anchor_place, section_area
from morphax.core.section.shapes import SHAPES, packed
from morphax.core.section.trade import TRADE
from tests.helpers import STRAIGHT, recipe_of

NAMES = sorted({**SHAPES, **TRADE})


@st.composite
def some_values(draw, name: str) -> dict[str, float]:
    """Values of a section, each anywhere in its own range, lengths up to three times what is usual."""
    width, out = draw(st.floats(1e-3, 2.0)), {}
    for key, kind in READY_MADE[name].keys.items():
        if kind.is_count:
            out[key] = float(draw(st.integers(int(kind.least), min(kind.most_count, 48))))
        elif kind.number is not None:
            out[key] = draw(st.floats(kind.least, min(kind.most, 3.0)))
        elif key == "width":
            out[key] = width
        else:
            least = 0.0 if kind.may_be_zero else 0.02
            out[key] = width * (kind.share or 0.1) * draw(st.floats(least, 3.0))
    return out


def polygons(section: SectionShape, deviation: float) -> list[shapely.Polygon]:
    s = sample_section(section, deviation=deviation)
    out = []
    for k in range(max(s.part) + 1):
        loops = [s.points[sl] for sl, p in zip(s.loop_slices, s.part, strict=True) if p == k]
        out.append(shapely.Polygon(loops[0], loops[1:]))
    return out


def joins(loop: Loop) -> None:
    """Every stretch begins where the last one ends, and is smooth there only where it says so."""
    for a, b in zip(loop.segments, [*loop.segments[1:], loop.segments[0]], strict=True):
        assert a.end == pytest.approx(b.start, abs=1e-12) and a.at(np.array([1.0]))[0] == pytest.approx(
            b.start, abs=1e-9
        )
        if len(loop.segments) > 1:
            d, e = a.slope(np.array([1.0]))[0], b.slope(np.array([0.0]))[0]
            turn = abs(np.arctan2(d[0] * e[1] - d[1] * e[0], d @ e))
            assert b.corner or turn < 1e-6, f"a corner of {np.degrees(turn):.3g} degrees is called smooth"


@pytest.mark.parametrize("name", NAMES)
@given(st.data())
@settings(max_examples=60)
def test_values_in_range_make_a_valid_outline_or_are_refused_in_a_sentence(name: str, data: st.DataObject) -> None:
    values = data.draw(some_values(name))
    try:
        section = ready_made(name, values)
    except SectionError as refused:
        assert any(f"{key} is" in str(refused) for key in READY_MADE[name].keys) and "must be" in str(refused)
        return
    for loop in section.loops:
        joins(loop)
    shapes = polygons(section, 1e-5 * values["width"])
    assert all(s.is_valid and s.area > 0.0 for s in shapes), shapely.is_valid_reason(shapes[0])
    assert all(loop_area(p.outer) > 0.0 and all(loop_area(h) < 0.0 for h in p.holes) for p in section.parts)
    assert shapely.unary_union(shapes).area == pytest.approx(sum(s.area for s in shapes), rel=1e-9), "parts overlap"
    assert section_area(section) == pytest.approx(sum(s.area for s in shapes), rel=5e-3)


@pytest.mark.parametrize("name", NAMES)
@given(st.data())
@settings(max_examples=6)
def test_every_section_sweeps_closed_along_straight_curved_and_mitred_paths(name: str, data: st.DataObject) -> None:
    values = data.draw(some_values(name))
    try:
        section = ready_made(name, values)
    except SectionError:
        return
    size = float(np.abs(section.bounds).max())
    straight = np.array([[0, 0, 0], [0, 9, 0]])
    bend = np.array([[0, 0, 0], [9, 1, 2], [14, 9, 1], [9, 18, 5]])
    for points, kind, closed in ((straight, STRAIGHT, False), (bend, PathKind.THROUGH, False), (bend, STRAIGHT, True)):
        path = path_from_points(points * 3.0 * size, kind=kind, closed=closed)
        body = sweep(path, section, recipe_of(deviation=size / 300.0))
        assert not [f for f in body.findings if f.severity is Severity.ERROR]
        solid = trimesh.Trimesh(body.mesh.points, point_triangles(body.mesh), process=False)
        assert solid.is_watertight and solid.is_winding_consistent and solid.volume > 0.0
        if kind is STRAIGHT and not closed:
            round_it = sum(p.length for p in polygons(section, size / 300.0))
            area = solid.volume / (27.0 * size)
            assert area == pytest.approx(section_area(section), abs=round_it * size / 300.0)


DENSEST = {
    2: 2.0, 3: 2.1547, 4: 2.4142, 5: 2.7013, 6: 3.0, 7: 3.0, 8: 3.3048, 9: 3.6131, 10: 3.8130, 11: 3.9238, 12: 4.0296,
    13: 4.2361, 14: 4.3284, 15: 4.5214, 16: 4.6154, 17: 4.7920, 18: 4.8637, 19: 4.8637,
}  # fmt: skip
"""Radius around n circles of radius 1 in the densest packings known (Graham, Lubachevsky, Nurmela, Östergård 1998)."""


@pytest.mark.parametrize("count", range(2, 62))
def test_strands_touch_and_lie_close(count: int) -> None:
    places, around = packed(count)
    assert len(places) == count
    gap = np.linalg.norm(places[:, None] - places, axis=2) + 9.0 * np.eye(count)
    assert gap.min() == pytest.approx(2.0, abs=1e-9), "they touch, and none lies in another"
    assert around == pytest.approx(np.linalg.norm(places, axis=1).max() + 1.0)
    assert around <= 1.08 * DENSEST.get(count, 1.2 * sqrt(count))
    if count in DENSEST:
        assert around >= DENSEST[count] - 1e-3, "no packing is denser than the densest"


@pytest.mark.parametrize("count", [2, 3, 5, 7, 12, 19])
@pytest.mark.parametrize("gap", [0.0, 0.03])
def test_a_bundle_is_as_wide_as_asked_whatever_its_gap(count: int, gap: float) -> None:
    section = ready_made("bundle", {"strands": count, "width": 1.0, "gap": gap})
    spots = np.array([p.outer.segments[0].centre for p in section.parts])
    radius = section.parts[0].outer.segments[0].radii[0]
    apart = np.linalg.norm(spots[:, None] - spots, axis=2) + 9.0 * np.eye(count)
    assert apart.min() - 2.0 * radius == pytest.approx(gap, abs=1e-12)
    assert np.linalg.norm(spots, axis=1).max() + radius == pytest.approx(0.5)


W, H = 0.1, 0.16
BAR = {"height": H, "flange": 0.012, "fillet": 0.006}
FILLET = (1.0 - 0.25 * pi) * 0.006**2
INNER = (W - 0.01) * (H - 0.01)
AREAS = {
    "i": (BAR | {"web": 0.008}, 2 * W * 0.012 + 0.008 * (H - 0.024) + 4 * FILLET),
    "t": (BAR | {"web": 0.01}, W * 0.012 + 0.01 * (H - 0.012) + 2 * FILLET),
    "channel": (BAR | {"web": 0.009}, 2 * W * 0.012 + 0.009 * (H - 0.024) + 2 * FILLET),
    "angle": ({"height": H, "wall": 0.01, "fillet": 0.006}, (W + H - 0.01) * 0.01 + FILLET),
    "quarter-round": ({"height": H}, 0.25 * pi * W * H),
    "half-round": ({"height": H}, 0.25 * pi * W * H),
    "cove": ({"height": H, "edge": 0.01}, W * H - 0.25 * pi * INNER),
    "half-round-gutter": ({"wall": 0.004}, 0.5 * pi * (0.05**2 - 0.046**2)),
    "box-gutter": ({"height": H, "wall": 0.004, "lip": 0.02}, 0.004 * (W + 2 * (H - 0.004) + 0.02)),
    "twin": ({"gap": 0.02}, 0.5 * pi * 0.04**2),
    "drop": ({"height": H}, 0.05**2 * (pi - acos(0.05 / 0.11)) + 0.05 * sqrt(0.11**2 - 0.05**2)),
}


@pytest.mark.parametrize("name", sorted(AREAS))
def test_areas_are_those_of_formulas(name: str) -> None:
    values, area = AREAS[name]
    assert section_area(ready_made(name, {"width": W} | values)) == pytest.approx(area, rel=1e-12)


def test_the_wall_of_an_ogee_gutter_is_even() -> None:
    section = ready_made("ogee-gutter", {"width": 0.12, "height": 0.09, "wall": 0.004, "lip": 0.015})
    (part,) = polygons(section, 1e-6)
    middle = part.buffer(-0.00195)
    assert middle.buffer(0.00195, join_style="mitre").area == pytest.approx(part.area, rel=0.02), "nowhere thinner"
    assert part.buffer(-0.00205).is_empty or part.buffer(-0.00205).area < 0.02 * part.area, "nowhere thicker"


@pytest.mark.parametrize("land", [0.0, 0.2, 0.8])
@pytest.mark.parametrize("flutes", [3, 12, 24])
def test_flutes_are_alike_and_go_as_deep_as_asked(flutes: int, land: float) -> None:
    depths = []
    for depth in (0.2, 0.6, 1.0):
        section = ready_made("flute", {"flutes": flutes, "width": 0.2, "depth": depth, "land": land})
        loop = section.parts[0].outer
        assert len(loop.segments) == flutes * (1 if land == 0.0 else 2)
        turn = 2.0 * pi / flutes
        step = 1 if land == 0.0 else 2
        spots = np.array([s.start for s in loop.segments[::step]])
        turned = spots @ np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
        np.testing.assert_allclose(turned, np.roll(spots, -1, axis=0), atol=1e-12)
        depths.append(0.1 - np.hypot(*loop.segments[0].at(np.array([0.5]))[0]))
    assert 0.0 < depths[0] < depths[1] < depths[2] < 0.1


def test_teeth_go_in_by_their_depth() -> None:
    section = ready_made("gear", {"teeth": 12, "width": 0.2, "depth": 0.25})
    radii = np.hypot(*np.concatenate([s.at(np.linspace(0, 1, 9)) for s in section.parts[0].outer.segments]).T)
    assert radii.max() == pytest.approx(0.1) and radii.min() == pytest.approx(0.075)
    assert len(section.parts[0].outer.segments) == 48


@pytest.mark.parametrize(("curl", "low", "high"), [(0.0, -0.01, 0.01), (0.5, 0.0, 0.02), (1.0, 0.01, 0.03)])
def test_a_leaf_curls_to_one_side_and_keeps_its_thickness(curl: float, low: float, high: float) -> None:
    section = ready_made("leaf", {"width": 0.1, "thickness": 0.02, "curl": curl})
    below, above = (s.at(np.array([0.5]))[0][1] for s in section.parts[0].outer.segments)
    assert below == pytest.approx(low, abs=1e-9) and above == pytest.approx(high)


def test_the_heart_and_the_mouldings_of_two_halves_are_the_same_left_and_right() -> None:
    for name in ("heart", "drop", "handrail", "rail", "i", "t", "twin"):
        (shape,) = [shapely.unary_union(polygons(ready_made(name, {"width": 0.1}), 2e-6))]
        x = 0.5 * (shape.bounds[0] + shape.bounds[2])
        mirrored = shapely.transform(shape, lambda p, x=x: np.column_stack([2.0 * x - p[:, 0], p[:, 1]]))
        assert shape.symmetric_difference(mirrored).area < 1e-3 * shape.area, name


@pytest.mark.parametrize(
    ("name", "anchor", "orientation", "side"),
    [
        ("box-gutter", "top-left", Orientation.UPRIGHT, Side.OUT),
        ("half-round-gutter", "top-left", Orientation.UPRIGHT, Side.OUT),
        ("ogee-gutter", "top-left", Orientation.UPRIGHT, Side.OUT),
        ("skirting", "bottom-left", Orientation.UPRIGHT, Side.OUT),
        ("cove", "bottom-left", Orientation.UPRIGHT, Side.OUT),
        ("quarter-round", "bottom-left", Orientation.UPRIGHT, Side.OUT),
        ("picture-frame", "bottom-left", Orientation.CARRIED, Side.IN),
        ("handrail", "bottom", Orientation.UPRIGHT, Side.OUT),
        ("bundle", "centre", Orientation.CARRIED, Side.OUT),
        ("channel", "centre", Orientation.CARRIED, Side.OUT),
    ],
)
def test_sections_know_how_they_are_laid(name: str, anchor: str, orientation: Orientation, side: Side) -> None:
    section = ready_made(name, {"width": 0.1})
    assert (section.laying.anchor, section.laying.orientation, section.laying.side) == (anchor, orientation, side)
    assert section.laying == READY_MADE[name].laying, "made and listed alike"
    x0, y0, x1, y1 = section.bounds
    wanted = {"top-left": (x0, y1), "bottom-left": (x0, y0), "bottom": (0.5 * (x0 + x1), y0)}
    assert anchor_place(section, anchor) == pytest.approx(wanted.get(anchor, (0.5 * (x0 + x1), 0.5 * (y0 + y1))))


def test_the_sentence_names_the_value_and_what_there_is_room_for() -> None:
    for name, values, words in (
        ("i", {"width": 0.1, "web": 0.2}, "web is 0.2 m; it must be less than the width, 0.1 m"),
        ("twin", {"width": 0.1, "gap": 0.06}, "gap is 0.06 m; it must be less than half the width"),
        ("drop", {"width": 0.1, "height": 0.1}, "height is 0.1 m; it must be at least 0.105 m"),
        ("bundle", {"strands": 62}, "strands is 62; it must be a whole number from 2 to 61"),
        ("flute", {"depth": 0.0}, "depth is 0; it must be from 0.01 to 1"),
        ("ogee-gutter", {"width": 0.1, "lip": 0.001}, "lip is 0.001 m; it must be more than the wall"),
    ):
        with pytest.raises(SectionError, match=words.replace(".", "\\.")):
            ready_made(name, values)


def test_usual_values_fit_at_any_width() -> None:
    for name in NAMES:
        for width in (1e-4, 0.02, 3.0):
            section = ready_made(name, {"width": width})
            assert completed(name, {"width": width})["width"] == width and section_area(section) > 0.0
