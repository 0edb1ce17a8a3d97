"""Jobs within their budgets of actions, from an open project with nothing chosen, counted from the real events."""

from pathlib import Path

import pytest
from PySide6.QtCore import Qt

from morphax.app.settings import Settings
from morphax.app.window import Window
from morphax.demo import lantern_wagon
from morphax.io.project_file import save_project
from morphax.project.model import Project
from tests.app.conftest import drive
from tests.app.driver import Driver
from tests.app.job_projects import exported_before, hooked_and_doubled, twelve_cornices
from tests.app.recorder import Recorder

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def opened(qtbot, tmp_path: Path):
    """Opens a project in a window and counts from there on."""
    made: list = []

    def open_(project: Project) -> tuple[Driver, Recorder]:
        file = tmp_path / "job.morphax"
        save_project(project, file)
        window = drive(qtbot, Window(None, Settings(look="light", export_folder=str(tmp_path))))
        driver = next(window)
        driver.window.open_at_start(file)
        driver.settle()
        recorder = Recorder(driver.window)
        made.append((window, recorder))
        return driver, recorder

    yield open_
    for window, recorder in made:
        recorder.close()
        next(window, None)


def test_j20_to_print(opened, tmp_path: Path) -> None:
    driver, recorder = opened(lantern_wagon())
    driver.key(Qt.Key.Key_E, CTRL | SHIFT)
    page = driver.window.export_page
    assert page.findings.text().endswith("all closed")
    driver.choose_in(page.ready, "to print")
    driver.press_button(page.go)
    data = (tmp_path / "job.stl").read_bytes()
    assert int.from_bytes(data[80:84], "little") * 50 + 84 == len(data)
    assert recorder.count <= 3, recorder.actions


def test_j22_twelve_runs_take_another_section(opened) -> None:
    driver, recorder = opened(twelve_cornices())
    driver.key(Qt.Key.Key_A, CTRL)
    driver.press_button(driver.window.list_panel.stock.buttons["crown"])
    now = driver.window.workspace.project
    assert {s.source.name for s in now.sections} == {"crown"} and len(now.runs) == 12
    assert recorder.count <= 2, recorder.actions


def test_j27_out_again(opened, tmp_path: Path) -> None:
    driver, recorder = opened(exported_before(str(tmp_path)))
    driver.key(Qt.Key.Key_E, CTRL)
    assert "f " in (tmp_path / "job.obj").read_text() and recorder.count <= 1


def test_j29_mend(opened) -> None:
    driver, recorder = opened(hooked_and_doubled())
    checks = driver.window.inspector.checks
    while checks.mend_buttons:
        driver.press_button(checks.mend_buttons[0])
        driver.settle()
    assert all(not b.body.findings for b in driver.window.workspace.bodies.values())
    assert recorder.count <= 2, recorder.actions
