"""What is shown of a run: dragged on the strip and in the panes, typed in the column, with stretches left out."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt

from morphax.app.tools.shared.range_marks import range_marks
from morphax.app.tools.shared.size_marks import size_marks
from morphax.core.body.range import END, START, WHOLE, Range, Stop
from morphax.core.mesh.measures import edge_check, volume
from morphax.project.edits.paths import reverse_path
from morphax.project.edits.ranges import seen_range
from tests.app.driven.test_ends_in_column import opened_on_all
from tests.app.driver import Driver
from tests.app.job_projects import column, square_frame, three_bars
from tests.app.strip_hand import Strip

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def spot(strip: Strip, share: float) -> QPoint:
    return QPoint(strip.x(share), round(strip.top("RangeLane")) + 8)


def shown(strip: Strip) -> Range:
    return seen_range(strip.run)


def at(strip: Strip) -> list[float]:
    length = strip.driver.body.length
    return [s.at(length) / length for s in (shown(strip).start, shown(strip).end)]


@pytest.mark.parametrize("long", [0.005, 1.0, 500.0])
def test_the_ends_are_dragged_on_the_strip_as_one_step_each(opened, long: float) -> None:
    driver, _ = opened(column(long, knots=3))
    strip, whole = Strip(driver), driver.body.mesh
    strip.drag(spot(strip, 1.0), spot(strip, 0.8))
    assert at(strip) == pytest.approx([0.0, 0.8], abs=0.01) and strip.ws.history.undo_label == "Drag the range"
    assert volume(driver.body.mesh) == pytest.approx(at(strip)[1] * volume(whole), rel=1e-9)
    strip.drag(spot(strip, 0.0), spot(strip, 0.5))
    assert at(strip)[0] == pytest.approx(0.5, abs=1e-12), "it catches on the knot in the middle"
    strip.drag(spot(strip, 0.5), spot(strip, 0.95))
    assert at(strip)[0] < at(strip)[1], "something is left of it"
    for _ in range(3):
        driver.key(Qt.Key.Key_Z, CTRL)
    driver.settle()
    assert shown(strip) == WHOLE and np.array_equal(driver.body.mesh.points, whole.points)


def test_a_double_click_leaves_a_stretch_out_and_shows_it_again(opened) -> None:
    driver, _ = opened(column(1.0))
    strip = Strip(driver)
    strip.double(spot(strip, 0.4))
    ((a, b),) = shown(strip).out
    assert (a.value, b.value) == (pytest.approx(0.35, abs=0.01), pytest.approx(0.45, abs=0.01))
    assert sum(p.name == "start cap" for p in driver.body.mesh.parts) == 2 and edge_check(driver.body.mesh).closed
    strip.drag(spot(strip, 0.4), spot(strip, 0.6))
    ((c, d),) = shown(strip).out
    assert (c.value - a.value, d.value - b.value) == (pytest.approx(0.2, abs=0.01), pytest.approx(0.2, abs=0.01))
    strip.drag(spot(strip, d.value), spot(strip, 0.9))
    assert shown(strip).out[0][1].value == pytest.approx(0.9, abs=0.01) and shown(strip).out[0][0] == c
    assert volume(driver.body.mesh) == pytest.approx(0.01 * (1.0 - shown(strip).out[0][1].value + c.value), rel=1e-6)
    strip.double(spot(strip, 0.8))
    assert shown(strip) == WHOLE
    strip.click(
        next(QPoint(round(b.center().x()), round(strip.top("AddLane") + 8)) for b, w, _ in words(strip) if w == "gap")
    )
    assert len(shown(strip).out) == 1


def words(strip: Strip):
    on = strip.strip._on()
    return next(lane for lane in strip.strip.lanes if hasattr(lane, "words")).words(on)


@pytest.mark.parametrize("is_reversed", [False, True])
@pytest.mark.parametrize("pane", [0, 1])
def test_the_ends_are_dragged_in_the_panes_under_the_pointer(opened, pane: int, is_reversed: bool) -> None:
    project = column(1.0)
    project = reverse_path(project, project.runs[0].recipe.path) if is_reversed else project
    driver, _ = opened(project)
    strip = Strip(driver)
    driver.key(Qt.Key.Key_W, SHIFT)
    strip.drag(spot(strip, 1.0), spot(strip, 0.9))  # away from the pane's name
    before = shown(strip)
    mark = next(m for m in range_marks(strip.ws, driver.view(pane).sight) if m.which == "end")
    driver.move(pane, mark.place)
    assert driver.window.toolbox.sketch.label == "drag: up to where it is shown"
    goal = mark.place - np.array([0.0, 0.0, 0.2 * mark.way[2]])
    driver.press(pane, mark.place)
    driver.drag_to(pane, goal, start=mark.place)
    assert driver.window.toolbox.sketch.label.startswith("shown to ")
    driver.release(pane, goal)
    driver.settle()
    assert at(strip) == pytest.approx([0.0, 0.7], abs=0.02)
    low, high = driver.body.mesh.bounds[:, 2]
    assert (low, high) == pytest.approx((0.3, 1.0) if is_reversed else (0.0, 0.7), abs=0.02)
    driver.key(Qt.Key.Key_Z, CTRL)
    assert shown(strip) == before


def test_esc_takes_a_drag_back(opened) -> None:
    driver, _ = opened(column(1.0))
    strip = Strip(driver)
    mark = range_marks(strip.ws, driver.view(0).sight)[1]
    driver.press(0, mark.place)
    driver.drag_to(0, mark.foot - 0.3 * mark.way, start=mark.place)
    assert seen_range(driver.window.workspace.chosen.run) != WHOLE
    driver.key(Qt.Key.Key_Escape)
    driver.settle()
    assert shown(strip) == WHOLE


def test_places_are_typed_in_lengths_shares_and_from_the_end_for_three_runs_at_once(opened) -> None:
    driver = opened_on_all(opened, three_bars(), "Range")
    ws = driver.window.workspace
    driver.enter_value("range.start", "25 %")
    driver.enter_value("range.end", "-200 mm")
    driver.settle()
    assert {r.recipe.range for r in ws.project.runs} == {Range(Stop(0.25), Stop(0.2, "end"))}
    for run in ws.project.runs:
        assert ws.bodies.in_sight.visible[run.id].body.mesh.bounds[:, 0] == pytest.approx([0.25, 0.8])
    assert driver.window.inspector.headings["Range"].summary.text() == "25 to 80 %"
    driver.enter_value("range.start", "300")
    driver.settle()
    assert ws.project.runs[1].recipe.range.start == Stop(0.3, "start")
    driver.key(Qt.Key.Key_Z, CTRL)
    assert ws.project.runs[1].recipe.range.start == Stop(0.25)


def test_a_gap_is_typed_and_taken_back_in_the_column(opened) -> None:
    driver, _ = opened(column(1.0))
    strip = Strip(driver)
    strip.double(spot(strip, 0.5))
    driver.unfold("Range")
    driver.enter_value("range.gap0.a", "400")
    driver.enter_value("range.gap0.b", "-300")
    driver.settle()
    assert shown(strip).out == ((Stop(0.4, "start"), Stop(0.3, "end")),)
    assert volume(driver.body.mesh) == pytest.approx(0.01 * 0.7, rel=1e-9)
    driver.enter_value("range.start", "900 mm")
    driver.settle()
    assert not driver.body.has_errors and driver.body.mesh.bounds[0, 2] == pytest.approx(0.9)
    driver.enter_value("range.end", "100 mm")
    driver.settle()
    assert driver.body.has_errors and "ends before it starts" in driver.body.findings[0].message
    driver.key(Qt.Key.Key_Z, CTRL)
    driver.settle()
    assert not driver.body.has_errors


def test_a_closed_path_goes_on_through_its_first_knot(opened) -> None:
    driver, _ = opened(square_frame())
    strip = Strip(driver)
    whole = volume(driver.body.mesh)
    strip.drag(spot(strip, 1.0), spot(strip, 0.3))
    assert volume(driver.body.mesh) == pytest.approx(0.3 * whole, rel=0.02)
    strip.drag(spot(strip, 0.0), spot(strip, 0.85))
    assert at(strip) == pytest.approx([0.85, 0.3], abs=0.01) and edge_check(driver.body.mesh).closed
    assert volume(driver.body.mesh) == pytest.approx(0.45 * whole, rel=0.02)
    assert shown(strip).start != START and shown(strip).end != END


def test_the_lane_shows_what_is_shown(opened) -> None:
    driver, _ = opened(column(1.0))
    strip, moss = Strip(driver), driver.window.look.tokens.moss.lower()

    def bar(share: float) -> bool:
        image = strip.strip.grab().toImage()
        return image.pixelColor(spot(strip, share)).name() == moss

    assert [bar(s) for s in (0.1, 0.5, 0.9)] == [True, True, True]
    strip.drag(spot(strip, 1.0), spot(strip, 0.8))
    strip.double(spot(strip, 0.5))
    assert [bar(s) for s in (0.1, 0.5, 0.7, 0.9)] == [True, False, True, False]


def test_the_size_marks_stand_at_the_end_that_is_shown(opened) -> None:
    """And drag the width as at a whole run's end."""
    driver: Driver
    driver, _ = opened(column(1.0))
    strip = Strip(driver)
    driver.unfold("Range")
    driver.enter_value("range.start", "40 %")
    driver.settle()
    driver.key(Qt.Key.Key_W, SHIFT)
    driver.settle()
    marks = size_marks(strip.ws.chosen.body, driver.view(1).sight)
    z = {round(float(m.centre[2]), 6) for m in marks}
    assert marks and z <= {0.4, 1.0}
    side = marks[0]
    goal = side.centre + 1.5 * (side.place - side.centre)
    driver.drag(1, side.place, goal)
    driver.settle()
    assert driver.body.width == pytest.approx(0.15, abs=0.015)


def test_a_reversed_curve_has_the_same_size_marks(drawn: Driver) -> None:
    """The body is the same, so its marks are as far from its end."""

    def far() -> list[float]:
        return sorted(m.reach for m in size_marks(drawn.window.workspace.chosen.body, drawn.view(0).sight))

    drawn.enter_value("width", "300")
    drawn.settle()
    before = far()
    drawn.menu("path.reverse")
    drawn.settle()
    assert before and far() == pytest.approx(before, rel=1e-6)
