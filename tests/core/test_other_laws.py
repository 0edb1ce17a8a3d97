"""Laws of width, height, shift and lift, and sizes that come to nothing inside a run."""

from math import pi

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from morphax.core.body.profile import LEAST_STRETCH
from morphax.core.body.recipe import End
from morphax.core.body.resting import depth_below, reaches
from morphax.core.errors import SectionError
from morphax.core.findings import Severity
from morphax.core.frame.frames import Orientation
from morphax.core.loft.along import Along, StationShape
from morphax.core.loft.laws import Form, FormLaw, Piece, PointLaw, tapered
from morphax.core.loft.varying_laws import Laws
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.mesh.mesh import point_triangles
from morphax.core.path.paths import PathKind, PathShape, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.section.ready_made import ready_made
from morphax.core.section.sampling import sample_section
from morphax.core.section.sections import CornerStyle, SectionShape
from morphax.core.section.stretching import stretched_section
from tests.core.test_along import LINE, ROUND, SMALL, SQUARE, STAR, Carries, built, some
from tests.helpers import assert_watertight, distance_to_mesh, recipe_of, zoo

LEGS = path_from_points(np.array([[0, 0, 0], [0.7, 0, 0], [0.7, 1.1, 0], [0.7, 1.1, 0.9]]), kind=PathKind.STRAIGHT)


def circle_path(radius: float) -> PathShape:
    angles = np.linspace(0.0, 2.0 * pi, 48, endpoint=False)
    ring = radius * np.stack([np.cos(angles), np.sin(angles), 0.0 * angles], axis=1)
    return path_from_points(ring, kind=PathKind.THROUGH, closed=True)


def points(*pairs: tuple[float, float], piece: Piece = Piece.STRAIGHT, period: float | None = None) -> PointLaw:
    at, value = (np.array([p[i] for p in pairs]) for i in (0, 1))
    return PointLaw(at, value, (piece,) * len(pairs), period)


def varied(path, section=SQUARE, *, twist: float = 0.0, stations=(), more=None, **laws):
    return built(path, Carries(section, Along(stations, Laws(**laws), twist)), **(more or {}))


def span(mesh, y: float) -> np.ndarray:
    """The least and largest x and z of the points at a y."""
    own = mesh.points[np.abs(mesh.points[:, 1] - y) < 1e-9]
    return np.array([own[:, [0, 2]].min(0), own[:, [0, 2]].max(0)])


# -- width and height ----------------------------------------------------------------------------------


def test_width_and_height_change_alone_and_exactly() -> None:
    wide = varied(LINE, widths=(tapered(1.0, 3.0, 1.0),))
    assert_watertight(wide.mesh)
    assert volume(wide.mesh) == pytest.approx(0.01 * 2.0, rel=1e-9)
    assert span(wide.mesh, 1.0) == pytest.approx(np.array([[-0.15, -0.05], [0.15, 0.05]]))
    tall = varied(LINE, heights=(tapered(1.0, 3.0, 1.0),))
    assert span(tall.mesh, 1.0) == pytest.approx(np.array([[-0.05, -0.15], [0.05, 0.15]]))
    both = varied(LINE, widths=(tapered(1.0, 3.0, 1.0),), heights=(tapered(2.0, 1.0, 1.0),), more={"deviation": 1e-5})
    exact = 0.01 * np.polynomial.Polynomial([1.0, 2.0]) * np.polynomial.Polynomial([2.0, -1.0])
    assert volume(both.mesh) == pytest.approx(exact.integ()(1.0), rel=2e-4)


def test_a_width_is_the_sections_own_before_it_is_rolled() -> None:
    rolled = varied(LINE, widths=(points((0.0, 2.0)),), rolls=(points((0.0, pi / 2)),))
    assert span(rolled.mesh, 0.0) == pytest.approx(np.array([[-0.05, -0.1], [0.05, 0.1]]))
    turned = (StationShape(0.0, SQUARE, turn=pi / 4),)
    stretched = varied(LINE, stations=turned, widths=(points((0.0, 2.0)),))  # the turned square's width
    reach = 0.05 * np.sqrt(2.0)
    assert span(stretched.mesh, 0.0) == pytest.approx(np.array([[-2.0 * reach, -reach], [2.0 * reach, reach]]))


