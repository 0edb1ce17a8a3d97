"""Which way is up at both ends of a run."""

import numpy as np
import pytest

from morphax.app.views.panes.marks import up_at_end
from morphax.build.builder import Builder
from morphax.core.body.recipe import End
from morphax.core.mesh.mesh import empty_mesh, end_rings, seam_points
from morphax.core.path.paths import PathKind
from morphax.core.section.sections import CornerStyle
from morphax.project.edits.runs import NewRun, add_run, with_part, with_recipe
from morphax.project.model.document import Project, ReadyMadeSource
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


@pytest.mark.parametrize("corner", list(CornerStyle))
@pytest.mark.parametrize("end", [End.OPEN, End.FLAT, End.DOMED])
def test_the_last_ring_of_any_body_stands_at_its_end(corner: CornerStyle, end: End) -> None:
    """Bevelled bodies share points between rings, domes have points of their own: both ends are found all the same."""
    places = [(0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (1.0, 1.0, 0.0), (0.0, 1.0, 0.2)]
    new = NewRun(ReadyMadeSource(name="pipe"), 0.05)
    added = add_run(Project(), PathKind.STRAIGHT, places, new)
    project = with_part(
        with_recipe(added.project, added.ids[:1], corner=corner), added.ids[:1], "ends", start=end, end=end
    )
    built = Builder().run(project, project.runs[0])
    first, last = end_rings(built.body.mesh)
    for ring, place, along in ((first, places[0], (1.0, 0.0, 0.0)), (last, places[3], (-1.0, 0.0, 0.2))):
        way = np.array(along) / np.linalg.norm(along)
        assert len(ring) == built.body.mesh.sides
        assert np.abs((ring - ring.mean(0)) @ way).max() < 1e-9, "flat across the path"
        beside = (ring.mean(0) - place) - ((ring.mean(0) - place) @ way) * way
        assert np.linalg.norm(beside) < 1e-3 and abs((ring.mean(0) - place) @ way) < 0.026
    up = up_at_end(built)
    assert up is not None and abs(up @ (-1.0, 0.0, 0.2)) < 1e-9
    seam = seam_points(built.body.mesh)
    assert (
        seam[0] == pytest.approx(first[0])
        and seam[-1] == pytest.approx(last[0])
        and len(seam_points(empty_mesh())) == 0
    )
    assert end_rings(empty_mesh()) is None
