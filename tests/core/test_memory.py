"""A sweep takes little more memory than the arrays that it hands out."""

import tracemalloc

import numpy as np
import pytest

from morphax.core.body.sweep import PlainRecipe, sweep
from morphax.core.mesh.mesh import mesh_bytes
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.ready_made import ready_made
from tests.helpers import recipe_of


@pytest.mark.parametrize("options", [recipe_of(rings=4000, sides=32), recipe_of(deviation=2e-5)], ids=str)
def test_memory_stays_below_four_times_the_arrays(options: PlainRecipe) -> None:
    t = np.linspace(0.0, 1.0, 24)
    path = path_from_points(np.stack([3 * t, np.sin(9 * t), np.cos(7 * t)], axis=1), kind=PathKind.THROUGH)
    section = ready_made("round", {"width": 0.1})
    tracemalloc.start()
    body = sweep(path, section, options)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert 1.0 <= peak / mesh_bytes(body.mesh) <= 4.0
