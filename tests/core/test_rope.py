"""Ropes by lay: strands that touch and never run through each other, whatever their number, lay and path."""

from dataclasses import replace

import numpy as np
import pytest
import trimesh
from hypothesis import example, given
from hypothesis import strategies as st
from scipy.optimize import minimize_scalar
from scipy.spatial import cKDTree

from morphax.core.body.range import Range, Stop
from morphax.core.body.recipe import Density, End, Ends, Placing, PlainRecipe
from morphax.core.body.rope_lay import Rope, nearest, strand_radius, thinned
from morphax.core.body.sweep import sweep
from morphax.core.errors import PathError
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.ready_made import ready_made

LINE = [(0.0, 0.0, 0.0), (2.0, 0.0, 0.0)]
BENT = [(0.0, 0.0, 0.0), (0.5, 0.3, 0.1), (1.0, 0.0, 0.3), (1.6, 0.4, 0.2), (2.2, 0.1, 0.0)]
CIRCLE = [(1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (-1.0, 0.0, 0.0), (0.0, -1.0, 0.0)]


def swept(points, rope: Rope, width: float = 0.1, *, closed: bool = False, kind=PathKind.THROUGH, **recipe):
    path = path_from_points(np.array(points, dtype=float), kind=kind, closed=closed)
    return sweep(path, ready_made("round", {"width": width}), PlainRecipe(rope=rope, **recipe))


def solids(mesh) -> list[trimesh.Trimesh]:
    """The bodies of a mesh, one for each tube."""
    faces = np.vstack([mesh.quads[:, [0, 1, 2]], mesh.quads[:, [0, 2, 3]], mesh.tris])
    return list(trimesh.Trimesh(mesh.points, faces, process=False).split(only_watertight=False))


def centres(mesh, count: int, sides: int) -> np.ndarray:
    """(count, m, 3) the middles of all rings, tube by tube."""
    return mesh.points.reshape(count, -1, sides, 3).mean(2)


@given(st.floats(0.2, 20.0), st.integers(2, 12))
@example(3.5, 3)
@example(0.2, 2)
@example(20.0, 12)
def test_strands_touch_by_the_geometry_of_helices_and_fill_the_rope(pitch: float, count: int) -> None:
    """Held against a minimum that SciPy finds by itself."""
    radius = strand_radius(1.0, pitch, count)
    r = 1.0 - radius

    def far(t: float) -> float:
        return np.sqrt(2.0 * r * r * (1.0 - np.cos(t - 2.0 * np.pi / count)) + (pitch * t / (2.0 * np.pi)) ** 2)

    starts = np.linspace(0.0, 2.0 * np.pi, 200)
    best = starts[np.argmin([far(t) for t in starts])]
    found = minimize_scalar(far, bounds=(max(best - 0.1, 0.0), best + 0.1), method="bounded", options={"xatol": 1e-12})
    assert 2.0 * radius == pytest.approx(float(found.fun), rel=1e-7)
    assert 0.0 < radius < 1.0


def test_straight_strands_side_by_side_are_those_of_a_circle_packing() -> None:
    """With a lay without end three strands are three circles in one, whose radius is known."""
    for count, share in ((2, 0.5), (3, 1.0 / (1.0 + 2.0 / np.sqrt(3.0))), (4, 1.0 / (1.0 + np.sqrt(2.0)))):
        assert strand_radius(1.0, 1e6, count) == pytest.approx(share, rel=1e-9)


@pytest.mark.parametrize("count", [2, 3, 4, 6, 7, 12])
@pytest.mark.parametrize("lay", [0.15, 0.35, 1.0])
def test_on_a_straight_path_strands_keep_their_distance(count: int, lay: float) -> None:
    sides = 12
    body = swept(LINE, Rope(strands=count, lay=lay, core=False), density=Density(rings=2001, sides=sides))
    middle = centres(body.mesh, count, sides)
    inner = middle[:, 200:-200]
    radius = strand_radius(0.05, lay, count)
    dense = np.linspace(0.0, 2.0, 400_001)
    other = np.stack([dense, np.zeros(len(dense)), np.zeros(len(dense))], axis=1)
    start = np.arctan2(middle[0, 0, 2], middle[0, 0, 1])
    r = 0.05 - radius
    a, b = middle[0, 0, 1:], middle[0, 1, 1:]
    sign = np.sign(a[0] * b[1] - a[1] * b[0])
    angle = start + sign * 2.0 * np.pi * dense / lay
    turn = 2.0 * np.pi / count
    other[:, 1], other[:, 2] = r * np.cos(angle + turn), r * np.sin(angle + turn)
    near, _ = cKDTree(other).query(inner[0])
    assert np.ptp(near) < 1e-6 and near.mean() == pytest.approx(2.0 * radius, abs=1e-6)


@pytest.mark.parametrize("left", [False, True])
def test_a_right_laid_rope_is_a_right_handed_screw(left: bool) -> None:
    body = swept(LINE, Rope(lay=0.3, left=left), density=Density(rings=400, sides=8))
    line = centres(body.mesh, 3, 8)[0]
    d1 = np.gradient(line, axis=0)
    d2 = np.gradient(d1, axis=0)
    d3 = np.gradient(d2, axis=0)
    torsion = (np.cross(d1, d2) * d3).sum(1)[20:-20]
    assert (torsion < 0.0).all() if left else (torsion > 0.0).all()
    assert body.findings == ()


@pytest.mark.parametrize(
    "rope", [Rope(), Rope(strands=2), Rope(strands=7), Rope(strands=12), Rope(yarns=3), Rope(strands=6, yarns=3)]
)
@pytest.mark.parametrize("ends", [Ends(), Ends(End.DOMED, End.DOMED), Ends(End.FLAT, End.DOMED)])
def test_every_strand_is_a_solid_of_its_own_and_none_runs_through_another(rope: Rope, ends: Ends) -> None:
    body = swept(BENT, rope, 0.06, ends=ends)
    assert not [f for f in body.findings if f.code != "rope-ends"]
    check = edge_check(body.mesh)
    assert check.closed and volume(body.mesh) > 0.0
    found = solids(body.mesh)
    assert len(found) == rope.strands * rope.yarns + rope.has_core
    assert all(s.is_watertight and s.is_winding_consistent and s.volume > 0.0 for s in found)
    total = sum(s.volume for s in found)
    united = trimesh.boolean.union(found, engine="manifold").volume
    assert united == pytest.approx(total, rel=2e-3)  # they touch, and facets stay inside


BRAIDS = [
    *(Rope(strands=n, weave="flat") for n in (3, 4, 7)),
    *(Rope(strands=n, weave="round") for n in (4, 6)),
    Rope(strands=8, weave="round", core=True),
    Rope(strands=3, weave="flat", yarns=2),
]


@pytest.mark.parametrize("rope", BRAIDS)
@pytest.mark.parametrize("points", [LINE, BENT])
def test_strands_of_braids_go_over_and_under_and_never_through_each_other(rope: Rope, points) -> None:
    body = swept(points, rope, 0.06)
    assert not [f for f in body.findings if f.severity != "note"]
    assert edge_check(body.mesh).closed and volume(body.mesh) > 0.0
    found = solids(body.mesh)
    assert len(found) == rope.strands * rope.yarns + rope.has_core
    assert all(s.is_watertight and s.volume > 0.0 for s in found)
    total = sum(s.volume for s in found)
    united = trimesh.boolean.union(found, engine="manifold").volume
    assert united == pytest.approx(total, rel=3e-3)
    far = np.ptp(body.mesh.points, axis=0)
    if points is LINE:
        assert far[1] == pytest.approx(0.06, rel=0.03) and far[2] <= 0.0601


@pytest.mark.parametrize("rope", [*BRAIDS[:5], *(Rope(strands=24, weave=w) for w in ("round", "flat"))])
@pytest.mark.parametrize("lay", [0.1, 0.3])
def test_strands_of_braids_come_near_enough_to_touch(rope: Rope, lay: float) -> None:
    """Held against the distances of the middles of a fine mesh: never nearer than two radii, and nearly that."""
    rope = replace(rope, lay=lay)
    body = swept(LINE, rope, 0.06, density=Density(rings=1501, sides=8))
    middle = centres(body.mesh, rope.strands, 8)[:, 100:-100]
    radius = np.linalg.norm(body.mesh.points.reshape(rope.strands, -1, 8, 3)[0, 700] - middle[0, 600], axis=1).max()
    near = min(cKDTree(middle[k]).query(middle[0])[0].min() for k in range(1, rope.strands))
    assert 2.0 * radius <= near * (1.0 + 1e-4) and 2.0 * radius >= 0.97 * near


def test_in_a_plain_braid_each_strand_goes_over_one_and_under_one() -> None:
    body = swept(LINE, Rope(strands=8, weave="round", lay=0.3), 0.06, density=Density(rings=2001, sides=6))
    middle = centres(body.mesh, 8, 6)
    far = np.linalg.norm(middle[:, :, 1:], axis=2)
    turn = np.diff(np.unwrap(np.arctan2(middle[:, 500:503, 2], middle[:, 500:503, 1]), axis=1), axis=1)[:, 0]
    assert (turn > 0).sum() == 4
    one, other = np.flatnonzero(turn > 0)[0], np.flatnonzero(turn < 0)[0]
    angle = np.unwrap(np.arctan2(middle[one, :, 2], middle[one, :, 1])) - np.unwrap(
        np.arctan2(middle[other, :, 2], middle[other, :, 1])
    )
    crossings = np.flatnonzero(np.diff(np.floor(angle / (2.0 * np.pi))) != 0)[1:-1]
    over = far[one, crossings] > far[other, crossings]
    assert len(crossings) > 5
    meets = []
    for k in np.flatnonzero(turn < 0):
        a = np.unwrap(np.arctan2(middle[one, :, 2], middle[one, :, 1])) - np.unwrap(
            np.arctan2(middle[k, :, 2], middle[k, :, 1])
        )
        at = np.flatnonzero(np.diff(np.floor(a / (2.0 * np.pi))) != 0)
        meets += [(int(i), bool(far[one, i] > far[k, i])) for i in at if 100 < i < 1900]
    order = [o for _, o in sorted(meets)]
    assert len(order) > 20 and all(a != b for a, b in zip(order[:-1], order[1:], strict=True))
    assert len(over) == len(crossings)


def test_in_a_tight_bend_strands_are_as_much_thinner_as_it_takes() -> None:
    t = np.linspace(0.0, np.pi, 7)
    arc = np.stack([0.12 * np.cos(t), 0.12 * np.sin(t), 0.0 * t], axis=1)
    body = swept(arc, Rope(strands=3, lay=0.08), 0.06, density=Density(deviation=2e-5))
    found = solids(body.mesh)
    united = trimesh.boolean.union(found, engine="manifold").volume
    assert united == pytest.approx(sum(s.volume for s in found), rel=1e-4)


def test_faults_are_seen_by_these_tests() -> None:
    """The control: strands that are a tenth too thick run through each other."""
    body = swept(BENT, Rope(), 0.06)
    thick = []
    for s in solids(body.mesh):
        grown = s.copy()
        grown.vertices = s.vertices + 0.1 * 0.013 * s.vertex_normals
        thick.append(grown)
    total = sum(s.volume for s in thick)
    assert trimesh.boolean.union(thick, engine="manifold").volume < total * (1.0 - 2e-3)


def test_it_is_as_wide_as_it_says_and_lies_within_its_length() -> None:
    for ends in (Ends(), Ends(End.DOMED, End.DOMED)):
        body = swept(LINE, Rope(lay=0.3), density=Density(deviation=2e-5), ends=ends)
        far = np.linalg.norm(body.mesh.points[:, 1:], axis=1)
        assert far.max() == pytest.approx(0.05, abs=2e-5) and body.width == pytest.approx(0.1)
        x = body.mesh.points[:, 0]
        assert x.min() >= -1e-12 and x.max() <= 2.0 + 1e-12
        assert x.max() == pytest.approx(2.0, abs=1e-9 if ends.end is End.FLAT else 2e-3)


def test_turns_and_lay_say_the_same_and_a_closed_rope_makes_whole_turns() -> None:
    one = swept(LINE, Rope(lay=0.25), density=Density(rings=200)).mesh.points
    two = swept(LINE, Rope(turns=8.0), density=Density(rings=200)).mesh.points
    assert np.allclose(one, two, atol=1e-12)
    ring = swept(CIRCLE, Rope(turns=12.4), closed=True)
    assert edge_check(ring.mesh).closed and len(solids(ring.mesh)) == 3 and not ring.findings
    part = swept(CIRCLE, Rope(turns=12.4), closed=True, range=Range(Stop(0.25), Stop(0.75)))
    assert edge_check(part.mesh).closed
    assert volume(part.mesh) == pytest.approx(0.5 * volume(ring.mesh), rel=0.02)


def test_a_range_is_a_part_of_the_whole() -> None:
    whole = swept(BENT, Rope(), density=Density(deviation=1e-4))
    parts = [
        swept(BENT, Rope(), density=Density(deviation=1e-4), range=Range(Stop(a), Stop(b)))
        for a, b in ((0.0, 0.4), (0.4, 1.0))
    ]
    assert sum(volume(p.mesh) for p in parts) == pytest.approx(volume(whole.mesh), rel=1e-3)


def test_strands_fray_and_ends_are_bound() -> None:
    plain, frayed = (swept(LINE, Rope(lay=0.3, fray_end=f), density=Density(rings=200)).mesh.points for f in (1.0, 2.5))
    at = plain[:, 0] < 1.6
    assert np.allclose(plain[at], frayed[at], atol=1e-9)
    wide = np.linalg.norm(frayed[frayed[:, 0] > 1.99][:, 1:], axis=1).max()
    assert wide > 1.5 * 0.05
    bound = swept(LINE, Rope(lay=0.3, whipped=True))
    assert len(solids(bound.mesh)) == 5 and edge_check(bound.mesh).closed
    assert np.linalg.norm(bound.mesh.points[:, 1:], axis=1).max() == pytest.approx(0.05 * 1.06, rel=1e-3)


@pytest.mark.parametrize("budget", [300, 1000, 5000, 40_000])
def test_a_budget_holds_and_is_nearly_used(budget: int) -> None:
    body = swept(BENT, Rope(), density=Density(budget=budget))
    assert 0.7 * budget <= body.mesh.face_count <= budget


def test_tight_bends_and_sharp_corners_are_found() -> None:
    tight = swept([(0, 0, 0), (0.2, 0.0, 0), (0.2, 0.12, 0), (0.0, 0.12, 0)], Rope(), 0.1)
    found = [f for f in tight.findings if f.code == "rope-tight"]
    assert len(found) == 1 and found[0].free_width < 0.1
    assert "rope-tight" not in [f.code for f in swept(BENT, Rope(), 0.06).findings]
    sharp = swept([(0, 0, 0), (1, 0, 0), (1, 1, 0)], Rope(), kind=PathKind.STRAIGHT)
    assert not sharp.mesh.face_count and [f.code for f in sharp.findings if f.severity == "error"] == ["rope-corners"]


@pytest.mark.parametrize("anchor", ["centre", "bottom", "top-left"])
def test_a_rope_lies_where_its_anchor_says_and_ends_in_quads_if_asked(anchor: str) -> None:
    body = swept(LINE, Rope(lay=0.3), placing=Placing(anchor=anchor), ends=Ends(quad_caps=True))
    low, high = body.mesh.bounds
    middle = {"centre": (0.0, 0.0), "bottom": (0.0, 0.05), "top-left": (0.05, -0.05)}[anchor]
    up, right = 2, 1
    assert high[up] - low[up] == pytest.approx(0.1, rel=0.02)
    assert 0.5 * (low[up] + high[up]) == pytest.approx(middle[1], abs=2e-3)
    assert abs(0.5 * (low[right] + high[right])) == pytest.approx(abs(middle[0]), abs=2e-3)
    assert edge_check(body.mesh).closed


def test_what_no_rope_can_be_is_refused() -> None:
    for values in (
        {"strands": 1},
        {"strands": 13},
        {"lay": 0.0},
        {"lay": 1.0, "turns": 2.0},
        {"fray_end": 0.5},
        {"yarns": 0},
    ):
        with pytest.raises(PathError):
            Rope(**values)
    for values in (
        {"strands": 5, "weave": "round"},
        {"strands": 2, "weave": "flat"},
        {"strands": 26, "weave": "round"},
    ):
        with pytest.raises(PathError):
            Rope(**values)
    with pytest.raises(PathError, match="no weave"):
        Rope(weave="knitted")
    assert not Rope(strands=4, core=True).has_core and not Rope(strands=7, core=False).has_core


def test_a_shorter_pitch_makes_strands_thinner_and_never_thicker() -> None:
    shares = thinned(1.0, 7.0, 3, np.linspace(0.05, 1.2, 50))
    assert (np.diff(shares) >= -1e-12).all() and shares[-1] == pytest.approx(1.0) and shares[0] < 0.9
    assert float(nearest(np.array(0.5), np.array(7.0), 3)) > float(nearest(np.array(0.5), np.array(3.0), 3))


def test_rings_of_a_rope_are_counted_per_span_too() -> None:
    body = swept(BENT, Rope(), density=Density(per_span=10))
    assert len(body.ring_at) == 4 * 10 + 1
