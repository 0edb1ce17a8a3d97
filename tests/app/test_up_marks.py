"""Which way is up at both ends of a run."""

import numpy as np
import pytest

from morphax.app.views.panes.marks import up_at_end
from tests.app.driver import Driver


def test_up_is_known_at_both_ends_and_turns_with_the_body(demo: Driver) -> None:
    """Upright runs keep their up; a hose's end has the up that its own last ring shows."""
    ws = demo.window.workspace
    demo.settle()
    built = {r.show.name: ws.bodies.get(r.id) for r in ws.project.runs}
    assert up_at_end(built["Gutter"]) == pytest.approx((0.0, 0.0, 1.0), abs=1e-9)
    assert up_at_end(built["Name board frame"]) is None, "a closed path has one up only"
    hose = up_at_end(built["Fog hose"])
    assert np.linalg.norm(hose) == pytest.approx(1.0)
    tangent = built["Fog hose"].path.polyline[-1] - built["Fog hose"].path.polyline[-2]
    assert abs(hose @ tangent / np.linalg.norm(tangent)) < 0.05, "across the path"
