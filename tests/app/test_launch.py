"""The application starts as a program of its own, with the demo or with a file."""

import subprocess
import sys
from pathlib import Path

import pytest

from tests.helpers import DEMO_RUNS

CODE = """
import sys
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication
from morphax.cli.main import main
seen = QApplication.exec
def run():
    def look():
        window = QApplication.topLevelWidgets()
        window = next(w for w in window if w.windowTitle())
        if window.scene_views[0].is_settled:
            print(window.windowTitle(), '|', len(window.workspace.project.runs), '|', window.help_label.text())
            window.close()
    timer = QTimer(interval=50)
    timer.timeout.connect(look)
    timer.start()
    return seen()
QApplication.exec = staticmethod(run)
sys.exit(main(sys.argv[1:]))
"""


def start(*words: str) -> str:
    done = subprocess.run([sys.executable, "-c", CODE, *words], capture_output=True, text=True, timeout=60)
    assert done.returncode == 0, done.stderr
    assert "Traceback" not in done.stderr
    return done.stdout


def test_demo_and_empty() -> None:
    assert start("demo").startswith(f"untitled · Morphax | {len(DEMO_RUNS)} |")
    assert start().startswith("untitled · Morphax | 0 |")


@pytest.mark.parametrize("good", [True, False])
def test_a_file_on_the_command_line(tmp_path: Path, good: bool) -> None:
    file = tmp_path / "w.morphax"
    if good:
        from morphax.demo import lantern_wagon
        from morphax.io.project_file import save_project

        save_project(lantern_wagon(), file)
        assert start(str(file)).startswith(f"w · Morphax | {len(DEMO_RUNS)} |")
    else:
        file.write_text("no")
        assert "is not a Morphax project" in start(str(file))
