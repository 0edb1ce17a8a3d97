"""Ribbons: open outlines swept to one sheet, front to the left of the drawing direction, no caps."""

from math import pi, tan

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from morphax.core.body.range import Range, Stop
from morphax.core.body.recipe import End, Ends
from morphax.core.body.sweep import sweep
from morphax.core.mesh.measures import edge_check
from morphax.core.mesh.mesh import end_rings, point_triangles, triangle_normals, vertex_triangles
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.outlines import Segment, arc, open_loop
from morphax.core.section.ready_made import ready_made
from morphax.core.section.sampling import section_width
from morphax.core.section.sections import CornerStyle, Part, SectionShape, anchor_place, section_area
from tests.helpers import recipe_of

NORTH = path_from_points(np.array([[0, 0, 0], [0, 1.0, 0]]), kind=PathKind.STRAIGHT)
CURVE = path_from_points(
    np.array([[0, 0, 0.2], [0.3, 0.1, 0.25], [0.6, -0.1, 0.2], [0.9, 0.1, 0.4]]), kind=PathKind.THROUGH
)
RING = path_from_points(
    np.array([[0.5, 0, 0], [0, 0.5, 0], [-0.5, 0, 0], [0, -0.5, 0]]), kind=PathKind.THROUGH, closed=True
)


def ribbon(*segments: Segment) -> SectionShape:
    return SectionShape((Part(open_loop(segments)),), is_free=True)


FLAT = ribbon(Segment((-0.02, 0.0), (0.02, 0.0)))
BENT = ribbon(Segment((-0.02, 0.0), (0.0, 0.01)), Segment((0.0, 0.01), (0.02, 0.0)))
HALF = ribbon(arc((-0.02, 0.0), (0.02, 0.0), tan(pi / 4.0)))
WAVE = ribbon(Segment((0.0, 0.0), (0.03, 0.0), inner=((0.01, 0.02), (0.02, -0.02))))


def area(body) -> float:
    return float(0.5 * np.linalg.norm(triangle_normals(body.mesh.points, point_triangles(body.mesh)), axis=1).sum())


def test_a_flat_ribbon_is_one_sheet_that_faces_left_of_its_direction() -> None:
    body = sweep(NORTH, FLAT)
    assert not body.findings and body.mesh.face_count == 1
    assert area(body) == pytest.approx(0.04, rel=1e-12)
    assert np.abs(body.mesh.normals - (0.0, 0.0, 1.0)).max() < 1e-6, "drawn to the right, its front looks up"
    back = sweep(NORTH, ribbon(Segment((0.02, 0.0), (-0.02, 0.0))))
    assert np.abs(back.mesh.normals + (0.0, 0.0, 1.0)).max() < 1e-6


@pytest.mark.parametrize("section", [FLAT, BENT, HALF, WAVE], ids=["flat", "bent", "half", "wave"])
@pytest.mark.parametrize("path", [NORTH, CURVE, RING], ids=["north", "curve", "ring"])
@pytest.mark.parametrize("ends", [End.FLAT, End.OPEN, End.DOMED, End.CHAMFERED])
def test_its_faces_and_normals_agree_and_it_has_an_edge_all_round(section, path, ends) -> None:
    body = sweep(path, section, recipe_of(start=ends, end=ends))
    mesh = body.mesh
    assert {p.name for p in mesh.parts} == {"skin"}, "no caps and no domes"
    tri = vertex_triangles(mesh)
    face = np.cross(
        *(mesh.points[mesh.vertex_point[tri[:, k]]] - mesh.points[mesh.vertex_point[tri[:, 0]]] for k in (1, 2))
    )
    face /= np.linalg.norm(face, axis=1)[:, None]
    assert (face * mesh.normals[tri].mean(1)).sum(1).min() > 0.9
    assert np.abs(np.linalg.norm(mesh.normals.astype(float), axis=1) - 1.0).max() < 1e-5
    loose = edges_once(point_triangles(mesh))
    along, across = 2 * (mesh.rings - (not path.closed)), 0 if path.closed else 2 * body.sides
    assert loose == along + across
    assert not edge_check(mesh).closed
    assert len(np.unique(mesh.vertex_point)) == len(mesh.points), "no point that no face has"


def edges_once(tris: np.ndarray) -> int:
    """How many edges belong to one face alone."""
    edges = np.sort(np.concatenate([tris[:, [0, 1]], tris[:, [1, 2]], tris[:, [2, 0]]]), axis=1)
    return int((np.unique(edges, axis=0, return_counts=True)[1] == 1).sum())


