"""What only a process of its own can show: what an import brings in, and how a program ends."""

import subprocess
import sys

import pytest

from morphax.app.session.settings import Settings
from morphax.app.window import Window
from morphax.demo import lantern_wagon
from morphax.io.autosave import autosave_folder
from morphax.project.edits.runs import delete_runs

HEAVY = ("vtkmodules", "PySide6.QtWidgets")


def ran(words: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run([sys.executable, "-c", words], capture_output=True, text=True, timeout=120)


@pytest.mark.parametrize(
    "module",
    [
        "morphax.build.builder",
        "morphax.build.project_bodies",
        "morphax.app.session.session",
        "morphax.app.session.workspace",
        "morphax.app.session.camera",
        "morphax.app.tools.registry",
        "morphax.app.tools.toolbox",
        "morphax.app.actions.table",
        "morphax.app.actions.refining",
    ],
)
def test_what_works_without_a_screen_loads_none(module: str) -> None:
    done = ran(f"import sys, {module}; print([m for m in {HEAVY!r} if m in sys.modules])")
    assert done.returncode == 0 and done.stdout.strip() == "[]", done.stdout + done.stderr


def test_a_program_that_ends_with_its_window_open_ends_well() -> None:
    done = ran(
        "from PySide6.QtWidgets import QApplication\n"
        "app = QApplication([])\n"
        "from morphax.app.session.settings import Settings\n"
        "from morphax.app.window import Window\n"
        "window = Window(None, Settings(autosave_seconds=3600.0))\n"
        "window.start()\n"
        "for _ in range(20):\n"
        "    app.processEvents()\n"
        "window.shut_down()\n"
    )
    assert done.returncode == 0, done.stderr


def test_a_window_that_was_shut_down_keeps_nothing_more(qtbot, tmp_path, monkeypatch) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    window = Window(lantern_wagon(), Settings(autosave_seconds=0.05))
    window.workspace.attempt("Delete", lambda p: delete_runs(p, [p.runs[0].id]))
    window.shut_down()
    qtbot.wait(300)
    assert not list(autosave_folder().glob("*.morphax"))
    window.deleteLater()
