"""End pieces: turned forms, closed and exact, within the length, at range ends and gaps, on any section."""

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Polygon

from morphax.core.body.profiles import Carries
from morphax.core.body.range import Range, Stop
from morphax.core.body.recipe import Density, End, Ends
from morphax.core.body.sweep import sweep
from morphax.core.errors import PathError
from morphax.core.frame.frames import Orientation
from morphax.core.loft.along import Along
from morphax.core.loft.laws import Piece, PointLaw
from morphax.core.loft.varying_laws import Laws
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.mesh.mesh import Mesh, point_triangles
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.pieces.plates import plate_outlines
from morphax.core.pieces.turned import FORM_NAMES, TURNED, sides_within, turned_mesh
from morphax.core.section.ready_made import READY_MADE, ready_made
from morphax.core.section.sampling import sample_section
from tests.core.test_range import CURVE, LEGS, MIXED
from tests.core.test_ribbons import BENT
from tests.helpers import recipe_of

LINE = path_from_points(np.array([[0, 0, 0], [1.0, 0, 0]]), kind=PathKind.STRAIGHT)
ROUND, SQUARE = (ready_made(n, {"width": 0.1}) for n in ("round", "rectangle"))


def ends(start: str | None, end: str | None, *sizes: float) -> Ends:
    first, last = (End.FLAT if n is None else End.PIECE for n in (start, end))
    more = dict(zip(("start_size", "end_size"), sizes, strict=False))
    return Ends(first, last, start_piece=start or "ball", end_piece=end or "ball", **more)


def piece_of(mesh: Mesh, name: str) -> np.ndarray:
    part = next(p for p in mesh.parts if p.name == name)
    at = [mesh.quads[slice(*part.quads)].ravel(), mesh.tris[slice(*part.tris)].ravel()]
    return mesh.points[np.unique(np.concatenate(at))]


