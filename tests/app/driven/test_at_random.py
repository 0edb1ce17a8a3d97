"""A hand that does anything at random: nothing raises, every body comes, all is undone and redone, nothing is lost.

What it meets depends on how quick bodies come, so it is no test of the suite: ``make fuzz`` runs it, each time with
other seeds. What it finds becomes a test of its own.
"""

import os
import random
import secrets
from collections.abc import Callable

import numpy as np
import pytest
from PySide6.QtCore import Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit

from morphax.app.actions.table import ACTIONS
from morphax.app.views.panes.pane import Pane
from morphax.io.project_file import from_bytes, to_bytes
from tests.app.driver import Driver

CTRL = Qt.KeyboardModifier.ControlModifier
IS_FUZZ = os.environ.get("HYPOTHESIS_PROFILE") == "random"
RUN = random.Random(os.environ.get("PYTEST_XDIST_TESTRUNUID") or secrets.token_hex())  # the same in all its processes
SEEDS = [RUN.randrange(10**6) for _ in range(6)]
STEPS = 400
COMMANDS = [
    a.id for a in ACTIONS if a.menu not in ("Project", "Help") and not a.title.endswith("…") and a.id != "host.again"
]
KEYS = [
    *(getattr(Qt.Key, f"Key_{c}") for c in "STPHFKECBRNLQMDUAOWGXVZ"),
    Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Backspace, Qt.Key.Key_Delete, Qt.Key.Key_Tab, Qt.Key.Key_Left,
    Qt.Key.Key_PageDown, Qt.Key.Key_F7,
]  # fmt: skip
TYPED = ("25", "+10", "400", "3 in", "1/2", "600x400")
VALUES = ("0", "1", "-3", "12", "0.5", "250", "1/2 in", "abc", "1e9", "", "90", "3", "-0.2")


def _close_menu() -> None:
    """Space on a button that has a menu opens it, Enter in the search a question: all else waits for an answer."""
    for waits in (QApplication.activePopupWidget(), QApplication.activeModalWidget()):
        if waits is not None:
            waits.close()


