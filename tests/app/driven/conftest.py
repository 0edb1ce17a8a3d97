"""What several driven tests start from."""

from pathlib import Path

import pytest
from PySide6.QtCore import Qt

from morphax.app.session.settings import Settings
from morphax.app.views.stock.groups import DRAW
from morphax.app.window import Window
from morphax.io.project_file import save_project
from morphax.project.model.document import Project
from tests.app.board_hand import Hand
from tests.app.conftest import drive
from tests.app.driven.test_first_body import draw_four
from tests.app.driver import Driver
from tests.app.recorder import Recorder


@pytest.fixture
def drawn(driver: Driver) -> Driver:
    """A finished through path of four knots, chosen, with Edit armed."""
    draw_four(driver)
    driver.key(Qt.Key.Key_Escape)
    driver.settle()
    return driver


@pytest.fixture
def opened(qtbot, tmp_path: Path):
    """Opens a project in a window and counts from there on."""
    made: list = []

    def open_(project: Project) -> tuple[Driver, Recorder]:
        file = tmp_path / "job.morphax"
        save_project(project, file)
        window = drive(qtbot, Window(None, Settings(look="light", export_folder=str(tmp_path))), settles=False)
        driver = next(window)
        driver.window.files.open_file(file)
        driver.settle()
        recorder = Recorder(driver.window)
        made.append((window, recorder))
        return driver, recorder

    yield open_
    for window, recorder in made:
        recorder.close()
        next(window, None)


@pytest.fixture
def hand(driver: Driver) -> Hand:
    """An empty scene with a blank board, opened from the stock's first tile."""
    driver.press_button(driver.window.list_panel.stock.buttons[DRAW])
    return Hand(driver)


@pytest.fixture
def on_run(drawn: Driver) -> Hand:
    """A run whose section was opened with Enter."""
    drawn.pane(0).setFocus()
    drawn.key(Qt.Key.Key_Return)
    return Hand(drawn)
