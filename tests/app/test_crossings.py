"""Where lines cross in a view."""

import numpy as np
import pytest

from morphax.app.session.camera import Camera, projected
from morphax.app.session.pointer import Pointer
from morphax.app.session.sight import CameraSight
from morphax.app.tools.shared.crossings import crossing_near
from morphax.app.tools.shared.edges_seen import EdgesSeen

SIZE = (800, 600)
TOP = Camera("Top", (0.0, 0.0, 0.0), 2.0)
SLANTED = Camera(target=(0.0, 0.0, 0.0), height=2.0, yaw=-1.0, pitch=0.5)


def pointer(camera: Camera, at, shift: tuple[float, float] = (0.0, 0.0)) -> Pointer:
    x, y, _ = projected(camera, np.array([at]), SIZE)[0]
    return Pointer(CameraSight(camera, SIZE), (x + shift[0], y + shift[1]), 0.0)


def test_crossing_lines_at_two_heights_give_the_place_on_the_upper_one() -> None:
    low = [(-0.5, 0.1, 0.0), (0.5, 0.1, 0.0)]
    high = [(0.2, -0.5, 0.3), (0.2, 0.5, 0.5)]
    found = crossing_near(pointer(TOP, (0.2, 0.1, 0.0), (3.0, -2.0)), np.array([low, high]), 8.0)
    assert found is not None and found.place == pytest.approx((0.2, 0.1, 0.42))
    assert np.allclose(found.lines, [(1.0, 0.0, 0.0), (0.0, 1.0, 0.2)]), "the two that cross, for their mark"
    assert crossing_near(pointer(TOP, (0.2, 0.1, 0.0), (9.0, 0.0)), np.array([low, high]), 8.0) is None


def test_in_perspective_the_place_is_seen_where_the_lines_cross() -> None:
    lines = np.array([[(-0.6, 0.2, 0.1), (0.7, -0.3, 0.4)], [(-0.3, -0.6, 0.0), (0.4, 0.6, 0.1)]])
    seen = projected(SLANTED, lines.reshape(-1, 3), SIZE).reshape(2, 2, 3)[..., :2]
    (a, b), (c, d) = seen
    t = np.linalg.solve(np.stack([b - a, c - d], axis=1), c - a)[0]
    spot = a + t * (b - a)
    at = Pointer(CameraSight(SLANTED, SIZE), (spot[0], spot[1]), 0.0)
    found = crossing_near(at, lines, 8.0)
    assert found is not None
    assert projected(SLANTED, found.place[None], SIZE)[0, :2] == pytest.approx(spot, abs=1e-6)
    along = lines[:, 1] - lines[:, 0]
    off = [
        np.linalg.norm(np.cross(found.place - p, d)) / np.linalg.norm(d)
        for p, d in zip(lines[:, 0], along, strict=True)
    ]
    assert min(off) < 1e-9


def test_lines_that_meet_in_an_end_or_run_side_by_side_dont_cross() -> None:
    at = pointer(TOP, (0.0, 0.0, 0.0))
    corner = np.array([[(0.0, 0.0, 0.0), (0.5, 0.0, 0.0)], [(0.0, 0.0, 0.0), (0.0, 0.5, 0.0)]])
    same = np.array([[(-0.5, 0.0, 0.0), (0.5, 0.0, 0.0)], [(-0.4, 0.0, 0.2), (0.6, 0.0, 0.2)]])
    assert crossing_near(at, corner, 8.0) is None and crossing_near(at, same, 8.0) is None
    assert crossing_near(at, corner[:1], 8.0) is None


def test_only_the_pieces_of_a_line_at_the_pointer_count() -> None:
    line = np.stack([np.linspace(-1.0, 1.0, 201), np.zeros(201), np.zeros(201)], axis=1)
    edges = EdgesSeen()
    near = edges.near_pieces(pointer(TOP, (0.25, 0.0, 0.0)), line)
    assert 1 <= len(near) <= 10 and np.abs(near[:, :, 0] - 0.25).max() < 0.05
    assert len(edges.near_pieces(pointer(TOP, (0.25, 0.0, 0.0)), line[:1])) == 0
    far = edges.near_pieces(pointer(TOP, (-0.75, 0.0, 0.0)), line)
    assert np.abs(far[:, :, 0] + 0.75).max() < 0.05, "the same line for another pointer"
