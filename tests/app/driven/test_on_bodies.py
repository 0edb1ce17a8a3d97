"""Cables over cables, and ready-made paths on tables: they touch what they were drawn on, whatever is typed later."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from morphax.core.path.resolved import nearest_along, resolve_path
from morphax.project.lookup import path_of
from morphax.project.model.document import RestHold
from morphax.project.model.paths import path_shape
from tests.app.driven.test_ready_made import take
from tests.app.driven.test_what_rests import TABLE, lowest
from tests.app.driven.test_where_clicks_land import yard
from tests.app.driver import Driver

CTRL = Qt.KeyboardModifier.ControlModifier


def a_hose(driver: Driver) -> str:
    """A thick straight hose along the middle of a table; its run."""
    driver.window.scene_views[0].choose("Perspective")
    driver.window.frame()
    driver.settle()
    driver.key(Qt.Key.Key_S)
    driver.click(0, (-0.45, 0.0, 0.6))
    driver.click(0, (0.4, 0.0, 0.6))
    driver.enter()
    driver.enter_value("width", "100")
    driver.key(Qt.Key.Key_Escape)
    driver.key(Qt.Key.Key_Escape)
    driver.settle()
    return driver.window.workspace.project.runs[0].id


def gap(driver: Driver, below: str, over: str, knot: int) -> float:
    """How far a knot of one round body is from another round one, less its own radius, m."""
    driver.settle()
    ws = driver.window.workspace
    spine = resolve_path(path_shape(path_of(ws.project, below)))
    far = nearest_along(spine, np.array(path_of(ws.project, over).knots[knot].place))[1]
    return far - 0.5 * (ws.bodies[below].body.width + ws.bodies[over].body.width)


def across(driver: Driver) -> str:
    """A cable from the table up on to the hose and back; its run."""
    driver.key(Qt.Key.Key_T)
    for at in ((-0.1, -0.25, 0.6), (0.0, -0.03, 0.69), (0.2, -0.25, 0.6)):
        driver.click(0, at)
    driver.enter()
    driver.enter_value("width", "20")
    driver.settle()
    return driver.run.id


@pytest.mark.parametrize("view", ["Perspective", "Top"])
def test_a_cable_over_a_hose_touches_it_whatever_the_widths(opened, view: str) -> None:
    driver, _ = opened(yard(TABLE))
    hose = a_hose(driver)
    driver.window.scene_views[0].choose(view)
    driver.settle()
    cable = across(driver)
    holds = [k.hold for k in driver.path.knots]
    assert [getattr(h, "run", None) for h in holds] == [None, hose, None]
    assert holds[0].host == holds[2].host == TABLE.id
    for width in ("4", "50", "20"):
        driver.enter_value("width", width)
        assert gap(driver, hose, cable, 1) == pytest.approx(0.0, abs=2e-6), width
    before = driver.path.knots[1].place
    driver.key(Qt.Key.Key_Escape)
    driver.click(0, (-0.35, -0.03, 0.69))
    assert driver.run.id == hose
    driver.enter_value("width", "160")
    assert gap(driver, hose, cable, 1) == pytest.approx(0.0, abs=2e-6)
    driver.key(Qt.Key.Key_Z, CTRL)
    driver.settle()
    assert path_of(driver.window.workspace.project, cable).knots[1].place == before


def test_the_words_name_the_hose_and_its_deletion_says_who_lay_on_it(opened) -> None:
    driver, _ = opened(yard(TABLE))
    hose = a_hose(driver)
    across(driver)
    driver.key(Qt.Key.Key_Escape)
    driver.press(0, driver.path.knots[1].place)
    driver.drag_to(0, (0.1, -0.045, 0.66))
    name = next(r.show.name for r in driver.window.workspace.project.runs if r.id == hose)
    assert driver.window.toolbox.sketch.label == f"rests on {name}; farther away it lets go"
    driver.release(0, (0.1, -0.045, 0.66))
    assert driver.path.knots[1].hold.run == hose and driver.path.knots[1].place[0] > 0.05
    driver.key(Qt.Key.Key_Escape)
    driver.click(0, (-0.35, -0.03, 0.69))
    driver.key(Qt.Key.Key_Delete)
    assert f"1 knot held on to {name}" in driver.window.help_label.text()


@pytest.mark.parametrize("kind", ["circle", "helix", "spiral"])
def test_a_ready_made_path_on_a_table_touches_it_at_any_width(opened, kind: str) -> None:
    driver, _ = opened(yard(TABLE))
    driver.window.frame()
    driver.settle()
    take(driver, kind)
    driver.click(0, (0.0, 0.0, 0.6))
    driver.click(0, (0.2, 0.0, 0.6))
    assert isinstance(driver.path.made.rest, RestHold) and driver.path.made.rest.host == TABLE.id
    for width in ("4", "60", "12"):
        driver.enter_value("width", width)
        assert abs(lowest(driver) - 0.6) < float(width) * 1e-5, width
    driver.unfold("Path")
    driver.enter_value("made.stand-off", "50")
    assert lowest(driver) == pytest.approx(0.644, abs=2e-4)
    driver.key(Qt.Key.Key_Z, CTRL)
    assert abs(lowest(driver) - 0.6) < 1e-4
