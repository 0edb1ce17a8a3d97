"""Bevels on legs that bend or roll, and caps without flat triangles."""

import numpy as np

from morphax.core.body.caps import _areas, _without_flat
from morphax.core.body.rings import ring_points
from morphax.core.body.sweep import frame_stage, placed_rings, profile_stage, sweep
from morphax.core.path.paths import PathKind, PathShape
from morphax.core.path.resolved import resolve_path
from morphax.core.section.ready_made import ready_made
from morphax.core.section.sections import CornerStyle
from tests.helpers import recipe_of

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


def test_wedges_that_are_turned_over_are_said() -> None:
    body = sweep(ROLLED, ready_made("rounded-rectangle", {"width": 0.0571}), recipe_of(corner=CornerStyle.BEVEL))
    assert "turned-over" in {f.code for f in body.findings}
    corner = PathShape(ROLLED.knots[2:5], PathKind.STRAIGHT, False, np.ones(3, dtype=bool), np.zeros(3, dtype=bool))
    plain = sweep(corner, ready_made("rounded-rectangle", {"width": 0.004}), recipe_of(corner=CornerStyle.BEVEL))
    assert "turned-over" not in {f.code for f in plain.findings}, "nothing rolls there"


def test_flat_triangles_give_way_and_every_edge_stays() -> None:
    points = np.array([[0.0, 0], [1, 0], [2, 0], [2, 2], [0, 2]])
    flat = np.array([[0, 1, 2], [0, 2, 3], [0, 3, 4]])
    done = _without_flat(flat, points)
    areas = _areas(points, done)
    assert len(done) == 3 and (areas > 0.1).all() and areas.sum() == 8.0
    edges = [(int(t[k]), int(t[k - 2])) for t in done for k in range(3)]
    assert len(set(edges)) == 9
    assert {e for e in edges if e[::-1] not in edges} == {(0, 1), (1, 2), (2, 3), (3, 4), (4, 0)}
