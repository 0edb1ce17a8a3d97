"""The profile seam: a linear blend of two outlines goes through all stages; symmetry across loops."""

from dataclasses import replace

import numpy as np
import pytest

from morphax.core.body.profile import EvenLaws, LawRows, Profile, SectionFacts, StepSide, Weights, even_profile
from morphax.core.body.recipe import End, PlainRecipe
from morphax.core.body.ring_places import RingRule
from morphax.core.body.sweep import Drawn, frame_stage, placed_rings, sweep, sweep_profile
from morphax.core.frame.frames import Orientation, frames_at
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.mesh.mesh import Mesh, point_triangles, triangle_normals
from morphax.core.path.paths import PathShape, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.section.outlines import circle, stretched
from morphax.core.section.ready_made import ready_made
from morphax.core.section.sampling import (
    SampledSection,
    placed_section,
    sample_section,
    with_seam,
)
from morphax.core.section.sections import CornerStyle, Part, SectionShape
from morphax.core.section.symmetry import rotational_symmetry, turned_points
from tests.helpers import S_CURVE, STRAIGHT, THROUGH, assert_watertight, distance_to_mesh, recipe_of, torus_knot, zoo

SIDES, PLAIN = 16, PlainRecipe()
LINE = path_from_points(np.array([[0, 0, 0], [0, 1.0, 0]]), kind=STRAIGHT)


def outline(name: str, width: float) -> SampledSection:
    """An outline of 16 points whose first lies at the bottom right, as a square's does."""
    s = sample_section(ready_made(name, {"width": width}), sides=SIDES)
    return placed_section(with_seam(s, 0.125), anchor=(0.0, 0.0)) if name == "round" else s


def blend(path: PathShape, first: SampledSection, last: SampledSection) -> Profile:
    """From one outline to another, evenly by length."""
    length = resolve_path(path).length

    def weigh(s: np.ndarray, side: np.ndarray) -> Weights:
        share = np.clip(s / length, 0.0, 1.0)
        rate = np.full(len(s), 1.0 / length)
        return Weights(np.stack([1.0 - share, share], axis=1), np.stack([-rate, rate], axis=1))

    width = float(np.ptp(first.points[:, 0]))
    return Profile((first, last), SectionFacts(width, max(first.reach, last.reach)), weigh=weigh)


def built(path: PathShape, profile: Profile, recipe: PlainRecipe = PLAIN):
    return sweep_profile(Drawn(path, resolve_path(path)), profile, recipe)


SQUARE_TO_ROUND = [
    ("rectangle", 0.1, "round", 0.16),
    ("rectangle", 0.1, "rectangle", 0.05),
    ("round", 0.05, "round", 0.1),
]


def test_a_blend_of_an_outline_with_itself_is_the_plain_body() -> None:
    path, square = zoo()["s curve"], outline("rectangle", 0.05)
    plain = built(path, even_profile(square, SectionFacts(0.05, square.reach)), recipe_of(per_span=2))
    both = built(path, blend(path, square, square), recipe_of(per_span=2))
    assert plain.mesh.rings == both.mesh.rings
    np.testing.assert_allclose(both.mesh.points, plain.mesh.points, atol=1e-14)
    np.testing.assert_allclose(both.mesh.normals, plain.mesh.normals, atol=1e-6)
    np.testing.assert_allclose(both.mesh.uvs, plain.mesh.uvs, atol=1e-6)


@pytest.mark.parametrize("ends", [(0.1, 0.05), (0.02, 0.3)], ids=str)
def test_a_square_that_shrinks_is_a_frustum(ends: tuple[float, float]) -> None:
    a, b = ends
    body = built(LINE, blend(LINE, outline("rectangle", a), outline("rectangle", b)))
    assert_watertight(body.mesh)
    ratio = ready_made("rectangle", {"width": 1.0}).bounds
    one, two = (ratio[3] - ratio[1]) * a * a, (ratio[3] - ratio[1]) * b * b
    assert volume(body.mesh) == pytest.approx((one + two + np.sqrt(one * two)) / 3.0, rel=1e-12)


