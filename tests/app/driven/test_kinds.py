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
    chain = drawn.window.workspace.chosen.body.path.resolved.chain
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


def test_a_rectangle_and_a_line_keep_their_sides_as_values(driver: Driver) -> None:
    driver.menu("path.rectangle")
    driver.click(0, (0.0, 0.0, 0.0))
    driver.move(0, (0.3, 0.3, 0.2))
    driver.type("600x400")
    driver.enter()
    driver.settle()
    driver.key(Qt.Key.Key_Escape)
    driver.unfold("Path")
    assert {driver.field(f"side.{n}").text() for n in ("first", "second")} == {"600 mm", "400 mm"}
    middle = driver.places.mean(0)
    driver.enter_value("side.first", "1/2 m")
    driver.settle()
    sides = np.linalg.norm(np.diff(driver.places[:3], axis=0), axis=1)
    assert sides[0] == pytest.approx(500.0) and sides[1] in (pytest.approx(400.0), pytest.approx(600.0))
    np.testing.assert_allclose(driver.places.mean(0), middle, atol=1e-6)
    driver.key(Qt.Key.Key_S)
    driver.click(0, (1.0, 0.0, 0.0))
    driver.click(0, (1.3, 0.0, 0.0))
    driver.enter()
    driver.key(Qt.Key.Key_Escape)
    driver.settle()
    driver.enter_value("side.line", "250")
    driver.settle()
    assert np.linalg.norm(driver.places[1] - driver.places[0]) == pytest.approx(250.0)