@settings(max_examples=25)
@given(st.floats(0.2, 2.8), st.floats(0.005, 0.2))
def test_an_arc_has_the_area_of_its_length(turn: float, radius: float) -> None:
    a, b = ((radius * np.sin(v), radius * np.cos(v)) for v in (-turn / 2, turn / 2))
    section = ribbon(arc((float(a[0]), float(a[1])), (float(b[0]), float(b[1])), -tan(turn / 4.0)))
    body = sweep(NORTH, section, recipe_of(deviation=1e-4 * radius))
    assert area(body) == pytest.approx(turn * radius, rel=1e-3)
    u = body.mesh.uvs[:, 0]
    assert float(u.max() - u.min()) == pytest.approx(turn * radius, rel=1e-4), "u is the length round it"


def test_mirrored_scaled_and_mixed_with_a_closed_part() -> None:
    flipped = sweep(NORTH, BENT, recipe_of(flip=True))
    plain = sweep(NORTH, BENT)
    assert np.sign(flipped.mesh.normals[:, 2]).tolist() == np.sign(plain.mesh.normals[:, 2]).tolist(), (
        "the front stays up"
    )
    assert area(sweep(NORTH, BENT, recipe_of(size=3.0))) == pytest.approx(3.0 * area(plain), rel=1e-9)
    both = SectionShape((*ready_made("round", {"width": 0.01}).parts, *FLAT.parts), is_free=True)
    body = sweep(CURVE, both)
    assert not [f for f in body.findings if f.severity != "note"]
    assert edges_once(point_triangles(body.mesh)) == 2 * (body.mesh.rings - 1) + 2
    assert section_area(both) == pytest.approx(pi * 25e-6, rel=1e-3)


def test_widths_and_anchors() -> None:
    upright = ribbon(Segment((0.0, 0.0), (0.0, 0.05)))
    assert section_width(FLAT) == pytest.approx(0.04) and section_width(upright) == pytest.approx(0.05)
    assert anchor_place(BENT, "centroid") == pytest.approx((0.0, 0.005))
    assert anchor_place(HALF, "centroid")[1] == pytest.approx(-0.02 * 2.0 / pi, rel=1e-9), "of half a ring"
    assert sweep(NORTH, upright).mesh.face_count == 1


def test_a_body_of_ribbons_says_that_it_is_a_sheet() -> None:
    sheet, solid = sweep(CURVE, HALF), sweep(CURVE, ready_made("round", {"width": 0.02}))
    assert sheet.mesh.is_sheet and not solid.mesh.is_sheet
    assert sheet.sides == sheet.mesh.sides - 1 and solid.sides == solid.mesh.sides
    first, last = end_rings(sheet.mesh)
    assert first.shape == last.shape == (sheet.mesh.sides, 3)
    assert (
        np.linalg.norm(first.mean(0) - (0.0, 0.0, 0.2)) < 0.02 and np.linalg.norm(last.mean(0) - (0.9, 0.1, 0.4)) < 0.02
    )
    for path in (NORTH, CURVE):
        assert len(end_rings(sweep(path, FLAT).mesh)[0]) == 2


@pytest.mark.parametrize(("end", "word"), [(End.DOMED, "dome"), (End.CHAMFERED, "chamfer")])
def test_a_ribbon_says_that_its_ends_stay_open(end: End, word: str) -> None:
    body = sweep(CURVE, BENT, recipe_of(start=End.OPEN, end=end))
    (said,) = [f for f in body.findings if f.code == "no-dome"]
    assert word in said.message and "ribbon" in said.message and said.at == pytest.approx(body.length)


@pytest.mark.parametrize("section", [FLAT, BENT, HALF], ids=["flat", "bent", "half"])
def test_a_ribbon_comes_to_a_point_and_shows_a_part_of_itself(section: SectionShape) -> None:
    whole = area(sweep(NORTH, section, recipe_of(deviation=1e-4)))
    pointed = sweep(NORTH, section, recipe_of(ends=Ends(End.FLAT, End.POINTED, end_length=0.4), deviation=1e-4))
    assert area(pointed) == pytest.approx(whole * 0.8, rel=1e-2)
    part = sweep(NORTH, section, recipe_of(range=Range(Stop(0.25), Stop(0.75)), deviation=1e-4))
    assert area(part) == pytest.approx(0.5 * whole, rel=1e-9)
    for path in (CURVE, RING):
        for corner in CornerStyle:
            body = sweep(path, section, recipe_of(range=Range(Stop(0.2), Stop(0.9)), corner=corner, budget=200))
            assert 0 < body.mesh.face_count <= 200 and body.mesh.is_sheet
