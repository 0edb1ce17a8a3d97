"""Sections chosen and slid in the panes, by the rings that show where they stand."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt

from morphax.app.tools.shared.rings import station_rings
from morphax.project.edits.along import place_station
from morphax.project.edits.paths import reverse_path
from morphax.project.things import ThingKind
from tests.app.driver import Driver
from tests.app.job_projects import column
from tests.app.strip_hand import Strip

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def shown(opened, project) -> Driver:
    driver, _ = opened(project)
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_A, CTRL)
    driver.key(Qt.Key.Key_W, SHIFT)
    driver.settle()
    return driver


def ring(driver: Driver, k: int) -> np.ndarray:
    """A place on the ring of a station, to the right as it is seen."""
    ws = driver.window.workspace
    sides = station_rings(ws.chosen.run, ws.chosen.body, ws.chosen.path)[ws.chosen.run.recipe.stations[k].id]
    middles = sides.mean(1)
    return middles[np.argmax(driver.view(0).sight.seen(middles)[:, 0])]


def shares(driver: Driver) -> list[float]:
    return [s.share for s in driver.window.workspace.chosen.run.recipe.stations]


@pytest.mark.parametrize("long", [0.005, 1.0, 500.0])
def test_a_click_on_a_ring_chooses_its_station_and_a_drag_slides_it(opened, long: float) -> None:
    driver = shown(opened, column(long, (0.5, "star"), (1.0, "round")))
    ws, project = driver.window.workspace, driver.window.workspace.project
    driver.move(0, ring(driver, 1))
    assert driver.window.toolbox.sketch.label == "section 2 · drag: slide it"
    driver.click(0, ring(driver, 1))
    assert ws.selection.stations == (ws.chosen.run.recipe.stations[1].id,) and ws.project is project
    driver.settle()
    assert driver.field("station.at").isVisible(), "its values stand in the column"
    start = ring(driver, 1)
    end = start + np.array([0.0, 0.0, 0.2 * long])
    driver.press(0, start)
    driver.drag_to(0, end, start=start)
    assert driver.window.toolbox.sketch.label.startswith("section at")
    driver.release(0, end)
    driver.settle()
    assert shares(driver)[1] == pytest.approx(0.7, abs=0.02) and ws.history.undo_label == "Slide the station"
    driver.key(Qt.Key.Key_Z, CTRL)
    assert shares(driver) == [0.0, 0.5, 1.0]


def test_a_reversed_runs_station_goes_where_the_pointer_goes_and_keeps_its_end(opened) -> None:
    project = column(1.0, (0.5, "star"), (1.0, "round"))
    run = project.runs[0]
    project = place_station(project, run.id, run.recipe.stations[1].id, 0.5, by="end", distance=0.5)
    driver = shown(opened, reverse_path(project, run.recipe.path))
    start = ring(driver, 1)
    driver.drag(0, start, start + np.array([0.0, 0.0, 0.2]))
    driver.settle()
    own = driver.window.workspace.chosen.run.recipe.stations[1]
    assert own.by == "end" and own.distance == pytest.approx(0.3, abs=0.02)
    assert ring(driver, 1)[2] == pytest.approx(0.7, abs=0.02)


def test_a_station_that_is_slid_away_from_its_knot_says_so(opened) -> None:
    project = column(1.0, (0.5, "star"), (1.0, "round"), knots=3)
    run = project.runs[0]
    knot = project.find("paths", run.recipe.path).knots[1].id
    driver = shown(opened, place_station(project, run.id, run.recipe.stations[1].id, 0.5, by="knot", knot=knot))
    start = ring(driver, 1)
    driver.press(0, start)
    driver.drag_to(0, start + np.array([0.0, 0.0, 0.2]), start=start)
    assert driver.window.toolbox.sketch.label.endswith("lets go of its knot")
    driver.release(0, start + np.array([0.0, 0.0, 0.2]))


def test_esc_takes_a_slide_back_and_knots_come_first(opened) -> None:
    driver = shown(opened, column(1.0, (0.5, "star"), (1.0, "round")))
    ws, project, start = driver.window.workspace, driver.window.workspace.project, ring(driver, 1)
    driver.press(0, start)
    driver.drag_to(0, start + np.array([0.0, 0.0, 0.2]), start=start)
    assert ws.unfinished.is_on
    driver.key(Qt.Key.Key_Escape)
    driver.release(0, start)
    assert ws.project is project and not ws.unfinished.is_on
    driver.click(0, np.array(ws.chosen.path.knots[0].place))
    assert ws.selection.knots and not ws.selection.stations


def test_what_is_pointed_at_on_the_strip_is_lit_in_the_panes_and_the_other_way_round(opened) -> None:
    driver = shown(opened, column(0.5, (0.5, "star"), (1.0, "round"), knots=3))
    ws, hover, strip = driver.window.workspace, driver.window.toolbox.hover, Strip(driver)
    station, knots, tokens = ws.chosen.run.recipe.stations[1].id, ws.chosen.path.knots, driver.window.look.tokens
    corner = strip.picture(1) - QPoint(12, 12)

    def ground() -> str:
        return driver.window.strip.grab().toImage().pixelColor(corner).name()

    def plum() -> int:
        picture = driver.pane(0).grab().toImage()
        pixels = (picture.pixelColor(x, y) for x in range(picture.width()) for y in range(picture.height()))
        return sum(c.name() == tokens.plum.lower() for c in pixels)

    before = plum()
    assert ground() == tokens.raised.lower() and before > 60
    driver.move(0, ring(driver, 1))
    assert hover.over(ThingKind.STATION) == station and ground() == tokens.teal_ground.lower()
    driver.move(0, np.array([0.4, 0.4, 0.1]))
    assert hover.over(ThingKind.STATION) is None and ground() == tokens.raised.lower()
    strip.hover(strip.picture(1))
    assert hover.over(ThingKind.STATION) == station and plum() < 0.8 * before
    strip.hover(QPoint(strip.x(0.5), round(strip.top("KnotLane")) + 10))
    assert hover.over(ThingKind.KNOT) == knots[1].id and hover.over(ThingKind.STATION) is None
    strip.leave()
    assert hover.over(ThingKind.KNOT) is None
    driver.move(0, np.array(knots[0].place))
    assert hover.over(ThingKind.KNOT) == knots[0].id