@pytest.mark.parametrize("name", list(TURNED))
@pytest.mark.parametrize("sides", [8, 24, 96])
def test_forms_are_closed_and_hold_what_their_outline_turned_holds(name: str, sides: int) -> None:
    """Pappus: each stretch of the outline holds pi / 3 h (a2 + a b + b2), and a regular polygon less of that."""
    mesh = turned_mesh(name, sides)
    made = trimesh.Trimesh(mesh.points, point_triangles(mesh), process=False)
    assert made.is_watertight and made.is_winding_consistent and made.body_count == 1
    x, r = TURNED[name].outline(max(2, sides // 8)).T
    cones = np.pi / 3.0 * np.diff(x) * (r[:-1] ** 2 + r[:-1] * r[1:] + r[1:] ** 2)
    polygon = sides * np.sin(2.0 * np.pi / sides) / (2.0 * np.pi)
    assert made.volume == pytest.approx(polygon * cones.sum(), rel=1e-9)
    flat = made.face_normals[: 2 * len(mesh.quads) : 2]
    own = mesh.normals[mesh.quad_vertices].mean(1)
    assert (np.einsum("ni,ni->n", flat, own) > 0.5).all() and np.linalg.norm(mesh.normals, axis=1) == pytest.approx(1.0)
    assert mesh.points[:, 0].min() == 0.0 and mesh.points[:, 0].max() == pytest.approx(TURNED[name].length, rel=1e-3)


@pytest.mark.parametrize("name", list(TURNED))
@pytest.mark.parametrize("scale", [1e-3, 1.0, 500.0])
def test_a_run_is_as_long_with_pieces_as_without(name: str, scale: float) -> None:
    path = path_from_points(scale * np.array([[0, 0, 0], [1.0, 0, 0]]), kind=PathKind.STRAIGHT)
    body = sweep(path, ready_made("round", {"width": 0.1 * scale}), recipe_of(ends=ends(name, name)))
    assert body.mesh.bounds[:, 0] == pytest.approx([0.0, scale], abs=1e-9 * scale) and not body.findings
    assert edge_check(body.mesh).closed
    long = TURNED[name].length * 0.05 * scale
    skin = next(p for p in body.mesh.parts if p.name == "skin")
    x = body.mesh.points[body.mesh.quads[slice(*skin.quads)]][..., 0]
    assert [x.min(), x.max()] == pytest.approx([long, scale - long], rel=2e-3)
    assert body.end_places[:, 0] == pytest.approx([0.0, scale]), "its ends are where they were"


def test_they_stand_on_the_middle_of_the_section_and_look_outwards() -> None:
    slope = path_from_points(np.array([[0, 0, 0], [0.6, 0.6, 0.3]]), kind=PathKind.STRAIGHT)
    body = sweep(slope, SQUARE, recipe_of(ends=ends("cone", "cone"), anchor="bottom"))
    way = np.array([0.6, 0.6, 0.3]) / np.linalg.norm([0.6, 0.6, 0.3])
    up = np.array([0.0, 0.0, 1.0]) - way[2] * way
    middle = 0.05 * up / np.linalg.norm(up)
    for name, end in (("start piece", np.zeros(3)), ("end piece", np.array([0.6, 0.6, 0.3]))):
        points = piece_of(body.mesh, name) - end - middle
        tip = points[np.argmin(np.linalg.norm(points, axis=1))]
        assert np.linalg.norm(tip) < 1e-9, "its tip is where the run ends, above the anchor"
    assert volume(body.mesh) > 0.0


def test_sizes_are_factors_and_what_does_not_fit_is_smaller_and_said() -> None:
    small, large = (sweep(LINE, ROUND, recipe_of(ends=ends(None, "ball", 1.0, s))) for s in (0.5, 2.0))
    radius = [np.ptp(piece_of(b.mesh, "end piece")[:, 2]) for b in (small, large)]
    assert radius[1] == pytest.approx(4.0 * radius[0], rel=0.02)
    huge = sweep(LINE, ROUND, recipe_of(ends=ends("finial", None, 40.0)))
    assert [f.code for f in huge.findings] == ["piece-reduced"] and " 500 mm long" in huge.findings[0].message
    assert edge_check(huge.mesh).closed and huge.mesh.bounds[:, 0] == pytest.approx([0.0, 1.0])
    for bad in ({"start_size": 0.0}, {"end_piece": "teapot"}, {"end_size": float("nan")}):
        with pytest.raises(PathError):
            Ends(**bad)


def test_fixed_sections_have_pieces_that_look_outwards_too() -> None:
    """The path comes back: its last ring is walked against the direction of the first."""
    back = path_from_points(
        np.array([[0, 0, 0], [1.0, 0, 0.2], [1.2, 0, 0.6], [0.9, 0, 1.0], [0, 0, 1.1]]), kind=PathKind.THROUGH
    )
    recipe = recipe_of(ends=ends("cone", "cone"), orientation=Orientation.FIXED)
    body = sweep(back, ROUND, recipe)
    tips = [piece_of(body.mesh, f"{k} piece") for k in ("start", "end")]
    assert tips[1][:, 0].min() < 1e-3 and np.ptp(tips[1][:, 0]) == pytest.approx(0.13, rel=0.05)
    made = trimesh.Trimesh(body.mesh.points, point_triangles(body.mesh), process=False)
    shells = made.split(only_watertight=False)
    assert len(shells) == 3 and sorted(s.volume > 0.0 for s in shells)[1:] == [True, True]


def test_where_a_run_has_come_to_a_point_no_piece_stands() -> None:
    law = PointLaw(np.array([0.0, 1.0]), np.array([1.0, 0.0]), (Piece.STRAIGHT,) * 2)
    body = sweep(LINE, Carries(ROUND, Along(laws=Laws(sizes=(law,)))), recipe_of(ends=ends("ball", "ball")))
    assert [p.name for p in body.mesh.parts if p.name.endswith("piece")] == ["start piece"]
    assert edge_check(body.mesh).closed and np.isfinite(body.mesh.points).all()


@pytest.mark.parametrize("name", ["box-gutter", "half-round-gutter", "ogee-gutter", "channel"])
def test_a_plate_closes_a_trough_across_all_of_it(name: str) -> None:
    section = ready_made(name, {"width": 0.1})
    body = sweep(LINE, section, recipe_of(ends=ends("plate", "plate"), deviation=2e-4))
    assert edge_check(body.mesh).closed and body.mesh.bounds[:, 0] == pytest.approx([0.0, 1.0]) and not body.findings
    outline = Polygon(sample_section(section, deviation=1e-4).points)
    tris = point_triangles(body.mesh)
    shells = trimesh.Trimesh(body.mesh.points, tris, process=False).split()
    trough, *plates = sorted(shells, key=lambda s: -np.ptp(s.vertices[:, 0]))
    for plate in plates:
        area = plate.volume / np.ptp(plate.vertices[:, 0])
        assert outline.area < 0.5 * area and area <= outline.convex_hull.area * (1.0 + 1e-9)
        assert np.ptp(plate.vertices, axis=0)[1:] == pytest.approx(np.ptp(trough.vertices, axis=0)[1:], rel=1e-3)
        assert plate.is_watertight and plate.volume > 0.0


@pytest.mark.parametrize(("name", "share"), [("pipe", np.pi / 4.0), ("rectangle", 1.0), ("i", None), ("twin", None)])
def test_a_plate_fills_holes_and_leaves_the_outline_of_what_is_no_trough(name: str, share: float | None) -> None:
    section = ready_made(name, {"width": 0.1})
    sampled = sample_section(section, deviation=1e-5)
    area = sum(Polygon(o).area for o in plate_outlines(sampled))
    outer = [
        Polygon(sampled.points[sl]).area for sl, hole in zip(sampled.loop_slices, sampled.hole, strict=True) if not hole
    ]
    assert area == pytest.approx(sum(outer), rel=1e-9)
    assert share is None or area == pytest.approx(0.01 * share, rel=1e-3)
    assert all(Polygon(o).exterior.is_ccw for o in plate_outlines(sampled))


def test_plates_are_as_thick_as_asked_and_stand_on_bent_and_fixed_runs() -> None:
    gutter = ready_made("ogee-gutter", {"width": 0.1})
    thick = []
    for size in (0.5, 2.0):
        body = sweep(LINE, gutter, recipe_of(ends=ends(None, "plate", 1.0, size)))
        thick.append(float(np.ptp(piece_of(body.mesh, "end piece")[:, 0])))
    assert thick[1] == pytest.approx(4.0 * thick[0], rel=1e-6)
    for path in (CURVE, LEGS, MIXED):
        for orientation in Orientation:
            body = sweep(path, gutter, recipe_of(ends=ends("plate", "plate"), orientation=orientation))
            assert edge_check(body.mesh).closed and volume(body.mesh) > 0.0
    ribbon = sweep(LINE, BENT, recipe_of(ends=ends("plate", "plate")))
    assert edge_check(ribbon.mesh).bad == 0


def test_ranges_and_gaps_have_theirs_too() -> None:
    gap = Range(Stop(0.1), Stop(0.9), ((Stop(0.4), Stop(0.6)),))
    body = sweep(LINE, ROUND, recipe_of(ends=ends("button", "plug"), range=gap))
    names = [p.name for p in body.mesh.parts if p.name.endswith("piece")]
    assert names == ["start piece", "end piece"] * 2 and edge_check(body.mesh).closed
    x = np.sort(np.concatenate([p[:, 0] for p in (body.mesh.points,)]))
    assert x[[0, -1]] == pytest.approx([0.1, 0.9]) and not ((x > 0.4 + 1e-9) & (x < 0.6 - 1e-9)).any()


def test_they_are_as_round_as_the_deviation_asks() -> None:
    for deviation in (2e-3, 1e-4):
        mesh = sweep(LINE, ROUND, recipe_of(ends=ends(None, "plug"), deviation=deviation)).mesh
        points = piece_of(mesh, "end piece")
        rim = points[np.isclose(np.linalg.norm(points[:, 1:], axis=1), 1.25 * 0.05, rtol=1e-6)]
        sides = len(np.unique(np.round(np.arctan2(rim[:, 2], rim[:, 1]), 6)))
        assert sides == sides_within(0.05, deviation)
        assert 1.25 * 0.05 * (1.0 - np.cos(np.pi / sides)) <= deviation


def test_a_twisted_or_growing_run_has_them_as_it_is_there() -> None:
    body = sweep(CURVE, Carries(SQUARE, Along(twist=9.0)), recipe_of(ends=ends("ball", "finial")))
    assert edge_check(body.mesh).closed and not body.has_errors
    closed = path_from_points(
        np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]]), kind=PathKind.THROUGH, closed=True
    )
    both = ends("ball", "ball")
    whole, part = (sweep(closed, ROUND, recipe_of(ends=both, range=r)) for r in (Range(), Range(end=Stop(0.7))))
    assert not [p for p in whole.mesh.parts if p.name.endswith("piece")], "a closed run has no ends"
    assert len([p for p in part.mesh.parts if p.name.endswith("piece")]) == 2


@settings(max_examples=30)
@given(
    st.sampled_from([LINE, CURVE, LEGS, MIXED]),
    st.sampled_from(sorted(READY_MADE)),
    st.sampled_from([None, *FORM_NAMES]),
    st.sampled_from(list(FORM_NAMES)),
    st.floats(0.3, 3.0),
    st.sampled_from([Density(), Density(rings=9), Density(budget=3000), Density(hold=0.01)]),
)
def test_random_runs_with_pieces_are_closed(path, section, start, end, size, density) -> None:
    both = ends(start, end, size, size)
    body = sweep(path, ready_made(section, {"width": 0.06}), recipe_of(ends=both, density=density))
    if not body.has_errors and not any(f.code in ("not-watertight", "alone") for f in body.findings):
        assert edge_check(body.mesh).closed and np.isfinite(body.mesh.normals).all()
