"""Starts the application."""

import os
import sys
from collections.abc import Sequence
from pathlib import Path

from morphax.app.session.workspace import Workspace
from morphax.core.kernels.compiling import is_plain

LOOK_MILLISECONDS = 300
"""How often it is looked whether the loops are compiled, after a cold start."""


def prepare() -> None:
    """Without a display server VTK draws through EGL; must be set before VTK is loaded."""
    if not os.environ.get("DISPLAY") or os.environ.get("QT_QPA_PLATFORM") == "offscreen":
        os.environ.setdefault("VTK_DEFAULT_OPENGL_WINDOW", "vtkEGLRenderWindow")


def build_anew_when_ready(workspace: Workspace) -> None:
    """Bodies that plain loops have made coarser are built as they were asked for as soon as loops are compiled."""
    from PySide6.QtCore import QTimer

    waiting = QTimer(workspace, interval=LOOK_MILLISECONDS)

    def look() -> None:
        if not is_plain():
            waiting.stop()
            workspace.build_anew()

    waiting.timeout.connect(look)
    waiting.start()


def launch(words: Sequence[str]) -> int:
    """Opens the window: empty, with the demo project, or with a file; returns the exit code."""
    prepare()
    from PySide6.QtWidgets import QApplication

    from morphax.app.collecting import Collector
    from morphax.app.widgets.icons import pixmap
    from morphax.app.widgets.theme import LIGHT, app_font, load_fonts
    from morphax.app.window import Window
    from morphax.build.readiness import begin
    from morphax.demo import lantern_wagon

    is_cold = begin()
    app = QApplication(sys.argv[:1])
    app.setApplicationName("Morphax")
    app.setStyle("Fusion")
    load_fonts()
    app.setFont(app_font())
    app.setWindowIcon(pixmap("morphax", LIGHT.teal, 64))
    window = Window(lantern_wagon() if list(words) == ["demo"] else None)
    Collector(app)
    window.start()
    if words and words[0] != "demo":
        window.files.open_file(Path(words[0]))
    if is_cold:
        build_anew_when_ready(window.workspace)
    return int(app.exec())
