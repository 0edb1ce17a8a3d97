"""Drives the real window with mouse and key events, at projected places, as a user would."""

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QMouseEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit, QWidget
from pytestqt.qtbot import QtBot

from morphax.app.views.panes.camera_view import CameraView
from morphax.app.views.panes.pane import Pane
from morphax.app.window import Window
from morphax.project.model.document import Path, Run

Spot = tuple[float, float] | tuple[float, float, float] | np.ndarray
NONE = Qt.KeyboardModifier.NoModifier
LEFT, MIDDLE = Qt.MouseButton.LeftButton, Qt.MouseButton.MiddleButton


class Driver:
    """The user's hands and eyes."""

    def __init__(self, window: Window, qtbot: QtBot) -> None:
        self.window, self.bot = window, qtbot
        self.unanswered, self.gone = 0, False

    # -- eyes --------------------------------------------------------------------------------------

    @property
    def run(self) -> Run:
        found = self.window.workspace.chosen.run
        assert found is not None, "no run is chosen"
        return found

    @property
    def path(self) -> Path:
        found = self.window.workspace.chosen.path
        assert found is not None
        return found

    @property
    def places(self) -> np.ndarray:
        """Places of the chosen run's knots, mm, rounded to a micrometre."""
        return np.round(np.array([k.place for k in self.path.knots]) * 1000.0, 3) + 0.0

    @property
    def body(self):
        self.bot.waitUntil(lambda: not self.window.workspace.bodies.is_waiting, timeout=20_000)
        built = self.window.workspace.chosen.body
        assert built is not None, "no run is chosen"
        return built.body

    def pane(self, index: int) -> Pane:
        return self.window.panes[index]

    def view(self, index: int) -> CameraView:
        """The view of the scene that stands in a pane."""
        return self.window.scene_views[index]

    def spot(self, pane: int, at: Spot) -> QPoint:
        """A pixel of a pane from a pixel or from a place in m."""
        if len(at) == 3:
            view = self.view(pane)
            x, y, _ = view.sight.seen(np.array([at]))[0]
            return QPoint(round(x), round(y))
        return QPoint(round(at[0]), round(at[1]))

    def settle(self) -> None:
        """Waits until every body is new and every visible pane shows its finest picture."""
        w = self.window
        self.bot.waitUntil(lambda: not w.workspace.bodies.is_waiting, timeout=20_000)
        self.bot.waitUntil(lambda: all(v.is_settled for v in w.scene_views if v.is_shown), timeout=20_000)

    # -- hands -------------------------------------------------------------------------------------

    def _send(self, kind: QMouseEvent.Type, target: QWidget, p: QPoint, button, buttons, keys) -> None:
        spot = QPointF(p)
        event = QMouseEvent(kind, spot, QPointF(target.mapToGlobal(p)), button, buttons, keys)
        QApplication.sendEvent(target, event)

    def _under(self, pane: int, p: QPoint) -> tuple[QWidget, QPoint]:
        """The widget that really lies under a pane's pixel in the top window."""
        top = self.pane(pane).mapTo(self.window, p)
        target = self.window.childAt(top)
        assert target is not None, f"nothing lies at {top}"
        return target, target.mapFrom(self.window, top)

    def move(self, pane: int, at: Spot, keys=NONE) -> None:
        target, p = self._under(pane, self.spot(pane, at))
        self._send(QMouseEvent.Type.MouseMove, target, p, Qt.MouseButton.NoButton, Qt.MouseButton.NoButton, keys)

    def click(self, pane: int, at: Spot, keys=NONE, *, double: bool = False) -> None:
        self.move(pane, at, keys)
        target, p = self._under(pane, self.spot(pane, at))
        if not double:
            # two clicks on one spot in a row are no double click here
            self._send(QMouseEvent.Type.MouseButtonPress, target, p, LEFT, LEFT, keys)
            self._send(QMouseEvent.Type.MouseButtonRelease, target, p, LEFT, Qt.MouseButton.NoButton, keys)
            return
        for kind in (QMouseEvent.Type.MouseButtonPress, QMouseEvent.Type.MouseButtonDblClick):
            self._send(kind, target, p, LEFT, LEFT, keys)
            self._send(QMouseEvent.Type.MouseButtonRelease, target, p, LEFT, Qt.MouseButton.NoButton, keys)

    def press(self, pane: int, at: Spot, keys=NONE, button=LEFT) -> None:
        self.move(pane, at, keys)
        target, p = self._under(pane, self.spot(pane, at))
        self._send(QMouseEvent.Type.MouseButtonPress, target, p, button, button, keys)

    def drag_to(self, pane: int, at: Spot, keys=NONE, button=LEFT, *, start: Spot | None = None) -> None:
        """Moves with a button held in four steps, from ``start`` when given."""
        end = self.spot(pane, at)
        begin = self.spot(pane, start) if start is not None else end
        for i in range(1, 5):
            p = begin + (end - begin) * i / 4
            self._send(QMouseEvent.Type.MouseMove, self.pane(pane), p, Qt.MouseButton.NoButton, button, keys)

    def release(self, pane: int, at: Spot, keys=NONE, button=LEFT) -> None:
        target = self.pane(pane)
        p = self.spot(pane, at)
        self._send(QMouseEvent.Type.MouseButtonRelease, target, p, button, Qt.MouseButton.NoButton, keys)

    def drag(self, pane: int, start: Spot, end: Spot, keys=NONE, button=LEFT) -> None:
        begin, finish = self.spot(pane, start), self.spot(pane, end)
        a, b = (begin.x(), begin.y()), (finish.x(), finish.y())
        self.press(pane, a, keys, button)
        self.drag_to(pane, b, keys, button, start=a)
        self.release(pane, b, keys, button)

    def wheel(self, pane: int, at: Spot, notches: int) -> None:
        p = QPointF(self.spot(pane, at))
        target = self.pane(pane)
        event = QWheelEvent(
            p,
            QPointF(target.mapToGlobal(p.toPoint())),
            QPoint(),
            QPoint(0, 120 * notches),
            Qt.MouseButton.NoButton,
            NONE,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        QApplication.sendEvent(target, event)

    def key(self, key: Qt.Key, keys=NONE) -> None:
        """A key with a meaning, to whatever has the focus; shortcuts count."""
        if (
            QApplication.activeWindow() is not self.window and QApplication.activeModalWidget() is None
        ):  # a desktop would give the focus back after a dialog
            QApplication.processEvents()
            self.window.activateWindow()
            QApplication.processEvents()
        target = QApplication.focusWidget() or self.window
        QTest.keyClick(target, key, keys)
        QApplication.processEvents()

    def type(self, text: str) -> None:
        """Characters one by one, each to whatever has the focus by then."""
        for c in text:
            QTest.keyClick(QApplication.focusWidget() or self.window, c)

    def enter(self) -> None:
        self.key(Qt.Key.Key_Return)

    def menu(self, action_id: str) -> None:
        """A menu entry."""
        action = self.window.menus.by_id[action_id]
        assert action.isEnabled(), f"{action_id} is not enabled"
        action.trigger()

    def press_button(self, button: QWidget) -> None:
        self.bot.waitUntil(lambda: button.isVisible() and button.isEnabled(), timeout=20_000)
        QTest.mouseClick(button, LEFT)

    def catch(self, name: str) -> None:
        """Turns what catches, or resting, on or off."""
        row = self.window.tool_row
        if name != "resting":
            self.press_button(row.catches)
        self.press_button(row.snaps[name])
        if name != "resting":
            QTest.keyClick(row.catches.panel, Qt.Key.Key_Escape)

    def field(self, name: str) -> QWidget:
        """An editor of the inspector, unfolding its heading when needed."""
        found = self.window.inspector.findChild(QWidget, f"row.{name}")
        assert found is not None, f"no row {name}"
        return found

    def unfold(self, heading: str) -> None:
        button = self.window.inspector.headings[heading].button
        if not button.isChecked():
            self.press_button(button)

    def enter_value(self, name: str, text: str) -> None:
        """Clicks into a field, replaces its text and presses Enter."""
        editor = self.field(name)
        assert isinstance(editor, QLineEdit)
        QTest.mouseClick(editor, LEFT)
        editor.selectAll()
        QTest.keyClick(editor, Qt.Key.Key_Delete)
        QTest.keyClicks(editor, text)
        QTest.keyClick(editor, Qt.Key.Key_Return)

    def choose(self, name: str, text: str) -> None:
        """Chooses an entry of a list field with the keyboard."""
        combo = self.field(name)
        assert isinstance(combo, QComboBox)
        self.choose_in(combo, text)

    def pick(self, name: str, text: str) -> None:
        """Opens a list field and takes an entry from it at once, as the mouse does."""
        combo = self.field(name)
        assert isinstance(combo, QComboBox)
        index = combo.findText(text)
        assert index >= 0, f"{text} is not among {[combo.itemText(i) for i in range(combo.count())]}"
        combo.showPopup()
        view = combo.view()
        self.bot.waitUntil(view.isVisible, timeout=20_000)
        view.scrollTo(combo.model().index(index, 0))
        QTest.mouseClick(view.viewport(), LEFT, pos=view.visualRect(combo.model().index(index, 0)).center())
        self.bot.waitUntil(lambda: combo.currentText() == text, timeout=20_000)

    def choose_in(self, combo: QComboBox, text: str) -> None:
        """Chooses an entry of any list field with the keyboard."""
        index = combo.findText(text)
        assert index >= 0, f"{text} is not among {[combo.itemText(i) for i in range(combo.count())]}"
        combo.setFocus()
        while combo.currentIndex() != index:
            before = combo.currentIndex()
            QTest.keyClick(combo, Qt.Key.Key_Down if before < index else Qt.Key.Key_Up)
            assert combo.currentIndex() != before

    def answer(self, act: Callable[[QWidget], None]) -> None:
        """Answers the next dialog as soon as it is there; one that stays open is closed, so that the test fails.

        Whoever asked for an answer and got no dialog is told at the end (``unanswered``).
        """
        self.unanswered += 1

        def look() -> None:
            if self.gone:
                return
            dialog = QApplication.activeModalWidget()
            if dialog is None:
                QTimer.singleShot(10, look)
                return
            self.unanswered -= 1
            QTimer.singleShot(4000, dialog, dialog.close)
            act(dialog)

        QTimer.singleShot(0, look)
