"""Chains of edges: order, gaps, closing, direction."""

from dataclasses import replace

import numpy as np
import pytest
import trimesh

from morphax.core.mesh.edge_chains import (
    EdgeChain,
    is_free_inside,
    is_smooth,
    outside_right,
    outward_of,
    roll_onto,
    simplified,
    smooth_run,
    with_edge,
)
from morphax.core.mesh.triangles import Triangles, creases_of, mesh_of

TOP = [(0, 0, 1), (2, 0, 1), (2, 1, 1), (0, 1, 1)]
OUT = [(0, -1, 1), (1, 0, 1), (0, 1, 1), (-1, 0, 1)]


def chain(*edges: int, flip: bool = False) -> EdgeChain:
    made = EdgeChain()
    for k in edges:
        a, b = np.array(TOP[k], float), np.array(TOP[(k + 1) % 4], float)
        out = np.array(OUT[k]) / np.sqrt(2)
        made = with_edge(made, *((b, a) if flip else (a, b)), out)
    return made


@pytest.mark.parametrize("flip", [False, True])
@pytest.mark.parametrize("order", [(0, 1, 2), (1, 0, 2), (1, 2, 0), (2, 1, 0)])
def test_three_edges_in_any_order_that_meets_are_one_chain(order: tuple[int, ...], flip: bool) -> None:
    made = outside_right(chain(*order, flip=flip))
    assert not made.closed and made.gaps == () and len(made.points) == 4
    assert np.allclose(made.points, [TOP[0], TOP[1], TOP[2], TOP[3]]), "walked with the solid on its left"
    assert np.allclose(made.outward, np.array(OUT[:3]) / np.sqrt(2))


def test_four_edges_close() -> None:
    made = outside_right(chain(0, 1, 2, 3))
    assert made.closed and len(made.points) == 4 and len(made.outward) == 4
    back = outside_right(chain(3, 2, 1, 0))
    assert back.closed and {tuple(p) for p in back.points} == {tuple(map(float, p)) for p in TOP}
    d = np.roll(back.points, -1, axis=0) - back.points
    right = np.stack([d[:, 1], -d[:, 0], 0 * d[:, 0]], axis=1)
    assert ((right * back.outward).sum(1) > 0).all(), "each edge has its own outside on the right"


def test_a_chain_round_a_solid_is_free_outside_and_that_round_a_room_inside() -> None:
    for order in ((0, 1, 2, 3), (3, 2, 1, 0), (1, 0, 2, 3)):
        made = chain(*order)
        assert not is_free_inside(made) and is_free_inside(replace(made, outward=-made.outward))
        assert not is_free_inside(replace(made, outward=np.tile([0.0, 0.0, 1.0], (4, 1)))), "it says nothing"
    assert not is_free_inside(replace(chain(0, 1, 2), outward=-chain(0, 1, 2).outward)), "an open one has no inside"


def test_an_edge_taken_twice_is_dropped_again() -> None:
    assert len(chain(0, 1, 1).points) == 2 and len(chain(0, 1, 0).points) == 2
    assert not len(chain(0, 0).points)


def test_a_gap_is_bridged_and_named() -> None:
    made = chain(0, 2)
    assert made.gaps == (pytest.approx(1.0),) and len(made.points) == 4


def test_collinear_points_go() -> None:
    made = EdgeChain()
    for a, b in (((0, 0, 0), (1, 0, 0)), ((1, 0, 0), (2, 0, 0)), ((2, 0, 0), (2, 2, 0))):
        made = with_edge(made, np.array(a, float), np.array(b, float), np.array([0.0, -1, 0]))
    assert np.allclose(simplified(made).points, [(0, 0, 0), (2, 0, 0), (2, 2, 0)])


def test_a_rim_is_a_smooth_run_and_a_box_edge_is_alone() -> None:
    drum = trimesh.creation.cylinder(radius=0.3, height=1.0, sections=32)
    creases = creases_of(mesh_of(Triangles(np.asarray(drum.vertices), np.asarray(drum.faces, dtype=np.int32))))
    run = smooth_run(creases, 0)
    assert len(run) == 32
    made = EdgeChain()
    for e in run:
        made = with_edge(made, *creases.points[creases.edges[e]], outward_of(creases, e))
    assert made.closed and len(made.points) == 32 and is_smooth(made)
    box = trimesh.creation.box()
    creases = creases_of(mesh_of(Triangles(np.asarray(box.vertices), np.asarray(box.faces, dtype=np.int32))))
    assert smooth_run(creases, 0) == [0]


@pytest.mark.parametrize("degrees", [0, 37, 180, 291])
def test_a_section_is_rolled_onto_either_face_of_an_edge(degrees: int) -> None:
    a = np.radians(degrees)
    way, right = np.array([np.cos(a), np.sin(a), 0.0]), np.array([np.sin(a), -np.cos(a), 0.0])
    assert roll_onto(3.0 * way, np.array([0.0, 0.0, 1.0])) == pytest.approx(0.0, abs=1e-12)
    assert roll_onto(3.0 * way, right) == pytest.approx(-np.pi / 2)
    slope = way + (0.0, 0.0, 0.5)
    up = np.cross(right, slope)
    assert roll_onto(slope, up / np.linalg.norm(up)) == pytest.approx(0.0, abs=1e-12)
    assert roll_onto(slope, right) == pytest.approx(-np.pi / 2)


def test_a_plumb_edge_and_a_face_elsewhere_give_no_roll() -> None:
    assert roll_onto(np.array([0.0, 0.0, 2.0]), np.array([1.0, 0.0, 0.0])) is None
    assert roll_onto(np.array([1.0, 0.0, 0.0]), np.array([0.8, 0.6, 0.0])) is None
