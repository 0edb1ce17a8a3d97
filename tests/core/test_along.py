"""Bodies that vary along their path: stations, sizes, rolls and twist, judged by volumes and by other libraries."""

from dataclasses import replace

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from morphax.core.body.profile import StepSide
from morphax.core.body.profiles import Carries, profile_stage
from morphax.core.body.recipe import End, Ends, PlainRecipe
from morphax.core.body.reference import Reference
from morphax.core.body.sweep import Drawn, sweep, sweep_resolved
from morphax.core.errors import PathError
from morphax.core.frame.frames import Orientation
from morphax.core.loft.along import Along, StationShape
from morphax.core.loft.blends import Blend, StationWeights, eases
from morphax.core.loft.laws import Form, FormLaw, Piece, PointLaw, tapered
from morphax.core.loft.varying_laws import Laws
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.mesh.mesh import by_look, point_triangles
from morphax.core.path.paths import PathKind, PathShape, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.section.pieces import rectangle
from morphax.core.section.ready_made import ready_made
from morphax.core.section.sections import Part, SectionShape
from tests.helpers import assert_watertight, distance_to_mesh, recipe_of, torus_knot, zoo

LINE = path_from_points(np.array([[0, 0, 0], [0, 1.0, 0]]), kind=PathKind.STRAIGHT)
SQUARE, SMALL = (ready_made("rectangle", {"width": w, "height": w}) for w in (0.1, 0.05))
ROUND, STAR = ready_made("round", {"width": 0.1}), ready_made("star", {"points": 5, "width": 0.1})
BLENDS = [Blend.STRAIGHT, Blend.SMOOTH, Blend.FLOWING]


def loft(*stations: tuple[float, object], blend: Blend = Blend.STRAIGHT, **more: object) -> Carries:
    made = tuple(StationShape(at, s, blend=blend) for at, s in stations)  # type: ignore[arg-type]
    return Carries(made[0].section, Along(made, **more))  # type: ignore[arg-type]


def built(path: PathShape, what: Carries, **values: object):
    return sweep(path, what, recipe_of(**values))


def some(points: np.ndarray) -> np.ndarray:
    """Some 300 of them, by chance."""
    return points[np.random.default_rng(5).integers(len(points), size=300)]


# -- stations ----------------------------------------------------------------------------------------


def test_a_square_that_shrinks_is_a_frustum() -> None:
    body = built(LINE, loft((0.0, SQUARE), (1.0, SMALL)))
    assert_watertight(body.mesh)
    a, b = 0.1**2, 0.05**2
    assert volume(body.mesh) == pytest.approx((a + b + np.sqrt(a * b)) / 3.0, rel=1e-12)
    assert body.width == pytest.approx(0.1), "its width is that of its first section"


@pytest.mark.parametrize("blend", list(Blend))
@pytest.mark.parametrize("name", ["s curve", "corners out of plane", "frame"])
def test_five_sections_make_a_closed_body(name: str, blend: Blend) -> None:
    path = zoo()[name]
    long = resolve_path(path).length
    what = loft(
        *((long * x, s) for x, s in zip((0, 0.15, 0.5, 0.8, 0.97), (SQUARE, ROUND, STAR, ROUND, SMALL), strict=True)),
        blend=blend,
    )
    body = built(path, what)
    assert not body.has_errors
    assert edge_check(body.mesh).closed and volume(body.mesh) > 0.0
    tri = trimesh.Trimesh(body.mesh.points, point_triangles(body.mesh), process=False)
    assert tri.is_watertight or blend is Blend.HOLD, "walls may touch"
    assert np.isfinite(body.mesh.normals).all()


def test_a_held_section_goes_on_until_the_next_one_and_a_wall_closes_the_step() -> None:
    body = built(LINE, loft((0.0, SQUARE), (0.4, SMALL), blend=Blend.HOLD))
    assert_watertight(body.mesh)
    assert volume(body.mesh) == pytest.approx(0.4 * 0.01 + 0.6 * 0.0025, rel=1e-12)
    tri = trimesh.Trimesh(body.mesh.points, point_triangles(body.mesh), process=False)
    assert tri.is_watertight and tri.volume == pytest.approx(0.0055)
    wall = np.abs(tri.triangles_center[:, 1] - 0.4) < 1e-9
    assert tri.area_faces[wall].sum() == pytest.approx(0.01 - 0.0025)
    assert np.allclose(tri.face_normals[wall], [0, 1, 0])
    verts = body.mesh.quad_vertices[-4:] if len(body.mesh.quads) else None
    assert verts is not None and np.allclose(body.mesh.normals[verts], [0, 1, 0], atol=1e-6), "and it is flat"
    assert built(LINE, loft((0.0, SQUARE), (0.4, SQUARE), blend=Blend.HOLD)).mesh.face_count >= 6


