"""First knots land on the work plane: the ground, a face, across a view, through three knots."""

import numpy as np
from PySide6.QtCore import Qt

from tests.app.driver import Driver

SHIFT = Qt.KeyboardModifier.ShiftModifier


def boxed(driver: Driver) -> None:
    driver.menu("host.add-box")
    driver.settle()
    driver.key(Qt.Key.Key_Escape)
    driver.window.frame()
    driver.settle()


def test_the_face_where_the_menu_was_opened_becomes_the_work_plane(driver: Driver) -> None:
    boxed(driver)
    menu = driver.window.menus.context(driver.view(0), driver.spot(0, (0.05, 0.02, 0.3)))
    next(a for a in menu.actions() if a.text() == "Work plane: this face").trigger()
    menu.close()
    assert "in the plane of Box" in driver.window.help_label.text()
    driver.key(Qt.Key.Key_Escape)
    driver.window.panes[0].setFocus()
    driver.key(Qt.Key.Key_S)
    beside = (0.3, 0.1, 0.3)
    driver.move(0, beside)
    assert np.allclose(driver.window.toolbox.sketch.next.place[2], 0.3)
    driver.menu("plane.ground")
    driver.move(0, (0.3, 0.1, 0.0))
    assert driver.window.toolbox.sketch.next.place[2] == 0.0


def test_a_flat_view_meets_the_work_plane_or_lies_across_its_origin(drawn: Driver) -> None:
    ws = drawn.window.workspace
    drawn.click(0, drawn.path.knots[1].place)
    drawn.enter_value("knot.z", "700")
    drawn.enter_value("knot.y", "250")
    drawn.window.scene_views[0].choose("Front")
    drawn.pane(0).setFocus()
    drawn.settle()
    drawn.menu("plane.view")
    assert np.allclose(ws.bench.work_plane.origin, drawn.path.knots[1].place)
    drawn.key(Qt.Key.Key_Escape)
    drawn.key(Qt.Key.Key_S)
    drawn.move(0, (60, 60))
    assert drawn.window.toolbox.sketch.next.place[1] == np.float64(0.25)
    drawn.key(Qt.Key.Key_Escape)
    drawn.window.scene_views[0].choose("Top")
    drawn.settle()
    drawn.key(Qt.Key.Key_S)
    drawn.move(0, (60, 60))
    assert abs(drawn.window.toolbox.sketch.next.place[2] - 0.7) < 1e-9, "edge-on: through its origin"


def test_three_knots_span_the_work_plane(drawn: Driver) -> None:
    ws = drawn.window.workspace
    drawn.click(0, drawn.path.knots[1].place)
    drawn.enter_value("knot.z", "400")
    p = [k.place for k in drawn.path.knots]
    drawn.click(0, p[0])
    for k in (1, 2):
        drawn.click(0, p[k], SHIFT)
    drawn.menu("plane.knots")
    n = ws.bench.work_plane.normal
    assert abs(np.array(p[1]) @ n - np.array(p[0]) @ n) < 1e-9 and abs((np.array(p[2]) - p[0]) @ n) < 1e-9
    drawn.key(Qt.Key.Key_PageDown)
    entry = drawn.window.menus.by_id["plane.knots"]
    entry.showStatusText(drawn.window)
    assert not entry.isEnabled() and "Choose three knots" in drawn.window.help_label.text()
