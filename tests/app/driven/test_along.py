"""The length strip at work: sections, sizes and rolls along a run, by mouse and keyboard."""

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, Qt
from PySide6.QtGui import QColor

from morphax.app.tools.shared.rings import ring_sides
from morphax.app.views.panes.overlay import MARKS
from morphax.app.views.stock.tile import MIME
from morphax.app.views.strip.all_lanes import LANES, STATIONS
from morphax.app.views.strip.along import here_words
from morphax.app.views.strip.ruler import RULER_HEIGHT
from morphax.app.views.strip.stations import boxes
from morphax.app.widgets.theme import LIGHT
from morphax.core.loft.blends import Blend
from morphax.project.edits.along import station_width
from morphax.project.edits.laws import set_points
from morphax.project.edits.paths import reverse_path
from morphax.project.lookup import path_of, section_by_id
from morphax.project.model.document import LawPoint
from tests.app.driven.test_exchange import drop
from tests.app.job_projects import column
from tests.app.strip_hand import Strip, lane_name

CTRL, LEFT, NONE = Qt.KeyboardModifier.ControlModifier, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
PLUM, TEAL, GROUND = (QColor(v).name() for v in (LIGHT.plum, LIGHT.teal, LIGHT.teal_ground))


@pytest.fixture
def strip(opened) -> Strip:
    driver, _ = opened(column(1.0, (0.5, "star"), (1.0, "round")))
    return Strip(driver)


def test_a_click_chooses_a_station_and_a_click_in_the_stock_changes_its_section_only(strip: Strip) -> None:
    strip.click(strip.picture(1))
    station = strip.run.recipe.stations[1]
    assert strip.ws.selection.stations == (station.id,)
    width = station_width(strip.ws.project, strip.run.id, station.id)
    stock = strip.driver.window.list_panel.stock
    strip.driver.press_button(stock.buttons["polygon"])
    strip.driver.settle()
    names = [section_by_id(strip.ws.project, s.section).source.name for s in strip.run.recipe.stations]
    assert names == ["rectangle", "polygon", "round"]
    assert station_width(strip.ws.project, strip.run.id, station.id) == pytest.approx(width)
    strip.driver.key(Qt.Key.Key_Escape)
    strip.driver.key(Qt.Key.Key_Z, CTRL)
    assert section_by_id(strip.ws.project, strip.run.recipe.stations[1].section).source.name == "star"


def test_with_no_station_chosen_the_stock_says_so_and_changes_nothing(strip: Strip) -> None:
    before = strip.ws.project
    strip.driver.press_button(strip.driver.window.list_panel.stock.buttons["polygon"])
    assert strip.ws.project is before and "choose one on the strip" in strip.driver.window.help_label.text()


def test_a_station_is_slid_in_one_step_and_undone(strip: Strip) -> None:
    steps = strip.ws.history.at
    a = strip.picture(1)
    strip.drag(a, QPoint(strip.x(0.25), a.y()))
    assert strip.shares == [0.0, pytest.approx(0.25, abs=0.003), 1.0] and strip.ws.history.at == steps + 1
    assert np.abs(strip.driver.body.ring_at - strip.run.recipe.stations[1].share).min() < 1e-6
    strip.driver.key(Qt.Key.Key_Z, CTRL)
    assert strip.shares == [0.0, 0.5, 1.0]


def test_a_station_let_go_on_another_one_changes_places_with_it(strip: Strip) -> None:
    before = [s.section for s in strip.run.recipe.stations]
    strip.drag(strip.picture(1), strip.picture(2))
    assert strip.shares == [0.0, 0.5, 1.0]
    assert [s.section for s in strip.run.recipe.stations] == [before[0], before[2], before[1]]
    assert strip.ws.history.undo_label == "Swap two stations"
    strip.driver.key(Qt.Key.Key_Z, CTRL)
    assert [s.section for s in strip.run.recipe.stations] == before


def test_with_ctrl_a_copy_is_dragged_and_delete_takes_it_away(strip: Strip) -> None:
    a = strip.picture(1)
    strip.drag(a, QPoint(strip.x(0.75), a.y()), CTRL)
    assert len(strip.shares) == 4 and strip.shares[1] == 0.5
    sections = [s.section for s in strip.run.recipe.stations]
    assert sections[1] == sections[2]
    strip.click(strip.picture(2))
    strip.driver.pane(0).setFocus()
    strip.driver.key(Qt.Key.Key_Delete)
    strip.driver.settle()
    assert strip.shares == [0.0, 0.5, 1.0] and len(strip.ws.project.runs) == 1


def test_a_double_click_puts_one_in_or_opens_its_section(strip: Strip) -> None:
    y = strip.picture(1).y()
    strip.double(QPoint(strip.x(0.2), y))
    assert strip.shares == [0.0, pytest.approx(0.2, abs=0.003), 0.5, 1.0]
    assert strip.ws.selection.stations == (strip.run.recipe.stations[1].id,)
    strip.double(strip.picture(2))
    assert strip.ws.board.is_open and strip.ws.board.on.section == strip.run.recipe.stations[2].section


