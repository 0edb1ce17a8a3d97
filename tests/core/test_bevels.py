"""Bevels on legs that bend or roll, and caps without flat triangles."""

import numpy as np
import pytest

from morphax.core.body.caps import _areas, _without_flat
from morphax.core.body.rings import ring_points
from morphax.core.body.sweep import frame_stage, placed_rings, profile_stage, sweep
from morphax.core.frame.frames import Orientation
from morphax.core.path.paths import PathKind, PathShape
from morphax.core.path.resolved import resolve_path
from morphax.core.section.ready_made import ready_made
from morphax.core.section.sections import CornerStyle, SectionShape
from tests.helpers import assert_watertight, recipe_of

BENT = PathShape(
    np.array([[0.0, 0, 0], [0.5, 0.35, 0.1], [1.0, 0.0, 0], [0.6, -0.5, 0.2], [1.1, -0.9, 0]]),
    PathKind.THROUGH,
    False,
    np.array([False, False, True, False, False]),
    np.ones(5, dtype=bool),
)
ROLLED = PathShape(
    np.array(
        [
            [-0.1845, -0.1085, 0.1573], [-0.2710, -0.1096, 0.1867], [-0.3302, -0.2472, 0.2891],
            [-0.2662, -0.3731, 0.1782], [-0.4978, -0.5781, 0.0058], [-0.2630, -0.5576, 0.0487],
        ]
    ),
    PathKind.STRAIGHT, True, np.ones(6, dtype=bool), np.zeros(6, dtype=bool),
)  # fmt: skip
"""A closed path whose closing angle rolls its short legs."""


def test_no_ring_beside_a_bevel_crosses_the_corner_s_plane() -> None:
    path, section = resolve_path(BENT), ready_made("rectangle", {"width": 0.16})
    recipe = recipe_of(corner=CornerStyle.BEVEL)
    profile = profile_stage(path, section, recipe)
    placed = placed_rings(path, profile, frame_stage(path, profile, recipe.placing), recipe)
    (joint,) = placed.joints.items
    first, last = placed.rows.starts[joint.after], placed.rows.starts[joint.before + 1] - 1
    before, after = ring_points(placed.rows.coefficients[[last, first]], profile.flat_points)
    limit = 1e-5 * profile.reach
    assert ((before - joint.place) @ joint.normal).max() < limit
    assert ((after - joint.place) @ joint.normal).min() > -limit


def codes(path: PathShape, section: SectionShape, orientation: Orientation) -> set[str]:
    body = sweep(path, section, recipe_of(corner=CornerStyle.BEVEL, orientation=orientation))
    assert_watertight(body.mesh)
    return {f.code for f in body.findings}


@pytest.mark.parametrize("width", [0.0571, 0.004, 0.0005])
@pytest.mark.parametrize("name", ["rounded-rectangle", "rectangle", "ellipse"])
def test_a_closing_wedge_joins_points_that_belong_together(name: str, width: float) -> None:
    """The last frame is the first one but for half a turn: the wedge at the first corner must not turn half a turn."""
    section = ready_made(name, {"width": width})
    assert "turned-over" not in codes(ROLLED, section, Orientation.CARRIED)
    mesh = sweep(ROLLED, section, recipe_of(corner=CornerStyle.BEVEL)).mesh
    wedge = next(p for p in mesh.parts if p.name == "wedge")
    quads = mesh.points[mesh.quads[wedge.quads[0] : wedge.quads[1]]]
    way = np.roll(ROLLED.knots, -1, axis=0) - ROLLED.knots
    way /= np.linalg.norm(way, axis=1)[:, None]
    normals = way + np.roll(way, 1, axis=0)  # of the planes halfway between two legs: points lie opposite in them
    normals /= np.linalg.norm(normals, axis=1)[:, None]
    near = ((quads.mean(1)[:, None] - ROLLED.knots) ** 2).sum(2).argmin(1)
    across = quads[:, 1] - quads[:, 0]
    aside = across - (across * normals[near]).sum(1)[:, None] * normals[near]
    assert np.linalg.norm(aside, axis=1).max() < 0.3 * width, "less than the legs roll on their way through the corner"


def test_wedges_that_are_turned_over_are_said() -> None:
    """Upright sections of legs that climb and double back are turned against each other at the corner between."""
    knots = np.array([[-0.119, 0.126, 0.172], [-0.280, 0.157, 0.141], [-0.413, 0.249, 0.265], [-0.325, 0.163, 0.307]])
    climb = PathShape(knots, PathKind.STRAIGHT, False, np.ones(4, dtype=bool), np.zeros(4, dtype=bool))
    section = ready_made("ellipse", {"width": 0.0549})
    assert "turned-over" in codes(climb, section, Orientation.UPRIGHT)
    corner = PathShape(ROLLED.knots[2:5], PathKind.STRAIGHT, False, np.ones(3, dtype=bool), np.zeros(3, dtype=bool))
    assert "turned-over" not in codes(corner, ready_made("ellipse", {"width": 0.004}), Orientation.CARRIED)


def test_flat_triangles_give_way_and_every_edge_stays() -> None:
    points = np.array([[0.0, 0], [1, 0], [2, 0], [2, 2], [0, 2]])
    flat = np.array([[0, 1, 2], [0, 2, 3], [0, 3, 4]])
    done = _without_flat(flat, points)
    areas = _areas(points, done)
    assert len(done) == 3 and (areas > 0.1).all() and areas.sum() == 8.0
    edges = [(int(t[k]), int(t[k - 2])) for t in done for k in range(3)]
    assert len(set(edges)) == 9
    assert {e for e in edges if e[::-1] not in edges} == {(0, 1), (1, 2), (2, 3), (3, 4), (4, 0)}
