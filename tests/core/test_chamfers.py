"""Chamfered and pointed ends: exact volumes, closed whatever the section, within the length, each end its own."""

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from morphax.core.body.pointed_ends import PointZone
from morphax.core.body.profiles import Carries
from morphax.core.body.range import Range, Stop
from morphax.core.body.recipe import Density, End, Ends, Placing
from morphax.core.body.sweep import sweep
from morphax.core.errors import PathError
from morphax.core.loft.along import Along
from morphax.core.loft.laws import Piece, PointLaw
from morphax.core.loft.varying_laws import Laws
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.mesh.mesh import point_triangles
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.ready_made import READY_MADE, ready_made
from tests.core.test_range import CURVE, LEGS, MIXED
from tests.helpers import assert_watertight, distance_to_mesh, recipe_of

LINE = path_from_points(np.array([[0, 0, 0], [1.0, 0, 0]]), kind=PathKind.STRAIGHT)
SQUARE, ROUND = ready_made("rectangle", {"width": 0.1, "height": 0.1}), ready_made("round", {"width": 0.1})


def chamfered(section, *radii: float | None, path=LINE, **more):
    ends = Ends(End.CHAMFERED, End.CHAMFERED, *radii)
    return sweep(path, section, recipe_of(ends=ends, **more))


def frustum(a: float, b: float, h: float) -> float:
    return h / 3.0 * (a + b + np.sqrt(a * b))


@pytest.mark.parametrize(("one", "two"), [(0.01, 0.02), (0.03, 0.03)])
def test_a_chamfer_is_a_frustum_within_the_length(one: float, two: float) -> None:
    body = chamfered(SQUARE, one, two)
    assert_watertight(body.mesh)
    tips = sum(frustum(0.01, (0.1 - 2 * r) ** 2, r) for r in (one, two))
    assert volume(body.mesh) == pytest.approx(0.01 * (1.0 - one - two) + tips, rel=1e-12)
    assert body.mesh.bounds[:, 0] == pytest.approx([0.0, 1.0], abs=1e-12)
    round_ = chamfered(ROUND, one, two)
    area = volume(sweep(LINE, ROUND, recipe_of()).mesh)
    cones = sum(area * frustum(1.0, (1 - r / 0.05) ** 2, r) for r in (one, two))
    assert volume(round_.mesh) == pytest.approx(area * (1.0 - one - two) + cones, rel=1e-9)
    assert {p.name for p in body.mesh.parts} == {"skin", "start chamfer", "end chamfer"}


def test_its_faces_are_flat_and_its_edges_sharp() -> None:
    mesh = chamfered(SQUARE, 0.02, 0.02).mesh
    for quad, own in zip(mesh.points[mesh.quads], mesh.normals[mesh.quad_vertices], strict=True):
        flat = np.cross(quad[2] - quad[0], quad[3] - quad[1])
        flat /= np.linalg.norm(flat)
        assert np.allclose(own, flat, atol=1e-6), "shaded as flat as they are"


@settings(max_examples=40, deadline=None)
@given(
    st.sampled_from([n for n in READY_MADE if n not in ("ogee-gutter",)]),
    st.sampled_from([LINE, LEGS, CURVE, MIXED]),
    st.sampled_from([End.CHAMFERED, End.POINTED, End.DOMED, End.FLAT]),
    st.sampled_from([End.CHAMFERED, End.POINTED]),
    st.floats(0.05, 1.0),
    st.floats(-1.0, 1.0),
)
def test_any_section_with_any_ends_is_closed_and_faces_out(name, path, start, end, share, curve) -> None:
    section = ready_made(name, {"width": 0.1})
    ends = Ends(start, end, 0.05 * share, 0.02 * share, "path", share, 0.5 * share, curve, -curve)
    body = sweep(path, section, recipe_of(ends=ends, rings=24, sides=20))
    assert edge_check(body.mesh).closed, {p.name for p in body.mesh.parts}
    assert volume(body.mesh) > 0.0
    assert trimesh.Trimesh(body.mesh.points, point_triangles(body.mesh), process=False).is_watertight


# -- pointed -----------------------------------------------------------------------------------------------


def pointed(section, path=LINE, length: float | None = 0.3, curve: float = 0.0, **more):
    return sweep(path, section, recipe_of(ends=Ends(End.FLAT, End.POINTED, end_length=length, end_curve=curve), **more))


