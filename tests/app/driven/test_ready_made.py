"""Ready-made paths are drawn by two or three clicks and have exact values afterwards."""

from math import pi

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from morphax.app.views.search import found_actions
from morphax.core.path.paths import PathKind
from tests.app.driver import LEFT, Driver

CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def top(driver: Driver) -> Driver:
    """The second pane looks from above."""
    next(a for a in driver.pane(1).name_button.menu().actions() if a.text() == "Top").trigger()
    driver.settle()
    return driver


def take(driver: Driver, name: str) -> None:
    """A ready-made path from the tool row's list."""
    driver.window.tool_row.made_actions[name].trigger()
    assert driver.window.toolbox.kind == name


def values(driver: Driver) -> dict[str, float]:
    made = driver.path.made
    assert made is not None
    return dict(made.values)


def test_a_circle_by_its_centre_and_a_typed_radius(top: Driver) -> None:
    take(top, "circle")
    assert "centre" in top.window.help_label.text()
    top.click(1, (0.1, 0.1, 0.0))
    top.move(1, (0.3, 0.1, 0.0))
    assert top.window.workspace.unfinished.is_drawing and top.window.workspace.project.paths[0].made is not None
    top.type("250")
    top.enter()
    top.settle()
    assert top.path.kind is PathKind.MADE and values(top)["radius"] == pytest.approx(0.25)
    assert top.body.length == pytest.approx(0.5 * pi, rel=1e-9) and top.body.path_closed
    assert top.window.inspector.sentence.text() == "round along a circle"
    top.unfold("Path")
    top.enter_value("made.radius", "1/2 in")
    top.settle()
    assert top.body.length == pytest.approx(0.0254 * pi, rel=1e-9)
    top.enter_value("made.at.z", "1 m")
    top.settle()
    assert np.allclose(top.places[:, 2], 1000.0)
    top.enter_value("made.radius", "0")
    assert "outside" in top.window.help_label.text() and values(top)["radius"] == pytest.approx(0.0127)


def test_an_arc_about_its_centre_and_one_through_three_places(top: Driver) -> None:
    take(top, "arc")
    for at in ((0.0, 0.0, 0.0), (0.2, 0.0, 0.0), (0.0, 0.1, 0.0)):
        top.click(1, at)
    top.settle()
    assert top.body.length == pytest.approx(0.1 * pi, rel=1e-9) and not top.path.closed
    assert np.allclose(top.places[[0, -1], :2], ((200, 0), (0, 200)))
    take(top, "arc-through")
    for at in ((-0.2, 0.2, 0.0), (0.2, 0.2, 0.0)):
        top.click(1, at)
    top.click(1, (0.0, 0.2, 0.0))
    assert "one line" in top.window.help_label.text() and top.window.toolbox.is_drawing
    top.click(1, (0.0, 0.0, 0.0))
    top.settle()
    assert values(top)["radius"] == pytest.approx(0.2) and abs(values(top)["turn"]) == pytest.approx(pi)
    assert np.allclose(top.places[1, :2], (0, 0), atol=1e-3)


def test_polygon_spiral_helix_and_wave_with_values_afterwards(top: Driver) -> None:
    for name, row, text, length in (
        ("polygon", "made.sides", "4", 4 * 0.2 * 2**0.5),
        ("helix", "made.turns", "2", 2.0 * (0.16 * pi * pi + 0.15**2) ** 0.5),
        ("spiral", "made.inner", "100 mm", None),
        ("wave", "made.height", "0", 0.2),
    ):
        take(top, name)
        top.click(1, (0.0, 0.0, 0.0))
        top.click(1, (0.2, 0.0, 0.0))
        top.settle()
        top.unfold("Path")
        top.enter_value(row, text)
        top.settle()
        assert not top.body.has_errors and top.path.made.shape == name
        if length is not None:
            assert top.body.length == pytest.approx(length, rel=1e-8)
    assert len(top.window.workspace.project.runs) == 4