def test_the_word_between_two_takes_the_next_way(strip: Strip) -> None:
    y = strip.picture(0).y()
    middle = QPoint((strip.picture(0).x() + strip.picture(1).x()) // 2, y)
    seen = []
    for _ in range(4):
        strip.click(middle)
        seen.append(strip.run.recipe.stations[0].blend)
    assert seen == [Blend.FLOWING, Blend.HOLD, Blend.STRAIGHT, Blend.SMOOTH]
    assert {s.blend for s in strip.run.recipe.stations[1:]} == {Blend.SMOOTH}


def test_a_section_dropped_on_an_empty_stretch_is_a_station_and_on_a_picture_replaces_it(strip: Strip) -> None:
    data = QMimeData()
    data.setData(MIME, b"polygon")
    drop(strip.driver, strip.strip, data, QPoint(strip.x(0.3), strip.picture(0).y()))
    assert strip.shares == [0.0, pytest.approx(0.3, abs=0.003), 0.5, 1.0]
    made = strip.run.recipe.stations[1]
    assert section_by_id(strip.ws.project, made.section).source.name == "polygon"
    assert station_width(strip.ws.project, strip.run.id, made.id) == pytest.approx(0.1), "the width that was there"
    strip.driver.type("35 %")
    strip.driver.enter()
    strip.driver.settle()
    assert strip.shares == [0.0, 0.35, 0.5, 1.0], "its place can be typed at once"
    data.setData(MIME, b"ellipse")
    drop(strip.driver, strip.strip, data, strip.picture(3))
    assert section_by_id(strip.ws.project, strip.run.recipe.stations[3].section).source.name == "ellipse"
    assert len(strip.shares) == 4


def test_values_of_a_station_are_typed(strip: Strip) -> None:
    driver = strip.driver
    strip.click(strip.picture(1))
    driver.enter_value("station.at", "350")
    driver.enter_value("station.width", "80")
    driver.enter_value("station.turn", "36")
    driver.choose("station.blend", "hold")
    driver.settle()
    own = strip.run.recipe.stations[1]
    assert own.share == pytest.approx(0.35) and own.turn == pytest.approx(np.radians(36)) and own.blend is Blend.HOLD
    assert station_width(strip.ws.project, strip.run.id, own.id) == pytest.approx(0.08)
    driver.choose("station.by", "the end")
    driver.enter_value("station.at", "800")
    own = strip.run.recipe.stations[1]
    assert own.by == "end" and own.distance == pytest.approx(0.2)


def test_a_plain_run_begins_to_vary_by_the_words_at_the_foot(opened) -> None:
    driver, _ = opened(column(0.005))
    strip = Strip(driver)
    low = strip.strip.height()
    y = round(strip.top("AddLane")) + 8
    strip.click(QPoint(90, y))
    assert len(strip.shares) == 2 and strip.strip.height() == low + STATIONS.height
    strip.click(QPoint(150, round(strip.top("AddLane")) + 8))
    assert strip.run.recipe.varying is not None and [p.value for p in strip.run.recipe.varying.size] == [1.0, 1.0]
    strip.driver.key(Qt.Key.Key_Z, CTRL)
    strip.driver.key(Qt.Key.Key_Z, CTRL)
    driver.settle()
    assert strip.strip.height() == low and not strip.run.recipe.varies


@pytest.mark.parametrize("long", [0.005, 500.0])
def test_points_of_a_size_are_dragged_added_and_taken_away(opened, long: float) -> None:
    project = column(long)
    points = [LawPoint(share=0.0, value=1.0), LawPoint(share=0.5, value=0.5), LawPoint(share=1.0, value=1.0)]
    driver, _ = opened(set_points(project, [project.runs[0].id], "size", points))
    strip = Strip(driver)

    def spot(share: float, value: float) -> QPoint:
        return strip.spot("size", share, value)

    steps = strip.ws.history.at
    strip.drag(spot(0.5, 0.5), spot(0.3, 0.8))
    moved = strip.run.recipe.varying.size
    assert moved[1].share == pytest.approx(0.3, abs=0.003) and moved[1].value == pytest.approx(0.8, abs=0.03)
    assert strip.ws.history.at == steps + 1
    strip.double(spot(0.7, 0.4))
    assert len(strip.run.recipe.varying.size) == 4
    added = strip.run.recipe.varying.size[2]
    assert added.share == pytest.approx(0.7, abs=0.003)
    strip.double(spot(added.share, added.value))
    assert len(strip.run.recipe.varying.size) == 3
    ring = driver.body.mesh.points[np.abs(driver.body.mesh.points[:, 2] - 0.3 * long) < 0.004 * long]
    assert len(ring)


def test_a_plain_run_has_no_curves(opened) -> None:
    driver, _ = opened(column())
    assert GROUND not in Strip(driver).pixels()


def test_the_strip_paints_what_it_says(opened) -> None:
    project = column(1.0, (0.5, "star"))
    run = project.runs[0].id
    project = set_points(project, [run], "size", [LawPoint(share=0.0, value=1.0), LawPoint(share=1.0, value=0.5)])
    project = set_points(project, [run], "roll", [LawPoint(share=0.0, value=0.0), LawPoint(share=1.0, value=1.5)])
    driver, _ = opened(project)
    strip = Strip(driver)
    picture = strip.strip.grab().toImage()

    def in_lane(name: str, colour: str) -> bool:
        top = round(strip.top(name))
        tall = next(v.height for v in LANES if lane_name(v) == name)
        rows = range(top, top + tall)
        return any(picture.pixelColor(x, y).name() == colour for x in range(80, picture.width() - 30) for y in rows)

    assert in_lane("StationLane", PLUM) and in_lane("SizeLane", TEAL) and in_lane("RollLane", TEAL)
    assert in_lane("SizeLane", GROUND) and in_lane("AddLane", TEAL)


def test_the_place_that_is_pointed_at_says_the_product(strip: Strip) -> None:
    strip.driver.unfold("Along")
    strip.driver.enter_value("along.end", "0.5")
    strip.driver.settle()
    on = strip.strip._on()
    assert here_words(on, 0.5) == " · here 75 mm = 100 mm x 0.75"
    assert here_words(on, 0.0) == " · here 100 mm"


def test_a_reversed_path_shows_its_stations_from_its_other_end(opened) -> None:
    project = column(1.0, (0.2, "star"))
    project = reverse_path(project, path_of(project, project.runs[0].id).id)
    driver, _ = opened(project)
    strip = Strip(driver)
    on = strip.strip._on()
    star = next(b for b in boxes(on) if b.station.share == pytest.approx(0.2))
    assert star.x == pytest.approx(strip.x(0.8), abs=1.0)
    a = QPoint(round(star.box.center().x()), round(star.box.center().y() + strip.top("StationLane")))
    strip.drag(a, a - QPoint(strip.x(0.8) - strip.x(0.6), 0))
    moved = next(s for s in strip.run.recipe.stations if s.share > 0.0)
    assert moved.share == pytest.approx(0.4, abs=0.004)
    assert RULER_HEIGHT == 38


def test_size_and_twist_along_by_numbers(opened) -> None:
    driver, recorder = opened(column())
    strip = Strip(driver)
    driver.unfold("Along")
    driver.enter_value("along.twist", "360")
    driver.choose("along.form", "cone")
    driver.enter_value("form.strength", "16")
    driver.settle()
    varying = strip.run.recipe.varying
    assert varying.twist == pytest.approx(2 * np.pi) and varying.form.strength == pytest.approx(0.16)
    driver.enter_value("along.lay", "90")
    assert strip.run.recipe.varying.lay == pytest.approx(0.09)
    assert driver.field("along.twist").text().replace("\u202f", "") == "4000°"


def test_the_panes_show_a_ring_at_each_station(strip: Strip) -> None:
    def painted(colour: str) -> int:
        picture = strip.driver.pane(0).grab().toImage()
        return sum(
            picture.pixelColor(x, y).name() == colour for x in range(picture.width()) for y in range(picture.height())
        )

    without = {k: v for k, v in MARKS.items() if k != "stations"}
    all_of, before = dict(MARKS), painted(PLUM)
    MARKS.clear()
    MARKS.update(without)
    try:
        bare = painted(PLUM)
    finally:
        MARKS.clear()
        MARKS.update(all_of)
    assert before > bare + 60
    body = strip.ws.chosen.body
    for share in (0.0, 0.5, 1.0):
        sides = ring_sides(body, share)
        assert len(sides) >= 8 and np.abs(sides[..., 2] - share).max() < 1e-9
        assert np.allclose(np.sort(sides[:, 0], axis=0), np.sort(sides[:, 1], axis=0)), "it goes once round"
    assert not len(ring_sides(body, 0.503))


def test_a_knots_own_size_stands_in_the_lane_and_is_dragged(opened) -> None:
    driver, _ = opened(column())
    strip = Strip(driver)
    knots = strip.ws.chosen.path.knots
    strip.click(QPoint(strip.x(1.0), round(strip.top("KnotLane")) + 10))
    assert strip.ws.selection.knots == (knots[-1].id,)
    driver.enter_value("knot.size", "0.5")
    driver.settle()
    spot, low = strip.spot("size", 1.0, 0.5), strip.spot("size", 1.0, 0.2)
    picture = strip.strip.grab().toImage()
    near = {picture.pixelColor(spot.x() + dx, spot.y() + dy).name() for dx in range(-5, 6) for dy in range(-5, 6)}
    assert QColor(LIGHT.blue).name() in near, "a blue square"
    strip.drag(spot, low)
    (own,) = strip.run.recipe.varying.knots
    assert own.size == pytest.approx(0.2, abs=0.02) and strip.ws.history.undo_label == "Drag a knot's size"
    ring = driver.body.mesh.points[np.abs(driver.body.mesh.points[:, 2] - 1.0) < 1e-9]
    assert np.ptp(ring[:, 0]) == pytest.approx(0.1 * own.size, rel=1e-6)