def test_all_factors_multiply() -> None:
    body = varied(LINE, sizes=(points((0.0, 1.5)), points((0.0, 2.0))), widths=(points((0.0, 0.5)),))
    assert span(body.mesh, 0.0) == pytest.approx(np.array([[-0.075, -0.15], [0.075, 0.15]]))


def test_a_width_never_comes_to_nothing_and_says_where_it_would() -> None:
    body = varied(LINE, widths=(FormLaw(Form.CONE, 1.5, 1.0),))
    assert_watertight(body.mesh)
    found = [f for f in body.findings if f.code == "no-width"]
    assert len(found) == 1 and found[0].at == pytest.approx(2.0 / 3.0, abs=1e-3)
    assert np.ptp(span(body.mesh, 1.0)[:, 0]) == pytest.approx(0.1 * LEAST_STRETCH, rel=1e-6)
    assert not [f for f in varied(LINE, widths=(tapered(1.0, 0.5, 1.0),)).findings if f.code == "no-width"]


@pytest.mark.parametrize("name", ["round", "star", "twin", "pipe", "leaf"])
@pytest.mark.parametrize(("wide", "tall"), [(2.0, 0.5), (0.3, 1.0), (1.0, 4.0)])
def test_a_stretched_section_has_the_normals_and_lengths_of_its_points(name: str, wide: float, tall: float) -> None:
    own = sample_section(ready_made(name, {"width": 0.1}), sides=400)
    out = stretched_section(own, wide, tall)
    assert out.points == pytest.approx(own.points * [wide, tall])
    for sl, whole, ends in zip(out.loop_slices, out.round_length, out.opens, strict=True):
        step = np.roll(out.points[sl], -1, axis=0) - out.points[sl]
        long = np.hypot(*step.T)
        assert np.diff(out.u[sl]) == pytest.approx(long[:-1], rel=1e-3)
        assert whole == pytest.approx(long[:-1].sum() if ends else long.sum(), rel=1e-3)
        inner = slice(0, -1) if ends else slice(None)
        both = out.after[sl] + np.roll(out.before[sl], -1, axis=0)
        facing = (both * step).sum(1)[inner] / np.maximum(long[inner], 1e-300)
        assert np.abs(facing).max() < 2e-3, "across its side"


# -- shift and lift ------------------------------------------------------------------------------------


def test_a_shift_is_in_metres_whatever_the_size_and_the_roll() -> None:
    laws = {"sizes": (points((0.0, 2.0)),), "rolls": (points((0.0, 0.7)),)}
    plain = varied(LINE, **laws, more={"rings": 5, "sides": 12})
    moved = varied(
        LINE, **laws, shifts=(points((0.0, 0.03)),), lifts=(points((0.0, -0.02)),), more={"rings": 5, "sides": 12}
    )
    assert moved.mesh.points - plain.mesh.points == pytest.approx(
        np.tile([0.03, 0.0, -0.02], (len(plain.mesh.points), 1))
    )


@pytest.mark.parametrize("off", [0.1, -0.25])
def test_a_ring_shifted_has_the_volume_of_pappus(off: float) -> None:
    path = circle_path(1.0)
    around = resolve_path(path)
    frames = varied(path, ROUND, more={"orientation": Orientation.UPRIGHT, "deviation": 1e-5})
    shifted = varied(
        path,
        ROUND,
        shifts=(points((0.0, off), period=around.length),),
        more={"orientation": Orientation.UPRIGHT, "deviation": 1e-5},
    )
    assert_watertight(shifted.mesh)
    area = volume(frames.mesh) / (2.0 * pi)
    assert volume(shifted.mesh) == pytest.approx(area * 2.0 * pi * (1.0 + off), rel=2e-4), "right of a left turn"
    lifted = varied(
        path,
        ROUND,
        lifts=(points((0.0, off), period=around.length),),
        more={"orientation": Orientation.UPRIGHT, "deviation": 1e-5},
    )
    assert volume(lifted.mesh) == pytest.approx(volume(frames.mesh), rel=2e-4)
    assert lifted.mesh.points[:, 2].mean() == pytest.approx(off, abs=1e-3)


