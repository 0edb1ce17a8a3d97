"""What rests, rests: cables on tables and floors, drawn, made thicker and thinner, dragged, freed."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from morphax.project.lookup import path_of
from morphax.project.model.document import PointHold, RestHold
from tests.app.driven.test_freehand import stroke
from tests.app.driven.test_where_clicks_land import between, host, yard
from tests.app.driver import Driver

TABLE = host("table", "box", (1.2, 0.7, 0.6), (0.0, 0.0, 0.0))
BALL = host("ball", "ball", (0.5, 0.5, 0.5), (0.0, 0.0, 0.0))
CTRL = Qt.KeyboardModifier.ControlModifier


def lowest(driver: Driver, of: str | None = None) -> float:
    driver.settle()
    run = of or driver.run.id
    return float(driver.window.workspace.bodies[run].body.mesh.points[:, 2].min())


def on_table(opened, *, pane: int = 0, view: str | None = None) -> Driver:
    driver, _ = opened(yard(TABLE))
    if view is not None:
        driver.window.scene_views[pane].choose(view)
    driver.window.frame()
    driver.settle()
    driver.pane(pane).setFocus()
    driver.key(Qt.Key.Key_T)
    for at in ((-0.4, -0.1, 0.6), (-0.1, 0.15, 0.6), (0.2, -0.15, 0.6)):
        driver.click(pane, at)
    return driver


@pytest.mark.parametrize(("pane", "view"), [(0, None), (1, "Top")])
def test_a_cable_on_a_table_lies_on_it_at_any_width(opened, pane: int, view: str | None) -> None:
    driver = on_table(opened, pane=pane, view=view)
    driver.enter()
    assert all(isinstance(k.hold, RestHold) for k in driver.path.knots)
    for width in ("4", "60", "12"):
        driver.enter_value("width", width)
        assert -1e-6 < lowest(driver) - 0.6 < float(width) * 1e-5, width
    driver.key(Qt.Key.Key_Z, CTRL)
    assert driver.body.width == pytest.approx(0.06) and -1e-6 < lowest(driver) - 0.6 < 1e-3


def test_a_cable_that_goes_up_into_the_air_does_not_dip_into_the_table(opened) -> None:
    driver = on_table(opened)
    foot = np.array(driver.window.toolbox.draw.knots[-1])
    driver.window.toolbox.held.add(Qt.Key.Key_V)
    driver.click(0, foot + (0.0, 0.0, 0.4))
    driver.window.toolbox.held.discard(Qt.Key.Key_V)
    driver.enter()
    driver.enter_value("width", "10")
    driver.settle()
    assert -1e-6 < lowest(driver) - 0.6 < 1e-3
    kinds = [isinstance(k.hold, RestHold) for k in driver.path.knots]
    assert kinds == [True, True, True, False]


def test_a_rest_follows_its_table_and_another_section_and_is_let_go(opened) -> None:
    driver = on_table(opened)
    driver.enter()
    driver.enter_value("width", "20")
    run = driver.run.id
    driver.key(Qt.Key.Key_Escape)
    driver.press_button(driver.window.list_panel.stock.buttons["rectangle"])
    assert -1e-6 < lowest(driver) - 0.6 < 1e-4
    table = next(h for h in driver.window.workspace.project.hosts)
    driver.click(0, (0.55, -0.3, 0.6))
    assert driver.window.workspace.selection.hosts == (table.id,)
    driver.enter_value("host.at.z", "150")
    assert -1e-6 < lowest(driver, run) - 0.75 < 1e-4
    path = path_of(driver.window.workspace.project, run)
    assert all(isinstance(k.hold, RestHold) for k in path.knots)


def test_a_dragged_knot_slides_goes_over_to_another_host_and_lets_go_in_the_front_view(opened) -> None:
    driver, _ = opened(yard(TABLE, host("ball", "ball", (0.5, 0.5, 0.5), (1.2, 0.0, 0.0))))
    driver.window.frame()
    driver.settle()
    driver.key(Qt.Key.Key_T)
    for at in ((-0.4, -0.1, 0.6), (-0.1, 0.15, 0.6), (0.2, -0.15, 0.6)):
        driver.click(0, at)
    driver.enter()
    driver.enter_value("width", "20")
    driver.key(Qt.Key.Key_Escape)
    driver.settle()
    driver.drag(0, driver.path.knots[2].place, (0.4, 0.1, 0.61))
    place, hold = driver.path.knots[2].place, driver.path.knots[2].hold
    assert place[2] == pytest.approx(0.61) and place[0] > 0.3 and hold.host == TABLE.id
    driver.settle()
    top = np.array([1.27, -0.2, 0.38])
    driver.drag(0, place, top)
    hold = driver.path.knots[2].hold
    far = np.linalg.norm(np.subtract(hold.foot, (1.2, 0.0, 0.25)))
    assert hold.host == BALL.id and far == pytest.approx(0.25, abs=2e-3)
    driver.key(Qt.Key.Key_Z, CTRL)
    assert driver.path.knots[2].hold.host == TABLE.id
    next(a for a in driver.pane(1).name_button.menu().actions() if a.text() == "Front").trigger()
    driver.settle()
    driver.drag(1, driver.path.knots[2].place, np.array(driver.path.knots[2].place) + (0.0, 0.0, 0.4))
    assert driver.path.knots[2].hold is None and driver.path.knots[2].place[2] > 0.9
    assert "let go" in driver.window.help_label.text()


def test_a_stand_off_is_typed_and_put_back(opened) -> None:
    driver = on_table(opened)
    driver.enter()
    driver.enter_value("width", "20")
    driver.key(Qt.Key.Key_Escape)
    driver.settle()
    driver.click(0, driver.path.knots[1].place)
    assert driver.field("knot.stand-off").text() == "10 mm"
    driver.enter_value("knot.stand-off", "35")
    assert driver.path.knots[1].place[2] == pytest.approx(0.635)
    driver.enter_value("knot.z", "700")
    assert driver.path.knots[1].place[2] == pytest.approx(0.7) and driver.path.knots[1].hold.height == pytest.approx(
        0.1
    )


@pytest.mark.parametrize("key", [Qt.Key.Key_F, Qt.Key.Key_K])
def test_strokes_rest_and_follow_their_width(opened, key: Qt.Key) -> None:
    driver, _ = opened(yard(TABLE))
    driver.window.frame()
    driver.settle()
    driver.key(key)
    stroke(driver, 0, between(driver, 0, (-0.4, -0.2, 0.6), (0.4, 0.2, 0.6)))
    assert all(isinstance(k.hold, RestHold) for k in driver.path.knots)
    for width in ("5", "40"):
        driver.enter_value("width", width)
        assert -1e-4 < lowest(driver) - 0.6 < 1e-3, width


def test_with_resting_off_nothing_rests(opened) -> None:
    driver, _ = opened(yard(TABLE))
    driver.catch("resting")
    driver.window.frame()
    driver.settle()
    driver.key(Qt.Key.Key_T)
    for at in ((-0.4, -0.1, 0.6), (0.2, 0.1, 0.6)):
        driver.click(0, at)
    driver.enter()
    assert driver.places[:, 2] == pytest.approx([600, 600]) and not any(k.hold for k in driver.path.knots)
    driver.key(Qt.Key.Key_F)
    stroke(driver, 0, between(driver, 0, (-0.4, 0.0, 0.6), (0.4, 0.25, 0.6)))
    assert not any(k.hold for k in driver.path.knots)


def test_a_rectangle_on_the_floor_rests_with_all_its_corners(driver: Driver) -> None:
    driver.key(Qt.Key.Key_R, Qt.KeyboardModifier.ShiftModifier)
    driver.click(0, (-0.5, -0.4, 0.0))
    driver.click(0, (0.6, 0.5, 0.0))
    driver.settle()
    assert driver.path.closed and all(isinstance(k.hold, RestHold) for k in driver.path.knots)
    driver.enter_value("width", "8")
    assert -1e-6 < lowest(driver) < 1e-4
    driver.unfold("Path")
    driver.enter_value("side.first", "600")
    assert all(isinstance(k.hold, RestHold) for k in driver.path.knots)


def deepest(driver: Driver, low: object, high: object) -> float:
    """How deep a body's points lie in a box, m."""
    driver.settle()
    points = driver.window.workspace.bodies[driver.run.id].body.mesh.points
    inside = np.minimum(points - np.array(low), np.array(high) - points).min(1)
    return float(inside.max())