@pytest.mark.parametrize("style", list(CornerStyle))
@pytest.mark.parametrize("orientation", [Orientation.CARRIED, Orientation.UPRIGHT, Orientation.FIXED])
@pytest.mark.parametrize("end", [End.FLAT, End.DOMED])
@pytest.mark.parametrize("pair", SQUARE_TO_ROUND, ids=str)
def test_blends_go_round_corners_and_are_closed(style, orientation, end, pair) -> None:
    path = zoo()["corners out of plane"] if orientation is not Orientation.FIXED else zoo()["s curve"]
    a, wide, b, narrow = pair
    profile = blend(path, outline(a, wide), outline(b, narrow))
    body = built(path, profile, recipe_of(corner=style, orientation=orientation, start=end, end=end))
    assert not body.has_errors
    assert edge_check(body.mesh).closed and volume(body.mesh) > 0.0


def end_cap(mesh: Mesh, name: str) -> np.ndarray:
    part = next(p for p in mesh.parts if p.name == name)
    return mesh.points[mesh.tris[part.tris[0] : part.tris[1]]]


def test_caps_are_those_of_the_rings_that_they_close() -> None:
    path = zoo()["s curve"]
    body = built(path, blend(path, outline("rectangle", 0.1), outline("round", 0.04)))
    for name, own in (("start cap", outline("rectangle", 0.1)), ("end cap", outline("round", 0.04))):
        tri = end_cap(body.mesh, name)
        area = 0.5 * np.linalg.norm(np.cross(tri[:, 1] - tri[:, 0], tri[:, 2] - tri[:, 0]), axis=1).sum()
        p, q = own.points, np.roll(own.points, -1, axis=0)
        assert area == pytest.approx(0.5 * (p[:, 0] * q[:, 1] - q[:, 0] * p[:, 1]).sum(), rel=1e-9)


def true_points(path: PathShape, profile: Profile, count: int = 500) -> np.ndarray:
    """Points of the surface between two of the outline's sides, at random distances."""
    rng = np.random.default_rng(3)
    resolved = resolve_path(path)
    field = frame_stage(resolved, profile, PLAIN.placing)
    s = np.sort(rng.uniform(0.0, resolved.length, count))
    fr = frames_at(field, 0, s)
    out = []
    for k in range(count):
        ring = profile.outline_at(float(s[k])).points
        i, t = int(rng.integers(len(ring))), rng.uniform()
        x, y = (1.0 - t) * ring[i] + t * ring[(i + 1) % len(ring)]
        out.append(fr.origin[k] + x * fr.right[k] + y * fr.up[k])
    return np.array(out)


@pytest.mark.parametrize("pair", SQUARE_TO_ROUND, ids=str)
@pytest.mark.parametrize("line", [True, False], ids=["line", "curve"])
def test_the_true_surface_lies_within_the_deviation(pair, line: bool) -> None:
    path = LINE if line else path_from_points(S_CURVE, kind=THROUGH)
    a, wide, b, narrow = pair
    profile = blend(path, outline(a, wide), placed_section(outline(b, narrow), roll=0.5))
    deviation = 1e-3
    body = built(path, profile, recipe_of(deviation=deviation))
    assert distance_to_mesh(true_points(path, profile), body.mesh).max() <= deviation
    coarse = built(path, profile, recipe_of(rings=2))
    assert distance_to_mesh(true_points(path, profile), coarse.mesh).max() > deviation


def test_rings_stand_where_the_profile_breaks() -> None:
    profile = replace(blend(LINE, outline("rectangle", 0.1), outline("round", 0.1)), breaks=np.array([0.3, 0.77]))
    body = built(LINE, profile)
    assert {0.3, 0.77} <= set(body.ring_at)


