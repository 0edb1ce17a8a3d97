"""Corners of a rectangle between two opposite ones."""

import numpy as np
import pytest

from morphax.app.tools.path.rectangle_tool import corners


@pytest.mark.parametrize("axis", [0, 1, 2])
@pytest.mark.parametrize("sign", [1.0, -1.0])
@pytest.mark.parametrize("opposite", [(2.0, 3.0), (-2.0, 3.0), (2.0, -3.0), (-2.0, -3.0)])
def test_corners_run_counter_clockwise_about_the_normal(axis: int, sign: float, opposite) -> None:
    i, j = (axis + 1) % 3, (axis + 2) % 3
    far = [0.0, 0.0, 0.0]
    far[i], far[j] = opposite
    found = np.array(corners((0.0, 0.0, 0.0), tuple(far), sign * np.eye(3)[axis]))
    area = 0.5 * np.cross(found, np.roll(found, -1, axis=0)).sum(0)
    assert np.allclose(area, 6.0 * sign * np.eye(3)[axis]) and np.allclose(found[0], 0.0) and np.allclose(found[2], far)