def test_a_run_that_rests_is_lifted_off_where_its_law_says_so() -> None:
    own, up = resolve_path(LINE), np.tile([0.0, 0.0, 1.0], (2, 1))
    what = Carries(SQUARE, Along(laws=Laws(lifts=(tapered(-0.1, 0.2, 1.0),))))
    plain, lifted = (reaches(own, w, recipe_of(), np.arange(2), up) for w in (SQUARE, what))
    assert lifted == pytest.approx(plain) and plain == pytest.approx([0.05, 0.05])
    assert depth_below(own, what, recipe_of(), up[0]) == pytest.approx(0.15)


@pytest.mark.parametrize("style", list(CornerStyle))
def test_corners_of_moved_and_stretched_sections_are_closed(style: CornerStyle) -> None:
    laws = {
        "shifts": (tapered(0.0, 0.06, 2.7),),
        "lifts": (tapered(0.04, 0.0, 2.7),),
        "widths": (tapered(1.0, 2.0, 2.7),),
    }
    body = varied(LEGS, **laws, more={"corner": style})
    assert_watertight(body.mesh)
    assert not body.has_errors


def test_a_shift_of_a_mitred_prism_lies_where_it_should() -> None:
    flat = path_from_points(np.array([[0, 0, 0], [1.0, 0, 0], [1.0, 1.0, 0]]), kind=PathKind.STRAIGHT)
    up = {"orientation": Orientation.UPRIGHT, "corner": CornerStyle.MITRE}
    outside = varied(flat, shifts=(points((0.0, 0.2)),), more=up)
    assert volume(outside.mesh) == pytest.approx(0.01 * 2.0 * 1.2, rel=1e-9), "right of a left turn"
    inside = varied(flat, shifts=(points((0.0, -0.2)),), more=up)
    assert volume(inside.mesh) == pytest.approx(0.01 * 2.0 * 0.8, rel=1e-9)


def test_a_closed_path_may_end_beside_its_start() -> None:
    path = circle_path(0.5)
    long = resolve_path(path).length
    body = varied(path, lifts=(points((0.0, 0.0), (long, 0.04)),), more={"orientation": Orientation.UPRIGHT})
    assert_watertight(body.mesh)
    twisted = varied(path, shifts=(points((0.0, 0.02), period=long),), twist=pi / 2)
    assert_watertight(twisted.mesh)
    assert {"twist-rounded"} == {f.code for f in twisted.findings}, "a quarter turn is none beside the path"


# -- everything together -------------------------------------------------------------------------------


def laws_of(long: float, k: float, closed: bool) -> dict[str, tuple[PointLaw, ...]]:
    at = np.array([0.0, 0.3, 0.7]) * long
    period = long if closed else None

    def law(*values: float) -> tuple[PointLaw, ...]:
        return (PointLaw(at, np.array(values), (Piece.SMOOTH,) * 3, period),)

    return {
        "sizes": law(1.0, 1.0 + 0.4 * k, 0.8),
        "rolls": law(0.0, k, -0.5),
        "widths": law(1.0, 1.5, 1.0 - 0.4 * k),
        "heights": law(1.2, 1.0, 1.0 + 0.3 * k),
        "shifts": law(0.0, 0.3 * k, 0.1),
        "lifts": law(0.1 * k, -0.1, 0.2),
    }


@settings(max_examples=20)
@given(st.sampled_from(sorted(zoo())), st.floats(-1.0, 1.0), st.sampled_from(list(Orientation)[:3]))
def test_any_path_with_all_laws_is_closed_and_rings_are_the_outlines(name: str, k: float, orientation) -> None:
    path = zoo()[name]
    long = resolve_path(path).length
    width = 0.02 * float(np.ptp(path.knots, axis=0).max())
    own = laws_of(long, k, path.closed)
    own["shifts"], own["lifts"] = (
        tuple(PointLaw(v.at, v.value * width, v.piece, v.period) for v in own[n]) for n in ("shifts", "lifts")
    )
    body = varied(path, ready_made("star", {"width": width}), more={"orientation": orientation}, **own)
    assert np.isfinite(body.mesh.points).all() and np.isfinite(body.mesh.normals).all()
    assert edge_check(body.mesh).closed or body.has_errors


