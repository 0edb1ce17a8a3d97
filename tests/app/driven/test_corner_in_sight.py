"""A corner is looked at across its bisector, with its turn and how it is cut, from the strip and from the menu."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QLabel

from morphax.app.session.camera import Camera, basis
from morphax.project.edits.knots import set_radius
from morphax.project.things import Selection
from tests.app.driver import Driver
from tests.app.job_projects import square_frame, three_bars
from tests.app.strip_hand import Strip


def double_on_knot(driver: Driver, strip: Strip, k: int) -> str:
    knot = driver.path.knots[k]
    at = float(strip.strip.ruler.x_of(driver.window.workspace.chosen.body.knot_at[k]))
    strip.double(QPoint(round(at), round(strip.top("KnotLane")) + 12))
    driver.settle()
    return knot.id


def test_a_double_click_on_the_strips_corner_frames_it(opened) -> None:
    driver, _ = opened(square_frame())
    strip, ws = Strip(driver), driver.window.workspace
    count = len(driver.path.knots)
    double_on_knot(driver, strip, 1)
    assert len(driver.path.knots) == count, "no knot is put in there"
    place = np.array(driver.path.knots[1].place)
    view = driver.view(0)
    seen = view.sight.seen(place[None])[0]
    assert seen[:2] == pytest.approx([view.sight.size[0] / 2, view.sight.size[1] / 2], abs=1.5), "in the middle"
    legs = [np.array(driver.path.knots[k].place) - place for k in (0, 2)]
    assert all(abs(basis(view.camera).forward @ leg) < 1e-9 for leg in legs), "both legs lie across the view"
    assert ws.remark.words == "turn 90° · mitre 45°"
    line = ws.remark.end - ws.remark.start
    assert abs(line @ legs[0]) == pytest.approx(abs(line @ legs[1])), "along the bisector"
    driver.unfold("Corners and ends")
    driver.pick("corner", "bevel")
    assert ws.remark is None, "it was said of what was there"
    double_on_knot(driver, strip, 1)
    assert ws.remark.words == "turn 90° · bevel"


def test_turned_rounded_and_of_the_menu(opened) -> None:
    project = square_frame()
    path = project.paths[0].id
    project = set_radius(project, path, [project.paths[0].knots[2].id], 0.05)
    driver, _ = opened(project)
    strip, ws = Strip(driver), driver.window.workspace
    double_on_knot(driver, strip, 2)
    assert ws.remark.words == "turn 90° · mitre 45°"
    strip.click(QPoint(strip.x(0.25), round(strip.top("KnotLane")) + 12))
    driver.menu("view.corner")
    assert ws.remark is not None
    ws.select(Selection.of(ws.selection.runs))
    assert not driver.window.menus.by_id["view.corner"].isEnabled()


def test_between_corners_a_double_click_still_puts_a_knot_in(opened) -> None:
    driver, _ = opened(square_frame())
    strip = Strip(driver)
    count = len(driver.path.knots)
    strip.double(QPoint(strip.x(0.1), round(strip.top("KnotLane")) + 12))
    assert len(driver.path.knots) == count + 1


def test_frames_that_differ_at_a_corner_are_said_before_the_click_that_makes_it(opened) -> None:
    driver, _ = opened(three_bars())
    checks = driver.window.inspector.checks
    driver.press_button(driver.window.list_panel.stock.buttons["skirting"])
    driver.view(0).set_camera(Camera("Top", target=(0.5, 2.0, 0.0), height=4.0))
    driver.settle()
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_S)
    for spot in ((0, 2, 0), (1, 2, 0), (1, 3, 0)):
        driver.click(0, spot)
    assert not checks.isVisible()
    driver.view(0).set_camera(Camera("Front", target=(1.0, 3.0, 0.5), height=4.0))
    driver.settle()
    driver.move(0, (1.5, 3, 1.0))  # turns and climbs
    driver.settle()
    words = [w.text() for w in checks.findChildren(QLabel)]
    assert checks.isVisible() and any("degrees apart in roll; each takes half of it" in w for w in words)
    driver.key(Qt.Key.Key_Escape)
    driver.settle()
    assert len(driver.window.workspace.project.runs) == 3
