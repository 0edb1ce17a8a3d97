"""Drives the length strip: presses and drags in pixels and shares of the chosen run."""

from PySide6.QtCore import QCoreApplication, QEvent, QPoint, Qt
from PySide6.QtTest import QTest

from morphax.app.views.strip.curves import KINDS, Curve, curve_of
from morphax.app.views.strip.lanes import Lane
from morphax.app.views.strip.law_lane import LawLane
from morphax.app.views.strip.stations import boxes
from tests.app.driver import Driver

LEFT, NONE, CTRL = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier


def lane_name(lane: Lane) -> str:
    """What tests call a lane."""
    return f"{lane.kind.law.capitalize()}Lane" if isinstance(lane, LawLane) else type(lane).__name__


class Strip:
    """Presses and drags on the strip, in pixels and shares of the run."""

    def __init__(self, driver: Driver) -> None:
        self.driver, self.strip, self.ws = driver, driver.window.strip, driver.window.workspace
        run = self.ws.project.runs[0].id
        driver.pane(0).setFocus()
        driver.key(Qt.Key.Key_A, CTRL)
        driver.settle()
        assert self.ws.selection.runs == (run,)

    @property
    def run(self):
        return self.ws.project.runs[0]

    @property
    def shares(self) -> list[float]:
        return [round(s.share, 3) for s in self.run.recipe.stations]

    def top(self, name: str) -> float:
        on = self.strip._on()
        assert on is not None
        return next(top for lane, top in self.strip._lanes_of(on) if lane_name(lane) == name)

    def curve(self, law: str) -> Curve:
        on = self.strip._on()
        assert on is not None
        found = curve_of(on, next(k for k in KINDS if k.law == law))
        assert found is not None
        return found

    def spot(self, law: str, share: float, value: float) -> QPoint:
        """The pixel of a value of a law."""
        return QPoint(self.x(share), round(self.top(f"{law.capitalize()}Lane") + self.curve(law).y_of(value)))

    def piece(self, share: float) -> QPoint:
        """The pixel of a place of a run in the lane of its pieces."""
        return QPoint(self.x(share), round(self.top("PieceLane")) + 11)

    def picture(self, k: int) -> QPoint:
        on = self.strip._on()
        assert on is not None
        box = boxes(on)[k].box.center()
        return QPoint(round(box.x()), round(box.y() + self.top("StationLane")))

    def x(self, share: float) -> int:
        return round(float(self.strip.ruler.x_of(share * self.strip.ruler.length)))

    def click(self, at: QPoint, keys=NONE) -> None:
        QTest.mouseClick(self.strip, LEFT, keys, at)
        self.driver.settle()

    def double(self, at: QPoint) -> None:
        QTest.mouseClick(self.strip, LEFT, NONE, at)
        QTest.mouseDClick(self.strip, LEFT, NONE, at)
        self.driver.settle()

    def drag(self, a: QPoint, b: QPoint, keys=NONE) -> None:
        QTest.mousePress(self.strip, LEFT, keys, a)
        for k in range(1, 6):
            QTest.mouseMove(self.strip, a + (b - a) * (k / 5.0))
        QTest.mouseRelease(self.strip, LEFT, keys, b)
        self.driver.settle()

    def hover(self, at: QPoint) -> None:
        QTest.mouseMove(self.strip, at)
        self.driver.settle()

    def leave(self) -> None:
        QCoreApplication.sendEvent(self.strip, QEvent(QEvent.Type.Leave))
        self.driver.settle()

    def pixels(self) -> set[str]:
        picture = self.strip.grab().toImage()
        return {picture.pixelColor(x, y).name() for x in range(0, picture.width(), 1) for y in range(picture.height())}