def test_the_first_and_last_sections_stand_still_beyond_their_stations() -> None:
    body = built(LINE, loft((0.3, SQUARE), (0.6, SMALL)), deviation=1e-4)
    a, b = 0.01, 0.0025
    assert volume(body.mesh) == pytest.approx(0.3 * a + 0.4 * b + 0.3 * (a + b + np.sqrt(a * b)) / 3.0, rel=1e-9)
    assert {0.3, 0.6} <= set(body.ring_at)


@pytest.mark.parametrize("blend", BLENDS)
def test_the_true_surface_lies_within_the_deviation(blend: Blend) -> None:
    path = path_from_points(
        np.array([[0, 0, 0], [0.4, 0.3, 0.1], [0.9, 0, 0.3], [1.4, 0.2, 0.2]]), kind=PathKind.THROUGH
    )
    long = resolve_path(path).length
    what = loft((0.0, SQUARE), (0.5 * long, STAR), (long, ROUND), blend=blend)
    fine, coarse = built(path, what, deviation=2e-5), built(path, what, deviation=1e-3)
    assert distance_to_mesh(some(fine.mesh.points), coarse.mesh).max() <= 1e-3
    assert len(coarse.mesh.points) < 0.2 * len(fine.mesh.points)


@pytest.mark.parametrize("blend", BLENDS)
def test_turning_mirroring_and_scaling_all_sections_commutes_with_blending(blend: Blend) -> None:
    stations = tuple(StationShape(x, s, blend=blend) for x, s in ((0.0, SQUARE), (0.4, STAR), (1.0, ROUND)))
    plain = built(LINE, Carries(SQUARE, Along(stations)), rings=9, sides=40).mesh.points
    turned = tuple(replace(s, turn=0.7, scale=1.5) for s in stations)
    moved = built(LINE, Carries(SQUARE, Along(turned)), rings=9, sides=40).mesh.points
    c, n = 1.5 * np.cos(0.7), 1.5 * np.sin(0.7)
    x, z = plain[:, 0], plain[:, 2]
    assert moved == pytest.approx(np.stack([c * x - n * z, plain[:, 1], n * x + c * z], axis=1), abs=1e-12)


def test_flowing_goes_on_through_its_stations_and_never_beyond_them() -> None:
    circles = [ready_made("round", {"width": w}) for w in (0.1, 0.14, 0.2, 0.2, 0.08)]
    at = (0.0, 0.2, 0.5, 0.7, 1.0)
    stations = tuple(StationShape(x, c, blend=Blend.FLOWING) for x, c in zip(at, circles, strict=True))
    profile = profile_stage(resolve_path(LINE), Carries(circles[0], Along(stations)), PlainRecipe())
    s = np.linspace(0.0, 1.0, 401)
    radius = np.array([profile.outline_at(float(x)).reach for x in s])
    assert np.diff(radius)[(s[:-1] > 0.01) & (s[1:] < 0.49)].min() > 1e-7, "no standstill at the second one"
    assert radius[(s >= 0.5) & (s <= 0.7)] == pytest.approx(0.1), "unchanged between equal ones"
    assert radius.max() <= 0.1 + 1e-12 and radius.min() >= 0.04 - 1e-12


@given(st.lists(st.floats(0.05, 1.0), min_size=2, max_size=6), st.data())
def test_weights_sum_to_one_with_true_rates(gaps: list[float], data) -> None:
    at = np.concatenate([[0.1], 0.1 + np.cumsum(gaps)])
    blends = tuple(data.draw(st.sampled_from(list(Blend))) for _ in at)
    closed = data.draw(st.booleans())
    period = float(at[-1] + 0.3) if closed else None
    ease = eases(np.random.default_rng(len(at)).normal(size=(len(at), 5, 2)), at, period)
    weigh = StationWeights(at, blends, ease, period)
    s = np.setdiff1d(np.linspace(0.0, at[-1] + 0.2, 57), at)
    found = weigh(s, np.ones(len(s)))
    assert found.values.sum(1) == pytest.approx(1.0) and found.rates.sum(1) == pytest.approx(0.0, abs=1e-9)
    h = 1e-7
    ahead, behind = (weigh(s + d, np.ones(len(s))).values for d in (h, -h))
    clear = np.abs(s[:, None] - at[None]).min(1) > 1e-6
    assert found.rates[clear] == pytest.approx(((ahead - behind) / (2 * h))[clear], abs=1e-4)
    own = weigh(at, np.ones(len(at))).values
    assert own == pytest.approx(np.eye(len(at)), abs=1e-12), "each section stands at its station"
    flat = StationWeights(at, (Blend.SMOOTH,) * len(at), ease, period)(s, np.ones(len(s))).values
    assert flat.min() >= 0.0


