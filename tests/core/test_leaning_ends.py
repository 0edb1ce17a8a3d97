"""Angled ends and returns: inside the length, exact volumes, closed whatever they stand on."""

from math import cos, pi, radians, sin, tan

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Polygon

from morphax.core.body.profiles import Carries
from morphax.core.body.range import Range, Stop
from morphax.core.body.recipe import Body, End, Ends
from morphax.core.body.reference import Reference
from morphax.core.body.sweep import Drawn, sweep, sweep_resolved
from morphax.core.errors import PathError
from morphax.core.frame.frames import Orientation
from morphax.core.loft.along import Along
from morphax.core.loft.laws import Form, FormLaw
from morphax.core.loft.varying_laws import Laws
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.mesh.mesh import point_triangles, triangle_normals
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.section.ready_made import ready_made
from morphax.core.section.sampling import sample_section
from tests.helpers import THROUGH, assert_watertight, recipe_of, torus_knot

LINE = path_from_points(np.array([[0, 0, 0], [1.0, 0, 0]]), kind=PathKind.STRAIGHT)
LEGS = path_from_points(np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [1, 1, 1.0]]), kind=PathKind.STRAIGHT)
CURVE = path_from_points(torus_knot(9), kind=THROUGH)
NAMES = ["rectangle", "ogee", "crown", "pipe", "star", "skirting", "round", "t", "twin"]


def outline(name: str) -> tuple[Polygon, np.ndarray]:
    """The section's area, and its points about the anchor at the centre of its box."""
    sampled = sample_section(ready_made(name, {"width": 0.08}), sides=24)
    points = sampled.points - 0.5 * (sampled.points.min(0) + sampled.points.max(0))
    shapes = [Polygon(points[sl]) for sl in sampled.loop_slices]
    whole = shapes[0]
    for shape, hole in zip(shapes[1:], sampled.hole[1:], strict=True):
        whole = whole.difference(shape) if hole else whole.union(shape)
    return whole, points


def swept(name: str, ends: Ends, path=LINE, **more) -> Body:
    section = ready_made(name, {"width": 0.08})
    return sweep(
        path, section, recipe_of(ends=ends, sides=24, anchor="centre", orientation=Orientation.CARRIED, **more)
    )


@pytest.mark.parametrize("name", NAMES)
@pytest.mark.parametrize("turn", [0.0, 1.1, -2.0])
def test_an_angled_end_takes_a_prism_off(name: str, turn: float) -> None:
    """Volume = area x length less the mean of what each point goes back: exact, by the centroid (shapely)."""
    area, points = outline(name)
    angle = radians(35.0)
    body = swept(name, Ends(End.ANGLED, End.ANGLED, start_angle=angle, end_turn=turn, end_angle=angle, start_turn=turn))
    way = np.array([-sin(turn), cos(turn)])
    most, mean = float((points @ way).max()), float(np.array(area.centroid.coords[0]) @ way)
    assert volume(body.mesh) == pytest.approx(area.area * (1.0 - 2.0 * tan(angle) * (most - mean)), rel=1e-9)
    assert body.mesh.bounds[:, 0] == pytest.approx([0.0, 1.0], abs=1e-12), "the length is the length of the whole"
    assert_watertight(body.mesh)
    caps = [p for p in body.mesh.parts if p.name.endswith("cap")]
    assert len(caps) == 2 * (2 if name == "twin" else 1) or len(caps) == 2
    for cap in caps:
        tris = point_triangles(body.mesh)[2 * len(body.mesh.quads) :][cap.tris[0] : cap.tris[1]]
        facing = triangle_normals(body.mesh.points, tris)
        facing /= np.linalg.norm(facing, axis=1, keepdims=True)
        assert np.abs(facing - facing[0]).max() < 1e-9, "it is flat"
        assert abs(facing[0, 0]) == pytest.approx(cos(angle))
        own = body.mesh.normals[body.mesh.tri_vertices[cap.tris[0] : cap.tris[1]]].reshape(-1, 3)
        assert np.abs(own - facing[0]).max() < 1e-6, "shaded as it lies"


