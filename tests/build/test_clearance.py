"""Gaps and overlaps against known distances."""

import numpy as np
import pytest
import trimesh

from morphax.build.clearance import clearance
from morphax.build.locators import Locator
from morphax.core.body.sweep import sweep
from morphax.core.mesh.triangles import Triangles, mesh_of
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.ready_made import ready_made
from tests.helpers import recipe_of


def mesh(shape: trimesh.Trimesh):
    return mesh_of(Triangles(np.asarray(shape.vertices), np.asarray(shape.faces, dtype=np.int32)))


BOX = Locator(mesh(trimesh.creation.box(extents=(1, 1, 1))))


@pytest.mark.parametrize(("height", "gap"), [(1.0, 0.4), (0.61, 0.01), (0.55, -0.05), (0.3, -0.3)])
def test_a_ball_over_a_box_keeps_its_gap_or_lies_in_it(height: float, gap: float) -> None:
    ball = trimesh.creation.icosphere(subdivisions=3, radius=0.1).apply_translation((0, 0, height))
    found = clearance(mesh(ball), BOX, 5.0)
    assert found is not None and found.gap == pytest.approx(gap, abs=2e-3)


def test_what_is_farther_than_asked_for_has_no_clearance() -> None:
    far = trimesh.creation.icosphere(radius=0.1).apply_translation((0, 0, 9))
    assert clearance(mesh(far), BOX, 1.0) is None


def test_a_long_straight_body_is_asked_between_its_rings_too() -> None:
    path = path_from_points(np.array([[-3.0, 0.1, 0.7], [3.0, 0.1, 0.7]]), kind=PathKind.STRAIGHT)
    body = sweep(path, ready_made("round", {"width": 0.2}), recipe_of(sides=64)).mesh
    found = clearance(body, BOX, 5.0)
    assert body.rings == 2 and found is not None and found.gap == pytest.approx(0.1, abs=2e-4)