def test_normals_of_a_blend_are_those_of_its_surface() -> None:
    path = zoo()["s curve"]
    body = built(path, blend(path, outline("round", 0.05), outline("round", 0.15)), recipe_of(rings=200))
    mesh = body.mesh
    skin = next(p for p in mesh.parts if p.name == "skin")
    assert skin.quads[1] == len(mesh.quads)
    p = mesh.points[mesh.quads]
    flat = np.cross(p[:, 2] - p[:, 0], p[:, 3] - p[:, 1])
    flat /= np.linalg.norm(flat, axis=1, keepdims=True)
    stored = mesh.normals[mesh.quad_vertices].mean(1)
    stored /= np.linalg.norm(stored, axis=1, keepdims=True)
    assert (flat * stored).sum(1).min() > 0.999
    across = np.abs((mesh.normals[mesh.quad_vertices[:, 0]] * flat).sum(1))
    assert across.min() > 0.95, "each normal stands on its face, to half a side's turn"


class Growing(EvenLaws):
    """Twice as large, and turned by a radian, at the end of a metre."""

    @property
    def most(self) -> float:
        return 2.0

    @property
    def is_even(self) -> bool:
        return False

    twist_rate = 1.0

    def at(self, s: np.ndarray, side: np.ndarray | None = None) -> LawRows:
        return LawRows(1.0 + s, s.copy(), np.ones(len(s)), np.ones(len(s)))


def test_laws_on_rows_size_and_turn_a_section() -> None:
    square = outline("rectangle", 0.1)
    profile = replace(even_profile(square, SectionFacts(0.1, square.reach)), laws=Growing())
    body = built(LINE, profile, recipe_of(deviation=1e-4))
    assert_watertight(body.mesh)
    x0, y0, x1, y1 = ready_made("rectangle", {"width": 0.1}).bounds
    assert volume(body.mesh) == pytest.approx((x1 - x0) * (y1 - y0) * 7.0 / 3.0, rel=2e-3)
    assert distance_to_mesh(true_points(LINE, profile), body.mesh).max() <= 1e-4
    tris = triangle_normals(body.mesh.points, point_triangles(body.mesh))
    assert np.isfinite(tris).all() and np.abs(np.linalg.norm(body.mesh.normals, axis=1) - 1.0).max() < 1e-5


def test_a_step_has_an_outline_on_each_side() -> None:
    square, circle_ = outline("rectangle", 0.1), outline("round", 0.1)

    def weigh(s: np.ndarray, side: np.ndarray) -> Weights:
        after = (s > 0.5) | ((s == 0.5) & (side > 0))
        values = np.stack([~after, after], axis=1).astype(float)
        return Weights(values, np.zeros_like(values))

    profile = Profile((square, circle_), SectionFacts(0.1, square.reach), weigh=weigh, breaks=np.array([0.5]))
    np.testing.assert_array_equal(profile.outline_at(0.5, StepSide.BEFORE).points, square.points)
    np.testing.assert_array_equal(profile.outline_at(0.5, StepSide.AFTER).points, circle_.points)


def test_pinches_read_the_profile_where_the_bend_is() -> None:
    t = np.linspace(0.0, np.pi, 9)
    path = path_from_points(np.stack([0.1 * np.cos(t), 0.1 * np.sin(t), 0.0 * t], axis=1), kind=THROUGH)
    thin, thick = outline("round", 0.05), outline("round", 0.4)
    codes = [{f.code for f in built(path, blend(path, a, b)).findings} for a, b in ((thin, thin), (thin, thick))]
    assert "pinch" not in codes[0] and "pinch" in codes[1]


# -- symmetry across loops ---------------------------------------------------------------------------


def bundle(n: int, width: float = 0.03, far: float = 0.05) -> SectionShape:
    """n circles round the middle."""
    parts = []
    for k in range(n):
        a = 2.0 * np.pi * k / n
        loop = circle(width)
        shift = (far * np.cos(a), far * np.sin(a))
        moved = [
            replace(s, start=tuple(np.add(s.start, shift)), end=tuple(np.add(s.end, shift)), centre=shift)
            for s in (stretched(seg, 1.0, 1.0) for seg in loop.segments)
        ]
        parts.append(Part(replace(loop, segments=tuple(moved))))
    return SectionShape(tuple(parts))


