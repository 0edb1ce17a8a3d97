"""Picture guides behind flat views, and helper lines whose edges become paths."""

from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from morphax.core.path.paths import PathKind
from tests.app.driver import Driver
from tests.app.job_projects import unreadable_picture

CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def elevation(tmp_path: Path) -> Path:
    """A picture of 400 x 200, red on its left half and blue on its right."""
    pixels = np.zeros((200, 400, 3), dtype=np.uint8)
    pixels[:, :200, 0] = pixels[:, 200:, 2] = 255
    file = tmp_path / "elevation.png"
    Image.fromarray(pixels).save(file)
    return file


def look_from(driver: Driver, pane: int, view: str) -> None:
    next(a for a in driver.pane(pane).name_button.menu().actions() if a.text() == view).trigger()
    driver.settle()


def drop(driver: Driver, file: Path) -> None:
    """A file dropped on the window."""
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(file))])
    copy, left, none = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    QApplication.sendEvent(driver.window, QDragEnterEvent(QPoint(300, 300), copy, data, left, none))
    QApplication.sendEvent(driver.window, QDropEvent(QPointF(300, 300), copy, data, left, none))
    driver.settle()


def colour_at(driver: Driver, pane: int, at: tuple[float, float, float]) -> np.ndarray:
    """Red, green and blue of a pane's pixel."""
    spot = driver.spot(pane, at)
    image = driver.pane(pane).grab().toImage()
    c = image.pixelColor(spot.x(), spot.y())
    return np.array([c.red(), c.green(), c.blue()])


def test_a_dropped_picture_lies_behind_its_view_only(driver: Driver, elevation: Path) -> None:
    look_from(driver, 1, "Front")
    drop(driver, elevation)
    host = driver.window.workspace.project.hosts[0]
    assert host.picture is not None and host.picture.view == "Front" and host.picture.pixels == (400, 200)
    assert driver.window.workspace.selection.hosts == (host.id,)
    x, _, z = host.place.at
    quarter = 0.2 * host.picture.width
    left, right = ((x + s * quarter, 0.0, z + 0.3 * host.picture.height) for s in (-1.0, 1.0))
    assert colour_at(driver, 1, left)[0] > colour_at(driver, 1, left)[2] + 80
    assert colour_at(driver, 1, right)[2] > colour_at(driver, 1, right)[0] + 80
    look_from(driver, 1, "Right")
    assert abs(int(colour_at(driver, 1, (0.0, 0.0, z))[0]) - int(colour_at(driver, 1, (0.0, 0.0, z))[2])) < 60
    look_from(driver, 1, "Front")
    driver.enter_value("picture.opacity", "0")
    driver.settle()
    assert colour_at(driver, 1, left)[0] < colour_at(driver, 1, left)[2] + 40
    driver.key(Qt.Key.Key_Z, CTRL)
    driver.key(Qt.Key.Key_Z, CTRL)
    assert not driver.window.workspace.project.hosts and not driver.window.workspace.project.assets


def test_a_picture_is_scaled_by_two_places_and_a_typed_distance(driver: Driver, elevation: Path) -> None:
    look_from(driver, 1, "Front")
    drop(driver, elevation)
    driver.press_button(driver.window.inspector.host_card.by_two)
    assert "first of two places" in driver.window.help_label.text()
    host = driver.window.workspace.project.hosts[0]
    x, _, z = host.place.at
    driver.click(1, (x - 0.25 * host.picture.width, 0.0, z))
    driver.click(1, (x + 0.25 * host.picture.width, 0.0, z))
    driver.type("1.8 m")
    driver.enter()
    driver.settle()
    scaled = driver.window.workspace.project.hosts[0]
    assert scaled.picture.width == pytest.approx(3.6, rel=0.02)
    assert not driver.window.toolbox.is_drawing and "apart now" in driver.window.help_label.text()
    driver.key(Qt.Key.Key_Escape)
    driver.choose("picture.view", "Back")
    assert driver.window.workspace.project.hosts[0].picture.view == "Back"


def test_a_path_is_drawn_over_a_picture_not_on_it(driver: Driver, elevation: Path) -> None:
    look_from(driver, 1, "Front")
    drop(driver, elevation)
    x, _, z = driver.window.workspace.project.hosts[0].place.at
    driver.key(Qt.Key.Key_S)
    driver.click(1, (x - 0.2, 0.0, z))
    driver.click(1, (x + 0.2, 0.0, z))
    driver.enter()
    assert np.allclose(driver.places[:, 1], 0.0) and driver.run.recipe.host is None