def test_half_the_spacing_moves_no_point_by_more_than_the_deviation() -> None:
    path = zoo()["s curve"]
    long = resolve_path(path).length
    own = laws_of(long, 0.8, closed=False)
    own["shifts"], own["lifts"] = (
        tuple(PointLaw(v.at, v.value * 0.1, v.piece) for v in own[n]) for n in ("shifts", "lifts")
    )
    deviation = 1e-3
    body = varied(path, STAR, more={"deviation": deviation}, **own)
    fine = varied(path, STAR, more={"deviation": 0.05 * deviation}, **own)
    assert distance_to_mesh(some(fine.mesh.points), body.mesh).max() < deviation


@pytest.mark.parametrize("orientation", [Orientation.CARRIED, Orientation.UPRIGHT, Orientation.FIXED])
@pytest.mark.parametrize("name", ["two knots", "s curve", "closed", "knot"])
def test_normals_are_those_of_the_surface(name: str, orientation: Orientation) -> None:
    path = zoo()[name]
    long = resolve_path(path).length
    own = laws_of(long, 0.7, path.closed)
    own["shifts"], own["lifts"] = (
        tuple(PointLaw(v.at, v.value * 0.05, v.piece, v.period) for v in own[n]) for n in ("shifts", "lifts")
    )
    body = varied(
        path,
        ready_made("round", {"width": 0.05}),
        twist=1.0,
        more={"deviation": 2e-5, "orientation": orientation},
        **own,
    )
    mesh = trimesh.Trimesh(body.mesh.points, point_triangles(body.mesh), process=False)
    seen = mesh.vertex_normals[body.mesh.vertex_point]
    skin = np.unique(body.mesh.quad_vertices)
    agree = (seen[skin] * body.mesh.normals[skin]).sum(1)
    rim = 0 if path.closed else 2 * body.mesh.sides
    assert np.percentile(agree[rim : len(skin) - rim], 1) > 0.9995


# -- sizes that come to nothing ------------------------------------------------------------------------


def solids(body) -> list[trimesh.Trimesh]:
    assert edge_check(body.mesh).closed
    whole = trimesh.Trimesh(body.mesh.points, point_triangles(body.mesh), process=False)
    parts = whole.split(only_watertight=False)
    assert all(p.is_watertight and p.volume > 0.0 for p in parts)
    return list(parts)


def test_a_size_of_nothing_inside_a_run_makes_two_bodies_and_says_so() -> None:
    body = varied(LINE, sizes=(points((0.0, 1.0), (0.4, 0.0), (1.0, 1.0)),))
    parts = solids(body)
    assert sorted(p.volume for p in parts) == pytest.approx([0.01 * 0.4 / 3, 0.01 * 0.6 / 3])
    found = [f for f in body.findings if f.code == "no-size"]
    assert [(f.at, f.severity) for f in found] == [(pytest.approx(0.4), Severity.WARNING)]
    ends = varied(LINE, sizes=(points((0.0, 0.0), (0.4, 1.0), (1.0, 0.0)),))
    assert len(solids(ends)) == 1 and not ends.findings


def test_a_stretch_of_nothing_has_no_faces() -> None:
    body = varied(LINE, sizes=(points((0.0, 1.0), (0.3, 0.0), (0.6, 0.0), (1.0, 1.0)),))
    assert sorted(p.volume for p in solids(body)) == pytest.approx([0.01 * 0.3 / 3, 0.01 * 0.4 / 3])
    assert len([f for f in body.findings if f.code == "no-size"]) == 1
    held = varied(LINE, sizes=(points((0.0, 1.0), (0.3, 0.0), (0.6, 2.0), piece=Piece.HOLD),))
    assert sorted(p.volume for p in solids(held)) == pytest.approx([0.01 * 0.3, 0.04 * 0.4])


