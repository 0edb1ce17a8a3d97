"""The collector of cycles: only when there is enough, and only in the interface thread."""

import gc
import threading

import pytest
from PySide6.QtCore import QObject, Qt
from PySide6.QtWidgets import QApplication

from morphax.app import collecting
from morphax.app.collecting import Collector


class Knot:
    """Something in a cycle that tells which thread destroys it."""

    gone_in: str | None = None

    def __init__(self) -> None:
        self.me = self

    def __del__(self) -> None:
        Knot.gone_in = threading.current_thread().name


@pytest.fixture
def collector(qapp: QApplication):
    parent = QObject()
    yield Collector(parent)
    gc.unfreeze()
    parent.deleteLater()


def nothing_held(monkeypatch: pytest.MonkeyPatch) -> None:
    """No button of the mouse, whatever a test before has left pressed."""
    monkeypatch.setattr(collecting.QApplication, "mouseButtons", lambda: Qt.MouseButton.NoButton)


def test_cycles_go_in_the_interface_thread_and_not_in_a_worker(collector: Collector, monkeypatch) -> None:
    Knot.gone_in = None
    Knot()
    made: list = []
    worker = threading.Thread(target=lambda: made.extend([i] for i in range(200_000)))
    worker.start()
    worker.join()
    assert Knot.gone_in is None and not gc.isenabled(), "a worker made 200 000 objects and collected nothing"
    nothing_held(monkeypatch)
    assert collector.look() and Knot.gone_in == threading.main_thread().name


def test_few_objects_or_a_held_button_put_it_off(collector: Collector, monkeypatch) -> None:
    gc.collect()
    assert not collector.look()
    monkeypatch.setattr(collecting, "ENOUGH", 0)
    monkeypatch.setattr(QApplication, "mouseButtons", staticmethod(lambda: Qt.MouseButton.LeftButton))
    assert not collector.look()
    monkeypatch.setattr(QApplication, "mouseButtons", staticmethod(lambda: Qt.MouseButton.NoButton))
    assert collector.look() and collector.rounds == 1