@pytest.mark.parametrize(("n", "sides", "k"), [(2, 12, 2), (3, 12, 3), (4, 8, 4), (5, 20, 5), (4, 9, 1), (6, 9, 3)])
def test_loops_may_change_places(n: int, sides: int, k: int) -> None:
    s = sample_section(bundle(n), sides=sides)
    assert rotational_symmetry(s) == k
    lopsided = replace(s, points=s.points + np.array([0.01, 0.0]))
    assert rotational_symmetry(lopsided) == 1


def test_turned_points_name_where_each_point_falls() -> None:
    s = sample_section(bundle(3), sides=12)
    order = turned_points(s, 3)
    assert order is not None and sorted(order) == list(range(36))
    c, n = np.cos(2 * np.pi / 3), np.sin(2 * np.pi / 3)
    np.testing.assert_allclose(s.points[order], s.points @ np.array([[c, n], [-n, c]]), atol=1e-15)
    assert (order[:12] // 12 == 1).all(), "the first loop falls on the second one"
    back = turned_points(s, 3, -1)
    assert back is not None
    np.testing.assert_array_equal(order[back], np.arange(36))
    assert turned_points(s, 5) is None


@pytest.mark.parametrize("n", [2, 3, 5])
def test_closed_bundles_close_by_a_part_of_a_turn(n: int) -> None:
    path = path_from_points(torus_knot() * 0.5, kind=THROUGH, closed=True)
    body = sweep(path, bundle(n), recipe_of(anchor=(0.0, 0.0), sides=4 * n, rings=300))
    assert edge_check(body.mesh).closed and volume(body.mesh) > 0.0
    resolved = resolve_path(path)
    free = frame_stage(
        resolved, even_profile(sample_section(bundle(n), sides=4 * n), SectionFacts(0.1, 0.1)), PLAIN.placing
    )
    assert free.symmetry == n
    rolled = np.abs(free.legs[0].slope).max() * resolved.length
    assert rolled <= np.pi / n + 1e-9, "never more than half of the part"


def test_a_rule_for_rings_reads_the_number_of_points() -> None:
    profile = blend(LINE, outline("rectangle", 0.1), outline("round", 0.1))
    resolved = resolve_path(LINE)
    placed = placed_rings(resolved, profile, frame_stage(resolved, profile, PLAIN.placing), recipe_of(rings=7))
    assert len(placed.rows.s) == RingRule(count=7).count and placed.rows.coefficients.shape[1:] == (5, 3)


def test_runs_of_one_section_share_a_profile_and_how_they_are_joined() -> None:
    """What is known of a section is found out once, and handed on; what differs is not."""
    section = ready_made("pipe", {"width": 0.1, "wall": 0.01})
    line = path_from_points(np.array([[0.0, 0, 0], [1, 0, 0.2], [2, 0.5, 0]]), kind=THROUGH)
    other = path_from_points(np.array([[0.0, 0, 0], [0, 2, 0.2], [2, 0.5, 1]]), kind=THROUGH)
    a, b = (sweep(p, section, recipe_of(rings=20, sides=9)).mesh for p in (line, other))
    assert a.quads is b.quads and a.tri_vertices is b.tri_vertices and a.vertex_point is b.vertex_point
    assert not a.quads.flags.writeable and a.points is not b.points
    for changed in ({"rings": 21}, {"sides": 10}, {"start": End.OPEN}, {"end": End.DOMED}, {"flip": True}):
        mine = sweep(line, section, recipe_of(**({"rings": 20, "sides": 9} | changed))).mesh
        alone = sweep(line, replace(section), recipe_of(**({"rings": 20, "sides": 9} | changed))).mesh
        for name in ("points", "quads", "tris", "vertex_point", "normals", "uvs", "quad_vertices", "tri_vertices"):
            assert np.array_equal(getattr(mine, name), getattr(alone, name)), (changed, name)
