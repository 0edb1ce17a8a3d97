"""The kind of a path before and after it is drawn, spans of both kinds in one path, and where a closed one starts."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from tests.app.driver import Driver


def test_the_kind_is_changed_after_drawing_and_knots_stay(drawn: Driver) -> None:
    before, faces = drawn.places, drawn.body.mesh.face_count
    drawn.unfold("Path")
    drawn.choose("kind", "straight")
    drawn.settle()
    assert drawn.path.kind == "straight" and drawn.body.mesh.face_count != faces
    np.testing.assert_allclose(drawn.places, before, atol=1e-6)
    drawn.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert drawn.path.kind == "through" and drawn.body.mesh.face_count == faces


def test_corners_part_straight_spans_from_curved_ones_in_one_path(drawn: Driver) -> None:
    ids = [k.id for k in drawn.path.knots]
    drawn.click(0, np.array(drawn.path.knots[1].place))
    drawn.menu("path.corner")
    drawn.settle()
    assert [k.kind for k in drawn.path.knots][1] == "corner" and [k.id for k in drawn.path.knots] == ids
    chain = drawn.window.workspace.chosen_body.path.resolved.chain
    assert chain.corner[1] and not chain.straight.all()


def test_a_closed_path_starts_at_the_knot_that_is_chosen(drawn: Driver) -> None:
    drawn.key(Qt.Key.Key_O)
    drawn.settle()
    points = drawn.body.mesh.points
    third, length = drawn.path.knots[2], drawn.body.length
    drawn.click(0, np.array(third.place))
    drawn.menu("path.start")
    drawn.settle()
    assert drawn.path.knots[0].id == third.id and drawn.body.length == pytest.approx(length, rel=1e-9)
    assert np.abs(drawn.body.mesh.points.min(0) - points.min(0)).max() < 1e-3