def test_a_cable_goes_over_an_edge_clear_of_both_faces_at_any_width(opened) -> None:
    driver, _ = opened(yard(TABLE))
    driver.window.frame()
    driver.settle()
    driver.key(Qt.Key.Key_T)
    for at in ((-0.3, -0.1, 0.6), (0.1, 0.1, 0.6), (0.45, -0.05, 0.6), (0.6, -0.1, 0.6), (0.6, -0.12, 0.4)):
        driver.click(0, at)
    driver.enter()
    edge = driver.path.knots[3].hold
    assert edge.times == pytest.approx(2.0**0.5) and np.allclose(edge.up, (0.5**0.5, 0.0, 0.5**0.5))
    for width in ("30", "6"):
        driver.enter_value("width", width)
        assert deepest(driver, (-0.6, -0.35, 0.0), (0.6, 0.35, 0.6)) < float(width) * 3e-5, width


def test_a_path_along_an_edge_stays_on_it(opened) -> None:
    driver, _ = opened(yard(TABLE))
    driver.window.frame()
    driver.settle()
    driver.key(Qt.Key.Key_T)
    driver.click(0, (0.3, -0.2, 0.6))
    driver.click(0, (-0.3, -0.35, 0.6))
    driver.click(0, (0.2, -0.35, 0.6))
    assert driver.window.toolbox.draw.knots[2][2] == pytest.approx(0.6, abs=1e-9)


