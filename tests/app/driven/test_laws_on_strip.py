"""Laws on the length strip: dragged, typed and drawn, near and far; and the strip zoomed and moved."""

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from morphax.app.views.stock.tile import MIME
from morphax.app.views.strip.ruler import LEFT as RULER_LEFT
from morphax.app.views.strip.stations import boxes
from morphax.core.loft.laws import Piece
from morphax.project.edits.along import place_station
from morphax.project.edits.laws import set_points
from morphax.project.edits.paths import reverse_path
from morphax.project.model.along import LAWS
from morphax.project.model.document import LawPoint, evolve
from tests.app.driven.test_exchange import drop
from tests.app.job_projects import column
from tests.app.strip_hand import CTRL, LEFT, NONE, Strip

WORDS = {"size": 0, "width": 1, "height": 2, "roll": 3, "shift": 4, "lift": 5}


def with_law(law: str, *values: float, long: float = 1.0):
    project = column(long)
    share = np.linspace(0.0, 1.0, len(values))
    points = [LawPoint(share=float(s), value=v) for s, v in zip(share, values, strict=True)]
    return set_points(project, [project.runs[0].id], law, points)


def points_of(strip: Strip, law: str) -> tuple[LawPoint, ...]:
    varying = strip.run.recipe.varying
    return () if varying is None else getattr(varying, law)


def type_at(strip: Strip, at: QPoint, text: str) -> None:
    strip.click(at)
    field = strip.strip.points.field
    assert field.isVisible() and field.hasFocus()
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)
    strip.driver.settle()


def turn(strip: Strip, x: int, clicks: float, keys=NONE) -> None:
    """The wheel over the strip."""
    at = QPointF(x, 50.0)
    where = strip.strip.mapToGlobal(at)
    none, still = Qt.MouseButton.NoButton, Qt.ScrollPhase.NoScrollPhase
    event = QWheelEvent(at, where, QPoint(), QPoint(0, round(120 * clicks)), none, keys, still, False)
    QApplication.sendEvent(strip.strip, event)
    strip.driver.settle()


@pytest.mark.parametrize("law", LAWS)
def test_every_law_is_begun_dragged_typed_and_undone(opened, law: str) -> None:
    driver, _ = opened(column())
    strip = Strip(driver)
    before = driver.body.mesh.points
    words = ["section", *LAWS[:1], "width", "height", "roll", "shift", "lift"]
    y = round(strip.top("AddLane")) + 8
    strip.click(QPoint(RULER_LEFT + 58 * words.index(law) + 10, y))
    plain = 1.0 if law in ("size", "width", "height") else 0.0
    assert [p.value for p in points_of(strip, law)] == [plain, plain]
    assert np.allclose(driver.body.mesh.points.min(0), before.min(0)), "it changes nothing yet"
    steps = strip.ws.history.at
    curve = strip.curve(law)
    strip.drag(
        strip.spot(law, 1.0, plain),
        strip.spot(law, 1.0, curve.low + (0.4 if plain else 0.8) * (curve.high - curve.low)),
    )
    dragged = points_of(strip, law)[-1].value
    assert dragged != plain and strip.ws.history.at == steps + 1
    typed = {"roll": "45", "shift": "30 mm", "lift": "-20"}.get(law, "150 %")
    wanted = {"roll": np.pi / 4, "shift": 0.03, "lift": -0.02}.get(law, 1.5)
    type_at(strip, strip.spot(law, 1.0, dragged), f"{typed} at 80 % straight")
    last = points_of(strip, law)[-1]
    assert (last.value, last.share, last.piece) == (pytest.approx(wanted), pytest.approx(0.8), Piece.STRAIGHT)
    assert driver.body.mesh.points.shape != before.shape or np.abs(driver.body.mesh.points - before).max() > 0.01
    driver.key(Qt.Key.Key_Z, CTRL)
    driver.key(Qt.Key.Key_Z, CTRL)
    assert [p.value for p in points_of(strip, law)] == [plain, plain]


