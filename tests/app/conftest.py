"""The window under test, its driver, and checks that nothing is left running."""

import gc
import os
import threading
from collections.abc import Iterator
from itertools import count
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtGui import QCursor
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from morphax.app.session.settings import Settings
from morphax.app.views.panes import live_picture
from morphax.app.views.view3d import renderer
from morphax.app.widgets import motion
from morphax.app.widgets.theme import app_font, load_fonts
from morphax.app.window import Window
from morphax.core.kernels.compiling import compile_all
from tests.app.driver import Driver

MACHINE_CODE = os.environ.get("XDG_CACHE_HOME") or str(Path.home() / ".cache")

OUTSIDE = QPoint(5000, 5000)

live_picture.REST_MILLISECONDS = 40
"""Tests don't wait as long for the finer picture that follows a rest: they do so a thousand times."""


@pytest.fixture(autouse=True, scope="session")
def loops_are_there() -> None:
    """Loads the loops from the user's own cache, before a test's home hides it: compiling them anew takes so long that
    the first test of a worker ran out of its time."""
    compile_all()


@pytest.fixture(autouse=True)
def own_settings(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """No test reads or writes the settings of whoever runs it."""
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    monkeypatch.setenv("HOME", str(tmp_path))
    monkeypatch.setenv("XDG_CACHE_HOME", MACHINE_CODE)  # programs that a test starts need not compile their loops


@pytest.fixture(autouse=True)
def still(monkeypatch: pytest.MonkeyPatch) -> None:
    """Things change at once, but in the tests of motion."""
    monkeypatch.setattr(motion, "is_wanted", lambda: False)


_OF_PICTURES = ("test_pictures", "test_pictures_alive", "test_look", "test_smooth_preview")


@pytest.fixture(autouse=True)
def plain_pictures(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> None:
    """Smooth edges and soft shade take most of the time of a picture: only the tests of pictures look at them."""
    if request.module.__name__.rsplit(".", 1)[-1] not in _OF_PICTURES:
        monkeypatch.setattr(renderer, "_SAMPLES", 0)
        monkeypatch.setattr(renderer, "shaded", lambda picture, *_: picture)


@pytest.fixture(autouse=True)
def pointer_away(qapp: QApplication) -> None:
    """Where another test left the pointer, the next window's tile would show its larger picture over the view."""
    QCursor.setPos(OUTSIDE)


_TESTS = count(1)
_ALL_AFTER = 12
"""Windows that are gone go with every so many tests: they live through the quick collection after their own."""


@pytest.fixture(autouse=True)
def collects_in_this_thread() -> Iterator[None]:
    """As in the application: no worker collects, and so destroys, parts of a window."""
    gc.disable()
    yield
    gc.collect(2 if next(_TESTS) % _ALL_AFTER == 0 else 1)


@pytest.fixture(scope="session")
def qapp_args() -> list[str]:
    return ["morphax-test", "-style", "Fusion"]


@pytest.fixture
def driver(qtbot: QtBot) -> Iterator[Driver]:
    """An empty window that has settled."""
    yield from drive(qtbot, Window(None, Settings(look="light")))


@pytest.fixture(autouse=True, scope="session")
def _application_font(qapp: QApplication) -> None:
    """As the application does before its first window: otherwise the first test would see another font."""
    load_fonts()
    qapp.setFont(app_font())


@pytest.fixture
def demo(qtbot: QtBot) -> Iterator[Driver]:
    """A window with the demo project."""
    from morphax.demo import lantern_wagon

    yield from drive(qtbot, Window(lantern_wagon(), Settings(look="light")))


def drive(qtbot: QtBot, window: Window, *, settles: bool = True) -> Iterator[Driver]:
    window.resize(1280, 800)
    window.start()
    driven = Driver(window, qtbot)
    if settles:
        driven.settle()
    yield driven
    driven.gone = True
    window.shut_down()
    window.hide()
    window.deleteLater()
    assert not driven.unanswered, "a dialog that the test wanted to answer never came"
    left = [t.name for t in threading.enumerate() if t.name.startswith("morphax-")]
    assert not left, f"threads are still running: {left}; close them in Window.shut_down"


assert os.environ["QT_QPA_PLATFORM"] == "offscreen"
