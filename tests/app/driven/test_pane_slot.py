"""A pane is a slot: a flat board that knows no camera takes the second one, and tools draw on it."""

from dataclasses import dataclass

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QWheelEvent
from PySide6.QtWidgets import QMenu

from morphax.app.session.camera import Basis, Ray
from morphax.app.session.pointer import Pointer
from morphax.app.tools.routing import PointerRoute
from tests.app.driver import Driver

PAPER = QColor(12, 200, 90)


@dataclass(frozen=True)
class SheetSight:
    """A sheet across y at ``depth`` m, 1 mm a pixel, its lower left corner at the origin."""

    size: tuple[int, int]
    depth: float = 0.3

    name = "Sheet"
    is_flat = True
    grid_scale = 0.001

    @property
    def target(self) -> tuple[float, float, float]:
        return (0.0005 * self.size[0], self.depth, 0.0005 * self.size[1])

    @property
    def height(self) -> float:
        return 0.001 * self.size[1]

    @property
    def basis(self) -> Basis:
        x, y, z = np.eye(3)
        return Basis(x, z, y, np.array(self.target) - 10.0 * y)

    def seen(self, points: np.ndarray) -> np.ndarray:
        p = np.atleast_2d(points)
        return np.column_stack([1000.0 * p[:, 0], self.size[1] - 1000.0 * p[:, 2], p[:, 1] - self.depth + 10.0])

    def line(self, pixel: tuple[float, float]) -> Ray:
        origin = np.array([0.001 * pixel[0], self.depth - 10.0, 0.001 * (self.size[1] - pixel[1])])
        return Ray(origin, np.array([0.0, 1.0, 0.0]))

    def scale_at(self, place: np.ndarray) -> float:
        return 0.001

    def way_to(self, place: np.ndarray) -> np.ndarray:
        return np.array([0.0, 1.0, 0.0])


class Sheet:
    """A flat view with a colour of its own that hands the pointer to the armed tool and writes down the rest."""

    title = "Sheet"
    choices = ("wide", "narrow")
    name_at = (8, 8)

    def __init__(self, driver: Driver) -> None:
        self.driver, self.input = driver, self
        self.heard: list[str] = []
        self.is_settled = True
        self.route = PointerRoute(driver.window.toolbox)

    def choose(self, choice: str) -> None:
        self.heard.append(choice)

    def refresh(self) -> None:
        self.heard.append("refresh")

    def paint(self, painter: QPainter) -> None:
        painter.fillRect(self.driver.pane(1).rect(), PAPER)

    def menu_at(self, at: QPoint) -> QMenu | None:
        self.heard.append("menu")
        return None

    def at(self, p: QPointF) -> Pointer:
        pane = self.driver.pane(1)
        return Pointer(SheetSight((pane.width(), pane.height())), (p.x(), p.y()), 0.01)

    def press(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.route.press(self.at(event.position()))

    def move(self, event: QMouseEvent) -> None:
        self.route.hover(self.at(event.position()))

    def release(self, event: QMouseEvent) -> None:
        self.heard.append("release")

    def double_press(self, event: QMouseEvent) -> None:
        self.heard.append("double")

    def wheel(self, event: QWheelEvent) -> None:
        self.heard.append("wheel")

    def leave(self) -> None:
        self.heard.append("leave")

    def key(self, event: QKeyEvent) -> bool:
        if event.key() == Qt.Key.Key_Q:
            self.heard.append("Q")
        return event.key() == Qt.Key.Key_Q

    def takes(self, data: QMimeData) -> bool:
        return False

    def drag_over(self, at: QPointF) -> None: ...
    def drop(self, data: QMimeData, at: QPointF) -> None: ...


@pytest.fixture
def sheet(driver: Driver) -> Sheet:
    out = Sheet(driver)
    driver.window.pair.put_second(out)
    return out


def test_a_board_paints_the_pane_and_the_scene_comes_back(driver: Driver, sheet: Sheet) -> None:
    pane = driver.pane(1)
    assert pane.name_button.text() == "Sheet" and "refresh" in sheet.heard
    middle = pane.rect().center()
    assert pane.grab().toImage().pixelColor(middle) == PAPER
    next(a for a in pane.name_button.menu().actions() if a.text() == "narrow").trigger()
    assert sheet.heard[-1] == "narrow"
    driver.window.scene_views[0].choose("Left")  # the scene goes on beside it, without a picture for it
    driver.settle()
    assert pane.grab().toImage().pixelColor(middle) == PAPER and pane.name_button.text() == "Sheet"
    driver.window.pair.put_second(None)
    driver.settle()
    assert driver.view(1).is_shown and pane.grab().toImage().pixelColor(middle) != PAPER
    assert pane.name_button.text().startswith(driver.view(1).camera.view)


def test_pointer_keys_and_menu_of_a_board_are_its_own(driver: Driver, sheet: Sheet) -> None:
    pane = driver.pane(1)
    pane.setFocus()
    driver.key(Qt.Key.Key_Q)
    assert "Q" in sheet.heard
    at = pane.rect().center()
    driver.press(1, (at.x(), at.y()), button=Qt.MouseButton.RightButton)
    driver.release(1, (at.x(), at.y()), button=Qt.MouseButton.RightButton)
    assert sheet.heard[-2:] == ["release", "menu"]
    assert driver.window.active_view() is driver.view(0), "commands of the scene speak of the scene's view"


def test_a_tool_draws_on_a_board(driver: Driver, sheet: Sheet) -> None:
    driver.key(Qt.Key.Key_S)
    height = driver.pane(1).height()
    for x, y in ((50, 100), (150, 100), (150, 180)):
        driver.click(1, (x, height - y))
    driver.key(Qt.Key.Key_Return)
    assert np.allclose(driver.places[:, 0], [50, 150, 150]) and np.allclose(driver.places[:, 2], [100, 100, 180])
    assert len(set(driver.places[:, 1])) == 1, "in a plane across the sheet"
    driver.key(Qt.Key.Key_Escape)
    driver.click(1, (150, height - 100))
    assert driver.window.workspace.selection.knots == (driver.path.knots[1].id,), "and Edit picks there"


def test_a_board_fills_the_window_and_comes_back(driver: Driver, sheet: Sheet) -> None:
    driver.pane(1).setFocus()
    driver.window.pair.fill_window()
    assert driver.pane(1).isVisible() and not driver.pane(0).isVisible() and not driver.window.strip.isVisible()
    driver.window.pair.fill_window()
    assert driver.pane(0).isVisible() and driver.window.strip.isVisible() and driver.pane(1).view is sheet