@pytest.mark.parametrize("long", [0.005, 500.0])
def test_a_point_says_what_it_is_and_takes_lengths_and_only_what_makes_sense(opened, long: float) -> None:
    driver, _ = opened(with_law("size", 1.0, 0.5, 1.0, long=long))
    strip = Strip(driver)
    strip.click(strip.spot("size", 0.5, 0.5))
    field = strip.strip.points.field
    assert field.text() == "0.5 at 50 % smooth"
    strip.click(QPoint(strip.x(0.8), 10))
    assert not field.isVisible(), "a press elsewhere leaves it as it is"
    strip.click(strip.spot("size", 0.5, 0.5))
    QTest.keyClick(field, Qt.Key.Key_Escape)
    assert not field.isVisible() and [p.value for p in points_of(strip, "size")] == [1.0, 0.5, 1.0]
    type_at(strip, strip.spot("size", 0.5, 0.5), f"0.7 at {0.25 * long * 1e3} mm")
    assert points_of(strip, "size")[1].share == pytest.approx(0.25)
    for bad in ("much", "0.5 at 120 %", "-1", "1 at 100 %"):
        before = strip.ws.project
        type_at(strip, strip.spot("size", 0.25, 0.7), bad)
        assert strip.ws.project is before and driver.window.help_label.text(), bad
        QTest.keyClick(field, Qt.Key.Key_Escape)


@pytest.mark.parametrize(("law", "value"), [("size", 0.123456789), ("roll", 1.23456789), ("lift", -0.0123456789)])
def test_what_is_not_typed_anew_stays_exactly_what_it_is(opened, law: str, value: float) -> None:
    project = with_law(law, value, value, value)
    third = LawPoint(share=1.0 / 3.0, value=value)
    run = project.runs[0].id
    points = (*getattr(project.runs[0].recipe.varying, law)[::2], third)
    driver, _ = opened(evolve(set_points(project, [run], law, points), unit="ft"))
    strip = Strip(driver)
    before = points_of(strip, law)
    for change in (lambda text: text, lambda text: text.replace("smooth", "straight")):
        strip.click(strip.spot(law, 1.0 / 3.0, value))
        field = strip.strip.points.field
        field.setText(change(field.text()))
        QTest.keyClick(field, Qt.Key.Key_Return)
        driver.settle()
        assert [(p.share, p.value) for p in points_of(strip, law)] == [(p.share, p.value) for p in before]
    assert points_of(strip, law)[1].piece is Piece.STRAIGHT
    if law == "roll":
        type_at(strip, strip.spot(law, 1.0 / 3.0, value), "2 turns")
        assert points_of(strip, law)[1].value == pytest.approx(4.0 * np.pi)


def test_a_reversed_runs_points_are_typed_as_the_strip_shows_them(opened) -> None:
    project = with_law("size", 1.0, 0.5, 2.0)
    project = reverse_path(project, project.runs[0].recipe.path)
    driver, _ = opened(project)
    strip = Strip(driver)
    type_at(strip, QPoint(strip.x(0.5), strip.spot("size", 0.5, 0.5).y()), "0.6 at 20 %")
    assert points_of(strip, "size")[1].share == pytest.approx(0.8), "as the run sees it"
    assert strip.strip.points.field.isVisible() is False


def test_a_curve_is_drawn_by_hand_over_a_stretch(opened) -> None:
    driver, _ = opened(with_law("width", 1.0, 1.0))
    strip, steps = None, None
    strip = Strip(driver)
    steps = strip.ws.history.at
    a, b = strip.spot("width", 0.3, 0.6), strip.spot("width", 0.7, 0.6)
    QTest.mousePress(strip.strip, LEFT, NONE, a)
    for k in range(1, 41):
        at = a + (b - a) * (k / 40.0) + QPoint(0, round(-12 * np.sin(np.pi * k / 40.0)))
        QTest.mouseMove(strip.strip, at)
    QTest.mouseRelease(strip.strip, LEFT, NONE, b)
    driver.settle()
    points = points_of(strip, "width")
    assert strip.ws.history.at == steps + 1 and strip.ws.history.undo_label == "Draw the width"
    assert points[0].share == 0.0 and points[-1].share == 1.0 and 5 <= len(points) <= 20
    middle = max(points[1:-1], key=lambda p: p.value)
    assert middle.share == pytest.approx(0.5, abs=0.05) and middle.value > points[1].value + 0.1
    driver.key(Qt.Key.Key_Z, CTRL)
    assert len(points_of(strip, "width")) == 2
    strip.drag(strip.spot("width", 0.0, 0.6) + QPoint(3, 0), strip.spot("width", 0.5, 0.6))
    first, second = points_of(strip, "width")[:2]
    assert (first.share, first.value) == (0.0, pytest.approx(0.6, abs=0.05)) and second.share > 0.1, "ends catch"