@pytest.mark.parametrize("name", NAMES)
@pytest.mark.parametrize("which", ["start", "end", "both"])
def test_a_return_goes_round_a_mitre_to_the_wall(name: str, which: str) -> None:
    area, points = outline(name)
    ends = {"start": Ends(End.RETURNED), "end": Ends(end=End.RETURNED), "both": Ends(End.RETURNED, End.RETURNED)}[which]
    section = ready_made(name, {"width": 0.08})
    body = sweep(LINE, section, recipe_of(ends=ends, sides=24, anchor="left", orientation=Orientation.CARRIED))
    far = area.centroid.x - float(points[:, 0].min())
    less = (2 if which == "both" else 1) * (float(np.ptp(points[:, 0])) - 2.0 * far)
    assert volume(body.mesh) == pytest.approx(area.area * (1.0 - less), rel=1e-9)
    assert body.mesh.bounds[:, 0] == pytest.approx([0.0, 1.0], abs=1e-12)
    assert np.ptp(body.mesh.points[:, 1]) == pytest.approx(np.ptp(points[:, 0]), abs=1e-12), (
        "nothing goes into the wall"
    )
    found = trimesh.Trimesh(body.mesh.points, point_triangles(body.mesh), process=False)
    assert found.is_watertight and found.is_winding_consistent and found.area_faces.min() > 0.0
    for at in [0.0] * (which != "end") + [1.0] * (which != "start"):
        near = body.mesh.points[np.abs(body.mesh.points[:, 0] - at) < 0.5]
        assert len(near) and np.ptp(near[:, 1]) > 0.0


def test_the_wall_is_where_the_anchor_is_or_as_it_is_typed() -> None:
    """A moulding whose anchor is at its left lies along a wall there; a turn says otherwise."""
    for anchor, wall in (("left", 0.0), ("right", 0.0)):
        body = sweep(LINE, ready_made("ogee", {"width": 0.08}), recipe_of(ends=Ends(end=End.RETURNED), anchor=anchor))
        cap = next(p for p in body.mesh.parts if p.name == "end cap")
        points = body.mesh.points[body.mesh.tris[cap.tris[0] : cap.tris[1]]].reshape(-1, 3)
        assert np.abs(points[:, 1] - wall).max() < 1e-12
    down = swept("rectangle", Ends(end=End.RETURNED, end_turn=0.0))
    cap = next(p for p in down.mesh.parts if p.name == "end cap")
    points = down.mesh.points[down.mesh.tris[cap.tris[0] : cap.tris[1]]].reshape(-1, 3)
    assert np.abs(points[:, 2] - down.mesh.bounds[0, 2]).max() < 1e-12


def test_they_belong_to_what_is_shown() -> None:
    """A door left out of a skirting: four returns, each inside its stretch."""
    door = Range(out=((Stop(0.4), Stop(0.6)),))
    body = swept("skirting", Ends(End.RETURNED, End.RETURNED), range=door)
    x = body.mesh.points[:, 0]
    assert not ((x > 0.4 + 1e-9) & (x < 0.6 - 1e-9)).any() and edge_check(body.mesh).closed
    whole = swept("skirting", Ends(End.RETURNED, End.RETURNED))
    flat = swept("skirting", Ends())
    lost = volume(flat.mesh) - volume(whole.mesh)
    assert volume(body.mesh) == pytest.approx(0.8 * volume(flat.mesh) - 2.0 * lost, rel=1e-9)
    assert len({round(v, 9) for v in x[np.abs(x - 0.5) < 0.1 + 1e-9]}) >= 2


