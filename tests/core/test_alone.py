"""Outlines and holes without a partner in the next section: they shrink to points."""

from math import pi

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from morphax.core.body.recipe import End
from morphax.core.errors import SectionError
from morphax.core.findings import Severity
from morphax.core.loft.along import Along, StationShape
from morphax.core.loft.blends import Blend
from morphax.core.loft.matching import matched_sections
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.mesh.mesh import point_triangles
from morphax.core.section.outlines import Loop, line, open_loop
from morphax.core.section.pieces import circle_about, reversed_loop
from morphax.core.section.ready_made import ready_made
from morphax.core.section.sections import Part, SectionShape
from tests.core.test_along import LINE, Carries, built, loft
from tests.helpers import assert_watertight, zoo

NAMES = ["round", "pipe", "twin", "rectangle", "bundle", "star"]


def shape(*loops: Loop, holes: tuple[Loop, ...] = ()) -> SectionShape:
    return SectionShape((Part(loops[0], holes), *(Part(v) for v in loops[1:])), is_free=True)


def disc(x: float, radius: float) -> Loop:
    return circle_about((x, 0.0), radius)


def solids(body) -> list[trimesh.Trimesh]:
    assert edge_check(body.mesh).closed
    whole = trimesh.Trimesh(body.mesh.points, point_triangles(body.mesh), process=False)
    assert whole.is_watertight
    return list(whole.split(only_watertight=False))


def test_a_second_outline_shrinks_to_a_point_at_its_own_place() -> None:
    one, two = shape(disc(0.0, 0.05)), shape(disc(0.0, 0.05), disc(0.4, 0.02))
    body = built(LINE, loft((0.0, two), (1.0, one)), anchor="drawn", deviation=1e-5)
    parts = sorted(solids(body), key=lambda p: p.volume)
    assert [p.volume for p in parts] == pytest.approx([pi * 0.02**2 / 3.0, pi * 0.05**2], rel=2e-3)
    tip = parts[0].vertices[np.argmax(parts[0].vertices[:, 1])]
    assert tip == pytest.approx([0.4, 1.0, 0.0], abs=1e-6) and (parts[0].vertices[:, 1] > 1.0 - 1e-9).sum() == 1
    said = [f for f in body.findings if f.code == "no-partner"]
    assert [(f.severity, f.at) for f in said] == [(Severity.NOTE, pytest.approx(1.0))]
    assert "outline" in said[0].message
    back = built(LINE, loft((0.0, one), (1.0, two)), anchor="drawn", deviation=1e-5)
    assert sorted(p.volume for p in solids(back)) == pytest.approx([p.volume for p in parts], rel=1e-6)


@pytest.mark.parametrize(("first", "second"), [(0.7, 0.0), (0.0, -0.4), (1.1, 2.0)])
def test_it_shrinks_to_its_place_on_the_body_whatever_the_turns(first: float, second: float) -> None:
    one, two = shape(disc(0.0, 0.05)), shape(disc(0.0, 0.05), disc(0.4, 0.02))
    stations = (StationShape(0.0, two, turn=first), StationShape(1.0, one, turn=second, scale=1.5))
    body = built(LINE, Carries(two, Along(stations)), anchor="drawn", deviation=1e-4)
    small = min(solids(body), key=lambda p: p.volume)
    tip = small.vertices[np.argmax(small.vertices[:, 1])]
    assert tip == pytest.approx([0.4 * np.cos(first), 1.0, 0.4 * np.sin(first)], abs=1e-9)


def test_a_hole_closes_to_a_point() -> None:
    pipe, round_ = (ready_made(n, {"width": 0.1}) for n in ("pipe", "round"))
    body = built(LINE, loft((0.0, pipe), (0.5, round_), (1.0, round_)), deviation=2e-5)
    assert_watertight(body.mesh)
    inner = 0.5 * volume(built(LINE, Carries(pipe), deviation=2e-5).mesh)
    outer = volume(built(LINE, Carries(round_), deviation=2e-5).mesh)
    cone = (0.5 * outer - inner) / 3.0
    assert volume(body.mesh) == pytest.approx(outer - cone, rel=2e-3)
    assert [f.at for f in body.findings] == [pytest.approx(0.5)] and "hole" in body.findings[0].message
    assert len(solids(body)) == 1


