"""Round corners: rings turned about the corner's inner line; exact volumes, closed, the same from both ends."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from morphax.core.body.range import Range, Stop
from morphax.core.body.recipe import End, Ends
from morphax.core.body.reference import Reference
from morphax.core.body.sweep import Drawn, sweep, sweep_resolved
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.section.sections import CornerStyle
from tests.core.test_range import FRAME, LEGS, MIXED, PIPE, SQUARE, STAR
from tests.helpers import assert_watertight, distance_to_mesh, recipe_of

ROUND = CornerStyle.ROUND


def bent(degrees: float):
    turn = np.radians(degrees)
    end = np.array([1.0 + np.cos(turn), np.sin(turn), 0.0])
    return path_from_points(np.array([[0, 0, 0], [1.0, 0, 0], end]), kind=PathKind.STRAIGHT)


@pytest.mark.parametrize("degrees", [20.0, 60.0, 90.0, 130.0, 150.0])
@pytest.mark.parametrize("section", [SQUARE, PIPE], ids=["square", "pipe"])
def test_its_volume_is_that_of_a_fan_of_chords_about_the_inner_line(degrees: float, section) -> None:
    body = sweep(bent(degrees), section, recipe_of(corner=ROUND, anchor="centroid"))
    assert_watertight(body.mesh)
    turn, reach = np.radians(degrees), 0.05
    area = volume(sweep(bent(0.0), section, recipe_of(anchor="centroid")).mesh) / 2.0
    back = reach * np.tan(0.5 * turn)
    fan = next(p for p in body.mesh.parts if p.name == "wedge")
    tris = fan.tris[1] - fan.tris[0]
    if section is SQUARE:
        steps = tris // 2  # two triangles a step on the inner line, where points have met
        exact = area * (2.0 - 2.0 * back) + steps * area * reach * np.sin(turn / steps)
        assert volume(body.mesh) == pytest.approx(exact, rel=1e-9)
        assert volume(body.mesh) <= (area * (2.0 - 2.0 * back) + area * reach * turn) * (1.0 + 1e-9)
    smooth = area * (2.0 - 2.0 * back) + area * reach * turn
    assert volume(body.mesh) == pytest.approx(smooth, rel=2e-3)


def test_its_outermost_points_lie_on_the_arc_within_the_deviation() -> None:
    body = sweep(bent(90.0), SQUARE, recipe_of(corner=ROUND, deviation=2e-4))
    a = np.linspace(-0.5 * np.pi, 0.0, 2001)
    arc = np.column_stack([0.95 + 0.1 * np.cos(a), 0.05 + 0.1 * np.sin(a), 0.0 * a + 0.05])
    assert distance_to_mesh(arc, body.mesh).max() <= 2e-4
    corner = np.array([[1.05, -0.05, 0.0]])
    assert distance_to_mesh(corner, body.mesh)[0] == pytest.approx(0.1 * (np.sqrt(2.0) - 1.0), rel=0.01)


def test_faces_of_the_fan_are_shaded_round_and_point_out() -> None:
    mesh = sweep(bent(90.0), SQUARE, recipe_of(corner=ROUND)).mesh
    part = next(p for p in mesh.parts if p.name == "wedge")
    own = slice(*part.quads)
    corners, normals = mesh.points[mesh.quads[own]], mesh.normals[mesh.quad_vertices[own]]
    flat = np.cross(corners[:, 2] - corners[:, 0], corners[:, 3] - corners[:, 1])
    flat /= np.linalg.norm(flat, axis=1)[:, None]
    assert ((normals * flat[:, None]).sum(-1) > 0.99).all()
    outer = np.abs(flat[:, 2]) < 0.5
    assert outer.any() and np.ptp(normals[outer][:, :, 0]) > 0.5, "they turn with it"


@settings(max_examples=30, deadline=None)
@given(
    st.sampled_from([LEGS, FRAME, MIXED]), st.sampled_from([SQUARE, PIPE, STAR]),
    st.sampled_from(["centre", "centroid", "left", "top-right"]), st.floats(0.0, 1.0), st.floats(0.0, 1.0),
    st.sampled_from([End.FLAT, End.DOMED, End.POINTED]),
)  # fmt: skip
def test_any_part_of_it_is_closed(path, section, anchor, a, b, end) -> None:
    whole = sweep(path, section, recipe_of(corner=ROUND, anchor=anchor))
    assert edge_check(whole.mesh).closed and volume(whole.mesh) > 0.0
    a, b = (a, b) if path.closed else sorted((a, b))
    if abs(a - b) > 1e-3:
        wish = recipe_of(corner=ROUND, anchor=anchor, range=Range(Stop(a), Stop(b)), ends=Ends(end, end))
        part = sweep(path, section, wish)
        assert edge_check(part.mesh).closed


def test_a_range_that_stops_within_the_fan_has_its_part_of_it() -> None:
    sizes = [
        volume(sweep(bent(90.0), SQUARE, recipe_of(corner=ROUND, range=Range(end=Stop(float(b))))).mesh)
        for b in np.linspace(0.4, 0.6, 81)
    ]
    step = np.diff(sizes)
    assert step.min() > 0.0 and step.max() < 2.0 * np.median(step)


def test_reversed_and_mirrored_it_is_the_same_body() -> None:
    recipe = recipe_of(corner=ROUND)
    one = sweep(LEGS, STAR, recipe)
    for reference in (Reference(from_end=True), Reference(((-1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)))):
        knots = (LEGS.knots[::-1] if reference.from_end else LEGS.knots) @ reference.world.T
        seen = path_from_points(knots, kind=PathKind.STRAIGHT)
        two = sweep_resolved(Drawn(seen, resolve_path(seen)), STAR, recipe, reference=reference)
        np.testing.assert_allclose(two.mesh.points, one.mesh.points @ reference.world.T, atol=1e-12)


def test_faces_of_a_flat_wedge_are_shaded_flat() -> None:
    mesh = sweep(bent(90.0), SQUARE, recipe_of(corner=CornerStyle.BEVEL)).mesh
    own = slice(*next(p.quads for p in mesh.parts if p.name == "wedge"))
    corners, normals = mesh.points[mesh.quads[own]], mesh.normals[mesh.quad_vertices[own]]
    flat = np.cross(corners[:, 2] - corners[:, 0], corners[:, 3] - corners[:, 1])
    flat /= np.linalg.norm(flat, axis=1)[:, None]
    assert len(flat) and ((normals * flat[:, None]).sum(-1) > 0.9999).all()
