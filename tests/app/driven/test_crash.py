"""After a crash the work of a few seconds ago is offered and comes back."""

import signal
import subprocess
import sys
from pathlib import Path

import pytest
from PySide6.QtCore import Qt

from morphax.io.autosave import autosave_folder
from tests.app.driven.test_first_body import draw_four
from tests.app.driver import Driver
from tests.helpers import DEMO_RUNS

CRASH = """
import sys
from PySide6.QtWidgets import QApplication
from morphax.app.launch import prepare
prepare()
app = QApplication(sys.argv[:1])
from PySide6.QtCore import QTimer
from morphax.app.session.settings import Settings
from morphax.app.window import Window
from morphax.demo import lantern_wagon
from morphax.project.edits.runs import rename_run
window = Window(lantern_wagon(), Settings(autosave_seconds=0.1))
window.start()
ws = window.workspace
ws.attempt("Rename", lambda p: rename_run(p, p.runs[0].id, "Not saved"))
QTimer.singleShot(600, lambda: print("kept", flush=True))
app.exec()
"""


@pytest.fixture(autouse=True)
def crashed(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    process = subprocess.Popen([sys.executable, "-c", CRASH, "morphax"], stdout=subprocess.PIPE)
    assert process.stdout is not None and process.stdout.readline() == b"kept\n"
    process.send_signal(signal.SIGKILL)
    process.wait()
    process.stdout.close()


def test_a_crash_loses_nothing_and_the_first_sheet_offers_it(driver: Driver) -> None:
    button = driver.window.sheet.choices["Bring back unsaved work"]
    driver.press_button(button)
    project = driver.window.workspace.project
    assert [r.show.name for r in project.runs] == ["Not saved", *DEMO_RUNS[1:]]
    assert "•" in driver.window.windowTitle() and "not saved yet" in driver.window.help_label.text()
    assert len(list(autosave_folder().glob("*.morphax"))) == 1, "it is kept under the new program's name"


def test_leaving_the_offer_alone_keeps_it(driver: Driver) -> None:
    draw_four(driver)
    driver.window.autosave.keep()
    assert len(list(autosave_folder().glob("*.morphax"))) == 2
    driver.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert len(list(autosave_folder().glob("*.morphax"))) == 1, "saved or undone work needs no autosave"
    assert driver.window.autosave.has_orphans()