def test_a_part_with_its_hole_shrinks_to_one_point() -> None:
    ring = Part(disc(0.3, 0.03), (reversed_loop(disc(0.3, 0.02)),))
    two = SectionShape((Part(disc(0.0, 0.05)), ring), is_free=True)
    body = built(LINE, loft((0.0, two), (1.0, shape(disc(0.0, 0.05)))), anchor="drawn", deviation=1e-5)
    parts = solids(body)
    (tip,) = (p for p in parts if p.vertices[:, 0].min() > 0.2)
    ends = tip.vertices[tip.vertices[:, 1] > 1.0 - 1e-9]
    assert ends == pytest.approx(np.array([[0.3, 1.0, 0.0]] * len(ends)), abs=1e-6) and len(ends) <= 2
    assert tip.volume == pytest.approx(pi * (0.03**2 - 0.02**2) / 3.0, rel=2e-2)


def test_the_place_is_the_same_about_the_anchors_and_whatever_the_scales() -> None:
    two, one = shape(disc(0.1, 0.05), disc(0.5, 0.02)), shape(disc(-0.2, 0.025))
    stations = (StationShape(0.0, two, anchor=(0.1, 0.0)), StationShape(1.0, one, 2.0, anchor=(-0.2, 0.0)))
    body = built(LINE, Carries(two, Along(stations)), deviation=1e-5)
    small = min(solids(body), key=lambda p: p.volume)
    assert small.vertices[np.argmax(small.vertices[:, 1])] == pytest.approx([0.4, 1.0, 0.0], abs=1e-6)


@pytest.mark.parametrize("blend", list(Blend))
@pytest.mark.parametrize("names", [("round", "twin", "round"), ("twin", "round", "twin"), ("pipe", "round", "pipe")])
def test_every_blend_is_closed(names: tuple[str, ...], blend: Blend) -> None:
    stations = [(at, ready_made(n, {"width": 0.1})) for at, n in zip((0.0, 0.4, 1.0), names, strict=True)]
    body = built(LINE, loft(*stations, blend=blend))
    assert_watertight(body.mesh)
    assert {f.code for f in body.findings} <= {"no-partner"} and not body.has_errors
    assert np.abs(np.linalg.norm(body.mesh.normals, axis=1) - 1.0).max() < 1e-4
    assert volume(body.mesh) > 0.0


def test_an_end_that_would_be_rounded_where_an_outline_is_a_point_is_flat() -> None:
    stations = [(0.0, ready_made("twin", {"width": 0.1})), (1.0, ready_made("round", {"width": 0.1}))]
    body = built(LINE, loft(*stations), start=End.DOMED, end=End.DOMED)
    assert_watertight(body.mesh)
    assert "no-dome" in {f.code for f in body.findings}
    names = {p.name for p in body.mesh.parts}
    assert "start dome" in names and "end cap" in names


def test_the_partner_is_the_nearest_that_is_alike() -> None:
    two = shape(disc(-0.3, 0.05), disc(0.3, 0.01))
    one = shape(disc(-0.28, 0.05))
    made = matched_sections([two, one], sides=32)
    assert len(made.blocks[0].starts) == len(made.blocks[1].starts) == 3
    assert made.blocks[1].round_length[1] == 0.0 < made.blocks[1].round_length[0]
    made = matched_sections([one, two, one], sides=32)
    assert [b.round_length[1] > 0.0 for b in made.blocks] == [False, True, False]


def test_an_open_line_still_becomes_no_outline() -> None:
    with pytest.raises(SectionError, match="open line"):
        matched_sections([shape(disc(0.0, 0.1)), shape(open_loop([line((0, 0), (1, 0))]))], sides=16)


@settings(max_examples=25)
@given(
    st.sampled_from(["s curve", "frame", "corners out of plane", "closed"]),
    st.lists(st.sampled_from(NAMES), min_size=2, max_size=4),
    st.sampled_from(list(Blend)),
    st.sampled_from([End.FLAT, End.DOMED]),
)
def test_any_sections_follow_each_other_on_any_path(name: str, names: list[str], blend: Blend, end: End) -> None:
    path = zoo()[name]
    width = 0.02 * float(np.ptp(path.knots, axis=0).max())
    long = 0.9 * float(np.linalg.norm(np.diff(path.knots, axis=0), axis=1).sum())
    at = np.linspace(0.0, long, len(names)).tolist()
    stations = tuple(
        StationShape(a, ready_made(n, {"width": width}), blend=blend) for a, n in zip(at, names, strict=True)
    )
    body = built(path, Carries(stations[0].section, Along(stations)), start=end, end=end)
    assert np.isfinite(body.mesh.points).all() and np.isfinite(body.mesh.normals).all()
    assert body.has_errors or edge_check(body.mesh).closed
