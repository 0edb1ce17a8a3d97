"""Caps of four-sided faces: the same surface of the same points, closed, every face full and turned out."""

import numpy as np
import pytest
import trimesh

from morphax.core.body.recipe import End, Ends
from morphax.core.body.sweep import sweep
from morphax.core.frame.frames import Orientation
from morphax.core.mesh.measures import area, edge_check, volume
from morphax.core.mesh.mesh import Mesh, point_triangles
from morphax.core.mesh.quad_caps import with_quad_caps
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.ready_made import READY_MADE, ready_made
from tests.helpers import THROUGH, recipe_of, torus_knot

LINE = path_from_points(np.array([[0, 0, 0], [1.0, 0, 0]]), kind=PathKind.STRAIGHT)
CURVE = path_from_points(torus_knot(9), kind=THROUGH)


def made(name: str, path=LINE, **more) -> tuple[Mesh, Mesh]:
    section = ready_made(name, {"width": 0.08})
    return tuple(sweep(path, section, recipe_of(ends=Ends(quad_caps=on), **more)).mesh for on in (False, True))


def cap_quads(mesh: Mesh) -> np.ndarray:
    own = [mesh.quads[slice(*p.quads)] for p in mesh.parts if p.name.endswith("cap")]
    return np.concatenate(own)


@pytest.mark.parametrize("path", [LINE, CURVE])
@pytest.mark.parametrize("name", list(READY_MADE))
def test_it_is_the_same_surface_in_fewer_faces(name: str, path) -> None:
    plain, quads = made(name, path)
    assert np.array_equal(plain.points, quads.points) and edge_check(quads).closed
    assert volume(quads) == pytest.approx(volume(plain), rel=1e-12) and area(quads) == pytest.approx(
        area(plain), rel=1e-12
    )
    count = len(cap_quads(quads))
    assert count > 0 and quads.face_count == plain.face_count - count
    assert np.array_equal(quads.vertex_point[quads.quad_vertices], quads.quads)
    found = trimesh.Trimesh(quads.points, point_triangles(quads), process=False)
    assert found.is_watertight and found.is_winding_consistent


@pytest.mark.parametrize("name", list(READY_MADE))
def test_no_face_turns_back_at_a_corner(name: str) -> None:
    _, mesh = made(name)
    corners = mesh.points[cap_quads(mesh)]
    ways = np.roll(corners, -1, axis=1) - corners
    turns = np.cross(np.roll(ways, 1, axis=1), ways)
    facing = np.where(corners[:, :1, 0] > 0.5, 1.0, -1.0)
    assert (turns[..., 0] * facing > 0.0).all(), "each of them is convex and looks out"


@pytest.mark.parametrize(("sides", "left"), [(24, 0), (7, 1), (4, 0), (5, 1)])
def test_a_convex_outline_has_rungs_and_one_triangle_where_it_is_odd(sides: int, left: int) -> None:
    section = ready_made("polygon", {"points": sides, "width": 0.1})
    mesh = sweep(LINE, section, recipe_of(ends=Ends(quad_caps=True))).mesh
    assert len(cap_quads(mesh)) == 2 * ((sides - 2) // 2) and len(mesh.tris) == 2 * left


def test_domes_chamfers_angles_and_ranges_keep_their_parts() -> None:
    for ends in (Ends(End.DOMED, End.FLAT, quad_caps=True), Ends(End.ANGLED, End.RETURNED, quad_caps=True)):
        mesh = sweep(
            LINE, ready_made("ogee", {"width": 0.08}), recipe_of(ends=ends, orientation=Orientation.UPRIGHT)
        ).mesh
        assert edge_check(mesh).closed and sum(p.quads[1] - p.quads[0] for p in mesh.parts) == len(mesh.quads)
        assert sum(p.tris[1] - p.tris[0] for p in mesh.parts) == len(mesh.tris)
        skin = next(p for p in mesh.parts if p.name == "skin")
        assert skin.quads[0] == 0, "rings come first, as they did"
    open_ = sweep(
        LINE, ready_made("pipe", {"width": 0.08}), recipe_of(ends=Ends(End.OPEN, End.OPEN, quad_caps=True))
    ).mesh
    assert with_quad_caps(open_).quads.shape == open_.quads.shape


def test_rungs_of_a_convex_outline_run_side_by_side() -> None:
    section = ready_made("polygon", {"points": 12, "width": 0.1})
    mesh = sweep(LINE, section, recipe_of(ends=Ends(quad_caps=True))).mesh
    quads = cap_quads(mesh)[: (12 - 2) // 2]
    ways = mesh.points[quads[:, 1]] - mesh.points[quads[:, 2]]
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    assert np.abs(ways @ ways[0]) == pytest.approx(1.0, abs=1e-9)
