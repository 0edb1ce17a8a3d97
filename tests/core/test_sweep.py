"""Bodies: volumes, closedness, deviation, corners, ends, findings; each Must with a body that breaks it."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from morphax.core.body.recipe import End
from morphax.core.body.rings import ring_points
from morphax.core.body.sweep import (
    Body,
    PlainRecipe,
    frame_stage,
    placed_rings,
    profile_stage,
    sweep,
)
from morphax.core.errors import DensityError
from morphax.core.findings import Severity
from morphax.core.frame.frames import Orientation
from morphax.core.mesh.measures import area, edge_check, euler_characteristic, is_closed, volume
from morphax.core.mesh.mesh import point_triangles, triangle_normals
from morphax.core.path.path_edits import reversed_path
from morphax.core.path.paths import PathShape, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.section.ready_made import READY_MADE, ready_made
from morphax.core.section.sampling import sample_section
from morphax.core.section.sections import CornerStyle, anchor_place
from tests.conftest import MANY
from tests.helpers import (
    FRAME,
    OUT_OF_PLANE,
    S_CURVE,
    STRAIGHT,
    THROUGH,
    assert_watertight,
    circle_points,
    distance_to_mesh,
    recipe_of,
    recipe_with,
    torus_knot,
    zoo,
)

NAMES = sorted(READY_MADE)
SPOT_NAMES = ["centre", "top-left", "bottom-right", "centroid"]


def polygon_area(section, sides: int) -> tuple[float, np.ndarray]:
    """Area and area centroid of the sampled polygon, holes taken off."""
    s = sample_section(section, sides=sides)
    total, moment = 0.0, np.zeros(2)
    for sl in s.loop_slices:
        p, q = s.points[sl], np.roll(s.points[sl], -1, 0)
        c = p[:, 0] * q[:, 1] - q[:, 0] * p[:, 1]
        total += c.sum() / 2
        moment += ((p + q) * c[:, None]).sum(0) / 6
    return total, moment / total


@pytest.mark.parametrize("name", NAMES)
@pytest.mark.parametrize("anchor", SPOT_NAMES)
@pytest.mark.parametrize("flip", [False, True])
def test_volume_of_a_mitred_frame_is_exact(name: str, anchor: str, flip: bool) -> None:
    section = ready_made(name, {"width": 0.1})
    options = recipe_of(anchor=anchor, orientation=Orientation.CARRIED, sides=24, flip=flip)
    body = sweep(path_from_points(FRAME, kind=STRAIGHT, closed=True), section, options)
    assert_watertight(body.mesh)
    a, centroid = polygon_area(section, 24)
    x = centroid[0] - anchor_place(section, anchor)[0]
    outward = x if flip is not (section.laying.side.value == "in") else x
    sign = (-1.0 if section.laying.side.value == "in" else 1.0) * (-1.0 if flip else 1.0)
    track = 2 * ((2 + 2 * sign * outward) + (1 + 2 * sign * outward))
    assert volume(body.mesh) == pytest.approx(a * track, rel=1e-12)


def test_a_bent_frame_misses_the_exact_volume() -> None:
    section = ready_made("rectangle", {"width": 0.1})
    body = sweep(path_from_points(FRAME, kind=STRAIGHT, closed=True), section, recipe_of(corner=CornerStyle.BEVEL))
    assert abs(volume(body.mesh) / 0.06 - 1) > 1e-3


@pytest.mark.parametrize("name", NAMES)
def test_volume_of_an_open_path_whose_corners_leave_the_plane(name: str) -> None:
    section = ready_made(name, {"width": 0.05})
    options = recipe_of(anchor="centroid", orientation=Orientation.CARRIED, sides=20)
    path = path_from_points(OUT_OF_PLANE, kind=STRAIGHT)
    a, centroid = polygon_area(section, 20)
    body = sweep(path, section, recipe_with(options, anchor=(float(centroid[0]), float(centroid[1]))))
    assert_watertight(body.mesh)
    assert volume(body.mesh) == pytest.approx(a * body.length, rel=1e-12)


@pytest.mark.parametrize("name", NAMES)
@pytest.mark.parametrize("style", list(CornerStyle))
@pytest.mark.parametrize("path", sorted(zoo()))
def test_every_zoo_body_is_watertight(name: str, style: CornerStyle, path: str) -> None:
    shape = zoo()[path]
    scale = {"huge": 50.0, "tiny": 5e-4}.get(path, 0.05)
    for orientation in (Orientation.CARRIED, Orientation.UPRIGHT):
        options = recipe_of(corner=style, orientation=orientation)
        section = ready_made(name, {"width": scale * slender(name)})
        body = sweep(shape, section, options)
        assert body.findings == () or all(f.severity is Severity.NOTE for f in body.findings), body.findings
        assert_watertight(body.mesh)
        holes = sum(len(part.holes) for part in section.parts)
        expected = 0 if shape.closed else 2 * len(section.parts) - 2 * holes
        assert euler_characteristic(body.mesh) == expected


def slender(name: str) -> float:
    """What makes a section that is much higher than wide about as large as the others."""
    return 1.0 / max(1.0, max((k.share for k in READY_MADE[name].keys.values() if k.is_length), default=1.0) / 2.0)


knots = arrays(np.float64, (5, 3), elements=st.floats(-1.0, 1.0, width=32)).filter(
    lambda p: np.linalg.norm(np.diff(p, axis=0), axis=1).min() > 0.05
)


@given(
    knots,
    st.sampled_from([STRAIGHT, THROUGH]),
    st.booleans(),
    st.sampled_from(NAMES),
    st.booleans(),
    st.booleans(),
)
def test_any_drawn_path_builds_closed(p, kind, closed: bool, name: str, flip: bool, upright: bool) -> None:
    orientation = Orientation.UPRIGHT if upright else Orientation.CARRIED
    path = path_from_points(p, kind=kind, closed=closed)
    body = sweep(path, ready_made(name, {"width": 0.01}), recipe_of(flip=flip, sides=12, orientation=orientation))
    if body.has_errors:
        return
    assert edge_check(body.mesh).closed
    assert volume(body.mesh) > 0 or any(f.code in ("pinch", "short-leg", "turns-back", "hook") for f in body.findings)


@pytest.mark.parametrize("gap", [0.0, 1e-9, 1e-5, 1e-3])
@pytest.mark.parametrize("steps", [(0, 1, 0, 1, 0.5), (0, 1, 0, 2, -1), (0, 1, -1, 1, 0.25)])
def test_a_path_that_turns_straight_back_asks_for_no_endless_rings(gap: float, steps: tuple[float, ...]) -> None:
    p = np.array([[x, gap * i, 1.0] for i, x in enumerate(steps)])
    for closed in (False, True):
        body = sweep(path_from_points(p, kind=THROUGH, closed=closed), ready_made("crown", {"width": 0.01}))
        assert edge_check(body.mesh).closed and body.mesh.rings < 50_000


def test_a_turned_face_and_a_missing_face_are_caught() -> None:
    mesh = sweep(zoo()["s curve"], ready_made("round", {"width": 0.05})).mesh
    quads = mesh.quads.copy()
    quads[5] = quads[5][::-1]
    assert edge_check(replace(mesh, quads=quads)).bad > 0
    assert edge_check(replace(mesh, quads=mesh.quads[1:])).open == 4
    assert volume(replace(mesh, quads=mesh.quads[:, ::-1], tris=mesh.tris[:, ::-1])) < 0


@pytest.mark.parametrize("name", NAMES)
def test_reversal_and_mirroring_give_the_same_body(name: str) -> None:
    section = ready_made(name, {"width": 0.1})
    path = path_from_points(FRAME, kind=STRAIGHT, closed=True)
    options = recipe_of(orientation=Orientation.UPRIGHT if name == "crown" else None, sides=20)
    a, b = sweep(path, section, options), sweep(reversed_path(path), section, options)

    def sorted_points(body: Body) -> np.ndarray:
        p = np.round(body.mesh.points, 9) + 0.0
        return p[np.lexsort(p.T)]

    np.testing.assert_allclose(sorted_points(a), sorted_points(b), atol=2e-9)
    assert volume(a.mesh) == pytest.approx(volume(b.mesh), rel=1e-12)


def test_torus_volume_and_area_approach_the_closed_form() -> None:
    path = path_from_points(circle_points(96), kind=THROUGH, closed=True)
    errors = []
    for deviation in (2e-3, 5e-4):
        body = sweep(path, ready_made("round", {"width": 0.4}), recipe_of(deviation=deviation))
        assert_watertight(body.mesh)
        assert euler_characteristic(body.mesh) == 0
        errors.append(abs(volume(body.mesh) / (2 * np.pi**2 * 0.04) - 1))
        assert abs(area(body.mesh) / (4 * np.pi**2 * 0.2) - 1) < 0.03
    assert errors[1] < 0.4 * errors[0] < 0.02


def test_pipe_volume_is_wall_area_times_length() -> None:
    path = path_from_points(np.array([[0, 0, 0], [0, 3.0, 0]]), kind=STRAIGHT)
    section = ready_made("pipe", {"width": 0.1, "wall": 0.01})
    body = sweep(path, section, recipe_of(sides=32))
    assert volume(body.mesh) == pytest.approx(polygon_area(section, 32)[0] * 3.0, rel=1e-12)
    assert euler_characteristic(body.mesh) == 0 and body.mesh.rings == 2
    assert_watertight(body.mesh)


def test_open_ends_leave_the_rims_open() -> None:
    options = recipe_of(start=End.OPEN, end=End.FLAT, sides=16)
    body = sweep(zoo()["s curve"], ready_made("round", {"width": 0.05}), options)
    assert edge_check(body.mesh).open == 16 and not is_closed(body.mesh)


@pytest.mark.parametrize("name", ["s curve", "closed", "knot", "two knots"])
@pytest.mark.parametrize("section_name", ["round", "rectangle", "crown"])
@pytest.mark.parametrize("orientation", list(Orientation))
def test_true_surface_lies_within_the_deviation(name: str, section_name: str, orientation: Orientation) -> None:
    gap, deviation = surface_gap(zoo()[name], section_name, recipe_of(orientation=orientation, deviation=2e-3))
    assert gap <= deviation


def test_too_few_rings_miss_the_deviation() -> None:
    gap, deviation = surface_gap(zoo()["s curve"], "round", recipe_of(rings=6, sides=12), 2e-3)
    assert gap > deviation


def surface_gap(path: PathShape, section_name: str, options: PlainRecipe, limit: float = 2e-3) -> tuple[float, float]:
    """Largest distance of true surface points (8 x 8 a face, where the mesh is small) to the mesh, and the wish."""
    section = ready_made(section_name, {"width": 0.12})
    body = sweep(path, section, options)
    resolved = resolve_path(path)
    profile = profile_stage(resolved, section, options)
    field = frame_stage(resolved, profile, options.placing)
    fine = profile_stage(resolved, section, recipe_of(sides=8 * profile.size)).loops
    rng = np.random.default_rng(5)
    from morphax.core.frame.frames import frames_at

    rows = placed_rings(resolved, profile, field, options).rows
    gaps = []
    for i, s in enumerate(np.split(rows.s, rows.starts[1:-1])):
        mid = (s[:-1, None] + np.diff(s)[:, None] * ((np.arange(8) + 0.5) / 8)).ravel()
        mid = np.sort(rng.choice(mid, size=min(24, len(mid)), replace=False))
        fr = frames_at(field, i, mid)
        pts = ring_points(np.stack([fr.origin, fr.right, fr.up], axis=-2), fine.points).reshape(-1, 3)
        gaps.append(
            distance_to_mesh(pts[rng.choice(len(pts), size=min(MANY, len(pts)), replace=False)], body.mesh).max()
        )
    return max(gaps), options.density.deviation or limit


@pytest.mark.parametrize("name", NAMES)
def test_stored_normals_point_out_and_match_the_faces(name: str) -> None:
    body = sweep(zoo()["corners out of plane"], ready_made(name, {"width": 0.05 * slender(name)}))
    mesh = body.mesh
    np.testing.assert_allclose(np.linalg.norm(mesh.normals, axis=1), 1.0, atol=1e-5)
    flat = np.cross(
        mesh.points[mesh.quads[:, 2]] - mesh.points[mesh.quads[:, 0]],
        mesh.points[mesh.quads[:, 3]] - mesh.points[mesh.quads[:, 1]],
    )
    flat /= np.linalg.norm(flat, axis=1, keepdims=True)
    agree = np.einsum("fki,fi->fk", mesh.normals[mesh.quad_vertices], flat)
    assert agree.min() > 0.9
    cap = triangle_normals(mesh.points, mesh.tris)
    agree = np.einsum("fki,fi->fk", mesh.normals[mesh.tri_vertices], cap)
    assert agree.min() >= -1e-12


def test_true_normals_of_a_rolled_body_match_finite_differences() -> None:
    path = path_from_points(torus_knot(40), kind=THROUGH, closed=True)
    section = ready_made("ogee", {"width": 0.3})
    body = sweep(path, section, recipe_of(deviation=1e-4))
    mesh = body.mesh
    tri = mesh.points[mesh.quads]
    flat = np.cross(tri[:, 2] - tri[:, 0], tri[:, 3] - tri[:, 1])
    flat /= np.linalg.norm(flat, axis=1, keepdims=True)
    mean = mesh.normals[mesh.quad_vertices].mean(1)
    assert np.einsum("fi,fi->f", mean, flat).min() > 0.98


def test_texture_runs_by_length_and_mitres_cut_it_like_a_saw() -> None:
    section = ready_made("rectangle", {"width": 0.1})
    corner = path_from_points(np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0.0]]), kind=STRAIGHT)
    mesh = sweep(corner, section).mesh
    skin = np.unique(mesh.quad_vertices)
    assert mesh.uvs[skin, 0].max() == pytest.approx(0.4) and mesh.uvs[skin, 0].min() == 0.0
    p, v = mesh.points[mesh.vertex_point[skin]], mesh.uvs[skin, 1]
    first = np.abs(v) <= 1.06
    first &= p[:, 1] <= 0.051
    leg = (v < 1.0501) & (np.abs(p[:, 1]) < 0.0501) & (p[:, 0] < 0.949)
    np.testing.assert_allclose(v[leg], p[leg, 0], atol=1e-6)
    at_corner = (p[:, 0] > 0.9) & (p[:, 1] < 0.06) & (v < 1.06)
    assert {round(float(x), 3) for x in v[at_corner]} == {0.95, 1.05}


def test_vertices_agree_with_points() -> None:
    for path in zoo().values():
        mesh = sweep(path, ready_made("pipe", {"width": 0.03})).mesh
        np.testing.assert_array_equal(mesh.vertex_point[mesh.quad_vertices], mesh.quads)
        np.testing.assert_array_equal(mesh.vertex_point[mesh.tri_vertices], mesh.tris)
        assert mesh.parts[-1].quads[1] == len(mesh.quads) and mesh.parts[-1].tris[1] == len(mesh.tris)
        assert not mesh.points.flags.writeable and not mesh.uvs.flags.writeable


def test_rings_and_sides_by_count() -> None:
    body = sweep(zoo()["s curve"], ready_made("round", {"width": 0.02}), recipe_of(rings=17, sides=9))
    assert body.mesh.rings == 17 and body.sides == 9 and body.mesh.face_count == 16 * 9 + 2 * 7
    assert np.ptp(np.diff(body.ring_at)) < 1e-9
    loop = sweep(zoo()["closed"], ready_made("round", {"width": 0.02}), recipe_of(rings=17, sides=9))
    assert loop.mesh.rings == 17
    few = sweep(zoo()["corners out of plane"], ready_made("round", {"width": 0.02}), recipe_of(rings=2))
    assert few.mesh.rings == 5 and few.findings[0].code == "forced-rings"


@pytest.mark.parametrize("corners", [[1], [0, 2]])
@pytest.mark.parametrize("style", list(CornerStyle))
def test_a_closed_run_with_few_corners_keeps_three_intervals(corners: list[int], style: CornerStyle) -> None:
    points = np.array([[0, 0, 0], [1, 0, 0], [0.8, 0.9, 0], [0, 1, 0.0]])
    path = path_from_points(points, kind=THROUGH, closed=True, corner=np.isin(np.arange(4), corners))
    for options in (
        recipe_of(rings=2, corner=style),
        recipe_of(size=30.0, corner=style),
        recipe_of(corner=style),
    ):
        body = sweep(path, ready_made("rectangle", {"width": 0.03}), options)
        assert edge_check(body.mesh).closed


def test_straight_legs_get_two_rings() -> None:
    body = sweep(path_from_points(np.array([[0, 0, 0], [5.0, 1, 0]]), kind=STRAIGHT), ready_made("round", {}))
    assert body.mesh.rings == 2


def test_density_does_not_depend_on_how_many_knots_were_drawn() -> None:
    section = ready_made("round", {"width": 0.1})
    a = sweep(path_from_points(circle_points(24), kind=THROUGH, closed=True), section)
    b = sweep(path_from_points(circle_points(240), kind=THROUGH, closed=True), section)
    assert abs(a.mesh.rings - b.mesh.rings) <= 1


def test_a_sharp_mitre_becomes_a_bevel_and_a_turn_back_ends_flat() -> None:
    sharp = np.array([[0, 0, 0], [1, 0, 0], [0.05, 0.3, 0]])
    body = sweep(path_from_points(sharp, kind=STRAIGHT), ready_made("rectangle", {"width": 0.02}))
    assert [f.code for f in body.findings] == ["mitre-limit"]
    assert_watertight(body.mesh)
    back = np.array([[0, 0, 0], [1, 0, 0], [0.2, 0.001, 0]])
    body = sweep(path_from_points(back, kind=STRAIGHT), ready_made("rectangle", {"width": 0.02}))
    assert [f.code for f in body.findings] == ["turns-back"]
    assert_watertight(body.mesh)
    assert euler_characteristic(body.mesh) == 4


def test_pinch_names_the_place_and_the_largest_free_width() -> None:
    path = path_from_points(circle_points(48, 0.1), kind=THROUGH, closed=True)
    body = sweep(path, ready_made("round", {"width": 0.25}), recipe_of(sides=64))
    pinch = next(f for f in body.findings if f.code == "pinch")
    assert pinch.free_width == pytest.approx(0.2, rel=5e-3)
    eased = sweep(path, ready_made("round", {"width": (pinch.free_width or 0) * 0.99}))
    assert eased.findings == ()


def test_short_legs_between_mitres_are_a_pinch_that_a_narrower_body_cures() -> None:
    zig = path_from_points(np.array([[0, 0, 0], [1, 0, 0], [1, 0.05, 0], [0, 0.05, 0.0]]), kind=STRAIGHT)
    body = sweep(zig, ready_made("rectangle", {"width": 0.1}))
    pinch = next(f for f in body.findings if f.code == "short-leg")
    assert pinch.free_width == pytest.approx(0.05, rel=1e-6)
    assert sweep(zig, ready_made("rectangle", {"width": 0.049})).findings == ()


def test_doubled_knots_are_built_as_one_and_hooks_are_named() -> None:
    p = np.insert(S_CURVE, 2, S_CURVE[2] + 1e-7, axis=0)
    body = sweep(path_from_points(p, kind=THROUGH), ready_made("round", {"width": 0.02}))
    assert [f.code for f in body.findings] == ["doubled-knots"]
    plain = sweep(path_from_points(S_CURVE, kind=THROUGH), ready_made("round", {"width": 0.02}))
    assert abs(body.length - plain.length) < 1e-6
    hook = np.array([[0, 0, 0], [1, 0, 0], [0.98, 0.0005, 0], [2, 0, 0.0]])
    codes = [f.code for f in sweep(path_from_points(hook, kind=THROUGH), ready_made("round", {"width": 0.02})).findings]
    assert "hook" in codes


@pytest.mark.parametrize(
    "points,closed,code",
    [
        (S_CURVE[:1], False, "too-few-knots"),
        (S_CURVE[[0, 0]], False, "too-few-knots"),
        (S_CURVE[:2], True, "too-few-knots"),
        (S_CURVE[:0], False, "too-few-knots"),
        (S_CURVE + np.array([np.inf, 0.0, 0.0]), False, "not-finite"),
    ],
)
def test_errors_leave_an_empty_body(points: np.ndarray, closed: bool, code: str) -> None:
    body = sweep(path_from_points(points, kind=THROUGH, closed=closed), ready_made("round", {}))
    assert body.has_errors and body.findings[0].code == code and body.mesh.face_count == 0


def test_rings_are_one_product_equal_to_the_plain_sum_also_in_batches() -> None:
    rng = np.random.default_rng(2)
    c, s = rng.normal(size=(4, 700, 3, 3)), rng.normal(size=(11, 2))
    plain = c[..., None, 0, :] + s[:, :1] * c[..., None, 1, :] + s[:, 1:] * c[..., None, 2, :]
    np.testing.assert_allclose(ring_points(c, s), plain, atol=1e-12)
    np.testing.assert_array_equal(ring_points(c[1], s), ring_points(c, s)[1])


def test_inputs_are_never_changed() -> None:
    p = S_CURVE.copy()
    path = path_from_points(p, kind=THROUGH)
    p.flags.writeable = False
    sweep(path, ready_made("ogee", {}))
    np.testing.assert_array_equal(p, S_CURVE)


def test_bad_counts_are_refused() -> None:
    with pytest.raises(DensityError, match="rings is 1"):
        sweep(zoo()["s curve"], ready_made("round", {}), recipe_of(rings=1))


def test_closed_run_on_a_rolled_path_shares_its_first_ring_by_symmetry() -> None:
    path = path_from_points(torus_knot(60), kind=THROUGH, closed=True)
    body = sweep(path, ready_made("rectangle", {"width": 0.1}), recipe_of(sides=4))
    assert_watertight(body.mesh)
    tri = point_triangles(body.mesh)
    edge = np.linalg.norm(body.mesh.points[tri[:, 0]] - body.mesh.points[tri[:, 1]], axis=1)
    assert edge.max() < 0.3  # a wrong shift would join corners across the section


def test_roll_turns_from_right_towards_up_about_the_anchor() -> None:
    path = path_from_points(np.array([[0, 0, 0], [0, 1.0, 0]]), kind=STRAIGHT)  # right is east, up is z
    section = ready_made("rectangle", {"width": 0.1, "height": 0.02})
    plain = sweep(path, section, recipe_of(anchor="left"))
    turned = sweep(path, section, recipe_of(anchor="left", roll=np.pi / 2))
    np.testing.assert_allclose(np.ptp(plain.mesh.points, axis=0), [0.1, 1.0, 0.02])
    np.testing.assert_allclose(turned.mesh.points[:, 2].max(), 0.1)
    np.testing.assert_allclose(turned.mesh.points[:, 2].min(), 0.0, atol=1e-15)
    four = sweep(path, section, recipe_of(anchor="left", roll=2 * np.pi))
    np.testing.assert_array_equal(four.mesh.points, plain.mesh.points)
    some = sweep(path, section, recipe_of(roll=0.3))
    assert volume(some.mesh) == pytest.approx(volume(plain.mesh), rel=1e-12) and some.width == plain.width
    assert_watertight(some.mesh)


@pytest.mark.parametrize("roll", [0.0, 0.4, np.pi / 2])
def test_a_rolled_mitred_frame_keeps_its_exact_volume(roll: float) -> None:
    path = path_from_points(FRAME, kind=STRAIGHT, closed=True)
    section = ready_made("rectangle", {"width": 0.1, "height": 0.05})
    assert volume(sweep(path, section, recipe_of(roll=roll)).mesh) == pytest.approx(0.005 * 6.0, rel=1e-12)


def test_spacing_divides_each_leg_evenly_by_the_nearest_whole_number() -> None:
    path = path_from_points(np.array([[0, 0, 0], [1, 0, 0], [1, 0.47, 0.0]]), kind=STRAIGHT)
    body = sweep(path, ready_made("round", {"width": 0.02}), recipe_of(spacing=0.1))
    steps = np.diff(np.unique(np.round(body.ring_at, 12)))
    np.testing.assert_allclose(steps[:10], 0.1)
    np.testing.assert_allclose(steps[10:], 0.47 / 5)
    with pytest.raises(DensityError, match="spacing is -1"):
        sweep(path, ready_made("round", {}), recipe_of(spacing=-1.0))
    with pytest.raises(DensityError, match="by a budget: one of them"):
        sweep(path, ready_made("round", {}), recipe_of(spacing=0.1, rings=5))
