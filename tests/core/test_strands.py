"""Strands between others: blends of their guides in path, size and section, spread as was asked for, each a solid."""

from dataclasses import replace

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial import cKDTree

from morphax.core.body.guides import Guide
from morphax.core.body.in_between import SPREADS, InBetween, across, weights_across
from morphax.core.body.nearby import Nearby
from morphax.core.body.profiles import Carries
from morphax.core.body.range import Range, Stop
from morphax.core.body.recipe import Density, End, Ends, Placing, PlainRecipe
from morphax.core.body.reference import Reference
from morphax.core.body.strands import strands_body
from morphax.core.body.sweep import sweep
from morphax.core.errors import PathError
from morphax.core.frame.frames import Orientation
from morphax.core.loft.along import Along
from morphax.core.loft.laws import Piece, PointLaw
from morphax.core.loft.varying_laws import Laws
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.mesh.mesh import point_triangles
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.section.ready_made import ready_made

ROUND, LEAF = ready_made("round", {"width": 0.02}), ready_made("leaf", {"width": 0.02})
BOW = np.array([(0.0, 0.0, 0.0), (0.0, 0.2, 0.1), (0.0, 0.5, 0.1), (0.0, 0.7, -0.2)])
UP = Placing(orientation=Orientation.UPRIGHT)


def guide(points, section=ROUND, *, kind=PathKind.THROUGH, reference=Reference(), closed=False, **recipe) -> Guide:  # noqa: B008
    path = resolve_path(path_from_points(np.array(points, dtype=float), kind=kind, closed=closed))
    return Guide(path, section, PlainRecipe(**recipe), reference=reference)


def line(x: float, section=ROUND, **more) -> Guide:
    return guide([(x, 0.0, 0.0), (x, 1.0, 0.0)], section, **more)


def strands(guides, rule: InBetween = InBetween(), **recipe):  # noqa: B008
    return strands_body(guides, rule, PlainRecipe(**recipe))


def solids(mesh) -> list[trimesh.Trimesh]:
    return list(trimesh.Trimesh(mesh.points, point_triangles(mesh), process=False).split(only_watertight=False))


def centres(body, count: int) -> np.ndarray:
    """(count, r, 3) the middles of rings of whole bodies without points."""
    return body.mesh.points.reshape(count, len(body.shares), body.sides, 3).mean(2)


def test_between_two_equal_rods_stand_equal_rods_at_even_distances() -> None:
    body = strands([line(0.0), line(1.0)], InBetween(count=4))
    alone = sweep(path_from_points(np.array([(0, 0, 0), (0, 1.0, 0)]), kind=PathKind.THROUGH), ROUND, PlainRecipe())
    assert volume(body.mesh) == pytest.approx(4 * volume(alone.mesh), rel=1e-12)
    assert np.allclose(centres(body, 4)[:, 0, 0], [0.2, 0.4, 0.6, 0.8], atol=1e-15)
    assert len(solids(body.mesh)) == 4 and edge_check(body.mesh).closed
    assert body.width == pytest.approx(0.02) and body.sides == alone.sides


def test_sizes_are_blends_of_the_guides_times_what_was_asked_for() -> None:
    body = strands([line(0.0), line(1.0, size=3.0)], InBetween(count=3, size_from=2.0, size_to=0.5, taper=0.25))
    rings = body.mesh.points.reshape(3, len(body.shares), body.sides, 3)
    far = np.linalg.norm(rings - rings.mean(2, keepdims=True), axis=-1).max(-1)
    blended, asked = np.array([1.5, 2.0, 2.5]), np.array([2.0, 1.25, 0.5])
    assert np.allclose(far[:, 0], 0.01 * blended * asked, rtol=1e-12)
    assert np.allclose(far[:, -1], 0.25 * 0.01 * blended * asked, rtol=1e-12)


