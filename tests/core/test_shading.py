"""Crease angles: which edges are shaded smooth, and that nothing else changes."""

from dataclasses import replace
from math import radians

import numpy as np
import pytest

from morphax.core.body.budget import within_budget
from morphax.core.body.recipe import Density, End, Ends
from morphax.core.body.sweep import sweep
from morphax.core.errors import DensityError
from morphax.core.mesh.mesh import Mesh
from morphax.core.mesh.shading import shaded_over
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.ready_made import ready_made
from tests.helpers import recipe_of

LINE = path_from_points(np.array([[0, 0, 0], [1.0, 0, 0]]), kind=PathKind.STRAIGHT)
BENT = path_from_points(np.array([[0, 0, 0], [1.0, 0, 0], [1.9, 0.4, 0]]), kind=PathKind.STRAIGHT)


def prism(corners: int, crease: float | None, path=LINE, **more) -> Mesh:
    section = ready_made("polygon", {"points": corners, "width": 0.1})
    angle = None if crease is None else radians(crease)
    return sweep(path, section, recipe_of(density=Density(crease=angle), **more)).mesh


def on_skin(mesh: Mesh) -> tuple[np.ndarray, np.ndarray]:
    """Points and normals of the corners of the skin's faces."""
    at = np.unique(mesh.quad_vertices)
    return mesh.points[mesh.vertex_point[at]], mesh.normals[at].astype(float)


@pytest.mark.parametrize("corners", [4, 6, 8, 12])
def test_a_prism_is_round_once_the_angle_reaches_its_edges(corners: int) -> None:
    """The corners of a regular polygon turn by 360/n: then normals point away from the axis."""
    turn, flat = 360.0 / corners, prism(corners, None)
    for crease, is_round in ((turn - 1.0, False), (turn + 1.0, True)):
        mesh = prism(corners, crease)
        assert np.array_equal(mesh.points, flat.points) and np.array_equal(mesh.quad_vertices, flat.quad_vertices)
        points, normals = on_skin(mesh)
        away = points * (0.0, 1.0, 1.0)
        away /= np.linalg.norm(away, axis=1, keepdims=True)
        if is_round and turn < 89.0:
            assert np.abs(normals - away).max() < 1e-6
        elif not is_round:
            assert np.array_equal(mesh.normals, flat.normals)
    assert np.abs(np.linalg.norm(mesh.normals, axis=1) - 1.0).max() < 1e-6


def test_mitres_rims_and_chamfers_go_by_the_same_angle() -> None:
    turn = np.degrees(np.arctan2(0.4, 0.9))
    for crease, same in ((turn - 2.0, False), (turn + 2.0, True)):
        bent = recipe_of(density=Density(sides=32, crease=radians(crease)))
        mesh = sweep(BENT, ready_made("round", {"width": 0.1}), bent).mesh
        near = np.linalg.norm(mesh.points[mesh.vertex_point] - [1.0, 0.0, 0.0], axis=1) < 0.1
        by_point = {}
        for p, n in zip(mesh.vertex_point[near], mesh.normals[near], strict=True):
            by_point.setdefault(int(p), set()).add(tuple(np.round(n, 5)))
        assert (max(len(n) for n in by_point.values()) == 1) is same
    ends = Ends(End.CHAMFERED, End.FLAT, start_radius=0.01)
    for crease, kinds in ((44.0, 0), (46.0, 1), (91.0, 2)):
        round_ = ready_made("round", {"width": 0.1})
        mesh, plain = (
            sweep(LINE, round_, recipe_of(ends=ends, density=Density(sides=32, crease=c))).mesh
            for c in (radians(crease), None)
        )
        changed = np.abs(mesh.normals - plain.normals).max(1) > 1e-3
        at = mesh.points[mesh.vertex_point[changed], 0]
        rims = (near_(at, 0.01).any(), near_(at, 1.0).any())
        assert rims == (kinds >= 1, kinds >= 2)


def near_(values: np.ndarray, wanted: float) -> np.ndarray:
    return np.abs(values - wanted) < 1e-6


def test_a_texture_seam_counts_once_and_nothing_goes_twice() -> None:
    """The mean of two faces lies halfway between them, also where the seam doubles one of them."""
    mesh = prism(8, 50.0)
    points, normals = on_skin(mesh)
    away = points * (0.0, 1.0, 1.0)
    assert np.abs(normals - away / np.linalg.norm(away, axis=1, keepdims=True)).max() < 1e-6
    again = shaded_over(mesh, radians(1.0))
    assert np.abs(again.normals - mesh.normals).max() < 1e-6
    assert shaded_over(replace(mesh, vertex_point=np.arange(len(mesh.vertex_point))), 1.0).normals is mesh.normals


def test_it_goes_along_with_a_budget_and_what_is_none_is_refused() -> None:
    made = []
    within_budget(
        lambda d: made.append(d) or sweep(LINE, ready_made("round", {"width": 0.1}), recipe_of(density=d)),
        lambda d: 8,
        Density(budget=60, crease=0.5),
        0.1,
    )
    assert {d.crease for d in made} == {0.5}
    for bad in (0.0, -1.0, 4.0):
        with pytest.raises(DensityError):
            Density(crease=bad)


def test_a_flat_that_is_several_vertices_counts_once() -> None:
    """Two vertices of one point that look the same way, and one that looks another: their normal lies half way."""
    normals = np.array([[0, 0, 1], [0, 0, 1], [0, 1, 0]], dtype=np.float32)
    plain = prism(4, None)
    own = replace(
        plain,
        points=plain.points[:1],
        vertex_point=np.zeros(3, dtype=np.int32),
        normals=normals,
        uvs=np.zeros((3, 2), dtype=np.float32),
    )
    made = shaded_over(own, radians(100.0)).normals
    assert made == pytest.approx(np.tile([0.0, 0.5**0.5, 0.5**0.5], (3, 1)), abs=1e-6)