def test_the_menu_of_a_law_says_how_it_goes_on_and_turns_it(opened) -> None:
    driver, _ = opened(with_law("size", 1.0, 0.5, 2.0))
    strip = Strip(driver)

    def choose(words: str, share: float = 0.75) -> None:
        at = QPointF(strip.x(share), strip.top("SizeLane") + 20.0)
        menu = strip.strip.lane_menu(at)
        assert menu is not None
        found = {a.text(): a for a in menu.actions()}
        piece = max((p for p in points_of(strip, "size") if p.share <= share), key=lambda p: p.share).piece
        assert [a.text() for a in menu.actions() if a.isChecked()] == [f"{piece} from here on".capitalize()]
        found[words].trigger()
        driver.settle()

    choose("Straight from here on")
    assert [p.piece for p in points_of(strip, "size")] == [Piece.SMOOTH, Piece.STRAIGHT, Piece.SMOOTH]
    choose("Upside down")
    assert [p.value for p in points_of(strip, "size")] == [1.0, 1.5, 0.0]
    choose("End for end")
    assert [p.value for p in points_of(strip, "size")] == [0.0, 1.5, 1.0]
    spot = strip.spot("size", 0.5, 1.5)
    menu = strip.strip.lane_menu(QPointF(spot))
    next(a for a in menu.actions() if a.text() == "Remove the point").trigger()
    assert len(points_of(strip, "size")) == 2
    choose("Even")
    assert not strip.run.recipe.varies
    assert strip.strip.lane_menu(QPointF(300.0, 10.0)) is None, "elsewhere it is the run's own menu"


def test_esc_takes_a_drag_back(opened) -> None:
    driver, _ = opened(with_law("size", 1.0, 1.0))
    strip = Strip(driver)
    before, a, b = strip.ws.project, strip.spot("size", 1.0, 1.0), strip.spot("size", 1.0, 0.4)
    QTest.mousePress(strip.strip, LEFT, NONE, a)
    QTest.mouseMove(strip.strip, b)
    assert strip.ws.unfinished.is_on
    driver.key(Qt.Key.Key_Escape)
    assert not strip.ws.unfinished.is_on
    QTest.mouseMove(strip.strip, b + QPoint(0, 3))
    QTest.mouseRelease(strip.strip, LEFT, NONE, b)
    driver.settle()
    assert strip.ws.project is before
    strip.drag(strip.spot("size", 1.0, 1.0), strip.spot("size", 1.0, 0.4))
    assert strip.ws.project is not before, "the next drag works again"


def test_an_outline_of_the_stock_dropped_on_a_size_is_the_size_along_the_run(opened) -> None:
    driver, _ = opened(with_law("size", 1.0, 1.0))
    strip = Strip(driver)
    data = QMimeData()
    data.setData(MIME, b"round")
    steps = strip.ws.history.at
    drop(driver, strip.strip, data, strip.spot("size", 0.5, 0.5))
    driver.settle()
    points = points_of(strip, "size")
    assert points[0].value == points[-1].value == 0.0 and strip.ws.history.at == steps + 1
    assert len(strip.run.recipe.stations) == 1 and strip.ws.history.undo_label == "Size by an outline"
    width = np.ptp(driver.body.mesh.points[:, 0])
    assert width == pytest.approx(0.1, rel=1e-3)
    data.setData(MIME, b"look:oak")
    drop(driver, strip.strip, data, strip.spot("size", 0.5, 0.5))
    assert strip.ws.history.at == steps + 1 and "section" in driver.window.help_label.text()


# -- near and far --------------------------------------------------------------------------------------