def test_along_them_sizes_and_rolls_are_blends_of_the_guides_own_laws() -> None:
    at, ease = np.array([0.0, 1.0]), (Piece.STRAIGHT, Piece.STRAIGHT)
    grows = Laws(sizes=(PointLaw(at, np.array([1.0, 3.0]), ease),))
    turns = Laws(rolls=(PointLaw(at, np.array([0.0, 1.0]), ease),))
    flat = ready_made("rectangle", {"width": 0.02, "height": 0.01})
    guides = [
        line(0.0, Carries(flat, Along(laws=grows)), placing=UP),
        line(1.0, Carries(flat, Along(laws=turns)), placing=UP),
    ]
    body = strands(guides, InBetween(count=1), density=Density(rings=11))
    rings = body.mesh.points.reshape(11, body.sides, 3)
    corners = rings[:, np.argsort(np.arctan2(*(rings[0] - rings[0].mean(0))[:, [2, 0]].T))]
    wide = corners[:, 1] - corners[:, 0]
    long, angle = np.linalg.norm(wide, axis=1), np.abs(np.arctan2(wide[:, 2], np.abs(wide[:, 0])))
    assert np.allclose(long, 0.02 * (1.0 + body.shares), rtol=1e-9), "half way between 1 and 1 to 3 times"
    assert np.allclose(angle, 0.5 * body.shares, atol=1e-9)


def test_sections_of_guides_that_differ_are_blended() -> None:
    """Half way between a square and a round bar its area lies between theirs; near each it is nearly that."""
    square = ready_made("rectangle", {"width": 0.02, "height": 0.02})
    body = strands([line(0.0, square), line(1.0, ROUND)], InBetween(count=99), density=Density(sides=128))
    areas = np.array([s.volume for s in sorted(solids(body.mesh), key=lambda s: s.centroid[0])])
    assert len(areas) == 99 and np.all(np.diff(areas) < 0.0)
    assert areas[0] == pytest.approx(0.02**2, rel=0.01) and areas[-1] == pytest.approx(np.pi * 0.01**2, rel=0.01)


def test_what_is_linear_across_guides_stays_so_and_curves_go_through_them() -> None:
    at = np.array([0.0, 1.0, 1.5, 4.0])
    gap, share = np.repeat(np.arange(3), 5), np.tile(np.linspace(0.0, 1.0, 5), 3)
    value, rate = weights_across(at, gap, share)
    place = at[gap] + share * np.diff(at)[gap]
    assert np.allclose(value.sum(1), 1.0) and np.allclose(rate.sum(1), 0.0, atol=1e-12)
    assert np.allclose(value @ at, place) and np.allclose(rate @ at, np.diff(at)[gap])
    parabola = at[:3] ** 2  # of three guides, as a parabola has them
    value, _ = weights_across(at[:3], gap[:10], share[:10])
    assert np.allclose(value @ parabola, place[:10] ** 2)
    ends = share == 1.0
    assert np.allclose(weights_across(at, gap[ends], share[ends])[0], np.eye(4)[1:])


@given(st.integers(1, 60), st.lists(st.floats(0.01, 10.0), min_size=1, max_size=6), st.sampled_from(SPREADS))
def test_gaps_have_their_share_of_the_strands(count: int, widths: list[float], spread: str) -> None:
    found = across(InBetween(count=count, spread=spread, size_from=1.0, size_to=0.2), np.array(widths))
    each = np.bincount(found.gap, minlength=len(widths))
    assert each.sum() == count and np.all(np.abs(each - count * np.array(widths) / sum(widths)) < 1.0)
    assert np.all((found.share >= 0.0) & (found.share <= 1.0)) and np.all(np.diff(found.gap + found.share) > 0.0)
    assert np.all((found.size >= 0.2 - 1e-12) & (found.size <= 1.0 + 1e-12))


