"""Headings, and the kinds of numbers below them, are rows of tables: a new one is shown, typed into and dragged."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from morphax.app.session.settings import Settings
from morphax.app.views.inspector import fields, inspector, numbers
from morphax.app.views.inspector.fields import EDITORS
from morphax.app.views.inspector.headings import HEADINGS, HeadingKind
from morphax.app.views.inspector.numbers import NumberKind
from morphax.app.views.inspector.rows import Row
from morphax.app.window import Window
from morphax.project.units import UnitError, parse_number
from tests.app.conftest import drive
from tests.app.driven.test_first_body import draw_four
from tests.app.job_projects import column


def grams(text: str, _: str) -> float:
    if not text.endswith(" g"):
        raise UnitError(f"{text} is not in g")
    return 0.001 * parse_number(text[:-2])


@pytest.fixture
def weighed(qtbot, monkeypatch):
    """A window with a heading of its own above *Density*, whose value is kept in this test."""
    kept = {"mass": 0.25}
    row = Row("mass", "Mass", "mass", lambda ws: kept["mass"], lambda ws, v: kept.update(mass=v))
    kind = HeadingKind("Weight", lambda ws: (row,), lambda ws: f"{kept['mass']} kg", is_open=True)
    mass = NumberKind(lambda v, _: f"{1000 * v:g} g", grams, lambda start, pixels: start + 0.001 * pixels)
    monkeypatch.setitem(numbers.NUMBERS, "mass", mass)
    monkeypatch.setitem(EDITORS, "mass", EDITORS["length"])
    at = [h.name for h in HEADINGS].index("Density")
    monkeypatch.setattr(inspector, "HEADINGS", (*HEADINGS[:at], kind, *HEADINGS[at:]))
    assert fields.NUMBERS is numbers.NUMBERS
    for driver in drive(qtbot, Window(None, Settings(look="light"))):
        draw_four(driver)
        driver.key(Qt.Key.Key_Escape)
        yield driver, kept


def test_a_new_heading_stands_at_its_place_and_edits(weighed) -> None:
    driver, kept = weighed
    column = driver.window.inspector
    names = list(column.headings)
    assert names.index("Weight") == names.index("Density") - 1
    places = [column.box.indexOf(h) for h in column.headings.values()]
    assert places == sorted(places) and column.layout().indexOf(column.foot) == column.layout().count() - 1
    assert column.headings["Weight"].isVisible() and column.headings["Weight"].summary.text() == "0.25 kg"
    field = driver.field("mass")
    assert field.text() == "250 g"
    driver.enter_value("mass", "300 g")
    assert kept["mass"] == pytest.approx(0.3)
    driver.enter_value("mass", "300 kg")
    assert kept["mass"] == pytest.approx(0.3) and "is not in g" in driver.window.help_label.text()


def test_a_new_kind_of_number_is_dragged(weighed) -> None:
    driver, kept = weighed
    label = next(w for w in driver.window.inspector.headings["Weight"].shown_rows).label
    QTest.mousePress(label, Qt.MouseButton.LeftButton, pos=QPoint(5, 5))
    QTest.mouseMove(label, QPoint(45, 5))
    QTest.mouseRelease(label, Qt.MouseButton.LeftButton, pos=QPoint(45, 5))
    assert kept["mass"] == pytest.approx(0.29)


def test_words_that_have_no_room_are_cut_at_their_end_with_dots_and_said_whole_in_the_tip(opened) -> None:
    driver, _ = opened(column(1.0))
    driver.key(Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    driver.settle()
    summary = driver.window.inspector.headings["Corners and ends"].summary
    assert summary.seen == summary.text() and summary.toolTip() == ""
    driver.pick("ends", "chamfered · chamfered")
    driver.settle()
    summary.grab()
    assert summary.text() == "mitre · chamfered · chamfered" == summary.toolTip()
    assert summary.seen.startswith("mitre · ") and summary.seen.endswith("…")