@pytest.mark.parametrize("long", [0.005, 1.0, 500.0])
def test_the_wheel_zooms_about_the_pointer_and_what_is_far_can_be_worked_on(opened, long: float) -> None:
    driver, _ = opened(column(long, (0.5, "star"), (0.502, "round")))
    strip = Strip(driver)
    x = strip.x(0.5)
    turn(strip, x, 25)
    assert strip.x(0.5) == pytest.approx(x, abs=1) and strip.x(0.502) - strip.x(0.5) > 30
    assert len(boxes(strip.strip._on())) == 2, "the first station is out of sight"
    strip.click(strip.picture(0))
    assert strip.ws.selection.stations == (strip.run.recipe.stations[1].id,)
    steps = strip.ws.history.at
    strip.drag(strip.picture(0), strip.picture(0) - QPoint(60, 0))
    moved = strip.run.recipe.stations[1].share
    assert 0.49 < moved < 0.4999 and strip.ws.history.at == steps + 1, "fine steps"
    turn(strip, x, 3, Qt.KeyboardModifier.ShiftModifier)
    assert strip.x(0.5) == pytest.approx(x + 180, abs=3)
    turn(strip, x, -60)
    assert strip.strip.ruler.is_whole


def test_the_middle_button_moves_what_is_seen_and_another_run_is_seen_whole(opened) -> None:
    driver, _ = opened(column(1.0, (0.5, "star")))
    strip = Strip(driver)
    turn(strip, strip.x(0.5), 10)
    x, middle = strip.x(0.5), Qt.MouseButton.MiddleButton
    QTest.mousePress(strip.strip, middle, NONE, QPoint(x, 40))
    QTest.mouseMove(strip.strip, QPoint(x + 50, 40))
    QTest.mouseRelease(strip.strip, middle, NONE, QPoint(x + 50, 40))
    assert strip.x(0.5) == pytest.approx(x + 50, abs=1)
    QTest.mouseMove(strip.strip, QPoint(x + 90, 40))
    assert strip.x(0.5) == pytest.approx(x + 50, abs=1), "it is let go"
    for _ in range(40):
        turn(strip, 100, 10, Qt.KeyboardModifier.ShiftModifier)
    assert strip.strip.ruler.seen[0] == 0.0, "not beyond the start"
    driver.key(Qt.Key.Key_Escape)
    strip.ws.select(type(strip.ws.selection)())
    driver.settle()
    assert strip.strip.ruler.is_whole


def test_a_slid_station_catches_on_knots(opened) -> None:
    driver, _ = opened(column(1.0, (0.3, "star"), knots=3))
    strip = Strip(driver)
    strip.drag(strip.picture(1), QPoint(strip.x(0.5) + 3, strip.picture(1).y()))
    own = strip.run.recipe.stations[1]
    assert own.share == pytest.approx(0.5, abs=1e-9) and own.by == "share"


def test_a_station_held_by_a_knot_is_held_by_the_one_where_it_is_let_go(opened) -> None:
    project = column(1.0, (0.3, "star"), knots=3)
    run = project.runs[0]
    knots = project.find("paths", run.recipe.path).knots
    driver, _ = opened(place_station(project, run.id, run.recipe.stations[1].id, 0.5, by="knot", knot=knots[1].id))
    strip = Strip(driver)
    strip.drag(strip.picture(1), QPoint(strip.x(1.0) - 2, strip.picture(1).y()))
    last = strip.run.recipe.stations[-1]
    assert (last.by, last.knot) == ("knot", knots[2].id)
    strip.drag(strip.picture(1), QPoint(strip.x(0.7), strip.picture(1).y()))
    assert strip.run.recipe.stations[-1].by == "share"
    assert "no longer at its knot" in driver.window.help_label.text()


def test_a_form_is_of_the_size_the_width_or_the_height_and_keeps_its_values(opened) -> None:
    driver, _ = opened(column())
    strip = Strip(driver)
    driver.unfold("Along")
    driver.choose("along.form", "cone")
    driver.enter_value("form.strength", "50")
    driver.choose("form.of", "width")
    form = strip.run.recipe.varying.form
    assert (form.form, form.strength, form.of) == ("cone", pytest.approx(0.5), "width")
    driver.settle()
    assert strip.top("WidthLane") > 0.0
    top = driver.body.mesh.points[np.abs(driver.body.mesh.points[:, 2] - 1.0) < 1e-9]
    assert sorted(np.ptp(top[:, :2], axis=0)) == pytest.approx([0.05, 0.1])
    driver.choose("along.form", "barrel")
    form = strip.run.recipe.varying.form
    assert (form.form, form.strength, form.of) == ("barrel", pytest.approx(0.5), "width")
    driver.choose("along.form", "even")
    assert not strip.run.recipe.varies
