"""Rings too far apart to follow the path are said."""

import numpy as np
import pytest

from morphax.core.body.sweep import PlainRecipe, sweep
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.ready_made import ready_made
from tests.helpers import recipe_of

SPIRAL = np.array([[np.cos(a), np.sin(a), 0.05 * a] for a in np.linspace(0.0, 12.0, 10)])


@pytest.mark.parametrize(
    ("options", "said"),
    [
        (recipe_of(rings=4), True),
        (recipe_of(spacing=2.5), True),
        (recipe_of(per_span=1), False),
        (recipe_of(), False),
    ],
    ids=["four rings", "wide spacing", "one a span", "by deviation"],
)
def test_rings_that_miss_a_bend_are_said(options: PlainRecipe, said: bool) -> None:
    body = sweep(path_from_points(SPIRAL, kind=PathKind.THROUGH), ready_made("round", {"width": 0.05}), options)
    assert ("coarse" in {f.code for f in body.findings}) is said


def test_rings_on_a_straight_path_with_corners_are_never_too_coarse() -> None:
    corner = path_from_points(np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0.2, 1, 0.0]]), kind=PathKind.STRAIGHT)
    body = sweep(corner, ready_made("round", {"width": 0.05}), recipe_of(per_span=1))
    assert "coarse" not in {f.code for f in body.findings}