class Hand:
    """Clicks, drags, types and chooses with a seed of its own."""

    def __init__(self, driver: Driver, seed: int) -> None:
        self.driver, self.any = driver, random.Random(seed)
        self.done: list[str] = []
        closing = QTimer(driver.window)  # ends with it
        closing.timeout.connect(_close_menu)
        closing.start(30)
        self.ways: tuple[tuple[float, Callable[[], str]], ...] = (
            (0.25, self.click), (0.2, self.drag), (0.1, self.hover), (0.17, self.command), (0.12, self.key),
            (0.04, self.type), (0.09, self.field), (0.03, self.back),
        )  # fmt: skip

    def do(self) -> None:
        way = self.any.choices([w for _, w in self.ways], [p for p, _ in self.ways])[0]
        self.done.append(f"{way.__name__} {way()}")
        QApplication.processEvents()

    def spot(self, pane: int) -> tuple[float, float] | None:
        """A place of a pane, often near a knot; None where something lies over it."""
        target, path = self.driver.pane(pane), self.driver.window.workspace.chosen.path
        x, y = self.any.randrange(4, target.width() - 4), self.any.randrange(4, target.height() - 4)
        if path is not None and path.knots and self.any.random() < 0.4:
            try:
                near = self.driver.spot(pane, np.array(self.any.choice(path.knots).place))
            except ValueError:  # behind the eye
                return None
            x, y = near.x() + self.any.choice([0, 0, 4, -15]), near.y() + self.any.choice([0, 0, 4, 25])
        if not (4 <= x < target.width() - 4 and 4 <= y < target.height() - 4):
            return None
        under = self.driver.window.childAt(target.mapTo(self.driver.window, self.driver.spot(pane, (x, y))))
        return (float(x), float(y)) if isinstance(under, Pane) else None

    def keys(self) -> Qt.KeyboardModifier:
        m = Qt.KeyboardModifier
        return self.any.choice([m.NoModifier] * 5 + [m.ShiftModifier, m.ControlModifier])

    def click(self) -> str:
        pane = self.any.choice([0, 0, 1])
        at = self.spot(pane)
        if at is not None:
            self.driver.click(pane, at, self.keys(), double=self.any.random() < 0.15)
        return f"{pane} {at}"

    def hover(self) -> str:
        pane = self.any.choice([0, 1])
        at = self.spot(pane)
        if at is not None:
            self.driver.move(pane, at, self.keys())
        return f"{pane} {at}"

    def drag(self) -> str:
        pane, keys = self.any.choice([0, 0, 1]), self.keys()
        a, b = self.spot(pane), self.spot(pane)
        if a is None or b is None:
            return "nowhere"
        self.driver.press(pane, a, keys)
        self.driver.drag_to(pane, b, keys, start=a)
        typed = self.any.choice(["", *TYPED])
        self.driver.type(typed)
        if typed and self.any.random() < 0.3:
            self.driver.key(Qt.Key.Key_Tab)
            self.driver.type("45")
        end = self.any.choice([None, Qt.Key.Key_Escape, Qt.Key.Key_Return])
        if end is not None:
            self.driver.key(end)
        self.driver.release(pane, b, keys)
        return f"{pane} {a} {b} {typed} {end}"

    def command(self) -> str:
        name = self.any.choice(COMMANDS)
        if self.driver.window.menus.by_id[name].isEnabled():
            self.driver.menu(name)
        return name

    def key(self) -> str:
        key = self.any.choice(KEYS)
        self.driver.key(key)
        return str(key)

    def type(self) -> str:
        text = self.any.choice(TYPED)
        self.driver.type(text)
        if self.any.random() < 0.5:
            self.driver.enter()
        return text

    def field(self) -> str:
        """A value of the inspector, or a heading of it."""
        inspector = self.driver.window.inspector
        headings = [h.button for h in inspector.headings.values() if h.button.isVisible()]
        if headings and self.any.random() < 0.4:
            QTest.mouseClick(self.any.choice(headings), Qt.MouseButton.LeftButton)
            return "heading"
        fields = [*inspector.findChildren(QLineEdit), *inspector.findChildren(QComboBox)]
        rows = [w for w in fields if w.objectName().startswith("row.") and w.isVisible() and w.isEnabled()]
        if not rows:
            return "none"
        row = self.any.choice(rows)
        name = row.objectName().removeprefix("row.")
        if isinstance(row, QComboBox):
            text = row.itemText(self.any.randrange(max(1, row.count())))
            if text:
                self.driver.choose(name, text)
        else:
            text = self.any.choice(VALUES)
            self.driver.enter_value(name, text)
        return f"{name} {text}"

    def back(self) -> str:
        count = self.any.randrange(1, 6)
        for _ in range(count):
            self.driver.key(self.any.choice([Qt.Key.Key_Z, Qt.Key.Key_Z, Qt.Key.Key_Y]), CTRL)
        return str(count)


@pytest.mark.skipif(not IS_FUZZ, reason="a part of make fuzz")
@pytest.mark.parametrize("seed", SEEDS if IS_FUZZ else [0])
def test_whatever_is_done_nothing_breaks_and_all_is_undone_and_redone(
    request: pytest.FixtureRequest, seed: int
) -> None:
    drawn: Driver = request.getfixturevalue("drawn" if seed % 2 else "demo")
    hand, ws = Hand(drawn, seed), drawn.window.workspace
    first = ws.history.moments[0].project
    for i in range(STEPS):
        hand.do()
        if i % 15 == 14:
            drawn.bot.waitUntil(lambda: not ws.bodies.is_waiting, timeout=30_000)
    drawn.key(Qt.Key.Key_Escape)
    drawn.key(Qt.Key.Key_Escape)
    last, at = ws.project, ws.history.at
    assert from_bytes(to_bytes(last), "random") == last, hand.done
    while ws.history.undo_label is not None:
        before = ws.history.at
        drawn.key(Qt.Key.Key_Z, CTRL)
        assert ws.history.at < before, f"{hand.done[-12:]}: undo went to {QApplication.focusWidget()}"
    assert ws.project == first, hand.done
    for _ in range(at - ws.history.at):
        drawn.key(Qt.Key.Key_Y, CTRL)
    assert ws.project == last, hand.done
