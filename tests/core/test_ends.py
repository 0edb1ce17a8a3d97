"""Domes: inside the path's length, exact volumes, a point at a round, reduced with a note where they do not fit."""

import numpy as np
import pytest

from morphax.core.body.inset import insets_of
from morphax.core.body.recipe import End
from morphax.core.body.sweep import PlainRecipe, sweep
from morphax.core.mesh.measures import edge_check, euler_characteristic, volume
from morphax.core.mesh.mesh import point_triangles, triangle_normals
from morphax.core.path.paths import path_from_points
from morphax.core.section.ready_made import READY_MADE, ready_made
from morphax.core.section.sampling import sample_section
from tests.helpers import S_CURVE, STRAIGHT, THROUGH, assert_watertight, recipe_of

LINE = path_from_points(np.array([[0, 0, 0], [0, 1.0, 0]]), kind=STRAIGHT)
DOMED = recipe_of(start=End.DOMED, end=End.DOMED)


def fine(**more: object) -> PlainRecipe:
    return recipe_of(start=End.DOMED, end=End.DOMED, deviation=2e-5, **more)


def test_a_domed_rod_is_a_capsule_of_the_typed_length() -> None:
    r = 0.05
    body = sweep(LINE, ready_made("round", {"width": 2 * r}), fine())
    assert_watertight(body.mesh)
    exact = np.pi * r**2 * (1.0 - 2 * r) + 4.0 / 3.0 * np.pi * r**3
    np.testing.assert_allclose(volume(body.mesh), exact, rtol=2e-3)
    y = body.mesh.points[:, 1]
    assert y.min() == pytest.approx(0.0, abs=1e-15) and y.max() == pytest.approx(1.0, abs=1e-12)
    assert (np.abs(y) < 1e-12).sum() == 1, "a round comes to one point"
    assert euler_characteristic(body.mesh) == 2


def test_points_of_a_dome_lie_on_the_sphere_and_normals_point_from_its_middle() -> None:
    r = 0.05
    mesh = sweep(LINE, ready_made("round", {"width": 2 * r}), fine()).mesh
    dome = mesh.points[:, 1] > 1.0 - r - 1e-12
    np.testing.assert_allclose(np.linalg.norm(mesh.points[dome] - [0, 1.0 - r, 0], axis=1), r, rtol=1e-12)
    vertex = dome[mesh.vertex_point]
    out = (mesh.points[mesh.vertex_point[vertex]] - [0, 1.0 - r, 0]) / r
    np.testing.assert_allclose(mesh.normals[vertex], out, atol=1e-6)


def test_a_smaller_radius_keeps_a_flat_middle() -> None:
    body = sweep(LINE, ready_made("round", {"width": 0.1}), fine(end_radius=0.02))
    ends = body.mesh.points[body.mesh.points[:, 1] > 1.0 - 1e-12]
    np.testing.assert_allclose(np.hypot(ends[:, 0], ends[:, 2]), 0.03, rtol=1e-12)
    assert_watertight(body.mesh)
    assert body.findings == ()


@pytest.mark.parametrize("name", sorted(READY_MADE))
@pytest.mark.parametrize("path", ["line", "curve"])
def test_every_section_can_be_domed(name: str, path: str) -> None:
    shape = LINE if path == "line" else path_from_points(S_CURVE, kind=THROUGH)
    body = sweep(shape, ready_made(name, {"width": 0.05}), DOMED)
    assert_watertight(body.mesh)
    section = ready_made(name, {"width": 0.05})
    assert euler_characteristic(body.mesh) == sum(2 - 2 * len(part.holes) for part in section.parts)
    tris = triangle_normals(body.mesh.points, point_triangles(body.mesh))
    assert np.isfinite(tris).all()


def test_a_pipe_is_domed_by_half_its_wall_and_says_so_when_more_is_asked_for() -> None:
    section = ready_made("pipe", {"width": 0.1, "wall": 0.02})
    inset = insets_of(sample_section(section, sides=64))
    assert inset[0].most == pytest.approx(0.98 * 0.01, rel=0.02)
    body = sweep(LINE, section, recipe_of(end=End.DOMED, end_radius=0.04))
    assert [f.code for f in body.findings] == ["dome-reduced"]
    assert_watertight(body.mesh)


def test_a_short_run_keeps_half_of_itself() -> None:
    short = path_from_points(np.array([[0, 0, 0], [0, 0.03, 0]]), kind=STRAIGHT)
    body = sweep(short, ready_made("round", {"width": 0.1}), DOMED)
    assert_watertight(body.mesh)
    assert np.ptp(body.mesh.points[:, 1]) == pytest.approx(0.03)
    assert [f.code for f in body.findings] == ["dome-reduced"] * 2
    assert "The dome at the end has a radius of 15 mm: the run is too short for more." in body.findings[1].message
    size = np.linalg.norm(triangle_normals(body.mesh.points, point_triangles(body.mesh)), axis=1)
    assert size.min() > 0.0, "where the two domes meet"


def test_a_body_with_one_end_open_is_not_closed() -> None:
    """Negative control: the check sees an end that is missing."""
    body = sweep(LINE, ready_made("round", {"width": 0.1}), recipe_of(start=End.OPEN, end=End.DOMED))
    assert not edge_check(body.mesh).closed
