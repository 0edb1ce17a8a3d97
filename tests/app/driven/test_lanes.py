"""Lanes of the strip are rows of a table: a new one takes its place, its height and its presses."""

from PySide6.QtCore import QPoint, QRectF, Qt
from PySide6.QtGui import QColor, QPainter
from PySide6.QtTest import QTest

from morphax.app.views.strip.all_lanes import LANES
from morphax.app.views.strip.lanes import KnotLane, OnStrip
from morphax.app.widgets.theme import LIGHT
from tests.app.driver import Driver

BLUE = QColor(LIGHT.blue).name()
INK = QColor(200, 10, 120)


class Marked:
    """A lane that is in use where the run has more knots than at first."""

    height = 20

    def __init__(self, knots: int) -> None:
        self.knots = knots
        self.pressed: list[tuple[str, float, float]] = []

    def is_used(self, on: OnStrip) -> bool:
        return len(on.path.knots) > self.knots

    def paint(self, painter: QPainter, on: OnStrip, top: float) -> None:
        x = float(on.ruler.x_of(0.5 * on.ruler.length))
        painter.fillRect(QRectF(x - 5.0, top, 10.0, self.height), INK)

    def thing_at(self, on: OnStrip, x: float, y: float) -> None:
        return None

    def press(self, on: OnStrip, x: float, y: float) -> None:
        self.pressed.append(("press", x, y))

    def double_press(self, on: OnStrip, x: float, y: float) -> None:
        self.pressed.append(("double", x, y))

    def grab(self, on: OnStrip, x: float, y: float, *, copies: bool) -> None:
        return None


def test_a_lane_in_use_makes_the_strip_taller_and_takes_its_presses(drawn: Driver) -> None:
    strip, count = drawn.window.strip, len(drawn.path.knots)
    lane = Marked(count)
    assert strip.height() == 125, "what is shown, knots and rings below the ruler"
    strip.lanes = (*LANES[:-2], lane, *LANES[-2:])
    strip.refresh()
    assert strip.height() == 125, "it is not in use"
    middle = float(strip.ruler.x_of(0.5 * strip.ruler.length))
    QTest.mouseDClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(round(middle) + 3, 77))
    drawn.settle()
    assert len(drawn.path.knots) == count + 1 and strip.height() == 145
    picture = strip.grab().toImage()
    top = 38 + LANES[0].height + LANES[-3].height
    assert picture.pixelColor(round(middle), top + 10) == INK
    assert picture.pixelColor(round(middle), top - 4) != INK and picture.pixelColor(round(middle), top + 24) != INK
    QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(200, top + 7))
    QTest.mouseDClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(220, top + 7))
    assert lane.pressed == [("press", 200.0, 7.0), ("double", 220.0, 7.0)] and len(drawn.path.knots) == count + 1
    strip.fold()
    assert strip.height() == 28
    drawn.key(Qt.Key.Key_Escape)
    strip.fold()
    assert strip.height() == 145
    drawn.menu("edit.undo")
    drawn.settle()
    assert strip.height() == 125


def test_knots_are_chosen_in_their_lane_only(drawn: Driver) -> None:
    strip = drawn.window.strip
    x = round(float(strip.ruler.x_of(drawn.window.workspace.chosen.body.knot_at[1])))
    QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(x, 107))
    assert not drawn.window.workspace.selection.knots
    QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(x, 65))
    assert drawn.window.workspace.selection.knots == (drawn.path.knots[1].id,)


def test_a_double_click_on_the_lane_of_rings_puts_a_knot_there(drawn: Driver) -> None:
    strip, count = drawn.window.strip, len(drawn.path.knots)
    x = round(float(strip.ruler.x_of(0.4 * strip.ruler.length)))
    QTest.mouseDClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(x, strip.height() - 28))
    drawn.settle()
    assert len(drawn.path.knots) == count + 1


def test_corners_are_squares_on_the_strip_and_smooth_knots_are_round(drawn: Driver) -> None:
    strip = drawn.window.strip

    def blue(k: int) -> int:
        """How many pixels of a knot's box are painted: a square fills it."""
        at = drawn.window.workspace.chosen.body.knot_at[k]
        x, top = round(float(strip.ruler.x_of(at))), 38 + LANES[0].height
        image = strip.grab().toImage()
        spots = [(x + i, top + j) for i in range(-6, 7) for j in range(KnotLane.height)]
        return sum(image.pixelColor(*p).name() == BLUE for p in spots)

    drawn.key(Qt.Key.Key_Escape)
    round_one = blue(1)
    drawn.click(0, drawn.path.knots[1].place)
    drawn.key(Qt.Key.Key_B)
    drawn.click(0, drawn.path.knots[2].place)  # another one is chosen: chosen ones are teal
    drawn.settle()
    assert 15 < round_one <= blue(1) - 4