def test_a_knot_of_a_circle_is_dragged_to_its_radius_and_the_curve_carries_it(top: Driver) -> None:
    take(top, "circle")
    top.click(1, (0.0, 0.0, 0.0))
    top.click(1, (0.2, 0.0, 0.0))
    top.key(Qt.Key.Key_Escape)
    top.drag(1, (0.0, 0.2, 0.0), (0.0, 0.3, 0.0))
    top.settle()
    assert values(top)["radius"] == pytest.approx(0.3) and np.allclose(top.path.made.at[:2], 0.0)
    along = 0.3 / 2**0.5
    top.drag(1, (along, along, 0.0), (along + 0.1, along, 0.0))
    top.settle()
    assert values(top)["radius"] == pytest.approx(0.3) and top.path.made.at[0] == pytest.approx(0.1, abs=0.02)
    top.key(Qt.Key.Key_Z, CTRL)
    assert top.path.made.at[:2] == pytest.approx((0, 0), abs=1e-12)
    top.key(Qt.Key.Key_O)
    assert "keeps its shape" in top.window.help_label.text() and top.path.closed


def test_a_ready_made_path_becomes_a_free_one_of_the_same_curve(top: Driver) -> None:
    take(top, "spiral")
    top.click(1, (0.0, 0.0, 0.0))
    top.click(1, (0.2, 0.0, 0.0))
    top.settle()
    length = top.body.length
    top.unfold("Path")
    top.pick("kind", "handles")
    top.settle()
    assert top.path.made is None and top.body.length == pytest.approx(length, rel=1e-12)
    combo = top.field("kind")
    assert combo.findText("ready-made") < 0


def test_backspace_and_escape_leave_nothing_behind(top: Driver) -> None:
    take(top, "arc")
    top.click(1, (0.0, 0.0, 0.0))
    top.click(1, (0.2, 0.0, 0.0))
    top.key(Qt.Key.Key_Backspace)
    assert len(top.window.toolbox.draw.knots) == 1
    top.enter()
    assert not top.window.workspace.project.runs
    top.click(1, (0.0, 0.0, 0.0))
    top.key(Qt.Key.Key_Escape)
    top.key(Qt.Key.Key_Escape)
    assert not top.window.workspace.project.runs and top.window.toolbox.kind is None


def test_a_coil_winds_round_the_chosen_run_and_follows_it(drawn: Driver) -> None:
    spine = drawn.path
    drawn.menu("path.coil")
    drawn.settle()
    assert drawn.path.made.shape == "coil" and drawn.path.made.around == spine.id and not drawn.body.has_errors
    drawn.unfold("Path")
    drawn.enter_value("made.turns", "7")
    drawn.settle()
    assert len(drawn.path.knots) == 8
    coil, before = drawn.run.id, drawn.places
    drawn.key(Qt.Key.Key_Escape)
    knot = np.array(spine.knots[1].place)
    rows = drawn.window.list_panel.runs
    QTest.mouseClick(rows.viewport(), LEFT, pos=rows.visualItemRect(rows.item(0)).center())
    drawn.drag(0, knot, knot + (0.0, 0.0, 0.1))
    drawn.settle()
    paths = drawn.window.workspace.project.paths
    after = np.array([k.place for p in paths if p.made is not None for k in p.knots]) * 1000.0
    assert len(after) == 8 and np.abs(after - before).max() > 10.0
    assert not drawn.window.workspace.bodies[coil].body.has_errors


def test_the_search_says_what_a_ready_made_path_and_a_simple_host_are(driver: Driver) -> None:

    assert [a.whole_title for a in found_actions("helix")] == ["Helix · draw ready-made"]
    assert [a.whole_title for a in found_actions("simple host plane")] == ["Plane · add a simple host"]


def test_a_drag_that_cannot_be_says_why_and_keeps_what_was_there(top: Driver) -> None:
    take(top, "circle")
    top.click(1, (0.0, 0.0, 0.0))
    top.click(1, (0.2, 0.0, 0.0))
    top.key(Qt.Key.Key_Escape)
    top.drag(1, (0.0, 0.2, 0.0), (0.0, 0.0, 0.0))
    assert "outside" in top.window.help_label.text() and values(top)["radius"] >= 0.1
    top.key(Qt.Key.Key_Z, CTRL)
    assert values(top)["radius"] == pytest.approx(0.2)
    top.menu("path.coil")
    top.settle()
    top.key(Qt.Key.Key_M)
    before = top.places
    centre = top.window.toolbox.edit.set.centre()
    spot = top.spot(1, tuple(centre))
    top.drag(1, (spot.x() + 40, spot.y()), (spot.x() + 90, spot.y()))
    assert "lies where its path is" in top.window.help_label.text() and np.allclose(top.places, before)