def test_from_above_no_grid_lies_across_what_rests_on_the_floor_and_nothing_casts_a_shadow(driver: Driver) -> None:
    """A flat bar of 200 x 20 mm: its upper side is of one colour, though many lines of the grid run below it."""
    driver.window.scene_views[0].choose("Top")
    driver.settle()
    driver.press_button(driver.window.list_panel.stock.buttons["rectangle"])
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_S)
    driver.click(0, (-0.8, 0.0, 0.0))
    driver.click(0, (0.8, 0.0, 0.0))
    driver.enter()
    driver.enter_value("width", "200")
    driver.unfold("Section")
    driver.enter_value("section.height", "20")
    driver.settle()
    view = driver.view(0)
    image = view.picture.image

    def colours(y: float) -> np.ndarray:
        spots = view.sight.seen(np.array([[x, y, 0.02] for x in np.linspace(-0.7, 0.7, 160)]))[:, :2]
        scale = image.width() / view.pane.width()
        found = [image.pixelColor(round(p[0] * scale), round(p[1] * scale)) for p in spots]
        return np.array([[c.red(), c.green(), c.blue()] for c in found], dtype=float)

    assert np.ptp(colours(0.06), axis=0).max() <= 4.0, "one colour on the bar"
    assert np.ptp(colours(0.33), axis=0).max() > 4.0, "the grid beside it"
    floor = np.median(colours(0.33), axis=0)
    for y in (-0.25, -0.15, 0.15, 0.25):
        assert np.abs(np.median(colours(y), axis=0) - floor).max() <= 12.0, "no shadow beside it"


def test_a_knot_that_holds_on_to_a_point_slides_on_its_host(opened) -> None:
    driver, _ = opened(yard(TABLE))
    driver.window.frame()
    driver.settle()
    driver.catch("resting")
    driver.key(Qt.Key.Key_S)
    for at in ((-0.4, -0.1, 0.6), (0.0, 0.15, 0.6), (0.3, -0.15, 0.6)):
        driver.click(0, at)
    driver.enter()
    driver.key(Qt.Key.Key_Escape)
    driver.click(0, driver.path.knots[1].place)
    driver.key(Qt.Key.Key_U, Qt.KeyboardModifier.ShiftModifier)
    assert isinstance(driver.path.knots[1].hold, PointHold)
    for to in ((0.08, 0.09, 0.6), (-0.2, -0.05, 0.6)):  # nearer than what lets go, and far
        driver.drag(0, driver.path.knots[1].place, to)
        knot = driver.path.knots[1]
        assert isinstance(knot.hold, PointHold) and knot.hold.host == TABLE.id
        assert np.allclose(knot.place, to, atol=6e-3) and knot.place[2] == pytest.approx(0.6)
    driver.click(0, (0.5, -0.35, 0.6))
    driver.enter_value("host.at.z", "150")
    assert driver.window.workspace.project.paths[0].knots[1].place[2] == pytest.approx(0.75)


