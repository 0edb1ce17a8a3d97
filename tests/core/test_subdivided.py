"""Subdivision: exact weights, limits that are known, meshes that stay closed."""

from dataclasses import replace

import numpy as np
import pytest
import trimesh

from morphax.core.body.recipe import Density, End, Ends
from morphax.core.body.sweep import sweep
from morphax.core.mesh.mesh import Mesh
from morphax.core.mesh.subdivided import Smoothed, subdivided
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.ready_made import READY_MADE, ready_made
from tests.helpers import recipe_of

LINE = path_from_points(np.array([[0, 0, 0], [1.0, 0, 0]]), kind=PathKind.STRAIGHT)
SQUARE = ready_made("rectangle", {"width": 1.0, "height": 1.0})
CUBE = sweep(LINE, SQUARE, recipe_of(ends=Ends(quad_caps=True))).mesh


def as_trimesh(made: Smoothed) -> trimesh.Trimesh:
    q = made.quads
    return trimesh.Trimesh(made.points, np.concatenate([q[:, [0, 1, 2]], q[:, [0, 2, 3]]]), process=False)


def test_a_cube_after_one_step_has_the_known_points() -> None:
    """Corners to 5/9 of the way, edges to 3/4 of it, faces stay where they are: the rule by hand."""
    made = subdivided(CUBE, 1)
    assert made.quads.shape == (24, 4) and len(made.points) == 26
    away = np.sort(np.abs(made.points - [0.5, 0.0, 0.0]), axis=1) / 0.5
    found = {tuple(np.round(v, 9)) for v in away}
    assert found == {(0.0, 0.0, 1.0), (0.0, 0.75, 0.75), (round(5 / 9, 9),) * 3}


def test_a_cube_comes_to_the_limit_that_it_is_known_for() -> None:
    """A corner of three edges goes to (3 S + 4 R + Q) / 8 of its first step's neighbours; here (4/9) of it."""
    three = subdivided(CUBE, 3)
    far = np.linalg.norm(three.points - [0.5, 0.0, 0.0], axis=1)
    assert far.max() < 0.53 and far.min() > 0.4
    mesh = as_trimesh(three)
    assert mesh.is_watertight and mesh.is_winding_consistent and mesh.volume > 0.0
    out = three.points - [0.5, 0.0, 0.0]
    assert ((three.normals * out).sum(1) > 0.0).all()


@pytest.mark.parametrize("name", list(READY_MADE))
def test_bodies_stay_closed_and_have_a_face_for_each_corner(name: str) -> None:
    mesh = sweep(LINE, ready_made(name, {"width": 0.1}), recipe_of(density=Density(rings=5, hold=0.01))).mesh
    for levels in (1, 2):
        made = subdivided(mesh, levels)
        corners = 4 * len(mesh.quads) + 3 * len(mesh.tris)
        assert len(made.quads) == corners * 4 ** (levels - 1)
        found = as_trimesh(made)
        assert found.is_watertight and found.is_winding_consistent and found.volume > 0.0
        assert np.isfinite(made.normals).all()


def test_holding_rings_keep_what_would_be_rounded() -> None:
    loose, held = (
        subdivided(sweep(LINE, SQUARE, recipe_of(density=Density(rings=9, hold=hold))).mesh, 3) for hold in (None, 0.02)
    )
    volumes = [as_trimesh(m).volume for m in (loose, held)]
    assert volumes[0] < 0.8 < 0.97 < volumes[1] < 1.0


def test_open_rims_are_curves_of_their_own_points() -> None:
    path = path_from_points(np.array([[0, 0, 0], [0.5, 0, 0], [1.0, 0, 0]]), kind=PathKind.STRAIGHT)
    tube = sweep(path, ready_made("round", {"width": 1.0}), recipe_of(end=End.OPEN, start=End.OPEN, sides=8)).mesh
    made = subdivided(tube, 1)
    rim = made.points[np.abs(made.points[:, 0]) < 1e-12]
    radius = np.linalg.norm(rim[:, 1:], axis=1)
    assert len(rim) == 16
    cos = np.cos(np.pi / 8)
    assert np.unique(np.round(radius, 9)) == pytest.approx(sorted([0.5 * cos, 0.5 * (0.75 + 0.25 * np.cos(np.pi / 4))]))


def test_scaled_and_turned_meshes_are_smoothed_as_such() -> None:
    turn = trimesh.transformations.rotation_matrix(0.7, [1, 2, 3])[:3, :3]
    for scale in (1e-3, 500.0):
        moved: Mesh = replace(CUBE, points=scale * CUBE.points @ turn.T)
        plain, own = subdivided(CUBE, 2), subdivided(moved, 2)
        assert own.points == pytest.approx(scale * plain.points @ turn.T, abs=1e-12 * scale)
        assert (own.quads == plain.quads).all()