def test_reversed_and_mirrored_runs_have_the_image() -> None:
    ends = Ends(End.RETURNED, End.ANGLED, end_angle=radians(25.0), end_turn=0.7)
    mirror = ((-1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
    drawn, section = Drawn(CURVE, resolve_path(CURVE)), ready_made("ogee", {"width": 0.08})
    plain = sweep_resolved(drawn, section, recipe_of(ends=ends))
    image = sweep_resolved(
        Drawn(turned := path_from_points(torus_knot(9) * (-1.0, 1.0, 1.0), kind=THROUGH), resolve_path(turned)),
        section,
        recipe_of(ends=ends),
        reference=Reference(mirror),
    )
    assert image.mesh.points == pytest.approx(plain.mesh.points * (-1.0, 1.0, 1.0), abs=1e-9)
    back = path_from_points(torus_knot(9)[::-1], kind=THROUGH)

    walked = Drawn(back, resolve_path(back))
    other = sweep_resolved(walked, section, recipe_of(ends=ends), reference=Reference(from_end=True))
    assert volume(other.mesh) == pytest.approx(volume(plain.mesh), rel=1e-5)
    assert other.mesh.rings == plain.mesh.rings


@pytest.mark.parametrize("ends", [Ends(End.ANGLED, End.ANGLED), Ends(End.RETURNED, End.RETURNED)])
def test_typed_rings_stay_clear_of_the_end(ends: Ends) -> None:
    for path in (LINE, LEGS):
        body = swept("ogee", ends, path, rings=200)
        assert_watertight(body.mesh)
        plain = swept("ogee", ends, path)
        assert volume(body.mesh) == pytest.approx(volume(plain.mesh), rel=1e-9)
        assert body.mesh.rings > 150


def test_what_does_not_fit_is_said() -> None:
    short = path_from_points(np.array([[0, 0, 0], [0.05, 0, 0]]), kind=PathKind.STRAIGHT)
    for kind, code in ((End.ANGLED, "angle-reduced"), (End.RETURNED, "no-return")):
        body = swept("rectangle", Ends(kind, kind), short)
        assert {f.code for f in body.findings} >= {code} and edge_check(body.mesh).closed
        assert body.mesh.bounds[:, 0] == pytest.approx([0.0, 0.05]) and volume(body.mesh) > 0.0
    fixed = sweep(
        CURVE, ready_made("round", {"width": 0.05}), recipe_of(ends=Ends(End.ANGLED), orientation=Orientation.FIXED)
    )
    assert "no-lean" in {f.code for f in fixed.findings}
    for bad in ({"start_angle": 0.0}, {"end_angle": radians(81.0)}, {"start_turn": float("nan")}):
        with pytest.raises(PathError):
            Ends(**bad)


@settings(max_examples=40, deadline=None)
@given(
    st.sampled_from(["rectangle", "ogee", "crown", "pipe", "star", "half-round", "flute", "box-gutter"]),
    st.sampled_from([LEGS, CURVE]),
    st.tuples(*2 * [st.sampled_from([End.ANGLED, End.RETURNED, End.DOMED, End.POINTED, End.FLAT, End.CHAMFERED])]),
    st.tuples(*2 * [st.one_of(st.none(), st.floats(-pi, pi))]),
    st.tuples(st.floats(0.0, 0.4), st.floats(0.6, 1.0)),
    st.sampled_from([0.0, 3.0]),
)
def test_whatever_they_stand_on_bodies_close(name, path, kinds, turns, range_, twist) -> None:
    section = ready_made(name, {"width": 0.08})
    what = Carries(section, Along((), Laws((FormLaw(Form.WAIST, 0.3, 3.0),)), twist)) if twist else section
    ends = Ends(*kinds, start_turn=turns[0], end_turn=turns[1])
    recipe = recipe_of(ends=ends, range=Range(Stop(range_[0]), Stop(range_[1])))
    body = sweep(path, what, recipe)
    assert edge_check(body.mesh).closed and np.isfinite(body.mesh.points).all()
    assert volume(body.mesh) > 0.0 or body.findings
