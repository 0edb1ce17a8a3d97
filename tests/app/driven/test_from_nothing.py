"""Whole jobs from an empty scene, with mouse and keyboard only."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from morphax.core.paths import PathKind
from morphax.core.vectors import unit
from morphax.project.ports import plug_of
from tests.app.driver import Driver

SHIFT = Qt.KeyboardModifier.ShiftModifier


def box(driver: Driver, **places: str) -> str:
    """A box added by the menu and moved by its card; its id."""
    driver.menu("host.add-box")
    for axis, text in places.items():
        driver.enter_value(f"host.at.{axis}", text)
    driver.settle()
    return driver.window.workspace.selection.hosts[0]


def test_a_sensor_lead_along_a_bench_and_into_a_bulkhead(driver: Driver) -> None:
    bench = box(driver)
    box(driver, x="600", y="0", z="300")
    driver.window.frame()
    driver.settle()
    driver.press_button(driver.window.tool_row.snaps["resting"])
    driver.key(Qt.Key.Key_U)
    driver.window.panes[0].set_view("Front")
    driver.window.panes[0].set_view("Left")
    driver.settle()
    driver.click(0, (0.4, 0.05, 0.38))
    assert len(driver.window.workspace.project.hosts[1].ports) == 1
    driver.key(Qt.Key.Key_Escape)
    driver.window.panes[0].set_view("Perspective")
    driver.window.frame()
    driver.key(Qt.Key.Key_T)
    port = driver.window.workspace.project.hosts[1].ports[0]
    for at in ((-0.13, 0.06, 0.3), (0.0, 0.05, 0.3), (0.12, 0.0, 0.3)):
        driver.click(0, at)
    end = np.array(port.centre) + (0.6, 0.0, 0.3)
    driver.move(0, end)
    driver.click(0, end)
    driver.enter()
    driver.enter_value("width", "12")
    driver.settle()
    path, body = driver.path, driver.body
    plug = plug_of(path, "end")
    assert plug is not None and plug.port == port.id
    assert np.allclose(path.knots[-1].place, end, atol=1e-9)
    lead = unit(np.subtract(path.knots[-1].place, path.knots[-2].place))
    assert np.allclose(lead, (1.0, 0.0, 0.0), atol=1e-9)
    resting = [k.place[2] for k in path.knots[:3]]
    assert all(z > 0.3 for z in resting) and not body.has_errors and driver.run.recipe.host is None
    assert bench in {h.id for h in driver.window.workspace.project.hosts}


def test_a_line_that_hangs_between_two_posts(driver: Driver) -> None:
    for x in ("-400", "400"):
        driver.menu("host.add-cylinder")
        driver.enter_value("host.at.x", x)
    driver.window.frame()
    driver.window.panes[0].set_view("Front")
    driver.window.frame()
    driver.settle()
    driver.key(Qt.Key.Key_C)
    driver.click(0, (-0.4, 0.0, 0.4))
    driver.click(0, (0.4, 0.0, 0.4))
    driver.enter()
    driver.settle()
    driver.enter_value("width", "8")
    driver.unfold("Path")
    driver.enter_value("sag", "120")
    driver.settle()
    assert driver.path.kind is PathKind.HANGING and len(driver.path.knots) == 2 and not driver.body.has_errors
    assert np.allclose(np.abs(driver.places), ((400, 0, 400), (400, 0, 400)), atol=1e-6)
    lowest = driver.window.workspace.chosen_body.path.polyline[:, 2].min()
    tops = [k.place[2] for k in driver.path.knots]
    assert min(tops) - lowest == pytest.approx(0.12, abs=2e-3)