def test_thick_ones_come_first_and_what_is_drawn_stays_with_each() -> None:
    rule = InBetween(count=7, spread="thick first", size_from=1.0, size_to=0.4)
    assert np.allclose(across(rule, np.ones(1)).size, [0.4, 0.7, 0.4, 1.0, 0.4, 0.7, 0.4])
    few, many = (across(replace(rule, count=n, spread="seeded"), np.ones(1)).drawn for n in (5, 50))
    assert np.array_equal(few, many[:5])
    other = across(replace(rule, seed=2), np.ones(1)).drawn
    assert not np.allclose(few, other[:5])


@settings(max_examples=15, deadline=None)
@given(
    st.lists(st.sampled_from(["round", "leaf", "star", "pipe", "channel", "twin", "drop"]), min_size=2, max_size=4),
    st.sampled_from(SPREADS),
    st.sampled_from([End.FLAT, End.POINTED]),
    st.floats(0.0, 1.0),
    st.sampled_from([0.0, 0.3, 1.0, 2.0]),
    st.integers(0, 99),
)
def test_each_strand_is_a_solid_that_is_right_side_out(names, spread, end, jitter, taper, seed) -> None:
    guides = [
        guide(BOW + (0.3 * i, 0.05 * i * i, 0.02 * i), ready_made(n, {"width": 0.03}), size=1.0 + 0.2 * i)
        for i, n in enumerate(names)
    ]
    rule = InBetween(5, spread, jitter, taper, 1.0, 0.5, seed)
    body = strands(guides, rule, ends=Ends(end=end))
    assert edge_check(body.mesh).closed and volume(body.mesh) > 0.0
    outer = [s for s in solids(body.mesh) if s.volume > 0.0]
    assert len(outer) == 5 or (5 < len(outer) <= 10 and "twin" in names)