def test_a_straight_point_is_a_cone_of_its_length() -> None:
    body = pointed(SQUARE)
    assert_watertight(body.mesh)
    assert volume(body.mesh) == pytest.approx(0.01 * 0.7 + 0.01 * 0.3 / 3.0, rel=1e-12)
    assert body.mesh.bounds[:, 0] == pytest.approx([0.0, 1.0], abs=1e-12)
    tip = body.mesh.points[body.mesh.points[:, 0] > 1.0 - 1e-9]
    assert len(tip) == 1 and tip[0] == pytest.approx([1.0, 0.0, 0.0], abs=1e-12), "one shared point, on the path"
    assert not any(p.name == "end cap" for p in body.mesh.parts)
    both = sweep(LINE, SQUARE, recipe_of(ends=Ends(End.POINTED, End.POINTED, start_length=0.2, end_length=0.3)))
    assert volume(both.mesh) == pytest.approx(0.01 * (0.5 + 0.5 / 3.0), rel=1e-12)


@pytest.mark.parametrize("curve", [1.0, 0.5, -0.5, -1.0])
def test_a_curved_point_keeps_within_the_deviation(curve: float) -> None:
    """Its half width is w/2 (1 - t) to a power, t along the point: full as a bullet above 0, hollow below."""
    body = pointed(SQUARE, curve=curve, deviation=5e-4)
    assert_watertight(body.mesh)
    power = 2.0**-curve
    t = np.linspace(0.0, 1.0, 4001)
    true = np.column_stack([0.7 + 0.3 * t, 0.0 * t, 0.05 * (1.0 - t) ** power])
    assert distance_to_mesh(true, body.mesh).max() <= 5e-4
    assert volume(body.mesh) == pytest.approx(0.01 * (0.7 + 0.3 / (2.0 * power + 1.0)), rel=0.02)


def test_a_point_of_no_length_of_its_own_is_as_long_as_the_body_is_wide_and_never_more_than_half() -> None:
    body = pointed(SQUARE, length=None)
    assert volume(body.mesh) == pytest.approx(0.01 * 0.9 + 0.01 * 0.1 / 3.0, rel=1e-9)
    long = pointed(SQUARE, length=5.0)
    assert volume(long.mesh) == pytest.approx(0.01 * 0.5 + 0.01 * 0.5 / 3.0, rel=2e-2)
    assert [f.code for f in long.findings] == ["point-reduced"]


def test_a_point_goes_round_corners_and_with_the_range() -> None:
    body = pointed(SQUARE, LEGS, length=1.4)
    assert_watertight(body.mesh)
    ends = Ends(End.FLAT, End.POINTED, end_length=0.3)
    for stop in (0.25, 0.5, 0.8):
        part = sweep(LEGS, SQUARE, recipe_of(ends=ends, range=Range(end=Stop(stop))))
        assert_watertight(part.mesh)
        assert volume(part.mesh) == pytest.approx(0.01 * (3.0 * stop - 0.3) + 0.01 * 0.1, rel=0.02)
    grown = Carries(SQUARE, Along(twist=2.0))
    assert_watertight(sweep(LEGS, grown, recipe_of(ends=ends)).mesh)


def test_a_curved_point_has_no_more_rings_than_it_needs() -> None:
    """A parabola in n equal parts is off its chords by a quarter of 1/n squared."""
    for deviation in (4e-4, 1e-4, 3e-5):
        places = PointZone(1.0, 0.3, 2.0, False).places(0.05, deviation)
        assert len(places) == np.ceil(np.sqrt(0.05 / (4.0 * deviation))) + 1
        assert places[0] == pytest.approx(0.7) and places[-1] == 1.0


def test_each_point_that_is_too_long_is_said_where_it_is() -> None:
    ends, gap = Ends(End.FLAT, End.POINTED, end_length=0.2), ((Stop(0.3), Stop(0.5)),)
    body = sweep(LINE, SQUARE, recipe_of(ends=ends, range=Range(out=gap)))
    assert [f.at for f in body.findings if f.code == "point-reduced"] == pytest.approx([0.3])
    assert_watertight(body.mesh)