def draw_on(driver, letter: Qt.Key, places) -> None:
    """Draws a run with the tool of a letter, by clicks on places, and puts the tool down."""
    driver.window.frame()
    driver.settle()
    driver.pane(0).setFocus()
    driver.key(letter)
    for at in places:
        driver.click(0, at)
    driver.enter()
    driver.key(Qt.Key.Key_Escape)


def test_a_straight_cable_from_a_table_to_the_floor_is_said_and_goes_over_its_edge(opened) -> None:
    driver, _ = opened(yard(TABLE))
    draw_on(driver, Qt.Key.Key_S, ((0.1, 0.0, 0.6), (0.2, -0.8, 0.0)))
    driver.enter_value("width", "40")
    driver.settle()
    assert [f.code for f in driver.body.findings] == ["enters"]
    (button,) = driver.window.inspector.checks.mend_buttons
    assert button.text() == "Go over"
    driver.press_button(button)
    driver.settle()
    assert driver.body.findings == () and len(driver.path.knots) == 4
    assert all(isinstance(k.hold, RestHold) for k in driver.path.knots)
    assert driver.places[1:3, 1] == pytest.approx((-370.0, -370.0), abs=0.1), "20 mm off the table's side"
    driver.key(Qt.Key.Key_Z, CTRL)
    driver.settle()
    assert [f.code for f in driver.body.findings] == ["enters"]


def test_a_cable_that_hangs_below_the_floor_is_made_tighter_by_its_mend(opened) -> None:
    driver, _ = opened(yard(TABLE))
    draw_on(driver, Qt.Key.Key_C, ((0.1, -0.348, 0.6), (0.2, -0.9, 0.0)))
    driver.enter_value("width", "18")
    driver.unfold("Path")
    driver.enter_value("slack", "45 %")
    driver.settle()
    assert [f.code for f in driver.body.findings] == ["enters"] and driver.body.mesh.points[:, 2].min() < -0.02
    (button,) = driver.window.inspector.checks.mend_buttons
    assert button.text() == "Tighten until clear"
    driver.press_button(button)
    driver.settle()
    assert driver.body.findings == () and -0.001 < driver.body.mesh.points[:, 2].min() < 0.001
    assert 0.0 < driver.path.slack < 0.45
    driver.key(Qt.Key.Key_Z, CTRL)
    driver.settle()
    assert driver.path.slack == 0.45 and [f.code for f in driver.body.findings] == ["enters"]


def test_a_cable_that_goes_up_from_a_tables_edge_is_not_bent_down_over_it(opened) -> None:
    """A bend of half its width stood there, with a finding: the edge was taken for one that the cable goes down."""
    driver = on_table(opened)
    driver.move(0, (0.6, 0.0, 0.6))
    driver.click(0, (0.6, 0.0, 0.6))
    up = np.array(driver.window.toolbox.draw.knots[-1])
    driver.window.toolbox.held.add(Qt.Key.Key_V)
    driver.click(0, up + (0.0, 0.0, 0.45))
    driver.window.toolbox.held.discard(Qt.Key.Key_V)
    driver.enter()
    driver.enter_value("width", "30")
    driver.settle()
    edge = driver.path.knots[3]
    assert edge.hold.up == (0.0, 0.0, 1.0) and edge.hold.times == 1.0 and edge.place[2] == pytest.approx(0.615)
    assert not driver.body.findings and -1e-6 < lowest(driver) - 0.6 < 1e-3


def test_a_copy_that_goes_on_resting_is_not_said_to_hold_on_to_nothing(driver: Driver) -> None:
    draw_on(driver, Qt.Key.Key_S, ((-0.3, 0.0, 0.0), (0.3, 0.0, 0.0)))
    assert all(isinstance(k.hold, RestHold) for k in driver.path.knots)
    driver.key(Qt.Key.Key_D, CTRL)
    assert (
        all(isinstance(k.hold, RestHold) for k in driver.path.knots) and len(driver.window.workspace.project.runs) == 2
    )
    assert "copied" not in driver.window.help_label.text()