def test_a_step_has_a_section_on_each_side() -> None:
    profile = profile_stage(resolve_path(LINE), loft((0.0, SQUARE), (0.4, SMALL), blend=Blend.HOLD), PlainRecipe())
    assert profile.steps.tolist() == [0.4]
    assert profile.outline_at(0.4, StepSide.BEFORE).reach == pytest.approx(np.hypot(0.05, 0.05))
    assert profile.outline_at(0.4, StepSide.AFTER).reach == pytest.approx(np.hypot(0.025, 0.025))


def test_stations_on_a_closed_path_go_round_to_the_first_again() -> None:
    ring = path_from_points(
        np.array([[1, 0, 0], [0, 1, 0], [-1, 0, 0], [0, -1, 0]], dtype=float), kind=PathKind.THROUGH, closed=True
    )
    long = resolve_path(ring).length
    body = built(ring, loft((0.25 * long, SQUARE), (0.75 * long, ROUND), blend=Blend.SMOOTH))
    assert_watertight(body.mesh)
    assert volume(body.mesh) > 0.0
    profile = profile_stage(resolve_path(ring), loft((0.25 * long, SQUARE), (0.75 * long, ROUND)), PlainRecipe())
    assert profile.outline_at(0.0).points == pytest.approx(profile.outline_at(long, StepSide.BEFORE).points)


def test_two_stations_in_one_place_are_refused() -> None:
    with pytest.raises(PathError, match="same place"):
        built(LINE, loft((0.5, SQUARE), (0.5, ROUND)))


# -- laws --------------------------------------------------------------------------------------------


def test_a_taper_is_a_cone_and_an_end_of_nothing_is_a_point() -> None:
    body = built(LINE, Carries(SQUARE, Along(laws=Laws((tapered(1.0, 0.5, 1.0),)))))
    a, b = 0.01, 0.0025
    assert volume(body.mesh) == pytest.approx((a + b + np.sqrt(a * b)) / 3.0, rel=1e-12)
    assert_watertight(body.mesh)
    assert body.width == pytest.approx(0.1)


@pytest.mark.parametrize("form", list(Form))
def test_forms_keep_within_the_deviation(form: Form) -> None:
    law = FormLaw(form, 0.3, 1.0, pitch=0.1)
    what = Carries(ROUND, Along(laws=Laws((law,))))
    fine, coarse = built(LINE, what, deviation=1e-5), built(LINE, what, deviation=5e-4)
    assert_watertight(coarse.mesh)
    assert distance_to_mesh(some(fine.mesh.points), coarse.mesh).max() <= 5e-4
    s = np.linspace(0.0, 1.0, 20001)
    size, _ = law.at_rows(0.5 * (s[1:] + s[:-1]), np.ones(len(s) - 1))
    assert volume(fine.mesh) == pytest.approx(np.pi * 0.05**2 * float((size**2).mean()), rel=2e-3), "Pappus' sum"


def test_a_held_size_steps_with_a_wall() -> None:
    law = PointLaw(np.array([0.0, 0.5]), np.array([1.0, 0.5]), (Piece.HOLD, Piece.HOLD))
    body = built(LINE, Carries(SQUARE, Along(laws=Laws((law,)))))
    assert_watertight(body.mesh)
    assert volume(body.mesh) == pytest.approx(0.5 * 0.01 + 0.5 * 0.0025, rel=1e-12)


@pytest.mark.parametrize("turns", [0.25, 3.0, -27.7])
def test_a_twist_turns_the_last_section_by_so_much_and_keeps_the_volume(turns: float) -> None:
    body = built(LINE, Carries(SQUARE, Along(twist=2.0 * np.pi * turns)), deviation=5e-4)
    assert_watertight(body.mesh)
    assert volume(body.mesh) == pytest.approx(0.01, rel=0.02)
    last = body.mesh.points[np.abs(body.mesh.points[:, 1] - 1.0) < 1e-12]
    angle = np.degrees(np.arctan2(last[:, 2], last[:, 0]))
    off = (angle - 45.0 - 360.0 * turns + 45.0) % 90.0 - 45.0
    corners = np.hypot(last[:, 0], last[:, 2]) > 0.0707
    assert np.abs(off[corners]).max() < 1e-6, "counter-clockwise as drawn"
    assert len(body.ring_at) > 12 * abs(turns), "rings follow the twist"