def test_what_is_no_picture_is_refused_in_a_sentence(driver: Driver, tmp_path: Path) -> None:
    wrong = tmp_path / "wrong.png"
    wrong.write_bytes(b"\x89PNG\r\n\x1a\nand then nothing of it")
    drop(driver, wrong)
    assert "is not a picture that can be read" in driver.window.help_label.text()
    assert not driver.window.workspace.project.hosts
    drop(driver, tmp_path / "gone.png")
    assert "gone.png could not be read" in driver.window.help_label.text()


def test_edges_of_a_helper_rectangle_become_a_path_that_follows_it(driver: Driver) -> None:
    look_from(driver, 1, "Top")
    driver.menu("guide.rectangle")
    driver.click(1, (-0.3, -0.2, 0.0))
    driver.click(1, (0.3, 0.2, 0.0))
    driver.settle()
    host = driver.window.workspace.project.hosts[0]
    assert host.helper is not None and host.helper.closed and not driver.window.workspace.project.runs
    driver.key(Qt.Key.Key_E)
    driver.click(1, (0.1, -0.2, 0.0))
    driver.click(1, (0.3, 0.05, 0.0))
    driver.enter()
    driver.settle()
    assert driver.path.kind is PathKind.STRAIGHT and len(driver.path.knots) == 3
    assert np.allclose(sorted(map(tuple, driver.places)), ((-300, -200, 0), (300, -200, 0), (300, 200, 0)))
    run = driver.run.id
    driver.key(Qt.Key.Key_Escape)
    rows = driver.window.list_panel.hosts
    QTest.mouseClick(rows.viewport(), Qt.MouseButton.LeftButton, pos=rows.visualItemRect(rows.item(0)).center())
    assert driver.window.workspace.selection.hosts == (host.id,)
    driver.enter_value("host.at.z", "500")
    driver.settle()
    assert np.allclose(driver.window.workspace.bodies[run].path.shape.knots[:, 2], 0.5)


def test_a_helper_line_catches_ends_and_middles(driver: Driver) -> None:
    look_from(driver, 1, "Top")
    driver.menu("guide.line")
    driver.click(1, (-0.2, 0.0, 0.0))
    driver.move(1, (0.2, 0.0, 0.0))
    driver.type("333")
    driver.enter()
    driver.enter()
    host = driver.window.workspace.project.hosts[0]
    assert np.allclose(np.diff(host.helper.places, axis=0), (0.333, 0.0, 0.0))
    driver.key(Qt.Key.Key_S)
    driver.move(1, (-0.2 + 0.1665, 0.003, 0.0))
    assert driver.window.toolbox.sketch.next.caught == "edge middle"
    driver.click(1, (0.134, 0.003, 0.0))
    driver.click(1, (0.2, 0.2, 0.0))
    driver.enter()
    assert np.allclose(driver.places[0], (133.0, 0.0, 0.0))


def test_a_picture_whose_copy_is_no_picture_says_so(opened) -> None:
    driver, _ = opened(unreadable_picture())
    rows = driver.window.list_panel.hosts
    QTest.mouseClick(rows.viewport(), Qt.MouseButton.LeftButton, pos=rows.visualItemRect(rows.item(0)).center())
    assert "cannot be read" in driver.window.inspector.host_card.sentence.text()


def test_one_picture_can_hang_twice_and_a_path_that_is_drawn_is_kept(driver: Driver, elevation: Path) -> None:
    look_from(driver, 1, "Front")
    driver.key(Qt.Key.Key_S)
    driver.click(1, (-0.4, 0.0, 0.1))
    driver.click(1, (-0.3, 0.0, 0.2))
    drop(driver, elevation)
    assert len(driver.window.workspace.project.runs) == 1
    drop(driver, elevation)
    first, second = driver.window.workspace.project.hosts
    width = first.picture.width
    driver.enter_value("picture.width", f"{width * 250:.0f} mm")
    driver.enter_value("host.at.z", f"{(first.place.at[2] + 0.4 * first.picture.height) * 1000:.0f} mm")
    driver.settle()
    assert len(driver.window.workspace.project.assets) == 1 and second.picture.asset == first.picture.asset
    x, _, z = first.place.at
    low = colour_at(driver, 1, (x - 0.2 * width, 0.0, z - 0.3 * first.picture.height))
    assert low[0] > low[2] + 80  # the large one is still there