@pytest.mark.parametrize("segments", [1, 3, 64])
def test_segments_divide_a_chamfer_and_change_nothing_else(segments: int) -> None:
    plain = chamfered(SQUARE, 0.02, 0.03)
    ends = Ends(End.CHAMFERED, End.CHAMFERED, 0.02, 0.03, start_segments=segments, end_segments=2)
    mesh = sweep(LINE, SQUARE, recipe_of(ends=ends)).mesh
    assert_watertight(mesh)
    assert volume(mesh) == pytest.approx(volume(plain.mesh), rel=1e-12)
    assert mesh.face_count == plain.mesh.face_count + 4 * (segments - 1) + 4
    far = np.unique(np.round(mesh.points[mesh.points[:, 0] <= 0.02 + 1e-9, 0], 9))
    assert far == pytest.approx(np.linspace(0.0, 0.02, segments + 1), abs=1e-9)


@pytest.mark.parametrize("segments", [1, 2, 5, 16])
def test_segments_count_the_rings_of_a_dome(segments: int) -> None:
    ends = Ends(End.DOMED, End.FLAT, 0.04, start_segments=segments)
    mesh = sweep(LINE, SQUARE, recipe_of(ends=ends)).mesh
    assert_watertight(mesh)
    far = np.unique(np.round(mesh.points[mesh.points[:, 0] <= 0.04 + 1e-9, 0], 9))
    angles = np.linspace(0.0, 0.5 * np.pi, segments + 1)
    assert far == pytest.approx(np.sort(0.04 * (1.0 - np.sin(angles))), abs=1e-9)


def test_impossible_segments_are_refused() -> None:
    for bad in (0, -2, 65):
        with pytest.raises(PathError):
            Ends(start_segments=bad)


def test_domes_turn_grow_and_move_as_the_run_does() -> None:
    """A round beside its anchor, twisted: each ring of the dome is a circle about the helix's place there."""
    beside, radius, turns = 0.2, 0.05, 3.0
    along = Along(twist=2.0 * np.pi * turns)
    placing = Placing(anchor=(-beside, 0.0))
    recipe = recipe_of(ends=Ends(End.DOMED, End.DOMED), placing=placing, density=Density(sides=24))
    mesh = sweep(LINE, Carries(ROUND, along), recipe).mesh
    assert_watertight(mesh)
    own = [p for p in mesh.parts if p.name.endswith("dome")]
    assert len(own) == 2
    for part in own:
        at = np.unique(np.concatenate([mesh.quads[slice(*part.quads)].ravel(), mesh.tris[slice(*part.tris)].ravel()]))
        x, rest = mesh.points[at, 0], mesh.points[at, 1:]
        angle = 2.0 * np.pi * turns * x
        right, up = np.array([-1.0, 0.0]), np.array([0.0, 1.0])
        middle = beside * (np.cos(angle)[:, None] * right + np.sin(angle)[:, None] * up)
        back = np.minimum(x, 1.0 - x)
        wanted = np.sqrt(np.maximum(radius**2 - (radius - np.minimum(back, radius)) ** 2, 0.0))
        assert np.linalg.norm(rest - middle, axis=1) == pytest.approx(wanted, abs=2e-3 * radius)


@pytest.mark.parametrize("kind", [End.DOMED, End.CHAMFERED])
def test_ends_of_twisted_runs_keep_within_the_deviation(kind: End) -> None:
    bundle, along = ready_made("bundle", {"width": 0.1}), Along(twist=12.0)
    made = [
        sweep(
            LINE, Carries(bundle, along), recipe_of(ends=Ends(kind, kind, 0.02, 0.02), density=Density(deviation=d))
        ).mesh
        for d in (2e-3, 1e-4)
    ]
    near = made[1].points[(made[1].points[:, 0] < 0.03)]
    assert distance_to_mesh(near[:: max(1, len(near) // 800)], made[0]).max() <= 2e-3


def test_domes_of_a_cone_are_as_large_as_it_is_there() -> None:
    along = Along(laws=Laws(sizes=(PointLaw(np.array([0.0, 1.0]), np.array([1.0, 0.5]), (Piece.STRAIGHT,) * 2),)))
    recipe = recipe_of(ends=Ends(End.FLAT, End.DOMED, None, 0.02), density=Density(sides=32, deviation=1e-4))
    mesh = sweep(LINE, Carries(ROUND, along), recipe).mesh
    assert_watertight(mesh)
    x, far = mesh.points[:, 0], np.linalg.norm(mesh.points[:, 1:], axis=1)
    zone = x > 0.98 - 1e-9
    size = 1.0 - 0.5 * x[zone]
    inset = 0.02 - np.sqrt(np.maximum(0.02**2 - (x[zone] - 0.98) ** 2, 0.0))
    assert far[zone] == pytest.approx((0.025 - inset) * size / 0.5, abs=1e-4)
