"""Which edges the pointer meets first: short single ones give way, pieces of a rim don't."""

import numpy as np
import trimesh

from morphax.app.session.camera import Camera
from morphax.app.session.pointer import Pointer
from morphax.app.session.sight import CameraSight
from morphax.app.tools.shared.edges_seen import EdgesSeen, goes_on
from morphax.core.mesh.triangles import Creases, creases_of, mesh_of, welded_points
from tests.app.test_landing import SIZE


def creases(*solids: trimesh.Trimesh) -> Creases:
    whole = trimesh.util.concatenate(solids)
    return creases_of(mesh_of(welded_points(np.array(whole.vertices), np.array(whole.faces, dtype=np.int32))))


def lengths(found: Creases, edges: list[int]) -> np.ndarray:
    ends = found.points[found.edges[edges]]
    return np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1)


def test_a_short_edge_gives_way_to_a_longer_one_beside_it() -> None:
    """A chip of 5 mm lies along the upper front edge of a house of 8 m; the pointer is on the chip's edge."""
    house = trimesh.creation.box(extents=(8.0, 6.0, 5.0))
    chip = trimesh.creation.box(extents=(0.005, 0.005, 0.005)).apply_translation((0.0, -3.1, 2.52))
    found, sight = creases(house, chip), CameraSight(Camera("Front", (0.0, 0.0, 2.4), 4.0), SIZE)
    x, y, _ = sight.seen(np.array([[0.0, -3.1, 2.5225]]))[0]
    order = EdgesSeen().under(Pointer(sight, (float(x), float(y)), 0.1), found)
    size = lengths(found, order)
    assert size[0] == 8.0 and size[-1] < 0.01 and len(order) > 2


def test_pieces_of_a_rim_are_not_short() -> None:
    found = creases(trimesh.creation.cylinder(radius=0.05, height=0.2, sections=48))
    assert goes_on(found).all()
    box = creases(trimesh.creation.box(extents=(0.2, 0.3, 0.4)))
    assert not goes_on(box).any()