def test_rolls_add_to_the_twist_and_the_start_roll() -> None:
    law = PointLaw(np.array([0.0, 1.0]), np.array([0.0, 0.3]), (Piece.STRAIGHT,) * 2)
    one = built(LINE, Carries(SQUARE, Along(laws=Laws(rolls=(law,)), twist=0.5)), roll=0.2, rings=12, sides=8)
    two = built(LINE, Carries(SQUARE, Along(twist=0.8)), roll=0.2, rings=12, sides=8)
    assert one.mesh.points == pytest.approx(two.mesh.points, abs=1e-12)


def test_a_twist_on_a_closed_path_comes_round_to_itself() -> None:
    path = torus_knot()
    shape = path_from_points(path, kind=PathKind.THROUGH, closed=True)
    for section, step in ((SQUARE, 0.25), (STAR, 0.2)):
        for turns in (3.1, -1.4):
            what = Carries(section, Along(twist=2.0 * np.pi * turns))
            body = built(shape, what, anchor="centroid")
            assert_watertight(body.mesh)
            profile = profile_stage(resolve_path(shape), what, recipe_of(anchor="centroid"))
            rate = float(profile.laws.at(np.zeros(1)).roll_rate[0]) * resolve_path(shape).length / (2.0 * np.pi)
            assert rate / step == pytest.approx(round(rate / step)) and abs(rate - turns) <= 0.5 * step + 1e-9


@pytest.mark.parametrize("orientation", [None, Orientation.UPRIGHT])
@pytest.mark.parametrize(("name", "turns"), [("rectangle", 0.25), ("rectangle", -1.5), ("star", 0.2), ("twin", 0.5)])
def test_a_twist_that_is_part_of_a_turn_does_not_turn_back_where_the_path_closes(name, turns, orientation) -> None:
    """No side along the path is longer than its neighbours': the last ring meets the first one shifted by points."""
    values = {"width": 0.1, **({"height": 0.1} if name == "rectangle" else {})}
    section = ready_made(name, values | ({"points": 5} if name == "star" else {}))
    t = np.linspace(0.0, 2.0 * np.pi, 9)[:-1]
    ring = path_from_points(np.stack([np.cos(t), np.sin(t), 0.0 * t], 1), kind=PathKind.THROUGH, closed=True)
    paths = [ring] if orientation else [ring, path_from_points(torus_knot(), kind=PathKind.THROUGH, closed=True)]
    for path in paths:
        what = Carries(section, Along(twist=2.0 * np.pi * turns))
        body = built(path, what, rings=300, orientation=orientation, anchor="centroid")
        assert_watertight(body.mesh)
        corner = body.mesh.points[body.mesh.quads]
        long = np.linalg.norm(corner[:, 1] - corner[:, 0], axis=1).reshape(-1, body.sides)
        assert long[-1].max() < 1.5 * long[-2].max() and long[-1].max() < 1.5 * long[0].max()


REFERENCES = [
    Reference(((-1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))),
    Reference(((-1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)), from_end=True),
]


@settings(max_examples=12)
@given(st.floats(-3.0, 3.0), st.sampled_from(BLENDS), st.sampled_from(list(Orientation)[:2]), st.integers(0, 1))
def test_a_mirrored_or_reversed_run_is_the_image_of_its_body(twist, blend, orientation, which) -> None:
    path = zoo()["s curve"]
    long = resolve_path(path).length
    what = loft(
        (0.0, SQUARE),
        (0.3 * long, STAR),
        (long, ROUND),
        blend=blend,
        twist=twist,
        laws=Laws((FormLaw(Form.CONE, 0.3, long),)),
    )
    recipe = recipe_of(orientation=orientation, anchor="bottom", deviation=2e-3, start=End.DOMED)
    plain = sweep(path, what, recipe).mesh
    reference = REFERENCES[which]
    knots = path.knots @ reference.world.T
    knots = knots[::-1] if reference.from_end else knots
    seen = path_from_points(knots, kind=PathKind.THROUGH)
    ends = (
        replace(recipe, ends=replace(recipe.ends, start=recipe.ends.end, end=recipe.ends.start))
        if reference.from_end
        else recipe
    )
    body = sweep_resolved(Drawn(seen, resolve_path(seen)), what, ends, reference=reference)
    image = plain.points @ reference.world.T
    assert body.mesh.points == pytest.approx(image, abs=1e-9)


PATHS = st.sampled_from(["s curve", "corners out of plane", "frame", "helix", "circle"])