@pytest.mark.parametrize(
    ("form", "strength"), [(Form.CONE, 1.5), (Form.WAIST, 1.0), (Form.WAIST, 1.7), (Form.RIBS, -1.0)]
)
def test_forms_that_come_to_nothing_are_closed_there(form: Form, strength: float) -> None:
    body = varied(LINE, ROUND, sizes=(FormLaw(form, strength, 1.0, pitch=0.25),))
    assert solids(body)
    assert [f.code for f in body.findings if f.code == "no-size"]
    if (form, strength) == (Form.CONE, 1.5):
        assert body.mesh.points[:, 1].max() == pytest.approx(1.0) or body.mesh.points[:, 1].max() == pytest.approx(
            2 / 3
        )
        assert sum(p.volume for p in solids(body)) == pytest.approx(volume(varied(LINE, ROUND).mesh) * 2 / 9, rel=1e-2)


@pytest.mark.parametrize("first", [0.0, 0.4])
def test_nothing_on_a_closed_path_opens_it_there(first: float) -> None:
    path = circle_path(0.5)
    long = resolve_path(path).length
    body = varied(path, SMALL, sizes=(points((first, 0.0), (first + 0.5 * long, 1.0), period=long),))
    assert len(solids(body)) == 1
    assert [f.at for f in body.findings if f.code == "no-size"] == [pytest.approx(first)]
    corner = path_from_points(np.array([[0, 0, 0], [1.0, 0, 0], [1.0, 1.0, 0]]), kind=PathKind.STRAIGHT)
    bent = varied(corner, SMALL, sizes=(points((0.0, 1.0), (1.0, 0.0), (2.0, 1.0)),))
    assert len(solids(bent)) == 2


def test_the_slope_of_a_moved_body_counts_by_its_own_length() -> None:
    path = circle_path(0.5)
    long = resolve_path(path).length
    law = points((0.0, 1.0), (0.5 * long, 3.0), period=long)
    more = {"orientation": Orientation.UPRIGHT, "deviation": 2e-5}
    body = varied(path, SMALL, sizes=(law,), shifts=(points((0.0, -0.35), period=long),), more=more)
    at = np.hypot(*body.mesh.points[:, :2].T)[body.mesh.vertex_point]
    outer = np.flatnonzero((np.abs(body.mesh.normals[:, 2]) < 0.1) & (at > 0.16))
    spot = body.mesh.points[body.mesh.vertex_point[outer]]
    slope = 0.025 * 2.0 / (0.5 * long) * (1.0 / 0.15) * 0.5  # of the outer side, by its own length there, about
    way = spot[:, :2] / np.hypot(*spot[:, :2].T)[:, None]
    lean = np.abs(way[:, 0] * body.mesh.normals[outer, 1] - way[:, 1] * body.mesh.normals[outer, 0])
    assert np.median(lean) == pytest.approx(slope, rel=0.35)


def test_a_shift_to_the_inside_of_a_bend_may_pinch_and_one_to_the_outside_does_not() -> None:
    path = circle_path(0.5)
    long = resolve_path(path).length
    more = {"orientation": Orientation.UPRIGHT}
    inside, outside = (varied(path, shifts=(points((0.0, d), period=long),), more=more) for d in (-0.47, 0.47))
    assert "pinch" in {f.code for f in inside.findings}
    assert not outside.findings


def test_a_size_of_nothing_all_along_is_refused_in_words() -> None:
    with pytest.raises(SectionError, match="nothing all along"):
        varied(LINE, sizes=(points((0.0, 0.0)),))


@pytest.mark.parametrize("section", [SQUARE, STAR])
def test_an_end_that_is_a_point_or_as_good_as_an_edge_takes_no_dome_and_says_so(section: SectionShape) -> None:
    tip = varied(LINE, section, sizes=(tapered(1.0, 0.0, 1.0),), more={"end": End.DOMED})
    edge = varied(LINE, section, widths=(tapered(1.0, 1e-3, 1.0),), more={"end": End.DOMED})
    for body in (tip, edge):
        assert_watertight(body.mesh)
    assert [f.code for f in tip.findings] == ["no-dome"]
    assert {f.code for f in edge.findings} <= {"no-dome"}


def test_of_many_places_the_first_is_said_and_how_many_there_are() -> None:
    body = varied(LINE, sizes=(FormLaw(Form.RIBS, -1.0, 1.0, pitch=0.02),))
    (only,) = (f for f in body.findings if f.code == "no-size")
    assert "at 50 places" in only.message and only.at == pytest.approx(0.01)
