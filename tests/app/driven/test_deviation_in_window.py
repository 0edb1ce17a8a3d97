"""The drawing of where bodies are farthest off their true surfaces: measured, coloured, said, and gone again."""

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor

from morphax.app.views.panes.deviation_marks import said, tints_of
from morphax.app.widgets.theme import LIGHT, rgb
from morphax.build.deviation import Deviation
from tests.app.driver import Driver
from tests.app.job_projects import three_bars

CTRL = Qt.KeyboardModifier.ControlModifier


def test_it_is_measured_shown_kept_up_and_let_go(opened) -> None:
    driver, _ = opened(three_bars())
    ws, view = driver.window.workspace, driver.view(0)
    plain = view.picture.image
    driver.settle()
    driver.menu("view.deviation")
    driver.settle()
    assert driver.window.tool_row.shown_as.text() == "shown as: deviation"
    assert set(ws.deviations.found) == {r.id for r in ws.project.runs}, "nothing is chosen: all are measured"
    items = view.scene.items(driver.window.look.tokens)
    assert sum(i.tints is not None for i in items) == 3
    assert all(i.tints is not None and len(i.tints) == i.mesh.face_count for i in items)
    first = ws.deviations.largest
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_A, CTRL)
    driver.settle()
    driver.enter_value("sides", "8")
    driver.settle()
    wanted = 0.05 * (1.0 - np.cos(np.pi / 8))
    assert ws.deviations.largest > first and abs(ws.deviations.largest - wanted) < 0.15 * wanted
    driver.menu("edit.undo")
    driver.settle()
    assert abs(ws.deviations.largest - first) < 1e-9 and plain is not view.picture.image
    driver.menu("view.deviation")
    driver.settle()
    assert not ws.deviations.found and driver.window.tool_row.shown_as.text() == "shown as: shaded"
    assert all(i.tints is None for i in view.scene.items(driver.window.look.tokens))


def test_a_deviation_is_said_in_three_digits_in_any_unit() -> None:
    wanted = {"mm": "0.0123 mm", "m": "0.0000123 m", "in": "0.000484 in"}
    assert {unit: said(1.23e-5, unit) for unit in wanted} == wanted
    assert (said(0.0, "ft"), said(512.3, "m"), said(0.0457, "mm")) == ("0 ft", "512 m", "45.7 mm")


def test_less_of_nothing_smooth_leaves_the_look(opened) -> None:
    driver, _ = opened(three_bars())
    driver.menu("view.deviation")
    driver.menu("view.plainer")
    assert driver.window.look.mode == "deviation"


def test_the_picture_has_its_colours(opened) -> None:
    driver, _ = opened(three_bars())
    driver.settle()
    before = picture(driver)
    driver.menu("view.deviation")
    driver.settle()
    after = picture(driver)
    assert (np.abs(after - before).max(-1) > 30).mean() > 0.01
    scale = driver.pane(0).grab().toImage()
    low = scale.height() - round(18 * scale.devicePixelRatio())
    row = [QColor(scale.pixel(round((84 + k) * scale.devicePixelRatio()), low)) for k in (10, 60, 110)]
    light = [c.lightness() for c in row]
    assert light[0] > light[1] > light[2] and abs(row[2].hue() - QColor(LIGHT.plum).hue()) < 12, "the scale is painted"


def picture(driver: Driver) -> np.ndarray:
    """What the first view's picture shows, without what is painted over it."""
    image = driver.view(0).picture.image
    assert image is not None
    image = image.convertToFormat(image.Format.Format_RGB888)
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return rows[:, : 3 * image.width()].reshape(image.height(), image.width(), 3).astype(int)


def test_faces_go_from_plain_to_the_colour_of_the_largest() -> None:
    found = Deviation(np.array([0.0, 0.5, 1.0]), 1.0, np.zeros(3), np.zeros(3))
    tints = tints_of(found, 1.0, LIGHT)
    low, high = (np.round(255.0 * np.array(rgb(c))) for c in (LIGHT.raised, LIGHT.plum))
    assert (tints[0] == low).all() and (tints[2] == high).all()
    assert (np.abs(tints[1] - 0.5 * (low + high)) <= 1.0).all()
    assert (tints_of(found, 4.0, LIGHT)[2] != high).any(), "of all that are shown"
