"""The width dragged in the view: marks round the nearest end of the chosen run."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from morphax.app.tools.shared.size_marks import _starts, size_marks
from morphax.app.views.stock.groups import DRAW
from morphax.core.body.recipe import End
from morphax.demo import lantern_wagon
from morphax.project.edits.runs import with_part
from tests.app.board_hand import Hand
from tests.app.driver import Driver

CTRL = Qt.KeyboardModifier.ControlModifier


def look_near(driver: Driver) -> None:
    """Zooms in on the start of the chosen run's path."""
    start = driver.places[0] * 1e-3
    for _ in range(20):
        if marks(driver):
            break
        driver.wheel(0, tuple(start), 2)
    driver.settle()


def marks(driver: Driver, pane: int = 0) -> list:
    return size_marks(driver.window.workspace.chosen.body, driver.view(pane).sight)


def test_a_mark_dragged_outward_makes_the_body_wider_and_is_one_step(drawn: Driver) -> None:
    ws = drawn.window.workspace
    look_near(drawn)
    was, before = ws.finished, drawn.body.width
    mark = marks(drawn)[0]
    spot = drawn.spot(0, mark.place)
    drawn.move(0, mark.place)
    assert drawn.window.toolbox.sketch.label.startswith("drag: width")
    centre = drawn.view(0).sight.seen(np.array([mark.centre]))[0, :2]
    out = (np.array([spot.x(), spot.y()]) - centre) * 1.0
    end = (float(centre[0] + 1.8 * out[0]), float(centre[1] + 1.8 * out[1]))
    drawn.press(0, mark.place)
    drawn.drag_to(0, end, start=mark.place)
    assert "width" in drawn.window.toolbox.sketch.label and ws.unfinished.is_on
    drawn.release(0, end)
    drawn.settle()
    assert drawn.body.width > 1.4 * before and ws.finished is not was
    assert len(f"{1e3 * drawn.body.width:.6g}".replace(".", "").rstrip("0")) <= 3, "a plain number"
    drawn.key(Qt.Key.Key_Z, CTRL)
    drawn.settle()
    assert ws.finished is was and drawn.body.width == pytest.approx(before)


def test_marks_stand_on_the_ring_and_leave_out_what_lies_on_the_anchor(opened) -> None:
    driver, _ = opened(lantern_wagon())
    from tests.app.driven.test_looks import choose

    choose(driver, "Cornice")
    look_near(driver)
    found = marks(driver)
    built = driver.window.workspace.chosen.body
    points = built.body.mesh.points
    sides, rings = built.body.mesh.sides, built.body.mesh.rings
    ends = np.concatenate([points[:sides], points[(rings - 1) * sides : rings * sides]])
    start, end = ends[:sides], ends[sides:]
    for mark in found:
        pairs = [(ring, np.roll(ring, -1, axis=0)) for ring in (start, end)]
        far = [np.linalg.norm(0.5 * (a + b) - mark.place, axis=1).min() for a, b in pairs]
        far += [np.linalg.norm(ring - mark.place, axis=1).min() for ring in (start, end)]
        assert min(far) < 1e-9, "at a point of an end's own ring, or the middle of one of its sides"
    assert all(m.reach > 0.1 * built.body.width for m in found), "not at its back top corner"


def test_a_domed_end_has_its_marks_where_the_body_is_whole(drawn: Driver) -> None:
    ws = drawn.window.workspace
    width = drawn.body.width
    look_near(drawn)
    ws.attempt("x", lambda p: with_part(p, ws.selection.runs, "ends", start=End.DOMED, end=End.DOMED))
    drawn.settle()
    found = marks(drawn)
    assert found and all(m.reach == pytest.approx(0.5 * width, rel=0.02) for m in found)


def test_far_away_there_are_no_marks_and_with_two_runs_neither(drawn: Driver) -> None:
    drawn.wheel(0, (200, 200), -60)
    drawn.settle()
    assert marks(drawn) == []


@pytest.mark.parametrize("upright", [True, False])
def test_with_ctrl_one_size_is_dragged_alone(drawn: Driver, upright: bool) -> None:
    drawn.press_button(drawn.window.list_panel.stock.buttons["rectangle"])
    drawn.window.scene_views[0].choose("Perspective")
    drawn.window.frame()
    drawn.settle()
    drawn.pane(0).setFocus()
    look_near(drawn)
    for _ in range(12):
        if any(m.is_upright is upright for m in marks(drawn)):
            break
        drawn.wheel(0, tuple(drawn.places[0] * 1e-3), 1)
    drawn.settle()
    wide, high = drawn.body.width, drawn.body.height
    mark = next(m for m in marks(drawn) if m.is_upright is upright)
    spot = drawn.spot(0, mark.place)
    centre = drawn.view(0).sight.seen(np.array([mark.centre]))[0, :2]
    end = tuple(float(c + 1.6 * (s - c)) for c, s in zip(centre, (spot.x(), spot.y()), strict=True))
    drawn.press(0, mark.place, CTRL)
    drawn.drag_to(0, end, CTRL, start=mark.place)
    assert "alone" in drawn.window.toolbox.sketch.label
    drawn.release(0, end, CTRL)
    drawn.settle()
    now = (drawn.body.width / wide, drawn.body.height / high)
    dragged, other = (now[1], now[0]) if upright else now
    assert other == pytest.approx(1.0, rel=1e-6) and dragged > 1.15, f"the other one stays: {now}"
    drawn.key(Qt.Key.Key_Z, CTRL)
    drawn.settle()
    assert (drawn.body.width, drawn.body.height) == pytest.approx((wide, high))


def test_a_flat_ribbon_has_its_marks_too(drawn: Driver) -> None:
    """Its ring is two points: no plane of its own."""
    drawn.press_button(drawn.window.list_panel.stock.buttons[DRAW])
    hand = Hand(drawn)
    drawn.enter_value("outline.strip", "0")
    hand.arm("line")
    hand.click(-5, 0)
    hand.click(5, 0)
    drawn.press_button(hand.view.buttons["strip"])
    drawn.settle()
    assert drawn.body.mesh.is_sheet and drawn.body.mesh.sides == 2
    drawn.window.scene_views[0].choose("Top")
    drawn.window.frame()
    drawn.settle()
    found = marks(drawn)
    assert all(not m.is_upright and np.isfinite(m.place).all() for m in found)
    drawn.enter_value("width", "200")
    drawn.settle()
    assert len(marks(drawn)) == 2


def test_marks_stand_at_the_end_that_is_seen_else_at_the_nearer_one(drawn: Driver) -> None:
    line = drawn.window.workspace.chosen.body.path.polyline
    ends, sight = (line[0], line[-1]), drawn.view(0).sight
    depths = sight.seen(np.array(ends))[:, 2]
    assert _starts(sight, line) is bool(depths[0] <= depths[1]), "both are seen: the nearer one"
    for near in (0, 1):
        for _ in range(30):
            drawn.wheel(0, tuple(ends[near]), 1)
        drawn.settle()
        seen = drawn.view(0).sight.seen(np.array(ends))[:, :2]
        inside = ((seen >= 0.0) & (seen <= np.array(drawn.view(0).sight.size))).all(1)
        assert inside[near] and not inside[1 - near]
        assert _starts(drawn.view(0).sight, line) is (near == 0)
        for _ in range(30):
            drawn.wheel(0, tuple(ends[near]), -1)
        drawn.settle()
