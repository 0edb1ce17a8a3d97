"""Drives the section board: places in mm beside the anchor."""

import numpy as np
import trimesh
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from morphax.app.views.list.group_rows import Rows
from morphax.core.mesh.mesh import point_triangles
from tests.app.driver import LEFT, Driver


class Hand:
    """The driver over the board: places in mm beside the anchor, as the rulers show them."""

    def __init__(self, driver: Driver) -> None:
        self.driver, self.board = driver, driver.window.workspace.board
        self.view = driver.window.pair.board_view

    def at(self, x: float, y: float) -> tuple[float, float]:
        sight = self.board.sight
        px, py = sight.pixels(np.array(sight.own((0.001 * x, 0.001 * y))))
        return float(px), float(py)

    def click(self, x: float, y: float, keys=Qt.KeyboardModifier.NoModifier, *, double: bool = False) -> None:
        self.driver.click(1, self.at(x, y), keys, double=double)

    def drag(self, a: tuple[float, float], b: tuple[float, float], keys=Qt.KeyboardModifier.NoModifier) -> None:
        self.driver.drag(1, self.at(*a), self.at(*b), keys)

    @property
    def points(self) -> np.ndarray:
        """Points of the first outline, mm beside the anchor."""
        own = [self.board.sight.shown(s.start) for s in self.board.loops[0].segments]
        return np.round(1000.0 * np.array(own), 6) + 0.0

    def arm(self, kind: str) -> None:
        self.driver.press_button(self.view.buttons[kind])


def double_click_row(rows: Rows, row: int, x: int) -> None:
    """A double click on a row, so many pixels from its left."""
    box = rows.visualItemRect(rows.item(row))
    at = QPoint(box.left() + x, box.center().y())
    QTest.mouseClick(rows.viewport(), LEFT, pos=at)
    QTest.mouseDClick(rows.viewport(), LEFT, pos=at)


def volume_of(driver: Driver) -> float:
    """By trimesh, of the triangles that are shown."""
    mesh = driver.body.mesh
    made = trimesh.Trimesh(mesh.points, point_triangles(mesh), process=True)
    assert made.is_watertight and made.is_winding_consistent
    return float(made.volume)