def test_mirrored_and_turned_round_guides_give_the_same_strands() -> None:
    """A guide that is drawn from its other end, as its reference says, is the same guide; so is a mirror image."""
    first, second = guide(BOW, LEAF), guide(BOW + (0.3, 0.1, 0.0), LEAF, size=2.0)
    back = guide((BOW + (0.3, 0.1, 0.0))[::-1], LEAF, size=2.0, reference=Reference(from_end=True))
    rule = InBetween(count=3, jitter=0.3)
    one, two = strands([first, second], rule), strands([first, back], rule)
    assert volume(two.mesh) == pytest.approx(volume(one.mesh), rel=1e-9)
    far, _ = cKDTree(one.mesh.points).query(two.mesh.points)
    assert far.max() < 2e-4, "as fine, at other points of the same outline"
    flip = ((-1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
    beside = [
        guide(BOW + (0.2, 0.0, 0.0), LEAF),
        guide((BOW + (0.2, 0.0, 0.0)) * (-1, 1, 1), LEAF, reference=Reference(flip)),
    ]
    parts = sorted(solids(strands(beside, InBetween(count=3)).mesh), key=lambda s: s.centroid[0])
    assert parts[1].centroid[0] == pytest.approx(0.0, abs=1e-9)
    assert np.allclose(parts[0].centroid * (-1, 1, 1), parts[2].centroid, atol=1e-9)
    assert parts[0].volume == pytest.approx(parts[2].volume, rel=1e-9)


def test_guides_that_are_drawn_the_other_way_are_walked_the_first_ones_way() -> None:
    """Their places are blended start with start; rods have no other side to tell."""
    one = strands([guide(BOW), guide(BOW + (0.3, 0.0, 0.0))], InBetween(count=2))
    two = strands([guide(BOW), guide(BOW[::-1] + (0.3, 0.0, 0.0))], InBetween(count=2))
    assert volume(two.mesh) == pytest.approx(volume(one.mesh), rel=1e-6)
    assert np.allclose(centres(one, 2)[:, [0, -1]], centres(two, 2)[:, [0, -1]], atol=1e-9)


@given(st.floats(0.01, 100.0), st.floats(-3.0, 3.0))
@settings(max_examples=8, deadline=None)
def test_they_go_with_guides_that_are_scaled_and_turned_about_the_upright(factor: float, angle: float) -> None:
    c, n = np.cos(angle), np.sin(angle)
    turn = np.array([[c, -n, 0.0], [n, c, 0.0], [0.0, 0.0, 1.0]])
    rule = InBetween(count=3, jitter=0.4, taper=0.5)
    plain = strands([guide(BOW), guide(BOW + (0.3, 0.1, 0.0))], rule, density=Density(rings=9, sides=8))
    moved = [guide(factor * p @ turn.T, size=factor) for p in (BOW, BOW + (0.3, 0.1, 0.0))]
    other = strands(moved, rule, density=Density(rings=9, sides=8))
    assert volume(other.mesh) == pytest.approx(factor**3 * volume(plain.mesh), rel=1e-9)
    there = factor * centres(plain, 3) @ turn.T
    assert np.allclose(centres(other, 3), there, atol=1e-9 * factor)


def test_they_are_as_fine_as_is_asked_for() -> None:
    guides = [guide(BOW, LEAF), guide(BOW * (1, 1.2, -1) + (0.3, 0.0, 0.0), LEAF)]
    fine = strands(guides, InBetween(count=2), density=Density(rings=801, sides=200))
    tree = cKDTree(fine.mesh.points)
    for deviation in (0.002, 0.0005):
        rough = strands(guides, InBetween(count=2), density=Density(deviation=deviation, sides=200))
        quads = rough.mesh.quads
        middles = 0.5 * (rough.mesh.points[quads[:, 0]] + rough.mesh.points[quads[:, 1]])
        far, _ = tree.query(middles)
        assert far.max() < deviation + 5e-4
    counts = [strands(guides, InBetween(count=5), density=Density(budget=n)).mesh.face_count for n in (400, 2000, 9000)]
    assert all(0.5 * n < c <= n for c, n in zip(counts, (400, 2000, 9000), strict=True))
    assert len(strands(guides, density=Density(spacing=0.05)).shares) == pytest.approx(1 + 0.95 / 0.05, abs=2)
    assert len(strands(guides, density=Density(per_span=4)).shares) == 3 * 4 + 1


def test_a_range_shows_a_part_of_all_of_them_and_what_is_left_out_is_left_out() -> None:
    guides = [line(0.0), line(1.0)]
    whole = volume(strands(guides, InBetween(count=3)).mesh)
    part = strands(guides, InBetween(count=3), range=Range(Stop(0.25), Stop(0.5)))
    assert volume(part.mesh) == pytest.approx(0.25 * whole, rel=1e-9)
    gap = strands(guides, InBetween(count=3), range=Range(out=((Stop(0.4), Stop(0.6)),)))
    assert volume(gap.mesh) == pytest.approx(0.8 * whole, rel=1e-9) and len(solids(gap.mesh)) == 6


def test_strands_stay_where_they_are_whatever_part_of_them_is_shown() -> None:
    guides, rule = (
        [guide(BOW), guide(BOW + (0.3, 0.1, 0.0))],
        InBetween(count=9, jitter=1.0, spread="seeded", taper=0.2),
    )
    whole = centres(strands(guides, rule, density=Density(rings=9, sides=8)), 9)
    part = strands(guides, rule, density=Density(rings=9, sides=8), range=Range(Stop(0.25), Stop(0.75)))
    assert np.allclose(centres(part, 9), whole[:, 2:7], atol=1e-12)


def test_pointed_ends_are_points_and_others_are_said_to_be_flat() -> None:
    body = strands([line(0.0), line(1.0)], InBetween(count=2), ends=Ends(end=End.POINTED, end_length=0.1))
    rod = strands([line(0.0), line(1.0)], InBetween(count=2))
    lost = 0.1 * (1.0 - 1.0 / 3.0)  # a cone has a third of the cylinder's volume
    assert volume(body.mesh) == pytest.approx((1.0 - lost) * volume(rod.mesh), rel=1e-9)
    said = strands([line(0.0), line(1.0)], ends=Ends(start=End.DOMED)).findings
    assert [f.code for f in said] == ["strand-ends"] and "domed is flat here" in said[0].message


def test_jitter_stays_between_the_guides_and_leaves_roots_in_their_surface() -> None:
    body = strands([line(0.0), line(1.0)], InBetween(count=20, jitter=1.0, spread="seeded"))
    there = centres(body, 20)
    assert there[..., 0].min() >= -1e-12 and there[..., 0].max() <= 1.0 + 1e-12
    assert np.abs(there[:, 0, 2]).max() < 1e-12 and np.abs(there[:, -1, 2]).max() > 1e-3


def test_what_cant_be_is_said() -> None:
    corner = guide([(0, 0, 0), (0, 1, 0), (1, 1, 0)], kind=PathKind.STRAIGHT)
    ring = guide([(0, 0, 0), (1, 0, 0), (1, 1, 0)], closed=True)
    for other, code in ((corner, "guide-corners"), (ring, "guide-closed")):
        body = strands([line(0.0), other])
        assert [f.code for f in body.findings] == [code] and not body.mesh.face_count
    assert [f.code for f in strands([line(0.0)]).findings] == ["few-guides"]
    for wrong in ({"count": 0}, {"spread": "odd"}, {"jitter": 2.0}, {"taper": -1.0}, {"size_to": 0.0}, {"seed": -1}):
        with pytest.raises(PathError):
            InBetween(**wrong)


class _Ball:
    """A ball of radius 1 about the origin, as a host answers."""

    key = "ball"

    def nearest(self, points):
        out = points / np.linalg.norm(points, axis=1, keepdims=True)
        return out, out

    def hits(self, origins, directions, within):
        return np.full(len(origins), np.nan)


def test_strands_between_guides_that_lie_on_a_host_lie_on_it_as_high() -> None:
    t = np.linspace(0.2, 1.3, 40)
    arcs = [
        np.stack([np.sin(t) * np.cos(a), np.sin(t) * np.sin(a), np.cos(t)], axis=1) * far
        for a, far in ((0.0, 1.02), (1.0, 1.04))
    ]
    laid = Placing(orientation=Orientation.ON_HOST)
    on_it = [replace(guide(a, placing=laid), near=Nearby(_Ball())) for a in arcs]
    beside = [guide(a, placing=laid) for a in arcs]
    for jitter in (0.0, 0.5):
        rule = InBetween(count=3, jitter=jitter)
        far = np.linalg.norm(centres(strands(on_it, rule, density=Density(rings=21)), 3), axis=-1)
        high = 1.02 + 0.02 * np.array([0.25, 0.5, 0.75])
        assert far.min() > 1.02 - 1e-4, "those that stray never go into it"
        assert jitter or np.allclose(far, high[:, None], atol=1e-4)
    sunk = np.linalg.norm(centres(strands(beside, InBetween(count=3), density=Density(rings=21)), 3), axis=-1)
    assert sunk.min() < 0.95, "without the host they go straight across"


def corner_normals(mesh) -> np.ndarray:
    """How well the normal at each quad's first corner (cosines) is across its side and the way on there."""
    n, at = mesh.sides, mesh.points
    quads = mesh.quads[: len(mesh.quads) // n * n].reshape(-1, n, 4)
    track = at[quads[1:, :, 1]] - at[quads[:-1, :, 0]]
    side = at[quads[1:, :, 3]] - at[quads[1:, :, 0]]
    true = np.cross(track, side)
    true /= np.linalg.norm(true, axis=-1, keepdims=True)
    vertices = mesh.quad_vertices[: len(mesh.quads) // n * n].reshape(-1, n, 4)[1:, :, 0]
    return (true * mesh.normals[vertices]).sum(-1)


def test_a_flipped_run_among_others_is_flipped_in_the_blend() -> None:
    angle, bar = ready_made("angle", {"width": 0.1}), ready_made("rectangle", {"width": 0.02, "height": 0.02})
    line_ = path_from_points(np.array([(0.0, 0.0, 0.0), (0.0, 1.0, 0.0)]), kind=PathKind.THROUGH)
    for flip in (False, True):
        placing = replace(UP, flip=flip)
        alone = sweep(line_, angle, PlainRecipe(placing=placing)).mesh
        middle = trimesh.Trimesh(alone.points, point_triangles(alone), process=False).centroid[0]
        first = min(
            solids(strands([line(0.0, angle, placing=placing), line(1.0, bar, placing=UP)], InBetween(count=99)).mesh),
            key=lambda s: s.centroid[0],
        )
        assert abs(middle) > 0.01 and first.centroid[0] - 0.01 == pytest.approx(middle, rel=0.1)


def test_normals_and_texture_are_those_of_strands_that_taper_and_twist() -> None:
    flat = ready_made("rectangle", {"width": 0.1, "height": 0.04})
    turns = Laws(rolls=(PointLaw(np.array([0.0, 0.2]), np.array([0.0, 2.0]), (Piece.STRAIGHT, Piece.STRAIGHT)),))
    what = Carries(flat, Along(laws=turns))
    guides = [guide([(x, 0.0, 0.0), (x, 0.2, 0.0)], what, placing=UP) for x in (0.0, 0.3)]
    mesh = strands(guides, InBetween(count=1, taper=0.2), density=Density(rings=201)).mesh
    corners = mesh.points[mesh.quads]
    facing = np.cross(corners[:, 2] - corners[:, 0], corners[:, 3] - corners[:, 1])
    facing /= np.linalg.norm(facing, axis=1, keepdims=True)
    own = mesh.normals[mesh.quad_vertices].mean(1)
    own /= np.linalg.norm(own, axis=1, keepdims=True)
    assert (facing * own).sum(1).min() > 0.9995
    turn = np.linspace(0.0, 2.0, 9)
    climbing = np.stack([0.1 * np.cos(turn), 0.1 * np.sin(turn), 0.2 * turn], axis=1)
    twins = [guide(climbing + (x, 0.0, 0.0), flat, placing=UP) for x in (0.0, 0.3)]
    for body in (mesh, strands(twins, InBetween(count=1), density=Density(rings=201)).mesh):
        assert corner_normals(body).min() > 0.9995
    bow = strands([guide(BOW), guide(BOW + (0.3, 0.0, 0.0))], InBetween(count=1), density=Density(rings=9, sides=8))
    true = resolve_path(path_from_points(BOW, kind=PathKind.THROUGH)).length
    along = bow.mesh.uvs[: 9 * 9, 1].reshape(9, 9)[:, 0]
    assert along[-1] - along[0] == pytest.approx(true, rel=1e-3), "as long as its arc, not as its chords"


def test_a_mirror_image_of_a_guide_rolls_and_lies_the_other_way() -> None:
    """Between a run that is twisted and stands beside its path, and its mirror image, strands are mirror images."""
    bar, ease = ready_made("rectangle", {"width": 0.06, "height": 0.02}), (Piece.STRAIGHT, Piece.STRAIGHT)
    rolls, shifts = (PointLaw(np.array([0.0, 1.0]), np.array(v), ease) for v in ([0.2, 1.2], [0.02, 0.05]))
    what = Carries(bar, Along(laws=Laws(rolls=(rolls,), shifts=(shifts,))))
    flip = Reference(((-1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)))
    path = BOW + (0.2, 0.0, 0.0)
    both = [guide(path, what), guide(path * (-1, 1, 1), what, reference=flip)]
    parts = sorted(solids(strands(both, InBetween(count=2)).mesh), key=lambda s: s.centroid[0])
    assert np.allclose(parts[0].centroid * (-1, 1, 1), parts[1].centroid, atol=1e-6)
    turned = parts[1].moment_inertia * np.array([[1, -1, -1], [-1, 1, 1], [-1, 1, 1]])
    assert np.allclose(parts[0].moment_inertia, turned, atol=1e-3 * np.abs(turned).max())