@settings(max_examples=25)
@given(
    st.sampled_from(sorted(zoo())),
    st.lists(
        st.tuples(st.floats(0.0, 1.0), st.sampled_from(["round", "rectangle", "star", "crown", "leaf", "i"])),
        min_size=1,
        max_size=4,
        unique_by=lambda v: round(v[0], 1),
    ),
    st.sampled_from(list(Blend)),
    st.floats(-6.0, 6.0),
    st.sampled_from([*Form, None]),
)
def test_any_path_sections_stations_and_laws_give_a_closed_body_or_a_finding(
    name, stations, blend, twist, form
) -> None:
    path = zoo()[name]
    long = resolve_path(path).length
    width = 0.02 * float(np.ptp(path.knots, axis=0).max())
    sections = [
        (x * long * (0.99 if path.closed else 1.0), ready_made(n, {"width": width})) for x, n in sorted(stations)
    ]
    sizes = () if form is None else (FormLaw(form, 0.3, long, pitch=long / 5),)
    what = loft(*sections, blend=blend, twist=twist, laws=Laws(sizes))
    body = built(path, what)
    assert np.isfinite(body.mesh.points).all() and np.isfinite(body.mesh.normals).all()
    if not body.has_errors:
        assert edge_check(body.mesh).closed
        said = {f.code for f in body.findings}
        assert volume(body.mesh) > 0.0 or said & {"pinch", "edge-on", "turned-over", "short-leg"}


@pytest.mark.parametrize("name", ["round", "rectangle", "star", "pipe", "twin"])
@pytest.mark.parametrize("ends", [(1.0, 0.0), (0.0, 1.0), (0.0, 0.0)])
def test_an_end_of_no_size_is_one_point(name: str, ends: tuple[float, float]) -> None:
    section = ready_made(name, {"width": 0.1})
    at = np.array([0.0, 0.5, 1.0]) if ends == (0.0, 0.0) else np.array([0.0, 1.0])
    value = np.array([0.0, 1.0, 0.0]) if ends == (0.0, 0.0) else np.array(ends)
    law = PointLaw(at, value, (Piece.STRAIGHT,) * len(at))
    body = built(LINE, Carries(section, Along(laws=Laws((law,)))), deviation=1e-3)
    mesh = body.mesh
    for y, size in ((0.0, ends[0]), (1.0, ends[1])):
        there = np.abs(mesh.points[:, 1] - y) < 1e-12
        assert there.sum() == 1 if size == 0.0 else there.sum() > 3
    assert edge_check(mesh).closed and np.isfinite(mesh.normals).all()
    tri = trimesh.Trimesh(mesh.points, point_triangles(mesh), process=False)
    assert tri.area_faces.min() > 0.0, "no face without an area"
    full = volume(built(LINE, Carries(section), deviation=1e-3).mesh)
    assert volume(mesh) == pytest.approx(full / 3.0, rel=2e-2)
    assert np.abs(np.linalg.norm(mesh.normals, axis=1) - 1.0).max() < 1e-5
    names = [p.name for p in mesh.parts if p.tris[1] > p.tris[0] or p.quads[1] > p.quads[0]]
    assert ("end cap" in names) is (ends[1] > 0.0) and ("start cap" in names) is (ends[0] > 0.0)


def test_a_pointed_ends_faces_keep_their_looks() -> None:
    loop = rectangle((-0.02, -0.01), (0.02, 0.01))
    sides = tuple(replace(s, look="red") if k == 2 else s for k, s in enumerate(loop.segments))
    section = SectionShape((Part(replace(loop, segments=sides)),), is_free=True)
    mesh = built(LINE, Carries(section, Along(laws=Laws((tapered(1.0, 0.0, 1.0),))))).mesh
    red = dict(by_look(mesh))["red"]
    assert len(red.tris) == 1 and not len(red.quads)
    assert red.points[red.tris[0]][:, 2].max() == pytest.approx(0.01)


@pytest.mark.parametrize("ends", [(0.0, 1.0), (0.3, 0.8)])
def test_a_dome_closes_a_loft_whose_other_sections_have_more_corners(ends: tuple[float, float]) -> None:
    stations = tuple(
        StationShape(a, s, blend=Blend.SMOOTH) for a, s in ((ends[0], SQUARE), (0.5, STAR), (ends[1], ROUND))
    )
    body = built(LINE, Carries(SQUARE, Along(stations, twist=1.0)), ends=Ends(End.DOMED, End.DOMED))
    assert_watertight(body.mesh)
    solid = trimesh.Trimesh(body.mesh.points, point_triangles(body.mesh), process=False)
    assert solid.is_watertight and solid.volume > 0.0
