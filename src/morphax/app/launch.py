"""Starts the application."""

import os
import sys
from collections.abc import Sequence
from pathlib import Path
from threading import Thread


def prepare() -> None:
    """Without a display server VTK draws through EGL; must be set before VTK is loaded."""
    if not os.environ.get("DISPLAY") or os.environ.get("QT_QPA_PLATFORM") == "offscreen":
        os.environ.setdefault("VTK_DEFAULT_OPENGL_WINDOW", "vtkEGLRenderWindow")


def launch(words: Sequence[str]) -> int:
    """Opens the window: empty, with the demo project, or with a file; returns the exit code."""
    prepare()
    from PySide6.QtWidgets import QApplication

    from morphax.app.collecting import Collector
    from morphax.app.widgets.icons import pixmap
    from morphax.app.widgets.theme import LIGHT, app_font, load_fonts
    from morphax.app.window import Window
    from morphax.core.kernels.compiling import compile_all
    from morphax.demo import lantern_wagon

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
    Thread(target=compile_all, name="morphax-loops", daemon=True).start()  # the first body need not wait for them
    return int(app.exec())
